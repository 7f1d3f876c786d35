#!/usr/bin/env bash
# SPDX-License-Identifier: MIT
# make-editors.sh [FICKLE]: the grammars in editors/ and of the page out of the words of the compiler (fickle words), so that no word is written twice.
# They are committed; CI makes them again and finds no difference.
set -euo pipefail
fickle=$(realpath "${1:-$(dirname "$0")/../build/release/fickle}")
cd "$(dirname "$0")/../editors"
words() { "$fickle" words | awk -v kind="$1" '!seen[$2]++ && $1 == kind {print $2}' | sort; } # each of its first kind
line() { words "$1" | paste -sd "$2"; }
licence="SPDX-License-Identifier: MIT"
made="Made by scripts/make-editors.sh."

cat >vim/syntax/fickle.vim <<V
" $licence
" Gate files of Fickle Gate. $made
if exists('b:current_syntax') | finish | endif
syntax case match
syntax keyword fickleStatement $(line statement ' ')
syntax keyword fickleCondition $(line condition ' ')
syntax keyword fickleRow $(line row ' ')
syntax keyword fickleLevel $(line level ' ')
syntax match fickleNumber /\v<\d+(\.\d+)?\w*/
syntax region fickleText start=/"/ end=/"/ oneline
syntax match fickleComment /\v(^|[ \t;{}])@<=#.*$/ contains=@Spell
highlight default link fickleStatement Statement
highlight default link fickleCondition Operator
highlight default link fickleRow Identifier
highlight default link fickleLevel Constant
highlight default link fickleNumber Number
highlight default link fickleText String
highlight default link fickleComment Comment
let b:current_syntax = 'fickle'
V

cat >emacs/fickle-gate.el <<V
;;; fickle-gate.el --- gate files of Fickle Gate  -*- lexical-binding: t -*-
;; $licence
;; $made With eglot the mode talks to \`fickle lsp'.

;;; Code:
(defvar fickle-gate-mode-syntax-table
  (let ((table (make-syntax-table)))
    (modify-syntax-entry ?# "<" table)
    (modify-syntax-entry ?\n ">" table)
    (modify-syntax-entry ?_ "w" table)
    table))

(defvar eglot-server-programs)

(defvar fickle-gate-font-lock
  \`((,(regexp-opt '($(words statement | sed 's/.*/"&"/' | paste -sd ' ')) 'words) . font-lock-keyword-face)
    (,(regexp-opt '($(words condition | sed 's/.*/"&"/' | paste -sd ' ')) 'words) . font-lock-builtin-face)
    (,(regexp-opt '($(words row | sed 's/.*/"&"/' | paste -sd ' ')) 'words) . font-lock-variable-name-face)
    (,(regexp-opt '($(words level | sed 's/.*/"&"/' | paste -sd ' ')) 'words) . font-lock-constant-face)))

;;;###autoload
(define-derived-mode fickle-gate-mode prog-mode "Gate"
  "Gate files of Fickle Gate."
  (setq-local font-lock-defaults '(fickle-gate-font-lock))
  (setq-local comment-start "# ")
  (setq-local indent-tabs-mode nil))

;;;###autoload
(add-to-list 'auto-mode-alist '("\\\\.gate\\\\'" . fickle-gate-mode))

(with-eval-after-load 'eglot
  (add-to-list 'eglot-server-programs '(fickle-gate-mode . ("fickle" "lsp"))))

(provide 'fickle-gate)
;;; fickle-gate.el ends here
V

cat >../page/src/gate/words.ts <<V
// $licence
// The words of gate files. $made
const set = (words: string): ReadonlySet<string> => new Set(words.split(" "));
export const statements = set("$(line statement ' ')");
export const conditions = set("$(line condition ' ')");
export const rows = set("$(line row ' ')");
export const levels = set("$(line level ' ')");
V

cat >nano/fickle.nanorc <<V
## $licence
## Gate files of Fickle Gate. $made
syntax "fickle" "\\.gate$"
comment "#"
color brightblue "\\<($(line statement '|'))\\>"
color magenta "\\<($(line condition '|'))\\>"
color cyan "\\<($(line row '|'))\\>"
color yellow "\\<($(line level '|'))\\>"
color green "\\<[0-9]+(\\.[0-9]+)?"
color brightyellow "\\"[^\\"]*\\""
color brightblack "(^|[[:space:];{}])#.*$"
V

items() { words "$1" | sed 's/.*/      <item>&<\/item>/'; }
cat >kate/fickle.xml <<V
<?xml version="1.0" encoding="UTF-8"?>
<!-- $licence. $made -->
<!DOCTYPE language>
<language name="Fickle Gate" section="Sources" version="1" kateversion="5.62" extensions="*.gate" license="MIT">
  <highlighting>
    <list name="statements">
$(items statement)
    </list>
    <list name="conditions">
$(items condition)
    </list>
    <list name="rows">
$(items row)
    </list>
    <list name="levels">
$(items level)
    </list>
    <contexts>
      <context name="Normal" attribute="Normal Text" lineEndContext="#stay">
        <RegExpr attribute="Comment" context="#stay" String="(?:^|(?&lt;=[ \\t;{}]))#.*\$"/>
        <RegExpr attribute="String" context="#stay" String="&quot;[^&quot;]*&quot;"/>
        <keyword attribute="Keyword" context="#stay" String="statements"/>
        <keyword attribute="Operator" context="#stay" String="conditions"/>
        <keyword attribute="Attribute" context="#stay" String="rows"/>
        <keyword attribute="Constant" context="#stay" String="levels"/>
        <RegExpr attribute="Number" context="#stay" String="\\b[0-9]+(?:\\.[0-9]+)?"/>
      </context>
    </contexts>
    <itemDatas>
      <itemData name="Normal Text" defStyleNum="dsNormal"/>
      <itemData name="Comment" defStyleNum="dsComment"/>
      <itemData name="String" defStyleNum="dsString"/>
      <itemData name="Keyword" defStyleNum="dsKeyword"/>
      <itemData name="Operator" defStyleNum="dsOperator"/>
      <itemData name="Attribute" defStyleNum="dsAttribute"/>
      <itemData name="Constant" defStyleNum="dsConstant"/>
      <itemData name="Number" defStyleNum="dsDecVal"/>
    </itemDatas>
  </highlighting>
  <general>
    <comments><comment name="singleLine" start="#"/></comments>
  </general>
</language>
V

keywords() { words "$1" | sed 's/.*/      <keyword>&<\/keyword>/'; }
cat >gtksourceview/fickle.lang <<V
<?xml version="1.0" encoding="UTF-8"?>
<!-- $licence. $made -->
<language id="fickle" name="Fickle Gate" version="2.0" section="Source">
  <metadata>
    <property name="globs">*.gate</property>
    <property name="line-comment-start">#</property>
  </metadata>
  <styles>
    <style id="statement" name="Statement" map-to="def:keyword"/>
    <style id="condition" name="Condition" map-to="def:operator"/>
    <style id="row" name="Row" map-to="def:identifier"/>
    <style id="level" name="Level" map-to="def:constant"/>
    <style id="number" name="Number" map-to="def:decimal"/>
    <style id="text" name="Text" map-to="def:string"/>
    <style id="comment" name="Comment" map-to="def:comment"/>
  </styles>
  <definitions>
    <context id="fickle">
      <include>
        <context id="comment" style-ref="comment"><match>(^|(?&lt;=[ \\t;{}]))#.*\$</match></context>
        <context id="text" style-ref="text"><match>"[^"]*"</match></context>
        <context id="statement" style-ref="statement">
$(keywords statement)
        </context>
        <context id="condition" style-ref="condition">
$(keywords condition)
        </context>
        <context id="row" style-ref="row">
$(keywords row)
        </context>
        <context id="level" style-ref="level">
$(keywords level)
        </context>
        <context id="number" style-ref="number"><match>\\b[0-9]+(\\.[0-9]+)?</match></context>
      </include>
    </context>
  </definitions>
</language>
V

cat >textmate/fickle.tmLanguage.json <<V
{
  "\$comment": "$licence. $made",
  "name": "Fickle Gate",
  "scopeName": "source.fickle",
  "fileTypes": ["gate"],
  "patterns": [
    {"name": "comment.line.number-sign.fickle", "match": "(^|(?<=[ \\\\t;{}]))#.*\$"},
    {"name": "string.quoted.double.fickle", "match": "\\"[^\\"]*\\""},
    {"name": "keyword.other.fickle", "match": "\\\\b($(line statement '|'))\\\\b"},
    {"name": "keyword.operator.fickle", "match": "\\\\b($(line condition '|'))\\\\b"},
    {"name": "entity.other.attribute-name.fickle", "match": "\\\\b($(line row '|'))\\\\b"},
    {"name": "constant.language.fickle", "match": "\\\\b($(line level '|'))\\\\b"},
    {"name": "constant.numeric.fickle", "match": "\\\\b[0-9]+(\\\\.[0-9]+)?"}
  ]
}
V
