#!/usr/bin/env bash
# SPDX-License-Identifier: MIT
# check-editors.sh: Neovim and Emacs meet the language server on the harbour: a mistake appears, its fix is taken, a name is renamed in both
# files; both paint the examples alike. The extension is packed, twice alike, and finds mistake and fix too. The grammars are those of the compiler's words.
set -euo pipefail
cd "$(dirname "$0")/.."
source tests/boards/hosted.sh
export PATH=$release:$PATH
root=$PWD
rm -rf build/editors-before
cp -r editors build/editors-before && cp page/src/gate/words.ts build/editors-before
scripts/make-editors.sh
diff build/editors-before/words.ts page/src/gate/words.ts && rm build/editors-before/words.ts
diff -r build/editors-before editors && rm -r build/editors-before
begin() {
    rm -rf build/editors && mkdir -p build/editors
    cp examples/harbour/*.gate examples/harbour/*.csv build/editors
    sed -i 's/tide is fair or high and not gale/tidd is fair or high and not gale/' build/editors/harbour.gate
    ! fickle check build/editors/harbour.gate --quiet 2>/dev/null
}
end() { # all is as it was, but for the name
    sed -i 's/\bblinks\b/flash/' build/editors/*.gate
    diff build/editors/harbour.gate examples/harbour/harbour.gate && diff build/editors/sounds.gate examples/harbour/sounds.gate
}
begin
(cd build/editors && timeout 60 nvim --headless -u NONE --cmd "set runtimepath^=$root/editors/vim noswapfile" --cmd 'filetype plugin on' --cmd 'syntax on' -c "luafile $root/tests/editors/drive.lua")
[ "$(grep -c blinks build/editors/harbour.gate build/editors/sounds.gate | paste -sd ' ')" = "build/editors/harbour.gate:1 build/editors/sounds.gate:1" ]
end
begin
(cd build/editors && timeout 60 emacs --batch -L "$root/editors/emacs" -f package-initialize -l "$root/tests/editors/drive.el" 2>../emacs.log || { tail -n 5 ../emacs.log; exit 1; })
[ "$(grep -c blinks build/editors/harbour.gate build/editors/sounds.gate | paste -sd ' ')" = "build/editors/harbour.gate:1 build/editors/sounds.gate:1" ]
end
for gate in examples/*/*.gate; do # both paint each character alike
    nvim --headless -u NONE --cmd "set runtimepath^=$root/editors/vim noswapfile" --cmd 'filetype plugin on' --cmd 'syntax on' "$gate" \
        -c "luafile $root/tests/editors/paint.lua" >build/editors/vim.paint
    emacs --batch -L editors/emacs -l tests/editors/paint.el "$gate" >build/editors/emacs.paint 2>build/emacs.log
    diff build/editors/vim.paint build/editors/emacs.paint
done
grep -q S build/editors/vim.paint
begin
scripts/make-vsix.sh
cp build/fickle.vsix build/fickle-before.vsix
scripts/make-vsix.sh
cmp build/fickle.vsix build/fickle-before.vsix
rm -rf build/vsix/unpacked && unzip -q build/fickle.vsix -d build/vsix/unpacked
timeout 60 node tests/editors/vsix.cjs build/vsix/unpacked/extension/out/extension.js "$release/fickle" build/editors/harbour.gate
echo "editors: Neovim and Emacs show a mistake, take its fix, and rename in both files"
