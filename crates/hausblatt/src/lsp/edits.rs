//! What changes texts: renaming and writing neatly. The editor makes the edits.

use std::path::Path;

use hausblatt_core::change::neaten::{neat_file, neat_other};
use hausblatt_core::change::rename::{Named, Proof, Renaming, named_at, rename as plan};
use hausblatt_core::files::Snapshot;
use hausblatt_core::files::edit::Write;
use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::source::Span;
use lsp_types::Range;
use serde_json::{Value, json};
use similar::{DiffTag, TextDiff};

use crate::lsp::hover::file_of;
use crate::lsp::positions::{Columns, offset, range, uri_of};
use crate::lsp::server::Server;
use crate::lsp::sites::Asked;
use crate::show::table::addresses;

/// Where the name is that would be renamed.
pub fn prepare(asked: &Asked, columns: Columns) -> Option<Value> {
    let named = named_at(asked.world()?, &asked.path, asked.at)?;
    let is_renamed = matches!(named.named, Named::Known(_) | Named::Own(..));
    is_renamed
        .then(|| json!({ "range": range(&asked.text, named.span, columns), "placeholder": named.span.of(&asked.text) }))
}

/// The edits that rename what is named at a place, in all files concerned.
///
/// # Errors
/// Why it can't be renamed so.
pub fn rename(server: &mut Server, asked: &Asked, new: &str, columns: Columns) -> Result<Value, String> {
    let world = asked.world().ok_or("the site can't be loaded")?;
    let named = named_at(world, &asked.path, asked.at).ok_or("nothing that could be renamed is here")?;
    let root = server.sites.site(asked.site).root.clone();
    let typed = match &named.named {
        Named::Own(name, slot) => return own(asked, name, *slot, new, &root, columns),
        Named::Known(typed) => typed.clone(),
        Named::Global(name) => return Err(format!("{name} is a value that every site has")),
        Named::Member(name, of) => return Err(format!("{name} belongs to {of} and can't be renamed")),
        Named::Next => return Err("this is a word of the language".to_owned()),
    };
    // What a theme farther up gives is renamed there.
    let themes: Vec<String> = world.lineage.themes.iter().map(|theme| theme.name.clone()).collect();
    let mut refused = None;
    for theme in themes {
        let loaded = server.sites.loaded(asked.site, Some(theme));
        let Ok(world) = &loaded.world else { continue };
        match plan(world, &typed, new) {
            Ok(renaming) => {
                tell(server, &renaming);
                return edit_of(&loaded.snapshot, &renaming.writes, &renaming.moved, &root, columns)
                    .ok_or_else(|| "a file has a name that editors can't open".to_owned());
            }
            Err(problems) => {
                let is_owned = problems.iter().all(|problem| problem.code == "not-own");
                refused = Some(problems);
                if !is_owned {
                    break;
                }
            }
        }
    }
    Err(told(&refused.unwrap_or_default()))
}

/// The edits for a file that is about to be renamed in the editor's tree, in all that names it; nothing where it can't be
/// renamed so, or where nothing names it.
pub fn before_move(server: &mut Server, old: &Path, new: &Path, columns: Columns) -> Option<Value> {
    let (site, from) = server.sites.site_of(old)?;
    let (other, to) = server.sites.site_of(new)?;
    let theme = from.strip_prefix("themes/").and_then(|rest| rest.split('/').next()).map(str::to_owned);
    let loaded = server.sites.loaded(site, theme);
    let world = loaded.world.as_ref().ok()?;
    let within = |path: &str| {
        let theme = world.lineage.themes.iter().find(|theme| path.starts_with(&theme.root));
        theme.map_or(path.to_owned(), |theme| path[theme.root.len()..].to_owned())
    };
    let renaming = if site == other { plan(world, &from, &within(&to)).ok()? } else { return None };
    let root = server.sites.site(site).root.clone();
    // The editor moves the file that it was asked to; the others that go with it move here.
    let moved: Vec<(String, String)> = renaming.moved.iter().filter(|(own, _)| *own != from).cloned().collect();
    let writes: Vec<Write> = renaming
        .writes
        .iter()
        .filter(|write| write.path != from)
        .map(|write| if write.path == to { Write { path: from.clone(), ..write.clone() } } else { write.clone() })
        .collect();
    tell(server, &renaming);
    edit_of(&loaded.snapshot, &writes, &moved, &root, columns)
}

/// What was proved, as a message of the editor.
fn tell(server: &Server, renaming: &Renaming) {
    let mut text = format!("{} {} → {}: {}", renaming.what, renaming.from, renaming.to, proof(&renaming.proof));
    if !renaming.uncertain.is_empty() {
        text += &format!(" Look at {}, which may mean it:", renaming.uncertain.len());
        for (place, why) in renaming.uncertain.iter().take(5) {
            text += &format!("\n{}: {why}", place.path);
        }
    }
    server.tell("window/showMessage", json!({ "type": 3, "message": text }));
}

/// What was proved, in words.
pub fn proof(proof: &Proof) -> String {
    let rendered = addresses(proof.rendered);
    match (proof.rendered, proof.shows_name.len()) {
        (0, _) => "no address uses it.".to_owned(),
        (_, 0) => format!("{rendered} rendered before and after, all the same to the byte."),
        (_, shows) => format!("{rendered} rendered before and after, {shows} with the new name in it."),
    }
}

/// What is wrong, in a line.
pub fn told(problems: &[Diagnostic]) -> String {
    let one = |problem: &Diagnostic| match &problem.help {
        Some(help) => format!("{} ({help})", problem.message),
        None => problem.message.clone(),
    };
    problems.iter().map(one).collect::<Vec<_>>().join("; ")
}

/// A name of one file.
fn own(asked: &Asked, name: &str, slot: u16, new: &str, root: &Path, columns: Columns) -> Result<Value, String> {
    use hausblatt_lang::program::Meaning;
    let fits = new.chars().all(|c| c.is_alphanumeric() || c == '_')
        && new.starts_with(|c: char| c.is_alphabetic() || c == '_');
    if !fits || !hausblatt_lang::may_name(new) {
        return Err(format!(
            "\"{new}\" can't name a value: use letters, digits and underscores, and no word of the language"
        ));
    }
    let world = asked.world().ok_or("the site can't be loaded")?;
    let unit = world.library.units.iter().find(|unit| *unit.path == *asked.path);
    let program = unit.and_then(|unit| unit.program.as_ref()).ok_or("the file has an error")?;
    let is_taken = world.globals.is_reserved(new)
        || program.words.iter().any(|word| match word.meaning {
            Meaning::Own(other, _) | Meaning::Made(other, _) | Meaning::Parameter(other) => {
                world.symbols.name(other) == new
            }
            Meaning::Global(number) => world.globals.name(number) == new,
            _ => false,
        });
    if is_taken {
        return Err(format!("\"{new}\" means something else in this file"));
    }
    let places = program.words.iter().filter(|word| match word.meaning {
        Meaning::Own(_, other) | Meaning::Made(_, other) => other == slot && word.span.of(&asked.text) == name,
        _ => false,
    });
    let edits: Vec<Value> =
        places.map(|word| json!({ "range": range(&asked.text, word.span, columns), "newText": new })).collect();
    let uri = uri_of(&root.join(&asked.path)).ok_or("the file has a name that editors can't open")?;
    Ok(json!({ "changes": { uri.as_str(): edits } }))
}

/// How many lines an edit may be parted into.
#[derive(Clone, Copy, PartialEq)]
enum Parts {
    /// A line for a line, where there are as many.
    Lines,
    /// All that changes in one place.
    Places,
}

/// The edits that make one text another: what goes, and what comes in its place.
fn edits_between<'t>(before: &str, after: &'t str, parts: Parts) -> Vec<(Span, &'t str)> {
    let diff = TextDiff::from_lines(before, after);
    let starts = |text: &str| -> Vec<usize> {
        let lines = text.split_inclusive('\n').scan(0, |at, line| {
            let start = *at;
            *at += line.len();
            Some(start)
        });
        lines.chain([text.len()]).collect()
    };
    let (old, new) = (starts(before), starts(after));
    let at = |starts: &[usize], line: usize| starts.get(line).or(starts.last()).copied().unwrap_or(0);
    let edit = |from: std::ops::Range<usize>, to: std::ops::Range<usize>| {
        (Span::new(at(&old, from.start), at(&old, from.end)), &after[at(&new, to.start)..at(&new, to.end)])
    };
    let changed = diff.ops().iter().filter(|op| op.tag() != DiffTag::Equal);
    let edits = changed.flat_map(|op| {
        let (from, to) = (op.old_range(), op.new_range());
        match parts == Parts::Lines && from.len() == to.len() {
            true => from.zip(to).map(|(from, to)| edit(from..from + 1, to..to + 1)).collect(),
            false => vec![edit(from, to)],
        }
    });
    edits.collect()
}

fn shown(edits: &[(Span, &str)], before: &str, columns: Columns) -> Vec<Value> {
    let edits = edits.iter().map(|(span, text)| json!({ "range": range(before, *span, columns), "newText": text }));
    edits.collect()
}

fn text_edits(before: &str, after: &str, columns: Columns) -> Vec<Value> {
    shown(&edits_between(before, after, Parts::Places), before, columns)
}

/// What a command would write as edits of the editor: files that move are renamed, others are changed.
pub fn edit_of(
    snapshot: &Snapshot,
    writes: &[Write],
    moved: &[(String, String)],
    root: &Path,
    columns: Columns,
) -> Option<Value> {
    let text_of = |path: &str| snapshot.file(path).and_then(|node| node.whole_text().ok()).map(|text| text.to_string());
    let mut changes = Vec::new();
    for (from, to) in moved {
        changes
            .push(json!({ "kind": "rename", "oldUri": uri_of(&root.join(from))?, "newUri": uri_of(&root.join(to))? }));
    }
    for write in writes {
        let source = moved.iter().find(|(_, to)| *to == write.path).map(|(from, _)| from.as_str());
        let Some(after) = write.bytes.as_deref().map(std::str::from_utf8) else {
            let is_moved = moved.iter().any(|(from, _)| *from == write.path);
            if !is_moved {
                changes.push(json!({ "kind": "delete", "uri": uri_of(&root.join(&write.path))? }));
            }
            continue;
        };
        // Bytes that are not text move as they are.
        let Ok(after) = after else {
            // An editor can't write them.
            source?;
            continue;
        };
        let uri = uri_of(&root.join(&write.path))?;
        let before = text_of(source.unwrap_or(&write.path));
        if before.is_none() {
            changes.push(json!({ "kind": "create", "uri": uri }));
        }
        let edits = text_edits(before.as_deref().unwrap_or(""), after, columns);
        if !edits.is_empty() {
            changes.push(json!({ "textDocument": { "uri": uri, "version": null }, "edits": edits }));
        }
    }
    Some(json!({ "documentChanges": changes }))
}

/// What is so of every text that was written neatly: it was read again, and is held against what it was.
pub const NEAT: &str = "the neat text was read again and means what it meant; no byte that is printed changes";

/// The edits that write a file neatly; with lines, those among them alone, and what belongs to the same tags.
pub fn format(asked: &Asked, lines: Option<&Value>, columns: Columns) -> Option<Value> {
    let world = asked.world()?;
    let id = file_of(world, &asked.path)?;
    let text = &asked.text;
    let after = neat_file(world, id)?;
    let all = edits_between(text, &after, Parts::Lines);
    let Some(wanted) = lines.and_then(|lines| serde_json::from_value::<Range>(lines.clone()).ok()) else {
        return Some(Value::Array(shown(&all, text, columns)));
    };
    let (start, end) = (offset(text, wanted.start, columns), offset(text, wanted.end, columns));
    let in_lines = |edits: Vec<(Span, _)>| -> Vec<(Span, _)> {
        let meets = |span: Span| {
            span.range().start < end.max(start + 1) && start < span.range().end.max(span.range().start + 1)
        };
        edits.into_iter().filter(|(span, _)| meets(*span)).collect()
    };
    // Words may go from one line of a tag to the next: what is left of it has to be the same tag.
    let is_same = |edits: &[(Span, &str)]| {
        let mut part = text.clone();
        edits.iter().rev().for_each(|(span, new)| part.replace_range(span.range(), new));
        neat_other(world, id, &part).as_deref() == Some(&after)
    };
    let tries = [in_lines(all.clone()), in_lines(edits_between(text, &after, Parts::Places))];
    let edits = tries.into_iter().find(|edits| is_same(edits)).unwrap_or(all);
    Some(Value::Array(shown(&edits, text, columns)))
}
