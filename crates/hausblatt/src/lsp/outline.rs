//! What is in a file: its blocks, slots, fills and calls; and what its first line says of its effect.

use hausblatt_core::text::names::ABOUT_GLOBALS;
use hausblatt_core::world::World;
use hausblatt_lang::edit::outline::{Block, blocks};
use hausblatt_lang::program::Meaning;
use hausblatt_lang::text::source::Span;
use serde_json::{Value, json};

use crate::lsp::hover::file_of;
use crate::lsp::positions::{Columns, position, range};
use crate::lsp::sites::Asked;

/// The blocks and calls of a file with tags.
fn of(asked: &Asked) -> Vec<Block> {
    let Some(world) = asked.world() else { return Vec::new() };
    let Some(id) = file_of(world, &asked.path) else { return Vec::new() };
    if asked.path.ends_with(".let") || world.unit(id).is_none() {
        Vec::new()
    } else {
        blocks(&asked.text, world.header(id).body)
    }
}

/// The blocks as a tree.
pub fn symbols(asked: &Asked, columns: Columns) -> Value {
    let blocks = of(asked);
    let mut open: Vec<(Span, Value)> = Vec::new();
    let mut top: Vec<Value> = Vec::new();
    let close = |open: &mut Vec<(Span, Value)>, top: &mut Vec<Value>| {
        if let Some((_, done)) = open.pop() {
            match open.last_mut().and_then(|(_, parent)| parent["children"].as_array_mut()) {
                Some(children) => children.push(done),
                None => top.push(done),
            }
        }
    };
    for block in blocks {
        while open.last().is_some_and(|(span, _)| span.range().end <= block.span.range().start) {
            close(&mut open, &mut top);
        }
        // Kinds of the protocol: a module, a field, a function, a variable, a key.
        let kind = match block.word.as_str() {
            "partial" | "component" | "inherited" => 12,
            "slot" | "into" | "tray" => 8,
            "let" => 13,
            _ => 2,
        };
        let symbol = json!({
            "name": block.title,
            "kind": kind,
            "range": range(&asked.text, block.span, columns),
            "selectionRange": range(&asked.text, block.tag, columns),
            "children": [],
        });
        open.push((block.span, symbol));
    }
    while !open.is_empty() {
        close(&mut open, &mut top);
    }
    Value::Array(top)
}

/// The blocks that go over several lines.
pub fn folds(asked: &Asked, columns: Columns) -> Value {
    let folds = of(asked).into_iter().filter_map(|block| {
        let range = range(&asked.text, block.span, columns);
        (range.end.line > range.start.line)
            .then(|| json!({ "startLine": range.start.line, "endLine": range.end.line.saturating_sub(1).max(range.start.line) }))
    });
    Value::Array(folds.collect())
}

/// What is said above the first line: what a file renders, reaches, covers and extends.
pub fn lenses(asked: &Asked) -> Value {
    let Some(told) = asked.world().and_then(|world| lens(world, &asked.path)) else { return json!([]) };
    let start = position(&asked.text, 0, Columns::Utf16);
    json!([{ "range": { "start": start, "end": start }, "command": { "title": told, "command": "" } }])
}

fn lens(world: &World, path: &str) -> Option<String> {
    let id = file_of(world, path)?;
    let file = world.lineage.file(id);
    let mut parts = Vec::new();
    let addresses = |count: usize| if count == 1 { "1 address".to_owned() } else { format!("{count} addresses") };
    let renders = world.survey().iter().filter(|answer| answer.winner == Some(id)).count();
    if file.name.template().is_some() {
        parts.push(format!("renders {}", addresses(renders)));
    }
    let reaches = world.reach(id).count();
    if file.name.template().is_none() || reaches > renders {
        parts.push(format!("reaches {}", addresses(reaches)));
    }
    let themes = world.lineage.all(&file.name).iter().map(|&other| world.lineage.file(other).theme);
    for theme in themes.filter(|theme| *theme != file.theme) {
        let name = &world.lineage.themes[theme].name;
        parts.push(if theme > file.theme { format!("covers {name}'s") } else { format!("covered by {name}'s") });
    }
    Some(parts.join(" · "))
}

/// The kinds of words that are told apart, in the order in which editors are told of them.
pub const TOKEN_KINDS: [&str; 5] = ["parameter", "variable", "namespace", "enum", "property"];

/// The words of a file with what they are: parameters, names of the file, values of every site, what the site itself names
/// (collections, prepared names), members.
pub fn tokens(asked: &Asked, columns: Columns) -> Value {
    let Some(world) = asked.world() else { return json!({ "data": [] }) };
    let program = file_of(world, &asked.path)
        .and_then(|id| world.library.unit(world.unit(id)?))
        .and_then(|unit| unit.program.as_ref());
    let kind = |meaning: &Meaning| match meaning {
        Meaning::Parameter(_) => Some(0),
        Meaning::Own(..) | Meaning::Made(..) => Some(1),
        Meaning::Global(number) if ABOUT_GLOBALS.iter().any(|global| global.name == world.globals.name(*number)) => {
            Some(2)
        }
        Meaning::Global(_) => Some(3),
        Meaning::Member(..) | Meaning::PartOf(..) => Some(4),
        _ => None,
    };
    let mut words: Vec<(Span, u32)> = program
        .into_iter()
        .flat_map(|program| &*program.words)
        .filter_map(|word| Some((word.span, kind(&word.meaning)?)))
        .collect();
    words.sort_unstable();
    words.dedup_by_key(|(span, _)| *span);
    let (mut line, mut column) = (0, 0);
    let mut data: Vec<u32> = Vec::new();
    for (span, kind) in words {
        let range = range(&asked.text, span, columns);
        // What goes over several lines is no word.
        if range.start.line != range.end.line {
            continue;
        }
        let lines = range.start.line - line;
        let start = if lines == 0 { range.start.character.saturating_sub(column) } else { range.start.character };
        data.extend([lines, start, range.end.character - range.start.character, kind, 0]);
        (line, column) = (range.start.line, range.start.character);
    }
    json!({ "data": data })
}
