//! What is in a file: its blocks, slots, fills and calls, as a tree, as parts that can be folded and selected, and as tags that
//! belong together.

use hausblatt_lang::edit::outline::{Block, blocks};
use hausblatt_lang::text::source::Span;
use lsp_types::Position;
use serde_json::{Value, json};

use crate::lsp::hover::{file_of, is_in_tag};
use crate::lsp::positions::{Columns, offset, range};
use crate::lsp::sites::Asked;

/// The blocks and calls of a file with tags.
pub fn of(asked: &Asked) -> Vec<Block> {
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

/// For each position what is around it, the innermost part first: a name, names with dots, a text in quotes, the tag or the text
/// between tags, each block, the file.
pub fn selections(asked: &Asked, positions: &[Position], columns: Columns) -> Value {
    let text = &asked.text;
    let blocks = of(asked);
    let one = |position: &Position| {
        let at = offset(text, *position, columns);
        let mut parts: Vec<Span> = Vec::new();
        let grown = |fits: &dyn Fn(char) -> bool| {
            let start = text[..at]
                .rfind(|c| !fits(c))
                .map_or(0, |found| found + text[found..].chars().next().map_or(1, char::len_utf8));
            let end = at + text[at..].find(|c| !fits(c)).unwrap_or(text.len() - at);
            Span::new(start, end)
        };
        parts.push(grown(&|c| c.is_alphanumeric() || c == '_'));
        if is_in_tag(text, at) {
            parts.push(grown(&|c| c.is_alphanumeric() || c == '_' || c == '.'));
            let open = text[..at].rfind("+{").unwrap_or(0);
            let end = at + text[at..].find('}').map_or(text.len() - at, |end| end + 1);
            for quote in ['"', '\''] {
                let before = &text[open..at];
                if before.matches(quote).count() % 2 == 1
                    && let (Some(start), Some(length)) = (before.rfind(quote), text[at..end].find(quote))
                {
                    parts.push(Span::new(open + start + 1, at + length));
                    parts.push(Span::new(open + start, at + length + 1));
                }
            }
            parts.push(Span::new(open + 2, end.saturating_sub(1).max(open + 2)));
            parts.push(Span::new(open, end));
        } else {
            parts.push(grown(&|c| c != '\n' && c != '\r'));
        }
        for block in blocks.iter().filter(|block| block.is_ended) {
            let inside = Span::new(block.tag.range().end, block.others.last().map_or(0, |end| end.range().start));
            parts.extend([inside, block.span]);
        }
        parts.push(Span::new(0, text.len()));
        // Each is in the next one, and larger.
        parts.retain(|part| part.range().start <= at && at <= part.range().end);
        parts.sort_by_key(|part| part.range().len());
        let mut kept: Vec<Span> = Vec::new();
        for part in parts.into_iter().filter(|part| !part.range().is_empty()) {
            let is_around =
                |inner: &Span| part.range().start <= inner.range().start && inner.range().end <= part.range().end;
            if kept.last().is_none_or(|inner| is_around(inner) && *inner != part) {
                kept.push(part);
            }
        }
        let around = kept.iter().rev().fold(Value::Null, |parent, part| {
            let mut one = json!({ "range": range(text, *part, columns) });
            if !parent.is_null() {
                one["parent"] = parent;
            }
            one
        });
        match around {
            Value::Null => json!({ "range": range(text, Span::new(at, at), columns) }),
            around => around,
        }
    };
    Value::Array(positions.iter().map(one).collect())
}

/// The tags that belong to the one whose first word is at the place: what opens, divides and ends a block.
pub fn matching(asked: &Asked) -> Vec<Span> {
    let is_first = |tag: &Span| {
        let word = tag.of(&asked.text)[2..].find(|c: char| !c.is_alphanumeric()).unwrap_or(0);
        let start = tag.range().start;
        start <= asked.at && asked.at <= start + 2 + word
    };
    let blocks = of(asked).into_iter().filter(|block| block.is_ended);
    let all = blocks.map(|block| [vec![block.tag], block.others].concat());
    all.into_iter().find(|tags| tags.iter().any(is_first)).unwrap_or_default()
}
