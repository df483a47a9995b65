//! What is named at a place, where it is defined and where it is used.

use hausblatt_core::change::rename::{Named, definitions, named_at, next_of, uses};
use hausblatt_core::files::memory::Memory;
use hausblatt_core::world::World;
use std::collections::BTreeSet;

use crate::support::{asking, demo, snapshot};

fn world(files: &Memory) -> World {
    World::load(snapshot(files), asking()).unwrap()
}

/// Every byte of every file of the demo: nothing panics, and each definition is where its name is written.
#[test]
fn every_place_of_the_demo_can_be_asked_about() {
    let world = world(&demo());
    let mut typed: BTreeSet<String> = BTreeSet::new();
    for node in world.snapshot.files() {
        let Ok(text) = node.whole_text() else { continue };
        for at in (0..=text.len()).filter(|at| text.is_char_boundary(*at)) {
            let Some(found) = named_at(&world, &node.path, at) else { continue };
            let span = found.span.range();
            assert!(span.start <= at && at <= span.end && text.get(span).is_some(), "{} {at} {found:?}", node.path);
            if let Named::Known(name) = found.named {
                typed.insert(name);
            }
        }
    }
    let sorts: BTreeSet<&str> = typed.iter().filter_map(|typed| typed.split(':').next()).collect();
    expect_test::expect!["asset collection component field layout media menu page param partial route setting slot table taxonomy template term theme tray value view"].assert_eq(&sorts.into_iter().collect::<Vec<_>>().join(" "));
    for name in &typed {
        let places = definitions(&world, name);
        assert!(!places.is_empty(), "{name} is defined nowhere");
        let last = name.rsplit([':', '/']).next().unwrap();
        for place in places {
            let text =
                world.snapshot.file(&place.path).unwrap_or_else(|| panic!("{name}: {}", place.path)).whole_text();
            let written = text.as_deref().map_or("", |text| place.span.of(text));
            assert!(written.is_empty() || written.trim_matches('"') == last, "{name}: {written} in {}", place.path);
        }
        // What is used is used somewhere: at least where it was found.
        let used = uses(&world, name);
        let count = used.certain.len() + used.uncertain.len();
        assert!(count > 0, "{name} is used nowhere");
    }
}

#[test]
fn a_name_is_asked_about_wherever_it_is_written() {
    let files = demo();
    let world = world(&files);
    let ask = |path: &str, needle: &str, behind: usize| {
        let text = world.snapshot.file(path).unwrap().whole_text().unwrap();
        let at = text.find(needle).unwrap_or_else(|| panic!("{path}: {needle}")) + behind;
        let Some(found) = named_at(&world, path, at) else { return format!("{path} {needle}: nothing\n") };
        let places = match &found.named {
            Named::Known(typed) => definitions(&world, typed),
            Named::Next => next_of(&world, path).into_iter().collect(),
            _ => Vec::new(),
        };
        let places: Vec<String> = places.iter().map(|place| place.path.to_string()).collect();
        format!("{path} {needle}: {:?} {:?} {}\n", found.span.of(&text), found.named, places.join(" "))
    };
    let said: String = [
        ask("themes/loam/templates/page.html", "crumbs", 2),
        ask("themes/loam/templates/page.html", "content.title", 2),
        ask("themes/loam/templates/page.html", "content.title", 9),
        ask("themes/loam/templates/page.html", "content.tagline", 9),
        ask("themes/loam/templates/page.html", "\"aside\"", 3),
        ask("themes/loam/templates/page.html", "family.address", 3),
        ask("themes/harbour/layouts/document.html", "inherited", 3),
        ask("themes/harbour/layouts/document.html", "harbour.css", 3),
        ask("themes/harbour/templates/front.html", "page:borrow", 7),
        ask("themes/loam/partials/card.html", "entry", 1),
        ask("themes/harbour/templates/front.html", "given entry", 7),
        ask("themes/loam/partials/footer.html", "settings.motto", 10),
        ask("themes/hedgerow/prepare/all.let", "let ", 4),
        ask("themes/hedgerow/components/notice/component.toml", "name    = ", 12),
        ask("themes/hedgerow/hausblatt-theme.toml", "parent", 12),
        ask("hausblatt.toml", "[collections.journal]", 14),
        ask("hausblatt.toml", "terms.legumes", 8),
        ask("hausblatt.toml", "each    = \"months", 12),
        ask("content/varieties/scarlet-runner.md", "legumes", 2),
        ask("content/varieties/scarlet-runner.md", "days", 2),
        ask("content/varieties/scarlet-runner.md", "/media/", 9),
        ask("content/pages/visit.md", "component: ", 12),
        ask("content/pages/welcome.md", "page:visit", 4),
        ask("content/pages/welcome.md", "the green gate", 4),
    ]
    .concat();
    expect_test::expect![[r#"
        themes/loam/templates/page.html crumbs: "crumbs" Known("partial:crumbs") themes/loam/partials/crumbs.html
        themes/loam/templates/page.html content.title: "content" Global("content") 
        themes/loam/templates/page.html content.title: "title" Member("title", "a page") 
        themes/loam/templates/page.html content.tagline: "tagline" Known("field:pages/tagline") hausblatt.toml
        themes/loam/templates/page.html "aside": "aside" Known("slot:layouts/document.html/aside") themes/loam/layouts/document.html
        themes/loam/templates/page.html family.address: "family" Own("family", 0) 
        themes/harbour/layouts/document.html inherited: "+{inherited with}" Next themes/hedgerow/layouts/document.html
        themes/harbour/layouts/document.html harbour.css: "harbour.css" Known("asset:harbour.css") themes/harbour/assets/harbour.css
        themes/harbour/templates/front.html page:borrow: "borrow" Known("page:borrow") content/pages/borrow.md
        themes/loam/partials/card.html entry: "entry" Known("param:partials/card.html/entry") themes/loam/partials/card.html
        themes/harbour/templates/front.html given entry: "entry" Known("param:partials/card.html/entry") themes/loam/partials/card.html
        themes/loam/partials/footer.html settings.motto: "motto" Known("setting:motto") themes/loam/hausblatt-theme.toml hausblatt.toml
        themes/hedgerow/prepare/all.let let : "months" Known("value:months") themes/hedgerow/prepare/all.let
        themes/hedgerow/components/notice/component.toml name    = : "text" Known("param:components/notice/component.html/text") themes/hedgerow/components/notice/component.toml
        themes/hedgerow/hausblatt-theme.toml parent: "loam" Known("theme:loam") themes/loam/hausblatt-theme.toml
        hausblatt.toml [collections.journal]: "journal" Known("collection:journal") hausblatt.toml
        hausblatt.toml terms.legumes: "legumes" Known("term:family/legumes") hausblatt.toml
        hausblatt.toml each    = "months: "months" Known("table:months") tables/months.csv
        content/varieties/scarlet-runner.md legumes: "legumes" Known("term:family/legumes") hausblatt.toml
        content/varieties/scarlet-runner.md days: "days" Known("field:varieties/days") hausblatt.toml
        content/varieties/scarlet-runner.md /media/: "/media/varieties/scarlet-runner.svg" Known("media:varieties/scarlet-runner.svg") media/varieties/scarlet-runner.svg
        content/pages/visit.md component: : "notice" Known("component:notice") themes/hedgerow/components/notice/component.html themes/hedgerow/components/notice/component.toml themes/hedgerow/components/notice/style.css
        content/pages/welcome.md page:visit: "page:visit/getting-here" Known("page:visit/getting-here") content/pages/visit/getting-here.md
        content/pages/welcome.md the green gate: nothing
    "#]].assert_eq(&said);
}
