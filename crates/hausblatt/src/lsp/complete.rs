//! What can be written at a place: statements, names, members, and the names that belong into quotes.

use hausblatt_core::change::fitting::{Fitting, Wanted, in_front_matter, in_link, in_toml};
use hausblatt_core::change::rename::{next_of, renamable};
use hausblatt_core::check::codes;
use hausblatt_core::themes::file_name::Role;
use hausblatt_core::themes::lineage::FileId;
use hausblatt_core::world::World;
use hausblatt_lang::edit::outline::open_at;
use hausblatt_lang::program::Meaning;
use hausblatt_lang::text::source::Span;
use hausblatt_lang::types::Type;
use hausblatt_lang::value::functions::FUNCTIONS;
use hausblatt_lang::value::members::{MEMBERS, Of};
use serde_json::{Value, json};

use crate::lsp::hover::{file_of, is_in_tag};
use crate::lsp::outline::of;
use crate::lsp::positions::{Columns, range};
use crate::lsp::sites::Asked;

/// Kinds of the protocol.
mod kind {
    pub const METHOD: u8 = 2;
    pub const FUNCTION: u8 = 3;
    pub const FIELD: u8 = 5;
    pub const VARIABLE: u8 = 6;
    pub const PROPERTY: u8 = 10;
    pub const KEYWORD: u8 = 14;
    pub const FILE: u8 = 17;
    pub const REFERENCE: u8 = 18;
}

/// Statements with what belongs to them, as snippets.
const STATEMENTS: &[(&str, &str)] = &[
    ("if", "if ${1:value}}\n  $0\n+{end}"),
    ("each", "each ${1:one} in ${2:list}}\n  $0\n+{end}"),
    ("let", "let ${1:name} = $0"),
    ("partial", "partial \"$0\""),
    ("component", "component \"$0\""),
    ("tray", "tray \"$0\""),
    ("slot", "slot \"$0\""),
    ("into", "into \"${1:slot}\"}\n  $0\n+{end}"),
    ("inherited", "inherited"),
    ("use", "use \"$0\""),
    ("raw", "raw $0"),
    ("answer", "answer 404 \"$0\""),
    ("redirect", "redirect 301 \"$0\""),
];

/// A name that no file has.
const PLACEHOLDER: &str = "zzhere";

/// What fits at a place; nothing where anything might.
pub fn items(asked: &Asked, columns: Columns) -> Value {
    // While the configuration is being written there may be no site: names are those of the last one.
    let world = asked.world().or_else(|| asked.last_world().filter(|_| asked.path.ends_with(".toml")));
    let found = world.and_then(|world| found(asked, world, columns)).unwrap_or_default();
    json!({ "isIncomplete": false, "items": found })
}

fn found(asked: &Asked, world: &World, columns: Columns) -> Option<Vec<Value>> {
    let id = file_of(world, &asked.path);
    if let Some(id) = id.filter(|_| is_in_tag(&asked.text, asked.at) || asked.path.ends_with(".let")) {
        return in_tag(asked, world, id, columns);
    }
    let fitting = match asked.path.ends_with(".toml") {
        true => in_toml(world, &asked.path, &asked.text, asked.at, &codes()),
        false => in_front_matter(world, &asked.path, &asked.text, asked.at)
            .or_else(|| in_link(world, &asked.path, &asked.text, asked.at)),
    };
    fitting.map(|fitting| shown(asked, fitting, columns))
}

fn item(label: &str, kind: u8, detail: &str) -> Value {
    json!({ "label": label, "kind": kind, "detail": detail })
}

fn in_tag(asked: &Asked, world: &World, id: FileId, columns: Columns) -> Option<Vec<Value>> {
    let text = &asked.text;
    let is_prepare = asked.path.ends_with(".let");
    let open = if is_prepare {
        text[..asked.at].rfind('\n').map_or(0, |at| at + 1)
    } else {
        text[..asked.at].rfind("+{")? + 2
    };
    let before = &text[open..asked.at];
    if let Some(quote) = open_quote(before) {
        let mut items = in_quotes(asked, world, id, before, quote)?;
        // The whole of what is written in the quotes is replaced, whatever an editor takes for a word.
        let written = range(text, Span::new(open + quote + 1, asked.at), columns);
        for item in &mut items {
            item["textEdit"] = json!({ "range": written, "newText": item["label"] });
        }
        return Some(items);
    }
    let part = |c: char| c.is_alphanumeric() || c == '_';
    let word = before.rfind(|c| !part(c)).map_or(0, |at| at + before[at..].chars().next().map_or(1, char::len_utf8));
    let head = &before[..word];
    if let Some(parameters) = parameters(world, id, head) {
        return Some(parameters);
    }
    let mut items = Vec::new();
    if head.trim().is_empty() && !is_prepare {
        let body = world.header(id).body;
        if let Some(block) = open_at(text, body, open - 2) {
            items.push(
                json!({ "label": "end", "kind": kind::KEYWORD, "detail": format!("ends {block}"), "sortText": "0" }),
            );
        }
        let span = Span::new(open + word, asked.at);
        for (name, snippet) in STATEMENTS {
            // What goes on behind the tag ends it itself.
            let closes = text[asked.at..].starts_with('}') && snippet.contains('}');
            let snippet = if closes { snippet.split('}').next().unwrap_or(snippet) } else { snippet };
            items.push(json!({
                "label": name, "kind": kind::KEYWORD, "insertTextFormat": 2,
                "textEdit": { "range": range(text, span, columns), "newText": snippet },
            }));
        }
    }
    items.extend(names(asked, world, id, open + word));
    Some(items)
}

/// The quote that is open at the end of a tag's beginning, and where it is.
fn open_quote(before: &str) -> Option<usize> {
    let mut open: Option<(char, usize)> = None;
    let mut escaped = false;
    for (at, c) in before.char_indices() {
        match (c, open) {
            _ if escaped => escaped = false,
            ('\\', Some(_)) => escaped = true,
            ('"' | '\'', None) => open = Some((c, at)),
            (c, Some((quote, _))) if c == quote => open = None,
            _ => {}
        }
    }
    open.map(|(_, at)| at)
}

/// The names that belong into quotes, by the word in front of them.
fn in_quotes(asked: &Asked, world: &World, id: FileId, before: &str, quote: usize) -> Option<Vec<Value>> {
    let head = before[..quote].trim_end_matches(|c: char| c.is_whitespace() || c == '(');
    let word = head.rsplit(|c: char| !c.is_alphanumeric() && c != '_').next().unwrap_or("");
    let of_role = |role: Role| {
        let files = world.lineage.ids().filter(|(_, file)| file.role == role && file.hidden_by.is_none());
        let mut names: Vec<(String, String)> = files
            .filter_map(|(id, file)| {
                let name = match role {
                    Role::Partial => file.name.partial()?.0,
                    Role::Layout => file.name.layout()?,
                    Role::Component => file.name.component()?,
                    _ => file.name.asset()?,
                };
                Some((name.to_owned(), world.lineage.theme_of(id).name.clone()))
            })
            .collect();
        names.sort();
        names.dedup_by(|a, b| a.0 == b.0);
        names.iter().map(|(name, theme)| item(name, kind::FILE, theme)).collect::<Vec<_>>()
    };
    let of_sort = |sort: &str| {
        let prefix = format!("{sort}:");
        let all = renamable(world).into_iter();
        all.filter_map(|typed| typed.strip_prefix(&prefix).map(|name| item(name, kind::REFERENCE, sort)))
            .collect::<Vec<_>>()
    };
    Some(match word {
        "partial" => of_role(Role::Partial),
        "component" => of_role(Role::Component),
        "use" | "asset" | "inline" => of_role(Role::Asset),
        "tray" => of_sort("tray"),
        "page" => of_sort("page"),
        "entry" => of_sort("entry"),
        "url" => world.site.references().map(|reference| item(&reference, kind::REFERENCE, "")).collect(),
        "image" => {
            let media =
                world.snapshot.below("media/").map(|node| item(&format!("/{}", node.path), kind::FILE, "media"));
            media.collect()
        }
        "into" => called_slots(asked, world, id).unwrap_or_else(|| slots(world, id)),
        "filled" => {
            let program = world.library.unit(world.unit(id)?)?.program.as_ref()?;
            program.slots.iter().map(|&slot| item(world.symbols.name(slot), kind::FIELD, "slot")).collect()
        }
        _ => Vec::new(),
    })
}

/// The slots of what is called by the innermost body that a place is in; none where it is in none.
fn called_slots(asked: &Asked, world: &World, id: FileId) -> Option<Vec<Value>> {
    let mut blocks = of(asked).into_iter().filter(|block| {
        let is_around = block.tag.range().end <= asked.at && (!block.is_ended || asked.at < block.span.range().end);
        let inside = block.tag.of(&asked.text).trim_end_matches('}').trim_end();
        is_around && inside.ends_with(" with")
    });
    let block = blocks.next_back()?;
    let own = world.library.unit(world.unit(id)?)?;
    let name = block.tag.of(&asked.text).split(['"', '\'']).nth(1);
    let (unit, called) = match (block.word.as_str(), name) {
        ("partial", Some(name)) => (world.library.find_partial(own.program.as_ref()?.ending, name)?.0, name.to_owned()),
        ("component", Some(name)) => {
            (world.library.find_component(own.program.as_ref()?.ending, name)?, name.to_owned())
        }
        ("inherited", _) => {
            let next = next_of(world, &asked.path)?.path;
            (world.unit(file_of(world, &next)?)?, next.to_string())
        }
        _ => return None,
    };
    let program = world.library.unit(unit)?.program.as_ref()?;
    let names = program.slots.iter().map(|&slot| world.symbols.name(slot));
    Some(names.map(|name| item(name, kind::FIELD, &format!("slot of {called}"))).collect())
}

/// The slots of the layouts of the lineage that a file could fill.
fn slots(world: &World, id: FileId) -> Vec<Value> {
    let stated = world.header(id).layout.as_ref().map(|layout| layout.text.clone());
    let layout = stated.unwrap_or_else(|| "document".to_owned());
    let files = world.lineage.all(&format!("layouts/{layout}.html"));
    let mut names: Vec<String> = files
        .iter()
        .filter_map(|&id| world.library.unit(world.unit(id)?)?.program.as_ref())
        .flat_map(|program| program.slots.iter().map(|&slot| world.symbols.name(slot).to_owned()))
        .collect();
    names.sort();
    names.dedup();
    names.iter().map(|name| item(name, kind::FIELD, &format!("slot of {layout}"))).collect()
}

/// The parameters that a call does not give yet, where one is to be written.
fn parameters(world: &World, id: FileId, head: &str) -> Option<Vec<Value>> {
    let (call, given) = head.split_once(" given ").or_else(|| head.split_once(" given\n"))?;
    let is_name = given.trim_end().is_empty() || given.trim_end().ends_with(',');
    if !is_name {
        return None;
    }
    let mut words = call.split_whitespace();
    let what = words.next()?;
    let name = call.split(['"', '\'']).nth(1)?;
    let ending = world.library.unit(world.unit(id)?)?.program.as_ref()?.ending;
    let unit = match what {
        "partial" => world.library.find_partial(ending, name)?.0,
        "component" => world.library.find_component(ending, name)?,
        _ => return None,
    };
    let program = world.library.unit(unit)?.program.as_ref()?;
    let is_given = |name: &str| given.split(',').any(|one| one.split('=').next().is_some_and(|own| own.trim() == name));
    let parameters = program.parameters.iter().filter(|parameter| !is_given(world.symbols.name(parameter.name)));
    let items = parameters.map(|parameter| {
        let name = world.symbols.name(parameter.name);
        let detail = if parameter.default.is_none() { "required" } else { "parameter" };
        json!({ "label": name, "kind": kind::PROPERTY, "detail": detail, "insertText": format!("{name} = ") })
    });
    Some(items.collect())
}

/// The members, or the names in force, at the place of a word that begins at `start`.
fn names(asked: &Asked, world: &World, id: FileId, start: usize) -> Vec<Value> {
    let rest = &asked.text[asked.at..];
    let line = rest.split('\n').next().unwrap_or("");
    let is_closed =
        asked.path.ends_with(".let") || line.find('}').is_some_and(|at| line.find("+{").is_none_or(|open| at < open));
    let close = if is_closed { "" } else { "}" };
    let text = format!("{}{PLACEHOLDER}{close}{rest}", &asked.text[..start]);
    let Some((program, symbols)) = world.compiled_text(id, &text) else { return Vec::new() };
    let word = program.words.iter().find(|word| word.span.range().start == start);
    match word.map(|word| &word.meaning) {
        Some(Meaning::Member(_, records)) => {
            let mut items: Vec<Value> = Vec::new();
            let head = asked.text[..start].trim_end_matches('.');
            let values = asked.members(world, chain_before(head));
            for record in records {
                for (name, of) in world.globals.members(*record) {
                    if !items.iter().any(|item| item["label"] == name) {
                        let sort = of_type(of);
                        let detail =
                            match (sort.as_str(), values.get(name)) {
                                (_, None) => sort,
                                ("", Some(value)) => value.clone(),
                                (sort, Some(value)) if value.starts_with("a ") || value.is_empty() => {
                                    if value.is_empty() { format!("{sort}, empty") } else { value.clone() }
                                }
                                (sort, Some(value)) => format!("{sort}: {value}"),
                            };
                        items.push(item(name, kind::FIELD, &detail));
                    }
                }
            }
            if records.iter().any(|record| Some(*record) != world.sorts.any_content && is_list(world, *record)) {
                items.extend(rows(Of::List));
            }
            items
        }
        Some(Meaning::PartOf(_, of)) => rows(*of),
        Some(Meaning::Unknown(own)) => {
            let own = own.iter().map(|&name| item(symbols.name(name), kind::VARIABLE, "of this file"));
            let globals = world.globals.names().map(|name| item(name, kind::VARIABLE, "global value"));
            let functions = FUNCTIONS.iter().map(|function| {
                json!({
                    "label": function.name, "kind": kind::FUNCTION, "detail": format!("({})", function.takes),
                    "documentation": function.about, "insertTextFormat": 2, "insertText": format!("{}($0)", function.name),
                })
            });
            own.chain(globals).chain(functions).collect()
        }
        _ => Vec::new(),
    }
}

/// The names with dots that a text ends with.
fn chain_before(head: &str) -> &str {
    let part = |c: char| c.is_alphanumeric() || c == '_' || c == '.';
    let start = head.rfind(|c| !part(c)).map_or(0, |at| at + head[at..].chars().next().map_or(1, char::len_utf8));
    &head[start..]
}

/// Whether records of a sort are those of a list with members of its own.
fn is_list(world: &World, record: hausblatt_lang::types::RecordId) -> bool {
    matches!(world.globals.record_name(record), "a collection" | "a taxonomy")
}

fn rows(of: Of) -> Vec<Value> {
    let rows = MEMBERS.iter().filter(|member| member.of == of);
    rows.map(|member| {
        let name = member.name();
        let insert = if member.arguments > 0 { format!("{name}($0)") } else { name.to_owned() };
        json!({
            "label": name, "kind": kind::METHOD, "detail": if member.arguments > 0 { format!("({})", member.takes) } else { String::new() },
            "documentation": member.about, "insertTextFormat": 2, "insertText": insert,
        })
    })
    .collect()
}

/// What is known of a value, in a word.
pub fn of_type(of: &Type) -> String {
    match of {
        Type::Any | Type::Nothing => String::new(),
        Type::Bool => "true or false".to_owned(),
        Type::Number => "number".to_owned(),
        Type::Text => "text".to_owned(),
        Type::Date => "date".to_owned(),
        Type::Html => "HTML".to_owned(),
        Type::List(..) => "list".to_owned(),
        _ => "record".to_owned(),
    }
}

/// What fits at a place of a TOML file, or of front matter.
fn shown(asked: &Asked, found: Fitting, columns: Columns) -> Vec<Value> {
    let Fitting { span, what, names } = found;
    let written = range(&asked.text, span, columns);
    let one = |(name, about): &(String, String)| {
        let (kind, text) = match what {
            Wanted::Key(true) | Wanted::FrontKey(true) => (kind::PROPERTY, name.clone()),
            Wanted::Key(false) => (kind::PROPERTY, format!("{name} = ")),
            Wanted::FrontKey(false) => (kind::PROPERTY, format!("{name}: ")),
            Wanted::Text(false) => (kind::REFERENCE, format!("\"{name}\"")),
            Wanted::Text(true) | Wanted::Bare | Wanted::Header => (kind::REFERENCE, name.clone()),
        };
        json!({ "label": name, "kind": kind, "detail": about, "filterText": text, "textEdit": { "range": written, "newText": text } })
    };
    names.iter().map(one).collect()
}
