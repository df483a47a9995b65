//! One page of about 6 KB, rendered by a program and written by hand: 12 menu items, 10 cards, title, body.

use std::hint::black_box;
use std::sync::Arc;

use bumpalo::Bump;
use hausblatt_lang::compile::{Role, Source, compile};
use hausblatt_lang::escape::html::escape;
use hausblatt_lang::library::{Library, Unit};
use hausblatt_lang::render::{Job, Limits, Shows, render};
use hausblatt_lang::text::ending::Ending;
use hausblatt_lang::types::{Globals, Type};
use hausblatt_lang::value::datum::{Datum, DatumList, DatumRecord};
use hausblatt_lang::value::host::{Fit, Host};
use hausblatt_lang::value::language::Language;
use hausblatt_lang::value::members;
use hausblatt_lang::value::shape::{Interner, Shape};
use hausblatt_lang::value::{Record, Scratch, Value};
use jiff::tz::TimeZone;

const TEMPLATE: &str = "<article>\n<h1>+{title}</h1>\n+{body}\n</article>\n<ul class=\"cards\">\n+{each card in cards}\n+{partial \"card\" given card = card}\n+{end}\n</ul>\n";
const CARD: &str = "<li class=\"card\"><a href=\"+{card.address}\"><img src=\"+{card.image}\" alt=\"+{card.alt}\"><b>+{card.title}</b></a><p>+{card.summary}</p></li>";
const LAYOUT: &str = "<!doctype html>\n<html lang=\"en\">\n<head>\n<meta charset=\"utf-8\">\n<title>+{title} – +{site}</title>\n</head>\n<body>\n<nav>\n<ul>\n+{each item in menu}\n<li><a href=\"+{item.address}\"+{if item.here} class=\"here\"+{end}>+{item.label}</a></li>\n+{end}\n</ul>\n</nav>\n<main>\n+{slot}\n</main>\n</body>\n</html>\n";

/// Everything that both sides need.
pub struct Page {
    host: Nowhere,
    library: Library,
    values: Vec<Datum>,
    menu: Vec<(String, String, bool)>,
    cards: Vec<[String; 5]>,
    body: String,
}

struct Nowhere {
    symbols: Interner,
    language: Language,
}

impl Host for Nowhere {
    fn symbols(&self) -> &Interner {
        &self.symbols
    }

    fn zone(&self) -> &TimeZone {
        static UTC: TimeZone = TimeZone::UTC;
        &UTC
    }

    fn site_address(&self) -> &str {
        "https://seeds.example"
    }

    fn url<'a>(&'a self, _: &str, _: &Scratch<'a>) -> Option<&'a str> {
        None
    }

    fn asset<'a>(&'a self, _: &str, _: &Scratch<'a>) -> Option<&'a str> {
        None
    }

    fn inline<'a>(&'a self, _: &str, _: Option<&str>, _: &Scratch<'a>) -> Result<Option<&'a str>, String> {
        Ok(None)
    }

    fn language(&self) -> &Language {
        &self.language
    }

    fn image<'a>(&'a self, _: &str, _: &Scratch<'a>) -> Option<Value<'a>> {
        None
    }

    fn fitted<'a>(&'a self, image: &'a dyn Record, _: Fit<'_>, _: &Scratch<'a>) -> Result<Value<'a>, String> {
        Ok(Value::Record(image))
    }

    fn srcset<'a>(&'a self, _: &'a dyn Record, _: &[u32], _: &Scratch<'a>) -> Result<Value<'a>, String> {
        Ok(Value::Nothing)
    }

    fn content<'a>(&'a self, _: &str, _: &Scratch<'a>) -> Option<Value<'a>> {
        None
    }

    fn markdown<'a>(&'a self, _: &str, _: &Scratch<'a>) -> &'a str {
        ""
    }

    fn slug(&self, text: &str) -> String {
        text.to_owned()
    }
}

const TITLE: &str = "Borrowed in spring & back in autumn";
const SITE: &str = "Marrow Lane Seed Library";

impl Page {
    /// Prepares both sides.
    pub fn new() -> Self {
        let menu: Vec<(String, String, bool)> =
            (0..12).map(|at| (format!("/part-{at}/"), format!("Part {at}"), at == 3)).collect();
        let card = |at: usize| {
            [
                format!("/varieties/variety-{at}/"),
                format!("/media/variety-{at}.svg"),
                format!("Drawing of variety {at}"),
                format!("Variety \"{at}\" of the lane"),
                "Climbs three metres in a summer & flowers until the frost; leave two plants for seed.".to_owned(),
            ]
        };
        let cards: Vec<[String; 5]> = (0..10).map(card).collect();
        let body =
            "<p>The last of the autumn returns came in today: four kilos of beans, sorted at the long table.</p>\n"
                .repeat(26);
        let mut symbols = Interner::starting_with(members::NAMES);
        let values = values(&mut symbols, &menu, &cards, &body);
        let library = library(&mut symbols);
        Self { host: Nowhere { symbols, language: Language::new("en") }, library, values, menu, cards, body }
    }

    /// The page as the program renders it.
    pub fn rendered(&self) -> String {
        self.render(&Bump::new()).to_owned()
    }

    fn render<'a>(&'a self, arena: &'a Bump) -> &'a str {
        let values: &[Value<'a>] = arena.alloc_slice_fill_iter(self.values.iter().map(Datum::value));
        let job = Job {
            host: &self.host,
            library: &self.library,
            globals: values,
            templates: &[0],
            layouts: &[2],
            prepare: &[],
            trays: &[],
            given: &[],
            shows: Shows::default(),
            limits: Limits::default(),
        };
        render(&job, arena).unwrap().text
    }

    /// Renders it many times.
    pub fn render_many(&self, count: usize) {
        let mut arena = Bump::new();
        for _ in 0..count {
            black_box(self.render(&arena));
            arena.reset();
        }
    }

    /// Writes it by hand many times.
    pub fn write_many(&self, count: usize) {
        for _ in 0..count {
            black_box(self.by_hand());
        }
    }

    /// The page as someone would write it without a language.
    pub fn by_hand(&self) -> String {
        let mut out = String::with_capacity(8 << 10);
        out.push_str("<!doctype html>\n<html lang=\"en\">\n<head>\n<meta charset=\"utf-8\">\n<title>");
        escape(black_box(TITLE), &mut out);
        out.push_str(" – ");
        escape(black_box(SITE), &mut out);
        out.push_str("</title>\n</head>\n<body>\n<nav>\n<ul>\n");
        for (address, label, here) in &self.menu {
            out.push_str("<li><a href=\"");
            escape(address, &mut out);
            out.push('"');
            if *here {
                out.push_str(" class=\"here\"");
            }
            out.push('>');
            escape(label, &mut out);
            out.push_str("</a></li>\n");
        }
        out.push_str("</ul>\n</nav>\n<main>\n<article>\n<h1>");
        escape(black_box(TITLE), &mut out);
        out.push_str("</h1>\n");
        out.push_str(&self.body);
        out.push_str("\n</article>\n<ul class=\"cards\">\n");
        for [address, image, alt, title, summary] in &self.cards {
            out.push_str("<li class=\"card\"><a href=\"");
            escape(address, &mut out);
            out.push_str("\"><img src=\"");
            escape(image, &mut out);
            out.push_str("\" alt=\"");
            escape(alt, &mut out);
            out.push_str("\"><b>");
            escape(title, &mut out);
            out.push_str("</b></a><p>");
            escape(summary, &mut out);
            out.push_str("</p></li>\n");
        }
        out.push_str("</ul>\n</main>\n</body>\n</html>");
        out
    }
}

fn values(symbols: &mut Interner, menu: &[(String, String, bool)], cards: &[[String; 5]], body: &str) -> Vec<Datum> {
    let mut shape =
        |names: &[&str]| Arc::new(Shape::new(names.iter().map(|name| symbols.intern(name)).collect::<Vec<_>>()));
    let (item, card) = (shape(&["address", "label", "here"]), shape(&["address", "image", "alt", "title", "summary"]));
    let record = |shape: &Arc<Shape>, values: Vec<Datum>| {
        Datum::Record(DatumRecord { shape: shape.clone(), values: values.into(), stands_for: None })
    };
    let items = menu.iter().map(|(address, label, here)| {
        record(&item, vec![Datum::text(address), Datum::text(label), Datum::Bool(*here)])
    });
    let cards = cards.iter().map(|fields| record(&card, fields.iter().map(|field| Datum::text(field)).collect()));
    vec![
        Datum::text(SITE),
        Datum::text(TITLE),
        Datum::Html(body.into()),
        Datum::List(DatumList(items.collect())),
        Datum::List(DatumList(cards.collect())),
    ]
}

fn library(symbols: &mut Interner) -> Library {
    let mut globals = Globals::default();
    for name in ["site", "title", "body", "menu", "cards"] {
        globals.add(name, Type::Any);
    }
    let mut library = Library::default();
    for (path, text, role) in
        [("template", TEMPLATE, Role::Template), ("card", CARD, Role::Partial), ("layout", LAYOUT, Role::Layout)]
    {
        let takes = (role == Role::Partial).then(|| vec![("card".to_owned(), None)]);
        let source = Source {
            path: path.into(),
            text: text.into(),
            body: 0,
            role,
            ending: Ending::Html,
            takes,
            types: Vec::new(),
            flows: Vec::new(),
            next_takes: None,
        };
        let compiled = compile(&source, &globals, symbols);
        assert!(compiled.is_sound, "{:?}", compiled.diagnostics);
        library.units.push(Unit {
            path: path.into(),
            program: Some(compiled.program),
            is_sound: true,
            callees: Box::new([]),
            next: None,
            theme: 0,
            brings: Box::new([]),
        });
    }
    library.add_partial(Ending::Html, "card", 1);
    assert!(library.link(symbols).is_empty());
    library
}
