//! What themes say that they need from a site: the site lacks it, they need more, or they need it no longer.

use std::collections::BTreeMap;

use hausblatt_lang::text::code::Code;
use hausblatt_lang::text::diagnostic::{Diagnostic, Severity};
use hausblatt_lang::text::source::Place;
use hausblatt_lang::text::suggest::{did_you_mean, joined};

use crate::analysis::needs::{Demands, GROUPS, LISTS, Need, ReadAt, declared, read_from_site};
use crate::check::{Check, Look};
use crate::model::content::Section;
use crate::world::World;

/// The site lacks something.
pub(crate) const MISSING: Check = Check {
    code: Code {
        name: "missing-needs",
        severity: Severity::Error,
        about: "the site lacks what its theme needs",
        explanation: "The manifest of a theme says under [needs] what it reads from a site. What is written there for a collection, a taxonomy, a route or a field is what hausblatt.toml has to say, without \"needs.\" in front; menus, keys of [site] and content are named. Everything that is wrong for want of it is in this one report.",
    },
    look: Look::Site(missing),
};

/// Themes read something that their manifests do not name.
pub(crate) const UNDECLARED: Check = Check {
    code: Code {
        name: "undeclared-need",
        severity: Severity::Warning,
        about: "a theme reads from the site what its manifest does not name",
        explanation: "A manifest with [needs] names all that its theme reads from a site, so that another site's owner knows before anything fails. hausblatt needs --write brings it up to date.",
    },
    look: Look::Site(undeclared),
};

/// A manifest names something that its theme does not read.
pub(crate) const UNUSED: Check = Check {
    code: Code {
        name: "unused-need",
        severity: Severity::Warning,
        about: "a manifest names what its theme does not read from the site",
        explanation: "Whoever takes the theme would write it for nothing. hausblatt needs --write brings [needs] up to date.",
    },
    look: Look::Site(unused),
};

/// So many missing things are named in the message.
const NAMED: usize = 6;

fn missing(world: &World) -> Vec<Diagnostic> {
    report(world, &Demands::of(world).missing(world).0).into_iter().collect()
}

/// The one report of what is missing.
pub(crate) fn report(world: &World, missing: &BTreeMap<Need, Place>) -> Option<Diagnostic> {
    let is_inside = |need: &Need| {
        let path = need.path();
        missing.keys().any(|other| *other != *need && path.starts_with(&format!("{}.", other.path())))
    };
    let outer: Vec<&Need> = missing.keys().filter(|need| !is_inside(need)).collect();
    let place = missing.values().next()?;
    let mut named: Vec<String> = outer.iter().take(NAMED).map(|need| need.words()).collect();
    let more = outer.len().saturating_sub(NAMED);
    if more > 0 {
        named.push(format!("{more} more"));
    }
    let theme = &world.lineage.active().name;
    let message = format!("{theme} needs {}, which this site lacks", joined(&named, "and"));
    let near = match outer.as_slice() {
        [need] => near(world, need),
        _ => None,
    };
    let help = near.unwrap_or_else(|| "the lines to add: hausblatt needs --missing".to_owned());
    Some(Diagnostic::of(&MISSING.code, message).help(help).at(&place.path, place.span))
}

/// What the site has of the same sort under nearly the same name.
fn near(world: &World, need: &Need) -> Option<String> {
    let site = &world.site;
    let (name, all): (&str, Vec<&str>) = match need {
        Need::Collection(name) => (name, site.collections.iter().map(|it| it.config.name.text.as_str()).collect()),
        Need::Taxonomy(name) => (name, site.taxonomies.iter().map(|it| it.config.name.text.as_str()).collect()),
        Need::Table(name) => (name, site.tables.iter().map(|it| it.name.as_str()).collect()),
        Need::Menu(name) => (name, site.menus.iter().map(|(menu, _)| menu.as_str()).collect()),
        Need::Route(name) => (name, site.routes.iter().map(|it| it.config.name.text.as_str()).collect()),
        Need::SiteKey(name) => (name, site.config.site.iter().map(|(key, _)| key.as_str()).collect()),
        Need::Page(id) => {
            let pages = site.contents.iter().filter(|content| content.home == Section::Pages);
            (id, pages.map(|page| &*page.id).collect())
        }
        _ => return None,
    };
    did_you_mean(name, all)
}

fn undeclared(world: &World) -> Vec<Diagnostic> {
    if world.lineage.themes.iter().all(|theme| theme.needs.is_none()) {
        return Vec::new();
    }
    let known = Demands::of(world).all;
    let report = |(need, read): (Need, ReadAt)| {
        let place = read.places.into_iter().next()?;
        // Settings are declared by the themes themselves.
        if matches!(need, Need::Setting(_)) || known.contains_key(&need) {
            return None;
        }
        let message = format!("no manifest says that {} is needed", need.words());
        let help = "bring [needs] up to date: hausblatt needs --write";
        Some(Diagnostic::of(&UNDECLARED.code, message).help(help).at(&place.path, place.span))
    };
    read_from_site(world).into_iter().filter_map(report).collect()
}

fn unused(world: &World) -> Vec<Diagnostic> {
    let active = world.lineage.active();
    let Some(entries) = &active.needs else { return Vec::new() };
    let mut found = Vec::new();
    // What a file with an error reads is not known.
    let in_theme = |problem: &Diagnostic| problem.place.as_ref().is_some_and(|place| place.path.starts_with("themes/"));
    let is_unknown = world.problems.iter().any(|problem| problem.is_error() && in_theme(problem));
    for entry in entries.iter().filter(|entry| !GROUPS.contains(&&*entry.key)) {
        let message = format!("[needs] has no key \"{}\"", entry.key);
        let help = did_you_mean(&entry.key, GROUPS.iter().copied())
            .unwrap_or_else(|| format!("its keys are {}", GROUPS.join(", ")));
        found.push(Diagnostic::of(&UNUSED.code, message).help(help).at(&active.manifest, entry.span));
    }
    for entry in entries.iter().filter(|entry| GROUPS.contains(&&*entry.key)) {
        let is_list = LISTS.contains(&&*entry.key);
        let fits = match is_list {
            true => entry.data.as_list().is_some_and(|members| members.iter().all(|member| member.as_text().is_some())),
            false => entry.data.as_map().is_some(),
        };
        if !fits {
            let wanted = if is_list { "a list of texts" } else { "a group of keys" };
            let message = format!("\"{}\" in [needs] must be {wanted}, so nothing is known of it", entry.key);
            let help = "docs/files.md shows how it is written; hausblatt needs --write writes it";
            found.push(Diagnostic::of(&UNUSED.code, message).help(help).at(&active.manifest, entry.data.span));
        }
    }
    if is_unknown {
        return found;
    }
    let read = read_from_site(world);
    for (need, span) in declared(active).0 {
        // What the site lacks can't be seen to be read.
        if read.contains_key(&need) || !need.is_met(world) {
            continue;
        }
        let message = format!("no file of the lineage reads {}", need.words());
        let help = "take it out, or bring [needs] up to date: hausblatt needs --write";
        found.push(Diagnostic::of(&UNUSED.code, message).help(help).at(&active.manifest, span));
    }
    found
}
