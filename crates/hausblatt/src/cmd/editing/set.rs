//! `set`: values of front matter, of `hausblatt.toml` and of the theme's manifest, one at a time.

use std::fmt::Write as _;

use anstyle::Style;
use hausblatt_core::analysis::compare::{Difference, Html, compare};
use hausblatt_core::change::choose::chooser;
use hausblatt_core::change::edit::Edit;
use hausblatt_core::change::set::{Assignment, SetTarget, fields_of};
use hausblatt_core::files::Depth;
use hausblatt_core::files::edit::Write;
use hausblatt_core::schema::config;
use hausblatt_core::text::data::{Data, Entry};
use hausblatt_core::text::data_change::{DataPath, found};
use hausblatt_core::text::front::one_line;
use hausblatt_core::world::World;
use hausblatt_lang::text::diagnostic::Diagnostic;
use serde::Serialize;

use crate::cli::SetArgs;
use crate::cmd::{json, print};
use crate::failure::{Failure, Outcome};
use crate::opened;
use crate::options::{Common, Format};
use crate::show::style::{FAINT, GOOD, NOTE, STRONG, TYPED, plain, styled, to_type, word};
use crate::show::{changes, diagnostics, difference, table};

/// What was set, as JSON.
#[derive(Serialize)]
struct SetJson {
    path: String,
    written: bool,
    changed: Vec<changes::ChangeJson>,
}

/// A value that can be set, as JSON.
#[derive(Serialize)]
struct ValueJson {
    key: String,
    #[serde(rename = "type")]
    of: String,
    label: Option<String>,
    value: Option<String>,
    from: Option<String>,
}

/// Runs the command.
pub fn run(common: &Common, args: &SetArgs) -> Result<Outcome, Failure> {
    let assignments = assignments(args);
    let open = if assignments.is_empty() || args.dry_run { opened::open } else { opened::open_to_write };
    let world = open(common, Depth::Whole)?;
    let target = target(world, &args.place)?;
    if assignments.is_empty() {
        return list(common, world, target);
    }
    let edit = Edit::Set(target, assignments.clone());
    let (planned, after) = edit.tried(world).map_err(|problems| refused(world, &problems, common))?;
    let html = if args.dry_run { Html::Whether } else { Html::No };
    let difference = compare(world, &after, html);
    let write = planned.writes.first();
    if !args.dry_run {
        opened::write(world, &planned.writes)?;
    }
    let path = target.path(world);
    if common.format == Format::Json {
        let written = write.is_some() && !args.dry_run;
        json(&SetJson { path, written, changed: changes::json(&difference.changed) })?;
    } else if !common.quiet {
        print(&text(world, target, &assignments, write, &difference, args.dry_run))?;
    }
    let problems: Vec<Diagnostic> = difference.problems.into_iter().map(|problem| problem.diagnostic).collect();
    Ok(opened::accept_in(&after.snapshot, &problems, common))
}

/// What was typed, in the order in which it is done.
fn assignments(args: &SetArgs) -> Vec<Assignment> {
    let values = args.values.iter().map(|(key, value)| Assignment::Set(key.clone(), value.clone()));
    let cleared = args.clear.iter().map(|key| Assignment::Clear(key.clone()));
    let added = args.add.iter().map(|(key, value)| Assignment::Add(key.clone(), value.clone()));
    let moved = args.moves.iter().map(|(key, to)| Assignment::Move(key.clone(), *to));
    values.chain(cleared).chain(added).chain(moved).collect()
}

/// The file that is meant.
fn target(world: &World, typed: &str) -> Result<SetTarget, Failure> {
    let path = opened::from_here(world, typed);
    let path = path.as_deref().unwrap_or_else(|| typed.trim_start_matches("./"));
    let manifest = world.lineage.themes.iter().position(|theme| *theme.manifest == *path);
    match (typed, manifest, opened::content_file(world, typed)) {
        ("site", ..) => Ok(SetTarget::Site),
        ("theme", ..) => Ok(SetTarget::Theme(0)),
        (_, Some(theme), _) => Ok(SetTarget::Theme(theme)),
        (_, _, Some(content)) => Ok(SetTarget::Content(content)),
        _ if path == config::FILE => Ok(SetTarget::Site),
        _ if typed.starts_with("content/") => Err(opened::failed(&opened::unknown_content(world, typed))),
        _ if typed.starts_with('/') || typed.contains("://") => {
            let found = chooser(world, typed).map_err(|problem| match problem.message.split_once(": only pages") {
                Some((what, _)) => Failure::Work(
                    format!("{what}, which has no front matter"),
                    Some("name a page or an entry, or: site, theme".to_owned()),
                ),
                None => opened::failed(&problem),
            })?;
            Ok(SetTarget::Content(found))
        }
        _ => Err(Failure::usage(
            format!("\"{typed}\" has no values to set"),
            "name an address, a content file, \"site\" (hausblatt.toml) or \"theme\" (the active theme's manifest)",
        )),
    }
}

fn refused(world: &World, problems: &[Diagnostic], common: &Common) -> Failure {
    if let [problem] = problems
        && problem.place.as_ref().is_none_or(|place| place.span.range().is_empty())
    {
        return opened::failed(problem);
    }
    let bare: Vec<Diagnostic> = problems.iter().map(diagnostics::unwritten).collect();
    if let [problem] = bare.as_slice() {
        return Failure::Work(format!("{}; nothing was written", problem.message), problem.help.clone());
    }
    diagnostics::show(&world.snapshot, &bare, common);
    Failure::Work("nothing was written".to_owned(), None)
}

fn text(
    world: &World,
    target: SetTarget,
    assignments: &[Assignment],
    write: Option<&Write>,
    difference: &Difference,
    is_dry: bool,
) -> String {
    let verb = match (write, is_dry) {
        (None, _) => styled(FAINT, "Kept "),
        (Some(_), false) => styled(GOOD, "Wrote"),
        (Some(_), true) => styled(NOTE, "Would write"),
    };
    let mut out = format!("{verb} {}\n", styled(STRONG, &plain(&target.path(world))));
    let entries = target.entries(world);
    for assignment in assignments {
        let path = DataPath::parse(assignment.key()).ok();
        let before = path.and_then(|path| found(&entries, path.steps()).map(one_line));
        let was = |word: &str| before.as_ref().map_or(String::new(), |before| format!(", {word} {}", short(before)));
        let line = match assignment {
            Assignment::Set(key, value) if before.as_ref() == Some(value) => {
                format!("{key} is {} already", short(value))
            }
            Assignment::Set(key, value) => format!("{key}: {}{}", short(value), was("before")),
            Assignment::Clear(key) if before.is_none() => format!("{key} was not there"),
            Assignment::Clear(key) => format!("{key} is taken out{}", was("before")),
            Assignment::Add(key, value) => format!("{key}: {} is added", short(value)),
            Assignment::Move(key, to) => format!("{key} is moved to {to}"),
        };
        let _ = writeln!(out, "      {}", plain(&line));
    }
    if is_dry {
        let _ = write!(out, "\n{}", difference::text(difference, false, Html::Whether).trim_end());
        out.push('\n');
    } else if !difference.changed.is_empty() {
        let _ = writeln!(out, "\n{}", changes::text(&difference.changed, false).trim_end());
    }
    if write.is_some() && !is_dry {
        let _ = writeln!(out, "\nTake it back:  {}", to_type("hausblatt undo"));
    }
    out
}

/// A value in one line that is not too long to read.
fn short(value: &str) -> String {
    if value.is_empty() {
        return "\"\"".to_owned();
    }
    let line = value.lines().next().unwrap_or("");
    match line.chars().count() > 60 || line.len() < value.trim_end().len() {
        true => format!("{}…", line.chars().take(60).collect::<String>()),
        false => line.to_owned(),
    }
}

/// What can be set there, and what it is now.
fn list(common: &Common, world: &World, target: SetTarget) -> Result<Outcome, Failure> {
    if let Some(problem) = target.problem(world) {
        return Err(opened::failed(&problem));
    }
    let values = values(world, target);
    if common.format == Format::Json {
        json(&values)?;
        return Ok(Outcome::Clean);
    }
    let mut out = format!("{}\n", styled(STRONG, &plain(&target.path(world))));
    if values.is_empty() {
        out.push_str("The themes declare no setting. Any key of the file can be set, as in site.title=…\n");
    }
    let row = |value: &ValueJson| {
        let now = value.value.as_deref().map_or("·".to_owned(), short);
        let from = value.from.as_ref().map_or(String::new(), |from| format!("  ({from})"));
        vec![(plain(&value.key), TYPED), (plain(&value.of), FAINT), (plain(&format!("{now}{from}")), Style::new())]
    };
    out.push_str(&table::text(&values.iter().map(row).collect::<Vec<_>>(), 2));
    if let Some(value) = values.iter().find(|value| value.of == "text").or(values.first()) {
        let typed = format!("hausblatt set {} {}=VALUE", word(&target.word(world)), word(&value.key));
        let _ = writeln!(out, "\nNext:  {}", to_type(&typed));
    }
    print(&out)?;
    Ok(Outcome::Clean)
}

fn values(world: &World, target: SetTarget) -> Vec<ValueJson> {
    let entries = target.entries(world);
    let now = |key: &str| {
        let path = DataPath::parse(key).ok()?;
        found(&entries, path.steps()).map(one_line)
    };
    match target {
        SetTarget::Site | SetTarget::Theme(_) => {
            let settings = world.settings.iter().map(|setting| {
                let name = &setting.field.name;
                let key = match target {
                    SetTarget::Site => format!("settings.{name}"),
                    _ => format!("settings.{name}.default"),
                };
                let own = now(&key);
                let (value, from) = match own {
                    Some(value) => (Some(value), None),
                    None => default_of(world, name)
                        .map_or((None, None), |(value, theme)| (Some(value), Some(format!("default of {theme}")))),
                };
                let of = setting.field.of.word().to_owned();
                ValueJson { key, of, label: setting.field.label.clone(), value, from }
            });
            settings.chain(members(&entries, "menus")).collect()
        }
        SetTarget::Content(id) => {
            let content = world.site.content(id);
            let value = |key: &str, of: &str, label: Option<String>| ValueJson {
                key: key.to_owned(),
                of: of.to_owned(),
                label,
                value: now(key),
                from: None,
            };
            let mut all = vec![value("title", "text", None)];
            let fields = fields_of(world, content).iter();
            all.extend(fields.map(|field| value(&field.name, field.of.word(), field.label.clone())));
            let known: Vec<String> = all.iter().map(|value| value.key.clone()).collect();
            // What else the file says.
            let others = entries.iter().filter(|entry| !known.iter().any(|key| *key == *entry.key));
            let others = others.filter(|entry| &*entry.key != "trays");
            all.extend(others.map(|entry| value(&entry.key, kind(&entry.data), None)));
            all.extend(members(&entries, "trays"));
            all
        }
    }
}

/// What is in the lists of a group: the items of menus, the components in trays.
fn members(entries: &[Entry], group: &str) -> Vec<ValueJson> {
    let lists = entries.iter().filter(|entry| &*entry.key == group).filter_map(|entry| entry.data.as_map()).flatten();
    let mut all = Vec::new();
    for list in lists {
        for (number, member) in (1..).zip(list.data.as_list().unwrap_or_default()) {
            let component = member.as_map().and_then(|keys| keys.iter().find(|key| &*key.key == "component"));
            let of = component.and_then(|key| key.data.as_text()).unwrap_or("item").to_owned();
            let key = format!("{group}.{}.{number}", list.key);
            all.push(ValueJson { key, of, label: None, value: Some(one_line(member)), from: None });
        }
    }
    all
}

/// What sort of value is written there.
fn kind(data: &Data) -> &'static str {
    data.kind().trim_start_matches("a ")
}

/// The default of a setting as the nearest theme writes it, and that theme.
fn default_of(world: &World, name: &str) -> Option<(String, String)> {
    let key = [String::from("settings"), name.to_owned(), String::from("default")];
    (0..world.lineage.themes.len()).find_map(|at| {
        let entries = SetTarget::Theme(at).entries(world);
        Some((one_line(found(&entries, &key)?), world.lineage.themes[at].name.clone()))
    })
}
