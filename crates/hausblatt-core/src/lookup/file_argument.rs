//! Theme files as people name them: by a path from the site, by a path from the theme, or by a name.

use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::ending::Ending;
use hausblatt_lang::text::suggest::{nearest_all, which_of};

use crate::text::codes;
use crate::text::shell::word;
use crate::themes::lineage::{FileId, Lineage};
use crate::themes::prepare::NAMES;
use crate::themes::theme;
use crate::world::World;

/// The folders in which a bare name is looked for, with what comes after the name there. Those of one group come
/// before those of the next.
const FOLDERS: &[&[(&str, &str)]] = &[
    &[("templates/", ""), ("partials/", ""), ("layouts/", ""), ("components/", "/component"), ("", "/component")],
    &[("templates/offered/", ""), ("prepare/", ""), ("assets/", ""), ("components/", "")],
];

/// The file of the lineage that is typed so; of a name that several themes have, the nearest that is not hidden.
///
/// # Errors
/// There is none, or the name may mean several; with what exists.
pub fn theme_file(world: &World, typed: &str) -> Result<FileId, Diagnostic> {
    let lineage = &world.lineage;
    let typed = typed.trim_start_matches("./");
    if let Some((id, _)) = lineage.ids().find(|(_, file)| *file.node.path == *typed) {
        return Ok(id);
    }
    if typed.starts_with("content/") || typed.starts_with('/') {
        let message = format!("\"{typed}\" is not a file of a theme");
        return Err(
            Diagnostic::of(&codes::UNKNOWN_FILE, message).help(format!("ask: hausblatt resolve {}", word(typed)))
        );
    }
    if let Some(rest) = typed.strip_prefix("themes/") {
        return Err(no_such_path(world, typed, rest));
    }
    if let Some(id) = with_endings(lineage, typed) {
        return Ok(id);
    }
    for folders in FOLDERS {
        let mut found: Vec<FileId> = Vec::new();
        for (folder, behind) in *folders {
            found.extend(with_endings(lineage, &format!("{folder}{typed}{behind}")).filter(|id| !found.contains(id)));
        }
        match found.as_slice() {
            [] => {}
            [id] => return Ok(*id),
            several => {
                let names: Vec<&str> = several.iter().map(|&id| &*lineage.file(id).name).collect();
                let message = format!("\"{typed}\" may be {}", names.join(" or "));
                let help = format!("write which one, as in {}", names[0]);
                return Err(Diagnostic::of(&codes::AMBIGUOUS_FILE, message).help(help));
            }
        }
    }
    Err(unknown(world, typed))
}

/// The nearest file of this name, with or without its extension.
fn with_endings(lineage: &Lineage, name: &str) -> Option<FileId> {
    let of = |name: &str| lineage.nearest(name).or_else(|| lineage.all(name).first().copied());
    let endings = Ending::ALL.into_iter().map(|ending| format!("{name}.{}", ending.word()));
    of(name).or_else(|| endings.chain([format!("{name}.let")]).find_map(|name| of(&name)))
}

fn no_such_path(world: &World, typed: &str, rest: &str) -> Diagnostic {
    let theme = rest.split('/').next().unwrap_or(rest);
    let inside = world.lineage.themes.iter().any(|other| other.name == theme);
    let message = format!("there is no file {typed}");
    let themes = theme::names(&world.snapshot);
    if !inside && themes.iter().any(|other| other == theme) {
        let message = format!("the theme {theme} is not in the lineage of {}", world.lineage.active().name);
        return Diagnostic::of(&codes::UNKNOWN_FILE, message).help(format!("make it the active one: --theme {theme}"));
    }
    let paths = world.lineage.files.iter().map(|file| &*file.node.path);
    let near = nearest_all(typed, paths, 3);
    let themes: Vec<&str> = world.lineage.themes.iter().map(|theme| theme.name.as_str()).collect();
    let help = which_of(&near).unwrap_or_else(|| {
        format!("the themes of the lineage are {}; \"hausblatt files\" lists their files", themes.join(", "))
    });
    Diagnostic::of(&codes::UNKNOWN_FILE, message).help(help)
}

fn unknown(world: &World, typed: &str) -> Diagnostic {
    let mut names: Vec<&str> = Vec::new();
    for file in &world.lineage.files {
        let stem = Ending::split(&file.name).map_or(&*file.name, |(stem, _)| stem);
        names.extend([&*file.name, stem]);
        for (folder, behind) in FOLDERS.iter().copied().flatten() {
            names.extend(stem.strip_prefix(folder).and_then(|name| name.strip_suffix(behind)));
        }
    }
    names.sort_unstable();
    names.dedup();
    let near = nearest_all(typed, names, 3);
    let help = which_of(&near).unwrap_or_else(|| "\"hausblatt files\" lists all files".to_owned());
    Diagnostic::of(&codes::UNKNOWN_FILE, format!("no theme of the lineage has a file \"{typed}\"")).help(help)
}

/// The path that a file of the active theme would have that is typed so and need not exist: a path from the site, a
/// path from the theme, or the name of a template.
///
/// # Errors
/// What the name lacks.
pub fn new_file(world: &World, typed: &str) -> Result<String, Diagnostic> {
    let typed = typed.trim_start_matches("./");
    let active = world.lineage.active();
    let odd = typed.is_empty()
        || typed.ends_with('/')
        || typed.split('/').any(|part| part.is_empty() || part.starts_with('.'));
    if odd {
        let message = format!("\"{typed}\" is not a valid path of a theme file");
        return Err(Diagnostic::of(&codes::UNKNOWN_FILE, message).help("write it as in templates/page/visit.html"));
    }
    if let Some(rest) = typed.strip_prefix("themes/") {
        let theme = world.lineage.themes.iter().find(|theme| typed.starts_with(&theme.root));
        return match theme {
            Some(theme) => Ok(format!("{}{}", theme.root, with_ending(&typed[theme.root.len()..]))),
            None => Err(no_such_path(world, typed, rest)),
        };
    }
    let in_folder = theme::is_in_folder(typed);
    let head = typed.split(['/', '.']).next().unwrap_or("");
    let template = NAMES[1..].contains(&head) || matches!(head, "fallback" | "offered" | "sitemap" | "robots");
    match (in_folder, template) {
        (true, _) => Ok(format!("{}{}", active.root, with_ending(typed))),
        (false, true) => Ok(format!("{}{}", active.root, with_ending(&format!("templates/{typed}")))),
        (false, false) => {
            let message = format!("\"{typed}\" does not say what sort of file it is");
            let help = format!("write its path from the theme, as in partials/{typed}");
            Err(Diagnostic::of(&codes::UNKNOWN_FILE, message).help(help))
        }
    }
}

/// A name with the extension of pages, or of prepare files, if it has none.
pub(crate) fn with_ending(name: &str) -> String {
    let last = name.rsplit('/').next().unwrap_or(name);
    let has = Ending::split(name).is_some() || last.ends_with(".let") || last.ends_with(".toml");
    match name.split('/').next() {
        Some("assets") => name.to_owned(),
        Some("prepare") if !has => format!("{name}.let"),
        Some("components") if last.contains('.') => name.to_owned(),
        _ if has => name.to_owned(),
        _ => format!("{name}.html"),
    }
}
