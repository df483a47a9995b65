//! Why content does not get the template that it chooses: said as a note on its answer, and as a diagnostic at its line.

use hausblatt_lang::text::code::Code;
use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::source::Span;
use hausblatt_lang::text::suggest::nearest;

use crate::analysis::notes::offered;
use crate::lookup::ladder::Reason;
use crate::lookup::offers::why_not;
use crate::lookup::resolution::{FileState, Note, Resolution};
use crate::model::content::Content;
use crate::text::codes;
use crate::world::World;

/// The codes of these problems; what an answer's notes say of them needs no diagnostic beside it.
const CODES: [Code; 3] = [codes::CHOICE_NOT_ALLOWED, codes::CHOICE_HIDDEN, codes::CHOICE_MISSING];

/// Why content does not get the template that it chooses.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) enum ChoiceProblem {
    /// The template is for other content: the kinds that it is for.
    NotAllowed(Vec<String>),
    /// This theme hides it.
    Hidden(String),
    /// No theme of the lineage has it; what to do.
    Missing(String),
}

impl ChoiceProblem {
    /// What is wrong with the choice of `content`, as its request is resolved; none if it gets what it chooses.
    pub fn of(world: &World, resolution: &Resolution, content: &Content) -> Option<Self> {
        let (name, _) = content.template.as_ref()?;
        let rung = resolution.rungs.iter().find(|rung| rung.rung.reason == Reason::Chosen)?;
        let with = |wanted: FileState| rung.files.iter().find(|(_, state)| *state == wanted).map(|(file, _)| *file);
        if with(FileState::Renders).is_some() {
            return None;
        }
        if let Some(unfit) = with(FileState::Unfit) {
            return Some(ChoiceProblem::NotAllowed(world.header(unfit).fits.clone()));
        }
        if let Some(hidden) = with(FileState::Hidden) {
            let theme = world.lineage.file(hidden).hidden_by.and_then(|theme| world.lineage.themes.get(theme));
            return Some(ChoiceProblem::Hidden(theme.map_or("a nearer theme", |theme| &theme.name).to_owned()));
        }
        let offered = offered(world, Some(content));
        let near = nearest(name, offered.iter().map(String::as_str)).map(|near| format!("did it mean \"{near}\"?"));
        let help = near.or_else(|| why_not(world, name)).unwrap_or_else(|| match offered.as_slice() {
            [] => "no theme of the lineage offers one for it".to_owned(),
            offered => format!("offered for it are: {}", offered.join(", ")),
        });
        Some(ChoiceProblem::Missing(help))
    }

    /// Its code.
    pub fn code(&self) -> Code {
        match self {
            ChoiceProblem::NotAllowed(_) => codes::CHOICE_NOT_ALLOWED,
            ChoiceProblem::Hidden(_) => codes::CHOICE_HIDDEN,
            ChoiceProblem::Missing(_) => codes::CHOICE_MISSING,
        }
    }

    /// What is said of the template after its name.
    fn reason(&self) -> String {
        match self {
            ChoiceProblem::NotAllowed(fits) => format!("which does not fit it: it is for {}", fits.join(", ")),
            ChoiceProblem::Hidden(theme) => format!("which {theme} hides"),
            ChoiceProblem::Missing(_) => "which no theme of the lineage has".to_owned(),
        }
    }

    fn help(&self) -> String {
        match self {
            ChoiceProblem::Missing(help) => help.clone(),
            ChoiceProblem::NotAllowed(_) => "choose one that fits, or add it to \"for\" in the template".to_owned(),
            ChoiceProblem::Hidden(theme) => {
                format!("choose another one, or take it out of \"hide\" in the manifest of {theme}")
            }
        }
    }

    /// The note on the content's answer.
    pub fn note(&self, content: &Content, name: &str) -> Note {
        let reason = self.reason();
        let help = sentence(&self.help());
        Note { code: self.code(), text: format!("{} chooses offered/{name}, {reason}. {help}", content.path()) }
    }

    /// The warning at the content's line.
    pub fn diagnostic(&self, content: &Content, name: &str, span: Span) -> Diagnostic {
        let message = format!("this chooses offered/{name}, {}", self.reason());
        Diagnostic::of(&self.code(), message).help(self.help()).at(content.path(), span)
    }
}

/// Whether a diagnostic says what the note on an answer says too.
pub(crate) fn is_told_by_note(diagnostic: &Diagnostic) -> bool {
    CODES.iter().any(|code| code.name == diagnostic.code)
}

/// Words of a diagnostic as a sentence.
fn sentence(words: &str) -> String {
    let mut characters = words.chars();
    let first = characters.next().into_iter().flat_map(char::to_uppercase);
    let stop = if words.ends_with('?') { "" } else { "." };
    first.chain(characters).chain(stop.chars()).collect()
}
