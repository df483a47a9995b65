//! The escaping table, row by row, and the scanner that decides which row holds.

use std::fmt::Write;

use crate::support::{check, template};
use expect_test::expect;
use hausblatt_lang::html::place::{EscapingRow, HtmlPlace, Written, absent, attribute_place};
use proptest::prelude::*;

#[test]
fn attributes_have_their_rows() {
    use HtmlPlace::Attribute;
    #[allow(non_snake_case)]
    let Address = |row| HtmlPlace::Address(row, Written::Attribute);
    for (element, attribute, relation, place) in [
        ("a", "href", None, Address(EscapingRow::Anywhere)),
        ("area", "href", None, Address(EscapingRow::Anywhere)),
        ("link", "href", None, Address(EscapingRow::Stays)),
        ("link", "href", Some("stylesheet"), Address(EscapingRow::Stays)),
        ("link", "href", Some("icon"), Address(EscapingRow::Anywhere)),
        ("link", "href", Some("canonical icon"), Address(EscapingRow::Anywhere)),
        ("link", "href", Some("icon stylesheet"), Address(EscapingRow::Stays)),
        ("link", "href", Some(""), Address(EscapingRow::Stays)),
        ("base", "href", None, Address(EscapingRow::Stays)),
        ("use", "xlink:href", None, Address(EscapingRow::Stays)),
        ("img", "src", None, Address(EscapingRow::Image)),
        ("source", "src", None, Address(EscapingRow::Image)),
        ("video", "poster", None, Address(EscapingRow::Image)),
        ("video", "src", None, Address(EscapingRow::Anywhere)),
        ("script", "src", None, Address(EscapingRow::Stays)),
        ("iframe", "src", None, Address(EscapingRow::Stays)),
        ("embed", "src", None, Address(EscapingRow::Stays)),
        ("object", "data", None, Address(EscapingRow::Stays)),
        ("form", "action", None, Address(EscapingRow::Stays)),
        ("button", "formaction", None, Address(EscapingRow::Stays)),
        ("blockquote", "cite", None, Address(EscapingRow::Anywhere)),
        ("div", "data-src", None, Address(EscapingRow::Anywhere)),
        ("div", "data-url", None, Address(EscapingRow::Anywhere)),
        ("div", "class", None, Attribute),
        ("div", "data-note", None, Attribute),
        ("input", "value", None, Attribute),
        ("meta", "content", None, Attribute),
    ] {
        assert_eq!(attribute_place(element, attribute, relation), Ok(place), "{element} {attribute} {relation:?}");
    }
    for (element, attribute) in [
        ("p", "onclick"),
        ("p", "onanything"),
        ("iframe", "srcdoc"),
        ("a", "ping"),
        ("meta", "http-equiv"),
        ("iframe", "sandbox"),
        ("script", "type"),
        ("animate", "attributename"),
        ("set", "to"),
    ] {
        assert!(attribute_place(element, attribute, None).is_err(), "{element} {attribute}");
    }
}

#[test]
fn attributes_that_are_one_hole() {
    use hausblatt_lang::html::place::Absent;
    assert_eq!(absent("alt"), Absent::StayEmpty);
    assert_eq!(absent("checked"), Absent::Boolean);
    assert_eq!(absent("title"), Absent::LeaveOut);
    check(&[
        ("<p title='+{nothing}'>", "<p>"),
        ("<p\n  title=\"+{nothing}\"\n  lang=\"en\">", "<p\n  lang=\"en\">"),
        ("<p title = \"+{'x'}\">", "<p title = \"x\">"),
        ("<p title=\"+{''}\">", "<p title=\"\">"),
        ("<p title=\"+{nothing} \">", "<p title=\" \">"),
        ("<p TITLE=\"+{nothing}\">", "<p>"),
        ("<option selected='+{1}'>", "<option selected>"),
        ("<input value=\"+{0}\">", "<input value=\"0\">"),
        ("<a class=\"x\"title=\"+{nothing}\">", "<a class=\"x\">"),
        ("<p +{let y = 1}title=\"+{nothing}\">", "<p >"),
        ("<p +{let y = 1}title=\"+{nothing}+{'x onclick=y'}\">", "<p title=\"x onclick=y\">"),
        ("<p +{if true}class=\"+{nothing} +{'a'}\"+{end}>", "<p class=\" a\">"),
        ("<p +{if true}class=\"+{nothing}\"+{end}>", "<p >"),
    ]);
}

#[test]
fn entities_in_literal_addresses_are_read_as_browsers_read_them() {
    check(&[
        ("<a href=\"/x?a=1&amp;b=+{'2'}\">", "<a href=\"/x?a=1&amp;b=2\">"),
        ("<a href=\"/x?a=1&b=+{'2'}\">", "<a href=\"/x?a=1&amp;b=2\">"),
        ("<a href=\"&#47;x&#x2f;+{'y'}\">", "<a href=\"/x/y\">"),
        ("<a href=\"/x/+{'a'}/+{'b c'}/\">", "<a href=\"/x/a/b%20c/\">"),
        ("<a href=\"+{'/x'}+{'?y'}\">", "<a href=\"/x%3Fy\">"),
        ("<a href=\"mailto:+{'a@b.example'}\">", "<a href=\"mailto:a@b.example\">"),
        ("<a href=\"/+{if true}a?+{'b&c'}+{else}d+{end}\">", "<a href=\"/a?b%26c\">"),
        ("<a href=\"+{each x in [1, 2]}/+{x}+{end}\">", "<a href=\"/1/2\">"),
    ]);
}

/// What is said of a hole behind each of these texts.
#[test]
fn where_a_hole_stands() {
    let before = [
        "",
        "<",
        "</",
        "<p",
        "<p ",
        "<p class",
        "<p class ",
        "<p class=",
        "<p class= ",
        "<p class=x",
        "<p class=\"",
        "<p class=\"\"",
        "<p class='\" ",
        "<p/",
        "<!",
        "<!-- ",
        "<!-- -->",
        "<!--> ",
        "<!doctype ",
        "<?x ",
        "<![CDATA[ ",
        "<![CDATA[ ]]>",
        "<title>",
        "<title><b>",
        "<title></title>",
        "<textarea>",
        "<textarea></text",
        "<script>",
        "<script>x</script>",
        "<style>",
        "<xmp>",
        "<iframe>",
        "<noscript>",
        "<svg><title>",
        "< p",
        "a < b",
        "<1>",
        "</>",
        "</p ",
        "<P CLASS=\"",
        "<a href=\"javascript:",
        "<a href=\"JAVA\nSCRIPT:",
        "<a href=\"vbscript:",
        "<a href=\"data:text/html,",
        "<img alt=\"\" src=\"data:image/png;base64,",
        "<a href=\" javascript:",
    ];
    let mut out = String::new();
    for text in before {
        let found = template(&format!("{text}+{{first.title}}"));
        let first = found.lines().next().unwrap_or("");
        let short = first.split(" | ").next().unwrap_or("");
        let _ = writeln!(
            out,
            "{text:?}: {}",
            short.split_once(' ').filter(|_| short.starts_with("t:")).map_or("fine", |(_, words)| words)
        );
    }
    expect![[r#"
        "": fine
        "<": unsafe-place no value is safe in a tag's name
        "</": unsafe-place no value is safe in a tag's name
        "<p": unsafe-place no value is safe in a tag's name
        "<p ": unsafe-place no value is safe in the tag <p>, outside a quoted value
        "<p class": unsafe-place no value is safe in the tag <p>, outside a quoted value
        "<p class ": unsafe-place no value is safe in the tag <p>, outside a quoted value
        "<p class=": unsafe-place no value is safe in the value of "class" without quotes
        "<p class= ": unsafe-place no value is safe in the value of "class" without quotes
        "<p class=x": unsafe-place no value is safe in the value of "class" without quotes
        "<p class=\"": open-html the file ends inside the attribute "class" of <p>
        "<p class=\"\"": unsafe-place no value is safe in the tag <p>, outside a quoted value
        "<p class='\" ": open-html the file ends inside the attribute "class" of <p>
        "<p/": unsafe-place no value is safe in the tag <p>, outside a quoted value
        "<!": unsafe-place no value is safe in a declaration such as <!doctype>
        "<!-- ": unsafe-place no value is safe in an HTML comment
        "<!-- -->": fine
        "<!--> ": fine
        "<!doctype ": unsafe-place no value is safe in a declaration such as <!doctype>
        "<?x ": unsafe-place no value is safe in a declaration such as <!doctype>
        "<![CDATA[ ": unsafe-place no value is safe in a CDATA section
        "<![CDATA[ ]]>": fine
        "<title>": open-html the file ends inside <title>
        "<title><b>": unsafe-place no value is safe in <title> after a tag
        "<title></title>": fine
        "<textarea>": open-html the file ends inside <textarea>
        "<textarea></text": unsafe-place no value is safe directly after "<" here
        "<script>": unsafe-place no value is safe in this place of a script
        "<script>x</script>": fine
        "<style>": unsafe-place no value is safe in a CSS selector or property
        "<xmp>": unsafe-place no value is safe in <xmp>
        "<iframe>": unsafe-place no value is safe in <iframe>
        "<noscript>": fine
        "<svg><title>": open-html the file ends inside <title>
        "< p": fine
        "a < b": fine
        "<1>": fine
        "</>": fine
        "</p ": unsafe-place no value is safe in the tag <p>, outside a quoted value
        "<P CLASS=\"": open-html the file ends inside the attribute "class" of <p>
        "<a href=\"javascript:": unsafe-place no value is safe after "javascript:"
        "<a href=\"JAVA\nSCRIPT:": unsafe-place no value is safe after "javascript:"
        "<a href=\"vbscript:": unsafe-place no value is safe after "vbscript:"
        "<a href=\"data:text/html,": unsafe-place no value is safe after "data:"
        "<img alt=\"\" src=\"data:image/png;base64,": open-html the file ends inside the attribute "src" of <img>
        "<a href=\" javascript:": unsafe-place no value is safe after "javascript:"
    "#]]
    .assert_eq(&out);
}

#[test]
fn branches_and_loops_must_meet() {
    check(&[
        ("<p +{if true}class=\"a\"+{else}id=\"b\"+{end}>", "<p class=\"a\">"),
        ("<p +{each x in [1, 2]}data-x=\"a\"+{end}>", "<p  data-x=\"a\" data-x=\"a\">"),
        ("+{if true}<b>+{end}x+{if true}</b>+{end}", "<b>x</b>"),
        ("<p class=\"+{if true}a+{end}\">", "<p class=\"a\">"),
        ("<title>+{if true}a+{else}b+{end}</title>", "<title>a</title>"),
    ]);
    for (text, code) in [
        ("<p +{if true}class=\"+{end}\">", "branches-differ"),
        ("+{if true}<title>+{end}</title>", "branches-differ"),
        ("+{each x in [1]}<p class=\"+{end}\">", "branches-differ"),
        ("+{if true}<!--+{end}-->", "branches-differ"),
        ("+{let x with}<p class=\"+{end}", "open-html"),
        ("<p class=\"+{slot 'x'}\">", ""),
        ("<a href=\"+{slot 'x'}\">", "unsafe-place"),
        ("<p class=\"+{slot}\">", "text-only"),
        ("<title>+{partial 'x'}</title>", "text-only"),
        ("<title>+{inherited}</title>", "text-only"),
        ("<title></ti+{let x = 1}tle><script>+{wild}</script>", "unsafe-place"),
        ("<title></ti+{# x #}tle><script>+{wild}</script>", "unsafe-place"),
        ("<script><!-+{let x = 1}-<script></script>+{wild}", "unsafe-place"),
        ("<script><!-+{# x #}-<script></script>+{wild}", "script-in-comment"),
        ("<!+{let x = 1}-- > -->", "unsafe-place"),
        ("<+{if true}b+{else}i+{end}>", "unsafe-place"),
    ] {
        let found = template(text);
        assert!(found.contains(code), "{text}: {found}");
    }
}

#[test]
fn the_body_ends_where_browsers_end_it() {
    for (page, rest) in [
        ("<body>a</body></html>", "</body></html>"),
        ("<BODY>a</BODY ></HTML>", "</BODY ></HTML>"),
        ("<body>a</body><script>const a = '</body>';</script>", "</body><script>const a = '</body>';</script>"),
        ("<body>a</body><!-- </body> -->", "</body><!-- </body> -->"),
        ("<body><p title=\"</body>\">a", ""),
        ("<body><textarea></body></textarea>a</body>\n", "</body>\n"),
        ("a", ""),
    ] {
        assert_eq!(&page[hausblatt_lang::html::body_end(page)..], rest, "{page}");
    }
}

/// A small tokenizer of its own: the tags and attribute names of a page.
fn tags(html: &str) -> Vec<String> {
    let mut found = Vec::new();
    let mut rest = html;
    while let Some(at) = rest.find('<') {
        let tag = &rest[at + 1..];
        let mut name = String::new();
        let mut quote = None;
        let mut end = tag.len();
        for (place, c) in tag.char_indices() {
            match (c, quote) {
                ('"' | '\'', None) => quote = Some(c),
                (_, Some(open)) if c == open => quote = None,
                ('>', None) => {
                    end = place + 1;
                    break;
                }
                (_, None) => name.push(c),
                _ => {}
            }
        }
        found.push(name);
        rest = &tag[end..];
    }
    found
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(400))]

    /// With any text in its holes a page keeps its elements and attributes.
    #[test]
    fn texts_never_change_the_structure(text in "([<>\"'&/ =:\n\t`]|a|javascript:|</title>|--|\\]\\]>|&lt;|\\x00|é){1,12}") {
        let page = |text: &str| {
            let literal: String = text.chars().map(|c| format!("\\u{{{:x}}}", c as u32)).collect();
            let name = format!("\"{literal}\"");
            template(&format!("+{{let x = {name}}}<title>+{{x}}</title><p title=\"+{{x}}\" class='a +{{x}}'><a href=\"+{{x}}\">+{{x}}</a><a href='/x/+{{x}}?y=+{{x}}#+{{x}}'></a><textarea>+{{x}}</textarea><img alt=\"\" src=\"+{{x}}\">"))
        };
        let (plain, hostile) = (page("word"), page(&text));
        let only_html = |page: &str| page.split("\nt:").next().unwrap_or("").to_owned();
        prop_assert_eq!(tags(&only_html(&plain)), tags(&only_html(&hostile)), "{}", hostile);
        prop_assert!(!only_html(&hostile).to_lowercase().replace(['\t', '\n'], "").contains("href=\"javascript:"));
    }

    /// The compiler and the renderer end with an answer, whatever the text.
    #[test]
    fn no_text_is_too_strange(text in "(\\+\\{|\\}|\\{|#|\"|'|<|>|/|=|!--|-->| |\n|\\[|\\]|\\(|\\)|,|\\.|\\+|-|0|1\\.5|first|peas|it|if|then|else|end|each|in|between|none|let|with|where|order by|group by|limit|slot|into|inherited|given|partial|answer 404|raw|a|title|script|href|é|\u{0}){0,40}") {
        let _ = template(&text);
    }
}

#[test]
fn in_a_drawing_scripts_and_styles_are_read_as_tags() {
    let json = "<script type=\"application/json\">";
    let refused = |at: &str, element: &str| {
        format!(
            "t:1:{at} unsafe-place no value is safe in <{element}> of a drawing, where browsers read tags | hand the value over in a data- attribute and read it from there"
        )
    };
    for (text, expected) in [
        (format!("<svg>{json}[+{{any}}]</script></svg>"), format!("<svg>{json}[7]</script></svg>")),
        (format!("<svg>{json}<a href=\"javascript:+{{wild}}\"></a></script></svg>"), refused("58", "script")),
        ("<svg><style><a href=\"javascript:+{wild}\"></a></style></svg>".to_owned(), refused("33", "style")),
        (format!("{json}\"<a href='+{{any}}'>\"</script>"), format!("{json}\"<a href='7'>\"</script>")),
    ] {
        assert_eq!(template(&text), expected, "{text}");
    }
}
