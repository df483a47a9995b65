//! The workbench writes what the command line writes, to the byte, and nothing else; whatever a form says.

use std::fs;

use expect_test::expect;

use crate::support::Site;
use crate::support::forms::{command, form, hidden, words};

const VISIT: &str = "content/pages/visit.md";

/// A change as an address of the workbench says it, and the command that says the same.
const CHANGES: &[(&str, &str)] = &[
    ("/~/try?do=choose&name=no-aside&content=content/pages/visit.md", "hausblatt choose no-aside /visit/"),
    ("/~/try?do=choose&name=&content=content/pages/visit/opening.md", "hausblatt choose --clear /visit/opening/"),
    (
        "/~/try?do=choose&name=bare&content=content/pages/visit.md&content=content/pages/borrow.md",
        "hausblatt choose bare /visit/ /borrow/",
    ),
    ("/~/try?do=override&file=themes/loam/partials/card.html", "hausblatt override themes/loam/partials/card.html"),
    ("/~/try?do=only&address=/journal/first-frost/", "hausblatt override /journal/first-frost/ --only"),
    (
        "/~/try?do=hide&file=themes/hedgerow/templates/page/visit.html",
        "hausblatt set theme --add theme.hide=templates/page/visit.html",
    ),
    ("/~/try?do=remove&file=themes/hedgerow/templates/page/visit.html", "rm themes/hedgerow/templates/page/visit.html"),
    ("/~/try?do=front&collection=journal", "hausblatt set site front.collection=journal --clear front.page"),
    ("/~/try?do=front&page=about", "hausblatt set site front.page=about"),
    ("/~/try?do=set&of=site&set.site.theme=hedgerow", "hausblatt set site site.theme=hedgerow"),
    ("/~/try?do=set&of=theme&set.theme.about=Ours", "hausblatt set theme theme.about=Ours"),
    ("/~/try?do=set&of=site&clear=settings.motto", "hausblatt set site --clear settings.motto"),
    (
        "/~/settings?setting.motto=Sow%2C+save&setting.show_gate=false",
        "hausblatt set site 'settings.motto=Sow, save' settings.show_gate=false",
    ),
    ("/~/settings?in=theme&setting.show_gate=false", "hausblatt set theme settings.show_gate.default=false"),
    (
        "/~/content?path=content/pages/visit.md&field.title=Come%3A+see&field.tagline=It%27s+near",
        "hausblatt set /visit/ 'title=Come: see' 'tagline=It'\\''s near'",
    ),
    (
        "/~/content?path=content/varieties/scarlet-runner.md&field.height_cm=250&field.easy=false&field.latin=",
        "hausblatt set /varieties/scarlet-runner/ --clear latin height_cm=250 easy=false",
    ),
    (
        "/~/trays?path=content/pages/visit.md&tray=main&component=notice&field.text=One%0D%0ATwo",
        "hausblatt set /visit/ --add 'trays.main={ component: notice, text: \"One\\nTwo\" }'",
    ),
    (
        "/~/trays?path=content/pages/visit.md&tray=main&component=notice&before=2&field.text=Here",
        "hausblatt set /visit/ --add 'trays.main.2={ component: notice, text: Here }'",
    ),
    (
        "/~/trays?path=content/pages/visit.md&change=trays.main.2&field.flip=true&field.picture=%2Fmedia%2Fgate.svg&field.picture.alt=A+gate",
        "hausblatt set /visit/ 'trays.main.2.picture={ file: /media/gate.svg, alt: A gate }' trays.main.2.flip=true",
    ),
    (
        "/~/trays?path=content/pages/visit.md&do=set&of=content/pages/visit.md&move.trays.main.2=1",
        "hausblatt set /visit/ --move trays.main.2=1",
    ),
    (
        "/~/trays?path=content/pages/visit.md&do=set&of=content/pages/visit.md&clear=trays.main.1",
        "hausblatt set /visit/ --clear trays.main.1",
    ),
    (
        "/~/menus?add=foot&to=page%3Avisit&label=Come&where=2",
        "hausblatt set site --add 'menus.foot.2={ to: \"page:visit\", label: Come }'",
    ),
    (
        "/~/menus?change=menus.main.2&to=page%3Aborrow&label=Borrowing",
        "hausblatt set site menus.main.2.label=Borrowing",
    ),
    ("/~/menus?do=set&of=site&move.menus.main.6=1", "hausblatt set site --move menus.main.6=1"),
    ("/~/menus?do=set&of=site&clear=menus.main.1.children.1", "hausblatt set site --clear menus.main.1.children.1"),
];

#[test]
fn what_is_kept_is_what_the_command_writes() {
    for (address, expected) in CHANGES {
        let (kept, typed) = (Site::demo(), Site::demo());
        let before = kept.files();
        let server = kept.serve(&[]);
        let page = server.get(address).text();
        let shown = command(&page);
        assert_eq!(shown, *expected, "{address}");
        assert_eq!(kept.files(), before, "{address}: looking writes nothing");
        let answer = server.keep(address);
        assert_eq!(answer.status, 303, "{address}: {}", words(&answer.text()));
        typed.shell(&shown);
        let files = kept.files();
        assert!(files != before, "{address} wrote nothing");
        let differ = |(path, bytes): &&(String, Vec<u8>)| !typed.files().contains(&(path.clone(), bytes.clone()));
        let differing: Vec<&String> = files.iter().filter(differ).map(|(path, _)| path).collect();
        assert!(files == typed.files(), "{address}: {differing:?}");
        // What was kept is said, and taken back it is as it was.
        let back = server.get(answer.header("location")).text();
        assert!(words(&back).contains("Kept."), "{}", words(&back));
        let undone = server.post("/~/undo", &form(&hidden(&back, "/~/undo").unwrap()), &[]);
        assert_eq!(undone.status, 303, "{address}");
        assert_eq!(kept.files(), before, "{address}");
        let said = server.end();
        assert!(said.contains("kept: ") && said.contains("took back: "), "{said}");
    }
}

#[test]
fn a_change_is_seen_before_it_is_kept() {
    let site = Site::demo();
    let server = site.serve(&[]);
    let page = server.get("/~/try?do=choose&name=no-aside&content=content/pages/visit.md").text();
    let frame = |id: &str| {
        let frame = page.split(&format!("<iframe id=\"{id}\" src=\"")).nth(1).unwrap();
        frame.split('"').next().unwrap().to_owned()
    };
    assert_eq!(frame("now-360"), "/visit/");
    let then = server.get(&frame("then-360"));
    assert_eq!((then.status, then.text().contains("<aside")), (200, false));
    assert!(server.get("/visit/").text().contains("<aside"));
    // The styles of another theme are sent as they would be.
    let page = server.get("/~/try?do=set&of=site&set.site.theme=loam").text();
    let then = page.split("<iframe id=\"then-360\" src=\"").nth(1).unwrap().split('"').next().unwrap();
    let html = server.get(then).text();
    assert!(!html.contains("harbour.css"), "{html}");
    let style = html.split("<link rel=\"stylesheet\" href=\"").nth(1).unwrap().split('"').next().unwrap();
    assert_eq!(server.get(style).status, 200, "{style}");
    // A file of the site that is another one then.
    let hidden = "/~/try?do=hide&file=themes/loam/assets/loam.css";
    let page = server.get(hidden).text();
    for by in ["themes/hedgerow/layouts/bare.html", "themes/loam/layouts/document.html"] {
        let why = format!("error {by}: no theme of the lineage has the asset \"loam.css\"");
        assert_eq!(words(&page).matches(&why).count(), 1, "{}", words(&page));
    }
    for odd in ["/~/tried/", "/~/tried/x", "/~/tried/x/", "/~/tried/ZG89Y2hvb3Nl/visit/", "/~/tried/%00/visit/"] {
        let answer = server.get(odd);
        assert!([404, 409].contains(&answer.status), "{odd} {}", answer.status);
    }
}

#[test]
fn the_command_names_the_theme_that_is_served() {
    let (kept, typed) = (Site::demo(), Site::demo());
    let server = kept.serve(&["--theme", "hedgerow"]);
    let address = "/~/try?do=override&file=themes/loam/partials/card.html";
    let shown = command(&server.get(address).text());
    assert_eq!(shown, "hausblatt override themes/loam/partials/card.html --theme hedgerow");
    assert_eq!(server.keep(address).status, 303);
    typed.shell(&shown);
    assert!(kept.path("themes/hedgerow/partials/card.html").exists());
    assert!(kept.files() == typed.files());
    assert!(kept.run(&["undo", "--list"]).out.contains(&shown));
}

#[test]
fn only_what_was_seen_is_kept() {
    let site = Site::demo();
    let server = site.serve(&[]);
    let address = "/~/content?path=content/pages/visit.md&field.title=Mine";
    let pairs = hidden(&server.get(address).text(), "/~/keep").unwrap();
    site.write(VISIT, format!("{}Ring the bell.\n", site.read(VISIT)));
    let edited = site.read(VISIT);
    let stale = server.post("/~/keep", &form(&pairs), &[]);
    assert_eq!((stale.status, site.read(VISIT)), (409, edited.clone()));
    expect![[r#"
        A file has changed since you looked
        Nothing was changed. This is what the file holds now (lines with −), and what it would hold (lines with +).
        content/pages/visit.md
        @@ -10,4 +10,5 @@
        text: "Behind the house the borrowed kinds grow beside the returned ones. The [open day](page:open-day) shows both."
        picture: { file: /media/beds.svg, alt: Two garden beds with a path between them }
        +title: Mine
        ---
        The library is two rooms and a yard behind the old sail loft. You can look at everything, open most drawers, and sit down.
        Keep it all the same
        Back"#]]
    .assert_eq(&words(&stale.text()));
    // All the same: with what the other one wrote.
    let again = hidden(&stale.text(), "/~/keep").unwrap();
    assert_eq!(server.post("/~/keep", &form(&again), &[]).status, 303);
    assert_eq!(site.read(VISIT), edited.replace("---\nThe library", "title: Mine\n---\nThe library"));
    // Of two tabs the second one is refused, and the same form twice.
    let tab = |title: &str| hidden(&server.get(&address.replace("Mine", title)).text(), "/~/keep").unwrap();
    let (first, second) = (tab("One"), tab("Two"));
    assert_eq!(server.post("/~/keep", &form(&first), &[]).status, 303);
    assert_eq!(server.post("/~/keep", &form(&second), &[]).status, 409);
    let written = site.read(VISIT);
    let twice = server.post("/~/keep", &form(&first), &[]);
    assert_eq!(twice.status, 409);
    assert_eq!(site.read(VISIT), written);
    // A file that is gone.
    let pairs = tab("Three");
    site.remove(VISIT);
    let gone = server.post("/~/keep", &form(&pairs), &[]);
    assert_eq!(gone.status, 409);
    assert_eq!(words(&gone.text()), "Nothing was changed\nThere is no content file content/pages/visit.md.\nBack");
    assert!(!site.path(VISIT).exists());
}

#[test]
fn a_change_is_taken_back_only_as_it_was_made() {
    let site = Site::demo();
    let server = site.serve(&[]);
    server.keep("/~/content?path=content/pages/visit.md&field.title=Mine");
    server.keep("/~/settings?setting.motto=Sow");
    let (motto, title) = (site.read("hausblatt.toml"), site.read(VISIT));
    // The older one is taken back alone.
    let page = server.get("/~/kept").text();
    let older = page.rfind("<form method=\"post\" action=\"/~/undo\"").unwrap();
    let pairs = hidden(&page[older..], "/~/undo").unwrap();
    assert_eq!(server.post("/~/undo", &form(&pairs), &[]).status, 303);
    assert!(site.read(VISIT) != title && site.read("hausblatt.toml") == motto);
    let again = server.post("/~/undo", &form(&pairs), &[]);
    assert_eq!(again.status, 409);
    assert_eq!(
        words(&again.text()),
        "Nothing was changed\nThis change is not kept any more: it was taken back, or is too old.\nBack"
    );
    let pairs = hidden(&server.get("/~/kept").text(), "/~/undo").unwrap();
    site.write("hausblatt.toml", format!("{motto}# mine\n"));
    let refused = server.post("/~/undo", &form(&pairs), &[]);
    assert_eq!((refused.status, site.read("hausblatt.toml")), (409, format!("{motto}# mine\n")));
    assert!(words(&refused.text()).contains("hausblatt.toml changed since then, so nothing was taken back"));
}

#[test]
fn nothing_is_written_for_strangers() {
    let site = Site::demo();
    let server = site.serve(&[]);
    let address = "/~/content?path=content/pages/visit.md&field.title=Mine";
    let pairs = hidden(&server.get(address).text(), "/~/keep").unwrap();
    let before = site.files();
    let with = |name: &str, value: &str| {
        let mut pairs = pairs.clone();
        pairs.retain(|(other, _)| other != name);
        pairs.push((name.to_owned(), value.to_owned()));
        form(&pairs)
    };
    assert_eq!(server.post("/~/keep", &with("token", "x"), &[]).status, 403);
    assert_eq!(server.post("/~/keep", &form(&pairs), &[("Origin", "http://seeds.example")]).status, 403);
    assert_eq!(server.post("/~/keep", &form(&pairs), &[("Sec-Fetch-Mode", "cors")]).status, 403);
    assert_eq!(server.post("/~/keep", &form(&pairs), &[("Sec-Fetch-Site", "cross-site")]).status, 403);
    assert_eq!(server.post("/~/keep", &"x".repeat(300 << 10), &[]).status, 413);
    assert_eq!(server.ask("GET", &format!("/~/keep?{}", form(&pairs)), &[]).status, 404);
    let other = format!(
        "POST /~/keep HTTP/1.1\r\nHost: {}\r\nContent-Type: text/plain\r\nContent-Length: {}\r\nConnection: close\r\n\r\n{}",
        server.at,
        form(&pairs).len(),
        form(&pairs)
    );
    assert_eq!(server.say(other).unwrap().status, 403);
    // Names of files that are none of the site's, or not to be changed so.
    for of in [
        "../../etc/passwd",
        "/etc/passwd",
        "content/../hausblatt.toml",
        "hausblatt.toml",
        "themes/loam/page.html",
        "\0",
        "",
    ] {
        assert_eq!(server.post("/~/keep", &with("of", of), &[]).status, 409, "{of}");
    }
    for what in ["remove", "hide", "override", "only", "nonsense"] {
        for file in ["../../etc/passwd", "hausblatt.toml", VISIT, "", ".hausblatt-undo/000001.json"] {
            let token = &pairs.iter().find(|(name, _)| name == "token").unwrap().1;
            let all = [("token", token.as_str()), ("do", what), ("file", file), ("address", file), ("seen", "")];
            let all: Vec<_> = all.iter().map(|(name, value)| ((*name).to_owned(), (*value).to_owned())).collect();
            let status = server.post("/~/keep", &form(&all), &[]).status;
            assert!([409, 422].contains(&status), "{what} {file}: {status}");
        }
    }
    assert_eq!(site.files(), before);
    // Where it goes then is always a page of the workbench.
    for back in ["https://seeds.example/", "//seeds.example", "/~/\r\nX: y", "/visit/", "/~/\\x"] {
        let answer = server.post("/~/keep", &with("back", back), &[]);
        assert_eq!(answer.status, 303, "{}", answer.head);
        assert!(answer.header("location").starts_with("/~/?kept="), "{}", answer.head);
        let fresh = hidden(&server.get("/~/kept").text(), "/~/undo").unwrap();
        server.post("/~/undo", &form(&fresh), &[]);
    }
}

#[test]
fn hostile_values_are_texts() {
    let site = Site::demo();
    let server = site.serve(&[]);
    for value in [
        "<script>alert(1)</script>",
        "\"; DROP",
        "a: b # c",
        "- x",
        "{ x: [",
        "---\ntitle: other\n---\n",
        "\u{202e}right to left",
        "tab\there",
        "'''",
        "+{site.title}",
        "yes",
        "null",
        "  spaces  ",
        "\u{feff}",
        "é\u{0301}🌱",
    ] {
        let address = format!("/~/content?path={VISIT}&field.title={}", crate::support::forms::encoded(value));
        let page = server.get(&address).text();
        assert!(!page.contains("<script>alert"), "{value}");
        if hidden(&page, "/~/keep").is_none() {
            panic!("{value:?}: {}", words(&page));
        }
        let answer = server.keep(&address);
        assert_eq!(answer.status, 303, "{value:?}: {}", words(&answer.text()));
        let values = site.json(&["set", "/visit/"]);
        let title = values.as_array().unwrap().iter().find(|row| row["key"] == "title").unwrap();
        assert_eq!(title["value"], *value);
        assert!(site.read(VISIT).ends_with("weekday mornings.\n"), "{}", site.read(VISIT));
    }
    let deep = format!("/~/try?do=set&of=site&set.settings{}=x", ".a".repeat(20_000));
    assert!(words(&server.get(&deep).text()).contains("this key has 20001 parts"));
    let twice = "/~/try?do=choose&name=bare&content=content/pages/borrow.md&content=content/pages/borrow.md";
    assert_eq!(server.keep(twice).status, 303);
    for wrong in
        ["/~/content?path=content/varieties/scarlet-runner.md&field.height_cm=0", "/~/menus?add=main&to=page%3Anowhere"]
    {
        let page = server.get(wrong).text();
        assert!(words(&page).contains("This can't be kept.") && hidden(&page, "/~/keep").is_none());
    }
}

#[test]
fn what_can_not_be_written_leaves_all_as_it_was() {
    let site = Site::demo();
    let server = site.serve(&[]);
    let before = site.files();
    // A file where the folder of the journal would be: the change could not be taken back, so it is not made.
    site.write(".hausblatt-undo", "");
    let answer = server.keep("/~/settings?setting.motto=Sow");
    assert_eq!((answer.status, site.files()), (500, before.clone()));
    assert!(words(&answer.text()).starts_with("It could not be written\n"), "{}", words(&answer.text()));
    site.remove(".hausblatt-undo");
    // A file that nobody may write.
    let mut permissions = fs::metadata(site.path("hausblatt.toml")).unwrap().permissions();
    permissions.set_readonly(true);
    fs::set_permissions(site.path("hausblatt.toml"), permissions.clone()).unwrap();
    let answer = server.keep("/~/settings?setting.motto=Sow");
    assert_eq!((answer.status, site.files()), (500, before.clone()));
    assert_eq!(
        words(&answer.text()),
        "It could not be written\nhausblatt.toml can't be written: it is read-only. No file was changed.\nBack"
    );
    #[allow(clippy::permissions_set_readonly_false)]
    permissions.set_readonly(false);
    fs::set_permissions(site.path("hausblatt.toml"), permissions).unwrap();
    // A site that can't be loaded by now.
    let pairs = hidden(&server.get("/~/settings?setting.motto=Sow").text(), "/~/keep").unwrap();
    let right = site.read("hausblatt.toml");
    site.write("hausblatt.toml", "[site");
    let answer = server.post("/~/keep", &form(&pairs), &[]);
    assert_eq!((answer.status, site.read("hausblatt.toml")), (409, "[site".to_owned()));
    site.write("hausblatt.toml", right);
    fs::create_dir_all(site.path("elsewhere")).unwrap();
    assert_eq!(server.keep("/~/settings?setting.motto=Sow").status, 303);
}

#[test]
fn a_server_for_reading_writes_nothing() {
    let site = Site::demo();
    let server = site.serve(&["--read-only"]);
    let address = "/~/content?path=content/pages/visit.md&field.title=Mine";
    let page = server.get(address).text();
    assert_eq!(hidden(&page, "/~/keep"), None);
    assert!(words(&page).contains("The server was started with --read-only. Nothing can be kept."), "{}", words(&page));
    let token = hidden(&server.get("/nowhere/").text(), "/~/missed");
    assert_eq!(token, None);
    server.get("/vist/");
    let token = hidden(&server.get("/~/missed").text(), "/~/missed").unwrap().remove(0).1;
    let pairs = [("token", token.as_str()), ("do", "set"), ("of", "site"), ("set.settings.motto", "x"), ("seen", "")];
    let pairs: Vec<_> = pairs.iter().map(|(name, value)| ((*name).to_owned(), (*value).to_owned())).collect();
    let before = site.files();
    for action in ["/~/keep", "/~/undo", "/~/open"] {
        let answer = server.post(action, &form(&pairs), &[]);
        assert_eq!((answer.status, site.files()), (403, before.clone()), "{action}");
        assert_eq!(answer.text(), "The server was started with --read-only. Nothing was changed.\n");
    }
}

#[test]
fn from_elsewhere_a_key_is_needed() {
    let site = Site::demo();
    let closed = site.serve(&["--host", "0.0.0.0"]);
    let address = "/~/content?path=content/pages/visit.md&field.title=Mine";
    let page = closed.get(address).text();
    assert_eq!(hidden(&page, "/~/keep"), None);
    assert!(words(&page).contains("--allow-edits asks for a key instead"), "{}", words(&page));
    drop(closed);
    let mut server = site.serve(&["--host", "0.0.0.0", "--allow-edits"]);
    let said = server.said_until("enter this key there: ");
    let key = said.rsplit(": ").next().unwrap().trim().to_owned();
    assert_eq!(key.len(), 16, "{said}");
    let page = server.get(address).text();
    assert_eq!(hidden(&page, "/~/keep"), None);
    let mut pairs = hidden(&page, "/~/key").unwrap();
    pairs.push(("key".to_owned(), "0000000000000000".to_owned()));
    assert_eq!(server.post("/~/key", &form(&pairs), &[]).status, 403);
    pairs.last_mut().unwrap().1 = key;
    let entered = server.post("/~/key", &form(&pairs), &[]);
    assert_eq!(entered.status, 303);
    assert!(entered.header("location").starts_with("/~/content?path="), "{}", entered.head);
    let cookie = entered.header("set-cookie").to_owned();
    assert!(cookie.ends_with("; Path=/~/; HttpOnly; SameSite=Strict"), "{cookie}");
    let cookie = cookie.split(';').next().unwrap();
    let page = server.ask("GET", address, &[("Cookie", cookie)]).text();
    let pairs = hidden(&page, "/~/keep").unwrap();
    // The token alone does not do.
    assert_eq!(server.post("/~/keep", &form(&pairs), &[]).status, 403);
    assert_eq!(server.post("/~/keep", &form(&pairs), &[("Cookie", cookie)]).status, 303);
    assert!(site.read(VISIT).contains("title: Mine"));
}

#[test]
fn a_file_is_opened_by_what_was_typed_and_by_nothing_else() {
    let site = Site::demo();
    site.write("content/pages/it's; touch broken.md", "");
    site.write("note.sh", "#!/bin/sh\nprintf '%s\\n' \"$@\" > opened.txt\n");
    let plain = site.serve(&[]);
    assert_eq!(hidden(&plain.get("/~/content?path=content/pages/visit.md").text(), "/~/open"), None);
    drop(plain);
    let server = site.serve(&["--editor", "sh note.sh 'at {line}' {file}"]);
    let mut pairs = hidden(&server.get("/~/content?path=content/pages/visit.md").text(), "/~/open").unwrap();
    let open = |pairs: &[(String, String)]| server.post("/~/open", &form(pairs), &[]).status;
    assert_eq!(open(&pairs), 303);
    let opened = || {
        let start = std::time::Instant::now();
        while !site.path("opened.txt").exists() && start.elapsed().as_secs() < 10 {
            std::thread::sleep(std::time::Duration::from_millis(20));
        }
        std::thread::sleep(std::time::Duration::from_millis(50));
        let text = site.read("opened.txt");
        site.remove("opened.txt");
        text
    };
    let root = site.root().canonicalize().unwrap();
    assert_eq!(opened(), format!("at 13\n{}\n", root.join(VISIT).display()));
    let set = |pairs: &mut Vec<(String, String)>, name: &str, value: &str| {
        pairs.iter_mut().find(|(other, _)| other == name).unwrap().1 = value.to_owned();
    };
    set(&mut pairs, "file", "content/pages/it's; touch broken.md");
    set(&mut pairs, "line", "$(touch broken)");
    assert_eq!(open(&pairs), 303);
    assert_eq!(opened(), format!("at 1\n{}\n", root.join("content/pages/it's; touch broken.md").display()));
    for file in ["../../etc/passwd", "/etc/passwd", "nowhere.md", ""] {
        set(&mut pairs, "file", file);
        assert_eq!(open(&pairs), 409, "{file}");
    }
    assert!(!site.path("broken").exists() && !site.path("opened.txt").exists());
}
