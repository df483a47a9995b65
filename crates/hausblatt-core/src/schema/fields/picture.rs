//! Images that fields name, and the size of an image file.

use std::io::Read;
use std::sync::Arc;

use hausblatt_lang::value::datum::MadeRecord;
use hausblatt_lang::value::shape::Symbol;
use hausblatt_lang::value::{Record, Scratch, Value};

use crate::files::FileNode;
use crate::text::names;

/// An image that content names; it prints as its address.
#[derive(Debug)]
pub(crate) struct Picture {
    /// Its address.
    pub address: Box<str>,
    /// Words for those who can't see it.
    pub alt: Option<Box<str>>,
    /// Its file, if it is one of the site's.
    pub node: Option<Arc<FileNode>>,
}

impl MadeRecord for Picture {}

impl Record for Picture {
    fn get<'a>(&'a self, symbol: Symbol, _: &Scratch<'a>) -> Value<'a> {
        let pixels = || self.node.as_ref().and_then(|node| node.pixels(size));
        let number = |size: Option<u32>| size.map_or(Value::Nothing, |size| Value::Int(i64::from(size)));
        match symbol {
            names::ADDRESS | names::PATH => Value::Text(&self.address),
            names::ALT => self.alt.as_deref().map_or(Value::Nothing, Value::Text),
            names::WIDTH => number(pixels().map(|(width, _)| width)),
            names::HEIGHT => number(pixels().map(|(_, height)| height)),
            _ => Value::Nothing,
        }
    }

    fn keys(&self) -> Vec<Symbol> {
        vec![names::ADDRESS, names::PATH, names::ALT, names::WIDTH, names::HEIGHT]
    }

    fn as_text(&self) -> Option<&str> {
        Some(&self.address)
    }
}

/// How much of a drawing is read to find its size.
const HEAD: u64 = 64 << 10;

/// Width and height in pixels, as the file says; none where it says neither.
pub fn size(node: &FileNode) -> Option<(u32, u32)> {
    if node.path.ends_with(".svg") {
        let mut head = Vec::new();
        node.open().ok()?.take(HEAD).read_to_end(&mut head).ok()?;
        return svg_size(&String::from_utf8_lossy(&head));
    }
    let size = imagesize::reader_size(node.open().ok()?).ok()?;
    Some((u32::try_from(size.width).ok()?, u32::try_from(size.height).ok()?))
}

/// The `width` and `height` of the outermost `<svg>`, or else those of its `viewBox`.
fn svg_size(text: &str) -> Option<(u32, u32)> {
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
    use super::svg_size;

    #[test]
    fn drawings_say_their_size() {
        for (text, size) in [
            ("<svg xmlns='x' width='40' height=\"30px\">", Some((40, 30))),
            ("<?xml version='1.0'?><svg viewBox='0 0 64 48.4'/>", Some((64, 48))),
            ("<svg width='100%' height='100%' viewBox=\"0,0,8,9\">", Some((8, 9))),
            ("<svg>", None),
            ("<svg width='", None),
            ("", None),
        ] {
            assert_eq!(svg_size(text), size, "{text}");
        }
    }
}
