//! What is the same in many places because of one line elsewhere is one report, with the others.

use std::hash::Hash;

use hausblatt_lang::text::code::Code;
use hausblatt_lang::text::codes as lang_codes;
use hausblatt_lang::text::diagnostic::Diagnostic;
use rustc_hash::{FxHashMap, FxHashSet};

use crate::check::Finding;
use crate::check::rules::{
    broken_link, image_without_alt, image_without_size, missing_field, missing_file, unset_property,
};
use crate::text::codes;
use crate::world::World;

/// What is wrong once, in one line elsewhere, wherever it shows: something that is named is missing, something that content
/// has is not declared. The places of all are kept, for where each has a slip of its own.
const OF_ONE_CAUSE: &[&Code] = &[
    &lang_codes::DEAD_REFERENCE,
    &lang_codes::MISSING_ON_SITE,
    &lang_codes::MISSING_PARAMETER,
    &lang_codes::SHORTENED_PARTIAL,
    &lang_codes::UNKNOWN_COMPONENT,
    &lang_codes::UNKNOWN_FIELD,
    &lang_codes::UNKNOWN_MEMBER,
    &lang_codes::UNKNOWN_NAME,
    &lang_codes::UNKNOWN_PARAMETER,
    &lang_codes::UNKNOWN_PARTIAL,
    &lang_codes::UNKNOWN_SLOT,
    &codes::CHOICE_HIDDEN,
    &codes::CHOICE_MISSING,
    &codes::CHOICE_NOT_ALLOWED,
    &codes::MISPLACED_CONTENT,
    &codes::MISSING_MEDIA,
    &codes::NO_DATE,
    &codes::NO_TERM,
    &codes::UNDECLARED_FIELD,
    &codes::UNDECLARED_TERM,
    &codes::UNKNOWN_ASSET,
    &codes::UNKNOWN_LAYOUT,
    &codes::UNKNOWN_TRAY,
    &broken_link::CHECK.code,
    &image_without_alt::CHECK.code,
    &image_without_size::CHECK.code,
    &missing_field::CHECK.code,
    &missing_file::CHECK.code,
    &unset_property::CHECK.code,
];

/// Joins what is the same; the first in order stays, and shows the addresses of all.
pub(super) fn fold(world: &World, found: &mut Vec<Finding>) {
    fold_folders(world, found);
    // Rows without an address are one thing in a table.
    fold_by(found, |diagnostic| {
        let place = diagnostic.place.as_ref().filter(|_| diagnostic.code == codes::NO_SLUG.name)?;
        Some(place.path.clone())
    });
    fold_by(found, |diagnostic| {
        let is_one = OF_ONE_CAUSE.iter().any(|code| code.name == diagnostic.code);
        is_one.then(|| (diagnostic.code, diagnostic.message.clone(), diagnostic.help.clone()))
    });
}

/// Joins what has the same key.
fn fold_by<K: Eq + Hash>(found: &mut Vec<Finding>, key: impl Fn(&Diagnostic) -> Option<K>) {
    let mut alike: FxHashMap<K, Vec<usize>> = FxHashMap::default();
    for (at, finding) in found.iter().enumerate() {
        if let Some(key) = key(&finding.diagnostic) {
            alike.entry(key).or_default().push(at);
        }
    }
    let mut joined: FxHashSet<usize> = FxHashSet::default();
    for places in alike.into_values().filter(|places| places.len() > 1) {
        for &at in &places[1..] {
            let other = found[at].diagnostic.clone();
            let addresses = std::mem::take(&mut found[at].addresses);
            let also = std::mem::take(&mut found[at].also);
            let first = &mut found[places[0]];
            first.also.push(other);
            first.also.extend(also);
            first.addresses.extend(addresses);
        }
        joined.extend(&places[1..]);
    }
    let mut at = 0..;
    found.retain(|_| !at.next().is_some_and(|at| joined.contains(&at)));
}

/// Reports a folder of media that is not there once.
fn fold_folders(world: &World, found: &mut Vec<Finding>) {
    let lost = |diagnostic: &Diagnostic| lost_folder(world, diagnostic);
    fold_by(found, lost);
    for finding in found.iter_mut().filter(|finding| !finding.also.is_empty()) {
        let Some(folder) = lost(&finding.diagnostic) else { continue };
        finding.diagnostic.message = format!("there is no folder {folder}, and files in it are named");
        finding.diagnostic.help = Some(match folder.as_str() {
            "media/" => "put it beside hausblatt.toml".to_owned(),
            _ => format!("the site has no file below {folder}"),
        });
        finding.diagnostic.fix = None;
    }
}

/// The topmost folder of a missing file in which the site has nothing.
fn lost_folder(world: &World, diagnostic: &Diagnostic) -> Option<String> {
    if ![codes::MISSING_MEDIA.name, missing_file::CHECK.code.name].contains(&diagnostic.code) {
        return None;
    }
    let path = &diagnostic.message[diagnostic.message.find("media/")?..];
    let folders = path.match_indices('/').map(|(at, _)| &path[..=at]);
    folders.into_iter().find(|folder| world.snapshot.below(folder).next().is_none()).map(str::to_owned)
}

#[cfg(test)]
mod tests {
    use crate::check::tests::all_told;

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
            ["content/notes/note-0.md no-date: this entry needs a date for its address (5 places)"]
        );
    }

    #[test]
    fn what_is_missing_is_missing_once() {
        let named = "<p>1</p>+{partial \"crad\"}";
        let files = [("themes/t/templates/page.html", named), ("themes/t/templates/front.html", named)];
        assert_eq!(
            all_told(&files),
            ["themes/t/templates/front.html unknown-partial: unknown partial \"crad\" (2 places)"]
        );
        let images = "<img src=\"/media/a/b.png\" alt=\"\">\n<img src=\"/media/a/c.png\" alt=\"\"><img src=\"/media/d.png\" alt=\"\">";
        let files = [
            ("themes/t/templates/page.html", images),
            ("content/pages/seeds.md", "![e](/media/e.svg)"),
            ("media/e.svg", "<svg xmlns=\"http://www.w3.org/2000/svg\"/>"),
        ];
        assert_eq!(
            all_told(&files),
            [
                "themes/t/templates/page.html missing-file: there is no folder media/a/, and files in it are named (2 places)",
                "themes/t/templates/page.html missing-file: there is no file \"/media/d.png\"",
            ]
        );
    }
}
