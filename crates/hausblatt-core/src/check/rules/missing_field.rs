//! Content, a placed component or a setting lacks a value that its declaration requires.

use hausblatt_lang::program::Callee;
use hausblatt_lang::text::code::Code;
use hausblatt_lang::text::diagnostic::{Diagnostic, Severity};
use hausblatt_lang::text::source::Span;
use hausblatt_lang::text::suggest::nearest;
use hausblatt_lang::value::datum::Datum;
use std::sync::Arc;

use crate::check::{Check, Look};
use crate::model::content::{ContentState, Section};
use crate::schema::config;
use crate::schema::fields::{Field, FieldType};
use crate::text::data::{Data, DataValue, Entry};
use crate::themes::component::Component;
use crate::world::World;

/// The check.
pub(crate) const CHECK: Check = Check {
    code: Code {
        name: "missing-field",
        severity: Severity::Error,
        about: "a field that is required has no value",
        explanation: "A field that is declared with required = true is always there for those who write templates. Content that is not a draft, a component that is placed, and a setting without default have to give it a value.",
    },
    look: Look::Site(look),
};

/// Looks for values that are required and missing in one file.
struct Lookout<'w> {
    world: &'w World,
    path: Arc<str>,
    found: Vec<Diagnostic>,
}

fn look(world: &World) -> Vec<Diagnostic> {
    let mut found = Vec::new();
    for content in world.site.contents.iter() {
        // What is wrong with front matter that can't be read is reported.
        let is_readable = content.node.front().problem.is_none();
        if !is_readable || (content.state == ContentState::Draft && !world.asking.drafts) {
            continue;
        }
        let (what, fields) = match content.home {
            Section::Pages => ("this page".to_owned(), &world.site.config.page_fields),
            Section::Collection(number) => {
                let config = &world.site.collections[usize::from(number)].config;
                (format!("this entry of {}", config.name.text), &config.fields)
            }
        };
        let entries = &content.node.front().entries;
        let mut lookout = Lookout { world, path: content.path().clone(), found: Vec::new() };
        lookout.group(fields, entries, &what, Span::default());
        if content.trays.is_some() {
            lookout.trays(entries);
        }
        found.append(&mut lookout.found);
    }
    found.extend(of_calls(world));
    let config: Arc<str> = config::FILE.into();
    for setting in world.settings.iter().filter(|setting| setting.field.is_required) {
        let name = &setting.field.name;
        // A value that does not fit is reported.
        let is_written = world.site.config.settings.iter().any(|entry| *entry.key == **name);
        if matches!(setting.value, Datum::Nothing) && !is_written {
            let message = format!("the setting \"{name}\" is required, and has no value");
            let help = format!("write {name} = … under [settings] of hausblatt.toml");
            found.push(Diagnostic::of(&CHECK.code, message).help(help).at(&config, Span::default()));
        }
    }
    found
}

/// Components that templates place themselves.
fn of_calls(world: &World) -> Vec<Diagnostic> {
    let mut found = Vec::new();
    for program in world.library.units.iter().filter_map(|unit| unit.program.as_ref()) {
        for call in &program.calls {
            let Callee::Component(name) = &call.callee else { continue };
            let Some(component) = component(world, name) else { continue };
            for field in component.fields.iter().filter(|field| field.is_required) {
                if !call.given.iter().any(|given| world.symbols.name(given.name) == field.name) {
                    let message = format!("\"{}\" is required, and this component lacks it", field.name);
                    let help = format!("write given {} = …", field.name);
                    found.push(Diagnostic::of(&CHECK.code, message).help(help).at(&program.path, call.span));
                }
            }
        }
    }
    found
}

fn component<'w>(world: &'w World, name: &str) -> Option<&'w Component> {
    world.components.iter().find(|component| component.name == *name)
}

impl Lookout<'_> {
    /// A group of values: those of content, of a component, of a member of a list.
    fn group(&mut self, fields: &[Field], entries: &[Entry], what: &str, span: Span) {
        for field in fields {
            let entry = entries.iter().find(|entry| *entry.key == *field.name);
            let is_blank = match entry.map(|entry| &entry.data.value) {
                None | Some(DataValue::Nothing) => true,
                Some(DataValue::Text(text)) => text.trim().is_empty(),
                Some(_) => false,
            };
            // A misspelt key is reported.
            let is_unknown = |entry: &&Entry| fields.iter().all(|field| *field.name != *entry.key);
            let is_misspelt = entry.is_none()
                && entries.iter().filter(is_unknown).any(|entry| nearest(&entry.key, [field.name.as_str()]).is_some());
            if field.is_required && is_blank && !is_misspelt {
                let message = format!("\"{}\" is required, and {what} lacks it", field.name);
                let diagnostic = Diagnostic::of(&CHECK.code, message).help(format!("write {}: …", field.name));
                self.found.push(diagnostic.at(&self.path, entry.map_or(span, |entry| entry.span)));
            }
            if let Some(entry) = entry {
                self.members(&field.of, &entry.data, &field.name);
            }
        }
    }

    /// The members of a list of groups.
    fn members(&mut self, of: &FieldType, data: &Data, name: &str) {
        let FieldType::List(of) = of else { return };
        let FieldType::Group(group) = &**of else { return };
        for member in data.as_list().unwrap_or_default() {
            if let Some(entries) = member.as_map() {
                self.group(&group.fields, entries, &format!("this member of {name}"), member.span);
            }
        }
    }

    /// What is placed in trays.
    fn trays(&mut self, entries: &[Entry]) {
        let trays = entries.iter().filter(|entry| &*entry.key == "trays");
        let placed = trays.flat_map(|entry| entry.data.as_map().unwrap_or_default());
        for item in placed.flat_map(|tray| tray.data.as_list().unwrap_or_default()) {
            let Some(values) = item.as_map() else { continue };
            let name = values.iter().find(|entry| &*entry.key == "component").and_then(|entry| entry.data.as_text());
            if let Some(component) = name.and_then(|name| component(self.world, name)) {
                self.group(&component.fields, values, "this component", item.span);
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use crate::check::tests::told;

    const SITE: &str = "[site]\ntitle = \"Seeds\"\ntheme = \"t\"\n[front]\npage = \"home\"\n[pages.fields]\nline = { type = \"text\", required = true }\ntimes = { type = \"list\", fields = [{ name = \"day\", type = \"text\", required = true }, { name = \"note\", type = \"text\" }] }\n";
    const MANIFEST: &str = "[settings]\nmotto = { type = \"text\", required = true }\n";
    const FIELDS: &str = "[[fields]]\nname = \"heading\"\ntype = \"text\"\nrequired = true\n";

    fn places(home: &str, settings: &str, template: &str) -> Vec<String> {
        told(
            super::CHECK.code.name,
            &[
                ("hausblatt.toml", &format!("{SITE}{settings}")),
                ("themes/t/hausblatt-theme.toml", MANIFEST),
                ("themes/t/components/note/component.toml", FIELDS),
                ("themes/t/components/note/component.html", "<p>+{heading}</p>"),
                ("themes/t/templates/page.html", template),
                ("content/pages/home.md", home),
                ("content/pages/visit.md", ""),
            ],
        )
    }

    #[test]
    fn finds_it_at_its_line() {
        let motto = "[settings]\nmotto = \"x\"\n";
        let tray = "<p>+{content.line}+{settings.motto}</p>+{tray \"main\"}";
        let full = "---\nline: a\n---\n";
        assert!(places(full, motto, tray).is_empty());
        assert_eq!(places("---\ntitle: a\n---\n", motto, tray), ["content/pages/home.md:1"]);
        assert_eq!(places("---\ntitle: a\nline: \"\"\n---\n", motto, tray), ["content/pages/home.md:3"]);
        assert!(places("---\ndraft: true\n---\n", motto, tray).is_empty());
        // These are reported by their own names.
        assert!(places("---\ntitle: [\n---\n", motto, tray).is_empty());
        assert!(places("---\nlin: a\n---\n", motto, tray).is_empty());
        assert!(places(full, "[settings]\nmotto = 3\n", tray).is_empty());
        assert_eq!(places(full, "", tray), ["hausblatt.toml:1"]);
        let members = "---\nline: a\ntimes:\n  - day: Monday\n  - note: closed\n---\n";
        assert_eq!(places(members, motto, tray), ["content/pages/home.md:5"]);
        let placed =
            "---\nline: a\ntrays:\n  main:\n    - component: note\n      heading: b\n    - component: note\n---\n";
        assert_eq!(places(placed, motto, tray), ["content/pages/home.md:7"]);
        let call =
            "<p>+{content.line}+{settings.motto}</p>\n+{component \"note\"}+{component \"note\" given heading = \"a\"}";
        assert_eq!(places(full, motto, call), ["themes/t/templates/page.html:2"]);
    }
}
