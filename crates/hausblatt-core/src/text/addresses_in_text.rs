//! The addresses of files in what is published, found as browsers find them and written anew: in HTML, XML, JSON and text.

use std::borrow::Cow;
use std::ops::Range;
use std::sync::LazyLock;

use hausblatt_lang::escape::html::escape;
use hausblatt_lang::text::ending::Ending;
use hausblatt_lang::text::source::Span;
use hausblatt_lang::value::json;
use memchr::memmem::Finder;

use crate::text::scripts;
use crate::text::styles;

/// What an address is to be instead; none where it stays.
pub type Changes<'c> = &'c dyn Fn(&str) -> Option<String>;

/// Parts of addresses of which one is in every address that may be changed; the last only where a search is.
static PARTS: LazyLock<[Finder<'static>; 3]> = LazyLock::new(|| ["media/", "assets/", "search.js"].map(Finder::new));

/// Which addresses may be changed.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Among {
    /// Those of media and assets.
    Files,
    /// The script of a search, too.
    FilesAndSearch,
}

/// Elements whose content has no tags (HTML, section 13.1.2).
const WITHOUT_TAGS: &[&str] = &["script", "style", "textarea", "title", "xmp", "iframe", "noembed", "noframes"];

/// A text with the addresses of files in it changed. In HTML and XML these are the values of attributes that name what is
/// loaded or led to, of `content` and `data-…`, and what styles, scripts of the type module and JSON in it load; in JSON
/// and XML also texts that are nothing but an address; in plain text only whole addresses with their scheme.
pub fn changed<'t>(text: &'t str, format: Ending, among: Among, change: Changes<'_>) -> Cow<'t, str> {
    let parts = if among == Among::Files { &PARTS[..2] } else { &PARTS[..] };
    let mut hits: Vec<usize> = parts.iter().flat_map(|part| part.find_iter(text.as_bytes())).collect();
    if hits.is_empty() {
        return Cow::Borrowed(text);
    }
    hits.sort_unstable();
    let mut writer = Writer { text, hits: &hits, change, out: String::new(), copied: 0 };
    match format {
        Ending::Html => writer.markup(0..text.len(), false),
        Ending::Xml => writer.markup(0..text.len(), true),
        Ending::Json => writer.json(0..text.len()),
        Ending::Text => writer.words(0..text.len()),
    }
    match writer.copied {
        0 => Cow::Borrowed(text),
        copied => Cow::Owned(writer.out + &text[copied..]),
    }
}

/// The digits of a version.
const DIGITS: usize = 12;

/// A version as it is in an address, of a digest with 64 bits.
pub fn version(digest: u64) -> String {
    format!("v={:0width$x}", digest >> (64 - 4 * DIGITS), width = DIGITS)
}

/// A text without the versions in it.
pub fn without_versions(text: &str) -> Cow<'_, str> {
    static VERSION: LazyLock<Finder<'static>> = LazyLock::new(|| Finder::new("v="));
    let (mut out, mut copied) = (String::new(), 0);
    for at in VERSION.find_iter(text.as_bytes()) {
        let end = at + 2 + DIGITS;
        let is_digit = |byte: &u8| matches!(byte, b'0'..=b'9' | b'a'..=b'f');
        let is_version = text.as_bytes().get(at + 2..end).is_some_and(|digits| digits.iter().all(is_digit))
            && !text.as_bytes().get(end).is_some_and(u8::is_ascii_alphanumeric);
        let sign = ["&amp;", "&", "?"].into_iter().find(|sign| text[copied..at].ends_with(sign));
        if let Some(sign) = sign.filter(|_| is_version) {
            out.push_str(&text[copied..at - sign.len()]);
            copied = end;
        }
    }
    if copied == 0 { Cow::Borrowed(text) } else { Cow::Owned(out + &text[copied..]) }
}

/// What an attribute holds.
#[derive(Clone, Copy)]
enum Holds {
    Address,
    Candidates,
    Style,
}

struct Writer<'t> {
    text: &'t str,
    /// Where parts of addresses are, in order; those that are behind are taken away.
    hits: &'t [usize],
    change: Changes<'t>,
    out: String,
    /// How much of the text is written, or was replaced.
    copied: usize,
}

impl<'t> Writer<'t> {
    /// Whether an address may be in a part of the text. Parts are asked about in order.
    fn may_hold(&mut self, range: &Range<usize>) -> bool {
        while self.hits.first().is_some_and(|&hit| hit < range.start) {
            self.hits = &self.hits[1..];
        }
        self.hits.first().is_some_and(|&hit| hit < range.end)
    }

    fn replace(&mut self, range: Range<usize>, with: &str) {
        self.out.push_str(&self.text[self.copied..range.start]);
        self.out.push_str(with);
        self.copied = range.end;
    }

    /// Tags, and the texts between them where they are XML.
    fn markup(&mut self, range: Range<usize>, is_xml: bool) {
        let bytes = self.text.as_bytes();
        let mut at = range.start;
        while self.may_hold(&(at..range.end)) {
            let open = memchr::memchr(b'<', &bytes[at..range.end]).map_or(range.end, |open| at + open);
            if is_xml {
                self.xml_text(at..open);
            }
            if open == range.end {
                return;
            }
            at = self.tag(open, range.end, is_xml);
        }
    }

    /// What begins with `<` at `open`. Tells where it ends.
    fn tag(&mut self, open: usize, end: usize, is_xml: bool) -> usize {
        let rest = &self.text[open..end];
        let past = |mark: &str| rest.find(mark).map_or(end, |at| open + at + mark.len());
        match rest.as_bytes().get(1) {
            Some(b'!') if rest.starts_with("<!-->") || rest.starts_with("<!--->") => past(">"),
            Some(b'!') if rest.starts_with("<!--") => past("-->"),
            Some(b'!') if is_xml && rest.starts_with("<![CDATA[") => {
                // What nothing closes is not XML.
                let Some(close) = rest.find("]]>").map(|at| open + at) else { return end };
                let inside = open + "<![CDATA[".len()..close;
                if !self.only_address(inside.clone(), |text| text.to_owned()) {
                    self.markup(inside, false);
                }
                close + "]]>".len()
            }
            Some(b'!' | b'?' | b'/') => past(">"),
            Some(byte) if byte.is_ascii_alphabetic() => self.element(open, end, is_xml),
            _ => open + 1,
        }
    }

    /// The tag of an element, and its content where that has no tags.
    fn element(&mut self, open: usize, end: usize, is_xml: bool) -> usize {
        let bytes = self.text.as_bytes();
        let is_end = |byte: u8| byte.is_ascii_whitespace() || matches!(byte, b'/' | b'>');
        let mut at = (open + 1..end).find(|&at| is_end(bytes[at])).unwrap_or(end);
        let name = &self.text[open + 1..at];
        let mut kind = "";
        loop {
            while at < end && (bytes[at].is_ascii_whitespace() || bytes[at] == b'/') {
                at += 1;
            }
            if at >= end || bytes[at] == b'>' {
                break;
            }
            let from = at;
            at = (from + 1..end).find(|&at| is_end(bytes[at]) || bytes[at] == b'=').unwrap_or(end);
            let attribute = &self.text[from..at];
            let next = (at..end).find(|&at| !bytes[at].is_ascii_whitespace()).unwrap_or(end);
            if bytes.get(next).filter(|_| next < end) != Some(&b'=') {
                continue;
            }
            let begin = (next + 1..end).find(|&at| !bytes[at].is_ascii_whitespace()).unwrap_or(end);
            let value = match bytes.get(begin).filter(|_| begin < end) {
                Some(&quote @ (b'"' | b'\'')) => {
                    let close = memchr::memchr(quote, &bytes[begin + 1..end]).map_or(end, |at| begin + 1 + at);
                    at = (close + 1).min(end);
                    begin + 1..close
                }
                _ => {
                    let close = (begin..end).find(|&at| bytes[at].is_ascii_whitespace() || bytes[at] == b'>');
                    at = close.unwrap_or(end);
                    begin..at
                }
            };
            if attribute.eq_ignore_ascii_case("type") {
                kind = &self.text[value.clone()];
            }
            if self.may_hold(&value)
                && let Some(holds) = holds(attribute)
            {
                self.value(value, holds);
            }
        }
        at = (at + 1).min(end);
        let has_tags = is_xml || !WITHOUT_TAGS.iter().any(|other| other.eq_ignore_ascii_case(name));
        if has_tags { at } else { self.content(name, kind, at..end) }
    }

    /// The content of an element that has no tags. Tells where it ends.
    fn content(&mut self, name: &str, kind: &str, range: Range<usize>) -> usize {
        let closes = |at: &usize| {
            let rest = &self.text.as_bytes()[at + 2..range.end];
            rest.get(..name.len()).is_some_and(|other| other.eq_ignore_ascii_case(name.as_bytes()))
                && rest.get(name.len()).is_none_or(|byte| byte.is_ascii_whitespace() || matches!(byte, b'/' | b'>'))
        };
        let inside = &self.text[range.clone()];
        let close = inside.match_indices("</").map(|(at, _)| range.start + at).find(closes).unwrap_or(range.end);
        let inside = range.start..close;
        if self.may_hold(&inside) {
            if name.eq_ignore_ascii_case("style") {
                self.styles(inside);
            } else if name.eq_ignore_ascii_case("script") && is_json(kind) {
                self.json(inside);
            } else if name.eq_ignore_ascii_case("script") && kind.trim().eq_ignore_ascii_case("module") {
                self.module(inside);
            }
        }
        close
    }

    /// The value of an attribute.
    fn value(&mut self, range: Range<usize>, holds: Holds) {
        let written = &self.text[range.clone()];
        let plain = htmlize::unescape_attribute(written);
        let new = match holds {
            Holds::Address => (self.change)(plain.trim()),
            Holds::Candidates => candidates(&plain, self.change),
            Holds::Style => style(&plain, self.change),
        };
        if let Some(new) = new {
            let mut escaped = String::with_capacity(new.len());
            escape(&new, &mut escaped);
            self.replace(range, &escaped);
        }
    }

    /// Styles between tags.
    fn styles(&mut self, range: Range<usize>) {
        if let Some(new) = sheet(&self.text[range.clone()], self.change) {
            self.replace(range, &new);
        }
    }

    /// A module between tags.
    fn module(&mut self, range: Range<usize>) {
        let read = scripts::read(&self.text[range.clone()]);
        let new = read.imports.iter().filter_map(|import| Some((import.span, (self.change)(import.as_address()?)?)));
        let new: Vec<_> = new.collect();
        if !new.is_empty() {
            let new = with_changed(&self.text[range.clone()], new, scripts::written_address);
            self.replace(range, &new);
        }
    }

    /// Text between tags of XML: an address alone, or HTML that is written as text, as in feeds.
    fn xml_text(&mut self, range: Range<usize>) {
        let escaped = |text: &str| {
            let mut escaped = String::with_capacity(text.len());
            escape(text, &mut escaped);
            escaped
        };
        if !self.may_hold(&range) || self.only_address(range.clone(), escaped) {
            return;
        }
        let written = &self.text[range.clone()];
        if written.contains("&lt;") || written.contains("&#60;") {
            let plain = htmlize::unescape(written);
            if let Cow::Owned(new) = changed(&plain, Ending::Html, Among::Files, self.change) {
                self.replace(range, &escaped(&new));
            }
        }
    }

    /// Changes a part of the text that is nothing but an address. Whether it is.
    fn only_address(&mut self, range: Range<usize>, write: impl Fn(&str) -> String) -> bool {
        let written = &self.text[range.clone()];
        let trimmed = written.trim();
        let start = range.start + (written.len() - written.trim_start().len());
        let plain = htmlize::unescape(trimmed);
        match (self.change)(&plain).filter(|_| !trimmed.is_empty()) {
            Some(new) => {
                self.replace(start..start + trimmed.len(), &write(&new));
                true
            }
            None => false,
        }
    }

    /// The texts of JSON that are no names of members.
    fn json(&mut self, range: Range<usize>) {
        let bytes = self.text.as_bytes();
        let mut at = range.start;
        while let Some(open) = memchr::memchr(b'"', &bytes[at..range.end]).map(|open| at + open) {
            let mut close = open + 1;
            while close < range.end && bytes[close] != b'"' {
                close += if bytes[close] == b'\\' { 2 } else { 1 };
            }
            if close >= range.end {
                return;
            }
            at = close + 1;
            let after = (at..range.end).find(|&at| !bytes[at].is_ascii_whitespace());
            let is_name = after.is_some_and(|after| bytes[after] == b':');
            let inside = open + 1..close;
            if is_name || !self.may_hold(&inside) {
                continue;
            }
            let Ok(plain) = serde_json::from_str::<String>(&self.text[open..=close]) else { continue };
            // What does not begin so may be any word.
            let is_address = plain.starts_with('/') || plain.contains("://");
            if let Some(new) = (self.change)(&plain).filter(|_| is_address) {
                let mut written = String::with_capacity(new.len());
                json::characters(&new, &mut written);
                self.replace(inside, &written);
            }
        }
    }

    /// Whole addresses in plain text: nothing else in it is known to be one.
    fn words(&mut self, range: Range<usize>) {
        let text = &self.text[range];
        for word in text.split_ascii_whitespace() {
            let at = word.as_ptr() as usize - self.text.as_ptr() as usize;
            if word.contains("://")
                && self.may_hold(&(at..at + word.len()))
                && let Some(new) = (self.change)(word)
            {
                self.replace(at..at + word.len(), &new);
            }
        }
    }
}

/// What an attribute holds, if that may be addresses of files.
fn holds(attribute: &str) -> Option<Holds> {
    let name = attribute.to_ascii_lowercase();
    match name.as_str() {
        "style" => Some(Holds::Style),
        "srcset" | "imagesrcset" => Some(Holds::Candidates),
        "content" | "poster" | "data" | "background" => Some(Holds::Address),
        _ if name.starts_with("data-") => Some(Holds::Address),
        _ if ["href", "src", "url", "uri"].iter().any(|ending| name.ends_with(ending)) => Some(Holds::Address),
        _ => None,
    }
}

/// Whether a script of this type is JSON, import maps included.
pub(crate) fn is_json(kind: &str) -> bool {
    let kind = kind.trim().to_ascii_lowercase();
    kind == "application/json" || kind.ends_with("+json") || kind == "importmap" || kind == "speculationrules"
}

/// Where the addresses in a `srcset` are (HTML, section 4.8.4.2.2).
pub(crate) fn addresses_of_set(set: &str) -> Vec<Range<usize>> {
    let is_between = |c: char| c.is_ascii_whitespace() || c == ',';
    let (mut found, mut at) = (Vec::new(), 0);
    loop {
        let rest = &set[at..];
        let address = rest.trim_start_matches(is_between);
        at += rest.len() - address.len();
        if address.is_empty() {
            return found;
        }
        let end = address.find(|c: char| c.is_ascii_whitespace()).unwrap_or(address.len());
        let alone = address[..end].trim_end_matches(',').len();
        found.push(at..at + alone);
        // After an address without a comma comes a descriptor, up to a comma that is not in brackets.
        let mut depth = 0_i32;
        let stop = address[end..].find(|c: char| {
            depth += i32::from(c == '(') - i32::from(c == ')');
            c == ',' && depth <= 0
        });
        at += if alone < end { end } else { stop.map_or(address.len(), |stop| end + stop) };
    }
}

/// A `srcset` with its addresses changed.
fn candidates(set: &str, change: Changes<'_>) -> Option<String> {
    let (mut out, mut copied) = (String::with_capacity(set.len() + 64), 0);
    for range in addresses_of_set(set) {
        if let Some(new) = change(&set[range.clone()]) {
            out.push_str(&set[copied..range.start]);
            out.push_str(&new);
            copied = range.end;
        }
    }
    (copied > 0).then(|| out + &set[copied..])
}

/// Declarations with the addresses that they load changed.
fn style(declarations: &str, change: Changes<'_>) -> Option<String> {
    const BEFORE: &str = "a{";
    let whole = format!("{BEFORE}{declarations}}}");
    let new = sheet(&whole, change)?;
    Some(new[BEFORE.len()..new.len() - 1].to_owned())
}

/// A style sheet with the addresses that it loads changed; none where none is.
fn sheet(text: &str, change: Changes<'_>) -> Option<String> {
    let styles = styles::read(text);
    let new: Vec<_> = styles.loads.iter().filter_map(|load| Some((load.span, change(&load.address)?))).collect();
    (!new.is_empty()).then(|| with_changed(text, new, styles::written_address))
}

/// A style sheet or a script with new addresses at these places, each written as what was there.
pub(crate) fn with_changed(text: &str, new: Vec<(Span, String)>, written: fn(&str, &str) -> String) -> String {
    let (mut out, mut copied) = (String::with_capacity(text.len() + 32 * new.len()), 0);
    for (span, address) in new {
        let range = span.range();
        out.push_str(&text[copied..range.start]);
        out.push_str(&written(&text[range.clone()], &address));
        copied = range.end;
    }
    out + &text[copied..]
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Gives what is below `/media/` and `/assets/` a version, on this site or without a host.
    fn versioned(address: &str) -> Option<String> {
        let path = address.strip_prefix("https://seeds.example").unwrap_or(address);
        let path = path.trim_start_matches("../");
        let is_file = ["/media/", "/assets/", "media/"].iter().any(|folder| path.starts_with(folder));
        let (before, fragment) = address.split_at(address.find('#').unwrap_or(address.len()));
        let sign = if before.contains('?') { '&' } else { '?' };
        is_file.then(|| format!("{before}{sign}V{fragment}"))
    }

    #[track_caller]
    fn same(format: Ending, text: &str) {
        assert!(matches!(changed(text, format, Among::Files, &versioned), Cow::Borrowed(_)), "{text}");
    }

    #[track_caller]
    fn becomes(format: Ending, text: &str, expected: &str) {
        assert_eq!(changed(text, format, Among::Files, &versioned), expected);
        // What is around it does not matter.
        let more = format!("{text}\n{text}");
        assert_eq!(changed(&more, format, Among::Files, &versioned), format!("{expected}\n{expected}"));
    }

    #[test]
    fn attributes_of_html_are_found_as_browsers_find_them() {
        for (text, expected) in [
            ("<img src=\"/media/a.png\">", "<img src=\"/media/a.png?V\">"),
            ("<IMG alt='' SRC = '/media/a.png' >", "<IMG alt='' SRC = '/media/a.png?V' >"),
            ("<img src=/media/a.png alt=x>", "<img src=/media/a.png?V alt=x>"),
            ("<img src=/media/a.png>", "<img src=/media/a.png?V>"),
            ("<a href=\"/media/a.pdf?x=1&amp;y#p\">", "<a href=\"/media/a.pdf?x=1&amp;y&amp;V#p\">"),
            ("<a href=\" /media/a&amp;b.pdf \">", "<a href=\"/media/a&amp;b.pdf?V\">"),
            ("<img src=\"../media/a.png\">", "<img src=\"../media/a.png?V\">"),
            ("<svg><use xlink:href=\"/assets/i.svg#a\"/></svg>", "<svg><use xlink:href=\"/assets/i.svg?V#a\"/></svg>"),
            (
                "<meta content=\"https://seeds.example/media/a.png\">",
                "<meta content=\"https://seeds.example/media/a.png?V\">",
            ),
            ("<p data-large=\"/media/a.png\">", "<p data-large=\"/media/a.png?V\">"),
            ("<p title=\"a > b\" data-x='/media/a'>", "<p title=\"a > b\" data-x='/media/a?V'>"),
            ("<video poster=\"/media/a.png\"", "<video poster=\"/media/a.png?V\""),
            (
                "<img srcset=\"/media/a.png, /media/b.png 2x,/media/c.png 3x\">",
                "<img srcset=\"/media/a.png?V, /media/b.png?V 2x,/media/c.png?V 3x\">",
            ),
            ("<p style=\"background: url(/media/a.png)\">", "<p style=\"background: url(/media/a.png?V)\">"),
            (
                "<p style=\"background: url(&quot;/media/a.png&quot;)\">",
                "<p style=\"background: url(&quot;/media/a.png?V&quot;)\">",
            ),
            ("<style>a{b:url('/media/a.png')}</style>", "<style>a{b:url('/media/a.png?V')}</style>"),
            ("<STYLE>a{b:url(\n/media/a.png )}</STYLE>", "<STYLE>a{b:url(\n/media/a.png?V )}</STYLE>"),
            (
                "<script type=\"application/ld+json\">{\"/media/a\": \"/media/a\"}</script>",
                "<script type=\"application/ld+json\">{\"/media/a\": \"/media/a?V\"}</script>",
            ),
            (
                "<script type=module>import a from '/assets/a.js';</script>",
                "<script type=module>import a from '/assets/a.js?V';</script>",
            ),
            ("<noscript><img src=\"/media/a.png\"></noscript>", "<noscript><img src=\"/media/a.png?V\"></noscript>"),
        ] {
            becomes(Ending::Html, text, expected);
        }
    }

    #[test]
    fn other_text_of_html_stays() {
        for text in [
            "<p>/media/a.png</p>",
            "<p title=\"/media/a.png\" id=/media/a class='/media/a'>",
            "<code>&lt;img src=\"/media/a.png\"></code>",
            "<!-- <img src=\"/media/a.png\"> -->",
            "<!--><p>/media/a",
            "<!-- <img src=\"/media/a.png\">",
            "<textarea><img src=\"/media/a.png\"></textarea>",
            "<script>let a = \"/media/a.png\"; '<img src=\"/media/a.png\">'</script>",
            "<script>'<img src=\"/media/a.png\">'",
            "<img src=\"https://other.example/media/a.png\">",
            "<p data-x=\"see /media/a.png\">",
            "< img src=\"/media/a.png\">",
            "</p src=\"/media/a.png\">",
            "",
        ] {
            same(Ending::Html, text);
        }
    }

    #[test]
    fn other_formats_have_addresses_where_they_are_alone() {
        becomes(
            Ending::Json,
            "{\"a/\": [\"/media/a\", \"/media/\\u0062\"]}",
            "{\"a/\": [\"/media/a?V\", \"/media/b?V\"]}",
        );
        same(Ending::Json, "{\"/media/a\": 1, \"b\": \"see /media/a\", \"c\": \"/media/\\");
        becomes(Ending::Xml, "<a b=\"x\">\n /media/a </a>", "<a b=\"x\">\n /media/a?V </a>");
        becomes(
            Ending::Xml,
            "<a href='/media/a'/><title>/media/b</title>",
            "<a href='/media/a?V'/><title>/media/b?V</title>",
        );
        becomes(
            Ending::Xml,
            "<a>&lt;img src=&quot;/media/a&quot;&gt;</a>",
            "<a>&lt;img src=&quot;/media/a?V&quot;&gt;</a>",
        );
        becomes(Ending::Xml, "<![CDATA[<img src=\"/media/a\">]]>", "<![CDATA[<img src=\"/media/a?V\">]]>");
        same(Ending::Xml, "<a>see /media/a</a><!-- /media/a --><?b /media/a?><![CDATA[/media/");
        same(Ending::Xml, "<![CDATA[/media/ü");
        becomes(Ending::Text, "Image: https://seeds.example/media/a", "Image: https://seeds.example/media/a?V");
        same(Ending::Text, "Disallow: /media/a");
    }

    #[test]
    fn versions_are_taken_away_again() {
        let digest = version(0x0123_4567_89ab_cdef);
        assert_eq!(digest, "v=0123456789ab");
        for (text, bare) in [
            (format!("/media/a?{digest}"), "/media/a"),
            (format!("\"/media/a?b=1&amp;{digest}#c\", '/media/b?{digest}'"), "\"/media/a?b=1#c\", '/media/b'"),
            (format!("/media/a?{digest}0"), "/media/a?v=0123456789ab0"),
            (format!("/media/a/{digest}"), "/media/a/v=0123456789ab"),
            ("?v=1".to_owned(), "?v=1"),
        ] {
            assert_eq!(without_versions(&text), bare);
        }
    }

    #[test]
    fn any_text_is_gone_through() {
        let pieces = [
            "<![CDATA[",
            "]]>",
            "]",
            "<",
            ">",
            "\"",
            "'",
            "=",
            "/media/a",
            " src",
            "img",
            "<!--",
            "-->",
            "<style>",
            "</style>",
            "<script",
            "\\",
            "&quot;",
            "ü",
        ];
        let mut number: u64 = 7;
        for _ in 0..20_000 {
            let text: String = (0..8)
                .map(|_| {
                    number = number.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1);
                    pieces[(number >> 33) as usize % pieces.len()]
                })
                .collect();
            for format in [Ending::Html, Ending::Xml, Ending::Json, Ending::Text] {
                let new = changed(&text, format, Among::FilesAndSearch, &versioned);
                assert_eq!(new.matches("/media/a").count(), text.matches("/media/a").count(), "{text}");
            }
        }
    }
}
