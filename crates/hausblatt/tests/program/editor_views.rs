//! What editors show beside the text, and what they ask by name: lenses, hints, links, tokens, selections, commands, actions,
//! and diagnostics that are asked for.

use std::io::{BufRead, BufReader, Write};
use std::process::Stdio;

use expect_test::expect;
use serde_json::{Value, json};

use crate::lsp_client::Editor;
use crate::support::Site;

const PAGE: &str = "themes/loam/templates/page.html";
const CARD: &str = "themes/loam/partials/card.html";

fn opened(editor: &mut Editor, site: &Site, path: &str) -> String {
    let text = site.read(path);
    editor.open(path, &text);
    text
}

fn of(editor: &mut Editor, method: &str, path: &str, more: Value) -> Value {
    let mut parameters = json!({ "textDocument": { "uri": editor.uri(path) } });
    parameters.as_object_mut().unwrap().extend(more.as_object().cloned().unwrap_or_default());
    editor.ask(&format!("textDocument/{method}"), parameters)
}

fn command(editor: &mut Editor, name: &str, path: &str, more: &[&str]) -> Value {
    let uri = editor.uri(path);
    let arguments: Vec<&str> = std::iter::once(uri.as_str()).chain(more.iter().copied()).collect();
    editor.ask("workspace/executeCommand", json!({ "command": name, "arguments": arguments }))
}

/// The part of a text that a range is, in units of UTF-16.
fn part(text: &str, range: &Value) -> String {
    let at = |place: &Value| {
        let number = |key: &str| usize::try_from(place[key].as_u64().unwrap()).unwrap();
        let start: usize = text.split_inclusive('\n').take(number("line")).map(str::len).sum();
        let mut left = number("character");
        let before = text[start..].chars().take_while(|c| {
            let is_before = left > 0;
            left = left.saturating_sub(c.len_utf16());
            is_before
        });
        start + before.map(char::len_utf8).sum::<usize>()
    };
    text[at(&range["start"])..at(&range["end"])].to_owned()
}

const ODD: &str = "<p>\u{fc}\u{1f600} +{if content.image}\r\n  +{partial \"crumbs\"} +{let bed = content.title}+{bed}\r\n+{else}\r\n  b\r\n+{end}</p>\r\n";

#[test]
fn what_is_around_a_place_is_selected_and_what_belongs_together_is_shown() {
    let site = Site::demo();
    let mut editor = Editor::able(&site, json!({}), json!({ "hints": true }));
    editor.open(PAGE, ODD);
    let all = json!({ "start": { "line": 0, "character": 0 }, "end": { "line": 99, "character": 0 } });
    let mut said = String::new();
    let positions = json!([{ "line": 1, "character": 44 }, { "line": 3, "character": 2 }]);
    for selection in of(&mut editor, "selectionRange", PAGE, json!({ "positions": positions })).as_array().unwrap() {
        let mut parts = Vec::new();
        let mut at = selection;
        while at.is_object() {
            parts.push(part(ODD, &at["range"]));
            at = &at["parent"];
        }
        said += &format!("selects {parts:?}\n");
    }
    let folds = of(&mut editor, "foldingRange", PAGE, json!({}));
    said += &format!("folds {folds}\n");
    let tags = editor.at("documentHighlight", PAGE, &ODD.replace("+{else}", "+{e|lse}"), json!({}));
    let tags: Vec<String> = tags.as_array().unwrap().iter().map(|tag| part(ODD, &tag["range"])).collect();
    said += &format!("belong together {tags:?}\n");
    for link in of(&mut editor, "documentLink", PAGE, json!({})).as_array().unwrap() {
        said += &format!("link {} → {}\n", part(ODD, &link["range"]), link["tooltip"].as_str().unwrap());
    }
    for hint in of(&mut editor, "inlayHint", PAGE, json!({ "range": all })).as_array().unwrap() {
        said += &format!("hint {} {}\n", hint["position"], hint["label"]);
    }
    opened(&mut editor, &site, CARD);
    for hint in of(&mut editor, "inlayHint", CARD, json!({ "range": all })).as_array().unwrap() {
        said += &format!("hint {} {}\n", hint["position"], hint["label"]);
    }
    for lens in of(&mut editor, "codeLens", PAGE, json!({})).as_array().unwrap() {
        said += &format!("lens {} ({})\n", lens["command"]["title"], lens["command"]["command"]);
    }
    expect![[r#"
        selects ["title", "content.title", "let bed = content.title", "+{let bed = content.title}", "\r\n  +{partial \"crumbs\"} +{let bed = content.title}+{bed}\r\n+{else}\r\n  b\r\n", "+{if content.image}\r\n  +{partial \"crumbs\"} +{let bed = content.title}+{bed}\r\n+{else}\r\n  b\r\n+{end}", "<p>ü😀 +{if content.image}\r\n  +{partial \"crumbs\"} +{let bed = content.title}+{bed}\r\n+{else}\r\n  b\r\n+{end}</p>\r\n"]
        selects ["b", "  b", "\r\n  +{partial \"crumbs\"} +{let bed = content.title}+{bed}\r\n+{else}\r\n  b\r\n", "+{if content.image}\r\n  +{partial \"crumbs\"} +{let bed = content.title}+{bed}\r\n+{else}\r\n  b\r\n+{end}", "<p>ü😀 +{if content.image}\r\n  +{partial \"crumbs\"} +{let bed = content.title}+{bed}\r\n+{else}\r\n  b\r\n+{end}</p>\r\n"]
        folds [{"startLine":0,"endLine":3}]
        belong together ["+{if content.image}", "+{else}", "+{end}"]
        link crumbs → themes/loam/partials/crumbs.html
        hint {"line":4,"character":6} "if content.image"
        hint {"line":1,"character":14} "record"
        hint {"line":1,"character":25} "number"
        hint {"line":6,"character":8} "if entry.image"
        lens "renders 5 addresses" ("hausblatt.list")
        lens "reaches 18 addresses" ("hausblatt.list")
        lens "values of /about/" ("hausblatt.sample")
    "#]].assert_eq(&said);
    // Hints are off unless they are wanted.
    editor.tell("workspace/didChangeConfiguration", json!({ "settings": { "hausblatt": { "hints": false } } }));
    assert_eq!(of(&mut editor, "inlayHint", CARD, json!({ "range": all })), Value::Null);
    editor.end();
}

#[test]
fn tokens_are_told_whole_and_as_what_is_different() {
    let site = Site::demo();
    let mut editor = Editor::of(&site);
    editor.open(PAGE, "\u{fc}\u{1f600} +{content.title}\n+{let x = 1}+{x}\n");
    let whole = of(&mut editor, "semanticTokens/full", PAGE, json!({}));
    expect![[r#"{"resultId":"1","data":[0,6,7,2,0,0,8,5,4,0,1,6,1,1,0,0,8,1,1,0]}"#]].assert_eq(&whole.to_string());
    editor.change(PAGE, "\u{fc}\u{1f600} +{content.title}\n+{let x = 1}+{x}+{journal.count}\n");
    let earlier = json!({ "previousResultId": whole["resultId"] });
    let different = of(&mut editor, "semanticTokens/full/delta", PAGE, earlier.clone());
    expect![[r#"{"resultId":"2","edits":[{"start":20,"deleteCount":0,"data":[0,4,7,3,0,0,8,5,4,0]}]}"#]]
        .assert_eq(&different.to_string());
    // What is no longer known is told whole.
    let whole = of(&mut editor, "semanticTokens/full/delta", PAGE, earlier);
    assert!(whole["data"].as_array().unwrap().len() > 10, "{whole}");
    editor.end();
}

#[test]
fn an_editor_that_asks_for_what_is_wrong_is_told_once() {
    let site = Site::demo();
    site.write("themes/loam/partials/footer.html", "+{content.titel}");
    let pulls =
        json!({ "textDocument": { "diagnostic": {} }, "workspace": { "diagnostics": { "refreshSupport": true } } });
    let mut editor = Editor::able(&site, pulls, Value::Null);
    editor.open(PAGE, "+{content.titel}");
    let first = of(&mut editor, "diagnostic", PAGE, json!({}));
    assert_eq!((&first["kind"], &first["items"][0]["code"]), (&json!("full"), &json!("unknown-field")), "{first}");
    let again = of(&mut editor, "diagnostic", PAGE, json!({ "previousResultId": first["resultId"] }));
    expect![[r#"{"kind":"unchanged","resultId":"b8023b9b0f137ffa"}"#]].assert_eq(&again.to_string());
    // Of a file that is not open it is told; of this one it is not told what it asks for.
    let told = editor.next_told("textDocument/publishDiagnostics", "themes/loam/partials/footer.html");
    assert_eq!(told["diagnostics"][0]["code"], "unknown-field");
    let uri = editor.uri(PAGE);
    assert!(!editor.told.iter().any(|one| one["params"]["uri"] == json!(uri)));
    // What another file changes in this one it is told to ask for again.
    editor.change(PAGE, "+{partial \"crumbs\" given bed = 1}");
    let before = of(&mut editor, "diagnostic", PAGE, json!({}));
    assert_eq!(before["items"][0]["code"], "unknown-parameter", "{before}");
    editor.open("themes/loam/partials/crumbs.html", "---\ntakes: { bed: nothing }\n---\n+{bed}");
    let is_refresh = |one: &Value| one["method"] == "workspace/diagnostic/refresh";
    while !editor.asked.iter().any(is_refresh) {
        let message = editor.receive();
        editor.told.push(message);
    }
    let after = of(&mut editor, "diagnostic", PAGE, json!({ "previousResultId": before["resultId"] }));
    assert_eq!(after["items"], json!([]), "{after}");
    // Once it asks for all, nothing is told any more, and what was told is taken back.
    let all = editor.ask("workspace/diagnostic", json!({ "previousResultIds": [] }));
    let of_all: Vec<String> = all["items"]
        .as_array()
        .unwrap()
        .iter()
        .map(|item| format!("{} {}", item["kind"], item["items"].as_array().map_or(0, Vec::len)))
        .collect();
    assert!(of_all.contains(&"\"full\" 1".to_owned()), "{all}");
    let told = editor.next_told("textDocument/publishDiagnostics", "themes/loam/partials/footer.html");
    assert_eq!(told["diagnostics"], json!([]));
    let outside = editor.ask("textDocument/diagnostic", json!({ "textDocument": { "uri": "file:///nowhere/x.html" } }));
    assert_eq!(outside, json!({ "kind": "full", "items": [] }));
    editor.end();
}

#[test]
fn what_only_pages_show_is_told_when_nothing_is_typed() {
    let site = Site::demo();
    let mut editor = Editor::of(&site);
    let text = opened(&mut editor, &site, CARD);
    editor.change(CARD, &text.replace(" alt=\"\"", ""));
    let told = editor.next_told("textDocument/publishDiagnostics", CARD);
    expect![[r#"
        [
          {
            "range": {
              "start": {
                "line": 5,
                "character": 2
              },
              "end": {
                "line": 5,
                "character": 12
              }
            },
            "severity": 2,
            "code": "no-alt",
            "source": "hausblatt",
            "message": "this <img> has no alt (at / and 49 more)\n→ say what it shows, or write alt=\"\" if it only decorates",
            "relatedInformation": []
          }
        ]"#]].assert_eq(&editor.shown(&told["diagnostics"]));
    editor.change(CARD, &text);
    let told = editor.next_told("textDocument/publishDiagnostics", CARD);
    assert_eq!(told["diagnostics"], json!([]));
    editor.end();
}

#[test]
fn questions_are_answered_as_documents() {
    let site = Site::demo();
    let can = json!({ "window": { "showDocument": { "support": true }, "workDoneProgress": true }, "workspace": { "codeLens": { "refreshSupport": true } } });
    let mut editor = Editor::able(&site, can, json!({ "documents": true }));
    opened(&mut editor, &site, PAGE);
    let text = |answer: &Value| answer["text"].as_str().map_or(answer.to_string(), str::to_owned);
    let mut said = String::new();
    said += &text(&command(&mut editor, "hausblatt.list", PAGE, &["renders"]));
    said += &text(&command(&mut editor, "hausblatt.list", "themes/harbour/layouts/document.html", &["covers"]));
    said += &text(&command(&mut editor, "hausblatt.list", "themes/harbour/layouts/document.html", &["extends"]));
    said += &text(&command(&mut editor, "hausblatt.why", PAGE, &[]));
    said += &text(&command(&mut editor, "hausblatt.why", "content/pages/visit.md", &[]));
    said += &text(&command(&mut editor, "hausblatt.without", PAGE, &[]));
    for (name, path) in [
        ("hausblatt.why", "content/nothing.md"),
        ("hausblatt.without", "content/pages/visit.md"),
        ("hausblatt.open", PAGE),
        ("hausblatt.nothing", PAGE),
    ] {
        let answer = command(&mut editor, name, path, &[]);
        said += &format!("{name} {path}: {}\n", answer["message"].as_str().unwrap_or("none"));
    }
    expect![[r#"
        themes/loam/templates/page.html renders 5 addresses:

          /borrow/
          /borrow/how-it-works/
          /borrow/returning-seed/
          /borrow/returning-seed/drying/
          /borrow/returning-seed/labelling/
        themes/harbour/layouts/document.html covers:

          themes/hedgerow/layouts/document.html
          themes/loam/layouts/document.html
        themes/harbour/layouts/document.html extends:

          themes/hedgerow/layouts/document.html
        /about/  →  200
        page · content/pages/about.md

           rung             harbour   hedgerow    loam
        1  page/about.html     ■         ·         ·
        2  page.html           ·         ·         □
        3  fallback.html       ·         ·         □
            ■ renders   □ passed over   · no file
        renders   themes/harbour/templates/page/about.html
        extends   themes/loam/templates/page.html
        inside    themes/harbour/layouts/document.html
        extends   themes/hedgerow/layouts/document.html
        extends   themes/loam/layouts/document.html
        uses      crumbs (loam), footer (loam), header (harbour),
                  header-small (harbour), menu (loam), prepare all (hedgerow)

        To change this page only:  edit themes/harbour/templates/page/about.html
        /visit/  →  200
        page · content/pages/visit.md

           rung             harbour   hedgerow    loam
        1  page/visit.html     ·         ■         ·
        2  page.html           ·         ·         □
        3  fallback.html       ·         ·         □
            ■ renders   □ passed over   · no file
        renders   themes/hedgerow/templates/page/visit.html
        extends   themes/loam/templates/page.html
        inside    themes/harbour/layouts/document.html
        extends   themes/hedgerow/layouts/document.html
        extends   themes/loam/layouts/document.html
        uses      card/workshops (hedgerow), crumbs (loam), footer (loam),
                  header (harbour), menu (loam), component notice (hedgerow),
                  component split-panel (hedgerow), prepare all (hedgerow)

        To change this page only:  hausblatt override /visit/
        If themes/loam/templates/page.html were gone:

        5 addresses would be answered differently:
          /borrow/
          /borrow/how-it-works/
          /borrow/returning-seed/
          /borrow/returning-seed/drying/
          /borrow/returning-seed/labelling/
              page.html (loam) → fallback.html (loam), HTML differs

        13 addresses would differ in HTML, by the same file:
          /about/
              page/about.html (harbour), HTML differs
          /coming/
              page/coming.html (hedgerow), HTML differs
          /families/
              page/families.html (hedgerow), HTML differs
          /growers/
              page/growers.html (hedgerow), HTML differs
          /growers/ida-marlow/
          /growers/petra-quince/
          /growers/tobias-fenn/
              page/growers/all_below.html (hedgerow), HTML differs
          /visit/
              page/visit.html (hedgerow), HTML differs
          /visit/access/
          /visit/opening/
              offered/no-aside.html (hedgerow), HTML differs
          /visit/find-us/
          /visit/find-us/by-water/
          /visit/find-us/on-foot/
              page/visit/all_below.html (hedgerow), HTML differs

        116 addresses are as before.

        content/pages/visit.md
          themes/hedgerow/templates/page/visit.html and what it uses do not print the tray "main" (a template prints it with +{tray "main"})
        hausblatt.why content/nothing.md: the file is in no site
        hausblatt.without content/pages/visit.md: this file is not in a theme of the site's lineage
        hausblatt.open themes/loam/templates/page.html: no server of this site runs: start one with "hausblatt serve"
        hausblatt.nothing themes/loam/templates/page.html: unknown command hausblatt.nothing: the commands are hausblatt.sample, hausblatt.list, hausblatt.why, hausblatt.without, hausblatt.open
    "#]].assert_eq(&said);
    // The long one is shown to go on.
    let steps: Vec<&Value> =
        editor.told.iter().filter(|one| one["method"] == "$/progress").map(|one| &one["params"]["value"]).collect();
    assert_eq!((steps.len(), &steps[0]["kind"], &steps[1]["kind"]), (4, &json!("begin"), &json!("end")), "{steps:?}");
    // Without a place for documents the text is a message.
    let mut plain = Editor::of(&site);
    opened(&mut plain, &site, PAGE);
    command(&mut plain, "hausblatt.list", PAGE, &["renders"]);
    let message = plain.told.iter().find(|one| one["method"] == "window/showMessage").unwrap();
    assert!(
        message["params"]["message"]
            .as_str()
            .unwrap()
            .starts_with("themes/loam/templates/page.html renders 5 addresses:")
    );
    plain.end();
    editor.end();
}

#[test]
fn another_address_gives_the_values_and_a_running_server_offers_its_own() {
    let site = Site::demo();
    let mut editor = Editor::able(&site, json!({}), Value::Null);
    opened(&mut editor, &site, PAGE);
    let hover = |editor: &mut Editor| {
        let answer = editor.at("hover", PAGE, "+{content.ti|tle}", json!({}));
        answer["contents"]["value"].as_str().unwrap().lines().last().unwrap().to_owned()
    };
    assert_eq!(hover(&mut editor), "`content.title` at /about/: a text, `About`");
    let wrong = command(&mut editor, "hausblatt.sample", PAGE, &["/visti/"]);
    expect!["nothing is at /visti/ (did you mean /visit/?)"].assert_eq(wrong["message"].as_str().unwrap());
    assert_eq!(command(&mut editor, "hausblatt.sample", PAGE, &["/coming/"]), Value::Null);
    assert_eq!(hover(&mut editor), "`content.title` at /coming/: a text, `To come`");
    let details = editor.at("completion", PAGE, "+{content.ti|}", json!({}));
    let title = details["items"].as_array().unwrap().iter().find(|item| item["label"] == "title").unwrap();
    assert_eq!(title["detail"], "text: To come");
    // A file that this address does not use has the first of its own.
    let first = "+{each v in varieties}+{v.ti|tle}+{end}";
    let answer = editor.at("hover", PAGE, first, json!({}));
    assert!(
        answer["contents"]["value"].as_str().unwrap().ends_with("`v.title` at /coming/: a text, `Bellfounder`"),
        "{answer}"
    );

    // A server of the site tells where it is and what was looked at.
    let mut served = site
        .command(&["serve", "--port", "0", "--as-of", "2026-11-23"])
        .stdout(Stdio::piped())
        .stderr(Stdio::null())
        .spawn()
        .unwrap();
    let mut line = String::new();
    BufReader::new(served.stdout.take().unwrap()).read_line(&mut line).unwrap();
    let at = line.split("http://").nth(1).unwrap().trim().trim_end_matches('/').to_owned();
    let mut stream = std::net::TcpStream::connect(&at).unwrap();
    write!(stream, "GET /families/ HTTP/1.1\r\nHost: {at}\r\nAccept: text/html\r\nConnection: close\r\n\r\n").unwrap();
    std::io::copy(&mut stream, &mut std::io::sink()).unwrap();
    assert!(site.root().join(".hausblatt-serve").exists());
    assert_eq!(command(&mut editor, "hausblatt.sample", PAGE, &[]), Value::Null);
    while editor.asked.is_empty() {
        let message = editor.receive();
        editor.told.push(message);
    }
    let question = editor.asked.pop().unwrap();
    let offered: Vec<&str> =
        question["params"]["actions"].as_array().unwrap().iter().map(|one| one["title"].as_str().unwrap()).collect();
    expect!["/families/ /about/ /borrow/ /borrow/how-it-works/ /borrow/returning-seed/ /borrow/returning-seed/drying/ /borrow/returning-seed/labelling/ /coming/ /growers/ /growers/ida-marlow/ /growers/petra-quince/ /growers/tobias-fenn/"].assert_eq(&offered.join(" "));
    editor.send(&json!({ "jsonrpc": "2.0", "id": question["id"], "result": { "title": "/families/" } }));
    assert_eq!(hover(&mut editor), "`content.title` at /families/: a text, `Plant families`");
    let opened = command(&mut editor, "hausblatt.open", "content/pages/visit.md", &[]);
    assert_eq!(opened, json!(format!("http://{at}/visit/")));
    // It is told no longer when the server has ended.
    let ended = std::process::Command::new("kill").arg(served.id().to_string()).status().unwrap();
    assert!(ended.success() && served.wait().unwrap().success());
    assert!(!site.root().join(".hausblatt-serve").exists());
    editor.end();
}

/// The actions at a place, which is where `|` is in a text.
fn actions(editor: &mut Editor, path: &str, text: &str, kind: u8) -> Vec<Value> {
    let at = text.find('|').unwrap();
    let whole = text.replacen('|', "", 1);
    editor.change(path, &whole);
    let line = whole[..at].matches('\n').count();
    let column = whole[..at].rsplit('\n').next().unwrap().encode_utf16().count();
    let place = json!({ "line": line, "character": column });
    let range = json!({ "start": place, "end": place });
    let answer = of(
        editor,
        "codeAction",
        path,
        json!({ "range": range, "context": { "diagnostics": [], "triggerKind": kind } }),
    );
    answer.as_array().unwrap().clone()
}

#[test]
fn names_are_made_known_by_actions() {
    let site = Site::demo();
    let mut editor = Editor::of(&site);
    editor.open(PAGE, "");
    editor.open("content/pages/visit.md", "");
    let mut said = String::new();
    for (path, text) in [
        (PAGE, "\u{fc}\u{1f600} +{partial \"card\" given be|d = 1}"),
        (PAGE, "+{partial \"pager\" given be|d = 1}"),
        (PAGE, "+{content.har|vest}"),
        (PAGE, "+{varieties.first.har|vest}"),
        (PAGE, "+{settings.har|vest}"),
        (PAGE, "+{content.titl|}"),
        (PAGE, "<a title='it' href=\"+{ass|et(\"icon.svg\")}\">"),
        (PAGE, "<a href='+{ass|et(\"icon.svg\")}'>"),
        ("content/pages/visit.md", "---\ntitle: V\nop|en: yes\n---\n"),
        ("content/pages/visit.md", "---\ntitle: V\nse|en: 2026-01-02\n---\n"),
    ] {
        said += &format!("{}\n", text.replace('\n', "⏎"));
        for action in actions(&mut editor, path, text, 2) {
            let edits = action["edit"]["documentChanges"].as_array().cloned().unwrap_or_default();
            let edits = edits.iter().flat_map(|one| one["edits"].as_array().cloned().unwrap_or_default());
            let own = action["edit"]["changes"]
                .as_object()
                .into_iter()
                .flat_map(|all| all.values().flat_map(|one| one.as_array().cloned().unwrap_or_default()));
            let new: Vec<String> = edits.chain(own).map(|edit| edit["newText"].to_string()).collect();
            said += &format!("    {}: {}\n", action["title"].as_str().unwrap(), new.join(", "));
        }
    }
    expect![[r#"
        ü😀 +{partial "card" given be|d = 1}
            Let themes/loam/partials/card.html take bed: "takes: { entry: , heading: 2, bed: nothing }\n"
        +{partial "pager" given be|d = 1}
            Let themes/loam/partials/pager.html take bed: "---\ntakes: { bed: nothing }\n---\n"
        +{content.har|vest}
            Declare the field harvest of pages: "harvest = { type = \"text\" }\n"
        +{varieties.first.har|vest}
            Declare the field harvest of varieties: "harvest = { type = \"text\" }\n"
        +{settings.har|vest}
            Declare the setting harvest in hausblatt-theme.toml of loam: "harvest = { type = \"text\" }\n"
        +{content.titl|}
            Declare the field titl of pages: "titl = { type = \"text\" }\n"
        <a title='it' href="+{ass|et("icon.svg")}">
            Write the texts of this tag in quotes of the other sort: "+{asset('icon.svg')}"
        <a href='+{ass|et("icon.svg")}'>
        ---⏎title: V⏎op|en: yes⏎---⏎
            Declare the field open of pages: "open = { type = \"yes-no\" }\n"
        ---⏎title: V⏎se|en: 2026-01-02⏎---⏎
            Declare the field seen of pages: "seen = { type = \"date\" }\n"
    "#]]
    .assert_eq(&said);
    editor.end();
}

#[test]
fn copies_are_made_by_actions_and_worked_out_when_they_are_chosen() {
    let site = Site::demo();
    let before = site.tree(".");
    let resolves = json!({ "textDocument": { "codeAction": { "resolveSupport": { "properties": ["edit"] } } } });
    let mut editor = Editor::able(&site, resolves, Value::Null);
    opened(&mut editor, &site, PAGE);
    let text = site.read(PAGE);
    let mut said = String::new();
    for action in actions(&mut editor, PAGE, &format!("|{text}"), 1) {
        said += &format!("{} [{}]\n", action["title"].as_str().unwrap(), action["kind"].as_str().unwrap());
        if action["data"].is_object() {
            let answer = editor.ask("codeAction/resolve", action);
            let Some(changes) = answer["edit"]["documentChanges"].as_array() else {
                said += &format!("    {}\n", answer["message"].as_str().unwrap());
                continue;
            };
            for change in changes {
                if change["kind"] == "create" {
                    said += &format!("    creates {}\n", editor.shown(&change["uri"]));
                }
            }
            let told = editor.told.pop().unwrap();
            said += &format!("    {}\n", told["params"]["message"].as_str().unwrap());
        }
    }
    expect![[r#"
        Show which file renders /about/, and why [source]
        Open /about/ in a browser [source]
        Show what would change if this file were gone [source]
        Show the values of another address [source]
        Override this file in harbour [refactor.rewrite]
            creates "themes/harbour/.originals/templates/page.html"
            creates "themes/harbour/templates/page.html"
            18 addresses use themes/harbour/templates/page.html
        Override this file in harbour for /about/ alone [refactor.rewrite]
            harbour has it already: themes/harbour/templates/page/about.html
        Override this file in harbour by its slots [refactor.rewrite]
            creates "themes/harbour/templates/page.html"
            18 addresses use themes/harbour/templates/page.html
    "#]]
    .assert_eq(&said);
    // An editor that does not ask later gets them at once.
    let mut plain = Editor::of(&site);
    opened(&mut plain, &site, CARD);
    let card = site.read(CARD);
    let titles: Vec<String> = actions(&mut plain, CARD, &format!("|{card}"), 1)
        .iter()
        .filter(|action| action["edit"].is_object())
        .map(|action| action["title"].as_str().unwrap().to_owned())
        .collect();
    expect![[r#"
        Override this file in harbour (54 addresses use themes/harbour/partials/card.html)
        Override this file in harbour by its slots (54 addresses use themes/harbour/partials/card.html)"#]]
    .assert_eq(&titles.join("\n"));
    // A copy without a record gets one.
    site.write("themes/harbour/partials/card.html", &card);
    plain.tell("workspace/didChangeWatchedFiles", json!({ "changes": [] }));
    plain.open("themes/harbour/partials/card.html", &card);
    let titles: Vec<String> = actions(&mut plain, "themes/harbour/partials/card.html", &format!("|{card}"), 1)
        .iter()
        .map(|action| action["title"].as_str().unwrap().to_owned())
        .collect();
    assert!(
        titles.contains(&"Record partials/card.html of loam as the original of this copy".to_owned()),
        "{titles:?}"
    );
    plain.end();
    editor.end();
    std::fs::remove_file(site.root().join("themes/harbour/partials/card.html")).unwrap();
    let left = site.tree(".").into_iter().filter(|(path, _)| !before.iter().any(|(own, _)| own == path)).count();
    assert_eq!(left, 0);
}

#[test]
fn what_fits_in_toml_and_front_matter_is_offered() {
    let site = Site::demo();
    let config = site.read("hausblatt.toml");
    let mut editor = Editor::of(&site);
    let mut said = String::new();
    let mut offered = |editor: &mut Editor, path: &str, text: &str| {
        let answer = editor.at("completion", path, text, json!({}));
        let items: Vec<String> = answer["items"]
            .as_array()
            .unwrap()
            .iter()
            .map(|item| item["textEdit"]["newText"].as_str().unwrap_or("-").to_owned())
            .collect();
        let shown = if items.len() > 8 {
            format!("{} and {} more", items[..6].join(", "), items.len() - 6)
        } else {
            items.join(", ")
        };
        let at = text.find('|').unwrap();
        let line = text[..at].rsplit('\n').next().unwrap();
        said += &format!("{line}|: {shown}\n");
    };
    editor.open("hausblatt.toml", &config);
    editor.ask("workspace/symbol", json!({ "query": "zz" }));
    for text in [
        format!("{config}\n[|"),
        config.replace("[front]", "[front]\n|"),
        config.replace("theme    = \"harbour\"", "theme = \"|\""),
        config.replace("founded", "lan|"),
        config.replace("page = \"welcome\"", "page = |"),
        config.replace("future  = \"show\"", "future = \"|\""),
        config.replace("{ type = \"text\" }", "{ type = \"|\" }"),
        config.replace("{ type = \"text\" }", "{ |type = \"text\" }"),
        config.replace("parent = \"pods\"", "parent = \"|\""),
        config.replace("to = \"page:borrow\"", "to = \"|\""),
        config.replace("[settings]", "[settings]\n|"),
        format!("{config}\n[build]\nstyles = |"),
        config.replace("# The Marrow", "# The |Marrow"),
    ] {
        offered(&mut editor, "hausblatt.toml", &text);
    }
    editor.change("hausblatt.toml", &config);
    for (path, texts) in [
        ("themes/hedgerow/hausblatt-theme.toml", vec!["[theme]\nparent = \"|\"\n", "[settings]\nbed = { | }\n"]),
        (
            "themes/hedgerow/components/split-panel/component.toml",
            vec!["[[fields]]\nname = \"a\"\ntype = |\n", "[component]\n|\n"],
        ),
        (
            "content/varieties/ropewalk.md",
            vec![
                "---\ntitle: \u{fc}\u{1f600}\nfamily: |\n---\n",
                "---\nfamily: [pods, |]\n---\n",
                "---\nfamily:\n- |\n---\n",
                "---\neasy: |\n---\n",
                "---\nimage:\n  |\n---\n",
                "---\ntrays:\n  main:\n    - component: |\n---\n",
                "---\ntrays:\n  main:\n    - component: split-panel\n      |\n---\n",
                "---\ntitle: |\n---\n",
                "---\n---\n|",
                "---\n---\n\u{fc}\u{1f600} [a](page:v|) b\n",
                "---\n---\n![a](|) b\n",
                "---\n---\n[a](/vis|\n",
            ],
        ),
        (
            "themes/hedgerow/templates/offered/no-aside.html",
            vec!["---\nfor: [page, |]\n---\n", "---\nlayout: |\n---\n", "---\n|\n---\n"],
        ),
    ] {
        editor.open(path, "");
        for text in texts {
            offered(&mut editor, path, text);
        }
        editor.change(path, &site.read(path));
    }
    expect![[r#"
        [|: site, front, pages.fields, menus, content, search and 16 more
        |: collection = 
        theme = "|: harbour, hedgerow, loam
        lan|: 
        page = |: "about", "borrow", "borrow/how-it-works", "borrow/returning-seed", "borrow/returning-seed/drying", "borrow/returning-seed/labelling" and 16 more
        future = "|: wait, show
        place  = { type = "|: text, rich, number, yes-no, color, date and 6 more
        place  = { |: type, min, max, options, of, collection and 5 more
        terms.legumes     = { label = "Peas and beans", parent = "|: pods, legumes, fruits, nightshades, gourds, roots and 6 more
          { to = "|: entry:journal/drawer-forty, entry:journal/the-long-table, entry:journal/labels-again, entry:journal/first-tomatoes, entry:journal/first-frost, entry:journal/ferry-timetable and 96 more
        |: show_gate = 
        styles = |: "as-is", "small"
        # The |: 
        parent = "|: harbour, loam
        bed = { |: type = , min = , max = , options = , of = , collection =  and 5 more
        type = |: "text", "rich", "number", "yes-no", "color", "date" and 6 more
        |: label = , about = 
        family: |: pods, legumes, fruits, nightshades, gourds, roots and 6 more
        family: [pods, |: pods, legumes, fruits, nightshades, gourds, roots and 6 more
        - |: pods, legumes, fruits, nightshades, gourds, roots and 6 more
        easy: |: true, false
          |: file: , alt: 
            - component: |: notice, split-panel
              |: heading: , text: , picture: , flip: 
        title: |: 
        |: 
        ü😀 [a](page:v|: entry:journal/drawer-forty, entry:journal/the-long-table, entry:journal/labels-again, entry:journal/first-tomatoes, entry:journal/first-frost, entry:journal/ferry-timetable and 96 more
        ![a](|: /media/beds.svg, /media/drawers.svg, /media/families/flowers.svg, /media/families/fruits.svg, /media/families/leaves.svg, /media/families/pods.svg and 28 more
        [a](/vis|: /journal/drawer-forty/, /journal/the-long-table/, /journal/labels-again/, /journal/first-tomatoes/, /journal/first-frost/, /journal/ferry-timetable/ and 55 more
        for: [page, |: page, entry, entry/varieties, entry/journal, entry/workshops
        layout: |: bare, document, print, none
        |: label: , about: , for: , layout: , classes: , takes: 
    "#]].assert_eq(&said);
    editor.end();
}

#[test]
fn messages_that_can_not_be_read_are_passed_over_or_end_the_server() {
    let site = Site::demo();
    let message = |text: &str| format!("Content-Length: {}\r\n\r\n{text}", text.len());
    let initialize = message(r#"{"jsonrpc":"2.0","id":1,"method":"initialize","params":5}"#)
        + &message(r#"{"jsonrpc":"2.0","method":"initialized","params":{}}"#);
    let shutdown = message(r#"{"jsonrpc":"2.0","id":2,"method":"shutdown"}"#);
    let exit = message(r#"{"jsonrpc":"2.0","method":"exit"}"#);
    let hover = message(r#"{"jsonrpc":"2.0","id":3,"method":"textDocument/hover","params":{}}"#);
    let mut said = String::new();
    for (what, input) in [
        ("nothing", String::new()),
        ("garbage", "hello\r\n".to_owned()),
        ("no JSON", format!("{initialize}{}{shutdown}{exit}", message("{\"a\":"))),
        ("an early question", format!("{hover}{initialize}{shutdown}{exit}")),
        ("a late question", format!("{initialize}{shutdown}{hover}{exit}")),
        ("an end without a word", format!("{initialize}{exit}")),
        ("an editor that is gone", initialize.clone()),
        ("half a message", format!("{initialize}Content-Length: 100\r\n\r\n{{")),
    ] {
        let mut child =
            site.command(&["lsp"]).stdin(Stdio::piped()).stdout(Stdio::piped()).stderr(Stdio::piped()).spawn().unwrap();
        child.stdin.take().unwrap().write_all(input.as_bytes()).unwrap();
        let done = child.wait_with_output().unwrap();
        let out = String::from_utf8(done.stdout).unwrap();
        let answers = out.split("Content-Length: ").filter_map(|one| one.split_once("\r\n\r\n"));
        let told: Vec<String> =
            answers.map(|(_, text)| text.to_owned()).filter(|text| !text.contains("capabilities")).collect();
        said += &format!(
            "{what}: exit {} {}{}\n",
            done.status.code().unwrap(),
            String::from_utf8_lossy(&done.stderr),
            told.join(" ")
        );
    }
    expect![[r#"
        nothing: exit 0 
        garbage: exit 1 error: the editor can't be understood: "hello" is not a header

        no JSON: exit 0 {"jsonrpc":"2.0","method":"window/logMessage","params":{"type":1,"message":"a message can't be read: EOF while parsing a value at line 1 column 5"}} {"jsonrpc":"2.0","id":2,"result":null}
        an early question: exit 0 {"jsonrpc":"2.0","id":3,"error":{"code":-32002,"message":"expected initialize request, got Request { id: RequestId(I32(3)), method: \"textDocument/hover\", params: Object {} }"}} {"jsonrpc":"2.0","id":2,"result":null}
        a late question: exit 0 {"jsonrpc":"2.0","id":2,"result":null} {"jsonrpc":"2.0","id":3,"error":{"code":-32600,"message":"the server was asked to shut down"}}
        an end without a word: exit 1 error: the editor ended the server before it asked it to shut down

        an editor that is gone: exit 0 
        half a message: exit 1 error: the editor can't be understood: the editor ended in the middle of a message

    "#]].assert_eq(&said);
}

/// Umlauts, emoji and CRLF before every place: what each answer means in the text is what is written there.
#[test]
fn places_are_right_behind_umlauts_emoji_and_other_ends_of_lines() {
    let site = Site::demo();
    let head = "<p>\u{fc}\u{1f600}</p>\r\n\u{1f600}\u{e9} ";
    let text = format!(
        "{head}+{{partial \"crumbs\"}} \u{1f600} +{{let bed = content.titel}}+{{ bed }}+{{\"a\".uper}}\r\n<img src=\"/media/gate.svg\">\r\n"
    );
    for encoding in ["utf-16", "utf-8"] {
        let can = json!({ "general": { "positionEncodings": [encoding] } });
        let mut editor = Editor::able(&site, can, Value::Null);
        editor.open(PAGE, &text);
        let place = |needle: &str| {
            let at = text.find(needle).unwrap() + 1;
            let before = &text[..at];
            let line = before.rsplit('\n').next().unwrap();
            let column = if encoding == "utf-8" { line.len() } else { line.encode_utf16().count() };
            json!({ "line": before.matches('\n').count(), "character": column })
        };
        let part = |range: &Value| match encoding {
            "utf-16" => part(&text, range),
            _ => {
                let at = |place: &Value| {
                    let number = |key: &str| usize::try_from(place[key].as_u64().unwrap()).unwrap();
                    text.split_inclusive('\n').take(number("line")).map(str::len).sum::<usize>() + number("character")
                };
                text[at(&range["start"])..at(&range["end"])].to_owned()
            }
        };
        let parts = |answer: &Value| -> String {
            let all = answer.as_array().cloned().unwrap_or_default();
            all.iter().map(|one| part(&one["range"])).collect::<Vec<_>>().join(" ")
        };
        let mut said = String::new();
        let crumbs = json!({ "position": place("crumbs") });
        let bed = json!({ "position": place("bed }") });
        said += &format!("hover {}\n", part(&of(&mut editor, "hover", PAGE, crumbs.clone())["range"]));
        let definition = of(&mut editor, "definition", PAGE, crumbs.clone());
        said += &format!("definition {}\n", editor.shown(&definition[0]["uri"]));
        said += &format!("definition of a name {}\n", parts(&of(&mut editor, "definition", PAGE, bed.clone())));
        let context = json!({ "position": place("bed }"), "context": { "includeDeclaration": true } });
        said += &format!("references {}\n", parts(&of(&mut editor, "references", PAGE, context)));
        said += &format!("highlights {}\n", parts(&of(&mut editor, "documentHighlight", PAGE, bed.clone())));
        said += &format!("to be renamed {}\n", part(&of(&mut editor, "prepareRename", PAGE, bed)["range"]));
        let renamed = of(&mut editor, "rename", PAGE, json!({ "position": place("bed }"), "newName": "plot" }));
        let edits = renamed["changes"].as_object().unwrap().values().next().unwrap().clone();
        said += &format!("renamed {}\n", parts(&edits));
        said += &format!("links {}\n", parts(&of(&mut editor, "documentLink", PAGE, json!({}))));
        said +=
            &format!("formatted {}\n", parts(&of(&mut editor, "formatting", PAGE, json!({ "options": {} }))).trim());
        let here = place("uper");
        let range = json!({ "start": here, "end": here });
        let context = json!({ "range": range, "context": { "diagnostics": [], "triggerKind": 2 } });
        let actions = of(&mut editor, "codeAction", PAGE, context);
        let fix = actions[0]["edit"]["changes"].as_object().unwrap().values().next().unwrap().clone();
        said += &format!("fixed {}\n", parts(&fix));
        let told = editor.next_told("textDocument/publishDiagnostics", PAGE);
        said += &format!("marked {}\n", parts(&told["diagnostics"]));
        let after = text.find("content.").unwrap() + 8;
        let before = text[..after].rsplit('\n').next().unwrap();
        let column = if encoding == "utf-8" { before.len() } else { before.encode_utf16().count() };
        let items = of(&mut editor, "completion", PAGE, json!({ "position": { "line": 1, "character": column } }));
        said += &format!("offered {}\n", items["items"][0]["label"]);
        let symbols = of(&mut editor, "documentSymbol", PAGE, json!({}));
        let shown = symbols.as_array().unwrap().iter().map(|one| part(&one["selectionRange"])).collect::<Vec<_>>();
        said += &format!("outline {}\n", shown.join(" "));
        expect![[r#"
            hover crumbs
            definition "themes/loam/partials/crumbs.html"
            definition of a name bed
            references bed bed
            highlights bed bed
            to be renamed bed
            renamed bed bed
            links crumbs
            formatted 😀é +{partial "crumbs"} 😀 +{let bed = content.titel}+{ bed }+{"a".uper}
            fixed uper
            marked titel uper
            offered "id"
            outline +{partial "crumbs"} +{let bed = content.titel}
        "#]]
        .assert_eq(&said);
        editor.end();
    }
}

#[test]
fn files_of_a_theme_that_is_not_in_use_are_looked_at_as_if_it_were() {
    let site = Site::demo();
    site.write("themes/spare/hausblatt-theme.toml", "[theme]\nparent = \"loam\"\n");
    let path = "themes/spare/templates/page.html";
    site.write(path, "<p>+{content.title}</p>");
    let mut editor = Editor::of(&site);
    editor.open(path, "<p>+{content.titel}</p>");
    let told = editor.next_told("textDocument/publishDiagnostics", path);
    assert_eq!(told["diagnostics"][0]["code"], "unknown-field", "{told}");
    let answer = editor.at("hover", path, "<p>+{content.ti|tle}</p>", json!({}));
    assert!(answer["contents"]["value"].as_str().unwrap().contains("at /: a text, `Welcome`"), "{answer}");
    let told = editor.next_told("textDocument/publishDiagnostics", path);
    assert_eq!(told["diagnostics"], json!([]));
    editor.end();
}

#[test]
fn addresses_say_what_is_there_and_end_tags_say_nothing_of_the_kind() {
    let site = Site::demo();
    let mut editor = Editor::of(&site);
    editor.open(PAGE, "");
    editor.open("content/pages/visit.md", "");
    let mut said = String::new();
    for (path, text) in [
        (PAGE, "<a href=\"/vis|it/\">x</a>"),
        (PAGE, "\n<a href='/visit|or/'>x</a>"),
        (PAGE, "\n<img src=\"/media/ga|te.svg\">"),
        (PAGE, "\n<p>x</|p> 1/|2 /visit/"),
        (PAGE, "<p>x</|p>"),
        ("content/pages/visit.md", "---\ntitle: V\n---\n[a](/visit/op|ening/#times)\n"),
        ("content/pages/visit.md", "---\ntitle: V\n---\n[a](page:bor|row)\n"),
    ] {
        let answer = editor.at("hover", path, text, json!({}));
        let shown = answer["contents"]["value"].as_str().unwrap_or("nothing").replace("\n\n", " / ");
        said += &format!("{}: {shown}\n", text.replace('\n', "⏎"));
    }
    expect![[r#"
        <a href="/vis|it/">x</a>: **/visit/** · rendered by themes/hedgerow/templates/page/visit.html
        ⏎<a href='/visit|or/'>x</a>: **/visitor/** · nothing is there: 404
        ⏎<img src="/media/ga|te.svg">: **/media/gate.svg** · media/gate.svg
        ⏎<p>x</|p> 1/|2 /visit/: nothing
        <p>x</|p>: **templates/page.html** · template of loam / rung 2 of 3 at /about/: kind / renders 5 addresses / reaches 18 addresses
        ---⏎title: V⏎---⏎[a](/visit/op|ening/#times)⏎: **/visit/opening/#times** · rendered by themes/hedgerow/templates/offered/no-aside.html
        ---⏎title: V⏎---⏎[a](page:bor|row)⏎: **borrow** · page / content/pages/borrow.md / leads to /borrow/
    "#]].assert_eq(&said);
    editor.end();
}

#[test]
fn a_file_that_was_closed_is_not_asked_for_again() {
    let site = Site::demo();
    let pulls =
        json!({ "textDocument": { "diagnostic": {} }, "workspace": { "diagnostics": { "refreshSupport": true } } });
    let mut editor = Editor::able(&site, pulls, Value::Null);
    editor.open(PAGE, "+{partial \"crumbs\" given bed = 1}");
    assert_eq!(of(&mut editor, "diagnostic", PAGE, json!({}))["items"][0]["code"], "unknown-parameter");
    let uri = editor.uri(PAGE);
    editor.tell("textDocument/didClose", json!({ "textDocument": { "uri": uri } }));
    // Its text is that of the disk again, in which nothing is wrong.
    site.write("themes/loam/partials/footer.html", "+{content.titel}");
    editor.tell("workspace/didChangeWatchedFiles", json!({ "changes": [] }));
    editor.next_told("textDocument/publishDiagnostics", "themes/loam/partials/footer.html");
    // What the server asks for comes before its next answer.
    editor.ask("workspace/symbol", json!({ "query": "crumbs" }));
    assert_eq!(editor.asked, Vec::<Value>::new());
    editor.end();
}
