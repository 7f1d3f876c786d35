-- SPDX-License-Identifier: MIT
-- drive.lua, run by nvim in a folder with the harbour, in which `tide` is misspelt once: the mistake appears, its fix is taken, a sequence is
-- renamed in both files, the text is laid out.
local function fail(why)
    io.stderr:write(why .. '\n')
    vim.cmd('cquit 1')
end
local function ask(method, params)
    local answers = vim.lsp.buf_request_sync(0, method, params, 10000)
    for _, answer in pairs(answers or {}) do
        if answer.error then fail(method .. ': ' .. answer.error.message) end
        return answer.result
    end
    fail(method .. ': no answer')
end
local function go_to(pattern)
    vim.fn.cursor(1, 1)
    if vim.fn.search(pattern, 'W') == 0 then fail('no ' .. pattern) end
end
vim.cmd('edit harbour.gate')
if vim.bo.filetype ~= 'fickle' then fail('the file type is ' .. vim.bo.filetype) end
local function mistakes() return vim.diagnostic.get(0, {severity = vim.diagnostic.severity.ERROR}) end
if not vim.wait(10000, function() return #mistakes() > 0 end, 50) then fail('no mistake appears') end
local mistake = mistakes()[1]
vim.fn.cursor(mistake.lnum + 1, mistake.col + 1)
local params = vim.lsp.util.make_range_params()
params.context = {diagnostics = {}}
local actions = ask('textDocument/codeAction', params)
if #actions ~= 1 then fail('there are ' .. #actions .. ' actions') end
vim.lsp.util.apply_workspace_edit(actions[1].edit, 'utf-16')
if not vim.wait(10000, function() return #mistakes() == 0 end, 50) then fail('the fix does not help') end
go_to('play \\zsflash')
params = vim.lsp.util.make_position_params()
params.newName = 'blinks'
vim.lsp.util.apply_workspace_edit(ask('textDocument/rename', params), 'utf-16')
go_to('tide is \\zsfair')
local words = {}
for _, item in ipairs(ask('textDocument/completion', vim.lsp.util.make_position_params())) do words[item.label] = true end
if not (words.aground and words.high) or words.gale then fail('other labels') end
local painted = vim.fn.synIDattr(vim.fn.synID(vim.fn.search('^sensor', 'w'), 1, 1), 'name')
if painted ~= 'fickleStatement' then fail('sensor is painted as ' .. painted) end
vim.cmd('wall')
vim.cmd('qall!')
