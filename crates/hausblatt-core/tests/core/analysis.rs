//! What follows from a site, in tables: requests and their ladders, what each file is to it, settings, what differs.

use std::fmt::Write;

use expect_test::expect;
use hausblatt_core::analysis::compare::{Html, Side, compare};
use hausblatt_core::analysis::expect::{ExpectedAnswer, Record};
use hausblatt_core::change::drift::copies;
use hausblatt_core::change::suppose::{Supposition, suppose};
use hausblatt_core::files::Snapshot;
use hausblatt_core::lookup::resolution::ResolvedRung;
use hausblatt_core::model::request::Routed;
use hausblatt_core::themes::settings::Origin;
use hausblatt_core::world::World;

use crate::support::asking;

/// A child theme over its parent: a page with a template of its own, one that chooses, a listing in two pages, a copy.
const FILES: &[(&str, &str)] = &[
    (
        "hausblatt.toml",
        "[site]\ntitle = \"Seeds\"\ntheme = \"near\"\n[front]\npage = \"home\"\n[settings]\ntone = \"red\"\n\
         [collections.notes]\naddress = \"/notes/{slug}/\"\nlisting = \"/notes/\"\nper_page = 1\nviews = [\"print\"]\n\
         [taxonomies.topic]\nof = [\"notes\"]\naddress = \"/topics/{term}/\"\n[search]\naddress = \"/search/\"\n",
    ),
    ("content/pages/home.md", "---\nformerly: /start/\n---\n"),
    ("content/pages/visit.md", ""),
    ("content/pages/visit/gate.md", "---\ntemplate: wide\n---\n"),
    ("content/notes/a.md", "---\ntopic: [soil]\n---\n"),
    ("content/notes/b.md", ""),
    (
        "themes/near/hausblatt-theme.toml",
        "[theme]\nparent = \"far\"\nhide = [\"partials/old.html\"]\n[settings]\ngap = { default = 4 }\n",
    ),
    ("themes/near/templates/page/visit.html", "+{inherited}"),
    ("themes/near/templates/entry.html", "+{partial \"card\"}"),
    ("themes/near/templates/page/vist.html", "1"),
    ("themes/near/partials/foot.html", "1\n"),
    ("themes/near/.originals/partials/foot.html", "theme = \"far\"\npath = \"partials/foot.html\"\n---\n1\n"),
    (
        "themes/far/hausblatt-theme.toml",
        "[settings]\ntone = { type = \"text\" }\ngap = { type = \"number\", default = 2 }\n\
         wide = { type = \"yes-no\", default = true }\n",
    ),
    ("themes/far/layouts/document.html", "+{slot}+{partial \"foot\"}+{used \"styles\"}"),
    ("themes/far/templates/page.html", "+{use \"main.css\"}"),
    ("themes/far/templates/listing/notes.html", "+{partial \"card\"}"),
    ("themes/far/templates/offered/wide.html", "---\nlayout: none\nfor: page\n---\n"),
    ("themes/far/templates/fallback.html", ""),
    ("themes/far/partials/card.html", ""),
    ("themes/far/partials/foot.html", "2\n"),
    ("themes/far/partials/old.html", ""),
    ("themes/far/assets/main.css", ""),
];

/// The site with some files others, or gone.
fn world(changes: &[(&str, Option<&str>)]) -> World {
    let mut snapshot = Snapshot::in_memory(FILES.iter().copied());
    for (path, text) in changes {
        snapshot = snapshot.with(path, *text);
    }
    World::load(snapshot, asking()).unwrap()
}

#[test]
fn each_address_has_its_ladder() {
    let world = world(&[]);
    assert!(!world.problems.iter().any(|problem| problem.is_error()), "{:?}", world.problems);
    let mut out = String::new();
    for address in [
        "/",
        "/start/",
        "/visit",
        "/visit/gate/",
        "/notes/a/print/",
        "/notes/page/2/",
        "/topics/soil/",
        "/search/",
        "/x/",
    ] {
        let Routed::Request(request) = world.route(address) else {
            let Routed::Redirect(to) = world.route(address) else { unreachable!() };
            let _ = writeln!(out, "{address} → {to}");
            continue;
        };
        let resolution = world.resolve(request);
        let rung = |rung: &ResolvedRung| {
            let states: Vec<&str> = rung.files.iter().map(|(_, state)| state.word()).collect();
            let states = if states.is_empty() { String::new() } else { format!("={}", states.join("+")) };
            format!("{}:{}{states}", rung.rung.name.trim_end_matches(".html"), rung.rung.reason.word())
        };
        let rungs: Vec<String> = resolution.rungs.iter().map(rung).collect();
        let kind = resolution.request.kind.word().unwrap_or("");
        let _ = writeln!(out, "{address} {} {kind}: {}", resolution.request.status, rungs.join(" "));
    }
    expect![[r#"
        / 200 front: front:front page/home:id page:kind=renders fallback:fallback=passed-over
        /start/ → /
        /visit → /visit/
        /visit/gate/ 200 page: offered/wide:chosen=renders page/visit/gate:id page/visit/all_below:ancestor page:kind=passed-over fallback:fallback=passed-over
        /notes/a/print/ 200 entry: entry/notes/a.print:id entry/notes.print:collection entry.print:kind fallback.print:fallback entry/notes/a:id entry/notes:collection entry:kind=renders fallback:fallback=passed-over
        /notes/page/2/ 200 listing: listing/notes:collection=renders listing:kind fallback:fallback=passed-over
        /topics/soil/ 200 listing: listing/topic/soil:term listing/topic:taxonomy listing:kind fallback:fallback=renders
        /search/ 200 search: search:kind listing:kind fallback:fallback=renders
        /x/ 404 error: error/404:status error/4xx:status-class error:kind fallback:fallback=renders
    "#]].assert_eq(&out);
}

#[test]
fn each_file_has_its_state_and_its_reach() {
    let world = world(&[]);
    let mut out = String::new();
    for ((id, file), state) in world.lineage.ids().zip(world.file_uses()) {
        let Some(state) = state else { continue };
        let reach: Vec<String> =
            world.reach(id).map(|(request, part)| format!("{} {}", part.word(), request.address)).collect();
        let why = if reach.is_empty() { state.reason().unwrap_or("").to_owned() } else { reach.join(", ") };
        let _ = writeln!(out, "{} {}: {why}", file.node.path.trim_start_matches("themes/"), state.word());
    }
    expect![[r#"
        near/partials/foot.html used: partial /, partial /notes/, partial /notes/a/, partial /notes/a/print/, partial /notes/b/, partial /notes/b/print/, partial /notes/page/2/, partial /search/, partial /topics/soil/, partial /visit/, partial /404.html
        near/templates/entry.html used: template /notes/a/, template /notes/a/print/, template /notes/b/, template /notes/b/print/
        near/templates/page/visit.html used: template /visit/
        near/templates/page/vist.html ready: a page with the id vist; did you mean page/visit.html?
        far/assets/main.css used: asset /, asset /visit/
        far/layouts/document.html used: layout /, layout /notes/, layout /notes/a/, layout /notes/a/print/, layout /notes/b/, layout /notes/b/print/, layout /notes/page/2/, layout /search/, layout /topics/soil/, layout /visit/, layout /404.html
        far/partials/card.html used: partial /notes/, partial /notes/a/, partial /notes/a/print/, partial /notes/b/, partial /notes/b/print/, partial /notes/page/2/
        far/partials/foot.html ready: near's file of the same name to be removed, which covers it
        far/partials/old.html dead: near hides it
        far/templates/fallback.html used: template /search/, template /topics/soil/, template /404.html
        far/templates/listing/notes.html used: template /notes/, template /notes/page/2/
        far/templates/offered/wide.html used: template /visit/gate/
        far/templates/page.html used: template /, template /visit/
    "#]].assert_eq(&out);
}

#[test]
fn what_a_style_sheet_loads_is_used_as_it_is() {
    let svg = "<svg xmlns=\"http://www.w3.org/2000/svg\"/>";
    let more = "@import \"../main.css\"; .a { background: url(/assets/bed%20one.svg?1#x) }";
    let world = world(&[
        ("themes/far/assets/main.css", Some("@import \"parts/more.css\";")),
        ("themes/far/assets/parts/more.css", Some(more)),
        ("themes/near/assets/bed one.svg", Some(svg)),
        ("themes/far/assets/bed one.svg", Some(svg)),
        ("themes/far/assets/lonely.css", Some("@import \"lonelier.css\";")),
        ("themes/far/assets/lonelier.css", Some("a { b: c }")),
    ]);
    let mut out = String::new();
    for ((id, file), state) in world.lineage.ids().zip(world.file_uses()) {
        if let Some(state) = state.as_ref().filter(|_| file.name.starts_with("assets/")) {
            let _ = writeln!(out, "{} {} by {}", file.node.path, state.word(), world.reach(id).count());
        }
    }
    expect![[r#"
        themes/near/assets/bed one.svg used by 2
        themes/far/assets/bed one.svg ready by 0
        themes/far/assets/lonelier.css ready by 0
        themes/far/assets/lonely.css ready by 0
        themes/far/assets/main.css used by 2
        themes/far/assets/parts/more.css used by 2
    "#]]
    .assert_eq(&out);
}

#[test]
fn settings_come_from_the_site_or_from_the_nearest_theme() {
    let all: Vec<String> = world(&[])
        .settings
        .iter()
        .map(|setting| {
            let from = match setting.from {
                Origin::Site => "the site".to_owned(),
                Origin::Theme(at) => world(&[]).lineage.themes[at].name.clone(),
            };
            format!("{} = {:?} of {from}\n", setting.field.name, setting.value)
        })
        .collect();
    expect![[r#"
        tone = Text("red") of the site
        wide = Bool(true) of far
        gap = Int(4) of near
    "#]]
    .assert_eq(&all.concat());
}

#[test]
fn what_a_supposition_changes_is_told_by_address() {
    let before = world(&[]);
    let mut out = String::new();
    for supposition in [
        Supposition { without: vec!["page".to_owned()], ..Supposition::default() },
        Supposition { to_theme: Some("far".to_owned()), ..Supposition::default() },
        Supposition { add: vec![("entry/notes/a".to_owned(), None)], ..Supposition::default() },
        Supposition { choose: vec![("wide".to_owned(), "/visit/".to_owned())], ..Supposition::default() },
    ] {
        let difference = compare(&before, &suppose(&before, &supposition).unwrap(), Html::No);
        for change in &difference.changed {
            let side = |side: &Option<Side>| match side {
                Some(side) => format!("{} {}", side.status, side.template.as_deref().unwrap_or("nothing")),
                None => "none".to_owned(),
            };
            let _ = writeln!(out, "{}: {} → {}", change.address, side(&change.from), side(&change.to));
        }
        let problems: Vec<&str> = difference.problems.iter().map(|problem| problem.diagnostic.code).collect();
        let _ = writeln!(out, "{} as they were {problems:?}\n", difference.unchanged);
    }
    expect![[r#"
        /: 200 page.html → 200 fallback.html
        15 as they were []

        /notes/a/: 200 entry.html → 200 fallback.html
        /notes/a/print/: 200 entry.html → 200 fallback.html
        /notes/b/: 200 entry.html → 200 fallback.html
        /notes/b/print/: 200 entry.html → 200 fallback.html
        /visit/: 200 page/visit.html → 200 page.html
        11 as they were []

        /notes/a/: 200 entry.html → 200 entry/notes/a.html
        /notes/a/print/: 200 entry.html → 200 entry/notes/a.html
        14 as they were []

        /visit/: 200 page/visit.html → 200 offered/wide.html
        15 as they were []

    "#]]
    .assert_eq(&out);
}

#[test]
fn a_record_tells_what_is_new_gone_and_moved() {
    let record = Record::of(&world(&[]));
    assert_eq!(Record::read("expected.toml", &record.to_toml()).unwrap(), record);
    assert!(record.compare(&world(&[])).is_empty());
    let after = world(&[
        ("content/pages/new.md", Some("")),
        ("content/notes/b.md", None),
        ("themes/near/templates/page/visit.html", None),
    ]);
    let told = record.compare(&after);
    let name = |answer: &ExpectedAnswer| answer.template.clone().unwrap_or_default();
    let new: Vec<&str> = told.new.iter().map(|(address, _)| address.as_str()).collect();
    let gone: Vec<&str> = told.gone.iter().map(|(address, _)| address.as_str()).collect();
    let moved: Vec<String> =
        told.moved.iter().map(|(address, from, to)| format!("{address} {} → {}", name(from), name(to))).collect();
    expect![[r#"
        new ["/new/"]
        gone ["/notes/page/#/"]
        moved ["/visit/ page/visit.html → page.html"]
        same 12
    "#]]
    .assert_eq(&format!("new {new:?}\ngone {gone:?}\nmoved {moved:?}\nsame {}\n", told.same));
}

#[test]
fn each_copy_knows_what_has_become_of_its_original() {
    let foot = "themes/far/partials/foot.html";
    let copy = "themes/near/partials/foot.html";
    let mut out = String::new();
    for (what, changes) in [
        ("changed", [].as_slice()),
        ("as it was", &[(foot, Some("1\n"))]),
        ("renamed", &[(foot, None), ("themes/far/partials/feet.html", Some("1\n"))]),
        ("gone", &[(foot, None)]),
        ("copy gone", &[(copy, None)]),
        ("extended", &[(copy, Some("+{inherited}"))]),
        ("no record", &[("themes/near/.originals/partials/foot.html", None)]),
        ("a conflict", &[(copy, Some("<<<<<<< a\n1\n=======\n2\n>>>>>>> b\n"))]),
        ("a bad record", &[("themes/near/.originals/partials/foot.html", Some("x"))]),
    ] {
        let (found, problems) = copies(&world(changes));
        let found: Vec<String> = found
            .iter()
            .map(|copy| format!("{} +{} -{} same={}", copy.state.word(), copy.added, copy.removed, copy.same))
            .collect();
        let problems: Vec<&str> = problems.iter().map(|problem| problem.code).collect();
        let _ = writeln!(out, "{what}: {} {problems:?}", found.join(", "));
    }
    expect![[r#"
        changed: drifted +1 -1 same=false []
        as it was: current +0 -0 same=true []
        renamed: moved +0 -0 same=true []
        gone: gone +0 -0 same=false []
        copy gone: copy gone +1 -1 same=false []
        extended: extends +1 -1 same=false []
        no record: no original recorded +0 -0 same=false []
        a conflict: drifted +1 -1 same=false []
        a bad record:  ["bad-record"]
    "#]]
    .assert_eq(&out);
}
