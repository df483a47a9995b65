//! The walk-throughs in `docs/`: every command in a `console` block is typed, in order, and its whole answer compared.

use std::fs;
use std::os::unix::fs::PermissionsExt;
use std::path::{Path, PathBuf};
use std::process::Command;

use crate::support::{TODAY, without_time};

/// What separates the answers of a script.
const MARK: &str = "\u{1e}";

fn docs() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../../docs").canonicalize().unwrap()
}

/// A command, with the lines that it continues with after `> `, and its answer.
struct Step {
    typed: String,
    answer: String,
}

/// The steps of a document, with the text between their blocks.
fn parts(text: &str) -> Vec<Result<Vec<Step>, String>> {
    let mut parts = Vec::new();
    let mut rest = text;
    while let Some((before, behind)) = rest.split_once("```console\n") {
        let (block, behind) = behind.split_once("```\n").unwrap();
        parts.push(Err(before.to_owned()));
        let mut steps: Vec<Step> = Vec::new();
        for line in block.lines() {
            let more = line.strip_prefix("> ").or((line == ">").then_some(""));
            match (line.strip_prefix("$ "), more, steps.last_mut()) {
                (Some(command), ..) => steps.push(Step { typed: format!("{command}\n"), answer: String::new() }),
                (_, Some(more), Some(step)) if step.answer.is_empty() => step.typed += &format!("{more}\n"),
                (.., Some(step)) => step.answer += &format!("{line}\n"),
                (.., None) => panic!("a block begins with a command, not {line}"),
            }
        }
        parts.push(Ok(steps));
        rest = behind;
    }
    parts.push(Err(rest.to_owned()));
    parts
}

/// Types the commands of a document in an empty folder, or in the demo, and gives their answers.
fn answers(parts: &[Result<Vec<Step>, String>], in_demo: bool) -> Vec<String> {
    let folder = tempfile::Builder::new().prefix("hausblatt").tempdir().unwrap();
    let bin = folder.path().join("bin");
    fs::create_dir(&bin).unwrap();
    let program = env!("CARGO_BIN_EXE_hausblatt");
    let wrapped = format!(
        "#!/bin/sh\ncase \"$1\" in help|--help|--version) exec {program} \"$@\";; esac\nexec {program} \"$@\" --as-of {TODAY}\n"
    );
    fs::write(bin.join("hausblatt"), wrapped).unwrap();
    fs::set_permissions(bin.join("hausblatt"), fs::Permissions::from_mode(0o755)).unwrap();
    let mut script = String::from("exec 2>&1\n");
    if in_demo {
        script += "hausblatt demo seeds -q && cd seeds\n";
    }
    for step in parts.iter().flatten().flatten() {
        script += &format!("{}printf '{MARK}'\n", step.typed);
    }
    let work = folder.path().join("work");
    fs::create_dir(&work).unwrap();
    let said = Command::new("/bin/sh")
        .args(["-c", &script])
        .current_dir(&work)
        .env_clear()
        .env("PATH", format!("{}:/usr/bin:/bin", bin.display()))
        .output()
        .unwrap();
    let text = String::from_utf8(said.stdout).unwrap();
    assert!(!text.contains("panicked"), "{text}");
    text.split(MARK).map(str::to_owned).collect()
}

/// Lines without the blanks at their ends, as documents have them, and without times.
fn plain(answer: &str) -> String {
    without_time(&answer.lines().map(str::trim_end).collect::<Vec<_>>().join("\n"))
}

/// Holds a document against what its commands say; with `UPDATE_EXPECT=1` it is written anew.
fn hold(path: &Path, in_demo: bool) {
    let text = fs::read_to_string(path).unwrap();
    let parts = parts(&text);
    let steps = parts.iter().flatten().flatten().count();
    assert!(steps > 0, "{} has no commands", path.display());
    let answers = answers(&parts, in_demo);
    assert_eq!(answers.len(), steps + 1, "{}: {answers:#?}", path.display());
    let mut said = answers.iter();
    let mut new = String::new();
    for part in &parts {
        match part {
            Err(text) => new += text,
            Ok(steps) => {
                new += "```console\n";
                for (step, said) in steps.iter().zip(&mut said) {
                    let typed = step.typed.trim_end().replace('\n', "\n> ").replace("\n> \n", "\n>\n");
                    let answer = if plain(said) == plain(&step.answer) { step.answer.clone() } else { said.clone() };
                    new += &format!("$ {typed}\n");
                    new.extend(answer.lines().map(|line| format!("{}\n", line.trim_end())));
                }
                new += "```\n";
            }
        }
    }
    if std::env::var_os("UPDATE_EXPECT").is_some() {
        fs::write(path, new).unwrap();
    } else {
        same_lines(&text, &new, path);
    }
}

#[track_caller]
fn same_lines(old: &str, new: &str, path: &Path) {
    let differs = old.lines().zip(new.lines()).position(|(a, b)| a != b);
    let Some(line) = differs.or((old != new).then(|| old.lines().count().min(new.lines().count()))) else { return };
    let around = |text: &str| text.lines().skip(line.saturating_sub(3)).take(8).collect::<Vec<_>>().join("\n");
    panic!(
        "{}:{} is not what is said now; UPDATE_EXPECT=1 cargo test writes it anew\nwritten:\n{}\nsaid:\n{}",
        path.display(),
        line + 1,
        around(old),
        around(new)
    );
}

#[test]
fn the_first_half_hour_is_as_written() {
    hold(&docs().join("first-half-hour.md"), false);
}

#[test]
fn the_how_tos_are_as_written() {
    let mut pages: Vec<PathBuf> = fs::read_dir(docs().join("how-to")).unwrap().map(|it| it.unwrap().path()).collect();
    pages.sort();
    assert!(pages.len() > 12);
    pages.iter().for_each(|page| hold(page, true));
}
