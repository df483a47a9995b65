//! The status of an address is what the server answers, whatever reports it: random sites whose templates answer, redirect and
//! have errors.

use bumpalo::Bump;
use hausblatt_core::analysis::expect::Record;
use hausblatt_core::build::{self, BuildPart, Options};
use hausblatt_core::files::memory::Memory;
use hausblatt_core::lookup::map::{MapEntry, map};
use hausblatt_core::model::request::Routed;
use hausblatt_core::render::page::{Audience, page};
use hausblatt_core::text::address::output_file;
use hausblatt_core::world::World;
use hausblatt_lang::render::Shows;
use proptest::prelude::*;

use crate::support::{asking, snapshot};

/// What a template may do, with the status that it then has.
const DOES: &[(&str, u16)] = &[
    ("<p>+{request.title}</p>", 200),
    ("+{answer 410 \"Gone\"}", 410),
    ("+{if content.title == \"a\"}+{answer 404}+{end}", 0),
    ("+{if content.slug == \"b\"}+{redirect 302 \"/c/\"}+{end}", 0),
    ("+{redirect 301 \"/c/\"}", 301),
    ("+{partial \"stops\"}", 451),
    ("+{content.title", 500),
    ("+{request.titel}", 500),
    ("---\nlayout: nowhere\n---\n", 500),
    ("+{use \"lost.css\"}<p>1</p>", 200),
];

const NAMES: &[&str] =
    &["page", "page/a", "page/b", "page/b/all_below", "entry", "entry/notes/d", "listing", "fallback"];

fn site(chosen: &[(usize, usize)], layout: usize, has_error_page: bool) -> Memory {
    let files = Memory::of([
        (
            "hausblatt.toml",
            "[site]\ntitle = \"Seeds\"\ntheme = \"t\"\n[front]\npage = \"a\"\n[collections.notes]\n\
             address = \"/notes/{slug}/\"\nlisting = \"/notes/\"\nper_page = 2\n[search]\naddress = \"/search/\"\n",
        ),
        ("themes/t/hausblatt-theme.toml", ""),
        ("themes/t/partials/stops.html", "+{answer 451}"),
    ]);
    for page in ["a", "b", "b/below", "c"] {
        files.write(format!("content/pages/{page}.md"), format!("---\ntitle: {page}\n---\n"));
    }
    for entry in ["d", "e", "f"] {
        files.write(format!("content/notes/{entry}.md"), "");
    }
    let layouts = ["+{slot}", "+{if request.kind == \"listing\"}+{answer 503}+{end}+{slot}", "+{slot"];
    files.write("themes/t/layouts/document.html", layouts[layout]);
    for (name, does) in chosen {
        files.write(format!("themes/t/templates/{}.html", NAMES[*name]), DOES[*does].0);
    }
    if has_error_page {
        files.write("themes/t/templates/error.html", "<p>+{error.status}</p>");
    }
    files
}

/// What the server answers.
fn served(world: &World, address: &str) -> (u16, Option<String>) {
    match world.route(address) {
        Routed::Redirect(to) => (301, Some(to)),
        Routed::Request(request) => {
            let page = page(world, request, Audience::Developer(Shows::default()), &Bump::new());
            (page.status, page.location)
        }
    }
}

#[test]
fn each_thing_that_a_template_does_has_its_status() {
    for (at, (does, status)) in DOES.iter().enumerate().filter(|(_, (_, status))| *status > 0) {
        let files = site(&[(NAMES.len() - 1, 0), (1, at)], 0, true);
        let world = World::load(snapshot(&files), asking()).unwrap();
        let entries = map(&world);
        let front = entries.iter().find(|entry| entry.address == "/").unwrap();
        assert_eq!(front.status, *status, "{does}");
        assert_eq!(front.location.as_deref(), (*status == 301).then_some("/c/"), "{does}");
        assert_eq!(front.rendered, matches!(status, 301 | 410 | 451), "{does}");
    }
}

#[test]
fn what_is_certain_is_not_rendered() {
    let files = site(&[(NAMES.len() - 1, 0)], 0, false);
    let world = World::load(snapshot(&files), asking()).unwrap();
    assert!(map(&world).iter().all(|entry: &MapEntry| !entry.rendered));
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(60))]

    #[test]
    fn map_record_and_build_say_what_is_served(
        chosen in proptest::collection::vec((0..NAMES.len(), 0..DOES.len()), 0..6),
        layout in 0..3usize,
        has_error_page: bool,
    ) {
        let files = site(&chosen, layout, has_error_page);
        let world = World::load(snapshot(&files), asking()).unwrap();
        let entries = map(&world);
        for entry in &entries {
            let served = served(&world, &entry.address);
            prop_assert_eq!((entry.status, entry.location.clone()), served, "{}", entry.address);
        }
        prop_assert!(Record::of(&world).compare(&world).is_empty());
        let options = Options { out: "/built".into(), map: false, marks: false, compressed: false, part: BuildPart::WHOLE, clears_images: true };
        let report = build::build(&world, &options, &|_, _| {}).unwrap();
        for entry in &entries {
            let is_built = files.bytes(format!("built/{}", output_file(&entry.address))).is_some();
            let has_file = entry.status < 400 || entry.kind == Some("error");
            prop_assert_eq!(is_built, has_file, "{} {}", entry.address, entry.status);
        }
        // What answers on purpose is not a failure; what has an error is.
        let of = |list: &[(String, u16)], address: &str| list.iter().any(|(other, _)| other == address);
        for entry in entries.iter().filter(|entry| entry.kind != Some("error")) {
            let fails = of(&report.failed, &entry.address);
            let answers = of(&report.answered, &entry.address);
            prop_assert_eq!(fails || answers, entry.status >= 400, "{} {:?}", entry.address, report);
            prop_assert!(!(fails && answers));
        }
        // The sitemap leads to pages only.
        let Routed::Request(request) = world.route("/sitemap.xml") else { panic!("the sitemap redirects") };
        let sitemap = page(&world, request, Audience::Visitor, &Bump::new()).text;
        for address in sitemap.split("<loc>").skip(1).filter_map(|rest| rest.split("</loc>").next()) {
            prop_assert_eq!(served(&world, address).0, 200, "{}", address);
        }
    }
}
