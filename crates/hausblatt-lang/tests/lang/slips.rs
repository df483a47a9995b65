//! What people write who come from elsewhere: one report each, with what it is called here.

use crate::support::Files;

/// The report of a template, without its place and its code.
fn told(template: &str) -> String {
    let report = Files::new(&[("t", template), ("card", "+{x}")]).takes("card", &["x"]).page().1;
    let told = report.lines().map(|line| line.splitn(3, ' ').nth(2).unwrap_or("").to_owned());
    told.collect::<Vec<_>>().join("\n")
}

#[test]
fn slips_are_one_report_each() {
    let wrong: Vec<String> = SLIPS
        .iter()
        .map(|(template, expected)| (template, expected, told(template)))
        .filter(|(_, expected, found)| found != *expected)
        .map(|(template, expected, found)| format!("{template}\n expected {expected}\n    found {found}"))
        .collect();
    assert!(wrong.is_empty(), "{} of {} differ\n{}", wrong.len(), SLIPS.len(), wrong.join("\n"));
}

const SLIPS: &[(&str, &str)] = &[
    ("+{”a”}", "\"”\" is not a quotation mark here | write it in straight quotes: \"a\""),
    ("+{if any => 3}a+{end}", "\"=>\" has no meaning here | to compare write >=, and = to give a value"),
    (
        "+{$a + $b} +{$}",
        "\"$\" has no meaning here | names are written without a sign in front of them\n\"$\" has no meaning here | names are written without a sign in front of them",
    ),
    (
        "<pre>{{ a }}</pre><prefix>{{ any }} {{ b }}</prefix>",
        "this is printed as it is: tags are written +{…} here | a value is printed by +{any}",
    ),
    ("+{each p in peas}a+{endfor}", "there is no statement \"endfor\" | a block ends with +{end}, or +{end each}"),
    ("+{if any}a+{endblock}", "there is no statement \"endblock\" | a block ends with +{end}"),
    ("+{if any}a+{endif}", "there is no statement \"endif\" | a block ends with +{end}, or +{end if}"),
    ("+{each p in peas}a+{end_each}", "there is no statement \"end_each\" | a block ends with +{end}, or +{end each}"),
    ("+{if any}a+{elseif html}b+{end}", "there is no statement \"elseif\" | write +{else if …} in two words"),
    ("+{if any}a+{elif html}b+{end}", "there is no statement \"elif\" | write +{else if …} in two words"),
    (
        "+{if any}a+{else}b+{else}c+{end}",
        "this \"if\" has a second \"else\" | for another condition write +{else if …}, before it ~ t:1:11 the first is here",
    ),
    (
        "+{if any then}a+{end}",
        "\"then\" is not expected here | a block is written +{if A} … +{end}; a value: if A then B else C",
    ),
    ("+{slot 'a' with}", "a slot has no \"with\" | its default is between else and its end: +{slot \"aside\" else}"),
    ("+{for p in peas}a+{end}", "there is no statement \"for\" | a loop is written +{each x in LIST}"),
    ("+{foreach p in peas}a+{end}", "there is no statement \"foreach\" | a loop is written +{each x in LIST}"),
    ("+{unless any}a+{end}", "there is no statement \"unless\" | write +{if not …}"),
    (
        "+{while any}a+{end}",
        "there is no statement \"while\" | there are no loops without a list: write +{each x in range(1, 3)}",
    ),
    ("+{switch any}a+{end}", "there is no statement \"switch\" | write +{if …} +{else if …} +{else} … +{end}"),
    (
        "+{block 'a'}b+{end}",
        "there is no statement \"block\" | a hole in a layout is +{slot \"NAME\"}, and what fills it +{into \"NAME\"} … +{end}",
    ),
    ("+{set x = 1}", "there is no statement \"set\" | a value is named by +{let name = VALUE}"),
    (
        "+{x = 1}",
        "a tag that names a value begins with \"let\" | a value is named by +{let x = …}, and compared with ==",
    ),
    ("+{print any}", "there is no statement \"print\" | a value is printed by +{VALUE}"),
    (
        "+{include 'card'}",
        "there is no statement \"include\" | a partial is called by +{partial \"NAME\" given a = VALUE}",
    ),
    (
        "+{extends 'card'}",
        "there is no statement \"extends\" | a template names its layout in its front matter: layout: NAME",
    ),
    ("+{each p of peas}a+{end}", "\"in\" is expected here, not \"of\" | write: each name in list"),
    ("+{each peas as p}a+{end}", "\"in\" and a list are missing | write: each p in list"),
    ("+{each n in 1..3}a+{end}", "\"..\" has no meaning here | a range is written range(1, 3)"),
    ("+{each p in peas sort by it.days}a+{end}", "\"sort\" is not expected here | write: order by it.title"),
    ("+{each p in peas skip 2}a+{end}", "\"skip\" is not expected here | write: offset 2"),
    (
        "+{each p in peas order by it.days descending}a+{end}",
        "\"descending\" is not expected here | write \"desc\" after the value that the order is by",
    ),
    (
        "+{each p in peas order by it.days asc}a+{end}",
        "\"asc\" is not expected here | leave it out: a list is ordered upwards unless \"desc\" is written",
    ),
    ("+{each p in peas where days > 3}a+{end}", "unknown name \"days\" | the member of a query is it: write it.days"),
    ("+{each p in peas where it.title contains 'a'}a+{end}", "\"contains\" is not expected here | write: A has B"),
    ("+{if any || html}a+{end}", "\"||\" has no meaning here | write \"or\""),
    ("+{if any && html}a+{end}", "\"&&\" has no meaning here | write \"and\""),
    ("+{if !any}a+{end}", "\"!\" has no meaning here | write \"not\" in front of the value, or \"!=\" between two"),
    (
        "+{if any === 7}a+{end}",
        "\"===\" has no meaning here | write ==: values of different types never equal each other anyway",
    ),
    (
        "+{if any !== 7}a+{end}",
        "\"!==\" has no meaning here | write !=: values of different types never equal each other anyway",
    ),
    (
        "+{any ?? 'a'}",
        "\"??\" has no meaning here | write \"or\": it takes the second value where the first is nothing",
    ),
    ("+{any ? 'a' : 'b'}", "\"?\" has no meaning here | a choice is written: if A then B else C"),
    ("+{first?.title}", "\"?.\" has no meaning here | write a dot: a member of nothing is nothing"),
    ("+{first->title}", "\"->\" has no meaning here | a member is written with a dot, as in content.title"),
    (
        "+{first.title | upper}",
        "\"|\" has no meaning here | to change a value, put a dot and a member after it, as in title.upper",
    ),
    ("+{first.title ~ 'a'}", "\"~\" has no meaning here | texts are joined with +"),
    ("+{$first}", "\"$\" has no meaning here | names are written without a sign in front of them"),
    ("+{first.title;}", "\";\" has no meaning here | a tag holds one value or statement, without a semicolon"),
    ("+{“a”}", "\"“\" is not a quotation mark here | write it in straight quotes: \"a\""),
    (
        "+{'a’}",
        "this tag is never ended | write \"}\" where it ends; to print the two characters themselves, write \"++{\"",
    ),
    ("+{ # a }", "\"#\" has no meaning here | a comment is written +{# … #}"),
    ("+{/* a */}", "\"/*\" has no meaning here | a comment is written +{# … #}"),
    ("+{// a}", "\"//\" has no meaning here | a comment is written +{# … #}"),
    ("+{-- a --}", "\"--\" has no meaning here | a comment is written +{# … #}"),
    ("+{null}", "unknown name \"null\" | the absent value is written nothing"),
    ("+{True}", "unknown name \"True\" | write true"),
    ("+{now}", "unknown name \"now\" | the day it is is today"),
    (
        "+{page.title}",
        "unknown name \"page\" | the page or entry that is requested is content; other data of the request is in request",
    ),
    ("+{len(peas)}", "unknown function \"len\" | write .count after a list, and .length after a text"),
    ("+{default(any, 'a')}", "unknown function \"default\" | write: A or B"),
    ("+{date(first.sown)}", "unknown function \"date\" | write .format(\"%-d %B %Y\") after a date"),
    ("+{upper('a')}", "unknown function \"upper\" | it comes after the value: VALUE.upper"),
    (
        "+{absolute('page:visit')}",
        "\"absolute\" takes an address, and \"page:visit\" is none | write: absolute(url(\"page:visit\"))",
    ),
    ("+{peas.length}", "a list has no \"length\" | here it is called \"count\""),
    ("+{peas.map}", "a list has no \"map\" | go through the list with \"each\""),
    ("+{peas.filter('a')}", "a list has no \"filter\" | members are chosen by: LIST where it.easy"),
    ("+{first.title.count}", "a text has no \"count\" | here it is called \"length\""),
    ("+{first.title.first}", "a text has no \"first\" | that is asked of a list; .split(\",\") makes one of a text"),
    ("+{first.title.startsWith('a')}", "a text has no \"startsWith\" | here it is called \"starts\""),
    ("+{first.title.includes('a')}", "a text has no \"includes\" | write: A has B"),
    ("+{site.name}", "the site has no \"name\" | here it is called \"title\""),
    ("+{first.headline}", "no entry has or declares a field \"headline\" | here it is called \"title\""),
    (
        "+{partial card given x = 1}",
        "a computed name must begin with a quoted text that ends in \"/\" | if it is called so, write it in quotes: \"card\"",
    ),
    (
        "+{partial 'card.html' given x = 1}",
        "unknown partial \"card.html\" | write \"card\": its folder and its extension are known",
    ),
    (
        "+{partial 'partials/card' given x = 1}",
        "unknown partial \"partials/card\" | write \"card\": its folder and its extension are known",
    ),
    ("+{partial 'card' x = 1}", "\"given\" is missing before \"x\" | write: given x = …"),
    (
        "+{partial 'card' given x = 1 y = 2}",
        "a comma is missing before \"y\" | write: given a = 1, b = 2\nthe partial \"card\" takes no \"y\" | did you mean \"x\"?",
    ),
    (
        "{{ first.title }}",
        "this is printed as it is: tags are written +{…} here | a value is printed by +{first.title}",
    ),
    (
        "{% if any %}a{% endif %}",
        "this is printed as it is: tags are written +{…} here | a value is printed by +{VALUE}, and statements are written +{if …}, +{each …}",
    ),
    ("<script>a(\"{{ b }}\")</script><pre>{% c %}</pre><!-- {{ d }} -->", ""),
    ("a {b} {{}} {", ""),
    ("+{2--1}", ""),
];
