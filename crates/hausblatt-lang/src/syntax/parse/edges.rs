//! White space at the two ends of a file that is called, which belongs to how it is written and not to what it prints.

use crate::syntax::tree::{Block, Node, NodeKind};
use crate::text::source::Span;

/// Which end of a block is cut.
#[derive(Clone, Copy, PartialEq)]
enum End {
    First,
    Last,
}

/// Tells the literal white space at both ends of `block` apart, also before and behind tags there that print nothing.
pub fn cut(block: &mut Block) {
    cut_end(block, End::First);
    cut_end(block, End::Last);
}

fn cut_end(block: &mut Block, end: End) {
    let mut nodes = std::mem::take(&mut block.nodes);
    if end == End::Last {
        nodes.reverse();
    }
    let mut goes_on = true;
    for mut node in nodes {
        let mut parts = vec![];
        if goes_on {
            (goes_on, parts) = cut_node(&mut node, end);
        }
        let keeps = !matches!(&node.kind, NodeKind::Text(text) if text.is_empty());
        block.nodes.extend(parts);
        block.nodes.extend(keeps.then_some(node));
    }
    if end == End::Last {
        block.nodes.reverse();
    }
}

/// Whether the end goes on behind this node, and the white space that was cut from it.
fn cut_node(node: &mut Node, end: End) -> (bool, Vec<Node>) {
    match &mut node.kind {
        NodeKind::Text(text) => {
            let edge = split(node.span, text, end);
            let is_empty = text.is_empty();
            (is_empty, edge.into_iter().collect())
        }
        NodeKind::LineStart(white) if end == End::First => (false, split(node.span, white, end).into_iter().collect()),
        NodeKind::LineEnd(white) if end == End::Last => (false, split(node.span, white, end).into_iter().collect()),
        NodeKind::If(arms, other) => {
            arms.iter_mut().map(|(_, block)| block).chain(other).for_each(|block| cut_end(block, end));
            (false, vec![])
        }
        NodeKind::Let(..)
        | NodeKind::Capture(..)
        | NodeKind::Into(..)
        | NodeKind::Use(_)
        | NodeKind::Answer(..)
        | NodeKind::Redirect(..)
        | NodeKind::Edge(_) => (true, vec![]),
        _ => (false, vec![]),
    }
}

/// Takes the white space at one end out of `text`.
fn split(span: Span, text: &mut String, end: End) -> Option<Node> {
    let is_white = |c: char| c.is_ascii_whitespace();
    let range = span.range();
    let (white, span) = match end {
        End::First => {
            let rest = text.trim_start_matches(is_white).len();
            let rest = text.split_off(text.len() - rest);
            let white = std::mem::replace(text, rest);
            let to = (range.start + white.len()).min(range.end);
            (white, Span::new(range.start, to))
        }
        End::Last => {
            let white = text.split_off(text.trim_end_matches(is_white).len());
            let from = range.end.saturating_sub(white.len()).max(range.start);
            (white, Span::new(from, range.end))
        }
    };
    (!white.is_empty()).then_some(Node { span, kind: NodeKind::Edge(white) })
}
