//! A file that extends the inherited one, and the slots that it could fill.

use hausblatt_lang::text::codes as lang_codes;
use hausblatt_lang::text::diagnostic::Diagnostic;

use crate::analysis::reach;
use crate::change::copies::effect::effect;
use crate::change::copies::{Override, OverrideTarget, Planned, Refused, supposed, write_of};
use crate::text::codes;
use crate::themes::file_name::Role;
use crate::themes::lineage::FileId;
use crate::themes::originals;
use crate::themes::theme::Theme;
use crate::world::World;

/// A slot that a file which goes on could fill.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Slot {
    /// Its name.
    pub name: String,
    /// The file that it is in.
    pub file: String,
    /// The files that fill it today, nearest first.
    pub filled_by: Vec<String>,
}

/// Plans a file of this name that goes on.
pub fn extend(
    world: &World,
    active: &Theme,
    what: &OverrideTarget,
    name: String,
    path: String,
) -> Result<Planned, Refused> {
    const BARE: &str = "+{inherited with}\n+{end}\n";
    let role = world.lineage.ids().find(|(_, file)| *file.name == *name).map(|(_, file)| file.role);
    let role = role.unwrap_or(Role::Template);
    if !matches!(role, Role::Template | Role::Partial | Role::Layout | Role::Component) {
        let message = format!("{name} has no slots: only templates, partials, layouts and components have some");
        return Err(Diagnostic::of(&codes::NO_SLOTS, message).help("leave out --slots to copy it").into());
    }
    let after = supposed(world, &path, BARE)?;
    let chain = chain(&after, what, &name);
    let Some(next) = chain.get(1) else {
        let message = format!("there is no inherited file that {name} could extend");
        return Err(Diagnostic::of(&lang_codes::NOTHING_INHERITED, message)
            .help("leave out --slots to copy it")
            .into());
    };
    let next = after.lineage.file(*next).node.path.to_string();
    let slots = slots(&after, &chain);
    let text = slots_file(&next, &slots);
    let after = supposed(world, &path, &text)?;
    let effect = effect(world, &after, &name);
    // The record of an earlier copy is none of this file's.
    let stale = originals::removal(&world.snapshot, active, &name);
    let writes = stale.into_iter().chain([write_of(world, &path, text.into_bytes())?]).collect();
    let replaces = world.snapshot.file(&path).is_some();
    Ok(Planned::Write(Box::new(Override { name, path, original: None, slots, writes, replaces, effect })))
}

/// The file itself, what it extends, and the layouts around that.
fn chain(after: &World, what: &OverrideTarget, name: &str) -> Vec<FileId> {
    let Some(own) = after.lineage.nearest(name) else { return Vec::new() };
    if after.lineage.file(own).role != Role::Template {
        return std::iter::once(own).chain(after.next_files(own)).collect();
    }
    let request = match what {
        OverrideTarget::Request(request) => Some(request.clone()),
        OverrideTarget::File(..) => after.reach(own).map(|(request, _)| request.clone()).next(),
    };
    let resolution = request.map(|request| after.resolve(request));
    let running = resolution.map(|resolution| resolution.running(after)).unwrap_or_default();
    if running.contains(&own) {
        return running.into_iter().skip_while(|&file| file != own).collect();
    }
    let offered = |file: &FileId| after.lineage.file(*file).name.starts_with("templates/offered/");
    if offered(&own) && !running.is_empty() {
        // Nobody has chosen it yet: it would extend what content gets without choosing.
        return std::iter::once(own).chain(running.into_iter().filter(|file| !offered(file))).collect();
    }
    // Nothing renders it today: farther files of its name are what it would extend.
    after.lineage.not_hidden(name).collect()
}

fn slots(world: &World, chain: &[FileId]) -> Vec<Slot> {
    let mut found: Vec<Slot> = Vec::new();
    for (at, &file) in chain.iter().enumerate().skip(1) {
        for name in reach::slots(world, file) {
            let path = |id: FileId| world.lineage.file(id).node.path.to_string();
            let before = chain[..at].iter().copied().filter(|&other| reach::fills(world, other).contains(&name));
            let mut filled_by: Vec<String> = before.map(path).collect();
            for other in reach::fillers(world, file, &name).map(path) {
                if !filled_by.contains(&other) {
                    filled_by.push(other);
                }
            }
            let slot = Slot { filled_by, file: path(file), name };
            if !found.iter().any(|other| other.name == slot.name) {
                found.push(slot);
            }
        }
    }
    found
}

/// A file that goes on and fills nothing yet, with what it could fill in a comment.
fn slots_file(next: &str, slots: &[Slot]) -> String {
    // A name could hold what ends the comment.
    let safe = |text: &str| text.replace("#}", "# }").replace("+{#", "+ {#");
    let mut out = format!("+{{# This file extends {}: only what it fills in differs.\n", safe(next));
    if slots.is_empty() {
        out.push_str("    That has no slots: write HTML around the lines below.\n");
    } else {
        out.push_str("    Between the lines below, any of these slots can be filled:\n\n");
        for slot in slots {
            out.push_str(&format!("      +{{into \"{}\"}}…+{{end}}\n", safe(&slot.name)));
            let by = match slot.filled_by.as_slice() {
                [] => "not filled".to_owned(),
                by => format!("filled by {}", by.join(", ")),
            };
            out.push_str(&format!("          of {}; {}\n", safe(&slot.file), safe(&by)));
        }
    }
    out.push_str("#}\n+{inherited with}\n+{end}\n");
    out
}
