//! The ladder of one address, with the path that its request takes.

use hausblatt_core::analysis::explanation::{Explanation, FileRef};
use hausblatt_core::lookup::resolution::FileState;

use crate::html::Markup;
use crate::put;
use crate::show::chart::{Drawing, arrow, cut, line, sign, text, unit, words};

const ROW: f64 = 62.0;
const BOX: f64 = 40.0;
const MARGIN: f64 = 32.0;
const TOP: f64 = 150.0;
const RUNG: f64 = 400.0;

/// Draws the ladder of one address.
pub fn one(explained: &Explanation) -> Drawing {
    let Explanation { address, kind, themes, rungs, .. } = explained;
    let cell = ((1216.0 - RUNG) / themes.len().max(1) as f64).clamp(120.0, 240.0);
    let width = (MARGIN * 2.0 + RUNG + cell * themes.len() as f64).max(900.0);
    let title = format!("Which file renders {address}");
    let mut body = Markup::new();
    text(&mut body, "title", (MARGIN, 44.0), &cut(&title, (width - 2.0 * MARGIN) * 0.62));
    let next = next(explained);
    let sentences = sentences(explained, next);
    for (at, line) in sentences.iter().enumerate() {
        text(&mut body, "", (MARGIN, 70.0 + at as f64 * 18.0), &cut(line, width - 2.0 * MARGIN));
    }
    for (at, theme) in themes.iter().enumerate() {
        let x = MARGIN + RUNG + at as f64 * cell;
        sign(&mut body, at, (x, TOP - 24.0), 20.0);
        text(&mut body, "kind", (x + 30.0, TOP - 8.0), &cut(theme, cell - 40.0));
    }
    let place = |rung: usize, theme: usize| (MARGIN + RUNG + theme as f64 * cell, TOP + 14.0 + rung as f64 * ROW);
    let kind = kind.unwrap_or("");
    let rail = MARGIN + RUNG - 40.0;
    let middle = |rung: usize| place(rung, 0).1 + BOX / 2.0;
    let position = |wanted: &FileRef| {
        let rung = rungs.iter().position(|rung| rung.files.iter().any(|(file, _)| file.id == wanted.id))?;
        Some((rung, wanted.theme_number))
    };
    let winner = explained.renders.template();
    let last = rungs.len().saturating_sub(1);
    line(&mut body, "rail", &[(rail, TOP), (rail, middle(last))]);
    if let Some((rung, theme)) = winner.and_then(position) {
        line(&mut body, "path", &[(rail, TOP - 12.0), (rail, middle(rung)), (place(rung, theme).0, middle(rung))]);
        if let Some((below, other)) = next.and_then(position) {
            let from = if below == rung { place(rung, theme).0 + cell - 12.0 } else { rail };
            line(
                &mut body,
                "next",
                &[(from, middle(rung)), (from, middle(below)), (place(below, other).0, middle(below))],
            );
        }
    }
    // Where a line passes no ring is drawn.
    let ways = [winner, next].map(|file| file.and_then(position));
    let crossed = |rung: usize, theme: usize| ways.iter().flatten().any(|&(at, to)| at == rung && theme < to);
    for (number, rung) in rungs.iter().enumerate() {
        let y = place(number, 0).1;
        let head = rung.name.split(['/', '.']).next().unwrap_or("");
        let class = if rung.files.is_empty() { "faint" } else { "strong" };
        put!(body, "<circle class=\"arrow\" cx=\"{}\" cy=\"{}\" r=\"4\"/>\n", unit(rail), unit(y + BOX / 2.0));
        let name = format!("{}  {}", number + 1, rung.name);
        text(&mut body, class, (MARGIN, y + 17.0), &cut(&name, RUNG - 64.0));
        text(&mut body, "level", (MARGIN + 16.0, y + 33.0), &words(rung.reason, kind, head));
        for theme in 0..themes.len() {
            let (x, y) = place(number, theme);
            match rung.of_theme(theme) {
                Some((file, state)) => {
                    let is_next = next.is_some_and(|next| next.id == file.id);
                    draw(file, *state, is_next, (x, y, cell - 24.0), &mut body);
                }
                None if crossed(number, theme) => {}
                None => put!(
                    body,
                    "<circle class=\"none\" cx=\"{}\" cy=\"{}\" r=\"4\"/>\n",
                    unit(x + 11.0),
                    unit(y + BOX / 2.0)
                ),
            }
        }
    }
    if let Some((rung, theme)) = winner.and_then(position) {
        let (x, y) = place(rung, theme);
        arrow_right(&mut body, (x, y + BOX / 2.0));
    }
    arrow(&mut body, (rail, TOP + 4.0));
    let height = TOP + 14.0 + rungs.len() as f64 * ROW + 50.0;
    let legend = "thick line: the way of the request, down to the first file that exists · dashed: the way if that file were gone · ring: no file";
    text(&mut body, "faint", (MARGIN, height - 26.0), legend);
    let status = explained.status.code;
    let about = format!("{} It answers with status {status}.", sentences.join(" "));
    Drawing { width, height, title, about, body }
}

fn arrow_right(out: &mut Markup, (x, y): (f64, f64)) {
    let points =
        format!("{},{} {},{} {},{}", unit(x), unit(y), unit(x - 10.0), unit(y - 7.0), unit(x - 10.0), unit(y + 7.0));
    put!(out, "<polygon class=\"arrow\" points=\"{}\"/>\n", points);
}

/// The file that would render the address if the one that does were gone.
fn next(explained: &Explanation) -> Option<&FileRef> {
    let files = explained.rungs.iter().flat_map(|rung| &rung.files);
    let spare = files.filter(|(_, state)| state.is_spare());
    let winner = explained.renders.template();
    spare.map(|(file, _)| file).find(|file| winner.is_none_or(|winner| winner.id != file.id))
}

fn sentences(explained: &Explanation, next: Option<&FileRef>) -> Vec<String> {
    let Some(winner) = explained.renders.template() else { return vec!["No theme has a file for it.".to_owned()] };
    let mut first = format!("{} renders it.", winner.path);
    if let Some(layout) = explained.layout.first() {
        first = format!("{first} Around it is {}.", layout.path);
    }
    let second = match next {
        Some(next) => format!("If that file were gone, {} would.", next.path),
        None => "If that file were gone, nothing would.".to_owned(),
    };
    vec![first, second]
}

fn draw(file: &FileRef, state: FileState, is_next: bool, (x, y, width): (f64, f64, f64), out: &mut Markup) {
    let (class, word) = match state {
        FileState::Renders => ("wins", "renders it"),
        _ if is_next => ("behind", "would be next"),
        FileState::PassedOver | FileState::Covered => ("behind", "covered"),
        FileState::Hidden => ("behind", "hidden"),
        FileState::Unfit => ("behind", "not for this content"),
    };
    put!(out, "<g><title>{}: {}</title>\n", file.path, word);
    put!(
        out,
        "<rect class=\"box {}\" x=\"{}\" y=\"{}\" width=\"{}\" height=\"{}\" rx=\"4\"/>\n",
        class,
        unit(x),
        unit(y),
        unit(width),
        unit(BOX)
    );
    sign(out, file.theme_number, (x, y), BOX);
    let class = if state == FileState::Renders { "strong" } else { "" };
    text(out, class, (x + 32.0, y + BOX / 2.0 + 4.0), &cut(word, width - 40.0));
    put!(out, "</g>\n");
}
