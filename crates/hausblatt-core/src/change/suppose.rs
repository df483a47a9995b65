//! Supposing: what would be if files, choices, the theme, its parent or the front were others. Nothing is written.

use std::sync::Arc;

use hausblatt_lang::text::codes as lang_codes;
use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::suggest::{did_you_mean, nearest};
use toml_edit::{DocumentMut, Item, Table, value};

use crate::analysis::potential_use::{Tried, meant, waits_for};
use crate::asking::SiteOptions;
use crate::change::changes::changed;
use crate::change::choose::chooser;
use crate::change::rename::rename;
use crate::files::Snapshot;
use crate::files::front_matter_edit::{edited, text_of};
use crate::lookup::file_argument;
use crate::model::content::{ContentId, Section};
use crate::schema::config;
use crate::text::codes;
use crate::themes::theme;
use crate::world::{Unloadable, World};

/// What is supposed.
#[derive(Clone, Debug, Default)]
pub struct Supposition {
    /// Theme files that are there; each with the file whose text it has, if any.
    pub add: Vec<(String, Option<String>)>,
    /// Theme files that are not there.
    pub without: Vec<String>,
    /// Files of the site that have another text: each with it.
    pub edit: Vec<(String, String)>,
    /// Templates chosen for content: name, address.
    pub choose: Vec<(String, String)>,
    /// Another active theme.
    pub to_theme: Option<String>,
    /// What the front is.
    pub front: Option<Front>,
    /// Another parent of the active theme.
    pub parent: Option<String>,
    /// Other patterns of addresses, each with its collection; former addresses lead on.
    pub patterns: Vec<(String, String)>,
}

/// What the front is supposed to be.
#[derive(Clone, Debug)]
pub enum Front {
    /// A page, by its id.
    Page(String),
    /// A collection.
    Collection(String),
}

/// The World in which a supposition holds.
///
/// ```
/// # use hausblatt_core::files::Snapshot;
/// # use hausblatt_core::{Routed, SiteOptions, jiff::civil::date, world::World};
/// use hausblatt_core::change::suppose::{Supposition, suppose};
///
/// # let snapshot = Snapshot::in_memory([
/// #     ("hausblatt.toml", "[site]\ntitle = \"Seeds\"\ntheme = \"bare\"\n"),
/// #     ("themes/bare/hausblatt-theme.toml", ""),
/// #     ("themes/bare/templates/page.html", "<p>1</p>"),
/// #     ("themes/bare/templates/fallback.html", "<p>2</p>"),
/// #     ("content/pages/visit.md", ""),
/// # ]);
/// # let world = World::load(snapshot, SiteOptions::on(date(2026, 5, 1))).map_err(|error| error.0)?;
/// let supposition = Supposition { without: vec!["page".to_owned()], ..Supposition::default() };
/// let after = suppose(&world, &supposition)?;
/// # let Routed::Request(request) = after.route("/visit/") else { panic!() };
/// let winner = after.resolve(request).winner.unwrap();
/// assert_eq!(after.file_ref(winner).name, "templates/fallback.html");
/// # Ok::<(), Vec<hausblatt_core::lang::text::diagnostic::Diagnostic>>(())
/// ```
///
/// # Errors
/// What it names and is not there, or why no site could be loaded then.
pub fn suppose(world: &World, supposition: &Supposition) -> Result<World, Vec<Diagnostic>> {
    let mut snapshot = world.snapshot.clone();
    let mut asking = world.asking.clone();
    for (collection, pattern) in &supposition.patterns {
        let renaming = rename(world, &format!("address:{collection}"), pattern)?;
        snapshot = changed(&snapshot, &renaming.writes);
    }
    if let Some(front) = &supposition.front {
        snapshot = with_front(world, snapshot, front).map_err(|problem| vec![problem])?;
    }
    if let Some(name) = &supposition.to_theme {
        asking.theme = Some(known_theme(&snapshot, name).map_err(|problem| vec![problem])?);
    }
    if let Some(parent) = &supposition.parent {
        let active = asking.theme.clone().unwrap_or_else(|| world.site.config.theme.text.clone());
        snapshot = with_parent(snapshot, &active, parent).map_err(|problem| vec![problem])?;
    }
    // Names of files and addresses are those of the site as it then is.
    let other = match !supposition.patterns.is_empty()
        || supposition.front.is_some()
        || supposition.to_theme.is_some()
        || supposition.parent.is_some()
    {
        true => Some(load(&snapshot, &asking)?),
        false => None,
    };
    let then = other.as_ref().unwrap_or(world);
    let mut problems = Vec::new();
    for typed in &supposition.without {
        match file_argument::theme_file(then, typed) {
            Ok(id) => snapshot = snapshot.with(&then.lineage.file(id).node.path, None),
            Err(problem) => problems.push(problem),
        }
    }
    for (typed, from) in &supposition.add {
        match with_file(then, &snapshot, typed, from.as_deref()) {
            Ok(with) => snapshot = with,
            Err(problem) => problems.push(problem),
        }
    }
    for (typed, text) in &supposition.edit {
        match edited_path(then, &snapshot, typed) {
            Ok(path) => snapshot = snapshot.with(&path, Some(text)),
            Err(problem) => problems.push(problem),
        }
    }
    for (name, address) in &supposition.choose {
        match with_choice(world, then, &snapshot, name, address) {
            Ok(with) => snapshot = with,
            Err(problem) => problems.push(problem),
        }
    }
    if problems.is_empty() { load(&snapshot, &asking) } else { Err(problems) }
}

/// For each file that is supposed to be there and that no address uses: its path, and why.
pub fn unused(after: &World, supposition: &Supposition) -> Vec<(String, String)> {
    let added = supposition.add.iter().filter_map(|(typed, _)| file_argument::new_file(after, typed).ok());
    let mut tried = None;
    let mut found = Vec::new();
    for path in added {
        let file = after.lineage.ids().find(|(_, file)| *file.node.path == *path);
        let Some((id, file)) = file.filter(|(id, _)| after.reach(*id).next().is_none()) else { continue };
        let why = match file.name.template() {
            Some(name) => {
                let tried = tried.get_or_insert_with(|| Tried::of(after));
                match (meant(after, name, tried), waits_for(after, tried, name)) {
                    (Some(meant), Ok(_)) => format!("did you mean {meant}?"),
                    (_, Ok(waits)) => format!("it waits for {waits}"),
                    (_, Err(why)) => why,
                }
            }
            None if after.lineage.nearest(&file.name) != Some(id) => "a nearer file covers it".to_owned(),
            None => "nothing calls it".to_owned(),
        };
        found.push((path, why));
    }
    found
}

fn load(snapshot: &Snapshot, asking: &SiteOptions) -> Result<World, Vec<Diagnostic>> {
    World::load(snapshot.clone(), asking.clone()).map_err(|Unloadable(problems)| problems)
}

fn with_file(then: &World, snapshot: &Snapshot, typed: &str, from: Option<&str>) -> Result<Snapshot, Diagnostic> {
    let path = file_argument::new_file(then, typed)?;
    let text = match from {
        Some(from) => {
            let id = file_argument::theme_file(then, from)?;
            let node = &then.lineage.file(id).node;
            node.text().cloned().ok_or_else(|| {
                Diagnostic::of(&codes::UNREADABLE, format!("{} holds no text", node.path)).help("name a template")
            })?
        }
        // What is there already stays as it is.
        None if snapshot.file(&path).is_some() => return Ok(snapshot.clone()),
        None => Arc::from(""),
    };
    Ok(snapshot.with(&path, Some(&text)))
}

/// The path of the file that is typed so, which has to be there: a theme file as people name them, or any path of the site.
fn edited_path(then: &World, snapshot: &Snapshot, typed: &str) -> Result<String, Diagnostic> {
    let path = typed.trim_start_matches("./");
    if let Some(node) = snapshot.file(path) {
        return Ok(node.path.to_string());
    }
    if let Some(folder) = ["content/", "media/", "tables/"].into_iter().find(|folder| path.starts_with(folder)) {
        let paths: Vec<String> = snapshot.below(folder).map(|node| node.path.to_string()).collect();
        let help = did_you_mean(path, paths.iter().map(String::as_str));
        let help = help.unwrap_or_else(|| "write the path of a file that is there".to_owned());
        return Err(Diagnostic::of(&codes::UNKNOWN_FILE, format!("there is no file {path}")).help(help));
    }
    let id = file_argument::theme_file(then, typed)?;
    Ok(then.lineage.file(id).node.path.to_string())
}

fn with_choice(
    world: &World,
    then: &World,
    snapshot: &Snapshot,
    name: &str,
    address: &str,
) -> Result<Snapshot, Diagnostic> {
    let (of, id): (&World, ContentId) = match content_at(world, address) {
        Ok(id) => (world, id),
        Err(_) => (then, content_at(then, address)?),
    };
    let content = of.site.content(id);
    let node = snapshot.file(content.path()).unwrap_or(&content.node);
    let text = text_of(node)?;
    let text = edited(&text, Some(name)).map_err(|problem| problem.at(content.path(), Default::default()))?;
    Ok(snapshot.with(content.path(), Some(&text)))
}

/// The content at an address, or of a path.
fn content_at(world: &World, address: &str) -> Result<ContentId, Diagnostic> {
    let path = address.trim_start_matches("./");
    match world.site.ids().find(|(_, content)| **content.path() == *path) {
        Some((id, _)) => Ok(id),
        None => chooser(world, address),
    }
}

fn known_theme(snapshot: &Snapshot, name: &str) -> Result<String, Diagnostic> {
    let names = theme::names(snapshot);
    if names.iter().any(|other| other == name) {
        return Ok(name.to_owned());
    }
    let help = match nearest(name, names.iter().map(String::as_str)) {
        Some(near) => format!("did you mean \"{near}\"?"),
        None => format!("the themes are {}", names.join(", ")),
    };
    Err(Diagnostic::of(&codes::UNKNOWN_THEME, format!("there is no theme \"{name}\"")).help(help))
}

fn with_front(world: &World, snapshot: Snapshot, front: &Front) -> Result<Snapshot, Diagnostic> {
    let (key, name) = match front {
        Front::Page(id) => ("page", id),
        Front::Collection(name) => ("collection", name),
    };
    let site = &world.site;
    let missing = |message: String, help: Option<String>| {
        Err(Diagnostic::of(&lang_codes::DEAD_REFERENCE, message).maybe_help(help))
    };
    match front {
        Front::Page(id) if site.find(Section::Pages, id).is_none() => {
            let pages = site.contents.iter().filter(|content| content.home == Section::Pages);
            let help = did_you_mean(id, pages.map(|page| &*page.id));
            return missing(format!("there is no page \"{id}\""), help);
        }
        Front::Collection(name) if site.collection(name).is_none() => {
            let names: Vec<&str> = site.collections.iter().map(|it| it.config.name.text.as_str()).collect();
            let help = did_you_mean(name, names.iter().copied());
            let help = help.unwrap_or_else(|| format!("the collections are {}", names.join(", ")));
            return missing(format!("there is no collection \"{name}\""), Some(help));
        }
        _ => {}
    }
    edit(snapshot, config::FILE, |document| {
        let mut table = Table::new();
        table.insert(key, value(name.as_str()));
        document.insert("front", Item::Table(table));
    })
}

fn with_parent(snapshot: Snapshot, theme: &str, parent: &str) -> Result<Snapshot, Diagnostic> {
    let parent = known_theme(&snapshot, parent)?;
    edit(snapshot, &format!("themes/{theme}/{}", theme::MANIFEST), |document| {
        let theme = document.entry("theme").or_insert_with(|| Item::Table(Table::new()));
        if let Some(theme) = theme.as_table_like_mut() {
            theme.insert("parent", value(parent));
        }
    })
}

fn edit(snapshot: Snapshot, path: &str, change: impl FnOnce(&mut DocumentMut)) -> Result<Snapshot, Diagnostic> {
    let text = snapshot.file(path).and_then(|node| node.text().cloned()).unwrap_or_else(|| "".into());
    let mut document: DocumentMut = text.parse().map_err(|error: toml_edit::TomlError| {
        Diagnostic::of(&codes::BAD_TOML, format!("{path} is not TOML: {}", error.message())).help("fix it first")
    })?;
    change(&mut document);
    Ok(snapshot.with(path, Some(&document.to_string())))
}
