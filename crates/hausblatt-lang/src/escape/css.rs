//! Values in CSS: what may be in a declaration's value, and texts in its quoted strings.

use std::fmt::Write;

/// Functions that make a colour of numbers (CSS Color 4).
const COLORS: &[&str] = &["rgb", "rgba", "hsl", "hsla", "hwb", "lab", "lch", "oklab", "oklch", "color"];

/// Whether `text` is numbers with units, `#hex`, words, colours, spaces and commas only.
pub fn is_plain(text: &str) -> bool {
    let mut rest = text.trim_start_matches(is_between);
    while !rest.is_empty() {
        let Some(length) = piece(rest) else { return false };
        let behind = &rest[length..];
        if !behind.is_empty() && !behind.starts_with(is_between) {
            return false;
        }
        rest = behind.trim_start_matches(is_between);
    }
    true
}

fn is_between(c: char) -> bool {
    matches!(c, ' ' | ',')
}

/// The length of the number, colour or word that `text` begins with.
fn piece(text: &str) -> Option<usize> {
    if let Some(digits) = text.strip_prefix('#') {
        let length = run(digits, |c| c.is_ascii_hexdigit());
        return matches!(length, 3 | 4 | 6 | 8).then_some(length + 1);
    }
    number(text).or_else(|| {
        let length = word(text)?;
        let Some(arguments) = text[length..].strip_prefix('(') else { return Some(length) };
        let end = arguments.find(')')?;
        let name = text[..length].to_ascii_lowercase();
        let fine = COLORS.contains(&name.as_str()) && arguments[..end].split([' ', ',', '/']).all(is_argument);
        fine.then_some(length + end + 2)
    })
}

fn is_argument(text: &str) -> bool {
    text.is_empty() || number(text) == Some(text.len()) || word(text) == Some(text.len())
}

/// The length of a number with its unit.
fn number(text: &str) -> Option<usize> {
    let sign = usize::from(text.starts_with(['+', '-']));
    let whole = run(&text[sign..], |c| c.is_ascii_digit());
    let mut length = sign + whole;
    let decimals = text[length..].strip_prefix('.').map_or(0, |rest| run(rest, |c| c.is_ascii_digit()));
    if decimals > 0 {
        length += decimals + 1;
    }
    if whole + decimals == 0 {
        return None;
    }
    let unit = if text[length..].starts_with('%') { 1 } else { run(&text[length..], |c| c.is_ascii_alphabetic()) };
    Some(length + unit)
}

fn word(text: &str) -> Option<usize> {
    let dash = usize::from(text.starts_with('-'));
    let letters = text[dash..].starts_with(|c: char| c.is_ascii_alphabetic());
    letters.then(|| dash + run(&text[dash..], |c| c.is_ascii_alphanumeric() || c == '-' || c == '_'))
}

fn run(text: &str, of: impl Fn(char) -> bool) -> usize {
    text.find(|c| !of(c)).unwrap_or(text.len())
}

/// Appends `text` for a quoted string of CSS (CSS Syntax 3, 4.3.7), safe in an attribute and in `<style>` too.
pub fn escape(text: &str, out: &mut impl Write) {
    for c in text.chars() {
        let plain = c.is_ascii_alphanumeric() || !c.is_ascii() || " -_.,/:?=%#~+@!*".contains(c);
        let _ = match c {
            '\0' => out.write_char('\u{FFFD}'),
            _ if plain => out.write_char(c),
            _ => write!(out, "\\{:x} ", c as u32),
        };
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn lets_only_plain_values_pass() {
        for text in [
            "",
            "red",
            "12",
            "-1.5em",
            "+3%",
            ".5rem",
            "#abc",
            "#2f6f4e",
            "1px solid red",
            "Georgia, serif",
            "1, 2",
            "rgb(1, 2, 3)",
            "hsl(120deg 50% 50% / 0.5)",
            "RGB(1 2 3)",
            "-moz-initial",
            "color(srgb 1 0 0)",
        ] {
            assert!(is_plain(text), "{text}");
        }
        for text in [
            "red;",
            "a}b",
            "url(x)",
            "expression(1)",
            "red/**/",
            "\\72 ed",
            "#ab",
            "--x",
            "rgb(url(x))",
            "rgb(1",
            "a(b)",
            "\"x\"",
            "'",
            "<",
            "a:b",
            "@x",
            "!important",
            "rgb(1)x",
            "1px\n",
            "é",
            "12#abc",
            "-",
            "+",
            ".",
            "a/b",
        ] {
            assert!(!is_plain(text), "{text}");
        }
    }

    #[test]
    fn escapes_what_could_end_a_string() {
        let mut out = String::new();
        escape("a\"b'c\\d\ne</style>&é\0", &mut out);
        assert_eq!(out, "a\\22 b\\27 c\\5c d\\a e\\3c /style\\3e \\26 é\u{FFFD}");
    }
}
