" SPDX-License-Identifier: MIT
" Gate files of Fickle Gate. Made by scripts/make-editors.sh.
if exists('b:current_syntax') | finish | endif
syntax case match
syntax keyword fickleStatement bands bar buzzer condition count display every flag gate hysteresis include lamp latch motor number promise pulse relay scene sensor sequence servo threshold trial
syntax keyword fickleCondition and at ends faulty for if in is least most near no none not or otherwise outside over previously starts under unsure when within yes
syntax keyword fickleRow add again always assume begins between bridge can changes circle clear drops expect first goes inverted jumps last lasts limit margin matches mean median never noise plays presses ramps range raw readings reads rest restarts seed set settle size stale start stays step stuck swings take trust unit while zero
syntax keyword fickleLevel amber back blank blue cyan deg fill follow forward green hold light magenta off on orange play quiet red show stop sweep tone white yellow
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
