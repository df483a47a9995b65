//! The server in a real browser: reload, badge, errors and workbench. Needs Debian's chromium and, for accessibility,
//! the npm package axe-core in `target/browser`, so the plain test command leaves it out; CI runs it with `--ignored`.

#![allow(clippy::unwrap_used, clippy::panic, clippy::expect_used)]

mod support;

use std::fs;
use std::path::Path;
use std::thread;
use std::time::Duration;

use serde_json::Value;
use support::Site;
use support::browser::Browser;
use support::serving::Served;

/// Whatever the badge draws.
const BADGE: &str = "document.querySelector('hausblatt-badge').shadowRoot";

/// A browser at a page of a server.
fn at(server: &Served, path: &str) -> Browser {
    let mut browser = Browser::start();
    browser.open(&format!("http://{}{path}", server.at));
    browser
}

/// Nothing was complained of, and nothing came from elsewhere.
#[track_caller]
fn is_calm(browser: &Browser, server: &Served) {
    assert_eq!(browser.complaints, Vec::<String>::new());
    let own = format!("http://{}/", server.at);
    let foreign = |asked: &&String| !asked.starts_with(&own) && !asked.starts_with("data:");
    assert_eq!(browser.asked.iter().filter(foreign).collect::<Vec<_>>(), Vec::<&String>::new());
    assert!(browser.asked.len() > 2);
}

#[test]
#[ignore = "needs chromium"]
fn a_saved_file_is_seen_where_one_was() {
    let site = Site::demo();
    let server = site.serve(&[]);
    let mut browser = at(&server, "/varieties/scarlet-runner/");
    browser.size(800, 400);
    browser.value("scrollTo(0, 300), window.first = true");
    let scrolled = browser.value("scrollY");
    assert!(scrolled.as_f64().unwrap() > 100.0, "{scrolled}");
    thread::sleep(Duration::from_millis(300));
    // Another page's content leaves this one alone.
    site.write("content/pages/about.md", "---\ntitle: All about us\n---\n");
    thread::sleep(Duration::from_millis(500));
    assert_eq!(browser.value("window.first"), true);
    // Styles are put in.
    let css = "themes/harbour/assets/harbour.css";
    site.write(css, site.read(css) + "\nh1 { letter-spacing: 7px }\n");
    browser.until("getComputedStyle(document.querySelector('h1')).letterSpacing === '7px'");
    assert_eq!(browser.value("window.first"), true);
    assert_eq!(browser.value("document.querySelectorAll('link[rel=stylesheet][href*=harbour]').length"), 1);
    // Content is loaded again.
    let entry = "content/varieties/scarlet-runner.md";
    site.write(entry, site.read(entry).replace("title: Scarlet Runner", "title: Crimson Climber"));
    browser.until("document.querySelector('h1').textContent.includes('Crimson Climber')");
    assert_eq!(browser.value("window.first"), Value::Null);
    browser.until("Math.abs(scrollY - 300) < 5");
    // And so by a template that takes over.
    site.write("themes/harbour/templates/entry/varieties.html", "<h1>+{content.title}, ours</h1>\n");
    browser.until("document.querySelector('h1').textContent === 'Crimson Climber, ours'");
    is_calm(&browser, &server);
}

#[test]
#[ignore = "needs chromium"]
fn a_problem_is_shown_and_goes() {
    let site = Site::demo();
    let server = site.serve(&[]);
    let mut browser = at(&server, "/visit/");
    let template = "themes/harbour/templates/page/visit.html";
    site.write(template, "<h1>Come by</h1>\n+{contnt.title}\n");
    browser.until("document.querySelector('.problem mark')?.textContent === 'contnt'");
    let shown = browser.value("document.querySelector('main').innerText");
    for part in ["unknown name \"contnt\"", "did you mean \"content\"?", "page/visit.html:2"] {
        assert!(shown.as_str().unwrap().contains(part), "{shown}");
    }
    assert_eq!(browser.value("document.querySelector('hausblatt-badge')"), Value::Null);
    // Its file is one click away, at its line.
    let link = browser.value("document.querySelector('.problem a').href");
    browser.open(link.as_str().unwrap());
    assert_eq!(browser.value("document.querySelector('.line:target').textContent.trim()"), "2 +{contnt.title}");
    browser.value("history.back()");
    browser.until("document.querySelector('.problem')");
    site.write(template, "<h1>Come by</h1>\n");
    // Whole, since a style that is still asked for when the configuration breaks would be refused.
    browser.until("document.readyState === 'complete' && document.querySelector('h1').textContent === 'Come by'");
    // A configuration that can't be read, and one that can again.
    let right = site.read("hausblatt.toml");
    site.write("hausblatt.toml", right.replace("[site]", "[site"));
    browser.until("document.querySelector('.problem')");
    site.write("hausblatt.toml", right);
    browser.until("document.querySelector('h1').textContent === 'Come by'");
    browser.complaints.retain(|complaint| !complaint.contains("500"));
    is_calm(&browser, &server);
}

#[test]
#[ignore = "needs chromium"]
fn the_badge_names_what_made_the_page() {
    let site = Site::demo();
    let server = site.serve(&[]);
    let mut browser = at(&server, "/");
    for (path, label) in [
        ("/", "front · harbour"),
        ("/visit/", "page/visit · hedgerow"),
        ("/varieties/scarlet-runner/", "entry/varieties · hedgerow"),
        ("/journal/", "listing/journal · harbour"),
        ("/visit/opening/", "offered/no-aside · hedgerow"),
        ("/search/?q=bean", "search · hedgerow"),
        ("/calendar/april/", "route/month · hedgerow"),
        ("/nowhere/", "error/404 · hedgerow404"),
    ] {
        browser.open(&format!("http://{}{path}", server.at));
        assert_eq!(browser.value(&format!("{BADGE}.querySelector('.badge').textContent")), label, "{path}");
        let wanted = site.json(&["resolve", path])[0]["template"]["name"].as_str().map(str::to_owned);
        let name = label.split(" · ").next().unwrap();
        assert_eq!(wanted.unwrap(), format!("{name}.html"), "{path}");
    }
    browser.complaints.retain(|complaint| !complaint.contains("404"));
    is_calm(&browser, &server);
}

#[test]
#[ignore = "needs chromium"]
fn the_badge_opens_by_keyboard_and_explains() {
    let site = Site::demo();
    let server = site.serve(&[]);
    let mut browser = at(&server, "/varieties/scarlet-runner/");
    let before = browser.value("getComputedStyle(document.body).font + document.body.offsetHeight");
    browser.value(&format!("{BADGE}.querySelector('.badge').focus()"));
    browser.press("Enter");
    browser.until(&format!("{BADGE}.querySelector('.wins')"));
    let chosen = format!("{BADGE}.querySelector('[aria-selected=true]').textContent");
    assert_eq!(browser.value(&chosen), "Ladder");
    assert_eq!(browser.value(&format!("{BADGE}.querySelector('.wins th').textContent")), "entry/varieties.html");
    // The outline: a file shows its part, a part its file.
    browser.press("ArrowRight");
    assert_eq!(browser.value(&chosen), "Outline");
    let items = format!("[...{BADGE}.querySelectorAll('.part button')]");
    let paths = browser.value(&format!("{items}.map(item => item.textContent)"));
    let own = "themes/hedgerow/templates/entry/varieties.html";
    assert!(paths.as_array().unwrap().iter().any(|path| path == own), "{paths}");
    browser.value(&format!("{items}.find(item => item.textContent === '{own}').focus()"));
    let area = browser.value(&format!(
        "(() => {{ const area = {BADGE}.querySelector('.area'); return [area.hidden, area.textContent, area.offsetHeight > 200] }})()"
    ));
    assert_eq!(area.to_string(), format!("[false,\"{own}\",true]"));
    browser.value(&format!("{BADGE}.querySelector('[aria-pressed]').click()"));
    let heading = browser.value("(() => { const at = document.querySelector('h1').getBoundingClientRect(); return [at.left + 5, at.top + 5] })()");
    let (x, y) = (heading[0].as_f64().unwrap(), heading[1].as_f64().unwrap());
    browser.mouse(x, y, false);
    browser.until(&format!("{BADGE}.querySelector('.part.here')"));
    assert_eq!(browser.value(&format!("{BADGE}.querySelector('.part.here button').textContent")), own);
    browser.mouse(x, y, true);
    assert_eq!(browser.value(&format!("{BADGE}.querySelector('[aria-pressed]').ariaPressed")), "false");
    // Values are found by a word.
    browser.value(&format!("{BADGE}.getElementById('tab-Values').click()"));
    browser.until(&format!("{BADGE}.querySelector('[data-values]')"));
    browser.value(&format!(
        "(() => {{ const field = {BADGE}.querySelector('[data-values]'); field.value = 'phaseolus'; field.dispatchEvent(new Event('input', {{bubbles: true}})) }})()"
    ));
    let visible = browser.value(&format!(
        "[...{BADGE}.querySelectorAll('.values > ul > li')].filter(item => !item.hidden).map(item => item.querySelector('b').textContent)"
    ));
    assert!(visible.as_array().unwrap().iter().any(|name| name == "content"), "{visible}");
    assert!(visible.as_array().unwrap().len() < 6, "{visible}");
    browser.value(&format!("{BADGE}.getElementById('tab-Problems').click()"));
    browser.until(&format!("{BADGE}.querySelector('.body').textContent.includes('None.')"));
    // It stays open over a reload, and closes by a key.
    let entry = "content/varieties/scarlet-runner.md";
    site.write(entry, site.read(entry).replace("title: Scarlet Runner", "title: Crimson Climber"));
    browser.until("document.querySelector('h1').textContent.includes('Crimson')");
    browser.until(&format!("!{BADGE}.querySelector('.panel').hidden"));
    browser.value(&format!("{BADGE}.getElementById('tab-Problems').focus()"));
    browser.press("Escape");
    assert_eq!(browser.value(&format!("{BADGE}.querySelector('.panel').hidden")), true);
    assert_eq!(browser.value(&format!("{BADGE}.activeElement.className")), "badge");
    site.write(entry, site.read(entry).replace("title: Crimson Climber", "title: Scarlet Runner"));
    browser.until("document.querySelector('h1').textContent.includes('Scarlet')");
    // The text may be there before its styles are.
    let before = before.as_str().unwrap().replace('\\', "\\\\").replace('\'', "\\'");
    browser.until(&format!("getComputedStyle(document.body).font + document.body.offsetHeight == '{before}'"));
    is_calm(&browser, &server);
}

#[test]
#[ignore = "needs chromium"]
fn a_component_is_tried_in_the_workbench() {
    let site = Site::demo();
    let server = site.serve(&[]);
    let mut browser = at(&server, "/~/components?component=notice");
    let frame = "document.getElementById('preview-1280').contentDocument?.body?.innerText.includes";
    browser.value("window.first = true");
    browser.value(
        "(() => { const field = document.getElementById('field.text'); field.value = 'Closed on *frost* days'; field.dispatchEvent(new Event('input', {bubbles: true})) })()",
    );
    browser.until(&format!("{frame}('Closed on frost days')"));
    browser.until("location.search.includes('field.text=Closed+on+*frost*+days')");
    assert_eq!(browser.value("window.first"), true);
    // The address keeps what was filled in.
    let address = browser.value("location.href");
    browser.open(address.as_str().unwrap());
    assert_eq!(browser.value("document.getElementById('field.text').value"), "Closed on *frost* days");
    browser.until(&format!("{frame}('Closed on frost days')"));
    // The preview follows the file.
    let file = "themes/hedgerow/components/notice/component.html";
    site.write(file, format!("<p>Mind this:</p>\n{}", site.read(file)));
    browser.until(&format!("{frame}('Mind this:')"));
    // The map is filtered as one types.
    browser.open(&format!("http://{}/~/", server.at));
    browser.value(
        "(() => { const field = document.getElementById('find'); field.value = 'scarlet'; field.dispatchEvent(new Event('input', {bubbles: true})) })()",
    );
    browser.until("document.querySelectorAll('tbody tr').length < 9");
    assert!(
        browser
            .value("document.querySelector('tbody').innerText")
            .as_str()
            .unwrap()
            .contains("/varieties/scarlet-runner/")
    );
    // A page at three widths, each of them the page.
    browser.open(&format!("http://{}/~/widths?address=/visit/", server.at));
    browser
        .until("[...document.querySelectorAll('iframe')].every(frame => frame.contentDocument?.querySelector('h1'))");
    let widths = browser.value("[...document.querySelectorAll('iframe')].map(frame => frame.contentWindow.innerWidth)");
    assert_eq!(widths.to_string(), "[360,768,1280]");
    assert_eq!(browser.value("frames[0].document.querySelector('hausblatt-badge')"), Value::Null);
    is_calm(&browser, &server);
}

/// With `PICTURES=FOLDER`, the badge and the workbench are kept as pictures there, as the documents show them.
#[test]
#[ignore = "needs chromium"]
fn pictures() {
    let site = Site::demo();
    let server = site.serve(&[]);
    let mut browser = at(&server, "/varieties/scarlet-runner/#hausblatt-badge");
    browser.until(&format!("{BADGE}.querySelector('.next')"));
    let keep = |browser: &mut Browser, name: &str| {
        if let Ok(folder) = std::env::var("PICTURES") {
            browser.picture(&Path::new(env!("CARGO_MANIFEST_DIR")).join("../..").join(folder).join(name));
        }
    };
    keep(&mut browser, "badge.png");
    browser.open(&format!("http://{}/~/try?do=choose&name=bare&content=content/pages/visit.md", server.at));
    browser.until("[...document.querySelectorAll('iframe')].every(frame => frame.contentDocument?.querySelector('img')?.complete)");
    keep(&mut browser, "workbench.png");
    is_calm(&browser, &server);
}

/// The checker's script.
fn axe() -> String {
    let package = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../target/browser/node_modules/axe-core/axe.min.js");
    fs::read_to_string(&package).expect("install it with: npm install --prefix target/browser axe-core")
}

/// What axe-core finds on the page that is open.
fn accessibility_problems(browser: &mut Browser, axe: &str) -> Vec<String> {
    browser.value(&format!("{axe};undefined"));
    let found = browser.value(
        "axe.run(document, {resultTypes: ['violations']}).then(found => found.violations.map(one => one.id + ': ' + one.nodes.map(node => node.target.join(' ') + ' ' + (node.any[0]?.message ?? '')).join(' | ')))",
    );
    found.as_array().unwrap().iter().map(|one| one.as_str().unwrap().to_owned()).collect()
}

#[test]
#[ignore = "needs chromium and axe-core"]
fn the_workbench_is_accessible() {
    let axe = axe();
    let site = Site::demo();
    site.write("themes/hedgerow/templates/page/odd.html", "+{nowhere}\n");
    site.write("content/pages/odd.md", "");
    site.write("content/journal/2026-04-01-odd.md", "---\nodd: 1\n---\n");
    let server = site.serve(&[]);
    server.get("/vist/");
    let is_rehearsed = || {
        let is_done = !server.get("/~/rehearsal").text().contains("data-again");
        std::thread::sleep(std::time::Duration::from_millis(if is_done { 0 } else { 300 }));
        is_done
    };
    assert!((0..1000).any(|_| is_rehearsed()));
    let mut browser = at(&server, "/~/");
    let mut problems = Vec::new();
    for scheme in ["light", "dark"] {
        browser.scheme(scheme);
        for width in [1280, 360] {
            browser.size(width, 800);
            for path in [
                "/~/",
                "/~/problems",
                "/~/rehearsal",
                "/~/rehearsal?variation=an+entry+of+varieties+without+latin",
                "/~/chart",
                "/~/chart?address=/journal/first-frost/",
                "/~/offered",
                "/~/settings",
                "/~/components?component=notice",
                "/~/missed",
                "/~/widths?address=/visit/",
                "/~/address?address=/visit/",
                "/~/address?address=/nowhere/",
                "/~/file?path=themes/hedgerow/templates/entry/varieties.html",
                "/~/nothing",
                "/odd/",
            ] {
                browser.open(&format!("http://{}{path}", server.at));
                let found = accessibility_problems(&mut browser, &axe);
                problems.extend(found.into_iter().map(|problem| format!("{path} {scheme} {width}: {problem}")));
                let wide = browser.value("document.documentElement.scrollWidth").as_u64().unwrap();
                if wide > u64::from(width) {
                    problems.push(format!("{path} {scheme}: {wide} px wide at {width}"));
                }
            }
            // And the badge, in each of its parts.
            for tab in ["Ladder", "Outline", "Values", "Problems"] {
                browser.open(&format!("http://{}/varieties/scarlet-runner/", server.at));
                browser.value(&format!(
                    "{BADGE}.querySelector('.badge').click(), {BADGE}.getElementById('tab-{tab}').click()"
                ));
                browser.until(&format!("{BADGE}.querySelector('.body').childElementCount"));
                let found = accessibility_problems(&mut browser, &axe);
                let of_badge = found.into_iter().filter(|problem| problem.contains("hausblatt-badge"));
                problems.extend(of_badge.map(|problem| format!("badge {tab} {scheme} {width}: {problem}")));
            }
        }
    }
    assert!(problems.is_empty(), "{}", problems.join("\n"));
}

#[test]
#[ignore = "needs chromium and axe-core"]
fn every_page_of_the_demo_is_accessible() {
    let axe = axe();
    let site = Site::demo();
    let map = site.json(&["map"]);
    let server = site.serve(&["--plain"]);
    let mut browser = Browser::start();
    let mut problems = Vec::new();
    let rows = map.as_array().unwrap().iter().filter(|row| !row["template"].is_null());
    for (at, address) in rows.map(|row| row["address"].as_str().unwrap()).enumerate() {
        // Light and dark have colours of their own, and narrow pages their order.
        browser.scheme(if at % 2 == 0 { "light" } else { "dark" });
        browser.size(if at % 3 == 0 { 360 } else { 1280 }, 800);
        browser.open(&format!("http://{}{address}", server.at));
        let found = accessibility_problems(&mut browser, &axe);
        problems.extend(found.into_iter().map(|problem| format!("{address}: {problem}")));
        if browser.value("document.documentElement.scrollWidth > innerWidth") == true {
            problems.push(format!("{address} is wider than its window"));
        }
    }
    assert!(problems.is_empty(), "{}", problems.join("\n"));
}
