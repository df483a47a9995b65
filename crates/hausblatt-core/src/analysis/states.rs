//! The state of every theme file: used, ready for a request or an editor who may ask for it, or dead.

use hausblatt_lang::text::ending::Ending;

use crate::analysis::potential_use::{Tried, Waiting, waits_for};
use crate::analysis::reach;
use crate::themes::component;
use crate::themes::file_name::Role;
use crate::themes::lineage::{FileId, ThemeFile};
use crate::themes::prepare::NAMES;
use crate::themes::theme::looks_offered;
use crate::world::World;
use crate::world::survey::{FileUse, ReachPart};

impl World {
    /// The state of each file of the lineage, by its number; none for what is not part of a theme, as a read-me. Found
    /// once.
    pub fn file_uses(&self) -> &[Option<FileUse>] {
        self.file_uses.get_or_init(|| states(self))
    }
}

fn states(world: &World) -> Vec<Option<FileUse>> {
    let counts = world.reach_counts();
    let mut finding = Finding { world, states: vec![None; counts.len()], unread: unread(world) };
    for (id, file) in world.lineage.ids() {
        finding.states[id.0 as usize] = match file.hidden_by {
            Some(theme) => Some(FileUse::Dead(format!("{} hides it", world.lineage.themes[theme].name))),
            None if counts[id.0 as usize] > 0 => Some(FileUse::Used),
            None => None,
        };
    }
    let tried = Tried::of(world);
    for (id, file) in world.lineage.ids().filter(|(_, file)| file.role == Role::Template) {
        finding.settle(id, || of_name(covered(world, id, file), || waits_for(world, &tried, name_of(file))));
    }
    for (id, file) in world.lineage.ids().filter(|(_, file)| file.role == Role::Prepare) {
        let kind = file.name.prepare().unwrap_or_default();
        finding.settle(id, || match NAMES.contains(&kind) {
            true => Ok(format!("a request of the kind {kind}")),
            false => Err(format!("\"{kind}\" is not a kind of request: its name is one of {}", NAMES.join(", "))),
        });
    }
    finding.components();
    finding.called();
    finding.rest();
    finding.states
}

/// A template's name below `templates/`.
fn name_of(file: &ThemeFile) -> &str {
    file.name.template().unwrap_or(&file.name)
}

/// What covers a file: the nearer theme that has one of the same name.
fn covered(world: &World, id: FileId, file: &ThemeFile) -> Option<String> {
    let nearest = world.lineage.nearest(&file.name).filter(|&nearest| nearest != id)?;
    Some(format!("{}'s file of the same name to be removed, which covers it", world.lineage.theme_of(nearest).name))
}

/// A file that is covered waits for that to end, if anything can ask for its name at all.
fn of_name(covered: Option<String>, waiting: impl FnOnce() -> Waiting) -> Waiting {
    let waiting = waiting()?;
    Ok(covered.unwrap_or(waiting))
}

/// A file that does not compile, so that nobody knows what it calls.
fn unread(world: &World) -> Option<String> {
    let mut broken = world.lineage.ids().filter(|(id, file)| {
        let compiled = matches!(file.role, Role::Template | Role::Partial | Role::Layout | Role::Component);
        compiled && file.hidden_by.is_none() && world.program(*id).is_none()
    });
    broken.next().map(|(_, file)| file.node.path.to_string())
}

struct Finding<'w> {
    world: &'w World,
    states: Vec<Option<FileUse>>,
    unread: Option<String>,
}

impl Finding<'_> {
    fn settle(&mut self, id: FileId, waiting: impl FnOnce() -> Waiting) {
        let state = &mut self.states[id.0 as usize];
        if state.is_none() {
            *state = Some(match waiting() {
                Ok(waits) => FileUse::Ready(waits),
                Err(why) => FileUse::Dead(why),
            });
        }
    }

    fn is_ready(&self, id: FileId) -> bool {
        matches!(self.states[id.0 as usize], Some(FileUse::Ready(_)))
    }

    /// Content can place every component that has a file to render.
    fn components(&mut self) {
        let world = self.world;
        for (id, file) in world.lineage.ids().filter(|(_, file)| file.role == Role::Component) {
            if component::name_of(&file.name).is_some_and(|name| !name.is_empty()) {
                self.settle(id, || of_name(covered(world, id, file), || Ok("content that places it".to_owned())));
            }
        }
    }

    /// Partials, layouts and assets: as good as those that call them.
    fn called(&mut self) {
        let world = self.world;
        let ready: Vec<FileId> = world.lineage.ids().map(|(id, _)| id).filter(|&id| self.is_ready(id)).collect();
        let default = world.lineage.nearest("layouts/document.html");
        if let Some(default) = default {
            self.settle(default, || Ok("a template that says no layout".to_owned()));
        }
        let mut todo = ready;
        todo.extend(default.filter(|&id| self.is_ready(id)));
        while let Some(caller) = todo.pop() {
            let ties = reach::calls(world, caller);
            let next = world.next_files(caller).into_iter().map(|file| (file, ReachPart::Partial));
            for (file, _) in ties.into_iter().map(|tie| (tie.file, tie.part)).chain(next) {
                if self.states[file.0 as usize].is_none() {
                    let by = world.lineage.file(caller).node.path.to_string();
                    self.settle(file, || Ok(format!("{by}, which calls it, to be used")));
                    todo.push(file);
                }
            }
        }
    }

    /// What nothing that is used or ready calls.
    fn rest(&mut self) {
        let world = self.world;
        // First the nearest of each name, since the others are as good as it is.
        let (nearest, farther): (Vec<_>, Vec<_>) =
            world.lineage.ids().partition(|(id, file)| world.lineage.nearest(&file.name) == Some(*id));
        for (id, file) in nearest.into_iter().chain(farther) {
            if self.states[id.0 as usize].is_none() {
                self.states[id.0 as usize] = self.state_of_rest(id, file);
            }
        }
    }

    fn state_of_rest(&self, id: FileId, file: &ThemeFile) -> Option<FileUse> {
        let world = self.world;
        let nearest = world.lineage.nearest(&file.name).filter(|&nearest| nearest != id);
        let folder = file.name.split('/').next().filter(|folder| folder.len() < file.name.len())?;
        if let Some(nearest) = nearest {
            return Some(match &self.states[nearest.0 as usize] {
                Some(FileUse::Dead(why)) => FileUse::Dead(why.clone()),
                _ => FileUse::Ready(covered(world, id, file).unwrap_or_default()),
            });
        }
        Some(match (file.role, folder) {
            (Role::Partial | Role::Layout, _) => self.uncalled(id, file),
            (Role::Asset, _) => {
                FileUse::Ready(format!("a file that names it; it is published as /{} all the same", file.name))
            }
            (Role::Component, _) => FileUse::Dead("a component is in a folder of its own".to_owned()),
            (_, "templates") => self.wrong_ending(file, "no request uses this extension"),
            (_, "layouts") => self.wrong_ending(file, "a layout ends in .html"),
            (_, "partials") => self.wrong_ending(file, "no file can call this extension"),
            (_, "prepare") => FileUse::Dead("a prepare file ends in .let".to_owned()),
            (_, "components") => return Some(self.beside_component(file)),
            _ => return None,
        })
    }

    fn wrong_ending(&self, file: &ThemeFile, why: &str) -> FileUse {
        let offered = file.name.is_in_offered() && looks_offered(&file.node).is_some();
        FileUse::Dead(if offered { "an offered template ends in .html".to_owned() } else { why.to_owned() })
    }

    fn uncalled(&self, id: FileId, file: &ThemeFile) -> FileUse {
        let what = if file.role == Role::Layout { "no file uses this layout" } else { "no file calls it" };
        let callers = reach::callers(self.world, id);
        let dead: Vec<&str> = callers.iter().map(|tie| &*self.world.lineage.file(tie.file).node.path).collect();
        match (&self.unread, dead.first()) {
            (Some(unread), _) => {
                FileUse::Ready(format!("{unread} to be fixed: it does not compile, and may call this"))
            }
            (None, Some(first)) => FileUse::Dead(format!("only {first} calls it, which nothing uses")),
            (None, None) => FileUse::Dead(what.to_owned()),
        }
    }

    /// A component's manifest, style and script are as good as the file that is rendered.
    fn beside_component(&self, file: &ThemeFile) -> FileUse {
        let (folder, last) = file.name.rsplit_once('/').unwrap_or(("", &file.name));
        if !["component.toml", "style.css", "script.js", "script.mjs"].contains(&last) {
            return FileUse::Dead("no part of a component is called so, and nothing serves it".to_owned());
        }
        let endings = Ending::ALL.into_iter().map(|ending| format!("{folder}/component.{}", ending.word()));
        match endings.filter_map(|name| self.world.lineage.nearest(&name)).next() {
            Some(rendered) => match &self.states[rendered.0 as usize] {
                // It is used, but only where a component brings its files along.
                Some(FileUse::Used) => FileUse::Ready("a page with the component".to_owned()),
                Some(state) => state.clone(),
                None => FileUse::Ready("content that places it".to_owned()),
            },
            None if last == "component.toml" => FileUse::Dead("its component has no file to render".to_owned()),
            None => FileUse::Ready(format!(
                "{folder}/component.html; it is published as /assets/{} all the same",
                file.name
            )),
        }
    }
}
