//! References, links and addresses in the texts of a site that lead to what is renamed.

use std::collections::BTreeMap;
use std::sync::Arc;

use hausblatt_lang::text::source::Span;

use crate::change::rename::collect::{Found, bare, quoted, relative};
use crate::change::rename::names::Naming;
use crate::change::rename::thing::Thing;
use crate::files::FileNode;
use crate::text::address::{asked, encoded, joined_path};
use crate::text::markdown;
use crate::world::World;

/// The texts of a site in which anything may be named; what can't be read is for a person.
pub(super) fn texts<'w>(world: &'w World, found: &mut Found) -> Vec<(&'w Arc<FileNode>, Arc<str>)> {
    let endings = [
        ".html", ".xml", ".json", ".txt", ".let", ".css", ".js", ".mjs", ".md", ".toml", ".svg", ".csv", ".yaml",
        ".yml",
    ];
    let is_text = |path: &str| endings.iter().any(|ending| path.ends_with(ending)) && !path.contains("/.");
    let mut texts = Vec::new();
    for node in world.snapshot.files().into_iter().filter(|node| is_text(&node.path)) {
        match node.whole_text() {
            Ok(text) => texts.push((node, text)),
            // What is no text names nothing.
            Err(error) if error.kind() == std::io::ErrorKind::InvalidData => {}
            Err(error) => found.unsure(&node.path, Span::default(), format!("it can't be read: {error}")),
        }
    }
    texts
}

/// Adds the places where references lead to what is renamed.
pub(super) fn collect_references(naming: &Naming, texts: &[(&Arc<FileNode>, Arc<str>)], found: &mut Found) {
    let (from, to) = (&naming.from, &naming.to);
    let with = |words: &[&str], behind: &str| -> Vec<(String, String)> {
        words.iter().map(|word| (format!("{word}:{from}{behind}"), format!("{word}:{to}{behind}"))).collect()
    };
    let pairs = match &naming.thing {
        Thing::Page => with(&["page"], ""),
        Thing::Entry(of) => vec![(format!("entry:{of}/{from}"), format!("entry:{of}/{to}"))],
        Thing::Collection => [with(&["entry", "period"], "/"), with(&["collection", "feed"], "")].concat(),
        Thing::Taxonomy => with(&["term"], "/"),
        Thing::Term(of) => vec![(format!("term:{of}/{from}"), format!("term:{of}/{to}"))],
        Thing::Route => with(&["route"], ""),
        _ => return,
    };
    let goes_on = matches!(naming.thing, Thing::Page | Thing::Route);
    let is_name = |c: char| c.is_alphanumeric() || matches!(c, '-' | '_');
    for (node, text) in texts {
        for (old, new) in &pairs {
            for (at, _) in text.match_indices(old.as_str()) {
                let end = at + old.len();
                let before = text[..at].chars().next_back();
                let behind = text[end..].chars().next();
                let begins = !before.is_some_and(|c| is_name(c) || matches!(c, ':' | '/' | '.'));
                let ends = old.ends_with('/') || !behind.is_some_and(|c| is_name(c) || c == '/' && !goes_on);
                if begins && ends {
                    found.edits.set(&node.path, Span::new(at, end), new.clone());
                }
            }
        }
    }
}

/// Adds the places where a media file is named by its address, or by its path from the site.
pub(super) fn collect_media(naming: &Naming, texts: &[(&Arc<FileNode>, Arc<str>)], found: &mut Found) {
    for (node, text) in texts {
        for (at, folder) in text.match_indices("media/") {
            let before = text[..at].strip_suffix('/').unwrap_or(&text[..at]);
            if before.chars().next_back().is_some_and(|c| c.is_alphanumeric() || matches!(c, '-' | '_' | '.' | '/')) {
                continue;
            }
            let below = at + folder.len();
            for end in [below + quoted(before, &text[below..]), below + bare(&text[below..])] {
                let written = &text[below..end];
                if asked(&format!("/{written}")).path.trim_start_matches('/') != naming.from {
                    continue;
                }
                let is_plain = *written == naming.from && !node.path.ends_with(".css");
                let new = if is_plain { naming.to.clone() } else { encoded(&naming.to) };
                found.edits.set(&node.path, Span::new(below, end), new);
                break;
            }
        }
    }
}

/// Adds the links that content writes to content files by their paths, where one of the two moves.
pub(super) fn collect_paths(world: &World, moved: &BTreeMap<String, String>, found: &mut Found) {
    if !moved.keys().any(|path| path.starts_with("content/")) {
        return;
    }
    for content in world.site.contents.iter() {
        let path: &str = content.path();
        let new_path = moved.get(path).map_or(path, String::as_str);
        let Ok(text) = content.node.whole_text() else { continue };
        let body = text.get(content.body..).unwrap_or("");
        if !body.contains(".md") {
            continue;
        }
        for (link, range) in markdown::links(body) {
            let (target, tail) = link.split_at(link.find(['#', '?']).unwrap_or(link.len()));
            if !target.ends_with(".md") || target.contains("//") || target.contains(':') {
                continue;
            }
            let decoded = percent_encoding::percent_decode_str(target).decode_utf8_lossy();
            let is_from_site = decoded.starts_with('/') || decoded.starts_with("content/");
            let folder = if is_from_site { "" } else { path.rsplit_once('/').map_or("", |(folder, _)| folder) };
            let Some(wanted) = joined_path(folder, decoded.trim_start_matches('/')) else { continue };
            let new_target = moved.get(&wanted).unwrap_or(&wanted);
            let new = match (is_from_site, decoded.starts_with('/')) {
                (true, true) => format!("/{new_target}"),
                (true, false) => new_target.clone(),
                // What is relative stays as it is written where both sides move alike.
                _ if world.site.at_path(&wanted).is_none() => continue,
                _ if joined_path(new_path.rsplit_once('/').map_or("", |(folder, _)| folder), &decoded).as_ref()
                    == Some(new_target) =>
                {
                    continue;
                }
                _ => relative(new_path, new_target),
            };
            let new = encoded(&format!("/{new}")).trim_start_matches('/').to_owned();
            let new = if decoded.starts_with('/') { format!("/{new}") } else { new };
            if *new == *target {
                continue;
            }
            let at = body[range.clone()].rfind(target).map(|at| range.start + at);
            let at = at.or_else(|| body.find(&format!("]: {target}{tail}")).map(|at| at + "]: ".len()));
            match at {
                Some(at) => {
                    let start = content.body + at;
                    found.edits.set(path, Span::new(start, start + target.len()), new);
                }
                None => {
                    let span = Span::new(content.body + range.start, content.body + range.end);
                    found.unsure(
                        path,
                        span,
                        "this link leads to a file that moves, and is written in a way of its own",
                    );
                }
            }
        }
    }
}

/// Adds the places where the texts of a site write addresses that move, from the root.
pub(super) fn collect_addresses_of(
    texts: &[(&Arc<FileNode>, Arc<str>)],
    addresses: &BTreeMap<String, String>,
    found: &mut Found,
) {
    if addresses.is_empty() {
        return;
    }
    for (node, text) in texts {
        for (at, _) in text.match_indices('/') {
            let before = text[..at].chars().next_back();
            if before.is_some_and(|c| {
                !c.is_whitespace() && !matches!(c, '"' | '\'' | '`' | '(' | '<' | '[' | ',' | '=' | '|')
            }) {
                continue;
            }
            for end in [at + quoted(&text[..at], &text[at..]), at + bare(&text[at..])] {
                let written = text[at..end]
                    .trim_end_matches(|c| end == at + bare(&text[at..]) && matches!(c, '.' | ',' | ';' | ']'));
                // Of what is computed only the beginning is known.
                if let Some(tag) = written.find("+{") {
                    let known = asked(&written[..tag]).path;
                    if tag > 1 && addresses.keys().any(|address| address.starts_with(&known)) {
                        let span = Span::new(at, at + tag);
                        found.unsure(&node.path, span, "an address that is computed, and may be one that moves");
                    }
                    break;
                }
                let path = asked(written).path;
                let slashed = format!("{path}/");
                let new = addresses
                    .get(&path)
                    .cloned()
                    .or_else(|| addresses.get(&slashed).map(|new| new.trim_end_matches('/').to_owned()));
                if let Some(new) = new.filter(|_| written.len() > 1) {
                    // A former address stays what it was.
                    let line = text[..at].rfind('\n').map_or(0, |at| at + 1);
                    if !text[line..at].trim_start().starts_with("formerly") {
                        found.edits.set(&node.path, Span::new(at, at + written.len()), encoded(&new));
                    }
                    break;
                }
            }
        }
    }
}
