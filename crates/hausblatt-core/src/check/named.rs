//! What a report is about, and what it names, as its words say.

use hausblatt_lang::text::diagnostic::Diagnostic;

use crate::schema::config;
use crate::themes::theme;
use crate::world::World;

/// Whether a call, or what content places, gives a file something under a name.
pub(super) fn gives(call: &Diagnostic, path: &str, name: &str) -> bool {
    called(call, path) == Some(name)
}

/// What is given, if what is said of a call is about this file.
pub(super) fn called<'d>(call: &'d Diagnostic, path: &str) -> Option<&'d str> {
    let mut words = call.message.split('"').skip(1).step_by(2);
    let (called, given) = (words.next()?, words.next()?);
    let is_called = |folder: &str| {
        let at = path.find(folder).map(|at| &path[at + folder.len()..]);
        let file = at.and_then(|at| at.rsplit_once('.')).map(|(file, _)| file.trim_end_matches("/component"));
        file.is_some_and(|file| called == file || called.strip_prefix(file).is_some_and(|rest| rest.starts_with('/')))
    };
    (is_called("/partials/") || is_called("/components/")).then_some(given)
}

/// The file that is the only one to call what nothing uses.
pub(super) fn caller(diagnostic: &Diagnostic) -> Option<&str> {
    diagnostic.message.split(": only ").nth(1)?.split(' ').next()
}

/// The path of the missing file that a message names.
pub(super) fn media_of(diagnostic: &Diagnostic) -> Option<String> {
    let message = &diagnostic.message;
    let path = message[message.find("media/")?..].split('"').next()?;
    Some(percent_encoding::percent_decode_str(path).decode_utf8_lossy().into_owned())
}

/// The name that a member is asked of, as it is written.
pub(super) fn asked<'w>(world: &'w World, diagnostic: &Diagnostic) -> Option<&'w str> {
    let place = diagnostic.place.as_ref()?;
    let before = world.snapshot.file(&place.path)?.text()?.get(..place.span.start as usize)?.strip_suffix('.')?;
    let start = before.rfind(|c: char| !c.is_alphanumeric() && c != '_' && c != '-').map_or(0, |at| at + 1);
    before.get(start..)
}

/// The line of a file where something is reported.
pub(super) fn line_of<'w>(world: &'w World, diagnostic: &Diagnostic) -> &'w str {
    let Some(place) = &diagnostic.place else { return "" };
    let text = world.snapshot.file(&place.path).and_then(|file| file.text()).map_or("", |text| text);
    let at = (place.span.start as usize).min(text.len());
    let start = text.get(..at).and_then(|before| before.rfind('\n')).map_or(0, |at| at + 1);
    text.get(start..).and_then(|rest| rest.lines().next()).unwrap_or("")
}

/// The first thing that a message quotes.
pub(super) fn quoted(message: &str) -> &str {
    message.split('"').nth(1).unwrap_or("")
}

/// The name of the file that something is about, without its endings.
pub(super) fn stem_of(diagnostic: &Diagnostic) -> &str {
    let file = diagnostic.place.as_ref().and_then(|place| place.path.rsplit('/').next()).unwrap_or("");
    file.split('.').next().unwrap_or(file)
}

pub(super) fn is_of_content(diagnostic: &Diagnostic) -> bool {
    diagnostic.place.as_ref().is_some_and(|place| place.path.starts_with("content/"))
}

pub(super) fn is_of_configuration(diagnostic: &Diagnostic) -> bool {
    let is_one = |path: &str| path == config::FILE || path.ends_with(theme::MANIFEST);
    diagnostic.place.as_ref().is_none_or(|place| is_one(&place.path))
}
