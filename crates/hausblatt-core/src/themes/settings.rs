//! Settings: what the themes of a lineage declare, with the values that the site gives.

use std::sync::Arc;

use hausblatt_lang::text::codes as lang_codes;
use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::suggest::did_you_mean;
use hausblatt_lang::value::datum::Datum;
use hausblatt_lang::value::shape::Interner;

use crate::schema::config;
use crate::schema::fields::{self, Conversion, Field};
use crate::text::codes;
use crate::text::data::Entry;
use crate::text::reader::{DataReader, named};
use crate::themes::lineage::Lineage;

/// A setting in force.
#[derive(Debug)]
pub struct Setting {
    /// How it is declared; its default is the nearest theme's.
    pub field: Field,
    /// Its value.
    pub value: Datum,
    /// Where its value comes from.
    pub from: Origin,
}

/// Where a setting's value comes from.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Origin {
    /// The site's configuration.
    Site,
    /// The default of this theme, by its place in the lineage.
    Theme(usize),
}

/// The settings in force. What is wrong with declarations and values is added to `problems`.
pub(crate) fn in_force(
    lineage: &Lineage,
    values: &[Entry],
    conversion: &Conversion<'_>,
    symbols: &mut Interner,
    problems: &mut Vec<Diagnostic>,
) -> Vec<Setting> {
    let mut settings = declared(lineage, conversion, symbols, problems);
    let path: Arc<str> = config::FILE.into();
    for (name, span, data) in named(values) {
        let names: Vec<String> = settings.iter().map(|setting| setting.field.name.clone()).collect();
        let Some(setting) = settings.iter_mut().find(|setting| setting.field.name == name) else {
            let help = did_you_mean(name, names.iter().map(String::as_str))
                .unwrap_or_else(|| "themes declare settings in their manifests, under [settings]".to_owned());
            let message = format!("no theme of the lineage has the setting \"{name}\"");
            problems.push(Diagnostic::of(&codes::UNKNOWN_SETTING, message).help(help).at(&path, span));
            continue;
        };
        match fields::convert(&setting.field.of, data, conversion) {
            Ok(value) => (setting.value, setting.from) = (value, Origin::Site),
            Err((span, message)) => problems.push(Diagnostic::of(&lang_codes::WRONG_TYPE, message).at(&path, span)),
        }
    }
    settings
}

/// What the themes declare, the oldest ancestor first; a child may change a default.
fn declared(
    lineage: &Lineage,
    conversion: &Conversion<'_>,
    symbols: &mut Interner,
    problems: &mut Vec<Diagnostic>,
) -> Vec<Setting> {
    let mut settings: Vec<Setting> = Vec::new();
    for (at, theme) in lineage.themes.iter().enumerate().rev() {
        let before = settings.len();
        let inherited = |name: &str| settings[..before].iter().position(|setting| setting.field.name == name);
        let is_default = |entry: &&Entry| {
            let keys = entry.data.as_map().unwrap_or_default();
            inherited(&entry.key).is_some() && !keys.iter().any(|key| &*key.key == "type")
        };
        let (defaults, own): (Vec<&Entry>, Vec<&Entry>) = theme.settings.iter().partition(is_default);
        let own: Vec<Entry> = own.into_iter().cloned().collect();
        let mut fresh = fields::declared(&theme.manifest, &own, problems);
        for entry in defaults {
            let Some(number) = inherited(&entry.key) else { continue };
            let group = format!("the setting \"{}\"", entry.key);
            let Some(entries) = entry.data.as_map() else {
                let help = format!("write {} = {{ default = … }}", entry.key);
                let diagnostic =
                    Diagnostic::of(&lang_codes::WRONG_TYPE, format!("{group} is a group of keys")).help(help);
                problems.push(diagnostic.at(&theme.manifest, entry.data.span));
                continue;
            };
            let mut reader = DataReader::new(&theme.manifest, group, entries, entry.span, problems);
            let default = reader.entry("default");
            let label = reader.text("label").map(|(label, _)| label.to_owned());
            reader.text("about");
            reader.finish();
            let mut field = settings[number].field.clone();
            field.span = entry.span;
            field.label = label.or(field.label);
            if let Some(default) = default {
                field.set_default(&default.data);
            }
            fresh.push(field);
        }
        fields::ready(&theme.manifest, &mut fresh, conversion, symbols, problems);
        for field in fresh {
            settings.retain(|setting| setting.field.name != field.name);
            settings.push(Setting { value: field.default.clone(), from: Origin::Theme(at), field });
        }
    }
    settings
}
