//! What a renaming would write, and why it is refused.

use std::collections::{BTreeMap, BTreeSet};

use hausblatt_lang::text::codes as lang_codes;
use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::ending::Ending;
use hausblatt_lang::text::source::{Place, Span};
use hausblatt_lang::text::suggest::nearest;

use crate::analysis::expect;
use crate::analysis::potential_use::{Tried, waits_for};
use crate::asking::SiteOptions;
use crate::change::changes::changed;
use crate::change::rename::collect::{Found, NewName, collect, collect_addresses, hidden, name_of_file, selectors};
use crate::change::rename::names_plan::rename_thing;
use crate::change::rename::proof::{Proof, Renamed, prove};
use crate::change::rename::thing;
use crate::files::edit::Write;
use crate::files::{FileNode, Snapshot};
use crate::lookup::file_argument;
use crate::text::codes;
use crate::text::shell::word;
use crate::text::slug::{is_id, is_slug, slug};
use crate::text::toml_data;
use crate::themes::file_name::{Role, ThemeFileName};
use crate::themes::originals::{self, Original};
use crate::themes::prepare::NAMES;
use crate::themes::theme::{self, Theme};
use crate::world::{Unloadable, World};

/// A renaming, planned as a whole.
#[derive(Debug)]
pub struct Renaming {
    /// What is renamed: `partial`.
    pub what: &'static str,
    /// Its name as those who ask for it write it.
    pub from: String,
    /// Its new one.
    pub to: String,
    /// The files that move: from where, to where.
    pub moved: Vec<(String, String)>,
    /// The other files that change, each with how many places in it.
    pub edited: Vec<(String, usize)>,
    /// Places that may mean it, and why that is not known.
    pub uncertain: Vec<(Place, String)>,
    /// The address that ends, for an asset or a media file.
    pub ended: Option<String>,
    /// The addresses that are others, decoded.
    pub addresses: Vec<MovedAddress>,
    /// Texts that are changed since only so the pages are the same.
    pub by_trial: Vec<Place>,
    /// What it does to the output.
    pub proof: Proof,
    /// What is to be written, in this order.
    pub writes: Vec<Write>,
}

/// An address that is another one afterwards.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct MovedAddress {
    /// What it is.
    pub from: String,
    /// What it will be.
    pub to: String,
    /// Whether the old one leads to the new one.
    pub redirects: bool,
}

/// The prefixes that say what is meant, each with the folder of such files.
const PREFIXES: &[(&str, &str)] = &[
    ("template", "templates/"),
    ("partial", "partials/"),
    ("layout", "layouts/"),
    ("component", "components/"),
    ("asset", "assets/"),
    ("prepare", "prepare/"),
];

/// `a partial`, `an asset`.
fn one(role: Role) -> String {
    let article = if role == Role::Asset { "an" } else { "a" };
    format!("{article} {}", role.word())
}

pub(super) fn refused<T>(diagnostic: Diagnostic) -> Result<T, Vec<Diagnostic>> {
    Err(vec![diagnostic])
}

/// Plans how what is typed so gets another name, with all that names it: a file of the active theme in all themes that
/// have it from there, or something of the site. A prefix says what is meant, as in `menu:main`.
///
/// # Errors
/// Why it can't be renamed so; nothing is left out.
pub fn rename(world: &World, typed: &str, new: &str) -> Result<Renaming, Vec<Diagnostic>> {
    if let Some((sort, rest)) = typed.split_once(':')
        && thing::SORTS.contains(&sort)
    {
        let known = thing::named(world, sort, rest).map_err(|problem| vec![problem])?;
        return rename_thing(world, sort, &known, new);
    }
    let has_prefix = typed.split_once(':').is_some_and(|(word, _)| PREFIXES.iter().any(|(known, _)| *known == word));
    let things = if has_prefix { Vec::new() } else { thing::meanings(world, typed) };
    let file = file_argument::theme_file(world, typed.trim_end_matches('/'));
    match (things.as_slice(), file) {
        ([], Err(problem)) if problem.code == codes::UNKNOWN_FILE.name && !has_prefix => {
            refused(nothing_called(world, typed, problem))
        }
        ([], _) => rename_file(world, typed, new),
        ([(sort, known)], Err(problem)) if problem.code == codes::UNKNOWN_FILE.name => {
            rename_thing(world, sort, known, new)
        }
        (several, file) => {
            let mut meanings: Vec<(String, String)> = Vec::new();
            if let Ok(id) = file {
                let file = world.lineage.file(id);
                meanings.push((format!("{} {}", file.role.word(), file.name), file.name.to_string()));
            }
            let of = |(sort, known): &(&str, thing::Known)| {
                (format!("{} {}", known.thing.word(), known.typed()), format!("{sort}:{}", known.typed()))
            };
            meanings.extend(several.iter().map(of));
            refused(thing::which(&meanings, typed, new))
        }
    }
}

/// That nothing is called so, with what may be meant: a file, or something else that has a name.
fn nothing_called(world: &World, typed: &str, problem: Diagnostic) -> Diagnostic {
    let is_meant = problem.help.as_deref().is_some_and(|help| help.starts_with("did you mean"));
    let all = renamable(world);
    let names = all.iter().filter_map(|known| known.split_once(':').map(|(_, name)| name));
    let near = if is_meant { None } else { nearest(typed, names) };
    let known =
        near.and_then(|near| all.iter().find(|known| known.split_once(':').is_some_and(|(_, name)| name == near)));
    match known {
        Some(known) => problem.help(format!("did you mean {known}?")),
        None => problem,
    }
}

/// All that can be renamed and is no theme file, as it is typed with its prefix.
pub fn renamable(world: &World) -> Vec<String> {
    let typed = |sort: &'static str| {
        let all = thing::all(world, sort).into_iter();
        all.map(move |known| format!("{sort}:{}", known.typed()))
    };
    thing::SORTS.iter().flat_map(|sort| typed(sort)).collect()
}

fn rename_file(world: &World, typed: &str, new: &str) -> Result<Renaming, Vec<Diagnostic>> {
    let name = meant(world, typed, new)?;
    let themes = concerned(world);
    let worlds = worlds(world, &themes)?;
    let all: Vec<&World> = std::iter::once(world).chain(&worlds).collect();
    let files = moved(&all, &name);
    free(&all, &name, &files)?;
    let mut found = Found { uncertain: unread_themes(world), ..Found::default() };
    all.iter().for_each(|world| collect(world, &name, &mut found));
    all.iter().for_each(|world| hidden(world, &|path| name.path(path), &mut found));
    if let Some((from, _)) = name.offered() {
        selectors(world, &[from.to_owned()], &mut found);
    }
    collect_addresses(world, &name, &mut found);
    in_expected(&world.snapshot, &name, &mut found);
    let records = records(world, &all, &|path| name.path(path), &files, &BTreeMap::new())?;
    let writes = writes(&world.snapshot, &files, &found, records)?;
    let mut paths: BTreeSet<String> = files.keys().cloned().collect();
    paths.extend(found.edits.files().map(|(path, _)| path.to_owned()));
    let mut proof = Proof::default();
    let after = changed(&world.snapshot, &writes);
    for world in &all {
        match World::load(after.clone(), world.asking.clone()) {
            Ok(after) => prove(world, &after, &Renamed::of_file(&name), &paths, &mut proof),
            Err(Unloadable(problems)) => return Err(problems),
        }
    }
    check_file(world, &name, &proof, &found.uncertain)?;
    let edited = found.edits.files().filter(|(path, _)| !files.contains_key(*path));
    let edited = edited.map(|(path, count)| (path.to_owned(), count)).collect();
    Ok(Renaming {
        what: name.role.word(),
        moved: files.into_iter().collect(),
        edited,
        uncertain: found.uncertain,
        ended: (name.role == Role::Asset).then(|| format!("/assets/{}", name.from)),
        addresses: Vec::new(),
        by_trial: Vec::new(),
        from: name.from,
        to: name.to,
        proof,
        writes,
    })
}

/// What was typed, with the new name.
fn meant(world: &World, typed: &str, new: &str) -> Result<NewName, Vec<Diagnostic>> {
    let prefix = typed.split_once(':').and_then(|(word, rest)| {
        let (word, folder) = PREFIXES.iter().find(|(known, _)| *known == word)?;
        Some((*word, *folder, rest))
    });
    let path = match prefix {
        Some((_, folder, rest)) if rest.starts_with(folder) => rest.to_owned(),
        Some(("component", folder, rest)) => format!("{folder}{rest}/component"),
        Some((_, folder, rest)) => format!("{folder}{rest}"),
        None => typed.to_owned(),
    };
    let path = path.trim_end_matches('/');
    let id = file_argument::theme_file(world, path).map_err(|problem| vec![problem])?;
    let file = world.lineage.file(id);
    let role = match file.role {
        Role::Other if file.name.component().is_some() => Role::Component,
        role => role,
    };
    let from = match role {
        Role::Component => file.name.component().map(|name| name.split('/').next().unwrap_or(name).to_owned()),
        role => name_of_file(role, &file.name),
    };
    let Some(from) = from else {
        let message = format!("{} can't be renamed by this command", file.name);
        return refused(
            Diagnostic::of(&codes::BAD_NAME, message)
                .help("it renames templates, partials, layouts, components, prepare files and assets"),
        );
    };
    // A slash behind it means all that is below it, too.
    let with_below = role == Role::Partial && typed.ends_with('/');
    let name = NewName { role, to: new_name(world, role, &from, new)?, from, with_below };
    if name.from == name.to {
        return refused(Diagnostic::of(
            &codes::BAD_NAME,
            format!("the {} is called {} already", role.word(), name.from),
        ));
    }
    // The farthest theme that has it is the one that callers may count on.
    let owners = world.lineage.ids().filter(|(_, file)| name.path(&file.name).is_some());
    let owner = owners.map(|(_, file)| file.theme).max().unwrap_or(0);
    if owner > 0 {
        let theme = &world.lineage.themes[owner].name;
        let message = format!("the {} {} is from the theme {theme}", role.word(), name.from);
        let help = format!("rename it there: hausblatt rename {} {} --theme {}", word(typed), word(new), word(theme));
        return refused(Diagnostic::of(&codes::NOT_OWN, message).help(help));
    }
    Ok(name)
}

/// The new name as those who ask for it will write it.
fn new_name(world: &World, role: Role, from: &str, typed: &str) -> Result<String, Vec<Diagnostic>> {
    let folder = PREFIXES.iter().find(|(what, _)| thing::role_of(what) == Some(role)).map_or("", |(_, folder)| folder);
    let bare = typed.strip_prefix(folder).unwrap_or(typed).trim_end_matches('/');
    let stem = |text: &str| Ending::split(text).map_or(text.to_owned(), |(stem, _)| stem.to_owned());
    let bad = |better: String| {
        let help = match better.is_empty() || better == bare {
            true => "use lower-case letters, digits and hyphens".to_owned(),
            false => format!("use lower-case letters, digits and hyphens, as in {better}"),
        };
        refused(Diagnostic::of(&codes::BAD_NAME, format!("\"{typed}\" can't name {}", one(role))).help(help))
    };
    match role {
        Role::Partial => {
            let name = stem(bare);
            let better = || name.split('/').map(slug).filter(|part| !part.is_empty()).collect::<Vec<_>>().join("/");
            if is_id(&name) { Ok(name) } else { bad(better()) }
        }
        Role::Layout => {
            let name = stem(bare);
            if is_slug(&name) { Ok(name) } else { bad(slug(&name)) }
        }
        Role::Component => {
            if is_slug(bare) {
                Ok(bare.to_owned())
            } else {
                bad(slug(bare))
            }
        }
        Role::Template => {
            let ending = Ending::split(from).map_or("html", |(_, ending)| ending.word());
            let offered = from.starts_with("offered/") && !bare.contains('/');
            let name = format!("{}{}.{ending}", if offered { "offered/" } else { "" }, stem(bare));
            if Ending::split(bare).is_some_and(|(_, other)| other.word() != ending) {
                let message = format!("a template that ends in .{ending} can't become {bare}");
                return refused(Diagnostic::of(&codes::BAD_NAME, message).help(format!("keep the extension: {name}")));
            }
            match waits_for(world, &Tried::of(world), &name) {
                Ok(_) => Ok(name),
                Err(why) => {
                    refused(Diagnostic::of(&codes::DEAD_TEMPLATE, format!("no request could use {name}: {why}")))
                }
            }
        }
        Role::Asset => {
            let extension =
                |name: &str| name.rsplit('/').next().and_then(|file| Some(file.rsplit_once('.')?.1.to_owned()));
            let name = match extension(from).filter(|_| extension(bare).is_none()) {
                Some(extension) => format!("{bare}.{extension}"),
                None => bare.to_owned(),
            };
            if extension(&name) != extension(from) {
                let message = format!("{from} can't become {name}: the extension says what it is");
                return refused(Diagnostic::of(&codes::BAD_NAME, message).help("keep the extension"));
            }
            let is_odd = |part: &str| {
                part.is_empty() || part.starts_with('.') || part.contains(['\\', ':', '?', '#', '%', '"', '\''])
            };
            if name.split('/').any(is_odd) || name.starts_with("components/") || name.starts_with("_covered/") {
                return bad(String::new());
            }
            Ok(name)
        }
        Role::Prepare => {
            let bare = bare.trim_end_matches(".let");
            match NAMES.contains(&bare) {
                true => Ok(bare.to_owned()),
                false => {
                    let message = format!("no request runs a prepare file {bare}");
                    let help = format!("it is named like what it runs for: {}", NAMES.join(", "));
                    refused(Diagnostic::of(&codes::BAD_NAME, message).help(help))
                }
            }
        }
        Role::Other => bad(String::new()),
    }
}

/// The other themes of the site that inherit from the active one, by name.
pub(super) fn concerned(world: &World) -> Vec<String> {
    let active = world.lineage.active().name.clone();
    let parent = |name: &str| theme::read(&world.snapshot, name, &mut Vec::new())?.parent.map(|parent| parent.text);
    let descends = |name: &String| {
        let mut seen = vec![name.clone()];
        while let Some(next) = seen.last().and_then(|last| parent(last)).filter(|next| !seen.contains(next)) {
            if next == active {
                return true;
            }
            seen.push(next);
        }
        false
    };
    theme::names(&world.snapshot).into_iter().filter(|name| *name != active).filter(descends).collect()
}

/// The themes of which nobody knows whether they inherit from the active one.
pub(super) fn unread_themes(world: &World) -> Vec<(Place, String)> {
    let snapshot = &world.snapshot;
    let unread = |name: String| {
        let mut problems = Vec::new();
        let theme = theme::read(snapshot, &name, &mut problems)?;
        let is_unread = |one: &Diagnostic| [codes::BAD_TOML.name, codes::UNREADABLE.name].contains(&one.code);
        let why = || "it can't be read, so what the theme inherits and names is not known".to_owned();
        problems.iter().any(is_unread).then(|| (Place { path: theme.manifest, span: Span::default() }, why()))
    };
    theme::names(snapshot).into_iter().filter_map(unread).collect()
}

/// The site as it is with each of these themes.
pub(super) fn worlds(world: &World, themes: &[String]) -> Result<Vec<World>, Vec<Diagnostic>> {
    let load = |theme: &String| {
        let asking = SiteOptions { theme: Some(theme.clone()), ..world.asking.clone() };
        World::load(world.snapshot.clone(), asking).map_err(|Unloadable(problems)| problems)
    };
    themes.iter().map(load).collect()
}

/// The files that move, by path, with their new paths.
fn moved(all: &[&World], name: &NewName) -> BTreeMap<String, String> {
    let mut moved = BTreeMap::new();
    for world in all {
        for (_, file) in world.lineage.ids() {
            let Some(new) = name.path(&file.name) else { continue };
            moved.insert(file.node.path.to_string(), format!("{}{new}", world.lineage.themes[file.theme].root));
        }
    }
    moved
}

/// That no theme has anything of the new name, not even with letters of another case.
fn free(all: &[&World], name: &NewName, moved: &BTreeMap<String, String>) -> Result<(), Vec<Diagnostic>> {
    let new: BTreeSet<String> = moved
        .keys()
        .filter_map(|path| all.iter().find_map(|world| world.lineage.ids().find(|(_, file)| *file.node.path == **path)))
        .filter_map(|(_, file)| name.path(&file.name))
        .map(|path| path.to_lowercase())
        .collect();
    for world in all {
        let taken = world.lineage.ids().find(|(_, file)| {
            let is_it = match name.role {
                Role::Component => {
                    file.name.component().is_some_and(|component| component.eq_ignore_ascii_case(&name.to))
                }
                _ => new.contains(&file.name.to_lowercase()),
            };
            is_it && !moved.contains_key(&*file.node.path)
        });
        if let Some((_, file)) = taken {
            let message = format!("there is {} {} already: {}", one(name.role), name.to, file.node.path);
            return refused(
                Diagnostic::of(&codes::FILE_EXISTS, message).help("choose another name, or rename that one first"),
            );
        }
    }
    if name.from.eq_ignore_ascii_case(&name.to) {
        let message = format!("{} and {} differ by case alone, and many systems take them for one", name.from, name.to);
        return refused(Diagnostic::of(&codes::BAD_NAME, message).help("rename it to something else first"));
    }
    Ok(())
}

/// The record of what the site is expected to be, as far as it names what is renamed.
fn in_expected(snapshot: &Snapshot, name: &NewName, found: &mut Found) {
    let key = match name.role {
        Role::Template => "template",
        Role::Layout => "layout",
        _ => return,
    };
    let Some(text) = expect::recorded(snapshot).and_then(|bytes| String::from_utf8(bytes).ok()) else { return };
    for line in toml_data::read(&expect::FILE.into(), &text, &mut Vec::new()) {
        for entry in line.data.as_map().unwrap_or_default() {
            if &*entry.key == key && entry.data.as_text() == Some(&name.from) {
                found.edits.add(expect::FILE, &text, entry.data.span, &name.from, &name.to);
            }
        }
    }
}

/// The records of originals that move with their copies, or speak of a file that moves.
pub(super) fn records(
    world: &World,
    all: &[&World],
    path: &dyn Fn(&str) -> Option<String>,
    moved: &BTreeMap<String, String>,
    renamed: &BTreeMap<String, String>,
) -> Result<Vec<Write>, Vec<Diagnostic>> {
    let snapshot = &world.snapshot;
    let themes: BTreeMap<&str, &Theme> =
        all.iter().flat_map(|world| &world.lineage.themes).map(|theme| (theme.name.as_str(), theme)).collect();
    let mut writes = Vec::new();
    for theme in themes.values() {
        let folder = originals::place(theme, "");
        for node in snapshot.below(&folder) {
            let own = ThemeFileName::new(&node.path[folder.len()..]);
            let new_place = path(&own).filter(|_| moved.contains_key(&format!("{}{own}", theme.root)));
            let bytes = node.bytes().map_err(|error| unread(&node.path, &error.to_string()))?;
            // One that makes no sense, which is reported, moves as it is.
            let original = originals::read(snapshot, theme, &own).and_then(Result::ok);
            let moves = |original: &Original| {
                let of = themes.get(original.theme.as_str());
                of.is_some_and(|of| moved.contains_key(&format!("{}{}", of.root, original.path)))
            };
            let renamed_theme = |of: &Original| renamed.get(&of.theme).cloned();
            let original = original.and_then(|of| {
                let path = if moves(&of) { path(&of.path) } else { None };
                let theme = renamed_theme(&of);
                let is_new = path.is_some() || theme.is_some();
                let (path, theme) = (path.unwrap_or(of.path), theme.unwrap_or(of.theme));
                is_new.then_some(Original { path, theme, ..of })
            });
            let new = original.map_or_else(|| bytes.clone(), |original| original.to_bytes());
            let new_folder = renamed.get(&theme.name);
            match new_place.or_else(|| new_folder.map(|_| own.to_string())) {
                Some(place) => {
                    let place = originals::place(theme, &place);
                    let place = match new_folder {
                        Some(folder) => {
                            place.replacen(&format!("themes/{}/", theme.name), &format!("themes/{folder}/"), 1)
                        }
                        None => place,
                    };
                    writes.push(Write::new(place, new));
                    writes.push(Write::removal(&*node.path, bytes));
                }
                None if new != bytes => writes.push(Write::instead_of(&*node.path, bytes, new)),
                None => {}
            }
        }
    }
    Ok(writes)
}

/// What is said of a file that can't be read.
fn unread(path: &str, why: &str) -> Vec<Diagnostic> {
    let help = "its permissions must let it be read";
    vec![Diagnostic::of(&codes::UNREADABLE, format!("{path} can't be read: {why}")).help(help)]
}

/// All that is to be written: new files first, then what names them, then the old files go.
pub(super) fn writes(
    snapshot: &Snapshot,
    moved: &BTreeMap<String, String>,
    found: &Found,
    records: Vec<Write>,
) -> Result<Vec<Write>, Vec<Diagnostic>> {
    let read = |path: &str| -> Result<Vec<u8>, Vec<Diagnostic>> {
        if let Some(bytes) = expect::recorded(snapshot).filter(|_| path == expect::FILE) {
            return Ok(bytes);
        }
        let node: Option<&std::sync::Arc<FileNode>> = snapshot.file(path);
        let bytes =
            node.ok_or_else(|| "it is gone".to_owned()).and_then(|node| node.bytes().map_err(|e| e.to_string()));
        bytes.map_err(|why| unread(path, &why))
    };
    let edited = |path: &str, bytes: &[u8]| {
        let text = std::str::from_utf8(bytes).ok()?;
        found.edits.edited(path, text).map(String::into_bytes)
    };
    let (mut new, mut changed, mut gone) = (Vec::new(), Vec::new(), Vec::new());
    for (from, to) in moved {
        let bytes = read(from)?;
        new.push(Write::new(to, edited(from, &bytes).unwrap_or_else(|| bytes.clone())));
        gone.push(Write::removal(from, bytes));
    }
    for (path, _) in found.edits.files().filter(|(path, _)| !moved.contains_key(*path)) {
        let bytes = read(path)?;
        if let Some(text) = edited(path, &bytes).filter(|text| *text != bytes) {
            changed.push(Write::instead_of(path, bytes, text));
        }
    }
    Ok([new, changed, records, gone].concat())
}

/// What a command of the same theme ends with.
pub(crate) fn in_theme(world: &World) -> String {
    let own = &world.lineage.active().name;
    if *own == world.site.config.theme.text { String::new() } else { format!(" --theme {}", word(own)) }
}

/// That it changes no page but for its name; a template's name says what it renders.
fn check_file(
    world: &World,
    name: &NewName,
    proof: &Proof,
    uncertain: &[(Place, String)],
) -> Result<(), Vec<Diagnostic>> {
    let what = name.role.word();
    let is_default = name.role == Role::Layout && name.from == "document";
    if is_default && !(proof.problems.is_empty() && proof.changed.is_empty()) {
        let message = "the layout document goes around every template that names none";
        let help = format!("let them say layout: {} first, or leave its name", name.to);
        return refused(Diagnostic::of(&codes::NOT_THE_SAME, message).help(help));
    }
    let with_below = || {
        format!(
            "a name that is computed may be this one; to rename what is below it, too: hausblatt rename partial:{}/ {}/{}",
            word(&name.from),
            word(&name.to),
            in_theme(world)
        )
    };
    if !proof.problems.is_empty() {
        let mut problems = proof.problems.clone();
        let is_lost = |one: &&mut Diagnostic| one.code == lang_codes::UNKNOWN_PARTIAL.name;
        if name.role == Role::Partial && !name.with_below && !uncertain.is_empty() {
            problems.iter_mut().filter(is_lost).for_each(|one| one.help = Some(with_below()));
        }
        return Err(problems);
    }
    // A template's name says what it renders, so that another one renders something else.
    if name.role == Role::Prepare || name.role == Role::Template && name.offered().is_none() {
        return Ok(());
    }
    let changed = proof.changed.iter().map(|change| change.address.as_str());
    let other: Vec<&str> = changed.chain(proof.differ.iter().map(String::as_str)).collect();
    let Some(first) = other.first() else { return Ok(()) };
    let more = match other.len() {
        1 => String::new(),
        count => format!(" and {} more", count - 1),
    };
    let message = format!("{first}{more} would not be the same with the {what} {} renamed", name.from);
    let help = match uncertain {
        [] => format!("look for what prints it: hausblatt reach {}{}", word(&name.from), in_theme(world)),
        _ if name.role == Role::Partial && !name.with_below => with_below(),
        _ => "a name that is computed may be this one: change what it is made of first".to_owned(),
    };
    let mut diagnostic = Diagnostic::of(&codes::NOT_THE_SAME, message).help(help);
    for (place, why) in uncertain {
        diagnostic = match diagnostic.place {
            None => diagnostic.at(&place.path, place.span),
            Some(_) => diagnostic.related(&place.path, place.span, why.clone()),
        };
    }
    refused(diagnostic)
}

/// That what has no name of a file changes no page but for its name; what is ordered by it may change their order.
pub(super) fn check(
    world: &World,
    what: &str,
    name: &str,
    proof: &Proof,
    uncertain: &[(Place, String)],
    is_shown: bool,
) -> Result<(), Vec<Diagnostic>> {
    if !proof.problems.is_empty() {
        return Err(proof.problems.clone());
    }
    if let Some(first) = proof.lost.first() {
        let message = format!("{first} would lead to an address that ends with the {what} {name} renamed");
        let help = format!("look for what prints it: hausblatt render {}{}", word(first), in_theme(world));
        return refused(Diagnostic::of(&codes::NOT_THE_SAME, message).help(help));
    }
    let changed = proof.changed.iter().map(|change| change.address.as_str());
    // What pages show may have its place by its name: in lists, too.
    let differ = proof.differ.iter().filter(|_| !is_shown).map(String::as_str);
    let other: Vec<&str> = changed.chain(differ).collect();
    let Some(first) = other.first() else { return Ok(()) };
    let more = match other.len() {
        1 => String::new(),
        count => format!(" and {} more", count - 1),
    };
    let message = format!("{first}{more} would not be the same with the {what} {name} renamed");
    let help = match uncertain {
        [] => format!("look for what prints it: hausblatt resolve {}{}", word(first), in_theme(world)),
        _ => "one of these may mean it: say there what is meant first".to_owned(),
    };
    let mut diagnostic = Diagnostic::of(&codes::NOT_THE_SAME, message).help(help);
    for (place, why) in uncertain {
        diagnostic = match diagnostic.place {
            None => diagnostic.at(&place.path, place.span),
            Some(_) => diagnostic.related(&place.path, place.span, why.clone()),
        };
    }
    refused(diagnostic)
}
