//! A change that a person may make to a site, whatever it is made with: what it writes, and the command that says the same.

use hausblatt_lang::text::diagnostic::Diagnostic;

use crate::change::changes::{changed, new_problems};
use crate::change::choose::choose;
use crate::change::copies::{self, OverrideOptions, OverrideTarget};
use crate::change::set::{self, Assignment, SetTarget};
use crate::files::edit::Write;
use crate::lookup::file_argument;
use crate::model::content::ContentId;
use crate::model::request::Routed;
use crate::text::codes;
use crate::text::data_change::found;
use crate::text::shell::word;
use crate::world::{Unloadable, World};

/// A change.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Edit {
    /// An offered template chosen for some content, or none.
    Choose(Vec<ContentId>, Option<String>),
    /// The active theme's own version of a file, named by its path.
    Override(String),
    /// The active theme's own template for one address alone.
    OverrideOnly(String),
    /// A file of an ancestor, by its path, that the active theme hides.
    Hide(String),
    /// A theme file that is removed, by its path.
    Remove(String),
    /// What `/` is: a page by its id, or a collection.
    Front(FrontChoice),
    /// Values of a file.
    Set(SetTarget, Vec<Assignment>),
}

/// What `/` may be.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum FrontChoice {
    /// A page, by its id.
    Page(String),
    /// The listing of a collection, by its name.
    Collection(String),
}

/// A change as it would be written.
#[derive(Clone, Debug)]
pub struct PlannedEdit {
    /// What is written; nothing where all is so already.
    pub writes: Vec<Write>,
    /// The command that writes the same.
    pub command: String,
}

impl Edit {
    /// What it writes.
    ///
    /// # Errors
    /// Why it can't be made.
    pub fn plan(&self, world: &World) -> Result<PlannedEdit, Vec<Diagnostic>> {
        Ok(self.tried(world)?.0)
    }

    /// What it writes, and the World with that.
    ///
    /// # Errors
    /// Why it can't be made.
    pub fn tried(&self, world: &World) -> Result<(PlannedEdit, World), Vec<Diagnostic>> {
        let planned = self.writes(world)?;
        let after = world.later(changed(&world.snapshot, &planned.writes)).map_err(|Unloadable(problems)| problems)?;
        let wrong = self.wrong(world, &after, &planned);
        if wrong.is_empty() { Ok((planned, after)) } else { Err(wrong) }
    }

    /// What it would write, without a look at what the site would be.
    fn writes(&self, world: &World) -> Result<PlannedEdit, Vec<Diagnostic>> {
        let one = |problem: Diagnostic| vec![problem];
        let (writes, command) = match self {
            Edit::Choose(ids, name) => {
                let writes = chosen(world, ids, name.as_deref())?;
                let mut words = vec![name.as_ref().map_or("--clear".to_owned(), |name| word(name))];
                words.extend(ids.iter().map(|id| word(&SetTarget::Content(*id).word(world))));
                (writes, format!("hausblatt choose {}", words.join(" ")))
            }
            Edit::Override(path) => {
                let id = file_argument::theme_file(world, path).map_err(one)?;
                let what = OverrideTarget::File(id, true);
                (overridden(world, &what, false)?, format!("hausblatt override {}", word(path)))
            }
            Edit::OverrideOnly(address) => {
                let Routed::Request(request) = world.route(address) else {
                    let message = format!("{address} redirects, so no file renders it");
                    return Err(one(Diagnostic::of(&codes::NOTHING_TO_COPY, message)));
                };
                let what = OverrideTarget::Request(request);
                (overridden(world, &what, true)?, format!("hausblatt override {} --only", word(address)))
            }
            Edit::Remove(path) => {
                let id = file_argument::theme_file(world, path).map_err(one)?;
                let node = &world.lineage.file(id).node;
                let bytes = node.bytes().map_err(|error| {
                    one(Diagnostic::of(&codes::UNREADABLE, format!("{path} can't be read: {error}")))
                })?;
                (vec![Write::removal(&*node.path, bytes)], format!("rm {}", word(path)))
            }
            Edit::Hide(_) | Edit::Front(_) | Edit::Set(..) => {
                let (target, assignments) = self.assignments(world)?;
                let write = set::edited(world, target, &assignments).map_err(|problem| one(*problem))?;
                (write.into_iter().collect(), set::command(world, target, &assignments))
            }
        };
        Ok(PlannedEdit { writes, command })
    }

    /// What would be wrong with it, so that it is refused; `after` is the World with what it writes.
    fn wrong(&self, world: &World, after: &World, planned: &PlannedEdit) -> Vec<Diagnostic> {
        let new = new_problems(world, after);
        match self {
            // Taking a choice back is always possible.
            Edit::Choose(_, None) => Vec::new(),
            // What its original has, too, is what one may want to fix by a copy.
            Edit::Override(_) | Edit::OverrideOnly(_) => {
                let known = |new: &Diagnostic| {
                    world.problems.iter().any(|known| known.code == new.code && known.message == new.message)
                };
                new.into_iter().filter(|problem| problem.is_error() && !known(problem)).collect()
            }
            Edit::Choose(_, Some(_)) | Edit::Remove(_) => new.into_iter().filter(Diagnostic::is_error).collect(),
            Edit::Hide(_) | Edit::Front(_) | Edit::Set(..) => match self.assignments(world) {
                Ok((target, assignments)) => set::wrong(target, &assignments, planned.writes.first(), new),
                Err(problems) => problems,
            },
        }
    }

    /// The values that it sets, where it sets some.
    fn assignments(&self, world: &World) -> Result<(SetTarget, Vec<Assignment>), Vec<Diagnostic>> {
        Ok(match self {
            Edit::Hide(path) => {
                let name = name_of(world, path)?;
                (SetTarget::Theme(0), vec![Assignment::Add("theme.hide".to_owned(), name)])
            }
            Edit::Front(choice) => {
                let (key, value, other) = match choice {
                    FrontChoice::Page(id) => ("front.page", id, "front.collection"),
                    FrontChoice::Collection(name) => ("front.collection", name, "front.page"),
                };
                let mut assignments = vec![Assignment::Set(key.to_owned(), value.clone())];
                let path: Vec<String> = other.split('.').map(str::to_owned).collect();
                if found(&SetTarget::Site.entries(world), &path).is_some() {
                    assignments.push(Assignment::Clear(other.to_owned()));
                }
                (SetTarget::Site, assignments)
            }
            Edit::Set(target, assignments) => (*target, assignments.clone()),
            Edit::Choose(..) | Edit::Override(_) | Edit::OverrideOnly(_) | Edit::Remove(_) => {
                (SetTarget::Site, Vec::new())
            }
        })
    }
}

/// What choosing a template for each of them writes: all of it, or nothing.
fn chosen(world: &World, ids: &[ContentId], name: Option<&str>) -> Result<Vec<Write>, Vec<Diagnostic>> {
    let (mut writes, mut problems) = (Vec::new(), Vec::new());
    for &id in ids {
        match choose(world, id, name) {
            Ok(chosen) => writes.extend(chosen.write),
            Err(problem) => problems.push(problem),
        }
    }
    if problems.is_empty() { Ok(writes) } else { Err(problems) }
}

fn overridden(world: &World, what: &OverrideTarget, only: bool) -> Result<Vec<Write>, Vec<Diagnostic>> {
    let how = OverrideOptions { only, ..OverrideOptions::default() };
    match copies::writes_of_copy(world, what, &how) {
        Ok(Ok(writes)) => Ok(writes),
        Ok(Err(path)) => {
            let message = format!("{path} already exists");
            Err(vec![Diagnostic::of(&codes::FILE_EXISTS, message).help("it is the theme's own: edit it")])
        }
        Err(refused) => Err(vec![*refused.diagnostic]),
    }
}

/// The name from its theme of the inherited file at a path.
fn name_of(world: &World, path: &str) -> Result<String, Vec<Diagnostic>> {
    let id = file_argument::theme_file(world, path).map_err(|problem| vec![problem])?;
    let file = world.lineage.file(id);
    if file.theme > 0 {
        return Ok(file.name.to_string());
    }
    let message = format!("{path} is the active theme's own, which hides only what it inherits");
    Err(vec![Diagnostic::of(&codes::UNKNOWN_FILE, message).help("remove it instead")])
}
