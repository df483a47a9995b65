//! The theme rehearsed: what goes wrong with other content, and any variation of a page beside the page as it is.

use std::sync::atomic::{AtomicUsize, Ordering};
use std::sync::{Arc, Mutex, OnceLock};

use hausblatt_core::model::request::Routed;
use hausblatt_core::rehearse::{Rehearsal, Stage, Variation, Within};
use hausblatt_core::text::address::{asked, encoded};
use hausblatt_core::world::{Unloadable, World};
use hausblatt_lang::text::diagnostic::Diagnostic;

use crate::html::{Markup, in_query};
use crate::put;
use crate::serve::answers::{By, MadePage};
use crate::serve::problem_page;
use crate::serve::workbench::widths::WIDTHS;
use crate::serve::workbench::{PageRequest, WorkbenchPage};
use crate::serve::{Moment, Server, locked};
use crate::show::table::counted;

/// The address of the part.
pub const PART: &str = "/~/rehearsal";
/// Where a page is shown in a variation.
pub const VARIED: &str = "/~/varied";

/// So many weaknesses are shown.
const MOST: usize = 100;

/// The rehearsal of one state of the site.
#[derive(Clone, Default)]
struct Rehearsed {
    generation: u64,
    /// The site made ready, or why it can't be; nothing as long as that is not known.
    stage: Arc<OnceLock<Result<Stage, Vec<Diagnostic>>>>,
    /// How many variations are done.
    done: Arc<AtomicUsize>,
    /// What was found, once that is known.
    found: Arc<OnceLock<Rehearsal>>,
    is_begun: bool,
}

impl Rehearsed {
    /// The site made ready. Whoever asks meanwhile waits for the same.
    fn stage(&self, world: &World) -> Result<&Stage, Vec<Diagnostic>> {
        let make = || Stage::of(world, Within::default()).map_err(|Unloadable(problems)| problems);
        self.stage.get_or_init(make).as_ref().map_err(Clone::clone)
    }
}

/// The rehearsal of the present state, made by a thread of its own when it is first asked for: that takes seconds.
#[derive(Default)]
pub struct Rehearsals {
    kept: Mutex<Rehearsed>,
    /// One is made at a time.
    turn: Mutex<()>,
}

impl Rehearsals {
    /// That of the present state, of which there may be nothing yet.
    fn of(&self, generation: u64) -> Rehearsed {
        let mut kept = locked(&self.kept);
        if kept.generation != generation {
            *kept = Rehearsed { generation, ..Rehearsed::default() };
        }
        kept.clone()
    }

    /// Begins to rehearse the present state, unless that was done before.
    fn begin(&self, server: &Arc<Server>, moment: &Moment) {
        let mut kept = locked(&self.kept);
        if kept.generation != moment.generation || std::mem::replace(&mut kept.is_begun, true) {
            return;
        }
        let (server, rehearsed, world) = (server.clone(), kept.clone(), moment.world.clone());
        std::thread::spawn(move || {
            let rehearsals = &server.rehearsals;
            let _turn = locked(&rehearsals.turn);
            // What has changed since is rehearsed by whoever asks for that.
            if locked(&rehearsals.kept).generation != rehearsed.generation {
                return;
            }
            let work = || {
                let Ok(stage) = world.as_ref().as_ref().map_err(Clone::clone).and_then(|world| rehearsed.stage(world))
                else {
                    return;
                };
                let found = stage.rehearse(&|done, _| rehearsed.done.store(done, Ordering::Relaxed));
                let _ = rehearsed.found.set(found);
            };
            // Threads of its own, and not all cores: pages are made meanwhile.
            let cores = std::thread::available_parallelism().map_or(1, usize::from);
            match rayon::ThreadPoolBuilder::new().num_threads(cores.div_ceil(2)).build() {
                Ok(pool) => pool.install(work),
                Err(_) => work(),
            }
        });
    }
}

/// The page.
pub fn part(asked: &PageRequest<'_>) -> WorkbenchPage<'static> {
    let mut main = Markup::new();
    put!(main, "<h1>Rehearsal</h1>\n<div id=\"rehearsal\">\n");
    let rehearsed = asked.server.rehearsals.of(asked.moment.generation);
    asked.server.rehearsals.begin(asked.server, asked.moment);
    match rehearsed.stage.get() {
        None => put!(main, "{}", unfinished("Making the site ready for its rehearsal.")),
        Some(Err(problems)) => {
            let problems: Vec<&Diagnostic> = problems.iter().collect();
            put!(main, "{}", problem_page::list(&asked.moment.snapshot, &problems));
        }
        Some(Ok(stage)) => {
            let (words, address) = (asked.query.get("variation"), asked.query.get("address"));
            put!(main, "{}", choice(stage, words, address));
            match (stage.named(words), rehearsed.found.get()) {
                (Some(variation), _) => put!(main, "{}", side_by_side(asked, &variation, address)),
                (None, _) if !words.is_empty() => {
                    put!(main, "<p class=\"lead\">There is no variation “{}”.</p>\n", words)
                }
                (None, Some(rehearsal)) => put!(main, "{}", found(asked, rehearsal)),
                (None, None) => {
                    let done = rehearsed.done.load(Ordering::Relaxed);
                    let words = format!("Rehearsing: {done} of {} variations.", stage.variations().len());
                    put!(main, "{}", unfinished(&words));
                }
            }
        }
    }
    put!(main, "</div>\n");
    WorkbenchPage { title: "Rehearsal", here: PART, main, wide: true }
}

/// How far it is; the script looks again until it is done.
fn unfinished(words: &str) -> Markup {
    let mut out = Markup::new();
    put!(
        out,
        "<p class=\"lead\" role=\"status\" data-again=\"rehearsal\">{} <a href=\"{}\">Look again</a></p>\n",
        words,
        PART
    );
    out
}

/// The form that chooses a variation and an address.
fn choice(stage: &Stage, words: &str, address: &str) -> Markup {
    let mut out = Markup::new();
    put!(
        out,
        "<form class=\"filter\" action=\"{}\">\n<p><label for=\"variation\">Variation</label> \
         <input id=\"variation\" name=\"variation\" list=\"variations\" size=\"44\" value=\"{}\"></p>\n\
         <p><label for=\"address\">Address</label> <input id=\"address\" name=\"address\" value=\"{}\"></p>\n\
         <p><button>Show</button></p>\n<datalist id=\"variations\">\n",
        PART,
        words,
        address
    );
    for variation in stage.variations() {
        put!(out, "<option value=\"{}\"></option>\n", variation.words);
    }
    put!(out, "</datalist>\n</form>\n");
    out
}

fn link(words: &str, address: &str) -> String {
    format!("{PART}?variation={}&address={}", in_query(words), in_query(address))
}

/// What the rehearsal found, each with the variations that show it.
fn found(asked: &PageRequest<'_>, rehearsal: &Rehearsal) -> Markup {
    let mut out = Markup::new();
    let rendered = format!(
        "{} on {}",
        counted(rehearsal.variations, "variation", "variations"),
        counted(rehearsal.pages, "page", "pages")
    );
    match rehearsal.found.len() {
        0 => put!(out, "<p class=\"lead\">No weaknesses found with {}.</p>\n", rendered),
        count => put!(
            out,
            "<p class=\"lead\">{} found with {}: what goes wrong with content that this site does not have.</p>\n",
            counted(count, "weakness", "weaknesses"),
            rendered
        ),
    }
    if rehearsal.left_out > 0 {
        put!(
            out,
            "<p>{} left out, since that would be too many pages.</p>\n",
            counted(rehearsal.left_out, "variation was", "variations were")
        );
    }
    for rehearsed in rehearsal.found.iter().take(MOST) {
        put!(out, "{}", problem_page::list(&asked.moment.snapshot, &[&rehearsed.finding.diagnostic]));
        let Some((words, address)) = rehearsed.variations.first() else { continue };
        put!(out, "<p class=\"seen faint\">shown by <a href=\"{}\">{}</a>", link(words, address), *words);
        if rehearsed.variations.len() > 1 {
            let more = counted(rehearsed.variations.len() - 1, "more variation", "more variations");
            put!(out, " and by {}", more);
        }
        put!(out, "</p>\n");
    }
    if rehearsal.found.len() > MOST {
        put!(out, "<p>… and {} more; <code>hausblatt rehearse</code> lists all.</p>\n", rehearsal.found.len() - MOST);
    }
    out
}

/// A page as it is and in a variation, at three widths.
fn side_by_side(page: &PageRequest<'_>, variation: &Variation, address: &str) -> Markup {
    let mut out = Markup::new();
    let given = Some(address).filter(|address| address.starts_with('/') && !address[1..].starts_with(['/', '\\']));
    let first = variation.addresses.first().map_or("/", String::as_str);
    let address = given.map_or_else(|| first.to_owned(), str::to_owned);
    put!(
        out,
        "<p class=\"lead\">{} at <a href=\"{}\">{}</a></p>\n",
        variation.words,
        encoded_target(&address),
        address
    );
    let others: Vec<&String> = variation.addresses.iter().filter(|other| **other != address).collect();
    if !others.is_empty() {
        put!(out, "<p>Rehearsed at ");
        for (at, &other) in others.iter().enumerate() {
            put!(out, "{}<a href=\"{}\">{}</a>", if at == 0 { "" } else { ", " }, link(&variation.words, other), other);
        }
        put!(out, "</p>\n");
    }
    let varied = format!("{VARIED}?variation={}&address={}", in_query(&variation.words), in_query(&address));
    let is_home = matches!(page.world.route(&address), Routed::Request(request) if request.status != 404);
    let rows = [("In the variation", Some(varied)), ("As it is", is_home.then(|| encoded_target(&address)))];
    for (what, target) in rows {
        put!(out, "<h2>{}</h2>\n", what);
        let Some(target) = target else {
            put!(out, "<p>Nothing is at this address without the variation.</p>\n");
            continue;
        };
        put!(out, "<div class=\"widths\" tabindex=\"0\" role=\"region\" aria-label=\"{} at three widths\">\n", what);
        for width in WIDTHS {
            put!(
                out,
                "<figure class=\"width w{}\"><figcaption>{} px</figcaption><div><iframe src=\"{}\" title=\"{}, {} px wide\"></iframe></div></figure>\n",
                width,
                width,
                target,
                what,
                width
            );
        }
        put!(out, "</div>\n");
    }
    out
}

/// An address with its query as a link writes it.
fn encoded_target(address: &str) -> String {
    let target = asked(address);
    match target.query.as_str() {
        "" => encoded(&target.path),
        query => format!("{}?{query}", encoded(&target.path)),
    }
}

/// A page in a variation.
pub fn varied(asked: &PageRequest<'_>) -> MadePage {
    let (words, address) = (asked.query.get("variation"), asked.query.get("address"));
    let rehearsed = asked.server.rehearsals.of(asked.moment.generation);
    let page = rehearsed.stage(asked.world).and_then(|stage| {
        let Some(variation) = stage.named(words) else { return Ok(None) };
        stage.shown(&variation, address).map_err(|Unloadable(problems)| problems)
    });
    let (status, text, by) = match page {
        Ok(Some(page)) => (page.status, with_drawings(page.text), By::BuiltIn("rehearsal")),
        Ok(None) => (404, "There is no such variation, or it only redirects.".to_owned(), By::BuiltIn("rehearsal")),
        Err(found) => (500, problem_page::page(&asked.moment.snapshot, VARIED, 500, &found), By::BuiltIn("problems")),
    };
    MadePage {
        status,
        media: "text/html; charset=utf-8".into(),
        text,
        published: None,
        location: None,
        by,
        is_missed: false,
        problems: 0,
    }
}

/// A page with the drawings in it that only variations have: no address leads to them.
fn with_drawings(mut text: String) -> String {
    for path in Stage::DRAWINGS {
        let address = format!("/{path}");
        if let Some(drawing) = Stage::drawing(path).filter(|_| text.contains(&address)) {
            let data = format!("data:image/svg+xml,{}", in_query(&drawing));
            text = text.replace(&address, &data);
        }
    }
    text
}
