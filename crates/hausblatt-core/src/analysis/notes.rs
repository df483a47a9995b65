//! What an answer points out: the surprising case, a choice that failed, an id that is not the address.

use std::sync::Arc;

use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::suggest::nearest;

use crate::lookup::ladder::{Reason, fits};
use crate::lookup::request::Kind;
use crate::lookup::resolution::{FileState, Note, Resolution};
use crate::lookup::resolution::{LayoutChoice, Used};
use crate::model::content::{Content, Section};
use crate::themes::lineage::Role;
use crate::world::World;

/// All notes on a resolution.
pub fn notes(world: &World, resolution: &Resolution) -> Vec<Note> {
    let content = resolution.request.kind.content().map(|id| world.site.content(id));
    let mut notes = Vec::new();
    if let Some(content) = content {
        notes.extend(choice(world, resolution, content));
        notes.extend(id_and_address(resolution, content));
        notes.extend(broken(content));
    }
    notes.extend(passed_over(world, resolution));
    notes.extend(faulty(world, resolution));
    notes
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
    Some(Note { code: "passed-over", text })
}

fn template_name(world: &World, id: crate::themes::lineage::FileId) -> &str {
    world.lineage.file(id).name.trim_start_matches("templates/")
}

impl World {
    /// The problems of the files that an answer uses.
    pub fn problems_of<'w>(&'w self, resolution: &Resolution) -> impl Iterator<Item = &'w Diagnostic> + use<'w> {
        let uses = resolution.uses(self);
        let components = uses.iter().filter(|used| used.what == Used::Component);
        let manifests = components.filter_map(|used| {
            let id = self.lineage.nearest(&format!("components/{}/component.toml", used.name))?;
            Some(self.lineage.file(id).node.path.clone())
        });
        let manifests: Vec<Arc<str>> = manifests.collect();
        let table = match resolution.request.kind {
            Kind::Route(number, _) => self.site.routes.get(usize::from(number)).and_then(|route| {
                let each = route.config.each.as_ref()?;
                Some(self.site.tables.iter().find(|table| table.name == each.text)?.path.clone())
            }),
            _ => None,
        };
        let used = uses.into_iter().map(|used| used.file);
        let mut paths: Vec<Arc<str>> = resolution
            .running(self)
            .into_iter()
            .chain(used)
            .map(|file| self.lineage.file(file).node.path.clone())
            .collect();
        paths.extend(manifests.into_iter().chain(table));
        if let Some(content) = resolution.request.content(&self.site) {
            paths.push(self.site.content(content).path().clone());
        }
        if let LayoutChoice::Missing(_, asker) = &resolution.layout {
            paths.push(self.lineage.file(*asker).node.path.clone());
        }
        self.problems
            .iter()
            .filter(move |problem| problem.place.as_ref().is_some_and(|place| paths.contains(&place.path)))
            .filter(|problem| !crate::analysis::content_refs::is_told_by_note(problem))
    }
}

impl Resolution {
    /// What to know about the answer.
    pub fn notes(&self, world: &World) -> Vec<Note> {
        notes(world, self)
    }
}

pub fn choice(world: &World, resolution: &Resolution, content: &Content) -> Option<Note> {
    let (name, _) = content.template.as_ref()?;
    let rung = resolution.rungs.iter().find(|rung| rung.rung.reason == Reason::Chosen)?;
    if rung.files.iter().any(|(_, state)| *state == FileState::Renders) {
        return None;
    }
    if let Some((unfit, _)) = rung.files.iter().find(|(_, state)| *state == FileState::Unfit) {
        let for_what = world.header(*unfit).fits.join(", ");
        let text = format!("{} chooses offered/{name}, which does not fit it: it is for {for_what}.", content.path());
        return Some(Note { code: "choice-not-allowed", text });
    }
    if let Some((hidden, _)) = rung.files.iter().find(|(_, state)| *state == FileState::Hidden) {
        let by = world.lineage.file(*hidden).hidden_by.and_then(|theme| world.lineage.themes.get(theme));
        let by = by.map_or("a nearer theme", |theme| theme.name.as_str());
        let text = format!("{} chooses offered/{name}, which {by} hides.", content.path());
        return Some(Note { code: "choice-hidden", text });
    }
    let offered = offered(world, Some(content));
    let help = match nearest(name, offered.iter().map(String::as_str)) {
        Some(near) => format!(" Did it mean \"{near}\"?"),
        None if crate::lookup::offers::why_not(world, name).is_some() => {
            format!(" {}", crate::lookup::offers::why_not(world, name).unwrap_or_default())
        }
        None if offered.is_empty() => " No theme of the lineage offers one for it.".to_owned(),
        None => format!(" Offered for it are: {}.", offered.join(", ")),
    };
    let text = format!("{} chooses offered/{name}, which no theme of the lineage has.{help}", content.path());
    Some(Note { code: "choice-missing", text })
}

/// The names of the templates that the lineage offers, for this content if one is given.
pub fn offered(world: &World, content: Option<&Content>) -> Vec<String> {
    let mut names: Vec<String> = Vec::new();
    for (id, file) in world.lineage.ids().filter(|(_, file)| file.role == Role::Template && file.hidden_by.is_none()) {
        let Some(name) = file.name.strip_prefix("templates/offered/").and_then(|name| name.strip_suffix(".html"))
        else {
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
    Some(Note { code: "id-differs", text })
}

fn broken(content: &Content) -> Option<Note> {
    let text = format!("{} has errors, so it can't be rendered.", content.path());
    content.broken.then_some(Note { code: "faulty", text })
}

fn faulty(world: &World, resolution: &Resolution) -> Vec<Note> {
    let used = resolution.uses(world).into_iter().map(|used| used.file);
    let files = resolution.running(world).into_iter().chain(used);
    let broken = files.filter(|&file| world.program(file).is_none()).map(|file| &world.lineage.file(file).node.path);
    let mut notes: Vec<Note> =
        broken.map(|path| Note { code: "faulty", text: format!("{path} does not compile.") }).collect();
    notes.dedup();
    if let crate::lookup::resolution::LayoutChoice::Missing(name, _) = &resolution.layout {
        let text = format!(
            "No theme of the lineage has the layout \"{}\". A template without one says: layout: none",
            name.text
        );
        notes.push(Note { code: "layout-missing", text });
    }
    if resolution.winner.is_none() && !crate::render::page::is_built_in(&resolution.request) {
        let text =
            "No theme of the lineage has any of these files; a lineage needs a fallback.html at least.".to_owned();
        notes.push(Note { code: "no-template", text });
    }
    notes
}
