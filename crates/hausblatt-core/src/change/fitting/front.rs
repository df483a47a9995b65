//! What fits in front matter: of content its keys, fields, terms and trays; of theme files what they say of themselves.

use hausblatt_lang::text::source::Span;

use crate::change::fitting::{Fitting, Wanted, media, of_field, of_sort, plain};
use crate::model::content::{Content, Section};
use crate::schema::fields::Field;
use crate::themes::file_name::Role;
use crate::themes::theme::HEADER_KEYS;
use crate::world::World;

/// What fits at a byte of the front matter of the file at a path, whose text this is; none where anything might.
pub fn in_front_matter(world: &World, path: &str, text: &str, at: usize) -> Option<Fitting> {
    let before = text.get(..at)?;
    let is_inside = before.starts_with("---") && before.contains('\n') && !before[3..].contains("\n---");
    if !is_inside {
        return None;
    }
    let line_start = before.rfind('\n').map_or(0, |at| at + 1);
    let line = &before[line_start..];
    let own = line.trim_start().trim_start_matches("- ");
    let (key, start) = match own.split_once(": ").or_else(|| own.strip_suffix(':').map(|key| (key, ""))) {
        // In a list in one line it is the last of its members.
        Some((key, value)) => {
            let member = value.rfind(['[', ',', '{']).map_or(value, |open| &value[open + 1..]).trim_start();
            (Some(key.trim()), at - member.trim_start_matches(['"', '\'']).len())
        }
        None => (None, at - own.trim_start_matches(['-', ' ', '"', '\'']).len()),
    };
    let is_member = line.trim_start().starts_with('-');
    let keys = keys_above(&before[..line_start], line.len() - line.trim_start().len(), is_member);
    let has_colon = text[at..].lines().next().is_some_and(|rest| rest.trim_start().starts_with(':'));
    let wanted = FrontPlace { keys, key: key.map(str::to_owned), is_member, line_start };
    let content = world.site.contents.iter().find(|content| **content.path() == *path);
    let (names, is_key) = match content {
        Some(content) => of_content(world, content, text, &wanted)?,
        None => of_theme_file(world, path, text, &wanted)?,
    };
    let what = if is_key { Wanted::FrontKey(has_colon) } else { Wanted::Bare };
    (!names.is_empty()).then_some(Fitting { span: Span::new(start, at), what, names })
}

/// What fits in a link at a byte of content's text: media in an image, addresses where one was begun, else references.
pub fn in_link(world: &World, path: &str, text: &str, at: usize) -> Option<Fitting> {
    let content = world.site.contents.iter().find(|content| **content.path() == *path)?;
    if at < content.body {
        return None;
    }
    let line = &text[text[..at].rfind('\n').map_or(0, |at| at + 1)..at];
    let open = line.rfind("](")?;
    let written = &line[open + 2..];
    if written.contains([')', ' ', '"']) {
        return None;
    }
    let is_image = line[..open].rfind('[').is_some_and(|open| line[..open].ends_with('!'));
    let names = match (is_image, written.starts_with('/')) {
        (true, _) => media(world),
        (false, true) => {
            let all = world.site.contents.iter();
            all.filter_map(|content| Some((content.address.as_deref()?.to_owned(), content.title.to_string())))
                .collect()
        }
        (false, false) => world.site.references().map(|reference| (reference, String::new())).collect(),
    };
    Some(Fitting { span: Span::new(at - written.len(), at), what: Wanted::Bare, names })
}

/// Where in front matter something is written.
struct FrontPlace {
    /// The keys that lead to the group or list around it.
    keys: Vec<String>,
    /// The key whose value it is; none where a key is written, or a member of a list.
    key: Option<String>,
    /// Whether the line is a member of a list.
    is_member: bool,
    /// Where the line begins.
    line_start: usize,
}

/// The keys that a line so far in is below, by how far the lines above are in.
fn keys_above(before: &str, indent: usize, is_member: bool) -> Vec<String> {
    let mut keys = Vec::new();
    // Members of a list may be as far in as its key.
    let mut limit = if is_member { indent + 1 } else { indent };
    for line in before.lines().rev().take_while(|line| *line != "---") {
        let own = line.trim_start();
        let at = line.len() - own.len();
        if own.is_empty() || at >= limit {
            continue;
        }
        let Some((key, rest)) = own.trim_start_matches("- ").split_once(':') else { continue };
        if own.starts_with("- ") {
            // Its other keys are members of the same group.
            limit = at + 1;
            if rest.trim().is_empty() && !is_member && at + 2 < indent {
                keys.push(key.to_owned());
            }
            continue;
        }
        if rest.trim().is_empty() {
            keys.push(key.to_owned());
            limit = at;
        }
    }
    keys.reverse();
    keys
}

/// What fits, and whether it is a key.
type Names = Option<(Vec<(String, String)>, bool)>;

fn of_content(world: &World, content: &Content, text: &str, place: &FrontPlace) -> Names {
    let (home, fields) = match content.home {
        Section::Pages => ("pages", &world.site.config.page_fields),
        Section::Collection(number) => {
            let config = &world.site.collections[usize::from(number)].config;
            (config.name.text.as_str(), &config.fields)
        }
    };
    let above: Vec<&str> = place.keys.iter().map(String::as_str).collect();
    let key = place.key.as_deref();
    match (above.as_slice(), key) {
        ([], None) if !place.is_member => Some((keys_of(world, home, fields, text, place), true)),
        ([], Some(key)) => Some((of_key(world, home, fields, key)?, false)),
        (["trays"], None) => Some((of_sort(world, "tray:"), true)),
        (["trays", _], Some("component")) => {
            let all = world.components.iter();
            Some((all.map(|component| (component.name.clone(), component.label.clone())).collect(), false))
        }
        (["trays", _], None) => {
            let names = match component_around(world, text, place.line_start) {
                None => plain(&["component"], "which one"),
                Some(fields) => fields.iter().map(|field| (field.name.clone(), field.of.word().to_owned())).collect(),
            };
            Some((names, true))
        }
        (["trays", _], Some(key)) => {
            let field = component_around(world, text, place.line_start)?.iter().find(|field| field.name == key)?;
            Some((of_field(world, &field.of), false))
        }
        ([.., "image"], Some("file")) => Some((media(world), false)),
        ([.., "image"], None) => Some((plain(&["file", "alt"], ""), true)),
        ([list], None) if place.is_member => Some((of_key(world, home, fields, list)?, false)),
        _ => None,
    }
}

/// The fields of the component that is placed where a line is.
fn component_around<'w>(world: &'w World, text: &str, line_start: usize) -> Option<&'w [Field]> {
    let is_first = |line: &str| line.trim_start().starts_with("- ");
    let mut lines: Vec<&str> = text[..line_start].lines().collect();
    let first = lines.iter().rposition(|line| is_first(line))?;
    lines = lines.split_off(first);
    let behind = text[line_start..].lines().enumerate();
    lines.extend(behind.take_while(|(at, line)| *at == 0 || !is_first(line)).map(|(_, line)| line));
    let name = lines.iter().find_map(|line| line.trim_start().trim_start_matches("- ").strip_prefix("component:"))?;
    let name = name.trim().trim_matches(['"', '\'']);
    world.components.iter().find(|component| component.name == name).map(|component| component.fields.as_slice())
}

/// The keys that a text's front matter has in other lines than that of the place.
fn written_keys<'t>(text: &'t str, place: &FrontPlace) -> Vec<&'t str> {
    let own = text[place.line_start..].lines().next().unwrap_or("");
    let lines = text.lines().skip(1).take_while(|line| *line != "---").filter(|line| *line != own);
    lines.filter_map(|line| line.split_once(':')).map(|(key, _)| key).collect()
}

/// The keys that content may still have.
fn keys_of(world: &World, home: &str, fields: &[Field], text: &str, place: &FrontPlace) -> Vec<(String, String)> {
    let taken = written_keys(text, place);
    let keys = crate::text::names::keys().iter().map(|key| ((*key).to_owned(), "key".to_owned()));
    let own = fields.iter().map(|field| (field.name.clone(), field.of.word().to_owned()));
    let grouped =
        world.site.config.taxonomies_of(home).map(|taxonomy| (taxonomy.name.text.clone(), "taxonomy".to_owned()));
    keys.chain(own).chain(grouped).filter(|(key, _)| !taken.contains(&key.as_str())).collect()
}

/// The values of a key of content.
fn of_key(world: &World, home: &str, fields: &[Field], key: &str) -> Option<Vec<(String, String)>> {
    if key == "template" {
        let kind = if home == "pages" { "page".to_owned() } else { format!("entry/{home}") };
        let offered = world.lineage.ids().filter_map(|(id, file)| Some((world.header(id), file.name.offered()?)));
        let fits = offered.filter(|(header, _)| {
            let fits = |one: &String| *one == kind || kind.starts_with(&format!("{one}/"));
            header.fits.is_empty() || header.fits.iter().any(fits)
        });
        let mut names: Vec<(String, String)> =
            fits.map(|(header, name)| (name.to_owned(), header.label.clone().unwrap_or_default())).collect();
        names.dedup_by(|a, b| a.0 == b.0);
        return Some(names);
    }
    if key == "image" {
        return Some(media(world));
    }
    if ["draft", "in_lists"].contains(&key) {
        return Some(plain(&["true", "false"], ""));
    }
    if let Some(taxonomy) = world.site.taxonomies.iter().find(|taxonomy| taxonomy.config.name.text == key) {
        return Some(taxonomy.terms.iter().map(|term| (term.id.to_string(), term.label.to_string())).collect());
    }
    let field = fields.iter().find(|field| field.name == key)?;
    Some(of_field(world, &field.of))
}

/// What a theme file may say of itself.
fn of_theme_file(world: &World, path: &str, text: &str, place: &FrontPlace) -> Names {
    let file = world.lineage.files.iter().find(|file| *file.node.path == *path)?;
    let is_offered = file.name.offered().is_some();
    match (place.keys.as_slice(), place.key.as_deref()) {
        ([], None) if !place.is_member => {
            let fits = |key: &&str| match *key {
                "label" | "about" | "for" => is_offered,
                "layout" | "classes" => file.role == Role::Template,
                _ => true,
            };
            let written = written_keys(text, place);
            let keys: Vec<&str> =
                HEADER_KEYS.iter().copied().filter(fits).filter(|key| !written.contains(key)).collect();
            Some((plain(&keys, ""), true))
        }
        ([], Some("layout")) => {
            let files = world.lineage.files.iter().filter(|file| file.hidden_by.is_none());
            let mut names: Vec<(String, String)> = files
                .filter_map(|file| {
                    Some((file.name.layout()?.to_owned(), world.lineage.themes[file.theme].name.clone()))
                })
                .collect();
            names.sort();
            names.dedup_by(|a, b| a.0 == b.0);
            names.push(("none".to_owned(), "the template is the whole document".to_owned()));
            Some((names, false))
        }
        ([], Some("for")) => {
            let mut names = plain(&["page", "entry"], "");
            let all = world.site.collections.iter().map(|collection| &collection.config);
            names.extend(all.map(|config| (format!("entry/{}", config.name.text), config.label.clone())));
            Some((names, false))
        }
        _ => None,
    }
}
