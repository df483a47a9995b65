//! What is known of a value goes along with it: a misspelt member is found wherever the value has got to.

use crate::support::Files;

const CARD: &[&str] = &["card"];

/// What is reported, or else the page.
fn told(files: &Files) -> String {
    match files.page() {
        (Some(page), report) if report.is_empty() => page,
        (_, report) => report,
    }
}

/// A template, and the partial `card` that takes `card`.
fn called(template: &str, card: &str) -> String {
    told(&Files::new(&[("t", template), ("card", card)]).takes("card", CARD))
}

#[test]
fn members_are_looked_up_behind_names_of_all_sorts() {
    let titel =
        |at: &str| format!("{at} unknown-field no entry has or declares a field \"titel\" | did you mean \"title\"?");
    for (text, column) in [
        ("+{let x = peas.first}+{x.titel}", 26),
        ("+{let x = if any then peas[0] else first}+{x.titel}", 46),
        ("+{let x = if any then first else nothing}+{x.titel}", 46),
        ("+{let x = first or peas.last}+{x.titel}", 34),
        ("+{each x in peas where it.days > 80}+{x.titel}+{end}", 41),
        ("+{each x in peas}+{each y in [x, first]}+{y.titel}+{end}+{end}", 45),
        ("+{each g in peas group by it.days}+{each x in g.items}+{x.titel}+{end}+{end}", 59),
        ("+{(peas order by it.titel).count}", 21),
        ("+{(peas as p where p.titel).count}", 22),
        ("+{(peas + [first]).first.titel}", 26),
        ("+{first[\"titel\"]}", 9),
        ("+{peas.reverse.unique.last.titel}", 28),
    ] {
        let found = Files::new(&[("t", text)]).run();
        assert_eq!(found.lines().last().unwrap(), titel(&format!("t:1:{column}")), "{text}");
    }
}

#[test]
fn counters_and_groups_have_members_of_their_own() {
    for (text, expected) in [
        (
            "+{each x, at in peas}+{at.index}+{end}",
            "t:1:27 unknown-member the counters of a loop have no \"index\" | they are number, first, last, count; in each x, at in LIST the member comes first",
        ),
        (
            "+{each x, at in peas}+{at.numbr}+{end}",
            "t:1:27 unknown-member the counters of a loop have no \"numbr\" | did you mean \"number\"?",
        ),
        (
            "+{each g in peas group by it.days}+{g.title}+{end}",
            "t:1:39 unknown-member a group has no \"title\", only \"key\" and \"items\" | ask one of its members: .items.first.title",
        ),
        (
            "+{each g in peas group by it.days}+{g.kee}+{end}",
            "t:1:39 unknown-member a group has no \"kee\", only \"key\" and \"items\" | did you mean \"key\"?",
        ),
        (
            "+{each g in peas group by it.sown}+{g.key.mont}+{end}",
            "t:1:43 unknown-member a date has no \"mont\" | did you mean \"month\"?",
        ),
        (
            "+{each x in peas}+{x.families.title}+{end}",
            "t:1:31 unknown-member a list has no \"title\" | go through a list with \"each\", or take one member with .first or [0]",
        ),
        (
            "+{peas.days}",
            "t:1:8 unknown-member a list has no \"days\", only its members have | go through it with \"each\", or take one of them, as in .first.days",
        ),
        ("+{(first.days > 1).title}", "t:1:20 unknown-member true or false has no \"title\""),
    ] {
        assert_eq!(Files::new(&[("t", text)]).run(), expected, "{text}");
    }
}

#[test]
fn calls_say_what_a_parameter_is() {
    for (template, card, expected) in [
        (
            "+{partial 'card' given card = first}",
            "+{card.titel}",
            "card:1:8 unknown-field no entry has or declares a field \"titel\" | did you mean \"title\"? ~ t:1:11 a call that gives it",
        ),
        (
            "+{partial 'card' given card = first}",
            "+{let x = card}+{x.titel}",
            "card:1:20 unknown-field no entry has or declares a field \"titel\" | did you mean \"title\"? ~ t:1:11 a call that gives it",
        ),
        (
            "+{partial 'card' given card = 'a'}",
            "+{card.title}",
            "card:1:8 unknown-member a text has no \"title\" | a text has length, upper, lower, trim, words, slug, replace, split, starts, ends, pad, date, number ~ t:1:11 a call that gives it",
        ),
        // What one of two sorts has can be asked of both.
        ("+{partial 'card' given card = first}+{partial 'card' given card = site}", "+{card.days or '-'}.", "75.-."),
        (
            "+{partial 'card' given card = first}+{partial 'card' given card = site}",
            "+{card.tille}",
            "card:1:8 unknown-field no entry has or declares a field \"tille\" | did you mean \"title\"? ~ t:1:11 a call that gives it",
        ),
        // Where one call gives what is not known, nothing is said.
        (
            "+{if false}+{partial 'card' given card = first}+{partial 'card' given card = any}+{end}-",
            "+{card.titel}",
            "-",
        ),
        (
            "+{if false}+{partial 'card' given card = first}+{partial 'card' given card = 'a'}+{end}-",
            "+{card.titel}",
            "-",
        ),
        // A partial that nothing calls is not judged.
        ("-", "+{card.titel}", "-"),
        // A value goes through a partial that calls itself.
        (
            "+{partial 'card' given card = peas}",
            "+{if card.count > 2}+{partial 'card' given card = (card limit 2)}+{end}+{card.first.titel}",
            "card:1:85 unknown-field no entry has or declares a field \"titel\" | did you mean \"title\"? ~ t:1:11 a call that gives it",
        ),
        // One that nests ever deeper comes to an end.
        (
            "+{partial 'card' given card = peas}",
            "+{if card.count > 9}+{partial 'card' given card = [card]}+{end}+{card.count}",
            "3",
        ),
    ] {
        assert_eq!(called(template, card), expected, "{template} {card}");
    }
}

#[test]
fn values_are_known_along_chains_and_in_prepare_files() {
    let through = Files::new(&[
        ("t", "+{partial 'rows' given all = peas}"),
        ("rows", "+{each one in all}+{partial 'card' given card = one}+{end}"),
        ("card", "(+{card.days})+{inherited}"),
        ("card.2", "+{card.titel}"),
    ])
    .takes("rows", &["all"])
    .takes("card", CARD)
    .takes("card.2", CARD);
    assert_eq!(
        told(&through),
        "card.2:1:8 unknown-field no entry has or declares a field \"titel\" | did you mean \"title\"? ~ card:1:15 a call that gives it"
    );
    let prepared = Files::new(&[
        ("t", "+{each one in newest}+{one.titel}+{end}"),
        ("=1", "let newest = peas limit 2"),
        ("=2", "let newest = newest + [first]"),
    ]);
    assert_eq!(
        told(&prepared),
        "t:1:28 unknown-field no entry has or declares a field \"titel\" | did you mean \"title\"?"
    );
    let nested = Files::new(&[("t", "+{deep.count}"), ("=1", "let deep = [deep]")]);
    assert_eq!(nested.run(), "1");
    let computed = Files::new(&[
        ("t", "+{each one in peas}+{partial 'card/' + one.days given card = one}+{end}"),
        ("card", "+{card.titel}"),
    ])
    .takes("card", CARD);
    assert_eq!(
        told(&computed),
        "card:1:8 unknown-field no entry has or declares a field \"titel\" | did you mean \"title\"? ~ t:1:30 a call that gives it"
    );
}

#[test]
fn what_a_site_brings_may_be_called_otherwise() {
    for text in [
        "+{let peas = 1}+{peas}",
        "+{each peas, at in [1]}+{peas}+{end}",
        "+{each x, peas in [1]}+{peas.number}+{end}",
        "+{let peas with}1+{end}+{peas}",
    ] {
        assert_eq!(Files::new(&[("t", text)]).run(), "1", "{text}");
    }
    assert_eq!(called("+{partial 'card' given card = 1}", "+{let peas = card}+{peas}"), "1");
    let prepared = Files::new(&[("t", "+{peas}"), ("=1", "let peas = 1")]);
    assert_eq!(prepared.run(), "1");
    let reserved = Files::new(&[("t", "+{let site = 1}+{each x, site in [1]}+{end}")]).run();
    assert_eq!(reserved.lines().filter(|line| line.contains("name-taken")).count(), 2, "{reserved}");
}
