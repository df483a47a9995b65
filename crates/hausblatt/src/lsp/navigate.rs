//! Where something is defined, and where it is used.

use std::path::Path;

use hausblatt_core::change::rename::{Named, definitions, links_in, named_at, next_of, renamable, uses};
use hausblatt_core::world::World;
use hausblatt_lang::program::Meaning;
use hausblatt_lang::text::source::{Place, Span};
use serde_json::{Value, json};

use crate::lsp::outline::matching;
use crate::lsp::positions::{Columns, range, uri_of};
use crate::lsp::sites::{Asked, Loaded};

/// The location of a place, as editors want it.
pub fn location(asked: &Asked, root: &Path, place: &Place, columns: Columns) -> Option<Value> {
    let node = asked.loaded.snapshot.file(&place.path)?;
    let text = node.whole_text().unwrap_or_else(|_| "".into());
    Some(json!({ "uri": uri_of(&root.join(&*place.path))?, "range": range(&text, place.span, columns) }))
}

/// The places of a name that a file makes itself.
fn own(world: &World, path: &str, slot: u16) -> Vec<(Place, bool)> {
    let units = world.library.units.iter().filter(|unit| *unit.path == *path);
    let words = units.filter_map(|unit| unit.program.as_ref()).flat_map(|program| &*program.words);
    let places = words.filter_map(|word| match word.meaning {
        Meaning::Own(_, other) if other == slot => Some((word.span, false)),
        Meaning::Made(_, other) if other == slot => Some((word.span, true)),
        _ => None,
    });
    places.map(|(span, is_made)| (Place { path: path.into(), span }, is_made)).collect()
}

/// Where the name at a place is defined; of several files the nearest first.
pub fn definition(asked: &Asked, root: &Path, columns: Columns) -> Value {
    let Some(world) = asked.world() else { return Value::Null };
    let Some(named) = named_at(world, &asked.path, asked.at) else { return Value::Null };
    let places: Vec<Place> = match &named.named {
        Named::Known(typed) => definitions(world, typed),
        Named::Own(_, slot) => {
            let all = own(world, &asked.path, *slot);
            all.into_iter().filter(|(_, is_made)| *is_made).map(|(place, _)| place).collect()
        }
        Named::Next => next_of(world, &asked.path).into_iter().collect(),
        Named::Global(_) | Named::Member(..) => Vec::new(),
    };
    json!(places.iter().filter_map(|place| location(asked, root, place, columns)).collect::<Vec<_>>())
}

/// What a place has to do with a name.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Tie {
    /// It uses it.
    Uses,
    /// It makes it.
    Makes,
    /// It may mean it: its name is computed while pages are rendered.
    MayMean,
}

/// All places of what is named at a place, in their order.
fn places(asked: &Asked) -> Vec<(Place, Tie)> {
    let Some(world) = asked.world() else { return Vec::new() };
    let Some(named) = named_at(world, &asked.path, asked.at) else { return Vec::new() };
    match &named.named {
        Named::Known(typed) => {
            let uses = uses(world, typed);
            let made = definitions(world, typed).into_iter().map(|place| (place, Tie::Makes));
            let uncertain = uses.uncertain.into_iter().map(|(place, _)| (place, Tie::MayMean));
            let used = uses.certain.into_iter().map(|place| (place, Tie::Uses));
            let all = made.chain(used).chain(uncertain).filter(|(place, _)| place.span != Span::default());
            let mut places: Vec<(Place, Tie)> = all.collect();
            places.sort_by(|(a, _), (b, _)| a.cmp(b));
            places.dedup_by(|(a, _), (b, _)| {
                a.path == b.path && (a.span == b.span || covers(a.span, b.span) || covers(b.span, a.span))
            });
            places
        }
        Named::Own(_, slot) => {
            let tie = |is_made: bool| if is_made { Tie::Makes } else { Tie::Uses };
            own(world, &asked.path, *slot).into_iter().map(|(place, is_made)| (place, tie(is_made))).collect()
        }
        _ => Vec::new(),
    }
}

fn covers(outer: Span, inner: Span) -> bool {
    outer.range().start <= inner.range().start && inner.range().end <= outer.range().end
}

/// Where the name at a place is used; and those places, in words, of which that is not certain.
pub fn references(asked: &Asked, root: &Path, columns: Columns) -> (Value, Option<String>) {
    let all = places(asked);
    let locations: Vec<Value> = all.iter().filter_map(|(place, _)| location(asked, root, place, columns)).collect();
    let uncertain: Vec<&Place> = all.iter().filter(|(_, tie)| *tie == Tie::MayMean).map(|(place, _)| place).collect();
    let lines: Vec<String> = uncertain
        .iter()
        .map(|place| {
            let text = asked.loaded.snapshot.file(&place.path).and_then(|node| node.whole_text().ok());
            let line = text.map_or(0, |text| range(&text, place.span, columns).start.line + 1);
            format!("{}:{line}", place.path)
        })
        .collect();
    let told = match lines.as_slice() {
        [] => None,
        [one] => Some(format!("{one} may mean it: its name is computed while pages are rendered")),
        all => Some(format!("{} may mean it: their names are computed while pages are rendered", all.join(", "))),
    };
    (json!(locations), told)
}

/// The same in this file alone; of a tag that belongs to a block, all tags of the block.
pub fn highlights(asked: &Asked, columns: Columns) -> Value {
    let tags = matching(asked).into_iter().map(|span| (Place { path: asked.path.as_str().into(), span }, Tie::MayMean));
    let own = places(asked).into_iter().filter(|(place, _)| *place.path == *asked.path).chain(tags);
    // Kinds of the protocol: a text, a place that reads, a place that writes.
    let kind = |tie: Tie| match tie {
        Tie::MayMean => 1,
        Tie::Uses => 2,
        Tie::Makes => 3,
    };
    json!(
        own.map(|(place, tie)| json!({ "range": range(&asked.text, place.span, columns), "kind": kind(tie) }))
            .collect::<Vec<_>>()
    )
}

/// The names of a file that lead to other files.
pub fn links(asked: &Asked, root: &Path, columns: Columns) -> Value {
    let Some(world) = asked.world() else { return json!([]) };
    let link = |(span, place): (Span, Place)| {
        let target = uri_of(&root.join(&*place.path))?;
        Some(json!({ "range": range(&asked.text, span, columns), "target": target, "tooltip": *place.path }))
    };
    json!(links_in(world, &asked.path).into_iter().filter_map(link).collect::<Vec<_>>())
}

/// So many names are found at most.
const MOST_FOUND: usize = 200;

/// What has a name in a site, if the query is part of it.
pub fn named(loaded: &Loaded, root: &Path, query: &str, columns: Columns) -> Vec<Value> {
    let Ok(world) = &loaded.world else { return Vec::new() };
    let query = query.to_lowercase();
    let files = world.lineage.ids().filter(|(_, file)| file.name.to_lowercase().contains(&query));
    let files =
        files.map(|(_, file)| (file.name.to_string(), Place { path: file.node.path.clone(), span: Span::default() }));
    let known = renamable(world).into_iter().filter(|typed| typed.to_lowercase().contains(&query));
    let known = known.filter_map(|typed| Some((typed.clone(), definitions(world, &typed).into_iter().next()?)));
    let symbol = |(name, place): (String, Place)| {
        let text = loaded.snapshot.file(&place.path)?.whole_text().unwrap_or_else(|_| "".into());
        let location = json!({ "uri": uri_of(&root.join(&*place.path))?, "range": range(&text, place.span, columns) });
        // A key of the protocol.
        Some(json!({ "name": name, "kind": 20, "location": location }))
    };
    files.chain(known).filter_map(symbol).take(MOST_FOUND).collect()
}
