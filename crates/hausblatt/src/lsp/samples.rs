//! Values at one address, for those who write templates: what a chain of names is there.

use std::collections::HashMap;

use hausblatt_core::Routed;
use hausblatt_core::render::values;
use hausblatt_core::world::World;
use hausblatt_lang::edit::outline::Block;
use hausblatt_lang::value::dump::{Described, Detail};

use crate::lsp::hover::file_of;
use crate::lsp::outline;
use crate::lsp::sites::Asked;

/// So many characters of a value are shown.
const LONGEST: usize = 60;
/// A name may be made of others, so deep.
const DEEPEST: usize = 16;

impl Asked {
    /// The address whose values are shown: the one that was chosen, if the file reaches it, or else the first that it reaches.
    pub fn sample(&self, world: &World) -> Option<String> {
        let id = file_of(world, &self.path)?;
        let is_reached = |chosen: &&String| match world.route(chosen) {
            Routed::Request(request) => world.takes_part(id, &request),
            Routed::Redirect(_) => false,
        };
        let chosen = self.chosen.as_ref().filter(is_reached);
        chosen.cloned().or_else(|| world.first_reached(id).map(|request| request.address.clone()))
    }

    /// What a chain of names before the place is at the sample address, with this much detail.
    fn described(&self, world: &World, chain: &str, detail: Detail) -> Option<(Described, String)> {
        let value = spelled(world, &self.text, &outline::of(self), self.at, chain, DEEPEST)?;
        let address = self.sample(world)?;
        let Routed::Request(request) = world.route(&address) else { return None };
        let (described, _) = values::one(world, &world.resolve(request), &value, detail).ok()?;
        Some((described, address))
    }

    /// Of what sort a chain of names is, what it prints as, and at which address.
    pub fn value(&self, world: &World, chain: &str) -> Option<(String, Option<String>, String)> {
        let detail = Detail { depth: 1, members: 1, characters: 2 * LONGEST };
        let (described, address) = self.described(world, chain, detail)?;
        Some((described.kind, described.text, address))
    }

    /// What the members of a chain of names print as.
    pub fn members(&self, world: &World, chain: &str) -> HashMap<String, String> {
        let detail = Detail { depth: 1, members: 200, characters: LONGEST };
        let described = self.described(world, chain, detail);
        let members = described.into_iter().flat_map(|(described, _)| described.members);
        members.map(|(name, value)| (name, value.text.unwrap_or(value.kind).replace('\n', " "))).collect()
    }
}

/// A chain of names with values that all files have: the name of a loop is the first member of its list, and one that `let`
/// makes is its value. None for what depends on the caller.
fn spelled(world: &World, text: &str, blocks: &[Block], at: usize, chain: &str, depth: usize) -> Option<String> {
    let depth = depth.checked_sub(1)?;
    let length = chain.find(|c: char| !c.is_alphanumeric() && c != '_').unwrap_or(chain.len());
    let (root, rest) = chain.split_at(length);
    if root == "it" {
        let (list, start) = queried(text, at)?;
        return Some(format!("({}).first{rest}", spelled(world, text, blocks, start, list, depth)?));
    }
    let made = blocks.iter().rev().filter(|block| block.tag.range().end <= at).find_map(|block| {
        let is_around = !block.is_ended || at < block.span.range().end;
        let means = meant(block.tag.of(text), &block.word, root).filter(|_| is_around)?;
        Some((means, block.tag.range().start))
    });
    let Some((means, start)) = made else { return world.globals.find(root).map(|_| chain.to_owned()) };
    // It may begin with a name of the file again.
    let value = spelled(world, text, blocks, start, means.0, depth)?;
    Some(format!("({value}){}{rest}", means.1))
}

/// The list of the query that is written at a place, and where its tag begins.
fn queried(text: &str, at: usize) -> Option<(&str, usize)> {
    let open = text[..at].rfind("+{").or_else(|| text[..at].rfind('\n'))?;
    let before = &text[open..at];
    let part = PARTS.iter().filter_map(|word| Some((before.find(&format!(" {word} "))?, *word))).min()?.0;
    let head = &before[..part];
    let start = [" in ", "= ", "("].iter().filter_map(|mark| Some(head.rfind(mark)? + mark.len())).max()?;
    Some((head[start..].trim(), open))
}

/// The words with which the parts of a query begin.
const PARTS: &[&str] = &["where", "order", "group", "limit", "offset", "select"];

/// What a tag says that a name is: a value, and what comes behind it.
fn meant<'t>(tag: &'t str, word: &str, name: &str) -> Option<(&'t str, &'static str)> {
    let inside = tag.strip_prefix("+{")?.strip_suffix('}')?.trim().strip_prefix(word)?.trim_start();
    let behind = inside.strip_prefix(name)?.trim_start();
    match word {
        "each" => {
            let list = behind.strip_prefix("in")?.strip_prefix(char::is_whitespace)?;
            Some((list.trim(), ".first"))
        }
        "let" => Some((behind.strip_prefix('=')?.trim(), "")),
        _ => None,
    }
}
