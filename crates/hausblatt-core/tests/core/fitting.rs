//! What fits at a place, what makes a name known, and which names lead to other files: over every byte of the demo's files, and
//! held against what is there.

use hausblatt_core::change::changes::changed;
use hausblatt_core::change::fitting::{Wanted, in_front_matter, in_toml};
use hausblatt_core::change::remedies::remedies;
use hausblatt_core::change::rename::{links_in, next_of};
use hausblatt_core::check::codes;
use hausblatt_core::world::World;
use hausblatt_lang::edit::quotes::other_quotes;

use crate::support;

fn demo() -> World {
    World::load(support::snapshot(&support::demo()), support::asking()).map_err(|_| "the demo").unwrap()
}

/// The text files of a World that are written in by hand.
fn texts(world: &World) -> Vec<(String, String)> {
    let all = world.snapshot.below("").filter(|node| {
        [".html", ".xml", ".json", ".txt", ".let", ".md", ".toml"].iter().any(|ending| node.path.ends_with(ending))
    });
    all.filter_map(|node| Some((node.path.to_string(), node.whole_text().ok()?.to_string()))).collect()
}

#[test]
fn at_every_byte_something_fits_or_nothing_and_what_is_there_is_among_it() {
    let world = demo();
    let codes = codes();
    let (mut places, mut known) = (0, 0);
    for (path, text) in texts(&world) {
        for at in (0..=text.len()).filter(|at| text.is_char_boundary(*at)) {
            let found = match path.ends_with(".toml") {
                true => in_toml(&world, &path, &text, at, &codes),
                false => in_front_matter(&world, &path, &text, at),
            };
            let Some(found) = found else { continue };
            places += 1;
            assert!(found.span.range().end == at && !found.names.is_empty(), "{path}:{at}");
            // At the end of a word that is written, this word fits.
            let next = text[at..].chars().next().unwrap_or(' ');
            let is_end = !next.is_alphanumeric() && !matches!(next, '_' | '-' | ':' | '/' | '.');
            let written = found.span.of(&text);
            let is_value = matches!(found.what, Wanted::Text(true) | Wanted::Bare) && !written.is_empty();
            if is_end && is_value && found.names.iter().any(|(name, _)| name == written) {
                known += 1;
            }
        }
    }
    assert!(places > 3000 && known > 100, "{places} places, {known} known");
}

#[test]
fn links_lead_to_files_that_are_there_and_cover_the_names_that_are_written() {
    let world = demo();
    let (mut count, mut calls) = (0, 0);
    for (path, text) in texts(&world) {
        let links = links_in(&world, &path);
        for (span, place) in &links {
            assert!(world.snapshot.file(&place.path).is_some(), "{path} → {}", place.path);
            let written = span.of(&text);
            let is_next = next_of(&world, &path).is_some_and(|next| next.path == place.path);
            let mut names =
                written.split(['/', ':']).map(|name| name.split('.').next().unwrap()).filter(|name| !name.is_empty());
            assert!(
                is_next || names.any(|name| place.path.contains(name)) || written.starts_with('/'),
                "{path}: {written} → {}",
                place.path
            );
            count += 1;
        }
        // Found by hand: each partial that is called by a name in quotes; one that ends in a slash is computed.
        for (at, _) in text.match_indices("+{partial \"") {
            let name = &text[at + 11..at + 11 + text[at + 11..].find('"').unwrap()];
            if name.ends_with('/') {
                continue;
            }
            calls += 1;
            assert!(
                links.iter().any(|(span, _)| span.range().start == at + 11 && span.of(&text) == name),
                "{path}: {name}"
            );
        }
    }
    assert!(count > 60 && calls > 20, "{count} links, {calls} calls");
}

#[test]
fn nothing_is_made_known_that_is_known() {
    let world = demo();
    for (path, text) in texts(&world) {
        for at in (0..text.len()).step_by(3).filter(|at| text.is_char_boundary(*at)) {
            let found = remedies(&world, &path, at);
            assert!(found.is_empty(), "{path}:{at} {found:?}");
        }
    }
}

#[test]
fn what_is_made_known_is_reported_no_more() {
    let world = demo();
    let page = "themes/loam/templates/page.html";
    for (text, at) in [
        ("+{partial \"card\" given entry = content, bed = 1}", "bed"),
        ("+{partial \"footer\" given bed = 1}", "bed"),
        ("+{partial \"beds/wide\" given bed = 1, row = 2}", "wide"),
        ("+{partial \"bed\"}", "bed"),
        ("+{content.harvest}", "harvest"),
        ("+{varieties.first.harvest}", "harvest"),
        ("+{workshops.first.harvest}", "harvest"),
        ("+{settings.harvest}", "harvest"),
    ] {
        let snapshot = world.snapshot.with(page, Some(text));
        let before = World::load(snapshot.clone(), support::asking()).map_err(|_| "before").unwrap();
        let reported = |world: &World| {
            world
                .problems
                .iter()
                .filter(|problem| problem.place.as_ref().is_some_and(|place| *place.path == *page))
                .count()
        };
        assert_eq!(reported(&before), 1, "{text}");
        let found = remedies(&before, page, text.find(at).unwrap() + 1);
        assert_eq!(found.len(), 1, "{text}: {found:?}");
        let after = World::load(changed(&snapshot, &found[0].writes), support::asking()).map_err(|_| "after").unwrap();
        assert_eq!(reported(&after), 0, "{text}: {}", found[0].title);
        let others = |world: &World| world.problems.len() - reported(world);
        assert_eq!(others(&after), others(&before), "{text}");
    }
}

#[test]
fn what_is_added_leaves_every_other_byte_as_it_is() {
    let world = demo();
    let page = "themes/loam/templates/page.html";
    let card = "themes/loam/partials/card.html";
    let of = |path: &str| world.snapshot.file(path).unwrap().whole_text().unwrap().to_string();
    let crlf = of("hausblatt.toml").replace('\n', "\r\n");
    let call = "+{partial \"card\" given bed = 1}";
    for (file, text, written, at) in [
        ("hausblatt.toml", crlf.as_str(), "+{varieties.first.harvest}", "harvest"),
        (card, "---\r\ntakes:\r\n  a: 1\r\n---\r\n+{a}", call, "bed"),
        // Ends of lines are mixed, and what follows is no single byte.
        (card, "---\n\u{fc}: 1\n---\n\r\n", call, "bed"),
        (card, "---\nabout: \u{fc}\r\n---\r\n", call, "bed"),
        (card, "---\ntakes: { a: \"\u{1f600}\" }\n---\n+{a}", call, "bed"),
    ] {
        let snapshot = world.snapshot.with(file, Some(text)).with(page, Some(written));
        let before = World::load(snapshot, support::asking()).map_err(|_| "before").unwrap();
        for remedy in remedies(&before, page, written.find(at).unwrap() + 1) {
            let after = String::from_utf8(remedy.writes[0].bytes.clone().unwrap()).unwrap();
            let same = |(a, b): &(char, char)| a == b;
            let head: usize = text.chars().zip(after.chars()).take_while(same).map(|(c, _)| c.len_utf8()).sum();
            let tail = &text[head..];
            assert!(after.ends_with(tail), "{text:?} → {after:?}");
            let added = &after[head..after.len() - tail.len()];
            assert!(!added.contains('\n') || !text.contains("\r\n") || added.contains("\r\n"), "{added:?}");
        }
    }
}

#[test]
fn quotes_of_the_other_sort_mean_the_same() {
    let world = demo();
    let page = "themes/loam/templates/page.html";
    let shown = |text: &str| {
        let snapshot = world.snapshot.with(page, Some(text));
        let changed = World::load(snapshot, support::asking()).map_err(|_| "changed").unwrap();
        let found = support::pages(&changed).into_iter().find(|(address, ..)| address == "/borrow/");
        (found, changed.problems.len())
    };
    for (text, wanted) in [
        ("<a href=\"+{url(\"page:visit\")}\">x</a>", Some("+{url('page:visit')}")),
        ("<a href='+{url('page:visit')}'>x</a>", Some("+{url(\"page:visit\")}")),
        ("<a title='it' href=\"+{url(\"page:visit\") + \"#\"}\">x</a>", Some("+{url('page:visit') + '#'}")),
        // What has the other quote, or an escape, in it keeps its own.
        ("<p title=\"+{\"a\" + \"it's\" + \"\\\"\"}\">x</p>", Some("+{'a' + \"it's\" + \"\\\"\"}")),
        ("<p title=\"a+{content.title}b\" class=\"+{\"c\"}\">x</p>", Some("+{'c'}")),
        ("<a href='+{url(\"page:visit\")}'>x</a>", None),
        ("<p>+{\"a\"}</p>", None),
        ("<p>it's +{\"a\"}</p>", None),
        ("<p title=\"a\">+{\"a\"} \"</p>", None),
        ("<!-- \" -->+{\"a\"}", None),
    ] {
        let at = text.rfind("+{").unwrap() + 3;
        let found = other_quotes(text, 0, at);
        assert_eq!(found.as_ref().map(|(_, tag)| tag.as_str()), wanted, "{text}");
        let Some((span, tag)) = found else { continue };
        let changed = format!("{}{tag}{}", &text[..span.range().start], &text[span.range().end..]);
        assert_eq!(shown(&changed), shown(text), "{text}");
    }
}

#[test]
fn the_first_address_of_a_file_is_the_first_that_it_reaches() {
    let world = demo();
    for (id, file) in world.lineage.ids() {
        let fresh = World::load(world.snapshot.clone(), support::asking()).map_err(|_| "fresh").unwrap();
        let first = fresh.first_reached(id).map(|request| request.address.clone());
        let wanted = world.reach(id).next().map(|(request, _)| request.address.clone());
        assert_eq!(first, wanted, "{}", file.node.path);
        for request in world.requests().iter().step_by(17) {
            let reached = world.reach(id).any(|(other, _)| other.address == request.address);
            assert_eq!(world.takes_part(id, request), reached, "{} {}", file.node.path, request.address);
        }
    }
}
