# SPDX-License-Identifier: MIT
# TAB for fickle in bash: source this file, or install it as /usr/share/bash-completion/completions/fickle
_fickle() {
    local line=${COMP_LINE:0:COMP_POINT} word candidate
    local -a words
    # As the shell reads them, with quotes and backslashes taken away; a quote that is still open is closed.
    eval "words=($(printf '%s' "$line" | sed 's/[$`;&|<>()*?!#]/\\&/g'))" 2>/dev/null ||
        eval "words=($(printf '%s"' "$line" | sed 's/[$`;&|<>()*?!#]/\\&/g'))" 2>/dev/null || return
    [[ $line == *[[:space:]] ]] && words+=("")
    word=${words[${#words[@]} - 1]}
    COMPREPLY=()
    # What stands in front of the last = is no part of what bash completes.
    local cut=""
    [[ $word == *=* && $COMP_WORDBREAKS == *=* ]] && cut=${word%"${word##*=}"}
    while IFS=$'\t' read -r candidate _; do
        case $candidate in
        ":files "*)
            local ending=${candidate#:files }
            compopt -o filenames
            mapfile -t -O "${#COMPREPLY[@]}" COMPREPLY < <(compgen -d -- "${word#"$cut"}"; compgen -f -X "!*$ending" -- "${word#"$cut"}")
            ;;
        ":files")
            compopt -o filenames
            mapfile -t -O "${#COMPREPLY[@]}" COMPREPLY < <(compgen -f -- "${word#"$cut"}")
            ;;
        *)
            [[ $candidate == *= ]] && compopt -o nospace
            COMPREPLY+=("$(printf '%q' "${candidate#"$cut"}")")
            ;;
        esac
    done < <("${words[0]}" complete "${words[@]:1}" 2>/dev/null)
}
complete -F _fickle fickle
