;; SPDX-License-Identifier: MIT -*- lexical-binding: t -*-
;; Says for each character of the file what Emacs paints it as, a letter each.
(require 'fickle-gate)
(find-file (pop command-line-args-left))
(font-lock-ensure)
(let ((letters '((font-lock-keyword-face . "S") (font-lock-builtin-face . "C") (font-lock-variable-name-face . "R")
                 (font-lock-constant-face . "L") (font-lock-string-face . "T") (font-lock-comment-face . "#")
                 (font-lock-comment-delimiter-face . "#"))))
  (dotimes (i (buffer-size))
    (if (eq (char-after (1+ i)) ?\n)
        (princ "\n")
      (princ (or (cdr (assq (get-text-property (1+ i) 'face) letters)) ".")))))
