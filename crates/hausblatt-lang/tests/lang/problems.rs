//! Templates that are wrong: where and how that is said, and that none hangs.

use crate::support::{Files, check, template};
use hausblatt_lang::render::Limits;

#[test]
fn unsafe_places_are_problems() {
    let place = |text: &str| template(text).split(" | ").next().unwrap_or("").to_owned();
    for (text, expected) in [
        ("<p class=+{wild}>", "t:1:10 unsafe-place no value is safe in the value of \"class\" without quotes"),
        ("<p +{wild}>", "t:1:4 unsafe-place no value is safe in the tag <p>, outside a quoted value"),
        ("<+{wild}>", "t:1:2 unsafe-place no value is safe in a tag's name"),
        ("<!-- +{wild} -->", "t:1:6 unsafe-place no value is safe in an HTML comment"),
        ("<script>+{wild}</script>", "t:1:9 unsafe-place no value is safe in this place of a script"),
        ("<style>+{wild}</style>", "t:1:8 unsafe-place no value is safe in a CSS selector or property"),
        (
            "<p onclick=\"+{wild}\">",
            "t:1:13 unsafe-place no value is safe in the attribute \"onclick\": it would run as a script",
        ),
        ("<a href=\"javascript:+{wild}\">", "t:1:21 unsafe-place no value is safe after \"javascript:\""),
        ("<a href=\"java&#115;cript&colon;+{wild}\">", "t:1:32 unsafe-place no value is safe after \"javascript:\""),
        (
            "<meta http-equiv=\"refresh\" content=\"+{wild}\">",
            "t:1:37 unsafe-place no value is safe in the content of a meta with http-equiv",
        ),
        ("<title></+{wild}</title>", "t:1:10 unsafe-place no value is safe directly after \"<\" here"),
        (
            "<script><!--<script></script>+{wild}",
            "t:1:13 script-in-comment browsers read this \"<script\" inside a comment inside a script in two ways",
        ),
        ("<p class=\"x", "t:1:11 open-html the file ends inside the attribute \"class\" of <p>"),
        (
            "+{if true}<p class=\"+{else}x+{end}\">",
            "t:1:1 branches-differ one branch ends in text, the other way in the attribute \"class\" of <p>",
        ),
        ("<p class=\"+{raw 'x'}\">", "t:1:11 text-only \"raw\" can't be in the attribute \"class\" of <p>"),
        (
            "<iframe srcdoc=\"+{wild}\"></iframe>",
            "t:1:17 unsafe-place no value is safe in the attribute \"srcdoc\": it is a whole document of its own",
        ),
    ] {
        let found = place(text);
        assert_eq!(found.lines().next().unwrap_or(""), expected, "{text}");
    }
}

#[test]
fn a_browser_command_is_found_behind_its_value_too() {
    let found = template("<meta content=\"+{wild}\" http-equiv=\"refresh\">");
    assert!(found.contains("unsafe-place"), "{found}");
}

#[test]
fn problems_have_places_and_help() {
    check(&[
        ("+{sitr.title}", "t:1:3 unknown-name unknown name \"sitr\" | did you mean \"site\"?"),
        ("+{site.titel}", "t:1:8 unknown-member the site has no \"titel\" | did you mean \"title\"?"),
        (
            "+{first.titel}",
            "\nt:1:9 unknown-field no entry has or declares a field \"titel\" | did you mean \"title\"?",
        ),
        ("+{'a'.uper}", "t:1:7 unknown-member a text has no \"uper\" | did you mean \"upper\"?"),
        (
            "+{peas.title}",
            "t:1:8 unknown-member a list has no \"title\", only its members have | go through it with \"each\", or take one of them, as in .first.title",
        ),
        ("+{rnage(1, 2)}", "t:1:3 unknown-function unknown function \"rnage\" | did you mean \"range\"?"),
        ("+{range(1)}", "t:1:3 argument-count \"range\" takes 2 arguments, not 1 | write 2 values in the brackets"),
        (
            "+{peas}",
            "t:1:3 unprintable a list can't be printed | print its members with \"each\", or write .join(\", \")",
        ),
        ("+{if true}x", "t:1:1 unclosed-block this \"if\" is never ended | write +{end} or +{end if} where it ends"),
        (
            "+{end}",
            "t:1:1 stray-divider nothing is open here to end | take it out, or look for a block that was ended too early",
        ),
        (
            "+{if true}+{end each}",
            "t:1:17 mismatched-end this ends \"each\", but the innermost open block is \"if\" | end that first: +{end if} ~ t:1:1 it begins here",
        ),
        ("+{prtial 'x'}", "t:1:3 unknown-statement there is no statement \"prtial\" | did you mean \"partial\"?"),
        (
            "+{site.title",
            "t:1:1 unclosed-tag this tag is never ended | write \"}\" where it ends; to print the two characters themselves, write \"++{\"",
        ),
        ("+{1 +}", "t:1:6 bad-tag a value is missing here"),
        (
            "+{a b}\n+{(1}",
            "t:1:5 bad-tag \"b\" is not expected here | an operator may be missing in front of it\nt:2:5 bad-tag \")\" is missing before the end of the tag",
        ),
        (
            "+{if first = 1}+{end}",
            "t:1:12 bad-tag \"=\" names a value; it does not compare | write \"==\" to compare two values",
        ),
        (
            "+{let if = 1}",
            "t:1:7 bad-tag \"if\" is a word of the language and can't name a value | choose another name",
        ),
        (
            "+{let site = 1}",
            "t:1:7 name-taken \"site\" is a value that every file has; it can't be taken for another | choose another name",
        ),
        ("+{}", "t:1:1 empty-tag this tag is empty | a comment is written +{# … #}"),
        ("+{1 / 0}", "t:1:3 bad-value this divides by zero"),
        ("+{any.title}", "t:1:3 bad-value a number has no \"title\""),
        ("+{9223372036854775807 + 1}", "t:1:3 bad-value these can't be added: the result is too large"),
        (
            "+{it}",
            "t:1:3 unknown-name \"it\" is the member of a query, and there is no query here | it can be used after \"where\", \"group by\" and \"order by\"",
        ),
        (
            "+{let a = 1}+{if true}+{let a = 2}+{end}+{a}",
            "1\nt:1:29 let-without-effect this \"a\" ends with its block and changes nothing outside it | to choose a value, write +{let a = if A then B else C} before the block",
        ),
        (
            "+{answer 200 'x'}",
            "t:1:10 bad-tag the status must be a number from 400 to 599 | write it as in +{answer 404 \"No such variety\"}",
        ),
        (
            "+{component 'a' + 'b'}",
            "t:1:13 computed-name a component's name must be a quoted text | write it as in +{component \"notice\"}; what content places is printed by +{tray \"main\"}",
        ),
        (
            "+{tray}",
            "t:1:7 bad-tag a tray is named by a quoted text, not the end of the tag | write it as in +{tray \"main\"}",
        ),
        (
            "<p title=\"+{tray 'main'}\">",
            "t:1:11 text-only \"tray\" can't be in the attribute \"title\" of <p> | it belongs in text only, between tags",
        ),
        (
            "<p id=\"+{'x'}\">",
            "<p id=\"x\">\nt:1:8 bare-id this id is made of a value alone, which can name anything on the page | put a literal prefix in front of the value",
        ),
        ("+{1 < 2 < 3}", "t:1:9 bad-tag comparisons can't be chained | join two of them with \"and\""),
    ]);
}

#[test]
fn nothing_hangs_or_exhausts() {
    let doubling = format!("+{{let s = 'xxxxxxxx'}}{}+{{s}}", "+{let s = s + s}".repeat(40));
    assert_eq!(template(&doubling).split(' ').nth(1), Some("too-large"));
    let loops = "+{each a in range(1, 100000)}+{each b in range(1, 100000)}+{end}+{end}";
    assert_eq!(template(loops).split(' ').nth(1), Some("too-many-steps"));
    let itself = Files::new(&[("t", "+{partial 'card'}"), ("card", "x\n+{partial 'card'}")]);
    assert_eq!(
        itself.run(),
        "card:2:11 too-deep calls nest more than 64 deep here | a file that calls itself needs an \"if\" that ends it"
    );
    for value in [
        "range(1, 900000000) has 0",
        "0 in range(1, 900000000)",
        "range(1, 900000000).sum",
        "range(1, 900000000).reverse.first",
        "range(1, 900000000).join('')",
        "(range(1, 900000000) + [1]).count",
        "range(1, 900000000) == range(1, 900000000)",
        "(range(1, 900000000) where true).count",
        "(range(1, 40000000) where true).count",
        "(range(1, 4000000) + [1]).count",
    ] {
        let mut files = Files::new(&[("t", &format!("+{{{value}}}"))]);
        files.limits = Limits { steps: 3_000_000, bytes: 8 << 20, ..Limits::default() };
        let found = files.run();
        let code = found.split(' ').nth(1);
        assert!(matches!(code, Some("too-many-steps" | "too-large")), "{value}: {found}");
    }
    for kept in [
        "+{let x with}+{s}+{end}",
        "+{partial 'card' with}+{s}+{end}",
        "+{partial 'card' with}+{into 'a'}+{s}+{end}+{end}",
        "+{let x with}+{s}+{s}+{s}+{end}+{x.text.length}",
    ] {
        let text = format!(
            "+{{let s = 'xxxxxxxx'}}{}+{{each a in range(1, 1000)}}{kept}+{{end}}",
            "+{let s = s + s}".repeat(17)
        );
        let found = Files::new(&[("t", &text), ("card", "+{slot 'a'}")]).run();
        assert_eq!(found.split(' ').nth(1), Some("too-large"), "{kept}: {} bytes", found.len());
    }
    let printing = format!("+{{let s = 'xxxxxxxx'}}{}{}", "+{let s = s + s}".repeat(21), "+{s}".repeat(500));
    assert_eq!(template(&printing).split(' ').nth(1), Some("too-large"));
    let mut small = Files::new(&[("t", "+{each a in range(1, 1000)}0123456789+{end}")]);
    small.limits = Limits { bytes: 5000, ..Limits::default() };
    assert_eq!(small.run().split(' ').nth(1), Some("too-large"));
    for deep in [
        "(".repeat(5000),
        "-".repeat(5000),
        "not ".repeat(5000),
        "[".repeat(5000),
        "1+".repeat(5000) + "1",
        "a.b".repeat(5000),
    ] {
        assert!(template(&format!("+{{{deep}}}")).starts_with("t:1:"));
    }
    let value = format!("{}1{}", "(".repeat(90), ")".repeat(90));
    let deepest = format!("{}+{{partial 'card' given x = {value}}}{}", "+{if true}".repeat(98), "+{end}".repeat(98));
    let card = format!(
        "{}+{{if x < 60}}+{{partial 'card' given x = x + {value}}}+{{end}}{}",
        "+{if true}".repeat(97),
        "+{end}".repeat(97)
    );
    assert_eq!(Files::new(&[("t", &deepest), ("card", &card)]).takes("card", &["x"]).run(), "");
    let blocks = "+{if true}".repeat(5000);
    assert!(template(&blocks).contains("too-deep"));
}

#[test]
fn operators_say_what_they_cannot_do() {
    let said = |value: &str| {
        template(&format!("+{{{value}}}")).split_once("value ").map_or(String::new(), |(_, words)| words.to_owned())
    };
    for (value, words) in [
        ("'a' * 2", "a text and a number can't be multiplied"),
        ("'a' - 'b'", "a text and a text can't be subtracted"),
        ("[1] * 2", "a list and a number can't be multiplied"),
        ("first - 1", "a record and a number can't be subtracted"),
        ("true + true", "true and true can't be added"),
        ("[1] + 2", "a list and a number can't be added"),
        (
            "1 < 'a'",
            "a number and a text have no order | a text becomes a number with .number; a number is written without quotes",
        ),
        ("[1] < [2]", "a list and a list have no order"),
        ("first.sown < 3", "a date and a number have no order | ask a part of the date, as in .year"),
        ("1 % 0", "this divides by zero"),
        ("1 / 0.0", "this divides by zero"),
        ("-'a'", "a text can't be negated"),
        ("3 has 1", "a number can't have a number in it"),
        (
            "'abc' has 1",
            "a text can't have a number in it | a text becomes a number with .number; a number is written without quotes",
        ),
        ("9223372036854775807 * 2", "these can't be multiplied: the result is too large"),
        ("first.sown + 99999999999", "these can't be moved: the result is too large"),
        ("'a'.words(-1)", "a whole number from 0 up is needed here, not -1"),
        ("'a'.replace('', 'b')", "an empty text can't be replaced"),
        ("'a'.split('').count", "a text can't be split by an empty text"),
        ("'a'.starts(1)", "a text is needed here, not a number"),
        ("['a', 1].sum", "only numbers have a sum, and this list holds a text"),
        ("range(1, 'x').count", "range needs two whole numbers"),
        ("range(1, 9000000000).count", "a range can't be longer than 1000000000"),
        ("url(3)", "a text is needed here, not a number"),
        ("3[1]", "a number can't be taken from a number"),
        ("[1]['a']", "a text can't be taken from a list"),
    ] {
        assert_eq!(said(value), words, "{value}");
    }
}

#[test]
fn what_can_never_be_so() {
    let never = "t:1:3 pointless-comparison";
    let number = "a text becomes a number with .number; a number is written without quotes";
    for (value, expected) in [
        ("first.title == 75", format!("{never} a text never equals a number | {number}")),
        ("first.days != '75'", format!("{never} a number never equals a text | {number}")),
        ("first.families has 3", format!("{never} this is a number, and the members of the list are texts | {number}")),
        ("3 in first.families", format!("{never} this is a number, and the members of the list are texts | {number}")),
        ("first.sown == true", format!("{never} a date never equals true or false")),
        (
            "first.sown == '2026-03-01'",
            format!("{never} a date never equals a text | a text becomes a date with .date, as in \"2026-03-14\".date"),
        ),
        (
            "first.sown.format('dd.mm.yyyy')",
            "t:1:21 pattern-without-date the pattern \"dd.mm.yyyy\" prints no part of the date | its parts begin with %, as in \"%-d %B %Y\" or \"%Y-%m-%d\"".to_owned(),
        ),
        // What is not known is not judged, and what is nothing equals nothing.
        ("any == 'x'", String::new()),
        ("first.title == nothing", String::new()),
        ("first.title == (if any then 1 else 'x')", String::new()),
        ("first.sown == first.sown + 1", String::new()),
        ("first.sown.format('%d')", String::new()),
    ] {
        assert_eq!(Files::new(&[("t", &format!("+{{{value}}}"))]).page().1, expected, "{value}");
    }
}
