//! Drawings (SVG 2) as they are put into pages: with nothing that runs, and with ids that no other use has.

use std::fmt::Write;

use hausblatt_lang::escape::html::escape;
use hausblatt_lang::escape::url::is_safe_link;
use hausblatt_lang::html::place::EscapingRow;
use roxmltree::{Document, Node, NodeType, ParsingOptions};

use crate::text::address::joined_address;

/// A drawing that may be put into a page.
#[derive(Debug)]
pub struct Drawing {
    /// The attributes of its first element, with a space in front of each.
    attributes: String,
    /// What is in that element. In both, each id has [`ID`] in front of it.
    content: String,
}

/// A sign in front of each id. XML can't have it.
const ID: char = '\0';
/// Elements nest at most so deep.
const DEEPEST: usize = 60;
const SVG: &str = "http://www.w3.org/2000/svg";
const XLINK: &str = "http://www.w3.org/1999/xlink";

/// Elements at which browsers leave a drawing in HTML (HTML, section 13.2.6.5).
const OF_HTML: &[&str] = &[
    "b",
    "big",
    "blockquote",
    "body",
    "br",
    "center",
    "code",
    "dd",
    "div",
    "dl",
    "dt",
    "em",
    "embed",
    "font",
    "h1",
    "h2",
    "h3",
    "h4",
    "h5",
    "h6",
    "head",
    "hr",
    "i",
    "img",
    "li",
    "listing",
    "menu",
    "meta",
    "nobr",
    "ol",
    "p",
    "pre",
    "ruby",
    "s",
    "small",
    "span",
    "strong",
    "strike",
    "sub",
    "sup",
    "table",
    "tt",
    "u",
    "ul",
    "var",
];
const ANIMATION: &[&str] = &["animate", "animateTransform", "animateMotion", "set"];

/// Reads the drawing that is published at `base`, from where its relative addresses lead.
///
/// # Errors
/// Why it can't be put into a page.
pub fn read(text: &str, base: &str) -> Result<Drawing, String> {
    let options = ParsingOptions { allow_dtd: true, ..ParsingOptions::default() };
    let text = text.strip_prefix('\u{feff}').unwrap_or(text);
    let document = Document::parse_with_options(text, options).map_err(|error| {
        let why = error.to_string();
        format!("it is not well-formed XML: {why}")
    })?;
    let root = document.root_element();
    if root.tag_name().name() != "svg" || !is_drawn(root) {
        return Err(format!("its first element is <{}>, not <svg>", root.tag_name().name()));
    }
    let ids: Vec<&str> = root.descendants().filter_map(|node| node.attribute("id")).collect();
    let mut reader = Reader { base, ids, drawing: Drawing { attributes: String::new(), content: String::new() } };
    reader.drawing.attributes = reader.attributes(root, true)?;
    for child in root.children() {
        reader.node(child, true, 1)?;
    }
    Ok(reader.drawing)
}

impl Drawing {
    /// Whether something in it has an id.
    pub fn has_ids(&self) -> bool {
        self.attributes.contains(ID) || self.content.contains(ID)
    }

    /// It as HTML: hidden from readers, or with this title. The number tells its ids from those of other uses on a page.
    pub fn inline(&self, number: u32, title: Option<&str>) -> String {
        let mut out = String::with_capacity(self.attributes.len() + self.content.len() + 64);
        let prefix = format!("drawing-{number}-");
        let push = |text: &str, out: &mut String| {
            for (at, part) in text.split(ID).enumerate() {
                out.push_str(if at > 0 { &prefix } else { "" });
                out.push_str(part);
            }
        };
        out.push_str("<svg");
        push(&self.attributes, &mut out);
        match title.filter(|title| !title.trim().is_empty()) {
            None => out.push_str(" aria-hidden=\"true\">"),
            Some(title) => {
                out.push_str(" role=\"img\"><title>");
                escape(title, &mut out);
                out.push_str("</title>");
            }
        }
        push(&self.content, &mut out);
        out.push_str("</svg>");
        out
    }
}

struct Reader<'t> {
    base: &'t str,
    ids: Vec<&'t str>,
    drawing: Drawing,
}

impl Reader<'_> {
    fn node(&mut self, node: Node<'_, '_>, is_top: bool, depth: usize) -> Result<(), String> {
        match node.node_type() {
            NodeType::Element => self.element(node, is_top, depth),
            NodeType::Text => {
                let text = node.text().unwrap_or("");
                let is_style = node.parent().is_some_and(|parent| parent.tag_name().name() == "style");
                let text = if is_style { self.marked(text, |_| true) } else { text.to_owned() };
                self.push_text(&text);
                Ok(())
            }
            NodeType::Root | NodeType::Comment | NodeType::PI => Ok(()),
        }
    }

    fn element(&mut self, node: Node<'_, '_>, is_top: bool, depth: usize) -> Result<(), String> {
        let name = node.tag_name().name();
        let at = || format!("on line {}", node.document().text_pos_at(node.range().start).row);
        if depth > DEEPEST {
            return Err(format!("its elements nest more than {DEEPEST} deep {}", at()));
        }
        // What an editor keeps for itself. A title of the whole is said by who puts it into the page.
        if !is_drawn(node) || (is_top && name == "title") || name == "metadata" {
            return Ok(());
        }
        if name.eq_ignore_ascii_case("script") {
            return Err(format!("it has a script {}", at()));
        }
        if name == "foreignObject" || OF_HTML.contains(&&*name.to_ascii_lowercase()) {
            return Err(format!("it has <{name}> {}, which is HTML", at()));
        }
        let attributes = self.attributes(node, false)?;
        let _ = write!(self.drawing.content, "<{name}{attributes}");
        if !node.has_children() {
            self.drawing.content.push_str("/>");
            return Ok(());
        }
        self.drawing.content.push('>');
        if matches!(name, "title" | "desc") {
            // What is in these browsers read as HTML.
            let text: String = node.descendants().filter(Node::is_text).filter_map(|text| text.text()).collect();
            self.push_text(&text);
        } else {
            for child in node.children() {
                self.node(child, false, depth + 1)?;
            }
        }
        let _ = write!(self.drawing.content, "</{name}>");
        Ok(())
    }

    fn push_text(&mut self, text: &str) {
        for (at, part) in text.split(ID).enumerate() {
            if at > 0 {
                self.drawing.content.push(ID);
            }
            escape(part, &mut self.drawing.content);
        }
    }

    fn attributes(&self, node: Node<'_, '_>, is_root: bool) -> Result<String, String> {
        let mut out = String::new();
        for attribute in node.attributes() {
            let (name, value) = (attribute.name(), attribute.value());
            let place = || {
                let line = node.document().text_pos_at(attribute.range().start).row;
                format!("{name} of <{}> on line {line}", node.tag_name().name())
            };
            let prefix = match attribute.namespace() {
                None => "",
                Some(XLINK) => "xlink:",
                Some("http://www.w3.org/XML/1998/namespace") => "xml:",
                Some(_) => continue,
            };
            let lower = name.to_ascii_lowercase();
            let own = is_root && (matches!(&*lower, "role" | "version" | "focusable") || lower.starts_with("aria-"));
            if own {
                continue;
            }
            let target = value.trim().to_ascii_lowercase();
            let sets_code = lower == "attributename" && (target.starts_with("on") || target.ends_with("href"));
            let leads_to_code = lower == "href" && !is_safe_link(value, EscapingRow::Image);
            if lower.starts_with("on") || leads_to_code || (sets_code && ANIMATION.contains(&node.tag_name().name())) {
                return Err(format!("{} would run as a script", place()));
            }
            let value = self.value(&lower, value);
            let _ = write!(out, " {prefix}{name}=\"");
            for (at, part) in value.split(ID).enumerate() {
                if at > 0 {
                    out.push(ID);
                }
                escape(part, &mut out);
            }
            out.push('"');
        }
        Ok(out)
    }

    /// The value of an attribute, with its ids marked and its address as it is from any page.
    fn value(&self, name: &str, value: &str) -> String {
        let is_known = |id: &str| self.ids.contains(&id);
        match name {
            "id" => format!("{ID}{value}"),
            "href" if value.starts_with('#') => self.marked(value, |_| true),
            "href" => {
                let is_relative = !value.starts_with('/') && !value.contains(':') && !value.is_empty();
                let (path, tail) = value.split_at(value.find(['?', '#']).unwrap_or(value.len()));
                let whole = is_relative.then(|| joined_address(self.base, path)).flatten();
                whole.map_or_else(|| value.to_owned(), |whole| whole + tail)
            }
            "begin" | "end" => {
                let event = |part: &str| match part.trim_start().split_once('.') {
                    Some((id, _)) if is_known(id) => format!("{ID}{}", part.trim_start()),
                    _ => part.to_owned(),
                };
                value.split(';').map(event).collect::<Vec<_>>().join(";")
            }
            "aria-labelledby" | "aria-describedby" | "aria-controls" => {
                let mark = |id: &str| if is_known(id) { format!("{ID}{id}") } else { id.to_owned() };
                value.split_ascii_whitespace().map(mark).collect::<Vec<_>>().join(" ")
            }
            _ => self.marked(value, |before| before.trim_end_matches(['"', '\'', ' ']).ends_with("url(")),
        }
    }

    /// A text with the ids marked that come after `#`, where `is_place` says so of what is in front of it.
    fn marked(&self, text: &str, is_place: impl Fn(&str) -> bool) -> String {
        let mut out = String::with_capacity(text.len() + 8);
        let mut rest = text;
        while let Some((before, after)) = rest.split_once('#') {
            out.push_str(before);
            out.push('#');
            let end = after.find(|c: char| !(c.is_alphanumeric() || "-_.:".contains(c))).unwrap_or(after.len());
            // A dot after an id in a selector begins a class.
            let id = [&after[..end], after[..end].split(['.', ':']).next().unwrap_or("")];
            let known = id.into_iter().any(|id| self.ids.contains(&id));
            if known && is_place(&text[..text.len() - after.len() - 1]) {
                out.push(ID);
            }
            rest = after;
        }
        out + rest
    }
}

fn is_drawn(node: Node<'_, '_>) -> bool {
    matches!(node.tag_name().namespace(), None | Some(SVG))
}

/// The `width` and `height` of the outermost `<svg>`, or else those of its `viewBox`.
pub(crate) fn size(text: &str) -> Option<(u32, u32)> {
    let tag = &text[text.find("<svg")?..];
    let tag = &tag[..tag.find('>')?];
    let attribute = |name: &str| {
        let value = tag.split_once(&format!(" {name}="))?.1;
        let quote = value.chars().next().filter(|quote| matches!(quote, '"' | '\''))?;
        value[1..].split(quote).next()
    };
    let pixels = |text: &str| text.trim_end_matches("px").parse::<f64>().ok().filter(|size| *size >= 1.0);
    let sides = || Some((pixels(attribute("width")?)?, pixels(attribute("height")?)?));
    let of_box = || {
        let mut sides = attribute("viewBox")?.split([' ', ',']).filter(|part| !part.is_empty()).skip(2);
        Some((pixels(sides.next()?)?, pixels(sides.next()?)?))
    };
    let (width, height) = sides().or_else(of_box)?;
    Some((width.min(1e9).round() as u32, height.min(1e9).round() as u32))
}

#[cfg(test)]
mod tests {
    use super::*;

    fn inline(text: &str) -> String {
        read(text, "/assets/icons/a.svg").unwrap().inline(1, None)
    }

    #[test]
    fn a_drawing_is_hidden_or_titled() {
        let text = "<?xml version=\"1.0\"?>\n<!DOCTYPE svg>\n<!-- a -->\n<svg xmlns=\"http://www.w3.org/2000/svg\" version=\"1.1\" \
                    role=\"img\" aria-label=\"x\" viewBox=\"0 0 8 8\"><title>Own</title><path d=\"M0 0\"/></svg>";
        let drawing = read(text, "/assets/a.svg").unwrap();
        assert_eq!(drawing.inline(1, None), "<svg viewBox=\"0 0 8 8\" aria-hidden=\"true\"><path d=\"M0 0\"/></svg>");
        let titled = "<svg viewBox=\"0 0 8 8\" role=\"img\"><title>&lt;Find&gt;</title><path d=\"M0 0\"/></svg>";
        assert_eq!(drawing.inline(1, Some("<Find>")), titled);
        assert_eq!(drawing.inline(1, Some(" ")), drawing.inline(1, None));
    }

    #[test]
    fn ids_are_of_their_use() {
        for (text, expected) in [
            ("<g id=\"a\"/><use href=\"#a\"/>", "<g id=\"drawing-1-a\"/><use href=\"#drawing-1-a\"/>"),
            (
                "<g id='a'/><p1 fill='url(#a) #fff' stroke='url(\"#a\")'/>",
                "<g id=\"drawing-1-a\"/><p1 fill=\"url(#drawing-1-a) #fff\" stroke=\"url(&quot;#drawing-1-a&quot;)\"/>",
            ),
            ("<g id='abc'/><p1 fill='#abc'/>", "<g id=\"drawing-1-abc\"/><p1 fill=\"#abc\"/>"),
            (
                "<g id='a'/><style>#a.b, #c, g > #a {}</style>",
                "<g id=\"drawing-1-a\"/><style>#drawing-1-a.b, #c, g &gt; #drawing-1-a {}</style>",
            ),
            ("<g id='a'/><set begin='a.click; 2s'/>", "<g id=\"drawing-1-a\"/><set begin=\"drawing-1-a.click; 2s\"/>"),
            ("<g id='a' aria-labelledby='a b'/>", "<g id=\"drawing-1-a\" aria-labelledby=\"drawing-1-a b\"/>"),
        ] {
            let whole = format!("<svg xmlns='http://www.w3.org/2000/svg'>{text}</svg>");
            assert_eq!(inline(&whole), format!("<svg aria-hidden=\"true\">{expected}</svg>"));
        }
    }

    #[test]
    fn what_no_page_needs_is_left_out() {
        let text = "<svg xmlns='http://www.w3.org/2000/svg' xmlns:e='urn:editor' e:zoom='2'><e:view a='1'/><metadata>x</metadata>\
                    <image href='../b.png?x#y' xlink:href='/c.png' xmlns:xlink='http://www.w3.org/1999/xlink'/><desc>a <b>c</b></desc></svg>";
        let expected =
            "<svg aria-hidden=\"true\"><image href=\"/assets/b.png?x#y\" xlink:href=\"/c.png\"/><desc>a c</desc></svg>";
        assert_eq!(inline(text), expected);
    }

    #[test]
    fn nothing_in_it_runs() {
        for (inside, why) in [
            ("<script/>", "it has a script on line 1"),
            ("\n<g><SCRIPT>1</SCRIPT></g>", "it has a script on line 2"),
            ("<g onclick='1'/>", "onclick of <g> on line 1 would run as a script"),
            ("<a href='javascript:1'/>", "href of <a> on line 1 would run as a script"),
            (
                "<a xmlns:x='http://www.w3.org/1999/xlink' x:href=' java\tscript:1'/>",
                "href of <a> on line 1 would run as a script",
            ),
            (
                "<animate attributeName='href' to='javascript:1'/>",
                "attributeName of <animate> on line 1 would run as a script",
            ),
            ("<foreignObject/>", "it has <foreignObject> on line 1, which is HTML"),
            ("<g><IMG src='x'/></g>", "it has <IMG> on line 1, which is HTML"),
        ] {
            let whole = format!("<svg xmlns='http://www.w3.org/2000/svg'>{inside}</svg>");
            assert_eq!(read(&whole, "/assets/a.svg").unwrap_err(), why, "{inside}");
        }
        assert!(read("<g/>", "/").unwrap_err().contains("not <svg>"));
        assert!(read("<svg><g></svg>", "/").unwrap_err().contains("well-formed"));
        let deep = format!("<svg>{}{}</svg>", "<g>".repeat(100), "</g>".repeat(100));
        assert_eq!(read(&deep, "/").unwrap_err(), "its elements nest more than 60 deep on line 1");
        let _ = read(&format!("<svg>{}", "<g>".repeat(100_000)), "/").unwrap_err();
    }

    #[test]
    fn drawings_say_their_size() {
        for (text, says) in [
            ("<svg xmlns='x' width='40' height=\"30px\">", Some((40, 30))),
            ("<?xml version='1.0'?><svg viewBox='0 0 64 48.4'/>", Some((64, 48))),
            ("<svg width='100%' height='100%' viewBox=\"0,0,8,9\">", Some((8, 9))),
            ("<svg>", None),
            ("<svg width='", None),
            ("", None),
        ] {
            assert_eq!(size(text), says, "{text}");
        }
    }
}
