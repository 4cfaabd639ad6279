//! The language server in a real editor: Neovim, headless, with the settings that ship in `editors/`.

use std::io::Write;
use std::path::Path;
use std::process::Command;

const SCRIPT: &str = r#"
local out = {}
local function say(name, value) table.insert(out, name .. "=" .. tostring(value)) end
local function wait(what, done) if not vim.wait(20000, done, 20) then say("timeout", what) end end
local function findings() return vim.diagnostic.get(0) end
local function ask(method, params) return vim.lsp.buf_request_sync(0, method, params, 20000) end
local function first(answers) for _, answer in pairs(answers or {}) do return answer.result end end

vim.cmd("edit storm.bathy")
wait("a client", function() return #vim.lsp.buf_get_clients(0) > 0 end)
wait("no findings", function() return #findings() == 0 end)
-- A line with a mistake, its finding, and its correction.
vim.api.nvim_buf_set_lines(0, 2, 3, false, { "  keper calls core.gate \"look\"" })
wait("a finding", function() return #findings() > 0 end)
say("finding", findings()[1] and findings()[1].code)
local range = { start = { line = 2, character = 2 }, ["end"] = { line = 2, character = 7 } }
local document = vim.lsp.util.make_text_document_params()
local actions = first(ask("textDocument/codeAction", { textDocument = document, range = range, context = { diagnostics = {} } })) or {}
local client = vim.lsp.buf_get_clients(0)[next(vim.lsp.buf_get_clients(0))]
if actions[1] then vim.lsp.util.apply_workspace_edit(actions[1].edit, client.offset_encoding) end
wait("the correction", function() return #findings() == 0 end)
say("corrected", vim.api.nvim_buf_get_lines(0, 2, 3, false)[1])
-- Completion and hover.
local at = { textDocument = document, position = { line = 2, character = 24 } }
local items = first(ask("textDocument/completion", { textDocument = document, position = { line = 2, character = 8 } })) or {}
local labels = {}
for _, item in ipairs(items) do labels[item.label] = true end
say("completes", labels["keeper"])
local hover = first(ask("textDocument/hover", at))
say("hover", hover and hover.contents.value:sub(1, 16))
-- A rename in two files.
at.newName = "door"
local edit = first(ask("textDocument/rename", at))
if edit then vim.lsp.util.apply_workspace_edit(edit, client.offset_encoding) end
say("renamed", vim.api.nvim_buf_get_lines(0, 2, 3, false)[1])
vim.cmd("edit map.bathy")
say("there", vim.api.nvim_buf_get_lines(0, 2, 3, false)[1])
-- Formatting.
vim.api.nvim_buf_set_lines(0, 3, 4, false, { "        actor keeper" })
vim.cmd("write")
wait("a client", function() return #vim.lsp.buf_get_clients(0) > 0 end)
local options = { textDocument = vim.lsp.util.make_text_document_params(), options = { tabSize = 2, insertSpaces = true } }
vim.api.nvim_buf_set_lines(0, 3, 4, false, { "  actor   keeper" })
local edits = first(ask("textDocument/formatting", options)) or {}
vim.lsp.util.apply_text_edits(edits, 0, client.offset_encoding)
say("formatted", vim.api.nvim_buf_get_lines(0, 3, 4, false)[1])
-- The preview follows what is not saved.
local command = { command = "bathygram.preview", arguments = { vim.uri_from_bufnr(0) } }
local opened = first(ask("workspace/executeCommand", command))
say("preview", opened and opened.address)
say("command", vim.fn.exists(":BathygramPreview"))
vim.api.nvim_buf_set_lines(0, 3, 4, false, { "  actor unsaved" })
ask("textDocument/foldingRange", { textDocument = vim.lsp.util.make_text_document_params() })
local page = opened.address:match("^[^#]*")
local body = vim.fn.json_encode({ file = "map.bathy" })
local seen = vim.fn.system({ "curl", "-s", "-H", "Content-Type: application/json", "-d", body, page .. "text" })
say("follows", seen:find("actor unsaved", 1, true) ~= nil)
local file = io.open("out.txt", "w")
file:write(table.concat(out, "\n"))
file:close()
vim.cmd("qall!")
"#;

#[test]
fn neovim_corrects_completes_renames_and_formats() {
    if Command::new("nvim").arg("--version").output().is_err() {
        let _ = writeln!(std::io::stderr(), "skipped: there is no nvim here; `cargo xtask test` installs it");
        return;
    }
    let folder = tempfile::tempdir().expect("a folder");
    let write = |name: &str, text: &str| std::fs::write(folder.path().join(name), text).expect("written");
    write("bathygram.toml", "");
    write(
        "map.bathy",
        "architecture map\n  system core\n    service gate \"Gateway\"\n  actor keeper\n  keeper uses core\n",
    );
    write("storm.bathy", "from \"map.bathy\"\nsequence storm of map\n  keeper calls core.gate \"look\"\n");
    write("script.lua", SCRIPT);
    let settings =
        Path::new(env!("CARGO_MANIFEST_DIR")).join("../../editors/nvim.lua").canonicalize().expect("the settings");
    let program = Path::new(env!("CARGO_BIN_EXE_bathygram")).parent().expect("a folder");
    let path = format!("{}:{}", program.display(), std::env::var("PATH").unwrap_or_default());
    let done = Command::new("nvim")
        .args(["--headless", "-u", "NONE", "-i", "NONE", "-n"])
        .args(["-c", &format!("luafile {}", settings.display()), "-c", "luafile script.lua", "-c", "qall!"])
        .current_dir(folder.path())
        .env("PATH", path)
        .env("XDG_STATE_HOME", folder.path().join("state"))
        .output()
        .expect("nvim starts");
    let said = std::fs::read_to_string(folder.path().join("out.txt"))
        .unwrap_or_else(|_| panic!("{}", String::from_utf8_lossy(&done.stderr)));
    for line in [
        "corrected=  keeper calls core.gate \"look\"",
        "completes=true",
        "hover=**service** Gate",
        "renamed=  keeper calls core.door \"look\"",
        "there=    service door \"Gateway\"",
        "formatted=  actor keeper",
        "command=2",
        "follows=true",
    ] {
        assert!(said.lines().any(|own| own == line), "{line} in:\n{said}");
    }
    assert!(!said.contains("timeout") && said.contains("finding=unknown-name"), "{said}");
}
