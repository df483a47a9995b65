//! Cleaning of HTML that editors wrote into Markdown.

use std::cell::RefCell;
use std::collections::{HashMap, HashSet};
use std::sync::LazyLock;

use ammonia::{Builder, UrlRelative};
use html5ever::tendril::StrTendril;
use html5ever::tokenizer::states::RawKind;
use html5ever::tokenizer::{BufferQueue, Tag, TagKind, Token, TokenSink, TokenSinkResult, Tokenizer, TokenizerOpts};

static CLEANER: LazyLock<Builder<'static>> = LazyLock::new(|| {
    let mut builder = Builder::default();
    builder
        .add_tags(["input", "label", "section", "figure", "figcaption", "details", "summary"])
        .add_generic_attributes(["id", "class"])
        .add_tag_attributes("input", ["type", "checked", "disabled"])
        .add_tag_attribute_values("input", "type", ["checkbox"])
        .add_tag_attributes("details", ["open"])
        .add_tag_attributes("img", ["srcset", "sizes"])
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

/// How deep elements may nest in what is cleaned: the parser looks through all that are open for each that it meets.
pub(crate) const DEEPEST: usize = 500;

/// Whether elements nest deeper in some HTML than it can be cleaned. Elements that end by themselves don't count.
pub(crate) fn is_too_deep(html: &str) -> bool {
    if memchr::memchr_iter(b'<', html.as_bytes()).nth(DEEPEST).is_none() {
        return false;
    }
    let mut depth: usize = 0;
    for tag in tags(html) {
        let ends_itself = ENDING_THEMSELVES.contains(&&*tag.name);
        match tag.kind {
            TagKind::StartTag if !ends_itself => depth += 1,
            TagKind::EndTag if !ends_itself => depth = depth.saturating_sub(1),
            _ => {}
        }
        if depth > DEEPEST {
            return true;
        }
    }
    false
}

/// Elements without an end, and those that the next of their sort ends.
const ENDING_THEMSELVES: &[&str] = &[
    "area", "base", "body", "br", "col", "colgroup", "dd", "dt", "embed", "head", "hr", "html", "img", "input", "li",
    "link", "meta", "option", "p", "source", "tbody", "td", "tfoot", "th", "thead", "tr", "track", "wbr",
];

fn tags(html: &str) -> Vec<Tag> {
    let input = BufferQueue::default();
    input.push_back(StrTendril::from(html));
    let tokenizer = Tokenizer::new(Tags::default(), TokenizerOpts::default());
    let _ = tokenizer.feed(&input);
    tokenizer.end();
    tokenizer.sink.found.into_inner()
}

/// What [`clean`] removes from some HTML: an element or an attribute, and the byte at which its tag begins. Each is reported
/// once.
pub fn removed(html: &str) -> Vec<(String, usize)> {
    let lower = html.to_ascii_lowercase();
    let mut found: Vec<(String, usize)> = Vec::new();
    let mut from = 0;
    for tag in tags(html).into_iter().filter(|tag| tag.kind == TagKind::StartTag) {
        let name = &*tag.name;
        // The tags come in the order of the text.
        let at = lower[from..].find(&format!("<{name}")).map_or(from, |at| from + at);
        from = (at + 1).min(lower.len());
        let mut add = |what: String| {
            if !found.iter().any(|(known, _)| *known == what) {
                found.push((what, at));
            }
        };
        if !ALLOWED.elements.contains(name) {
            add(format!("<{name}> is removed"));
            continue;
        }
        for attribute in &tag.attrs {
            let local = &*attribute.name.local;
            if !ALLOWED.attribute(name, local, &attribute.value) {
                add(format!("{local} is removed from <{name}>"));
            }
        }
    }
    found
}

/// What is left being.
struct Allowed {
    elements: HashSet<&'static str>,
    everywhere: HashSet<&'static str>,
    of_element: HashMap<&'static str, HashSet<&'static str>>,
    values: HashMap<&'static str, HashMap<&'static str, HashSet<&'static str>>>,
    schemes: HashSet<&'static str>,
}

static ALLOWED: LazyLock<Allowed> = LazyLock::new(|| Allowed {
    elements: CLEANER.clone_tags(),
    everywhere: CLEANER.clone_generic_attributes(),
    of_element: CLEANER.clone_tag_attributes(),
    values: CLEANER.clone_tag_attribute_values(),
    schemes: CLEANER.clone_url_schemes(),
});

impl Allowed {
    fn attribute(&self, element: &str, name: &str, value: &str) -> bool {
        let has = |names: Option<&HashSet<&str>>| names.is_some_and(|names| names.contains(name));
        let of_value = self.values.get(element).and_then(|names| names.get(name));
        if of_value.is_some_and(|values| values.contains(value.to_ascii_lowercase().as_str())) {
            return true;
        }
        if !self.everywhere.contains(name) && !has(self.of_element.get(element)) {
            return false;
        }
        if !matches!(name, "href" | "src" | "cite") {
            return true;
        }
        let text: String = value.chars().filter(|c| !c.is_control() && !c.is_whitespace()).collect();
        let scheme = text.split_once(':').map(|(scheme, _)| scheme).filter(|it| !it.contains(['/', '?', '#']));
        scheme.is_none_or(|scheme| self.schemes.contains(scheme.to_ascii_lowercase().as_str()))
    }
}

/// The tags of a text.
#[derive(Default)]
struct Tags {
    found: RefCell<Vec<Tag>>,
}

impl TokenSink for Tags {
    type Handle = ();

    fn process_token(&self, token: Token, _: u64) -> TokenSinkResult<()> {
        let Token::TagToken(tag) = token else { return TokenSinkResult::Continue };
        let then = match &*tag.name {
            _ if tag.kind == TagKind::EndTag => TokenSinkResult::Continue,
            "script" => TokenSinkResult::RawData(RawKind::ScriptData),
            "style" | "iframe" | "noembed" | "noframes" | "xmp" => TokenSinkResult::RawData(RawKind::Rawtext),
            "textarea" | "title" => TokenSinkResult::RawData(RawKind::Rcdata),
            _ => TokenSinkResult::Continue,
        };
        self.found.borrow_mut().push(tag);
        then
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// What is said to be removed is, and nothing is said of what stays.
    #[test]
    fn tells_what_is_removed() {
        for (html, expected) in [
            ("<b class=\"a\" id=\"b\" title=\"c\">x</b>", &[][..]),
            (
                "<b\nonclick=\"x\">x</b>\n<i ONCLICK=\"x\">y</i>",
                &[("onclick is removed from <b>", 0), ("onclick is removed from <i>", 21)],
            ),
            ("a <iframe src=\"/x\"></iframe> <iframe></iframe>", &[("<iframe> is removed", 2)]),
            ("<p>\n<script>if (a<b) c</script>", &[("<script> is removed", 4)]),
            (
                "<a href=\"java\nscript:x\" rel=\"x\">y</a>",
                &[("href is removed from <a>", 0), ("rel is removed from <a>", 0)],
            ),
            (
                "<a href=\"/x:y\">y</a><img src=\"data:x\"><a href=\"mailto:a\">b</a>",
                &[("src is removed from <img>", 20)],
            ),
            ("<input type=\"checkbox\" checked><input type=\"text\">", &[]),
        ] {
            let found = removed(html);
            let found: Vec<(&str, usize)> = found.iter().map(|(what, at)| (what.as_str(), *at)).collect();
            assert_eq!(found, expected, "{html}");
            let cleaned = clean(html).to_lowercase();
            for (what, _) in found {
                let gone = what.split(' ').next().unwrap();
                let gone = if gone.starts_with('<') {
                    gone.trim_end_matches('>').to_owned()
                } else {
                    format!(" {gone}=\"{}", if gone == "href" { "java" } else { "" })
                };
                assert!(!cleaned.contains(&gone), "{html}: {cleaned}");
            }
        }
    }
}
