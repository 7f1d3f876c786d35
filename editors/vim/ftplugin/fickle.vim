" SPDX-License-Identifier: MIT
setlocal commentstring=#\ %s shiftwidth=4 expandtab
if has('nvim-0.8') && executable('fickle')
    lua vim.lsp.start({name = 'fickle', cmd = {'fickle', 'lsp'}, root_dir = vim.fn.expand('%:p:h')})
elseif has('nvim') && executable('fickle')
    lua require('fickle_lsp')
endif
