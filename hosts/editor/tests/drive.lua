-- Neovim, with nothing but its own client: opens the canal, gets findings, completes, renames across three files, formats.
-- What it saw is written as JSON to $STOI_REPORT.

local folder, command = vim.env.STOI_FOLDER, vim.env.STOI_COMMAND
local seen = {}

local function finish()
  local file = assert(io.open(vim.env.STOI_REPORT, "w"))
  file:write(vim.json.encode(seen))
  file:close()
  vim.cmd("qall!")
end

-- The findings of a buffer, once there are that many.
local function findings(buffer, count)
  -- Without this, none would be there before the server has said a word.
  seen.settled = vim.lsp.buf_request_sync(buffer, "stoicheon/settled", {}, 20000) ~= nil
  vim.wait(20000, function() return #vim.diagnostic.get(buffer) == count end, 20)
  local all = {}
  for _, found in ipairs(vim.diagnostic.get(buffer)) do
    table.insert(all, { line = found.lnum + 1, column = found.col + 1, message = found.message, code = found.code })
  end
  return all
end

local function lines(buffer) return vim.api.nvim_buf_get_lines(buffer, 0, -1, false) end

local function run()
  vim.o.hidden = true
  vim.o.swapfile = false
  vim.cmd("edit " .. folder .. "/lockside.stoi")
  local lockside = vim.api.nvim_get_current_buf()
  local client = vim.lsp.start_client({ name = "stoicheon", cmd = { command, "lsp" }, root_dir = folder })
  vim.lsp.buf_attach_client(lockside, client)
  seen.began = vim.wait(20000, function()
    local known = vim.lsp.get_client_by_id(client)
    return known ~= nil and known.server_capabilities ~= nil and known.initialized == true
  end, 20)
  seen.at_first = findings(lockside, 0)

  -- A slip, and what is said of it.
  local at = vim.fn.search("open toll_gate", "n")
  vim.api.nvim_buf_set_lines(lockside, at - 1, at, false, { "  open tol_gate" })
  seen.slip = findings(lockside, 1)

  -- Half-written, and what may come next.
  vim.api.nvim_buf_set_lines(lockside, at - 1, at, false, { "  open " })
  local params = vim.lsp.util.make_position_params(0, "utf-16")
  params.position = { line = at - 1, character = 7 }
  local offered = vim.lsp.buf_request_sync(lockside, "textDocument/completion", params, 20000)
  local items = vim.lsp.util.extract_completion_items(offered[client].result)
  seen.offered = vim.tbl_map(function(item) return item.label end, items)
  vim.api.nvim_buf_set_lines(lockside, at - 1, at, false, { "  open toll_gate" })
  seen.mended = findings(lockside, 0)

  -- A kit of another name, in all three files that speak of it.
  vim.api.nvim_win_set_cursor(0, { vim.fn.search("add catch_floor", "n"), 6 })
  params = vim.lsp.util.make_position_params(0, "utf-16")
  params.newName = "safety_net"
  local renamed = vim.lsp.buf_request_sync(lockside, "textDocument/rename", params, 20000)
  vim.lsp.util.apply_workspace_edit(renamed[client].result, "utf-16")
  vim.cmd("wall")
  seen.after_rename = findings(lockside, 0)

  -- Set as everybody sets it.
  local text = table.concat(lines(lockside), "\n")
  vim.api.nvim_buf_set_lines(lockside, 0, -1, false, vim.split(text:gsub("  open toll_gate", "open    toll_gate"), "\n"))
  vim.lsp.buf.formatting_sync({}, 20000)
  seen.formatted = table.concat(lines(lockside), "\n") == text
  vim.cmd("wall")

  vim.lsp.get_client_by_id(client).stop()
  seen.ended = vim.wait(20000, function() return vim.lsp.client_is_stopped(client) end, 20)
end

local ok, why = pcall(run)
if not ok then seen.trouble = tostring(why) end
finish()
