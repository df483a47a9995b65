//! Every error that `check` knows, planted in the demo one at a time: found at its line, and gone when it is fixed.

use expect_test::{ExpectFile, expect_file};
use hausblatt_core::check::codes;
use hausblatt_core::files::memory::Memory;

use crate::support::{Said, checked, checked_in_words, demo, snapshot};

/// An error: its code, the file, what is replaced there (nothing: all of it), by what, and a piece of the line where it
/// shall be found: in the same file, or behind an `@` another one.
struct Planted(&'static str, &'static str, &'static str, &'static str, &'static str);

const VARIETY: &str = "themes/hedgerow/templates/entry/varieties.html";
const PAGE: &str = "themes/loam/templates/page.html";
const ENTRY: &str = "themes/harbour/templates/entry.html";
const CARD: &str = "themes/loam/partials/card.html";
const DOCUMENT: &str = "themes/loam/layouts/document.html";
const COMING: &str = "themes/hedgerow/templates/page/coming.html";
const LOST: &str = "themes/hedgerow/templates/error/404.html";
const VISIT: &str = "content/pages/visit.md";
const SCARLET: &str = "content/varieties/scarlet-runner.md";
const SITE: &str = "hausblatt.toml";

const FALLBACK: &str = "themes/loam/templates/fallback.html";
/// What a browser makes of pages.
const IN_PAGES: &[Planted] = &[
    Planted("no-alt", CARD, " alt=\"\"", "", "<img src"),
    Planted(
        "image-without-alt",
        VARIETY,
        "alt=\"Drawing of +{content.title}\"",
        "alt=\"+{content.image.alt}\"",
        "image: /media/@content/varieties/scarlet-runner.md",
    ),
    Planted("image-without-size", CARD, " width=\"320\" height=\"240\"", "", "<img src"),
    Planted("image-without-size", ENTRY, " height=\"+{photo.height}\"", "", "entry-photo"),
    Planted("no-sizes", ENTRY, " sizes=\"(max-width: 44rem) 100vw, 42rem\"", "", "entry-photo"),
    Planted(
        "oversized-image",
        ENTRY,
        "src=\"+{photo}\" srcset=\"+{photo.srcset([480, 800])}\" sizes=\"(max-width: 44rem) 100vw, 42rem\" width=\"+{photo.width}\"",
        "src=\"+{content.image}\" width=\"320\"",
        "entry-photo",
    ),
    Planted(
        "oversized-image",
        ENTRY,
        "srcset=\"+{photo.srcset([480, 800])}\" sizes=\"(max-width: 44rem) 100vw, 42rem\"",
        "srcset=\"+{photo.srcset([1000])}\" sizes=\"300px\"",
        "entry-photo",
    ),
    Planted("no-alt", VARIETY, " alt=\"Drawing of +{content.title}\"", "", "variety-picture"),
    Planted(
        "repeated-id",
        CARD,
        "<span class=\"packet-name\">",
        "<span class=\"packet-name\" id=\"card\">",
        "id=\"card\"",
    ),
    Planted("repeated-id", PAGE, "<h1>", "<h1 id=\"main\">", "<h1"),
    Planted("attribute-twice", PAGE, "<article class=\"text\">", "<article class=\"text\" class=\"wide\">", "<article"),
    Planted(
        "moved-element",
        VARIETY,
        "<dl class=\"facts\">",
        "<table><p>Facts</p></table><dl class=\"facts\">",
        "<p>Facts",
    ),
    Planted(
        "moved-element",
        CARD,
        "<span class=\"packet-note\">",
        "<a href=\"/visit/\">Visit</a><span class=\"packet-note\">",
        "/visit/",
    ),
    Planted("stray-end", ENTRY, "</article>", "</div></article>", "</div>"),
    Planted("stray-end", PAGE, "+{content.body}", "<p>+{content.body}</p>", "<p>+{content"),
    Planted("unclosed-element", ENTRY, "<article class=\"text\">", "<article class=\"text\"><section>", "<section>"),
    Planted("unknown-element", PAGE, "<h1>", "<sapn>1</sapn><h1>", "<sapn>"),
    Planted("unknown-attribute", PAGE, "<article class", "<article calss", "<article"),
    Planted("missing-slash", PAGE, "<h1>", "<a href=\"/visit\">Visit</a><h1>", "/visit\""),
    Planted("missing-slash", VISIT, "## Before", "[Come](/growers)\n\n## Before", "/growers"),
    Planted(
        "label-without-field",
        "themes/hedgerow/templates/search.html",
        "for=\"search-q\"",
        "for=\"search-w\"",
        "search-w",
    ),
    Planted("stray-item", PAGE, "<h1>", "<li>1</li><h1>", "<li>1"),
    Planted("nested-control", PAGE, "<h1>", "<a href=\"/\"><button>1</button></a><h1>", "<button>"),
    Planted("bad-json-script", PAGE, "<h1>", "<script type=\"application/json\">{,}</script><h1>", "{,}"),
    Planted("bad-xml", "themes/loam/templates/listing.xml", "", "<feed>\n<a></feed>\n", "<a>"),
    Planted("bad-drawing", "themes/harbour/assets/icon.svg", "</svg>", "<g></svg>", ""),
    Planted("bad-markup", PAGE, "<article class=\"text\">", "<article class=\"text\"id=\"a\">", "<article"),
    Planted("document-twice", PAGE, "<article class=\"text\">", "<article class=\"text\"><body>", "<body>"),
    Planted(
        "no-document",
        "themes/hedgerow/templates/search.html",
        "",
        "---\nlayout: none\n---\n<p>Found</p>\n",
        "Found",
    ),
    Planted("no-title", DOCUMENT, "+{slot \"title\" else}+{request.title} – +{site.title}+{end}", "", "<title>"),
    Planted("no-language", DOCUMENT, "<html lang=\"+{site.language}\">", "<html>", "<html>"),
    Planted("blank-page", COMING, "", "+{content.tagline}", ""),
    Planted("broken-link", PAGE, "<h1>", "<a href=\"/vsit/\">Visit</a><h1>", "/vsit/"),
    Planted("unknown-tray", VISIT, "## Before", "<!-- tray mian -->\n\n## Before", "<!-- tray"),
    Planted("broken-link", VISIT, "## Before", "[Come](/visits/) soon.\n\n## Before", "/visits/"),
    Planted("broken-anchor", PAGE, "<h1>", "<a href=\"/visit/#beds\">Beds</a><h1>", "#beds"),
    Planted("broken-anchor", VISIT, "## Before", "[Come](#soon)\n\n## Before", "#soon"),
    Planted(
        "missing-file",
        "themes/harbour/templates/front.html",
        "/media/drawers.svg",
        "/media/drawer.svg",
        "/media/drawer.svg",
    ),
    Planted(
        "missing-file",
        DOCUMENT,
        "+{slot \"head\"}",
        "<script src=\"/assets/menu.js\" defer></script>\n  +{slot \"head\"}",
        "menu.js",
    ),
    Planted("layout-without-robots", DOCUMENT, "+{request.robots}\">", "noindex\">", "<html"),
    Planted("layout-without-styles", DOCUMENT, "+{used \"styles\"}", "", "<html"),
];

/// What a template says.
const IN_TEMPLATES: &[Planted] = &[
    Planted("raw-used", ENTRY, "+{content.body}", "+{raw content.title}", "raw"),
    Planted("dump-left-behind", ENTRY, "+{content.body}", "+{if false}+{dump content}+{end}+{content.body}", "dump"),
    Planted("unknown-partial", PAGE, "+{partial \"crumbs\"}", "+{partial \"crumps\"}", "crumps"),
    Planted("unknown-component", PAGE, "+{content.body}", "+{component \"notise\"}", "notise"),
    Planted("unknown-name", PAGE, "+{content.title}", "+{contents.title}", "contents.title"),
    Planted("unknown-member", PAGE, "+{content.title}", "+{request.titel}", "titel"),
    Planted("unknown-field", VARIETY, "+{content.latin}", "+{content.latn}", "latn"),
    Planted("unknown-function", PAGE, "+{content.title}", "+{adress(\"/\")}", "adress"),
    Planted("unknown-asset", DOCUMENT, "asset('loam.css')", "asset('loan.css')", "loan.css"),
    Planted(
        "unknown-layout",
        "themes/hedgerow/templates/search.html",
        "",
        "---\nlayout: documents\n---\n<p>Found</p>\n",
        "documents",
    ),
    Planted(
        "missing-parameter",
        "themes/harbour/templates/front.html",
        "\"card/varieties\" given entry = entry",
        "\"card/varieties\"",
        "\"card/varieties\"",
    ),
    Planted(
        "unknown-parameter",
        "themes/harbour/templates/front.html",
        "\"card/varieties\" given entry = entry",
        "\"card/varieties\" given entry = entry, wide = true",
        "wide",
    ),
    Planted(
        "unclosed-block",
        ENTRY,
        "  +{if content.date}",
        "  +{if content.title}\n  +{if content.date}",
        "+{if content.title}",
    ),
    Planted("unknown-language", PAGE, "+{content.title}", "+{today.format(\"%B\", \"germn\")}", "germn"),
    Planted("dead-branch", PAGE, "<h1>", "+{if today}1+{else if today}2+{end}<h1>", "+{if today}"),
    Planted("uneven-branches", PAGE, "<h1>", "+{if content.tagline}<div>+{end}<h1>", "<div>"),
    Planted("unclosed-tag", PAGE, "+{partial \"crumbs\"}", "+{partial \"crumbs}", "crumbs}"),
    Planted("dead-reference", VARIETY, "collection:varieties", "collection:varietys", "varietys"),
    Planted("unknown-slot", PAGE, "+{into \"aside\"}", "+{into \"asid\"}", "asid"),
    Planted("unsafe-place", PAGE, "<h1>", "<h1 onclick=\"+{content.title}\">", "onclick"),
    Planted(
        "document-in-layout",
        "themes/hedgerow/templates/search.html",
        "",
        "<!doctype html>\n<html lang=\"en\"></html>\n",
        "<html",
    ),
    Planted(
        "let-without-effect",
        PAGE,
        "  +{content.body}",
        "  +{let a = 1}\n  +{if content.body}+{let a = 2}+{end}\n  +{a}+{content.body}",
        "a = 2",
    ),
    Planted("misnamed-template", "themes/harbour/templates/page/vist.html", "", "<p>1</p>", ""),
    Planted("unknown-theme-folder", "themes/harbour/partial/card.html", "", "<p>1</p>", ""),
    Planted("dead-file", "themes/harbour/partials/lonely.html", "", "<p>1</p>", ""),
    Planted("dead-file", "themes/harbour/templates/pagee.html", "", "<p>1</p>", ""),
    Planted(
        "not-offered",
        "themes/harbour/templates/wide.html",
        "",
        "---\nlabel: Wide\nfor: page\n---\n+{content.body}",
        "label",
    ),
];

/// What content and configuration say.
const IN_CONTENT: &[Planted] = &[
    Planted("undeclared-field", SCARLET, "latin:", "latn:", "latn"),
    Planted("undeclared-term", SCARLET, "[legumes]", "[legume]", "legume"),
    Planted("wrong-type", SCARLET, "height_cm: 300", "height_cm: high", "high"),
    Planted("front-matter", SCARLET, "days: 110", "days: [110", ""),
    Planted("choice-missing", VISIT, "order: 1", "order: 1\ntemplate: no-asides", "no-asides"),
    Planted("choice-not-allowed", SCARLET, "easy: yes", "easy: yes\ntemplate: no-aside", "no-aside"),
    Planted("unknown-tray", VISIT, "  main:", "  mian:", "mian"),
    Planted("dead-reference", VISIT, "page:open-day", "page:open-days", "open-days"),
    Planted("missing-media", SCARLET, "scarlet-runner.svg", "scarlet-runer.svg", "runer"),
    Planted("unknown-key", SITE, "per_page = 12", "per_pge = 12", "per_pge"),
    Planted("unknown-setting", SITE, "motto =", "moto =", "moto"),
    Planted(
        "missing-needs",
        SITE,
        "founded  = 1987                                     # a key of our own: site.founded\n",
        "",
        "site = [\"founded\"]@themes/loam/hausblatt-theme.toml",
    ),
    Planted("undeclared-need", PAGE, "<h1>", "<a href=\"/visit/access/\">Access</a><h1>", "/visit/access/"),
    Planted(
        "unused-need",
        "themes/harbour/hausblatt-theme.toml",
        "\"pages/borrow\"",
        "\"pages/borrow\", \"pages/visit/access\"",
        "pages/visit/access",
    ),
    Planted("unknown-code", SITE, "[menus]", "[[check.except]]\ncode = \"no-alto\"\n\n[menus]", "no-alto"),
    Planted("unused-exception", SITE, "[menus]", "[[check.except]]\ncode = \"no-alt\"\n\n[menus]", "no-alt"),
    Planted("no-front-page", SITE, "[front]\npage = \"welcome\"\n", "", "@hausblatt.toml"),
    Planted("dead-reference", SITE, "\"page:visit/opening\"", "\"page:visit/open\"", "visit/open\""),
];

/// What is reported when files are read and compiled, and pages rendered: of templates.
const TOLD_OF_TEMPLATES: &[Planted] = &[
    Planted("argument-count", PAGE, "+{content.title}", "+{content.title.slug(1)}", "slug(1)"),
    Planted("bare-id", PAGE, "<h1>", "<h1 id=\"+{content.id}\">", "<h1"),
    Planted("branches-differ", PAGE, "<h1>", "<h1 +{if content}class=\"+{end}\">", "+{if content}"),
    Planted("computed-name", PAGE, "+{content.body}", "+{component content.title}", "component content"),
    Planted("document-in-layout", PAGE, "<article class=\"text\">", "<html><article class=\"text\">", "<html>"),
    Planted("empty-address", PAGE, "<h1>", "<a href=\"+{content.updated or ''}\">1</a><h1>", "content.updated"),
    Planted("empty-tag", PAGE, "+{content.body}", "+{}+{content.body}", "+{}"),
    Planted("error-in-error", LOST, "", "+{answer 410 \"Gone\"}", "answer"),
    Planted("duplicate-argument", VARIETY, "number = content.sow_from}", "number = 1, number = 2}", "number = 2"),
    Planted("html-only", "themes/harbour/templates/listing.xml", "", "+{used \"styles\"}", "used"),
    Planted("missing-on-site", PAGE, "+{content.body}", "+{menus.side}+{content.body}", "menus.side"),
    Planted("layout-without-slot", "themes/hedgerow/layouts/bare.html", "+{slot}", "", ""),
    Planted("hidden-collection", "themes/harbour/prepare/all.let", "", "let journal = 1", "journal"),
    Planted("used-before-set", "themes/harbour/prepare/all.let", "", "let odd = even\nlet even = 2", "odd"),
    Planted("unread-value", "themes/harbour/prepare/all.let", "", "let monts = []", "monts"),
    Planted(
        "ungiven-parameter",
        DOCUMENT,
        "<!doctype html>",
        "---\ntakes: { wide: false }\n---\n<!doctype html>",
        "takes",
    ),
    Planted(
        "pointless-comparison",
        PAGE,
        "+{content.body}",
        "+{if content.title == 1}1+{end}+{content.body}",
        "title ==",
    ),
    Planted("pattern-without-date", PAGE, "+{content.body}", "+{today.format(\"Y-m-d\")}+{content.body}", "format"),
    Planted("foreign-tag", PAGE, "+{content.body}", "{{ content.title }}+{content.body}", "{{ content"),
    Planted("dead-reference", PAGE, "+{content.body}", "+{page(\"vist\").title}+{content.body}", "vist"),
    Planted(
        "dead-reference",
        PAGE,
        "+{content.body}",
        "+{entry(\"varieties/scarlet\").title}+{content.body}",
        "scarlet",
    ),
    Planted("list-replaced", "themes/harbour/prepare/all.let", "", "let months = []", "months"),
    Planted("literal-needed", PAGE, "+{content.body}", "+{if filled(content.title)}1+{end}+{content.body}", "filled"),
    Planted("mismatched-end", ENTRY, "+{end}", "+{end each}", "+{end each}"),
    Planted("name-taken", "themes/harbour/prepare/all.let", "", "let site = 1", "site"),
    Planted(
        "not-a-list",
        PAGE,
        "+{content.body}",
        "+{each x in content.title}1+{end}+{content.body}",
        "content.title}1",
    ),
    Planted("nothing-inherited", DOCUMENT, "+{slot \"head\"}", "+{inherited}", "inherited"),
    Planted("number-too-large", PAGE, "+{content.body}", "+{99999999999999999999}+{content.body}", "9999"),
    Planted("open-html", CARD, "", "---\ntakes: { entry: }\n---\n<p class=\"", "<p class"),
    Planted("required-parameter", PAGE, "", "---\ntakes: { size: }\n---\n+{size}", "size: }"),
    Planted("script-in-comment", DOCUMENT, "+{slot \"head\"}", "<script><!--<script>--></script>", "<script>"),
    Planted("second-part", ENTRY, "+{content.body}", "+{each x in [1]}1+{none}2+{none}3+{end}", "+{none}"),
    Planted(
        "shortened-partial",
        "themes/harbour/partials/card/varietys.html",
        "",
        "---\ntakes: { entry: }\n---\n+{entry.title}",
        "card/varieties@themes/harbour/templates/front.html",
    ),
    Planted("stray-character", PAGE, "+{content.title}", "+{content.title §}", "§"),
    Planted("stray-divider", PAGE, "<h1>", "+{else}<h1>", "+{else}"),
    Planted(
        "stray-into",
        CARD,
        "<span class=\"packet-name\">",
        "+{into \"x\"}1+{end}<span class=\"packet-name\">",
        "+{into",
    ),
    Planted("bad-tag", PAGE, "+{content.title}", "+{content title}", "content title"),
    Planted("text-only", PAGE, "<h1>", "<h1 class=\"+{partial 'crumbs'}\">", "partial 'crumbs'"),
    Planted("too-deep", "themes/loam/partials/crumbs.html", "", "+{partial \"crumbs\"}", "crumbs"),
    // On one page only: what is found in several is looked for on each.
    Planted(
        "too-large",
        COMING,
        "",
        "+{let s = \"xxxxxxxxxxxxxxxx\"}\n+{each x in range(1, 9000000)}+{s}+{end}",
        "+{s}",
    ),
    Planted(
        "too-many-steps",
        COMING,
        "",
        "+{each x in range(1, 9000)}+{each y in range(1, 9000)}+{end}+{end}",
        "range",
    ),
    Planted("tray-in-component", "themes/hedgerow/components/notice/component.html", "", "+{tray \"main\"}", "tray"),
    Planted("unclosed-text", "themes/harbour/prepare/all.let", "", "let a = \"x", "x"),
    Planted("unknown-escape", PAGE, "+{content.title}", "+{content.title + \"\\q\"}", "q"),
    Planted("unknown-kind", DOCUMENT, "+{used \"styles\"}", "+{used \"style\"}", "used"),
    Planted("unknown-statement", PAGE, "+{partial \"crumbs\"}", "+{partal \"crumbs\"}", "partal"),
    Planted(
        "unlinked-asset",
        "themes/hedgerow/templates/search.html",
        "",
        "---\nlayout: none\n---\n+{use \"loam.css\"}<p>1</p>",
        "use",
    ),
    Planted("unprintable", PAGE, "+{content.title}", "+{content.children}", "content.children"),
    Planted("unsafe-address", PAGE, "<h1>", "<a href=\"+{'javascript:1'}\">1</a><h1>", "javascript"),
    Planted("unsafe-number", PAGE, "<h1>", "<img alt=\"\" srcset=\"/media/gate.svg +{content.title}x\"><h1>", "srcset"),
    Planted("unsafe-style", PAGE, "<h1>", "<h1 style=\"color: +{'a{}'}\">", "style"),
    Planted("unusable-asset", PAGE, "<h1>", "+{use \"icon.svg\"}<h1>", "icon.svg"),
    Planted("bad-value", PAGE, "+{content.title}", "+{content.title - 1}", "- 1"),
];

/// Of content, configuration, manifests and tables.
const TOLD_OF_THE_SITE: &[Planted] = &[
    Planted("bad-address", SITE, "\"/journal/{slug}/\"", "\"/journal/{slag}/\"", "slag"),
    Planted("bad-name", SITE, "[\"print\"]", "[\"in print\"]", "in print"),
    Planted(
        "conflict-marks",
        VISIT,
        "## Before",
        "<<<<<<< ours\n1\n=======\n2\n>>>>>>> theirs\n\n## Before",
        "<<<<<<<",
    ),
    Planted("conflict-marks", PAGE, "", "<p>\n<<<<<<< ours\n1\n=======\n2\n>>>>>>> theirs\n</p>\n", "<<<<<<<"),
    Planted("misplaced-front-matter", "content/pages/late.md", "", "\n---\ntitle: Late\n---\n", "---"),
    Planted("misplaced-front-matter", PAGE, "", "\n---\nlayout: document\n---\n<h1>1</h1>\n", "---"),
    Planted("removed-html", VISIT, "## Before", "<p style=\"color: red\">Red</p>\n\n## Before", "<p style"),
    Planted("missing-footnote", VISIT, "## Before", "Come[^1] soon.\n\n## Before", "Come[^1]"),
    Planted("list-as-text", VISIT, "order: 1", "order: 1\nauthors: ida, tom", "ida, tom"),
    Planted("bad-site-address", SITE, "https://seeds.example", "seeds.example", "seeds.example\""),
    Planted("bad-language", SITE, "language = \"en\"", "language = \"english language\"", "english"),
    Planted(
        "parent-version",
        "themes/hedgerow/hausblatt-theme.toml",
        "parent",
        "parent_version = \">=4\"\nparent",
        "\">=4\"",
    ),
    Planted("bad-root", "themes/hedgerow/hausblatt-theme.toml", "parent", "root = \"files\"\nparent", "\"files\""),
    Planted("bad-record", "themes/harbour/.originals/partials/header.html", "", "x", "x"),
    Planted(
        "choice-hidden",
        "themes/harbour/hausblatt-theme.toml",
        "about",
        "hide = [\"templates/offered/no-aside.html\"]\nabout",
        "template:@content/pages/visit/opening.md",
    ),
    Planted("former-query", VISIT, "order: 1", "order: 1\nformerly: /visit.php?a=1", "formerly"),
    Planted("self-redirect", VISIT, "order: 1", "order: 1\nformerly: /visit/", "formerly"),
    Planted(
        "unused-hide",
        "themes/harbour/hausblatt-theme.toml",
        "about",
        "hide = [\"templates/page/vist.html\"]\nabout",
        "hide",
    ),
    Planted("misplaced-content", "content/varietys/pea.md", "", "Pea", ""),
    Planted("misplaced-table", "tables/months.txt", "", "1", ""),
    Planted("missing-key", SITE, "address  = \"/journal/{slug}/\"\n", "", "[collections.journal]"),
    Planted(
        "no-dates",
        SITE,
        "address  = \"/varieties/{slug}/\"",
        "address  = \"/varieties/{slug}/\"\nfeed = true",
        "feed = true\nlisting",
    ),
    Planted("no-date", SITE, "/varieties/{slug}/", "/varieties/{year}/{slug}/", "@content/varieties/scarlet-runner.md"),
    Planted("no-site-address", SITE, "address  = \"https://seeds.example\"\n", "", "feed     = true"),
    Planted("no-slug", "tables/months.csv", "april,4,April", ",4,", ""),
    Planted("same-address", "content/pages/varieties.md", "", "---\nslug: visit\n---\n", "@content/pages/visit.md"),
    Planted("same-id", "content/journal/2026-05-01-first-frost.md", "", "Again", ""),
    Planted("same-name", "tables/months.json", "", "[]", ""),
    Planted("unusable-address", "hausblatt.toml", "\"/search/\"", "\"/~/search/\"", "\"/~/search/"),
    Planted("same-output", VISIT, "order: 1", "order: 1\nformerly: /Varieties/", "formerly"),
    Planted("bad-table", "tables/marks.csv", "", "slug,title\n\"a\"b,c\n", "\"a\"b"),
    Planted("bad-table", "tables/marks.csv", "", "slug,title\na,\"b\nc,d\n", "a,\"b"),
    Planted("bad-table", "tables/marks.csv", "", "slug,slug\na,b\n", "slug,slug"),
    Planted("bad-table", "tables/marks.json", "", "{\"a\": 1,\n\"a\": 2}\n", "\"a\": 2"),
    Planted("bad-table", "tables/months.csv", "", "slug,title\n\"a,b\n", ""),
    Planted("term-circle", SITE, "label = \"Pods\",", "label = \"Pods\", parent = \"legumes\",", "terms.pods"),
    Planted("theme-circle", "themes/loam/hausblatt-theme.toml", "version", "parent = \"harbour\"\nversion", "parent"),
    Planted("bad-toml", SITE, "[site]", "[site", "[site"),
    Planted("two-fronts", SITE, "page = \"welcome\"", "page = \"welcome\"\ncollection = \"journal\"", "collection ="),
    Planted("unknown-order", SITE, "order    = \"date desc\"", "order    = \"dat desc\"", "dat desc"),
    Planted("unknown-theme", SITE, "theme    = \"harbour\"", "theme    = \"harbor\"", "harbor"),
    Planted("unknown-timezone", SITE, "Europe/Berlin", "Europe/Berlins", "Berlins"),
    Planted("wrong-value", SITE, "\"month\"]", "\"months\"]", "months"),
];

/// Ordinary slips in templates.
const SLIPS: &[Planted] = &[
    Planted("bad-value", PAGE, "<h1>", "+{\"12 cm\".number + 1}<h1>", ""),
    Planted("pattern-without-date", ENTRY, "+{content.body}", "+{content.date.format(\"%H:%M\")}+{content.body}", ""),
    Planted("pointless-comparison", PAGE, "<h1>", "+{each i in range(5, 1)}1+{end}<h1>", ""),
    Planted(
        "bad-value",
        "themes/loam/templates/page.html",
        "<h1>",
        "+{each e in varieties limit \"3\"}1+{end}<h1>",
        "",
    ),
    Planted(
        "pointless-comparison",
        "themes/hedgerow/templates/entry/varieties.html",
        "<dl class=\"facts\">",
        "+{if content.easy == \"yes\"}1+{end}<dl class=\"facts\">",
        "",
    ),
    Planted(
        "unknown-member",
        "themes/hedgerow/templates/entry/varieties.html",
        "<dl class=\"facts\">",
        "+{content.image.adress}<dl class=\"facts\">",
        "",
    ),
    Planted(
        "bad-value",
        "themes/hedgerow/templates/entry/varieties.html",
        "<dl class=\"facts\">",
        "+{if content.sow_from > \"3\"}1+{end}<dl class=\"facts\">",
        "",
    ),
    Planted(
        "bad-tag",
        "themes/loam/templates/page.html",
        "<h1>",
        "+{each e in varieties where it.easy = true}1+{end}<h1>",
        "",
    ),
    Planted(
        "unknown-field",
        "themes/loam/templates/page.html",
        "<h1>",
        "+{each e in varieties order by it.titel}1+{end}<h1>",
        "",
    ),
    Planted(
        "pointless-comparison",
        "themes/loam/templates/page.html",
        "<h1>",
        "+{each e in varieties where it.family == \"Beets\"}1+{end}<h1>",
        "",
    ),
    Planted(
        "missing-on-site",
        "themes/loam/templates/page.html",
        "<h1>",
        "+{each e in varieties where it.family has \"Beets\"}1+{end}<h1>",
        "",
    ),
    Planted(
        "unknown-field",
        "themes/loam/templates/page.html",
        "<h1>",
        "+{each e in varieties where it.familiy has \"beets\"}1+{end}<h1>",
        "",
    ),
    Planted(
        "dead-reference",
        "themes/loam/templates/page.html",
        "<h1>",
        "<a href=\"+{url(\"term:family/bets\")}\">a</a><h1>",
        "",
    ),
    Planted(
        "bad-value",
        "themes/hedgerow/templates/entry/varieties.html",
        "<dl class=\"facts\">",
        "+{content.sow_from.format(\"%B\")}<dl class=\"facts\">",
        "",
    ),
    Planted(
        "argument-count",
        "themes/loam/templates/page.html",
        "<h1>",
        "+{each w in workshops}+{w.bring.join}+{end}<h1>",
        "",
    ),
    Planted("unknown-member", "themes/loam/templates/page.html", "<h1>", "+{each x in journal.items}1+{end}<h1>", ""),
    Planted("bad-tag", "themes/loam/templates/page.html", "<h1>", "+{if false}+{answer \"404\"}+{end}<h1>", ""),
    Planted(
        "broken-link",
        "themes/loam/templates/page.html",
        "<h1>",
        "+{if content.id == \"zz\"}+{redirect 302 \"/vsit/\"}+{end}<h1>",
        "",
    ),
    Planted(
        "dead-reference",
        "themes/loam/templates/page.html",
        "<h1>",
        "<img alt=\"\" src=\"+{image(\"/media/nope.svg\").address}\"><h1>",
        "",
    ),
    Planted(
        "unknown-asset",
        "themes/loam/templates/page.html",
        "<h1>",
        "<img alt=\"\" src=\"+{asset(\"assets/icon.svg\")}\"><h1>",
        "",
    ),
    Planted(
        "unknown-key",
        "themes/hedgerow/components/notice/component.toml",
        "label = \"Notice\"",
        "lable = \"Notice\"",
        "",
    ),
    Planted("unknown-key", "themes/hedgerow/components/notice/component.toml", "[[fields]]", "[[field]]", ""),
    Planted("unknown-key", "themes/loam/hausblatt-theme.toml", "about", "abuot", ""),
    Planted(
        "let-without-effect",
        "themes/loam/templates/page.html",
        "<h1>",
        "+{let x = 1}+{if true}+{let x = 2}+{end}+{x}<h1>",
        "",
    ),
    Planted("unknown-slot", "themes/loam/templates/page.html", "<h1>", "+{if filled(\"asied\")}1+{end}<h1>", ""),
    Planted("unknown-slot", "themes/loam/templates/page.html", "into \"aside\"", "into \"Aside\"", ""),
    Planted("unknown-field", "themes/loam/templates/page.html", "<h1>", "+{each e in content.childrn}1+{end}<h1>", ""),
    Planted("unknown-member", "themes/loam/templates/page.html", "<h1>", "+{content.date.moth}<h1>", ""),
    Planted("unknown-member", "themes/loam/templates/page.html", "<h1>", "+{content.title.uper}<h1>", ""),
    Planted("unknown-member", "themes/loam/templates/page.html", "<h1>", "+{content.title.round(2)}<h1>", ""),
    Planted("unknown-member", "themes/loam/templates/page.html", "<h1>", "+{varieties.title}<h1>", ""),
    Planted("unknown-field", "themes/loam/templates/page.html", "<h1>", "+{varieties.first.titel}<h1>", ""),
    Planted("unknown-member", "themes/loam/templates/page.html", "<h1>", "+{site.fouded}<h1>", ""),
    Planted("unknown-member", "themes/loam/templates/page.html", "<h1>", "+{theme.verson}<h1>", ""),
    Planted("unknown-member", "themes/loam/templates/page.html", "<h1>", "+{request.adress}<h1>", ""),
    Planted("absent-value", "themes/loam/templates/page.html", "<h1>", "+{error.status}<h1>", ""),
    Planted("absent-value", "themes/loam/templates/page.html", "<h1>", "+{listing.items.count}<h1>", ""),
    Planted("unknown-name", "themes/loam/templates/page.html", "<h1>", "+{term.label}<h1>", ""),
    Planted("absent-value", "themes/loam/templates/page.html", "<h1>", "+{route.row.title}<h1>", ""),
    Planted("unsafe-place", "themes/loam/templates/page.html", "<h1>", "<p class=+{content.id}>1</p><h1>", ""),
    Planted("bad-markup", "themes/loam/templates/page.html", "<h1>", "<p class=\"a\"id=\"b\">1</p><h1>", ""),
    Planted("open-html", "themes/loam/templates/page.html", "<h1>", "<p class=\"a>1</p><h1>", ""),
    Planted("bad-markup", "themes/loam/templates/page.html", "<h1>", "<p class=\"a\"\n<h1>", ""),
    Planted("stray-end", "themes/loam/templates/page.html", "<h1>", "<p><div>1</div></p><h1>", ""),
    Planted("moved-element", "themes/loam/templates/page.html", "<h1>", "<form><form></form></form><h1>", ""),
    Planted("attribute-twice", "themes/loam/templates/page.html", "<h1>", "<p id=\"a\" id=\"b\">1</p><h1>", ""),
    Planted("label-without-field", "themes/loam/templates/page.html", "<h1>", "<label for=\"q\">Q</label><h1>", ""),
    Planted("missing-id", "themes/loam/templates/page.html", "<h1>", "<p aria-labelledby=\"nope\">1</p><h1>", ""),
    Planted("no-text", "themes/loam/templates/page.html", "<h1>", "<h2></h2><h1>", ""),
    Planted("no-text", "themes/loam/templates/page.html", "<h1>", "<a href=\"/visit/\"></a><h1>", ""),
    Planted("no-text", "themes/loam/templates/page.html", "<h1>", "<button></button><h1>", ""),
    Planted("broken-link", "themes/loam/templates/page.html", "<h1>", "<a href=\"http:/seeds.example\">a</a><h1>", ""),
    Planted(
        "unknown-attribute",
        "themes/loam/templates/page.html",
        "<h1>",
        "<a href=\"/visit/\" tagret=\"_blank\">a</a><h1>",
        "",
    ),
    Planted("unknown-value", "themes/loam/layouts/document.html", "rel=\"stylesheet\"", "rel=\"styleshet\"", ""),
    Planted("unknown-attribute", "themes/loam/templates/page.html", "<h1>", "<a hrfe=\"/visit/\">a</a><h1>", ""),
    Planted("no-source", "themes/loam/templates/page.html", "<h1>", "<img alt=\"\"><h1>", ""),
    Planted("unknown-value", "themes/loam/layouts/document.html", "name=\"viewport\"", "name=\"veiwport\"", ""),
    Planted("no-charset", "themes/loam/layouts/document.html", "<meta charset=\"utf-8\">", "", ""),
    Planted("no-document", "themes/loam/layouts/document.html", "<!doctype html>", "", ""),
    Planted(
        "document-twice",
        "themes/loam/layouts/document.html",
        "<meta charset",
        "<title>a</title><meta charset",
        "",
    ),
    Planted("layout-without-slot", "themes/loam/layouts/document.html", "  +{slot}\n", "", ""),
    Planted(
        "unknown-parameter",
        "themes/harbour/templates/front.html",
        "given entry = entry",
        "given entyr = entry",
        "",
    ),
    Planted(
        "bad-value",
        "themes/harbour/templates/front.html",
        "given entry = entry",
        "given entry = journal",
        "@themes/loam/partials/card.html",
    ),
    Planted(
        "unknown-field",
        "themes/harbour/templates/front.html",
        "given entry = entry",
        "given entry = entry.titel",
        "",
    ),
    Planted(
        "wrong-type",
        "themes/harbour/templates/front.html",
        "given entry = entry",
        "given entry = entry, heading = \"2\"",
        "",
    ),
    Planted("unknown-name", "themes/harbour/templates/front.html", "in varieties", "in variety", ""),
    Planted("bad-value", "themes/loam/templates/page.html", "<h1>", "+{each e in varieties limit -1}1+{end}<h1>", ""),
    Planted(
        "unknown-name",
        "themes/loam/templates/page.html",
        "<h1>",
        "+{each e in varieties where easy}1+{end}<h1>",
        "",
    ),
    Planted(
        "unknown-field",
        "themes/loam/templates/page.html",
        "<h1>",
        "+{each e in varieties where it.eas}1+{end}<h1>",
        "",
    ),
    Planted(
        "bad-tag",
        "themes/loam/templates/page.html",
        "<h1>",
        "+{each e in varieties order by it.title dsc}1+{end}<h1>",
        "",
    ),
    Planted(
        "bad-value",
        "themes/loam/templates/page.html",
        "<h1>",
        "+{each e in varieties order by it limit 2}1+{end}<h1>",
        "",
    ),
    Planted(
        "unknown-member",
        "themes/loam/templates/page.html",
        "<h1>",
        "+{each g in varieties group by it.grower}+{g.keyy}+{end}<h1>",
        "",
    ),
    Planted(
        "unknown-member",
        "themes/loam/templates/page.html",
        "<h1>",
        "+{each g in varieties group by it.grower}+{g.title}+{end}<h1>",
        "",
    ),
    Planted(
        "unknown-member",
        "themes/loam/templates/page.html",
        "<h1>",
        "+{each e in journal}+{each e in e.authors}+{e.name}+{end}+{end}<h1>",
        "",
    ),
    Planted(
        "unknown-field",
        "themes/harbour/templates/entry.html",
        "+{content.body}",
        "+{content.older.titel}+{content.body}",
        "",
    ),
    Planted(
        "unknown-member",
        "themes/loam/templates/page.html",
        "<h1>",
        "+{each a in content.authors}+{a.name}+{end}<h1>",
        "",
    ),
    Planted(
        "bad-value",
        "themes/loam/templates/page.html",
        "<h1>",
        "+{each e in journal where it.date > \"2026-01-01\"}1+{end}<h1>",
        "",
    ),
];

/// More of them.
const MORE_SLIPS: &[Planted] = &[
    Planted(
        "pointless-comparison",
        "themes/loam/templates/page.html",
        "<h1>",
        "+{each e in journal where it.date.month == \"3\"}1+{end}<h1>",
        "",
    ),
    Planted(
        "pattern-without-date",
        "themes/loam/templates/page.html",
        "<h1>",
        "+{content.updated.format(\"%Y-%M-%d\")}<h1>",
        "",
    ),
    Planted("bad-value", "themes/loam/templates/page.html", "<h1>", "+{today.format(\"%Q\")}<h1>", ""),
    Planted("unknown-member", "themes/loam/templates/page.html", "<h1>", "+{content.title.join(\", \")}<h1>", ""),
    Planted("argument-count", "themes/loam/templates/page.html", "<h1>", "+{content.title.replace(\"a\")}<h1>", ""),
    Planted(
        "dead-reference",
        "themes/loam/templates/page.html",
        "<h1>",
        "<img src=\"+{image(\"\")}\" alt=\"\"><h1>",
        "",
    ),
    Planted(
        "dead-reference",
        "themes/loam/templates/page.html",
        "<h1>",
        "<a href=\"+{url(\"/visit/\")}\">a</a><h1>",
        "",
    ),
    Planted(
        "unknown-field",
        "themes/loam/templates/page.html",
        "<h1>",
        "<a href=\"+{url(\"page:\" + content.idd)}\">a</a><h1>",
        "",
    ),
    Planted(
        "dead-reference",
        "themes/loam/templates/page.html",
        "<h1>",
        "<a href=\"+{url(\"page:\" + content.title)}\">a</a><h1>",
        "",
    ),
    Planted("broken-link", "themes/loam/templates/page.html", "<h1>", "<a href=\"+{content.title}\">a</a><h1>", ""),
    Planted("broken-link", "themes/loam/templates/page.html", "<h1>", "<a href=\"+{content.id}\">a</a><h1>", ""),
    Planted(
        "broken-link",
        "themes/loam/templates/page.html",
        "<h1>",
        "<img src=\"+{content.title}\" alt=\"\"><h1>",
        "",
    ),
    Planted("bad-value", "themes/loam/templates/page.html", "<h1>", "+{markdown(content.body)}<h1>", ""),
    Planted("raw-used", "themes/loam/templates/page.html", "<h1>", "+{raw content.title}<h1>", ""),
    Planted(
        "unknown-field",
        "themes/loam/templates/page.html",
        "<h1>",
        "+{if content.title or content.nothere}1+{end}<h1>",
        "",
    ),
    Planted("quoted-value", "themes/loam/templates/page.html", "<h1>", "+{if \"content.title\"}1+{end}<h1>", ""),
    Planted("quoted-value", "themes/loam/templates/page.html", "<h1>", "+{\"content.title\"}<h1>", ""),
    Planted("stray-divider", "themes/loam/templates/page.html", "<h1>", "+{each e in journal}1+{else}2+{end}<h1>", ""),
    Planted("unclosed-tag", "themes/loam/templates/page.html", "<h1>", "+{# hello<h1>", ""),
    Planted("open-html", "themes/loam/templates/page.html", "<h1>", "<!-- hello<h1>", ""),
    Planted("open-html", "themes/loam/templates/page.html", "<h1>", "<script>let a = 1;<h1>", ""),
    Planted("open-html", "themes/loam/templates/page.html", "<h1>", "<style>p { color: red }<h1>", ""),
    Planted("open-html", "themes/loam/templates/page.html", "<h1>", "<p class=\"a'>1</p><h1>", ""),
    Planted("bad-markup", "themes/loam/templates/page.html", "<h1>", "<p>a &nbsp b</p><h1>", ""),
    Planted("bad-markup", "themes/loam/templates/page.html", "<h1>", "<p>a &nbps; b</p><h1>", ""),
    Planted("moved-element", "themes/loam/templates/page.html", "<h1>", "<div/><h1>", ""),
    Planted("stray-end", "themes/loam/templates/page.html", "<h1>", "</br><h1>", ""),
    Planted("stray-item", "themes/loam/templates/page.html", "<h1>", "<div><li>1</li></div><h1>", ""),
    Planted("stray-end", "themes/loam/templates/page.html", "<h1>", "<p><ul><li>1</li></ul></p><h1>", ""),
    Planted("stray-item", "themes/loam/templates/page.html", "<h1>", "<dt>1</dt><h1>", ""),
    Planted("stray-item", "themes/loam/templates/page.html", "<h1>", "<option>1</option><h1>", ""),
    Planted("main-twice", "themes/loam/templates/page.html", "<h1>", "<main>1</main><h1>", ""),
    Planted(
        "broken-link",
        "themes/loam/templates/page.html",
        "<h1>",
        "<form action=\"/serach/\"><button>1</button></form><h1>",
        "",
    ),
    Planted("search-without-field", "themes/hedgerow/templates/search.html", "name=\"q\"", "name=\"query\"", ""),
    Planted("broken-link", "themes/loam/templates/page.html", "<h1>", "<iframe src=\"/vsit/\"></iframe><h1>", ""),
    Planted("missing-file", "themes/loam/layouts/document.html", "asset('loam.css')", "'/assets/laom.css'", ""),
    Planted("unknown-asset", "themes/loam/templates/page.html", "<h1>", "+{use \"hedgrow.css\"}<h1>", ""),
    Planted("unknown-kind", "themes/loam/layouts/document.html", "used \"styles\"", "used \"style\"", ""),
    Planted("no-language", "themes/loam/layouts/document.html", "lang=\"+{site.language}\"", "lang=\"\"", ""),
    Planted("unknown-key", "themes/loam/partials/card.html", "takes:", "taks:", ""),
    Planted("unknown-key", "themes/hedgerow/templates/offered/bare.html", "layout: bare", "layot: bare", ""),
    Planted("wrong-value", "themes/hedgerow/templates/offered/bare.html", "for: page", "for: pge", ""),
    Planted("offered-nowhere", "themes/hedgerow/templates/offered/no-aside.html", "entry/journal", "entry/jurnal", ""),
    Planted(
        "unknown-key",
        "themes/hedgerow/templates/offered/bare.html",
        "label: Without header and footer",
        "lable: Without",
        "",
    ),
    Planted("front-matter", "themes/loam/partials/card.html", "\n---\n<a", "\n--\n<a", ""),
    Planted("unknown-statement", "themes/harbour/layouts/document.html", "+{inherited", "+{inherit", ""),
    Planted("bad-tag", "themes/loam/templates/page.html", "<h1>", "+{let x}<h1>", ""),
    Planted("bad-tag", "themes/loam/templates/page.html", "<h1>", "+{let x == 1}<h1>", ""),
    Planted("unknown-name", "themes/loam/templates/page.html", "<h1>", "+{Content.title}<h1>", ""),
    Planted("unknown-member", "themes/loam/templates/page.html", "<h1>", "+{content.title.Upper}<h1>", ""),
    Planted("foreign-tag", "themes/loam/templates/page.html", "<h1>", "+ {content.title}<h1>", ""),
    Planted("foreign-tag", "themes/loam/templates/page.html", "<h1>", "{content.title}<h1>", ""),
    Planted("foreign-tag", "themes/loam/templates/page.html", "<h1>", "${content.title}<h1>", ""),
    Planted("foreign-tag", "themes/loam/templates/page.html", "<h1>", "+{content.title}}<h1>", ""),
    Planted("foreign-tag", "themes/loam/templates/page.html", "<h1>", "+(content.title)<h1>", ""),
    Planted("foreign-tag", "themes/loam/templates/page.html", "<h1>", "#{content.title}<h1>", ""),
    Planted("foreign-tag", "themes/loam/templates/page.html", "<h1>", "{% if content %}x{% endif %}<h1>", ""),
    Planted("text-only", "themes/loam/templates/page.html", "<h1>", "<p title=\"+{partial \"crumbs\"}\">1</p><h1>", ""),
    Planted("unclosed-tag", "themes/loam/templates/page.html", "+{into \"aside\"}", "+{into \"aside\"", ""),
    Planted("unknown-slot", "themes/loam/templates/page.html", "<h1>", "+{partial \"crumbs\" with}Lost+{end}<h1>", ""),
    Planted(
        "unknown-parameter",
        "themes/loam/templates/page.html",
        "<h1>",
        "+{component \"notice\" given txt = \"a\"}<h1>",
        "",
    ),
    Planted("unknown-component", "themes/loam/templates/page.html", "<h1>", "+{component \"notise\"}<h1>", ""),
    Planted("unknown-member", "themes/loam/templates/page.html", "<h1>", "+{settings.moto}<h1>", ""),
    Planted("unknown-member", "themes/loam/templates/page.html", "<h1>", "+{theme.motto}<h1>", ""),
    Planted("unknown-member", "themes/loam/templates/page.html", "<h1>", "+{site.motto}<h1>", ""),
    Planted("unknown-name", "themes/loam/templates/page.html", "<h1>", "+{page.title}<h1>", ""),
    Planted("unknown-name", "themes/loam/templates/page.html", "<h1>", "+{this.title}<h1>", ""),
    Planted("missing-on-site", "themes/loam/templates/page.html", "<h1>", "+{tables.month.count}<h1>", ""),
    Planted("missing-on-site", "themes/loam/templates/page.html", "<h1>", "+{taxonomies.famly.count}<h1>", ""),
    Planted(
        "unknown-member",
        "themes/loam/templates/page.html",
        "<h1>",
        "+{each t in taxonomies.family}+{t.titel}+{end}<h1>",
        "",
    ),
    Planted("unknown-member", "themes/loam/partials/menu.html", "item.address", "item.adress", ""),
    Planted("unknown-name", "themes/loam/partials/pager.html", "listing.", "listng.", ""),
    Planted("unknown-name", "themes/hedgerow/templates/error/404.html", "error.", "eror.", ""),
    Planted("unknown-asset", "themes/loam/layouts/document.html", "asset('loam.css')", "asset('Loam.css')", ""),
];

/// Ordinary slips in content, configuration, manifests and tables.
const SLIPS_ELSEWHERE: &[Planted] = &[
    Planted("wrong-type", "content/pages/visit.md", "order: 1", "order: 1\ndate: 14.3.2026", ""),
    Planted("wrong-type", "content/pages/visit.md", "order: 1", "order: 1\ndate: 2026-02-31", ""),
    Planted("wrong-type", "content/pages/visit.md", "order: 1", "order: 1\ndraft: ture", ""),
    Planted("wrong-type", "content/pages/visit.md", "order: 1", "order: first", ""),
    Planted("wrong-type", "content/pages/visit.md", "order: 1", "order: 1\nformerly: visit-old", ""),
    Planted("wrong-type", "content/pages/visit.md", "order: 1", "order: 1\nformerly: ./visit-old/", ""),
    Planted("wrong-type", "content/pages/visit.md", "order: 1", "order: 1\nslug: My Slug", ""),
    Planted("front-matter", "content/pages/visit.md", "order: 1", "order: 1\nsummary: [a, b]", ""),
    Planted("front-matter", "content/varieties/scarlet-runner.md", "easy: yes", "easy: yes\nimage: drawers.svg", ""),
    Planted("wrong-value", "content/pages/visit.md", "order: 1", "order: 1\nrobots: no-index", ""),
    Planted("wrong-value", "content/pages/visit.md", "order: 1", "order: 1\nrobots: noindx", ""),
    Planted("list-as-text", "content/varieties/scarlet-runner.md", "family: [legumes]", "family: legumes, roots", ""),
    Planted(
        "undeclared-term",
        "content/varieties/scarlet-runner.md",
        "family: [legumes]",
        "family: [Peas and beans]",
        "",
    ),
    Planted("dead-reference", "content/pages/visit.md", "## Before", "[a](visits.md)\n\n## Before", ""),
    Planted("dead-reference", "content/pages/visit.md", "## Before", "[a](../journal/nope.md)\n\n## Before", ""),
    Planted("printed-as-text", "content/pages/visit.md", "## Before", "[a]()\n\n## Before", ""),
    Planted("printed-as-text", "content/pages/visit.md", "## Before", "[see][nope]\n\n## Before", ""),
    Planted("unended-block", "content/pages/visit.md", "## Before", "<!-- foo\n\n## Before", ""),
    Planted("printed-as-text", "content/pages/visit.md", "## Before", "##Deep\n\n## Before", ""),
    Planted("broken-anchor", "content/pages/visit.md", "## Before", "[a](#Before)\n\n## Before", ""),
    Planted("missing-file", "content/pages/visit.md", "## Before", "[a](www.seeds.example)\n\n## Before", ""),
    Planted("missing-file", "content/pages/visit.md", "## Before", "[a](ida@seeds.example)\n\n## Before", ""),
    Planted("printed-as-text", "content/pages/visit.md", "## Before", "[a](htp://seeds.example/)\n\n## Before", ""),
    Planted("broken-anchor", "content/pages/visit.md", "## Before", "[a](/growers/#nobody)\n\n## Before", ""),
    Planted("unended-block", "content/pages/visit.md", "## Before", "```\nx\n\n## Before", ""),
    Planted("printed-as-text", "content/pages/visit.md", "## Before", "| a | b |\n| 1 | 2 |\n\n## Before", ""),
    Planted("printed-as-text", "content/pages/visit.md", "## Before", "[a] (/visit/)\n\n## Before", ""),
    Planted("printed-as-text", "content/pages/visit.md", "## Before", "(a)[/visit/]\n\n## Before", ""),
    Planted("wrong-type", "hausblatt.toml", "per_page = 12", "per_page = 0", ""),
    Planted("wrong-type", "hausblatt.toml", "per_page = 12", "per_page = \"12\"", ""),
    Planted("wrong-value", "hausblatt.toml", "\"date desc\"", "\"date descending\"", ""),
    Planted("missing-slash", "hausblatt.toml", "{ to = \"page:borrow\" }", "{ to = \"/borrow\" }", ""),
    Planted("dead-reference", "hausblatt.toml", "{ to = \"page:borrow\" }", "{ to = \"borrow\" }", ""),
    Planted("wrong-value", "hausblatt.toml", "{ to = \"page:borrow\" }", "{ to = \"page:borrow\", label = \"\" }", ""),
    Planted("missing-key", "hausblatt.toml", "{ to = \"page:borrow\" }", "{ label = \"Borrow\" }", ""),
    Planted("dead-reference", "hausblatt.toml", "404 = \"lost\"", "404 = \"lots\"", ""),
    Planted("same-address", "hausblatt.toml", "address = \"/search/\"", "address = \"/varieties/\"", ""),
    Planted("unknown-key", "hausblatt.toml", "[collections.workshops]", "[collection.workshops]", ""),
    Planted("unknown-key", "hausblatt.toml", "[search]", "[serach]", ""),
    Planted("wrong-value", "hausblatt.toml", "[search]", "[build]\nstyles = \"smal\"\n\n[search]", "smal\""),
    Planted(
        "unknown-key",
        "hausblatt.toml",
        "[search]",
        "[build]\nstyles = \"small\"\nbrowsers = { crome = 109 }\n\n[search]",
        "crome",
    ),
    Planted("wrong-value", "hausblatt.toml", "future  = \"show\"", "future  = \"shwo\"", ""),
    Planted("unknown-timezone", "hausblatt.toml", "Europe/Berlin", "Berlin", ""),
    Planted("bad-address", "hausblatt.toml", "listing  = \"/varieties/\"", "listing  = \"/varieties\"", ""),
    Planted("bad-address", "hausblatt.toml", "listing  = \"/varieties/\"", "listing  = \"varieties/\"", ""),
    Planted("bad-address", "hausblatt.toml", "\"/varieties/{slug}/\"", "\"/varieties/\"", ""),
    Planted("wrong-value", "hausblatt.toml", "min = 1, max = 12", "min = 12, max = 1", ""),
    Planted("wrong-value", "hausblatt.toml", "of = \"text\"", "of = \"txt\"", ""),
    Planted("dead-reference", "hausblatt.toml", "of      = [\"varieties\"]", "of      = [\"variety\"]", ""),
    Planted("wrong-type", "hausblatt.toml", "of      = [\"varieties\"]", "of      = \"varieties\"", ""),
    Planted(
        "dead-reference",
        "hausblatt.toml",
        "parent = \"roots\" }\nterms.alliums",
        "parent = \"rots\" }\nterms.alliums",
        "",
    ),
    Planted("bad-address", "hausblatt.toml", "\"/families/{term}/\"", "\"/families/\"", ""),
    Planted("dead-reference", "hausblatt.toml", "each    = \"months\"", "each    = \"month\"", ""),
    Planted("bad-address", "hausblatt.toml", "\"/calendar/{slug}/\"", "\"/calendar/{slag}/\"", ""),
    Planted("dead-reference", "hausblatt.toml", "page = \"welcome\"", "collection = \"jurnal\"", ""),
    Planted("bad-table", "tables/months.csv", "april,4,April", "april,4", ""),
    Planted("bad-table", "tables/months.csv", "april,4,April", "april,4,April,x", ""),
    Planted("front-matter", "content/pages/visit.md", "order: 1", "order: 1\ntrays2:\n\t- a", ""),
    Planted("front-matter", "content/pages/visit.md", "order: 1", "order: 1\norder: 2", ""),
    Planted("unknown-field", "content/pages/visit.md", "text:", "txt:", ""),
    Planted("missing-key", "content/pages/visit.md", "component: notice", "componnt: notice", ""),
    Planted("bad-toml", "hausblatt.toml", "\"month\"]", "\"month\"],", ""),
    Planted("bad-toml", "hausblatt.toml", "title    = \"Marrow", "title    = Marrow", ""),
    Planted("bad-toml", "hausblatt.toml", "[search]", "[search]\naddress = \"/s/\"", ""),
    Planted("bad-toml", "hausblatt.toml", "[search]", "[search]\n[search]", ""),
    Planted("bad-toml", "hausblatt.toml", "feed     = true", "feed     = yes", ""),
    Planted("bad-language", "hausblatt.toml", "language = \"en\"", "language = \"english\"", ""),
    Planted("dead-reference", "content/pages/borrow.md", "---\n", "---\ndraft: true\n", "@hausblatt.toml"),
    Planted(
        "missing-media",
        "content/varieties/scarlet-runner.md",
        "/media/varieties/scarlet-runner.svg",
        "/media/varieties/Scarlet-Runner.svg",
        "",
    ),
    Planted(
        "missing-media",
        "content/varieties/scarlet-runner.md",
        "/media/varieties/scarlet-runner.svg",
        "/media/varieties/scarlet runner.svg",
        "",
    ),
];

/// Codes that no site's check reports: of a component rendered alone, of a file whose own error is reported, of a folder that is
/// no site, and of errors that are ours.
const NOT_TOLD: &[&str] = &["component-stops", "faulty-file", "internal", "left-out", "no-site"];

/// An error that takes more than one change: its code, each file with its new text (nothing: the file goes), and where
/// it shall be found.
struct Several(&'static str, &'static [(&'static str, Option<&'static [u8]>)], &'static str, usize);

const LISTED: &[u8] = b"[site]\ntitle = \"Seeds\"\ntheme = \"loam\"\n[front]\npage = \"welcome\"\n[routes.list]\naddress = \"/list.json\"\n";

const SHARED: &[u8] = b"[site]\ntitle = \"Seeds\"\ntheme = \"loam\"\n[front]\npage = \"welcome\"\n[routes.list]\naddress = \"/list/\"\ntemplate = \"lists\"\n";

const SEVERAL: &[Several] = &[
    Several(
        "missing-field",
        &[(
            "themes/harbour/hausblatt-theme.toml",
            Some(b"[theme]\nparent = \"hedgerow\"\n[settings]\nbed = { type = \"text\", required = true }\n"),
        )],
        SITE,
        1,
    ),
    Several("missing-manifest", &[("themes/harbour/hausblatt-theme.toml", None)], SITE, 8),
    Several(
        "no-error-page",
        &[(LOST, None), ("themes/loam/templates/error.html", None)],
        "themes/harbour/hausblatt-theme.toml",
        1,
    ),
    Several(
        "broken-menu-item",
        &[("themes/harbour/templates/page/visit.html", Some(b"+{answer 410 \"Gone\"}"))],
        SITE,
        99,
    ),
    Several(
        "bad-json",
        &[(SITE, Some(LISTED)), ("themes/loam/templates/route/list.json", Some(b"{\n\"a\": +{1},}"))],
        "themes/loam/templates/route/list.json",
        2,
    ),
    Several("template-missing", &[(SITE, Some(SHARED))], SITE, 8),
    Several("no-fallback", &[(FALLBACK, None)], "themes/harbour/hausblatt-theme.toml", 1),
    Several("no-template", &[(FALLBACK, None), (PAGE, None)], "", 0),
    Several(
        "no-rows",
        &[("tables/months.csv", None), ("tables/months.json", Some(b"{\"slug\": \"april\"}"))],
        "tables/months.json",
        1,
    ),
    Several(
        "no-term",
        &[(SITE, Some(BY_FAMILY)), ("content/varieties/scarlet-runner.md", Some(b"A bean."))],
        "content/varieties/scarlet-runner.md",
        1,
    ),
    Several("unreadable", &[(VISIT, Some(b"---\norder: 1\n---\n\xff"))], VISIT, 0),
    Several(
        "color-in-comment",
        &[
            ("themes/harbour/components/spot/component.toml", Some(SPOT)),
            ("themes/harbour/components/spot/component.html", Some(b"<p>1</p>")),
            (VISIT, Some(b"---\ntrays:\n  main:\n    - component: spot\n      tone: #2f6f4e\n---\n")),
        ],
        VISIT,
        5,
    ),
    // The lines of a file that is not text are not counted here.
    Several("bad-scripts", &[(SCRIPT, Some(b"let a = \"\xff\";\n"))], SCRIPT, 0),
    Several("bad-image", &[("media/gate.jpg", Some(b"beans"))], "media/gate.jpg", 1),
    Several("bad-image", &[("media/gate.png", Some(b""))], "media/gate.png", 1),
    Several("bad-image", &[("themes/loam/assets/gate.webp", Some(GIF))], "themes/loam/assets/gate.webp", 1),
    Several("bad-image", &[("media/returned-seed.jpg", Some(CUT))], "media/returned-seed.jpg", 0),
    Several(
        "not-small",
        &[(SITE, Some(SMALL)), ("themes/loam/assets/rows.css", Some(b"main { margin: 0 }\n.2nd { margin: 0 }\n"))],
        "themes/loam/assets/rows.css",
        2,
    ),
    Several("bad-name", &[("media/_made/gate.txt", Some(b"1"))], "media/_made/gate.txt", 1),
    Several(
        "stale-copy",
        &[
            ("themes/harbour/.originals/partials/footer.html", Some(RECORD)),
            ("themes/harbour/partials/footer.html", Some(b"<footer></footer>\n")),
        ],
        "themes/harbour/partials/footer.html",
        1,
    ),
];

const SMALL: &[u8] = b"[site]\ntitle = \"Seeds\"\ntheme = \"loam\"\n\n[build]\nstyles = \"small\"\n";
const GIF: &[u8] = b"GIF89a\x04\0\x03\0\0\0\0;";
/// The beginning of an image, up to what says its size.
const CUT: &[u8] = b"\xff\xd8\xff\xdb\0\x04\0\0";
const BY_FAMILY: &[u8] = b"[site]\ntitle = \"Seeds\"\ntheme = \"harbour\"\n\n[collections.varieties]\naddress = \"/varieties/{family}/{slug}/\"\n\n[taxonomies.family]\nlabel = \"Families\"\nof = [\"varieties\"]\naddress = \"/families/{term}/\"\n";
const SPOT: &[u8] =
    b"[component]\nlabel = \"Spot\"\n\n[[fields]]\nname = \"tone\"\ntype = \"color\"\nlabel = \"Tone\"\n";
const RECORD: &[u8] =
    b"theme = \"loam\"\npath = \"partials/footer.html\"\nversion = \"2.0.0\"\n---\n<footer></footer>\n";

/// The demo without the varieties that nothing else names: each error takes a look at every page, and these are much alike.
fn few_varieties() -> Memory {
    let files = demo();
    let named = ["grey-shingle", "scarlet-runner", "winter-quilt"].map(|name| format!("/content/varieties/{name}.md"));
    for (path, _) in files.all() {
        let path = path.to_str().unwrap();
        if path.starts_with("/content/varieties/") && !named.iter().any(|kept| kept == path) {
            files.remove(path);
        }
    }
    files
}

/// Plants each error, looks for it at its line, and takes it back; all that is said is held against a file.
fn plant(all: &[Planted], words: ExpectFile) {
    let mut told = String::new();
    let files = few_varieties();
    let clean = files.all();
    let mut snapshot = snapshot(&files);
    let mut missed = Vec::new();
    for Planted(code, path, from, to, at) in all {
        let before = files.bytes(path);
        let old = before.as_ref().map_or(String::new(), |bytes| String::from_utf8(bytes.to_vec()).unwrap());
        assert!(old.contains(from), "{path} lacks {from}");
        files.write(path, if from.is_empty() { (*to).to_owned() } else { old.replacen(from, to, 1) });
        let (at, place) = at.split_once('@').unwrap_or((at, path));
        snapshot = snapshot.refreshed().unwrap();
        let text = snapshot.file(place).and_then(|node| node.text().cloned()).unwrap_or_default();
        let line = text.find(at).map(|byte| text[..byte].matches('\n').count() + 1);
        let (seen, words): (Vec<_>, Vec<_>) = checked_in_words(&snapshot).into_iter().unzip();
        told.push_str(&format!("{path}: {from:?} → {to:?}\n    {}\n", words.join("\n    ")));
        // Blank pages are reported where their layout begins the body or the main part.
        let is_it = |(c, p, l): &Said| {
            c == code && (*code == "blank-page" || (p == place && (at.is_empty() || Some(*l) == line)))
        };
        if !seen.iter().flatten().any(is_it) {
            missed.push(format!("{code} at {place}:{line:?} is not among {seen:?}"));
        }
        match before {
            Some(bytes) => files.write(path, bytes),
            None => files.remove(path),
        }
    }
    assert!(missed.is_empty(), "{}", missed.join("\n"));
    // What was planted is gone, and with it all that was said.
    assert!(files.all() == clean);
    assert_eq!(checked(&snapshot.refreshed().unwrap()), []);
    words.assert_eq(&told);
}

const STYLES: &str = "themes/harbour/assets/harbour.css";
/// What a browser leaves out of style sheets.
const IN_STYLES: &[Planted] = &[
    Planted("bad-styles", STYLES, ".opening h1 { color: var", ".opening h1 { color var", ""),
    Planted("bad-styles", STYLES, "gap: 1.5rem 3rem; align", "gap: 1.5rem 3rem align", ""),
    Planted("bad-styles", STYLES, ".news p { margin-top: 0; }", ".news p { margin-top: 0;", ""),
    Planted("bad-styles", STYLES, ".news p { margin-top: 0; }", ".news p { margin-top: 0; }}", ""),
    Planted("bad-styles", STYLES, ".news p { margin", ".news p margin", ""),
    Planted("bad-styles", STYLES, ".news p { margin-top: 0; }", ".news p { margin-top: 0; };", ""),
    Planted("bad-styles", STYLES, ".news p {", "// news\n.news p {", ""),
    Planted("bad-styles", STYLES, "tar and paper. */", "tar and paper.", ""),
    Planted("bad-styles", STYLES, "time { color: var(--warm); }", "time { color: var(--warm; }", ""),
    Planted("bad-styles", STYLES, "time { color: var(--warm); }", "time { color: ; }", ""),
    Planted("bad-styles", STYLES, "time {", "time::after { content: \"; }\ntime {", ""),
    Planted("bad-styles", STYLES, "time {", "@import \"/assets/print.css\";\ntime {", ""),
    Planted("bad-styles", STYLES, "time {", "time::after { background: url(a b.svg); }\ntime {", ""),
    Planted("bad-styles", STYLES, "time {", "/* times\n.times { color: red }\n/* of day */\ntime {", ""),
    Planted("bad-styles", STYLES, "time { color:", "time { colour:", ""),
    Planted("missing-file", STYLES, "time {", "time::after { content: url(/media/drawer.svg); }\ntime {", ""),
    Planted("missing-file", STYLES, "/* harbour:", "@import \"prnt.css\";\n/* harbour:", ""),
    Planted("unset-property", STYLES, "time { color: var(--warm); }", "time { color: var(--wram); }", ""),
];

#[test]
fn problems_in_style_sheets_are_found_at_their_lines() {
    plant(IN_STYLES, expect_file!["planted/styles.txt"]);
}

const SCRIPT: &str = "themes/harbour/assets/beds.js";
/// What keeps browsers from running a script, and where a script names a file that is not there or has no version.
const IN_SCRIPTS: &[Planted] = &[
    Planted("bad-scripts", SCRIPT, "", "const beds = [1, 2;\nbeds.sort();\n", ""),
    Planted("bad-scripts", SCRIPT, "", "function rows(beds {\n  return beds;\n}\n", ""),
    Planted("bad-scripts", SCRIPT, "", "if (beds) {\n  sort();\n", ""),
    Planted("bad-scripts", SCRIPT, "", "sort(beds));\n", ""),
    Planted("bad-scripts", SCRIPT, "", "const name = \"beds;\n", ""),
    Planted("bad-scripts", SCRIPT, "", "const name = `beds;\n", ""),
    Planted("bad-scripts", SCRIPT, "", "const name;\n", ""),
    Planted("bad-scripts", SCRIPT, "", "const bed = { name: \"a\" rows: 2 };\n", ""),
    Planted("bad-scripts", SCRIPT, "", "function sort() {\n  await beds();\n}\n", ""),
    Planted("bad-scripts", SCRIPT, "", "const class = 1;\n", ""),
    Planted("bad-scripts", SCRIPT, "", "for (const bed of beds {\n}\n", ""),
    Planted("bad-scripts", SCRIPT, "", "/* the beds\nsort();\n", ""),
    Planted("bad-scripts", SCRIPT, "", "<script>\nsort();\n</script>\n", ""),
    Planted("bad-scripts", SCRIPT, "", "const bed = beds.find(bed = > bed.free);\n", ""),
    Planted("bad-scripts", SCRIPT, "", "return beds;\n", ""),
    Planted("missing-file", SCRIPT, "", "import { sort } from \"./sorting.js\";\nsort();\n", ""),
    Planted("missing-file", SCRIPT, "", "export * from \"/assets/rows.js\";\n", ""),
    Planted("missing-file", SCRIPT, "", "const rows = await import(\"../rows.js\");\n", ""),
    Planted("missing-file", SCRIPT, "", "const drawing = new URL(\"/media/drawer.svg\", import.meta.url);\n", ""),
    Planted("unversioned-address", SCRIPT, "", "fetch(\"/media/drawers.svg\");\n", ""),
    Planted("unversioned-address", SCRIPT, "", "import(`./${bed}.js`);\n", ""),
    Planted("bad-scripts", DOCUMENT, "</head>", "<script>\nlet a = ;\n</script>\n</head>", "let a = ;"),
    Planted(
        "missing-file",
        DOCUMENT,
        "</head>",
        "<script type=\"module\">\nimport \"/assets/a.js\";\n</script>\n</head>",
        "import \"/assets",
    ),
    Planted(
        "unversioned-address",
        DOCUMENT,
        "</head>",
        "<script>\nfetch(\"/media/drawers.svg\");\n</script>\n</head>",
        "fetch",
    ),
    Planted("bad-styles", DOCUMENT, "</head>", "<style>\na { color green }\n</style>\n</head>", "a { color"),
    Planted(
        "missing-file",
        DOCUMENT,
        "</head>",
        "<style>\na { background: url(/media/drawer.svg) }\n</style>\n</head>",
        "a { back",
    ),
];

#[test]
fn problems_in_scripts_are_found_at_their_lines() {
    plant(IN_SCRIPTS, expect_file!["planted/scripts.txt"]);
}

#[test]
fn problems_in_pages_are_found_at_their_lines() {
    plant(IN_PAGES, expect_file!["planted/pages.txt"]);
}

#[test]
fn problems_in_templates_are_found_at_their_lines() {
    plant(IN_TEMPLATES, expect_file!["planted/templates.txt"]);
}

#[test]
fn problems_in_content_and_configuration_are_found_at_their_lines() {
    plant(IN_CONTENT, expect_file!["planted/content.txt"]);
}

#[test]
fn what_is_told_of_templates_is_found_at_its_line() {
    plant(TOLD_OF_TEMPLATES, expect_file!["planted/more_of_templates.txt"]);
}

#[test]
fn what_is_told_of_the_site_is_found_at_its_line() {
    plant(TOLD_OF_THE_SITE, expect_file!["planted/site.txt"]);
}

/// One slip of somebody who renames, moves or deletes something and forgets the rest.
enum Slip {
    /// A text of a file is another one.
    Text(&'static str, &'static str, &'static str),
    /// A file, or all files of a folder, are elsewhere.
    Moved(&'static str, &'static str),
    /// A file, or all files of a folder, are gone.
    Gone(&'static str),
}

use Slip::{Gone, Moved, Text};

const HALF_RENAMED: &[Slip] = &[
    Text("hausblatt.toml", "\"/varieties/{slug}/\"", "\"/varieties/{slgu}/\""),
    Text("hausblatt.toml", "\"/varieties/{slug}/\"", "\"/varieties/{year}/{slug}/\""),
    Moved("content/varieties", "content/variety"),
    Text("hausblatt.toml", "[taxonomies.family]", "[taxonomies.famly]"),
    Text("themes/loam/partials/card.html", "<img src=\"+{", "<img src=\"+{if "),
    Text("themes/loam/layouts/document.html", "+{slot \"head\"}", "+{slot \"head\" "),
    Text("themes/loam/layouts/document.html", "+{slot \"head\"}", "+{if content}+{slot \"head\"}"),
    Text("themes/hedgerow/prepare/all.let", "let", "lte"),
    Text("themes/harbour/hausblatt-theme.toml", "parent", "praent"),
    Moved("media", "medai"),
    Gone("themes/loam/assets/loam.css"),
    Text("hausblatt.toml", "{ to = \"collection:journal\" }", "{ to = \"collection:journals\" }"),
    Text("hausblatt.toml", "height_cm = { type = \"number\"", "height_cm = { type = \"numbr\""),
    Text("hausblatt.toml", "height_cm = { type", "height = { type"),
    Gone("tables"),
    Moved("content/pages/welcome.md", "content/pages/wellcome.md"),
    Text("hausblatt.toml", "terms.legumes     =", "terms.legume     ="),
    Text("themes/hedgerow/components/notice/component.toml", "type    = \"rich\"", "type    = \"rch\""),
    Gone("themes/hedgerow/components/notice"),
    Gone("themes/loam/layouts/document.html"),
    Moved("themes/loam/layouts/document.html", "themes/loam/layouts/documents.html"),
    Gone("themes/loam/partials/footer.html"),
    Moved("themes/loam/partials/card.html", "themes/loam/partials/crad.html"),
    Text("hausblatt.toml", "motto = \"Borrow", "moto = \"Borrow"),
    Moved("content/pages/visit.md", "content/pages/visits.md"),
    Text("themes/loam/layouts/document.html", "<main id=\"main\">", "<main id=\"main\"><div>"),
    Text("themes/loam/partials/footer.html", "<footer class=\"site\"", "<footer id=\"main\" class=\"site\""),
    Text("hausblatt.toml", "[front]", "[front"),
    Text("hausblatt.toml", "theme    = \"harbour\"", "theme    = \"harbor\""),
    Gone("themes/loam/templates/fallback.html"),
    Text("hausblatt.toml", "order    = \"date desc\"", "order    = \"dat desc\""),
    Text("themes/loam/templates/page.html", "+{tray \"main\"}", "+{tray \"mian\"}"),
    Text("themes/loam/layouts/document.html", "+{slot \"head\"}", "+{slot \"haed\"}"),
    Text("themes/loam/hausblatt-theme.toml", "motto = {", "slogan = {"),
    Text("themes/hedgerow/components/notice/component.toml", "name    = \"text\"", "name    = \"body\""),
    Text("themes/loam/layouts/document.html", "<!doctype", "---\ntakes: { wide: }\n---\n<!doctype"),
    Text("themes/loam/partials/card.html", "takes: { entry:", "takes: { item:"),
    Moved("themes/loam/assets/loam.css", "themes/loam/assets/lom.css"),
    Moved("themes/hedgerow/templates/offered/bare.html", "themes/hedgerow/templates/offered/bear.html"),
    Text("hausblatt.toml", "\nmain = [", "\nmian = ["),
    Text("hausblatt.toml", "views", "vieews"),
    Text("hausblatt.toml", "[routes.calendar]", "[routes.calender]"),
    Text("content/pages/visit.md", "\n---\n", "\n--\n"),
    Text("themes/loam/templates/page.html", "<", "---\nlayout: documnt\n---\n<"),
    Text("themes/hedgerow/prepare/all.let", "let month", "let mnth"),
    Moved("media/varieties", "media/varietis"),
    Text("themes/loam/hausblatt-theme.toml", "type = \"text\"", "type = \"txt\""),
    Moved("themes/hedgerow/components/notice/style.css", "themes/hedgerow/components/notice/styles.css"),
    Text("hausblatt.toml", "\nfoot = [", "\nfoots = ["),
    Text("themes/loam/partials/menu.html", "takes: { name:", "takes: { menu:"),
];

#[test]
fn what_was_half_renamed_is_one_report() {
    let mut told = String::new();
    let mut several = Vec::new();
    for slip in HALF_RENAMED {
        let files = few_varieties();
        let below = |from: &str| -> Vec<String> {
            let of_all =
                files.all().into_iter().filter_map(|(path, _)| path.to_str()?.strip_prefix('/').map(str::to_owned));
            of_all.filter(|path| path == from || path.starts_with(&format!("{from}/"))).collect()
        };
        match slip {
            Text(path, from, to) => {
                let text = String::from_utf8(files.bytes(path).unwrap().to_vec()).unwrap();
                assert!(text.contains(from), "{path} lacks {from}");
                files.write(path, text.replacen(from, to, 1));
                told.push_str(&format!("{path}: {from:?} → {to:?}\n"));
            }
            Moved(from, to) => {
                for path in below(from) {
                    files.write(path.replacen(from, to, 1), files.bytes(&path).unwrap());
                    files.remove(&path);
                }
                told.push_str(&format!("{from} moved to {to}\n"));
            }
            Gone(from) => {
                below(from).iter().for_each(|path| files.remove(path));
                told.push_str(&format!("{from} gone\n"));
            }
        }
        let words: Vec<String> = checked_in_words(&snapshot(&files)).into_iter().map(|(_, words)| words).collect();
        assert!(!words.is_empty(), "nothing is said after: {told}");
        told.push_str(&format!("    {}\n", words.join("\n    ")));
        if words.len() > 1 {
            several.push(words);
        }
    }
    expect_file!["planted/half_renamed.txt"].assert_eq(&told);
    assert!(several.is_empty(), "{several:#?}");
}

#[test]
fn slips_are_one_report_each() {
    plant(SLIPS, expect_file!["planted/slips.txt"]);
}

#[test]
fn more_slips_are_one_report_each() {
    plant(MORE_SLIPS, expect_file!["planted/more_slips.txt"]);
}

#[test]
fn slips_elsewhere_are_one_report_each() {
    plant(SLIPS_ELSEWHERE, expect_file!["planted/slips_elsewhere.txt"]);
}

#[test]
fn problems_of_several_files_are_found() {
    for Several(code, changes, path, line) in SEVERAL {
        let files = few_varieties();
        for (file, bytes) in *changes {
            match bytes {
                Some(bytes) => files.write(file, bytes),
                None => files.remove(file),
            }
        }
        let seen = checked(&snapshot(&files));
        let is_it = |(c, p, l): &Said| c == code && p == path && l == line;
        assert!(seen.iter().any(is_it), "{code} is not among {seen:?}");
    }
}

#[test]
fn every_check_has_been_planted() {
    let told = [TOLD_OF_TEMPLATES, TOLD_OF_THE_SITE, SLIPS, MORE_SLIPS, SLIPS_ELSEWHERE];
    let planted = [IN_PAGES, IN_STYLES, IN_SCRIPTS, IN_TEMPLATES, IN_CONTENT].into_iter().chain(told);
    let planted: Vec<&[Planted]> = planted.collect();
    let codes = codes().into_iter().map(|code| code.name);
    let is_held = |code: &&str| {
        NOT_TOLD.contains(code)
            || SEVERAL.iter().any(|Several(other, ..)| other == code)
            || planted.iter().any(|problems| problems.iter().any(|Planted(other, ..)| other == code))
    };
    let never: Vec<&str> = codes.filter(|code| !is_held(code)).collect();
    assert_eq!(never, Vec::<&str>::new());
}
