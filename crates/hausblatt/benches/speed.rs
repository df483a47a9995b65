//! Speed as ratios measured in one run: each side in turn, and the median of the ratios.
//!
//! `cargo bench` runs 20 rounds; `cargo bench -- --rounds 5` fewer; `--page`, `--site` and `--serve` only a part. The bare programs it compares with are
//! this program, started again: the same files, Markdown library, escaper, threads and outputs.

#![allow(clippy::unwrap_used, clippy::expect_used, clippy::panic, missing_docs)]

mod bare;
mod pages;
mod serving;
mod sites;

use std::path::{Path, PathBuf};
use std::process::{Command, Stdio};
use std::time::{Duration, Instant};

use mimalloc::MiMalloc;
use sites::ENTRIES;

/// As in the program, for both sides.
#[global_allocator]
static ALLOCATOR: MiMalloc = MiMalloc;

fn main() {
    let arguments: Vec<String> = std::env::args().skip(1).collect();
    let words: Vec<&str> = arguments.iter().map(String::as_str).collect();
    match words[..] {
        ["bare-build", site, out] => return bare::build(Path::new(site), Path::new(out)),
        ["bare-heads", site] => return bare::heads(Path::new(site)),
        _ => {}
    }
    let rounds = words
        .windows(2)
        .find(|pair| pair[0] == "--rounds")
        .map_or(20, |pair| pair[1].parse().expect("a number of rounds"));
    println!("{:<58} {:>7} {:>8}", "work (median of the ratios)", "ratio", "reach");
    let parts = ["--page", "--site", "--serve"];
    let wanted = |part: &str| words.contains(&part) || !parts.iter().any(|part| words.contains(part));
    if wanted("--page") {
        page(rounds);
    }
    if wanted("--site") {
        site(rounds);
    }
    if wanted("--serve") {
        serve(rounds);
    }
}

/// Prints a ratio and what it should be.
fn report(work: &str, ratios: &mut [f64], reach: &str) {
    println!("{work:<58} {:>7.2} {reach:>8}", median(ratios));
}

fn median(ratios: &mut [f64]) -> f64 {
    ratios.sort_by(f64::total_cmp);
    ratios[ratios.len() / 2]
}

fn timed(work: impl FnOnce()) -> Duration {
    let start = Instant::now();
    work();
    start.elapsed()
}

fn ratio(a: Duration, b: Duration) -> f64 {
    a.as_secs_f64() / b.as_secs_f64()
}

fn page(rounds: usize) {
    let page = pages::Page::new();
    assert_eq!(page.rendered(), page.by_hand(), "both sides make the same page");
    let size = page.by_hand().len();
    let count = 4000;
    page.render_many(count);
    page.write_many(count);
    let (mut one, mut two) = (Vec::new(), Vec::new());
    for _ in 0..rounds {
        let by_hand = timed(|| page.write_many(count));
        let rendered = timed(|| page.render_many(count));
        let on_two = timed(|| {
            std::thread::scope(|scope| {
                scope.spawn(|| page.render_many(count));
                page.render_many(count);
            });
        });
        one.push(ratio(by_hand, rendered));
        two.push(2.0 * ratio(rendered, on_two));
    }
    report(&format!("pages per second, page of {size} bytes : by hand"), &mut one, ">= 0.50");
    report("pages per second, two threads : one", &mut two, ">= 1.60");
}

fn site(rounds: usize) {
    let folder = tempfile::tempdir().unwrap();
    let site = folder.path().join("site");
    sites::write(&site);
    let hausblatt = PathBuf::from(env!("CARGO_BIN_EXE_hausblatt"));
    let bare = std::env::current_exe().unwrap();
    let build =
        |out: &Path| run(&hausblatt, &["build", "-q", "--jobs", "2", "--site", text(&site), "--out", text(out)]);
    let bare_build = |out: &Path| run(&bare, &["bare-build", text(&site), text(out)]);
    let (ours, theirs) = (folder.path().join("ours"), folder.path().join("theirs"));
    build(&ours);
    bare_build(&theirs);
    sites::assert_same_pages(&ours, &theirs);
    let (mut cold, mut unchanged, mut resolve) = (Vec::new(), Vec::new(), Vec::new());
    for round in 0..rounds {
        let (ours, theirs) =
            (folder.path().join(format!("ours-{round}")), folder.path().join(format!("theirs-{round}")));
        let bare_time = timed(|| bare_build(&theirs));
        let cold_time = timed(|| build(&ours));
        let again = timed(|| build(&ours));
        cold.push(ratio(cold_time, bare_time));
        unchanged.push(ratio(again, cold_time));
        let heads = timed(|| run(&bare, &["bare-heads", text(&site)]));
        let resolved = timed(|| run(&hausblatt, &["resolve", "/notes/note-77/", "--site", text(&site)]));
        resolve.push(ratio(resolved, heads));
    }
    report(&format!("cold build, {ENTRIES} entries : bare program"), &mut cold, "<= 1.50");
    report("build with nothing changed : cold build", &mut unchanged, "<= 0.125");
    report(&format!("resolve, {ENTRIES} entries : reading 512 bytes of each"), &mut resolve, "<= 3.00");
}

fn serve(rounds: usize) {
    let folder = tempfile::tempdir().unwrap();
    let (site, built) = (folder.path().join("site"), folder.path().join("built"));
    sites::write(&site);
    let hausblatt = PathBuf::from(env!("CARGO_BIN_EXE_hausblatt"));
    run(&hausblatt, &["build", "-q", "--site", text(&site), "--out", text(&built)]);
    match serving::nginx(folder.path(), &built) {
        Some(nginx) => {
            let ours = serving::ours(&hausblatt, &site, &["--plain"]);
            let time = Duration::from_secs(2);
            let mut ratios = Vec::new();
            let mut most = (0.0f64, 0.0f64);
            for _ in 0..rounds.min(10) {
                let (static_pages, bytes) = serving::pages_per_second(&nginx, time);
                let (pages, same) = serving::pages_per_second(&ours, time);
                assert!(bytes.starts_with(b"<!doctype html>") && same.starts_with(b"<!doctype html>"));
                ratios.push(pages / static_pages);
                most = (most.0.max(pages), most.1.max(static_pages));
            }
            println!("  at most {:.0} rendered pages a second, {:.0} sent by nginx", most.0, most.1);
            report("rendered requests per second : nginx sending files", &mut ratios, ">= 0.20");
        }
        None => println!("  no nginx here to compare requests per second with"),
    }
    let server = serving::ours(&hausblatt, &site, &[]);
    for (what, file) in [("an entry", "content/notes/note-77.md"), ("a template", "themes/plain/templates/entry.html")]
    {
        for (how, renamed) in [("in place", false), ("by renaming", true)] {
            let mut times = serving::told_after(&server, "/notes/note-77/", &site.join(file), renamed, rounds);
            report(&format!("ms from saving {what} {how} to the event"), &mut times, "<= 50");
        }
    }
}

fn text(path: &Path) -> &str {
    path.to_str().unwrap()
}

fn run(program: &Path, arguments: &[&str]) {
    let status = Command::new(program).args(arguments).stdout(Stdio::null()).status().unwrap();
    assert!(status.success(), "{} {arguments:?}", program.display());
}
