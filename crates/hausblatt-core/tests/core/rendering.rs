//! What templates are given and what comes of it, on small sites: classes, references, routes, entries as values.

use hausblatt_core::check::Scope;
use hausblatt_core::files::Snapshot;
use hausblatt_core::{SiteOptions, world::World};
use hausblatt_lang::text::source::position;

use crate::components::answer;
use crate::support::{checked_in_words, demo, snapshot};

const BODY: (&str, &str) = ("themes/t/layouts/document.html", "<body class=\"+{classes.join(\" \")}\">+{slot}");

#[test]
fn templates_add_classes() {
    let front = |text: &'static str| ("themes/t/templates/front.html", text);
    assert_eq!(answer(&[BODY, front("---\nclasses: [wide, home]\n---\nx")], "/"), "<body class=\"front home wide\">x");
    assert_eq!(answer(&[BODY, front("---\nclasses: wide\n---\nx")], "/"), "<body class=\"front home wide\">x");
    let child = [
        BODY,
        ("hausblatt.toml", "[site]\ntitle = \"S\"\ntheme = \"u\"\n[front]\npage = \"home\"\n"),
        ("themes/u/hausblatt-theme.toml", "[theme]\nparent = \"t\"\n"),
        ("themes/u/templates/front.html", "---\nclasses: [near]\n---\n+{inherited}"),
        front("---\nclasses: [far]\n---\nx"),
    ];
    assert_eq!(answer(&child, "/"), "<body class=\"front home near far\">x");
    assert_eq!(
        answer(&[BODY, front("---\nclasses: [wide quiet]\n---\nx")], "/"),
        "front.html:2:11 wrong-value: a class is a word without spaces | write them as in classes: [wide, quiet]"
    );
    let partial = [front("+{partial \"p\"}"), ("themes/t/partials/p.html", "---\nclasses: [a]\n---\nx")];
    assert_eq!(
        answer(&partial, "/"),
        "p.html:2:1 unknown-key: unknown key \"classes\" in the front matter | its keys are label, about, for, layout, takes"
    );
}

/// A journal with a feed, periods, a view and a taxonomy; what the front says of them.
const JOURNAL: &[(&str, &str)] = &[
    (
        "hausblatt.toml",
        "[site]\ntitle = \"S\"\ntheme = \"t\"\naddress = \"https://seeds.example\"\n[front]\npage = \"home\"\n[collections.notes]\naddress = \"/notes/{slug}/\"\nlisting = \"/notes/\"\nfeed = true\nperiods = [\"year\", \"month\"]\nviews = [\"print\"]\n[taxonomies.bed]\nof = [\"notes\"]\naddress = \"/beds/{term}/\"\n",
    ),
    ("content/notes/frost.md", "---\ndate: 2026-03-04\nbed: [south]\n---\nCold."),
    ("content/pages/beds/south.md", "---\ntitle: The south bed\n---\nDry."),
];

#[test]
fn all_that_has_an_address_can_be_named() {
    let front = |text: &'static str| {
        let mut files = JOURNAL.to_vec();
        files.push(("themes/t/templates/front.html", text));
        answer(&files, "/")
    };
    for (text, expected) in [
        (
            "+{url(\"feed:notes\")} +{url(\"period:notes/2026/03\")} +{url(\"period:notes/2026\")}",
            "/notes/feed.xml /notes/2026/03/ /notes/2026/",
        ),
        (
            "+{each n in notes}+{n.views.print}+{n.views[\"print\"]}+{end} +{content.views.print}",
            "/notes/frost/print//notes/frost/print/ ",
        ),
        (
            "+{url(\"feed:note\")}",
            "front.html:1:7 dead-reference: broken reference \"feed:note\" | did you mean \"feed:notes\"?",
        ),
        (
            "+{url(\"period:notes/2027\")}",
            "front.html:1:7 dead-reference: broken reference \"period:notes/2027\" | nothing is in this period, or the collection has no periods of this length",
        ),
        (
            "+{each n in notes}+{n.views.prnt}+{end}",
            "front.html:1:29 missing-on-site: the site has no view \"prnt\" | did you mean \"print\"?",
        ),
    ] {
        assert_eq!(front(text), expected, "{text}");
    }
    let mut files = JOURNAL.to_vec();
    files.push((
        "themes/t/templates/listing.html",
        "+{listing.feed}|+{content.title}+{content.body}+{listing.items.count}",
    ));
    assert_eq!(answer(&files, "/notes/"), "/notes/feed.xml|1");
    assert_eq!(answer(&files, "/notes/2026/"), "|1");
    // A page at a term's address introduces its listing, as it does a collection's.
    assert_eq!(answer(&files, "/beds/south/"), "|The south bed<p>Dry.</p>\n1");
}

const PEOPLE: &[(&str, &str)] = &[
    (
        "hausblatt.toml",
        "[site]\ntitle = \"S\"\ntheme = \"t\"\naddress = \"https://seeds.example\"\n[front]\npage = \"home\"\n[pages.fields]\nnext = { type = \"page\" }\n[collections.people]\naddress = \"/people/{slug}/\"\n[collections.notes]\naddress = \"/notes/{slug}/\"\nlisting = \"/notes/\"\nfeed = true\n[collections.notes.fields]\nauthors = { type = \"list\", of = \"entry\", collection = \"people\" }\nguide = { type = \"entry\", collection = \"people\" }\nparts = { type = \"list\", fields = [ { name = \"by\", type = \"entry\", collection = \"people\" } ] }\n",
    ),
    ("content/people/mara.md", "---\ntitle: Mara <Beet>\n---\nShe digs."),
    ("content/people/tom.md", "---\ntitle: Tom\ndraft: true\n---\n"),
    (
        "content/notes/frost.md",
        "---\ndate: 2026-03-04\nauthors: [mara, tom]\nguide: mara\nparts: [ { by: mara } ]\n---\nCold.",
    ),
    ("content/pages/home.md", "---\nnext: home\n---\n"),
];

#[test]
fn fields_name_content() {
    let front = |text: &'static str| {
        let mut files = PEOPLE.to_vec();
        files.push(("themes/t/templates/front.html", text));
        answer(&files, "/")
    };
    for (text, expected) in [
        ("+{content.next.title} +{content.next.next.next.address} +{content.next == content}", "Home / true"),
        (
            "+{notes.first.guide.title}+{notes.first.guide.body}+{notes.first.guide.address}",
            "Mara &lt;Beet&gt;<p>She digs.</p>\n/people/mara/",
        ),
        ("+{each by in notes.first.authors}+{by.title} +{by.address};+{end}", "Mara &lt;Beet&gt; /people/mara/;Tom ;"),
        ("+{each part in notes.first.parts}+{part.by.id}+{end}", "mara"),
        ("+{(notes where it.guide == people.first).count}+{(notes where it.authors has people.first).count}", "11"),
        ("+{each g in notes group by it.guide}+{g.key.title}:+{g.items.count}+{end}", "Mara &lt;Beet&gt;:1"),
        (
            "+{let guide = people.first}+{(notes where it.guide == guide).first.id} +{(notes order by it.guide.title).first.id}",
            "frost frost",
        ),
        ("+{notes.first.guide.keys.first}+{notes.first.guide[\"title\"]}", "idMara &lt;Beet&gt;"),
        (
            "+{notes.first.guide.titel}",
            "front.html:1:21 unknown-field: no entry of people has or declares a field \"titel\" | did you mean \"title\"?",
        ),
        ("+{notes.first.guide}", "front.html:1:3 unprintable: a record can't be printed; print one of its members"),
    ] {
        assert_eq!(front(text), expected, "{text}");
    }
    assert!(
        answer(PEOPLE, "/notes/feed.xml").contains("<name>Mara &lt;Beet&gt;</name>"),
        "{}",
        answer(PEOPLE, "/notes/feed.xml")
    );
    let mut files = PEOPLE.to_vec();
    files[3].1 = "---\ndate: 2026-03-04\nguide: mraa\nauthors: [jo, tom]\n---\n";
    files.extend([
        ("themes/t/hausblatt-theme.toml", ""),
        ("themes/t/templates/fallback.html", "---\nlayout: none\n---\nx"),
    ]);
    let world = World::load(Snapshot::in_memory(files.iter().copied()), SiteOptions::on("2026-11-23".parse().unwrap()));
    let found = hausblatt_core::check::run(&world.unwrap(), &Scope::Whole, &|_, _| {});
    let lost = found.iter().filter(|one| one.diagnostic.code == "dead-reference");
    let said = lost.map(|one| {
        let at = one.diagnostic.place.as_ref().map(|place| position(files[3].1, place.span.start).line);
        format!("{} {} {:?}", at.unwrap_or(0), one.diagnostic.message, one.diagnostic.help)
    });
    assert_eq!(
        said.collect::<Vec<_>>(),
        [
            "3 there is no entry \"mraa\" in people Some(\"did you mean \\\"mara\\\"?\")",
            "4 there is no entry \"jo\" in people None"
        ]
    );
    let mut files = PEOPLE.to_vec();
    let config = files[0].1.replace(
        "guide = { type = \"entry\", collection = \"people\" }",
        "guide = { type = \"entry\", collection = \"peple\" }",
    );
    files[0].1 = &config;
    assert_eq!(
        answer(&files, "/"),
        "hausblatt.toml:17:1 dead-reference: \"guide\" names entries of \"peple\", which is not a collection of this site | did you mean \"people\"?"
    );
    let config =
        PEOPLE[0].1.replace("guide = { type = \"entry\", collection = \"people\" }", "guide = { type = \"entry\" }");
    files[0].1 = &config;
    assert_eq!(
        answer(&files, "/"),
        "hausblatt.toml:17:18 missing-key: an entry lacks its collection | write collection = \"people\""
    );
}

#[test]
fn a_text_has_trays_in_it() {
    let of = |front: &'static str, component: &'static str, page: &'static str| {
        let files = [
            ("themes/t/components/bed/component.toml", "[[fields]]\nname = \"text\"\ntype = \"rich\"\n"),
            ("themes/t/components/bed/component.html", component),
            ("themes/t/templates/front.html", front),
            ("content/pages/home.md", page),
        ];
        answer(&files, "/")
    };
    let page =
        "---\ntrays:\n  middle:\n    - component: bed\n      text: \"*South*\"\n---\nA\n\n<!-- tray middle -->\n\nB\n";
    let bed = "[+{text.text}]";
    for (front, expected) in [
        ("+{content.body}", "<p>A</p>\n[South\n]\n\n<p>B</p>\n"),
        ("+{raw content.body}", "<p>A</p>\n[South\n]\n\n<p>B</p>\n"),
        ("+{let a with}+{content.body}+{end}+{a}", "<p>A</p>\n[South\n]\n\n<p>B</p>\n"),
        ("+{let a = content.body + \"!\"}+{a}", "<p>A</p>\n[South\n]\n\n<p>B</p>\n!"),
        ("<b title=\"+{content.body}\">+{content.body.text.words(2)}</b>", "<b title=\"A\n\nB\n\">A\n\nB\n</b>"),
        (
            "<script type=\"application/json\">+{content.body}</script>",
            "<script type=\"application/json\">\"\\u003cp\\u003eA\\u003c/p\\u003e\\n\\n\\u003cp\\u003eB\\u003c/p\\u003e\\n\"</script>",
        ),
        ("+{content.summary} +{content.minutes}", "A 1"),
        ("+{component \"bed\" given text = content.body}", "[A\n\nB\n]"),
    ] {
        assert_eq!(of(front, bed, page), expected, "{front}");
    }
    // Inside a component there is nothing, so that nothing goes in circles.
    assert_eq!(of("+{content.body}", "[+{content.body}]", page), "<p>A</p>\n[<p>A</p>\n\n<p>B</p>\n]\n\n<p>B</p>\n");
    let listed = [
        ("themes/t/components/bed/component.html", "[bed]"),
        ("themes/t/templates/front.html", "+{each p in content.children}+{p.body}+{end}"),
        ("content/pages/home/south.md", "---\ntrays: { a: [ { component: bed } ] }\n---\n<!-- tray a -->\n"),
    ];
    assert_eq!(answer(&listed, "/"), "[bed]\n\n");
}

fn routed(route: &str, more: &[(&str, &str)], address: &str) -> String {
    let config = format!("{}[routes.press]\n{route}\n", JOURNAL[0].1);
    let mut files = JOURNAL.to_vec();
    files[0].1 = &config;
    files.push(("content/notes/thaw.md", "---\ndate: 2026-04-01\ntitle: Thaw\n---\n"));
    files.extend(more);
    answer(&files, address)
}

#[test]
fn routes_have_values_templates_items_and_queries() {
    let shared = |text: &'static str| [("themes/t/templates/route/cards.html", text)];
    let of = |route: &str, text: &'static str, address: &str| routed(route, &shared(text), address);
    let cards = "address = \"/press/\"\ntemplate = \"cards\"\n";
    assert_eq!(
        of(
            &format!("{cards}values = {{ intro = \"A & b\", on = [1, 2] }}"),
            "+{route.values.intro}+{route.values.on.last}",
            "/press/"
        ),
        "A &amp; b2"
    );
    assert_eq!(
        of(&format!("{cards}values = {{ intro = 1 }}"), "+{route.values.itro}", "/press/"),
        "cards.html:1:16 missing-on-site: the site has no value of a route \"itro\" | did you mean \"intro\"?"
    );
    let listing =
        "+{listing.collection} +{listing.page}/+{listing.pages.count} +{listing.items.first.title} +{listing.next}";
    let paged = format!("{cards}items = \"notes\"\nper_page = 1");
    assert_eq!(of(&paged, listing, "/press/"), "notes 1/2 Frost /press/page/2/");
    assert_eq!(of(&paged, listing, "/press/page/2/"), "notes 2/2 Thaw ");
    assert_eq!(of(&paged, "+{request.status}", "/press/page/3/"), "x");
    let query = format!("{cards}query = [\"size\"]");
    let size = "+{request.query.size}|+{request.query.size == \"<2\"}";
    assert_eq!(of(&query, size, "/press/?a=1&size=%3C2&size=3"), "&lt;2|true");
    assert_eq!(of(&query, size, &format!("/press/?size={}", "x".repeat(201))), "|false");
    assert_eq!(of(&query, size, "/press/"), "|false");
    assert_eq!(
        of(&query, "+{request.query.sice}", "/press/"),
        "cards.html:1:17 missing-on-site: the site has no name in the query of a route \"sice\" | did you mean \"size\"?"
    );
    let app = routed(
        "address = \"/site.webmanifest\"\nformat = \"json\"",
        &[("themes/t/templates/route/press.json", "{\"name\": +{site.title}}")],
        "/site.webmanifest",
    );
    assert_eq!(app, "{\"name\": \"S\"}");
}

#[test]
fn what_is_wrong_with_a_route() {
    for (route, expected) in [
        (
            "address = \"/press/\"\nitems = \"note\"",
            "hausblatt.toml:18:9 dead-reference: broken reference \"collection:note\" | did you mean \"notes\"?",
        ),
        (
            "address = \"/press/\"\nper_page = 2",
            "hausblatt.toml:18:1 wrong-value: per_page counts entries, and this route lists none | say what is listed: items = \"COLLECTION\"",
        ),
        (
            "address = \"/press/\"\nquery = [\"a-b\"]",
            "hausblatt.toml:18:10 bad-name: \"a-b\" can't be read as request.query.NAME | write letters, digits and _, as in query = [\"size\"]",
        ),
        (
            "address = \"/press/\"\nformat = \"jsn\"",
            "hausblatt.toml:18:10 wrong-value: there is no format \"jsn\" | did you mean \"json\"?",
        ),
        (
            "address = \"/press/\"\ntemplate = \"cards\"",
            "hausblatt.toml:18:12 template-missing: no theme of the lineage has templates/route/cards.html | create it with: hausblatt start template route/cards",
        ),
        (
            "address = \"/app.webmanifest\"",
            "hausblatt.toml:17:11 bad-address: \"/app.webmanifest\" is not a valid address of a route | such an ending does not say what the answer is written in: write format = \"json\", or another one",
        ),
        (
            "address = \"/app.js\"\nformat = \"txt\"",
            "hausblatt.toml:17:11 wrong-value: an address that ends in .js can't have the format \"txt\" | no value is safe in a script: put it into a file in assets/, and hand values over in data- attributes",
        ),
        (
            "address = \"/app.htm\"\nformat = \"txt\"",
            "hausblatt.toml:17:11 wrong-value: an address that ends in .htm can't have the format \"txt\" | it is read as HTML: write format = \"html\"",
        ),
    ] {
        assert_eq!(routed(route, &[], "/"), expected, "{route}");
    }
}

#[test]
fn lists_that_are_replaced() {
    let with = |front: &str| {
        let files = [
            BODY,
            ("themes/t/prepare/all.let", "let beds = [1]\nlet classes = classes + [\"all\"]\n"),
            ("themes/t/prepare/front.let", front),
            ("themes/t/templates/front.html", "+{beds.join(\" \")}"),
        ];
        answer(&files, "/")
    };
    assert_eq!(with("let beds = beds + [2]\n"), "<body class=\"front home all\">1 2");
    assert_eq!(
        with("let beds = [2]\n"),
        "front.let:1:5 list-replaced: this replaces the list \"beds\" that an earlier prepare file builds | to add to it, write: let beds = beds + […]"
    );
    assert_eq!(
        with("let classes = [\"front\"]\n"),
        "front.let:1:5 list-replaced: this replaces the list \"classes\" that an earlier prepare file builds | to add to it, write: let classes = classes + […]"
    );
    let alone = [BODY, ("themes/t/prepare/page.let", "let classes = [\"a\"]\n")];
    assert_eq!(
        answer(&alone, "/"),
        "page.let:1:5 list-replaced: this replaces \"classes\", which hold what is requested and what templates add | to add to it, write: let classes = classes + […]"
    );
}

#[test]
fn drawings_are_put_into_pages() {
    const SVG: &str = "<svg xmlns=\"http://www.w3.org/2000/svg\"><g id=\"a\"/><use href=\"#a\"/></svg>";
    let front = |text: &'static str| {
        let files = [
            BODY,
            ("themes/t/assets/bed.svg", SVG),
            ("themes/t/assets/loud.svg", "<svg xmlns=\"http://www.w3.org/2000/svg\">\n<script/></svg>"),
            ("themes/t/assets/plain.svg", "<svg xmlns=\"http://www.w3.org/2000/svg\"/>"),
            ("themes/t/assets/bed.png", "1"),
            ("media/bed.svg", SVG),
            ("themes/t/templates/front.html", text),
        ];
        answer(&files, "/").replace("<body class=\"front home\">", "").replace("<body class=\"front\">", "")
    };
    for (text, expected) in [
        ("+{inline(\"plain.svg\")}", "<svg aria-hidden=\"true\"></svg>"),
        ("+{inline(\"plain.svg\", \"A <bed>\")}", "<svg role=\"img\"><title>A &lt;bed&gt;</title></svg>"),
        (
            "+{each n in [1, 2]}+{inline(\"bed.svg\")}+{end}",
            "<svg aria-hidden=\"true\"><g id=\"drawing-1-a\"/><use href=\"#drawing-1-a\"/></svg>\
             <svg aria-hidden=\"true\"><g id=\"drawing-2-a\"/><use href=\"#drawing-2-a\"/></svg>",
        ),
        ("+{let name = nothing}[+{inline(name)}]", "[]"),
        (
            "+{inline()}",
            "front.html:1:3 argument-count: \"inline\" takes 1 argument, not 0 | write 1 value in the brackets",
        ),
        (
            "+{inline(\"bed.svg\", \"a\", 1)}",
            "front.html:1:3 argument-count: \"inline\" takes 2 arguments, not 3 | write 2 values in the brackets",
        ),
        (
            "+{inline(\"loud.svg\")}",
            "front.html:1:3 bad-value: \"loud.svg\" can't be put into a page: it has a script on line 2",
        ),
        (
            "+{inline(\"bed.png\")}",
            "front.html:1:3 bad-value: \"bed.png\" can't be put into a page: only an SVG file can",
        ),
        (
            "+{inline(\"/media/bed.svg\")}",
            "front.html:1:10 unknown-asset: no theme of the lineage has the asset \"/media/bed.svg\" | an image of the site's \
             media is image(\"/media/bed.svg\")",
        ),
        (
            "+{inline(\"bad.svg\")}",
            "front.html:1:10 unknown-asset: no theme of the lineage has the asset \"bad.svg\" | did you mean \"bed.svg\"?",
        ),
    ] {
        assert_eq!(front(text), expected, "{text}");
    }
}

#[test]
fn a_slot_that_is_lost_is_not_named_among_those_there_are() {
    let files = demo();
    files.write("themes/harbour/templates/listing.html", "<h1>+{listing.title}</h1>\n+{partial \"entries\"}\n");
    let said = checked_in_words(&snapshot(&files));
    let lost: Vec<&str> =
        said.iter().map(|(_, words)| words.as_str()).filter(|words| words.contains("unknown-slot")).collect();
    expect_test::expect![[r#"themes/hedgerow/templates/listing/family.html:3 warning unknown-slot: neither themes/harbour/templates/listing.html nor the layout themes/harbour/layouts/document.html has a slot "intro" | the slots are aside, head, header, title (+1)"#]].assert_eq(&lost.join("\n"));
}
