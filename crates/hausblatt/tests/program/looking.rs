//! Looking into an answer: values, which file made what, what `dump` shows, prepare files.

use crate::support::Site;
use expect_test::expect;

#[test]
fn all_values_at_an_address() {
    let site = Site::small();
    expect![[r#"
        exit 0
        site  a record: Seeds
          title     "Seeds"
          address   "https://seeds.example"
          language  "en"
        request  a record: Opening
          address   "/visit/opening/"
          kind      "page"
          format    "html"
          page      1
          status    200
          title     "Opening"
          template  "page.html"
          layout    "document"
          theme     "far"
        classes  a list of 2
          0  "page"
          1  "visit-opening"
        content  a record: Opening
          id          "visit/opening"
          address     "/visit/opening/"
          kind        "page"
          title       "Opening"
          body        ""  HTML
          parent      a record: Visit
          children    a list of 0
          ancestors   a list of 1
          headings    a list of 0
          minutes     1
          views       a record
        collections  a record
          journal  a list of 3
        taxonomies  a record
        menus  a record
          main  a list of 2
        settings  a record
        tables  a record
        theme  a record: near
          name     "near"
        today  2026-11-23  a day
        journal  a list of 3
        nothing here: listing, search, route, error
    "#]]
    .assert_eq(&site.run(&["values", "/visit/opening/"]).whole());
    expect![[r#"
        exit 0
        site  a record: Seeds
          title     "Seeds"
          address   "https://seeds.example"
          language  "en"
        request  a record: Journal
          address   "/journal/page/2/"
          kind      "listing"
          format    "html"
          page      2
          status    200
          title     "Journal"
          template  "fallback.html"
          layout    "document"
          theme     "far"
        classes  a list of 2
          0  "listing"
          1  "journal"
        listing  a record: Journal
          title       "Journal"
          items       a list of 1
          page        2
          total       3
          pages       a list of 2
          previous    "/journal/"
          collection  "journal"
        collections  a record
          journal  a list of 3
        taxonomies  a record
        menus  a record
          main  a list of 2
        settings  a record
        tables  a record
        theme  a record: near
          name     "near"
        today  2026-11-23  a day
        journal  a list of 3
        nothing here: content, search, route, error
    "#]]
    .assert_eq(&site.run(&["values", "/journal/page/2/"]).whole());
}

#[test]
fn one_value() {
    let site = Site::small();
    for (value, printed) in [
        ("content.title.upper", "\"VISIT\"  a text\n"),
        ("1 + 2 * 3", "7  a number\n"),
        ("journal.count", "3  a number\n"),
        ("content.date", "nothing\n"),
        ("today", "2026-11-23  a day\n"),
        ("content.body", "\"<p>Come.</p>⏎\"  HTML\n"),
        ("[1, 'a']", "a list of 2\n  0  1\n  1  \"a\"\n"),
        ("journal where it.title == 'Boats'", ""),
    ] {
        let said = site.run(&["values", "/visit/", value]);
        assert_eq!(said.code, 0, "{value}: {}", said.whole());
        if printed.is_empty() {
            assert!(said.out.starts_with("a list of 1\n  0  a record: Boats\n    id"), "{}", said.whole());
        } else {
            assert_eq!(said.out, printed, "{value}");
        }
    }
    let json = site.json(&["values", "/visit/", "content.children"]);
    assert_eq!(json["value"]["type"], "a list of 1");
    assert_eq!(json["value"]["members"][0]["name"], "0");
    assert_eq!(json["value"]["members"][0]["type"], "a record: Opening");
    let json = site.json(&["values", "content/pages/visit.md"]);
    assert_eq!(json["address"], "/visit/");
    assert_eq!(json["values"]["request"]["members"][0]["text"], "/visit/");
}

#[test]
fn problems_in_a_typed_value() {
    let site = Site::small();
    expect![[r#"
        exit 1
        ---
        warning  no content has or declares a field "titel"
                 the value:1:9
             1 | content.titel.upper + jornal
                         ‾‾‾‾‾
                 → did you mean "title"?                                   unknown-field

        error    unknown name "jornal"
                 the value:1:23
             1 | content.titel.upper + jornal
                                       ‾‾‾‾‾‾
                 → did you mean "journal"?                                  unknown-name

    "#]]
    .assert_eq(&site.run(&["values", "/visit/", "content.titel.upper + jornal"]).whole());
    expect![[r#"
        exit 1
        ---
        error    this divides by zero
                 the value:1:1
             1 | 1 / 0
                 ‾‾‾‾‾
                                                                               bad-value

    "#]]
    .assert_eq(&site.run(&["values", "/visit/", "1 / 0"]).whole());
    expect![[r#"
        exit 1
        ---
        error    ")" is missing before the end
                 the value:1:3
             1 | (1
                   ‾
                                                                                 bad-tag

    "#]]
    .assert_eq(&site.run(&["values", "/visit/", "(1"]).whole());
    expect![[r#"
        exit 1
        ---
        error: /visit redirects, and no template sees anything there
        help: name /visit/
    "#]]
    .assert_eq(&site.run(&["values", "/visit", "1"]).whole());
    assert_eq!(site.run(&["values", "/visit/", ""]).code, 1);
    assert_eq!(site.run(&["values"]).code, 2);
}

#[test]
fn which_file_made_which_part() {
    let site = Site::small();
    site.write(
        "themes/near/templates/page.html",
        "<h1>+{content.title}</h1>\n+{inherited}\n+{into \"aside\"}\n  +{partial \"note\"}\n+{end}\n",
    );
    site.write("themes/far/templates/page.html", "+{each n in range(1, 3)}\n+{partial \"row\" given n = n}\n+{end}\n");
    site.write("themes/far/partials/row.html", "---\ntakes: { n: }\n---\n<p>+{n}</p>\n");
    site.write("themes/near/partials/note.html", "<i>note</i>\n");
    site.write(
        "themes/far/layouts/document.html",
        "<title>+{request.title}</title>\n<main>\n+{slot}\n</main>\n+{slot \"aside\"}\n",
    );
    expect![[r#"
        exit 0
        /visit/  →  200

        lines  bytes  file
        1–11      94  themes/far/layouts/document.html
        3–8       43    themes/near/templates/page.html
        4–7       27      themes/far/templates/page.html
        4–6       24        themes/far/partials/row.html  ×3
        10–11     14    themes/near/templates/page.html
        10        11      themes/near/partials/note.html
    "#]]
    .assert_eq(&site.run(&["render", "/visit/", "--outline"]).whole());
    expect![[r#"
        exit 0
        <!-- + themes/far/layouts/document.html --><title>Visit</title>
        <main>
        <!-- + themes/near/templates/page.html --><h1>Visit</h1>
        <!-- + themes/far/templates/page.html --><!-- + themes/far/partials/row.html --><p>1</p><!-- - themes/far/partials/row.html -->
        <!-- + themes/far/partials/row.html --><p>2</p><!-- - themes/far/partials/row.html -->
        <!-- + themes/far/partials/row.html --><p>3</p><!-- - themes/far/partials/row.html -->
        <!-- - themes/far/templates/page.html -->
        <!-- - themes/near/templates/page.html -->
        </main>
        <!-- + themes/near/templates/page.html -->  <!-- + themes/near/partials/note.html --><i>note</i><!-- - themes/near/partials/note.html -->
        <!-- - themes/near/templates/page.html --><!-- - themes/far/layouts/document.html -->
    "#]].assert_eq(&site.run(&["render", "/visit/", "--marks"]).whole());
    let json = site.json(&["render", "/visit/", "--outline"]);
    assert_eq!(json["parts"][0]["path"], "themes/far/layouts/document.html");
    assert_eq!(json["parts"][0]["parts"][0]["parts"][0]["parts"].as_array().unwrap().len(), 3);
    let plain = site.run(&["render", "/visit/"]).out;
    let marked = site.run(&["render", "/visit/", "--marks"]).out;
    let mut without = marked.clone();
    while let Some(start) = without.find("<!-- ") {
        let end = start + without[start..].find("-->").unwrap() + 3;
        without.replace_range(start..end, "");
    }
    assert_eq!(plain.trim_end(), without.trim_end());
    expect![[r#"
        exit 1
        /nowhere/  →  404

        lines  bytes  file
        1–5       69  themes/far/layouts/document.html
        3         23    themes/far/templates/fallback.html
        ---
        note: /nowhere/ answers with 404
    "#]]
    .assert_eq(&site.run(&["render", "/nowhere/", "--outline"]).whole());
}

#[test]
fn dump_shows_in_render_and_fails_a_build() {
    let site = Site::small();
    site.write("themes/near/templates/page.html", "+{dump content.children}\n");
    let shown = site.run(&["render", "/visit/"]);
    assert_eq!(shown.code, 0);
    assert!(shown.out.contains("<summary>a list of 1</summary>"), "{}", shown.out);
    let built = site.run(&["build"]);
    assert_eq!(built.code, 1);
    assert!(built.err.contains("error    \"dump\" is for looking"), "{}", built.err);
}

#[test]
fn prepare_files_run_from_general_to_specific_and_from_the_oldest_theme() {
    let site = Site::small();
    site.write("themes/far/prepare/all.let", "let trace = [\"far all\"]\nlet classes = classes + [\"prepared\"]\n");
    site.write("themes/near/prepare/all.let", "let trace = trace + [\"near all\"]   # goes on\n");
    site.write(
        "themes/far/prepare/page.let",
        "let trace = trace + [\"far page\"]\nlet deep = content.ancestors.count\n",
    );
    site.write("themes/near/prepare/page.let", "let trace = trace + [\"near page\"]\n");
    site.write("themes/near/prepare/entry.let", "let trace = trace + [\"near entry\"]\n");
    site.write("themes/near/prepare/front.let", "let trace = trace + [\"near front\"]\n");
    site.write("themes/near/layouts/document.html", "+{trace.join(\", \")} | +{classes.join(\" \")} | +{deep}\n");
    for (address, printed) in [
        ("/", "far all, near all, far page, near page, near front | front home prepared | 0"),
        ("/visit/", "far all, near all, far page, near page | page visit prepared | 0"),
        ("/visit/opening/", "far all, near all, far page, near page | page visit-opening prepared | 1"),
        ("/journal/frost/", "far all, near all, near entry | entry journal frost prepared |"),
        ("/journal/", "far all, near all | listing journal prepared |"),
        ("/nowhere/", "far all, near all | error prepared |"),
    ] {
        assert_eq!(site.run(&["render", address]).out.trim_end(), printed, "{address}");
    }
    expect![[r#"
        exit 0
        /visit/  →  200
        page · content/pages/visit.md

           rung             near  far
        1  page/visit.html   ·     ·
        2  page.html         ·     ■
        3  fallback.html     ·     □
            ■ renders   □ passed over   · no file
        renders   themes/far/templates/page.html
        inside    themes/near/layouts/document.html
        uses      prepare all (far), prepare all (near), prepare page (far),
                  prepare page (near)

        To change this page only:  hausblatt override /visit/ --only
        To change all pages:       hausblatt override /visit/
        ---
        warning  this layout prints nothing of the template inside it
                 themes/near/layouts/document.html
                 → write +{slot} where the template's output belongs
                                                                     layout-without-slot

    "#]]
    .assert_eq(&site.run(&["resolve", "/visit/"]).whole());
    let uses = site.json(&["resolve", "/visit/"])[0]["uses"].clone();
    assert_eq!(uses[1]["what"], "prepare");
    assert_eq!(uses[1]["path"], "themes/near/prepare/all.let");
}

#[test]
fn problems_in_prepare_files() {
    let site = Site::small();
    site.write("themes/far/prepare/all.let", "let beds = [1, 2]\n");
    site.write("themes/near/prepare/all.let", "let beds = [3]\nlet today = 1\nlit x = 2\n");
    site.write("themes/near/prepare/pge.let", "let x = 1\n");
    expect![[r#"
        exit 1
        /visit/  →  500
        page · content/pages/visit.md

           rung             near  far
        1  page/visit.html   ·     ·
        2  page.html         ·     ■
        3  fallback.html     ·     □
            ■ renders   □ passed over   · no file
        renders   themes/far/templates/page.html
        inside    themes/far/layouts/document.html
        uses      prepare all (far), prepare all (near)

        themes/near/prepare/all.let does not compile.

        To change this page only:  hausblatt override /visit/ --only
        To change all pages:       hausblatt override /visit/
        ---
        warning  no file reads "beds"
                 themes/near/prepare/all.let:1:5
             1 | let beds = [3]
                     ‾‾‾‾
                 → take it out, or read it in a file of the theme           unread-value

        error    "today" is a value that every file has; it can't be taken for another
                 themes/near/prepare/all.let:2:5
             2 | let today = 1
                     ‾‾‾‾‾
                 → choose another name                                        name-taken

        error    a prepare file holds nothing but lines that begin with "let"
                 themes/near/prepare/all.let:3:1
             3 | lit x = 2
                 ‾‾‾
                 → write: let name = value                                       bad-tag

    "#]]
    .assert_eq(&site.run(&["resolve", "/visit/"]).whole());
    expect![[r#"
        exit 1
        <!doctype html>
        <html lang="en">
        <head>
        <meta charset="utf-8">
        <meta name="robots" content="noindex">
        <title>500 Internal error</title>
        </head>
        <body>
        <h1>Internal error</h1>
        <p>Status 500</p>
        </body>
        </html>
        ---
        warning  no file reads "beds"
                 themes/near/prepare/all.let:1:5
             1 | let beds = [3]
                     ‾‾‾‾
                 → take it out, or read it in a file of the theme           unread-value

        error    "today" is a value that every file has; it can't be taken for another
                 themes/near/prepare/all.let:2:5
             2 | let today = 1
                     ‾‾‾‾‾
                 → choose another name                                        name-taken

        error    a prepare file holds nothing but lines that begin with "let"
                 themes/near/prepare/all.let:3:1
             3 | lit x = 2
                 ‾‾‾
                 → write: let name = value                                       bad-tag

    "#]]
    .assert_eq(&site.run(&["render", "/visit/"]).whole());
    let site = Site::small();
    site.write("themes/near/prepare/all.let", "let beds = [1, 2].first.title\n");
    expect![[r#"
        exit N
        Built with errors: N of NN pages into ./built (N kB, N.NN s): N files written, N unchanged, N removed.
        ---
        warning  no file reads "beds"
                 themes/near/prepare/all.let:N:N
             N | let beds = [N, N].first.title
                     ‾‾‾‾
                 → take it out, or read it in a file of the theme           unread-value

        error    a number has no "title"
                 themes/near/prepare/all.let:N:NN
             N | let beds = [N, N].first.title
                                         ‾‾‾‾‾
                 → a number has round, up, down, format                   unknown-member

        not built: / has errors; what an earlier build put there stays
        not built: /journal/ has errors; what an earlier build put there stays
        not built: /journal/beans/ has errors; what an earlier build put there stays
        not built: /journal/boats/ has errors; what an earlier build put there stays
        not built: /journal/frost/ has errors; what an earlier build put there stays
        not built: /journal/page/N/ has errors; what an earlier build put there stays
        not built: /visit/ has errors; what an earlier build put there stays
        not built: /visit/opening/ has errors; what an earlier build put there stays
        not built: /NNN.html has errors; a plain page is sent instead
    "#]]
    .assert_eq(&site.run(&["build"]).whole().replace(char::is_numeric, "N"));
}

#[test]
fn prepare_files_that_miss_their_aim() {
    let site = Site::small();
    site.write("themes/far/prepare/all.let", "let beds = [1, 2]\nlet more = [1]\n");
    site.write("themes/near/prepare/all.let", "let beds = [3]\nlet more = more + [2]\n");
    site.write("themes/near/prepare/pge.let", "let x = 1\n");
    site.write("themes/near/prepare/page.txt", "let x = 1\n");
    expect![[r#"
        exit 0
        Built 12 pages into ./built (2 kB, TIME s): 12 files written, 0 unchanged, 0 removed.
        ---
        warning  this replaces the list "beds" that a farther theme builds
                 themes/near/prepare/all.let:1:5
             1 | let beds = [3]
                     ‾‾‾‾
                 themes/far/prepare/all.let:1:5
             1 | let beds = [1, 2]
                     ‾‾‾‾ it is built here
                 → to add to it, write: let beds = beds + […]              list-replaced

        warning  no file reads "beds"
                 themes/near/prepare/all.let:1:5
             1 | let beds = [3]
                     ‾‾‾‾
                 → take it out, or read it in a file of the theme           unread-value

        warning  no file reads "more"
                 themes/near/prepare/all.let:2:5
             2 | let more = more + [2]
                     ‾‾‾‾
                 → take it out, or read it in a file of the theme           unread-value

        warning  no request runs this: a prepare file ends in .let
                 themes/near/prepare/page.txt
                                                                               dead-file

        warning  no request runs this prepare file: "pge" is not a kind of request
                 themes/near/prepare/pge.let
                 → did you mean "page"?                                        dead-file

    "#]]
    .assert_eq(&crate::support::without_time(&site.run(&["build"]).whole()));
}
