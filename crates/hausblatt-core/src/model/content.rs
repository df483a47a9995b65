//! Pages and entries: what their front matter says, typed, with their state.

use std::sync::{Arc, OnceLock};

use hausblatt_lang::text::codes as lang_codes;
use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::source::Span;
use hausblatt_lang::text::suggest::did_you_mean;
use hausblatt_lang::value::EscapedText;
use hausblatt_lang::value::datum::Datum;
use hausblatt_lang::value::moment::Moment;
use hausblatt_lang::value::shape::{Interner, Shape, Symbol};
use jiff::civil::Date;
use rustc_hash::FxHashMap;

use crate::files::FileNode;
use crate::model::dependencies::SitePart;
use crate::model::taxonomy::Taxonomy;
use crate::schema::fields::{self, Conversion, Field};
use crate::text::address::{asked, shortened, unusable};
use crate::text::codes;
use crate::text::conflict;
use crate::text::data::{Data, DataValue, Entry};
use crate::text::markdown;
use crate::text::names::{BUILT_IN, KEYS};
use crate::text::slug::{is_id, is_slug, title_of};

/// A page's or entry's number in a [`crate::model::site::Site`].
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub struct ContentId(pub u32);

/// Where content belongs.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Section {
    /// The page tree.
    Pages,
    /// The collection with this number.
    Collection(u16),
}

/// Whether content has an address.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum ContentState {
    /// It has.
    Live,
    /// Not yet: it is a draft.
    Draft,
    /// Not yet: it waits for its date.
    Waits,
    /// No: it fills an error page.
    OnErrors,
}

/// A page or an entry.
#[derive(Clone, Debug)]
pub struct Content {
    /// Its number in the site.
    pub number: ContentId,
    /// Its path below its folder, without the extension.
    pub id: Box<str>,
    /// Where it belongs.
    pub home: Section,
    /// Its file.
    pub node: Arc<FileNode>,
    /// First byte of its Markdown.
    pub body: usize,
    /// Its title, made from the file name where it has none.
    pub title: EscapedText,
    /// Its part of the address.
    pub slug: Box<str>,
    /// Where its file says that part; empty where it does not.
    pub slug_span: Span,
    /// When it is dated.
    pub date: Option<Moment>,
    /// When it was last changed, if it says so.
    pub updated: Option<Moment>,
    /// Its summary, if it says one.
    pub summary: Option<Box<str>>,
    /// Its image.
    pub image: Datum,
    /// Who wrote it.
    pub authors: Datum,
    /// What it says to search engines.
    pub robots: Option<Box<str>>,
    /// Its place among its siblings.
    pub order: Option<f64>,
    /// Whether it is in menus and listings.
    pub in_lists: bool,
    /// The terms it is in, for each taxonomy that groups its home.
    pub terms: Box<[(u16, Box<[u32]>)]>,
    /// Addresses that it had, and where it says so.
    pub formerly: Box<[(Box<str>, Span)]>,
    /// Where it places components, if it does.
    pub trays: Option<Span>,
    /// The offered template that it names, and where.
    pub template: Option<(Box<str>, Span)>,
    /// Whether it has an address.
    pub state: ContentState,
    /// Whether its file has an error, so that it can't be rendered.
    pub broken: bool,
    /// Its address, decoded; none for what waits.
    pub address: Option<Box<str>>,
    /// The names of its fields.
    pub shape: Arc<Shape>,
    /// Their values, by slot.
    pub values: Box<[Datum]>,
    /// A page's parent.
    pub parent: Option<ContentId>,
    /// A page's children, in order.
    pub children: Vec<ContentId>,
    /// The first paragraph of its text, once it is looked for.
    pub(super) first_paragraph: OnceLock<Box<str>>,
}

impl Content {
    /// The path of its file.
    pub fn path(&self) -> &Arc<str> {
        &self.node.path
    }

    /// Its Markdown, read now where only the head of its file is held; empty where it can't be read.
    pub fn markdown<T>(&self, then: impl FnOnce(&str) -> T) -> T {
        SitePart::Text.note_of(self.number);
        let whole = self.node.whole_text().unwrap_or_else(|_| "".into());
        then(whole.get(self.body..).unwrap_or(""))
    }

    /// The summary that it says, or else its first paragraph; may be empty.
    pub(crate) fn summary_text(&self) -> String {
        match &self.summary {
            Some(summary) => summary.to_string(),
            None => self.markdown(markdown::first_paragraph),
        }
    }

    /// The first paragraph of its text, which many pages may show; may be empty.
    pub(crate) fn first_paragraph(&self) -> &str {
        self.first_paragraph.get_or_init(|| self.markdown(markdown::first_paragraph).into())
    }

    /// A digest of its Markdown; never 0.
    pub(crate) fn digest_of_markdown(&self) -> u64 {
        self.node.digest_of_body(self.body).max(1)
    }

    /// Whether visitors can see it.
    pub(crate) fn is_live(&self) -> bool {
        self.state == ContentState::Live
    }
}

/// The most bytes of a content file. As HTML, and while it is made, it takes some fifty times as much.
const LARGEST: u64 = 16 << 20;

/// What reading content needs to know.
pub struct Reading<'r> {
    /// The fields that pages or this collection's entries may carry.
    pub fields: &'r [Field],
    /// Where the content belongs.
    pub home: Section,
    /// For dates and rich text.
    pub conversion: &'r Conversion<'r>,
    /// Today.
    pub today: Date,
    /// Whether drafts have addresses.
    pub drafts: bool,
    /// Whether content dated in the future is shown at once.
    pub shows_future: bool,
    /// All taxonomies.
    pub taxonomies: &'r [Taxonomy],
    /// The numbers of those that group content of this home.
    pub grouped_by: &'r [u16],
    /// The shape of content that has the declared fields only.
    pub shape: &'r Arc<Shape>,
}

/// A file that was read; its terms and its undeclared fields are still to be entered in the `ContentRegistry`.
pub struct Read {
    /// What it holds; nothing where its name is not an id.
    pub content: Option<Content>,
    /// What is wrong with it.
    pub problems: Vec<Diagnostic>,
    /// The places, in its front matter, of fields that nothing declares.
    pub(crate) undeclared: Vec<usize>,
}

/// What content has in common, to which each file in turn adds.
pub(crate) struct ContentRegistry<'b> {
    /// The numbers of names.
    pub symbols: &'b mut Interner,
    /// Shapes that content shares.
    pub shapes: &'b mut Shapes,
    /// All taxonomies.
    pub taxonomies: &'b mut [Taxonomy],
    /// What is wrong.
    pub problems: &'b mut Vec<Diagnostic>,
}

/// Shapes that content shares.
#[derive(Debug, Default)]
pub(crate) struct Shapes(FxHashMap<Box<[Symbol]>, Arc<Shape>>);

impl Shapes {
    /// The shape of content that has these fields and no other.
    pub(crate) fn of_fields(&mut self, fields: &[Field], symbols: &mut Interner) -> Arc<Shape> {
        self.share(fields.iter().map(|field| symbols.intern(&field.name)).collect())
    }

    fn share(&mut self, names: Vec<Symbol>) -> Arc<Shape> {
        let names = names.into_boxed_slice();
        self.0.entry(names.clone()).or_insert_with(|| Arc::new(Shape::new(names))).clone()
    }
}

/// A content file's id and the date in its name; none where the name does not fit.
fn name_parts(relative: &str, dated: bool) -> Option<(String, Option<&str>)> {
    let stem = relative.strip_suffix(".md")?;
    let (folder, last) = stem.rsplit_once('/').map_or(("", stem), |(folder, last)| (folder, last));
    let date =
        last.get(..10).filter(|date| dated && last.as_bytes().get(10) == Some(&b'-') && date.parse::<Date>().is_ok());
    let last = date.map_or(last, |_| &last[11..]);
    let id = if folder.is_empty() { last.to_owned() } else { format!("{folder}/{last}") };
    is_id(&id).then_some((id, date))
}

/// Reads a content file, `relative` to its collection's or the pages' folder. Files can be read at the same time.
pub fn read(node: &Arc<FileNode>, relative: &str, reading: &Reading<'_>) -> Read {
    let dated = matches!(reading.home, Section::Collection(_));
    let Some((id, file_date)) = name_parts(relative, dated) else {
        let help = if relative.ends_with(".md") {
            "a content file's name is lower-case letters and digits with single hyphens between them, as in scarlet-runner.md"
        } else {
            "content is Markdown in files that end in .md; images belong in media/"
        };
        let diagnostic = Diagnostic::of(&codes::BAD_NAME, "this file's name is not an id").help(help);
        let problems = vec![diagnostic.at(&node.path, Span::default())];
        return Read { content: None, problems, undeclared: Vec::new() };
    };
    let mut reader = FrontMatterReader { problems: ContentProblems::new(node), node, reading, undeclared: Vec::new() };
    reader.check_file();
    if file_date.is_none() && dated {
        reader.check_date_in_name(relative);
    }
    let content = reader.content(id, file_date);
    Read { content: Some(content), problems: reader.problems.problems, undeclared: reader.undeclared }
}

/// Enters the terms of content, which these taxonomies group, and the fields that nothing declares; to be done in the
/// order of the files, since the first that names a term says how it is written.
pub(crate) fn register_terms(
    content: &mut Content,
    undeclared: Vec<usize>,
    grouped_by: &[u16],
    book: &mut ContentRegistry<'_>,
) {
    let node = content.node.clone();
    let front = node.front();
    let entries = &front.entries;
    let mut problems = ContentProblems::new(&node);
    content.terms = terms(entries, grouped_by, book.taxonomies, &mut problems).into();
    if !undeclared.is_empty() {
        let mut names = content.shape.names().to_vec();
        let mut values = std::mem::take(&mut content.values).into_vec();
        for entry in undeclared.into_iter().map(|at| &entries[at]) {
            names.push(book.symbols.intern(&entry.key));
            values.push(fields::plain(&entry.data, book.symbols));
        }
        (content.shape, content.values) = (book.shapes.share(names), values.into());
    }
    content.broken |= problems.broken;
    book.problems.append(&mut problems.problems);
}

/// The terms that the keys of taxonomies name.
fn terms(
    entries: &[Entry],
    grouped_by: &[u16],
    taxonomies: &mut [Taxonomy],
    problems: &mut ContentProblems<'_>,
) -> Vec<(u16, Box<[u32]>)> {
    let mut terms = Vec::new();
    for &number in grouped_by {
        let taxonomy = &mut taxonomies[usize::from(number)];
        let Some(entry) = entries.iter().find(|entry| *entry.key == *taxonomy.config.name.text) else { continue };
        let one = std::slice::from_ref(&entry.data);
        problems.check_list(&entry.key, &entry.data);
        let mut found = Vec::new();
        for data in entry.data.as_list().unwrap_or(one) {
            found.extend(term(taxonomy, data, problems).filter(|term| !found.contains(term)));
        }
        if !found.is_empty() {
            terms.push((number, found.into()));
        }
    }
    terms
}

fn term(taxonomy: &mut Taxonomy, data: &Data, problems: &mut ContentProblems<'_>) -> Option<u32> {
    let text = problems.text(&taxonomy.config.name.text, data)?;
    let Some(term) = taxonomy.named(&text) else {
        problems.error(
            data.span,
            format!("\"{text}\" is not a valid term: it has neither letters nor digits"),
            "write a word",
        );
        return None;
    };
    if !taxonomy.is_declared(term) {
        let declared = || taxonomy.config.terms.iter().map(|term| term.id.text.as_str());
        let message = format!("the taxonomy \"{}\" declares no term \"{text}\"", taxonomy.config.name.text);
        let diagnostic = Diagnostic::of(&codes::UNDECLARED_TERM, message).meaning(&text, declared());
        let help =
            || format!("declare it in hausblatt.toml: terms.{} = {{ label = \"…\" }}", crate::text::slug::slug(&text));
        problems.add(diagnostic.or_help(help), data.span);
    }
    Some(term)
}

/// What is wrong with one file.
struct ContentProblems<'f> {
    node: &'f FileNode,
    problems: Vec<Diagnostic>,
    broken: bool,
}

impl<'f> ContentProblems<'f> {
    fn new(node: &'f FileNode) -> Self {
        Self { node, problems: Vec::new(), broken: false }
    }

    fn add(&mut self, diagnostic: Diagnostic, span: Span) {
        self.broken |= diagnostic.is_error();
        self.problems.push(diagnostic.at(&self.node.path, span));
    }

    fn error(&mut self, span: Span, message: String, help: &str) {
        let diagnostic = Diagnostic::of(&lang_codes::WRONG_TYPE, message);
        self.add(if help.is_empty() { diagnostic } else { diagnostic.help(help) }, span);
    }

    /// Warns of words for search engines that are nearly ones that they know.
    fn check_robots(&mut self, robots: &str, span: Span) {
        const KNOWN: [&str; 9] =
            ["all", "index", "noindex", "follow", "nofollow", "none", "noarchive", "nosnippet", "noimageindex"];
        let words = robots.split(',').map(|word| word.trim().to_ascii_lowercase());
        for word in words.filter(|word| !KNOWN.contains(&word.as_str())) {
            let Some(help) = did_you_mean(&word, KNOWN) else { continue };
            let message = format!("search engines do not know \"{word}\"");
            self.add(Diagnostic::warning(&codes::WRONG_VALUE, message).help(help), span);
        }
    }

    /// Warns of several names in one text, where a list of them is meant.
    fn check_list(&mut self, key: &str, data: &Data) {
        let Some(names) = data.as_text().filter(|text| text.contains(", ")) else { return };
        let list = names.split(", ").map(str::trim).filter(|name| !name.is_empty()).collect::<Vec<_>>().join(", ");
        let diagnostic = Diagnostic::of(&codes::LIST_AS_TEXT, format!("\"{key}\" is one text, \"{names}\""));
        self.add(diagnostic.help(format!("if these are several, write {key}: [{list}]")), data.span);
    }

    fn text(&mut self, key: &str, data: &Data) -> Option<Box<str>> {
        match &data.value {
            DataValue::Nothing => None,
            DataValue::Text(text) => Some(text.clone()),
            DataValue::Int(number) => Some(number.to_string().into()),
            DataValue::Float(number) => Some(number.to_string().into()),
            DataValue::Bool(truth) => Some(truth.to_string().into()),
            DataValue::List(_) | DataValue::Map(_) => {
                self.error(data.span, format!("\"{key}\" must be a text, not {}", data.kind()), "put it in quotes");
                None
            }
        }
    }
}

/// Reads the keys of one file's front matter.
struct FrontMatterReader<'f> {
    node: &'f Arc<FileNode>,
    reading: &'f Reading<'f>,
    problems: ContentProblems<'f>,
    undeclared: Vec<usize>,
}

impl FrontMatterReader<'_> {
    fn check_file(&mut self) {
        if let Some(unreadable) = self.node.unreadable() {
            self.problems.broken = true;
            self.problems.problems.push(unreadable);
        }
        if self.node.stamp.length > LARGEST {
            let message = format!("this text is larger than {} MB, too large for a page", LARGEST >> 20);
            let diagnostic = Diagnostic::of(&lang_codes::TOO_LARGE, message).help("cut it into several");
            self.problems.add(diagnostic, Span::default());
        }
        let text = self.node.text().cloned().unwrap_or_default();
        let conflicts = conflict::diagnostics(&text, conflict::Format::Markdown);
        let has_conflict = !conflicts.is_empty();
        for (diagnostic, span) in conflicts.into_iter().chain(conflict::misplaced(&text)) {
            self.problems.add(diagnostic, span);
        }
        // What a conflict makes of front matter is reported with it.
        if let Some(problem) = self.node.front().problem.as_ref().filter(|_| !has_conflict) {
            let diagnostic = Diagnostic::of(&codes::FRONT_MATTER, problem.message.clone())
                .maybe_help(problem.help.map(str::to_owned));
            self.problems.add(diagnostic, problem.span);
        }
    }

    fn content(&mut self, id: String, file_date: Option<&str>) -> Content {
        let node = self.node;
        let front = node.front();
        let (entries, body) = (&front.entries, front.body);
        let find = |key: &str| entries.iter().find(|entry| &*entry.key == key).map(|entry| &entry.data);
        let date = find("date").and_then(|data| self.date(data)).or_else(|| self.file_date(file_date));
        let draft = find("draft").and_then(|data| self.flag(data)).unwrap_or(false);
        let state = self.state(draft, date);
        let last = id.rsplit('/').next().unwrap_or(&id).to_owned();
        let slug = find("slug").and_then(|data| self.slug(data)).unwrap_or_else(|| last.into());
        let title =
            find("title").and_then(|data| self.problems.text("title", data)).filter(|title| !title.trim().is_empty());
        let updated = find("updated").and_then(|data| self.date(data));
        let summary = find("summary").and_then(|data| self.problems.text("summary", data));
        let template = find("template").and_then(|data| Some((self.problems.text("template", data)?, data.span)));
        let robots = find("robots").and_then(|data| self.problems.text("robots", data));
        if let (Some(robots), Some(data)) = (&robots, find("robots")) {
            self.problems.check_robots(robots, data.span);
        }
        let order = find("order").and_then(|data| self.number(data));
        let in_lists = find("in_lists").and_then(|data| self.flag(data)).unwrap_or(true);
        let image = find("image").map_or(Datum::Nothing, |data| self.field(&fields::FieldType::Image, data));
        if let Some(data) = find("authors") {
            self.problems.check_list("authors", data);
        }
        let authors = find("authors").map_or(Datum::Nothing, |data| {
            self.field(&fields::FieldType::List(Box::new(fields::FieldType::Text)), data)
        });
        let formerly = find("formerly").map(|data| self.formerly(data)).unwrap_or_default();
        let trays = entries.iter().find(|entry| &*entry.key == "trays").map(|entry| entry.span);
        let values = self.fields(entries);
        Content {
            // Given when all content is there.
            number: ContentId(0),
            title: title.as_deref().unwrap_or(&title_of(&id)).into(),
            id: id.into(),
            home: self.reading.home,
            node: self.node.clone(),
            body,
            slug,
            slug_span: find("slug").map_or(Span::default(), |data| data.span),
            date,
            updated,
            summary,
            image,
            authors,
            robots,
            order,
            in_lists,
            terms: Box::default(),
            formerly: formerly.into(),
            trays,
            template,
            state,
            broken: self.problems.broken,
            address: None,
            shape: self.reading.shape.clone(),
            values: values.into(),
            parent: None,
            children: Vec::new(),
            first_paragraph: OnceLock::new(),
        }
    }

    fn state(&self, draft: bool, date: Option<Moment>) -> ContentState {
        let future = date.is_some_and(|date| date.day() > self.reading.today);
        if draft && !self.reading.drafts {
            ContentState::Draft
        } else if future && !self.reading.shows_future {
            ContentState::Waits
        } else {
            ContentState::Live
        }
    }

    /// The values of the declared fields.
    fn fields(&mut self, entries: &[Entry]) -> Vec<Datum> {
        let mut values = Vec::with_capacity(self.reading.fields.len());
        for field in self.reading.fields {
            let given = entries.iter().find(|entry| *entry.key == *field.name);
            let value = given.map_or(Datum::Nothing, |entry| self.field(&field.of, &entry.data));
            if let Some(entry) = given {
                self.check_colors(field, &entry.data);
            }
            values.push(if matches!(value, Datum::Nothing) { field.default.clone() } else { value });
        }
        for (at, entry) in entries.iter().enumerate() {
            let key = &*entry.key;
            if KEYS.contains(&key) || self.reading.fields.iter().any(|field| field.name == key) || self.is_taxonomy(key)
            {
                continue;
            }
            self.undeclared(entry);
            if !BUILT_IN.contains(&key) {
                self.undeclared.push(at);
            }
        }
        values
    }

    fn is_taxonomy(&self, key: &str) -> bool {
        self.taxonomies().any(|name| name == key)
    }

    /// The names of the taxonomies that group what is read.
    fn taxonomies(&self) -> impl Iterator<Item = &str> {
        let Reading { taxonomies, grouped_by, .. } = self.reading;
        grouped_by.iter().map(|&number| taxonomies[usize::from(number)].config.name.text.as_str())
    }

    fn check_colors(&mut self, field: &Field, data: &Data) {
        let text = self.node.text().map_or("", |text| text);
        for span in fields::colors_lost_to_comments(&field.of, data, text) {
            self.problems.add(fields::lost_color(), span);
        }
    }

    /// Old addresses, each of which begins with `/`.
    fn formerly(&mut self, data: &Data) -> Vec<(Box<str>, Span)> {
        let one = std::slice::from_ref(data);
        let mut formerly = Vec::new();
        for data in data.as_list().unwrap_or(one) {
            let Some(text) = self.problems.text("formerly", data) else { continue };
            let path = asked(&text).path;
            let why = match text.starts_with('/') {
                true => unusable(&path),
                false => Some("it does not begin with \"/\"".to_owned()),
            };
            if let Some(why) = why {
                let message = format!("\"{}\" is not a valid address: {why}", shortened(&text));
                self.problems.error(data.span, message, "write it as in formerly: /old/address/");
            } else {
                // What is published without an extension would not be a page to most servers.
                let is_file = path.rsplit('/').next().is_some_and(|last| last.is_empty() || last.contains('.'));
                let path = if is_file { path } else { format!("{path}/") };
                if text.contains(['?', '#']) {
                    let message = format!("\"{text}\" is redirected whatever comes after \"?\" or \"#\"");
                    let help = format!("write {path}");
                    let diagnostic = Diagnostic::of(&codes::FORMER_QUERY, message).help(help);
                    self.problems.add(diagnostic, data.span);
                }
                formerly.push((path.into(), data.span));
            }
        }
        formerly
    }

    fn undeclared(&mut self, entry: &Entry) {
        let fields = self.reading.fields.iter().map(|field| field.name.as_str());
        let known: Vec<&str> = fields.chain(self.taxonomies()).chain(KEYS.iter().copied()).collect();
        let diagnostic = if BUILT_IN.contains(&&*entry.key) {
            let message = format!("\"{}\" is computed by Hausblatt; it can't be set", entry.key);
            Diagnostic::of(&lang_codes::NAME_TAKEN, message).help("choose another name for the field")
        } else {
            let taxonomy = self.reading.taxonomies.iter().any(|taxonomy| taxonomy.config.name.text == *entry.key);
            let home = self.node.path.split('/').nth(1).unwrap_or("pages");
            let of_taxonomy = taxonomy
                .then(|| format!("add \"{home}\" to \"of\" of the taxonomy \"{}\" in hausblatt.toml", entry.key));
            let diagnostic =
                Diagnostic::of(&codes::UNDECLARED_FIELD, format!("the field \"{}\" is not declared", entry.key));
            let diagnostic = match of_taxonomy {
                Some(help) => diagnostic.help(help),
                None => diagnostic.meaning(&entry.key, known.iter().copied()),
            };
            let table = if home == "pages" { "pages".to_owned() } else { format!("collections.{home}") };
            diagnostic.or_help(|| format!("declare it in hausblatt.toml, under [{table}.fields]"))
        };
        self.problems.add(diagnostic, entry.span);
    }

    fn field(&mut self, of: &fields::FieldType, data: &Data) -> Datum {
        match fields::convert(of, data, self.reading.conversion) {
            Ok(value) => value,
            Err((span, message)) => {
                self.problems.error(span, message, "");
                Datum::Nothing
            }
        }
    }

    fn date(&mut self, data: &Data) -> Option<Moment> {
        match self.field(&fields::FieldType::Date, data) {
            Datum::Date(moment) => Some(moment),
            _ => None,
        }
    }

    /// Warns of a name that begins with what looks like a day and is none.
    fn check_date_in_name(&mut self, relative: &str) {
        let name = relative.rsplit('/').next().unwrap_or(relative);
        let is_date = |(at, byte): (usize, u8)| if matches!(at, 4 | 7) { byte == b'-' } else { byte.is_ascii_digit() };
        let Some(date) = name.get(..10).filter(|date| date.bytes().enumerate().all(is_date)) else { return };
        let message = format!("\"{date}\" is not a day, so it is a part of the id");
        let diagnostic =
            Diagnostic::warning(&codes::BAD_NAME, message).help("begin the name as in 2026-03-14-first-frost.md");
        self.problems.add(diagnostic, Span::default());
    }

    fn file_date(&self, date: Option<&str>) -> Option<Moment> {
        Moment::parse(date?, self.reading.conversion.zone)
    }

    fn flag(&mut self, data: &Data) -> Option<bool> {
        match self.field(&fields::FieldType::YesNo, data) {
            Datum::Bool(truth) => Some(truth),
            _ => None,
        }
    }

    fn number(&mut self, data: &Data) -> Option<f64> {
        match self.field(&fields::FieldType::Number(None, None), data) {
            Datum::Int(number) => Some(number as f64),
            Datum::Float(number) => Some(number),
            _ => None,
        }
    }

    fn slug(&mut self, data: &Data) -> Option<Box<str>> {
        let slug = self.problems.text("slug", data)?;
        if is_slug(&slug) {
            return Some(slug);
        }
        let proper = crate::text::slug::slug(&slug);
        let message =
            format!("\"{slug}\" is not a valid slug: lower-case letters and digits with single hyphens between them");
        self.problems.error(
            data.span,
            message,
            &if proper.is_empty() { String::new() } else { format!("write slug: {proper}") },
        );
        None
    }
}
