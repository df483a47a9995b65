//! Causes before effects: one mistake is one report. What follows from something else that is reported is left out.

use std::sync::Arc;

use hausblatt_lang::text::code::Code;
use hausblatt_lang::text::codes as lang_codes;
use hausblatt_lang::text::diagnostic::{Diagnostic, Severity};
use hausblatt_lang::text::source::Place;
use hausblatt_lang::text::suggest::is_slip;
use rustc_hash::{FxHashMap, FxHashSet};

use crate::analysis::content_refs::has_unknown_trays;
use crate::check::Finding;
use crate::check::lost::{lost_collections, lost_names, lost_slugs};
use crate::check::named::{
    asked, called, caller, gives, is_of_configuration, is_of_content, is_unread_template, media_of, quoted, stem_of,
};
use crate::check::rules::{
    bad_markup, blank_page, broken_anchor, broken_link, dead_file, layout_without_styles, misnamed_template,
    missing_file, moved_element, no_front_page, no_source, no_text, stray_end, unknown_theme_folder,
};
use crate::schema::config;
use crate::text::codes;
use crate::themes::theme;
use crate::world::World;

/// Leaves out what follows from something else that was found.
pub(super) fn leave_out_effects(world: &World, found: &mut Vec<Finding>) {
    let had_error = found.iter().any(|finding| finding.diagnostic.is_error());
    if let Some(at) = found.iter().position(|finding| loses_parents(&finding.diagnostic)) {
        return leave_out_below(found, at, follows_from_manifests);
    }
    let causes = Causes::of(world, found);
    causes.say_who_gives(found);
    if let Some(at) = found.iter().position(|finding| loses_addresses(&finding.diagnostic)) {
        // What is named after a folder of content is one of its collections.
        let lost = lost_collections(found);
        let is_one = |it: &Diagnostic| it.code == lang_codes::UNKNOWN_NAME.name && lost.contains(quoted(&it.message));
        leave_out_below(found, at, |diagnostic| follows_from_configuration(diagnostic) || is_one(diagnostic));
    }
    let mut explained = None;
    found.retain(|finding| {
        let is_effect = causes.explain(world, finding);
        if is_effect && explained.is_none() && finding.diagnostic.is_error() {
            explained = Some(finding.diagnostic.clone());
        }
        !is_effect
    });
    // Pages that stop are an error, whatever stops them.
    if explained.is_some() && had_error && !found.iter().any(|finding| finding.diagnostic.is_error()) {
        let cause = found.iter_mut().find(|finding| EXPLAINING.iter().any(|code| code.name == finding.diagnostic.code));
        if let Some(cause) = cause {
            cause.diagnostic.severity = Severity::Error;
        }
    }
}

/// What follows from something else that is reported in the same file, and from what.
const IN_ONE_FILE: &[(&Code, &Code)] = &[
    (&lang_codes::STRAY_DIVIDER, &lang_codes::UNCLOSED_TAG),
    (&lang_codes::STRAY_DIVIDER, &lang_codes::UNKNOWN_STATEMENT),
    (&lang_codes::UNKNOWN_NAME, &codes::UNKNOWN_KEY),
    (&codes::UNREAD_VALUE, &codes::USED_BEFORE_SET),
    (&codes::UNREAD_VALUE, &lang_codes::UNCLOSED_TEXT),
    (&stray_end::CHECK.code, &bad_markup::CHECK.code),
    (&stray_end::CHECK.code, &moved_element::CHECK.code),
];

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
    undeclared: FxHashMap<String, Vec<&'w str>>,
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
    /// An image or an asset is not there.
    has_no_image: bool,
    /// An item of a menu shows nothing.
    has_empty_label: bool,
    /// A template has an ending that no request asks for.
    has_unread_template: bool,
    /// The files that nothing uses, but for what only another file calls.
    dead: FxHashSet<Arc<str>>,
    /// What is reported in which file.
    places: FxHashSet<(&'static str, Arc<str>)>,
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
    /// Rows of a table have no address.
    has_no_slug: bool,
    /// A layout prints nothing of what it is around.
    has_no_slot: bool,
    /// A layout prints no links to styles and scripts.
    has_no_styles: bool,
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
        let mut undeclared: FxHashMap<String, Vec<&str>> = FxHashMap::default();
        for diagnostic in of_code(&codes::UNDECLARED_FIELD) {
            let content =
                world.site.contents.iter().find(|content| Some(content.path()) == path_of(diagnostic).as_ref());
            let addresses = undeclared.entry(quoted(&diagnostic.message).to_owned()).or_default();
            addresses.extend(content.and_then(|content| content.address.as_deref()));
        }
        undeclared.retain(|_, addresses| addresses.len() > 1);
        let configured = found
            .iter()
            .map(|finding| &finding.diagnostic)
            .filter(|diagnostic| is_of_configuration(diagnostic) && diagnostic.code != codes::UNKNOWN_SETTING.name);
        let of_lineage = |diagnostic: &&Diagnostic| diagnostic.message.starts_with("the lineage ");
        let untaken = of_code(&lang_codes::UNKNOWN_NAME).filter_map(|diagnostic| {
            let path =
                path_of(diagnostic).filter(|path| path.contains("/partials/") || path.contains("/components/"))?;
            Some((path, quoted(&diagnostic.message).to_owned()))
        });
        Self {
            unread: lost_content.into_iter().any(has) || lost_layout || world.problems.iter().any(of_theme),
            no_front,
            front_is_dead: world.site.config.front.is_some() && no_front && has(&lang_codes::DEAD_REFERENCE),
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
            places: found.iter().filter_map(|it| Some((it.diagnostic.code, path_of(&it.diagnostic)?))).collect(),
            unknown_fields: of_code(&lang_codes::UNKNOWN_FIELD).filter_map(|it| it.place.clone()).collect(),
            has_no_image: of_code(&lang_codes::DEAD_REFERENCE).any(|it| it.message.starts_with("there is no image"))
                || has(&codes::UNKNOWN_ASSET),
            has_empty_label: of_code(&codes::WRONG_VALUE).any(|it| it.message.starts_with("this label is empty")),
            has_unread_template: of_code(&dead_file::CHECK.code).any(is_unread_template),
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
            has_no_slug: has(&codes::NO_SLUG),
            has_no_slot: has(&codes::LAYOUT_WITHOUT_SLOT),
            has_no_styles: has(&layout_without_styles::CHECK.code),
        }
    }

    /// Whether something follows from what is reported elsewhere.
    fn explain(&self, world: &World, finding: &Finding) -> bool {
        let diagnostic = &finding.diagnostic;
        let name = quoted(&diagnostic.message);
        let code = diagnostic.code;
        let is = |other: &Code| code == other.name;
        let is_here = |cause: &Code| {
            diagnostic.place.as_ref().is_some_and(|place| self.places.contains(&(cause.name, place.path.clone())))
        };
        if IN_ONE_FILE.iter().any(|(effect, cause)| is(effect) && is_here(cause)) {
            return true;
        }
        if self.has_unread_template && (is(&codes::UNKNOWN_TRAY) || is(&lang_codes::UNKNOWN_SLOT)) {
            return true;
        }
        if is(&dead_file::CHECK.code) && self.has_unread_template {
            return !is_unread_template(diagnostic);
        }
        if is(&no_source::CHECK.code) {
            return self.has_no_image || self.is_in_component(diagnostic);
        }
        if is(&no_text::CHECK.code) {
            return self.has_empty_label || self.is_in_component(diagnostic);
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
            return self.prepared.contains(name) || self.collections.contains(name) || self.is_in_component(diagnostic);
        }
        if is(&lang_codes::DEAD_REFERENCE) {
            let of = name.split_once(':').map_or(name, |(_, rest)| rest);
            return self.collections.contains(of.split('/').next().unwrap_or(of))
                || self.has_no_slug && name.starts_with("route:")
                || diagnostic
                    .place
                    .as_ref()
                    .is_some_and(|place| self.unknown_fields.iter().any(|it| is_inside(it, place)))
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
            return self.has_no_slot;
        }
        if is(&lang_codes::UNLINKED_ASSET) {
            return self.has_no_styles;
        }
        if is(&codes::UNKNOWN_TRAY) {
            let path = diagnostic.place.as_ref().map(|place| &place.path);
            let content = world.site.ids().find(|(_, content)| Some(content.path()) == path);
            return content.is_some_and(|(id, _)| has_unknown_trays(world, id));
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
            let is_below = |address: &String| addresses.iter().any(|of| address.starts_with(of));
            text.contains(&format!(".{name}"))
                && !finding.addresses.is_empty()
                && finding.addresses.iter().all(is_below)
        })
    }
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
