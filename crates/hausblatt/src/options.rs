//! Options that every command has.

use std::ffi::OsStr;
use std::path::PathBuf;

use clap::builder::{PossibleValue, PossibleValuesParser, TypedValueParser};
use clap::{Arg, Args, Command, ValueEnum};
use jiff::civil::Date;

/// Options that every command has, before or after its name.
#[derive(Args, Clone, Debug, Default)]
#[command(next_help_heading = COMMON)]
pub struct Common {
    /// Site folder [default: nearest parent with hausblatt.toml]
    #[arg(long, global = true, hide_short_help = true, value_name = "DIR")]
    pub site: Option<PathBuf>,
    /// Use this theme as the active one
    #[arg(long, global = true, hide_short_help = true, value_name = "NAME")]
    pub theme: Option<String>,
    /// Treat this date as today
    #[arg(long, global = true, hide_short_help = true, value_name = "DATE")]
    pub as_of: Option<Date>,
    /// Include drafts
    #[arg(long, global = true, hide_short_help = true)]
    pub drafts: bool,
    /// Output format
    #[arg(long, global = true, hide_short_help = true, value_name = "FORMAT", default_value = "text")]
    pub format: Format,
    /// When to use colours
    #[arg(long, global = true, hide_short_help = true, value_name = "WHEN", default_value = "auto")]
    pub color: When,
    /// Make warnings count as errors
    #[arg(long, global = true, hide_short_help = true)]
    pub strict: bool,
    /// Say less: no warnings, no summary
    #[arg(short, long, global = true, hide_short_help = true, conflicts_with = "verbose")]
    pub quiet: bool,
    /// Say more: every warning
    #[arg(short, long, global = true, hide_short_help = true)]
    pub verbose: bool,
}

/// The formats that a command has.
pub fn formats(command: &str) -> &'static [Format] {
    match command {
        "chart" | "demo" | "serve" => &[Format::Text],
        "check" | "rehearse" => &[Format::Text, Format::Json, Format::Sarif],
        "map" => &[Format::Text, Format::Json, Format::Csv],
        _ => &[Format::Text, Format::Json],
    }
}

/// Reads a format out of those that a command has; its help offers no others.
#[derive(Clone)]
struct OneOf(&'static [Format]);

impl TypedValueParser for OneOf {
    type Value = Format;

    fn parse_ref(&self, command: &Command, arg: Option<&Arg>, value: &OsStr) -> Result<Format, clap::Error> {
        let names = self.0.iter().filter_map(Format::to_possible_value);
        let name = PossibleValuesParser::new(names).parse_ref(command, arg, value)?;
        let named = |format: &&Format| format.to_possible_value().is_some_and(|known| known.matches(&name, false));
        Ok(self.0.iter().find(named).copied().unwrap_or_default())
    }

    fn possible_values(&self) -> Option<Box<dyn Iterator<Item = PossibleValue> + '_>> {
        Some(Box::new(self.0.iter().filter_map(Format::to_possible_value)))
    }
}

/// A command with its own formats in place of all there are; one that has only text has no option for it. Its short help
/// only names the options that every command has, so that it fits a screen.
pub fn with_formats(command: Command) -> Command {
    let formats = formats(command.get_name());
    let format = Arg::new("format")
        .long("format")
        .value_name("FORMAT")
        .help("Output format")
        .help_heading(COMMON)
        .display_order(ORDER)
        .default_value("text")
        .hide(formats.len() == 1)
        .hide_short_help(true)
        .value_parser(OneOf(formats));
    with_short_help(command.arg(format), formats.len() > 1)
}

/// A command whose short help names the options that every command has, and whose long help describes them.
pub fn with_short_help(command: Command, has_formats: bool) -> Command {
    let format = if has_formats { "--format, " } else { "" };
    let names = format!(
        "{COMMON}, described by --help:\n  --site, --theme, --as-of, --drafts, {format}--color, --strict, -q, -v"
    );
    match command.get_after_help().map(ToString::to_string) {
        Some(examples) => command.after_help(format!("{names}\n\n{examples}")).after_long_help(examples),
        None => command.after_help(names),
    }
}

/// The heading of the options that every command has.
const COMMON: &str = "Common options";
/// Where the option for the format comes among them.
const ORDER: usize = 4;

/// The form of an answer.
#[derive(Default, Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub enum Format {
    /// For people.
    #[default]
    Text,
    /// For programs.
    Json,
    /// For tables.
    Csv,
    /// For code hosts and editors.
    Sarif,
}

/// When to use colours.
#[derive(Default, Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub enum When {
    /// On a terminal.
    #[default]
    Auto,
    /// Always.
    Always,
    /// Never.
    Never,
}
