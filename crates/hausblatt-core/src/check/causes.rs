//! Causes before effects: one mistake is one report. What follows from something else that is reported is left out.

use std::sync::Arc;

use hausblatt_lang::text::code::Code;
use hausblatt_lang::text::codes as lang_codes;
use hausblatt_lang::text::diagnostic::{Diagnostic, Severity};
use hausblatt_lang::text::source::Place;
use hausblatt_lang::text::suggest::is_slip;
use rustc_hash::{FxHashMap, FxHashSet};

use crate::analysis::content_refs::has_unknown_trays;
use crate::analysis::needs::{Demands, Need};
use crate::check::Finding;
use crate::check::lost::{lost_collections, lost_names, lost_slugs};
use crate::check::named::{
    asked, called, caller, gives, is_of_configuration, is_of_content, line_of, media_of, quoted, stem_of,
};
use crate::check::rules::{
    bad_markup, blank_page, broken_anchor, broken_link, dead_file, layout_without_styles, misnamed_template,
    missing_file, moved_element, no_front_page, no_source, no_text, site_needs, stray_end, unknown_theme_folder,
    unset_property,
};
use crate::model::content::ContentId;
use crate::schema::config;
use crate::text::codes;
use crate::themes::theme;
use crate::world::World;

/// Leaves out what follows from something else that was found.
pub(super) fn leave_out_effects(world: &World, found: &mut Vec<Finding>) {
    // What a site lacks stops no page by itself.
    let stops =
        |finding: &Finding| finding.diagnostic.is_error() && finding.diagnostic.code != site_needs::MISSING.code.name;
    let had_error = found.iter().any(stops);
    if let Some(at) = found.iter().position(|finding| loses_parents(&finding.diagnostic)) {
        return leave_out_below(found, at, follows_from_manifests);
    }
    let lost_needs = leave_out_what_is_needed(world, found);
    let causes = Causes::of(world, found);
    causes.say_who_gives(found);
    let first = found.iter().position(|finding| loses_addresses(&finding.diagnostic));
    let place = first.and_then(|at| found[at].diagnostic.place.clone());
    if let Some(at) = first {
        // What is named after a folder of content is one of its collections.
        let lost = lost_collections(found);
        let is_one = |it: &Diagnostic| it.code == lang_codes::UNKNOWN_NAME.name && lost.contains(quoted(&it.message));
        let is_lost = |it: &Diagnostic| is_one(it) || (is_in_themes(it) && waits_for(&lost_needs, it));
        leave_out_below(found, at, |diagnostic| follows_from_configuration(diagnostic) || is_lost(diagnostic));
    }
    // What others come of does not come of them.
    let is_first = |it: &Finding| it.diagnostic.is_error() && it.diagnostic.place == place && place.is_some();
    let is_effect = |it: &Finding| !is_first(it) && causes.explain(world, it);
    let (effects, kept): (Vec<Finding>, Vec<Finding>) = std::mem::take(found).into_iter().partition(is_effect);
    // Whatever is wrong, something is said.
    *found = if kept.is_empty() { effects } else { kept };
    // Pages that stop are an error, whatever stops them.
    if had_error && !found.iter().any(|finding| finding.diagnostic.is_error()) {
        let cause = found.iter_mut().find(|finding| EXPLAINING.iter().any(|code| code.name == finding.diagnostic.code));
        if let Some(cause) = cause {
            cause.diagnostic.severity = Severity::Error;
        }
    }
}

/// What is wrong in the files of themes for want of what their manifests say that they need: that is one report. Returns the
/// names of what configuration or content themselves say to be missing: that is the report for it, with what was meant.
fn leave_out_what_is_needed(world: &World, found: &mut Vec<Finding>) -> FxHashSet<String> {
    let (mut missing, without) = Demands::of(world).missing(world);
    let elsewhere: Vec<&Diagnostic> =
        found.iter().map(|finding| &finding.diagnostic).filter(|it| it.place.is_some() && !is_in_themes(it)).collect();
    let is_told = |need: &Need| {
        let names = need.names();
        let is_it =
            |text: &str| names.contains(&text) || text.split_once(':').is_some_and(|(_, id)| names.contains(&id));
        elsewhere.iter().any(|diagnostic| match need {
            Need::Media(_) => diagnostic.code == codes::MISSING_MEDIA.name,
            _ => diagnostic.message.split('"').skip(1).step_by(2).any(is_it),
        })
    };
    let told: Vec<String> = missing.keys().filter(|need| is_told(need)).map(Need::path).collect();
    let is_below = |need: &Need| {
        let path = need.path();
        told.iter().any(|told| path == *told || path.starts_with(&format!("{told}.")))
    };
    let names = |need: &Need| need.names().into_iter().map(str::to_owned).collect::<Vec<_>>();
    let lost = missing.keys().filter(|need| is_below(need)).flat_map(names).collect();
    missing.retain(|need, _| !is_below(need));
    let report = site_needs::report(world, &missing);
    found.retain_mut(|finding| {
        if finding.diagnostic.code != site_needs::MISSING.code.name {
            return true;
        }
        report.clone().map(|report| finding.diagnostic = report).is_some()
    });
    let named: FxHashSet<String> = missing.keys().flat_map(names).collect();
    let of_without: FxHashSet<String> = without.iter().flat_map(names).collect();
    found.retain(|finding| {
        let diagnostic = &finding.diagnostic;
        let has = |codes: &[&Code]| codes.iter().any(|code| code.name == diagnostic.code);
        let is_known = has(&[&dead_file::CHECK.code]) || has(OF_WITHOUT);
        !is_in_themes(diagnostic)
            || !(waits_for(&named, diagnostic) || (is_known && waits_for(&of_without, diagnostic)))
    });
    lost
}

fn is_in_themes(diagnostic: &Diagnostic) -> bool {
    diagnostic.place.as_ref().is_some_and(|place| place.path.starts_with("themes/"))
}

/// Whether something is wrong for want of something with one of these names: it is named, or a file is named for it.
fn waits_for(names: &FxHashSet<String>, diagnostic: &Diagnostic) -> bool {
    let is_of = |text: &str| text.split([':', '/', '.']).chain([text]).any(|part| names.contains(part));
    if diagnostic.code == dead_file::CHECK.code.name {
        return diagnostic.place.as_ref().is_some_and(|place| is_of(&place.path));
    }
    let has = |codes: &[&Code]| codes.iter().any(|code| code.name == diagnostic.code);
    has(NEEDING) && diagnostic.message.split('"').skip(1).step_by(2).any(is_of)
}

/// What is said of a value that is not there, without stopping a page: a theme that does without it knows.
const OF_WITHOUT: &[&Code] = &[&lang_codes::MISSING_ON_SITE, &lang_codes::UNKNOWN_FIELD];

/// What may be wrong for want of something that a site has to have.
const NEEDING: &[&Code] = &[
    &lang_codes::UNKNOWN_NAME,
    &lang_codes::UNKNOWN_MEMBER,
    &lang_codes::UNKNOWN_FIELD,
    &lang_codes::DEAD_REFERENCE,
    &lang_codes::MISSING_ON_SITE,
    &broken_link::CHECK.code,
    &missing_file::CHECK.code,
];

/// What follows from something else that is reported in the same file, not far above it, and from what.
const BELOW: &[(&Code, &Code)] = &[
    (&lang_codes::STRAY_DIVIDER, &lang_codes::UNCLOSED_TAG),
    (&lang_codes::STRAY_DIVIDER, &lang_codes::UNKNOWN_STATEMENT),
    (&stray_end::CHECK.code, &bad_markup::CHECK.code),
    (&stray_end::CHECK.code, &moved_element::CHECK.code),
];
/// So many bytes are not far.
const NEAR: u32 = 1000;

/// Whether one place is behind another, and not far from it.
fn is_below(effect: &Place, cause: &Place) -> bool {
    effect.path == cause.path && (cause.span.start..cause.span.start + NEAR).contains(&effect.span.start)
}

/// Whether one place is a part of another.
fn is_inside(inner: &Place, outer: &Place) -> bool {
    inner.path == outer.path && inner.span.start >= outer.span.start && inner.span.end <= outer.span.end
}

/// Warnings whose effects are errors.
const EXPLAINING: &[&Code] = &[
    &codes::MISPLACED_CONTENT,
    &codes::UNDECLARED_FIELD,
    &codes::HIDDEN_COLLECTION,
    &unknown_theme_folder::CHECK.code,
];

/// What is reported and has effects elsewhere.
struct Causes<'w> {
    /// Not all is read that may use a file: which files nothing uses can't be known.
    unread: bool,
    /// The site begins nowhere.
    no_front: bool,
    /// Its front names what is not there.
    front_is_dead: bool,
    /// The last parts of addresses that content lost.
    slugs: FxHashSet<&'w str>,
    /// The names that prepare files would make.
    prepared: FxHashSet<String>,
    /// The collections that content is in and the site does not declare.
    collections: FxHashSet<String>,
    /// The fields that much content has and nothing declares, with the addresses of that content.
    undeclared: FxHashMap<String, FxHashSet<&'w str>>,
    /// The names that the configuration uses and nothing has.
    configured: FxHashSet<String>,
    /// The settings that theme files ask for and no manifest declares.
    settings: FxHashSet<String>,
    /// The names that a partial or a component uses and does not take, each with its file.
    untaken: Vec<(Arc<str>, String)>,
    /// The partials whose front matter can't be read.
    unread_partials: Vec<Arc<str>>,
    /// What is nearest to a name that is unknown.
    meant: FxHashSet<String>,
    /// The collections whose names prepared values have.
    hidden: FxHashSet<String>,
    /// The missing files that content and configuration name.
    missing: FxHashSet<String>,
    /// Where an image or an asset is not there.
    no_image: Vec<Arc<str>>,
    /// An item of a menu shows nothing.
    has_empty_label: bool,
    /// The files that nothing uses, but for what only another file calls.
    dead: FxHashSet<Arc<str>>,
    /// What has effects further down in its file.
    above: Vec<(&'static str, Place)>,
    /// The files whose front matter has nearly "takes".
    untaking: FxHashSet<Arc<str>>,
    /// Content by its path, where that is asked.
    contents: FxHashMap<Arc<str>, ContentId>,
    /// Where fields are used that no content has.
    unknown_fields: Vec<Place>,
    /// The texts that are written where a list is meant.
    lists: FxHashSet<String>,
    /// The ids that content files would have, were their names ids.
    misnamed: FxHashSet<String>,
    /// The folders of components that have an error in their manifest, or no file to render.
    components: FxHashSet<String>,
    /// The folders of themes that are nearly called as they should be.
    folders: Vec<Arc<str>>,
    /// A group of the configuration is nearly called "collections".
    has_no_collections: bool,
    /// The routes with a table of which rows have no address.
    routes: FxHashSet<String>,
    /// The layouts that print nothing of what they are around.
    no_slot: Vec<Arc<str>>,
    /// The layouts that print no links to styles and scripts.
    no_styles: Vec<Arc<str>>,
    /// A style sheet is not there, or where nobody looks for it.
    loses_styles: bool,
}

impl<'w> Causes<'w> {
    fn of(world: &'w World, found: &[Finding]) -> Self {
        let has = |code: &Code| found.iter().any(|finding| finding.diagnostic.code == code.name);
        let of_code = |code: &'static Code| {
            found.iter().map(|finding| &finding.diagnostic).filter(|diagnostic| diagnostic.code == code.name)
        };
        let lost_content = [&codes::MISPLACED_CONTENT, &codes::NO_DATE, &codes::NO_TERM, &codes::SAME_ADDRESS];
        let lost_layout = has(&lang_codes::NOTHING_INHERITED) || has(&codes::UNKNOWN_LAYOUT);
        let of_theme = |problem: &Diagnostic| problem.is_error() && !is_of_content(problem);
        let no_front = has(&no_front_page::CHECK.code);
        let path_of = |diagnostic: &Diagnostic| Some(diagnostic.place.as_ref()?.path.clone());
        let asks_for_content = has(&codes::UNDECLARED_FIELD) || has(&codes::UNKNOWN_TRAY);
        let contents = world.site.ids().filter(|_| asks_for_content).map(|(id, content)| (content.path().clone(), id));
        let contents: FxHashMap<Arc<str>, ContentId> = contents.collect();
        let mut undeclared: FxHashMap<String, FxHashSet<&str>> = FxHashMap::default();
        for diagnostic in of_code(&codes::UNDECLARED_FIELD) {
            let id = path_of(diagnostic).and_then(|path| contents.get(&path).copied());
            let addresses = undeclared.entry(quoted(&diagnostic.message).to_owned()).or_default();
            addresses.extend(id.and_then(|id| world.site.content(id).address.as_deref()));
        }
        undeclared.retain(|_, addresses| addresses.len() > 1);
        let configured = of_code(&lang_codes::DEAD_REFERENCE).filter(|it| is_of_configuration(it));
        let tables: Vec<Arc<str>> = of_code(&codes::NO_SLUG).filter_map(path_of).collect();
        let is_of_table = |name: &str| tables.iter().any(|path| path.split(['/', '.']).nth(1) == Some(name));
        let routes =
            world.site.config.routes.iter().filter(|route| route.each.as_ref().is_some_and(|it| is_of_table(&it.text)));
        let of_lineage = |diagnostic: &&Diagnostic| diagnostic.message.starts_with("the lineage ");
        let untaken = of_code(&lang_codes::UNKNOWN_NAME).filter_map(|diagnostic| {
            let path =
                path_of(diagnostic).filter(|path| path.contains("/partials/") || path.contains("/components/"))?;
            Some((path, quoted(&diagnostic.message).to_owned()))
        });
        Self {
            unread: lost_content.into_iter().any(has) || lost_layout || world.problems.iter().any(of_theme),
            no_front,
            front_is_dead: world.site.config.front.is_some() && no_front && configured.clone().next().is_some(),
            slugs: lost_slugs(world, found),
            prepared: lost_names(world),
            collections: lost_collections(found),
            undeclared,
            configured: configured.map(|diagnostic| quoted(&diagnostic.message).to_owned()).collect(),
            settings: of_code(&lang_codes::UNKNOWN_MEMBER)
                .filter(of_lineage)
                .map(|diagnostic| quoted(&diagnostic.message).to_owned())
                .collect(),
            untaken: untaken.collect(),
            unread_partials: of_code(&codes::FRONT_MATTER).filter_map(path_of).collect(),
            meant: of_code(&lang_codes::UNKNOWN_NAME)
                .filter_map(|diagnostic| Some(quoted(diagnostic.help.as_deref()?).to_owned()))
                .collect(),
            hidden: of_code(&codes::HIDDEN_COLLECTION).map(|it| quoted(&it.message).to_owned()).collect(),
            missing: of_code(&codes::MISSING_MEDIA).filter_map(media_of).collect(),
            dead: of_code(&dead_file::CHECK.code).filter(|it| caller(it).is_none()).filter_map(path_of).collect(),
            above: found
                .iter()
                .map(|finding| &finding.diagnostic)
                .filter(|it| BELOW.iter().any(|(_, cause)| cause.name == it.code))
                .filter_map(|it| Some((it.code, it.place.clone()?)))
                .collect(),
            untaking: of_code(&codes::UNKNOWN_KEY)
                .filter(|it| it.help.as_deref() == Some("did you mean \"takes\"?"))
                .filter_map(path_of)
                .collect(),
            contents,
            unknown_fields: of_code(&lang_codes::UNKNOWN_FIELD).filter_map(|it| it.place.clone()).collect(),
            no_image: of_code(&lang_codes::DEAD_REFERENCE)
                .filter(|it| it.message.starts_with("there is no image"))
                .chain(of_code(&codes::UNKNOWN_ASSET))
                .filter_map(path_of)
                .collect(),
            has_empty_label: of_code(&codes::WRONG_VALUE).any(|it| it.message.starts_with("this label is empty")),
            lists: of_code(&codes::LIST_AS_TEXT)
                .filter_map(|it| Some(it.message.split('"').nth(3)?.to_owned()))
                .collect(),
            misnamed: of_code(&codes::BAD_NAME)
                .filter(|it| is_of_content(it))
                .map(|it| stem_of(it).to_ascii_lowercase())
                .collect(),
            components: found
                .iter()
                .map(|finding| &finding.diagnostic)
                .filter(|it| it.is_error() || it.message.ends_with("has no file to render"))
                .filter_map(|it| Some(it.place.as_ref()?.path.strip_suffix("/component.toml")?.to_owned()))
                .collect(),
            folders: of_code(&unknown_theme_folder::CHECK.code).filter_map(path_of).collect(),
            has_no_collections: of_code(&codes::UNKNOWN_KEY)
                .any(|it| it.help.as_deref() == Some("did you mean \"collections\"?")),
            routes: routes.map(|route| route.name.text.clone()).collect(),
            no_slot: of_code(&codes::LAYOUT_WITHOUT_SLOT).filter_map(path_of).collect(),
            no_styles: of_code(&layout_without_styles::CHECK.code).filter_map(path_of).collect(),
            loses_styles: has(&unknown_theme_folder::CHECK.code)
                || of_code(&codes::UNKNOWN_ASSET)
                    .chain(of_code(&missing_file::CHECK.code))
                    .any(|it| quoted(&it.message).ends_with(".css")),
        }
    }

    /// Whether something follows from what is reported elsewhere.
    fn explain(&self, world: &World, finding: &Finding) -> bool {
        let diagnostic = &finding.diagnostic;
        let name = quoted(&diagnostic.message);
        let code = diagnostic.code;
        let is = |other: &Code| code == other.name;
        let place = diagnostic.place.as_ref();
        let is_here = |cause: &Code| {
            let near = |other: &Place| place.is_some_and(|place| is_below(place, other));
            self.above.iter().any(|(code, other)| *code == cause.name && near(other))
        };
        if BELOW.iter().any(|(effect, cause)| is(effect) && is_here(cause)) {
            return true;
        }
        if is(&unset_property::CHECK.code) {
            return self.loses_styles;
        }
        if is(&no_source::CHECK.code) {
            return self.is_in_component(diagnostic) || show(world, &self.no_image, finding);
        }
        if is(&no_text::CHECK.code) {
            return self.is_in_component(diagnostic)
                || self.has_empty_label && line_of(world, diagnostic).contains("label");
        }
        if is(&dead_file::CHECK.code) && caller(diagnostic).is_some_and(|path| self.dead.contains(path)) {
            return true;
        }
        if is(&dead_file::CHECK.code) || is(&misnamed_template::CHECK.code) {
            return self.unread
                || self.undeclared.contains_key(stem_of(diagnostic))
                || self.is_in_component(diagnostic);
        }
        if is(&broken_link::CHECK.code) {
            let path = name.split(['?', '#']).next().unwrap_or("");
            let last = path.trim_end_matches('/').rsplit('/').next().unwrap_or("");
            return self.slugs.contains(last) || self.no_front && path == "/";
        }
        if is(&no_front_page::CHECK.code) {
            return self.front_is_dead;
        }
        if is(&lang_codes::UNKNOWN_NAME) {
            let in_prepare = place.is_some_and(|place| place.path.contains("/prepare/"));
            return !in_prepare && self.prepared.contains(name)
                || self.collections.contains(name)
                || self.is_in_component(diagnostic)
                || place.is_some_and(|place| self.untaking.contains(&place.path));
        }
        if is(&lang_codes::DEAD_REFERENCE) {
            let of = name.split_once(':').map_or(name, |(_, rest)| rest);
            return self.collections.contains(of.split('/').next().unwrap_or(of))
                || name
                    .strip_prefix("route:")
                    .is_some_and(|rest| self.routes.contains(rest.split('/').next().unwrap_or("")))
                || place.is_some_and(|place| self.unknown_fields.iter().any(|it| is_inside(it, place)))
                || self.misnamed.contains(of.rsplit('/').next().unwrap_or(of));
        }
        if is(&lang_codes::MISSING_ON_SITE) {
            return self.collections.contains(name)
                || self.undeclared.contains_key(name)
                || self.configured.contains(name);
        }
        if is(&codes::UNKNOWN_SETTING) {
            return self.settings.contains(name);
        }
        if is(&codes::UNREAD_VALUE) {
            return self.meant.contains(name);
        }
        if is(&codes::UNDECLARED_TERM) {
            let value = diagnostic.message.split('"').nth(3).unwrap_or("");
            return self.lists.contains(value);
        }
        if is(&codes::MISSING_KEY) {
            return self.has_no_collections && diagnostic.message.starts_with("[collections.");
        }
        if is(&lang_codes::UNKNOWN_COMPONENT) {
            let is_it = |folder: &String| folder.rsplit('/').next() == Some(name);
            return self.components.iter().any(is_it) || self.is_in_folder(world, "components", name);
        }
        if is(&lang_codes::UNKNOWN_PARTIAL) {
            return self.is_in_folder(world, "partials", name.split('/').next().unwrap_or(name));
        }
        if is(&codes::UNKNOWN_ASSET) {
            return self.is_in_folder(world, "assets", name);
        }
        if is(&lang_codes::UNKNOWN_PARAMETER) || is(&lang_codes::UNKNOWN_FIELD) {
            return self.gives_what_is_used(diagnostic)
                || self.unread_partials.iter().any(|path| called(diagnostic, path).is_some())
                || is(&lang_codes::UNKNOWN_FIELD) && self.undeclared.contains_key(name);
        }
        if is(&lang_codes::UNKNOWN_MEMBER) {
            return self.hidden.contains(asked(world, diagnostic).unwrap_or(""));
        }
        if is(&missing_file::CHECK.code) {
            return media_of(diagnostic).is_some_and(|path| self.missing.contains(&path));
        }
        if is(&blank_page::CHECK.code) {
            return show(world, &self.no_slot, finding);
        }
        if is(&lang_codes::UNLINKED_ASSET) {
            return show(world, &self.no_styles, finding);
        }
        if is(&codes::UNKNOWN_TRAY) {
            let content = place.and_then(|place| self.contents.get(&place.path));
            return content.is_some_and(|id| has_unknown_trays(world, *id));
        }
        is(&lang_codes::BAD_VALUE) && self.reads_undeclared(world, finding)
    }

    /// Whether something is in the folder of a component that has nothing to render or no fields.
    fn is_in_component(&self, diagnostic: &Diagnostic) -> bool {
        let folder = diagnostic.place.as_ref().and_then(|place| place.path.rsplit_once('/')).map(|(folder, _)| folder);
        let is_manifest = diagnostic.message.ends_with("has no file to render");
        !is_manifest && folder.is_some_and(|folder| self.components.contains(folder))
    }

    /// Whether a file of this name is in a folder that should be called so.
    fn is_in_folder(&self, world: &World, folder: &str, name: &str) -> bool {
        let nearly = |path: &&Arc<str>| {
            let written = path.split('/').nth(2).unwrap_or("");
            is_slip(&written.to_ascii_lowercase(), folder) || written.eq_ignore_ascii_case(folder)
        };
        let below = |path: &Arc<str>| {
            let theme: Vec<&str> = path.split('/').take(3).collect();
            let begins = format!("{}/{name}", theme.join("/"));
            world.snapshot.below(&begins).next().is_some()
        };
        self.folders.iter().filter(nearly).any(below)
    }

    /// Whether what a call gives, or what is placed has, is used in the called file under this name, and taken under none.
    fn gives_what_is_used(&self, diagnostic: &Diagnostic) -> bool {
        self.untaken.iter().any(|(path, name)| gives(diagnostic, path, name))
    }

    /// Says of an unknown name that all give it, where they do.
    fn say_who_gives(&self, found: &mut [Finding]) {
        let of_calls = [lang_codes::UNKNOWN_PARAMETER.name, lang_codes::UNKNOWN_FIELD.name];
        let given: Vec<(&Arc<str>, &String)> = self
            .untaken
            .iter()
            .filter(|(path, name)| {
                let calls = found.iter().map(|finding| &finding.diagnostic).filter(|it| of_calls.contains(&it.code));
                calls.into_iter().any(|call| gives(call, path, name))
            })
            .map(|(path, name)| (path, name))
            .collect();
        for finding in found.iter_mut().filter(|it| it.diagnostic.code == lang_codes::UNKNOWN_NAME.name) {
            let diagnostic = &mut finding.diagnostic;
            let Some(place) = &diagnostic.place else { continue };
            if given.iter().any(|(path, name)| **path == place.path && **name == quoted(&diagnostic.message)) {
                let help = match place.path.contains("/components/") {
                    true => "it is given, and component.toml declares no such field",
                    false => "calls give it: add it under \"takes\"",
                };
                diagnostic.help = Some(help.to_owned());
                diagnostic.fix = None;
            }
        }
    }

    /// Whether a value of the wrong kind comes of a field that much content has and nothing declares.
    fn reads_undeclared(&self, world: &World, finding: &Finding) -> bool {
        let file = finding.diagnostic.place.as_ref().and_then(|place| world.snapshot.file(&place.path));
        let Some(text) = file.and_then(|file| file.text()) else { return false };
        self.undeclared.iter().any(|(name, addresses)| {
            // A view is one level below its entry.
            let above = |address: &str| address.trim_end_matches('/').rfind('/').map(|at| address[..=at].to_owned());
            let is_one = |address: &String| {
                addresses.contains(address.as_str())
                    || above(address).is_some_and(|above| addresses.contains(above.as_str()))
            };
            text.contains(&format!(".{name}")) && !finding.addresses.is_empty() && finding.addresses.iter().all(is_one)
        })
    }
}

/// Whether all addresses of something are those that one of these files has an effect on.
fn show(world: &World, files: &[Arc<str>], finding: &Finding) -> bool {
    let ids = world.lineage.ids().filter(|(_, file)| files.contains(&file.node.path));
    let reached = ids.flat_map(|(id, _)| world.reach(id)).map(|(request, _)| request.address.as_str());
    let reached: FxHashSet<&str> = if files.is_empty() { FxHashSet::default() } else { reached.collect() };
    !finding.addresses.is_empty() && finding.addresses.iter().all(|address| reached.contains(address.as_str()))
}

/// Whether the lineage lacks files because of what a manifest says.
fn loses_parents(diagnostic: &Diagnostic) -> bool {
    let of_manifest = diagnostic.place.as_ref().is_some_and(|place| place.path.ends_with(theme::MANIFEST));
    let is_parent =
        || diagnostic.code == codes::UNKNOWN_KEY.name && diagnostic.help.as_deref() == Some("did you mean \"parent\"?");
    of_manifest && (diagnostic.code == codes::BAD_ROOT.name || is_parent())
}

fn follows_from_manifests(diagnostic: &Diagnostic) -> bool {
    !is_of_configuration(diagnostic)
        || ["unknown-setting", "no-error-page", "no-fallback", "no-template"].contains(&diagnostic.code)
}

/// Whether the site lacks addresses, fields or names because of what its configuration says.
fn loses_addresses(diagnostic: &Diagnostic) -> bool {
    let is_of_site = diagnostic.place.as_ref().is_some_and(|place| &*place.path == config::FILE);
    let is_reference = diagnostic.code == lang_codes::DEAD_REFERENCE.name;
    let loses = ["there is no collection", "there is no table"].iter().any(|it| diagnostic.message.starts_with(it));
    is_of_site && diagnostic.is_error() && (loses || !is_reference)
}

fn follows_from_configuration(diagnostic: &Diagnostic) -> bool {
    const CODES: &[&Code] = &[
        &lang_codes::DEAD_REFERENCE,
        &lang_codes::MISSING_ON_SITE,
        &lang_codes::UNKNOWN_FIELD,
        &codes::MISPLACED_CONTENT,
        &codes::SAME_ADDRESS,
        &codes::SAME_OUTPUT,
        &codes::UNDECLARED_FIELD,
        &codes::UNDECLARED_TERM,
        &broken_anchor::CHECK.code,
        &broken_link::CHECK.code,
        &dead_file::CHECK.code,
        &misnamed_template::CHECK.code,
        &no_front_page::CHECK.code,
    ];
    // What has a certain fix of its own is a slip of its own.
    diagnostic.fix.is_none() && CODES.iter().any(|code| code.name == diagnostic.code)
}

/// Leaves out what follows from one of the findings, and says there how much that is.
fn leave_out_below(found: &mut Vec<Finding>, cause: usize, is_effect: impl Fn(&Diagnostic) -> bool) {
    let cause = found[cause].diagnostic.clone();
    let before = found.len();
    found.retain(|finding| finding.diagnostic == cause || !is_effect(&finding.diagnostic));
    let count = before - found.len();
    if let Some(finding) = found.iter_mut().find(|finding| finding.diagnostic == cause).filter(|_| count > 0) {
        let more = if count == 1 { "1 more problem".to_owned() } else { format!("{count} more problems") };
        finding.diagnostic.message.push_str(&format!("; {more} may come of that"));
    }
}

#[cfg(test)]
mod tests {
    use crate::check::tests::{all_told, told};

    #[test]
    fn effects_are_left_out() {
        let prepare = [
            ("themes/t/prepare/all.let", "lte beds = 3\nlet rows = 2\n"),
            ("themes/t/templates/page.html", "<p>+{beds}+{rows}+{bads}</p>"),
        ];
        assert_eq!(told("unknown-name", &prepare).len(), 1);
        assert_eq!(all_told(&[("themes/t/prepare/all.let", "let beds = beds\n")]).len(), 1);
        let renamed = [
            (
                "hausblatt.toml",
                "[site]\ntitle = \"Seeds\"\ntheme = \"t\"\n[front]\npage = \"home\"\n[collections.note]\naddress = \"/notes/{slug}/\"\n[taxonomies.bed]\nof = [\"notes\"]\naddress = \"/beds/{term}/\"\n[menus]\nmain = [ { to = \"collection:notes\" } ]\n",
            ),
            ("content/notes/frost.md", "---\nbed: [south]\n---\nCold."),
            ("themes/t/templates/page.html", "<p>1</p>+{each n in notes}+{n.title}+{end}"),
        ];
        assert_eq!(
            all_told(&renamed),
            ["hausblatt.toml dead-reference: there is no collection \"notes\"; 3 more problems may come of that"]
        );
        let dead = [
            ("themes/t/partials/a.html", "+{partial \"b\"}"),
            ("themes/t/partials/b.html", "<p>1</p>"),
            ("themes/t/partials/c.html", "+{if today}+{partial \"d\"}+{end}"),
            ("themes/t/partials/d.html", "+{if today}+{partial \"c\"}+{end}"),
        ];
        assert_eq!(
            told("dead-file", &dead),
            ["themes/t/partials/a.html:1", "themes/t/partials/c.html:1", "themes/t/partials/d.html:1"]
        );
        // The name begins with as many bytes as a date has, cut within a character.
        assert_eq!(told("misplaced-content", &[("content/beds/aäääää-b.md", "x")]).len(), 1);
        let theme = [
            ("themes/t/hausblatt-theme.toml", "[theme]\nparnet = \"u\"\n"),
            ("themes/t/templates/page.html", "<p>+{beds}</p>"),
        ];
        assert_eq!(
            all_told(&theme),
            [
                "themes/t/hausblatt-theme.toml unknown-key: unknown key \"parnet\" in [theme]; 1 more problem may come of that"
            ]
        );
    }
}
