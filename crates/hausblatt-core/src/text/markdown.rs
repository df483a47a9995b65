//! Markdown to HTML: CommonMark with tables, footnotes, strikethrough, task lists and heading anchors.

use std::borrow::Cow;
use std::ops::Range;

use hausblatt_lang::escape::html::escape;
use hausblatt_lang::escape::url::is_safe_link;
use hausblatt_lang::html::place::EscapingRow;
use pulldown_cmark::{CowStr, Event, LinkType, Options, Parser, Tag, TagEnd, html as writer};
use rustc_hash::FxHashMap;

use crate::text::clean::{DEEPEST, clean, is_too_deep, removed};
use crate::text::slug::slug;

/// What is done with raw HTML in Markdown.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum RawHtml {
    /// The rendered whole is cleaned.
    #[default]
    Clean,
    /// It is trusted.
    Keep,
    /// It is shown as text.
    Escape,
}

pub(super) fn options() -> Options {
    Options::ENABLE_TABLES | Options::ENABLE_FOOTNOTES | Options::ENABLE_STRIKETHROUGH | Options::ENABLE_TASKLISTS
}

/// Where a link leads: the address after a reference or a path; none where it is a broken link.
pub type Links<'l> = &'l dyn Fn(&str) -> Option<String>;

/// How an image is shown that Markdown names.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct ShownImage {
    /// Its address.
    pub address: String,
    /// Other addresses of it with their widths, as `srcset` has them.
    pub srcset: String,
    /// How wide it is shown, as `sizes` has it.
    pub sizes: String,
    /// Its size in pixels.
    pub size: (u32, u32),
}

/// How the image at an address is shown, if not as it is.
pub type Images<'i> = &'i dyn Fn(&str) -> Option<ShownImage>;

/// Renders Markdown. A link that is a broken link is left out, and its text stays. Of trays in it nothing stays.
pub fn html(text: &str, raw: RawHtml, links: Links<'_>, images: Images<'_>) -> String {
    html_with_trays(text, raw, (links, images), &|_| String::new())
}

/// The tray that a block of HTML is, if it is nothing but a comment that names one: `<!-- tray middle -->`.
pub(super) fn tray_of(block: &str) -> Option<&str> {
    let block = block.trim();
    let inside = block.strip_prefix("<!--")?.strip_suffix("-->")?.trim();
    let name = inside.strip_prefix("tray")?.strip_prefix([' ', '\t'])?.trim();
    (!name.is_empty() && !name.contains("--") && !block.contains('\n') && !name.contains('>')).then_some(name)
}

/// The trays in a document, each with its place.
pub(crate) fn trays(text: &str) -> Vec<(String, Range<usize>)> {
    // Most documents have none, and need not be read for this.
    if memchr::memmem::find(text.as_bytes(), b"<!--").is_none() {
        return Vec::new();
    }
    let events = Parser::new_ext(text, options()).into_offset_iter().filter_map(|(event, range)| match event {
        Event::Start(Tag::HtmlBlock) => Some((tray_of(text.get(range.clone())?)?.to_owned(), range)),
        _ => None,
    });
    events.collect()
}

/// Renders Markdown with what `tray` gives in the place of each tray in it. That stays as it is, whatever is done with the
/// document's own HTML.
pub(crate) fn html_with_trays(
    text: &str,
    raw: RawHtml,
    asked: (Links<'_>, Images<'_>),
    tray: &dyn Fn(&str) -> String,
) -> String {
    let trays = trays(text);
    if trays.is_empty() {
        return html_with_places(text, raw, asked, None);
    }
    // Nobody can write this text into itself.
    let place = format!("tray-{:016x}-", xxhash_rust::xxh3::xxh3_64_with_seed(text.as_bytes(), text.len() as u64));
    let html = html_with_places(text, raw, asked, Some(&place));
    let mut out = String::with_capacity(html.len());
    let mut rest = html.as_str();
    for (number, (name, _)) in trays.iter().enumerate() {
        let Some((before, after)) = rest.split_once(&format!("{place}{number};")) else { continue };
        out.push_str(before);
        out.push_str(&tray(name));
        rest = after;
    }
    out + rest
}

fn html_with_places(text: &str, raw: RawHtml, (links, images): (Links<'_>, Images<'_>), place: Option<&str>) -> String {
    let raw = if raw == RawHtml::Clean && nests_too_deep(text) { RawHtml::Escape } else { raw };
    let mut has_raw = false;
    // Whether each link that is open is left out.
    let mut open: Vec<bool> = Vec::new();
    let (mut trays, mut begins) = (0, false);
    let mut events: Vec<Event<'_>> = Vec::with_capacity(text.len() / 10);
    for event in Parser::new_ext(text, options()) {
        // A comment at the beginning of a block is all of it.
        let first = std::mem::replace(&mut begins, matches!(event, Event::Start(Tag::HtmlBlock)));
        match event {
            Event::Start(Tag::Link { .. } | Tag::Image { .. }) | Event::End(TagEnd::Link) => {
                events.extend(led(event, links, &mut open).map(safe));
            }
            Event::Html(text) if first && place.is_some() && tray_of(&text).is_some() => {
                trays += 1;
                events.extend(place.map(|place| Event::Html(format!("{place}{};\n", trays - 1).into())));
            }
            Event::Html(text) | Event::InlineHtml(text) => {
                has_raw = true;
                events.push(if raw == RawHtml::Escape { Event::Text(text) } else { Event::Html(text) });
            }
            other => events.push(other),
        }
    }
    anchor_headings(&mut events);
    label_tasks(&mut events);
    let events = fit_images(events, images);
    let mut out = String::with_capacity(text.len() * 5 / 4);
    writer::push_html(&mut out, events.into_iter());
    // CommonMark 0.31, section 2.3.
    if memchr::memchr(0, out.as_bytes()).is_some() {
        out = out.replace('\0', "\u{fffd}");
    }
    if has_raw && raw == RawHtml::Clean { clean(&out) } else { out }
}

/// Writes the images that are shown otherwise than they are.
fn fit_images<'e>(events: Vec<Event<'e>>, images: Images<'_>) -> Vec<Event<'e>> {
    // Most documents have none.
    if !events.iter().any(|event| matches!(event, Event::Start(Tag::Image { .. }))) {
        return events;
    }
    let mut fitted = Vec::with_capacity(events.len());
    // The image that is read, its title, its text so far, and how many images its text is in.
    let mut open: Option<(ShownImage, CowStr<'e>, String, usize)> = None;
    for event in events {
        let Some((shown, title, alt, depth)) = &mut open else {
            match event {
                Event::Start(Tag::Image { link_type, dest_url, title, id }) => match images(&dest_url) {
                    Some(shown) => open = Some((shown, title, String::new(), 0)),
                    None => fitted.push(Event::Start(Tag::Image { link_type, dest_url, title, id })),
                },
                other => fitted.push(other),
            }
            continue;
        };
        match event {
            Event::Text(text) | Event::Code(text) => alt.push_str(&text),
            Event::SoftBreak | Event::HardBreak => alt.push(' '),
            // Images in the text of an image count as their text.
            Event::Start(Tag::Image { .. }) => *depth += 1,
            Event::End(TagEnd::Image) if *depth > 0 => *depth -= 1,
            Event::End(TagEnd::Image) => {
                fitted.push(Event::InlineHtml(image(shown, alt, title).into()));
                open = None;
            }
            _ => {}
        }
    }
    fitted
}

fn image(shown: &ShownImage, alt: &str, title: &str) -> String {
    let mut out = String::from("<img");
    let mut attribute = |name: &str, value: &str| {
        out.push_str(&format!(" {name}=\""));
        escape(value, &mut out);
        out.push('"');
    };
    attribute("src", &shown.address);
    if !shown.srcset.is_empty() {
        attribute("srcset", &shown.srcset);
        attribute("sizes", &shown.sizes);
    }
    attribute("width", &shown.size.0.to_string());
    attribute("height", &shown.size.1.to_string());
    attribute("alt", alt);
    if !title.is_empty() {
        attribute("title", title);
    }
    out + " />"
}

/// An event with its link's address in the place of what was written; none for a broken link.
fn led<'e>(event: Event<'e>, links: Links<'_>, open: &mut Vec<bool>) -> Option<Event<'e>> {
    let to = |written: CowStr<'e>| match is_written_out(&written) {
        true => Some(written),
        false => links(&written).map(|address| if *address == *written { written } else { address.into() }),
    };
    match event {
        Event::Start(Tag::Link { link_type, dest_url, title, id }) => {
            let email = link_type == LinkType::Email;
            let found = if email { Some(dest_url) } else { to(dest_url) };
            open.push(found.is_none());
            found.map(|dest_url| Event::Start(Tag::Link { link_type, dest_url, title, id }))
        }
        Event::End(TagEnd::Link) => (!open.pop().unwrap_or(false)).then_some(Event::End(TagEnd::Link)),
        Event::Start(Tag::Image { link_type, dest_url, title, id }) => {
            let dest_url = to(dest_url).unwrap_or(CowStr::Borrowed("about:invalid"));
            Some(Event::Start(Tag::Image { link_type, dest_url, title, id }))
        }
        other => Some(other),
    }
}

/// Whether an address is plainly neither a reference nor a path of a content file.
fn is_written_out(address: &str) -> bool {
    address.starts_with("https://")
        || address.starts_with('#')
        || (address.starts_with('/') && !address.contains(".md"))
}

/// The links and images of a document, each with its place.
pub fn links(text: &str) -> impl Iterator<Item = (String, Range<usize>)> {
    Parser::new_ext(text, options()).into_offset_iter().filter_map(|(event, range)| match event {
        Event::Start(Tag::Link { link_type, dest_url, .. }) if link_type != LinkType::Email => {
            Some((dest_url.into_string(), range))
        }
        Event::Start(Tag::Image { dest_url, .. }) => Some((dest_url.into_string(), range)),
        _ => None,
    })
}

/// Whether the HTML in a document nests too deep to be cleaned; it is shown as text then.
pub(crate) fn nests_too_deep(text: &str) -> bool {
    // Most documents have no HTML, and need not be read for this.
    if memchr::memchr_iter(b'<', text.as_bytes()).nth(DEEPEST).is_none() {
        return false;
    }
    let mut raw = String::new();
    for event in Parser::new_ext(text, options()) {
        if let Event::Html(html) | Event::InlineHtml(html) = event {
            raw.push_str(&html);
        }
    }
    is_too_deep(&raw)
}

/// What cleaning removes from the HTML in a document, each with its place; each is reported once.
pub(crate) fn removed_html(text: &str) -> Vec<(String, usize)> {
    let mut found: Vec<(String, usize)> = Vec::new();
    for (event, range) in Parser::new_ext(text, options()).into_offset_iter() {
        if !matches!(event, Event::Start(Tag::HtmlBlock) | Event::InlineHtml(_)) {
            continue;
        }
        let start = range.start;
        for (what, at) in text.get(range).map(removed).unwrap_or_default() {
            if !found.iter().any(|(known, _)| *known == what) {
                found.push((what, start + at));
            }
        }
    }
    found
}

/// The references to footnotes that have no text, each with its place: they are shown as they are written.
pub(crate) fn missing_footnotes(text: &str) -> Vec<(String, Range<usize>)> {
    let mut found = Vec::new();
    let mut in_code = false;
    // Text that is written without a break, since a bracket is an event of its own.
    let mut run = 0..0;
    let mut look = |run: &Range<usize>| {
        let mut from = run.start;
        while let Some(at) = text.get(from..run.end).and_then(|rest| rest.find("[^")).map(|at| from + at) {
            from = at + 2;
            let is_part = |c: char| c.is_alphanumeric() || c == '-' || c == '_';
            let label = text[from..run.end].split(|c| !is_part(c)).next().unwrap_or("");
            let end = from + label.len() + 1;
            let is_label = !label.is_empty() && text[from + label.len()..run.end].starts_with(']');
            if is_label && !text[..at].ends_with('\\') {
                found.push((label.to_owned(), at..end));
            }
        }
    };
    for (event, range) in Parser::new_ext(text, options()).into_offset_iter() {
        match event {
            Event::Start(Tag::CodeBlock(_)) => in_code = true,
            Event::End(TagEnd::CodeBlock) => in_code = false,
            Event::Text(_) if !in_code && range.start == run.end => run.end = range.end,
            Event::Text(_) if !in_code => {
                look(&run);
                run = range;
            }
            _ => {}
        }
    }
    look(&run);
    found
}

/// All plain text of a document.
pub(crate) fn plain_text(text: &str) -> String {
    let mut found = String::with_capacity(text.len());
    for event in Parser::new_ext(text, options()) {
        match event {
            Event::Text(text) | Event::Code(text) => found.push_str(&text),
            Event::SoftBreak | Event::HardBreak | Event::End(_) => found.push(' '),
            _ => {}
        }
    }
    found
}

/// The plain text of the first paragraph.
pub(crate) fn first_paragraph(text: &str) -> String {
    let mut found = String::new();
    let mut inside = false;
    for event in Parser::new_ext(text, options()) {
        match event {
            Event::Start(Tag::Paragraph) => inside = true,
            Event::End(TagEnd::Paragraph) if !found.trim().is_empty() => break,
            Event::Text(text) | Event::Code(text) if inside => found.push_str(&text),
            Event::SoftBreak | Event::HardBreak if inside => found.push(' '),
            _ => {}
        }
    }
    found.trim().to_owned()
}

fn safe(event: Event<'_>) -> Event<'_> {
    match event {
        Event::Start(Tag::Link { link_type, dest_url, title, id }) => {
            Event::Start(Tag::Link { link_type, dest_url: allowed(dest_url, EscapingRow::Anywhere), title, id })
        }
        Event::Start(Tag::Image { link_type, dest_url, title, id }) => {
            Event::Start(Tag::Image { link_type, dest_url: allowed(dest_url, EscapingRow::Image), title, id })
        }
        other => other,
    }
}

fn allowed(address: CowStr<'_>, row: EscapingRow) -> CowStr<'_> {
    if is_safe_link(&address, row) { address } else { CowStr::Borrowed("about:invalid") }
}

/// Gives each heading an id made of its text, unique in the document.
fn anchor_headings(events: &mut [Event<'_>]) {
    // Each name that is taken, and the number from which to look on where it is wanted again.
    let mut taken: FxHashMap<String, u32> = FxHashMap::default();
    for at in 0..events.len() {
        if !matches!(&events[at], Event::Start(Tag::Heading { id: None, .. })) {
            continue;
        }
        let text = heading_text(&events[at + 1..]);
        let base = Some(slug(&text)).filter(|slug| !slug.is_empty()).unwrap_or_else(|| "section".to_owned());
        let mut name = base.clone();
        while taken.contains_key(&name) {
            let number = taken.entry(base.clone()).or_insert(1);
            *number += 1;
            name = format!("{base}-{number}");
        }
        taken.insert(name.clone(), 1);
        if let Event::Start(Tag::Heading { id, .. }) = &mut events[at] {
            *id = Some(CowStr::from(name));
        }
    }
}

/// Makes the text of each task the label of its box. One that holds HTML of its own is left alone: what that opens, a
/// label could cut in two.
fn label_tasks(events: &mut Vec<Event<'_>>) {
    if !events.iter().any(|event| matches!(event, Event::TaskListMarker(_))) {
        return;
    }
    let inline = |event: &Event<'_>| match event {
        Event::Start(tag) => {
            matches!(tag, Tag::Emphasis | Tag::Strong | Tag::Strikethrough | Tag::Link { .. } | Tag::Image { .. })
        }
        Event::End(tag) => {
            matches!(tag, TagEnd::Emphasis | TagEnd::Strong | TagEnd::Strikethrough | TagEnd::Link | TagEnd::Image)
        }
        Event::Rule | Event::Html(_) => false,
        _ => true,
    };
    let mut labelled = Vec::with_capacity(events.len() + 2);
    let mut rest = std::mem::take(events).into_iter().peekable();
    while let Some(event) = rest.next() {
        if !matches!(event, Event::TaskListMarker(_)) {
            labelled.push(event);
            continue;
        }
        let from = labelled.len();
        labelled.push(event);
        while let Some(next) = rest.next_if(|event| inline(event)) {
            labelled.push(next);
        }
        let has_html = labelled[from..].iter().any(|event| matches!(event, Event::InlineHtml(_) | Event::Html(_)));
        if !has_html && !matches!(rest.peek(), Some(Event::Html(_))) {
            labelled.insert(from, Event::Html("<label>".into()));
            labelled.push(Event::Html("</label>".into()));
        }
        // What ends the text is not part of the label.
        labelled.extend(rest.next());
    }
    *events = labelled;
}

/// A heading, as a table of contents shows it.
#[derive(Debug, PartialEq, Eq)]
pub(crate) struct Heading {
    /// 1 to 6.
    pub level: u8,
    /// The id that [`html`] gives it.
    pub id: String,
    /// Its text, without marks.
    pub text: String,
}

/// The headings of a text, in order.
pub(crate) fn headings(text: &str) -> Vec<Heading> {
    let mut events: Vec<Event<'_>> = Parser::new_ext(text, options()).collect();
    anchor_headings(&mut events);
    let heading = |(at, event): (usize, &Event<'_>)| match event {
        Event::Start(Tag::Heading { level, id: Some(id), .. }) => {
            Some(Heading { level: *level as u8, id: id.to_string(), text: heading_text(&events[at + 1..]) })
        }
        _ => None,
    };
    events.iter().enumerate().filter_map(heading).collect()
}

/// How long it takes to read a text, in minutes: 220 words in each, and one at least.
pub(crate) fn minutes(text: &str) -> usize {
    plain_text(text).split_whitespace().count().div_ceil(220).max(1)
}

fn heading_text(events: &[Event<'_>]) -> String {
    let inside = events.iter().take_while(|event| !matches!(event, Event::End(TagEnd::Heading(_))));
    let texts = inside.map(|event| match event {
        Event::Text(text) | Event::Code(text) => Cow::Borrowed(&**text),
        Event::SoftBreak | Event::HardBreak => Cow::Borrowed(" "),
        _ => Cow::Borrowed(""),
    });
    texts.collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    fn all(address: &str) -> Option<String> {
        match address {
            "page:gone" => None,
            "page:visit#when" => Some("/visit/#when".to_owned()),
            other => Some(other.to_owned()),
        }
    }

    #[test]
    fn renders_and_anchors() {
        for (text, expected) in [
            ("# A *b*\n\n# A b\n", "<h1 id=\"a-b\">A <em>b</em></h1>\n<h1 id=\"a-b-2\">A b</h1>\n"),
            ("[x](/visit/) ~~y~~\n", "<p><a href=\"/visit/\">x</a> <del>y</del></p>\n"),
            (
                "[a](page:visit#when) [b *c*](page:gone) ![d](page:gone)\n",
                "<p><a href=\"/visit/#when\">a</a> b <em>c</em> <img src=\"about:invalid\" alt=\"d\" /></p>\n",
            ),
            (
                "- [x] sow *peas*\n- [ ] water\n  - early\n",
                "<ul>\n<li><label><input disabled=\"\" type=\"checkbox\" checked=\"\"/>\nsow <em>peas</em></label></li>\n<li><label><input disabled=\"\" type=\"checkbox\"/>\nwater</label>\n<ul>\n<li>early</li>\n</ul>\n</li>\n</ul>\n",
            ),
            (
                "- [ ] a\n\n  b\n- [ ] <b>c</b>\n",
                "<ul>\n<li>\n<p><label><input disabled=\"\" type=\"checkbox\">\na</label></p>\n<p>b</p>\n</li>\n<li>\n<p><input disabled=\"\" type=\"checkbox\">\n<b>c</b></p>\n</li>\n</ul>\n",
            ),
            ("[x](javascript:alert(1))\n", "<p><a href=\"about:invalid\">x</a></p>\n"),
            ("[x](java&Tab;script:y)\n", "<p><a href=\"about:invalid\">x</a></p>\n"),
            (
                "![x](data:image/png;base64,a) <data:text/html,x>\n",
                "<p><img src=\"data:image/png;base64,a\" alt=\"x\" /> <a href=\"about:invalid\">data:text/html,x</a></p>\n",
            ),
        ] {
            assert_eq!(html(text, RawHtml::Clean, &all, &|_| None), expected);
        }
    }

    #[test]
    fn headings_are_those_of_the_html() {
        let text = "# A *b*\n\nText\n\nA b\n---\n\n### `c` <i>d</i>\n";
        let found: Vec<(u8, String, String)> =
            headings(text).into_iter().map(|heading| (heading.level, heading.id, heading.text)).collect();
        let expected = [(1, "a-b", "A b"), (2, "a-b-2", "A b"), (3, "c-d", "c d")];
        assert_eq!(found, expected.map(|(level, id, text)| (level, id.to_owned(), text.to_owned())));
        let shown = html(text, RawHtml::Clean, &all, &|_| None);
        assert!(found.iter().all(|(level, id, _)| shown.contains(&format!("<h{level} id=\"{id}\">"))), "{shown}");
        assert_eq!((minutes(""), minutes(&"a ".repeat(220)), minutes(&"a ".repeat(221))), (1, 1, 2));
    }

    #[test]
    fn images_are_shown_as_is_wanted() {
        let images = |address: &str| {
            let (address, srcset) = ("/media/a.jpg?b&c".to_owned(), if address == "one" { "" } else { "/b 1w" });
            Some(ShownImage { address, srcset: srcset.to_owned(), sizes: "\"50vw\"".to_owned(), size: (4, 3) })
        };
        let shown = |text: &str| html(text, RawHtml::Clean, &all, &images);
        assert_eq!(
            shown("![a *b* `c`\nd](two \"e\\\"f\")"),
            "<p><img src=\"/media/a.jpg?b&amp;c\" srcset=\"/b 1w\" sizes=\"&quot;50vw&quot;\" width=\"4\" height=\"3\" \
             alt=\"a b c d\" title=\"e&quot;f\" /></p>\n"
        );
        let alone = "<p><img src=\"/media/a.jpg?b&amp;c\" width=\"4\" height=\"3\" alt=\"\" /></p>\n";
        assert_eq!(shown("![](one)"), alone);
        // What is in the text of an image is its text.
        assert!(shown("[![x ![y](b) z](a)](c) <i>raw</i>").contains("alt=\"x y z\""));
        assert!(shown("![a](b) <i>raw</i>").contains("srcset=\"/b 1w\""));
    }

    #[test]
    fn raw_html_is_cleaned_kept_or_shown() {
        let text = "## T\n\n<b class=\"x\" onclick=\"y\" style=\"z\">a</b> <script>x</script> <a href=\"javascript:x\">b</a>\n\n- [x] done\n";
        let cleaned = html(text, RawHtml::Clean, &all, &|_| None);
        assert!(
            cleaned.contains("<b class=\"x\">a</b>")
                && cleaned.contains("<h2 id=\"t\">")
                && cleaned.contains("type=\"checkbox\""),
            "{cleaned}"
        );
        for gone in ["onclick", "style", "script", "javascript"] {
            assert!(!cleaned.contains(gone), "{gone}: {cleaned}");
        }
        assert!(html(text, RawHtml::Keep, &all, &|_| None).contains("onclick=\"y\""));
        assert!(html(text, RawHtml::Escape, &all, &|_| None).contains("&lt;script&gt;"));
    }

    #[test]
    fn trays_are_found_in_texts_and_nothing_can_be_written_for_them() {
        let tray = |name: &str| format!("<{name}>");
        let text = "A\n\n<!-- tray the middle -->\n\n- b\n\n  <!-- tray x -->\n\n<b onclick=\"c\">d</b>\n\n`<!-- tray y -->` <!-- tray z -->\n\n<div>\n<!-- tray in -->\n</div>\n\n<!-- tray a --> b\n";
        assert_eq!(trays(text).into_iter().map(|(name, _)| name).collect::<Vec<_>>(), ["the middle", "x"]);
        for raw in [RawHtml::Clean, RawHtml::Keep, RawHtml::Escape] {
            let shown = html_with_trays(text, raw, (&all, &|_| None), &tray);
            assert!(shown.starts_with("<p>A</p>\n<the middle>\n<ul>"), "{shown}");
            assert!(shown.contains("<x>\n</li>") && !shown.contains("tray-"), "{shown}");
            let without = html(text, raw, &all, &|_| None);
            assert!(!without.contains("the middle") && !without.contains("tray-"), "{without}");
        }
        for none in ["<!-- tray -->\n", "<!-- trays x -->\n", "<!--\ntray x\n-->\n", "    <!-- tray x -->\n", "tray-0;"]
        {
            assert!(
                trays(none).is_empty()
                    && html_with_trays(none, RawHtml::Clean, (&all, &|_| None), &tray)
                        == html(none, RawHtml::Clean, &all, &|_| None)
            );
        }
    }

    #[test]
    fn finds_footnotes_without_text() {
        for (text, expected) in [
            ("A[^1] b[^2].\n\n[^1]: One\n", &[("2", 7..11)][..]),
            ("*A[^one]*\nb[^one]\n", &[("one", 2..8), ("one", 11..17)]),
            ("`[^1]` \\[^2] [^3](/x/)\n\n    [^4]\n\n```\n[^5]\n```\n[^a b] [^]\n", &[]),
        ] {
            let expected: Vec<(String, Range<usize>)> =
                expected.iter().map(|(label, range)| ((*label).to_owned(), range.clone())).collect();
            assert_eq!(missing_footnotes(text), expected, "{text}");
        }
    }

    #[test]
    fn headings_tasks_and_elements_cost_what_they_are_long() {
        let count = |text: &str, piece: &str| html(text, RawHtml::Clean, &all, &|_| None).matches(piece).count();
        assert_eq!(count(&"# a\n\n".repeat(20_000), "id=\"a-"), 19_999);
        let shown = |_: &str| {
            Some(ShownImage { address: String::new(), srcset: String::new(), sizes: String::new(), size: (1, 1) })
        };
        let images = html(&"![a](b) ".repeat(50_000), RawHtml::Clean, &all, &shown);
        assert_eq!(images.matches("width=").count(), 50_000);
        assert_eq!(count("# a\n\n# a\n\n# a-2\n\n# a\n\n", "id=\"a-2\""), 1);
        assert_eq!(count(&"- [x] *a*\n".repeat(20_000), "<label>"), 20_000);
        let deep = "<div>\n".repeat(30_000);
        assert!(nests_too_deep(&deep) && html(&deep, RawHtml::Clean, &all, &|_| None).contains("&lt;div&gt;"));
        for flat in ["<b>x</b> ".repeat(2_000), "<p>".repeat(2_000), "`<div>` ".repeat(2_000)] {
            assert!(!nests_too_deep(&flat));
        }
    }

    #[test]
    fn tells_what_cleaning_removes_once_and_where() {
        let text =
            "Sow <b onclick=\"a\">x</b>\n`<script>`\n\n<div>\n<script>b</script>\n</div>\n\n<script>c</script>\n";
        let at = text.find("<script>b").unwrap();
        assert_eq!(
            removed_html(text),
            [("onclick is removed from <b>".to_owned(), 4), ("<script> is removed".to_owned(), at)]
        );
    }

    #[test]
    fn finds_the_first_paragraph() {
        assert_eq!(first_paragraph("# Title\n\nSow `it`\n*late*.\n\nMore."), "Sow it late.");
        assert_eq!(first_paragraph("# Only"), "");
    }
}
