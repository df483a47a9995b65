//! Components: each with its defaults, with nothing, with worse values, and in every tray.

use std::sync::Arc;

use crate::rehearse::edits::{ContentText, data, list, map, text};
use crate::rehearse::samples::{MADE_UP, Small, made_up};
use crate::rehearse::variation::{Rank, Variation};
use crate::rehearse::varied::{varied, words};
use crate::rehearse::worse::{Worse, missing, usual, values};
use crate::text::data::{Data, DataValue};
use crate::themes::component::Component;
use crate::world::World;

/// The tray of the page that is made up for components.
const TRAY: &str = "rehearsal";

/// A component with these values, as content places it.
fn placed(name: &str, given: &[(&str, Data)]) -> Data {
    map(std::iter::once(("component", text(name))).chain(given.iter().cloned()).collect())
}

/// The values that a component usually has.
fn usual_values<'c>(world: &World, component: &'c Component) -> Vec<(&'c str, Data)> {
    component.fields.iter().filter_map(|field| Some((field.name.as_str(), usual(world, &field.of)?))).collect()
}

/// Each component by itself, on a page that holds nothing else.
pub(super) fn of_each(small: &Small) -> Vec<Variation> {
    let world = &small.world;
    let name = format!("{MADE_UP}-of-components");
    let template = format!("{}templates/page/{name}.html", world.lineage.active().root);
    let page = made_up("pages", &name);
    let alone = |variation: Variation, component: Data| {
        let content = ContentText::new("").with("title", Some(text("A rehearsal")));
        let content = content.with("trays", Some(map(vec![(TRAY, list(vec![component]))])));
        let variation = variation.changing(&page, Some(content.written()));
        variation
            .changing(&template, Some(format!("<h1>+{{content.title}}</h1>\n+{{tray \"{TRAY}\"}}")))
            .at([format!("/{name}/")])
    };
    let mut found = Vec::new();
    for component in world.components.iter().filter(|component| is_placeable(world, component)) {
        let subject = format!("the component {}", component.name);
        let whole = usual_values(world, component);
        let is_bare = !component.fields.iter().any(|field| field.is_required);
        let by_words = |words: &str, rank| Variation::new(rank, format!("{subject} {words}"));
        if is_bare {
            found.push(alone(by_words("with its defaults", Rank::Missing), placed(&component.name, &[])));
        }
        found.push(alone(by_words("with all its fields", Rank::Counts), placed(&component.name, &whole)));
        for field in &component.fields {
            let rest = || whole.iter().filter(|(name, _)| *name != field.name).cloned();
            let own = whole.iter().find(|(name, _)| *name == field.name).map(|(_, value)| value);
            let mut all = values(world, field, own);
            // A default stands in where a value is missing.
            let null = Worse { value: Some(data(DataValue::Nothing)), ..missing() };
            all.retain(|worse| worse.value.is_some());
            all.extend((!field.is_required).then_some(null));
            for worse in all {
                let given: Vec<(&str, Data)> =
                    rest().chain(worse.value.clone().map(|value| (field.name.as_str(), value))).collect();
                found.push(alone(varied(&subject, &worse, &field.name), placed(&component.name, &given)));
            }
        }
    }
    found
}

fn is_placeable(world: &World, component: &Component) -> bool {
    let file = format!("components/{}/component.html", component.name);
    component.unreadable.is_none() && world.lineage.nearest(&file).is_some()
}

/// Each component in every tray that a sample's page prints.
pub(super) fn in_trays(small: &Small) -> Vec<Variation> {
    let world = &small.world;
    let mut found: Vec<Variation> = Vec::new();
    let mut known: Vec<(Arc<str>, String)> = Vec::new();
    for sample in &small.samples {
        let Some((id, content)) = world.site.ids().find(|(_, content)| **content.path() == *sample.path) else {
            continue;
        };
        let Some(own) = ContentText::of(&content.node) else { continue };
        let is_own = |request: &&crate::model::request::Request| request.kind.content() == Some(id);
        let Some(request) = world.requests().iter().find(is_own) else { continue };
        let resolution = world.resolve(request.clone());
        let mut files = resolution.running(world);
        files.extend(resolution.uses(world).iter().map(|used| used.file));
        for program in files.into_iter().filter_map(|file| world.program(file)) {
            for tray in &program.trays {
                let key = (program.path.clone(), tray.clone());
                if known.contains(&key) {
                    continue;
                }
                known.push(key);
                for component in world.components.iter().filter(|component| is_placeable(world, component)) {
                    let whole = usual_values(world, component);
                    let twice = list(vec![placed(&component.name, &whole); 2]);
                    let subject = format!("the component {}", component.name);
                    let place = Worse {
                        rank: Rank::Counts,
                        words: format!("twice in the tray {tray} of {}", sample.subject),
                        value: None,
                        is_less: false,
                    };
                    let variation = Variation::new(Rank::Counts, words(&subject, &place, ""));
                    let text = own.clone().with("trays", Some(map(vec![(tray, twice)])));
                    let variation = variation.changing(&sample.path, Some(text.written()));
                    found.push(variation.at(sample.own.first().cloned()));
                }
            }
        }
    }
    found
}
