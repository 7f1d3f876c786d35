# SPDX-License-Identifier: MIT
# TAB for fickle in fish: put this file into ~/.config/fish/completions
function __fickle_candidates
    set -l words (commandline -opc) (commandline -ct)
    for line in ($words[1] complete $words[2..-1] 2>/dev/null)
        switch $line
            case ':files *'
                __fish_complete_suffix (commandline -ct) (string replace ':files ' '' -- $line)
            case ':files'
                __fish_complete_path (commandline -ct)
            case '*'
                echo $line
        end
    end
end
complete -c fickle -f -a '(__fickle_candidates)'
