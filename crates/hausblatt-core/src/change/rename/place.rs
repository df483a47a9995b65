//! What is named at a place of a file, where that is defined, and where it is used.

use hausblatt_lang::program::{Act, Callee, Meaning, Mentioned, Program};
use hausblatt_lang::text::source::{Place, Span};
use hausblatt_lang::types::RecordId;

use crate::change::rename::collect::{Found, NewName, collect, collect_addresses, hidden, name_of_file};
use crate::change::rename::names::{Naming, called_names, layouts};
use crate::change::rename::references::{collect_media, collect_references, texts};
use crate::change::rename::thing::{self, Known, Thing};
use crate::model::content::{Content, Section};
use crate::schema::config;
use crate::schema::fields::FieldType;
use crate::text::data::{Data, DataValue};
use crate::text::markdown;
use crate::text::slug::slug;
use crate::text::toml_places::{bare, places};
use crate::themes::file_name::Role;
use crate::themes::lineage::{FileId, ThemeFile};
use crate::themes::theme;
use crate::world::World;

/// What is named at a place.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct NamedAt {
    /// Where the name is.
    pub span: Span,
    /// What it names.
    pub named: Named,
}

/// What a name names.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Named {
    /// What can be renamed, as it is typed: `partial:card`, `field:varieties/days`.
    Known(String),
    /// A name that the file makes itself, with its place in the frame.
    Own(String, u16),
    /// A value that every site has.
    Global(String),
    /// A member of a record, and what the record is called.
    Member(String, String),
    /// The next file of the chain.
    Next,
}

/// The theme file at a path.
fn file_at<'w>(world: &'w World, path: &str) -> Option<(FileId, &'w ThemeFile)> {
    world.lineage.ids().find(|(_, file)| *file.node.path == *path)
}

/// What is named at the byte `at` of a file of the site.
pub fn named_at(world: &World, path: &str, at: usize) -> Option<NamedAt> {
    // On quotes, and on the words of a link, nothing is named.
    found_at(world, path, at).filter(|found| is_at(found.span, at))
}

fn found_at(world: &World, path: &str, at: usize) -> Option<NamedAt> {
    let node = world.snapshot.file(path)?;
    if let Some((id, file)) = file_at(world, path) {
        let text = node.text().map_or("", |text| text);
        return in_theme_file(world, id, file, text, at).or_else(|| in_toml(world, path, at));
    }
    if let Some(content) = world.site.contents.iter().find(|content| **content.path() == *path) {
        return in_content(world, content, at);
    }
    in_toml(world, path, at)
}

fn is_at(span: Span, at: usize) -> bool {
    span.range().start <= at && at <= span.range().end
}

/// The bare word inside of a span that may have quotes around it.
fn inner(text: &str, span: Span, name: &str) -> Span {
    match span.of(text).find(name) {
        Some(start) => Span::new(span.range().start + start, span.range().start + start + name.len()),
        None => span,
    }
}

fn in_theme_file(world: &World, id: FileId, file: &ThemeFile, text: &str, at: usize) -> Option<NamedAt> {
    let known = |span: Span, name: &str, typed: String| {
        Some(NamedAt { span: inner(text, span, name), named: Named::Known(typed) })
    };
    if let Some(layout) = world.header(id).layout.as_ref().filter(|layout| is_at(layout.span, at)) {
        return (layout.text != "none").then(|| known(layout.span, &layout.text, format!("layout:{}", layout.text)))?;
    }
    for entry in file.node.front().entries.iter().filter(|entry| &*entry.key == "takes") {
        let own = entry.data.as_map().unwrap_or_default().iter().find(|own| is_at(own.span, at));
        if let Some(own) = own {
            return known(own.span, &own.key, format!("param:{}/{}", file.name, own.key));
        }
    }
    let program = world.library.unit(world.unit(id)?)?.program.as_ref()?;
    of_call(world, id, file, text, program, at)
        .or_else(|| of_mention(world, text, program, at))
        .or_else(|| of_word(world, file, text, program, at))
}

fn of_call(world: &World, id: FileId, file: &ThemeFile, text: &str, program: &Program, at: usize) -> Option<NamedAt> {
    let named =
        |span: Span, name: &str, typed: String| NamedAt { span: inner(text, span, name), named: Named::Known(typed) };
    for (number, call) in program.calls.iter().enumerate() {
        let called = || called_names(world, world.unit(id), program, number);
        if is_at(call.span, at) {
            return match &call.callee {
                Callee::Named(name) => {
                    let (_, found) = world.library.find_partial(program.ending, name)?;
                    Some(named(call.span, name, format!("partial:{found}")))
                }
                Callee::Component(name) => Some(named(call.span, name, format!("component:{name}"))),
                Callee::Next => Some(NamedAt { span: call.span, named: Named::Next }),
                Callee::Computed(..) => None,
            };
        }
        if let Some(given) = call.given.iter().find(|given| is_at(given.span, at)) {
            let name = world.symbols.name(given.name);
            let callee = called().into_iter().next()?;
            return Some(named(given.span, name, format!("param:{callee}/{name}")));
        }
        if let Some((name, span)) = call.fills.iter().find(|(_, span)| is_at(*span, at)) {
            let name = world.symbols.name(*name);
            let slots = |callee: &&str| has_slot(world, callee, name);
            let callee = called().into_iter().find(slots).map(str::to_owned);
            let callee = callee.or_else(|| layout_of(world, id, name))?;
            return Some(named(*span, name, format!("slot:{callee}/{name}")));
        }
    }
    if let Some((name, span)) = program.layout_fills.iter().find(|(_, span)| is_at(*span, at)) {
        let name = world.symbols.name(*name);
        return Some(named(*span, name, format!("slot:{}/{name}", layout_of(world, id, name)?)));
    }
    if let Some((name, span)) = program.asked_filled.iter().find(|(_, span)| is_at(*span, at)) {
        let name = world.symbols.name(*name);
        return Some(named(*span, name, format!("slot:{}/{name}", file.name)));
    }
    let set = program.sets.iter().find(|set| is_at(set.span, at))?;
    let name = world.globals.name(set.global);
    let is_built_in = crate::text::names::GLOBALS.contains(&name);
    let value = if is_built_in { Named::Global(name.to_owned()) } else { Named::Known(format!("value:{name}")) };
    Some(NamedAt { span: set.span, named: value })
}

fn has_slot(world: &World, file: &str, name: &str) -> bool {
    let files = world.lineage.ids().filter(|(_, own)| *own.name == *file);
    let programs = files.filter_map(|(id, _)| world.library.unit(world.unit(id)?)?.program.as_ref());
    programs.into_iter().any(|program| program.slots.iter().any(|&slot| world.symbols.name(slot) == name))
}

/// The layout around a file that has this slot.
fn layout_of(world: &World, id: FileId, slot: &str) -> Option<String> {
    let around = layouts(world).remove(&id)?;
    let mut files = around.into_iter().map(|layout| format!("layouts/{layout}.html"));
    files.find(|name| has_slot(world, name, slot))
}

fn of_mention(world: &World, text: &str, program: &Program, at: usize) -> Option<NamedAt> {
    let uses = program.ops.iter().zip(&program.spans).filter_map(|(op, span)| match op.act {
        Act::Use(kept) => Some((program.kept(kept).to_owned(), *span)),
        _ => None,
    });
    if let Some(mention) = program.mentions.iter().find(|mention| is_at(mention.span, at)) {
        let typed = match mention.what {
            Mentioned::Asset => format!("asset:{}", mention.text),
            Mentioned::Reference | Mentioned::Content => of_reference(world, &mention.text)?,
            Mentioned::Address => return None,
        };
        let name = mention.text.rsplit(':').next().unwrap_or(&mention.text);
        return Some(NamedAt { span: inner(text, mention.span, name), named: Named::Known(typed) });
    }
    let (asset, span) = uses.into_iter().find(|(_, span)| is_at(*span, at))?;
    Some(NamedAt { span: inner(text, span, &asset), named: Named::Known(format!("asset:{asset}")) })
}

/// What a reference names, as it is typed.
fn of_reference(world: &World, text: &str) -> Option<String> {
    let name = text.split(['#', '?']).next().unwrap_or(text);
    let (sort, rest) = name.split_once(':')?;
    world.site.referenced(name)?;
    Some(match sort {
        "feed" => format!("collection:{rest}"),
        "period" => format!("collection:{}", rest.split('/').next().unwrap_or(rest)),
        "route" => format!("route:{}", rest.split('/').next().unwrap_or(rest)),
        _ => name.to_owned(),
    })
}

fn of_word(world: &World, file: &ThemeFile, text: &str, program: &Program, at: usize) -> Option<NamedAt> {
    let word = program.words.iter().rev().find(|word| is_at(word.span, at))?;
    let name_of = |symbol| world.symbols.name(symbol).to_owned();
    let known = |typed: String| Named::Known(typed);
    let named = match &word.meaning {
        Meaning::Parameter(name) => known(format!("param:{}/{}", file.name, name_of(*name))),
        Meaning::Own(name, slot) | Meaning::Made(name, slot) => Named::Own(name_of(*name), *slot),
        Meaning::Slot(name) => known(format!("slot:{}/{}", file.name, name_of(*name))),
        Meaning::Tray(name) => known(format!("tray:{}", name_of(*name))),
        Meaning::Global(number) => {
            let name = world.globals.name(*number).to_owned();
            match (world.globals.is_of_site(*number), crate::text::names::GLOBALS.contains(&name.as_str())) {
                (true, _) => known(format!("collection:{name}")),
                (_, true) => Named::Global(name),
                _ => known(format!("value:{name}")),
            }
        }
        Meaning::Member(name, records) => of_member(world, &name_of(*name), records),
        Meaning::Compared(member, records) => {
            let written = bare(word.span.of(text));
            known(of_compared(world, &name_of(*member), records, written)?)
        }
        Meaning::PartOf(name, of) => Named::Member(name_of(*name), of.word().to_owned()),
        Meaning::Unknown(_) => return None,
    };
    let name = bare(word.span.of(text)).to_owned();
    Some(NamedAt { span: inner(text, word.span, &name), named })
}

/// What a member of these records is.
fn of_member(world: &World, name: &str, records: &[RecordId]) -> Named {
    let sorts = &world.sorts;
    let all_are = |sort: Option<RecordId>| !records.is_empty() && records.iter().all(|record| Some(*record) == sort);
    let of_site = [
        (sorts.settings, "setting"),
        (sorts.menus, "menu"),
        (sorts.tables, "table"),
        (sorts.views, "view"),
        (sorts.collections, "collection"),
        (sorts.taxonomies, "taxonomy"),
    ];
    if let Some((_, sort)) = of_site.into_iter().find(|(record, _)| all_are(*record)) {
        return Named::Known(format!("{sort}:{name}"));
    }
    let is_content = |record: &RecordId| {
        sorts.entries.contains(record) || Some(*record) == sorts.page || Some(*record) == sorts.any_content
    };
    if records.iter().any(is_content) {
        if world.site.taxonomies.iter().any(|taxonomy| taxonomy.config.name.text == name) {
            return Named::Known(format!("taxonomy:{name}"));
        }
        let declares = |fields: &[crate::schema::fields::Field]| fields.iter().any(|field| field.name == name);
        let of_entry = |at: usize| {
            let config = &world.site.collections.get(at)?.config;
            declares(&config.fields).then(|| format!("field:{}/{name}", config.name.text))
        };
        let all = Some(()).filter(|()| records.iter().any(|record| Some(*record) == sorts.any_content));
        let entries = sorts.entries.iter().enumerate();
        let found =
            entries.filter(|(_, record)| all.is_some() || records.contains(record)).find_map(|(at, _)| of_entry(at));
        let of_pages = || {
            let is_page = all.is_some() || records.iter().any(|record| Some(*record) == sorts.page);
            (is_page && declares(&world.site.config.page_fields)).then(|| format!("field:pages/{name}"))
        };
        if let Some(typed) = found.or_else(of_pages) {
            return Named::Known(typed);
        }
    }
    let noun = records.first().map_or("a value that is not known", |record| world.globals.record_name(*record));
    Named::Member(name.to_owned(), noun.to_owned())
}

fn of_compared(world: &World, member: &str, records: &[RecordId], text: &str) -> Option<String> {
    let sorts = &world.sorts;
    if world.site.taxonomies.iter().any(|taxonomy| taxonomy.config.name.text == member) {
        return Some(format!("term:{member}/{text}"));
    }
    let is = |sort: Option<RecordId>| records.iter().all(|record| Some(*record) == sort);
    match member {
        "collection" => Some(format!("collection:{text}")),
        "view" if is(sorts.request) => Some(format!("view:{text}")),
        "name" if is(sorts.route) => Some(format!("route:{text}")),
        "id" if is(sorts.page) => Some(format!("page:{text}")),
        _ => None,
    }
}

fn in_content(world: &World, content: &Content, at: usize) -> Option<NamedAt> {
    let text = content.node.whole_text().ok()?;
    let collection = world.site.collection_of(content).map(|collection| collection.config.name.text.clone());
    let home = collection.unwrap_or_else(|| "pages".to_owned());
    let fields = match content.home {
        Section::Pages => &world.site.config.page_fields,
        Section::Collection(number) => &world.site.collections[usize::from(number)].config.fields,
    };
    let named = |span: Span, name: &str, typed: String| {
        Some(NamedAt { span: inner(&text, span, name), named: Named::Known(typed) })
    };
    if at >= content.body {
        let body = text.get(content.body..)?;
        let links: Vec<(String, std::ops::Range<usize>)> = markdown::links(body).collect();
        let (link, range) = links
            .into_iter()
            .find(|(_, range)| is_at(Span::new(content.body + range.start, content.body + range.end), at))?;
        let span = Span::new(content.body + range.start, content.body + range.end);
        if let Some(typed) = of_reference(world, &link) {
            return named(span, &link, typed);
        }
        let path = link.split(['#', '?']).next().unwrap_or("");
        let folder = content.path().rsplit_once('/').map_or("", |(folder, _)| folder);
        let target = [crate::text::address::joined_path(folder, path), Some(path.trim_start_matches('/').to_owned())];
        let found = target.into_iter().flatten().find_map(|path| world.site.at_path(&path));
        return named(span, path, of_content(world, world.site.content(found?)));
    }
    for entry in &content.node.front().entries {
        let key = &*entry.key;
        let taxonomy = world.site.taxonomies.iter().find(|taxonomy| taxonomy.config.name.text == key);
        let field = fields.iter().find(|field| field.name == key);
        if is_at(entry.span, at) {
            return match (taxonomy, field) {
                (Some(_), _) => named(entry.span, key, format!("taxonomy:{key}")),
                (_, Some(_)) => named(entry.span, key, format!("field:{home}/{key}")),
                _ => None,
            };
        }
        // Of what goes over several lines only the parts have places that can be relied on.
        if key == "trays" {
            match in_trays(world, &text, &entry.data, at) {
                Some(found) => return Some(found),
                None => continue,
            }
        }
        if !is_at(entry.data.span, at) {
            continue;
        }
        return match (key, taxonomy, field) {
            ("template", ..) => {
                let name = entry.data.as_text()?;
                named(entry.data.span, name, format!("template:offered/{name}"))
            }
            ("image", ..) => in_value(world, &text, &FieldType::Image, &entry.data, at),
            (_, Some(taxonomy), _) => {
                let one = std::slice::from_ref(&entry.data);
                let data = entry.data.as_list().unwrap_or(one).iter().find(|data| is_at(data.span, at))?;
                let term = data.as_text()?;
                named(data.span, term, format!("term:{}/{}", taxonomy.config.name.text, slug(term)))
            }
            (_, _, Some(field)) => in_value(world, &text, &field.of, &entry.data, at),
            _ => None,
        };
    }
    None
}

/// A page or an entry, as it is typed.
fn of_content(world: &World, content: &Content) -> String {
    match world.site.collection_of(content) {
        Some(collection) => format!("entry:{}/{}", collection.config.name.text, content.id),
        None => format!("page:{}", content.id),
    }
}

/// What a value of this type names.
fn in_value(world: &World, text: &str, of: &FieldType, data: &Data, at: usize) -> Option<NamedAt> {
    if !is_at(data.span, at) {
        return None;
    }
    match (of, &data.value) {
        (FieldType::List(of), DataValue::List(members)) => {
            members.iter().find_map(|member| in_value(world, text, of, member, at))
        }
        (FieldType::Group(group), DataValue::Map(entries)) => entries.iter().find_map(|entry| {
            let field = group.fields.iter().find(|field| *field.name == *entry.key)?;
            in_value(world, text, &field.of, &entry.data, at)
        }),
        (_, DataValue::Text(value)) => {
            let typed = match of.reference(value) {
                Some(reference) => of_reference(world, &reference)?,
                None if *of == FieldType::Image => {
                    format!("media:{}", value.trim_start_matches('/').strip_prefix("media/")?)
                }
                None => of_reference(world, value)?,
            };
            Some(NamedAt { span: inner(text, data.span, value), named: Named::Known(typed) })
        }
        (FieldType::Image, DataValue::Map(entries)) => {
            let file = entries.iter().find(|entry| &*entry.key == "file")?;
            in_value(world, text, of, &file.data, at)
        }
        _ => None,
    }
}

fn in_trays(world: &World, text: &str, data: &Data, at: usize) -> Option<NamedAt> {
    let named = |span: Span, name: &str, typed: String| {
        Some(NamedAt { span: inner(text, span, name), named: Named::Known(typed) })
    };
    for tray in data.as_map()? {
        if is_at(tray.span, at) {
            return named(tray.span, &tray.key, format!("tray:{}", tray.key));
        }
        for placed in tray.data.as_list().unwrap_or_default() {
            let entries = placed.as_map().unwrap_or_default();
            let name = entries.iter().find(|entry| &*entry.key == "component").and_then(|entry| entry.data.as_text());
            let component = world.components.iter().find(|one| Some(one.name.as_str()) == name);
            for entry in entries {
                if &*entry.key == "component" && is_at(entry.data.span, at) {
                    let name = entry.data.as_text()?;
                    return named(entry.data.span, name, format!("component:{name}"));
                }
                let (Some(component), true) = (component, &*entry.key != "component") else { continue };
                let file = format!("components/{}/component.html", component.name);
                if is_at(entry.span, at) {
                    return named(entry.span, &entry.key, format!("param:{file}/{}", entry.key));
                }
                let field = component.fields.iter().find(|field| *field.name == *entry.key);
                if let Some(found) = field.and_then(|field| in_value(world, text, &field.of, &entry.data, at)) {
                    return Some(found);
                }
            }
        }
    }
    None
}

fn in_toml(world: &World, path: &str, at: usize) -> Option<NamedAt> {
    if !path.ends_with(".toml") {
        return None;
    }
    let text = world.snapshot.file(path)?.whole_text().ok()?;
    let place = places(&text).into_iter().find(|place| is_at(place.span, at))?;
    let written = bare(place.span.of(&text)).to_owned();
    let parts: Vec<&str> = place.path.iter().map(String::as_str).collect();
    let typed = match (path.rsplit('/').next().unwrap_or(path), place.is_key, parts.as_slice()) {
        (_, false, _) if of_reference(world, &written).is_some() => of_reference(world, &written)?,
        (theme::MANIFEST, true, ["settings", name]) => format!("setting:{name}"),
        (theme::MANIFEST, false, ["theme", "parent"]) => format!("theme:{written}"),
        ("component.toml", false, ["fields", "name"]) => {
            let folder = path.rsplit_once('/').map(|(folder, _)| folder)?;
            let folder = folder.find("components/").map(|at| &folder[at..])?;
            format!("param:{folder}/component.html/{written}")
        }
        (config::FILE, true, ["collections", name]) => format!("collection:{name}"),
        (config::FILE, true, ["taxonomies", name]) => format!("taxonomy:{name}"),
        (config::FILE, true, ["taxonomies", of, "terms", name]) => format!("term:{of}/{name}"),
        (config::FILE, true, ["routes", name]) => format!("route:{name}"),
        (config::FILE, true, ["menus", name]) => format!("menu:{name}"),
        (config::FILE, true, ["settings", name]) => format!("setting:{name}"),
        (config::FILE, true, ["collections", of, "fields", name]) => format!("field:{of}/{name}"),
        (config::FILE, true, ["pages", "fields", name]) => format!("field:pages/{name}"),
        (config::FILE, false, ["site", "theme"]) => format!("theme:{written}"),
        (config::FILE, false, ["front", "page"] | ["errors", _]) => format!("page:{written}"),
        (config::FILE, false, ["front", "collection"] | ["taxonomies", _, "of"] | ["routes", _, "items"]) => {
            format!("collection:{written}")
        }
        (config::FILE, false, ["taxonomies", of, "terms", _, "parent"]) => format!("term:{of}/{written}"),
        (config::FILE, false, ["collections", _, "views"]) => format!("view:{written}"),
        (config::FILE, false, ["routes", _, "each"]) => format!("table:{written}"),
        _ => return None,
    };
    Some(NamedAt { span: inner(&text, place.span, &written), named: Named::Known(typed) })
}

/// The names in a file that lead to another file, with that: partials, components, layouts, assets, media, content, the next file
/// of the chain.
pub fn links_in(world: &World, path: &str) -> Vec<(Span, Place)> {
    let mut starts: Vec<usize> = Vec::new();
    let mut of_addresses = Vec::new();
    if let Some((id, _)) = file_at(world, path) {
        starts.extend(world.header(id).layout.as_ref().map(|layout| layout.span.range().start + 1));
        let program = world.unit(id).and_then(|unit| world.library.unit(unit)?.program.as_ref());
        for program in program.into_iter() {
            starts.extend(program.calls.iter().map(|call| call.span.range().start + 1));
            starts.extend(program.mentions.iter().map(|mention| mention.span.range().start + 1));
            let used = program.ops.iter().zip(&program.spans).filter(|(op, _)| matches!(op.act, Act::Use(_)));
            starts.extend(used.map(|(_, span)| span.range().start + 1));
        }
    } else if let Some(content) = world.site.contents.iter().find(|content| **content.path() == *path) {
        of_addresses = addresses_in(world, content);
        let front = &content.node.front().entries;
        starts.extend(front.iter().map(|entry| entry.data.span.range().start + 1));
        let text = content.node.whole_text().unwrap_or_else(|_| "".into());
        let body = text.get(content.body..).unwrap_or("");
        starts.extend(markdown::links(body).map(|(_, at)| content.body + at.start));
    }
    let mut found: Vec<(Span, Place)> = starts
        .into_iter()
        .filter_map(|at| {
            let named = named_at(world, path, at)?;
            let place = match &named.named {
                Named::Next => next_of(world, path)?,
                Named::Known(typed) => definitions(world, typed).into_iter().next()?,
                _ => return None,
            };
            (*place.path != *path && place.span == Span::default()).then_some((named.span, place))
        })
        .collect();
    found.extend(of_addresses);
    found.sort_by_key(|(span, _)| *span);
    found.dedup_by_key(|(span, _)| *span);
    found
}

/// The links of content that are addresses, with the content that is there.
fn addresses_in(world: &World, content: &Content) -> Vec<(Span, Place)> {
    let text = content.node.whole_text().unwrap_or_else(|_| "".into());
    let links = markdown::links(text.get(content.body..).unwrap_or(""));
    let found = links.filter_map(|(link, at)| {
        let address = link.split(['#', '?']).next().filter(|address| address.starts_with('/'))?;
        let other = world.site.contents.iter().find(|other| other.address.as_deref() == Some(address))?;
        let span = Span::new(content.body + at.start, content.body + at.end);
        Some((inner(&text, span, address), Place { path: other.path().clone(), span: Span::default() }))
    });
    found.collect()
}

/// Where something is defined, as it is typed with its prefix; of several files the nearest first.
pub fn definitions(world: &World, typed: &str) -> Vec<Place> {
    let Some((sort, rest)) = typed.split_once(':') else { return Vec::new() };
    let whole = |path: &str| Place { path: path.into(), span: Span::default() };
    if let Some(role) = thing::role_of(sort) {
        let files = world.lineage.ids().filter(|(_, file)| {
            let own = match role {
                Role::Component => file.name.component(),
                _ => None,
            };
            own == Some(rest)
                || file.role == role
                    && name_of_file(role, &file.name).as_deref().is_some_and(|name| {
                        name == rest || role == Role::Template && name.split('.').next() == Some(rest)
                    })
        });
        let mut found: Vec<(usize, bool, Place)> =
            files.map(|(_, file)| (file.theme, file.role != role, whole(&file.node.path))).collect();
        found.sort_by(|a, b| (a.0, a.1, &a.2.path).cmp(&(b.0, b.1, &b.2.path)));
        return found.into_iter().map(|(_, _, place)| place).collect();
    }
    let Ok(known) = thing::named(world, sort, rest) else { return Vec::new() };
    of_known(world, &known)
}

fn of_known(world: &World, known: &Known) -> Vec<Place> {
    let whole = |path: &str| Place { path: path.into(), span: Span::default() };
    let name = known.name.as_str();
    let in_config = |path: &[&str]| in_file(world, config::FILE, path);
    match &known.thing {
        Thing::Slot(of) | Thing::Parameter(of) => {
            let mut found = Vec::new();
            for (id, file) in world.lineage.ids().filter(|(_, file)| *file.name == **of) {
                let path = &file.node.path;
                let entries = &file.node.front().entries;
                let takes = entries.iter().filter(|entry| &*entry.key == "takes");
                let own = takes.flat_map(|entry| entry.data.as_map().unwrap_or_default());
                let own = own.filter(|own| matches!(known.thing, Thing::Parameter(_)) && *own.key == *name);
                found.extend(own.map(|own| Place { path: path.clone(), span: own.span }));
                let program = world.unit(id).and_then(|unit| world.library.unit(unit)?.program.as_ref());
                let words = program.into_iter().flat_map(|program| &*program.words);
                let slots = words.filter(|word| {
                    matches!(known.thing, Thing::Slot(_))
                        && matches!(word.meaning, Meaning::Slot(own) if world.symbols.name(own) == name)
                });
                found.extend(slots.map(|word| Place { path: path.clone(), span: word.span }));
                if let Some(component) = file.name.component() {
                    let manifest = world.lineage.all(&format!("components/{component}/component.toml"));
                    for &id in manifest {
                        let node = &world.lineage.file(id).node;
                        let Ok(text) = node.whole_text() else { continue };
                        let fields =
                            places(&text).into_iter().filter(|place| !place.is_key && place.is_at(&["fields", "name"]));
                        let own = fields.filter(|place| bare(place.span.of(&text)) == name);
                        found.extend(own.map(|place| Place { path: node.path.clone(), span: place.span }));
                    }
                }
            }
            found
        }
        Thing::Prepared => {
            let programs = world.library.units.iter().filter_map(|unit| unit.program.as_ref());
            let sets = programs.flat_map(|program| program.sets.iter().map(move |set| (program, set)));
            let own = sets.filter(|(_, set)| world.globals.name(set.global) == name);
            own.map(|(program, set)| Place { path: program.path.clone(), span: set.span }).collect()
        }
        Thing::Setting => {
            let themes = world.lineage.themes.iter();
            let own = themes.filter_map(|theme| {
                let entry = theme.settings.iter().find(|entry| *entry.key == *name)?;
                Some(Place { path: theme.manifest.clone(), span: entry.span })
            });
            own.chain(in_config(&["settings", name])).collect()
        }
        Thing::Tray => {
            let programs = world.library.units.iter().filter_map(|unit| unit.program.as_ref());
            let words = programs.flat_map(|program| program.words.iter().map(move |word| (program, word)));
            let is_it = |meaning: &Meaning| matches!(meaning, Meaning::Tray(own) if world.symbols.name(*own) == name);
            let own = words.filter(|(_, word)| is_it(&word.meaning));
            let printed = own.map(|(program, word)| Place { path: program.path.clone(), span: word.span });
            let in_texts = world.site.contents.iter().filter(|content| content.trays.is_some()).flat_map(|content| {
                let trays = content.markdown(markdown::trays).into_iter().filter(|(tray, _)| tray == name);
                let text = content.node.whole_text().unwrap_or_else(|_| "".into());
                let place = move |(tray, at): (String, std::ops::Range<usize>)| Place {
                    path: content.path().clone(),
                    span: inner(&text, Span::new(content.body + at.start, content.body + at.end), &tray),
                };
                trays.map(place).collect::<Vec<_>>()
            });
            printed.chain(in_texts).collect()
        }
        Thing::Table => vec![whole(&thing::table_path(world, name))],
        Thing::Media => vec![whole(&format!("media/{name}"))],
        Thing::Theme => vec![whole(&format!("themes/{name}/{}", theme::MANIFEST))],
        Thing::Menu => in_config(&["menus", name]),
        Thing::Route => in_config(&["routes", name]),
        Thing::Collection => in_config(&["collections", name]),
        Thing::Taxonomy => in_config(&["taxonomies", name]),
        Thing::Term(of) => in_config(&["taxonomies", of, "terms", name]),
        Thing::Field(of) if of == "pages" => in_config(&["pages", "fields", name]),
        Thing::Field(of) => in_config(&["collections", of, "fields", name]),
        Thing::View(of) => {
            let configs = world.site.collections.iter().map(|collection| &collection.config);
            let views = configs.filter(|config| of.contains(&config.name.text)).flat_map(|config| &config.views);
            let own = views.filter(|view| view.text == name);
            own.map(|view| Place { path: config::FILE.into(), span: view.span }).collect()
        }
        Thing::Pattern(of) => in_config(&["collections", of, "address"]),
        Thing::Page | Thing::Entry(_) => {
            let reference = match &known.thing {
                Thing::Entry(of) => format!("entry:{of}/{name}"),
                _ => format!("page:{name}"),
            };
            let id = world.site.referenced_content(&reference);
            id.map(|id| whole(world.site.content(id).path())).into_iter().collect()
        }
    }
}

/// The first place of a TOML file that these keys lead to.
fn in_file(world: &World, path: &str, keys: &[&str]) -> Vec<Place> {
    let text = world.snapshot.file(path).and_then(|node| node.whole_text().ok());
    let place = text.and_then(|text| places(&text).into_iter().find(|place| place.is_at(keys)));
    place.map(|place| Place { path: path.into(), span: place.span }).into_iter().collect()
}

/// Where something is used or defined, in the files of a World: the places that are certain, and those that may mean it.
#[derive(Clone, Debug, Default)]
pub struct Uses {
    /// The places.
    pub certain: Vec<Place>,
    /// Places that may mean it, and why that is not known.
    pub uncertain: Vec<(Place, String)>,
}

/// Where something is used, as it is typed with its prefix.
pub fn uses(world: &World, typed: &str) -> Uses {
    let Some((sort, rest)) = typed.split_once(':') else { return Uses::default() };
    let mut found = Found::default();
    // Only the places are of interest, and not what would be written there.
    const OTHER: &str = "-";
    if let Some(role) = thing::role_of(sort) {
        let to = if role == Role::Template { "offered/-.html" } else { OTHER };
        let name = NewName { role, from: of_role(role, rest), to: to.to_owned(), with_below: false };
        collect(world, &name, &mut found);
        hidden(world, &|path| name.path(path), &mut found);
        collect_addresses(world, &name, &mut found);
    } else if let Ok(known) = thing::named(world, sort, rest) {
        let naming = Naming::new(&[world], known.thing.clone(), &known.name, OTHER);
        naming.collect(world, &mut found);
        let texts = texts(world, &mut found);
        collect_references(&naming, &texts, &mut found);
        if naming.thing == Thing::Media {
            collect_media(&naming, &texts, &mut found);
        }
    }
    let mut certain: Vec<Place> = found.edits.places().collect();
    certain.sort_by(|a, b| (&a.path, a.span.range().start).cmp(&(&b.path, b.span.range().start)));
    Uses { certain, uncertain: found.uncertain }
}

/// The name of a file as it is collected: of a template with its extension.
fn of_role(role: Role, name: &str) -> String {
    match role {
        Role::Template if !name.contains('.') => format!("{name}.html"),
        _ => name.to_owned(),
    }
}

/// The theme file that a word of its own leads to: the next one of the chain.
pub fn next_of(world: &World, path: &str) -> Option<Place> {
    let (id, file) = file_at(world, path)?;
    let next = match file.role {
        Role::Template => {
            let found = world
                .lineage
                .all(&file.name)
                .iter()
                .copied()
                .find(|&other| world.lineage.file(other).theme > file.theme);
            let by_ladder = || {
                let request = world.reach(id).next()?.0.clone();
                let resolution = world.resolve(request);
                let chain: Vec<FileId> = resolution.winner.into_iter().chain(resolution.after).collect();
                let at = chain.iter().position(|&other| other == id)?;
                chain.get(at + 1).copied()
            };
            by_ladder().or(found)
        }
        _ => world.next_files(id).first().copied(),
    };
    next.map(|next| Place { path: world.lineage.file(next).node.path.clone(), span: Span::default() })
}
