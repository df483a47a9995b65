//! A small world for the language: files by name, a few values, no site.

#![allow(dead_code, clippy::unwrap_used, clippy::panic)]

use std::collections::BTreeMap;
use std::sync::Arc;

use bumpalo::Bump;
use hausblatt_lang::compile::{Role, Source, prepared_names};
use hausblatt_lang::library::{Brought, Library, Unit};
use hausblatt_lang::render::{InTray, Job, Limits, Shows, Stop, Tray, render};
use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::ending::Ending;
use hausblatt_lang::text::source::position;
use hausblatt_lang::types::{Globals, Type, Unlisted};
use hausblatt_lang::value::datum::{Datum, DatumList, DatumRecord};
use hausblatt_lang::value::host::{Fit, Host};
use hausblatt_lang::value::language::Language;
use hausblatt_lang::value::members;
use hausblatt_lang::value::shape::{Interner, Shape, Symbol};
use hausblatt_lang::value::{Record, Scratch, Value};
use jiff::tz::TimeZone;

/// A photo as templates see it: `/media/40x30.jpg`.
struct Photo<'h> {
    host: &'h TestHost,
    address: &'h str,
    size: (u32, u32),
}

impl Record for Photo<'_> {
    fn get<'a>(&'a self, symbol: Symbol, _: &Scratch<'a>) -> Value<'a> {
        match self.host.symbols.name(symbol) {
            "width" => Value::Int(self.size.0.into()),
            "height" => Value::Int(self.size.1.into()),
            "address" => Value::Text(self.address),
            _ => Value::Nothing,
        }
    }

    fn keys(&self) -> Vec<Symbol> {
        Vec::new()
    }

    fn as_text(&self) -> Option<&str> {
        Some(self.address)
    }

    fn is_image(&self) -> bool {
        true
    }
}

fn size_and_format(image: &dyn Record) -> Option<((u32, u32), &str)> {
    let (size, format) = image.as_text()?.strip_prefix("/media/")?.split_once('.')?;
    let (width, height) = size.split_once('x')?;
    Some(((width.parse().ok()?, height.parse().ok()?), format))
}

/// A photo in several widths.
struct InWidths<'h>(&'h [(&'h str, u32)]);

impl Record for InWidths<'_> {
    fn get<'a>(&'a self, _: Symbol, _: &Scratch<'a>) -> Value<'a> {
        Value::Nothing
    }

    fn keys(&self) -> Vec<Symbol> {
        Vec::new()
    }

    fn as_candidates(&self) -> Option<&[(&str, u32)]> {
        Some(self.0)
    }
}

impl TestHost {
    fn photo<'a>(&'a self, size: (u32, u32), format: &str, scratch: &Scratch<'a>) -> Value<'a> {
        let address = scratch.text(&format!("/media/{}x{}.{format}", size.0, size.1));
        Value::Record(scratch.keep(Photo { host: self, address, size }))
    }
}

struct TestHost {
    symbols: Interner,
    language: Language,
    visit: Datum,
    tidemark: Datum,
}

impl Host for TestHost {
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

    fn url<'a>(&'a self, reference: &str, scratch: &Scratch<'a>) -> Option<&'a str> {
        reference.strip_prefix("page:").map(|id| scratch.text(&format!("/{id}/")))
    }

    fn asset<'a>(&'a self, path: &str, scratch: &Scratch<'a>) -> Option<&'a str> {
        (path != "lost.css").then(|| scratch.text(&format!("/assets/{path}")))
    }

    fn inline<'a>(&'a self, path: &str, title: Option<&str>, scratch: &Scratch<'a>) -> Result<Option<&'a str>, String> {
        let drawn = path == "bed.svg";
        Ok(drawn.then(|| scratch.text(&format!("<svg><title>{}</title></svg>", title.unwrap_or("")))))
    }

    fn language(&self) -> &Language {
        &self.language
    }

    fn image<'a>(&'a self, path: &str, scratch: &Scratch<'a>) -> Option<Value<'a>> {
        match path {
            "/media/bed.svg" => {
                let drawing = Photo { host: self, address: "/media/bed.svg", size: (40, 20) };
                Some(Value::Record(scratch.keep(drawing)))
            }
            "/media/bed.jpg" => Some(self.photo((40, 30), "jpg", scratch)),
            _ => None,
        }
    }

    fn fitted<'a>(&'a self, image: &'a dyn Record, fit: Fit<'_>, scratch: &Scratch<'a>) -> Result<Value<'a>, String> {
        let Some(((width, height), format)) = size_and_format(image) else { return Ok(Value::Record(image)) };
        match fit {
            Fit::Scaled(most) => {
                let scaled = width.min(most);
                Ok(self.photo((scaled, height * scaled / width), format, scratch))
            }
            Fit::Cropped(across, down) => Ok(self.photo((width.min(height * across / down), height), format, scratch)),
            Fit::As("gif") => Err("no image is made as \"gif\"".to_owned()),
            Fit::As(format) => Ok(self.photo((width, height), format, scratch)),
            Fit::Quality(_) => Ok(Value::Record(image)),
        }
    }

    fn srcset<'a>(&'a self, image: &'a dyn Record, widths: &[u32], scratch: &Scratch<'a>) -> Result<Value<'a>, String> {
        if size_and_format(image).is_none() {
            return Ok(Value::Nothing);
        }
        let all: Vec<(&str, u32)> = widths.iter().map(|width| ("/media/a bed,1.jpg", *width)).collect();
        Ok(Value::Record(scratch.keep(InWidths(scratch.keep_all(&all)))))
    }

    /// Of Markdown only emphasis.
    fn content<'a>(&'a self, reference: &str, _: &Scratch<'a>) -> Option<Value<'a>> {
        match reference {
            "page:visit" => Some(self.visit.value()),
            "entry:varieties/tidemark" => Some(self.tidemark.value()),
            _ => None,
        }
    }

    fn markdown<'a>(&'a self, text: &str, scratch: &Scratch<'a>) -> &'a str {
        let mut escaped = String::new();
        hausblatt_lang::escape::html::escape(text, &mut escaped);
        let mut parts = escaped.split('*');
        let mut out = format!("<p>{}", parts.next().unwrap_or(""));
        for (at, part) in parts.enumerate() {
            out += if at % 2 == 0 { "<em>" } else { "</em>" };
            out += part;
        }
        scratch.text(&(out + "</p>"))
    }

    fn slug(&self, text: &str) -> String {
        text.to_lowercase()
            .split(|c: char| !c.is_alphanumeric())
            .filter(|part| !part.is_empty())
            .collect::<Vec<_>>()
            .join("-")
    }
}

/// Files and what they take. The names: `t…` templates in the order of their chain, `l…` layouts from
/// the inside outwards, `=…` prepare files, `%…` components (each brings a style sheet), all others partials; `NAME.2` is what the partial `NAME` extends,
/// in a farther theme. Names may have endings.
#[derive(Default)]
pub struct Files {
    files: BTreeMap<String, String>,
    takes: BTreeMap<String, Vec<(String, Option<Datum>)>>,
    pub limits: Limits,
    pub shows: Shows,
    pub language: &'static str,
}

impl Files {
    pub fn new(files: &[(&str, &str)]) -> Self {
        let files = files.iter().map(|(name, text)| ((*name).to_owned(), (*text).to_owned())).collect();
        Self { files, language: "en", ..Self::default() }
    }

    /// `"size"` required, `"size=small"` with a default.
    pub fn takes(mut self, file: &str, parameters: &[&str]) -> Self {
        let parameter = |text: &&str| match text.split_once('=') {
            Some((name, default)) => (name.to_owned(), Some(Datum::text(default))),
            None => ((*text).to_owned(), None),
        };
        self.takes.insert(file.to_owned(), parameters.iter().map(parameter).collect());
        self
    }

    /// The page, or the reports, one a line: `FILE:LINE:COLUMN CODE MESSAGE | HELP`.
    pub fn run(&self) -> String {
        match self.page() {
            (Some(page), report) if report.is_empty() => page,
            (Some(page), report) => format!("{page}\n{report}"),
            (None, report) => report,
        }
    }

    /// The page, if there is one, and the reports.
    pub fn page(&self) -> (Option<String>, String) {
        let mut symbols = Interner::starting_with(members::NAMES);
        let (mut globals, values) = values(&mut symbols);
        for (_, text) in self.files.iter().filter(|(name, _)| name.starts_with('=')) {
            for name in prepared_names(text) {
                globals.add_prepared(&name);
            }
        }
        let mut library = Library::default();
        let mut sources = Vec::new();
        let (mut templates, mut layouts, mut prepare) = (Vec::new(), Vec::new(), Vec::new());
        for (name, text) in &self.files {
            let (stem, ending) = Ending::split(name).unwrap_or((name, Ending::Html));
            let role = match name.as_bytes()[0] {
                b't' => Role::Template,
                b'l' => Role::Layout,
                b'=' => Role::Prepare,
                b'%' => Role::Component,
                _ => Role::Partial,
            };
            let path: Arc<str> = name.as_str().into();
            sources.push(Some(Source {
                path: path.clone(),
                text: text.as_str().into(),
                body: 0,
                role,
                ending,
                takes: self.takes.get(name).cloned(),
                types: Vec::new(),
                flows: Vec::new(),
                next_takes: self.takes.get(&format!("{name}.2")).cloned(),
            }));
            let id = library.units.len() as u32;
            match role {
                Role::Template => templates.push(id),
                Role::Layout => layouts.push(id),
                Role::Prepare => prepare.push(id),
                Role::Partial | Role::Component if name.ends_with(".2") => {}
                Role::Component => library.add_component(ending, &stem[1..], id),
                Role::Partial => library.add_partial(ending, stem, id),
            }
            let next = self.files.keys().position(|other| *other == format!("{name}.2")).map(|at| at as u32);
            library.units.push(Unit {
                path,
                program: None,
                is_sound: false,
                callees: Box::new([]),
                next,
                theme: usize::from(name.ends_with(".2")),
                brings: match role {
                    Role::Component => {
                        let path = format!("components/{}/style.css", &stem[1..]).into();
                        Box::new([Brought { path, theme: 0 }])
                    }
                    _ => Box::new([]),
                },
            });
        }
        let found = library.compile(&mut sources, &mut globals, &mut symbols);
        let mut diagnostics: Vec<Diagnostic> = found.into_iter().flatten().collect();
        diagnostics.extend(library.link(&symbols));
        if diagnostics.iter().any(Diagnostic::is_error) {
            return (None, self.report(&diagnostics));
        }
        for name in ["address", "width", "height"] {
            symbols.intern(name);
        }
        let visit = record(&mut symbols, &[("title", Datum::text("Visit"))]);
        let tidemark = record(&mut symbols, &[("title", Datum::text("Tidemark"))]);
        let host = TestHost { symbols, language: Language::new(self.language), visit, tidemark };
        let arena = Bump::new();
        let mut values: Vec<Value<'_>> = values.iter().map(Datum::value).collect();
        values.resize(globals.count(), Value::Nothing);
        let components: Vec<InTray<'_>> = ["notice", "panel"]
            .iter()
            .filter_map(|name| library.find_component(Ending::Html, name))
            .map(|unit| InTray::Component { unit, given: &[] })
            .chain([InTray::LeftOut("<gone>")])
            .collect();
        let trays = [Tray { name: "main", placed: &components }];
        let job = Job {
            host: &host,
            library: &library,
            globals: &values,
            templates: &templates,
            layouts: &layouts,
            prepare: &prepare,
            trays: &trays,
            given: &[],
            shows: self.shows,
            limits: self.limits,
        };
        match render(&job, &arena).map_err(|stop| *stop) {
            Ok(output) => {
                diagnostics.extend(output.warnings);
                (Some(output.text.to_owned()), self.report(&diagnostics))
            }
            Err(Stop::Problem(problem)) => (None, self.report(&[*problem])),
            Err(Stop::Answer { status, title, .. }) => (None, format!("answer {status} {}", title.unwrap_or_default())),
            Err(Stop::Redirect { status, to, .. }) => (None, format!("redirect {status} {to}")),
        }
    }

    fn report(&self, diagnostics: &[Diagnostic]) -> String {
        let line = |diagnostic: &Diagnostic| {
            let place = diagnostic.place.as_ref().unwrap();
            let at = position(&self.files[&*place.path], place.span.start);
            let help = diagnostic.help.as_ref().map(|help| format!(" | {help}")).unwrap_or_default();
            let related = diagnostic.related.iter().map(|(place, why)| {
                let at = position(&self.files[&*place.path], place.span.start);
                format!(" ~ {}:{}:{} {why}", place.path, at.line, at.column)
            });
            let related: String = related.collect();
            let place = format!("{}:{}:{}", place.path, at.line, at.column);
            format!("{place} {} {}{help}{related}", diagnostic.code, diagnostic.message)
        };
        diagnostics.iter().map(line).collect::<Vec<_>>().join("\n")
    }
}

fn values(symbols: &mut Interner) -> (Globals, Vec<Datum>) {
    let mut globals = Globals::default();
    let members = |text: &[(&str, Type)]| text.iter().map(|(name, of)| ((*name).to_owned(), of.clone())).collect();
    let pea = globals.record(
        "an entry",
        Unlisted::Warning,
        members(&[
            ("title", Type::Text),
            ("days", Type::Number),
            ("families", Type::list(Type::Text)),
            ("sown", Type::Date),
        ]),
    );
    let day = |text: &str| Datum::Date(hausblatt_lang::value::moment::Moment::parse(text, &TimeZone::UTC).unwrap());
    let mut entry = |title: &str, days: i64, family: &str, sown: Datum| {
        let families = Datum::List(DatumList(Box::new([Datum::text(family)])));
        let fields =
            [("title", Datum::text(title)), ("days", Datum::Int(days)), ("families", families), ("sown", sown)];
        record(symbols, &fields)
    };
    let entries = [
        entry("Tidemark", 75, "legumes", day("2026-03-01")),
        entry("Cobblestone", 90, "beets", Datum::Nothing),
        entry("Ambler", 80, "legumes", day("2026-04-01")),
    ];
    let site = record(symbols, &[("title", Datum::text("Seeds & co"))]);
    let site_type = globals.record("the site", Unlisted::Error, members(&[("title", Type::Text)]));
    let mut kept = Vec::new();
    let mut add = |globals: &mut Globals, name: &str, of: Type, value: Datum| {
        globals.add(name, of);
        kept.push(value);
    };
    add(&mut globals, "site", Type::Record(site_type), site);
    add(&mut globals, "first", Type::Record(pea), entries[0].clone());
    globals.add_of_site("peas", Type::list(Type::Record(pea)));
    kept.push(Datum::List(DatumList(entries.clone().into())));
    let mut add = |globals: &mut Globals, name: &str, of: Type, value: Datum| {
        globals.add(name, of);
        kept.push(value);
    };
    add(&mut globals, "wild", Type::Any, Datum::text("\"><script>alert('x')</script>&"));
    add(&mut globals, "bad", Type::Any, Datum::text("java\tscript:alert(1)"));
    add(&mut globals, "html", Type::Html, Datum::Html("<b>bold</b> &amp; free".into()));
    add(&mut globals, "any", Type::Any, Datum::Int(7));
    add(&mut globals, "classes", Type::list(Type::Text), Datum::List(DatumList(Box::new([Datum::text("page")]))));
    globals.let_set("classes");
    (globals, kept)
}

fn record(symbols: &mut Interner, fields: &[(&str, Datum)]) -> Datum {
    let names: Vec<_> = fields.iter().map(|(name, _)| symbols.intern(name)).collect();
    let values = fields.iter().map(|(_, value)| value.clone()).collect();
    Datum::Record(DatumRecord { shape: Arc::new(Shape::new(names)), values, stands_for: None })
}

/// Renders one template of another ending alone.
pub fn written(ending: &str, text: &str) -> String {
    Files::new(&[(&format!("t.{ending}"), text)]).run().replace(&format!("t.{ending}:"), "t:")
}

/// Renders one template alone.
pub fn template(text: &str) -> String {
    Files::new(&[("t", text)]).run()
}

/// Checks a table of templates and what comes of them.
#[track_caller]
pub fn check(cases: &[(&str, &str)]) {
    let wrong: Vec<String> = cases
        .iter()
        .filter_map(|(text, expected)| {
            let found = template(text);
            (found != *expected).then(|| format!("template {text:?}\n expected {expected:?}\n    found {found:?}"))
        })
        .collect();
    assert!(wrong.is_empty(), "{} of {} cases differ\n{}", wrong.len(), cases.len(), wrong.join("\n"));
}
