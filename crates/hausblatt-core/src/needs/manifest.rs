//! `[needs]` in a manifest: what a site has to have, as its configuration would write it.

use std::collections::BTreeSet;

use hausblatt_lang::text::codes as lang_codes;
use hausblatt_lang::text::diagnostic::Diagnostic;
use toml_edit::{Array, DocumentMut, Item, Table, value};

use crate::analysis::needs::{Demands, Need, declared};
use crate::files::edit::Write;
use crate::needs::verdict::Needed;
use crate::schema::config;
use crate::text::codes;
use crate::text::toml_change;
use crate::world::World;

/// The keys of a collection that its templates may depend on.
const OF_COLLECTIONS: &[&str] = &["address", "listing", "order", "periods", "feed", "views", "future"];
/// Those of a taxonomy.
const OF_TAXONOMIES: &[&str] = &["of", "address"];
/// Those of a route.
const OF_ROUTES: &[&str] = &["address", "each", "items", "per_page", "format", "query", "title"];

/// The active theme's manifest with what is needed in `[needs]`, but for what its ancestors say already; nothing where it says
/// all that already.
///
/// # Errors
/// Why the manifest can't be changed.
pub fn written(world: &World, needed: &[Needed]) -> Result<Option<Write>, Diagnostic> {
    let active = world.lineage.active();
    // What a site does not have can't be seen to be read: it would be lost.
    let (missing, without) = Demands::of(world).missing(world);
    if let Some(need) = missing.into_keys().chain(without).next() {
        let message = format!("this site lacks {}, so whether it is read can't be seen here", need.words());
        let help = "write [needs] in a site that has all of it, or take it out of the manifest first";
        return Err(Diagnostic::of(&codes::UNMET_NEEDS, message).help(help));
    }
    let node = world.snapshot.file(&active.manifest);
    let text = node.and_then(|node| node.text().cloned()).unwrap_or_else(|| "".into());
    let unreadable = |error: toml_edit::TomlError| {
        Diagnostic::of(&codes::BAD_TOML, format!("{} is not TOML: {}", active.manifest, error.message()))
            .help("fix it first")
    };
    let mut document: DocumentMut = text.parse().map_err(unreadable)?;
    let configuration =
        world.snapshot.file(config::FILE).and_then(|node| node.text().cloned()).unwrap_or_else(|| "".into());
    let configuration: DocumentMut = configuration.parse().map_err(|error: toml_edit::TomlError| {
        Diagnostic::of(&lang_codes::WRONG_TYPE, format!("hausblatt.toml is not TOML: {}", error.message()))
    })?;
    let of_ancestors: BTreeSet<Need> =
        world.lineage.themes.iter().skip(1).flat_map(|theme| declared(theme).0.into_keys()).collect();
    let own: Vec<&Needed> = needed.iter().filter(|needed| !of_ancestors.contains(&needed.need)).collect();
    document.remove("needs");
    document.insert("needs", Item::Table(table(world, &configuration, &own)));
    let changed = toml_change::written(&text, &document);
    if changed == *text {
        return Ok(None);
    }
    Ok(Some(Write::instead_of(&*active.manifest, text.as_bytes(), changed)))
}

/// A table of this that is written with a heading of its own only where it holds more than tables.
fn implicit() -> Table {
    let mut table = Table::new();
    table.set_implicit(true);
    table
}

/// `[needs]`: lists of names, then the configuration that belongs to the others.
fn table(world: &World, configuration: &DocumentMut, needed: &[&Needed]) -> Table {
    let mut table = Table::new();
    let list = |names: Vec<String>| value(names.into_iter().collect::<Array>());
    let mut names = |key: &str, of: &dyn Fn(&Need) -> Option<String>| {
        let names: Vec<String> = needed.iter().filter_map(|needed| of(&needed.need)).collect();
        if !names.is_empty() {
            table.insert(key, list(names));
        }
    };
    names("menus", &|need| match need {
        Need::Menu(name) => Some(name.clone()),
        _ => None,
    });
    names("site", &|need| match need {
        Need::SiteKey(name) => Some(name.clone()),
        _ => None,
    });
    names("content", &|need| match need {
        Need::Page(id) => Some(format!("pages/{id}")),
        Need::Entry(of, id) => Some(format!("{of}/{id}")),
        _ => None,
    });
    names("media", &|need| match need {
        Need::Media(path) => Some(path.clone()),
        _ => None,
    });
    names("addresses", &|need| match need {
        Need::Address(address) => Some(address.clone()),
        _ => None,
    });
    // What a theme does without is not demanded; what it needs of that is, where that is there.
    let (_, said) = declared(world.lineage.active());
    let is_said = |path: &String| said.iter().any(|(said, _)| said == path);
    // Settings are declared by the themes themselves.
    let others = needed.iter().filter(|needed| !matches!(needed.need, Need::Setting(_)));
    let paths = others.map(|needed| (needed.need.path(), needed.fails.is_none()));
    let optional: Vec<String> =
        paths.filter(|(path, does_without)| *does_without || is_said(path)).map(|(path, _)| path).collect();
    if !optional.is_empty() {
        table.insert("optional", list(optional));
    }
    for needed in needed {
        let path: Vec<&str> = match &needed.need {
            Need::Collection(name) => vec!["collections", name],
            Need::Taxonomy(name) => vec!["taxonomies", name],
            Need::Route(name) => vec!["routes", name],
            Need::Field(of, name) if of == "pages" => vec!["pages", "fields", name],
            Need::Field(of, name) => vec!["collections", of, "fields", name],
            Need::Term(of, id) => vec!["taxonomies", of, "terms", id],
            Need::Search(address) => {
                table.insert("search", Item::Table(Table::from_iter([("address", address.as_str())])));
                continue;
            }
            Need::Table(name) => {
                put(&mut table, &["tables", name], Item::Table(Table::new()));
                continue;
            }
            Need::Column(of, name) => {
                put(&mut table, &["tables", of, name], value(word_of_column(world, of, name)));
                continue;
            }
            _ => continue,
        };
        let mut own = configuration.as_item();
        for key in &path {
            own = own.get(key).unwrap_or(&Item::None);
        }
        let kept = match path.as_slice() {
            [group @ ("collections" | "taxonomies" | "routes"), _] => {
                let keys = match *group {
                    "collections" => OF_COLLECTIONS,
                    "taxonomies" => OF_TAXONOMIES,
                    _ => OF_ROUTES,
                };
                let mut kept = Table::new();
                for key in keys {
                    if let Some(own) = own.get(key).and_then(Item::as_value) {
                        kept.insert(key, value(bare(own)));
                    }
                }
                Item::Table(kept)
            }
            _ => match own.as_value() {
                Some(own) => value(bare(own)),
                // A term that only content names, or a field with a heading of its own.
                None => own
                    .as_table()
                    .map_or_else(|| value(toml_edit::InlineTable::new()), |own| value(own.clone().into_inline_table())),
            },
        };
        put(&mut table, &path, kept);
    }
    table
}

/// A value without the space and the comments around it.
fn bare(own: &toml_edit::Value) -> toml_edit::Value {
    let mut own = own.clone();
    own.decor_mut().clear();
    own
}

/// Puts an item at a path, keeping what is in a table that is there already.
fn put(table: &mut Table, path: &[&str], item: Item) {
    let Some((last, groups)) = path.split_last() else { return };
    let mut at = table;
    for group in groups {
        let next = at.entry(group).or_insert_with(|| Item::Table(implicit()));
        let Some(next) = next.as_table_mut() else { return };
        at = next;
    }
    match (at.get_mut(last).and_then(Item::as_table_mut), item) {
        (Some(there), Item::Table(more)) => {
            there.set_implicit(false);
            for (key, item) in more {
                there.insert(&key, item);
            }
        }
        (_, item) => drop(at.insert(last, item)),
    }
}

/// What the values of a column are.
fn word_of_column(world: &World, of: &str, name: &str) -> &'static str {
    use hausblatt_lang::value::datum::Datum;
    let table = world.site.tables.iter().find(|table| table.name == *of);
    let symbol = world.symbols.find(name);
    let values = table.into_iter().flat_map(|table| table.rows()).filter_map(|(_, row)| {
        let at = row.shape.names().iter().position(|own| Some(*own) == symbol)?;
        row.values.get(at)
    });
    for value in values {
        match value {
            Datum::Int(_) | Datum::Float(_) => return "number",
            Datum::Bool(_) => return "yes-no",
            Datum::List(_) => return "list",
            Datum::Nothing => continue,
            _ => return "text",
        }
    }
    "text"
}

/// What a site lacks of what the lineage's manifests say, as lines of `hausblatt.toml` and words on the rest; empty where it has
/// all.
pub fn lines_to_add(world: &World) -> String {
    let (missing, _) = Demands::of(world).missing(world);
    let mut lines = Table::new();
    let mut words: Vec<String> = Vec::new();
    for need in missing.keys() {
        let path = need.path();
        let own = match need {
            Need::Collection(_)
            | Need::Taxonomy(_)
            | Need::Route(_)
            | Need::Field(..)
            | Need::Term(..)
            | Need::Search(_) => {
                let keys: Vec<&str> = path.split('.').collect();
                if let Some(item) = in_manifests(world, &keys) {
                    put(&mut lines, &keys, item);
                }
                continue;
            }
            Need::Table(name) => {
                let columns = missing.keys().filter_map(|need| match need {
                    Need::Column(of, column) if of == name => Some(column.as_str()),
                    _ => None,
                });
                let columns: Vec<&str> = columns.collect();
                format!("tables/{name}.csv, with the columns {}", columns.join(", "))
            }
            Need::Column(of, name) if !missing.contains_key(&Need::Table(of.clone())) => {
                format!("the column {name} in the table {of}")
            }
            Need::Column(..) => continue,
            Need::Menu(name) => format!("under [menus]: {name} = [ {{ to = \"/\" }} ]"),
            Need::SiteKey(name) => format!("under [site]: {name} = \"…\""),
            Need::Setting(name) => format!("under [settings]: {name} = …"),
            Need::Page(id) => format!("content/pages/{id}.md"),
            Need::Entry(of, id) => format!("content/{of}/{id}.md"),
            Need::Media(path) => format!("media/{path}"),
            Need::Address(address) => format!("a page at {address}"),
        };
        words.push(own);
    }
    let mut out = DocumentMut::from(lines).to_string().trim_start().to_owned();
    if !out.is_empty() && !words.is_empty() {
        out.push('\n');
    }
    words.iter().for_each(|line| out.push_str(&format!("# {line}\n")));
    out
}

/// What the nearest manifest writes at a path of `[needs]`; of a collection, without its fields.
fn in_manifests(world: &World, path: &[&str]) -> Option<Item> {
    world.lineage.themes.iter().find_map(|theme| {
        let text = world.snapshot.file(&theme.manifest)?.text()?.clone();
        let document: DocumentMut = text.parse().ok()?;
        let mut item = document.get("needs")?.clone();
        for key in path {
            item = item.get(key)?.clone();
        }
        if let Some(table) = item.as_table_mut() {
            table.remove("fields");
            table.remove("terms");
            table.set_position(None);
            // A nearer theme may say only what it needs in addition.
            if table.is_empty() {
                return None;
            }
        }
        Some(item)
    })
}
