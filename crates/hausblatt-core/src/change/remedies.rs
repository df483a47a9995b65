//! What makes a name known that a file uses: the parameter that a call gives, the field or the setting that is read.

use hausblatt_lang::program::{Callee, Meaning};
use hausblatt_lang::text::source::Span;
use toml_edit::{DocumentMut, InlineTable, Item, Table, Value, value};

use crate::change::rename::{Named, NamedAt, named_at};
use crate::files::edit::Write;
use crate::model::content::Section;
use crate::schema::config;
use crate::schema::fields::declared as read_fields;
use crate::text::data::{DataValue, Entry};
use crate::text::{toml_change, toml_data};
use crate::themes::file_name::Role;
use crate::themes::theme::{MANIFEST, header};
use crate::world::World;

/// A change that makes a name known.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Remedy {
    /// What it does, in words.
    pub title: String,
    /// What is to be written.
    pub writes: Vec<Write>,
}

/// The changes that make the name at a byte of a file known, where it is not.
pub fn remedies(world: &World, path: &str, at: usize) -> Vec<Remedy> {
    let mut found: Vec<Remedy> = parameter(world, path, at).into_iter().collect();
    found.extend(partial(world, path, at));
    found.extend(members(world, path, at));
    found.extend(key_of_content(world, path, at));
    found
}

/// A parameter that a call gives and the called file does not take: it takes it from then on, with nothing where it is not
/// given, so that no other call has to change.
fn parameter(world: &World, path: &str, at: usize) -> Option<Remedy> {
    let NamedAt { named: Named::Known(typed), .. } = named_at(world, path, at)? else { return None };
    let (file, name) = typed.strip_prefix("param:")?.rsplit_once('/')?;
    let id = world.lineage.nearest(file)?;
    let file = world.lineage.file(id);
    let is_given = world.library.units.iter().filter_map(|unit| unit.program.as_ref()).any(|program| {
        *program.path == *path
            && program.calls.iter().any(|call| {
                matches!(call.callee, Callee::Named(_))
                    && call.given.iter().any(|given| given.span.range().start <= at && at <= given.span.range().end)
            })
    });
    if !is_given || file.role != Role::Partial {
        return None;
    }
    let text = file.node.whole_text().ok()?;
    let before = header(&file.node, file.role, &mut Vec::new()).takes.unwrap_or_default();
    if before.iter().any(|(own, _)| own == name) {
        return None;
    }
    let entries = &file.node.front().entries;
    let ways = taking(&text, entries.iter().find(|entry| &*entry.key == "takes"), name);
    // Each is read again: it takes what it took, and this.
    let after = ways.into_iter().find(|after| {
        let changed = world.snapshot.with(&file.node.path, Some(after));
        let mut problems = Vec::new();
        let now = changed.file(&file.node.path).and_then(|node| header(node, file.role, &mut problems).takes);
        let now = now.unwrap_or_default();
        problems.is_empty()
            && now.len() == before.len() + 1
            && before.iter().all(|(one, _)| now.iter().any(|(own, _)| own == one))
            && now.iter().any(|(own, _)| own == name)
    })?;
    Some(Remedy {
        title: format!("Let {} take {name}", file.node.path),
        writes: vec![Write::instead_of(&*file.node.path, text.as_bytes(), after)],
    })
}

/// A partial that is called and is in no theme: a file of the theme that calls it, which takes what the call gives.
fn partial(world: &World, path: &str, at: usize) -> Option<Remedy> {
    let file = world.lineage.files.iter().find(|file| *file.node.path == *path)?;
    let program = world.library.units.iter().find(|unit| *unit.path == *path)?.program.as_ref()?;
    let call = program.calls.iter().find(|call| call.span.range().start <= at && at <= call.span.range().end)?;
    let Callee::Named(name) = &call.callee else { return None };
    let is_name = |part: &str| !part.is_empty() && part.chars().all(|c| c.is_alphanumeric() || matches!(c, '-' | '_'));
    if world.library.find_partial(program.ending, name).is_some() || !name.split('/').all(is_name) {
        return None;
    }
    let takes: Vec<String> = call.given.iter().map(|given| format!("{}:", world.symbols.name(given.name))).collect();
    let text = match takes.as_slice() {
        [] => String::new(),
        takes => format!("---\ntakes: {{ {} }}\n---\n", takes.join(", ")),
    };
    let path = format!("{}partials/{name}.{}", world.lineage.themes[file.theme].root, program.ending.word());
    let is_new = world.snapshot.file(&path).is_none();
    is_new.then(|| Remedy { title: format!("Create {path}"), writes: vec![Write::new(path, text)] })
}

/// The ways in which a text could have one more parameter in its front matter.
fn taking(text: &str, takes: Option<&Entry>, name: &str) -> Vec<String> {
    let eol = if text.contains("\r\n") { "\r\n" } else { "\n" };
    let with = |at: usize, what: &str| Some(format!("{}{what}{}", text.get(..at)?, text.get(at..)?));
    let Some(takes) = takes else {
        let line = format!("takes: {{ {name}: nothing }}{eol}");
        return match text.strip_prefix("---").filter(|rest| rest.starts_with(['\n', '\r'])) {
            Some(rest) => {
                let end = if rest.starts_with("\r\n") { 2 } else { 1 };
                with(text.len() - rest.len() + end, &line).into_iter().collect()
            }
            None => with(0, &format!("---{eol}{line}---{eol}")).into_iter().collect(),
        };
    };
    let own = takes.data.as_map().unwrap_or_default();
    let start = takes.data.span.range().start;
    let is_in_line = text.get(start..).is_some_and(|rest| rest.starts_with('{'));
    let ways = match (is_in_line, own.first(), own.last()) {
        (true, Some(_), Some(last)) => vec![
            with(last.data.span.range().end, &format!(", {name}: nothing")),
            with(start + 1, &format!(" {name}: nothing,")),
        ],
        (true, ..) => vec![with(start + 1, &format!(" {name}: nothing "))],
        (false, Some(first), _) => {
            let first = first.span.range().start;
            let line = text[..first].rfind('\n').map_or(0, |at| at + 1);
            vec![with(line, &format!("{}{name}: nothing{eol}", &text[line..first]))]
        }
        // There is a key without parameters.
        (false, ..) => vec![with(takes.span.range().end + 1, &format!(" {{ {name}: nothing }}"))],
    };
    ways.into_iter().flatten().collect()
}

/// A member that no declaration has: of entries and pages a field, of settings a setting.
fn members(world: &World, path: &str, at: usize) -> Vec<Remedy> {
    let program = world.library.units.iter().find(|unit| *unit.path == *path).and_then(|unit| unit.program.as_ref());
    let words = program.into_iter().flat_map(|program| &*program.words);
    let here = |span: Span| span.range().start <= at && at <= span.range().end;
    let Some((name, records)) = words.filter(|word| here(word.span)).find_map(|word| match &word.meaning {
        Meaning::Member(name, records) => Some((world.symbols.name(*name), records)),
        _ => None,
    }) else {
        return Vec::new();
    };
    let is_reported = world.problems.iter().any(|problem| {
        let place = problem.place.as_ref().filter(|place| *place.path == *path && here(place.span));
        place.is_some() && ["unknown-field", "unknown-member", "missing-on-site"].contains(&problem.code)
    });
    if !is_reported {
        return Vec::new();
    }
    let sorts = &world.sorts;
    let mut found = Vec::new();
    for record in records.iter() {
        if Some(*record) == sorts.settings {
            found.extend(setting(world, path, name));
        }
        if Some(*record) == sorts.page || Some(*record) == sorts.any_content {
            found.extend(field(world, "pages", name, "text"));
        }
        for (number, own) in sorts.entries.iter().enumerate() {
            if (own == record || Some(*record) == sorts.any_content)
                && let Some(collection) = world.site.collections.get(number)
            {
                found.extend(field(world, &collection.config.name.text, name, "text"));
            }
        }
    }
    found.dedup();
    found
}

/// A key of content's front matter that is declared nowhere.
fn key_of_content(world: &World, path: &str, at: usize) -> Option<Remedy> {
    let content = world.site.contents.iter().find(|content| **content.path() == *path)?;
    let front = content.node.front();
    let entry = front.entries.iter().find(|entry| entry.span.range().start <= at && at <= entry.span.range().end)?;
    let (home, fields) = match content.home {
        Section::Pages => ("pages", &world.site.config.page_fields),
        Section::Collection(number) => {
            let config = &world.site.collections[usize::from(number)].config;
            (config.name.text.as_str(), &config.fields)
        }
    };
    let is_known = crate::text::names::keys().contains(&&*entry.key)
        || fields.iter().any(|field| *field.name == *entry.key)
        || world.site.taxonomies.iter().any(|taxonomy| *taxonomy.config.name.text == *entry.key);
    let of = match &entry.data.value {
        DataValue::Bool(_) => "yes-no",
        DataValue::Int(_) | DataValue::Float(_) => "number",
        DataValue::Text(text) if ["yes", "no"].contains(&&**text) => "yes-no",
        DataValue::Text(text) if text.parse::<jiff::civil::Date>().is_ok() => "date",
        DataValue::Text(_) => "text",
        _ => return None,
    };
    if is_known { None } else { field(world, home, &entry.key, of) }
}

/// A field that is declared.
fn field(world: &World, home: &str, name: &str, of: &str) -> Option<Remedy> {
    let text = world.snapshot.file(config::FILE)?.whole_text().ok()?;
    let mut document: DocumentMut = text.parse().ok()?;
    let table = match home {
        "pages" => table_in(document.as_table_mut(), "pages")?,
        home => table_in(table_in(document.as_table_mut(), "collections")?, home)?,
    };
    let fields = table_in(table, "fields")?;
    if fields.contains_key(name) {
        return None;
    }
    fields.insert(name, declaration(of));
    let after = toml_change::written(&text, &document);
    let mut problems = Vec::new();
    let config = config::read(&after, &mut problems)?;
    let declared = match home {
        "pages" => &config.page_fields,
        home => &config.collections.iter().find(|collection| collection.name.text == home)?.fields,
    };
    let is_right =
        declared.iter().any(|field| field.name == name) && problems.iter().all(|problem| !problem.is_error());
    is_right.then(|| Remedy {
        title: format!("Declare the field {name} of {home}"),
        writes: vec![Write::instead_of(config::FILE, text.as_bytes(), after)],
    })
}

/// A setting that the theme declares in which it is read.
fn setting(world: &World, path: &str, name: &str) -> Option<Remedy> {
    let file = world.lineage.files.iter().find(|file| *file.node.path == *path)?;
    let theme = &world.lineage.themes[file.theme];
    let text = world.snapshot.file(&theme.manifest)?.whole_text().ok()?;
    let mut document: DocumentMut = text.parse().ok()?;
    let settings = table_in(document.as_table_mut(), "settings")?;
    if settings.contains_key(name) {
        return None;
    }
    settings.insert(name, declaration("text"));
    let after = toml_change::written(&text, &document);
    let mut problems = Vec::new();
    let entries = toml_data::read(&theme.manifest, &after, &mut problems);
    let own = entries.iter().find(|entry| &*entry.key == "settings")?.data.as_map()?;
    let declared = read_fields(&theme.manifest, own, &mut problems);
    let is_right =
        declared.iter().any(|field| field.name == name) && problems.iter().all(|problem| !problem.is_error());
    is_right.then(|| Remedy {
        title: format!("Declare the setting {name} in {MANIFEST} of {}", theme.name),
        writes: vec![Write::instead_of(&*theme.manifest, text.as_bytes(), after)],
    })
}

/// The table below another one, made where there is none.
fn table_in<'t>(table: &'t mut Table, name: &str) -> Option<&'t mut Table> {
    let made = || {
        let mut table = Table::new();
        table.set_implicit(true);
        Item::Table(table)
    };
    table.entry(name).or_insert_with(made).as_table_mut()
}

fn declaration(of: &str) -> Item {
    let mut table = InlineTable::new();
    table.insert("type", Value::from(of));
    value(table)
}
