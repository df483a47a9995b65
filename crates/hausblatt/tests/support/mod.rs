//! A site in a temporary folder and the built program run on it, with a sealed environment.

#![allow(dead_code, clippy::unwrap_used, clippy::panic, clippy::expect_used)]

pub mod browser;
pub mod forms;
pub mod serving;

use std::fs;
use std::path::{Path, PathBuf};
use std::process::{Command, Output};
use std::sync::OnceLock;

use expect_test::Expect;
use tempfile::TempDir;

/// What the program said: exit code, standard output, standard error.
pub struct Said {
    pub code: i32,
    pub out: String,
    pub err: String,
}

impl Said {
    /// All of it, for comparing whole.
    pub fn whole(&self) -> String {
        let mut whole = format!("exit {}\n{}", self.code, self.out);
        if !self.err.is_empty() {
            whole.push_str("---\n");
            whole.push_str(&self.err);
        }
        whole.lines().map(str::trim_end).collect::<Vec<_>>().join("\n") + "\n"
    }
}

/// The time that a build took differs from run to run.
pub fn without_time(text: &str) -> String {
    let line = |line: &str| match (line.find(" kB, "), line.find(" s): ")) {
        (Some(from), Some(to)) => format!("{}TIME{}", &line[..from + 5], &line[to..]),
        _ => line.to_owned(),
    };
    text.lines().map(line).collect::<Vec<_>>().join("\n") + "\n"
}

/// Holds all that a command says against what is expected, but for how long it took.
#[track_caller]
pub fn check(site: &Site, arguments: &[&str], expected: Expect) {
    expected.assert_eq(&without_time(&site.run(arguments).whole()));
}

/// A site in a temporary folder.
pub struct Site {
    folder: TempDir,
}

/// The day that is today in all tests.
pub const TODAY: &str = "2026-11-23";

impl Site {
    /// An empty folder.
    pub fn empty() -> Self {
        Self { folder: tempfile::Builder::new().prefix("hausblatt").tempdir().unwrap() }
    }

    /// Two themes, `near` over `far`, a journal and two pages.
    pub fn small() -> Self {
        let site = Self::empty();
        site.write(
            "hausblatt.toml",
            "[site]\ntitle = \"Seeds\"\naddress = \"https://seeds.example\"\ntheme = \"near\"\n\n[front]\npage = \"home\"\n\n\
             [collections.journal]\naddress = \"/journal/{slug}/\"\nlisting = \"/journal/\"\norder = \"date desc\"\nper_page = 2\n",
        );
        site.write("themes/near/hausblatt-theme.toml", "[theme]\nparent = \"far\"\n");
        site.write("themes/far/hausblatt-theme.toml", "");
        site.write("themes/far/templates/fallback.html", "fallback +{request.title}\n");
        site.write("themes/far/templates/page.html", "page +{content.title}\n");
        site.write("themes/far/layouts/document.html", "<+{slot}>\n".replace('<', "[").replace('>', "]").as_str());
        site.write("content/pages/home.md", "---\ntitle: Home\n---\nHello *you*.\n");
        site.write("content/pages/visit.md", "---\ntitle: Visit\n---\nCome.\n");
        site.write("content/pages/visit/opening.md", "");
        site.write("content/journal/2026-03-14-frost.md", "---\ntitle: Frost\n---\nCold.\n");
        site.write("content/journal/2026-05-01-boats.md", "---\ntitle: Boats\n---\nWet.\n");
        site.write("content/journal/2026-06-01-beans.md", "---\ntitle: Beans\n---\nUp.\n");
        site
    }

    /// The demo, as the program writes it. It is requested once; every test gets a copy of its own.
    pub fn demo() -> Self {
        static WRITTEN: OnceLock<Vec<(String, Vec<u8>)>> = OnceLock::new();
        let files = WRITTEN.get_or_init(|| {
            let site = Self::empty();
            let said = site.run(&["demo", "."]);
            assert_eq!(said.code, 0, "{}", said.whole());
            site.tree(".")
        });
        let site = Self::empty();
        // What was built is left out: a copy would have other times than its record.
        let is_own = |path: &str| !path.starts_with("built/") && !path.starts_with(".hausblatt-images/");
        for (path, bytes) in files.iter().filter(|(path, _)| is_own(path)) {
            site.write(path, bytes);
        }
        site
    }

    pub fn path(&self, path: &str) -> PathBuf {
        self.folder.path().join(path)
    }

    pub fn root(&self) -> &Path {
        self.folder.path()
    }

    pub fn write(&self, path: &str, text: impl AsRef<[u8]>) {
        let file = self.path(path);
        fs::create_dir_all(file.parent().unwrap()).unwrap();
        fs::write(file, text).unwrap();
    }

    pub fn remove(&self, path: &str) {
        fs::remove_file(self.path(path)).unwrap();
    }

    pub fn rename(&self, from: &str, to: &str) {
        fs::create_dir_all(self.path(to).parent().unwrap()).unwrap();
        fs::rename(self.path(from), self.path(to)).unwrap();
    }

    pub fn read(&self, path: &str) -> String {
        fs::read_to_string(self.path(path)).unwrap_or_else(|error| panic!("{path}: {error}"))
    }

    /// The program, ready to be started in the site's folder.
    pub fn command(&self, arguments: &[&str]) -> Command {
        let mut command = Command::new(env!("CARGO_BIN_EXE_hausblatt"));
        command.current_dir(self.folder.path()).env_clear().env("PATH", "/usr/bin:/bin").args(arguments);
        if !arguments.contains(&"--as-of") {
            command.args(["--as-of", TODAY]);
        }
        command
    }

    /// Runs the program in the site's folder. No answer may be a panic, and none may show colours.
    #[track_caller]
    pub fn run(&self, arguments: &[&str]) -> Said {
        let Output { status, stdout, stderr } = self.command(arguments).output().unwrap();
        let text = |bytes: Vec<u8>| String::from_utf8(bytes).expect("output is UTF-8");
        let said = Said { code: status.code().unwrap_or(-1), out: text(stdout), err: text(stderr) };
        assert!(!said.err.contains("panicked"), "{}", said.err);
        assert!(arguments.contains(&"always") || !said.out.contains('\u{1b}'), "colours without a terminal");
        said
    }

    /// Runs the program and returns its answer as JSON.
    #[track_caller]
    pub fn json(&self, arguments: &[&str]) -> serde_json::Value {
        let said = self.run(&[arguments, &["--format", "json"]].concat());
        serde_json::from_str(&said.out).unwrap_or_else(|error| panic!("{error}\n{}", said.whole()))
    }

    /// The template that renders `address`, with its theme, as `resolve` says.
    #[track_caller]
    pub fn template(&self, address: &str) -> String {
        let answer = &self.json(&["resolve", address])[0];
        match answer["template"].as_object() {
            Some(template) => {
                format!("{} of {}", template["name"].as_str().unwrap(), template["theme"].as_str().unwrap())
            }
            None => "none".to_owned(),
        }
    }

    /// All files below a folder with their bytes, without the record of the build.
    pub fn tree(&self, folder: &str) -> Vec<(String, Vec<u8>)> {
        let mut found = Vec::new();
        collect(&self.path(folder), &self.path(folder), &mut found);
        found.sort();
        found
    }
}

fn collect(root: &Path, folder: &Path, found: &mut Vec<(String, Vec<u8>)>) {
    for entry in fs::read_dir(folder).unwrap() {
        let path = entry.unwrap().path();
        if path.is_dir() {
            collect(root, &path, found);
        } else if !path.ends_with(".hausblatt-build") && !path.ends_with(".hausblatt-search") {
            found.push((path.strip_prefix(root).unwrap().display().to_string(), fs::read(&path).unwrap()));
        }
    }
}
