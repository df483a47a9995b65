//! Texts that are kept together with how they are printed.

use std::fmt;
use std::ops::Deref;

use crate::escape::html::escape;
use crate::escape::url::is_ordinary_path;

/// A text of the site, and how it is printed: that is evaluated once, when the site is read, and not for each of the pages
/// that print it.
#[derive(Clone)]
pub struct EscapedText {
    /// The text, and behind it its escaped form, if that is another one.
    both: Box<str>,
    /// How long the text is, in bytes; [`PATH`] for an ordinary path, which has no other form.
    length: usize,
}

/// No text is as long.
const PATH: usize = usize::MAX;

impl EscapedText {
    /// The text as it is printed between tags and in quoted attributes.
    pub fn escaped(&self) -> &str {
        match self.both.get(self.length..) {
            Some(escaped) if !escaped.is_empty() => escaped,
            _ => &self.both,
        }
    }

    /// The text if it is a path on this site, printed as it is where an address is: see [`is_ordinary_path`].
    pub fn as_path(&self) -> Option<&str> {
        (self.length == PATH).then_some(&*self.both)
    }
}

impl From<&str> for EscapedText {
    fn from(text: &str) -> Self {
        if is_ordinary_path(text) {
            return Self { both: text.into(), length: PATH };
        }
        let mut escaped = String::new();
        escape(text, &mut escaped);
        let length = text.len();
        let both = if escaped == text { text.into() } else { [text, &escaped].concat().into() };
        Self { both, length }
    }
}

impl Deref for EscapedText {
    type Target = str;

    fn deref(&self) -> &str {
        self.both.get(..self.length).unwrap_or(&self.both)
    }
}

impl PartialEq for EscapedText {
    fn eq(&self, other: &Self) -> bool {
        **self == **other
    }
}

impl Eq for EscapedText {}

impl fmt::Debug for EscapedText {
    fn fmt(&self, formatter: &mut fmt::Formatter<'_>) -> fmt::Result {
        fmt::Debug::fmt(&**self, formatter)
    }
}

impl fmt::Display for EscapedText {
    fn fmt(&self, formatter: &mut fmt::Formatter<'_>) -> fmt::Result {
        fmt::Display::fmt(&**self, formatter)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn is_its_text_and_knows_its_escaped_form() {
        for (text, escaped) in [("", ""), ("Peas", "Peas"), ("Peas & \"beans\"", "Peas &amp; &quot;beans&quot;")] {
            let kept = EscapedText::from(text);
            assert_eq!((&*kept, kept.escaped(), kept.as_path()), (text, escaped, None));
        }
        let path = EscapedText::from("/varieties/");
        assert_eq!((&*path, path.escaped(), path.as_path()), ("/varieties/", "/varieties/", Some("/varieties/")));
    }
}
