//! Files that call others: partials, layouts, slots, components, prepare files.

use crate::support::{Files, template};

#[test]
fn partials_see_only_what_they_are_given() {
    let files = |call: &str| {
        Files::new(&[("t", call), ("card", "[+{size}: +{entry.title}]"), ("card/wide", "<wide>+{entry.title}</wide>")])
            .takes("card", &["entry", "size=small"])
            .takes("card/wide", &["entry"])
            .run()
    };
    for (call, expected) in [
        ("+{partial 'card' given entry = first}", "[small: Tidemark]"),
        (
            "+{each p in peas limit 2}+{partial 'card' given entry = p, size = 'big'}+{end}",
            "[big: Tidemark][big: Cobblestone]",
        ),
        ("+{partial 'card/journal/x' given entry = first}", "[small: Tidemark]"),
        ("+{partial 'card/' + 'wide' given entry = first}", "<wide>Tidemark</wide>"),
        (
            "+{partial 'crad' given entry = first}",
            "t:1:11 unknown-partial unknown partial \"crad\" | did you mean \"card\"?",
        ),
        (
            "+{partial 'card'}",
            "t:1:11 missing-parameter the partial \"card\" needs \"entry\", which is not given | write: given entry = …",
        ),
        (
            "+{partial 'card' given entry = first, sice = 1}",
            "t:1:39 unknown-parameter the partial \"card\" takes no \"sice\" | did you mean \"size\"?",
        ),
        (
            "+{partial first.title}",
            "t:1:11 computed-name a computed name must begin with a quoted text that ends in \"/\" | write it as in \"card/\" + entry.collection",
        ),
        (
            "+{partial 'card/wied' given entry = first}",
            "[small: Tidemark]\nt:1:11 shortened-partial there is no partial \"card/wied\"; \"card\" answers instead | did you mean \"card/wide\"?",
        ),
    ] {
        assert_eq!(files(call), expected, "{call}");
    }
}

#[test]
fn what_no_partial_behind_a_computed_name_takes() {
    let help = "write +{slot} there where it belongs, or fill one with a name: +{into \"NAME\"}";
    for (call, expected) in [
        ("+{partial 'card/' + 'a' given entry = first with}x+{into 'foot'}f+{end}+{end}", "a Tidemarkfx".to_owned()),
        (
            "+{partial 'card/' + 'a' given entyr = first}",
            "t:1:31 unknown-parameter no partial below \"card/\" takes \"entyr\" | did you mean \"entry\"?".to_owned(),
        ),
        (
            "+{partial 'card/' + 'a' given entry = first with}+{into 'foto'}f+{end}+{end}",
            "a Tidemark\nt:1:57 unknown-slot no partial below \"card/\" has a slot \"foto\" | did you mean \"foot\"?"
                .to_owned(),
        ),
        (
            "+{partial 'note/' + 'a' with}x+{end}",
            format!(
                "note\nt:1:11 unknown-slot each partial below \"note/\" has no slot for what is between \"with\" and its end, so that is lost | {help}"
            ),
        ),
    ] {
        let files = [
            ("t", call),
            ("card/a", "a +{entry.title}+{slot 'foot'}+{slot}"),
            ("card/b", "b +{entry.title}"),
            ("note/a", "note"),
        ];
        let files = Files::new(&files).takes("card/a", &["entry"]).takes("card/b", &["entry"]);
        assert_eq!(files.run(), expected, "{call}");
    }
}

#[test]
fn slots_and_fills() {
    let panel = "<s>+{slot 'head' else}plain+{end}|+{slot}|+{slot 'foot'}</s>";
    for (text, expected) in [
        ("+{partial 'panel'}", "<s>plain||</s>"),
        ("+{partial 'panel' with}body+{into 'foot'}f+{end}+{end}", "<s>plain|body|f</s>"),
        ("+{partial 'panel' with}+{into 'head'}+{end}+{end}", "<s>||</s>"),
        ("+{partial 'panel' with}+{if true}+{into 'head'}a+{end}+{end}+{into 'head'}b+{end}+{end}", "<s>b||</s>"),
        (
            "+{partial 'panel' with}+{into 'head' before}<+{end}+{into 'foot' after}>+{end}+{end}",
            "t:1:24 open-html this body ends inside a tag's name | close it before the end",
        ),
        ("+{partial 'panel' with}+{into 'head' before}1+{end}+{into 'foot' after}2+{end}+{end}", "<s>1plain||2</s>"),
        (
            "+{partial 'panel' with}+{into 'fot'}x+{end}+{end}",
            "<s>plain||</s>\nt:1:31 unknown-slot the partial \"panel\" has no slot \"fot\" | did you mean \"foot\"?",
        ),
        (
            "+{let x with}+{into 'foot'}+{end}+{end}",
            "t:1:14 stray-into there is no slot here that this could fill | it belongs in the body of a call that ends in \"with\", or in a template or layout for the layout around it",
        ),
    ] {
        assert_eq!(Files::new(&[("t", text), ("panel", panel)]).run(), expected, "{text}");
    }
}

#[test]
fn layouts_stand_around_templates() {
    let layout = "<title>+{slot 'title' else}+{site.title}+{end}</title>+{if filled('aside')}<aside>+{slot 'aside'}</aside>+{end}<main>+{slot}</main>";
    for (text, expected) in [
        ("hello", "<title>Seeds &amp; co</title><main>hello</main>"),
        ("a+{into 'aside'}<i>x</i>+{end}b", "<title>Seeds &amp; co</title><aside><i>x</i></aside><main>ab</main>"),
        ("+{into 'title'}<b>Visit</b> &amp; go+{end}", "<title>Visit &amp; go</title><main></main>"),
        (
            "+{into 'asied'}x+{end}",
            "<title>Seeds &amp; co</title><main></main>\nt:1:8 unknown-slot the layout l has no slot \"asied\" | did you mean \"aside\"?",
        ),
    ] {
        assert_eq!(Files::new(&[("t", text), ("l", layout)]).run(), expected, "{text}");
    }
    let lost = Files::new(&[("t", "x"), ("l1", "(+{slot})"), ("l2", "[+{slot}]+{into 'foot'}f+{end}")]).run();
    let help = "say in its front matter which one is: layout: NAME";
    assert_eq!(
        lost,
        format!("[(x)]\nl2:1:17 unknown-slot no layout is around l2, so what fills \"foot\" is lost | {help}")
    );
    let alone = Files::new(&[("t1", "+{inherited}"), ("t2", "x+{into 'foot'}f+{end}")]).run();
    assert_eq!(alone, "x");
    let nested = Files::new(&[("t", "x"), ("l1", "(+{slot})+{into 'foot'}f+{end}"), ("l2", "[+{slot}]+{slot 'foot'}")]);
    assert_eq!(nested.run(), "[(x)]f");
}

#[test]
fn inherited_goes_on_along_the_chain() {
    let layout = "+{slot}|+{slot 'aside' else}own+{end}";
    let page = "<p>+{slot 'body' else}page+{end}</p>+{into 'aside'}from page+{end}";
    for (first, expected) in [
        ("+{inherited}", "<p>page</p>|from page"),
        ("<b>+{inherited}</b>", "<b><p>page</p></b>|from page"),
        ("+{inherited with}+{into 'aside'}+{end}+{end}", "<p>page</p>|"),
        ("+{inherited with}+{into 'body'}mine+{end}+{end}", "<p>mine</p>|from page"),
        ("+{into 'aside'}near+{end}+{inherited}", "<p>page</p>|near"),
    ] {
        assert_eq!(Files::new(&[("t1", first), ("t2", page), ("l", layout)]).run(), expected, "{first}");
    }
    let through = Files::new(&[
        ("t1", "+{inherited with}+{into 'body'}deep+{end}+{end}"),
        ("t2", "(+{inherited})"),
        ("t3", page),
        ("l", layout),
    ]);
    assert_eq!(through.run(), "(<p>deep</p>)|from page");
    let end = Files::new(&[("t", "+{inherited}")]).run();
    assert_eq!(
        end,
        "t:1:1 nothing-inherited there is no file that this one could extend | a file can extend another of a farther theme, or of a lower rung"
    );
    let partial = Files::new(&[
        ("t", "+{partial 'card' given size = 1}"),
        ("card", "&lt;+{inherited given size = size + 1}&gt;"),
        ("card.2", "+{size}"),
    ]);
    assert_eq!(partial.takes("card", &["size"]).takes("card.2", &["size"]).run(), "&lt;2&gt;");
}

#[test]
fn the_layout_is_told_what_is_filled() {
    let layout = "+{if filled('a')}[+{slot 'a'}]+{end}+{if filled('b')}+{slot 'b'}+{end}+{slot}";
    for (text, expected) in [
        ("x", "x"),
        ("x+{into 'a'}y+{end}", "[y]x"),
        ("x+{into 'a'}  +{end}", "x"),
        ("x+{into 'a'}y+{end}+{into 'a'}z+{end}", "[z]x"),
        ("x+{into 'a' before}1+{end}+{into 'a' after}2+{end}", "[12]x"),
        ("x+{if false}+{into 'b'}y+{end}+{end}", "x"),
        ("x+{each p in [1, 2]}+{into 'a'}+{p}+{end}+{end}", "[2]x"),
    ] {
        assert_eq!(Files::new(&[("t", text), ("l", layout)]).run(), expected, "{text}");
    }
}

#[test]
fn components_are_called_by_name_and_placed_in_trays() {
    let layout = ("l", "+{used \"styles\"}|+{slot}");
    let run = |files: &[(&str, &str)]| Files::new(files).takes("%notice", &["text=Closed"]).run();
    for (files, expected) in [
        (
            vec![
                ("t", "+{component \"notice\" given text = \"A & B\"}+{component \"notice\"}"),
                layout,
                ("%notice", "<p>+{text}</p>"),
            ],
            "<link rel=\"stylesheet\" href=\"/assets/components/notice/style.css\">|<p>A &amp; B</p><p>Closed</p>",
        ),
        (
            vec![("t", "[+{tray \"main\"}+{tray \"side\"}]"), ("%notice", "<p>+{text}</p>"), ("%panel", "panel")],
            "[<p>Closed</p>\npanel\n<div role=\"note\" style=\"border:2px dashed #a62a1d;padding:0.5em 1em\">&lt;gone&gt;</div>\n]\n%notice:1:1 unlinked-asset \"components/notice/style.css\" is used, but this page links to no styles | write +{used \"styles\"} in the layout's head",
        ),
        (
            vec![
                layout,
                ("t", "+{component \"panel\" with}body+{into \"foot\"}f+{end}+{end}"),
                ("%panel", "(+{slot}|+{slot \"foot\"}|+{inherited})"),
                ("%panel.2", "far"),
            ],
            "<link rel=\"stylesheet\" href=\"/assets/components/panel/style.css\">|(body|f|far)",
        ),
        (
            vec![("t", "+{component \"notce\"}"), ("%notice", "n")],
            "t:1:13 unknown-component unknown component \"notce\" | did you mean \"notice\"?",
        ),
        (
            vec![("t", "+{component \"other\"}")],
            "t:1:13 unknown-component unknown component \"other\" | write components/other/component.html in a theme of the lineage",
        ),
        (
            vec![("t", "+{component \"notice\" given txt = 1}"), ("%notice", "+{text}")],
            "t:1:28 unknown-parameter the component \"notice\" takes no \"txt\" | did you mean \"text\"?",
        ),
        (
            vec![("t", "x"), ("%notice", "+{tray \"main\"}")],
            "%notice:1:1 tray-in-component a component can't print a tray | print it in a template, a partial or a layout",
        ),
        (
            vec![("t", "+{component \"notice\"}"), ("%notice", "+{partial \"p\"}"), ("p", "+{tray \"main\"}")],
            "p:1:1 tray-in-component a tray is printed inside a component here | print it in a template, a partial or a layout that no component calls",
        ),
        (
            vec![("t", "+{component \"notice\"}"), ("%notice", "+{component \"notice\"}")],
            "%notice:1:13 too-deep calls nest more than 64 deep here | a file that calls itself needs an \"if\" that ends it",
        ),
    ] {
        assert_eq!(run(&files), expected, "{files:?}");
    }
}

#[test]
fn assets_are_asked_for_once_and_linked_where_they_belong() {
    let layout = "<head>+{used 'styles'}+{used 'scripts'}</head>+{slot}";
    for (text, expected) in [
        ("x", "<head></head>x"),
        (
            "+{use 'a.css'}+{use 'b.css'}+{use 'a.css'}x",
            "<head><link rel=\"stylesheet\" href=\"/assets/a.css\">\n<link rel=\"stylesheet\" href=\"/assets/b.css\"></head>x",
        ),
        (
            "+{use 'a.js'}+{use 'b.mjs'}x",
            "<head><script defer src=\"/assets/a.js\"></script>\n<script type=\"module\" src=\"/assets/b.mjs\"></script></head>x",
        ),
        ("+{partial 'card'}", "<head><link rel=\"stylesheet\" href=\"/assets/card.css\"></head>c"),
        (
            "+{use 'a.png'}",
            "t:1:7 unusable-asset \"a.png\" is neither a style sheet nor a script | it ends in .css, .js or .mjs; the address of any other asset is asset(\"…\")",
        ),
        ("+{used 'style'}", "t:1:8 unknown-kind a page can't use \"style\" | did you mean \"styles\"?"),
    ] {
        assert_eq!(Files::new(&[("t", text), ("l", layout), ("card", "+{use 'card.css'}c")]).run(), expected, "{text}");
    }
    let late = Files::new(&[
        ("t", "x"),
        ("l1", "<head>+{let links with}+{used 'styles'}+{end}+{links}</head>+{slot}+{partial 'foot'}"),
        ("l2", "[+{slot}]+{use 'outer.css'}"),
        ("foot", "+{use 'foot.css'}f"),
    ]);
    assert_eq!(
        late.run(),
        "[<head><link rel=\"stylesheet\" href=\"/assets/outer.css\">\n<link rel=\"stylesheet\" href=\"/assets/foot.css\"></head>xf]"
    );
    assert_eq!(
        template("+{use 'a.css'}x"),
        "x\nt:1:1 unlinked-asset \"a.css\" is used, but this page links to no styles | write +{used \"styles\"} in the layout's head"
    );
}

#[test]
fn marks_show_whose_part_it_is() {
    let mut files = Files::new(&[
        ("t", "a+{partial 'card'}+{into 'title'}T+{partial 'empty'}+{end}+{into 'aside'}+{partial 'empty'}+{end}"),
        ("l", "<title>+{slot 'title'}</title>+{if filled('aside')}!+{end}+{slot}+{slot 'aside'}"),
        ("card", "<b>c</b>"),
        ("empty", ""),
    ]);
    files.shows.marks = true;
    assert_eq!(
        files.run(),
        "<!-- + l --><title>T</title><!-- + t -->a<!-- + card --><b>c</b><!-- - card --><!-- - t --><!-- - l -->"
    );
}

#[test]
fn prepare_files_give_values_to_all_files() {
    let files = |first: &str, second: &str, text: &str| {
        let mut files = vec![("=1", first), ("=2", second), ("t", text)];
        files.extend(text.contains("partial").then_some(("card", "(+{companion})")));
        Files::new(&files).run()
    };
    for (first, second, text, expected) in [
        ("let companion = 'a hedgehog'", "", "+{companion}+{partial 'card'}", "a hedgehog(a hedgehog)"),
        ("let companion = 1", "let companion = companion + 1", "+{companion}", "2"),
        ("let classes = classes + ['wide']", "", "+{classes.join(' ')}", "page wide"),
        ("# a comment\n\nlet companion = [\n  1, # one\n  '#2',\n]\n", "", "+{companion.join(' ')}", "1 #2"),
        ("let companion = peas where it.days > 76 order by it.title", "", "+{companion.first.title}", "Ambler"),
        ("let companion = (\n  site.title\n).upper", "", "+{companion}", "SEEDS &amp; CO"),
        ("let other = 1", "let companion = other", "+{companion}", "1"),
        ("let companion = 1", "", "+{let companion = 2}+{companion}", "2"),
        (
            "let site = 1",
            "",
            "x",
            "=1:1:5 name-taken \"site\" is a value that every file has; it can't be taken for another | choose another name",
        ),
        (
            "companion = 1",
            "",
            "x",
            "=1:1:1 bad-tag a prepare file holds nothing but lines that begin with \"let\" | write: let name = value",
        ),
        ("let companion 1", "", "x", "=1:1:15 bad-tag \"=\" and a value are missing | write: let name = value"),
        ("let companion = 1 +\nlet other = 2", "", "x", "=1:1:20 bad-tag a value is missing here"),
        ("let companion = sitr", "", "x", "=1:1:17 unknown-name unknown name \"sitr\" | did you mean \"site\"?"),
        ("let companion = 1 / 0", "", "x", "=1:1:17 bad-value this divides by zero"),
        ("let companion = 'a", "", "x", "=1:1:17 unclosed-text this text is never ended | write ' where it ends"),
        (
            "",
            "",
            "+{companion}",
            "t:1:3 unknown-name unknown name \"companion\" | name it with \"let\", take it as a parameter, or write collections.companion if a site may lack that collection",
        ),
    ] {
        assert_eq!(files(first, second, text), expected, "{first} {second} {text}");
    }
}

#[test]
fn parameters_have_the_kind_of_their_default() {
    let files = |call: &str| Files::new(&[("t", call), ("card", "[+{size}]")]).takes("card", &["size=small"]).run();
    for (call, expected) in [
        ("+{partial 'card' given size = 'big'}", "[big]"),
        ("+{partial 'card' given size = any}", "[7]"),
        ("+{partial 'card' given size = nothing}", "[]"),
        (
            "+{partial 'card' given size = 3}",
            "t:1:24 wrong-type \"size\" of the partial \"card\" is a text, and this is a number | give a text, or change the default under \"takes\"",
        ),
        (
            "+{partial 'card' given size = peas}",
            "t:1:24 wrong-type \"size\" of the partial \"card\" is a text, and this is a list | give a text, or change the default under \"takes\"",
        ),
        (
            "+{partial 'card' given sise = 3, sice = 'x'}",
            "t:1:24 unknown-parameter the partial \"card\" takes no \"sise\" | did you mean \"size\"?\nt:1:34 unknown-parameter the partial \"card\" takes no \"sice\" | did you mean \"size\"?",
        ),
        (
            "+{partial 'card' given size = 'a', size = 'b'}",
            "t:1:36 duplicate-argument \"size\" is given twice | keep one of the two",
        ),
    ] {
        assert_eq!(files(call), expected, "{call}");
    }
}

#[test]
fn an_override_may_need_less_and_say_less() {
    let farther = Files::new(&[("t.2", "+{partial 'card' given size = 1}"), ("card", "x")]).takes("card", &[]);
    assert_eq!(
        farther.run(),
        "x\nt.2:1:24 unknown-parameter the partial \"card\" takes no \"size\" | write it under \"takes\" in the partial's front matter"
    );
    let silent = Files::new(&[
        ("t", "+{partial 'card' given size = 1}"),
        ("card", "(+{size}+{inherited})"),
        ("card.2", "[+{size}]"),
    ])
    .takes("card.2", &["size"]);
    assert_eq!(silent.run(), "(1[1])");
}

#[test]
fn styles_come_by_theme_and_then_by_what_requests_them() {
    let files = Files::new(&[
        ("l", "+{used 'styles'}\n+{used 'scripts'}+{use 'l.css'}+{slot}"),
        ("t", "+{component 'notice'}+{partial 'card'}+{use 't.css'}+{use 'z.js'}+{use 'far.css'}+{use 'a.js'}"),
        ("card", "+{use 'card.css'}+{inherited}"),
        ("card.2", "+{use 'far.css'}+{use 'l.css'}"),
        ("%notice", "n"),
    ]);
    let page = files.run();
    let names = page.split('"').filter_map(|part| part.strip_prefix("/assets/"));
    assert_eq!(
        names.collect::<Vec<_>>(),
        ["far.css", "l.css", "t.css", "card.css", "components/notice/style.css", "z.js", "a.js"],
        "{page}"
    );
}

#[test]
fn bodies_and_questions_that_no_slot_takes_are_told() {
    let told = |template: &str, card: &str| {
        let files = Files::new(&[("t", template), ("card", card), ("card.2", "[+{slot}]"), ("%notice", "n")]);
        files.page().1
    };
    let lost = "has no slot for what is between \"with\" and its end, so that is lost | write +{slot} there where it belongs, or fill one with a name: +{into \"NAME\"}";
    for (template, card, expected) in [
        ("+{partial 'card' with}a+{end}", "b", format!("t:1:11 unknown-slot the partial \"card\" {lost}")),
        ("+{partial 'card' with}a+{end}", "b+{slot}", String::new()),
        ("+{partial 'card' with}a+{end}", "b+{inherited}", String::new()),
        ("+{partial 'card' with}\n+{into 'x'}a+{end}\n+{end}", "+{slot 'x'}", String::new()),
        ("+{partial 'card'}", "+{inherited with}a+{end}", String::new()),
        (
            "+{component 'notice' with}+{any}+{end}+{used 'styles'}",
            "",
            format!("t:1:13 unknown-slot the component \"notice\" {lost}"),
        ),
        (
            "+{partial 'card'}",
            "+{if filled('asid')}a+{end}+{slot 'aside'}",
            "card:1:13 unknown-slot this file has no slot \"asid\" | did you mean \"aside\"?".to_owned(),
        ),
        ("+{partial 'card'}", "+{if filled('aside')}a+{end}+{slot 'aside'}", String::new()),
    ] {
        assert_eq!(told(template, card), expected, "{template} {card}");
    }
}
