//! The language, case by case: a template and what it prints, or what is said about it.

use crate::support::{Files, check, template};

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
        ("+{nothing < 1}+{1 == 1.0}", "falsetrue"),
        ("+{'' or 0 or 'last'} +{'x' and 'y'}", "last y"),
        ("+{if first.days > 70 then 'long' else 'short'}", "long"),
        ("+{'legumes' in first.families} +{first.families has 'beets'} +{'demark' in first.title}", "true false true"),
        ("+{[1, 2, 3][0]}+{[1, 2, 3][-1]}+{[1][5]}", "13"),
        ("+{first[\"title\"]} +{first.families[0].upper}", "Tidemark LEGUMES"),
        ("+{([1] + [2]).join('-')} +{range(2, 4).join(' ')}", "1-2 2 3 4"),
        ("+{9223372036854775807 - 1}", "9223372036854775806"),
    ]);
}

#[test]
fn members_and_functions() {
    for member in hausblatt_lang::value::members::MEMBERS {
        let (example, printed) = member.example;
        assert_eq!(template(&format!("+{{{example}}}")), printed, "{example}");
    }
    for function in hausblatt_lang::value::functions::FUNCTIONS {
        let (example, printed) = function.example;
        assert_eq!(template(&format!("+{{raw {example}}}")), printed, "{example}");
    }
    for (example, printed) in hausblatt_lang::value::operators::LEVELS.iter().flat_map(|level| level.examples) {
        // What never equals each other is said too.
        assert_eq!(Files::new(&[("t", &format!("+{{{example}}}"))]).page().0.unwrap(), *printed, "{example}");
    }
    check(&[
        ("+{peas.count} +{peas.first.title} +{peas.last.title}", "3 Tidemark Ambler"),
        ("+{html.text}", "bold &amp; free"),
        ("+{url('page:visit')} +{absolute('/a/')} +{asset('a.css')}", "/visit/ https://seeds.example/a/ /assets/a.css"),
        ("+{'a'.length()}", "1"),
        (
            "+{first.sown.format('%-d %B', 'de')} +{first.sown.format('%b', any + '') or ''}",
            "t:1:40 bad-value the language \"7\" is not known",
        ),
        (
            "+{first.sown.format('%-d %B', 'de')} +{(1234.5).format(2, 'de')} +{(9).format(1, nothing)}",
            "1 März 1.234,50 9.0",
        ),
        (
            "+{first.sown.format('%B', 'german')}",
            "t:1:27 unknown-language the language \"german\" is not known | write a language tag, as in \"de\" or \"pt-BR\"",
        ),
        (
            "+{first.sown.format('%B', 'de', 1)}",
            "t:1:14 argument-count \"format\" takes 2 arguments, not 3 | write 2 values in the brackets",
        ),
        ("+{['b', 'a', 'b'].unique.join('')}+{[1, 2].reverse.join('')}", "ba21"),
    ]);
}

#[test]
fn queries() {
    check(&[
        ("+{each pea in peas where pea.days > 76}+{pea.title} +{end}", "Cobblestone Ambler "),
        ("+{each pea in peas order by pea.title limit 2}+{pea.title} +{end}", "Ambler Cobblestone "),
        ("+{each pea in peas order by it.sown desc}+{pea.title} +{end}", "Ambler Tidemark Cobblestone "),
        ("+{each pea in peas order by it.families[0], it.days desc offset 1}+{pea.title} +{end}", "Ambler Tidemark "),
        (
            "+{each g in peas group by it.families[0]}+{g.key}:+{each p in g.items}+{p.title},+{end} +{end}",
            "legumes:Tidemark,Ambler, beets:Cobblestone, ",
        ),
        ("+{(peas as p where p.families has 'beets').first.title}", "Cobblestone"),
        ("+{let late = peas where it.sown == nothing}+{late.count}", "1"),
        ("+{(peas where it.days > 100).count}", "0"),
        ("+{each p in peas limit -1}+{end}", "t:1:24 bad-value a whole number from 0 up is needed here, not -1"),
        (
            "+{each p in peas where p.days > 'x'}+{end}",
            "t:1:24 bad-value a number and a text have no order | a text becomes a number with .number; a number is written without quotes",
        ),
        ("+{each p in any where true}+{end}", "t:1:13 not-a-list only a list can be queried, and this is a number"),
        (
            "+{each p in peas limit 1 where true}+{end}",
            "t:1:26 bad-tag \"where\" comes too late in this query | the order is where, group by, order by, offset, limit, select",
        ),
    ]);
}

/// What is evaluated once, and what an index finds, is what going through the list finds.
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
    assert_eq!(groups("peas"), "beets:Cobblestone,1 legumes:Tidemark,Ambler,2 ");
    assert_eq!(groups("peas"), groups("(peas + [])"));
    assert_eq!(groups("peas where it.days > 76"), groups("(peas + []) where it.days > 76"));
    assert_eq!(
        template("+{each p in peas where it.title has 'mark'}+{p.title}+{end}"),
        "Tidemark",
        "a part of a text is found without an index"
    );
    assert_eq!(
        template("+{each p in peas where it.families has any or true}+{p.title} +{end}"),
        "Tidemark Cobblestone Ambler "
    );
    assert_eq!(template("+{(peas order by it.families).count}"), "t:1:18 bad-value a list and a list have no order");
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
        ("+{redirect 302 bad}", "t:1:16 dead-reference broken reference \"java\tscript:alert(1)\""),
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
            "<ul>\n  <li>Tidemark</li>\n  <li>Cobblestone</li>\n  <li>Ambler</li>\n</ul>",
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
        (
            "+{1 + if true then 2 else 3}",
            "t:1:7 bad-tag a value is expected here, and \"if\" is a word of the language",
        ),
    ]);
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
        assert_eq!(Files::new(&[("t", &format!("+{{{value}}}"))]).page().0.unwrap(), truth.to_string(), "{value}");
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
            "+{each p in peas limit 2}+{p.title}+{between} after +{p.title}, +{end}",
            "Tidemark after Tidemark, Cobblestone",
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
        ("+{let n = peas where it.days > 76}+{n.count}+{each p in n where it.days < 85}+{p.title}+{end}", "2Ambler"),
        ("+{each p in peas where (peas as q where q.days > p.days).count == 0}+{p.title}+{end}", "Cobblestone"),
    ]);
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
        "<details open class=\"hausblatt-dump\"><summary>a record: Tidemark</summary><ul><li><b>title</b> <code>Tidemark</code> a text</li><li><b>days</b> <code>75</code> a number</li><li><details><summary><b>families</b> a list of 1</summary><ul><li><b>0</b> <code>legumes</code> a text</li></ul></details></li><li><b>sown</b> <code>2026-03-01</code> a day</li></ul></details>"
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
        ("<img srcset=\"+{image('/media/bed.svg').srcset([20])}\">", "<img>"),
        (
            "<img srcset=\"+{image('/media/bed.jpg').srcset([20, 30])}\">",
            "<img srcset=\"/media/a%20bed%2C1.jpg 20w, /media/a%20bed%2C1.jpg 30w\">",
        ),
        (
            "<link imagesrcset=\"+{image('/media/bed.jpg').srcset([20])}\">",
            "<link imagesrcset=\"/media/a%20bed%2C1.jpg 20w\">",
        ),
        (
            "<img srcset=\"/a.jpg 1w, +{image('/media/bed.jpg').srcset([20])}\">",
            "t:1:27 unprintable images in several widths are printed only as the whole of a srcset: srcset=\"+{…}\"",
        ),
        (
            "<img src=\"+{image('/media/bed.jpg').srcset([20])}\">",
            "t:1:13 unprintable images in several widths are printed only as the whole of a srcset: srcset=\"+{…}\"",
        ),
        (
            "+{json([image('/media/bed.jpg').srcset([20])])}",
            "t:1:3 bad-value images in several widths are printed only as the whole of a srcset: srcset=\"+{…}\"",
        ),
        (
            "+{image('/media/bed.jpg').srcset(20)}",
            "t:1:3 bad-value srcset needs a list of widths in pixels, as in .srcset([360, 720])",
        ),
        (
            "+{image('/media/bed.jpg').srcset([20, 'x'])}",
            "t:1:3 bad-value srcset needs a list of widths in pixels, as in .srcset([360, 720])",
        ),
        ("+{image('/media/bed.jpg').scaled(0)}", "t:1:3 bad-value a whole number above 0 is needed here, not 0"),
        (
            "+{image('/media/bed.jpg').scaled(2.5)}",
            "t:1:3 bad-value a whole number is needed here; .round(0) makes one",
        ),
        ("+{image('/media/bed.jpg').cropped('4', 3)}", "t:1:3 bad-value a whole number is needed here, not a text"),
        ("+{image('/media/bed.jpg').as(4)}", "t:1:3 bad-value as needs a format, as in .as(\"webp\")"),
        ("+{image('/media/bed.jpg').as('gif')}", "t:1:3 bad-value no image is made as \"gif\""),
        ("+{image(nothing).scaled(20)}", ""),
        ("+{image('/media/bed.jpg').keys.count}", "0"),
        ("+{image('/media/no.svg')}", "\nt:1:3 dead-reference there is no image \"/media/no.svg\""),
        ("+{image(nothing)}+{markdown(nothing)}", ""),
        ("+{markdown('a *b* <c>')}", "<p>a <em>b</em> &lt;c&gt;</p>"),
        ("+{markdown('a *b*').text}", "a b"),
        ("+{markdown(1)}", "t:1:3 bad-value a text is needed here, not a number"),
        ("+{first.keys.join(' ')}", "title days families sown"),
        ("+{first has 'days'} +{'x' in first}", "true false"),
        ("+{asset('lost.css')}", "\nt:1:3 dead-reference no theme of the lineage has the asset \"lost.css\""),
        ("+{absolute('https://x.example/')} +{absolute(nothing)}|", "https://x.example/ |"),
        ("+{(2.5).round(0)} +{(-2.5).round(0)} +{(7).round(2)}", "3 -3 7"),
        (
            "+{first.sown.format('%q')}",
            "t:1:3 bad-value \"%q\" is not a valid date format: \"%q\" is not a conversion of POSIX strftime",
        ),
    ]);
}

#[test]
fn members_of_lists_numbers_and_texts_that_compare() {
    check(&[
        ("+{[2, 10, 9].max} +{['b', 'A', 'c'].min} +{[nothing, first.sown].max} +{[].min}", "10 A 2026-03-01 "),
        ("+{(peas order by it.days).first.days} +{[1, 1.5].max}", "75 1.5"),
        (
            "+{[1, 1, 2].common([2, 1.0]).join(',')} +{[[1]].common([[1], 2]).count} +{['a'].common([]).count}",
            "1,1,2 1 0",
        ),
        (
            "+{peas.has_any([site])} +{[1, 2].has_any([2])} +{[1].has_any(['1'])} +{[].has_any([1])} +{[nothing].has_any(nothing)}",
            "false true false false false",
        ),
        ("+{(2.5).up} +{(2.5).down} +{(-2.5).up} +{3.up}", "3 2 -2 3"),
        ("+{'7'.pad(3, '0')}|+{'long'.pad(2, '0')}|+{'é'.pad(4, 'ab')}", "007|long|abaé"),
        (
            "+{each p, at in peas}+{p.days}+{between}+{if at.first}, after +{p.days} +{end}; +{end}",
            "75, after 75 ; 90; 80",
        ),
        ("+{['a', 1].max}", "t:1:3 bad-value a text and a number have no order"),
        ("+{[[1], 2].min}", "t:1:3 bad-value a list has no order"),
        ("+{[1].common(2).count}", "t:1:3 bad-value a list is needed here, not a number"),
        ("+{'a'.pad(3, '')}", "t:1:3 bad-value a text can't be filled up with an empty text"),
        ("+{'a'.pad(10001, 'x')}", "t:1:3 bad-value a text can't be filled up to more than 10000 characters"),
    ]);
}

#[test]
fn records_are_written_out() {
    check(&[
        (
            "+{let r = (name = \"Mara\", end = \"12:00\", \"@type\" = \"Person\",)}+{r.name} +{r.end} +{r[\"@type\"]}",
            "Mara 12:00 Person",
        ),
        ("+{json((b = 1, a = [(c = nothing)]))}", "{&quot;b&quot;:1,&quot;a&quot;:[{&quot;c&quot;:null}]}"),
        ("+{(if = 1, end = 2).keys.join(' ')}", "if end"),
        ("+{each r in [(n = 2), (n = 1)] order by it.n}+{r.n}+{end}", "12"),
        (
            "+{(a = 1)}",
            "t:1:3 unprintable a record can't be printed | print its members, or write it as JSON: json(VALUE)",
        ),
        ("+{(name = 1).nam}", "t:1:14 unknown-member this record has no \"nam\" | did you mean \"name\"?"),
        ("+{(a = 1, a = 2).a}", "t:1:11 bad-tag this record has \"a\" twice | take one of the two away"),
        (
            "+{if (any = 7)}a+{end}",
            "t:1:6 bad-tag this is a record, which always counts as true | write \"==\" to compare two values",
        ),
        (
            "+{(peas where (it = 1)).count}",
            "t:1:15 bad-tag this is a record, which always counts as true | write \"==\" to compare two values",
        ),
        (
            "+{not (any = 1)}",
            "t:1:7 bad-tag this is a record, which always counts as true | write \"==\" to compare two values",
        ),
        (
            "+{any and (any = 1)}",
            "t:1:11 bad-tag this is a record, which always counts as true | write \"==\" to compare two values",
        ),
        ("+{(a = 1 b = 2).a}", "t:1:10 bad-tag \")\" is missing before \"b\""),
    ]);
}

#[test]
fn queries_select() {
    check(&[
        ("+{(peas order by it.days select it.title).join(', ')}", "Tidemark, Ambler, Cobblestone"),
        ("+{(peas select it.days).sum} +{(range(1, 3) select it * it).join(' ')}", "245 1 4 9"),
        ("+{each p in peas limit 2 select p.title}+{p.upper} +{end}", "TIDEMARK COBBLESTONE "),
        (
            "+{each p in peas select (t = p.title, d = p.days)}+{p.t}:+{p.d} +{end}",
            "Tidemark:75 Cobblestone:90 Ambler:80 ",
        ),
        ("+{(peas group by it.families[0] select it.key + ':' + it.items.count).join(' ')}", "legumes:2 beets:1"),
        (
            "+{(peas as p where p.days > 76 select p.title).count} +{(peas select (it.families select it.upper).first).first}",
            "2 LEGUMES",
        ),
        ("+{(nothing select it).count}", ""),
        (
            "+{(peas select it.titel).count}",
            "3\nt:1:19 unknown-field no entry has or declares a field \"titel\" | did you mean \"title\"?",
        ),
        (
            "+{each p in peas select p.days}+{p.title}+{end}",
            "t:1:36 unknown-member a number has no \"title\" | a number has round, up, down, format",
        ),
        ("+{(3 select it).count}", "t:1:4 not-a-list a query goes through a list, and this is a number"),
        (
            "+{(peas select it limit 3).count}",
            "t:1:19 bad-tag \"limit\" comes too late in this query | the order is where, group by, order by, offset, limit, select",
        ),
    ]);
}

#[test]
fn statements_of_prepare_files_go_on_in_indented_lines() {
    let file = "let late = peas\n  # the late ones\n  where it.days > 76\n\torder by it.days\n\n  select it.title\nlet other = (\na = 1\n)\n  let third = 3\n";
    let files = Files::new(&[("t", "+{late.join(' ')} +{other.a} +{third}"), ("=1", file)]);
    assert_eq!(files.run(), "Ambler Cobblestone 1 3");
    let files = Files::new(&[("t", "+{a}"), ("=1", "let a = 1\nwhere b\n")]);
    let told = files.run();
    assert!(told.starts_with("=1:2:1 bad-tag a prepare file holds nothing but lines"), "{told}");
}
