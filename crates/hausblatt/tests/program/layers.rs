//! The layers of each crate: a file uses what is in its own folder or in an earlier one. The lists are the architecture.

use std::fs;
use std::path::{Path, PathBuf};

/// The folders of a crate from the ground up, the files at its root that all may use, and those that none may.
struct Crate {
    folder: &'static str,
    layers: &'static [&'static str],
    ground: &'static [&'static str],
    top: &'static [&'static str],
}

const CRATES: &[Crate] = &[IMAGES, SMALL, LANGUAGE, CORE, PROGRAM];

const IMAGES: Crate =
    Crate { folder: "hausblatt-images", layers: &["head", "recipe", "pixels"], ground: &[], top: &["lib"] };

const SMALL: Crate =
    Crate { folder: "hausblatt-small", layers: &["browsers", "styles", "scripts"], ground: &[], top: &["lib"] };

const LANGUAGE: Crate = Crate {
    folder: "hausblatt-lang",
    layers: &[
        "text", "syntax", "html", "edit", "escape", "value", "types", "program", "compile", "library", "flow", "render",
    ],
    ground: &["codes", "role", "symbols"],
    top: &["lib"],
};

const CORE: Crate = Crate {
    folder: "hausblatt-core",
    layers: &[
        "text", "files", "schema", "model", "themes", "world", "lookup", "render", "analysis", "build", "change",
        "check", "rehearse", "needs", "pack",
    ],
    ground: &["arena", "asking", "threads"],
    top: &["lib", "open", "site"],
};

const PROGRAM: Crate = Crate {
    folder: "hausblatt",
    layers: &[
        "options", "clock", "html", "show", "failure", "opened", "running", "complete", "cli", "serve", "lsp", "demo",
        "cmd", "manual",
    ],
    ground: &["put", "tell", "tell_part"],
    top: &["main"],
};

/// How many files a folder may have; the rules of `check` are as many as they are.
const MOST_FILES: usize = 25;

fn root() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("..")
}

fn sources(folder: &Path, found: &mut Vec<PathBuf>) {
    for entry in fs::read_dir(folder).unwrap().flatten() {
        match entry.path() {
            path if path.is_dir() => sources(&path, found),
            path if path.extension().is_some_and(|extension| extension == "rs") => found.push(path),
            _ => {}
        }
    }
}

/// The lines of a file that use a later layer, each as `FILE:LINE uses LAYER from LAYER`; and uses of what has no place.
fn upward(of: &Crate, path: &str, text: &str) -> Vec<String> {
    let rank = |name: &str| of.layers.iter().position(|layer| *layer == name);
    let own = path.split('/').next().unwrap_or("").trim_end_matches(".rs");
    let Some(own_rank) = rank(own) else { return Vec::new() };
    let mut found = Vec::new();
    let code = text.split("#[cfg(test)]").next().unwrap_or("");
    for (number, line) in code.lines().enumerate().filter(|(_, line)| !line.trim_start().starts_with("//")) {
        for rest in line.split("crate::").skip(1).filter(|_| !line.contains("$crate::")) {
            let name: String = rest.chars().take_while(|c| c.is_alphanumeric() || *c == '_').collect();
            let is_fine = match rank(&name) {
                Some(rank) => rank <= own_rank,
                None => of.ground.contains(&name.as_str()) || name.starts_with(char::is_uppercase),
            };
            if !is_fine {
                found.push(format!("{path}:{} uses \"{name}\" from the layer \"{own}\"", number + 1));
            }
        }
    }
    found
}

#[test]
fn no_file_uses_a_later_layer() {
    for of in CRATES {
        let src = root().join(of.folder).join("src");
        let mut files = Vec::new();
        sources(&src, &mut files);
        assert!(files.len() > of.layers.len(), "{} has {} files", of.folder, files.len());
        let mut wrong = Vec::new();
        for file in &files {
            let path = file.strip_prefix(&src).unwrap().to_string_lossy().replace('\\', "/");
            wrong.extend(upward(of, &path, &fs::read_to_string(file).unwrap()));
        }
        assert!(wrong.is_empty(), "in {}:\n{}", of.folder, wrong.join("\n"));
        for entry in fs::read_dir(&src).unwrap().flatten() {
            let name = entry.file_name().to_string_lossy().into_owned();
            let stem = name.trim_end_matches(".rs");
            let known = of.layers.contains(&stem) || of.ground.contains(&stem) || of.top.contains(&stem);
            assert!(known, "{}/src/{name} is in no layer", of.folder);
        }
    }
}

#[test]
fn no_folder_has_too_many_files() {
    for of in CRATES {
        let mut files = Vec::new();
        sources(&root().join(of.folder).join("src"), &mut files);
        let mut folders: Vec<&Path> = files.iter().filter_map(|file| file.parent()).collect();
        folders.sort_unstable();
        for folder in folders.chunk_by(|a, b| a == b) {
            let is_rules = folder[0].ends_with("check/rules");
            assert!(is_rules || folder.len() <= MOST_FILES, "{} has {} files", folder[0].display(), folder.len());
        }
    }
}

#[test]
fn an_arrow_that_points_up_is_found_with_its_line() {
    let of = &CORE;
    let text = "//! About crate::check.\nuse crate::text::slug;\n\nuse crate::check::run;\n";
    assert_eq!(upward(of, "themes/theme.rs", text), ["themes/theme.rs:4 uses \"check\" from the layer \"themes\""]);
    assert_eq!(upward(of, "check/mod.rs", text), Vec::<String>::new());
    let inline =
        "fn a() { crate::world::World::load(); crate::arena::fresh(); }\n#[cfg(test)]\nuse crate::check::run;\n";
    assert_eq!(upward(of, "model/site/mod.rs", inline).len(), 1);
    assert_eq!(upward(of, "world/mod.rs", "use crate::open::load;\nuse crate::offered;\n").len(), 2);
}
