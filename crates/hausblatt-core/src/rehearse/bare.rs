//! Labels without their values, and elements that hold nothing: found where a value printed nothing.

use hausblatt_lang::html::names::{ENDLESS, VOID};
use hausblatt_lang::library::UnitId;
use hausblatt_lang::render::Piece;

/// What remains of something that printed nothing.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) struct Bare {
    /// What printed nothing, or what remains.
    pub at: Spot,
    /// What remains.
    pub rest: Rest,
}

/// Where something is.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Spot {
    /// The value that a step of a file prints.
    Value(UnitId, usize),
    /// A tag, by its first byte.
    Tag(usize),
}

/// What remains where a value is nothing.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) enum Rest {
    /// The words that belong to it.
    Label(String),
    /// An element of this name.
    Element(String),
}

/// A label is at most so many characters long; more is a text of its own.
const LABEL: usize = 60;

/// Elements of which nothing is said where they are empty by themselves: others are judged, or they only group.
const JUDGED: &[&str] =
    &["p", "li", "dd", "figcaption", "blockquote", "caption", "legend", "time", "address", "cite", "small"];
/// Elements that are what they show.
const MEDIA: &[&str] = &[
    "img", "svg", "video", "audio", "canvas", "iframe", "object", "embed", "input", "select", "textarea", "hr",
    "picture", "math", "meter", "progress", "button",
];
/// Elements that name what comes after them.
const NAMING: &[&str] = &["h1", "h2", "h3", "h4", "h5", "h6", "dt", "th", "strong", "b", "label"];
/// Signs between two values.
const JOINING: &[&str] = &[",", ";", ":", "·", "–", "—", "|", "/", "→", "×", "-"];
/// Headings below the page's own, the highest first.
const HEADINGS: &[&str] = &["h2", "h3", "h4", "h5", "h6"];
/// Elements that may hold a label and its value, and no more.
const SMALL: &[&str] = &[
    "p",
    "li",
    "dd",
    "dt",
    "td",
    "th",
    "h1",
    "h2",
    "h3",
    "h4",
    "h5",
    "h6",
    "figcaption",
    "span",
    "a",
    "div",
    "small",
    "em",
    "strong",
    "b",
    "time",
    "cite",
    "caption",
    "legend",
    "address",
];
/// Elements whose text is none of the page's.
const RAW: &[&str] = &["script", "style", "textarea", "template"];

#[derive(Debug)]
struct Element {
    name: String,
    /// Its tag, what is in it, and its end.
    start: usize,
    inside: usize,
    close: usize,
    end: usize,
    parent: Option<usize>,
}

struct Page<'p> {
    text: &'p str,
    elements: Vec<Element>,
    /// The ranges of its tags, comments and raw texts, in order.
    tags: Vec<(usize, usize)>,
    /// The ranges of what values printed.
    values: Vec<(usize, usize)>,
}

/// What remains around the values of a page that printed nothing.
pub(super) fn bare(text: &str, pieces: &[Piece]) -> Vec<Bare> {
    let mut page = Page::of(text);
    let end_of = |at: usize| pieces.get(at + 1).map_or(text.len(), |next| next.at);
    let is_empty = |at: usize| text.get(pieces[at].at..end_of(at)).is_none_or(|printed| printed.trim().is_empty());
    let values: Vec<usize> = (0..pieces.len()).filter(|&at| pieces[at].is_value).collect();
    page.values = values.iter().filter(|&&at| !is_empty(at)).map(|&at| (pieces[at].at, end_of(at))).collect();
    let mut found: Vec<((usize, usize), Bare)> = Vec::new();
    for &at in values.iter().filter(|&&at| is_empty(at)) {
        let Some((range, rest)) = page.rest(pieces[at].at) else { continue };
        if found.iter().any(|(known, other)| *known == range && other.rest == rest) {
            continue;
        }
        found.push((range, Bare { at: Spot::Value(pieces[at].unit, pieces[at].step), rest }));
    }
    // Where a loop or a condition printed nothing, no value is known.
    let known: Vec<(usize, usize)> = found.iter().map(|(range, _)| *range).collect();
    for (number, element) in page.elements.iter().enumerate() {
        let is_known = known.iter().any(|&(start, end)| start < element.end && element.start < end);
        let Some(rest) = page.tag_rest(number).filter(|_| !is_known) else { continue };
        if !found.iter().any(|(_, other)| other.rest == rest) {
            found.push(((element.start, element.end), Bare { at: Spot::Tag(element.start), rest }));
        }
    }
    found.into_iter().map(|(_, bare)| bare).collect()
}

/// The first byte and the words of a page's own heading, where nothing is below it.
pub(super) fn last_heading(text: &str) -> Option<(usize, String)> {
    let page = Page::of(text);
    let main = page.elements.iter().find(|element| element.name == "main")?;
    let heading = page.elements.iter().find(|element| element.name == "h1" && element.start > main.start)?;
    let (behind, _, has_media) = page.holds(heading.end, main.close.max(heading.end));
    if has_media || behind.chars().any(char::is_alphanumeric) {
        return None;
    }
    Some((heading.start, words(&page.holds(heading.inside, heading.close).0)))
}

fn has_word(text: &str) -> bool {
    text.chars().any(char::is_alphabetic)
}

impl<'p> Page<'p> {
    fn of(text: &'p str) -> Self {
        let mut page = Self { text, elements: Vec::new(), tags: Vec::new(), values: Vec::new() };
        let mut open: Vec<usize> = Vec::new();
        let mut at = 0;
        while let Some(start) = text[at..].find('<').map(|found| at + found) {
            let rest = &text[start..];
            let end = tag_end(rest).map_or(text.len(), |end| start + end);
            at = end;
            let name: String = rest[1..]
                .trim_start_matches('/')
                .chars()
                .take_while(|c| c.is_ascii_alphanumeric() || *c == '-')
                .collect();
            let name = name.to_ascii_lowercase();
            if rest.starts_with("<!") {
                page.tags.push((start, end));
            } else if rest.starts_with("</") {
                page.tags.push((start, end));
                if let Some(position) = open.iter().rposition(|&one| page.elements[one].name == name) {
                    for one in open.split_off(position) {
                        (page.elements[one].close, page.elements[one].end) = (start, end);
                    }
                }
            } else if name.is_empty() {
                at = start + 1;
            } else {
                let ends_itself =
                    |other: &str| other == name || ["dt", "dd"].contains(&other) && ["dt", "dd"].contains(&&*name);
                if let Some(&last) = open.last().filter(|&&last| {
                    ENDLESS.contains(&&*page.elements[last].name) && ends_itself(&page.elements[last].name)
                }) {
                    open.pop();
                    (page.elements[last].close, page.elements[last].end) = (start, start);
                }
                let whole = text.len();
                let is_void = VOID.contains(&&*name) || text[..end].ends_with("/>");
                let element = Element {
                    name: name.clone(),
                    start,
                    inside: end,
                    close: whole,
                    end: whole,
                    parent: open.last().copied(),
                };
                page.elements.push(element);
                let number = page.elements.len() - 1;
                if is_void {
                    (page.elements[number].close, page.elements[number].end) = (end, end);
                    page.tags.push((start, end));
                } else if RAW.contains(&&*name) {
                    let close = text[end..].find(&format!("</{name}")).map_or(text.len(), |found| end + found);
                    let end = tag_end(&text[close..]).map_or(text.len(), |end| close + end);
                    (page.elements[number].close, page.elements[number].end) = (close, end);
                    page.tags.push((start, end));
                    at = end;
                } else {
                    page.tags.push((start, end));
                    open.push(number);
                }
            }
        }
        page
    }

    /// What remains where a value printed nothing at a byte, and the range that this is about.
    fn rest(&self, at: usize) -> Option<((usize, usize), Rest)> {
        if let Some(&(start, end)) = self.tags.iter().find(|&&(start, end)| start < at && at < end) {
            let style = self.style_beside(start, at, end)?;
            return Some(((at, at + 1), Rest::Label(style)));
        }
        let inner = self.elements.iter().rposition(|element| element.inside <= at && at <= element.close)?;
        let element = &self.elements[inner];
        if let Some(label) = self.words_beside(at) {
            return Some(((at, at + 1), Rest::Label(label)));
        }
        let (literal, has_value, has_media) = self.holds(element.inside, element.close);
        let is_sentence = literal.trim_end().ends_with(['.', '!', '?']);
        let is_label = has_word(&literal) && literal.trim().chars().count() <= LABEL && !is_sentence;
        if is_label && !has_value && !has_media && SMALL.contains(&&*element.name) {
            return Some(((element.start, element.end), Rest::Label(words(&literal))));
        }
        if has_word(&literal) || has_value || has_media {
            let label = self.named_by(at, at)?;
            return Some(((at, at + 1), Rest::Label(label)));
        }
        // The widest element that holds nothing but this.
        let mut widest = inner;
        while let Some(parent) = self.elements[widest].parent {
            let (literal, has_value, has_media) = self.holds(self.elements[parent].inside, self.elements[parent].close);
            let groups = ["main", "body", "html", "section", "article", "table", "tbody", "tr"]
                .contains(&&*self.elements[parent].name);
            if groups || !literal.trim().is_empty() || has_value || has_media {
                break;
            }
            widest = parent;
        }
        let element = &self.elements[widest];
        if let Some(label) = self.named_by(element.start, element.end) {
            return Some(((element.start, element.end), Rest::Label(label)));
        }
        let judged = std::iter::successors(Some(inner), |&at| self.elements[at].parent.filter(|_| at != widest));
        let judged = judged.into_iter().find(|&at| JUDGED.contains(&&*self.elements[at].name))?;
        let judged = &self.elements[judged];
        Some(((judged.start, judged.end), Rest::Element(judged.name.clone())))
    }

    /// The property and the unit around a byte of a tag, where that is in its styles.
    fn style_beside(&self, start: usize, at: usize, end: usize) -> Option<String> {
        let before = self.text.get(start..at)?;
        let (attribute, written) = before.rsplit_once(['"', '\''])?;
        if !attribute.ends_with("style=") {
            return None;
        }
        let property = written.rsplit_once(';').map_or(written, |(_, last)| last).trim();
        let unit = self.text.get(at..end)?.split([';', '"', '\'']).next()?.trim();
        Some(format!("{property} {unit}").trim().to_owned())
    }

    /// What remains of an element that holds nothing, or of a heading behind which nothing comes.
    fn tag_rest(&self, number: usize) -> Option<Rest> {
        let element = &self.elements[number];
        let (literal, has_value, has_media) = self.holds(element.inside, element.close);
        if JUDGED.contains(&&*element.name) && literal.trim().is_empty() && !has_value && !has_media {
            let label = self.named_by(element.start, element.end);
            return Some(label.map_or_else(|| Rest::Element(element.name.clone()), Rest::Label));
        }
        if !HEADINGS.contains(&&*element.name) || has_value || !has_word(&literal) {
            return None;
        }
        let behind = self.text.get(element.end..)?.trim_start();
        let next = HEADINGS.iter().find(|name| behind.strip_prefix('<').is_some_and(|rest| rest.starts_with(**name)));
        let is_last = behind.starts_with("</") || next.is_some_and(|next| **next <= *element.name);
        is_last.then(|| Rest::Label(words(&literal)))
    }

    /// The words right before and right behind a byte, in the same sentence and with no tag or value between.
    fn words_beside(&self, at: usize) -> Option<String> {
        let ends = self.tags.iter().chain(&self.values).map(|&(_, end)| end);
        let from = ends.filter(|&end| end <= at).max().unwrap_or(0);
        let starts = self.tags.iter().chain(&self.values).map(|&(start, _)| start);
        let to = starts.filter(|&start| start >= at).min().unwrap_or(self.text.len());
        let before = self.text.get(from..at)?;
        let before = before.rsplit_once(['.', '!', '?']).map_or(before, |(_, last)| last);
        let behind = self.text.get(at..to)?;
        let behind = behind.split_once(['.', '!', '?', ';']).map_or(behind, |(first, _)| first);
        let label = format!("{} {}", before.trim(), behind.trim());
        if has_word(&label) {
            return (label.trim().chars().count() <= LABEL).then(|| words(&label));
        }
        // A sign that joins a value to the one before it, or to the one behind it.
        let joins = |text: &str| JOINING.iter().find(|sign| text.contains(**sign)).map(|sign| (*sign).to_owned());
        let (is_first, is_last) = (before.trim().is_empty(), behind.trim().is_empty());
        match (is_first, is_last) {
            (false, true) => joins(before),
            (true, false) => joins(behind),
            _ => None,
        }
    }

    /// The literal text within a range, and whether it holds a value that printed something, and what is seen without text.
    fn holds(&self, from: usize, to: usize) -> (String, bool, bool) {
        let mut literal = String::new();
        let mut at = from;
        let mut skipped: Vec<(usize, usize)> =
            self.tags.iter().chain(&self.values).copied().filter(|&(start, end)| start < to && end > from).collect();
        skipped.sort_unstable();
        for (start, end) in skipped {
            literal.push_str(self.text.get(at..start.max(at)).unwrap_or(""));
            literal.push(' ');
            at = at.max(end);
        }
        literal.push_str(self.text.get(at..to).unwrap_or(""));
        let in_text = |at: usize| !self.tags.iter().any(|&(start, end)| start < at && at < end);
        // A value may be in the element, or the element in the value.
        let has_value = self.values.iter().any(|&(start, end)| start < to && end > from && in_text(start));
        let media = |element: &&Element| element.start >= from && element.end <= to && MEDIA.contains(&&*element.name);
        (literal, has_value, self.elements.iter().any(|element| media(&element)))
    }

    /// The words of the element right before a range that names it, where nothing else comes behind.
    fn named_by(&self, from: usize, to: usize) -> Option<String> {
        let before = self.text.get(..from)?.trim_end();
        let ends_there = |element: &&Element| {
            let whole = self.text.get(..element.end).map_or(0, |whole| whole.trim_end().len());
            NAMING.contains(&&*element.name) && element.end <= from && whole == before.len()
        };
        let naming = self.elements.iter().rfind(ends_there)?;
        let (literal, has_value, _) = self.holds(naming.inside, naming.close);
        if !has_word(&literal) || has_value {
            return None;
        }
        let behind = self.text.get(to..)?.trim_start();
        let name: String = behind.trim_start_matches('<').chars().take_while(char::is_ascii_alphanumeric).collect();
        (behind.is_empty() || behind.starts_with("</") || (behind.starts_with('<') && NAMING.contains(&&*name)))
            .then(|| words(&literal))
    }
}

/// Words with single spaces between them, and without what only joins them to a value.
fn words(text: &str) -> String {
    let joined = text.split_whitespace().collect::<Vec<_>>().join(" ");
    joined.trim_matches([':', ',', '–', '-', ' ', '.', '(', ')']).to_owned()
}

/// The length of a tag or a comment with which a text begins; none where it does not end.
fn tag_end(text: &str) -> Option<usize> {
    if text.starts_with("<!--") {
        return Some(text.find("-->")? + 3);
    }
    let mut quote = None;
    for (at, byte) in text.bytes().enumerate() {
        match (quote, byte) {
            (Some(open), _) if byte == open => quote = None,
            (None, b'"' | b'\'') => quote = Some(byte),
            (None, b'>') => return Some(at + 1),
            _ => {}
        }
    }
    None
}

#[cfg(test)]
mod tests {
    use super::*;

    /// What remains of a page in which `§` is a value that printed nothing and `[…]` is what another one printed.
    fn rests(page: &str) -> Vec<Rest> {
        let (mut text, mut pieces) = (String::new(), Vec::new());
        let mut step = 0;
        let mut piece = |at: usize, is_value: bool| {
            step += 1;
            pieces.push(Piece { at, unit: 0, step, is_value });
        };
        for c in page.chars() {
            match c {
                '§' => {
                    piece(text.len(), true);
                    piece(text.len(), false);
                }
                '[' => piece(text.len(), true),
                ']' => piece(text.len(), false),
                c => text.push(c),
            }
        }
        bare(&text, &pieces).into_iter().map(|bare| bare.rest).collect()
    }

    #[test]
    fn finds_the_words_that_belong_to_a_value() {
        for (page, label) in [
            ("<p>Kept by §</p>", "Kept by"),
            ("<p>§ cm high</p>", "cm high"),
            ("<p>Free. Kept by §.</p>", "Kept by"),
            ("<p>[12] seats, with §.</p>", "seats, with"),
            ("<p><strong>Kept by:</strong> §</p>", "Kept by"),
            ("<dl><dt>Kept by</dt><dd>§</dd></dl>", "Kept by"),
            ("<dl><dt>Kept by<dd>§<dt>Height<dd>[1]</dl>", "Kept by"),
            ("<p style=\"margin: 0; height: §px\">[1]</p>", "height: px"),
            ("<title>[Runner] – §</title>", "–"),
            ("<p>[Old Mill], §</p>", ","),
            ("<p>§, [14:00]</p>", ","),
            ("<section><h2>Notes</h2>\n§\n</section>", "Notes"),
            ("<section><h2>Notes</h2><div class=\"a\"><p>§</p></div></section>", "Notes"),
            ("<h2>Notes</h2>§<h2>More</h2><p>[1]</p>", "Notes"),
            ("<dl><dt>Family</dt><dd> </dd></dl>", "Family"),
            ("<section><h2>News</h2>\n</section>", "News"),
            ("<h2>News</h2><h2>More</h2><p>[1]</p>", "News"),
            ("<table><tr><th>Height</th><td>§</td></tr></table>", "Height"),
        ] {
            assert_eq!(rests(page), [Rest::Label(label.to_owned())], "{page}");
        }
    }

    #[test]
    fn finds_elements_that_hold_nothing() {
        for (page, name) in
            [("<p class=\"lead\">§</p>", "p"), ("<ul><li>§</li><li>[1]</li></ul>", "li"), ("<p><em>§</em></p>", "p")]
        {
            assert_eq!(rests(page), [Rest::Element(name.to_owned())], "{page}");
        }
    }

    #[test]
    fn leaves_alone_what_is_right_without_the_value() {
        for page in [
            "<p>[Runner]§</p>",
            "<p>[Runner] §</p>",
            "<h1>[Runner] §</h1>",
            "<div class=\"§\">[1]</div>",
            "<p>Everything in this drawer can be borrowed. §</p>",
            "<section><h2>Notes</h2>§<p>[1]</p></section>",
            "<section><h2>[Notes]</h2>§</section>",
            "<div>§</div><span>§</span><td>§</td>",
            "<p>§<img src=\"/a.png\" alt=\"\"></p>",
            "<title>§</title><script>let a = 1; §</script>",
            "§",
            "[<p></p><dl><dt>Kept by</dt><dd></dd></dl>]",
            "<article><h3>[Runner]</h3></article>",
            "<h2>Growing</h2><h3>[Soil]</h3><p>[1]</p>",
            "<!-- Kept by § -->",
            "<p>A text that is longer than a label could be, with which a page greets those who come by §</p>",
        ] {
            assert_eq!(rests(page), [], "{page}");
        }
    }

    #[test]
    fn reads_whatever_a_page_holds() {
        for page in ["<", "<p", "<p>§<", "</p>§</div>", "<!--§", "<script>§", "<p a='§", "é§<é>", "<p>§</p", "<a <b>§"]
        {
            rests(page);
        }
    }
}
