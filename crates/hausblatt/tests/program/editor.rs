//! The language server over its pipes: whole answers, with texts that are not saved and places behind umlauts and emoji.

use expect_test::{Expect, expect};
use serde_json::{Value, json};

use crate::lsp_client::Editor;
use crate::support::Site;

const PAGE: &str = "themes/loam/templates/page.html";

fn labels(answer: &Value) -> String {
    let items = answer["items"].as_array().unwrap().iter();
    items.map(|item| item["label"].as_str().unwrap()).collect::<Vec<_>>().join(" ")
}

#[test]
fn what_is_wrong_is_told_while_it_is_typed_and_goes_when_it_is_right() {
    let site = Site::demo();
    let before = site.tree(".");
    let mut editor = Editor::of(&site);
    editor.open(PAGE, "<p>ü😀 +{content.titel}</p>\r\n+{partial \"crums\"}\r\n");
    let told = editor.next_told("textDocument/publishDiagnostics", PAGE);
    expect![[r#"
        {
          "uri": "themes/loam/templates/page.html",
          "diagnostics": [
            {
              "range": {
                "start": {
                  "line": 0,
                  "character": 17
                },
                "end": {
                  "line": 0,
                  "character": 22
                }
              },
              "severity": 2,
              "code": "unknown-field",
              "source": "hausblatt",
              "message": "no page has or declares a field \"titel\"\n→ did you mean \"title\"?",
              "relatedInformation": []
            },
            {
              "range": {
                "start": {
                  "line": 1,
                  "character": 10
                },
                "end": {
                  "line": 1,
                  "character": 17
                }
              },
              "severity": 1,
              "code": "unknown-partial",
              "source": "hausblatt",
              "message": "unknown partial \"crums\"\n→ did you mean \"crumbs\"?",
              "relatedInformation": []
            }
          ]
        }"#]]
    .assert_eq(&editor.shown(&told));
    editor.change(PAGE, "<p>+{content.title}</p>\n");
    let told = editor.next_told("textDocument/publishDiagnostics", PAGE);
    assert_eq!(told["diagnostics"], json!([]));
    // A part of a text changes.
    let uri = editor.uri(PAGE);
    let change = json!({ "range": { "start": { "line": 0, "character": 13 }, "end": { "line": 0, "character": 18 } }, "text": "tiitle" });
    editor.tell(
        "textDocument/didChange",
        json!({ "textDocument": { "uri": uri, "version": 3 }, "contentChanges": [change] }),
    );
    let told = editor.next_told("textDocument/publishDiagnostics", PAGE);
    assert_eq!(told["diagnostics"][0]["code"], "unknown-field", "{told}");
    // A file that is not saved yet is there, also in a folder that is not.
    editor.open("themes/loam/partials/new/note.html", "<p>+{slot \"lead\"}</p>");
    editor.change(PAGE, "+{partial \"new/note\" with}+{into \"led\"}a+{end}+{end}");
    let told = editor.next_told("textDocument/publishDiagnostics", PAGE);
    assert_eq!(told["diagnostics"][0]["code"], "unknown-slot", "{told}");
    // What is not saved is of no consequence on disk.
    editor.end();
    assert!(site.tree(".") == before);
}

#[test]
fn names_are_explained_and_found() {
    let site = Site::demo();
    let mut editor = Editor::of(&site);
    let text = std::fs::read_to_string(site.root().join(PAGE)).unwrap();
    editor.open(PAGE, &text);
    let said = |editor: &mut Editor, method: &str, text: &str, expected: Expect| {
        let answer = editor.at(method, PAGE, text, json!({ "context": { "includeDeclaration": true } }));
        let shown = match answer["contents"]["value"].as_str() {
            Some(markdown) => markdown.to_owned(),
            None => editor.shown(&answer),
        };
        expected.assert_eq(&shown);
    };
    let marked = |needle: &str, behind: usize| {
        let at = text.find(needle).unwrap() + behind;
        format!("{}|{}", &text[..at], &text[at..])
    };
    said(
        &mut editor,
        "hover",
        &marked("crumbs", 2),
        expect![[r#"
        **crumbs** · partial

        themes/loam/partials/crumbs.html (loam)

        partials/crumbs.html takes part in 18 addresses"#]],
    );
    said(
        &mut editor,
        "hover",
        "é😀 +{content.ti|tle}",
        expect![[r#"
            **title** · of a page

            `content.title` at /about/: a text, `About`"#]],
    );
    said(
        &mut editor,
        "hover",
        "+{\"a\".up|per}",
        expect![[r#"
        **.upper** · of text: in capitals

        `"Kürbis".upper` → `KÜRBIS`"#]],
    );
    said(
        &mut editor,
        "hover",
        "+{mark|down(\"a\")}",
        expect![[r#"
        **markdown(text)** · Markdown as HTML, by the rules of content

        `markdown("*Sow* in spring.").text` → `Sow in spring.`"#]],
    );
    said(
        &mut editor,
        "hover",
        "plain| text",
        expect![[r#"
        **templates/page.html** · template of loam

        rung 2 of 3 at /about/: kind

        renders 5 addresses

        reaches 18 addresses"#]],
    );
    said(
        &mut editor,
        "definition",
        "ß😀 +{partial \"card/work|shops\" given entry = content}",
        expect![[r#"
        [
          {
            "uri": "themes/hedgerow/partials/card/workshops.html",
            "range": {
              "start": {
                "line": 0,
                "character": 0
              },
              "end": {
                "line": 0,
                "character": 0
              }
            }
          }
        ]"#]],
    );
    said(
        &mut editor,
        "definition",
        &marked("\"aside\"", 3),
        expect![[r#"
        [
          {
            "uri": "themes/loam/layouts/document.html",
            "range": {
              "start": {
                "line": 21,
                "character": 13
              },
              "end": {
                "line": 21,
                "character": 20
              }
            }
          }
        ]"#]],
    );
    said(
        &mut editor,
        "references",
        "+{settings.mot|to}",
        expect![[r#"
            [
              {
                "uri": "hausblatt.toml",
                "range": {
                  "start": {
                    "line": 90,
                    "character": 0
                  },
                  "end": {
                    "line": 90,
                    "character": 5
                  }
                }
              },
              {
                "uri": "themes/harbour/templates/front.html",
                "range": {
                  "start": {
                    "line": 38,
                    "character": 42
                  },
                  "end": {
                    "line": 38,
                    "character": 47
                  }
                }
              },
              {
                "uri": "themes/harbour/templates/front.html",
                "range": {
                  "start": {
                    "line": 38,
                    "character": 62
                  },
                  "end": {
                    "line": 38,
                    "character": 67
                  }
                }
              },
              {
                "uri": "themes/loam/hausblatt-theme.toml",
                "range": {
                  "start": {
                    "line": 5,
                    "character": 0
                  },
                  "end": {
                    "line": 5,
                    "character": 5
                  }
                }
              },
              {
                "uri": "themes/loam/partials/footer.html",
                "range": {
                  "start": {
                    "line": 2,
                    "character": 56
                  },
                  "end": {
                    "line": 2,
                    "character": 61
                  }
                }
              },
              {
                "uri": "themes/loam/partials/footer.html",
                "range": {
                  "start": {
                    "line": 2,
                    "character": 74
                  },
                  "end": {
                    "line": 2,
                    "character": 79
                  }
                }
              },
              {
                "uri": "themes/loam/templates/page.html",
                "range": {
                  "start": {
                    "line": 0,
                    "character": 11
                  },
                  "end": {
                    "line": 0,
                    "character": 16
                  }
                }
              }
            ]"#]],
    );
    said(
        &mut editor,
        "documentHighlight",
        "+{let a = 1}ü+{|a + a}",
        expect![[r#"
            [
              {
                "range": {
                  "start": {
                    "line": 0,
                    "character": 6
                  },
                  "end": {
                    "line": 0,
                    "character": 7
                  }
                },
                "kind": 3
              },
              {
                "range": {
                  "start": {
                    "line": 0,
                    "character": 15
                  },
                  "end": {
                    "line": 0,
                    "character": 16
                  }
                },
                "kind": 2
              },
              {
                "range": {
                  "start": {
                    "line": 0,
                    "character": 19
                  },
                  "end": {
                    "line": 0,
                    "character": 20
                  }
                },
                "kind": 2
              }
            ]"#]],
    );
    editor.end();
}

#[test]
fn only_what_fits_is_offered() {
    let site = Site::demo();
    let mut editor = Editor::of(&site);
    editor.open("themes/hedgerow/partials/gate.html", "<p>+{slot \"lead\"}</p>+{slot \"tail\"}");
    editor.open(PAGE, "");
    let mut offered = |text: &str| {
        let answer = editor.at("completion", PAGE, text, json!({}));
        labels(&answer)
    };
    let said: String = [
        "+{content.fam|}",
        "ü+{varieties.first.fam|",
        "+{\"a\".|}",
        "+{each one in journal}+{one.tit|}+{end}",
        "+{let bed = 1}+{be|}",
        "+{if content}\n+{|",
        "+{partial \"c|\"}",
        "+{partial \"card\" given entry = content, |}",
        "+{into \"|\"}",
        "+{partial \"gate\" with}+{into \"|\"}",
        "+{tray '|'}",
        "+{use \"|\"}",
        "+{url(\"route:|\")}",
        "+{settings.|}",
        "+{tables.|}",
        "text |",
    ]
    .map(|text| format!("{}: {}\n", text.replace('\n', " "), offered(text)))
    .concat();
    expect![[r#"
        +{content.fam|}: id address kind title body summary date updated image authors template robots parent children ancestors collection older newer headings minutes views tagline
        ü+{varieties.first.fam|: id address kind title body summary date updated image authors template robots parent children ancestors collection older newer headings minutes views days easy grower height_cm latin sow_from sow_until family
        +{"a".|}: length upper lower trim words slug replace split starts ends pad date number
        +{each one in journal}+{one.tit|}+{end}: id address kind title body summary date updated image authors template robots parent children ancestors collection older newer headings minutes views
        +{let bed = 1}+{be|}: if each let partial component tray slot into inherited use raw answer redirect bed site request classes content listing search route error collections taxonomies menus settings tables theme today varieties journal workshops months url absolute asset image inline page entry range markdown json
        +{if content} +{|: end if each let partial component tray slot into inherited use raw answer redirect site request classes content listing search route error collections taxonomies menus settings tables theme today varieties journal workshops months url absolute asset image inline page entry range markdown json
        +{partial "c|"}: card card/workshops crumbs entries footer gate header header-small menu month pager sowing
        +{partial "card" given entry = content, |}: heading
        +{into "|"}: aside head header title
        +{partial "gate" with}+{into "|"}: lead tail
        +{tray '|'}: last day main
        +{use "|"}: harbour.css hedgerow.css icon.svg loam.css print.css sowing.css
        +{url("route:|")}: entry:journal/drawer-forty entry:journal/the-long-table entry:journal/labels-again entry:journal/first-tomatoes entry:journal/first-frost entry:journal/ferry-timetable entry:journal/runner-beans-up entry:journal/open-beds entry:journal/quilt-weather entry:journal/borrowed-and-back page:about page:borrow page:borrow/how-it-works page:borrow/returning-seed page:borrow/returning-seed/drying page:borrow/returning-seed/labelling page:coming page:families page:families/pods page:growers page:growers/ida-marlow page:growers/petra-quince page:growers/tobias-fenn page:open-day page:visit page:visit/access page:visit/getting-here page:visit/getting-here/by-water page:visit/getting-here/on-foot page:visit/opening page:welcome entry:varieties/bellfounder entry:varieties/candle-ring entry:varieties/copper-kettle entry:varieties/crooked-heart entry:varieties/dusk-fan entry:varieties/ferry-flag entry:varieties/frost-ruffle entry:varieties/grey-shingle entry:varieties/harbour-light entry:varieties/lamplighter entry:varieties/lantern-bean entry:varieties/moon-boat entry:varieties/night-heron entry:varieties/old-mooring entry:varieties/plum-lane entry:varieties/red-curtain entry:varieties/ropewalk entry:varieties/scarlet-runner entry:varieties/slate-roof entry:varieties/sugar-ribbon entry:varieties/sun-kettle entry:varieties/tall-signal entry:varieties/tidewrack entry:varieties/winter-quilt entry:workshops/grafting entry:workshops/hand-pollination entry:workshops/plaiting-onions entry:workshops/seed-cleaning entry:workshops/sowing-indoors entry:workshops/wet-seed collection:varieties collection:journal collection:workshops term:family/pods term:family/legumes term:family/fruits term:family/nightshades term:family/gourds term:family/roots term:family/beets term:family/alliums term:family/leaves term:family/cabbages term:family/flowers term:family/daisies route:calendar route:month/january route:month/february route:month/march route:month/april route:month/may route:month/june route:month/july route:month/august route:month/september route:month/october route:month/november route:month/december feed:journal period:journal/2025 period:journal/2026 period:journal/2025/11 period:journal/2025/12 period:journal/2026/01 period:journal/2026/02 period:journal/2026/03 period:journal/2026/04 period:journal/2026/05 period:journal/2026/07 period:journal/2026/08 period:journal/2026/10
        +{settings.|}: motto show_gate
        +{tables.|}: months
        text |: 
    "#]].assert_eq(&said);
    let content = "content/pages/visit.md";
    editor.open(content, "");
    let mut offered = |text: &str| {
        let answer = editor.at("completion", content, text, json!({}));
        labels(&answer)
    };
    let said =
        ["---\ntitle: V\n|\n---\n", "---\ntemplate: |\n---\n"].map(|text| format!("{}\n", offered(text))).concat();
    expect![[r#"
        slug date updated summary image authors order in_lists draft template robots formerly trays tagline
        bare no-aside
    "#]]
    .assert_eq(&said);
    editor.end();
}

#[test]
fn changes_are_made_by_the_editor_with_their_proof() {
    let site = Site::demo();
    let before = site.tree(".");
    let mut editor = Editor::of(&site);
    let text = std::fs::read_to_string(site.root().join(PAGE)).unwrap();
    editor.open(PAGE, &text);
    let at = text.find("crumbs").unwrap() + 3;
    let marked = format!("{}|{}", &text[..at], &text[at..]);
    let place = editor.at("prepareRename", PAGE, &marked, json!({}));
    assert_eq!(place["placeholder"], "crumbs");
    let edit = editor.at("rename", PAGE, &marked, json!({ "newName": "trail" }));
    expect![[r#"
        {
          "documentChanges": [
            {
              "kind": "rename",
              "oldUri": "themes/loam/partials/crumbs.html",
              "newUri": "themes/loam/partials/trail.html"
            },
            {
              "textDocument": {
                "uri": "themes/loam/templates/page.html",
                "version": null
              },
              "edits": [
                {
                  "range": {
                    "start": {
                      "line": 1,
                      "character": 0
                    },
                    "end": {
                      "line": 2,
                      "character": 0
                    }
                  },
                  "newText": "  +{partial \"trail\"}\n"
                }
              ]
            }
          ]
        }"#]]
    .assert_eq(&editor.shown(&edit));
    let told = editor.told.iter().rev().find(|one| one["method"] == "window/showMessage").unwrap();
    expect!["partial crumbs → trail: 57 addresses rendered before and after, all the same to the byte."]
        .assert_eq(told["params"]["message"].as_str().unwrap());
    let refused = editor.at("rename", PAGE, &marked, json!({ "newName": "card" }));
    expect!["there is a partial card already: themes/loam/partials/card.html (choose another name, or rename that one first)"].assert_eq(refused["message"].as_str().unwrap());
    let own = editor.at("rename", PAGE, "+{let a = 1}+{|a + today.day}", json!({ "newName": "b" }));
    expect![[r#"{ "changes": { "themes/loam/templates/page.html": [ { "range": { "start": { "line": 0, "character": 6 }, "end": { "line": 0, "character": 7 } }, "newText": "b" }, { "range": { "start": { "line": 0, "character": 14 }, "end": { "line": 0, "character": 15 } }, "newText": "b" } ] } }"#]].assert_eq(&editor.shown(&own).split_whitespace().collect::<Vec<_>>().join(" "));
    let global = editor.at("rename", PAGE, "+{si|te.title}", json!({ "newName": "b" }));
    assert_eq!(global["message"], "site is a value that every site has");

    let odd = text.replace("+{content.title}", "+{ content.title }").replace("+{content.body}", "+{content . body}");
    editor.change(PAGE, &odd);
    let document = json!({ "uri": editor.uri(PAGE) });
    let edits = editor.ask("textDocument/formatting", json!({ "textDocument": document, "options": {} }));
    assert_eq!(edits.as_array().unwrap().len(), 2, "{edits}");
    let told = editor.told.iter().rev().find(|one| one["method"] == "window/logMessage").unwrap();
    expect!["themes/loam/templates/page.html: the neat text was read again and means what it meant; no byte that is printed changes"].assert_eq(told["params"]["message"].as_str().unwrap());
    let lines = json!({ "start": { "line": 2, "character": 0 }, "end": { "line": 2, "character": 9 } });
    let edits =
        editor.ask("textDocument/rangeFormatting", json!({ "textDocument": document, "range": lines, "options": {} }));
    assert_eq!(edits.as_array().unwrap().len(), 1, "{edits}");
    // Of a tag over several lines no word is lost.
    let long =
        odd.replace("+{content.title}", "+{content\n. title\n}").replace("+{ content.title }", "+{content\n. title\n}");
    editor.change(PAGE, &long);
    let line = |text: &str| u32::try_from(long[..long.find(text).unwrap()].matches('\n').count()).unwrap();
    let lines = json!({ "start": { "line": line(". title"), "character": 0 }, "end": { "line": line(". title"), "character": 1 } });
    let edits =
        editor.ask("textDocument/rangeFormatting", json!({ "textDocument": document, "range": lines, "options": {} }));
    expect![[r#"
        [
          {
            "range": {
              "start": {
                "line": 3,
                "character": 0
              },
              "end": {
                "line": 4,
                "character": 0
              }
            },
            "newText": ".title\n"
          }
        ]"#]]
    .assert_eq(&editor.shown(&edits));
    editor.change(PAGE, &text);
    let lines = json!({ "start": { "line": 13, "character": 0 }, "end": { "line": 21, "character": 0 } });
    let actions = editor.ask(
        "textDocument/codeAction",
        json!({ "textDocument": document, "range": lines, "context": { "diagnostics": [], "triggerKind": 1 } }),
    );
    let titles: Vec<&str> =
        actions.as_array().unwrap().iter().map(|action| action["title"].as_str().unwrap()).collect();
    expect![[r#"
        Show which file renders /about/, and why
        Open /about/ in a browser
        Show what would change if this file were gone
        Show the values of another address
        Make these lines a partial (57 addresses rendered before and after, all the same to the byte)
        Make these lines a slot (57 addresses rendered before and after, all the same to the byte)
        Override this file in harbour (18 addresses use themes/harbour/templates/page.html)
        Override this file in harbour by its slots (18 addresses use themes/harbour/templates/page.html)"#]]
    .assert_eq(&titles.join("\n"));
    // A file that is renamed in the editor's tree takes its callers along.
    let (old, new) = (editor.uri("themes/loam/partials/crumbs.html"), editor.uri("themes/loam/partials/trail.html"));
    let edit = editor.ask("workspace/willRenameFiles", json!({ "files": [{ "oldUri": old, "newUri": new }] }));
    let changed = edit["documentChanges"].as_array().unwrap();
    assert_eq!((changed.len(), &changed[0]["edits"][0]["newText"]), (1, &json!("  +{partial \"trail\"}\n")), "{edit}");
    // A copy is offered to extend its original.
    assert_eq!(site.run(&["override", "layouts/bare"]).code, 0);
    let copy = "themes/harbour/layouts/bare.html";
    let text = std::fs::read_to_string(site.root().join(copy)).unwrap();
    editor.tell("workspace/didChangeWatchedFiles", json!({ "changes": [] }));
    editor.open(copy, &text.replace("+{slot \"head\"}", "<link rel=\"icon\" href=\"/assets/icon.svg\">"));
    let document = json!({ "uri": editor.uri(copy) });
    let start = json!({ "start": { "line": 0, "character": 0 }, "end": { "line": 0, "character": 0 } });
    let actions = editor.ask(
        "textDocument/codeAction",
        json!({ "textDocument": document, "range": start, "context": { "diagnostics": [], "triggerKind": 1 } }),
    );
    expect!["Show which file renders /open-day/, and why"].assert_eq(actions[0]["title"].as_str().unwrap_or("none"));
    editor.end();
    assert_eq!(
        site.tree("themes/loam"),
        before
            .into_iter()
            .filter_map(|(path, bytes)| Some((path.strip_prefix("themes/loam/")?.to_owned(), bytes)))
            .collect::<Vec<_>>()
    );
}

#[test]
fn odd_questions_get_an_error_and_nothing_ends() {
    let site = Site::demo();
    let mut editor = Editor::of(&site);
    editor.open(PAGE, "+{content.title}");
    let document = json!({ "uri": editor.uri(PAGE) });
    let far = json!({ "line": 99, "character": 99 });
    let said = [
        editor.ask("textDocument/hover", json!({ "textDocument": document, "position": far })),
        editor
            .ask("textDocument/hover", json!({ "textDocument": { "uri": "file:///nowhere/x.html" }, "position": far })),
        editor.ask("textDocument/hover", json!({ "textDocument": { "uri": "untitled:1" }, "position": far })),
        editor.ask("textDocument/hover", json!({})),
        editor.ask("textDocument/unheard", json!({})),
        editor.ask("textDocument/completion", json!({ "textDocument": document, "position": far })),
    ];
    let said: Vec<String> = said.iter().map(|one| one.to_string().chars().take(90).collect()).collect();
    expect![[r#"
        {"contents":{"kind":"markdown","value":"**templates/page.html** · template of loam\n\nrung
        null
        null
        {"code":-32602,"message":"the question can't be read: missing field `textDocument`"}
        {"code":-32601,"message":"textDocument/unheard is not answered"}
        {"isIncomplete":false,"items":[]}"#]]
    .assert_eq(&said.join("\n"));
    editor.tell(
        "textDocument/didChange",
        json!({ "textDocument": { "uri": "file:///never/opened", "version": 1 }, "contentChanges": [] }),
    );
    editor.tell("textDocument/didOpen", json!([]));
    // A request that is taken back while it waits is not worked out.
    let many = 20;
    for id in 1000..1000 + many {
        editor.send(&json!({ "jsonrpc": "2.0", "id": id, "method": "textDocument/documentSymbol", "params": { "textDocument": document } }));
    }
    editor.tell("$/cancelRequest", json!({ "id": 1000 + many - 1 }));
    let last = editor.answer(1000 + many - 1);
    assert!(last.get("result").is_some() || last["error"]["code"] == json!(-32800), "{last}");
    // The site goes, and the server stays.
    std::fs::remove_dir_all(site.root().join("themes")).unwrap();
    editor.tell("workspace/didChangeWatchedFiles", json!({ "changes": [] }));
    assert_eq!(editor.ask("textDocument/hover", json!({ "textDocument": document, "position": far })), Value::Null);
    editor.end();
    // An editor that dies leaves no server behind.
    let mut editor = Editor::of(&Site::demo());
    drop(editor.input.take());
    assert!(editor.child.wait().unwrap().success());
}
