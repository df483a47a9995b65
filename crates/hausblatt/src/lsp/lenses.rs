//! What is said above the first line of a file, and between its words: what it renders, reaches, covers and extends, of what
//! sort its parameters are, and which block an `end` closes.

use hausblatt_core::change::rename::next_of;
use hausblatt_core::world::World;
use hausblatt_lang::program::Callee;
use lsp_types::Range;
use serde_json::{Value, json};

use crate::lsp::commands::{LIST, SAMPLE};
use crate::lsp::complete::of_type;
use crate::lsp::hover::file_of;
use crate::lsp::outline::of;
use crate::lsp::positions::{Columns, offset, position};
use crate::lsp::sites::Asked;
use crate::show::table::addresses;

/// What is said above the first line, each part with what lists it.
pub fn lenses(asked: &Asked, uri: &str) -> Value {
    let start = position(&asked.text, 0, Columns::Utf16);
    let lens = |(title, command): (String, Option<(&str, &str)>)| {
        let command = match command {
            Some((command, what)) => json!({ "title": title, "command": command, "arguments": [uri, what] }),
            None => json!({ "title": title, "command": "" }),
        };
        json!({ "range": { "start": start, "end": start }, "command": command })
    };
    let mut all: Vec<Value> =
        asked.world().map(|world| parts(world, &asked.path)).into_iter().flatten().map(lens).collect();
    if let Some(sample) = asked.world().and_then(|world| asked.sample(world)) {
        let command = json!({ "title": format!("values of {sample}"), "command": SAMPLE, "arguments": [uri] });
        all.push(json!({ "range": { "start": start, "end": start }, "command": command }));
    }
    Value::Array(all)
}

/// What is said of a file, each with the list that belongs to it.
pub fn parts(world: &World, path: &str) -> Vec<(String, Option<(&'static str, &'static str)>)> {
    let Some(id) = file_of(world, path) else { return Vec::new() };
    let file = world.lineage.file(id);
    let mut parts = Vec::new();
    let renders = world.survey().iter().filter(|answer| answer.winner == Some(id)).count();
    if file.name.template().is_some() {
        parts.push((format!("renders {}", addresses(renders)), Some((LIST, "renders"))));
    }
    let reaches = world.reach(id).count();
    if file.name.template().is_none() || reaches > renders {
        parts.push((format!("reaches {}", addresses(reaches)), Some((LIST, "reaches"))));
    }
    let themes = world.lineage.all(&file.name).iter().map(|&other| world.lineage.file(other).theme);
    for theme in themes.filter(|theme| *theme != file.theme) {
        let name = &world.lineage.themes[theme].name;
        let is_covered = theme > file.theme;
        let title = if is_covered { format!("covers {name}'s") } else { format!("covered by {name}'s") };
        parts.push((title, Some((LIST, if is_covered { "covers" } else { "covered" }))));
    }
    let program = world.unit(id).and_then(|unit| world.library.unit(unit)?.program.as_ref());
    let goes_on = program.is_some_and(|program| program.calls.iter().any(|call| matches!(call.callee, Callee::Next)));
    if let Some(next) = next_of(world, path).filter(|_| goes_on) {
        parts.push((format!("extends {}", next.path), Some((LIST, "extends"))));
    }
    parts
}

/// The sorts of parameters, where they are declared, and what each `end` of several lines closes.
pub fn hints(asked: &Asked, wanted: Range, columns: Columns) -> Value {
    let Some(world) = asked.world() else { return json!([]) };
    let Some(id) = file_of(world, &asked.path) else { return json!([]) };
    let lines = (offset(&asked.text, wanted.start, columns), offset(&asked.text, wanted.end, columns));
    let hint = |at: usize, label: String, kind: u8| {
        let place = position(&asked.text, at, columns);
        (lines.0 <= at && at <= lines.1)
            .then(|| json!({ "position": place, "label": label, "kind": kind, "paddingLeft": true }))
    };
    let mut hints = Vec::new();
    let program = world.unit(id).and_then(|unit| world.library.unit(unit)?.program.as_ref());
    let front = &world.lineage.file(id).node.front().entries;
    let takes =
        front.iter().filter(|entry| &*entry.key == "takes").flat_map(|entry| entry.data.as_map().unwrap_or_default());
    for own in takes {
        let parameter = program.and_then(|program| {
            program.parameters.iter().find(|parameter| world.symbols.name(parameter.name) == &*own.key)
        });
        // By what calls give it; by its default where they give nothing.
        let sorts = parameter.map(|parameter| [of_type(&parameter.given), of_type(&parameter.of)]);
        if let Some(sort) = sorts.into_iter().flatten().find(|sort| !sort.is_empty()) {
            // A key of the protocol: what kind a value is.
            hints.extend(hint(own.span.range().end, sort, 1));
        }
    }
    for block in of(asked).iter().filter(|block| block.is_ended) {
        let Some(end) = block.others.last() else { continue };
        if asked.text[block.span.range()].contains('\n') {
            hints.extend(hint(end.range().end, block.title.clone(), 2));
        }
    }
    Value::Array(hints)
}
