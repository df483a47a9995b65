//! Menus, settings, terms, tables, errors and searches that are other than at home.

use toml_edit::{Array, InlineTable, Value};

use crate::lookup::map::error_statuses;
use crate::rehearse::edits::{configured, table_rows, toml};
use crate::rehearse::samples::{MADE_UP, Small};
use crate::rehearse::variation::{Rank, Variation};
use crate::rehearse::varied::{Probe, varied};
use crate::rehearse::worse::{Worse, images, is_nothing, missing, of_type};
use crate::schema::config;
use crate::schema::fields::FieldType;
use crate::text::address::encoded;

/// The items of the longest menu.
const ITEMS: usize = 50;

fn item(label: &str, children: Vec<Value>) -> Value {
    let mut item = InlineTable::new();
    item.insert("to", "/".into());
    item.insert("label", label.into());
    if !children.is_empty() {
        item.insert("children", children.into_iter().collect::<Array>().into());
    }
    item.into()
}

fn with(variation: Variation, small: &Small, path: &[&str], value: Option<Value>) -> Option<Variation> {
    Some(variation.changing(config::FILE, Some(configured(&small.world, path, value)?)))
}

/// Menus: empty, with three levels, with many items.
pub(super) fn of_menus(small: &Small, probe: &Probe<'_>) -> Vec<Variation> {
    let mut found = Vec::new();
    for (name, _) in &small.world.site.config.menus {
        let menus: [(Rank, String, Vec<Value>); 3] = [
            (Rank::Counts, format!("the menu {name} without items"), Vec::new()),
            (
                Rank::Counts,
                format!("the menu {name} with three levels"),
                vec![item("One", vec![item("Two", vec![item("Three", Vec::new())])])],
            ),
            (
                Rank::Counts,
                format!("the menu {name} with {ITEMS} items"),
                (1..=ITEMS).map(|at| item(&format!("Item {at}"), Vec::new())).collect(),
            ),
        ];
        let mut shown = None;
        for (rank, words, items) in menus {
            let is_less = items.is_empty();
            let variation = Variation { is_less, ..Variation::new(rank, words) };
            let value: Value = items.into_iter().collect::<Array>().into();
            let Some(variation) = with(variation, small, &["menus", name], Some(value)) else { continue };
            let shown = shown.get_or_insert_with(|| probe.shown(std::slice::from_ref(&variation), &[]));
            found.push(variation.at(shown.iter().cloned()));
        }
    }
    found
}

/// Each setting with each choice, blank, at its bounds.
pub(super) fn of_settings(small: &Small, probe: &Probe<'_>) -> Vec<Variation> {
    let world = &small.world;
    let mut found = Vec::new();
    for setting in &world.settings {
        let field = &setting.field;
        let is_written = world.site.config.settings.iter().any(|entry| *entry.key == *field.name);
        let mut all =
            if field.of == FieldType::Image { images() } else { of_type(world, &field.of, field.is_required) };
        if is_written && !field.is_required {
            all.insert(0, Worse { is_less: is_nothing(&field.default), ..missing() });
        }
        let name = format!("settings.{}", field.name);
        let variations: Vec<Variation> = all
            .iter()
            .filter_map(|worse| {
                let value = worse.value.as_ref().and_then(toml);
                let variation = varied("a site", worse, &name);
                with(variation, small, &["settings", &field.name], value)
            })
            .collect();
        let shown = probe.shown(&variations[..variations.len().min(3)], &[]);
        found.extend(variations.into_iter().map(|variation| variation.at(shown.iter().cloned())));
    }
    found
}

/// Terms that nothing is in, or that lack what other terms have.
pub(super) fn of_terms(small: &Small, probe: &Probe<'_>) -> Vec<Variation> {
    let mut found = Vec::new();
    for taxonomy in &small.world.site.config.taxonomies {
        let name = &taxonomy.name.text;
        let mut term = InlineTable::new();
        term.insert("label", "A rehearsal".into());
        let empty = Variation {
            is_less: true,
            is_empty: true,
            ..Variation::new(Rank::Counts, format!("a term of {name} without entries"))
        };
        let address = encoded(&taxonomy.address.text.replace("{term}", MADE_UP));
        if let Some(empty) = with(empty, small, &["taxonomies", name, "terms", MADE_UP], Some(term.into())) {
            let shown = probe.shown(std::slice::from_ref(&empty), &[]);
            found.push(empty.at([address]).at(shown));
        }
        for (key, has) in [
            ("label", taxonomy.terms.iter().find(|term| term.label.is_some())),
            ("image", taxonomy.terms.iter().find(|term| term.image.is_some())),
            ("parent", taxonomy.terms.iter().find(|term| term.parent.is_some())),
        ] {
            let Some(term) = has else { continue };
            let variation = Variation::new(Rank::Missing, format!("a term of {name} without {key}"));
            let path = ["taxonomies", name, "terms", &term.id.text, key];
            let Some(variation) = with(variation, small, &path, None) else { continue };
            let shown = probe.shown(std::slice::from_ref(&variation), &[]);
            let own = encoded(&taxonomy.address.text.replace("{term}", &term.id.text));
            found.push(variation.at([own]).at(shown));
        }
    }
    found
}

/// Tables: without rows, with one, with a row that lacks a value.
pub(super) fn of_tables(small: &Small, probe: &Probe<'_>) -> Vec<Variation> {
    let world = &small.world;
    let mut found = Vec::new();
    for table in world.site.tables.iter().filter(|table| !table.columns.is_empty()) {
        let Some(rows) = table_rows(world, table) else { continue };
        // What a route takes its addresses from is not taken away.
        let keys: Vec<&str> = world
            .site
            .config
            .routes
            .iter()
            .filter(|route| route.each.as_ref().is_some_and(|each| each.text == table.name))
            .flat_map(|route| config::placeholders(&route.address.text).map(|(names, _)| names).unwrap_or_default())
            .collect();
        let mut all = vec![
            (Rank::Counts, format!("the table {} without rows", table.name), Vec::new()),
            (Rank::Counts, format!("the table {} with one row", table.name), rows[..1].to_vec()),
        ];
        for column in table.columns.iter().filter(|column| !keys.contains(&column.as_str())) {
            let mut rows = rows.clone();
            rows[0].remove(column);
            all.push((Rank::Missing, format!("a row of the table {} without {column}", table.name), rows));
        }
        for (rank, words, rows) in all {
            let (is_less, is_empty) = (rank == Rank::Missing || rows.is_empty(), rows.is_empty());
            let text = serde_json::to_string(&rows).unwrap_or_default();
            let variation = Variation { is_less, is_empty, ..Variation::new(rank, words) };
            let variation =
                variation.changing(&*table.path, None).changing(format!("tables/{}.json", table.name), Some(text));
            let shown = probe.shown(std::slice::from_ref(&variation), &[]);
            found.push(variation.at(shown));
        }
    }
    found
}

/// An address where nothing is, and error pages that no page fills.
pub(super) fn of_errors(small: &Small) -> Vec<Variation> {
    let nothing = Variation::new(Rank::Counts, "an address where nothing is".to_owned());
    let mut found = vec![nothing.at([format!("/{MADE_UP}/nothing-is-here/")])];
    if !small.world.site.config.errors.is_empty() {
        let bare = Variation::new(Rank::Missing, "errors that no page fills".to_owned());
        let pages = error_statuses(&small.world).into_iter().map(|status| format!("/{status}.html"));
        found.extend(with(bare, small, &["errors"], None).map(|bare| bare.at(pages)));
    }
    found
}

/// Searches without and with odd words.
pub(super) fn of_searches(small: &Small) -> Vec<Variation> {
    let Some(search) = &small.world.site.config.search else { return Vec::new() };
    let at = |words: &str, query: &str| {
        let variation = Variation::new(Rank::Counts, words.to_owned());
        variation.at([format!("{}?q={query}", encoded(&search.address.text))])
    };
    let none = at("a search without results", "zzrehearsalzz");
    vec![
        at("a search without words", ""),
        Variation { is_less: true, is_empty: true, ..none },
        at("a search for markup and quotes", "%3Cb%3E%22Tom%27s%22"),
    ]
}
