//! HTML that is put together here: what is put in is escaped, unless it is such HTML itself.

use std::borrow::Cow;
use std::fmt::{self, Arguments, Display, Formatter, Write};
use std::sync::Arc;

use hausblatt_lang::escape::html::escape;

/// A piece of HTML.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Markup(String);

impl Markup {
    /// Nothing yet.
    pub fn new() -> Self {
        Self::default()
    }

    /// HTML that is written in the program.
    pub fn raw(html: &'static str) -> Self {
        Self(html.to_owned())
    }

    /// HTML that was made, with what is put into it escaped, elsewhere.
    pub fn made(html: String) -> Self {
        Self(html)
    }

    /// Appends what [`put!`](crate::put) made of its arguments.
    pub fn add(&mut self, pieces: Arguments<'_>) {
        // Writing to a text can't fail.
        let _ = self.0.write_fmt(pieces);
    }

    /// The HTML.
    pub fn into_text(self) -> String {
        self.0
    }
}

/// Whether a character changes the direction of what comes after it, unseen: the marks, embeddings, overrides and isolates
/// of the Unicode Bidirectional Algorithm (UAX #9).
pub fn turns_direction(c: char) -> bool {
    matches!(c, '\u{061c}' | '\u{200e}' | '\u{200f}' | '\u{202a}'..='\u{202e}' | '\u{2066}'..='\u{2069}')
}

/// What can be put into HTML.
pub trait Fragment {
    /// Writes it as HTML.
    fn write(&self, out: &mut Formatter<'_>) -> fmt::Result;
}

impl Fragment for str {
    fn write(&self, out: &mut Formatter<'_>) -> fmt::Result {
        let mut text = String::with_capacity(self.len());
        // XML has no control characters, and nobody sees them in HTML, nor what turns the direction of a text.
        let is_control = |c: char| {
            c.is_control() && !matches!(c, '\n' | '\r' | '\t')
                || matches!(c, '\u{fffe}' | '\u{ffff}')
                || turns_direction(c)
        };
        match self.contains(is_control) {
            true => escape(&self.replace(is_control, "\u{fffd}"), &mut text),
            false => escape(self, &mut text),
        }
        out.write_str(&text)
    }
}

impl Fragment for Markup {
    fn write(&self, out: &mut Formatter<'_>) -> fmt::Result {
        out.write_str(&self.0)
    }
}

impl<T: Fragment + ?Sized> Fragment for &T {
    fn write(&self, out: &mut Formatter<'_>) -> fmt::Result {
        (**self).write(out)
    }
}

impl<T: Fragment> Fragment for Option<T> {
    fn write(&self, out: &mut Formatter<'_>) -> fmt::Result {
        self.iter().try_for_each(|value| value.write(out))
    }
}

macro_rules! as_text {
    ($($kind:ty),*) => {$(
        impl Fragment for $kind {
            fn write(&self, out: &mut Formatter<'_>) -> fmt::Result {
                (**self).write(out)
            }
        }
    )*};
}

as_text!(String, Arc<str>, Box<str>, Cow<'_, str>);

macro_rules! as_number {
    ($($kind:ty),*) => {$(
        impl Fragment for $kind {
            fn write(&self, out: &mut Formatter<'_>) -> fmt::Result {
                write!(out, "{self}")
            }
        }
    )*};
}

as_number!(usize, u64, u32, u16, f64);

/// A value of a form, to the character: what nobody sees is written as a reference to it (HTML, section 13.5) instead of
/// being replaced, since the form sends it back.
pub struct Exact<'t>(pub &'t str);

impl Fragment for Exact<'_> {
    fn write(&self, out: &mut Formatter<'_>) -> fmt::Result {
        let mut text = String::with_capacity(self.0.len());
        escape(self.0, &mut text);
        for c in text.chars() {
            match c {
                // A carriage return would become a line feed, and there is no reference to nothing.
                '\r' => out.write_str("&#13;")?,
                '\n' | '\t' => out.write_char(c)?,
                '\0' => out.write_char('\u{fffd}')?,
                c if c < ' ' || turns_direction(c) => write!(out, "&#{};", u32::from(c))?,
                c => out.write_char(c)?,
            }
        }
        Ok(())
    }
}

/// A fragment on its way into a text.
pub struct Escaped<'f, T: Fragment + ?Sized>(pub &'f T);

impl<T: Fragment + ?Sized> Display for Escaped<'_, T> {
    fn fmt(&self, out: &mut Formatter<'_>) -> fmt::Result {
        self.0.write(out)
    }
}

/// Appends HTML with a `{}` for each value; values are escaped.
#[macro_export]
macro_rules! put {
    ($out:expr, $html:literal $(, $value:expr)* $(,)?) => {
        $out.add(format_args!($html $(, $crate::html::Escaped(&$value))*))
    };
}

/// A text for a query in an address.
pub fn in_query(text: &str) -> String {
    percent_encoding::utf8_percent_encode(text, percent_encoding::NON_ALPHANUMERIC).to_string()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn escapes_all_but_its_own() {
        let mut inner = Markup::new();
        put!(inner, "<b>{}</b>", "a < b");
        let mut out = Markup::new();
        put!(out, "<p title=\"{}\">{} {} {}</p>", "\"<&'", inner, 3usize, Some("&"));
        assert_eq!(out.into_text(), "<p title=\"&quot;&lt;&amp;&#39;\"><b>a &lt; b</b> 3 &amp;</p>");
        let mut value = Markup::new();
        put!(value, "{}", Exact("a\u{202e}<\u{1}\"\r\n"));
        assert_eq!(value.into_text(), "a&#8238;&lt;&#1;&quot;&#13;\n");
        assert_eq!(in_query("/a b/?ü=1"), "%2Fa%20b%2F%3F%C3%BC%3D1");
    }
}
