//! Colours and widths. Everything reads well without either.

use std::io::IsTerminal;
use std::path::Path;
use std::sync::OnceLock;

use anstyle::{AnsiColor, Style};

use crate::options::When;

/// For what matters most in a line.
pub const STRONG: Style = Style::new().bold();
/// For what is there only for completeness.
pub const FAINT: Style = Style::new().dimmed();
/// For what is as it should be.
pub const GOOD: Style = AnsiColor::Green.on_default();
/// For what is not.
pub const BAD: Style = AnsiColor::Red.on_default();
/// For what to look at.
pub const NOTE: Style = AnsiColor::Yellow.on_default();
/// For commands to type.
pub const TYPED: Style = AnsiColor::Cyan.on_default();

/// Sets when colours are used, for the whole run.
pub fn choose(when: When) {
    match when {
        When::Auto => {}
        When::Always => anstream::ColorChoice::AlwaysAnsi.write_global(),
        When::Never => anstream::ColorChoice::Never.write_global(),
    }
}

/// `text` in a style.
pub fn styled(style: Style, text: &str) -> String {
    format!("{style}{text}{style:#}")
}

/// What a command that is suggested needs in addition, to mean the same site and theme as this one.
static BESIDES: OnceLock<[String; 2]> = OnceLock::new();

/// Sets what suggested commands need in addition, for the whole run.
pub fn suggest_with(site: Option<&Path>, theme: Option<&str>) {
    let site = site.map_or(String::new(), |site| format!(" --site {}", site.display()));
    let theme = theme.map_or(String::new(), |theme| format!(" --theme {theme}"));
    let _ = BESIDES.set([site, theme]);
}

/// A command to type next, on the same site and with the same theme; anything else as it is.
pub fn to_type(text: &str) -> String {
    styled(TYPED, &plain(&typed(text)))
}

/// A command with what it needs in addition; anything else as it is.
pub fn typed(text: &str) -> String {
    let Some([site, theme]) = BESIDES.get().filter(|_| text.starts_with("hausblatt ")) else { return text.to_owned() };
    // One that names its theme means that one.
    let theme = if text.contains(" --theme ") || text.contains(" --to-theme ") { "" } else { theme };
    format!("{text}{site}{theme}")
}

/// The width to fit answers into: that of the terminal, or none where there is no terminal.
pub fn width() -> Option<usize> {
    std::io::stdout()
        .is_terminal()
        .then(|| terminal_size::terminal_size().map_or(80, |(width, _)| usize::from(width.0)))
}

/// `text` cut in its middle to at most `width` columns.
pub fn fitted(text: &str, width: usize) -> String {
    use unicode_width::UnicodeWidthStr;
    if text.width() <= width || width < 3 {
        return text.to_owned();
    }
    let chars: Vec<char> = text.chars().collect();
    let head: String = chars[..(width - 1).div_ceil(2).min(chars.len())].iter().collect();
    let tail: String = chars[chars.len().saturating_sub((width - 1) / 2)..].iter().collect();
    format!("{head}…{tail}")
}

/// `text` and spaces up to `width` columns.
pub fn padded(text: &str, width: usize) -> String {
    use unicode_width::UnicodeWidthStr;
    format!("{text}{}", " ".repeat(width.saturating_sub(text.width())))
}

/// How wide `text` is on a terminal.
pub fn columns(text: &str) -> usize {
    use unicode_width::UnicodeWidthStr;
    text.width()
}

/// Text without control characters and those that turn its direction, which a file's name, a title or an address could bring
/// to the terminal: it shows as what it is.
pub fn plain(text: &str) -> String {
    text.chars().map(|c| if c.is_control() || turns_direction(c) { '\u{fffd}' } else { c }).collect()
}

pub use crate::html::turns_direction;
pub use hausblatt_core::text::shell::word;

/// A message without the number that an operating system gives an error beside its words.
pub fn without_number(message: &str) -> String {
    let Some((before, rest)) = message.split_once(" (os error ") else { return message.to_owned() };
    match rest.split_once(')') {
        Some((number, after)) if number.bytes().all(|byte| byte.is_ascii_digit()) => format!("{before}{after}"),
        _ => message.to_owned(),
    }
}

/// Shows why a command failed.
pub fn failure(message: &str, help: Option<&str>) {
    crate::tell!("{} {}", styled(BAD, "error:"), plain(&without_number(message)));
    if let Some(help) = help {
        crate::tell!("{} {}", styled(TYPED, "help:"), plain(help));
    }
}
