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
