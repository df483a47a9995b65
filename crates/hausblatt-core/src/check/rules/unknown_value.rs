//! A value of an attribute is one letter away from one that HTML knows.

use hausblatt_lang::text::code::Code;
use hausblatt_lang::text::diagnostic::Severity;
use hausblatt_lang::text::suggest::did_you_mean;

use crate::check::view::{PageProblem, View};
use crate::check::{Check, Look};

/// The check.
pub(crate) const CHECK: Check = Check {
    code: Code {
        name: "unknown-value",
        severity: Severity::Warning,
        about: "the value of an attribute of HTML is misspelt",
        explanation: "Browsers pass over a value that they don't know, and do what they do without the attribute: a style that is not loaded, a form that is sent in the address, a field of plain text.",
    },
    look: Look::Page(look),
};

/// The values of an attribute of an element, or of all elements where that is empty: those of the HTML standard.
type Row = (&'static str, &'static str, &'static [&'static str]);

const VALUES: &[Row] = &[
    ("link", "rel", RELATIONS),
    ("a", "rel", RELATIONS),
    ("a", "target", &["_blank", "_self", "_parent", "_top"]),
    ("form", "target", &["_blank", "_self", "_parent", "_top"]),
    ("form", "method", &["get", "post", "dialog"]),
    ("form", "enctype", &["application/x-www-form-urlencoded", "multipart/form-data", "text/plain"]),
    ("input", "type", INPUTS),
    ("button", "type", &["submit", "reset", "button"]),
    ("meta", "name", META),
    ("meta", "http-equiv", &["content-type", "default-style", "refresh", "x-ua-compatible", "content-security-policy"]),
    ("link", "type", &["text/css", "application/rss+xml", "application/atom+xml", "image/svg+xml", "image/png"]),
    ("script", "type", &["module", "importmap", "text/javascript", "application/json", "application/ld+json"]),
    ("th", "scope", &["row", "col", "rowgroup", "colgroup"]),
    ("", "loading", &["lazy", "eager"]),
    ("", "decoding", &["sync", "async", "auto"]),
    ("", "preload", &["none", "metadata", "auto"]),
    ("", "dir", &["ltr", "rtl", "auto"]),
    ("", "role", ROLES),
];
const RELATIONS: &[&str] = &[
    "stylesheet",
    "icon",
    "alternate",
    "canonical",
    "author",
    "bookmark",
    "external",
    "help",
    "license",
    "manifest",
    "modulepreload",
    "me",
    "next",
    "nofollow",
    "noopener",
    "noreferrer",
    "opener",
    "pingback",
    "preconnect",
    "prefetch",
    "preload",
    "prev",
    "privacy-policy",
    "search",
    "tag",
    "terms-of-service",
    "dns-prefetch",
    "apple-touch-icon",
    "shortcut",
    "mask-icon",
    "up",
    "self",
    "start",
    "first",
    "last",
];
const INPUTS: &[&str] = &[
    "hidden",
    "text",
    "search",
    "tel",
    "url",
    "email",
    "password",
    "date",
    "month",
    "week",
    "time",
    "datetime-local",
    "number",
    "range",
    "color",
    "checkbox",
    "radio",
    "file",
    "submit",
    "image",
    "reset",
    "button",
];
const META: &[&str] = &[
    "viewport",
    "description",
    "robots",
    "author",
    "keywords",
    "generator",
    "theme-color",
    "color-scheme",
    "referrer",
    "application-name",
    "format-detection",
    "googlebot",
    "creator",
    "publisher",
    "date",
];
const ROLES: &[&str] = &[
    "alert",
    "alertdialog",
    "application",
    "article",
    "banner",
    "button",
    "cell",
    "checkbox",
    "columnheader",
    "combobox",
    "complementary",
    "contentinfo",
    "definition",
    "dialog",
    "directory",
    "document",
    "feed",
    "figure",
    "form",
    "grid",
    "gridcell",
    "group",
    "heading",
    "img",
    "image",
    "link",
    "list",
    "listbox",
    "listitem",
    "log",
    "main",
    "marquee",
    "math",
    "menu",
    "menubar",
    "menuitem",
    "menuitemcheckbox",
    "menuitemradio",
    "meter",
    "navigation",
    "none",
    "note",
    "option",
    "presentation",
    "progressbar",
    "radio",
    "radiogroup",
    "region",
    "row",
    "rowgroup",
    "rowheader",
    "scrollbar",
    "search",
    "searchbox",
    "separator",
    "slider",
    "spinbutton",
    "status",
    "switch",
    "tab",
    "table",
    "tablist",
    "tabpanel",
    "term",
    "textbox",
    "timer",
    "toolbar",
    "tooltip",
    "tree",
    "treegrid",
    "treeitem",
];

fn look(view: &View<'_>, found: &mut Vec<PageProblem>) {
    for element in view.page.elements.iter().filter(|element| element.is_html() && element.at.is_some()) {
        for attribute in &element.attributes {
            let name = &*attribute.name.local;
            // Most attributes are none of these.
            if !matches!(
                name,
                "rel"
                    | "target"
                    | "method"
                    | "enctype"
                    | "type"
                    | "name"
                    | "http-equiv"
                    | "scope"
                    | "loading"
                    | "decoding"
                    | "preload"
                    | "dir"
                    | "role"
            ) {
                continue;
            }
            let of = |row: &&Row| row.1 == name && (row.0.is_empty() || row.0 == element.name());
            let Some((.., values)) = VALUES.iter().find(of) else { continue };
            for word in attribute.value.split_ascii_whitespace() {
                let word = word.to_ascii_lowercase();
                if word.len() < 3 || values.contains(&&*word) {
                    continue;
                }
                if let Some(help) = did_you_mean(&word, values.iter().copied()) {
                    let message = format!("unknown {name} \"{word}\" of <{}>", element.name());
                    found.push(PageProblem::at(element.at, message, help));
                }
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use crate::check::tests::{in_page, quiet_page};

    #[test]
    fn finds_it_at_its_line() {
        in_page(super::CHECK.code.name, "<p>1</p>\n<form method=\"psot\"><input aria-label=\"1\"></form>", 2);
        in_page(super::CHECK.code.name, "<p role=\"navigaton\">1</p>", 1);
        in_page(super::CHECK.code.name, "<a href=\"/visit/\" rel=\"nofollow norefferer\">1</a>", 1);
        quiet_page("<a href=\"/visit/\" rel=\"seeds\" target=\"beds\">1</a><input type=\"EMAIL\"><p role=\"\">1</p>");
    }
}
