//! Names with a meaning: of members, with their fixed numbers, of global values, of keys in front matter.

use hausblatt_lang::value::members;
use hausblatt_lang::value::shape::{Interner, Symbol};

hausblatt_lang::symbols! { members::NAMES.len() as u32;
    TITLE = "title", ADDRESS = "address", LANGUAGE = "language", ID = "id", KIND = "kind", BODY = "body",
    SUMMARY = "summary", UPDATED = "updated", IMAGE = "image", AUTHORS = "authors", TEMPLATE = "template",
    ROBOTS = "robots", PARENT = "parent", CHILDREN = "children", ANCESTORS = "ancestors", COLLECTION = "collection",
    OLDER = "older", NEWER = "newer", STATUS = "status", VIEW = "view", PAGE = "page", LAYOUT = "layout",
    THEME = "theme", NAME = "name", VERSION = "version", LABEL = "label", SCHEDULED = "scheduled", TOTAL = "total",
    PAGES = "pages", HERE = "here", PREVIOUS = "previous", NEXT = "next", TERM = "term", PERIOD = "period",
    PATH = "path", NEAREST = "nearest", INSIDE = "inside", ALT = "alt", MAIN = "main", TIMEZONE = "timezone",
    WIDTH = "width", HEIGHT = "height", QUERY = "query", ROW = "row",
    HEADINGS = "headings", LEVEL = "level", MINUTES = "minutes", VIEWS = "views", FEED = "feed", VALUES = "values",
}

/// The values that every file can name, in front of the collections. No collection can be called so.
pub(crate) const GLOBALS: &[&str] = &[
    "site",
    "request",
    "classes",
    "content",
    "listing",
    "search",
    "route",
    "error",
    "collections",
    "taxonomies",
    "menus",
    "settings",
    "tables",
    "theme",
    "today",
];

/// A global value for the documentation.
pub struct Global {
    /// Its name.
    pub name: &'static str,
    /// What it is.
    pub about: &'static str,
    /// An address of the demo site, a value there, and what it prints: a test runs it.
    pub example: (&'static str, &'static str, &'static str),
}

/// What each of `GLOBALS` is.
pub const ABOUT_GLOBALS: &[Global] = &[
    Global {
        name: "site",
        about: "title, address, language, and any other key of `[site]`",
        example: ("/", "site.founded", "1987"),
    },
    Global {
        name: "request",
        about: "address, kind, view, format, page, status, title (never empty), robots, template, layout, theme; on a route also query, what comes after `?` of the names that it declares",
        example: ("/visit/", "request.template", "page/visit.html"),
    },
    Global {
        name: "classes",
        about: "a list to print on `<body>`: the kind, the collection, the id, the chosen template, and what the template's front matter adds; prepare files extend it",
        example: ("/visit/", "classes.join(\" \")", "page visit"),
    },
    Global {
        name: "content",
        about: "the page or entry: id, address, kind, title, body, summary, date, updated, image, authors, template, robots, its fields, its taxonomies as lists of terms, headings (level, id, text), minutes (to read it), views (the address of each by name); pages also parent, children, ancestors; entries also collection, older, newer",
        example: ("/varieties/scarlet-runner/", "content.height_cm", "300"),
    },
    Global {
        name: "listing",
        about: "title, items, page, total, pages (each number, address, here), previous and next (addresses), collection, feed (its address), term, period (year, month, day, date, address); also filled on a search, and in a feed the twenty newest",
        example: ("/varieties/", "listing.total", "24"),
    },
    Global {
        name: "search",
        about: "query, items: what is searched for and the results on this page; `nothing` but on a search",
        example: ("/search/?q=frost", "search.query", "frost"),
    },
    Global {
        name: "route",
        about: "name, title, row (the row of its table, if it has one for each), values (what its group in `hausblatt.toml` gives); `nothing` but on a route",
        example: ("/calendar/april/", "route.row.title", "April"),
    },
    Global {
        name: "error",
        about: "status, title, path, nearest (each address, title)",
        example: ("/vist/", "error.nearest.first.address", "/visit/"),
    },
    Global {
        name: "collections",
        about: "the collections by name; one that the site lacks is `nothing`",
        example: ("/", "collections.recipes.count or \"none\"", "none"),
    },
    Global {
        name: "taxonomies",
        about: "the taxonomies by name, each a list of the terms that something is in: id, label, address, image, parent, children, items, count",
        example: ("/", "taxonomies.family.first.label", "Pods"),
    },
    Global {
        name: "menus",
        about: "the menus by name, each a list of items: label, address, children, here (it is this page), inside (this page is below it)",
        example: ("/visit/", "(menus.main where it.here).first.label", "Visit"),
    },
    Global {
        name: "settings",
        about: "what the themes of the lineage declare under `[settings]`, with the site's own values",
        example: ("/", "settings.motto", "Borrow in spring, return in autumn"),
    },
    Global {
        name: "tables",
        about: "the files in `tables/` by name: lists of rows",
        example: ("/", "tables.months.count", "12"),
    },
    Global { name: "theme", about: "name and version of the active theme", example: ("/", "theme.name", "harbour") },
    Global {
        name: "today",
        about: "the day it is, or the one given with `--as-of`: the only clock",
        example: ("/", "today + 1", "2026-11-24"),
    },
];

/// Members that all content has, too its fields; no field can be called so.
pub(crate) const BUILT_IN: &[&str] = &[
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
    "headings",
    "minutes",
    "views",
];

/// The numbers of those names.
pub(crate) const BUILT_IN_SYMBOLS: &[Symbol] = &[
    ID,
    ADDRESS,
    KIND,
    TITLE,
    BODY,
    SUMMARY,
    members::DATE,
    UPDATED,
    IMAGE,
    AUTHORS,
    TEMPLATE,
    ROBOTS,
    PARENT,
    CHILDREN,
    ANCESTORS,
    COLLECTION,
    OLDER,
    NEWER,
    HEADINGS,
    MINUTES,
    VIEWS,
];

/// Keys of front matter that mean something to Hausblatt.
pub(crate) const KEYS: &[&str] = &[
    "title", "slug", "date", "updated", "summary", "image", "authors", "order", "in_lists", "draft", "template",
    "robots", "formerly", "trays",
];

/// Keys of front matter that mean something.
pub fn keys() -> &'static [&'static str] {
    KEYS
}

/// An interner that knows the language's names and these.
pub(crate) fn interner() -> Interner {
    let all: Vec<&str> = members::NAMES.iter().chain(NAMES).copied().collect();
    Interner::starting_with(&all)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_global_value_is_told_of() {
        let told: Vec<&str> = ABOUT_GLOBALS.iter().map(|global| global.name).collect();
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
