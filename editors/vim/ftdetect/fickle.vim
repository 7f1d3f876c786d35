" SPDX-License-Identifier: MIT
autocmd BufNewFile,BufRead *.gate setfiletype fickle
