//! Texts in lines that fit a terminal of 80 columns.

use anstyle::Style;

use crate::show::style::{columns, styled};

/// How wide a sentence may be.
const SENTENCE: usize = 78;

/// Words put into lines of at most `width` columns, each line after `behind` columns that are taken.
fn lines(words: impl IntoIterator<Item = impl AsRef<str>>, behind: usize, width: usize) -> Vec<String> {
    let mut lines: Vec<String> = Vec::new();
    let mut column = behind;
    for word in words {
        let word = word.as_ref();
        match lines.last_mut().filter(|_| column + 1 + columns(word) <= width) {
            Some(line) => {
                line.push(' ');
                line.push_str(word);
                column += 1 + columns(word);
            }
            None => {
                lines.push(word.to_owned());
                column = behind + columns(word);
            }
        }
    }
    lines
}

/// A sentence in lines.
pub fn wrapped(text: &str, style: Style) -> String {
    wrapped_behind(text, 0, style)
}

/// A sentence in lines, each after an indent.
pub fn wrapped_behind(text: &str, indent: usize, style: Style) -> String {
    let line = |line: &String| format!("{}{}", " ".repeat(indent), styled(style, line));
    lines(text.split_whitespace(), indent, SENTENCE).iter().map(line).collect::<Vec<_>>().join("\n")
}

/// A text that is put after `behind` columns, its further lines below its first one.
pub fn hanging(text: &str, behind: usize) -> String {
    lines(text.split(' '), behind, 80).join(&format!("\n{:behind$}", ""))
}

/// Things with commas between them, in lines after `behind` columns.
pub fn list(things: &[String], behind: usize) -> String {
    let last = things.len().saturating_sub(1);
    let things =
        things.iter().enumerate().map(|(at, thing)| if at < last { format!("{thing},") } else { thing.clone() });
    lines(things, behind, 79).join(&format!("\n{:behind$}", ""))
}
