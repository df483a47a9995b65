//! The grammars in `editors/extension`, run by the library that editors run such with: no byte of a tag is taken for HTML, XML,
//! JSON or text, and what is around tags is coloured as if they were letters. And the extension, packed. Needs Node.js and
//! packages of its registry, so the plain test command leaves it out; CI runs it with `--ignored`.

#![allow(clippy::unwrap_used, clippy::panic)]

#[path = "support/colours.rs"]
mod colours;
mod support;

use std::fs;
use std::path::{Path, PathBuf};
use std::process::Command;

use expect_test::expect;
use serde_json::Value;

use support::Site;

fn root() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../..").canonicalize().unwrap()
}

/// Prints, for each file of a list, the scopes of each character of each line.
const SCOPES: &str = r#"
const fs = require("fs");
const path = require("path");
const { Registry, INITIAL, parseRawGrammar } = require("vscode-textmate");
const onig = require("vscode-oniguruma");
const [own, list] = process.argv.slice(1);
const folders = [path.dirname(require.resolve("tm-grammars/grammars/html.json")), own];
const grammars = { "text.plain.hausblatt": null };
for (const folder of folders) {
  for (const name of fs.readdirSync(folder).filter((name) => name.endsWith(".json"))) {
    const text = fs.readFileSync(path.join(folder, name), "utf8");
    grammars[JSON.parse(text).scopeName] = text;
  }
}
const roots = { html: "text.html.derivative", xml: "text.xml", json: "source.json", txt: "text.plain.hausblatt", let: "source.hausblatt.prepare" };
const manifest = JSON.parse(fs.readFileSync(path.join(own, "../package.json"), "utf8"));
const injected = manifest.contributes.grammars.find((grammar) => grammar.injectTo);
(async () => {
  await onig.loadWASM(fs.readFileSync(path.join(path.dirname(require.resolve("vscode-oniguruma")), "onig.wasm")).buffer);
  const registry = new Registry({
    onigLib: Promise.resolve({
      createOnigScanner: (patterns) => new onig.OnigScanner(patterns),
      createOnigString: (text) => new onig.OnigString(text),
    }),
    loadGrammar: async (scope) => (grammars[scope] ? parseRawGrammar(grammars[scope], "grammar.json") : null),
    getInjections: (scope) => (injected.injectTo.includes(scope) ? [injected.scopeName] : []),
  });
  const rows = [];
  for (const file of fs.readFileSync(list, "utf8").split("\n").filter(Boolean)) {
    const grammar = await registry.loadGrammar(roots[file.split(".").pop()]);
    let state = INITIAL;
    for (const line of fs.readFileSync(file, "utf8").replace(/\n$/, "").split("\n")) {
      const { tokens, ruleStack } = grammar.tokenizeLine(line, state);
      state = ruleStack;
      const row = [];
      for (const { startIndex, endIndex, scopes } of tokens) {
        const bytes = Buffer.byteLength(line.slice(startIndex, endIndex));
        for (let at = 0; at < bytes; at++) row.push(scopes.join(" "));
      }
      rows.push(row);
    }
  }
  process.stdout.write(JSON.stringify(rows));
})();
"#;

/// The scopes of each byte of each line of these files.
fn scopes(files: &[String], folder: &Path) -> Vec<Vec<String>> {
    let modules = root().join("target/browser/node_modules");
    let wanted = "vscode-textmate vscode-oniguruma tm-grammars";
    assert!(modules.join("tm-grammars").exists(), "install it with: npm install --prefix target/browser {wanted}");
    let list = folder.join("list.txt");
    fs::write(&list, files.join("\n")).unwrap();
    let ran = Command::new("node")
        .args(["-e", SCOPES])
        .arg(root().join("editors/extension/grammars"))
        .arg(&list)
        .env("NODE_PATH", &modules)
        .output()
        .unwrap();
    assert!(ran.status.success(), "{}", String::from_utf8_lossy(&ran.stderr));
    serde_json::from_slice(&ran.stdout).unwrap()
}

#[test]
#[ignore = "needs Node.js and packages"]
fn the_grammars_tell_tags_from_what_is_around_them() {
    let folder = tempfile::tempdir().unwrap();
    colours::tell_tags_from_what_is_around(|files| scopes(files, folder.path()));
}

#[test]
#[ignore = "needs Node.js and packages"]
fn the_words_of_prepare_files_and_tags_are_told_apart() {
    let folder = tempfile::tempdir().unwrap();
    let shown = |name: &str, text: &str| -> String {
        let file = folder.path().join(name);
        fs::write(&file, text).unwrap();
        let rows = scopes(&[file.display().to_string()], folder.path());
        let mut out = String::new();
        for (row, line) in rows.iter().zip(text.lines()) {
            let mut at = 0;
            while at < row.len() {
                let end = at + row[at..].iter().take_while(|scopes| **scopes == row[at]).count();
                let written = line[at..end].trim();
                if !written.is_empty() {
                    out += &format!("{written:<14} {}\n", row[at].rsplit(' ').next().unwrap());
                }
                at = end;
            }
        }
        out
    };
    expect![[r##"
        # the ü        comment.line.number-sign.hausblatt
        let            keyword.control.hausblatt
        beds           variable.other.hausblatt
        =              keyword.operator.hausblatt
        varieties      variable.other.hausblatt
        where          keyword.other.hausblatt
        days           variable.other.hausblatt
        <              keyword.operator.hausblatt
        70             constant.numeric.hausblatt
        order          keyword.other.hausblatt
        by             keyword.other.hausblatt
        title          variable.other.hausblatt
        limit          keyword.other.hausblatt
        3              constant.numeric.hausblatt
        let            keyword.control.hausblatt
        word           variable.other.hausblatt
        =              keyword.operator.hausblatt
        "a             string.quoted.double.hausblatt
        \"             constant.character.escape.hausblatt
        b              string.quoted.double.hausblatt
        \"             constant.character.escape.hausblatt
        #"             string.quoted.double.hausblatt
        +              keyword.operator.hausblatt
        'c'            string.quoted.single.hausblatt
        .              punctuation.accessor.hausblatt
        upper          variable.other.property.hausblatt
        +              keyword.operator.hausblatt
        str            entity.name.function.hausblatt
        (              punctuation.separator.hausblatt
        1.5            constant.numeric.hausblatt
        )              punctuation.separator.hausblatt
    "##]].assert_eq(&shown(
        "a.let",
        "# the \u{fc}\nlet beds = varieties where days < 70 order by title limit 3\nlet word = \"a \\\"b\\\" #\" + 'c'.upper + str(1.5)\n",
    ));
    expect![[r#"
        <              punctuation.definition.tag.begin.html
        a              entity.name.tag.html
        href           entity.other.attribute-name.html
        =              punctuation.separator.key-value.html
        "              punctuation.definition.string.begin.html
        +{             punctuation.section.embedded.begin.hausblatt
        url            entity.name.function.hausblatt
        (              punctuation.separator.hausblatt
        "page:visit"   string.quoted.double.hausblatt
        )              punctuation.separator.hausblatt
        }              punctuation.section.embedded.end.hausblatt
        "              punctuation.definition.string.end.html
        onclick        entity.other.attribute-name.html
        =              punctuation.separator.key-value.html
        "              punctuation.definition.string.begin.html
        go('           string.quoted.double.html
        +{             punctuation.section.embedded.begin.hausblatt
        x              variable.other.hausblatt
        .              punctuation.accessor.hausblatt
        y              entity.name.function.member.hausblatt
        (              punctuation.separator.hausblatt
        "a"            string.quoted.double.hausblatt
        )              punctuation.separator.hausblatt
        }              punctuation.section.embedded.end.hausblatt
        ')             string.quoted.double.html
        "              punctuation.definition.string.end.html
        >              punctuation.definition.tag.end.html
        b              text.html.derivative
        </             punctuation.definition.tag.begin.html
        a              entity.name.tag.html
        >              punctuation.definition.tag.end.html
        +              constant.character.escape.hausblatt
        +{c}           text.html.derivative
        +{# d #}       comment.block.hausblatt
        e              text.html.derivative
    "#]]
    .assert_eq(&shown(
        "a.html",
        "<a href=\"+{url(\"page:visit\")}\" onclick=\"go('+{x.y(\"a\")}')\">b</a> ++{c} +{# d #}e\n",
    ));
}

#[test]
#[ignore = "needs Node.js and packages"]
fn the_extension_is_packed_with_all_that_its_manifest_names() {
    let folder = tempfile::tempdir().unwrap();
    let out = folder.path().join("hausblatt.vsix");
    let ran = Command::new("bash").arg(root().join("editors/extension/pack")).arg(&out).output().unwrap();
    assert!(ran.status.success(), "{}", String::from_utf8_lossy(&ran.stderr));
    let list = Command::new("unzip").args(["-Z1"]).arg(&out).output().unwrap();
    let list = String::from_utf8(list.stdout).unwrap();
    let manifest: Value =
        serde_json::from_str(&fs::read_to_string(root().join("editors/extension/package.json")).unwrap()).unwrap();
    let mut named = vec![manifest["main"].as_str().unwrap().to_owned()];
    for language in manifest["contributes"]["languages"].as_array().unwrap() {
        named.extend(language["configuration"].as_str().map(str::to_owned));
    }
    for grammar in manifest["contributes"]["grammars"].as_array().unwrap() {
        named.push(grammar["path"].as_str().unwrap().to_owned());
    }
    assert!(named.len() > 5);
    for path in named {
        let inside = format!("extension/{}", path.trim_start_matches("./"));
        assert!(list.lines().any(|line| line == inside), "{inside} is not in\n{list}");
    }
    // Its client starts the server, asks it, and shows what it answers.
    let unpacked = Command::new("unzip").arg("-q").arg(&out).current_dir(folder.path()).status().unwrap();
    assert!(unpacked.success());
    let site = Site::demo();
    let started = Command::new("node")
        .arg(root().join("crates/hausblatt/tests/support/extension_host.js"))
        .arg(folder.path().join("extension/dist/client.js"))
        .arg(env!("CARGO_BIN_EXE_hausblatt"))
        .arg(site.root())
        .output()
        .unwrap();
    expect![[r#"
        hausblatt.editor.list hausblatt.editor.open hausblatt.editor.sample hausblatt.editor.why hausblatt.editor.without hausblatt.list hausblatt.open hausblatt.sample hausblatt.why hausblatt.without
        shown: /about/  →  200
        ended
    "#]].assert_eq(&String::from_utf8_lossy(&started.stdout));
    // Nothing was left beside it.
    assert!(!root().join("editors/extension/node_modules").exists() && !root().join("editors/extension/dist").exists());
    // The words that the server answers are those that the client shows commands for.
    let client = fs::read_to_string(root().join("editors/extension/client.js")).unwrap();
    for command in manifest["contributes"]["commands"].as_array().unwrap() {
        let name = command["command"].as_str().unwrap().rsplit('.').next().unwrap();
        assert!(client.contains(&format!("\"{name}\"")), "{name}");
    }
}
