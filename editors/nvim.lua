-- Neovim 0.7 or later: put this into your init.lua, or `:luafile` it.
vim.api.nvim_create_autocmd({ "BufRead", "BufNewFile" }, {
  pattern = "*.bathy",
  callback = function(event)
    vim.bo[event.buf].filetype = "bathygram"
    vim.bo[event.buf].commentstring = "// %s"
    local config = vim.fs and vim.fs.find("bathygram.toml", { upward = true, path = event.file })[1]
    local root = config and vim.fs.dirname(config) or vim.fn.fnamemodify(event.file, ":p:h")
    local client = vim.lsp.start_client({ name = "bathygram", cmd = { "bathygram", "lsp" }, root_dir = root })
    vim.lsp.buf_attach_client(event.buf, client)
  end,
})

-- Opens the preview of the current file; it follows what is typed.
vim.api.nvim_create_user_command("BathygramPreview", function()
  local command = { command = "bathygram.preview", arguments = { vim.uri_from_bufnr(0) } }
  vim.lsp.buf_request(0, "workspace/executeCommand", command, function(failure, answer)
    if failure then
      vim.notify(failure.message, vim.log.levels.ERROR)
    else
      vim.notify(answer.address)
      local open = vim.fn.has("mac") == 1 and "open" or "xdg-open"
      if vim.fn.executable(open) == 1 then vim.fn.jobstart({ open, answer.address }, { detach = true }) end
    end
  end)
end, {})
