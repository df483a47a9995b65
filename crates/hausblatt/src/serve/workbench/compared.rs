//! A change before it is made: the page with it beside the page as it is, what else changes, and the button that keeps it.

use hausblatt_core::analysis::compare::{AddressChange, Difference, Html, Side};
use hausblatt_core::change::edit::Edit;
use hausblatt_core::change::set::Assignment;
use hausblatt_core::files::Snapshot;
use hausblatt_core::text::address::{asked as read_address, encoded};
use hausblatt_lang::text::diagnostic::Diagnostic;
use similar::TextDiff;

use crate::html::{Exact, Markup, in_query};
use crate::put;
use crate::serve::access::Permission;
use crate::serve::answers::{self, Reader};
use crate::serve::edits;
use crate::serve::problem_page;
use crate::serve::tries::{self, Outcome, Tried};
use crate::serve::workbench::PageRequest;
use crate::serve::workbench::widths::WIDTHS;
use crate::show::diagnostics;
use crate::show::style::typed;
use crate::show::table::counted;

/// Where a change is kept.
pub const KEEP: &str = "/~/keep";
/// So many lines of a difference are shown.
const LINES: usize = 400;
/// So many addresses are listed.
const LISTED: usize = 100;
/// So few are seen at once.
const FEW: usize = 4;
/// The parts of a comparison that follow what one types, for `data-live`.
pub const LIVE: &str = "keep effects difference open then-360 then-768 then-1280";
/// A site of so many addresses is rendered as a whole to see which pages differ; a larger one only where that is wanted.
const RENDERED: usize = 400;

/// What is looked at with a change.
pub struct Comparison<'c> {
    /// The change; none where nothing is to be changed yet.
    pub edit: Option<&'c Edit>,
    /// The address whose page is shown.
    pub at: &'c str,
    /// The page of the workbench that comes after keeping.
    pub back: &'c str,
    /// Whether the page is shown beside it.
    pub frames: bool,
}

impl Comparison<'_> {
    /// All of it, in parts with ids that a script replaces one by one ([`LIVE`]).
    pub fn html(&self, asked: &PageRequest<'_>) -> Markup {
        let mut out = Markup::new();
        let outcome = self.edit.map(|edit| asked.server.tries.of(asked.moment, asked.world, edit));
        put!(out, "{}", self.keep(asked, outcome.as_ref()));
        put!(out, "{}", self.effects(asked, outcome.as_ref()));
        if self.frames {
            put!(out, "{}", self.pairs(outcome.as_ref()));
            put!(out, "<div id=\"difference\">\n");
            if let Some(tried) = changing(outcome.as_ref()).filter(|_| !comes_later(asked)) {
                put!(out, "{}", html_difference(asked, tried, self.at));
            }
            put!(out, "</div>\n");
        }
        out
    }

    /// The button that keeps the change, or why there is none.
    fn keep(&self, asked: &PageRequest<'_>, outcome: Option<&Outcome>) -> Markup {
        let mut out = Markup::new();
        put!(out, "<div id=\"keep\" class=\"keep\">\n");
        match outcome {
            None => put!(out, "<p class=\"faint\">Nothing is changed yet.</p>\n"),
            Some(Err(problems)) => {
                put!(out, "<p><strong>This can't be kept.</strong></p>\n{}", refused(asked, problems));
            }
            Some(Ok(tried)) if tried.planned.writes.is_empty() => {
                put!(out, "<p class=\"faint\">The files say so already: there is nothing to keep.</p>\n");
            }
            Some(Ok(tried)) => put!(out, "{}", self.form(asked, tried)),
        }
        put!(out, "</div>\n");
        out
    }

    fn form(&self, asked: &PageRequest<'_>, tried: &Tried) -> Markup {
        let mut out = Markup::new();
        let writes = tried.planned.writes.iter();
        let did = |write: &hausblatt_core::files::edit::Write| match (&write.instead, &write.bytes) {
            (None, _) => "adds",
            (Some(_), None) => "removes",
            (Some(_), Some(_)) => "changes",
        };
        let files: Vec<String> = writes.map(|write| format!("{} {}", did(write), write.path)).collect();
        if let Some(edit) = self.edit.filter(|_| asked.permission == Permission::Granted) {
            put!(out, "<form method=\"post\" action=\"{}\">\n", KEEP);
            let own =
                [("token", asked.server.token.as_str()), ("seen", &tries::seen(&tried.planned)), ("back", self.back)];
            put!(out, "{}", hidden(own.into_iter()));
            let pairs = edits::pairs(asked.world, edit);
            put!(out, "{}", hidden(pairs.iter().map(|(name, value)| (name.as_str(), value.as_str()))));
            put!(out, "<p><button>Keep</button> <span class=\"faint\">{}</span></p>\n</form>\n", files.join(", "));
        } else {
            put!(out, "{}<p class=\"faint\">It {}.</p>\n", asked.refusal(), files.join(", "));
        }
        put!(
            out,
            "<p>The same on the command line: <code class=\"command\">{}</code></p>\n",
            typed(&tried.planned.command)
        );
        out
    }

    /// The page with the change beside the page as it is, at each width.
    fn pairs(&self, outcome: Option<&Outcome>) -> Markup {
        let mut out = Markup::new();
        let now = encoded_target(self.at);
        let then = match outcome {
            Some(Ok(tried)) => tried.address(&now),
            Some(Err(_)) | None => now.clone(),
        };
        put!(out, "<p class=\"open\" id=\"open\">");
        match outcome {
            Some(Ok(_)) => put!(out, "<a href=\"{}\">Open {} as it would be</a>", then, self.at),
            Some(Err(_)) => put!(out, "Until this can be kept, both sides show the page as it is."),
            None => {}
        }
        put!(
            out,
            "</p>\n<div class=\"pairs\" tabindex=\"0\" role=\"region\" \
             aria-label=\"The page as it is beside the page as it would be, at three widths\">\n"
        );
        for width in WIDTHS {
            put!(out, "<div class=\"pair\">\n");
            for (what, id, target) in [("As it is", "now", &now), ("As it would be", "then", &then)] {
                put!(
                    out,
                    "<figure class=\"width w{}\"><figcaption>{}, {} px</figcaption><div><iframe id=\"{}-{}\" src=\"{}\" title=\"{}, {} px wide\"></iframe></div></figure>\n",
                    width,
                    what,
                    width,
                    id,
                    width,
                    target,
                    what,
                    width
                );
            }
            put!(out, "</div>\n");
        }
        put!(out, "</div>\n");
        out
    }

    /// What else differs: other addresses, and problems that are new.
    fn effects(&self, asked: &PageRequest<'_>, outcome: Option<&Outcome>) -> Markup {
        let mut out = Markup::new();
        if comes_later(asked) && matches!(outcome, Some(Ok(_))) {
            let address = format!("{}?{}", asked.path, asked.query_with("effects", "yes"));
            put!(
                out,
                "<div id=\"effects\" data-later=\"{}\"><p><a href=\"{}\">What else changes</a></p></div>\n",
                address,
                address
            );
            return out;
        }
        put!(out, "<div id=\"effects\">\n");
        if let Some(tried) = changing(outcome) {
            put!(out, "{}", self.others(asked, tried));
        }
        put!(out, "</div>\n");
        out
    }

    /// The other addresses that change.
    fn others(&self, asked: &PageRequest<'_>, tried: &Tried) -> Markup {
        let mut out = Markup::new();
        let count = asked.world.requests().len();
        let renders = count <= RENDERED || asked.query.get("every") == "yes";
        let html = if renders { Html::Whether } else { Html::No };
        let difference = tried.difference(asked.world, html);
        let own = read_address(self.at).path;
        let others: Vec<&AddressChange> =
            difference.changed.iter().filter(|change| !self.frames || change.address != own).collect();
        let words = match others.len() {
            0 if renders => "No other page would be different".to_owned(),
            0 => "Each other address has the same template".to_owned(),
            count => format!("What else changes: {}", counted(count, "address", "addresses")),
        };
        if others.is_empty() {
            put!(out, "<p>{}.</p>\n", words);
        } else {
            let open = Markup::raw(if others.len() <= FEW { " open" } else { "" });
            put!(out, "<details{}><summary>{}</summary>\n<ul class=\"changes\">\n", open, words);
            for change in others.iter().take(LISTED) {
                put!(
                    out,
                    "<li><a href=\"/~/address?address={}\">{}</a> <span class=\"faint\">{}</span></li>\n",
                    in_query(&change.address),
                    change.address,
                    what(change)
                );
            }
            put!(out, "</ul>\n");
            if others.len() > LISTED {
                put!(out, "<p>… and {} more.</p>\n", others.len() - LISTED);
            }
            put!(out, "</details>\n");
        }
        if !renders {
            let mut pairs = asked.query.0.clone();
            pairs.retain(|(name, _)| name != "every");
            pairs.push(("every".to_owned(), "yes".to_owned()));
            put!(
                out,
                "<p>Which pages have other HTML is not known yet: <a href=\"{}?{}\">render all {}</a>.</p>\n",
                asked.path,
                edits::query(&pairs),
                count
            );
        }
        put!(out, "{}", new_problems(difference, tried));
        out
    }
}

/// Whether the page comes first, and its script then fetches what takes a survey of both sites.
fn comes_later(asked: &PageRequest<'_>) -> bool {
    asked.world.requests().len() > RENDERED && !asked.query.has("effects")
}

/// The site that is tried, if anything in it is other than it is.
fn changing(outcome: Option<&Outcome>) -> Option<&Tried> {
    outcome?.as_ref().ok().map(|tried| &**tried).filter(|tried| !tried.planned.writes.is_empty())
}

/// What becomes of an address, in words.
fn what(change: &AddressChange) -> String {
    let side = |side: &Side| match (&side.template, &side.theme) {
        _ if (300..400).contains(&side.status) => "a redirect".to_owned(),
        (Some(template), Some(theme)) => format!("{template} ({theme})"),
        _ => "nothing".to_owned(),
    };
    match (&change.from, &change.to) {
        (None, Some(to)) => format!("added: {}", side(to)),
        (Some(from), None) => format!("removed: {}", side(from)),
        (Some(from), Some(to)) if from == to => "HTML differs".to_owned(),
        (Some(from), Some(to)) => format!("{} → {}", side(from), side(to)),
        (None, None) => String::new(),
    }
}

/// Problems that there would be and are not there now.
fn new_problems(difference: &Difference, tried: &Tried) -> Markup {
    let mut out = Markup::new();
    if difference.problems.is_empty() {
        return out;
    }
    let new: Vec<&Diagnostic> = difference.problems.iter().map(|problem| &problem.diagnostic).collect();
    let open = Markup::raw(if new.len() < FEW { " open" } else { "" });
    put!(
        out,
        "<details{}><summary>{}</summary>\n{}</details>\n",
        open,
        counted(new.len(), "new problem", "new problems"),
        problem_page::list(&tried.moment.snapshot, &new)
    );
    out
}

/// How the HTML of the page differs.
fn html_difference(asked: &PageRequest<'_>, tried: &Tried, at: &str) -> Markup {
    let mut out = Markup::new();
    let before = answers::page(asked.moment, at, Reader::Program);
    let after = answers::page(&tried.moment, at, Reader::Program);
    if before.text == after.text {
        put!(out, "<p>The HTML of this page stays as it is.</p>\n");
        return out;
    }
    put!(out, "<details class=\"difference\"><summary>How the HTML of this page differs</summary>\n");
    put!(out, "{}</details>\n", text_difference(&before.text, &after.text));
    out
}

/// How two texts differ, line by line.
pub fn text_difference(before: &str, after: &str) -> Markup {
    let mut out = Markup::new();
    let difference = TextDiff::from_lines(before, after).unified_diff().context_radius(2).to_string();
    put!(out, "<pre class=\"diff\" tabindex=\"0\" role=\"region\" aria-label=\"Difference\">");
    let lines = difference.lines().filter(|line| !line.starts_with("\\ No newline"));
    for line in lines.clone().take(LINES) {
        match line.as_bytes().first() {
            Some(b'+') => put!(out, "<ins>{}</ins>\n", line),
            Some(b'-') => put!(out, "<del>{}</del>\n", line),
            _ => put!(out, "{}\n", line),
        }
    }
    put!(out, "</pre>\n");
    if lines.count() > LINES {
        put!(out, "<p>… and more: <code>hausblatt suppose --diff</code> shows all of a difference.</p>\n");
    }
    out
}

/// Names and values that a form sends along.
pub fn hidden<'p>(pairs: impl Iterator<Item = (&'p str, &'p str)>) -> Markup {
    let mut out = Markup::new();
    for (name, value) in pairs {
        put!(out, "<input type=\"hidden\" name=\"{}\" value=\"{}\">\n", Exact(name), Exact(value));
    }
    out
}

/// What is done with a member of a list: links that change it, move it, and take it out.
pub struct Member<'m> {
    /// Its key, as in `trays.main.2`.
    pub key: &'m str,
    /// Its position, from 1, and how many there are.
    pub position: (usize, usize),
    /// What it is called.
    pub label: &'m str,
    /// Where it is changed.
    pub change: &'m str,
}

impl Member<'_> {
    /// The links; `link` makes one of what it does.
    pub fn links(&self, link: impl Fn(Assignment) -> String) -> Markup {
        let mut out = Markup::new();
        let (number, count) = self.position;
        let mut one = |address: &str, does: &str, word: &str| {
            let dot = if word == "Change" { "" } else { " · " };
            put!(out, "{}<a href=\"{}\" aria-label=\"{}\">{}</a>", dot, address, does, word);
        };
        one(self.change, &format!("Change {}", self.label), "Change");
        if number > 1 {
            let up = link(Assignment::Move(self.key.to_owned(), number - 1));
            one(&up, &format!("Move {} up", self.label), "Up");
        }
        if number < count {
            let down = link(Assignment::Move(self.key.to_owned(), number + 1));
            one(&down, &format!("Move {} down", self.label), "Down");
        }
        one(&link(Assignment::Clear(self.key.to_owned())), &format!("Take out {}", self.label), "Take out");
        out
    }
}

/// Problems of texts that are not written.
pub fn not_written(texts: &Snapshot, problems: &[Diagnostic]) -> Markup {
    let bare: Vec<Diagnostic> = problems.iter().map(diagnostics::unwritten).collect();
    problem_page::list(texts, &bare.iter().collect::<Vec<_>>())
}

/// Why a change can't be made.
pub fn refused(asked: &PageRequest<'_>, problems: &[Diagnostic]) -> Markup {
    not_written(&asked.moment.snapshot, problems)
}

/// An address with its query as a link writes it.
pub fn encoded_target(address: &str) -> String {
    let target = read_address(address);
    match target.query.as_str() {
        "" => encoded(&target.path),
        query => format!("{}?{query}", encoded(&target.path)),
    }
}

/// An address of the site to look at: the one that is given, if it is one.
pub fn address_to_look_at(given: &str) -> Option<String> {
    (given.starts_with('/') && !given[1..].starts_with(['/', '\\'])).then(|| given.to_owned())
}
