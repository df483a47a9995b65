//! Files written neatly: what changes, and that nothing does which is printed.

use hausblatt_lang::edit::neat;
use hausblatt_lang::text::ending::Ending;
use proptest::prelude::*;

use crate::support::Files;

/// A template written neatly; twice is the same as once.
fn neat(text: &str) -> String {
    let once = neat::template(text, 0, Ending::Html).unwrap_or_else(|| panic!("{text}"));
    assert_eq!(neat::template(&once, 0, Ending::Html).as_deref(), Some(once.as_str()), "{text}");
    once
}

#[test]
fn tags_get_their_spaces() {
    for (text, expected) in [
        ("+{ x }", "+{x}"),
        ("+{x .y . z( 1,2 ) [ 0 ]}", "+{x.y.z(1, 2)[0]}"),
        ("+{a+b*-c - -1}", "+{a + b * -c - -1}"),
        ("+{-1}+{[1,-2]}+{ ( a=1,b =[ ] ) }", "+{-1}+{[1, -2]}+{(a = 1, b = [])}"),
        ("+{if a==1and not( b )or c in[1]}+{ end if }", "+{if a == 1 and not (b) or c in [1]}+{end if}"),
        (
            "+{each x,at in(y where it.z>1 order by it.a desc,it.b)}+{end}",
            "+{each x, at in (y where it.z > 1 order by it.a desc, it.b)}+{end}",
        ),
        ("+{ url ( 'page:a' ) }+{it.where(1)}", "+{url(\"page:a\")}+{it.where(1)}"),
        ("+{partial'card'given a=1,b=\"x\"}", "+{partial \"card\" given a = 1, b = \"x\"}"),
        (
            "+{if a then-1 else x[0]}+{let y=if a then b else c}",
            "+{if a then -1 else x[0]}+{let y = if a then b else c}",
        ),
        ("+{x\n   .y}", "+{x\n   .y}"),
        ("+{# as  it is #}++{ x }", "+{# as  it is #}++{ x }"),
    ] {
        assert_eq!(neat(text), expected);
    }
}

#[test]
fn texts_get_the_quotes_that_fit_their_place() {
    for (text, expected) in [
        ("+{f('a')}<a href=\"+{f(\"a\")}\" b='+{f('a')}'>", "+{f(\"a\")}<a href=\"+{f('a')}\" b='+{f(\"a\")}'>"),
        ("<a href=\"+{f(\"it's\")}+{f(\"a\\n\")}\">+{f('\"')}", "<a href=\"+{f(\"it's\")}+{f(\"a\\n\")}\">+{f('\"')}"),
        (
            "<a href=\"+{if x}1+{else}+{f(\"a\")}+{end}+{f(\"b\")}\">",
            "<a href=\"+{if x}1+{else}+{f('a')}+{end}+{f('b')}\">",
        ),
        ("+{if x}<a href=\"+{else}<b id=\"+{end}+{f(\"b\")}\">", "+{if x}<a href=\"+{else}<b id=\"+{end}+{f('b')}\">"),
        ("<style>a { b: \"+{f(\"c\")}\" }</style>", "<style>a { b: \"+{f(\"c\")}\" }</style>"),
    ] {
        assert_eq!(neat(text), expected);
    }
    assert_eq!(neat::template("{\"a\": +{f( 'b' )}}", 0, Ending::Json).as_deref(), Some("{\"a\": +{f(\"b\")}}"));
}

#[test]
fn lines_that_print_nothing_stand_where_they_belong() {
    let text = "<ul>\n  +{each x in y}\n    <li>\n+{if x}  \n      a\n          +{else}\n b\n\t+{end}\n+{partial \"p\" with}\n c\n      +{end}\n+{end}\n</ul>\n";
    let expected = "<ul>\n  +{each x in y}\n    <li>\n  +{if x}\n      a\n  +{else}\n b\n  +{end}\n+{partial \"p\" with}\n c\n+{end}\n  +{end}\n</ul>\n";
    assert_eq!(neat(text), expected);
    // What is on a line with something that is printed stays, with its white space.
    let text = "a +{if x}  \n  +{end} b\n   +{x}   \n  +{slot \"a\"}  \n";
    assert_eq!(neat(text), text);
}

#[test]
fn long_tags_go_over_several_lines() {
    let long = "x".repeat(60);
    assert_eq!(
        neat(&format!("    +{{partial \"card\" given entry = {long}, size = \"wide\", list = [1, 2]}}\n")),
        format!(
            "    +{{partial \"card\" given\n      entry = {long},\n      size = \"wide\",\n      list = [1, 2]}}\n"
        )
    );
    assert_eq!(
        neat(&format!("+{{each e in {long} where it.a order by it.b limit 3 select it.cdefgh}}\r\n+{{end}}\r\n")),
        format!(
            "+{{each e in {long}\r\n  where it.a\r\n  order by it.b\r\n  limit 3\r\n  select it.cdefgh}}\r\n+{{end}}\r\n"
        )
    );
    for text in
        [format!("<p>+{{partial \"card\" given entry = {long}, size = \"wide\"}}"), format!("+{{{long}.{long}}}")]
    {
        assert_eq!(neat(&text), text);
    }
}

#[test]
fn prepare_files_keep_their_lines_and_comments() {
    let text = "# a  comment\n\nlet a=1   # one\nlet b = [ 1,\n    2 ]\r\nlet c=a+\n  b.count   \n";
    let expected = "# a  comment\r\n\r\nlet a = 1   # one\r\nlet b = [1,\r\n    2]\r\nlet c = a +\r\n  b.count\r\n";
    let once = neat::prepare(text).unwrap();
    assert_eq!(once, expected);
    assert_eq!(neat::prepare(&once).as_deref(), Some(expected));
    assert_eq!(neat::prepare("let a = 1\nlet b = 'x'\n").as_deref(), Some("let a = 1\nlet b = \"x\"\n"));
}

#[test]
fn files_with_an_error_stay_as_they_are() {
    for text in ["+{x", "+{if x}", "+{ x y }", "+{\u{201c}a\u{201d}}", "+{end}", "+{x ? 1 : 2}"] {
        assert_eq!(neat::template(text, 0, Ending::Html), None, "{text}");
    }
    assert_eq!(neat::prepare("lat a = 1"), None);
}

/// Pieces of which templates are put together.
const PIECES: &[&str] = &[
    "<p>",
    "</p>",
    "<a href=\"",
    "<b title='",
    "\"",
    "'",
    ">",
    " ",
    "\n",
    "\n  ",
    "\r\n",
    "a",
    "  ",
    "\t",
    "<pre>",
    "</pre>",
    "<!--",
    "-->",
    "++{",
    "+",
    "+{ x }",
    "+{x+ '1'}",
    "+{ x . length}",
    "+{# c #}",
    "+{if yes}",
    "+{ if no }",
    "+{else}",
    "+{ else }",
    "+{end}",
    "+{end }",
    "+{each i in [1,2]}",
    "+{between}",
    "+{none}",
    "+{let y=\"1\"}",
    "+{ let z with }",
    "+{\"'\"}",
    "+{'a' + \"b\"}",
    "+{if yes then 'a' else \"b\"}",
    "+{[ 1, 2 ] . join ( ', ' ) + ( [3,1] where it>1 order by it ).count}",
];

proptest! {
    #[test]
    fn what_is_printed_stays_to_the_byte(picks in prop::collection::vec(0..PIECES.len(), 1..14)) {
        let page: String = picks.iter().map(|&pick| PIECES[pick]).collect();
        let Some(neat) = neat::template(&page, 0, Ending::Html) else { return Ok(()) };
        let again = neat::template(&neat, 0, Ending::Html);
        prop_assert_eq!(again.as_ref(), Some(&neat));
        let rendered = |page: &str| {
            let text = format!("+{{let x = \"v\"}}+{{let yes = true}}+{{let no = false}}{page}");
            Files::new(&[("t", &text)]).page().0
        };
        prop_assert_eq!(rendered(&page), rendered(&neat));
    }
}
