//! Values of front matter and TOML changed by machine: what is meant changes, and no other byte does.

use hausblatt_core::text::data::Data;
use hausblatt_core::text::data_change::{DataChange, DataPath};
use hausblatt_core::text::{front, toml_change};
use proptest::prelude::*;

fn value(yaml: &str) -> Data {
    front::yaml(yaml).unwrap()
}

/// A change as it is typed: `set KEY YAML`, `clear KEY`, `add KEY YAML`, `move KEY NUMBER`.
fn change(typed: &str) -> (DataPath, DataChange) {
    let (verb, rest) = typed.split_once(' ').unwrap();
    let (key, value_text) = rest.split_once(' ').unwrap_or((rest, ""));
    let change = match verb {
        "set" => DataChange::Set(value(value_text)),
        "add" => DataChange::Add(value(value_text)),
        "move" => DataChange::Move(value_text.parse().unwrap()),
        _ => DataChange::Clear,
    };
    (DataPath::parse(key).unwrap(), change)
}

#[track_caller]
fn yaml(text: &str, typed: &str, expected: &str) {
    let (path, change) = change(typed);
    assert_eq!(front::changed(text, path.steps(), &change).as_deref(), Ok(expected), "{typed}");
}

const VISIT: &str = "---
title: Visit us
# Where the gate is.
trays:
  main:
    - component: notice   # first
      text: The gate is on the lane.
      tone: calm

    # The two beds.
    - component: split-panel
      heading: Two beds, one path
      picture: { file: /media/beds.svg, alt: Two garden beds }
  aside:
    - component: notice
order: 3
---
Come in.
";

#[test]
fn front_matter_is_changed_at_one_place() {
    let with = |from: &str, to: &str| VISIT.replacen(from, to, 1);
    yaml(VISIT, "set tagline Mind the step", &with("---\nCome", "tagline: Mind the step\n---\nCome"));
    yaml(VISIT, "set title \"A: b\"", &with("Visit us", "\"A: b\""));
    yaml(VISIT, "set order 4", &with("order: 3", "order: 4"));
    yaml(VISIT, "clear order", &with("order: 3\n", ""));
    yaml(VISIT, "clear nothing", VISIT);
    yaml(VISIT, "set trays.main.1.text Closed", &with("The gate is on the lane.", "Closed"));
    yaml(VISIT, "set trays.main.1.component panel", &with("notice   # first", "panel   # first"));
    yaml(VISIT, "set trays.main.2.picture.alt Beds", &with("Two garden beds", "Beds"));
    yaml(VISIT, "clear trays.main.2.picture.alt", &with(", alt: Two garden beds }", " }"));
    yaml(VISIT, "set trays.main.1.level 2", &with("tone: calm\n", "tone: calm\n      level: 2\n"));
    yaml(VISIT, "clear trays.main.1.tone", &with("      tone: calm\n", ""));
    yaml(
        VISIT,
        "add trays.aside {component: notice, text: Hello}",
        &with("order: 3", "    - component: notice\n      text: Hello\norder: 3"),
    );
    yaml(VISIT, "add trays.aside.1 {component: map}", &with("  aside:\n", "  aside:\n    - component: map\n"));
    yaml(VISIT, "add trays.foot {component: map}", &with("order: 3", "  foot:\n    - component: map\norder: 3"));
    yaml(VISIT, "clear trays.aside.1", &with("  aside:\n    - component: notice\n", ""));
    yaml(
        VISIT,
        "clear trays.main.1",
        &with("    - component: notice   # first\n      text: The gate is on the lane.\n      tone: calm\n", ""),
    );
    let moved = "  main:
    # The two beds.
    - component: split-panel
      heading: Two beds, one path
      picture: { file: /media/beds.svg, alt: Two garden beds }

    - component: notice   # first
      text: The gate is on the lane.
      tone: calm
  aside:";
    let start = VISIT.find("  main:").unwrap();
    let end = VISIT.find("  aside:").unwrap() + "  aside:".len();
    let expected = format!("{}{moved}{}", &VISIT[..start], &VISIT[end..]);
    yaml(VISIT, "move trays.main.2 1", &expected);
    yaml(VISIT, "move trays.main.1 2", &expected);
    yaml(
        VISIT,
        "set trays.main.1.text \"One\\n\\nTwo\\n\"",
        &with("text: The gate is on the lane.", "text: |\n        One\n\n        Two"),
    );
    // What begins without front matter gets some, with the line breaks of the file.
    yaml("Come in.\r\n", "set title Visit", "---\r\ntitle: Visit\r\n---\r\nCome in.\r\n");
    yaml(
        "---\r\na: 1\r\n---\r\nx",
        "add trays.main {component: a, b: 2}",
        "---\r\na: 1\r\ntrays:\r\n  main:\r\n    - component: a\r\n      b: 2\r\n---\r\nx",
    );
    yaml("---\na: [1, 2]\n---\n", "add a 3", "---\na: [1, 2, 3]\n---\n");
    yaml("---\na: [1, 2] # two\n---\n", "move a.2 1", "---\na: [2, 1] # two\n---\n");
    yaml("---\na:\n- b\n- c\n---\n", "add a d", "---\na:\n- b\n- c\n- d\n---\n");
    yaml("---\na:\n- b\n- c\n---\n", "set a.2 \"x: y\"", "---\na:\n- b\n- \"x: y\"\n---\n");
    yaml("---\na: one\nb: |\n  two\n  lines\nc: 1\n---\n", "set b three", "---\na: one\nb: three\nc: 1\n---\n");
    yaml("---\na: one # why\n---\n", "set a \"two\\nlines\"", "---\na: |- # why\n  two\n  lines\n---\n");
    yaml("---\na:\nb: 1\n---\n", "set a x", "---\na: x\nb: 1\n---\n");
}

#[test]
fn what_can_not_be_changed_is_refused() {
    let why = |text: &str, typed: &str| {
        let (path, change) = change(typed);
        format!("{:?}", front::changed(text, path.steps(), &change).unwrap_err())
    };
    for (typed, expected) in [
        ("set trays.main.3.text x", "trays.main has only 2 members"),
        ("clear trays.main.0", "positions count from 1"),
        ("move trays.main.1 3", "trays.main has only 2 members"),
        ("set title.x y", "title is a text, and has no \\\"x\\\""),
        ("add title x", "title is a text, and not a list"),
        ("set trays.main.first x", "trays.main is a list, so that \\\"first\\\" must be a position in it"),
    ] {
        let found = why(VISIT, typed);
        assert!(found.contains(expected), "{typed}: {found}");
    }
    assert!(why("---\na: [b\n---\n", "set a c").starts_with("Faulty"));
    // A comment that would be lost.
    assert_eq!(why("---\na: [1,\n  # one\n  2]\n---\n", "add a 3"), "Unsafe");
}

#[track_caller]
fn toml(text: &str, typed: &str, expected: &str) {
    let (path, change) = change(typed);
    assert_eq!(toml_change::changed(text, path.steps(), &change).as_deref(), Ok(expected), "{typed}");
}

const SITE: &str = r#"# The library.
[site]
title = "Seeds"   # the name

[settings]           # of the themes
# What is printed at the foot.
motto = "Borrow"     # in spring
gate  = true

[menus]
main = [
  { to = "page:visit", children = [ { to = "page:a" }, { to = "page:b" } ] },   # first
  # The second.
  { to = "page:borrow" }
]
foot = [{ to = "page:a" }, { to = "page:b" }]
"#;

#[test]
fn toml_is_changed_at_one_place() {
    let with = |from: &str, to: &str| SITE.replacen(from, to, 1);
    toml(SITE, "set settings.motto Lend", &with("\"Borrow\"", "\"Lend\""));
    toml(SITE, "set settings.gate false", &with("true", "false"));
    toml(SITE, "clear settings.motto", &with("motto = \"Borrow\"     # in spring\n", ""));
    toml(SITE, "set settings.tone calm", &with("gate  = true\n", "gate  = true\ntone = \"calm\"\n"));
    toml(SITE, "set front.page visit", &format!("{SITE}\n[front]\npage = \"visit\"\n"));
    toml(
        SITE,
        "set menus.main.2.label Borrowing",
        &with("{ to = \"page:borrow\" }", "{ to = \"page:borrow\" , label = \"Borrowing\" }"),
    );
    toml(
        SITE,
        "add menus.main {to: page:c}",
        &with("{ to = \"page:borrow\" }\n]", "{ to = \"page:borrow\" },\n  { to = \"page:c\" }\n]"),
    );
    toml(SITE, "add menus.foot.1 {to: page:c}", &with("foot = [{", "foot = [{ to = \"page:c\" }, {"));
    toml(SITE, "clear menus.foot.1", &with("foot = [{ to = \"page:a\" }, {", "foot = [{"));
    toml(
        SITE,
        "move menus.foot.2 1",
        &with("foot = [{ to = \"page:a\" }, { to = \"page:b\" }]", "foot = [{ to = \"page:b\" }, { to = \"page:a\" }]"),
    );
    toml(
        SITE,
        "move menus.main.1.children.2 1",
        &with("{ to = \"page:a\" }, { to = \"page:b\" }", "{ to = \"page:b\" }, { to = \"page:a\" }"),
    );
    let moved = r#"main = [
  # The second.
  { to = "page:borrow" },
  { to = "page:visit", children = [ { to = "page:a" }, { to = "page:b" } ] },   # first
]"#;
    let start = SITE.find("main = [").unwrap();
    let end = SITE.find("]\nfoot").unwrap() + 1;
    toml(SITE, "move menus.main.2 1", &format!("{}{moved}{}", &SITE[..start], &SITE[end..]));
    toml(
        "[[menus.main]]\nto = \"a\"\n[[menus.main]]\nto = \"b\"\n",
        "move menus.main.2 1",
        "[[menus.main]]\nto = \"b\"\n[[menus.main]]\nto = \"a\"\n",
    );
}

#[test]
fn toml_keeps_its_line_breaks_and_its_byte_order_mark() {
    let typed = [
        ("set settings.motto Lend", "\"Borrow\"", "\"Lend\""),
        ("set settings.tone calm", "gate  = true\n", "gate  = true\ntone = \"calm\"\n"),
        ("clear settings.motto", "motto = \"Borrow\"     # in spring\n", ""),
        (
            "add menus.main {to: page:c}",
            "{ to = \"page:borrow\" }\n]",
            "{ to = \"page:borrow\" },\n  { to = \"page:c\" }\n]",
        ),
        (
            "move menus.foot.2 1",
            "{ to = \"page:a\" }, { to = \"page:b\" }]\n",
            "{ to = \"page:b\" }, { to = \"page:a\" }]\n",
        ),
    ];
    for (typed, from, to) in typed {
        assert!(SITE.contains(from), "{from}");
        let new = SITE.replacen(from, to, 1);
        for (start, line_break) in [("\u{feff}", "\n"), ("", "\r\n"), ("\u{feff}", "\r\n")] {
            let with = |text: &str| format!("{start}{}", text.replace('\n', line_break));
            toml(&with(SITE), typed, &with(&new));
        }
    }
    // Both sorts of line break in one text, and none at its end.
    toml("a = 1\r\nb = 2\nc = 3\r\nd = 4", "set b 5", "a = 1\r\nb = 5\r\nc = 3\r\nd = 4");
    toml("a = 1\r\nb = 2\nc = 3\r\nd = 4", "set d 5", "a = 1\r\nb = 2\nc = 3\r\nd = 5");
    toml("a = 1\nb = 2", "set c 3", "a = 1\nb = 2\nc = 3");
    toml("", "set a 1", "a = 1\n");
    toml("\u{feff}", "set a 1", "\u{feff}a = 1\n");
    // Line feeds that belong to the value.
    toml("a = 1\r\nb = 2\r\n", "set a \"x\\ny\"", "a = \"\"\"\nx\ny\"\"\"\nb = 2\r\n");
}

proptest! {
    /// Whatever is there: after a change the text says what was meant, or nothing is changed.
    #[test]
    fn odd_front_matter_is_changed_well_or_not_at_all(
        lines in "((t|é)(:|: )(x #y|\"é\"|>\n  é\n|\\|\n  b|\\[a,\n é\\]|\\{a: 1\\}|# c|\n  - a: 1\n    b: 2\n  # c\n  - a|\n- x\n- - y)?(\n|\r\n| \n)){0,4}",
        typed in "(set|add|clear|move) (t|é|n)(\\.(1|2|a|b)){0,2} [12]",
    ) {
        let text = format!("---\n{lines}---\nBody\n");
        let (path, change) = change(&typed);
        if let Ok(new) = front::changed(&text, path.steps(), &change) {
            prop_assert!(new.ends_with("---\nBody\n") || new.ends_with("---\r\nBody\r\n"), "{:?}", new);
            prop_assert!(front::read(&new).problem.is_none());
            // The same again changes nothing where a value is set.
            if typed.starts_with("set") {
                prop_assert_eq!(front::changed(&new, path.steps(), &change), Ok(new.clone()));
            }
        }
    }
}
