//! What the name under the pointer is: where it comes from, what it may be, and its value at one address.

use hausblatt_core::Routed;
use hausblatt_core::change::rename::{Named, definitions, named_at};
use hausblatt_core::lookup::resolution::ResolvedRung;
use hausblatt_core::schema::fields::Field;
use hausblatt_core::text::names::ABOUT_GLOBALS;
use hausblatt_core::themes::lineage::FileId;
use hausblatt_core::world::World;
use hausblatt_lang::program::Meaning;
use hausblatt_lang::value::functions::FUNCTIONS;
use hausblatt_lang::value::members::MEMBERS;
use serde_json::{Value, json};

use crate::lsp::complete::of_type;
use crate::lsp::lenses::parts;
use crate::lsp::positions::{Columns, range};
use crate::lsp::sites::Asked;

/// The theme file that is asked about.
pub fn file_of(world: &World, path: &str) -> Option<FileId> {
    world.lineage.ids().find(|(_, file)| *file.node.path == *path).map(|(id, _)| id)
}

/// What is at a place, as Markdown.
pub fn hover(asked: &Asked, columns: Columns) -> Option<Value> {
    let world = asked.world()?;
    if let Some(named) = named_at(world, &asked.path, asked.at) {
        let mut text = match &named.named {
            Named::Known(typed) => known(world, typed),
            Named::Own(name, _) => format!("**{name}** · a name of this file"),
            Named::Global(name) => {
                let about = ABOUT_GLOBALS.iter().find(|global| global.name == name).map_or("", |global| global.about);
                format!("**{name}** · a value that every site has\n\n{about}")
            }
            Named::Member(name, of) => match built_in(asked, world) {
                Some(about) => about,
                None => format!("**{name}** · of {of}"),
            },
            Named::Next => "**inherited** · what would be found if this file were not there".to_owned(),
        };
        if let Some(value) = value(asked, world) {
            text += &value;
        }
        return Some(json!({
            "contents": { "kind": "markdown", "value": text },
            "range": range(&asked.text, named.span, columns),
        }));
    }
    if let Some(text) = address(asked, world).or_else(|| first_line(asked, world)) {
        return Some(json!({ "contents": { "kind": "markdown", "value": text } }));
    }
    let word = word_at(&asked.text, asked.at)?;
    let function = FUNCTIONS.iter().find(|function| function.name == word && is_in_tag(&asked.text, asked.at))?;
    let text = format!(
        "**{}({})** · {}\n\n`{}` → `{}`",
        function.name, function.takes, function.about, function.example.0, function.example.1
    );
    Some(json!({ "contents": { "kind": "markdown", "value": text } }))
}

/// Of the first line of a template: on which rung of which ladder it is, and what it has an effect on.
fn first_line(asked: &Asked, world: &World) -> Option<String> {
    let id = file_of(world, &asked.path)?;
    if asked.text[..asked.at].contains('\n') || is_in_tag(&asked.text, asked.at) {
        return None;
    }
    let file = world.lineage.file(id);
    let mut text = format!("**{}** · {} of {}", file.name, file.role.word(), world.lineage.theme_of(id).name);
    if file.name.template().is_some()
        && let Some(sample) = asked.sample(world)
        && let Routed::Request(request) = world.route(&sample)
    {
        let resolution = world.resolve(request);
        let rungs = &resolution.rungs;
        let of_file = |rung: &ResolvedRung| rung.files.iter().any(|(other, _)| *other == id);
        if let Some(at) = rungs.iter().position(of_file) {
            text += &format!("\n\nrung {} of {} at {sample}: {}", at + 1, rungs.len(), rungs[at].rung.reason.word());
        }
    }
    for (part, _) in parts(world, &asked.path) {
        text += &format!("\n\n{part}");
    }
    Some(text)
}

/// Of an address in quotes or of a link: what answers it.
fn address(asked: &Asked, world: &World) -> Option<String> {
    let text = &asked.text;
    let stops = |c: char| c.is_whitespace() || matches!(c, '"' | '\'' | '(' | ')' | '<' | '>');
    let start = text[..asked.at].rfind(stops).map_or(0, |at| at + text[at..].chars().next().map_or(1, char::len_utf8));
    let end = asked.at + text[asked.at..].find(stops).unwrap_or(text.len() - asked.at);
    // An end tag begins with a slash, too.
    let is_quoted = text[..start].ends_with(['"', '\'', '(']);
    let written = text.get(start..end).filter(|written| written.starts_with('/') && !written.contains("+{"))?;
    if !is_quoted {
        return None;
    }
    leads_to(world, written)
}

/// What answers an address.
fn leads_to(world: &World, address: &str) -> Option<String> {
    if let Some(file) = world.sent_file(address) {
        return Some(format!("**{address}** · {}", file.path));
    }
    match world.route(address) {
        Routed::Redirect(to) => Some(format!("**{address}** · redirects to {to}")),
        Routed::Request(request) if request.status == 404 => Some(format!("**{address}** · nothing is there: 404")),
        Routed::Request(request) => {
            let winner = world.resolve(request).winner?;
            Some(format!("**{address}** · rendered by {}", world.lineage.file(winner).node.path))
        }
    }
}

/// A member that all values of a kind have.
fn built_in(asked: &Asked, world: &World) -> Option<String> {
    let program = world.library.unit(world.unit(file_of(world, &asked.path)?)?)?.program.as_ref()?;
    let is_here = |span: std::ops::Range<usize>| span.start <= asked.at && asked.at <= span.end;
    let word = program.words.iter().find(|word| is_here(word.span.range()))?;
    let Meaning::PartOf(name, of) = word.meaning else { return None };
    let name = world.symbols.name(name);
    let row = MEMBERS.iter().find(|member| member.of == of && member.name() == name)?;
    let takes = if row.arguments > 0 { format!("({})", row.takes) } else { String::new() };
    Some(format!("**.{name}{takes}** · of {}: {}\n\n`{}` → `{}`", of.word(), row.about, row.example.0, row.example.1))
}

/// The address that a page, an entry, a term, a route or a listing has.
fn reached_by(world: &World, typed: &str) -> Option<String> {
    let is_reference = ["page:", "entry:", "term:", "route:", "collection:"].iter().any(|sort| typed.starts_with(sort));
    is_reference.then(|| world.site.address_of(typed)).flatten()
}

/// Of what sort the values of a field, a setting or a parameter are, and what editors call it.
fn declared(world: &World, sort: &str, name: &str) -> Option<String> {
    let told = |field: &Field| match &field.label {
        Some(label) => format!("{} · {label}", field.of.word()),
        None => field.of.word().to_owned(),
    };
    match sort {
        "setting" => Some(told(&world.settings.iter().find(|setting| setting.field.name == name)?.field)),
        "field" => {
            let (home, name) = name.split_once('/')?;
            let fields = match home {
                "pages" => &world.site.config.page_fields,
                home => &world.site.collection(home)?.1.config.fields,
            };
            fields.iter().find(|field| field.name == name).map(told)
        }
        "param" => {
            let (file, name) = name.rsplit_once('/')?;
            let program = world.program(world.lineage.nearest(file)?)?;
            let parameter = program.parameters.iter().find(|own| world.symbols.name(own.name) == name)?;
            [of_type(&parameter.given), of_type(&parameter.of)].into_iter().find(|sort| !sort.is_empty())
        }
        _ => None,
    }
}

/// What can be renamed: what it is, where it is defined, and what a file takes.
fn known(world: &World, typed: &str) -> String {
    let (sort, name) = typed.split_once(':').unwrap_or(("", typed));
    let what = match sort {
        "param" => "parameter",
        "value" => "prepared name",
        sort => sort,
    };
    let mut text = format!("**{name}** · {what}");
    if let Some(declared) = declared(world, sort, name) {
        text += &format!(": {declared}");
    }
    let places = definitions(world, typed);
    for place in places.iter().take(4) {
        text += &format!("\n\n{}", place.path);
    }
    if let Some(address) = reached_by(world, typed) {
        text += &format!("\n\nleads to {address}");
    }
    let Some(id) = places.first().and_then(|place| file_of(world, &place.path)) else { return text };
    if !["partial", "layout", "component", "template"].contains(&sort) {
        return text;
    }
    let file = world.lineage.file(id);
    text += &format!(" ({})", world.lineage.theme_of(id).name);
    if let Some(program) = world.program(id) {
        let parameters = program.parameters.iter().map(|parameter| {
            let name = world.symbols.name(parameter.name);
            if parameter.default.is_none() { name.to_owned() } else { format!("{name}?") }
        });
        let parameters: Vec<String> = parameters.collect();
        let slots: Vec<&str> = program.slots.iter().map(|&slot| world.symbols.name(slot)).collect();
        if !parameters.is_empty() {
            text += &format!("\n\ntakes {}", parameters.join(", "));
        }
        if !slots.is_empty() {
            text += &format!("\n\nslots {}", slots.join(", "));
        }
    }
    let count = world.reach(id).count();
    let addresses = if count == 1 { "1 address".to_owned() } else { format!("{count} addresses") };
    text + &format!("\n\n{} takes part in {addresses}", file.name)
}

/// The value of the chain of names that ends at a place, at the sample address.
fn value(asked: &Asked, world: &World) -> Option<String> {
    if !is_in_tag(&asked.text, asked.at) {
        return None;
    }
    let text = &asked.text;
    let part = |c: char| c.is_alphanumeric() || c == '_';
    let end = asked.at + text[asked.at..].find(|c| !part(c)).unwrap_or(text.len() - asked.at);
    let start = text[..asked.at]
        .rfind(|c| !part(c) && c != '.')
        .map_or(0, |at| at + text[at..].chars().next().map_or(1, char::len_utf8));
    let chain = text.get(start..end)?;
    let (sort, value, address) = asked.value(world, chain)?;
    let value = value.filter(|value| *value != sort).map_or(String::new(), |value| format!(", `{value}`"));
    Some(format!("\n\n`{chain}` at {address}: {sort}{value}"))
}

/// Whether a byte is inside of a tag.
pub fn is_in_tag(text: &str, at: usize) -> bool {
    let before = &text[..at];
    before.rfind("+{").is_some_and(|open| !before[open..].contains('}') && !before[open..].starts_with("+{#"))
}

fn word_at(text: &str, at: usize) -> Option<&str> {
    let part = |c: char| c.is_alphanumeric() || c == '_';
    let start = text[..at]
        .rfind(|c| !part(c))
        .map_or(0, |found| found + text[found..].chars().next().map_or(1, char::len_utf8));
    let end = at + text[at..].find(|c| !part(c)).unwrap_or(text.len() - at);
    text.get(start..end).filter(|word| !word.is_empty())
}
