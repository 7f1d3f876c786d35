;;; fickle-gate.el --- gate files of Fickle Gate  -*- lexical-binding: t -*-
;; SPDX-License-Identifier: MIT
;; Made by scripts/make-editors.sh. With eglot the mode talks to `fickle lsp'.

;;; Code:
(defvar fickle-gate-mode-syntax-table
  (let ((table (make-syntax-table)))
    (modify-syntax-entry ?# "<" table)
    (modify-syntax-entry ?\n ">" table)
    (modify-syntax-entry ?_ "w" table)
    table))

(defvar eglot-server-programs)

(defvar fickle-gate-font-lock
  `((,(regexp-opt '("bands" "bar" "buzzer" "condition" "count" "display" "every" "flag" "gate" "hysteresis" "include" "lamp" "latch" "motor" "number" "promise" "pulse" "relay" "scene" "sensor" "sequence" "servo" "threshold" "trial") 'words) . font-lock-keyword-face)
    (,(regexp-opt '("and" "at" "ends" "faulty" "for" "if" "in" "is" "least" "most" "near" "no" "none" "not" "or" "otherwise" "outside" "over" "previously" "starts" "under" "unsure" "when" "within" "yes") 'words) . font-lock-builtin-face)
    (,(regexp-opt '("add" "again" "always" "assume" "begins" "between" "bridge" "can" "changes" "circle" "clear" "drops" "expect" "first" "goes" "inverted" "jumps" "last" "lasts" "limit" "margin" "matches" "mean" "median" "never" "noise" "plays" "presses" "ramps" "range" "raw" "readings" "reads" "rest" "restarts" "seed" "set" "settle" "size" "stale" "start" "stays" "step" "stuck" "swings" "take" "trust" "unit" "while" "zero") 'words) . font-lock-variable-name-face)
    (,(regexp-opt '("amber" "back" "blank" "blue" "cyan" "deg" "fill" "follow" "forward" "green" "hold" "light" "magenta" "off" "on" "orange" "play" "quiet" "red" "show" "stop" "sweep" "tone" "white" "yellow") 'words) . font-lock-constant-face)))

;;;###autoload
(define-derived-mode fickle-gate-mode prog-mode "Gate"
  "Gate files of Fickle Gate."
  (setq-local font-lock-defaults '(fickle-gate-font-lock))
  (setq-local comment-start "# ")
  (setq-local indent-tabs-mode nil))

;;;###autoload
(add-to-list 'auto-mode-alist '("\\.gate\\'" . fickle-gate-mode))

(with-eval-after-load 'eglot
  (add-to-list 'eglot-server-programs '(fickle-gate-mode . ("fickle" "lsp"))))

(provide 'fickle-gate)
;;; fickle-gate.el ends here
