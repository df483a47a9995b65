//! Causes before effects: one mistake is one report. What follows from something else that is reported is left out, and
//! what is the same in many files is reported once.

use rustc_hash::{FxHashMap, FxHashSet};

use hausblatt_lang::text::codes as lang_codes;
use hausblatt_lang::text::diagnostic::Diagnostic;

use crate::check::Finding;
use crate::check::rules::{broken_link, dead_file, misnamed_template, missing_file, no_front_page};
use crate::schema::config;
use crate::text::codes;
use crate::themes::file_name::Role;
use crate::themes::theme;
use crate::world::World;

/// What content lacks or has too much of because of one line elsewhere: it is reported once where so many files have it.
const SHARED: &[&hausblatt_lang::text::code::Code] = &[
    &codes::NO_DATE,
    &codes::NO_TERM,
    &codes::MISPLACED_CONTENT,
    &codes::UNDECLARED_FIELD,
    &codes::UNDECLARED_TERM,
    &codes::UNKNOWN_TRAY,
    &codes::CHOICE_MISSING,
    &codes::CHOICE_HIDDEN,
    &codes::CHOICE_NOT_ALLOWED,
    &lang_codes::UNKNOWN_COMPONENT,
];
const MANY: usize = 4;

/// Leaves out what follows from something else that was found.
pub(super) fn leave_out_effects(world: &World, found: &mut Vec<Finding>) {
    if let Some(at) = found.iter().position(|finding| loses_parents(&finding.diagnostic)) {
        return keep_manifests(found, at);
    }
    let has = |code: &str| found.iter().any(|finding| finding.diagnostic.code == code);
    let lost_content = has(codes::MISPLACED_CONTENT.name) || has(codes::NO_DATE.name) || has(codes::NO_TERM.name);
    // Which files nothing uses is known only where all is read that may use them.
    let lost_layout = has(lang_codes::NOTHING_INHERITED.name) || has(codes::UNKNOWN_LAYOUT.name);
    let unread = lost_content
        || lost_layout
        || world.problems.iter().any(|problem| problem.is_error() && !is_of_content(problem));
    let no_front = has(no_front_page::CHECK.code.name);
    let front_is_dead = world.site.config.front.is_some() && no_front && has(lang_codes::DEAD_REFERENCE.name);
    let slugs = lost_slugs(world, found);
    let prepared = lost_names(world);
    found.retain(|finding| {
        let diagnostic = &finding.diagnostic;
        let code = diagnostic.code;
        let quoted = || diagnostic.message.split('"').nth(1).unwrap_or("");
        if code == dead_file::CHECK.code.name || code == misnamed_template::CHECK.code.name {
            return !unread;
        }
        if code == broken_link::CHECK.code.name {
            let path = quoted().split(['?', '#']).next().unwrap_or("");
            let last = path.trim_end_matches('/').rsplit('/').next().unwrap_or("");
            return !(slugs.contains(last) || no_front && path == "/");
        }
        if code == no_front_page::CHECK.code.name {
            return !front_is_dead;
        }
        code != lang_codes::UNKNOWN_NAME.name || !prepared.contains(quoted())
    });
    without_media(world, found);
}

/// Reports what is the same in many content files once.
pub(super) fn fold(found: &mut Vec<Finding>) {
    let key = |diagnostic: &Diagnostic| {
        let is_shared = SHARED.iter().any(|code| code.name == diagnostic.code) && is_of_content(diagnostic);
        is_shared.then(|| (diagnostic.code, diagnostic.message.clone(), diagnostic.help.clone()))
    };
    let mut counts: FxHashMap<_, usize> = FxHashMap::default();
    for finding in found.iter() {
        if let Some(key) = key(&finding.diagnostic) {
            *counts.entry(key).or_default() += 1;
        }
    }
    let mut told: FxHashSet<_> = FxHashSet::default();
    found.retain_mut(|finding| {
        let Some(key) = key(&finding.diagnostic) else { return true };
        let count = counts.get(&key).copied().unwrap_or_default();
        if count < MANY {
            return true;
        }
        let is_first = told.insert(key);
        if is_first {
            finding.diagnostic.message.push_str(&format!("; {count} files are concerned"));
        }
        is_first
    });
}

fn is_of_content(diagnostic: &Diagnostic) -> bool {
    diagnostic.place.as_ref().is_some_and(|place| place.path.starts_with("content/"))
}

fn is_of_configuration(diagnostic: &Diagnostic) -> bool {
    let is_one = |path: &str| path == config::FILE || path.ends_with(theme::MANIFEST);
    diagnostic.place.as_ref().is_none_or(|place| is_one(&place.path))
}

/// Whether a manifest says something that is nearly its parent, so that the lineage lacks that.
fn loses_parents(diagnostic: &Diagnostic) -> bool {
    diagnostic.code == codes::UNKNOWN_KEY.name
        && diagnostic.place.as_ref().is_some_and(|place| place.path.ends_with(theme::MANIFEST))
        && diagnostic.help.as_deref() == Some("did you mean \"parent\"?")
}

/// Keeps what is wrong with configuration and manifests alone.
fn keep_manifests(found: &mut Vec<Finding>, cause: usize) {
    let before = found.len();
    let mut at = 0..;
    let is_effect = |diagnostic: &Diagnostic| {
        !is_of_configuration(diagnostic)
            || ["unknown-setting", "no-error-page", "no-fallback", "no-template"].contains(&diagnostic.code)
    };
    let cause = found[cause].diagnostic.clone();
    found.retain(|finding| at.next().is_some() && !is_effect(&finding.diagnostic));
    let count = before - found.len();
    if let Some(finding) = found.iter_mut().find(|finding| finding.diagnostic == cause).filter(|_| count > 0) {
        finding.diagnostic.message.push_str(&format!("; {count} more problems may come of that"));
    }
}

/// The last parts of addresses that content would have, were it not for something that is reported.
fn lost_slugs<'w>(world: &'w World, found: &[Finding]) -> FxHashSet<&'w str> {
    let without = world.site.contents.iter().filter(|content| content.is_live() && content.address.is_none());
    let mut slugs: FxHashSet<&str> = without.map(|content| &*content.slug).collect();
    let misplaced = found.iter().filter(|finding| finding.diagnostic.code == codes::MISPLACED_CONTENT.name);
    for place in misplaced.filter_map(|finding| finding.diagnostic.place.as_ref()) {
        let Some(node) = world.snapshot.file(&place.path) else { continue };
        let stem = node.path.rsplit('/').next().and_then(|name| name.strip_suffix(".md")).unwrap_or("");
        let is_date = stem.get(..11).is_some_and(|date| date.ends_with('-') && date[..4].parse::<u16>().is_ok());
        slugs.insert(if is_date { &stem[11..] } else { stem });
    }
    slugs
}

/// The names that prepare files would make, had they no error.
fn lost_names(world: &World) -> FxHashSet<String> {
    let files = world.lineage.files.iter().filter(|file| file.role == Role::Prepare && file.hidden_by.is_none());
    let broken = files.filter(|file| world.problems_at(&file.node.path).next().is_some());
    let names = broken.filter_map(|file| file.node.text()).flat_map(|text| {
        text.lines().filter_map(|line| {
            let (before, _) = line.split_once('=')?;
            Some(before.split_whitespace().next_back()?.to_owned())
        })
    });
    names.collect()
}

/// Reports a folder of media that is not there once.
fn without_media(world: &World, found: &mut Vec<Finding>) {
    if world.snapshot.below("media/").next().is_some() {
        return;
    }
    let is_one = |diagnostic: &Diagnostic| {
        [codes::MISSING_MEDIA.name, missing_file::CHECK.code.name].contains(&diagnostic.code)
            && diagnostic.message.contains("media/")
    };
    let count = found.iter().filter(|finding| is_one(&finding.diagnostic)).count();
    if count < MANY {
        return;
    }
    let mut told = false;
    found.retain_mut(|finding| {
        if !is_one(&finding.diagnostic) {
            return true;
        }
        let is_first = !std::mem::replace(&mut told, true);
        if is_first {
            finding.diagnostic.message = format!("there is no folder media/, and {count} files in it are named");
            finding.diagnostic.help = Some("this is the first of the places that name one".to_owned());
            finding.diagnostic.fix = None;
        }
        is_first
    });
}

#[cfg(test)]
mod tests {
    use crate::check::tests::{all_told, told};

    const NOTES: &str = "[site]\ntitle = \"Seeds\"\ntheme = \"t\"\n[front]\npage = \"home\"\n[collections.notes]\naddress = \"/notes/{year}/{slug}/\"\n";

    #[test]
    fn what_is_the_same_in_many_files_is_one_report() {
        let paths: Vec<String> = (0..5).map(|at| format!("content/notes/note-{at}.md")).collect();
        let mut files: Vec<(&str, &str)> = paths.iter().map(|path| (path.as_str(), "---\norder: 1\n---\n")).collect();
        files.extend([
            ("hausblatt.toml", NOTES),
            ("themes/t/templates/entry/notes.html", "x"),
            ("content/pages/home.md", "[a](/notes/2026/note-3/)"),
            ("themes/t/templates/front.html", "+{content.body}"),
        ]);
        assert_eq!(
            all_told(&files),
            ["content/notes/note-0.md no-date: this entry needs a date for its address; 5 files are concerned"]
        );
    }

    #[test]
    fn effects_are_left_out() {
        let prepare = [
            ("themes/t/prepare/all.let", "lte beds = 3\nlet rows = 2\n"),
            ("themes/t/templates/page.html", "<p>+{beds}+{rows}+{bads}</p>"),
        ];
        assert_eq!(told("unknown-name", &prepare).len(), 1);
        let theme = [
            ("themes/t/hausblatt-theme.toml", "[theme]\nparnet = \"u\"\n"),
            ("themes/t/templates/page.html", "<p>+{beds}</p>"),
        ];
        assert_eq!(
            all_told(&theme),
            [
                "themes/t/hausblatt-theme.toml unknown-key: unknown key \"parnet\" in [theme]; 1 more problems may come of that"
            ]
        );
    }
}
