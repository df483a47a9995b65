//! Names with a meaning: of members, with their fixed numbers, of global values, of keys in front matter.

use hausblatt_lang::members;
use hausblatt_lang::shape::Interner;

hausblatt_lang::symbols! { members::NAMES.len() as u32;
    TITLE = "title", ADDRESS = "address", LANGUAGE = "language", ID = "id", KIND = "kind", BODY = "body",
    SUMMARY = "summary", UPDATED = "updated", IMAGE = "image", AUTHORS = "authors", TEMPLATE = "template",
    ROBOTS = "robots", PARENT = "parent", CHILDREN = "children", ANCESTORS = "ancestors", COLLECTION = "collection",
    OLDER = "older", NEWER = "newer", STATUS = "status", VIEW = "view", PAGE = "page", LAYOUT = "layout",
    THEME = "theme", NAME = "name", VERSION = "version", LABEL = "label", SCHEDULED = "scheduled", TOTAL = "total",
    PAGES = "pages", HERE = "here", PREVIOUS = "previous", NEXT = "next", TERM = "term", PERIOD = "period",
    PATH = "path", NEAREST = "nearest", INSIDE = "inside", ALT = "alt", MAIN = "main", TIMEZONE = "timezone",
    WIDTH = "width", HEIGHT = "height",
}

/// The values that every file can name, in front of the collections. No collection can be called so.
pub const GLOBALS: &[&str] =
    &["site", "request", "classes", "content", "listing", "error", "collections", "menus", "theme", "today"];

/// What each of [`GLOBALS`] is, for the documentation.
pub const ABOUT_GLOBALS: &[(&str, &str)] = &[
    ("site", "title, address, language, and any other key of `[site]`"),
    ("request", "address, kind, view, format, page, status, title (never empty), robots, template, layout, theme"),
    (
        "classes",
        "a list to print on `<body>`: the kind, the collection, the id, the chosen template; prepare files extend it",
    ),
    (
        "content",
        "the page or entry: id, address, kind, title, body, summary, date, updated, image, authors, template, robots, its fields; pages also parent, children, ancestors; entries also collection, older, newer",
    ),
    ("listing", "title, items, page, total, pages (each number, address, here), previous, next, collection"),
    ("error", "status, title, path, nearest (each address, title)"),
    ("collections", "the collections by name; one that the site lacks is `nothing`"),
    (
        "menus",
        "the menus by name, each a list of items: label, address, children, here (it is this page), inside (this page is below it)",
    ),
    ("theme", "name and version of the active theme"),
    ("today", "the day it is, or the one given with `--as-of`: the only clock"),
];

/// Members that all content has, besides its fields; no field can be called so.
pub const BUILT_IN: &[&str] = &[
    "id",
    "address",
    "kind",
    "title",
    "body",
    "summary",
    "date",
    "updated",
    "image",
    "authors",
    "template",
    "robots",
    "parent",
    "children",
    "ancestors",
    "collection",
    "older",
    "newer",
];

/// Keys of front matter that mean something to Hausblatt.
pub const KEYS: &[&str] = &[
    "title", "slug", "date", "updated", "summary", "image", "authors", "order", "in_lists", "draft", "template",
    "robots", "formerly", "trays",
];

/// An interner that knows the language's names and these.
pub fn interner() -> Interner {
    let all: Vec<&str> = members::NAMES.iter().chain(NAMES).copied().collect();
    Interner::starting_with(&all)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_global_value_is_told_of() {
        let told: Vec<&str> = ABOUT_GLOBALS.iter().map(|(name, _)| *name).collect();
        assert_eq!(told, GLOBALS);
    }

    #[test]
    fn every_name_has_the_number_it_was_declared_with() {
        let interner = interner();
        assert_eq!(interner.find("title"), Some(TITLE));
        assert_eq!(interner.find("timezone"), Some(TIMEZONE));
        assert_eq!(interner.find("items"), Some(members::ITEMS));
        let unique: std::collections::BTreeSet<_> = members::NAMES.iter().chain(NAMES).collect();
        assert_eq!(unique.len(), members::NAMES.len() + NAMES.len());
    }
}
