;;; stoi-mode.el --- Stoicheon's wiring  -*- lexical-binding: t; -*-

;;; Commentary:
;; Colours and comments for `.stoi' files, and the language server for `eglot'.

;;; Code:

(defvar stoi-mode-syntax-table
  (let ((table (make-syntax-table)))
    (modify-syntax-entry ?/ ". 12" table)
    (modify-syntax-entry ?\n ">" table)
    (modify-syntax-entry ?_ "w" table)
    table))

(defvar stoi-font-lock-keywords
  `((,(regexp-opt '("scene" "project" "shared" "catalogue" "places" "given" "var" "signal" "effect" "object" "manager"
                    "mould" "spot" "on" "bind" "never" "routine" "kit" "add" "playtest" "wait" "until" "emit" "perform"
                    "do" "set" "tween" "enable" "disable" "destroy" "spawn" "send" "tag" "untag" "if" "else" "repeat"
                    "while" "for" "each" "in" "stop" "expect" "always" "together" "player" "by" "when" "order"
                    "cooldown" "delay" "once" "times" "running" "per" "as" "to" "over" "ease" "within" "at" "facing"
                    "tags" "of" "and" "or" "not" "is" "inside" "every")
                  'words)
     . font-lock-keyword-face)
    (,(regexp-opt '("who" "it" "own" "everyone" "true" "false") 'words) . font-lock-builtin-face)
    (,(regexp-opt '("boolean" "number" "whole" "text" "duration" "vector" "rotation" "colour") 'words)
     . font-lock-type-face)))

(define-derived-mode stoi-mode prog-mode "Stoi"
  "Stoicheon's wiring."
  (setq-local comment-start "// ")
  (setq-local font-lock-defaults '(stoi-font-lock-keywords)))

(add-to-list 'auto-mode-alist '("\\.stoi\\'" . stoi-mode))

(with-eval-after-load 'eglot
  (add-to-list 'eglot-server-programs '(stoi-mode . ("stoicheon" "lsp"))))

(provide 'stoi-mode)
;;; stoi-mode.el ends here
