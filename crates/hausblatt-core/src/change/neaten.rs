//! Theme files written neatly: the tags, the lines that print nothing, and the keys of front matter in one order. Each file
//! means the same afterwards, which is held against its tree before it is written.

use hausblatt_lang::edit::neat;
use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::ending::Ending;

use crate::analysis::compare::unified;
use crate::files::edit::Write;
use crate::files::front_matter_edit::in_order;
use crate::lookup::file_argument;
use crate::text::codes;
use crate::text::front;
use crate::text::shell::word;
use crate::themes::file_name::Role;
use crate::themes::lineage::{FileId, ThemeFile};
use crate::themes::theme::HEADER_KEYS;
use crate::world::World;

/// A file that is written neatly.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Neatened {
    /// What is to be written.
    pub write: Write,
    /// How many lines are others.
    pub lines: usize,
    /// How it differs, as a unified diff.
    pub diff: String,
}

/// What becomes of the files of a theme.
#[derive(Clone, Debug, Default)]
pub struct Neatening {
    /// The files that are written neatly.
    pub changed: Vec<Neatened>,
    /// How many are neat already.
    pub neat: usize,
    /// The paths of those that stay as they are since they have an error.
    pub left: Vec<String>,
}

/// Writes files of the active theme neatly: those that are typed so, or all.
///
/// # Errors
/// What is typed is no file of it that has tags.
pub fn neaten(world: &World, typed: &[String]) -> Result<Neatening, Vec<Diagnostic>> {
    let own = world.lineage.ids().filter(|(_, file)| file.theme == 0 && is_written(file.role));
    let files: Vec<FileId> = match typed {
        [] => own.map(|(id, _)| id).collect(),
        typed => {
            let found: Vec<Result<FileId, Diagnostic>> = typed.iter().map(|typed| file_of(world, typed)).collect();
            let problems: Vec<Diagnostic> = found.iter().filter_map(|one| one.as_ref().err().cloned()).collect();
            if !problems.is_empty() {
                return Err(problems);
            }
            found.into_iter().flatten().collect()
        }
    };
    let mut neatening = Neatening::default();
    for id in files {
        let file = world.lineage.file(id);
        let path = &*file.node.path;
        let Some(text) = file.node.text() else {
            neatening.left.push(path.to_owned());
            continue;
        };
        match neat_text(file, text) {
            None => neatening.left.push(path.to_owned()),
            Some(neat) if neat == **text => neatening.neat += 1,
            Some(neat) => {
                let lines = similar::TextDiff::from_lines(&**text, &neat);
                let lines =
                    lines.iter_all_changes().filter(|change| change.tag() == similar::ChangeTag::Insert).count();
                neatening.changed.push(Neatened {
                    diff: unified(text, &neat, path),
                    write: Write::instead_of(path, text.as_bytes(), neat),
                    lines,
                });
            }
        }
    }
    Ok(neatening)
}

fn is_written(role: Role) -> bool {
    matches!(role, Role::Template | Role::Partial | Role::Layout | Role::Component | Role::Prepare)
}

fn file_of(world: &World, typed: &str) -> Result<FileId, Diagnostic> {
    let id = file_argument::theme_file(world, typed)?;
    let file = world.lineage.file(id);
    if !is_written(file.role) {
        let message = format!("{} has no tags that could be written neatly", file.name);
        return Err(Diagnostic::of(&codes::UNKNOWN_FILE, message)
            .help("name a template, a partial, a layout, a component or a prepare file"));
    }
    if file.theme > 0 {
        let theme = &world.lineage.themes[file.theme].name;
        let help = format!("do it there: hausblatt neaten {} --theme {}", word(typed), word(theme));
        return Err(Diagnostic::of(&codes::NOT_OWN, format!("{} is from the theme {theme}", file.name)).help(help));
    }
    Ok(id)
}

/// The text of a theme file written neatly; nothing for one with an error, or without tags.
pub fn neat_file(world: &World, id: FileId) -> Option<String> {
    let file = world.lineage.file(id);
    if is_written(file.role) { neat_text(file, file.node.text()?) } else { None }
}

/// Another text of a theme file written neatly; nothing for one with an error, or without tags.
pub fn neat_other(world: &World, id: FileId, text: &str) -> Option<String> {
    let file = world.lineage.file(id);
    if is_written(file.role) { neat_text(file, text) } else { None }
}

/// A file's text written neatly; nothing for one with an error.
fn neat_text(file: &ThemeFile, text: &str) -> Option<String> {
    if file.role == Role::Prepare {
        return neat::prepare(text);
    }
    let ending = Ending::split(&file.name)?.1;
    let front = front::read(text);
    if front.problem.is_some() {
        return None;
    }
    let ordered = in_order(text, HEADER_KEYS);
    neat::template(&ordered, front::read(&ordered).body, ending)
}
