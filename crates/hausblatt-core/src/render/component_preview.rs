//! A component by its name, with values as they are typed, for seeing it alone.

use hausblatt_lang::text::codes as lang_codes;
use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::source::Span;
use hausblatt_lang::text::suggest::did_you_mean;
use hausblatt_lang::value::datum::Datum;
use hausblatt_lang::value::shape::Symbol;

use crate::schema::fields::{Conversion, FieldType};
use crate::text::codes;
use crate::text::data::{Data, DataValue, Entry, scalar};
use crate::text::front;
use crate::themes::component::Component;
use crate::themes::component::Placing;
use crate::themes::site_file::file_of;
use crate::world::World;

/// The component that is called so.
///
/// # Errors
/// There is none, and which is the nearest.
pub fn find<'w>(world: &'w World, name: &str) -> Result<&'w Component, Diagnostic> {
    let names = || world.components.iter().map(|component| component.name.as_str());
    world.components.iter().find(|component| component.name == name).ok_or_else(|| {
        let help = did_you_mean(name, names()).unwrap_or_else(|| match world.components.is_empty() {
            true => "a component is a folder below components/ with a component.html".to_owned(),
            false => format!("the components are {}", names().collect::<Vec<_>>().join(", ")),
        });
        Diagnostic::of(&lang_codes::UNKNOWN_COMPONENT, format!("there is no component \"{name}\"")).help(help)
    })
}

/// Values of a component's fields as they are typed, converted.
///
/// # Errors
/// The first that does not fit.
pub fn set(
    world: &World,
    component: &Component,
    typed: &[(String, String)],
) -> Result<Vec<(Symbol, Datum)>, Diagnostic> {
    let pictures = |address: &str| file_of(&world.snapshot, &world.lineage, address);
    let conversion = Conversion { zone: &world.site.config.timezone, pictures: &pictures };
    let mut entries = Vec::new();
    for (name, text) in typed {
        let field = component.fields.iter().find(|field| field.name == *name);
        let value = match field.map(|field| &field.of) {
            // A list is typed as in front matter: [a, b].
            Some(FieldType::List(_) | FieldType::Image) if text.starts_with(['[', '{']) => front::yaml(text)
                .map(|data| data.value)
                .map_err(|problem| Diagnostic::of(&codes::WRONG_VALUE, format!("\"{name}\": {}", problem.message)))?,
            Some(FieldType::Number(..) | FieldType::YesNo) => scalar(text),
            _ => DataValue::Text(text.as_str().into()),
        };
        let data = Data { span: Span::default(), value };
        entries.push(Entry { key: name.as_str().into(), span: Span::default(), data });
    }
    let placing = Placing {
        components: &world.components,
        site: &world.site,
        conversion: &conversion,
        symbols: &world.symbols,
        snapshot: &world.snapshot,
        lineage: &world.lineage,
    };
    placing.values(component, &entries, &world.site.config.path).map_err(|problem| problem.0)
}
