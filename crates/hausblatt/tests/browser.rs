//! What a real browser makes of a built site: its search finds what the program finds, no old file is shown, and small files
//! look and do the same. Needs Debian's chromium, so the plain test command leaves it out; CI runs it with `--ignored`.

#![allow(clippy::unwrap_used, clippy::panic)]

mod support;

use std::fs;
use std::io::{BufRead, BufReader, Write};
use std::net::{TcpListener, TcpStream};
use std::path::{Path, PathBuf};
use std::process::Command;
use std::thread;

use support::Site;

/// Sends the files of a folder to whoever asks on this machine; the address to ask at.
fn serve(folder: PathBuf) -> String {
    let listener = TcpListener::bind("127.0.0.1:0").unwrap();
    let address = format!("http://{}", listener.local_addr().unwrap());
    thread::spawn(move || listener.incoming().flatten().for_each(|stream| drop(answer(&folder, stream))));
    address
}

fn answer(folder: &Path, mut stream: TcpStream) -> std::io::Result<()> {
    let mut line = String::new();
    let mut reader = BufReader::new(stream.try_clone()?);
    reader.read_line(&mut line)?;
    loop {
        let mut header = String::new();
        if reader.read_line(&mut header)? <= 2 {
            break;
        }
    }
    let path = line.split([' ', '?']).nth(1).unwrap_or("/").trim_start_matches('/');
    let file = if path.is_empty() || path.ends_with('/') { format!("{path}index.html") } else { path.to_owned() };
    let kind = match file.rsplit('.').next() {
        Some("html") => "text/html; charset=utf-8",
        Some("css") => "text/css",
        Some("js" | "mjs") => "text/javascript",
        Some("json") => "application/json",
        Some("svg") => "image/svg+xml",
        _ => "application/octet-stream",
    };
    // As the documents tell hosts to: what has a version may be kept, and all else is asked for each time.
    let keep = if line.contains("?v=") { "public, max-age=31536000, immutable" } else { "no-cache" };
    match fs::read(folder.join(file)) {
        Ok(mut bytes) => {
            if line.contains("&all") {
                bytes.extend(MORE.as_bytes());
            }
            write!(
                stream,
                "HTTP/1.1 200 OK\r\nContent-Type: {kind}\r\nContent-Length: {}\r\nCache-Control: {keep}\r\n\
                 Connection: close\r\n\r\n",
                bytes.len()
            )?;
            stream.write_all(&bytes)
        }
        Err(_) => write!(stream, "HTTP/1.1 404 Not Found\r\nContent-Length: 0\r\nConnection: close\r\n\r\n"),
    }
}

/// Clicks on what shows more results as long as there is something.
const MORE: &str =
    "<script>setInterval(() => document.querySelector('#search-results button')?.click(), 20)</script>\n";

/// The page as it is when its scripts have run, in a browser that has seen nothing yet.
fn opened(address: &str) -> String {
    opened_again(address, tempfile::tempdir().unwrap().path())
}

/// The same in the browser that has this folder, with all that it has kept.
fn opened_again(address: &str, profile: &Path) -> String {
    String::from_utf8_lossy(&browser(address, profile, "--dump-dom")).into_owned()
}

/// A picture of a page.
fn pictured(address: &str) -> Vec<u8> {
    let folder = tempfile::tempdir().unwrap();
    let file = folder.path().join("page.png");
    browser(address, &folder.path().join("profile"), &format!("--screenshot={}", file.display()));
    fs::read(file).unwrap()
}

/// What the browser that has this folder writes when it has done something with a page.
fn browser(address: &str, profile: &Path, what: &str) -> Vec<u8> {
    let output = Command::new("chromium")
        .args(["--headless", "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run"])
        .args(["--disable-background-networking", "--disable-component-update", "--disable-sync"])
        .args(["--virtual-time-budget=5000", "--window-size=1280,2000", what])
        .arg(format!("--user-data-dir={}", profile.display()))
        .arg(address)
        .output()
        .unwrap();
    output.stdout
}

/// The addresses of the results that a page shows, in order.
fn results(html: &str) -> Vec<String> {
    let shown = html.split("id=\"search-results\"").nth(1).and_then(|rest| rest.split_once("<ol"));
    let list = shown.map_or("", |(_, list)| list.split("</ol>").next().unwrap_or(""));
    list.split("href=\"").skip(1).filter_map(|rest| Some(rest.split('"').next()?.to_owned())).collect()
}

#[test]
#[ignore = "needs chromium"]
fn a_built_search_finds_what_the_program_finds() {
    let demo = Site::demo();
    demo.write(
        "content/journal/2026-05-01-odd.md",
        "---\ntitle: \"Kürbis <b>& Öl</b>\"\n---\nÆther ﬁne ТЫКВА 豆腐 x²y, don't.\n",
    );
    let long = format!("---\ntitle: Long\n---\n{} hindmost.\n", "word ".repeat(60));
    demo.write("content/journal/2026-05-02-long.md", long);
    assert_eq!(demo.run(&["build"]).code, 0);
    let site = serve(demo.path("built"));
    let mut found = 0;
    for query in [
        "bean",
        "sow+seed",
        "KURBIS",
        "o",
        "%D1%82%D1%8B%D0%BA%D0%B2%D0%B0",
        "fine",
        "%E8%B1%86%E8%85%90",
        "x2y",
        "don+t",
        "hindmost",
        "frost%2C+nothing",
        "%3Cb%3E",
        "",
    ] {
        let expected = found_by_program(&demo, query);
        found += expected.len();
        let html = opened(&format!("{site}/search/?q={query}"));
        assert_eq!(results(&html), expected[..expected.len().min(20)], "{query}");
        assert_eq!(results(&opened(&format!("{site}/search/?q={query}&all"))), expected, "{query}");
        assert!(!html.contains("<b>&amp;"), "{query}");
        let is_short = matches!(query, "o" | "don+t" | "%3Cb%3E");
        assert_eq!(html.contains("only looked for in titles"), is_short, "{query}");
    }
    assert!(found > 20, "{found} results");
}

/// The addresses that the program finds for a query, on all pages of results.
fn found_by_program(site: &Site, query: &str) -> Vec<String> {
    let mut found = Vec::new();
    for page in 1.. {
        let address = if page == 1 { format!("/search/?q={query}") } else { format!("/search/page/{page}/?q={query}") };
        let said = site.run(&["render", &address]);
        if said.code != 0 {
            break;
        }
        found.extend(results(&said.out));
    }
    found
}

#[test]
#[ignore = "needs chromium"]
fn a_search_whose_index_is_not_there_says_so() {
    let demo = Site::demo();
    assert_eq!(demo.run(&["build"]).code, 0);
    let site = serve(demo.path("built"));
    assert!(!opened(&format!("{site}/search/?q=bean")).contains("can't be loaded"));
    fs::remove_dir_all(demo.path("built/search/index")).unwrap();
    assert!(opened(&format!("{site}/search/?q=bean")).contains("<p>The search can't be loaded. Try again later.</p>"));
    assert!(!opened(&format!("{site}/search/")).contains("can't be loaded"), "nothing is looked for");
}

#[test]
#[ignore = "needs chromium"]
fn a_search_in_parts_finds_what_the_program_finds() {
    let demo = Site::demo();
    for number in 0..3000 {
        let others: String =
            (0..100).filter(|word| (number + word) % 3 > 0).map(|word| format!("beas{word} ")).collect();
        let text = format!("---\ntitle: Row {number} of bed{}\n---\nbeas beast {others}\n", number % 7);
        demo.write(&format!("content/journal/row-{number}.md"), text);
    }
    assert_eq!(demo.run(&["build"]).code, 0);
    let index: serde_json::Value = serde_json::from_str(&demo.read("built/search/index.json")).unwrap();
    let words: Vec<&str> = index["words"].as_array().unwrap().iter().filter_map(|name| name.as_str()).collect();
    assert!(words.contains(&"bea") && words.contains(&"beas"), "{words:?}");
    let site = serve(demo.path("built"));
    for query in ["bea", "beas", "beas1", "beas19", "beasx", "bed3+beas7", "be", "bed", "2999", "29+beast", "b"] {
        let said = demo.run(&["render", &format!("/search/?q={query}")]).out;
        let html = opened(&format!("{site}/search/?q={query}"));
        assert_eq!(results(&html), results(&said), "{query}");
        let words = query.replace('+', " ");
        let total = said.split(" found for").next().and_then(|before| before.rsplit('>').next()).unwrap();
        assert!(html.contains(&format!("{words}: {total}")), "{query}: {total}");
    }
}

/// A template whose page says which colours it got: of its own style sheet, of one that this imports, and what its module
/// has from another one.
const SHOWN: &str = "---\nlayout: none\n---\n<!doctype html>\n<html lang=\"en\"><title>Shown</title>\n\
    <link rel=\"stylesheet\" href=\"+{asset(\"shown.css\")}\">\n<body><p>1</p>\n\
    <script type=\"module\" src=\"+{asset(\"shown.mjs\")}\"></script>\n";

#[test]
#[ignore = "needs chromium"]
fn a_browser_that_keeps_files_sees_new_ones_after_a_build() {
    let demo = Site::demo();
    let assets = "themes/harbour/assets";
    let write = |color: &str, imported: &str, word: &str| {
        demo.write(&format!("{assets}/shown.css"), format!("@import 'parts/more.css'; p {{ color: {color} }}"));
        demo.write(&format!("{assets}/parts/more.css"), format!("p {{ background-color: {imported} }}"));
        demo.write(&format!("{assets}/word.mjs"), format!("export const word = '{word}';"));
        assert_eq!(demo.run(&["build"]).code, 0);
    };
    demo.write(
        &format!("{assets}/shown.mjs"),
        "import { word } from './word.mjs';\nconst got = getComputedStyle(document.querySelector('p'));\n\
         document.body.dataset.shown = `${got.color} ${got.backgroundColor} ${word}`;\n",
    );
    demo.write("themes/harbour/templates/page/visit.html", SHOWN);
    write("rgb(1, 1, 1)", "rgb(2, 2, 2)", "old");
    let site = serve(demo.path("built"));
    let address = format!("{site}/visit/");
    let profile = tempfile::tempdir().unwrap();
    let shown = || {
        let html = opened_again(&address, profile.path());
        html.split("data-shown=\"").nth(1).unwrap_or(&html).split('"').next().unwrap_or("").to_owned()
    };
    assert_eq!(shown(), "rgb(1, 1, 1) rgb(2, 2, 2) old");
    write("rgb(1, 1, 1)", "rgb(3, 3, 3)", "old");
    assert_eq!(shown(), "rgb(1, 1, 1) rgb(3, 3, 3) old");
    write("rgb(4, 4, 4)", "rgb(3, 3, 3)", "new");
    assert_eq!(shown(), "rgb(4, 4, 4) rgb(3, 3, 3) new");
    // Without versions the browser keeps what it has, if the host lets it: the test sees what it is to see.
    let plain = format!("{}\n[build]\nversions = false\n", demo.read("hausblatt.toml"));
    demo.write("hausblatt.toml", plain);
    write("rgb(5, 5, 5)", "rgb(3, 3, 3)", "new");
    let page = demo.read("built/visit/index.html").replace(".css\"", ".css?v=1\"");
    demo.write("built/visit/index.html", &page);
    assert_eq!(shown(), "rgb(5, 5, 5) rgb(3, 3, 3) new");
    demo.write("built/assets/shown.css", "p { color: rgb(6, 6, 6) }");
    assert_eq!(shown(), "rgb(5, 5, 5) rgb(3, 3, 3) new");
}

#[test]
#[ignore = "needs chromium"]
fn small_files_look_and_do_the_same() {
    let small = "\n[build]\nstyles = \"small\"\nscripts = \"small\"\n\
                 browsers = { chrome = 109, firefox = 115, safari = 16 }\n";
    let [own, other] = [Site::demo(), Site::demo()];
    other.write("hausblatt.toml", format!("{}{small}", other.read("hausblatt.toml")));
    let [before, after] = [&own, &other].map(|site| {
        site.write(
            "themes/harbour/assets/loam.css",
            "@import 'loam.css';\n\nmain { & h1 { letter-spacing: 0.1em } }\n",
        );
        assert_eq!(site.run(&["build"]).code, 0);
        serve(site.path("built"))
    });
    assert!(other.read("built/assets/loam.css").len() + 300 < own.read("built/assets/_covered/loam/loam.css").len());
    for page in ["/", "/varieties/scarlet-runner/", "/journal/", "/visit/", "/search/?q=bean"] {
        assert!(pictured(&format!("{before}{page}")) == pictured(&format!("{after}{page}")), "{page}");
    }
    other.write("themes/harbour/assets/loam.css", "h1 { color: red }");
    assert_eq!(other.run(&["build"]).code, 0);
    assert!(
        pictured(&format!("{before}/")) != pictured(&format!("{after}/")),
        "the test does not see what it is to see"
    );
}
