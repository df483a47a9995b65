//! What a renaming of something that is no theme file would write, and why it is refused.

use std::collections::{BTreeMap, BTreeSet};
use std::sync::Arc;

use hausblatt_lang::program::{Meaning, Word};
use hausblatt_lang::text::codes as lang_codes;
use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::source::{Place, Span};
use toml_edit::{DocumentMut, Item, Value};

use crate::asking::SiteOptions;
use crate::change::changes::changed;
use crate::change::rename::collect::{self, Found, hidden};
use crate::change::rename::names::Naming;
use crate::change::rename::plan::{
    MovedAddress, Renaming, check, concerned, records, refused, unread_themes, worlds, writes,
};
use crate::change::rename::proof::{Proof, Renamed, prove};
use crate::change::rename::references::{
    collect_addresses_of, collect_media, collect_paths, collect_references, texts,
};
use crate::change::rename::thing::{Known, Thing, free, new_name};
use crate::files::edit::Write;
use crate::files::front_matter_edit::{with_former, without_former};
use crate::files::{FileKind, Snapshot};
use crate::model::request::{ListingOf, addresses};
use crate::schema::config;
use crate::text::codes;
use crate::text::shell::word;
use crate::text::toml_change;
use crate::themes::theme;
use crate::world::{Unloadable, World};

/// Plans how something of a site gets another name, with all that uses it.
///
/// # Errors
/// Why it can't be renamed so.
pub(super) fn rename_thing(world: &World, sort: &str, known: &Known, new: &str) -> Result<Renaming, Vec<Diagnostic>> {
    let mut same = Vec::new();
    let planned = plan(world, (sort, known, new), &[], &mut same);
    // A text that is the same, as one that is handed to a partial, means it if the pages are the same only with it.
    match planned {
        Err(problems) if !same.is_empty() => {
            plan(world, (sort, known, new), &same, &mut Vec::new()).map_err(|_| problems)
        }
        planned => planned,
    }
}

/// The same with these texts, which are the old name, as the new one, too; `same` gets those that may be changed so.
fn plan(
    world: &World,
    (sort, known, new): (&str, &Known, &str),
    meant: &[(String, Span)],
    same: &mut Vec<(String, Span)>,
) -> Result<Renaming, Vec<Diagnostic>> {
    let one = |diagnostic| vec![diagnostic];
    let to = new_name(world, known, sort, new).map_err(one)?;
    let (from, to) = match &known.thing {
        Thing::Pattern(of) => (pattern(world, of), to),
        _ => (known.name.clone(), to),
    };
    let from_is_name = !matches!(known.thing, Thing::Pattern(_));
    if from == to {
        return refused(Diagnostic::of(&codes::BAD_NAME, format!("the {} is {to} already", known.thing.word())));
    }
    let mut found = Found::default();
    let others = match known.thing.is_of_lineage() {
        true => worlds(world, &concerned(world))?,
        false => other_worlds(world, &mut found),
    };
    let all: Vec<&World> = std::iter::once(world).chain(&others).collect();
    if from_is_name {
        // It may be taken in another theme alone.
        all.iter().try_for_each(|world| free(world, known, sort, &to)).map_err(one)?;
    }
    let naming = Naming::new(&all, known.thing.clone(), &from, &to);
    not_owned(world, known, &naming, sort, new)?;
    not_captured(&all, &naming)?;
    nothing_unread(world, &naming)?;
    no_introduction(world, &naming)?;
    free_files(&all, &naming)?;
    found.uncertain.extend(unread_themes(world));
    all.iter().for_each(|world| naming.collect(world, &mut found));
    all.iter().for_each(|world| hidden(world, &|path| naming.theme_path(path), &mut found));
    for (path, span) in meant {
        if let Some(text) = world.snapshot.file(path).and_then(|node| node.text()) {
            found.rename(path, text, *span, &from, &to);
        }
    }
    found.uncertain.retain(|(place, _)| !meant.iter().any(|(path, span)| **path == *place.path && *span == place.span));
    same.clone_from(&found.same);
    let texts = texts(world, &mut found);
    naming.each().for_each(|naming| collect_references(naming, &texts, &mut found));
    if naming.thing == Thing::Media {
        collect_media(&naming, &texts, &mut found);
    }
    collect_paths(world, &naming.moved, &mut found);
    other_declarations(world, &all, &naming, &mut found);
    let moved = moved(&all, &naming);
    let records = records(world, &all, &|path| naming.theme_path(path), &moved, &renamed_theme(&naming))?;
    // What the new names give other addresses to is known when they are there.
    let first = writes(&world.snapshot, &moved, &found, records.clone())?;
    let after = load(&with_moved(world, &first, &moved), &asking(world, &naming))?;
    let addresses = moved_addresses(world, &after, &naming, &moved);
    collect_addresses_of(&texts, &addresses, &mut found);
    naming.in_expected(world, &addresses, &mut found);
    selectors(world, &naming, &mut found);
    let mut all_writes = writes(&world.snapshot, &moved, &found, records)?;
    let redirected = redirects(world, &naming, &moved, &addresses, &mut all_writes)?;
    let after = with_moved(world, &all_writes, &moved);
    let mut paths: BTreeSet<String> = moved.keys().cloned().collect();
    paths.extend(found.edits.files().map(|(path, _)| path.to_owned()));
    let mut proof = Proof::default();
    let renamed = Renamed {
        printed: naming.printed(),
        templates: naming
            .files
            .iter()
            .filter(|file| file.is_template())
            .map(|file| (file.from.clone(), file.to.clone()))
            .collect(),
        layouts: BTreeMap::new(),
        theme_of: BTreeMap::new(),
        themes: renamed_theme(&naming),
        addresses: addresses.clone(),
        ended: redirected.iter().filter(|moved| !moved.redirects).map(|moved| moved.from.clone()).collect(),
        all: !known.thing.is_of_lineage(),
    };
    for world in &all {
        let after = load(&after, &asking(world, &naming))?;
        prove(world, &after, &renamed, &paths, &mut proof);
    }
    let shows = known.thing.is_shown();
    check(world, known.thing.word(), &known.typed(), &proof, &found.uncertain, shows)?;
    let edited = found.edits.files().filter(|(path, _)| !moved.contains_key(*path));
    let mut edited: Vec<(String, usize)> = edited.map(|(path, count)| (path.to_owned(), count)).collect();
    let with_redirect = all_writes.iter().map(|write| write.path.as_str()).filter(|path| {
        !moved.contains_key(*path) && !moved.values().any(|new| new == path) && !path.contains("/.originals/")
    });
    let more: Vec<String> =
        with_redirect.filter(|path| !edited.iter().any(|(known, _)| known == path)).map(str::to_owned).collect();
    edited.extend(more.into_iter().map(|path| (path, 1)));
    edited.sort();
    Ok(Renaming {
        what: known.thing.word(),
        from: if known.name.is_empty() { from } else { known.typed() },
        to: if known.name.is_empty() { to.clone() } else { Known { name: to, ..known.clone() }.typed() },
        moved: moved.into_iter().collect(),
        edited,
        uncertain: found.uncertain,
        ended: (naming.thing == Thing::Media).then(|| format!("/media/{}", naming.from)),
        addresses: redirected,
        by_trial: meant.iter().map(|(path, span)| Place { path: path.as_str().into(), span: *span }).collect(),
        proof,
        writes: all_writes,
    })
}

fn pattern(world: &World, collection: &str) -> String {
    world.site.collection(collection).map(|(_, it)| it.config.address.text.clone()).unwrap_or_default()
}

fn load(snapshot: &Snapshot, asking: &SiteOptions) -> Result<World, Vec<Diagnostic>> {
    World::load(snapshot.clone(), asking.clone()).map_err(|Unloadable(problems)| problems)
}

/// How the site is looked at when the name is another.
fn asking(world: &World, naming: &Naming) -> SiteOptions {
    let theme = world.asking.theme.clone();
    let theme =
        theme.map(|theme| if naming.thing == Thing::Theme && theme == naming.from { naming.to.clone() } else { theme });
    SiteOptions { theme, ..world.asking.clone() }
}

fn renamed_theme(naming: &Naming) -> BTreeMap<String, String> {
    match naming.thing {
        Thing::Theme => BTreeMap::from([(naming.from.clone(), naming.to.clone())]),
        _ => BTreeMap::new(),
    }
}

/// The files as they are after all that is written, those that are no texts too.
fn with_moved(world: &World, writes: &[Write], moved: &BTreeMap<String, String>) -> Snapshot {
    let mut snapshot = changed(&world.snapshot, writes);
    for (from, to) in moved {
        if snapshot.file(to).is_none()
            && let Some(node) = world.snapshot.file(from)
        {
            snapshot.put_elsewhere(node, to);
        }
    }
    snapshot
}

/// The site with each other theme that it has.
fn other_worlds(world: &World, found: &mut Found) -> Vec<World> {
    let active = &world.lineage.active().name;
    let mut worlds = Vec::new();
    for name in theme::names(&world.snapshot).into_iter().filter(|name| name != active) {
        let asking = SiteOptions { theme: Some(name.clone()), ..world.asking.clone() };
        match World::load(world.snapshot.clone(), asking) {
            Ok(world) => worlds.push(world),
            Err(_) => {
                let path = format!("themes/{name}/hausblatt-theme.toml");
                found.unsure(&path, Span::default(), "the theme can't be loaded, so what it names is not known");
            }
        }
    }
    worlds
}

/// That no theme farther up is the one which gives the name.
fn not_owned(world: &World, known: &Known, naming: &Naming, sort: &str, new: &str) -> Result<(), Vec<Diagnostic>> {
    let files = world.lineage.ids().filter(|(_, file)| naming.family.contains(&*file.name));
    let of_files = files.map(|(_, file)| file.theme);
    let owner = match naming.thing {
        Thing::Setting => {
            let declares = |theme: &theme::Theme| theme.settings.iter().any(|entry| *entry.key == *naming.from);
            world.lineage.themes.iter().rposition(declares)
        }
        Thing::Prepared => {
            let sets = world.lineage.ids().filter(|(id, _)| {
                let program = world.unit(*id).and_then(|unit| world.library.unit(unit)?.program.as_ref());
                program
                    .is_some_and(|program| program.sets.iter().any(|set| world.globals.name(set.global) == naming.from))
            });
            sets.map(|(_, file)| file.theme).max()
        }
        _ => of_files.max(),
    };
    let Some(owner) = owner.filter(|owner| *owner > 0) else { return Ok(()) };
    let theme = &world.lineage.themes[owner].name;
    let message = format!("the {} {} is from the theme {theme}", known.thing.word(), known.typed());
    let typed = format!("{sort}:{}", known.typed());
    let help = format!("rename it there: hausblatt rename {} {} --theme {}", word(&typed), word(new), word(theme));
    refused(Diagnostic::of(&codes::NOT_OWN, message).help(help))
}

/// That no file which uses the name means something else by the new one.
fn not_captured(all: &[&World], naming: &Naming) -> Result<(), Vec<Diagnostic>> {
    for world in all {
        let is_value = matches!(naming.thing, Thing::Prepared | Thing::Collection);
        if is_value && world.globals.find(&naming.to).is_some() && !world.globals.is_reserved(&naming.to) {
            let message = format!("\"{}\" is a value of this site already", naming.to);
            return refused(Diagnostic::of(&lang_codes::NAME_TAKEN, message).help("choose another name"));
        }
        for (id, file) in world.lineage.ids() {
            let Some(program) = world.unit(id).and_then(|unit| world.library.unit(unit)?.program.as_ref()) else {
                continue;
            };
            let own = naming.family.contains(&*file.name);
            let is_new = |symbol| world.symbols.name(symbol) == naming.to;
            let is_concerned = match naming.thing {
                Thing::Parameter(_) => own,
                // A file that does not use the value may have a name of its own that is the same.
                Thing::Prepared | Thing::Collection => {
                    let uses = |word: &Word| matches!(word.meaning, Meaning::Global(number) if world.globals.name(number) == naming.from);
                    program.words.iter().any(uses)
                }
                Thing::Slot(_) => {
                    if own && program.slots.iter().any(|&slot| is_new(slot)) {
                        let message = format!("{} has a slot {} already", file.name, naming.to);
                        return refused(Diagnostic::of(&lang_codes::NAME_TAKEN, message).help("choose another name"));
                    }
                    false
                }
                _ => return Ok(()),
            };
            if !is_concerned {
                continue;
            }
            let taken = program.words.iter().find(|word| match word.meaning {
                Meaning::Own(name, _) | Meaning::Made(name, _) | Meaning::Parameter(name) => is_new(name),
                Meaning::Global(number) => world.globals.name(number) == naming.to,
                _ => false,
            });
            let parameter = program.parameters.iter().any(|parameter| is_new(parameter.name)).then(Span::default);
            if let Some(span) = taken.map(|word| word.span).or(parameter) {
                let message = format!("\"{}\" means something else here", naming.to);
                let diagnostic = Diagnostic::of(&lang_codes::NAME_TAKEN, message).help("choose another name");
                return refused(diagnostic.at(&file.node.path, span));
            }
        }
    }
    Ok(())
}

/// That no page leaves the listing that it introduces.
fn no_introduction(world: &World, naming: &Naming) -> Result<(), Vec<Diagnostic>> {
    let site = &world.site;
    for (listing, page) in site.introductions.iter() {
        let content = site.content(*page);
        if naming.thing != Thing::Page || !naming.moved.contains_key(&**content.path()) {
            continue;
        }
        let message = format!("the page {} introduces a listing, and would leave it", content.id);
        let help = match listing {
            ListingOf::Term(id) => site.term(*id).map(|(taxonomy, term)| {
                let typed = format!("term:{}/{}", taxonomy.config.name.text, term.id);
                format!("rename the term, and the page with it: hausblatt rename {} NEW", word(&typed))
            }),
            ListingOf::Collection(at) => site.collections.get(usize::from(*at)).map(|collection| {
                format!("give [collections.{}] in hausblatt.toml another listing first", collection.config.name.text)
            }),
        };
        return refused(
            Diagnostic::of(&codes::NOT_THE_SAME, message).maybe_help(help).at(content.path(), Span::default()),
        );
    }
    Ok(())
}

/// That a folder which moves has nothing in it that the site does not read.
fn nothing_unread(world: &World, naming: &Naming) -> Result<(), Vec<Diagnostic>> {
    let folder = match &naming.thing {
        Thing::Theme => format!("themes/{}", naming.from),
        Thing::Collection => format!("content/{}", naming.from),
        _ => return Ok(()),
    };
    let disk = world.snapshot.root().join(&folder);
    let Some(unread) = unread(world, &disk, &folder, 0) else { return Ok(()) };
    let message = format!("{unread} would stay behind: the site does not read it");
    let help = format!("move it out of {folder} first");
    refused(Diagnostic::of(&codes::FILE_EXISTS, message).help(help))
}

/// How deep folders are looked into.
const DEEPEST: usize = 64;

fn unread(world: &World, disk: &std::path::Path, folder: &str, depth: usize) -> Option<String> {
    let entries = world.snapshot.file_system().list(disk).ok()?;
    for entry in entries {
        let path = format!("{folder}/{}", entry.name.to_string_lossy());
        if world.snapshot.file(&path).is_some() {
            continue;
        }
        if entry.kind != FileKind::Folder || depth >= DEEPEST {
            return Some(path);
        }
        if let Some(found) = unread(world, &disk.join(&entry.name), &path, depth + 1) {
            return Some(found);
        }
    }
    None
}

/// The files that move, by path, with their new paths.
fn moved(all: &[&World], naming: &Naming) -> BTreeMap<String, String> {
    let mut moved = naming.moved.clone();
    for world in all {
        for (_, file) in world.lineage.ids() {
            if let Some(new) = naming.theme_path(&file.name) {
                moved.insert(file.node.path.to_string(), format!("{}{new}", world.lineage.themes[file.theme].root));
            }
        }
    }
    moved
}

/// That nothing is where files would move to, not even with letters of another case.
fn free_files(all: &[&World], naming: &Naming) -> Result<(), Vec<Diagnostic>> {
    let moved = moved(all, naming);
    let Some(world) = all.first() else { return Ok(()) };
    let lower: BTreeMap<String, &str> =
        world.snapshot.files().into_iter().map(|node| (node.path.to_lowercase(), &*node.path)).collect();
    for new in moved.values() {
        if let Some(taken) = lower.get(&new.to_lowercase()).filter(|taken| !moved.contains_key(**taken)) {
            let message = format!("there is {taken} already");
            return refused(
                Diagnostic::of(&codes::FILE_EXISTS, message).help("choose another name, or rename that one first"),
            );
        }
    }
    Ok(())
}

/// Themes that declare a setting of the same name, which this does not rename.
fn other_declarations(world: &World, all: &[&World], naming: &Naming, found: &mut Found) {
    if naming.thing != Thing::Setting {
        return;
    }
    let renamed: BTreeSet<&str> =
        all.iter().flat_map(|world| &world.lineage.themes).map(|theme| theme.name.as_str()).collect();
    for name in theme::names(&world.snapshot).into_iter().filter(|name| !renamed.contains(name.as_str())) {
        let Some(theme) = theme::read(&world.snapshot, &name, &mut Vec::new()) else { continue };
        if let Some(entry) = theme.settings.iter().find(|entry| *entry.key == *naming.from) {
            found.unsure(&theme.manifest, entry.span, "this theme declares a setting of the same name, which stays");
        }
    }
}

/// The addresses that are others afterwards, decoded: those of content and its views, of terms, and the numbered pages of
/// what is listed there.
fn moved_addresses(
    before: &World,
    after: &World,
    naming: &Naming,
    moved: &BTreeMap<String, String>,
) -> BTreeMap<String, String> {
    let mut all = BTreeMap::new();
    let mut add = |old: Option<String>, new: Option<String>| {
        if let (Some(old), Some(new)) = (old, new)
            && old != new
        {
            all.insert(old, new);
        }
    };
    for (id, content) in before.site.ids() {
        let path: &str = content.path();
        let Some(other) = after.site.at_path(moved.get(path).map_or(path, String::as_str)) else { continue };
        add(
            content.address.as_deref().map(str::to_owned),
            after.site.content(other).address.as_deref().map(str::to_owned),
        );
        let views = before.site.collection_of(content).map_or(0, |collection| collection.config.views.len());
        for view in 0..u16::try_from(views).unwrap_or(u16::MAX) {
            add(before.site.view_address(id, view), after.site.view_address(other, view));
        }
    }
    for (old, new) in before.site.taxonomies.iter().zip(after.site.taxonomies.iter()) {
        for term in &old.terms {
            let is_it =
                matches!(&naming.thing, Thing::Term(of) if *of == old.config.name.text) && *term.id == *naming.from;
            let id = if is_it { naming.to.as_str() } else { &term.id };
            add(term.address.clone(), new.find(id).and_then(|at| new.term(at)?.address.clone()));
        }
    }
    // A listing's other pages go with it.
    let numbered: Vec<(String, String)> = addresses(&before.site)
        .into_iter()
        .filter(|address| !all.contains_key(address))
        .filter_map(|address| {
            let at = address.rfind("page/")?;
            let new = all.get(&address[..at])?;
            Some((address.clone(), format!("{new}{}", &address[at..])))
        })
        .collect();
    all.extend(numbered);
    all
}

/// Writes the redirects of addresses that move; which of them lead on, and which end.
fn redirects(
    world: &World,
    naming: &Naming,
    moved: &BTreeMap<String, String>,
    addresses: &BTreeMap<String, String>,
    writes: &mut Vec<Write>,
) -> Result<Vec<MovedAddress>, Vec<Diagnostic>> {
    for content in world.site.contents.iter() {
        let Some(old) = content.address.as_deref() else { continue };
        let Some(new) = addresses.get(old) else { continue };
        let path: &str = content.path();
        let now = moved.get(path).map_or(path, String::as_str);
        let text = text_of(world, writes, now, path)?;
        let edited = without_former(&text, new).and_then(|text| with_former(&text, &[old]));
        let edited = edited.map_err(|problem| match problem.place {
            Some(_) => vec![problem],
            None => vec![problem.at(&content.node.path, Span::default())],
        })?;
        put(world, writes, now, edited);
    }
    if let Thing::Term(of) = &naming.thing {
        let taxonomy = world.site.taxonomies.iter().find(|taxonomy| taxonomy.config.name.text == *of);
        let term = taxonomy.and_then(|taxonomy| taxonomy.term(taxonomy.find(&naming.from)?));
        let address = term.and_then(|term| term.address.as_deref());
        // A page at the same address leads on by itself.
        let is_page = |old: &str| world.site.contents.iter().any(|content| content.address.as_deref() == Some(old));
        if let Some(new) = address.filter(|old| !is_page(old)).and_then(|old| addresses.get(old)) {
            let text = text_of(world, writes, config::FILE, config::FILE)?;
            if let Some(edited) = with_former_term(&text, of, &naming.to, address.unwrap_or(""), new) {
                put(world, writes, config::FILE, edited);
            }
        }
    }
    let snapshot = with_moved(world, writes, moved);
    let after = load(&snapshot, &asking(world, naming))?;
    let leads_on = |old: &str, new: &str| matches!(after.route_decoded(old), crate::model::request::Routed::Redirect(to) if to == new);
    let all = addresses.iter().map(|(from, to)| MovedAddress {
        from: from.clone(),
        to: to.clone(),
        redirects: leads_on(from, to),
    });
    Ok(all.collect())
}

/// A file's text as it is to be written.
fn text_of(world: &World, writes: &[Write], now: &str, before: &str) -> Result<Arc<str>, Vec<Diagnostic>> {
    let written = writes.iter().find(|write| write.path == now).and_then(|write| write.bytes.as_deref());
    if let Some(text) = written.and_then(|bytes| std::str::from_utf8(bytes).ok()) {
        return Ok(text.into());
    }
    let text = world
        .snapshot
        .file(before)
        .ok_or_else(|| "it is gone".to_owned())
        .and_then(|node| node.whole_text().map_err(|error| error.to_string()));
    text.map_err(|why| {
        let message = format!("{before} can't be read: {why}");
        vec![Diagnostic::of(&codes::UNREADABLE, message).help("save it as UTF-8")]
    })
}

/// Lets a file be written so.
fn put(world: &World, writes: &mut Vec<Write>, path: &str, text: String) {
    if let Some(write) = writes.iter_mut().find(|write| write.path == path) {
        write.bytes = Some(text.into_bytes());
        return;
    }
    let before = world.snapshot.file(path).and_then(|node| node.bytes().ok()).unwrap_or_default();
    // What is taken away comes last.
    let at = writes.iter().position(|write| write.bytes.is_none()).unwrap_or(writes.len());
    writes.insert(at, Write::instead_of(path, before, text));
}

/// The configuration with a former address of a term, if it declares that.
fn with_former_term(text: &str, taxonomy: &str, term: &str, old: &str, new: &str) -> Option<String> {
    let mut document: DocumentMut = text.parse().ok()?;
    let item = document.get_mut("taxonomies")?.get_mut(taxonomy)?.get_mut("terms")?.get_mut(term)?;
    let table = item.as_table_like_mut()?;
    let mut addresses: Vec<String> = match table.get("formerly").and_then(Item::as_value) {
        Some(Value::Array(array)) => array.iter().filter_map(|one| one.as_str().map(str::to_owned)).collect(),
        Some(value) => value.as_str().map(str::to_owned).into_iter().collect(),
        None => Vec::new(),
    };
    addresses.retain(|address| address != new && address != old);
    addresses.push(old.to_owned());
    let value = match addresses.as_slice() {
        [one] => Value::from(one.as_str()),
        several => Value::Array(several.iter().map(String::as_str).collect()),
    };
    match table.get_mut("formerly").and_then(Item::as_value_mut) {
        Some(known) => {
            let decor = known.decor().clone();
            *known = value;
            *known.decor_mut() = decor;
        }
        None => {
            table.insert("formerly", Item::Value(value));
            // The space before the closing brace stays there.
            if let Some(inline) = item.as_inline_table_mut() {
                tidy(inline);
            }
        }
    }
    Some(toml_change::written(text, &document))
}

/// Puts the space that was behind the last value behind the new last one.
fn tidy(inline: &mut toml_edit::InlineTable) {
    let count = inline.len();
    let mut values = inline.iter_mut().map(|(_, value)| value).skip(count.saturating_sub(2));
    if let (Some(before), Some(last)) = (values.next(), values.next()) {
        let space = before.decor().suffix().and_then(|suffix| suffix.as_str()).unwrap_or("").to_owned();
        before.decor_mut().set_suffix("");
        last.decor_mut().set_suffix(space);
    }
}

/// Selectors of style sheets that may mean what is renamed: `classes` has its name.
fn selectors(world: &World, naming: &Naming, found: &mut Found) {
    let names: Vec<String> = naming.printed().into_iter().map(|(from, _)| from.replace('/', "-")).collect();
    collect::selectors(world, &names, found);
}
