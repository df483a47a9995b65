//! Images that are made: in a build, from the server, and asked about.

use std::fs;
use std::process::Command;

use expect_test::expect;

use crate::support::{Site, check};

/// The addresses of made images that a page names, once each.
fn made(page: &str) -> Vec<String> {
    let mut all: Vec<String> = page
        .split("/media/_made/")
        .skip(1)
        .map(|rest| format!("/media/_made/{}", rest.split(['"', ' ']).next().unwrap()))
        .collect();
    all.sort();
    all.dedup();
    all
}

/// Builds the site as it is, on no other day.
fn build_of_today(site: &Site) {
    let mut command = Command::new(env!("CARGO_BIN_EXE_hausblatt"));
    command.current_dir(site.path("")).env_clear().args(["build", "-q"]);
    assert!(command.status().unwrap().success());
}

#[test]
fn the_server_sends_what_a_build_writes() {
    let site = Site::demo();
    let server = site.serve(&[]);
    let page = server.get("/journal/borrowed-and-back/").text();
    assert_eq!(page, site.run(&["render", "/journal/borrowed-and-back/"]).out.trim_end());
    let images = made(&page);
    assert_eq!(images.len(), 3, "{page}");
    assert!(!site.path(".hausblatt-images").exists(), "nothing is made before it is requested");
    site.run(&["build"]);
    for path in &images {
        let reply = server.get(path);
        assert_eq!((reply.status, reply.header("content-type")), (200, "image/jpeg"));
        assert_eq!(reply.header("cache-control"), "public, max-age=31536000, immutable");
        assert_eq!(reply.body, fs::read(site.path(&format!("built{path}"))).unwrap());
        let tag = reply.header("etag").to_owned();
        assert_eq!(server.ask("GET", path, &[("If-None-Match", &tag)]).status, 304);
        let head = server.ask("HEAD", path, &[]);
        assert_eq!((head.status, head.header("content-length")), (200, &*reply.body.len().to_string()));
        assert!(head.body.is_empty());
    }
    for none in ["/media/_made/000000000000/gate-480.jpg", "/media/_made/", "/media/_made/../../hausblatt.toml"] {
        assert_eq!(server.get(none).status, 404, "{none}");
    }
    // A browser may still have an old page: what is kept is sent, and nothing else.
    fs::copy(site.path("media/runner-beans.jpg"), site.path("media/returned-seed.jpg")).unwrap();
    assert_eq!(server.get(&images[0]).status, 200);
    fs::remove_dir_all(site.path(".hausblatt-images")).unwrap();
    assert_eq!(server.get(&images[0]).status, 404);
    let new = made(&server.get("/journal/borrowed-and-back/").text());
    assert!(new.iter().all(|path| !images.contains(path) && server.get(path).status == 200), "{new:?}");
}

#[test]
fn a_server_keeps_a_build_from_removing_what_it_may_be_asked_for() {
    let site = Site::demo();
    let server = site.serve(&[]);
    let images = made(&server.get("/journal/borrowed-and-back/").text());
    images.iter().for_each(|path| assert_eq!(server.get(path).status, 200));
    site.write("content/journal/2026-10-17-borrowed-and-back.md", "---\ntitle: Back\n---\n");
    build_of_today(&site);
    let kept = || fs::read_dir(site.path(".hausblatt-images")).unwrap().count();
    // Three of another page, three that the server has made, and the sign that it runs.
    assert_eq!(kept(), 7);
    drop(server);
    site.write("content/journal/2026-10-17-borrowed-and-back.md", "---\ntitle: Back again\n---\n");
    // The site of another day is not what its visitors see.
    site.run(&["build"]);
    assert_eq!(kept(), 7);
    site.write("content/journal/2026-10-17-borrowed-and-back.md", "---\ntitle: Back once more\n---\n");
    build_of_today(&site);
    assert_eq!(kept(), 4);
}

#[test]
fn an_image_that_can_not_be_made_is_said_to_be() {
    let site = Site::demo();
    let whole = fs::read(site.path("media/returned-seed.jpg")).unwrap();
    // Its size is known, but its pixels are not there.
    let start = whole.windows(2).position(|pair| pair == [0xff, 0xda]).unwrap();
    fs::write(site.path("media/returned-seed.jpg"), &whole[..start + 2]).unwrap();
    check(
        &site,
        &["build"],
        expect![[r#"
            exit 1
            Built with errors: 134 of 134 pages into ./built (1072 kB, TIME s): 191 files written, 0 unchanged, 0 removed.
            ---
            error    no other image can be made of this one: it ends too soon
                     media/returned-seed.jpg
                     → save it anew, or leave it as it is: without .scaled, .srcset and
                       their like                                                  bad-image

        "#]],
    );
    check(
        &site,
        &["build"],
        expect![[r#"
            exit 1
            Built with errors: 134 of 134 pages into ./built (1072 kB, TIME s): 0 files written, 191 unchanged, 0 removed.
            ---
            error    no other image can be made of this one: it ends too soon
                     media/returned-seed.jpg
                     → save it anew, or leave it as it is: without .scaled, .srcset and
                       their like                                                  bad-image

        "#]],
    );
    check(
        &site,
        &["check"],
        expect![[r#"
            exit 1
            error    the end of this image is missing
                     media/returned-seed.jpg
                     → save the image anew                                         bad-image

            1 error in the whole site.
            What it means:   hausblatt check --about bad-image
        "#]],
    );
    let server = site.serve(&[]);
    for path in made(&server.get("/journal/borrowed-and-back/").text()) {
        let reply = server.get(&path);
        assert_eq!(reply.status, 500);
        assert!(reply.text().contains("media/returned-seed.jpg"), "{}", reply.text());
    }
}

#[test]
fn a_site_that_can_not_be_written_has_its_images_all_the_same() {
    let site = Site::demo();
    // A file is where the folder would be.
    site.write(".hausblatt-images", "");
    let server = site.serve(&[]);
    for path in made(&server.get("/journal/borrowed-and-back/").text()) {
        assert_eq!(server.get(&path).status, 200);
    }
    let said = site.run(&["build"]);
    assert_eq!(said.code, 0, "{}", said.whole());
    assert_eq!(fs::read(site.path(".hausblatt-images")).unwrap(), b"");
}

#[test]
fn what_is_sent_at_the_address_of_a_file() {
    let site = Site::demo();
    let page = site.run(&["render", "/journal/borrowed-and-back/"]).out;
    let smallest = made(&page).into_iter().find(|path| path.ends_with("-480.jpg")).unwrap();
    let resolved = |addresses: &[&str]| site.run(&[&["resolve"], addresses].concat()).whole();
    expect![[r#"
        exit 1
        /assets/harbour.css  →  200
        file of harbour

        sends     themes/harbour/assets/harbour.css

        To see which pages load it:  hausblatt reach themes/harbour/assets/harbour.css

        /assets/components/split-panel/style.css  →  200
        file of harbour

        sends     themes/harbour/components/split-panel/style.css
        covers    themes/hedgerow/components/split-panel/style.css

        To see which pages load it:
          hausblatt reach themes/harbour/components/split-panel/style.css

        /media/gate.svg  →  200
        file of the site

        sends     media/gate.svg

        /media/none.svg  →  404
        error: nothing is at this address · content/pages/lost.md

           rung            harbour   hedgerow    loam
        1  error/404.html     ·         ■         ·
        2  error/4xx.html     ·         ·         ·
        3  error.html         ·         ·         □
        4  fallback.html      ·         ·         □
            ■ renders   □ passed over   · no file
        renders   themes/hedgerow/templates/error/404.html
        inside    themes/harbour/layouts/document.html
        extends   themes/hedgerow/layouts/document.html
        extends   themes/loam/layouts/document.html
        uses      footer (loam), header (harbour), menu (loam), prepare all (hedgerow)

        To see every address:  hausblatt map
    "#]]
    .assert_eq(&resolved(&[
        "/assets/harbour.css",
        "/assets/components/split-panel/style.css?v=1",
        "/media/gate.svg",
        "/media/none.svg",
    ]));
    expect![[r#"
        exit 0
        ADDRESS  →  200
        image that is made of another one · 480 × 320 pixels, jpg

        made of   media/returned-seed.jpg
    "#]]
    .assert_eq(&resolved(&[&smallest]).replace(&smallest, "ADDRESS"));
    let json = site.run(&["resolve", &smallest, "/assets/components/split-panel/style.css", "--format", "json"]);
    expect![[r#"
        [
          {
            "address": "ADDRESS",
            "status": 200,
            "location": null,
            "may": [],
            "kind": null,
            "view": null,
            "content": null,
            "rungs": [],
            "template": null,
            "layout": null,
            "uses": [],
            "notes": [],
            "file": {
              "theme": null,
              "path": "media/returned-seed.jpg",
              "covers": [],
              "made": {
                "width": 480,
                "height": 320,
                "format": "jpg"
              }
            }
          },
          {
            "address": "/assets/components/split-panel/style.css",
            "status": 200,
            "location": null,
            "may": [],
            "kind": null,
            "view": null,
            "content": null,
            "rungs": [],
            "template": null,
            "layout": null,
            "uses": [],
            "notes": [],
            "file": {
              "theme": "harbour",
              "path": "themes/harbour/components/split-panel/style.css",
              "covers": [
                {
                  "theme": "hedgerow",
                  "path": "themes/hedgerow/components/split-panel/style.css"
                }
              ],
              "made": null
            }
          }
        ]
    "#]]
    .assert_eq(&json.out.replace(&smallest, "ADDRESS"));
    check(
        &site,
        &["render", "/assets/hedgerow.css?v=1"],
        expect![[r#"
            exit 0
            /* hedgerow: greens, and the pieces that its own templates need. */
            :root { --paper: #f7faf3; --ink: #22291f; --faint: #55604e; --line: #d5dfcb; --accent: #2f6f4e; --panel: #edf3e6; }
            @media (prefers-color-scheme: dark) {
              :root { --paper: #161b15; --ink: #e4ebdd; --faint: #a5b29b; --line: #313b2d; --accent: #8ccaa3; --panel: #1f261d; }
            }
            .variety { display: grid; gap: 1.5rem clamp(1.5rem, 4vw, 3rem); }
            @media (min-width: 52rem) { .variety { grid-template-columns: 5fr 6fr; } }
            .variety-picture img { width: 100%; border-radius: .8rem; }
            .facts { display: grid; grid-template-columns: repeat(auto-fit, minmax(8.5rem, 1fr)); border: 1px solid var(--line); border-radius: .6rem; overflow: hidden; font-family: var(--sans); margin: 1.25rem 0; }
            .facts div { padding: .6rem .8rem; box-shadow: 0 0 0 1px var(--line); }
            .facts dt { font-size: .8rem; color: var(--faint); }
            .facts dd { margin: 0; font-weight: 600; }
            .easy-mark { display: inline-block; font: 600 .85rem var(--sans); color: var(--accent); border: 1px solid currentColor; border-radius: 2rem; padding: .2rem .8rem; margin: 0; }
            .packets.small { grid-template-columns: repeat(auto-fill, minmax(min(100%, 12rem), 1fr)); }
            .dates { list-style: none; padding: 0; margin: 1rem 0; display: grid; gap: .75rem; }
            .date-slip { display: grid; grid-template-columns: 5.5rem 1fr; gap: 1rem; align-items: center; text-decoration: none; color: inherit; border: 1px solid var(--line); border-radius: .6rem; padding: .75rem 1rem; background: var(--panel); font-family: var(--sans); }
            .date-slip:hover { border-color: var(--accent); }
            .date-slip time { text-align: center; color: var(--accent); font-size: .85rem; }
            .date-slip b { display: block; font-size: 1.6rem; line-height: 1.1; }
            .past { opacity: .85; }
            .note { font: .95rem var(--sans); border-left: 3px solid var(--accent); padding: .3rem 0 .3rem 1rem; margin-top: 2rem; }
            .family-row { display: flex; gap: 1.25rem; align-items: center; margin: 1.5rem 0; }
            .family-row img { width: 8rem; border-radius: .5rem; }
            .family-row h2, .family-row ul { margin: .2rem 0; }
            .family-row ul { padding-left: 1.1rem; }
            .family-picture { border-radius: .6rem; margin-bottom: 1rem; }
            .month-list { list-style: none; padding: 0; }
            .month-list li { display: grid; grid-template-columns: 7rem 1fr; gap: 1rem; padding: .5rem 0; border-bottom: 1px solid var(--line); }
            .search-form { display: flex; flex-wrap: wrap; gap: .5rem; align-items: center; font-family: var(--sans); }
            .search-form input { font: inherit; color: inherit; background: var(--panel); border: 1px solid var(--faint); border-radius: .4rem; padding: .4rem .7rem; min-width: 0; flex: 1 1 12rem; }
            .search-form button, #search-results button { font: inherit; color: var(--paper); background: var(--accent); border: 0; border-radius: .4rem; padding: .5rem 1rem; }
            #search-results li { margin: .8rem 0; }
            #search-results li p { margin: .1rem 0; color: var(--faint); }
        "#]],
    );
    check(
        &site,
        &["render", "/media/gate.svg", "--format", "json"],
        expect![[r##"
        exit 0
        {
          "address": "/media/gate.svg",
          "status": 200,
          "location": null,
          "html": "<svg xmlns=\"http://www.w3.org/2000/svg\" viewBox=\"0 0 320 200\" role=\"img\" aria-label=\"A green gate under a blue flag\">\n<rect width=\"320\" height=\"200\" fill=\"#dfeaf0\"/><rect y=\"150\" width=\"320\" height=\"50\" fill=\"#b9c9a2\"/><rect x=\"20\" y=\"50\" width=\"90\" height=\"110\" fill=\"#cbb59a\"/><rect x=\"210\" y=\"50\" width=\"90\" height=\"110\" fill=\"#cbb59a\"/><path d=\"M110 160V70a50 40 0 0 1 100 0V160Z\" fill=\"#3f7a5c\"/><path d=\"M135 160V62M160 160V46M185 160V62\" stroke=\"#2f5f47\" stroke-width=\"4\"/><path d=\"M255 50V8\" stroke=\"#555\" stroke-width=\"4\"/><path d=\"M255 10h46l-10 13 10 13h-46Z\" fill=\"#2f6fa3\"/>\n</svg>\n"
        }
    "##]],
    );
    check(
        &site,
        &["render", "/media/runner-beans.jpg"],
        expect![[r#"
        exit 1
        ---
        error: there is no text at /media/runner-beans.jpg: it is the file media/runner-beans.jpg
        help: build writes it into the output folder, serve sends it
    "#]],
    );
    expect![[r#"
        exit 1
        ---
        error: there is no text at ADDRESS: it is an image that is made of media/returned-seed.jpg
        help: build writes it into the output folder, serve sends it
    "#]]
    .assert_eq(&site.run(&["render", &smallest]).whole().replace(&smallest, "ADDRESS"));
}
