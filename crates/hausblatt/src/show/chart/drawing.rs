//! A drawing: its file or element, and the shapes that both charts use.

use hausblatt_core::lookup::ladder::Reason;

use crate::html::Markup;
use crate::put;

/// The style of a chart, inside its file or in the workbench.
pub const STYLE: &str = include_str!("chart.css");

/// How the file of a chart begins, by which it is known again.
pub const BEGINNING: &str = "<svg xmlns=\"http://www.w3.org/2000/svg\" class=\"chart\"";

/// How many themes have colours of their own; further ones share the last.
const COLOURS: usize = 6;
/// About how many units a letter of 12 units is wide.
pub(super) const LETTER: f64 = 6.9;

/// A chart: its size and what is drawn.
pub struct Drawing {
    pub(super) width: f64,
    pub(super) height: f64,
    pub(super) title: String,
    pub(super) about: String,
    pub(super) body: Markup,
}

impl Drawing {
    /// The `<svg>` element, for a page that has the style.
    pub fn element(&self) -> Markup {
        self.with("")
    }

    /// A file of its own.
    pub fn file(&self) -> String {
        let mut style = String::from("<style>\n");
        style.push_str(STYLE);
        // A little too wide for the window, it is made to fit; what would be too small to read is scrolled.
        style.push_str(&format!(".chart {{ max-width: max(100%, {}px); height: auto }}\n", (self.width * 0.85).ceil()));
        style.push_str("</style>\n");
        self.with(&style).into_text()
    }

    fn with(&self, style: &str) -> Markup {
        let mut out = Markup::new();
        let (width, height) = (self.width.ceil() as u32, self.height.ceil() as u32);
        put!(
            out,
            "{} viewBox=\"0 0 {} {}\" width=\"{}\" height=\"{}\" role=\"img\" aria-labelledby=\"chart-title chart-about\">\n",
            Markup::raw(BEGINNING),
            width,
            height,
            width,
            height
        );
        put!(out, "<title id=\"chart-title\">{}</title>\n<desc id=\"chart-about\">{}</desc>\n", self.title, self.about);
        put!(out, "{}", Markup::made(style.to_owned()));
        put!(out, "<rect class=\"ground\" width=\"{}\" height=\"{}\"/>\n", width, height);
        put!(out, "{}</svg>\n", self.body);
        out
    }
}

/// A number as SVG writes it.
pub(super) fn unit(number: f64) -> String {
    let number = (number * 10.0).round() / 10.0;
    format!("{number}")
}

/// Text, with its baseline at `y`.
pub(super) fn text(out: &mut Markup, class: &str, (x, y): (f64, f64), words: &str) {
    put!(out, "<text class=\"{}\" x=\"{}\" y=\"{}\">{}</text>\n", class, unit(x), unit(y), words);
}

/// A line through points.
pub(super) fn line(out: &mut Markup, class: &str, points: &[(f64, f64)]) {
    let points: Vec<String> = points.iter().map(|(x, y)| format!("{},{}", unit(*x), unit(*y))).collect();
    put!(out, "<polyline class=\"{}\" points=\"{}\"/>\n", class, points.join(" "));
}

/// The point of an arrow that leads down to here.
pub(super) fn arrow(out: &mut Markup, (x, y): (f64, f64)) {
    let points =
        format!("{},{} {},{} {},{}", unit(x), unit(y), unit(x - 6.0), unit(y - 9.0), unit(x + 6.0), unit(y - 9.0));
    put!(out, "<polygon class=\"arrow\" points=\"{}\"/>\n", points);
}

/// The sign of a theme, 22 units wide: its colour, and a shape of its own for those who can't say the colours.
pub(super) fn sign(out: &mut Markup, theme: usize, (x, y): (f64, f64), height: f64) {
    let number = theme.min(COLOURS - 1) + 1;
    put!(
        out,
        "<rect class=\"theme-{}\" x=\"{}\" y=\"{}\" width=\"22\" height=\"{}\" rx=\"3\"/>\n",
        number,
        unit(x),
        unit(y),
        unit(height)
    );
    let (x, y) = (x + 11.0, y + height / 2.0);
    let around = |points: &[(f64, f64)]| {
        points.iter().map(|(dx, dy)| format!("{},{}", unit(x + dx), unit(y + dy))).collect::<Vec<_>>().join(" ")
    };
    let points = match theme {
        0 => {
            put!(out, "<circle class=\"mark\" cx=\"{}\" cy=\"{}\" r=\"5.5\"/>\n", unit(x), unit(y));
            return;
        }
        1 => around(&[(-5.0, -5.0), (5.0, -5.0), (5.0, 5.0), (-5.0, 5.0)]),
        2 => around(&[(0.0, -6.0), (6.0, 5.0), (-6.0, 5.0)]),
        3 => around(&[(0.0, -7.0), (6.0, 0.0), (0.0, 7.0), (-6.0, 0.0)]),
        4 => around(&[
            (-2.0, -6.0),
            (2.0, -6.0),
            (2.0, -2.0),
            (6.0, -2.0),
            (6.0, 2.0),
            (2.0, 2.0),
            (2.0, 6.0),
            (-2.0, 6.0),
            (-2.0, 2.0),
            (-6.0, 2.0),
            (-6.0, -2.0),
            (-2.0, -2.0),
        ]),
        _ => around(&[(-6.0, -5.0), (6.0, -5.0), (0.0, 6.0)]),
    };
    put!(out, "<polygon class=\"mark\" points=\"{}\"/>\n", points);
}

/// A name cut in its middle to so many units.
pub(super) fn cut(name: &str, width: f64) -> String {
    let most = (width / LETTER).max(6.0) as usize;
    let letters: Vec<char> = name.chars().collect();
    if letters.len() <= most {
        return name.to_owned();
    }
    let (head, tail) = ((most - 1) / 2, most - 1 - (most - 1) / 2);
    letters[..head].iter().chain(&['…']).chain(&letters[letters.len() - tail..]).collect()
}

/// What a level is for, in words.
pub(super) fn words(reason: Reason, kind: &str, head: &str) -> String {
    let one = match kind {
        "entry" => "entry",
        "front" | "page" => "page",
        _ => kind,
    };
    match reason {
        Reason::Chosen => "chosen by an editor".to_owned(),
        Reason::Front => "the front".to_owned(),
        Reason::Id => format!("one {one} alone"),
        Reason::Ancestor => "all below".to_owned(),
        Reason::Collection if head != kind => "the collection's listing".to_owned(),
        Reason::Collection => "one collection".to_owned(),
        Reason::Term => "one term".to_owned(),
        Reason::Taxonomy => "one taxonomy".to_owned(),
        Reason::Period => "one collection".to_owned(),
        Reason::Route => "one route".to_owned(),
        Reason::Status => "one status".to_owned(),
        Reason::StatusClass => "its class".to_owned(),
        Reason::Kind if head != kind => format!("every {head}"),
        Reason::Kind => format!("every {one}"),
        Reason::Fallback => "everything".to_owned(),
        Reason::Declared => "as hausblatt.toml says".to_owned(),
    }
}
