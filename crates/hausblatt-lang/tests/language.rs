//! The language, case by case: a template and what it prints, or what is said about it.

mod support;

use hausblatt_lang::render::Limits;
use support::{Files, check, template};

#[test]
fn values_print_as_they_should() {
    check(&[
        ("+{site.title}", "Seeds &amp; co"),
        ("+{html}", "<b>bold</b> &amp; free"),
        ("+{nothing}|+{true}|+{1.50}|+{-3}", "|true|1.5|-3"),
        ("+{0.1 + 0.2} +{7 / 2} +{8 / 2} +{-7 % 3}", "0.3 3.5 4 2"),
        ("+{1 + 2 * 3} +{(1 + 2) * 3}", "7 9"),
        ("+{'a' + 1 + true}", "a1true"),
        ("+{\"\\u{e9}\\t\\\"\"}", "é\t&quot;"),
        ("+{first.sown} +{first.sown + 31} +{\"2026-03-05\".date - first.sown}", "2026-03-01 2026-04-01 4"),
        ("+{html + ' <i>'}", "<b>bold</b> &amp; free &lt;i&gt;"),
        ("+{nothing + 'x'}+{nothing * 2}+{nothing.title}", "x"),
        ("+{1 < 2 and 'b' > 'a' and not (2 <= 1)}", "true"),
        ("+{nothing < 1}+{1 == '1'}+{1 == 1.0}", "falsefalsetrue"),
        ("+{'' or 0 or 'last'} +{'x' and 'y'}", "last y"),
        ("+{if first.days > 70 then 'long' else 'short'}", "long"),
        ("+{'legumes' in first.families} +{first.families has 'beets'} +{'lephone' in first.title}", "true false true"),
        ("+{[1, 2, 3][0]}+{[1, 2, 3][-1]}+{[1][5]}", "13"),
        ("+{first[\"title\"]} +{first.families[0].upper}", "Telephone LEGUMES"),
        ("+{([1] + [2]).join('-')} +{range(2, 4).join(' ')}", "1-2 2 3 4"),
        ("+{9223372036854775807 - 1}", "9223372036854775806"),
    ]);
}

#[test]
fn members_and_functions() {
    for member in hausblatt_lang::members::MEMBERS {
        let (example, printed) = member.example;
        assert_eq!(template(&format!("+{{{example}}}")), printed, "{example}");
    }
    for function in hausblatt_lang::functions::FUNCTIONS {
        let (example, printed) = function.example;
        assert_eq!(template(&format!("+{{raw {example}}}")), printed, "{example}");
    }
    for (example, printed) in hausblatt_lang::operators::LEVELS.iter().flat_map(|level| level.examples) {
        assert_eq!(template(&format!("+{{{example}}}")), *printed, "{example}");
    }
    check(&[
        ("+{peas.count} +{peas.first.title} +{peas.last.title}", "3 Telephone Alderman"),
        ("+{html.text}", "bold &amp; free"),
        ("+{url('page:visit')} +{absolute('/a/')} +{asset('a.css')}", "/visit/ https://seeds.example/a/ /assets/a.css"),
        ("+{'a'.length()}", "1"),
        ("+{['b', 'a', 'b'].unique.join('')}+{[1, 2].reverse.join('')}", "ba21"),
    ]);
}

#[test]
fn queries() {
    check(&[
        ("+{each pea in peas where pea.days > 76}+{pea.title} +{end}", "Crapaudine Alderman "),
        ("+{each pea in peas order by pea.title limit 2}+{pea.title} +{end}", "Alderman Crapaudine "),
        ("+{each pea in peas order by it.sown desc}+{pea.title} +{end}", "Alderman Telephone Crapaudine "),
        (
            "+{each pea in peas order by it.families[0], it.days desc offset 1}+{pea.title} +{end}",
            "Alderman Telephone ",
        ),
        (
            "+{each g in peas group by it.families[0]}+{g.key}:+{each p in g.items}+{p.title},+{end} +{end}",
            "legumes:Telephone,Alderman, beets:Crapaudine, ",
        ),
        ("+{(peas as p where p.families has 'beets').first.title}", "Crapaudine"),
        ("+{let late = peas where it.sown == nothing}+{late.count}", "1"),
        ("+{(peas where it.days > 100).count}", "0"),
        ("+{each p in peas limit -1}+{end}", "t:1:24 value a whole number from 0 up is needed here, not a number"),
        ("+{each p in peas where p.days > 'x'}+{end}", "t:1:24 value a number and a text have no order"),
        ("+{each p in any where true}+{end}", "t:1:13 not-a-list only a list can be queried, and this is a number"),
        (
            "+{each p in peas limit 1 where true}+{end}",
            "t:1:26 syntax \"where\" stands too late in this query | the order is where, group by, order by, offset, limit",
        ),
    ]);
}

/// What is worked out once, and what an index finds, is what going through the list finds.
#[test]
fn the_quick_way_equals_the_slow_way() {
    for query in [
        "LIST where it.families has 'legumes'",
        "LIST where 'legumes' in it.families and it.days > 76",
        "LIST where it.families has nothing",
        "LIST where it.days == 80.0",
        "LIST where any * 10 + 10 == it.days",
        "LIST where it.title == wild",
        "LIST where it.sown == nothing",
        "LIST where it.sown == first.sown",
        "LIST where it.title == first.title",
        "LIST where it.families has first.families[0] order by it.days desc",
        "LIST order by it.families[0] desc limit 2",
        "LIST where it.families has first.families[0] order by it.days limit 1",
        "LIST where it.title != first.title order by it.title desc limit any - 6",
        "LIST where it.days > any order by it.days offset any - 6 limit 1",
        "LIST where it.families has wild order by it.days limit 1",
        "LIST order by it.families[0] offset 1 limit 1",
        "LIST order by it.sown desc",
        "LIST order by it.sown limit 0",
        "LIST offset 9",
        "LIST limit 2",
        "LIST as p where (LIST as q where q.days > p.days).count == any - 7",
    ] {
        let list = |list: &str| {
            let query = query.replace("LIST", list);
            template(&format!("+{{each p in {query}}}+{{p.title}} +{{none}}none+{{end}}+{{({query}).count}}"))
        };
        assert_eq!(list("peas"), list("(peas + [])"), "{query}");
    }
    let groups = |list: &str| {
        template(&format!(
            "+{{each g in {list} group by it.families[0] order by it.key}}+{{g.key}}:+{{each p in g.items}}+{{p.title}},+{{end}}+{{g.items.count}} +{{end}}"
        ))
    };
    assert_eq!(groups("peas"), "beets:Crapaudine,1 legumes:Telephone,Alderman,2 ");
    assert_eq!(groups("peas"), groups("(peas + [])"));
    assert_eq!(groups("peas where it.days > 76"), groups("(peas + []) where it.days > 76"));
    assert_eq!(
        template("+{each p in peas where it.title has 'phone'}+{p.title}+{end}"),
        "Telephone",
        "a part of a text is found without an index"
    );
    assert_eq!(
        template("+{each p in peas where it.families has any or true}+{p.title} +{end}"),
        "Telephone Crapaudine Alderman "
    );
    assert_eq!(template("+{(peas order by it.families).count}"), "t:1:18 value a list and a list have no order");
}

#[test]
fn statements() {
    check(&[
        ("+{if false}a+{else if 1}b+{else}c+{end}", "b"),
        ("+{if false}a+{end if}z", "z"),
        (
            "+{each p, at in peas}+{at.number}/+{at.count}+{if at.last}!+{end}+{between}, +{none}none+{end each}",
            "1/3, 2/3, 3/3!",
        ),
        ("+{each p in []}x+{none}none+{end}+{each p in nothing}x+{none}!+{end}", "none!"),
        ("+{let a = 1}+{let a = a + 1}+{a}", "2"),
        ("+{let a with}<i>+{site.title}</i>+{end}+{a}+{a.text}", "<i>Seeds &amp; co</i>Seeds &amp; co"),
        ("a+{# +{site.title} +{# x #} #}b", "ab"),
        ("++{site} +++{x}", "+{site} ++{x}"),
        ("+{raw '<hr>'}", "<hr>"),
        ("x+{answer 404 'No such ' + 'variety'}", "answer 404 No such variety"),
        ("+{redirect 301 'page:visit'}", "redirect 301 /visit/"),
        ("+{redirect 302 bad}", "t:1:16 dead-reference the reference \"java\tscript:alert(1)\" leads nowhere"),
        (
            "+{each p in any}+{end}",
            "t:1:13 not-a-list \"each\" goes through a list, and this is a number | write it in brackets to make a list of it: [value]",
        ),
    ]);
}

#[test]
fn lines_of_silent_tags_go() {
    check(&[
        ("a\n+{if true}\nb\n+{end}\nc\n", "a\nb\nc"),
        ("a\n  +{# note #}  \nb", "a\nb"),
        ("a\n+{let x = 1} +{x}\nb", "a\n 1\nb"),
        ("a\r\n+{if true}\r\nb\r\n+{end}\r\nc\r\n", "a\r\nb\r\nc"),
        (
            "<ul>\n  +{each p in peas}\n  <li>+{p.title}</li>\n  +{end}\n</ul>\n",
            "<ul>\n  <li>Telephone</li>\n  <li>Crapaudine</li>\n  <li>Alderman</li>\n</ul>",
        ),
        ("+{if true then 'a' else 'b'}\nx", "a\nx"),
        ("+{if true\nthen 'a' else 'b'}\nx", "a\nx"),
        ("+{if 'a then b'}\nx\n+{end}", "x\n"),
    ]);
}

#[test]
fn every_place_has_its_escaping() {
    check(&[
        ("<p>+{wild}</p>", "<p>&quot;&gt;&lt;script&gt;alert(&#39;x&#39;)&lt;/script&gt;&amp;</p>"),
        ("<title>+{html}</title>", "<title>bold &amp; free</title>"),
        ("<p class='a +{wild}'>", "<p class='a &quot;&gt;&lt;script&gt;alert(&#39;x&#39;)&lt;/script&gt;&amp;'>"),
        ("<p title=\"+{nothing}\" lang=\"+{'de'}\">x</p>", "<p lang=\"de\">x</p>"),
        ("<img src=\"/a.svg\" alt=\"+{nothing}\">", "<img src=\"/a.svg\" alt=\"\">"),
        ("<input checked=\"+{true}\" disabled=\"+{0}\">", "<input checked>"),
        ("<a href=\"+{'/a b'}\">x</a>", "<a href=\"/a%20b\">x</a>"),
        ("<a href=\"+{nothing}\">x</a>", "<a>x</a>"),
        ("<a href=\"/find?q=+{'a&b'}#+{'c d'}\">", "<a href=\"/find?q=a%26b#c%20d\">"),
        ("<a href=\"/x/+{if true}a+{else}b+{end}/\">", "<a href=\"/x/a/\">"),
        ("<img src=\"+{'data:image/png;base64,x'}\" alt=\"\">", "<img src=\"data:image/png;base64,x\" alt=\"\">"),
        (
            "<a href=\"+{bad}\">",
            "<a href=\"about:invalid\">\nt:1:12 unsafe-address the address \"java\tscript:alert(1)\" is not allowed here: its scheme is not one of http, https, mailto and tel",
        ),
        (
            "<script src=\"+{'//elsewhere.example/x.js'}\"></script>",
            "<script src=\"about:invalid\"></script>\nt:1:16 unsafe-address the address \"//elsewhere.example/x.js\" is not allowed here: what is loaded or sent from here must stay on this site",
        ),
        (
            "<link rel=\"icon\" href=\"+{'https://elsewhere.example/'}\">",
            "<link rel=\"icon\" href=\"https://elsewhere.example/\">",
        ),
        (
            "<link href=\"+{'https://elsewhere.example/'}\" rel=\"icon\">",
            "<link href=\"https://elsewhere.example/\" rel=\"icon\">",
        ),
        ("<link href=\"+{'/x.css'}\" rel=\"stylesheet\">", "<link href=\"/x.css\" rel=\"stylesheet\">"),
        ("<link rel=\"+{''} icon\" href=\"/a+{'//x'}\">", "<link rel=\" icon\" href=\"/a//x\">"),
        ("<b +{if true}class=\"x\"+{end}>", "<b class=\"x\">"),
        ("<b+{if true} class=\"x\"+{end}id=\"y\">", "<b  class=\"x\" id=\"y\">"),
    ]);
}

#[test]
fn unsafe_places_are_faults() {
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
        ("<a href=\"javascript:+{wild}\">", "t:1:1 unsafe-place no value is safe behind \"javascript:\""),
        ("<a href=\"java&#115;cript&colon;+{wild}\">", "t:1:1 unsafe-place no value is safe behind \"javascript:\""),
        (
            "<meta http-equiv=\"refresh\" content=\"+{wild}\">",
            "t:1:37 unsafe-place no value is safe in the content of a meta with http-equiv",
        ),
        ("<title></+{wild}</title>", "t:1:10 unsafe-place no value is safe directly behind \"<\" here"),
        (
            "<script><!--<script></script>+{wild}",
            "t:1:13 script-in-comment browsers read this \"<script\" inside a comment inside a script in two ways",
        ),
        ("<p class=\"x", "t:1:11 open-html the file ends inside the attribute \"class\" of <p>"),
        (
            "+{if true}<p class=\"+{else}x+{end}\">",
            "t:1:1 branches-differ one branch ends in text, the other way in the attribute \"class\" of <p>",
        ),
        ("<p class=\"+{raw 'x'}\">", "t:1:11 text-only \"raw\" can't stand in the attribute \"class\" of <p>"),
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
fn faults_have_places_and_help() {
    check(&[
        ("+{sitr.title}", "t:1:3 unknown-name unknown name \"sitr\" | did you mean \"site\"?"),
        ("+{site.titel}", "t:1:8 unknown-member the site has no \"titel\" | did you mean \"title\"?"),
        (
            "+{first.titel}",
            "\nt:1:9 unknown-field no declaration and no content knows a field \"titel\" | did you mean \"title\"?",
        ),
        ("+{'a'.uper}", "t:1:7 unknown-member a text has no \"uper\" | did you mean \"upper\"?"),
        (
            "+{peas.title}",
            "t:1:8 unknown-member a list has no \"title\" | go through a list with \"each\", or take one member with .first or [0]",
        ),
        ("+{rnage(1, 2)}", "t:1:3 unknown-function unknown function \"rnage\" | did you mean \"range\"?"),
        ("+{range(1)}", "t:1:3 argument-count \"range\" takes 2 arguments, not 1"),
        (
            "+{peas}",
            "t:1:3 unprintable a list can't be printed | print its members with \"each\", or write .join(\", \")",
        ),
        ("+{if true}x", "t:1:1 unended-block this \"if\" is never ended | write +{end} or +{end if} where it ends"),
        (
            "+{end}",
            "t:1:1 stray-divider nothing is open here to end | take it out, or look for a block that was ended too early",
        ),
        ("+{if true}+{end each}", "t:1:17 mismatched-end this ends \"each\", but the innermost open block is \"if\""),
        ("+{prtial 'x'}", "t:1:3 unknown-statement there is no statement \"prtial\" | did you mean \"partial\"?"),
        (
            "+{site.title",
            "t:1:1 unended-tag this tag is never ended | write \"}\" where it ends; to print the two characters themselves, write \"++{\"",
        ),
        ("+{1 +}", "t:1:6 syntax a value is missing here"),
        (
            "+{a b}\n+{(1}",
            "t:1:3 unknown-name unknown name \"a\" | name it with \"let\", take it as a parameter, or write collections.a if a site may lack that collection\nt:1:5 syntax \"b\" is not expected here | an operator may be missing in front of it\nt:2:5 syntax \")\" is missing before the end of the tag",
        ),
        (
            "+{if first = 1}+{end}",
            "t:1:12 syntax \"=\" names a value; it does not compare | write \"==\" to compare two values",
        ),
        ("+{let if = 1}", "t:1:7 syntax \"if\" is a word of the language and can't name a value | choose another name"),
        (
            "+{let site = 1}",
            "t:1:7 name-taken \"site\" is a value that every file has; it can't be taken for another | choose another name",
        ),
        ("+{}", "t:1:1 empty-tag this tag is empty | a comment is written +{# … #}"),
        ("+{1 / 0}", "t:1:3 value this divides by zero"),
        ("+{any.title}", "t:1:3 value a number has no \"title\""),
        ("+{9223372036854775807 + 1}", "t:1:3 value these can't be added: the result is too large"),
        (
            "+{it}",
            "t:1:3 unknown-name \"it\" stands for the member of a query, and here is none | it can be used behind \"where\", \"group by\" and \"order by\"",
        ),
        (
            "+{let a = 1}+{if true}+{let a = 2}+{end}+{a}",
            "1\nt:1:29 let-without-effect this \"a\" ends with its block and changes nothing outside it | to choose a value, write +{let a = if A then B else C} before the block",
        ),
        (
            "+{answer 200 'x'}",
            "t:1:10 syntax the status must be a number from 400 to 599 | write it as in +{answer 404 \"No such variety\"}",
        ),
        (
            "+{component 'a' + 'b'}",
            "t:1:13 computed-name a component's name must be a quoted text | write it as in +{component \"notice\"}; what content places is printed by +{tray \"main\"}",
        ),
        (
            "+{tray}",
            "t:1:7 syntax a tray is named by a quoted text, not the end of the tag | write it as in +{tray \"main\"}",
        ),
        (
            "<p title=\"+{tray 'main'}\">",
            "t:1:11 text-only \"tray\" can't stand in the attribute \"title\" of <p> | it stands in text only, between tags",
        ),
        (
            "<p id=\"+{'x'}\">",
            "<p id=\"x\">\nt:1:8 bare-id this id is made of a value alone, which can name anything on the page | put a literal prefix in front of the value",
        ),
        ("+{1 < 2 < 3}", "t:1:9 syntax comparisons can't be chained | join two of them with \"and\""),
    ]);
}

#[test]
fn partials_see_only_what_they_are_given() {
    let files = |call: &str| {
        Files::new(&[("t", call), ("card", "[+{size}: +{entry.title}]"), ("card/wide", "<wide>+{entry.title}</wide>")])
            .takes("card", &["entry", "size=small"])
            .takes("card/wide", &["entry"])
            .run()
    };
    for (call, expected) in [
        ("+{partial 'card' given entry = first}", "[small: Telephone]"),
        (
            "+{each p in peas limit 2}+{partial 'card' given entry = p, size = 'big'}+{end}",
            "[big: Telephone][big: Crapaudine]",
        ),
        ("+{partial 'card/journal/x' given entry = first}", "[small: Telephone]"),
        ("+{partial 'card/' + 'wide' given entry = first}", "<wide>Telephone</wide>"),
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
            "[small: Telephone]\nt:1:11 shortened-partial there is no partial \"card/wied\"; \"card\" answers instead | did you mean \"card/wide\"?",
        ),
    ] {
        assert_eq!(files(call), expected, "{call}");
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
            "<s>plain||</s>\nt:1:31 lost-fill the partial \"panel\" has no slot \"fot\" | did you mean \"foot\"?",
        ),
        (
            "+{let x with}+{into 'foot'}+{end}+{end}",
            "t:1:14 stray-into there is no slot here that this could fill | it stands in the body of a call that ends in \"with\", or in a template or layout for the layout around it",
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
            "<title>Seeds &amp; co</title><main></main>\nt:1:8 lost-fill the layout l has no slot \"asied\" | did you mean \"aside\"?",
        ),
    ] {
        assert_eq!(Files::new(&[("t", text), ("l", layout)]).run(), expected, "{text}");
    }
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
        "t:1:1 nothing-inherited there is no file behind this one to go on with | a file can go on where a farther theme, or a lower rung, has one too"
    );
    let partial = Files::new(&[
        ("t", "+{partial 'card' given size = 1}"),
        ("card", "&lt;+{inherited given size = size + 1}&gt;"),
        ("card.2", "+{size}"),
    ]);
    assert_eq!(partial.takes("card", &["size"]).takes("card.2", &["size"]).run(), "&lt;2&gt;");
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
        let found = template(&format!("+{{{value}}}"));
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
fn precedence_from_tight_to_loose() {
    check(&[
        ("+{-2 + 3}", "1"),
        ("+{- -2}", "2"),
        ("+{2 - -2}", "4"),
        ("+{10 - 2 - 3}", "5"),
        ("+{2 * 3 % 4}", "2"),
        ("+{1 + 2 == 3}", "true"),
        ("+{not 1 == 2}", "true"),
        ("+{not not 'x'}", "true"),
        ("+{true or false and false}", "true"),
        ("+{not true or true}", "true"),
        ("+{'a' in 'abc' and 3 in [1, 2, 3]}", "true"),
        ("+{if 1 > 2 then 'a' else if 2 > 1 then 'b' else 'c'}", "b"),
        ("+{1 + if true then 2 else 3}", "t:1:7 syntax a value is expected here, and \"if\" is a word of the language"),
    ]);
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
        ("1 < 'a'", "a number and a text have no order"),
        ("[1] < [2]", "a list and a list have no order"),
        ("first.sown < 3", "a date and a number have no order"),
        ("1 % 0", "this divides by zero"),
        ("1 / 0.0", "this divides by zero"),
        ("-'a'", "a text can't be negated"),
        ("3 has 1", "a number can't have a number in it"),
        ("'abc' has 1", "a text can't have a number in it"),
        ("9223372036854775807 * 2", "these can't be multiplied: the result is too large"),
        ("first.sown + 99999999999", "these can't be moved: the result is too large"),
        ("'a'.words(-1)", "a whole number from 0 up is needed here, not a number"),
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
fn what_counts_as_true() {
    for (value, truth) in [
        ("nothing", false),
        ("false", false),
        ("0", false),
        ("0.0", false),
        ("''", false),
        ("[]", false),
        ("nothing + nothing", false),
        ("true", true),
        ("1", true),
        ("-1", true),
        ("0.5", true),
        ("' '", true),
        ("[nothing]", true),
        ("first", true),
        ("first.sown", true),
        ("html", true),
        ("'false'", true),
        ("'0'", true),
    ] {
        let found = template(&format!("+{{if {value}}}yes+{{else}}no+{{end}}"));
        assert_eq!(found, if truth { "yes" } else { "no" }, "{value}");
    }
    assert_eq!(template("+{let blank with}  \n +{end}+{if blank}yes+{else}no+{end}"), "no");
}

#[test]
fn equality_keeps_kinds_apart() {
    for (value, truth) in [
        ("1 == 1.0", true),
        ("1 == '1'", false),
        ("nothing == nothing", true),
        ("nothing == false", false),
        ("[] == []", true),
        ("[1, 'a'] == [1, 'a']", true),
        ("[1] == [1, 2]", false),
        ("first == peas.first", false),
        ("true != false", true),
        ("first.sown == '2026-03-01'.date", true),
        ("'a' == 'A'", false),
        ("html == '<b>bold</b> &amp; free'", false),
    ] {
        assert_eq!(template(&format!("+{{{value}}}")), truth.to_string(), "{value}");
    }
}

#[test]
fn scopes() {
    check(&[
        ("+{let a = 1}+{if true}+{let b = a}+{b}+{end}", "1"),
        (
            "+{if true}+{let b = 1}+{end}+{b}",
            "t:1:31 unknown-name unknown name \"b\" | name it with \"let\", take it as a parameter, or write collections.b if a site may lack that collection",
        ),
        (
            "+{each p in peas limit 1}+{p.title}+{between}+{p.title}+{end}",
            "t:1:48 unknown-name unknown name \"p\" | name it with \"let\", take it as a parameter, or write collections.p if a site may lack that collection",
        ),
        (
            "+{each p in []}+{none}+{p}+{end}",
            "t:1:25 unknown-name unknown name \"p\" | name it with \"let\", take it as a parameter, or write collections.p if a site may lack that collection",
        ),
        ("+{each p in peas}+{each q in p.families}+{q} +{end}+{end}", "legumes beets legumes "),
        (
            "+{each a, at in [1, 2]}+{each b, inner in ['x', 'y']}+{at.number}+{inner.number} +{end}+{end}",
            "11 12 21 22 ",
        ),
        ("+{let x = 'a'}+{each p in [1, 2]}+{let x = x + p}+{x} +{end}+{x}", "a1 a2 a"),
        ("+{let n = peas where it.days > 76}+{n.count}+{each p in n where it.days < 85}+{p.title}+{end}", "2Alderman"),
        ("+{each p in peas where (peas as q where q.days > p.days).count == 0}+{p.title}+{end}", "Crapaudine"),
    ]);
}

#[test]
fn the_layout_is_told_what_is_filled() {
    let layout = "+{if filled('a')}[+{slot 'a'}]+{end}+{if filled('b')}b+{end}+{slot}";
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
            "[<p>Closed</p>\npanel\n<div role=\"note\" style=\"border:2px dashed #b3261e;padding:0.5em 1em\">&lt;gone&gt;</div>\n]\n%notice:1:1 unlinked-asset \"components/notice/style.css\" is asked for, but this page links to no styles | write +{used \"styles\"} in the layout's head",
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
        ("+{used 'style'}", "t:1:8 unknown-kind a page can't ask for \"style\" | did you mean \"styles\"?"),
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
        "[<head><link rel=\"stylesheet\" href=\"/assets/foot.css\">\n<link rel=\"stylesheet\" href=\"/assets/outer.css\"></head>xf]"
    );
    assert_eq!(
        template("+{use 'a.css'}x"),
        "x\nt:1:1 unlinked-asset \"a.css\" is asked for, but this page links to no styles | write +{used \"styles\"} in the layout's head"
    );
}

#[test]
fn dump_shows_a_value_and_is_not_for_readers() {
    let mut files = Files::new(&[("t", "+{dump first}")]);
    assert_eq!(
        files.run(),
        "t:1:8 dump-left-behind \"dump\" is for looking, and this page is for readers | take it out; \"render\" and \"serve\" show what it shows"
    );
    files.shows.dumps = true;
    assert_eq!(
        files.run(),
        "<details open class=\"hausblatt-dump\"><summary>a record: Telephone</summary><ul><li><b>title</b> <code>Telephone</code> a text</li><li><b>days</b> <code>75</code> a number</li><li><details><summary><b>families</b> a list of 1</summary><ul><li><b>0</b> <code>legumes</code> a text</li></ul></details></li><li><b>sown</b> <code>2026-03-01</code> a day</li></ul></details>"
    );
    let mut long = Files::new(&[("t", "+{dump range(1, 100000)}+{dump '<' + nothing}")]);
    long.shows.dumps = true;
    let shown = long.run();
    assert!(
        shown.contains("<li>… and 99960 more</li>") && shown.ends_with("<code>&lt;</code> a text</summary></details>"),
        "{shown}"
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
        ("let companion = peas where it.days > 76 order by it.title", "", "+{companion.first.title}", "Alderman"),
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
            "=1:1:1 syntax a prepare file holds nothing but lines that begin with \"let\" | write: let name = value",
        ),
        ("let companion 1", "", "x", "=1:1:15 syntax \"=\" and a value are missing | write: let name = value"),
        ("let companion = 1 +\nlet other = 2", "", "x", "=1:1:20 syntax a value is missing here"),
        ("let companion = sitr", "", "x", "=1:1:17 unknown-name unknown name \"sitr\" | did you mean \"site\"?"),
        ("let companion = 1 / 0", "", "x", "=1:1:17 value this divides by zero"),
        (
            "let companion = 'a",
            "",
            "x",
            "=1:1:17 unended-text this text is never ended\n=1:1:19 syntax a value is missing here",
        ),
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
        ("+{partial 'card' given size = 'a', size = 'b'}", "t:1:36 given-twice \"size\" is given twice"),
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
fn the_languages_names_and_separators() {
    let mut files = Files::new(&[(
        "t",
        "+{first.sown.format('%A, %-d. %B %Y')} +{(12345.678).format(2)} +{['z', 'ä', 'a'].join('')} +{each x in ['z', 'ä', 'b'] order by it}+{x}+{end}",
    )]);
    assert_eq!(files.run(), "Sunday, 1. March 2026 12,345.68 zäa äbz");
    files.language = "de";
    assert_eq!(files.run(), "Sonntag, 1. März 2026 12.345,68 zäa äbz");
    files.language = "sv";
    assert_eq!(files.run(), "söndag, 1. mars 2026 12\u{202f}345,68 zäa bzä");
}

#[test]
fn functions_that_ask_the_site() {
    check(&[
        ("+{image('/media/bed.svg').width} +{image('/media/bed.svg').address}", "40 /media/bed.svg"),
        ("+{image('/media/no.svg')}", "\nt:1:3 dead-reference there is no image \"/media/no.svg\""),
        ("+{image(nothing)}+{markdown(nothing)}", ""),
        ("+{markdown('a *b* <c>')}", "<p>a <em>b</em> &lt;c&gt;</p>"),
        ("+{markdown('a *b*').text}", "a b"),
        ("+{markdown(1)}", "t:1:3 value a text is needed here, not a number"),
        ("+{first.keys.join(' ')}", "title days families sown"),
        ("+{first has 'days'} +{'x' in first}", "true false"),
        ("+{asset('lost.css')}", "\nt:1:3 dead-reference no theme of the lineage has the asset \"lost.css\""),
        ("+{absolute('https://x.example/')} +{absolute(nothing)}|", "https://x.example/ |"),
        ("+{(2.5).round(0)} +{(-2.5).round(0)} +{(7).round(2)}", "3 -3 7"),
        (
            "+{first.sown.format('%q')}",
            "t:1:3 value \"%q\" is no date format: \"%q\" is no conversion of POSIX strftime",
        ),
    ]);
}
