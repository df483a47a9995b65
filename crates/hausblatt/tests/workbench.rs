//! The jobs of an editor, done in a real browser: tried, seen, kept, seen again, taken back. Needs Debian's chromium and,
//! for accessibility, the npm package axe-core in `target/browser`; CI runs it with `--ignored`.

#![allow(clippy::unwrap_used, clippy::panic, clippy::expect_used)]

mod support;

use std::fs;
use std::path::Path;

use serde_json::{Value, json};
use support::Site;
use support::browser::Browser;
use support::forms::{form, hidden};
use support::serving::Served;

const VISIT: &str = "content/pages/visit.md";

/// An editor at work.
struct Editor<'s> {
    site: &'s Site,
    server: Served,
    browser: Browser,
}

impl<'s> Editor<'s> {
    fn at(site: &'s Site, path: &str) -> Self {
        let server = site.serve(&[]);
        let mut browser = Browser::start();
        browser.open(&format!("http://{}{path}", server.at));
        Self { site, server, browser }
    }

    #[track_caller]
    fn open(&mut self, path: &str) {
        let address = format!("http://{}{path}", self.server.at);
        self.browser.open(&address);
    }

    /// Types into a control as a person does.
    #[track_caller]
    fn type_in(&mut self, id: &str, text: &str) {
        self.browser.until(&format!("document.readyState === 'complete' && document.getElementById({})", json!(id)));
        let script = format!(
            "(() => {{ const field = document.getElementById({}); field.focus(); field.value = {}; field.dispatchEvent(new Event('input', {{bubbles: true}})) }})()",
            json!(id),
            json!(text)
        );
        self.browser.value(&script);
    }

    /// Clicks what the text is on, which must be there once.
    #[track_caller]
    fn click(&mut self, selector: &str, text: &str) {
        let found = format!(
            "[...document.querySelectorAll({})].filter(one => (one.getAttribute('aria-label') ?? one.textContent).trim() === {})",
            json!(selector),
            json!(text)
        );
        self.browser.until(&format!("document.readyState === 'complete' && {found}.length === 1"));
        self.browser.value(&format!("{found}[0].click()"));
    }

    /// Waits until a frame of the page as it would be shows something.
    #[track_caller]
    fn would_show(&mut self, script: &str) {
        let document = "document.getElementById('then-1280')?.contentDocument";
        self.browser.until(&format!("{document} && {}", script.replace("page", document)));
    }

    /// Keeps what is shown, and waits until that is said.
    #[track_caller]
    fn keep(&mut self) {
        self.browser.until("document.readyState === 'complete' && document.querySelector('#keep button')");
        self.browser.value("document.querySelector('#keep button').click()");
        self.browser.until("document.querySelector('.done')?.textContent.includes('Kept.')");
    }

    /// What a page of the site has now.
    #[track_caller]
    fn shows(&self, address: &str, text: &str) -> bool {
        self.server.get(address).text().contains(text)
    }

    /// What the accessibility checker finds on the page. The pages of the site in frames have a test of their own.
    #[track_caller]
    fn violations(&mut self, axe: &str) -> Vec<String> {
        self.browser.value(&format!("{axe};undefined"));
        let found = self.browser.value(
            "axe.run(document, {resultTypes: ['violations'], iframes: false}).then(found => found.violations.map(one => one.id + ': ' + one.nodes.map(node => node.target.join(' ') + ' ' + (node.any[0]?.message ?? '')).join(' | ')))",
        );
        found.as_array().unwrap().iter().map(|one| one.as_str().unwrap().to_owned()).collect()
    }

    /// Nothing was complained of, and nothing came from elsewhere.
    #[track_caller]
    fn is_calm(&self) {
        assert_eq!(self.browser.complaints, Vec::<String>::new());
        let own = format!("http://{}/", self.server.at);
        let foreign = |asked: &&String| !asked.starts_with(&own) && !asked.starts_with("data:");
        assert_eq!(self.browser.asked.iter().filter(foreign).collect::<Vec<_>>(), Vec::<&String>::new());
    }
}

#[test]
#[ignore = "needs chromium"]
fn a_template_is_chosen_seen_and_taken_back() {
    let site = Site::demo();
    let before = site.read(VISIT);
    let mut editor = Editor::at(&site, "/~/address?address=/visit/");
    editor.click("a", "Try Without side column");
    editor.would_show("page.querySelector('h1') && !page.querySelector('aside')");
    editor.browser.until("document.getElementById('now-1280').contentDocument?.querySelector('aside')");
    assert_eq!(site.read(VISIT), before);
    editor.keep();
    assert_eq!(site.read(VISIT), before.replacen("---\nThe", "template: no-aside\n---\nThe", 1));
    assert!(!editor.shows("/visit/", "<aside"));
    editor.click(".done button", "Take back: hausblatt choose no-aside /visit/");
    editor.browser.until("!document.querySelector('.done') && document.querySelector('.wins')");
    assert_eq!(site.read(VISIT), before);
    assert!(editor.shows("/visit/", "<aside"));
    // Several at once, from the map.
    editor.open("/~/?find=visit&kind=page");
    editor.browser.value("document.querySelectorAll('[name=content]').forEach((box, at) => box.checked = at < 3)");
    editor.browser.value("document.getElementById('name').value = 'bare'");
    editor.click("button", "Try for the selected");
    editor.browser.until("document.querySelector('h1').textContent === 'If 3 pages and entries chose bare'");
    editor.keep();
    assert!(site.read(VISIT).contains("template: bare"));
    editor.is_calm();
}

#[test]
#[ignore = "needs chromium"]
fn a_setting_changes_as_one_types() {
    let site = Site::demo();
    let before = site.read("hausblatt.toml");
    let mut editor = Editor::at(&site, "/~/settings");
    editor.browser.value("window.first = true");
    editor.type_in("setting.motto", "Sow, save, share");
    editor.would_show("page.body?.innerText.includes('Sow, save, share')");
    assert_eq!(editor.browser.value("window.first"), true);
    assert_eq!(editor.browser.value("document.activeElement.id"), "setting.motto");
    assert_eq!(site.read("hausblatt.toml"), before);
    // What is kept is what was typed last, however quickly.
    editor.type_in("setting.motto", "Sow and share");
    editor.keep();
    let after = before.replace("Borrow in spring, return in autumn", "Sow and share");
    assert_eq!(site.read("hausblatt.toml"), after);
    assert!(editor.shows("/", "Sow and share"));
    // What is too long to be shown can't be kept as what was typed before it.
    editor.type_in("setting.motto", &"Sow ".repeat(12_500));
    editor.browser.until("document.getElementById('keep').textContent.includes('too long')");
    assert_eq!(editor.browser.value("document.querySelector('#keep button')"), Value::Null);
    editor.browser.complaints.retain(|complaint| !complaint.contains("414"));
    // Reset: looked at first.
    editor.click("a", "Reset");
    editor.browser.until("document.querySelector('h1').textContent === 'If hausblatt.toml were changed'");
    editor.keep();
    assert_eq!(site.read("hausblatt.toml"), before.replace("motto = \"Borrow in spring, return in autumn\"\n", ""));
    editor.is_calm();
}

#[test]
#[ignore = "needs chromium"]
fn components_are_placed_changed_moved_and_taken_out() {
    let site = Site::demo();
    site.write(VISIT, "---\ntitle: Visit # us\n---\nCome in.\n");
    let mut editor = Editor::at(&site, "/~/components?component=split-panel");
    for (number, heading) in (1..).zip(["First", "Second", "Third"]) {
        editor.open("/~/components?component=split-panel");
        editor.type_in("field.heading", heading);
        editor.type_in("field.text", &format!("Text {number}"));
        editor.browser.until(&format!("document.getElementById('yaml').textContent.includes('heading: {heading}')"));
        editor
            .browser
            .until(&format!("document.querySelector('#place [name=\"field.heading\"]')?.value === '{heading}'"));
        editor.type_in("place-path", VISIT);
        editor.type_in("place-tray", "main");
        editor.click("button", "See it there");
        editor.would_show(&format!("page.body?.innerText.includes('Text {number}')"));
        editor.keep();
    }
    let head = "---\ntitle: Visit # us\ntrays:\n  main:\n";
    let item = |name: &str, number: u32, more: &str| {
        format!("    - component: split-panel\n      heading: {name}\n      text: Text {number}\n{more}")
    };
    let all = |items: &[String]| format!("{head}{}---\nCome in.\n", items.concat());
    assert_eq!(site.read(VISIT), all(&[item("First", 1, ""), item("Second", 2, ""), item("Third", 3, "")]));
    // Its columns swapped.
    editor.click("a", "Change Split panel, number 2");
    editor.browser.until("document.readyState === 'complete' && document.getElementById('field.flip')");
    editor.browser.value("document.getElementById('field.flip').click()");
    editor.browser.until("document.querySelector('#keep .command')?.textContent.includes('trays.main.2.flip=true')");
    editor.keep();
    // Moved up, and one taken out; by keyboard.
    for label in ["Move Split panel, number 3 up", "Take out Split panel, number 1"] {
        editor.browser.until(&format!("document.querySelector('[aria-label=\"{label}\"]')"));
        editor.browser.value(&format!("document.querySelector('[aria-label=\"{label}\"]').focus()"));
        editor.browser.press("Enter");
        editor.browser.until("document.querySelector('#keep button')");
        editor.browser.value("document.querySelector('#keep button').focus()");
        editor.browser.press("Enter");
        editor.browser.until("document.querySelector('.done')?.textContent.includes('Kept.')");
    }
    assert_eq!(site.read(VISIT), all(&[item("Third", 3, ""), item("Second", 2, "      flip: true\n")]));
    assert!(editor.shows("/visit/", "Text 3") && !editor.shows("/visit/", "Text 1"));
    editor.is_calm();
}

#[test]
#[ignore = "needs chromium"]
fn a_menu_gets_an_item_and_a_field_a_value() {
    let site = Site::demo();
    let before = site.read("hausblatt.toml");
    let mut editor = Editor::at(&site, "/~/menus");
    editor.click("summary", "Add an item to main");
    editor.type_in("to-main", "page:about");
    editor.type_in("label-main", "Who we are");
    editor.would_show("page.body?.innerText.includes('Who we are')");
    editor.keep();
    let item = "  { to = \"page:growers\" },\n";
    let added = format!("{item}  {{ to = \"page:about\", label = \"Who we are\" }},\n");
    assert_eq!(site.read("hausblatt.toml"), before.replace(item, &added));
    assert!(editor.shows("/visit/", "Who we are"));
    // A field with a wrong value is refused at the field, and what is right again is kept.
    let entry = "content/varieties/scarlet-runner.md";
    let before = site.read(entry);
    editor.open(&format!("/~/content?path={entry}"));
    editor.type_in("field.height_cm", "0");
    editor.browser.until("document.getElementById('wrong-height_cm').textContent.includes('this must be at least 1')");
    editor.browser.until("document.getElementById('keep').textContent.includes(\"This can't be kept.\")");
    assert_eq!(editor.browser.value("document.querySelector('#keep button')"), Value::Null);
    editor.type_in("field.height_cm", "240");
    editor.browser.until("document.getElementById('wrong-height_cm').textContent === ''");
    editor.keep();
    assert_eq!(site.read(entry), before.replace("height_cm: 300", "height_cm: 240"));
    // An image is chosen from those that there are.
    editor.browser.until("document.readyState === 'complete'");
    editor.browser.value("document.querySelector('.images').open = true");
    editor.browser.value("document.querySelector('.images [data-value=\"/media/gate.svg\"]').click()");
    editor.would_show("page.querySelector('img[src*=\"gate.svg\"]')");
    editor.is_calm();
}

#[test]
#[ignore = "needs chromium"]
fn everything_is_found_by_a_key() {
    let site = Site::demo();
    let mut editor = Editor::at(&site, "/~/settings");
    editor.browser.value("document.body.focus()");
    editor.browser.press("/");
    assert_eq!(editor.browser.value("document.activeElement.id"), "search");
    editor.browser.value("document.activeElement.value = 'scarlet'");
    editor.browser.press("Enter");
    editor.browser.until("document.querySelector('#results a[href*=\"scarlet\"]')");
    editor.type_in("for", "choose");
    editor.browser.until("document.querySelector('#results')?.textContent.includes('hausblatt choose')");
    // In a control the key is a letter.
    editor.browser.value("document.getElementById('for').focus()");
    editor.browser.value("document.getElementById('for').value = ''");
    editor.browser.press("/");
    assert_eq!(editor.browser.value("document.getElementById('for').value"), "/");
    // What explains the parts is open once, and then as it was left.
    for is_open in [true, false, true] {
        editor.open("/~/");
        assert_eq!(editor.browser.value("document.querySelector('.introduction').open"), is_open);
        if !is_open {
            editor.browser.value("document.querySelector('.introduction summary').click()");
        }
    }
    editor.is_calm();
}

/// The addresses of the parts, each with work in it.
const PARTS: &[(&str, &str)] = &[
    ("map", "/~/?find=visit"),
    ("try", "/~/try?do=choose&name=no-aside&content=content/pages/visit.md"),
    ("theme", "/~/try?do=set&of=site&set.site.theme=loam&at=/visit/"),
    ("refused", "/~/try?do=choose&name=nothing&content=content/pages/visit.md"),
    ("settings", "/~/settings?setting.motto=Sow%2C+save%2C+share&setting.show_gate=false"),
    ("menus", "/~/menus?add=main&to=page%3Aabout&label=Who+we+are"),
    ("menu-item", "/~/menus?change=menus.main.1"),
    (
        "components",
        "/~/components?component=split-panel&field.heading=Two+beds&field.text=Side+by+side&field.flip=true&field.picture=%2Fmedia%2Fgate.svg&field.picture.alt=A+gate",
    ),
    ("content", "/~/content?path=content/varieties/scarlet-runner.md&field.height_cm=0"),
    ("trays", "/~/trays?path=content/pages/visit.md&change=trays.main.2&field.heading=Three+beds&field.flip=true"),
    ("place", "/~/trays?path=content/pages/visit.md&tray=main&component=notice"),
    ("changes", "/~/kept"),
    ("search", "/~/search?for=visit"),
    ("address", "/~/address?address=/visit/"),
];

#[test]
#[ignore = "needs chromium and axe-core"]
fn every_part_is_accessible_in_both_colours_and_widths() {
    let package = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../target/browser/node_modules/axe-core/axe.min.js");
    let axe = fs::read_to_string(package).expect("install it with: npm install --prefix target/browser axe-core");
    let site = Site::demo();
    site.run(&["set", "/visit/", "tagline=By the water"]);
    let entry = site.read("content/varieties/moon-boat.md");
    site.write("content/varieties/moon-boat.md", entry.replacen("---\n", "---\nodd: 1\n", 1));
    let mut editor = Editor::at(&site, "/~/");
    // What a form is answered with that comes too late.
    let pairs = hidden(&editor.server.get("/~/content?path=content/pages/visit.md&field.title=Mine").text(), "/~/keep");
    site.write(VISIT, site.read(VISIT) + "Ring the bell.\n");
    let late = editor.server.post("/~/keep", &form(&pairs.unwrap()), &[]).text();
    assert!(late.contains("A file has changed since you looked"));
    let mut problems = Vec::new();
    for scheme in ["light", "dark"] {
        editor.browser.scheme(scheme);
        for width in [1280, 360] {
            editor.browser.size(width, 900);
            for (name, path) in PARTS.iter().chain(&[("problems", "/~/content?path=content/varieties/moon-boat.md")]) {
                editor.open(path);
                let found = editor.violations(&axe);
                problems.extend(found.into_iter().map(|one| format!("{name} {scheme} {width}: {one}")));
                let wide = editor.browser.value("document.documentElement.scrollWidth").as_u64().unwrap();
                if wide > u64::from(width) {
                    problems.push(format!("{name} {scheme}: {wide} px wide at {width}"));
                }
                if let Ok(folder) = std::env::var("PARTS") {
                    let file = Path::new(&folder).join(format!("{name}-{scheme}-{width}.png"));
                    editor.browser.until("[...document.querySelectorAll('iframe')].every(frame => frame.contentDocument?.readyState === 'complete')");
                    editor.browser.picture(&file);
                }
            }
        }
    }
    editor.browser.value(&format!("document.open(), document.write({}), document.close()", json!(late)));
    editor.browser.until("document.querySelector('h1')?.textContent === 'A file has changed since you looked'");
    problems.extend(editor.violations(&axe).into_iter().map(|one| format!("late: {one}")));
    assert!(problems.is_empty(), "{}", problems.join("\n"));
    assert!(editor.site.read(VISIT).contains("tagline"));
}
