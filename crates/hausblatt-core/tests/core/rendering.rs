//! What templates are given and what comes of it, on small sites: classes, references, routes, entries as values.

use crate::components::answer;

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
