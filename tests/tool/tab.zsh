# SPDX-License-Identifier: MIT
# tab.zsh FOLDER LINE: what a zsh in a terminal shows after LINE and TAB; FOLDER has _fickle.
zmodload zsh/zpty
TERM=dumb zpty z zsh -f -i
zpty -w z "stty columns 300; PS1=; unsetopt zle_bracketed_paste; fpath=($1 \$fpath); autoload -Uz compinit; compinit -u -D; print rea''dy"
while zpty -r z chunk; do [[ $chunk == *ready* ]] && break; done
zpty -w -n z "$2"$'\t'
shown=
repeat 10; do
    sleep 0.1
    while zpty -rt z chunk; do shown+=$chunk; done
done
print -r -- "$shown"
zpty -d z
