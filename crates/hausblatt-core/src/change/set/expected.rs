//! What a value is expected to be, and a value as it is typed.

use hausblatt_lang::text::suggest::did_you_mean;

use crate::change::set::SetTarget;
use crate::model::content::{Content, Section};
use crate::schema::fields::{Conversion, Field, FieldType, convert};
use crate::text::data::{Data, DataValue, scalar};
use crate::text::data_change::found;
use crate::text::front;
use crate::text::names;
use crate::themes::site_file::file_of;
use crate::world::World;

/// The declared fields of some content.
pub fn fields_of<'w>(world: &'w World, content: &Content) -> &'w [Field] {
    match (content.home, world.site.collection_of(content)) {
        (Section::Pages, _) => &world.site.config.page_fields,
        (_, Some(collection)) => &collection.config.fields,
        (_, None) => &[],
    }
}

/// The type of the value at a place, where something declares it.
pub fn expected(world: &World, target: SetTarget, path: &[String]) -> Option<FieldType> {
    let setting = |name: &str| world.settings.iter().find(|setting| setting.field.name == name);
    let (of, rest) = match target {
        SetTarget::Site => match path {
            [group, name, rest @ ..] if group == "settings" => (setting(name)?.field.of.clone(), rest),
            _ => return None,
        },
        SetTarget::Theme(_) => match path {
            [group, name, key, rest @ ..] if group == "settings" && key == "default" => {
                (setting(name)?.field.of.clone(), rest)
            }
            _ => return None,
        },
        SetTarget::Content(id) => {
            let content = world.site.content(id);
            match path {
                [trays, _, _, field, rest @ ..] if trays == "trays" => {
                    let item = path[..3].to_vec();
                    let entries = &content.node.front().entries;
                    let name = found(entries, &item)?.as_map()?.iter().find(|entry| &*entry.key == "component")?;
                    let name = name.data.as_text()?;
                    let component = world.components.iter().find(|component| component.name == name)?;
                    (component.fields.iter().find(|one| one.name == *field)?.of.clone(), rest)
                }
                [key, rest @ ..] => (of_key(world, content, key)?, rest),
                [] => return None,
            }
        }
    };
    below(of, rest)
}

/// The type of what is at a path in a value of a type.
fn below(of: FieldType, path: &[String]) -> Option<FieldType> {
    let Some((step, rest)) = path.split_first() else { return Some(of) };
    match of {
        FieldType::List(of) => below(*of, rest),
        FieldType::Group(group) => below(group.fields.iter().find(|field| field.name == *step)?.of.clone(), rest),
        FieldType::Image => Some(FieldType::Text),
        _ => None,
    }
}

/// The type of a key of front matter.
fn of_key(world: &World, content: &Content, key: &str) -> Option<FieldType> {
    let texts = || FieldType::List(Box::new(FieldType::Text));
    if let Some(field) = fields_of(world, content).iter().find(|field| field.name == key) {
        return Some(field.of.clone());
    }
    if world.site.taxonomies.iter().any(|taxonomy| taxonomy.config.name.text == key) {
        return Some(texts());
    }
    Some(match key {
        "title" | "slug" | "summary" | "template" | "robots" => FieldType::Text,
        "date" | "updated" => FieldType::Date,
        "image" => FieldType::Image,
        "authors" | "formerly" => texts(),
        "order" => FieldType::Number(None, None),
        "in_lists" | "draft" => FieldType::YesNo,
        _ => return None,
    })
}

/// Why front matter of some content has no such key, with the nearest that it has; none if it may have it.
pub(super) fn unknown_key(world: &World, content: &Content, key: &str) -> Option<(String, String)> {
    let entries = &content.node.front().entries;
    if of_key(world, content, key).is_some() || key == "trays" || entries.iter().any(|entry| &*entry.key == key) {
        return None;
    }
    let fields = fields_of(world, content).iter().map(|field| field.name.as_str());
    let taxonomies = world.site.taxonomies.iter().map(|taxonomy| taxonomy.config.name.text.as_str());
    let all: Vec<&str> = fields.chain(taxonomies).chain(names::keys().iter().copied()).collect();
    let group = match world.site.collection_of(content) {
        Some(collection) => format!("[collections.{}.fields]", collection.config.name.text),
        None => "[pages.fields]".to_owned(),
    };
    let help = did_you_mean(key, all.iter().copied());
    let help = help.unwrap_or_else(|| format!("declare it in hausblatt.toml, under {group}"));
    Some((format!("{} has no key \"{key}\"", content.path()), help))
}

/// A value as it is typed, read as what is expected there; without a type, as what is there now, or else as YAML.
///
/// # Errors
/// Why it is not one, in words.
pub fn data_of(world: &World, of: Option<&FieldType>, now: Option<&Data>, typed: &str) -> Result<Data, String> {
    let span = Default::default();
    let text = || Ok(Data { span, value: DataValue::Text(typed.into()) });
    let read = || front::yaml(typed).map(without_places).map_err(|problem| problem.message);
    let data = match of {
        Some(FieldType::YesNo) if matches!(typed.trim(), "yes" | "no") => {
            Ok(Data { span, value: DataValue::Bool(typed.trim() == "yes") })
        }
        Some(FieldType::Number(..) | FieldType::YesNo) => Ok(Data { span, value: scalar(typed.trim()) }),
        Some(FieldType::Image) if typed.trim_start().starts_with('{') => read(),
        Some(FieldType::List(of)) if **of == FieldType::Text && !typed.trim_start().starts_with('[') => text(),
        Some(FieldType::List(_) | FieldType::Group(_) | FieldType::Unknown) => read(),
        Some(_) => text(),
        None if now.is_some_and(|now| now.as_text().is_some()) => text(),
        None => read(),
    }?;
    if let Some(of) = of {
        let pictures = |address: &str| file_of(&world.snapshot, &world.lineage, address);
        let conversion = Conversion { zone: &world.site.config.timezone, pictures: &pictures };
        convert(of, &data, &conversion).map_err(|(_, message)| message)?;
        if matches!(data.value, DataValue::Nothing) {
            return Err(format!("this must be {}, not nothing", article(of)));
        }
    }
    Ok(data)
}

/// A type with its article.
fn article(of: &FieldType) -> String {
    match of {
        FieldType::Number(..) => "a number".to_owned(),
        FieldType::YesNo => "true, false, yes or no".to_owned(),
        of => format!("a value of the type {}", of.word()),
    }
}

fn without_places(data: Data) -> Data {
    let value = match data.value {
        DataValue::List(members) => DataValue::List(members.into_iter().map(without_places).collect()),
        DataValue::Map(entries) => {
            let bare = |mut entry: crate::text::data::Entry| {
                entry.span = Default::default();
                entry.data = without_places(entry.data);
                entry
            };
            DataValue::Map(entries.into_iter().map(bare).collect())
        }
        value => value,
    };
    Data { span: Default::default(), value }
}
