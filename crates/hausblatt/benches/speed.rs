//! Speed as ratios measured in one run: each side in turn, and the median of the ratios. A round in which the host of a virtual
//! machine took much of the processors' time is done again.
//!
//! `cargo bench` runs 20 rounds; `cargo bench -- --rounds 5` fewer; `--page`, `--site`, `--edits`, `--images`, `--serve`,
//! `--editor` and `--large` only a part, and `--million` what nothing else runs, with 12 GB on the disk; with `--hold` it ends
//! with 1 if a figure is missed. The bare programs it compares with are this program, started again: the same files, Markdown
//! library, escaper, threads and outputs.

#![allow(clippy::unwrap_used, clippy::expect_used, clippy::panic, missing_docs)]

mod bare;
mod editor;
mod pages;
mod photos;
mod rounds;
mod serving;
mod sites;

use std::fs;
use std::io::Write;
use std::path::{Path, PathBuf};
use std::process::{Command, Stdio};
use std::sync::atomic::{AtomicBool, Ordering};
use std::thread;
use std::time::{Duration, Instant};

use flate2::Compression;
use flate2::write::GzEncoder;
use hausblatt_core::check::SEEN;
use mimalloc::MiMalloc;
use rounds::{Processors, measure, median, repeated, taken_since};
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
        ["page-round"] => return page_round(),
        ["bare-images", site, out] => return photos::make(Path::new(site), Path::new(out)),
        _ => {}
    }
    let rounds = words
        .windows(2)
        .find(|pair| pair[0] == "--rounds")
        .map_or(20, |pair| pair[1].parse().expect("a number of rounds"));
    let before = Processors::now();
    println!("{:<58} {:>7} {:>8}", "work (median of the ratios)", "ratio", "reach");
    let parts = ["--page", "--site", "--edits", "--images", "--serve", "--editor", "--large"];
    let is_one = |word: &&str| parts.contains(word) || *word == "--million";
    let wanted = |part: &str| words.contains(&part) || !words.iter().any(is_one);
    if wanted("--page") {
        page(rounds);
    }
    if wanted("--site") {
        site(rounds);
    }
    if wanted("--edits") {
        edits(rounds);
    }
    if wanted("--images") {
        images(rounds);
    }
    if wanted("--serve") {
        serve(rounds);
    }
    if wanted("--editor") {
        editor(rounds);
    }
    if wanted("--large") {
        large(rounds);
    }
    if words.contains(&"--million") {
        million();
    }
    if let Some(taken) = taken_since(before) {
        let share = 100.0 * taken;
        println!(
            "  {share:.0} % of the processors' time was taken by other machines on their host; {} rounds were done again",
            repeated()
        );
    }
    if words.contains(&"--hold") && MISSED.load(Ordering::Relaxed) {
        eprintln!("not every figure is reached");
        std::process::exit(1);
    }
}

/// Whether a figure was missed.
static MISSED: AtomicBool = AtomicBool::new(false);

/// What a figure should be.
enum Reach {
    AtLeast(f64),
    AtMost(f64),
}

/// Prints a figure and what it should be.
fn report(work: &str, figures: &mut [f64], reach: Reach) {
    let figure = median(figures);
    let (holds, reach) = match reach {
        Reach::AtLeast(least) => (figure >= least, format!(">= {least}")),
        Reach::AtMost(most) => (figure <= most, format!("<= {most}")),
    };
    MISSED.fetch_or(!holds, Ordering::Relaxed);
    println!("{work:<58} {figure:>7.3} {reach:>8}{}", if holds { "" } else { "  missed" });
}

/// The columns of a table.
fn columns<const N: usize>(rows: &[[f64; N]]) -> [Vec<f64>; N] {
    std::array::from_fn(|column| rows.iter().map(|row| row[column]).collect())
}

fn timed(work: impl FnOnce()) -> Duration {
    let start = Instant::now();
    work();
    start.elapsed()
}

fn ratio(a: Duration, b: Duration) -> f64 {
    a.as_secs_f64() / b.as_secs_f64()
}

/// Where a process has its memory moves the figures by a twentieth, so each round is a process of its own. A core can be one
/// of two that share what they compute with: what a second thread gives is held against what it gives by hand. A round is half
/// a second, and some tell little: there are at least ten.
fn page(rounds: usize) {
    let page = pages::Page::new();
    assert_eq!(page.rendered(), page.by_hand(), "both sides make the same page");
    let size = page.by_hand().len();
    let this = std::env::current_exe().unwrap();
    let round = || {
        let output = Command::new(&this).arg("page-round").output().unwrap();
        assert!(output.status.success(), "a round of pages ends well");
        let text = String::from_utf8(output.stdout).unwrap();
        let seconds: Vec<f64> = text.split_whitespace().map(|number| number.parse().unwrap()).collect();
        <[f64; 4]>::try_from(seconds).unwrap()
    };
    let (mut one, mut two) = (Vec::new(), Vec::new());
    let (mut ours, mut theirs) = (Vec::new(), Vec::new());
    for [by_hand, rendered, by_hand_on_two, rendered_on_two] in measure(rounds.max(10), |_| round()) {
        let (our, their) = (2.0 * rendered / rendered_on_two, 2.0 * by_hand / by_hand_on_two);
        one.push(by_hand / rendered);
        two.push(our / their);
        ours.push(our);
        theirs.push(their);
    }
    report(&format!("pages per second, page of {size} bytes : by hand"), &mut one, Reach::AtLeast(0.5));
    println!("  two threads : one, {:.2}, and by hand {:.2}", median(&mut ours), median(&mut theirs));
    report("what a second thread gives : what it gives by hand", &mut two, Reach::AtLeast(0.8));
}

/// The seconds that pages take by hand and rendered, on one thread and then on two, which make twice as many. Each is measured
/// for a moment in turn, so that what else runs meanwhile slows them alike.
fn page_round() {
    let page = pages::Page::new();
    let sides: [&(dyn Fn() + Sync); 2] = [&|| page.write_many(1000), &|| page.render_many(1000)];
    sides.iter().for_each(|side| side());
    let mut seconds = [0.0; 4];
    for _ in 0..20 {
        for (at, side) in sides.iter().enumerate() {
            seconds[at] += timed(side).as_secs_f64();
            let on_two = || {
                thread::scope(|scope| {
                    scope.spawn(side);
                    side();
                });
            };
            seconds[at + 2] += timed(on_two).as_secs_f64();
        }
    }
    println!("{}", seconds.map(|seconds| seconds.to_string()).join(" "));
}

fn site(rounds: usize) {
    let folder = tempfile::tempdir().unwrap();
    let site = folder.path().join("site");
    sites::write(&site, ENTRIES);
    let hausblatt = PathBuf::from(env!("CARGO_BIN_EXE_hausblatt"));
    let bare = std::env::current_exe().unwrap();
    let build =
        |out: &Path| run(&hausblatt, &["build", "-q", "--jobs", "2", "--site", text(&site), "--out", text(out)]);
    let bare_build = |out: &Path| run(&bare, &["bare-build", text(&site), text(out)]);
    let (ours, theirs) = (folder.path().join("ours"), folder.path().join("theirs"));
    build(&ours);
    bare_build(&theirs);
    sites::assert_same_pages(&ours, &theirs);
    // Each begins with a disk that has nothing left to write, and every other round begins with the last one: otherwise who
    // comes later waits for what those before have written.
    let alone = |build: &dyn Fn()| {
        run(Path::new("sync"), &[]);
        timed(build)
    };
    let measured = measure(rounds, |round| {
        let out = |name: &str| folder.path().join(format!("{name}-{round}"));
        let with_lists = out("lists");
        let arguments = ["--theme", "lists", "build", "-q", "--jobs", "2", "--site", text(&site), "--out"];
        let builds: [&dyn Fn(); 3] = [&|| bare_build(&out("theirs")), &|| build(&out("ours")), &|| {
            run(&hausblatt, &[&arguments[..], &[text(&with_lists)]].concat())
        }];
        let mut times = [Duration::ZERO; 3];
        for at in 0..3 {
            let at = if round % 2 == 0 { at } else { 2 - at };
            times[at] = alone(builds[at]);
        }
        let [bare_time, cold_time, lists_time] = times;
        let again = timed(|| build(&out("ours")));
        let heads = timed(|| run(&bare, &["bare-heads", text(&site)]));
        let resolved = timed(|| run(&hausblatt, &["resolve", "/notes/note-77/", "--site", text(&site)]));
        [ratio(cold_time, bare_time), ratio(lists_time, cold_time), ratio(again, cold_time), ratio(resolved, heads)]
    });
    let [mut cold, mut listed, mut unchanged, mut resolve] = columns(&measured);
    report(&format!("cold build, {ENTRIES} entries : bare program"), &mut cold, Reach::AtMost(1.5));
    report("the same with two lists on every page : without them", &mut listed, Reach::AtMost(1.2));
    report("build with nothing changed : cold build", &mut unchanged, Reach::AtMost(0.125));
    report(&format!("resolve, {ENTRIES} entries : reading 512 bytes of each"), &mut resolve, Reach::AtMost(3.0));
}

/// Builds after an edit, of a site with listings, terms, periods, a feed and a search.
fn edits(rounds: usize) {
    let folder = tempfile::tempdir().unwrap();
    let (site, out) = (folder.path().join("site"), folder.path().join("out"));
    sites::write(&site, ENTRIES);
    sites::fill(&site);
    let hausblatt = PathBuf::from(env!("CARGO_BIN_EXE_hausblatt"));
    let build = || run(&hausblatt, &["build", "-q", "--jobs", "2", "--site", text(&site), "--out", text(&out)]);
    build();
    let edit = |path: &str, from: &str, to: &str| {
        let file = site.join(path);
        let before = fs::read_to_string(&file).unwrap();
        let after = before.replacen(from, to, 1);
        assert_ne!(before, after, "{path}");
        fs::write(file, after).unwrap();
    };
    let entry = "content/notes/note-77.md";
    // To write all files over others takes a disk far longer than to write them: rendering is what is measured here.
    let memory = tempfile::tempdir_in("/dev/shm").ok();
    let in_memory = |name: &str| memory.as_ref().map(|memory| memory.path().join(name));
    let mut around = Vec::new();
    let measured = measure(rounds, |round| {
        // Without what the last round edited.
        build();
        let unchanged = timed(build);
        edit(entry, "Nobody had", &format!("In {round}, nobody had"));
        let body = ratio(timed(build), unchanged);
        edit(entry, ", nobody had", ", Nobody had");
        let (before, after) =
            (format!("title: {}Note", "x".repeat(round)), format!("title: {}Note", "x".repeat(round + 1)));
        edit(entry, &before, &after);
        [body, ratio(timed(build), unchanged)]
    });
    let [mut body, mut title] = columns(&measured);
    if let (Some(new), Some(over)) = (in_memory("new"), in_memory("over")) {
        let build = |out: &Path| {
            run(&hausblatt, &["build", "-q", "--jobs", "2", "--site", text(&site), "--out", text(out)]);
        };
        around = measure(rounds, |round| {
            build(&over);
            edit("themes/plain/layouts/document.html", "<footer>", &format!("<footer><!-- {round} -->"));
            let cold = timed(|| build(&new));
            let after = timed(|| build(&over));
            fs::remove_dir_all(&new).unwrap();
            ratio(after, cold)
        });
    }
    report(
        &format!("one body edited, {ENTRIES} entries and a search : nothing changed"),
        &mut body,
        Reach::AtMost(3.0),
    );
    report("one title edited, with the pages that show it : the same", &mut title, Reach::AtMost(3.5));
    if !around.is_empty() {
        report("the layout of every page edited : cold build, in memory", &mut around, Reach::AtMost(1.2));
    }
    let mut checked = measure(rounds, |_| {
        let address = ["/notes/note-78/", "--site", text(&site)];
        let resolved = timed(|| run(&hausblatt, &[&["resolve"][..], &address[..]].concat()));
        let checked = timed(|| {
            status(&hausblatt, &[&["check"][..], &address[..]].concat());
        });
        ratio(checked, resolved)
    });
    report("check of one address : resolve of it", &mut checked, Reach::AtMost(3.0));
    let mut again = measure(rounds.min(10), |round| {
        let check = || {
            status(&hausblatt, &["check", "-q", "--site", text(&site)]);
        };
        let _ = fs::remove_file(site.join(SEEN));
        let anew = timed(check);
        edit(entry, "Nobody had", &format!("Again in {round}, nobody had"));
        let again = ratio(timed(check), anew);
        edit(entry, ", nobody had", ", Nobody had");
        again
    });
    report("check of all after one body was edited : check of all anew", &mut again, Reach::AtMost(0.5));
}

fn images(rounds: usize) {
    let folder = tempfile::tempdir().unwrap();
    let site = folder.path().join("site");
    photos::write(&site);
    let hausblatt = PathBuf::from(env!("CARGO_BIN_EXE_hausblatt"));
    let bare = std::env::current_exe().unwrap();
    let measured = measure(rounds.min(10), |round| {
        let out = |name: &str| folder.path().join(format!("{name}-{round}"));
        let theirs = timed(|| run(&bare, &["bare-images", text(&site), text(&out("theirs"))]));
        let build =
            || run(&hausblatt, &["build", "-q", "--jobs", "2", "--site", text(&site), "--out", text(&out("ours"))]);
        let ours = timed(build);
        let again = timed(build);
        photos::forget(&site);
        [ratio(ours, theirs), ratio(again, ours)]
    });
    let [mut cold, mut unchanged] = columns(&measured);
    let mut peaks = [peak_of_build(&hausblatt, &site, &folder.path().join("peak"))];
    let count = photos::COUNT;
    report(&format!("{count} photographs in four sizes : bare program"), &mut cold, Reach::AtMost(1.2));
    report("the same with nothing changed : the first time", &mut unchanged, Reach::AtMost(0.125));
    report("MB at most, photographs of 12 megapixels", &mut peaks, Reach::AtMost(1000.0));
}

fn serve(rounds: usize) {
    let folder = tempfile::tempdir().unwrap();
    let (site, built) = (folder.path().join("site"), folder.path().join("built"));
    sites::write(&site, ENTRIES);
    let hausblatt = PathBuf::from(env!("CARGO_BIN_EXE_hausblatt"));
    run(&hausblatt, &["build", "-q", "--site", text(&site), "--out", text(&built)]);
    match serving::nginx(folder.path(), &built) {
        Some(nginx) => {
            let ours = serving::ours(&hausblatt, &site, &["--plain"]);
            let time = Duration::from_secs(2);
            let mut most = (0.0f64, 0.0f64);
            let mut ratios = measure(rounds.min(10), |_| {
                let (static_pages, bytes) = serving::pages_per_second(&nginx, time);
                let (pages, same) = serving::pages_per_second(&ours, time);
                assert!(bytes.starts_with(b"<!doctype html>") && same.starts_with(b"<!doctype html>"));
                most = (most.0.max(pages), most.1.max(static_pages));
                pages / static_pages
            });
            println!("  at most {:.0} rendered pages a second, {:.0} sent by nginx", most.0, most.1);
            report("rendered requests per second : nginx sending files", &mut ratios, Reach::AtLeast(0.2));
        }
        None => println!("  no nginx here to compare requests per second with"),
    }
    let server = serving::ours(&hausblatt, &site, &[]);
    for (what, file) in [("an entry", "content/notes/note-77.md"), ("a template", "themes/plain/templates/entry.html")]
    {
        for (how, renamed) in [("in place", false), ("by renaming", true)] {
            let mut times = serving::told_after(&server, "/notes/note-77/", &site.join(file), renamed, rounds);
            report(&format!("ms from saving {what} {how} to the event"), &mut times, Reach::AtMost(15.0));
        }
    }
}

/// So many edits must leave memory as it is.
const EDITS: usize = 20_000;

fn editor(rounds: usize) {
    let folder = tempfile::tempdir().unwrap();
    let site = folder.path().join("site");
    sites::write(&site, ENTRIES);
    let mut editor = editor::Editor::of(Path::new(env!("CARGO_BIN_EXE_hausblatt")), &site);
    let mut told: Vec<f64> = measure(rounds, |round| editor.told_after(round));
    report(&format!("ms from a keystroke to diagnostics, {ENTRIES} entries"), &mut told, Reach::AtMost(100.0));
    let mut hover: Vec<f64> = measure(rounds, |_| editor.hover());
    report("ms for what is under the pointer, after a keystroke", &mut hover, Reach::AtMost(20.0));
    let mut complete: Vec<f64> = measure(rounds, |_| editor.complete());
    report("ms for what fits, after a keystroke", &mut complete, Reach::AtMost(20.0));
    let edit = |editor: &mut editor::Editor, count: usize| {
        for number in 0..count {
            editor.types(&format!("<p>{number} +{{content.title}}</p>"));
            // What is asked now and then makes the server look at the text that it has.
            if number % 20 == 0 {
                editor.hover();
            }
        }
    };
    // While nothing is typed, pages are rendered: what that takes is part of both.
    let memory = |editor: &editor::Editor| {
        thread::sleep(Duration::from_secs(2));
        editor.memory()
    };
    edit(&mut editor, EDITS / 20);
    let (before, _) = memory(&editor);
    edit(&mut editor, EDITS);
    let (after, most) = memory(&editor);
    report(&format!("memory after {EDITS} edits : before them"), &mut [after / before], Reach::AtMost(1.2));
    report("MB at most, with these edits", &mut [most], Reach::AtMost(150.0));
}

/// The time per entry at 100,000 entries against 1,000, beside the bare program's own growth. How quick a disk is with that many
/// files depends on what it still has to write, so all files are in memory, where there is a folder for that; and 1,000
/// entries take so little that one build of them tells nothing.
fn growth() {
    let folder = tempfile::tempdir_in("/dev/shm").or_else(|_| tempfile::tempdir()).unwrap();
    let [few, many, out] = ["few", "many", "built"].map(|name| folder.path().join(name));
    sites::write(&few, 1000);
    sites::write(&many, 100_000);
    let (hausblatt, bare) = (PathBuf::from(env!("CARGO_BIN_EXE_hausblatt")), std::env::current_exe().unwrap());
    let took = |program: &Path, arguments: &[&str]| {
        let took = timed(|| run(program, arguments));
        fs::remove_dir_all(&out).unwrap();
        took.as_secs_f64()
    };
    let ours =
        |site: &Path| took(&hausblatt, &["build", "-q", "--jobs", "2", "--site", text(site), "--out", text(&out)]);
    let theirs = |site: &Path| took(&bare, &["bare-build", text(site), text(&out)]);
    // It is a ratio of ratios, of work that is the same each time: what else runs meanwhile only adds to each of the four.
    // Each takes seconds: what takes less finds a quiet moment sooner.
    let mut best = [[f64::INFINITY; 2]; 2];
    for _ in 0..9 {
        for (build, best) in [&ours as &dyn Fn(&Path) -> f64, &theirs].into_iter().zip(&mut best) {
            best[0] = best[0].min((0..40).map(|_| build(&few)).sum::<f64>() / 40.0);
            best[1] = best[1].min(build(&many));
        }
    }
    let [our, their] = best.map(|[few, many]| [1000.0 * few, 1000.0 * many]);
    println!(
        "  1,000 entries in {:.0} ms, by the bare program in {:.0}; 100,000 in {:.0} ms and {:.0}",
        our[0], their[0], our[1], their[1],
    );
    let mut growth = [our[1] / our[0] / (their[1] / their[0])];
    report("time per entry, 100,000 entries : 1,000, to the bare program's", &mut growth, Reach::AtMost(1.2));
}

fn large(rounds: usize) {
    let folder = tempfile::tempdir().unwrap();
    let many = folder.path().join("many");
    sites::write(&many, 100_000);
    // Meanwhile the disk is done with these files.
    growth();
    let hausblatt = PathBuf::from(env!("CARGO_BIN_EXE_hausblatt"));
    let server = serving::ours(&hausblatt, &many, &[]);
    for (what, file) in [("an entry", "content/notes/note-77.md"), ("a template", "themes/plain/templates/entry.html")]
    {
        let times = &mut serving::told_after(&server, "/notes/note-77/", &many.join(file), false, rounds.min(10));
        report(&format!("ms from saving {what} to the event, 100,000 entries"), times, Reach::AtMost(60.0));
    }
    drop(server);
    let mut peak = [peak_of_build(&hausblatt, &many, &folder.path().join("plain"))];
    report("MB at most, 100,000 entries", &mut peak, Reach::AtMost(300.0));
    sites::fill(&many);
    let mut peak = [peak_of_build(&hausblatt, &many, &folder.path().join("full"))];
    report("MB at most, with listings, terms, periods, feed and search", &mut peak, Reach::AtMost(400.0));
    sites::vary(&many, 100_000);
    let varied = folder.path().join("varied");
    run(&hausblatt, &["build", "-q", "--jobs", "2", "--site", text(&many), "--out", text(&varied)]);
    for (what, words) in [("one word", 1), ("two words", 2), ("three words", 3), ("six words", 6)] {
        let mut loaded = [first_search(&varied.join("search"), words)];
        report(&format!("kB at most for a first search of {what}"), &mut loaded, Reach::AtMost(200.0));
    }
}

/// How many kB, compressed, a browser that has nothing yet loads at most for a search of so many words, each of three letters or
/// more, and its first twenty results: the page, the script, the list of parts, the largest parts of words, and the largest
/// blocks of results.
fn first_search(search: &Path, words: usize) -> f64 {
    let compressed = |file: &Path| {
        let mut out = GzEncoder::new(Vec::new(), Compression::default());
        out.write_all(&fs::read(file).unwrap()).unwrap();
        out.finish().unwrap().len()
    };
    let largest = |beginning: &str, count: usize| {
        let files = fs::read_dir(search.join("index")).unwrap().map(|file| file.unwrap());
        let files = files.filter(|file| file.file_name().to_str().unwrap().starts_with(beginning));
        let mut sizes: Vec<usize> = files.map(|file| compressed(&file.path())).collect();
        sizes.sort_unstable();
        assert!(sizes.len() >= count, "{} files of the index begin with {beginning}", sizes.len());
        sizes.iter().rev().take(count).sum::<usize>()
    };
    let always = ["index.html", "search.js", "index.json"].map(|name| compressed(&search.join(name)));
    (always.iter().sum::<usize>() + largest("w-", words) + largest("e-", 20)) as f64 / 1000.0
}

fn million() {
    let folder = tempfile::tempdir().unwrap();
    let site = folder.path().join("site");
    sites::write(&site, 1_000_000);
    let hausblatt = PathBuf::from(env!("CARGO_BIN_EXE_hausblatt"));
    let mut peak = [peak_of_build(&hausblatt, &site, &folder.path().join("built"))];
    report("MB at most, 1,000,000 entries", &mut peak, Reach::AtMost(2000.0));
}

/// The most memory that a build holds at once, in MB, as Linux counts it.
fn peak_of_build(program: &Path, site: &Path, out: &Path) -> f64 {
    let arguments = ["build", "-q", "--jobs", "2", "--site", text(site), "--out", text(out)];
    let mut child = Command::new(program).args(arguments).stdout(Stdio::null()).spawn().unwrap();
    let status = format!("/proc/{}/status", child.id());
    let mut peak = 0.0f64;
    while child.try_wait().unwrap().is_none() {
        let text = fs::read_to_string(&status).unwrap_or_default();
        let line = text.lines().find_map(|line| line.strip_prefix("VmHWM:"));
        let kilobytes = line.and_then(|line| line.trim().trim_end_matches(" kB").parse::<f64>().ok());
        peak = peak.max(kilobytes.unwrap_or(0.0) / 1000.0);
        thread::sleep(Duration::from_millis(2));
    }
    assert!(child.wait().unwrap().success());
    peak
}

fn text(path: &Path) -> &str {
    path.to_str().unwrap()
}

fn status(program: &Path, arguments: &[&str]) -> std::process::ExitStatus {
    Command::new(program).args(arguments).stdout(Stdio::null()).stderr(Stdio::null()).status().unwrap()
}

fn run(program: &Path, arguments: &[&str]) {
    let status = Command::new(program).args(arguments).stdout(Stdio::null()).status().unwrap();
    assert!(status.success(), "{} {arguments:?}", program.display());
}
