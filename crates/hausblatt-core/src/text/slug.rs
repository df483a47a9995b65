//! Slugs, ids and titles: what a name may be in an address.

use unicode_normalization::UnicodeNormalization;

/// `text` as a slug: lower-case letters and digits of any script, single hyphens between them.
pub fn slug(text: &str) -> String {
    let mut slug = String::with_capacity(text.len());
    let mut add = |c: char| {
        if c.is_alphanumeric() {
            slug.push(c);
        } else if c != '\'' && c != '’' && !slug.is_empty() && !slug.ends_with('-') {
            slug.push('-');
        }
    };
    match text.is_ascii() {
        true => text.chars().map(|c| c.to_ascii_lowercase()).for_each(&mut add),
        false => text.nfc().flat_map(char::to_lowercase).for_each(&mut add),
    }
    slug.truncate(slug.trim_end_matches('-').len());
    slug
}

/// Whether `text` is a slug already.
pub(crate) fn is_slug(text: &str) -> bool {
    let fits = |c: char| c == '-' || (c.is_alphanumeric() && !c.is_uppercase());
    !text.is_empty() && text.chars().all(fits) && !text.starts_with('-') && !text.ends_with('-') && !text.contains("--")
}

/// Whether `text` is an id: slugs with `/` between them.
pub(crate) fn is_id(text: &str) -> bool {
    text.split('/').all(is_slug)
}

/// A title made of an id's last segment: `scarlet-runner` is `Scarlet runner`.
pub fn title_of(id: &str) -> String {
    let words = id.rsplit('/').next().unwrap_or(id).replace('-', " ");
    let mut chars = words.chars();
    chars.next().map(|first| first.to_uppercase().chain(chars).collect()).unwrap_or_default()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn makes_slugs() {
        for (text, expected) in [
            ("Scarlet Runner!", "scarlet-runner"),
            ("  Kürbis & Öl  ", "kürbis-öl"),
            ("Don't", "dont"),
            ("豆 2", "豆-2"),
            ("---", ""),
        ] {
            assert_eq!(slug(text), expected);
        }
        for (text, fits) in [
            ("a-b/c2", true),
            ("a--b", false),
            ("A", false),
            ("a_b", false),
            ("-a", false),
            ("", false),
            ("a//b", false),
            ("bäume", true),
        ] {
            assert_eq!(is_id(text), fits, "{text}");
        }
        assert_eq!(title_of("visit/opening-hours"), "Opening hours");
    }
}
