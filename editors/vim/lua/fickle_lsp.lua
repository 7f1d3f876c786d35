-- SPDX-License-Identifier: MIT
-- For Neovim before 0.8: one client for all gate files, attached to the buffer that was opened.
local M = package.loaded['fickle_lsp_client'] or {}
package.loaded['fickle_lsp_client'] = M
package.loaded['fickle_lsp'] = nil -- runs again for the next buffer
if not M.id then
    M.id = vim.lsp.start_client({
        name = 'fickle', cmd = {'fickle', 'lsp'}, root_dir = vim.fn.expand('%:p:h'),
        on_exit = function() M.id = nil end,
    })
end
vim.lsp.buf_attach_client(0, M.id)
