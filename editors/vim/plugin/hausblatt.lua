-- Starts the language server for the files of a site, and shows the documents that it answers commands with. In Neovim alone.
-- g:hausblatt_command is the program with its arguments, as a list; g:hausblatt_hints shows hints between the words.
if vim.g.loaded_hausblatt then
  return
end
vim.g.loaded_hausblatt = true

local types = { "html", "xml", "json", "text", "hausblatt", "markdown", "toml", "css", "javascript", "svg", "csv" }
local commands = { "why", "without", "open", "sample", "list" }
local clients = {}

--- The folder of the site that a file is in.
local function site_of(path)
  local found = vim.fn.findfile("hausblatt.toml", vim.fn.fnameescape(vim.fn.fnamemodify(path, ":p:h")) .. ";")
  return found ~= "" and vim.fn.fnamemodify(found, ":p:h") or nil
end

local function start(event)
  local folder = site_of(event.file)
  if not folder or vim.bo[event.buf].buftype ~= "" then
    return
  end
  local config = {
    name = "hausblatt",
    cmd = vim.g.hausblatt_command or { "hausblatt", "lsp" },
    root_dir = folder,
    init_options = { documents = true, hints = vim.g.hausblatt_hints or false },
  }
  if vim.lsp.start then
    vim.lsp.start(config, { bufnr = event.buf })
    return
  end
  clients[folder] = clients[folder] or vim.lsp.start_client(config)
  vim.lsp.buf_attach_client(event.buf, clients[folder])
end

--- Shows a document in a window of its own, which q closes.
local function show(document)
  vim.cmd("botright new")
  local buffer = vim.api.nvim_get_current_buf()
  vim.api.nvim_buf_set_lines(buffer, 0, -1, false, vim.split((document.text:gsub("\n$", "")), "\n"))
  vim.bo[buffer].buftype, vim.bo[buffer].bufhidden, vim.bo[buffer].modifiable = "nofile", "wipe", false
  pcall(vim.api.nvim_buf_set_name, buffer, document.title)
  vim.keymap.set("n", "q", "<Cmd>close<CR>", { buffer = buffer })
end

--- Has the server do what a command says.
local function run(command, arguments)
  local parameters = { command = command, arguments = arguments }
  vim.lsp.buf_request(0, "workspace/executeCommand", parameters, function(problem, answer)
    if problem then
      vim.notify(problem.message, vim.log.levels.WARN)
    elseif type(answer) == "table" and answer.text then
      show(answer)
    end
  end)
end

vim.api.nvim_create_autocmd("FileType", { pattern = types, callback = start })
vim.api.nvim_create_user_command("Hausblatt", function(asked)
  run("hausblatt." .. asked.args, { vim.uri_from_bufnr(0) })
end, {
  nargs = 1,
  complete = function(typed)
    return vim.tbl_filter(function(name)
      return vim.startswith(name, typed)
    end, commands)
  end,
  desc = "Ask about the current file: " .. table.concat(commands, ", "),
})
for _, name in ipairs(commands) do
  vim.lsp.commands["hausblatt." .. name] = function(command)
    run(command.command, command.arguments)
  end
end
