//! What is created: a site, a theme, a template, a layout, a partial, a component, a page, an entry.

use hausblatt_lang::text::code::Code;
use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::ending::Ending;
use hausblatt_lang::text::suggest::nearest;
use toml_edit::{DocumentMut, Item, Table, value};

use crate::analysis::potential_use::{Tried, waits_for};
use crate::change::start::site::FILES;
use crate::change::start::texts;
use crate::files::edit::Write;
use crate::lookup::file_argument::{self, theme_file};
use crate::lookup::map;
use crate::model::content::Section;
use crate::schema::fields::Field;
use crate::text::codes;
use crate::text::data::yaml;
use crate::text::shell::word;
use crate::text::slug::{is_id, is_slug, slug, title_of};
use crate::themes::file_name::Role;
use crate::themes::originals::{self, Original};
use crate::themes::theme;
use crate::world::World;

/// What is created: what is written, what to know, and what to type next.
#[derive(Clone, Debug, Default)]
pub struct Scaffold {
    /// The files, in the order in which they are written.
    pub writes: Vec<Write>,
    /// What to know about them; whole sentences.
    pub notes: Vec<String>,
    /// What to type next: a command, and what it does.
    pub next: Vec<(String, String)>,
}

impl Scaffold {
    fn file(mut self, path: impl Into<String>, text: impl Into<Vec<u8>>) -> Self {
        self.writes.push(Write::new(path, text));
        self
    }

    fn next(mut self, command: impl Into<String>, what: &str) -> Self {
        self.next.push((command.into(), what.to_owned()));
        self
    }
}

/// A text as a sentence: with a full stop, unless it is a question.
fn sentence(text: &str) -> String {
    if text.ends_with(['.', '?']) { text.to_owned() } else { format!("{text}.") }
}

/// What a template begins with.
#[derive(Clone, Debug)]
pub enum From {
    /// It extends what would be found without it, where there is anything.
    Inherited,
    /// A few lines of its own.
    Blank,
    /// A copy of this file.
    Copy(String),
}

type Started = Result<Scaffold, Diagnostic>;

fn refused(code: &Code, message: impl Into<String>, help: impl Into<String>) -> Started {
    Err(Diagnostic::of(code, message).help(help))
}

/// What a site begins with.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Extent {
    /// A front page with a tray, a page, two notes and their listing, a menu, an error page, and a theme that is cared for.
    Whole,
    /// A page, and the fewest files that show it.
    Minimal,
}

/// A site, in the present folder.
pub fn site(title: &str, extent: Extent) -> Scaffold {
    match extent {
        Extent::Whole => whole_site(title),
        Extent::Minimal => minimal_site(title),
    }
}

fn whole_site(title: &str) -> Scaffold {
    let mut scaffold = Scaffold::default();
    // The configuration, which makes it a site, comes first in the list and is written last.
    let (config, others): (Vec<_>, Vec<_>) = FILES.iter().partition(|(path, _)| *path == "hausblatt.toml");
    for &(path, text) in config {
        let mut document: DocumentMut = text.parse().unwrap_or_default();
        if let Some(shown) = document.get_mut("site").and_then(|site| site.get_mut("title")) {
            *shown = value(title);
        }
        scaffold = scaffold.file(path, document.to_string());
    }
    for &(path, text) in others {
        scaffold = scaffold.file(path, text);
    }
    scaffold
        .next("hausblatt serve", "see it, and each change as you save it")
        .next("hausblatt check", "what is wrong, if anything is")
        .next("hausblatt override /about/ --only", "a template for this page alone")
}

fn minimal_site(title: &str) -> Scaffold {
    let mut document = DocumentMut::new();
    let mut site = Table::new();
    site.insert("title", value(title));
    site.insert("language", value("en"));
    site.insert("theme", value("plain"));
    document.insert("site", Item::Table(site));
    let mut front = Table::new();
    front.insert("page", value("welcome"));
    document.insert("front", Item::Table(front));
    let page = format!("---\ntitle: {}\n---\nThis page is `content/pages/welcome.md`.\n", yaml(title));
    let scaffold = Scaffold::default().file("hausblatt.toml", document.to_string());
    with_theme(scaffold, "plain")
        .file("content/pages/welcome.md", page)
        .next("hausblatt render /", "the HTML of the front page")
        .next("hausblatt start page visit", "another page")
        .next("hausblatt build", "the whole site")
}

/// The files of a theme that needs no parent.
fn with_theme(scaffold: Scaffold, name: &str) -> Scaffold {
    let root = format!("themes/{name}");
    // Its manifest, written last, makes it a theme.
    scaffold
        .file(format!("{root}/assets/{name}.css"), texts::STYLE)
        .file(format!("{root}/layouts/document.html"), texts::DOCUMENT.replace("THEME", name))
        .file(format!("{root}/templates/fallback.html"), texts::FALLBACK)
        .file(format!("{root}/{}", theme::MANIFEST), manifest(None))
}

fn manifest(parent: Option<&str>) -> String {
    let mut document = DocumentMut::new();
    let mut theme = Table::new();
    theme.insert("version", value("0.1.0"));
    if let Some(parent) = parent {
        theme.insert("parent", value(parent));
    }
    document.insert("theme", Item::Table(theme));
    document.to_string()
}

/// A theme, on its own or as the child of another.
///
/// # Errors
/// What is wrong with its name or its parent's.
pub fn theme(world: &World, name: &str, parent: Option<&str>) -> Started {
    let names = theme::names(&world.snapshot);
    if !is_slug(name) {
        return bad_name("theme", name, &slug(name));
    }
    if names.iter().any(|other| other == name) {
        return refused(&codes::FILE_EXISTS, format!("there is a theme \"{name}\" already"), "choose another name");
    }
    let root = format!("themes/{name}");
    let scaffold = match parent {
        None => with_theme(Scaffold::default(), name),
        Some(parent) if names.iter().any(|other| other == parent) => {
            Scaffold::default().file(format!("{root}/{}", theme::MANIFEST), manifest(Some(parent)))
        }
        Some(parent) => {
            let help = match nearest(parent, names.iter().map(String::as_str)) {
                Some(near) => format!("did you mean \"{near}\"?"),
                None => format!("the themes are {}", names.join(", ")),
            };
            return refused(&codes::UNKNOWN_THEME, format!("there is no theme \"{parent}\""), help);
        }
    };
    let scaffold = match parent {
        Some(_) => scaffold
            .next(format!("hausblatt override ADDRESS --theme {name}"), "a file of its own, copied from its parent"),
        None => scaffold,
    };
    let mut scaffold = scaffold
        .next(format!("hausblatt suppose --to-theme {name}"), "what would change with it")
        .next(format!("hausblatt map --theme {name}"), "every address, rendered by it");
    scaffold.notes.push(format!("To make it the site's theme, write theme = \"{name}\" into hausblatt.toml."));
    Ok(scaffold)
}

fn bad_name(what: &str, name: &str, better: &str) -> Started {
    let help = match better.is_empty() {
        true => "use lower-case letters, digits and hyphens".to_owned(),
        false => format!("use lower-case letters, digits and hyphens, as in {better}"),
    };
    refused(&codes::BAD_NAME, format!("\"{name}\" can't name a {what}"), help)
}

/// A template of the active theme.
///
/// # Errors
/// Why no request could ask for it, or what else keeps it from being started.
pub fn template(world: &World, typed: &str, from: &From) -> Started {
    let path = file_argument::new_file(world, typed).or_else(|problem| match typed.starts_with("themes/") {
        true => Err(problem),
        false => file_argument::new_file(world, &format!("templates/{typed}")),
    })?;
    let Some(theme) = world.lineage.themes.iter().find(|theme| path.starts_with(&theme.root)) else {
        return refused(
            &codes::UNKNOWN_FILE,
            format!("{path} is in no theme of the lineage"),
            "write it as in page/visit",
        );
    };
    let name = &path[theme.root.len()..];
    let Some(short) = name.strip_prefix("templates/") else {
        let what = name.split('/').next().unwrap_or("").trim_end_matches('s').to_owned();
        let what = if ["partial", "component"].contains(&what.as_str()) { what } else { "template".to_owned() };
        return refused(
            &codes::BAD_NAME,
            format!("{name} is not a template"),
            format!("create it with: hausblatt start {what} NAME"),
        );
    };
    refuse_existing(world, &path)?;
    let waits = waits_for(world, &Tried::of(world), short)
        .map_err(|why| Diagnostic::of(&codes::DEAD_TEMPLATE, format!("no request could use {short}: {why}")))?;
    let (text, original) = match from {
        From::Blank => (blank(world, short).into_bytes(), None),
        From::Inherited => (inherited(world, name, short), None),
        From::Copy(typed) => copied(world, typed)?,
    };
    let mut scaffold = Scaffold::default();
    // A record that an earlier copy has left is none of a new file's.
    scaffold.writes.extend(match &original {
        Some(original) => Some(originals::record(&world.snapshot, theme, name, original)),
        None => originals::removal(&world.snapshot, theme, name),
    });
    let mut scaffold = scaffold.file(&path, text);
    // A template that says nothing of its layout gets the one called document, and answers with 500 without it.
    let layout = "layouts/document.html";
    if short.ends_with(".html") && !matches!(from, From::Copy(_)) && world.lineage.nearest(layout).is_none() {
        let lines = texts::DOCUMENT.lines().filter(|line| !line.contains("THEME"));
        let text: String = lines.map(|line| format!("{line}\n")).collect();
        scaffold = scaffold.file(format!("{}{layout}", theme.root), text);
        scaffold.notes.push("No theme had a layout yet, so there is one now, too.".to_owned());
    }
    let address = world
        .requests()
        .iter()
        .find(|request| crate::lookup::ladder::ladder(&world.site, request).iter().any(|rung| rung.name == short));
    match (short.strip_prefix("offered/").and_then(|name| name.strip_suffix(".html")), address) {
        (Some(name), _) => {
            let page = world.requests().iter().find(|request| request.kind.content().is_some());
            let page = page.map_or("ADDRESS".to_owned(), |request| request.address.clone());
            scaffold =
                scaffold.next(format!("hausblatt choose {} {page}", word(name)), "choose it for a page or an entry");
        }
        (None, Some(request)) => {
            scaffold = scaffold.next(format!("hausblatt resolve {}", request.address), "which file renders that now");
        }
        (None, None) => scaffold.notes.push(sentence(&format!("It waits for {waits}"))),
    }
    Ok(scaffold.next(format!("hausblatt reach {}", word(name)), "every address that it has an effect on"))
}

fn refuse_existing(world: &World, path: &str) -> Result<(), Diagnostic> {
    match world.snapshot.file(path) {
        Some(_) => Err(Diagnostic::of(&codes::FILE_EXISTS, format!("there is a file {path} already"))
            .help("it stays as it is: edit it, or choose another name")),
        None => Ok(()),
    }
}

/// A file that goes on, if anything comes after it; an offered one has the label that editors see.
fn inherited(world: &World, name: &str, short: &str) -> Vec<u8> {
    let head = label(world, short);
    let goes_on =
        world.lineage.nearest("templates/fallback.html").is_some_and(|id| *world.lineage.file(id).name != *name)
            && short.ends_with(".html");
    if goes_on { format!("{head}{}", texts::GOING_ON).into_bytes() } else { blank(world, short).into_bytes() }
}

/// The front matter of an offered template: its label, and what it is for, as in the file that it covers.
fn label(world: &World, short: &str) -> String {
    let Some(stem) = short.strip_prefix("offered/").and_then(|name| name.strip_suffix(".html")) else {
        return String::new();
    };
    let covered = world.lineage.nearest(&format!("templates/{short}")).map(|id| world.header(id));
    let label = covered.and_then(|header| header.label.clone()).unwrap_or_else(|| title_of(stem));
    let fits = covered.map(|header| header.fits.as_slice()).unwrap_or_default();
    let fits = match fits {
        [] => String::new(),
        fits => format!("for: [{}]\n", fits.join(", ")),
    };
    format!("---\nlabel: {}\n{fits}---\n", yaml(&label))
}

/// A few lines for a template, by its name.
fn blank(world: &World, short: &str) -> String {
    let (stem, ending) = Ending::split(short).unwrap_or((short, Ending::Html));
    let head = stem.split(['/', '.']).next().unwrap_or("");
    let text = match (head, ending) {
        ("sitemap", Ending::Xml) => {
            let names = world.site.collections.iter().map(|collection| collection.config.name.text.as_str());
            let entries: String = names.map(|name| texts::SITEMAP_ENTRIES.replace("NAME", name)).collect();
            return texts::SITEMAP.replace("ENTRIES", &entries);
        }
        (_, Ending::Xml) => texts::FEED,
        (_, Ending::Text) => texts::ROBOTS,
        (_, Ending::Json) => texts::JSON,
        ("listing" | "period", _) => texts::LISTING,
        ("search", _) => texts::SEARCH,
        ("error", _) => texts::ERROR,
        ("route", _) => texts::ROUTE,
        ("page" | "entry" | "offered", _) => texts::CONTENT,
        _ => texts::FALLBACK,
    };
    format!("{}{text}", label(world, short))
}

type Copied = (Vec<u8>, Option<Original>);

/// A file's text, and what it is a copy of.
fn copied(world: &World, typed: &str) -> Result<Copied, Diagnostic> {
    let id = theme_file(world, typed)?;
    let file = world.lineage.file(id);
    if file.role != Role::Template {
        let message = format!("{} is not a template", file.node.path);
        return Err(Diagnostic::of(&codes::BAD_NAME, message).help("name a template, as in --from page"));
    }
    let bytes = file.node.bytes().map_err(|error| {
        Diagnostic::of(&codes::UNREADABLE, format!("{} can't be read: {error}", file.node.path))
            .help("look at its permissions")
    })?;
    let theme = world.lineage.theme_of(id);
    let original =
        Original { theme: theme.name.clone(), path: file.name.to_string(), version: theme.version.clone(), bytes };
    Ok((original.bytes.clone(), Some(original)))
}

/// A partial of the active theme.
///
/// # Errors
/// What is wrong with its name.
pub fn partial(world: &World, typed: &str) -> Started {
    let active = world.lineage.active();
    let name = typed.trim_start_matches("partials/");
    let name = Ending::split(name).map_or(name, |(stem, _)| stem);
    if !is_id(name) {
        return bad_name("partial", name, &better(name));
    }
    let path = format!("{}partials/{name}.html", active.root);
    refuse_existing(world, &path)?;
    let mut scaffold = Scaffold::default().file(path, texts::PARTIAL);
    scaffold.notes.push(format!("Any file calls it with +{{partial \"{name}\" given text = \"…\"}}."));
    Ok(scaffold.next(format!("hausblatt reach partials/{name}"), "what calls it, and every address that it reaches"))
}

/// A layout of the active theme.
///
/// # Errors
/// What is wrong with its name.
pub fn layout(world: &World, typed: &str) -> Started {
    let active = world.lineage.active();
    let name = typed.trim_start_matches("layouts/");
    let name = Ending::split(name).map_or(name, |(stem, _)| stem);
    if !is_slug(name) {
        return bad_name("layout", name, &slug(name));
    }
    if let Some(id) = world.lineage.nearest(&format!("layouts/{name}.html")) {
        let path = &world.lineage.file(id).node.path;
        let help = format!("to change it in {}: hausblatt override {}", active.name, word(path));
        return refused(&codes::FILE_EXISTS, format!("there is a layout \"{name}\" already: {path}"), help);
    }
    let mut scaffold = Scaffold::default().file(format!("{}layouts/{name}.html", active.root), texts::LAYOUT);
    scaffold.notes.push(match name {
        "document" => "Every template is put into it that names no other.".to_owned(),
        _ => format!("A template is put into it that says \"layout: {name}\" in its front matter."),
    });
    Ok(scaffold.next(format!("hausblatt reach layouts/{name}"), "every address that it reaches"))
}

/// An id made of a name that is none.
fn better(name: &str) -> String {
    name.split('/').map(slug).filter(|part| !part.is_empty()).collect::<Vec<_>>().join("/")
}

/// A component of the active theme.
///
/// # Errors
/// What is wrong with its name.
pub fn component(world: &World, typed: &str) -> Started {
    let active = world.lineage.active();
    let name = typed.trim_start_matches("components/").trim_end_matches('/');
    if !is_slug(name) {
        return bad_name("component", name, &slug(name));
    }
    if let Some(id) = world.lineage.nearest(&format!("components/{name}/component.html")) {
        let path = &world.lineage.file(id).node.path;
        let help = format!("to change it in {}: hausblatt override {}", active.name, word(path));
        return refused(&codes::FILE_EXISTS, format!("there is a component \"{name}\" already: {path}"), help);
    }
    let folder = format!("{}components/{name}", active.root);
    let manifest = texts::COMPONENT.replace("LABEL", value(title_of(name)).to_string().trim());
    let mut scaffold = Scaffold::default()
        .file(format!("{folder}/style.css"), texts::COMPONENT_STYLE.replace("NAME", name))
        .file(format!("{folder}/component.toml"), manifest)
        .file(format!("{folder}/component.html"), texts::COMPONENT_HTML.replace("NAME", name));
    // Its markup, written last, makes it a component. What is the same was written by a run that was ended.
    for write in &scaffold.writes {
        let there = world.snapshot.file(&write.path).map(|node| node.bytes());
        if there.is_some_and(|now| now.ok() != write.bytes) {
            refuse_existing(world, &write.path)?;
        }
    }
    scaffold.notes.push(format!(
        "Content places it in a tray: write \"- component: {name}\" below trays: and main: in front matter."
    ));
    let prints_tray = |(id, _)| world.program(id).is_some_and(|program| !program.trays.is_empty());
    if !world.lineage.ids().any(prints_tray) {
        let note = "No template prints a tray yet: write +{tray \"main\"} where placed components are to appear.";
        scaffold.notes.push(note.to_owned());
    }
    Ok(scaffold
        .next(format!("hausblatt render --component {name} --set heading=\"Two beds\""), "its HTML alone")
        .next(format!("hausblatt render --component {name} --document"), "the same as a whole page"))
}

/// A page.
///
/// # Errors
/// What is wrong with its id.
pub fn page(world: &World, typed: &str, title: Option<&str>) -> Started {
    let id = typed.trim_matches('/').trim_start_matches("content/pages/").trim_end_matches(".md");
    if !is_id(id) {
        return bad_name("page", typed, &better(id));
    }
    let path = format!("content/pages/{id}.md");
    refuse_existing(world, &path)?;
    let text = content_text(world, "pages", title.unwrap_or(&title_of(id)), &world.site.config.page_fields);
    let missing = id.rsplit_once('/').map(|(parent, _)| parent);
    let missing = missing.filter(|parent| world.site.find(Section::Pages, parent).is_none());
    let mut scaffold = content_begun(world, path, text)?;
    if let Some(parent) = missing {
        scaffold.notes.push(format!("There is no page {parent} above it yet: hausblatt start page {parent}"));
    }
    Ok(scaffold)
}

/// An entry of a collection; one that lists by date gets today's.
///
/// # Errors
/// What is wrong with the collection's name or the entry's id.
pub fn entry(world: &World, typed: &str, title: Option<&str>) -> Started {
    let names: Vec<&str> = world.site.collections.iter().map(|it| it.config.name.text.as_str()).collect();
    let typed = typed.trim_matches('/').trim_start_matches("content/").trim_end_matches(".md");
    let Some((collection, id)) = typed.split_once('/') else {
        let known = names.contains(&typed);
        let name = if known { typed } else { names.first().copied().unwrap_or("journal") };
        return refused(
            &codes::BAD_NAME,
            format!("\"{typed}\" names no entry"),
            format!("write it as in hausblatt start entry {name}/first-frost"),
        );
    };
    let Some((number, of)) = world.site.collection(collection) else {
        let help = match nearest(collection, names.iter().copied()) {
            Some(near) => format!("did you mean {near}/{id}?"),
            None if names.is_empty() => "declare one first: [collections.journal] in hausblatt.toml".to_owned(),
            None => format!("the collections are {}", names.join(", ")),
        };
        return refused(&codes::UNKNOWN_COLLECTION, format!("there is no collection \"{collection}\""), help);
    };
    let (date, bare) = parted(id);
    if !is_id(bare) {
        return bad_name("entry", id, &better(bare));
    }
    let home = Section::Collection(number);
    if let Some(other) = world.site.find(home, bare) {
        let path = world.site.content(other).path();
        return refused(
            &codes::FILE_EXISTS,
            format!("{collection} has an entry {bare} already: {path}"),
            "choose another id",
        );
    }
    let mut others = world.site.contents.iter().filter(|content| content.home == home);
    let dated = of.config.feed.is_some() || !of.config.periods.is_empty() || others.any(|entry| entry.date.is_some());
    let today = world.asking.today.to_string();
    let (folder, last) =
        bare.rsplit_once('/').map_or((String::new(), bare), |(folder, last)| (format!("{folder}/"), last));
    let stem = match (date, dated) {
        (Some(date), _) => format!("{folder}{date}-{last}"),
        (None, true) => format!("{folder}{today}-{last}"),
        (None, false) => bare.to_owned(),
    };
    let text = content_text(world, collection, title.unwrap_or(&title_of(bare)), &of.config.fields);
    content_begun(world, format!("content/{collection}/{stem}.md"), text)
}

/// The date that an id begins with, as a file's name may, and the rest.
fn parted(id: &str) -> (Option<&str>, &str) {
    match (id.get(..10), id.get(10..11), id.get(11..)) {
        (Some(date), Some("-"), Some(rest)) if date.parse::<jiff::civil::Date>().is_ok() => (Some(date), rest),
        _ => (None, id),
    }
}

/// Front matter with a title, and the declared fields and the taxonomies of its collection for whoever wants them.
fn content_text(world: &World, of: &str, title: &str, fields: &[Field]) -> String {
    let mut text = format!("---\ntitle: {}\n", yaml(title));
    for field in fields {
        text.push_str(&format!("# {}:\n", field.name));
    }
    for taxonomy in &world.site.config.taxonomies {
        if taxonomy.of.iter().any(|other| other.text == of) {
            text.push_str(&format!("# {}: []\n", taxonomy.name.text));
        }
    }
    text.push_str("---\nThis is the text.\n");
    text
}

fn content_begun(world: &World, path: String, text: String) -> Started {
    refuse_existing(world, &path)?;
    let after = World::load(world.snapshot.with(&path, Some(&text)), world.asking.clone());
    let found = after.ok().and_then(|after| {
        let content = after.site.contents.iter().find(|content| **content.path() == *path)?;
        let address = content.address.clone()?;
        let entry = map::map(&after).into_iter().find(|entry| entry.address == *address)?;
        Some((address, entry.template))
    });
    let scaffold = Scaffold::default().file(path.clone(), text);
    Ok(match found {
        Some((address, template)) => {
            let mut scaffold = scaffold;
            let by = template.map_or(String::new(), |template| format!(", rendered by {template}"));
            scaffold.notes.push(format!("Its address is {address}{by}."));
            scaffold
                .next(format!("hausblatt render {address}"), "its HTML")
                .next(format!("hausblatt resolve {address}"), "which file renders it, and why")
        }
        None => {
            let mut scaffold = scaffold;
            scaffold.notes.push("It has no address now.".to_owned());
            scaffold.next(format!("hausblatt resolve {} --drafts", word(&path)), "how it would be rendered")
        }
    })
}
