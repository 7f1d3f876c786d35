-- SPDX-License-Identifier: MIT
-- Says for each character of the file what Neovim paints it as, a letter each.
local letters = {
    fickleStatement = 'S', fickleCondition = 'C', fickleRow = 'R', fickleLevel = 'L', fickleText = 'T', fickleComment = '#',
}
for line, text in ipairs(vim.api.nvim_buf_get_lines(0, 0, -1, false)) do
    local row = {}
    for column in text:gmatch('()[%z\1-\127\194-\244][\128-\191]*') do
        local name = vim.fn.synIDattr(vim.fn.synID(line, column, 0), 'name')
        table.insert(row, letters[name] or '.')
    end
    io.write(table.concat(row), '\n')
end
vim.cmd('qall!')
