//! Options that every command has.

use std::path::PathBuf;

use clap::{Args, ValueEnum};
use jiff::civil::Date;

/// Options that every command has, before or after its name.
#[derive(Args, Clone, Debug, Default)]
#[command(next_help_heading = "Common options")]
pub struct Common {
    /// Site folder [default: nearest parent with hausblatt.toml]
    #[arg(long, global = true, value_name = "DIR")]
    pub site: Option<PathBuf>,
    /// Use this theme as the active one
    #[arg(long, global = true, value_name = "NAME")]
    pub theme: Option<String>,
    /// Treat this date as today
    #[arg(long, global = true, value_name = "DATE")]
    pub as_of: Option<Date>,
    /// Include drafts
    #[arg(long, global = true)]
    pub drafts: bool,
    /// Output format
    #[arg(long, global = true, value_name = "FORMAT", default_value = "text")]
    pub format: Format,
    /// When to use colours
    #[arg(long, global = true, value_name = "WHEN", default_value = "auto")]
    pub color: When,
    /// Make warnings count as errors
    #[arg(long, global = true)]
    pub strict: bool,
    /// Say less: no warnings, no summary
    #[arg(short, long, global = true, conflicts_with = "verbose")]
    pub quiet: bool,
    /// Say more: every warning
    #[arg(short, long, global = true)]
    pub verbose: bool,
}

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
