//! A real editor: the folder `editors/vim` is enough for it to know a site, and its syntax
//! takes no byte of a tag for HTML and none of the HTML for a tag. Needs Debian's neovim, so the plain test command leaves it
//! out; CI runs it with `--ignored`.

#![allow(clippy::unwrap_used, clippy::panic)]

#[path = "support/colours.rs"]
mod colours;
mod support;

use std::fs;
use std::path::{Path, PathBuf};
use std::process::Command;

use expect_test::expect;

use support::Site;

fn root() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../..").canonicalize().unwrap()
}

/// What a script of Lua writes that the editor runs, with these arguments in front.
fn written(arguments: &[&str], script: &str, folder: &Path) -> String {
    let (file, out) = (folder.join("script.lua"), folder.join("out.txt"));
    let begins = "local out = {}\nlocal _, why = xpcall(function()\n";
    let ends =
        "\nend, debug.traceback)\nvim.fn.writefile(vim.list_extend(out, { why }), vim.env.OUT)\nvim.cmd('qa!')\n";
    fs::write(&file, format!("{begins}{script}{ends}")).unwrap();
    let program = Path::new(env!("CARGO_BIN_EXE_hausblatt")).parent().unwrap();
    let path = std::env::var("PATH").unwrap();
    let ran = Command::new("nvim")
        .args(["--headless", "-i", "NONE", "-n"])
        .args(arguments)
        .arg("-c")
        .arg(format!("luafile {}", file.display()))
        .env("OUT", &out)
        .env("PATH", format!("{}:{path}", program.display()))
        .env("XDG_CONFIG_HOME", folder)
        .env("XDG_DATA_HOME", folder)
        .env("XDG_STATE_HOME", folder)
        .current_dir(folder)
        .output()
        .unwrap();
    fs::read_to_string(&out).unwrap_or_else(|_| panic!("{}", String::from_utf8_lossy(&ran.stderr)))
}

const WORK: &str = r#"
local function say(...) table.insert(out, (table.concat({ ... }, ' '):gsub('%c', '  '))) end
local function until_so(what) assert(vim.wait(20000, what, 20), debug.traceback()) end
vim.cmd('edit ' .. vim.env.SITE .. '/themes/loam/templates/page.html')
local buf = vim.api.nvim_get_current_buf()
until_so(function() return next(vim.lsp.buf_get_clients(buf)) ~= nil end)
local function line(n, text) vim.api.nvim_buf_set_lines(buf, n, n + 1, false, { text }) end
local function at(n, what) vim.api.nvim_win_set_cursor(0, { n + 1, #vim.api.nvim_buf_get_lines(buf, n, n + 1, false)[1]:match('^(.-)' .. what) }) end
local function find(what)
  for n, text in ipairs(vim.api.nvim_buf_get_lines(buf, 0, -1, false)) do if text:find(what, 1, true) then return n - 1, text end end
end
local n, text = find('+{content.title}')
line(n, (text:gsub('title', 'titel')))
until_so(function() return #vim.diagnostic.get(buf) > 0 end)
say('marked:', vim.diagnostic.get(buf)[1].message)
line(n, text)
until_so(function() return #vim.diagnostic.get(buf) == 0 end)
n, text = find('+{partial "crumbs"')
line(n, (text:gsub('crumbs', 'cr')))
at(n, 'cr')
local place = vim.lsp.util.make_position_params()
place.position.character = place.position.character + 2
local found = vim.lsp.buf_request_sync(buf, 'textDocument/completion', place, 20000)
for _, answer in pairs(found) do
  for _, item in ipairs(answer.result.items) do if item.label == 'crumbs' then say('offered:', item.label) end end
end
line(n, text)
at(n, 'crumbs')
vim.lsp.buf.definition()
until_so(function() return vim.fn.expand('%:t') == 'crumbs.html' end)
say('jumped to:', vim.fn.expand('%:t'))
vim.cmd('buffer ' .. buf)
at(n, 'crumbs')
vim.lsp.buf.rename('trail')
until_so(function() return vim.fn.filereadable(vim.env.SITE .. '/themes/loam/partials/trail.html') == 1 end)
until_so(function() return find('+{partial "trail"') ~= nil end)
vim.cmd('silent wall')
say('renamed:', (select(2, find('trail'))):match('^%s*(.*)$'))
vim.cmd('Hausblatt why')
until_so(function() return vim.bo.buftype == 'nofile' end)
say('shown:', unpack(vim.api.nvim_buf_get_lines(0, 0, 1, false)))
vim.cmd('close')
vim.cmd('Hausblatt open')
until_so(function() return vim.fn.execute('messages'):find('no server of this site runs') ~= nil end)
say('completed:', table.concat(vim.fn.getcompletion('Hausblatt wi', 'cmdline'), ' '))
"#;

#[test]
#[ignore = "needs neovim"]
fn a_real_editor_marks_completes_finds_and_renames() {
    let site = Site::demo();
    let folder = tempfile::tempdir().unwrap();
    assert_eq!(site.run(&["build", "--out", "before"]).code, 0);
    let path = format!("set rtp^={}", root().join("editors/vim").display());
    let script = format!("vim.env.SITE = '{}'\n{WORK}", site.root().display());
    let said = written(&["--cmd", &path], &script, folder.path());
    expect![[r#"
        marked: no page has or declares a field "titel"  → did you mean "title"?
        offered: crumbs
        jumped to: crumbs.html
        renamed: +{partial "trail"}
        shown: /about/  →  200
        completed: without
    "#]]
    .assert_eq(&said);
    assert!(!site.root().join("themes/loam/partials/crumbs.html").exists());
    assert_eq!(site.run(&["build", "--out", "after"]).code, 0);
    let pages = |folder: &str| {
        let all = site.tree(folder).into_iter();
        all.filter(|(path, _)| !path.contains(".hausblatt-")).collect::<Vec<_>>()
    };
    assert!(pages("before").len() > 100 && pages("before") == pages("after"));
}

/// Writes the names of the syntax of each byte of the files that `LIST` names, a line for a line.
const NAMES: &str = r#"
for _, path in ipairs(vim.fn.readfile(vim.env.LIST)) do
  vim.cmd('edit ' .. vim.fn.fnameescape(path))
  vim.cmd('syntax sync fromstart')
  for l = 1, vim.fn.line('$') do
    local row = {}
    for c = 1, #vim.fn.getline(l) do
      local names = {}
      for _, id in ipairs(vim.fn.synstack(l, c)) do table.insert(names, vim.fn.synIDattr(id, 'name')) end
      table.insert(row, table.concat(names, ' '))
    end
    table.insert(out, table.concat(row, '|'))
  end
  vim.cmd('bwipeout!')
end
"#;

/// The names of the syntax of each byte of each line of these files.
fn names(files: &[String], folder: &Path) -> Vec<Vec<String>> {
    let list = folder.join("list.txt");
    fs::write(&list, files.join("\n") + "\n").unwrap();
    let own = root().join("editors/vim");
    let path = format!("set rtp^={0} rtp+={0}/after", own.display());
    let script = format!("vim.env.LIST = '{}'\n{NAMES}", list.display());
    let arguments = ["-u", "NONE", "--cmd", &path, "-c", "filetype plugin on", "-c", "syntax on"];
    written(&arguments, &script, folder).lines().map(|line| line.split('|').map(str::to_owned).collect()).collect()
}

#[test]
#[ignore = "needs neovim"]
fn the_syntax_tells_tags_from_what_is_around_them() {
    let folder = tempfile::tempdir().unwrap();
    colours::tell_tags_from_what_is_around(|files| names(files, folder.path()));
}
