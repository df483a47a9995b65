//! What an answer points out: the surprising case, a choice that failed, an id that is not the address.

use std::sync::Arc;

use hausblatt_lang::text::diagnostic::Diagnostic;

use crate::analysis::choice_problem::{ChoiceProblem, is_told_by_note};
use crate::lookup::ladder::fits;
use crate::lookup::resolution::{FileState, LayoutChoice, Note, Resolution, Use, Used};
use crate::model::content::{Content, Section};
use crate::model::request::Kind;
use crate::render::page::is_built_in;
use crate::text::codes;
use crate::themes::file_name::Role;
use crate::themes::lineage::FileId;
use crate::world::World;

/// All notes on a resolution, with the files that run and those that they use.
pub(super) fn notes(world: &World, resolution: &Resolution, running: &[FileId], uses: &[Use]) -> Vec<Note> {
    let content = resolution.request.kind.content().map(|id| world.site.content(id));
    let mut notes = Vec::new();
    if let Some(content) = content {
        notes.extend(chosen(world, resolution, content));
        notes.extend(id_and_address(resolution, content));
        notes.extend(broken(content));
    }
    notes.extend(passed_over(world, resolution));
    notes.extend(faulty(world, resolution, running, uses));
    notes
}

fn chosen(world: &World, resolution: &Resolution, content: &Content) -> Option<Note> {
    let (name, _) = content.template.as_ref()?;
    Some(ChoiceProblem::of(world, resolution, content)?.note(content, name))
}

/// The name decides before the theme does: a nearer theme's general file loses to a farther one's specific one.
fn passed_over(world: &World, resolution: &Resolution) -> Option<Note> {
    let winner = resolution.winner?;
    let winning_theme = world.lineage.file(winner).theme;
    let all = resolution.rungs.iter().flat_map(|rung| &rung.files);
    let (loser, _) = all
        .filter(|(_, state)| *state == FileState::PassedOver)
        .find(|(id, _)| world.lineage.file(*id).theme < winning_theme)?;
    let (near, far) = (world.lineage.theme_of(*loser), world.lineage.theme_of(winner));
    let text = format!(
        "{}'s {} is passed over: {} has the more specific {}.",
        near.name,
        template_name(world, *loser),
        far.name,
        template_name(world, winner)
    );
    Some(Note { code: codes::PASSED_OVER, text })
}

fn template_name(world: &World, id: FileId) -> &str {
    world.lineage.file(id).name.trim_start_matches("templates/")
}

impl World {
    /// The problems of the files that an answer uses.
    pub fn problems_of(&self, resolution: &Resolution) -> Vec<&Diagnostic> {
        problems(self, resolution, &resolution.running(self), &resolution.uses(self)).collect()
    }
}

/// The problems of the files that run and of those that they use.
pub(super) fn problems<'w>(
    world: &'w World,
    resolution: &Resolution,
    running: &[FileId],
    uses: &[Use],
) -> impl Iterator<Item = &'w Diagnostic> + use<'w> {
    let path = |file: FileId| world.lineage.file(file).node.path.clone();
    let manifest = |used: &Use| {
        let name = (used.what == Used::Component).then(|| format!("components/{}/component.toml", used.name))?;
        world.lineage.nearest(&name)
    };
    let table = match resolution.request.kind {
        Kind::Route(number, _) => world.site.routes.get(usize::from(number)).and_then(|route| {
            let each = route.config.each.as_ref()?;
            Some(world.site.tables.iter().find(|table| table.name == each.text)?.path.clone())
        }),
        _ => None,
    };
    let used = uses.iter().map(|used| used.file);
    let files = running.iter().copied().chain(used).chain(uses.iter().filter_map(manifest));
    let mut paths: Vec<Arc<str>> = files.map(path).chain(table).collect();
    if let Some(content) = resolution.request.content(&world.site) {
        paths.push(world.site.content(content).path().clone());
    }
    if let LayoutChoice::Missing(_, asker) = &resolution.layout {
        paths.push(path(*asker));
    }
    let problems = world.problems.iter();
    problems
        .filter(move |problem| problem.place.as_ref().is_some_and(|place| paths.contains(&place.path)))
        .filter(|problem| !is_told_by_note(problem))
}

/// The names of the templates that the lineage offers, for this content if one is given.
pub fn offered(world: &World, content: Option<&Content>) -> Vec<String> {
    let mut names: Vec<String> = Vec::new();
    for (id, file) in world.lineage.ids().filter(|(_, file)| file.role == Role::Template && file.hidden_by.is_none()) {
        let Some(name) = file.name.offered() else {
            continue;
        };
        let fit = content.is_none_or(|content| fits(&world.header(id).fits, &world.site, content));
        if fit && !names.iter().any(|other| other == name) {
            names.push(name.to_owned());
        }
    }
    names
}

fn id_and_address(resolution: &Resolution, content: &Content) -> Option<Note> {
    if resolution.request.view.is_some() {
        return None;
    }
    let address = content.address.as_deref().filter(|address| *address != "/")?;
    let by_address = address.trim_matches('/');
    if content.home != Section::Pages || by_address == &*content.id {
        return None;
    }
    let text = format!(
        "Its id is {}, not {by_address}: a template of its own is called page/{}.html; page/{by_address}.html would never be looked for here.",
        content.id, content.id
    );
    Some(Note { code: codes::ID_DIFFERS, text })
}

fn broken(content: &Content) -> Option<Note> {
    let text = format!("{} has errors, so it can't be rendered.", content.path());
    content.broken.then_some(Note { code: codes::FAULTY, text })
}

fn faulty(world: &World, resolution: &Resolution, running: &[FileId], uses: &[Use]) -> Vec<Note> {
    let files = running.iter().copied().chain(uses.iter().map(|used| used.file));
    let note = |file: FileId| {
        let text = match world.unreadable_manifest(file) {
            Some(manifest) => format!("{manifest} can't be read, so its component can't be rendered."),
            None => format!("{} does not compile.", world.lineage.file(file).node.path),
        };
        Note { code: codes::FAULTY, text }
    };
    let mut notes: Vec<Note> = files.filter(|&file| world.program(file).is_none()).map(note).collect();
    notes.dedup();
    if let LayoutChoice::Missing(name, _) = &resolution.layout {
        let text = format!(
            "No theme of the lineage has the layout \"{}\". A template without one says: layout: none",
            name.text
        );
        notes.push(Note { code: codes::LAYOUT_MISSING, text });
    }
    if resolution.winner.is_none() && !is_built_in(&resolution.request) {
        let text =
            "No theme of the lineage has any of these files; a lineage needs a fallback.html at least.".to_owned();
        notes.push(Note { code: codes::NO_TEMPLATE, text });
    }
    notes
}
