//! Which file made which part of a page.

use hausblatt_lang::render::{Mark, marks};
use serde::Serialize;

/// A part of a page that one file made.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct OutlinePart {
    /// The file's path.
    pub path: String,
    /// The first of its lines in the page, from 1.
    pub line: usize,
    /// The last of its lines.
    pub end: usize,
    /// How many bytes it is, the parts within it included.
    pub bytes: usize,
    /// The parts of other files within it.
    pub parts: Vec<OutlinePart>,
}

/// A page without its marks, and the parts that they mark.
pub fn outline(marked: &str) -> (String, Vec<OutlinePart>) {
    let mut text = String::with_capacity(marked.len());
    let mut open: Vec<(OutlinePart, usize)> = Vec::new();
    let mut parts = Vec::new();
    let (mut from, mut lines) = (0, 1);
    for mark in marks(marked) {
        let between = &marked[from..mark.from];
        lines += between.bytes().filter(|&byte| byte == b'\n').count();
        text.push_str(between);
        from = mark.to;
        if mark.starts {
            open.push((begun(mark, lines), text.len()));
        } else if open.last().is_some_and(|(part, _)| part.path == mark.path) {
            close(&mut open, &mut parts, text.len(), lines);
        }
    }
    text.push_str(&marked[from..]);
    lines += marked[from..].bytes().filter(|&byte| byte == b'\n').count();
    while !open.is_empty() {
        close(&mut open, &mut parts, text.len(), lines);
    }
    (text, parts)
}

fn begun(mark: Mark, line: usize) -> OutlinePart {
    OutlinePart { path: mark.path, line, end: line, bytes: 0, parts: Vec::new() }
}

fn close(open: &mut Vec<(OutlinePart, usize)>, parts: &mut Vec<OutlinePart>, end: usize, line: usize) {
    let Some((mut part, start)) = open.pop() else { return };
    part.bytes = end - start;
    part.end = line;
    match open.last_mut() {
        Some((outer, _)) => outer.parts.push(part),
        None => parts.push(part),
    }
}
