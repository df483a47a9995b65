//! What `check` says as SARIF is valid by the published schema (SARIF 2.1.0, OASIS). Needs Node.js and its package ajv, so
//! the plain test command leaves it out; CI runs it with `--ignored`.
//!
//! `support/sarif-2.1.0.json` is the schema that OASIS publishes with the standard, unchanged. Copyright OASIS Open; its
//! policy on intellectual property lets it be copied and used to implement the standard
//! (<https://www.oasis-open.org/policies-guidelines/ipr/>).

#![allow(clippy::unwrap_used, clippy::panic)]

mod support;

use std::fs;
use std::path::Path;
use std::process::Command;

use support::Site;

/// Reads the schema and the logs named on its command line, and prints what is wrong with each.
const VALIDATE: &str = r#"
const fs = require("fs");
const Ajv = require("ajv");
const [schema, ...logs] = process.argv.slice(1).map(file => JSON.parse(fs.readFileSync(file, "utf8")));
const validate = new Ajv({ strict: false, allErrors: true, validateFormats: false }).compile(schema);
for (const log of logs) {
    if (!validate(log)) console.log(JSON.stringify(validate.errors, null, 1));
}
"#;

#[test]
#[ignore = "needs Node.js and ajv"]
fn sarif_is_valid_by_its_schema() {
    let root = Path::new(env!("CARGO_MANIFEST_DIR")).join("../..").canonicalize().unwrap();
    let modules = root.join("target/browser/node_modules");
    assert!(modules.join("ajv").exists(), "install it with: npm install --prefix target/browser ajv");
    // One pattern of the published schema has a bracket too many, which no regular expression allows.
    let schema = include_str!("support/sarif-2.1.0.json").replace("[a-zA-Z]{2}]?$", "[a-zA-Z]{2}$");
    let site = Site::demo();
    let clean = site.run(&["check", "--format", "sarif"]);
    assert_eq!(clean.code, 0);
    let page = "themes/loam/templates/page.html";
    site.write(page, site.read(page).replace("\"crumbs\"", "\"crumps\""));
    let card = "themes/loam/partials/card.html";
    site.write(card, site.read(card).replace(" alt=\"\"", ""));
    site.write("content/pages/a b.md", "");
    let faulty = site.run(&["check", "--format", "sarif"]);
    assert_eq!(faulty.code, 1);
    let broken = clean.out.replace("\"version\"", "\"versoin\"");
    let folder = tempfile::tempdir().unwrap();
    let said = |logs: &[&str]| {
        let mut files = vec![("schema.json".to_owned(), schema.as_str())];
        files.extend(logs.iter().enumerate().map(|(at, log)| (format!("log-{at}.json"), *log)));
        for (name, text) in &files {
            fs::write(folder.path().join(name), text).unwrap();
        }
        let output = Command::new("node")
            .args(["-e", VALIDATE])
            .args(files.iter().map(|(name, _)| name))
            .current_dir(folder.path())
            .env("NODE_PATH", &modules)
            .output()
            .unwrap();
        assert!(output.status.success(), "{}", String::from_utf8_lossy(&output.stderr));
        String::from_utf8(output.stdout).unwrap()
    };
    assert_eq!(said(&[&clean.out, &faulty.out]), "");
    assert!(said(&[&broken]).contains("version"), "the validator passes anything");
}
