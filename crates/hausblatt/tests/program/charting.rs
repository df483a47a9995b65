//! `chart`: the ladders as SVG.

use crate::support::Site;
use quick_xml::Reader;
use quick_xml::events::Event;

/// The texts of an SVG, which must be well-formed.
fn texts(svg: &str) -> Vec<String> {
    let mut reader = Reader::from_str(svg);
    let (mut texts, mut open) = (Vec::new(), Vec::new());
    loop {
        match reader.read_event().unwrap_or_else(|error| panic!("{error}\n{svg}")) {
            Event::Eof => return texts,
            Event::Start(start) => open.push(String::from_utf8(start.name().as_ref().to_vec()).unwrap()),
            Event::End(_) => drop(open.pop()),
            Event::Text(text) if open.last().is_some_and(|name| name == "text" || name == "title") => {
                texts.push(String::from_utf8(text.to_vec()).unwrap());
            }
            _ => {}
        }
    }
}

#[test]
fn all_ladders_are_drawn() {
    let site = Site::demo();
    let svg = site.run(&["chart"]).out;
    let texts = texts(&svg);
    for word in
        ["front", "page", "entry", "listing", "period", "search", "route", "error", "harbour", "hedgerow", "loam"]
    {
        assert!(texts.iter().any(|text| text == word), "{word}: {texts:?}");
    }
    let renders = "themes/hedgerow/templates/entry/varieties.html of hedgerow: renders 24 addresses";
    let behind = "themes/loam/templates/entry/varieties.html of loam: renders nothing now";
    let empty = "no file here, for example entry/journal/";
    for title in [renders, behind, empty] {
        assert!(texts.iter().any(|text| text.starts_with(title)), "{title}: {texts:#?}");
    }
    let counted: usize = texts.iter().filter(|text| *text != "404").filter_map(|text| text.parse::<usize>().ok()).sum();
    let map = site.json(&["map"]);
    let of_files = map.as_array().unwrap().iter().filter(|row| !row["template"].is_null()).count();
    assert_eq!(counted, of_files);
    assert_eq!(site.run(&["chart", "--out", "c.svg", "-q"]).code, 0);
    assert_eq!(site.read("c.svg"), svg);
    assert!(svg.contains("role=\"img\"") && svg.contains("prefers-color-scheme: dark"));
}

#[test]
fn the_way_of_one_address_is_told() {
    let site = Site::demo();
    let svg = site.run(&["chart", "/journal/first-frost/"]).out;
    let texts = texts(&svg);
    let first = "themes/harbour/templates/entry.html renders it. Around it is themes/harbour/layouts/document.html.";
    for text in
        [first, "If that file were gone, themes/loam/templates/fallback.html would.", "renders it", "would be next"]
    {
        assert!(texts.iter().any(|other| other == text), "{text}: {texts:#?}");
    }
    // What it says holds: the file that would be next is the next one.
    site.remove("themes/harbour/templates/entry.html");
    assert_eq!(site.template("/journal/first-frost/"), "fallback.html of loam");
    for (typed, code) in
        [("/journal/2026-03-14-first-frost/", 0), ("/nowhere/", 0), ("/welcome/", 2), ("content/pages/vist.md", 1)]
    {
        let said = site.run(&["chart", typed]);
        assert_eq!(said.code, code, "{}", said.whole());
    }
}

#[test]
fn odd_names_and_many_files_fit() {
    let site = Site::small();
    for at in 0..60 {
        let name = format!("a-very-long-name-that-nobody-would-like-to-read-{at}");
        site.write(&format!("content/pages/{name}.md"), "");
        site.write(&format!("themes/near/templates/page/{name}.html"), "x");
    }
    site.write(
        "hausblatt.toml",
        site.read("hausblatt.toml").replace("title = \"Seeds\"", "title = \"<Seeds> & \\\"more\\\"\""),
    );
    let svg = site.run(&["chart"]).out;
    let texts = texts(&svg);
    assert_eq!(texts.iter().filter(|text| text.contains("renders 1 address")).count(), 62, "{texts:#?}");
    let height: u32 = svg.split("height=\"").nth(1).and_then(|rest| rest.split('"').next()).unwrap().parse().unwrap();
    let width: u32 = svg.split("width=\"").nth(1).and_then(|rest| rest.split('"').next()).unwrap().parse().unwrap();
    assert!(height < 1000 && width < 3000, "{width} × {height}");
    assert_eq!(site.run(&["chart", "--format", "json"]).code, 2);
    assert_eq!(site.run(&["chart", "--out", "nowhere/c.svg"]).code, 1);
}
