//! The command line as it is typed.

use std::path::PathBuf;

use clap::{Args, CommandFactory, FromArgMatches, Parser, Subcommand, ValueEnum};
use clap_complete::engine::ArgValueCompleter;
use hausblatt_core::build::BuildPart;
use hausblatt_core::change::suppose::Front;

use crate::complete;
use crate::options::{Common, with_formats, with_short_help};

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

impl Cli {
    /// The command line: each command with the formats that it has, and with what a shell can complete in options that
    /// every command has.
    pub fn line() -> clap::Command {
        let line = Self::command().mut_arg("theme", |arg| arg.add(ArgValueCompleter::new(complete::themes)));
        with_short_help(line.mut_subcommands(with_formats), true)
    }

    /// What was typed; ends the program where that makes no sense, or where help is wanted.
    pub fn typed() -> Self {
        Self::from_arg_matches(&Self::line().get_matches()).unwrap_or_else(|error| error.exit())
    }
}

/// The commands.
#[derive(Debug, Subcommand)]
pub enum Command {
    /// Write the demo site, build it, and walk through the main questions
    Demo(DemoArgs),
    /// Create a working site, theme, template, layout, partial, component, page or entry
    Start(StartArgs),
    /// Show which file renders an address, and why
    Resolve(ResolveArgs),
    /// List every address and its file
    Map(MapArgs),
    /// Show what a theme file affects
    Reach(ReachArgs),
    /// List the active theme and its ancestors
    Themes(ThemesArgs),
    /// List every theme file: what it renders, covers, its state
    Files(FilesArgs),
    /// Give the active theme its own version of an inherited file
    Override(OverrideArgs),
    /// Choose an offered template for content
    Choose(ChooseArgs),
    /// Set a setting, a field of content, a component in a tray, a menu's item
    Set(SetArgs),
    /// Show what a change would affect, writing nothing
    Suppose(SupposeArgs),
    /// List copies whose original has changed
    Drift(DriftArgs),
    /// Rename a theme file or a name, and all that uses it
    Rename(RenameArgs),
    /// Let a copy extend what it is a copy of
    Extend(ExtendArgs),
    /// Move a theme file to another theme of the lineage
    Move(MoveArgs),
    /// Make lines of a theme file a partial, or a slot
    Extract(ExtractArgs),
    /// Write theme files neatly, changing nothing that is printed
    Neaten(NeatenArgs),
    /// Take back the last change that a command wrote
    Undo(UndoArgs),
    /// Show the values a template sees, or evaluate an expression
    Values(ValuesArgs),
    /// Print the HTML of an address
    Render(RenderArgs),
    /// Build the whole site into a folder
    Build(BuildArgs),
    /// Report problems in themes and content
    Check(CheckArgs),
    /// Render templates with content worse than the site's own
    Rehearse(RehearseArgs),
    /// List what the themes read from the site
    Needs(NeedsArgs),
    /// Pack the theme with its ancestors into one file
    Pack(PackArgs),
    /// Compare the map with a recorded one
    Expect(ExpectArgs),
    /// List requested addresses that don't exist, from an access log
    Missed(MissedArgs),
    /// Draw the ladders as an SVG image
    Chart(ChartArgs),
    /// Serve the site live, showing what made each page
    Serve(ServeArgs),
    /// Answer an editor that speaks the Language Server Protocol
    Lsp,
}

/// What was typed for `demo`.
#[derive(Args, Debug)]
#[command(after_help = "Examples:\n  hausblatt demo seeds\n  hausblatt demo seeds --serve")]
pub struct DemoArgs {
    /// The folder to write the demo site into
    #[arg(default_value = "demo-site")]
    pub dir: PathBuf,
    /// Serve it at once, instead of the questions
    #[arg(long)]
    pub serve: bool,
}

/// What was typed for `resolve`.
#[derive(Args, Debug)]
#[command(
    after_help = "Examples:\n  hausblatt resolve /varieties/scarlet-runner/\n  hausblatt resolve content/pages/visit.md --format json"
)]
pub struct ResolveArgs {
    /// Addresses, or paths of content files
    #[arg(add = ArgValueCompleter::new(complete::addresses), required = true, value_name = "ADDRESS")]
    pub addresses: Vec<String>,
}

/// What was typed for `map`.
#[derive(Args, Debug)]
#[command(
    after_help = "Examples:\n  hausblatt map --kind page\n  hausblatt map --by template\n  hausblatt map --unused\n  hausblatt map --format csv > map.csv"
)]
pub struct MapArgs {
    /// Only requests of this kind
    #[arg(long, value_name = "KIND", value_parser = ["front", "page", "entry", "listing", "period", "search", "route", "error"])]
    pub kind: Option<String>,
    /// Only addresses whose template's name fits, such as "entry/**"
    #[arg(long, value_name = "GLOB")]
    pub template: Option<String>,
    /// Group and count
    #[arg(long, value_name = "WHAT")]
    pub by: Option<By>,
    /// List the files that no address uses, and why
    #[arg(long, conflicts_with_all = ["kind", "template", "by"])]
    pub unused: bool,
}

/// By what the map is grouped.
#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub enum By {
    /// By the template that renders.
    Template,
}

/// What was typed for `start`.
#[derive(Args, Debug)]
#[command(
    after_help = "Examples:\n  hausblatt start theme coast --parent harbour\n  hausblatt start template offered/wide --from page\n  hausblatt start entry journal/late-frost --title \"Late frost\""
)]
pub struct StartArgs {
    /// What to create
    pub what: StartCommand,
    /// Its name: a folder for a site, COLLECTION/ID for an entry; none for a theme that is unpacked
    pub name: Option<String>,
    /// The new theme's parent
    #[arg(add = ArgValueCompleter::new(complete::themes), long, value_name = "THEME")]
    pub parent: Option<String>,
    /// Start as a copy of this template, or unpack a theme from this archive
    #[arg(long, value_name = "FILE", conflicts_with = "blank")]
    pub from: Option<String>,
    /// With --from: merge what is new into themes that were unpacked before
    #[arg(long, requires = "from")]
    pub update: bool,
    /// Start from scratch, extending nothing
    #[arg(long)]
    pub blank: bool,
    /// The title of a site, a page or an entry
    #[arg(long, value_name = "TEXT")]
    pub title: Option<String>,
    /// Start a site with the fewest files that show a page
    #[arg(long)]
    pub minimal: bool,
}

/// What can be started.
#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub enum StartCommand {
    /// A site with a little of everything: pages, notes, a menu, a theme
    Site,
    /// A theme
    Theme,
    /// A template
    Template,
    /// A layout
    Layout,
    /// A partial
    Partial,
    /// A component
    Component,
    /// A page
    Page,
    /// An entry of a collection
    Entry,
}

/// What was typed for `reach`.
#[derive(Args, Debug)]
#[command(
    after_help = "Examples:\n  hausblatt reach partials/card\n  hausblatt reach themes/loam/layouts/document.html"
)]
pub struct ReachArgs {
    /// A theme file: its path from the site or from the theme, or its name
    #[arg(add = ArgValueCompleter::new(complete::files))]
    pub file: String,
}

/// What was typed for `themes`.
#[derive(Args, Debug)]
#[command(after_help = "Example:  hausblatt themes")]
pub struct ThemesArgs {}

/// What was typed for `files`.
#[derive(Args, Debug)]
#[command(after_help = "Example:  hausblatt files")]
pub struct FilesArgs {}

/// What was typed for `override`.
#[derive(Args, Debug)]
#[command(
    after_help = "Examples:\n  hausblatt override partials/footer\n  hausblatt override /varieties/scarlet-runner/ --only\n  hausblatt override /visit/ --slots"
)]
pub struct OverrideArgs {
    /// A theme file, or the address whose template to override
    #[arg(add = ArgValueCompleter::new(complete::anything), value_name = "FILE|ADDRESS")]
    pub what: String,
    /// Use the most specific name that matches only this address
    #[arg(long)]
    pub only: bool,
    /// Use another name of the ladder, or offered/NAME
    #[arg(long = "as", value_name = "NAME", conflicts_with = "only")]
    pub name: Option<String>,
    /// Extend the inherited file by filling its slots, instead of copying it
    #[arg(long)]
    pub slots: bool,
    /// Replace an existing file
    #[arg(long)]
    pub force: bool,
}

/// What was typed for `choose`.
#[derive(Args, Debug)]
#[command(
    after_help = "Examples:\n  hausblatt choose no-aside /visit/ /borrow/\n  hausblatt choose /visit/            (offers what fits)\n  hausblatt choose --clear /visit/\n  hausblatt choose --list /visit/",
    override_usage = "hausblatt choose [OPTIONS] [NAME] <ADDRESS>..."
)]
pub struct ChooseArgs {
    /// The offered template, then addresses or paths of content files
    #[arg(add = ArgValueCompleter::new(complete::offered), required = true, value_name = "NAME|ADDRESS")]
    pub arguments: Vec<String>,
    /// Take the choice back
    #[arg(long)]
    pub clear: bool,
    /// List what could be chosen there, and what not, and why
    #[arg(long, conflicts_with = "clear")]
    pub list: bool,
}

/// What was typed for `set`.
#[derive(Args, Debug)]
#[command(
    after_help = "Examples:\n  hausblatt set /visit/\n  hausblatt set /visit/ 'title=Come and see'\n  hausblatt set site 'settings.motto=Sow, save, share'\n  hausblatt set site --move menus.main.2=1\n  hausblatt set /visit/ --clear tagline\n  hausblatt set /visit/ --add 'trays.main={ component: notice, text: Closed }'"
)]
pub struct SetArgs {
    /// An address, a content file, site (hausblatt.toml) or theme (its manifest)
    #[arg(add = ArgValueCompleter::new(complete::addresses), value_name = "WHERE")]
    pub place: String,
    /// A key and its value; trays.main.2.text is in the second component of a tray
    #[arg(value_name = "KEY=VALUE", value_parser = keyed)]
    pub values: Vec<(String, String)>,
    /// Take a key out, or a member of a list
    #[arg(long, value_name = "KEY")]
    pub clear: Vec<String>,
    /// Add to a list, at its end or before KEY.POSITION
    #[arg(long, value_name = "KEY=VALUE", value_parser = keyed)]
    pub add: Vec<(String, String)>,
    /// Move a member of a list to another position in it
    #[arg(long = "move", value_name = "KEY.POSITION=TO", value_parser = moved)]
    pub moves: Vec<(String, usize)>,
    /// Show what would change, and write nothing
    #[arg(long)]
    pub dry_run: bool,
}

/// What was typed for `suppose`.
#[derive(Args, Debug)]
#[command(
    after_help = "Examples:\n  hausblatt suppose --add page/visit\n  hausblatt suppose --without themes/hedgerow/templates/page/visit.html --html\n  hausblatt suppose --to-theme loam\n  hausblatt suppose --edit card=draft.html --diff   (a draft)\n  hausblatt suppose --address-pattern journal=/news/{slug}/"
)]
pub struct SupposeArgs {
    /// Assume this theme file exists (empty, or NAME=OTHER with another's text)
    #[arg(long, value_name = "FILE")]
    pub add: Vec<String>,
    /// Assume this theme file does not exist
    #[arg(add = ArgValueCompleter::new(complete::files), long, value_name = "FILE")]
    pub without: Vec<String>,
    /// Assume this file has another's text (FILE=-: standard input's)
    #[arg(long, value_name = "FILE=DRAFT", value_parser = draft)]
    pub edit: Vec<(String, String)>,
    /// Assume this template is chosen there
    #[arg(long, value_name = "NAME=ADDRESS", value_parser = choice)]
    pub choose: Vec<(String, String)>,
    /// Assume this theme is active
    #[arg(add = ArgValueCompleter::new(complete::themes), long, value_name = "NAME")]
    pub to_theme: Option<String>,
    /// Assume this front page: page:ID or collection:NAME
    #[arg(long, value_name = "WHAT", value_parser = front)]
    pub front: Option<Front>,
    /// Assume the active theme has this parent
    #[arg(long, value_name = "NAME")]
    pub parent: Option<String>,
    /// Assume this pattern of a collection's addresses
    #[arg(long, value_name = "COLLECTION=PATTERN", value_parser = pattern)]
    pub address_pattern: Vec<(String, String)>,
    /// Render both sides, and list the pages whose HTML differs
    #[arg(long)]
    pub html: bool,
    /// Show how it differs
    #[arg(long)]
    pub diff: bool,
    /// List every address, instead of one line for similar ones
    #[arg(long)]
    pub all: bool,
}

/// `NAME=ADDRESS`, parted at the first `=`.
fn choice(text: &str) -> Result<(String, String), String> {
    match text.split_once('=') {
        Some((name, address)) if !name.is_empty() && !address.is_empty() => Ok((name.to_owned(), address.to_owned())),
        _ => Err("write it as in no-aside=/visit/".to_owned()),
    }
}

/// A key and its value, which may be empty.
fn keyed(text: &str) -> Result<(String, String), String> {
    match text.split_once('=') {
        Some((key, value)) if !key.trim().is_empty() => Ok((key.trim().to_owned(), value.to_owned())),
        _ => Err("write it as in 'title=Come and see'".to_owned()),
    }
}

/// The key of a member of a list, and the position that it comes to.
fn moved(text: &str) -> Result<(String, usize), String> {
    let parted = text.split_once('=').and_then(|(key, to)| Some((key.trim().to_owned(), to.trim().parse().ok()?)));
    parted.ok_or_else(|| "write it as in menus.main.2=1".to_owned())
}

/// A collection and a pattern of addresses.
fn pattern(text: &str) -> Result<(String, String), String> {
    match text.split_once('=') {
        Some((collection, pattern)) if !collection.is_empty() && !pattern.is_empty() => {
            Ok((collection.to_owned(), pattern.to_owned()))
        }
        _ => Err("write it as in journal=/journal/{year}/{slug}/".to_owned()),
    }
}

/// `FILE=DRAFT`, parted at the last `=`.
fn draft(text: &str) -> Result<(String, String), String> {
    match text.rsplit_once('=') {
        Some((file, draft)) if !file.is_empty() && !draft.is_empty() => Ok((file.to_owned(), draft.to_owned())),
        _ => Err("write it as in partials/card=draft.html, or partials/card=- for standard input".to_owned()),
    }
}

/// `page:ID` or `collection:NAME`.
fn front(text: &str) -> Result<Front, String> {
    match text.split_once(':') {
        Some(("page", id)) if !id.is_empty() => Ok(Front::Page(id.to_owned())),
        Some(("collection", name)) if !name.is_empty() => Ok(Front::Collection(name.to_owned())),
        _ => Err("write it as in page:welcome or collection:journal".to_owned()),
    }
}

/// What was typed for `drift`.
#[derive(Args, Debug)]
#[command(
    after_help = "Examples:\n  hausblatt drift --diff\n  hausblatt drift --merge\n  hausblatt drift --adopt partials/header"
)]
pub struct DriftArgs {
    /// Only these copies
    #[arg(add = ArgValueCompleter::new(complete::files), value_name = "FILE")]
    pub files: Vec<String>,
    /// Show what has changed in the originals
    #[arg(long)]
    pub diff: bool,
    /// Merge what has changed into the copies
    #[arg(long, conflicts_with = "adopt")]
    pub merge: bool,
    /// Record the present original as the copy's base
    #[arg(
        add = ArgValueCompleter::new(complete::files),
        long,
        value_name = "FILE",
        num_args = 1..,
        conflicts_with = "files"
    )]
    pub adopt: Vec<String>,
    /// End the record of the copy's original: it is the theme's own
    #[arg(
        add = ArgValueCompleter::new(complete::files),
        long,
        value_name = "FILE",
        num_args = 1..,
        conflicts_with_all = ["files", "adopt", "merge"]
    )]
    pub release: Vec<String>,
}

/// What was typed for `rename`.
#[derive(Args, Debug)]
#[command(
    after_help = "Examples:\n  hausblatt rename partials/pager page-links --theme loam --dry-run\n  hausblatt rename component:notice hint --theme hedgerow\n  hausblatt rename assets/harbour.css css/harbour.css\n  hausblatt rename field:varieties/days days_to_harvest --dry-run\n  hausblatt rename page:visit find-us --dry-run"
)]
pub struct RenameArgs {
    /// A theme file, or with a prefix something of the site: menu:main, field:varieties/days
    #[arg(add = ArgValueCompleter::new(complete::renamable), value_name = "WHAT")]
    pub what: String,
    /// Its new name
    #[arg(value_name = "NEW")]
    pub new: String,
    /// Show what would be written and what would change, writing nothing
    #[arg(long)]
    pub dry_run: bool,
}

/// What was typed for `extend`.
#[derive(Args, Debug)]
#[command(after_help = "Examples:\n  hausblatt extend page/visit            (after an override)")]
pub struct ExtendArgs {
    /// A copy in the active theme
    #[arg(add = ArgValueCompleter::new(complete::files), value_name = "FILE")]
    pub file: String,
    /// Show what would be written, writing nothing
    #[arg(long)]
    pub dry_run: bool,
}

/// What was typed for `move`.
#[derive(Args, Debug)]
#[command(after_help = "Examples:\n  hausblatt move partials/header-small hedgerow --dry-run")]
pub struct MoveArgs {
    /// A file of the lineage
    #[arg(add = ArgValueCompleter::new(complete::files), value_name = "FILE")]
    pub file: String,
    /// A theme of the lineage
    #[arg(add = ArgValueCompleter::new(complete::themes), value_name = "THEME")]
    pub to: String,
    /// Show what would be written, writing nothing
    #[arg(long)]
    pub dry_run: bool,
}

/// What was typed for `extract`.
#[derive(Args, Debug)]
#[command(
    after_help = "Examples:\n  hausblatt extract page:14-21 siblings --theme loam --dry-run\n  hausblatt extract layouts/document:26 foot --as slot --theme loam"
)]
pub struct ExtractArgs {
    /// A file of the active theme and its lines, the first and the last
    #[arg(value_name = "FILE:FROM-TO")]
    pub lines: String,
    /// The name of the partial or the slot
    #[arg(value_name = "NAME")]
    pub name: String,
    /// What the lines become
    #[arg(long = "as", value_name = "WHAT", default_value = "partial")]
    pub becomes: Becomes,
    /// Show what would be written, writing nothing
    #[arg(long)]
    pub dry_run: bool,
}

/// What lines become.
#[derive(Clone, Copy, Debug, ValueEnum)]
pub enum Becomes {
    /// A partial that is called there
    Partial,
    /// The default of a slot
    Slot,
}

/// What was typed for `neaten`.
#[derive(Args, Debug)]
#[command(after_help = "Examples:\n  hausblatt neaten --dry-run\n  hausblatt neaten card pager --theme loam --diff")]
pub struct NeatenArgs {
    /// Files of the active theme; without any, all of them
    #[arg(add = ArgValueCompleter::new(complete::files), value_name = "FILE")]
    pub files: Vec<String>,
    /// Write nothing; exit with 1 if a file would change
    #[arg(long)]
    pub dry_run: bool,
    /// Show how each file changes
    #[arg(long)]
    pub diff: bool,
}

/// What was typed for `undo`.
#[derive(Args, Debug)]
#[command(
    after_help = "Examples:\n  hausblatt undo --list\n  hausblatt undo --dry-run   (after a change)\n  hausblatt undo             (after a change)\n  hausblatt undo 12          (that one, if its files are as it left them)"
)]
pub struct UndoArgs {
    /// The number of a change, as --list shows it, instead of the last one
    #[arg(conflicts_with = "list")]
    pub number: Option<u32>,
    /// List the changes that can be taken back, the last one first
    #[arg(long, conflicts_with = "dry_run")]
    pub list: bool,
    /// Show what would be taken back, writing nothing
    #[arg(long)]
    pub dry_run: bool,
}

/// What was typed for `values`.
#[derive(Args, Debug)]
#[command(
    after_help = "Examples:\n  hausblatt values /visit/\n  hausblatt values /visit/ content.title.upper\n  hausblatt values / \"journal order by it.date desc limit 3\""
)]
pub struct ValuesArgs {
    /// An address, or the path of a content file
    #[arg(add = ArgValueCompleter::new(complete::addresses))]
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
    #[arg(add = ArgValueCompleter::new(complete::addresses), required_unless_present = "component")]
    pub address: Option<String>,
    /// Which file made which part, instead of the HTML
    #[arg(long)]
    pub outline: bool,
    /// Mark with comments where each file's part starts and stops
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
#[command(
    after_help = "Examples:\n  hausblatt build --out public\n  hausblatt build --diff\n  hausblatt build -v --jobs 2\n  hausblatt build --part 3/8 --out part-3"
)]
pub struct BuildArgs {
    /// The folder to build into; else the folder built in the site's folder
    #[arg(long, value_name = "DIR")]
    pub out: Option<PathBuf>,
    /// Write the map as hausblatt-map.json, too
    #[arg(long)]
    pub map: bool,
    /// List what would change, and write nothing
    #[arg(long)]
    pub dry_run: bool,
    /// Show how files would change; writes nothing either
    #[arg(long)]
    pub diff: bool,
    /// Mark with comments where each file's part starts and stops
    #[arg(long)]
    pub marks: bool,
    /// Put compressed files (.gz, .br) beside those that get smaller
    #[arg(long)]
    pub compressed: bool,
    /// Write the paths of the files that were written or removed into FILE, a line each
    #[arg(long, value_name = "FILE", conflicts_with_all = ["dry_run", "diff"])]
    pub changed_list: Option<PathBuf>,
    /// How many threads to use
    #[arg(long, value_name = "N", value_parser = clap::value_parser!(u16).range(1..=256))]
    pub jobs: Option<u16>,
    /// Build only one part of so many, as in 3/8; together they are the whole site
    #[arg(long, value_name = "K/N")]
    pub part: Option<BuildPart>,
}

/// What was typed for `check`.
#[derive(Args, Debug)]
#[command(
    after_help = "Examples:\n  hausblatt check\n  hausblatt check /visit/ themes/loam/partials/menu.html\n  hausblatt check --fix --dry-run\n  hausblatt check --format sarif > check.sarif"
)]
pub struct CheckArgs {
    /// Only these addresses, content files and theme files
    #[arg(add = ArgValueCompleter::new(complete::anything), value_name = "ADDRESS|FILE")]
    pub what: Vec<String>,
    /// Fix what can be fixed with certainty
    #[arg(long)]
    pub fix: bool,
    /// With --fix: show what would be written, and write nothing
    #[arg(long, requires = "fix")]
    pub dry_run: bool,
    /// Report pages of which a first visit loads more than this, as in 200kB
    #[arg(long, value_name = "SIZE", value_parser = bytes)]
    pub weight: Option<u64>,
    /// Check the theme with its ancestors without the site: in an empty one and in one that is made up
    #[arg(long, conflicts_with_all = ["what", "fix", "weight"])]
    pub alone: bool,
    /// What a code means and what to do about it; all codes without one
    #[arg(add = ArgValueCompleter::new(complete::codes), long, value_name = "CODE", num_args = 0..=1, default_missing_value = "", conflicts_with_all = ["what", "fix"])]
    pub about: Option<String>,
}

/// What was typed for `rehearse`.
#[derive(Args, Debug)]
#[command(
    after_help = "Examples:\n  hausblatt rehearse\n  hausblatt rehearse /visit/ themes/harbour/templates/entry.html\n  hausblatt rehearse --list /varieties/scarlet-runner/\n  hausblatt rehearse --show \"an entry of varieties without latin\""
)]
pub struct RehearseArgs {
    /// Only these addresses, content files and theme files
    #[arg(add = ArgValueCompleter::new(complete::anything), value_name = "ADDRESS|FILE")]
    pub what: Vec<String>,
    /// List the variations instead of rendering them
    #[arg(long)]
    pub list: bool,
    /// Print the HTML of a variation, at an address or where it shows first
    #[arg(long, value_name = "VARIATION", conflicts_with = "list")]
    pub show: Option<String>,
    /// Use so many threads [default: as many as there are cores]
    #[arg(long, value_name = "N", value_parser = clap::value_parser!(u16).range(1..))]
    pub jobs: Option<u16>,
}

/// What was typed for `needs`.
#[derive(Args, Debug)]
#[command(
    after_help = "Examples:\n  hausblatt needs\n  hausblatt needs --theme hedgerow\n  hausblatt needs --write\n  hausblatt needs --missing"
)]
pub struct NeedsArgs {
    /// Write it into the active theme's manifest, under [needs]
    #[arg(long, conflicts_with_all = ["missing", "site_for"])]
    pub write: bool,
    /// Print the lines that this site lacks, as the manifests say
    #[arg(long, conflicts_with = "site_for")]
    pub missing: bool,
    /// Write a small made-up site that has it all into this folder, with the themes
    #[arg(long, value_name = "DIR")]
    pub site_for: Option<PathBuf>,
}

/// What was typed for `pack`.
#[derive(Args, Debug)]
#[command(
    after_help = "Examples:\n  hausblatt pack --anyway --out harbour.tar.gz\n  hausblatt pack --theme loam --without-parents --anyway --out loam.tar.gz"
)]
pub struct PackArgs {
    /// The file to write [default: NAME-VERSION.tar.gz]
    #[arg(long, value_name = "FILE")]
    pub out: Option<PathBuf>,
    /// Leave the theme's ancestors out
    #[arg(long)]
    pub without_parents: bool,
    /// Skip the checks: check --alone, rehearse, the licence file
    #[arg(long)]
    pub anyway: bool,
}

/// What was typed for `expect`.
#[derive(Args, Debug)]
#[command(after_help = "Examples:\n  hausblatt expect --record\n  hausblatt expect")]
pub struct ExpectArgs {
    /// Record how each address is answered now, in expected.toml
    #[arg(long)]
    pub record: bool,
}

/// What was typed for `missed`.
#[derive(Args, Debug)]
#[command(
    after_help = "Examples:\n  hausblatt missed access.log access.log.1.gz\n  hausblatt missed --fix access.log\n  echo /old/address/ | hausblatt missed -"
)]
pub struct MissedArgs {
    /// Access logs in the common or combined format, packed with gzip or not, or lists of addresses; - for standard input
    #[arg(required = true, value_name = "LOG")]
    pub logs: Vec<String>,
    /// Include bots and static files
    #[arg(long)]
    pub all: bool,
    /// Add the addresses to `formerly` of the content that moved
    #[arg(long)]
    pub fix: bool,
}

/// What was typed for `chart`.
#[derive(Args, Debug)]
#[command(
    after_help = "Examples:\n  hausblatt chart --out ladders.svg\n  hausblatt chart /varieties/scarlet-runner/ --out runner.svg"
)]
pub struct ChartArgs {
    /// One address, with the way that its request takes; else all ladders
    #[arg(add = ArgValueCompleter::new(complete::addresses))]
    pub address: Option<String>,
    /// The SVG file to write; else it is written to standard output
    #[arg(long, value_name = "FILE")]
    pub out: Option<PathBuf>,
    /// Replace the file of --out even if it is not a chart
    #[arg(long, requires = "out")]
    pub force: bool,
}

/// What was typed for `serve`.
#[derive(Args, Debug, Default)]
#[command(
    after_help = "Examples:\n  hausblatt serve\n  hausblatt serve --port 8080 --open\n  hausblatt serve --drafts --as-of 2027-03-01\n  hausblatt serve --editor 'vim +{line} {file}'"
)]
pub struct ServeArgs {
    /// The port to listen at; else 4600, or a free one
    #[arg(long, value_name = "PORT")]
    pub port: Option<u16>,
    /// The name or address to listen at
    #[arg(long, value_name = "HOST", default_value = "127.0.0.1")]
    pub host: String,
    /// Open the site in a browser
    #[arg(long)]
    pub open: bool,
    /// Send pages as visitors get them: no badge, no reload, no explanations
    #[arg(long)]
    pub plain: bool,
    /// Let the workbench write no file
    #[arg(long)]
    pub read_only: bool,
    /// Let the workbench write files from other machines, too, with a key
    #[arg(long, conflicts_with = "read_only")]
    pub allow_edits: bool,
    /// What opens a file from the workbench; {file} and {line} are put in [default: $VISUAL]
    #[arg(long, value_name = "COMMAND")]
    pub editor: Option<String>,
}

/// A size as it is typed, in bytes: kB and MB are thousands and millions, KiB and MiB powers of 1,024 (IEC 80000-13).
fn bytes(typed: &str) -> Result<u64, String> {
    let end = typed.find(|c: char| !c.is_ascii_digit() && c != '.').unwrap_or(typed.len());
    let (number, unit) = typed.split_at(end);
    let factor = match unit.trim().to_ascii_lowercase().as_str() {
        "" | "b" => 1.0,
        "k" | "kb" => 1e3,
        "m" | "mb" => 1e6,
        "kib" => 1024.0,
        "mib" => 1024.0 * 1024.0,
        _ => return Err("write it as in 200kB or 1.5MB".to_owned()),
    };
    match number.parse::<f64>() {
        Ok(number) if number > 0.0 && number * factor < 1e15 => Ok((number * factor) as u64),
        _ => Err("write it as in 200kB or 1.5MB".to_owned()),
    }
}
