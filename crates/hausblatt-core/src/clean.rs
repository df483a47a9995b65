//! Cleaning of HTML that editors wrote into Markdown.

use std::collections::HashSet;
use std::sync::LazyLock;

use ammonia::{Builder, UrlRelative};

static CLEANER: LazyLock<Builder<'static>> = LazyLock::new(|| {
    let mut builder = Builder::default();
    builder
        .add_tags(["input", "label", "section", "figure", "figcaption", "details", "summary"])
        .add_generic_attributes(["id", "class"])
        .add_tag_attributes("input", ["type", "checked", "disabled"])
        .add_tag_attribute_values("input", "type", ["checkbox"])
        .add_tag_attributes("details", ["open"])
        .rm_tag_attributes("input", ["value", "name"])
        .link_rel(None)
        .url_relative(UrlRelative::PassThrough)
        .url_schemes(HashSet::from(["http", "https", "mailto", "tel"]))
        .id_prefix(None);
    builder
});

/// The same HTML without what could run, load or restyle: scripts, handlers, styles, forms, frames, SVG.
pub fn clean(html: &str) -> String {
    CLEANER.clean(html).to_string()
}
