//! All ladders beside each other: a column for each kind of request.

use hausblatt_core::analysis::chart::{Column, Level, columns};
use hausblatt_core::themes::lineage::FileId;
use hausblatt_core::world::World;

use crate::html::Markup;
use crate::put;
use crate::show::chart::{Drawing, LETTER, arrow, cut, line, sign, text, unit, words};
use crate::show::table::addresses;

const BOX: f64 = 26.0;
const GAP: f64 = 5.0;
const LABEL: f64 = 17.0;
const BETWEEN: f64 = 16.0;
const NARROWEST: f64 = 128.0;
const WIDEST: f64 = 190.0;
const GUTTER: f64 = 14.0;
const MARGIN: f64 = 24.0;
const TOP: f64 = 96.0;
/// So many files of one level are below each other before they are beside each other.
const DEEP: usize = 12;

/// Draws all ladders of a site.
pub fn whole(world: &World) -> Drawing {
    let columns = columns(world);
    let mut body = Markup::new();
    let widths: Vec<f64> = columns.iter().map(|column| width(world, column)).collect();
    let mut at = MARGIN;
    let mut height: f64 = 0.0;
    for (column, &width) in columns.iter().zip(&widths) {
        height = height.max(draw(world, column, (at, width), &mut body));
        at += width + GUTTER;
    }
    let width = (at - GUTTER + MARGIN).max(900.0);
    let legend = height + 34.0;
    let title = format!("Which file renders what: {}", world.site.config.title);
    text(&mut body, "title", (MARGIN, 38.0), &title);
    let about = "Each request goes down its column, from specific to general, and the first file that is named for it \
                 renders it. If that file were gone, the next one below would.";
    text(&mut body, "faint", (MARGIN, 60.0), about);
    draw_legend(world, legend, &mut body);
    let described = columns.iter().map(described).collect::<Vec<_>>().join(" ");
    Drawing { width, height: legend + 34.0, title, about: format!("{about} {described}"), body }
}

fn described(column: &Column) -> String {
    format!("{}: {} on {} levels.", column.kind, addresses(column.addresses), column.levels.len())
}

/// The name of a file in its column: what all names there begin with is left out.
fn short(world: &World, column: &Column, file: FileId) -> String {
    let name = world.lineage.file(file).name.trim_start_matches("templates/");
    let name = name.strip_suffix(".html").unwrap_or(name);
    name.strip_prefix(&format!("{}/", column.kind)).unwrap_or(name).to_owned()
}

fn width(world: &World, column: &Column) -> f64 {
    let longest = column
        .levels
        .iter()
        .flat_map(|level| &level.files)
        .map(|(file, _)| short(world, column, *file).chars().count());
    let one = (longest.max().unwrap_or(0) as f64 * LETTER + 66.0).clamp(NARROWEST, WIDEST);
    let beside = column.levels.iter().map(|level| level.files.len().div_ceil(DEEP)).max().unwrap_or(1).max(1);
    one * beside as f64 + GAP * (beside as f64 - 1.0)
}

/// Draws a column and returns where it ends.
fn draw(world: &World, column: &Column, (x, width): (f64, f64), out: &mut Markup) -> f64 {
    text(out, "kind", (x, TOP), column.kind);
    text(out, "faint", (x, TOP + 16.0), &addresses(column.addresses));
    let mut y = TOP + 34.0;
    for (number, level) in column.levels.iter().enumerate() {
        if number > 0 {
            let rail = x + 11.0;
            line(out, "rail", &[(rail, y), (rail, y + BETWEEN - 5.0)]);
            arrow(out, (rail, y + BETWEEN - 1.0));
            y += BETWEEN;
        }
        y = draw_level(world, column, level, (x, y), width, out);
    }
    y
}

fn draw_level(world: &World, column: &Column, level: &Level, (x, y): (f64, f64), width: f64, out: &mut Markup) -> f64 {
    text(out, "level", (x, y + 12.0), &cut(&words(level.reason, column.kind, &level.head), width));
    let y = y + LABEL;
    if level.files.is_empty() {
        put!(out, "<g><title>no file here, for example {}</title>\n", level.example);
        put!(
            out,
            "<rect class=\"empty\" x=\"{}\" y=\"{}\" width=\"{}\" height=\"18\" rx=\"4\"/>\n",
            unit(x),
            unit(y),
            unit(width)
        );
        text(out, "level", (x + 8.0, y + 13.0), "no file");
        put!(out, "</g>\n");
        return y + 18.0;
    }
    let beside = level.files.len().div_ceil(DEEP);
    let deep = level.files.len().div_ceil(beside);
    let one = (width - GAP * (beside as f64 - 1.0)) / beside as f64;
    for (at, (file, count)) in level.files.iter().enumerate() {
        let place = (x + (at / deep) as f64 * (one + GAP), y + (at % deep) as f64 * (BOX + GAP));
        draw_file(world, &short(world, column, *file), (*file, *count), place, one, out);
    }
    y + deep as f64 * (BOX + GAP) - GAP
}

fn draw_file(
    world: &World,
    name: &str,
    (id, count): (FileId, usize),
    (x, y): (f64, f64),
    width: f64,
    out: &mut Markup,
) {
    let file = world.lineage.file(id);
    let theme = &world.lineage.theme_of(id).name;
    let told = if count == 0 { "renders nothing now".to_owned() } else { format!("renders {}", addresses(count)) };
    put!(out, "<g><title>{} of {}: {}</title>\n", file.node.path, theme, told);
    put!(
        out,
        "<rect class=\"box {}\" x=\"{}\" y=\"{}\" width=\"{}\" height=\"{}\" rx=\"4\"/>\n",
        if count == 0 { "behind" } else { "" },
        unit(x),
        unit(y),
        unit(width),
        unit(BOX)
    );
    sign(out, file.theme, (x, y), BOX);
    let number = if count == 0 { "–".to_owned() } else { count.to_string() };
    let room = width - 22.0 - 16.0 - number.len() as f64 * LETTER;
    text(out, if count == 0 { "faint" } else { "" }, (x + 28.0, y + 17.0), &cut(name, room));
    put!(
        out,
        "<text class=\"{}\" x=\"{}\" y=\"{}\" text-anchor=\"end\">{}</text>\n</g>\n",
        if count == 0 { "faint" } else { "strong" },
        unit(x + width - 7.0),
        unit(y + 17.0),
        number
    );
}

/// What the colours, shapes and lines mean.
fn draw_legend(world: &World, y: f64, out: &mut Markup) {
    let mut x = MARGIN;
    for (at, theme) in world.lineage.themes.iter().enumerate() {
        sign(out, at, (x, y - 14.0), 20.0);
        text(out, "", (x + 28.0, y), &theme.name);
        x += 28.0 + theme.name.chars().count() as f64 * LETTER + 24.0;
    }
    let words = "number: how many addresses the file renders · dashed: covered by another file";
    text(out, "faint", (x, y), words);
}
