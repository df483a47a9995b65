//! The command line as it is typed.

use std::path::PathBuf;

use clap::{Args, Parser, Subcommand, ValueEnum};
use jiff::civil::Date;

/// Which file renders each request, why, and what else changes if you touch it.
#[derive(Debug, Parser)]
#[command(name = "hausblatt", version, about, max_term_width = 80, arg_required_else_help = true)]
#[command(after_help = "Start with:  hausblatt demo")]
pub struct Cli {
    /// Options that every command has.
    #[command(flatten)]
    pub common: Common,
    /// What is asked.
    #[command(subcommand)]
    pub command: Command,
}

/// Options that every command has, before or after its name.
#[derive(Args, Clone, Debug)]
pub struct Common {
    /// The site's folder; else the nearest one upward with a hausblatt.toml
    #[arg(long, global = true, value_name = "DIR")]
    pub site: Option<PathBuf>,
    /// Another theme to be active, for this run
    #[arg(long, global = true, value_name = "NAME")]
    pub theme: Option<String>,
    /// The day that counts as today, such as 2026-03-14
    #[arg(long, global = true, value_name = "DATE")]
    pub as_of: Option<Date>,
    /// Show drafts, too
    #[arg(long, global = true)]
    pub drafts: bool,
    /// The form of the answer: text, json, and for map also csv
    #[arg(long, global = true, value_name = "FORMAT", default_value = "text")]
    pub format: Format,
    /// When to use colours
    #[arg(long, global = true, value_name = "WHEN", default_value = "auto")]
    pub color: When,
    /// Make warnings count as errors
    #[arg(long, global = true, value_name = "WHAT")]
    pub deny: Option<Deny>,
    /// Say less: no warnings, no summary
    #[arg(short, long, global = true, conflicts_with = "verbose")]
    pub quiet: bool,
    /// Say more: every warning
    #[arg(short, long, global = true)]
    pub verbose: bool,
}

/// The form of an answer.
#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub enum Format {
    /// For people.
    Text,
    /// For programs.
    Json,
    /// For tables.
    Csv,
}

/// When to use colours.
#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub enum When {
    /// On a terminal.
    Auto,
    /// Always.
    Always,
    /// Never.
    Never,
}

/// What counts as an error besides errors.
#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub enum Deny {
    /// Warnings.
    Warnings,
}

/// The commands.
#[derive(Debug, Subcommand)]
pub enum Command {
    /// Write the demo site, build it, and walk through the main questions
    Demo(DemoArgs),
    /// Which file renders an address, and why
    Resolve(ResolveArgs),
    /// Every address and its file
    Map(MapArgs),
    /// The values that a template sees at an address, or any value worked out there
    Values(ValuesArgs),
    /// The HTML of an address
    Render(RenderArgs),
    /// The whole site into a folder
    Build(BuildArgs),
}

/// What was typed for `demo`.
#[derive(Args, Debug)]
#[command(after_help = "Example:  hausblatt demo seeds")]
pub struct DemoArgs {
    /// The folder to write the demo site into
    #[arg(default_value = "demo-site")]
    pub dir: PathBuf,
}

/// What was typed for `resolve`.
#[derive(Args, Debug)]
#[command(
    after_help = "Examples:\n  hausblatt resolve /varieties/scarlet-runner/\n  hausblatt resolve content/pages/visit.md --format json"
)]
pub struct ResolveArgs {
    /// Addresses, or paths of content files
    #[arg(required = true, value_name = "ADDRESS")]
    pub addresses: Vec<String>,
}

/// What was typed for `map`.
#[derive(Args, Debug)]
#[command(after_help = "Examples:\n  hausblatt map --kind page\n  hausblatt map --format csv > map.csv")]
pub struct MapArgs {
    /// Only requests of this kind
    #[arg(long, value_name = "KIND", value_parser = ["front", "page", "entry", "listing", "period", "search", "route", "error"])]
    pub kind: Option<String>,
}

/// What was typed for `values`.
#[derive(Args, Debug)]
#[command(
    after_help = "Examples:\n  hausblatt values /visit/\n  hausblatt values /visit/ content.title.upper\n  hausblatt values / \"journal order by it.date desc limit 3\""
)]
pub struct ValuesArgs {
    /// An address, or the path of a content file
    pub address: String,
    /// A value as a template would write it, such as content.title; else all global values
    pub value: Option<String>,
}

/// What was typed for `render`.
#[derive(Args, Debug)]
#[command(
    after_help = "Examples:\n  hausblatt render /visit/ > visit.html\n  hausblatt render /visit/ --outline\n  hausblatt render --component notice --set text=\"Closed on frost days\""
)]
pub struct RenderArgs {
    /// An address, or the path of a content file
    #[arg(required_unless_present = "component")]
    pub address: Option<String>,
    /// Which file made which part, instead of the HTML
    #[arg(long)]
    pub outline: bool,
    /// Leave a comment where each file's part starts and stops
    #[arg(long, conflicts_with = "outline")]
    pub marks: bool,
    /// A component alone, instead of an address
    #[arg(long, value_name = "NAME", conflicts_with_all = ["address", "outline"])]
    pub component: Option<String>,
    /// What a field of the component holds; the others have their defaults
    #[arg(long, value_name = "FIELD=VALUE", requires = "component", value_parser = field)]
    pub set: Vec<(String, String)>,
    /// Put the layout document around the component, with its styles and scripts
    #[arg(long, requires = "component")]
    pub document: bool,
}

/// `FIELD=VALUE`, parted at the first `=`.
fn field(text: &str) -> Result<(String, String), String> {
    match text.split_once('=') {
        Some((name, value)) if !name.trim().is_empty() => Ok((name.trim().to_owned(), value.to_owned())),
        _ => Err("write it as in heading=\"Two beds\"".to_owned()),
    }
}

/// What was typed for `build`.
#[derive(Args, Debug)]
#[command(after_help = "Example:  hausblatt build --out public")]
pub struct BuildArgs {
    /// The folder to build into; else the folder built in the site's folder
    #[arg(long, value_name = "DIR")]
    pub out: Option<PathBuf>,
    /// Write the map as hausblatt-map.json, too
    #[arg(long)]
    pub map: bool,
    /// How many threads to use
    #[arg(long, value_name = "N", value_parser = clap::value_parser!(u16).range(1..=256))]
    pub jobs: Option<u16>,
}
