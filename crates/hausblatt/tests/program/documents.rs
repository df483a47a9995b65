//! What is written in README, ARCHITECTURE and docs is true: files exist, links lead somewhere, commands run.

use std::fs;
use std::path::{Path, PathBuf};
use std::process::Command;

use crate::support::Site;

fn root() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../..").canonicalize().unwrap()
}

fn documents() -> Vec<PathBuf> {
    let docs = fs::read_dir(root().join("docs")).unwrap().map(|entry| entry.unwrap().path());
    let how_tos = fs::read_dir(root().join("docs/how-to")).unwrap().map(|entry| entry.unwrap().path());
    let docs = docs.chain(how_tos).filter(|path| path.extension().is_some_and(|ending| ending == "md"));
    let others = ["README.md", "ARCHITECTURE.md", "CHANGELOG.md", "CONTRIBUTING.md"];
    docs.chain(others.map(|name| root().join(name))).collect()
}

fn read(path: &Path) -> String {
    fs::read_to_string(path).unwrap_or_else(|error| panic!("{}: {error}", path.display()))
}

/// What is between backquotes on the lines of a text, outside fenced blocks.
fn quoted(text: &str) -> Vec<String> {
    let outside = text.split("```").step_by(2);
    outside.flat_map(|part| part.split('`').skip(1).step_by(2).map(str::to_owned).collect::<Vec<_>>()).collect()
}

#[test]
fn every_file_named_in_the_architecture_exists() {
    let text = read(&root().join("ARCHITECTURE.md"));
    let paths: Vec<String> = quoted(&text).into_iter().filter(|word| word.starts_with("crates/")).collect();
    assert!(paths.len() > 30);
    for path in paths {
        assert!(root().join(&path).exists(), "{path} does not exist");
    }
}

#[test]
fn every_module_of_the_core_is_on_the_map() {
    let text = read(&root().join("ARCHITECTURE.md"));
    let src = root().join("crates/hausblatt-core/src");
    let folders = fs::read_dir(&src).unwrap().flatten().map(|entry| entry.path()).filter(|path| path.is_dir());
    for folder in std::iter::once(src.clone()).chain(folders) {
        for entry in fs::read_dir(&folder).unwrap() {
            let path = entry.unwrap().path();
            let name = path.strip_prefix(&src).unwrap().to_string_lossy().into_owned();
            let file = path.file_name().unwrap().to_string_lossy().into_owned();
            // Named with its folder, or beside the file that represents it.
            let on_map = text.contains(&format!("hausblatt-core/src/{name}")) || text.contains(&format!("`{file}`"));
            assert!(on_map || ["lib.rs", "mod.rs"].contains(&&*file), "{name} is not in ARCHITECTURE.md");
        }
    }
}

fn texts(folder: &Path, found: &mut Vec<(PathBuf, String)>) {
    for entry in fs::read_dir(folder).unwrap().flatten() {
        let path = entry.path();
        if path.is_dir() {
            texts(&path, found);
        } else if let Ok(text) = fs::read_to_string(&path) {
            found.push((path, text));
        }
    }
}

/// A command that was renamed must not be suggested by its old name: not by an answer, not by a document.
#[test]
fn every_command_that_is_named_exists() {
    let help = Site::empty().run(&["--help"]).out;
    let lines = help.lines().skip_while(|line| *line != "Commands:").skip(1).take_while(|line| !line.is_empty());
    let commands: Vec<&str> = lines.filter_map(|line| line.split_whitespace().next()).collect();
    assert!(commands.contains(&"files") && commands.len() > 15, "{commands:?}");
    let mut found = Vec::new();
    for folder in ["crates/hausblatt/src", "crates/hausblatt-core/src", "crates/hausblatt-lang/src", "docs", "demo"] {
        texts(&root().join(folder), &mut found);
    }
    found.push((root().join("README.md"), read(&root().join("README.md"))));
    let mut wrong = Vec::new();
    for (path, text) in &found {
        for (at, begun) in text.match_indices("hausblatt ").chain(text.match_indices("{program} ")) {
            let rest = text[at + begun.len()..].trim_start_matches("--site seeds ");
            let word: String = rest.chars().take_while(char::is_ascii_lowercase).collect();
            // The program is also spoken of.
            let is_prose = ["has", "itself"].contains(&&*word);
            if !word.is_empty() && !is_prose && !commands.contains(&&*word) {
                wrong.push(format!("{}: {begun}{word}", path.display()));
            }
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}

#[test]
fn links_lead_somewhere() {
    for document in documents() {
        let text = read(&document);
        for target in text.split("](").skip(1).filter_map(|rest| rest.split(')').next()) {
            let file = target.split('#').next().unwrap();
            // What content writes is an example.
            let elsewhere = file.starts_with("http") || file.starts_with("/media/");
            let exists = elsewhere || document.parent().unwrap().join(file).exists();
            assert!(exists, "{} links to {target}, which does not exist", document.display());
        }
    }
}

#[test]
fn pictures_are_shown_in_the_readme() {
    let readme = read(&root().join("README.md"));
    let pictures: Vec<String> = fs::read_dir(root().join("docs/screenshots"))
        .unwrap()
        .map(|entry| entry.unwrap().file_name().to_string_lossy().into_owned())
        .filter(|name| name.ends_with(".png"))
        .collect();
    assert!(pictures.len() < 20);
    for picture in pictures {
        assert!(readme.contains(&format!("docs/screenshots/{picture}")), "{picture} is not in README.md");
    }
}

const COMMANDS: [&str; 30] = [
    "demo", "start", "resolve", "map", "reach", "themes", "files", "override", "choose", "set", "suppose", "drift",
    "rename", "extract", "extend", "move", "neaten", "undo", "values", "render", "build", "chart", "check", "expect",
    "missed", "needs", "pack", "rehearse", "serve", "lsp",
];

/// The examples of each command's help are typed in the demo; `help COMMAND` is the same as `COMMAND --help`.
#[test]
fn the_examples_in_the_help_work_on_the_demo() {
    let mut count = 0;
    for command in COMMANDS {
        let asked = |arguments: &[&str]| {
            let output = Command::new(env!("CARGO_BIN_EXE_hausblatt")).args(arguments).output().unwrap();
            String::from_utf8(output.stdout).unwrap()
        };
        let help = asked(&[command, "--help"]);
        assert_eq!(asked(&["help", command]), help);
        let Some((_, examples)) = help.split_once("Examples:\n") else { continue };
        let site = Site::demo();
        site.write("access.log", "/vsit/\n");
        site.write("access.log.1.gz", "");
        // What waits for a key, or serves until it is stopped, is seen by other tests.
        for example in examples.lines().map(str::trim).filter(|it| !it.contains('(') && !it.contains("serve")) {
            let path = Path::new(env!("CARGO_BIN_EXE_hausblatt")).parent().unwrap();
            let output = Command::new("/bin/sh")
                .args(["-c", example])
                .current_dir(site.root())
                .env_clear()
                .env("PATH", format!("{}:/usr/bin:/bin", path.display()))
                .output()
                .unwrap();
            let said = String::from_utf8_lossy(&output.stderr).into_owned();
            assert!(output.status.code() <= Some(1) && !said.contains("error"), "{example}\n{said}");
            count += usize::from(!example.is_empty());
        }
    }
    assert!(count > 40, "{count}");
}

#[test]
fn every_option_is_documented_and_every_documented_option_exists() {
    let site = Site::empty();
    let mut help = site.run(&["--help"]).out;
    for command in COMMANDS {
        help.push_str(&site.run(&[command, "--help"]).out);
        assert!(
            read(&root().join("README.md")).contains(&format!("`hausblatt {command}")),
            "README.md lacks {command}"
        );
    }
    let options = |text: &str| {
        let words = text.split(|c: char| c.is_whitespace() || matches!(c, '`' | ',' | '[' | ']' | '<' | '|' | '='));
        let mut found: Vec<String> = words
            .filter(|word| word.strip_prefix("--").is_some_and(|name| name.starts_with(|c: char| c.is_alphabetic())))
            .map(|word| word.trim_end_matches(['.', ';', ':', ')']).to_owned())
            .collect();
        found.sort();
        found.dedup();
        found
    };
    let documented = options(&read(&root().join("docs/commands.md")));
    let typed: Vec<String> =
        options(&help).into_iter().filter(|option| !["--help", "--version"].contains(&option.as_str())).collect();
    assert_eq!(typed, documented);
}

/// The tables of `docs/language.md`, made of the tables in the code.
fn tables() -> Vec<(&'static str, String)> {
    use hausblatt_lang::value::functions::FUNCTIONS;
    use hausblatt_lang::value::members::{MEMBERS, Of};
    use hausblatt_lang::value::operators::LEVELS;
    let call =
        |name: &str, takes: &str| if takes.is_empty() { format!("`.{name}`") } else { format!("`.{name}({takes})`") };
    let mut operators = String::from("| from tight to loose | | examples |\n|---|---|---|\n");
    for level in LEVELS {
        let examples: Vec<String> =
            level.examples.iter().map(|(value, printed)| format!("`{value}` → `{printed}`")).collect();
        operators += &format!("| {} | {} | {} |\n", level.signs, level.about, examples.join(" · "));
    }
    let mut members = String::from("| of | member | is | example |\n|---|---|---|---|\n");
    for of in Of::ALL {
        for member in MEMBERS.iter().filter(|member| member.of == of) {
            let (value, printed) = member.example;
            let (name, about) = (call(member.name(), member.takes), member.about);
            members += &format!("| {} | {name} | {about} | `{value}` → `{printed}` |\n", of.word());
        }
    }
    let mut functions = String::from("| function | gives | example |\n|---|---|---|\n");
    for function in FUNCTIONS {
        let (value, printed) = function.example;
        let (name, takes, about) = (function.name, function.takes, function.about);
        functions += &format!("| `{name}({takes})` | {about} | `{value}` → `{printed}` |\n");
    }
    functions += "| `filled(name)` | whether a slot of this file will print something; the name is a quoted text | |\n";
    let mut globals = String::from("| value | is | example, in the demo |\n|---|---|---|\n");
    for global in hausblatt_core::text::names::ABOUT_GLOBALS {
        let (name, about, (address, value, printed)) = (global.name, global.about, global.example);
        globals += &format!("| `{name}` | {about} | `{address}` `{value}` → `{printed}` |\n");
    }
    globals += "| a collection by its name | its entries in their declared order; also label, address, scheduled | |\n";
    globals += "| what a prepare file names | `nothing` where that file did not run | |\n";
    vec![("operators", operators), ("members", members), ("functions", functions), ("globals", globals)]
}

/// With `UPDATE_EXPECT=1` the tables are written anew.
#[test]
fn the_tables_of_the_language_come_from_the_code() {
    let path = root().join("docs/language.md");
    let old = read(&path);
    let mut new = old.clone();
    for (name, table) in tables() {
        let (start, end) = (format!("<!-- table: {name} -->\n"), format!("<!-- end of table: {name} -->"));
        let (before, rest) = new.split_once(&start).unwrap();
        let (_, behind) = rest.split_once(&end).unwrap();
        new = format!("{before}{start}\n{table}\n{end}{behind}");
    }
    if std::env::var_os("UPDATE_EXPECT").is_some() {
        fs::write(&path, &new).unwrap();
    } else {
        assert!(old == new, "docs/language.md is behind the code: UPDATE_EXPECT=1 cargo test writes its tables anew");
    }
}

#[test]
fn the_examples_of_global_values_are_true() {
    let site = Site::demo();
    for global in hausblatt_core::text::names::ABOUT_GLOBALS {
        let (address, value, printed) = global.example;
        let told = site.json(&["values", address, value]);
        assert_eq!(told["value"]["text"], printed, "{address} {value}");
    }
}

/// The commands of `docs/start.md`, block by block, in an empty folder.
#[test]
fn the_first_steps_can_be_taken() {
    let folder = tempfile::tempdir().unwrap();
    let program = Path::new(env!("CARGO_BIN_EXE_hausblatt"));
    let text = read(&root().join("docs/start.md"));
    let blocks: Vec<&str> = text.split("```").skip(1).step_by(2).collect();
    assert_eq!(blocks.len(), 6);
    let mut script = String::from("set -e\n");
    for block in &blocks {
        script.push_str(block);
        script.push_str("echo ----\n");
    }
    let output = Command::new("/bin/sh")
        .args(["-c", &script])
        .current_dir(folder.path())
        .env_clear()
        .env("PATH", format!("{}:/usr/bin:/bin", program.parent().unwrap().display()))
        .output()
        .unwrap();
    let (out, err) = (String::from_utf8(output.stdout).unwrap(), String::from_utf8(output.stderr).unwrap());
    assert!(output.status.success(), "{out}{err}");
    let answers: Vec<&str> = out.split("----\n").collect();
    assert!(answers[0].contains("<body><h1>Visit</h1>\n<p>The gate is <em>green</em>.</p>"), "{out}");
    assert!(answers[1].contains("renders   themes/plain/templates/page/visit.html"), "{out}");
    assert!(
        answers[2].contains("coast's page.html is passed over: plain has the more specific page/visit.html."),
        "{out}"
    );
    assert!(answers[3].contains("page/visit.html (plain) → page/visit.html (coast)"), "{out}");
    assert!(answers[3].contains("Wrote themes/coast/templates/page/visit.html"), "{out}");
    assert!(answers[3].contains("current: its original is as it was in plain 1.0.0"), "{out}");
    assert!(answers[4].contains("<div class=\"wide\">\n<h1>Come in</h1>"), "{out}");
    assert!(answers[5].contains("/404.html     404  error  error/404.html     coast"), "{out}");
    assert!(answers[5].contains("Nothing would change"), "{out}");
    assert!(fs::read_to_string(folder.path().join("seeds/built/404.html")).unwrap().contains("This drawer is empty"));
}

/// The names of a JSON object's members, as `docs/commands.md` writes them.
fn shape(value: &serde_json::Value) -> String {
    let object = value.as_object().unwrap_or_else(|| panic!("{value}"));
    format!("{{{}}}", object.keys().cloned().collect::<Vec<_>>().join(", "))
}

#[test]
fn answers_as_data_have_the_documented_shapes() {
    let documented = read(&root().join("docs/commands.md")).split_whitespace().collect::<Vec<_>>().join(" ");
    let site = Site::demo();
    let first = |arguments: &[&str]| site.json(arguments)[0].clone();
    let of = |arguments: &[&str], key: &str| site.json(arguments)[key][0].clone();
    let gone = ["suppose", "--without", "entry/varieties", "--without", "themes/loam/partials/card.html", "--html"];
    let told = [
        ("map", first(&["map", "--kind", "entry"])),
        ("map --by template", first(&["map", "--by", "template"])),
        ("map --unused", first(&["map", "--unused"])),
        ("reach, addresses", of(&["reach", "card"], "addresses")),
        ("reach, calls", of(&["reach", "document"], "calls")),
        ("reach, parameters", of(&["reach", "card"], "parameters")),
        ("themes", first(&["themes"])),
        ("files", first(&["files"])),
        ("choose --list", first(&["choose", "--list", "/visit/"])),
        ("a change", of(&gone, "changed")),
        ("a side", of(&gone, "changed")["from"].clone()),
        ("a diagnostic", of(&gone, "faults")),
        ("drift", first(&["drift"])),
        ("drift, now", first(&["drift"])["now"].clone()),
        ("override, slots", of(&["override", "/visit/", "--slots"], "slots")),
    ];
    assert_eq!(site.json(&gone).as_object().unwrap().keys().collect::<Vec<_>>(), ["changed", "faults", "unchanged"]);
    let dry = site.json(&["build", "--dry-run"]);
    let keys = |answer: &serde_json::Value| answer.as_object().unwrap().keys().cloned().collect::<Vec<_>>();
    assert_eq!(keys(&dry)[6..], ["white_space", "versions", "unmade", "changes"]);
    assert!(documented.contains(&keys(&dry)[..6].join(", ")));
    assert_eq!(keys(&site.json(&["start", "page", "new"])), ["written", "notes", "next"]);
    let reach = site.json(&["reach", "card"]);
    assert!(reach.as_object().unwrap().keys().all(|key| documented.contains(&format!("`{key}`"))), "{reach}");
    for (command, answer) in &told {
        let shape =
            shape(answer).replace(", notes, ", ": [PATH], notes: [TEXT], ").replace("next}", "next: [COMMAND]}");
        let shape = if *command == "start" { shape } else { shape.replace(": [PATH], notes: [TEXT], ", ", notes, ") };
        assert!(documented.contains(&shape), "{command}: {shape} is not in docs/commands.md");
    }
    site.write("access.log", "/vsit/\n");
    let missed = site.json(&["missed", "access.log"])[0].clone();
    assert!(documented.contains(&shape(&missed)) && documented.contains(&shape(&missed["nearest"][0])), "{missed}");
    site.run(&["expect", "--record"]);
    site.write("content/pages/newer.md", "");
    let expected = site.json(&["expect"]);
    let row = &expected["new"][0];
    assert!(documented.contains(&shape(&expected)), "{expected}");
    assert!(documented.contains(&shape(row)) && documented.contains(&shape(&row["is"])), "{row}");
    site.write("content/pages/newer.md", "[Come](/vsit/)\n");
    let checked = first(&["check"]);
    assert!(documented.contains(&shape(&checked)), "{checked}");
    let copied = site.json(&["override", "partials/menu"]);
    assert_eq!(keys(&copied), ["path", "written", "original", "slots", "reaches", "changed", "html", "passed_over"]);
    let kept = first(&["undo", "--list"]);
    assert!(documented.contains(&shape(&kept).replace("files}", "files: [{path, did}]}")), "{kept}");
    assert_eq!(keys(&site.json(&["undo", "--dry-run"])), ["change", "written", "changed"]);
    let renamed = site.json(&["rename", "assets/icon.svg", "mark", "--dry-run"]);
    let names = keys(&renamed).join(", ");
    let shapes = [("moved", "moved: [{from, to}]"), ("edited", "edited: [{path, places}]")];
    let names = shapes.iter().fold(names, |names, (key, shape)| names.replace(key, shape));
    let names = names.replace("uncertain", "uncertain: [{path, line, why}]");
    let names = names.replace("addresses, by_trial", "addresses: [{from, to, redirects}], by_trial: [{path, line}]");
    let names =
        names.replace("shows_name, differ, changed", "shows_name: [ADDRESS], differ: [ADDRESS], changed: [CHANGE]");
    assert!(documented.contains(&names), "{names}");
    let cut = site.json(&["extract", "templates/front:1-8", "opening", "--dry-run"]);
    assert!(documented.contains(&shape(&cut).replace("given", "given: [NAME]")), "{cut}");
    let moved = site.json(&["move", "partials/header-small", "loam", "--dry-run"]);
    let lists = [("moved", "moved: [{from, to}]"), ("themes", "themes: [{theme, differ, rendered}]")];
    let shown = lists.iter().fold(shape(&moved), |names, (key, shape)| names.replace(key, shape));
    assert!(documented.contains(&shown), "{moved}");
    site.write("themes/harbour/partials/gate.html", "+{ content.title }\n");
    let neat = site.json(&["neaten", "--dry-run", "--diff"]);
    let shown = shape(&neat).replace("files", "files: [{path, lines, diff}]").replace("left", "left: [PATH]");
    assert!(documented.contains(&shown), "{neat}");
    assert_eq!(keys(&neat["files"][0]), ["path", "lines", "diff"]);
    site.write("themes/hedgerow/partials/gate.html", "+{slot \"word\" else}open+{end}\n");
    site.write("themes/harbour/partials/gate.html", "+{slot \"word\" else}closed+{end}\n");
    assert_eq!(site.run(&["drift", "--adopt", "partials/gate"]).code, 0);
    let extended = site.json(&["extend", "partials/gate", "--dry-run"]);
    assert!(documented.contains(&shape(&extended).replace("filled", "filled: [SLOT]")), "{extended}");
    let assigned = site.json(&["choose", "bare", "/borrow/"]);
    assert!(documented.contains(&shape(&assigned["chosen"][0])), "{assigned}");
}

#[test]
fn the_readme_names_its_two_commands() {
    let readme = read(&root().join("README.md"));
    for (mark, command) in [
        ("<!-- demo command -->", "cargo run --release --locked -- demo"),
        ("<!-- test command -->", "cargo test --workspace --locked"),
    ] {
        let behind = readme.split(mark).nth(1).unwrap();
        assert_eq!(behind.trim_start().lines().nth(1), Some(command));
    }
}

/// With `UPDATE_EXPECT=1` the drawing is made anew.
#[test]
fn the_chart_in_the_documents_is_the_one_that_the_program_draws() {
    let site = Site::demo();
    let path = root().join("docs/ladders.svg");
    let drawn = site.run(&["chart"]).out;
    if std::env::var_os("UPDATE_EXPECT").is_some() {
        fs::write(&path, &drawn).unwrap();
    } else {
        assert!(read(&path) == drawn, "docs/ladders.svg is behind the code: UPDATE_EXPECT=1 cargo test draws it anew");
    }
}
