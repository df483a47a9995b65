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
    /// Where the escaped form begins, in bytes: at 0 where it is the text itself; [`PATH`] for an ordinary path, which has no
    /// other form.
    escaped: usize,
}

/// No text is as long.
const PATH: usize = usize::MAX;

impl EscapedText {
    /// The text as it is printed between tags and in quoted attributes.
    #[inline]
    pub fn escaped(&self) -> &str {
        self.both.get(self.escaped..).unwrap_or(&self.both)
    }

    /// The text if it is a path on this site, printed as it is where an address is: see [`is_ordinary_path`].
    #[inline]
    pub fn as_path(&self) -> Option<&str> {
        (self.escaped == PATH).then_some(&*self.both)
    }
}

impl From<&str> for EscapedText {
    fn from(text: &str) -> Self {
        if is_ordinary_path(text) {
            return Self { both: text.into(), escaped: PATH };
        }
        let mut escaped = String::new();
        escape(text, &mut escaped);
        if escaped == text {
            return Self { both: text.into(), escaped: 0 };
        }
        Self { both: [text, &escaped].concat().into(), escaped: text.len() }
    }
}

impl Deref for EscapedText {
    type Target = str;

    #[inline]
    fn deref(&self) -> &str {
        match self.escaped {
            0 => &self.both,
            length => self.both.get(..length).unwrap_or(&self.both),
        }
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
