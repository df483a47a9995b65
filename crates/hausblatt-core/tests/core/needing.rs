//! What themes need from a site: found, written, held to, and enough.

use hausblatt_core::analysis::needs::Need;
use hausblatt_core::change::rename::rename;
use hausblatt_core::check::{Scope, run};
use hausblatt_core::files::memory::Memory;
use hausblatt_core::needs::{alone, lines_to_add, needed, written};
use hausblatt_core::world::World;

use crate::support::{asking, demo, snapshot};

fn world(files: &Memory) -> World {
    match World::load(snapshot(files), asking()) {
        Ok(world) => world,
        Err(why) => panic!("{why:?}"),
    }
}

/// A theme that reads what only its own site has: a collection and its field, a page, a key, a table, a menu, an address.
fn at_home() -> Memory {
    Memory::of([
        (
            "hausblatt.toml",
            "[site]\ntitle = \"Seeds\"\ntheme = \"t\"\nsince = 1987\n[front]\npage = \"home\"\n[pages.fields]\nmood = { type = \"text\" }\n[collections.beds]\naddress = \"/beds/{slug}/\"\nlisting = \"/beds/\"\n[collections.beds.fields]\nsoil = { type = \"text\", label = \"Soil\" }\n[collections.notes]\naddress = \"/notes/{slug}/\"\n[taxonomies.light]\nof = [\"beds\"]\naddress = \"/light/{term}/\"\n[menus]\nside = [ { to = \"page:home\" } ]\n[routes.tools]\naddress = \"/tools/\"\n",
        ),
        ("content/pages/home.md", "---\nmood: calm\n---\nWelcome.\n"),
        ("content/pages/visit.md", "Come in.\n"),
        ("content/beds/north.md", "---\nsoil: clay\nlight: [shade]\n---\nCool.\n"),
        ("content/notes/first.md", "A note.\n"),
        ("tables/tools.csv", "name,price\nSpade,30\n"),
        ("media/gate.svg", "<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"1\" height=\"1\"/>"),
        ("themes/t/hausblatt-theme.toml", "[theme]\nversion = \"1.0.0\"\n"),
        (
            "themes/t/layouts/document.html",
            "<!doctype html>\n<html lang=\"+{site.language}\">\n<head><meta charset=\"utf-8\"><title>+{request.title}</title><meta name=\"robots\" content=\"+{request.robots}\">+{used \"styles\"}</head>\n<body><nav>+{each item in menus.side}<a href=\"+{item.address}\">+{item.label}</a>+{end}</nav>\n<main>+{slot}</main><p>Since +{site.since}, <a href=\"+{url('page:visit')}\">visit</a>, <a href=\"/tools/\">tools</a></p></body>\n</html>\n",
        ),
        (
            "themes/t/templates/fallback.html",
            "<h1>+{request.title}</h1>\n+{if content}+{content.body}+{end}\n+{each bed in beds}\n<p>+{bed.title}: +{bed.soil}, +{bed.light.first.label}</p>\n+{end}\n+{each tool in tables.tools}\n<p>+{tool.name}</p>\n+{end}\n+{each note in collections.notes}\n<p>+{note.title}</p>\n+{end}\n<img src=\"/media/gate.svg\" alt=\"A gate\" width=\"1\" height=\"1\">\n",
        ),
        ("themes/t/templates/error.html", "<h1>+{request.title}</h1>\n<p>Gone.</p>\n"),
    ])
}

/// What is found in the files of themes.
fn wrong(world: &World) -> Vec<String> {
    let found = run(world, &Scope::Whole, &|_, _| {});
    let of_themes = found
        .iter()
        .filter(|finding| finding.diagnostic.place.as_ref().is_none_or(|place| place.path.starts_with("themes/")));
    of_themes.map(|finding| format!("{}: {}", finding.diagnostic.code, finding.diagnostic.message)).collect()
}

/// The same site with `[needs]` in the theme's manifest.
fn declared() -> Memory {
    let files = at_home();
    let world = world(&files);
    let write = written(&world, &needed(&world).unwrap()).unwrap().unwrap();
    files.write(&write.path, write.bytes.unwrap());
    files
}

#[test]
fn all_that_is_read_is_found_with_what_comes_of_its_absence() {
    let world = world(&at_home());
    assert_eq!(wrong(&world), [""; 0]);
    let all = needed(&world).unwrap();
    let told: Vec<(String, bool)> = all.iter().map(|one| (one.need.path(), one.fails.is_some())).collect();
    let expected = [
        ("collections.beds", true),
        // Asked for through collections, it may be missing.
        ("collections.notes", false),
        ("collections.beds.fields.soil", true),
        ("taxonomies.light", true),
        ("tables.tools", true),
        ("tables.tools.name", true),
        ("menus.side", true),
        ("routes.tools", true),
        ("site.since", true),
        ("content.pages/visit", true),
        ("media.gate.svg", true),
    ];
    assert_eq!(told, expected.map(|(path, fails)| (path.to_owned(), fails)));
    let soil = all.iter().find(|one| one.need == Need::Field("beds".to_owned(), "soil".to_owned())).unwrap();
    assert_eq!((soil.of, soil.places.len()), (Some("text"), 1));
}

#[test]
fn a_manifest_that_says_it_is_held_to_it() {
    let files = declared();
    let now = world(&files);
    assert_eq!(wrong(&now), [""; 0]);
    assert!(written(&now, &needed(&now).unwrap()).unwrap().is_none(), "it is written twice");
    let alone = alone(&now).unwrap();
    let all: Vec<_> = alone.in_empty.iter().chain(&alone.in_made_up).map(|it| &it.diagnostic).collect();
    assert!(all.is_empty(), "{all:#?}");

    let manifest = "themes/t/hausblatt-theme.toml";
    let text = String::from_utf8(files.bytes(manifest).unwrap().to_vec()).unwrap();
    files.write(manifest, text.replace("site = [\"since\"]", "site = [\"title_of_old\"]\nmenu = [\"main\"]"));
    let found = wrong(&world(&files));
    assert_eq!(
        found,
        [
            "missing-needs: t needs site.title_of_old, which this site lacks",
            "unused-need: [needs] has no key \"menu\"",
            "undeclared-need: no manifest says that site.since is needed",
        ]
    );
}

#[test]
fn needs_of_another_form_are_told() {
    let files = declared();
    let manifest = "themes/t/hausblatt-theme.toml";
    let text = String::from_utf8(files.bytes(manifest).unwrap().to_vec()).unwrap();
    files.write(manifest, text.replace("menus = [\"side\"]", "menus = \"side\"\npages = [\"mood\"]"));
    let found = wrong(&world(&files));
    assert_eq!(
        found,
        [
            "unused-need: \"menus\" in [needs] must be a list of texts, so nothing is known of it",
            "unused-need: \"pages\" in [needs] must be a group of keys, so nothing is known of it",
            "undeclared-need: no manifest says that the menu side is needed",
        ]
    );
}

#[test]
fn settings_without_default_are_needed() {
    let files = at_home();
    files.write(
        "themes/t/hausblatt-theme.toml",
        "[settings]\nhue = { type = \"color\" }\nname = { type = \"text\", required = true }\nsize = { type = \"number\", default = 1 }\n",
    );
    let all = needed(&world(&files)).unwrap();
    let of = all.iter().filter(|one| matches!(one.need, Need::Setting(_)));
    let told: Vec<_> = of.map(|one| (one.need.path(), one.fails.is_some())).collect();
    assert_eq!(told, [("settings.hue".to_owned(), false), ("settings.name".to_owned(), true)]);
}

#[test]
fn what_is_said_is_enough_on_another_site() {
    let files = declared();
    let other = Memory::of([
        ("hausblatt.toml", "[site]\ntitle = \"Elsewhere\"\ntheme = \"t\"\n"),
        ("content/pages/start.md", "Hello.\n"),
    ]);
    for (path, bytes) in files.all() {
        if path.starts_with("/themes") {
            other.write(&path, bytes);
        }
    }
    let lacking = world(&other);
    let found = wrong(&lacking);
    assert_eq!(found.len(), 1, "{found:#?}");
    assert!(found[0].starts_with("missing-needs: t needs the collection beds, the taxonomy light"), "{found:#?}");
    // Written anew here, what is missing would be lost.
    let refused = written(&lacking, &needed(&lacking).unwrap()).unwrap_err();
    assert!(refused.message.starts_with("this site lacks the collection beds"), "{}", refused.message);
    let lines = lines_to_add(&lacking);
    let words: Vec<&str> = lines.lines().filter_map(|line| line.strip_prefix("# ")).collect();
    assert_eq!(
        words,
        [
            "tables/tools.csv, with the columns name",
            "under [menus]: side = [ { to = \"/\" } ]",
            "under [site]: since = \"…\"",
            "content/pages/visit.md",
            "media/gate.svg",
        ]
    );
    let config = format!(
        "[site]\ntitle = \"Elsewhere\"\ntheme = \"t\"\nsince = \"2001\"\n{lines}[menus]\nside = [ {{ to = \"/tools/\" }} ]\n"
    );
    other.write("hausblatt.toml", config);
    other.write("tables/tools.csv", "name\nRake\n");
    other.write("content/pages/visit.md", "Come.\n");
    other.write("media/gate.svg", files.bytes("media/gate.svg").unwrap());
    let found = wrong(&world(&other));
    let rest: Vec<_> = found.iter().filter(|line| !line.starts_with("no-front-page")).collect();
    assert!(rest.is_empty(), "{rest:#?}");
    assert_eq!(lines_to_add(&world(&other)), "");
}

#[test]
fn what_is_not_read_for_an_error_is_not_said_to_be_unused() {
    let files = declared();
    files.write("themes/t/templates/fallback.html", "+{if content}\n");
    let found = wrong(&world(&files));
    assert!(!found.iter().any(|line| line.starts_with("unused-need")), "{found:#?}");
}

/// A collection that only the name of a template names, and columns that are read through a route's row.
#[test]
fn what_only_the_name_of_a_template_names_is_needed_with_its_parts() {
    let files = Memory::of([
        (
            "hausblatt.toml",
            "[site]\ntitle = \"Seeds\"\ntheme = \"t\"\n[front]\npage = \"home\"\n[collections.notes]\naddress = \"/notes/{slug}/\"\n[collections.notes.fields]\nsoil = { type = \"text\" }\n[routes.tool]\naddress = \"/tools/{slug}/\"\neach = \"tools\"\n",
        ),
        ("content/pages/home.md", "Welcome.\n"),
        ("content/notes/first.md", "---\nsoil: clay\n---\nA note.\n"),
        ("tables/tools.csv", "slug,title,price\nspade,Spade,30\n"),
        ("themes/t/hausblatt-theme.toml", "[theme]\nversion = \"1.0.0\"\n"),
        (
            "themes/t/layouts/document.html",
            "<!doctype html>\n<html lang=\"en\">\n<head><meta charset=\"utf-8\"><title>+{request.title}</title><meta name=\"robots\" content=\"+{request.robots}\">+{used \"styles\"}</head>\n<body><main>+{slot}</main></body>\n</html>\n",
        ),
        ("themes/t/templates/fallback.html", "<h1>+{request.title}</h1><p>1</p>\n"),
        (
            "themes/t/templates/entry/notes.html",
            "<h1>+{content.title}</h1>+{if content.soil}<p>+{content.soil}</p>+{end}\n",
        ),
        ("themes/t/templates/route/tool.html", "<h1>+{request.title}</h1><p>+{route.row.price}</p>\n"),
        ("themes/t/templates/error.html", "<h1>+{request.title}</h1>\n<p>Gone.</p>\n"),
    ]);
    let home = world(&files);
    assert_eq!(wrong(&home), [""; 0]);
    let write = written(&home, &needed(&home).unwrap()).unwrap().unwrap();
    files.write(&write.path, write.bytes.unwrap());
    let home = world(&files);
    assert_eq!(wrong(&home), [""; 0]);
    let found = alone(&home).unwrap();
    assert!(found.in_empty.is_empty() && found.in_made_up.is_empty(), "{:?} {:?}", found.in_empty, found.in_made_up);
}

/// What a theme does without explains what is not there, and nothing else.
#[test]
fn what_a_theme_does_without_hides_no_slip() {
    let files = declared();
    let text = |path: &str| String::from_utf8(files.bytes(path).unwrap().to_vec()).unwrap();
    let manifest = text("themes/t/hausblatt-theme.toml");
    assert!(manifest.contains("optional = [\"collections.notes\"]"), "{manifest}");
    let config = text("hausblatt.toml");
    files.write("hausblatt.toml", config.replace("[collections.notes]\naddress = \"/notes/{slug}/\"\n", ""));
    files.remove("content/notes/first.md");
    files.write("themes/t/templates/entry/notes.html", "<p>+{content.title}</p>\n");
    assert_eq!(wrong(&world(&files)), [""; 0]);
    files.write("themes/t/partials/gate.html", "<p>Closed</p>\n");
    let found = wrong(&world(&files)).join("\n");
    assert!(found.starts_with("dead-file: "), "{found}");
    files.remove("themes/t/partials/gate.html");
    files.write("themes/t/templates/page.html", "<p>+{noted}</p>\n");
    assert_eq!(wrong(&world(&files)), ["unknown-name: unknown name \"noted\""]);
}

#[test]
fn renaming_renames_what_manifests_say() {
    let files = declared();
    let manifest = "themes/t/hausblatt-theme.toml";
    for (typed, new, old_line, new_line) in [
        ("collection:beds", "plots", "[needs.collections.beds]", "[needs.collections.plots]"),
        ("field:beds/soil", "ground", "soil = {", "ground = {"),
        ("menu:side", "top", "menus = [\"side\"]", "menus = [\"top\"]"),
        ("page:visit", "come", "\"pages/visit\"", "\"pages/come\""),
        ("collection:notes", "words", "\"collections.notes\"", "\"collections.words\""),
        ("table:tools", "things", "[needs.tables.tools]", "[needs.tables.things]"),
        ("media:gate.svg", "door.svg", "\"gate.svg\"", "\"door.svg\""),
    ] {
        let world = world(&files);
        let renaming = match rename(&world, typed, new) {
            Ok(renaming) => renaming,
            Err(problems) => panic!("{typed}: {problems:?}"),
        };
        let write = renaming.writes.iter().find(|write| write.path == manifest);
        let text = String::from_utf8(write.unwrap_or_else(|| panic!("{typed}")).bytes.clone().unwrap()).unwrap();
        assert!(text.contains(new_line) && !text.contains(old_line), "{typed}: {text}");
    }
}

#[test]
fn each_theme_of_the_demo_is_right_alone() {
    for theme in ["harbour", "hedgerow", "loam"] {
        let mut asking = asking();
        asking.theme = Some(theme.to_owned());
        let world = World::load(snapshot(&demo()), asking).unwrap();
        let alone = alone(&world).unwrap();
        let all: Vec<_> = alone.in_empty.iter().chain(&alone.in_made_up).map(|it| &it.diagnostic).collect();
        assert!(all.is_empty(), "{theme}: {all:#?}");
        assert!(alone.made_up.requests().len() > 6, "{theme}");
    }
}
