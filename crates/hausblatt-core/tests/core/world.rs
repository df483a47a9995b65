//! The World: what follows from files and an asking, and that it is never stale.

use std::fs;
use std::path::Path;
use std::sync::Arc;
use std::time::{Duration, SystemTime};

use bumpalo::Bump;
use hausblatt_core::asking::SiteOptions;
use hausblatt_core::files::disk::Disk;
use hausblatt_core::files::{Depth, Snapshot};
use hausblatt_core::lookup::map::map;
use hausblatt_core::model::request::Routed;
use hausblatt_core::render::page::{Audience, page};
use hausblatt_core::world::{Unloadable, World};
use proptest::prelude::*;

use crate::support::{demo, pages, snapshot};

const CONFIG: &str = "[site]\ntitle = \"Seeds\"\ntheme = \"t\"\nplace = \"Marrow Lane\"\n\n[collections.journal]\naddress = \"/journal/{year}/{slug}/\"\nlisting = \"/journal/\"\norder = \"date desc\"\nper_page = 2\n\n[collections.journal.fields]\nseats = { type = \"number\", min = 1 }\neasy = { type = \"yes-no\", default = true }\nnote = { type = \"rich\" }\nlook = { type = \"image\" }\n";

fn asking() -> SiteOptions {
    SiteOptions::on("2026-11-23".parse().unwrap())
}

/// A site in memory with this page template and these files in addition.
fn world(template: &str, files: &[(&str, &str)]) -> World {
    let base = [
        ("hausblatt.toml", CONFIG),
        ("themes/t/hausblatt-theme.toml", "[theme]\nversion = \"1.0\"\n"),
        ("themes/t/templates/fallback.html", template),
        ("themes/t/layouts/document.html", "+{slot}"),
        ("content/pages/visit.md", "---\norder: 2\n---\nCome *in*.\n\nMore."),
        ("content/pages/visit/opening.md", "---\ntitle: Hours\n---\n"),
        ("content/pages/about.md", "---\norder: 1\n---\n"),
        ("content/journal/2026-01-02-frost.md", "---\nseats: 3\n---\n"),
        (
            "content/journal/2026-03-04-boats.md",
            "---\neasy: no\nnote: \"*n*\"\nlook: { file: /media/x.svg, alt: X }\n---\n",
        ),
        ("media/x.svg", ""),
        ("content/journal/2026-02-03-beans.md", ""),
        ("content/journal/2027-01-01-later.md", ""),
    ];
    let kept = base.into_iter().filter(|(path, _)| !files.iter().any(|(other, _)| other == path));
    let snapshot = Snapshot::in_memory(kept.chain(files.iter().copied()));
    World::load(snapshot, asking()).unwrap_or_else(|Unloadable(problems)| panic!("{problems:?}"))
}

/// What `address` answers with, and what is said about it.
fn rendered(world: &World, address: &str) -> String {
    match world.route(address) {
        Routed::Redirect(to) => format!("redirect {to}"),
        Routed::Request(request) => {
            let page = page(world, request, Audience::Visitor, &Bump::new());
            let said: Vec<String> = page
                .diagnostics
                .iter()
                .map(|diagnostic| format!("\n{} {}", diagnostic.code, diagnostic.message))
                .collect();
            format!("{} {}{}", page.status, page.text, said.concat())
        }
    }
}

/// What prints a member as it is kept, and what prints a value that is evaluated, print the same.
#[test]
fn a_kept_text_prints_as_an_evaluated_one() {
    let kept = "+{each e in [content]}<a href=\"+{e.ADDRESS}\" title=\"+{e.MEMBER}\">+{e.MEMBER}</a>+{end}";
    for value in
        ["Peas & \"beans\"", "<b>", "/a/'b'/", "/ordinary/path/", "//elsewhere/", "https://a.example/", "", "Ä\u{1}"]
    {
        let text = format!("---\ntitle: {0:?}\nmotto: {0:?}\n---\n", value).replace("\\u{1}", "\\x01");
        for (member, address) in [("title", "address"), ("motto", "motto")] {
            let kept = kept.replace("MEMBER", member).replace("ADDRESS", address);
            let evaluated = kept.replace(&format!("e.{member}"), &format!("(\"\" + e.{member})"));
            let evaluated = evaluated.replace("e.address", "(\"\" + e.address)");
            let answer = |template: &str| {
                let files = [("content/pages/visit.md", &*text)];
                let answer = rendered(&world(template, &files), "/visit/");
                answer.split_once("\n").map_or(answer.clone(), |(page, _)| page.to_owned())
            };
            assert_eq!(answer(&kept), answer(&evaluated), "{value:?} as {member}");
        }
    }
    let template = "+{each i in menus.main}<a href=\"+{i.address}\">+{i.label}</a>+{end}";
    let config = CONFIG.to_owned()
        + "[menus]\nmain = [{ to = \"/a b/?c=1&d=2\", label = \"A & <b>\" }, { to = \"page:visit\" }]\n";
    assert_eq!(
        rendered(&world(template, &[("hausblatt.toml", &config)]), "/about/"),
        "200 <a href=\"/a%20b/?c=1&amp;d=2\">A &amp; &lt;b&gt;</a><a href=\"/visit/\">Visit</a>"
    );
}

#[test]
fn global_values() {
    for (template, address, expected) in [
        (
            "+{site.title} +{site.place} +{theme.name} +{theme.version} +{today}",
            "/about/",
            "200 Seeds Marrow Lane t 1.0 2026-11-23",
        ),
        (
            "+{content.title}|+{content.body}|+{content.summary}|+{content.kind}",
            "/visit/",
            "200 Visit|<p>Come <em>in</em>.</p>\n<p>More.</p>\n|Come in.|page",
        ),
        (
            "+{content.parent.title} +{content.ancestors.first.address} +{content.parent.children.first == content}",
            "/visit/opening/",
            "200 Visit /visit/ true",
        ),
        (
            "+{content.seats}|+{content.easy}|+{content.collection}|+{content.date}",
            "/journal/2026/frost/",
            "200 3|true|journal|2026-01-02",
        ),
        (
            "+{content.easy}|+{content.note}|+{content.look}|+{content.look.alt}",
            "/journal/2026/boats/",
            "200 false|<p><em>n</em></p>\n|/media/x.svg|X",
        ),
        ("+{content.older.title} +{content.newer.title}", "/journal/2026/beans/", "200 Frost Boats"),
        (
            "+{request.kind} +{request.status} +{request.template} +{request.layout} +{request.theme}",
            "/about/",
            "200 page 200 fallback.html document t",
        ),
        (
            "+{each e in listing.items}+{e.title} +{end}+{listing.page}/+{listing.pages.count} +{listing.total} +{listing.next}",
            "/journal/",
            "200 Boats Beans 1/2 3 /journal/page/2/",
        ),
        (
            "+{each p in listing.pages}+{p.number}+{if p.here}!+{end}+{end} +{listing.previous} +{listing.next}",
            "/journal/page/2/",
            "200 12! /journal/ ",
        ),
        (
            "+{journal.count} +{journal.label} +{journal.address} +{journal.scheduled.first.title}+{journal.scheduled.first.address}",
            "/about/",
            "200 3 Journal /journal/ Later",
        ),
        ("+{collections.journal.count} +{collections.nothere.count}", "/about/", "200 3 "),
        (
            "+{each i in menus.main}+{i.label}+{if i.inside}*+{end}+{if i.here}!+{end}(+{i.children.count}) +{end}",
            "/visit/opening/",
            "200 About(0) Visit*(1) ",
        ),
        ("+{classes.join(\" \")}", "/visit/opening/", "200 page visit-opening"),
        (
            "+{url(\"page:visit/opening\")} +{url(\"collection:journal\")} +{url(\"entry:journal/frost\")}",
            "/about/",
            "200 /visit/opening/ /journal/ /journal/2026/frost/",
        ),
        (
            "+{error.status} +{error.title} +{error.path} +{error.nearest.first.address} +{request.robots}",
            "/vist/",
            "404 404 Page not found /vist/ /visit/ noindex",
        ),
    ] {
        assert_eq!(rendered(&world(template, &[]), address), expected, "{template}");
    }
}

#[test]
fn addresses_lead_where_they_should() {
    let world = world("+{request.title}", &[]);
    for (address, expected) in [
        ("/visit", "redirect /visit/"),
        ("https://seeds.example/visit/?q=1#x", "200 Visit"),
        ("/VISIT/", "404 Page not found"),
        ("/journal/page/1/", "redirect /journal/"),
        ("/journal/page/02/", "404 Page not found"),
        ("/journal/page/3/", "404 Page not found"),
        ("/journal/2027/later/", "404 Page not found"),
        ("/../visit/", "404 Page not found"),
        ("/", "404 Page not found"),
    ] {
        assert_eq!(rendered(&world, address), expected, "{address}");
    }
}

#[test]
fn a_page_may_introduce_a_listing() {
    let world = world(
        "+{request.kind} +{content.title} +{listing.total}",
        &[("content/pages/journal.md", "---\ntitle: Our journal\n---\n")],
    );
    assert_eq!(rendered(&world, "/journal/"), "200 listing Our journal 3");
    assert_eq!(format!("{:?}", world.problems), "[]");
}

#[test]
fn a_long_sitemap_is_parted() {
    let rows: String = (0..41_000).map(|number| format!("row-{number}\n")).collect();
    let config = format!("{CONFIG}[routes.row]\naddress = \"/rows/{{slug}}/\"\neach = \"rows\"\n");
    let config = config.replace("place =", "address = \"https://seeds.example\"\nplace =");
    let world = world("x", &[("hausblatt.toml", &config), ("tables/rows.csv", &format!("slug\n{rows}"))]);
    let locations = |address: &str| -> Vec<String> {
        let text = rendered(&world, address);
        text.split("<loc>").skip(1).map(|rest| rest.split('<').next().unwrap().to_owned()).collect()
    };
    let parts = locations("/sitemap.xml");
    assert_eq!(parts, ["https://seeds.example/sitemap-1.xml", "https://seeds.example/sitemap-2.xml"]);
    let all = [locations("/sitemap-1.xml"), locations("/sitemap-2.xml")];
    assert!(all.iter().all(|part| part.len() < 50_000 && part.len() > 10_000));
    let whole: std::collections::BTreeSet<&String> = all.iter().flatten().collect();
    let expected = map(&world).into_iter().filter(|entry| entry.kind.is_some_and(|kind| kind != "error")).count();
    assert_eq!((whole.len(), all.iter().map(Vec::len).sum::<usize>()), (expected, expected));
    assert!(rendered(&world, "/sitemap-3.xml").starts_with("404"));
}

#[test]
fn layouts_may_stand_in_layouts_and_be_inherited() {
    let files = [
        ("themes/t/layouts/document.html", "---\nlayout: outer\n---\n(+{slot})"),
        ("themes/t/layouts/outer.html", "[+{slot}+{slot \"foot\" else}.+{end}]"),
        ("themes/t/templates/page/visit.html", "---\nlayout: outer\n---\nv+{into \"foot\"}!+{end}"),
    ];
    let world = world("x", &files);
    assert_eq!(rendered(&world, "/about/"), "200 [(x).]");
    assert_eq!(rendered(&world, "/visit/"), "200 [v!]");
}

#[test]
fn problems_are_kept_apart_by_page() {
    let world = world(
        "fine",
        &[("themes/t/templates/page/visit.html", "+{nonsense}"), ("content/pages/about.md", "---\norder: many\n---\n")],
    );
    assert_eq!(rendered(&world, "/visit/"), "500 fine\nunknown-name unknown name \"nonsense\"");
    assert_eq!(rendered(&world, "/about/"), "500 fine\nwrong-type this must be a number, not a text");
    assert_eq!(rendered(&world, "/visit/opening/"), "200 fine");
}

#[test]
fn an_overlay_is_a_world_of_its_own() {
    let first = world("old", &[]);
    let snapshot =
        first.snapshot.with("themes/t/templates/page.html", Some("new")).with("content/pages/about.md", None);
    let second = World::load(snapshot, asking()).unwrap_or_else(|error| panic!("{error:?}"));
    assert_eq!(
        (rendered(&first, "/visit/"), rendered(&second, "/visit/")),
        ("200 old".to_owned(), "200 new".to_owned())
    );
    assert_eq!(
        (rendered(&first, "/about/"), rendered(&second, "/about/")),
        ("200 old".to_owned(), "404 old".to_owned())
    );
}

/// One edit of a site on disk.
#[derive(Clone, Debug)]
enum Edit {
    Write(usize, u8),
    Remove(usize),
    Rename(usize, usize),
}

const FILES: &[&str] = &[
    "content/pages/a.md",
    "content/pages/a/b.md",
    "content/pages/c.md",
    "themes/t/templates/page.html",
    "themes/t/templates/page/a.html",
    "themes/t/templates/fallback.html",
    "themes/t/partials/card.html",
    "themes/t/layouts/document.html",
];

fn edits() -> impl Strategy<Value = Vec<Edit>> {
    let file = 0..FILES.len();
    let edit = prop_oneof![
        3 => (file.clone(), any::<u8>()).prop_map(|(file, word)| Edit::Write(file, word)),
        1 => file.clone().prop_map(Edit::Remove),
        1 => (file.clone(), file).prop_map(|(from, to)| Edit::Rename(from, to)),
    ];
    proptest::collection::vec(edit, 1..12)
}

fn carry_out(root: &Path, edit: &Edit) {
    let path = |file: usize| root.join(FILES[file]);
    match *edit {
        Edit::Write(file, word) => {
            let text = if FILES[file].ends_with(".md") {
                format!("---\ntitle: T{word}\n---\n")
            } else {
                format!("w{word} +{{request.title}}+{{if {word} > 250}}") + if word > 250 { "" } else { "+{end}" }
            };
            fs::create_dir_all(path(file).parent().unwrap()).unwrap();
            fs::write(path(file), text).unwrap();
        }
        Edit::Remove(file) => drop(fs::remove_file(path(file))),
        Edit::Rename(from, to) => {
            fs::create_dir_all(path(to).parent().unwrap()).unwrap();
            drop(fs::rename(path(from), path(to)));
        }
    }
}

fn everything(snapshot: &Snapshot) -> String {
    let world = World::load(snapshot.clone(), asking()).unwrap_or_else(|error| panic!("{error:?}"));
    let entries = map(&world);
    let pages: Vec<String> = entries.iter().map(|entry| rendered(&world, &entry.address)).collect();
    format!("{entries:?}\n{pages:?}\n{:?}", world.problems)
}

/// A configuration with something of most sorts, for files that may hold anything.
const WHOLE: &str = "[collections.n]\naddress = \"/{t}/{slug}/\"\nlisting = \"/n/\"\nfeed = true\nperiods = [\"day\"]\nviews = [\"v\"]\n[taxonomies.t]\nof = [\"n\", \"pages\"]\naddress = \"/t/{term}/\"\n[routes.r]\naddress = \"/r/{slug}/\"\neach = \"a\"\n[search]\naddress = \"/s/\"\n[errors]\n404 = \"a\"\n";

fn loaded(root: &Path, depth: Depth) -> Snapshot {
    Snapshot::load(Arc::new(Disk::new(SystemTime::now)), root, depth).unwrap()
}

/// Folders that have not changed for a while are not listed again; what changes in them is seen all the same.
#[test]
fn what_changes_after_a_while_is_seen() {
    let folder = tempfile::tempdir().unwrap();
    let root = folder.path();
    let write = |path: &str, text: &str| {
        fs::create_dir_all(root.join(path).parent().unwrap()).unwrap();
        fs::write(root.join(path), text).unwrap();
    };
    write("hausblatt.toml", "[site]\ntitle = \"S\"\ntheme = \"t\"\n");
    write("themes/t/hausblatt-theme.toml", "");
    write("themes/t/templates/page.html", "page");
    for name in ["a", "b", "c", "d"] {
        write(&format!("content/pages/{name}.md"), name);
        write(&format!("content/notes/{name}.md"), name);
    }
    write("content/pages/a/deep.md", "deep");
    // An hour later nothing is so young that it may change again under the same stamp.
    let later = || SystemTime::now() + Duration::from_secs(3600);
    let load = || Snapshot::load(Arc::new(Disk::new(later)), root, Depth::Whole).unwrap();
    let mut kept = load();
    let rename = |from: &str, to: &str| fs::rename(root.join(from), root.join(to)).unwrap();
    let edits: &[(&str, &dyn Fn())] = &[
        ("nothing", &|| {}),
        ("a file in place", &|| write("content/pages/a.md", "A")),
        ("a file by renaming", &|| {
            write("content/pages/.b.tmp", "B");
            rename("content/pages/.b.tmp", "content/pages/b.md");
        }),
        ("a new file", &|| write("content/notes/e.md", "e")),
        ("a file gone", &|| fs::remove_file(root.join("content/notes/a.md")).unwrap()),
        ("a file of another name", &|| rename("content/notes/b.md", "content/notes/f.md")),
        ("two files swapped", &|| {
            rename("content/notes/c.md", "content/notes/x");
            rename("content/notes/d.md", "content/notes/c.md");
            rename("content/notes/x", "content/notes/d.md");
        }),
        ("a new folder", &|| write("tables/deep/in/t.csv", "a\n1\n")),
        ("a file in it", &|| write("tables/deep/in/u.csv", "a\n1\n")),
        ("a folder gone", &|| fs::remove_dir_all(root.join("content/pages/a")).unwrap()),
        ("another under its name", &|| write("content/pages/a/other.md", "other")),
        ("a folder moved", &|| rename("tables/deep", "media")),
        ("a file for a folder", &|| {
            fs::remove_dir_all(root.join("media")).unwrap();
            write("media", "no folder");
        }),
        ("a folder for a file", &|| {
            fs::remove_file(root.join("content/pages/c.md")).unwrap();
            write("content/pages/c.md/d.md", "d");
        }),
        ("a link", &|| std::os::unix::fs::symlink(root.join("content/notes"), root.join("tables/notes")).unwrap()),
        ("a file behind the link", &|| write("content/notes/g.md", "g")),
        ("the link gone", &|| fs::remove_file(root.join("tables/notes")).unwrap()),
        ("a name in other letters", &|| write("content/pages/ku\u{308}rbis.md", "decomposed")),
        ("the same name composed", &|| rename("content/pages/ku\u{308}rbis.md", "content/pages/k\u{fc}rbis.md")),
        ("a whole folder gone", &|| fs::remove_dir_all(root.join("content/notes")).unwrap()),
    ];
    for (at, (what, edit)) in edits.iter().enumerate() {
        edit();
        let (refreshed, afresh) = (kept.refreshed().unwrap(), load());
        assert_eq!(everything(&refreshed), everything(&afresh), "{what}");
        assert_eq!(kept.changed_since(&refreshed), refreshed.changed_since(&kept), "{what}");
        assert_eq!(refreshed.changed_since(&kept).is_empty(), at == 0, "{what}");
        kept = refreshed;
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(60))]

    /// Never stale: whatever was edited, a refreshed snapshot shows what one read afresh does.
    #[test]
    fn a_refreshed_world_equals_one_loaded_afresh(edits in edits()) {
        let folder = tempfile::tempdir().unwrap();
        let root = folder.path();
        fs::create_dir_all(root.join("themes/t")).unwrap();
        fs::write(root.join("hausblatt.toml"), "[site]\ntitle = \"S\"\ntheme = \"t\"\n").unwrap();
        fs::write(root.join("themes/t/hausblatt-theme.toml"), "").unwrap();
        let mut kept = loaded(root, Depth::Whole);
        for edit in &edits {
            carry_out(root, edit);
            kept = kept.refreshed().unwrap();
            let afresh = loaded(root, Depth::Whole);
            prop_assert_eq!(everything(&kept), everything(&afresh));
        }
        let heads = World::load(loaded(root, Depth::Heads), asking()).unwrap_or_else(|error| panic!("{error:?}"));
        let whole = World::load(kept, asking()).unwrap_or_else(|error| panic!("{error:?}"));
        prop_assert_eq!(map(&heads), map(&whole));
    }

    /// Whatever is in the files, loading and rendering end with an answer.
    #[test]
    fn nothing_in_a_file_panics(config in "(\\[[a-z.]{0,12}\\]\n|[a-z]{1,6} = (\"[a-z/{}]{0,9}\"|[0-9]{1,3}|\\[\\]|\\{\\}|true)\n){0,8}", front in "((trays|t|formerly|template|[a-z]{1,8}): ?[-\\[\\]{}a-z0-9\"':,&*!|> ]{0,12}\n){0,5}", template in "([a-z<>\"'=/ \n]|\\+\\{|\\}|(each|if|let|end|slot|into|partial|inherited|in|with|given|else) |component|tray|content|site|tables|listing|route|search|taxonomies|\\.[a-z]{1,5}|[0-9(),+*]){0,60}") {
        let site = [
            ("hausblatt.toml", format!("[site]\ntitle = \"S\"\ntheme = \"t\"\n{WHOLE}{config}")),
            ("themes/t/hausblatt-theme.toml", config.clone()),
            ("themes/t/templates/fallback.html", template.clone()),
            ("themes/t/partials/a.html", format!("---\n{front}---\n{template}")),
            ("content/pages/a.md", format!("---\n{front}---\n{template}")),
            ("themes/t/components/a/component.html", template.clone()),
            ("themes/t/components/a/component.toml", config.clone()),
            ("tables/a.csv", template.clone()),
            ("tables/b.yaml", front.clone()),
            ("tables/c.toml", config.clone()),
        ];
        let files = site.iter().map(|(path, text)| (*path, text.as_str()));
        if let Ok(world) = World::load(Snapshot::in_memory(files), asking()) {
            for entry in map(&world) {
                let _ = rendered(&world, &entry.address);
            }
            let _ = rendered(&world, "/s/?q=a%20b");
        }
    }
}

#[test]
fn a_later_world_is_what_loading_gives() {
    let files = demo();
    let mut earlier = World::load(snapshot(&files), asking()).unwrap();
    let odd = "\n+{content.nope}+{fresh}+{partial \"crad\"}+{let fresh = [title: 1]}+{fresh.title}\n";
    let paths: Vec<String> = files.all().into_iter().map(|(path, _)| path.display().to_string()).collect();
    let steps = paths.iter().filter_map(|path| {
        let path = path.trim_start_matches('/');
        match path.rsplit_once('.')?.1 {
            "html" | "xml" | "json" | "txt" => Some((path, odd)),
            "md" => Some((path, "\n[Lost](/vsit/)\n")),
            "toml" => Some((path, "\n[odd]\nkey = 1\n")),
            "let" => Some((path, "\nlet odd = content.nope\n")),
            _ => None,
        }
    });
    let mut taken_over = 0;
    for (step, (path, more)) in steps.enumerate() {
        let text = String::from_utf8(files.bytes(path).unwrap().to_vec()).unwrap();
        // What comes and goes is looked at, too.
        match step % 7 {
            3 => files.remove(path),
            _ => files.write(path, format!("{text}{more}")),
        }
        let now = snapshot(&files);
        let (later, loaded) = (earlier.later(now.clone()), World::load(now, asking()));
        let (Ok(later), Ok(loaded)) = (later, loaded) else {
            files.write(path, &text);
            continue;
        };
        taken_over += usize::from(std::ptr::eq(&*later.site, &*earlier.site));
        assert!(later.problems == loaded.problems, "{path}");
        if step % 9 == 0 {
            assert!(pages(&later) == pages(&loaded), "{path}");
        }
        if step % 2 == 0 {
            files.write(path, &text);
        }
        earlier = later;
    }
    assert!(taken_over > 20, "{taken_over}");
}
