//! A resolved address, as text and as JSON.

use std::fmt::Write;

use hausblatt_core::analysis::explanation::{
    ExplainedContent, ExplainedLayout, ExplainedRung, ExplainedUse, Explanation, FileRef, Renders,
};
use hausblatt_core::analysis::sent_file::SentFile;
use hausblatt_core::lookup::resolution::{FileState, Used};
use hausblatt_core::text::codes;
use serde::Serialize;

use crate::show::ladder;
use crate::show::style::{BAD, FAINT, GOOD, NOTE, STRONG, TYPED, columns, padded, plain, styled, to_type, word};
use crate::show::wrap::{self, wrapped};

/// An address and what it leads to, in the JSON shape of `docs/commands.md`.
#[derive(Debug, Serialize)]
pub struct Resolved {
    address: String,
    status: u16,
    location: Option<String>,
    may: Vec<u16>,
    kind: Option<&'static str>,
    view: Option<String>,
    content: Option<ContentJson>,
    rungs: Vec<RungJson>,
    template: Option<FileJson>,
    layout: Option<FileJson>,
    uses: Vec<UseJson>,
    notes: Vec<NoteJson>,
    file: Option<SentFileJson>,
}

#[derive(Debug, Serialize)]
struct SentFileJson {
    theme: Option<String>,
    path: String,
    covers: Vec<CoveredJson>,
    made: Option<MadeJson>,
}

#[derive(Debug, Serialize)]
struct CoveredJson {
    theme: String,
    path: String,
}

#[derive(Debug, Serialize)]
struct MadeJson {
    width: u32,
    height: u32,
    format: &'static str,
}

#[derive(Debug, Serialize)]
struct ContentJson {
    id: String,
    collection: Option<String>,
    path: String,
}

#[derive(Debug, Serialize)]
struct RungJson {
    name: String,
    reason: &'static str,
    files: Vec<StateJson>,
}

#[derive(Debug, Serialize)]
struct StateJson {
    theme: String,
    path: String,
    state: &'static str,
}

#[derive(Debug, Serialize)]
struct FileJson {
    name: String,
    theme: String,
    path: String,
}

#[derive(Debug, Serialize)]
struct UseJson {
    what: &'static str,
    asked_as: String,
    name: String,
    theme: String,
    path: String,
}

#[derive(Debug, Serialize)]
struct NoteJson {
    code: &'static str,
    text: String,
}

impl Resolved {
    /// What no template answers.
    fn bare(address: &str, status: u16) -> Self {
        Self {
            address: address.to_owned(),
            status,
            location: None,
            may: Vec::new(),
            kind: None,
            view: None,
            content: None,
            rungs: Vec::new(),
            template: None,
            layout: None,
            uses: Vec::new(),
            notes: Vec::new(),
            file: None,
        }
    }

    /// A redirect.
    pub fn redirect(address: &str, to: &str) -> Self {
        Self { location: Some(to.to_owned()), ..Self::bare(address, 301) }
    }

    /// A file that is sent.
    pub fn file(file: &SentFile) -> Self {
        let covered = |file: &FileRef| CoveredJson { theme: file.theme.clone(), path: file.path.to_string() };
        let made = file.made.as_ref().map(|made| MadeJson {
            width: made.recipe.width,
            height: made.recipe.height,
            format: made.recipe.format.extension(),
        });
        let covers = file.covers.iter().map(covered).collect();
        let file_json = SentFileJson { theme: file.theme.clone(), path: file.path.to_string(), covers, made };
        Self { file: Some(file_json), ..Self::bare(&file.address, 200) }
    }

    /// A request that is answered.
    pub fn of(explained: &Explanation) -> Self {
        let mut notes: Vec<NoteJson> =
            explained.notes.iter().map(|note| NoteJson { code: note.code.name, text: note.text.clone() }).collect();
        if explained.is_missing {
            let near: Vec<&str> = explained.nearest.iter().map(|(address, _)| address.as_str()).collect();
            let text = match near.as_slice() {
                [] => "Nothing is at this address.".to_owned(),
                [near] => format!("Nothing is at this address. Did you mean {near}?"),
                near => format!("Nothing is at this address. The nearest are {}.", near.join(", ")),
            };
            notes.push(NoteJson { code: codes::NOT_FOUND.name, text });
        }
        Self {
            address: explained.address.clone(),
            status: explained.status.code,
            location: explained.status.location.clone(),
            may: explained.may.clone(),
            kind: explained.kind,
            view: explained.view.clone(),
            content: explained.content.as_ref().map(content_json),
            rungs: explained.rungs.iter().map(rung_json).collect(),
            template: explained.renders.template().map(|file| file_json(file, "templates/", "")),
            layout: explained.layout.first().map(|file| file_json(file, "layouts/", ".html")),
            uses: explained.uses.iter().map(use_json).collect(),
            notes,
            file: None,
        }
    }
}

fn content_json(content: &ExplainedContent) -> ContentJson {
    let ExplainedContent { id, collection, path } = content.clone();
    ContentJson { id, collection, path }
}

fn rung_json(rung: &ExplainedRung) -> RungJson {
    let state = |(file, state): &(FileRef, FileState)| StateJson {
        theme: file.theme.clone(),
        path: file.path.to_string(),
        state: state.word(),
    };
    RungJson { name: rung.name.clone(), reason: rung.reason.word(), files: rung.files.iter().map(state).collect() }
}

fn file_json(file: &FileRef, folder: &str, ending: &str) -> FileJson {
    let name = file.name.strip_prefix(folder).unwrap_or(&file.name);
    let name = name.strip_suffix(ending).unwrap_or(name).to_owned();
    FileJson { name, theme: file.theme.clone(), path: file.path.to_string() }
}

fn use_json(used: &ExplainedUse) -> UseJson {
    UseJson {
        what: used.what.word(),
        asked_as: used.asked_as.clone(),
        name: used.name.clone(),
        theme: used.file.theme.clone(),
        path: used.file.path.to_string(),
    }
}

/// A redirect in words.
pub fn redirect_text(address: &str, to: &str) -> String {
    format!("{}  →  {}  {}\n", styled(STRONG, &plain(address)), styled(NOTE, "301"), plain(to))
}

/// A file that is sent, in words.
pub fn file_text(file: &SentFile) -> String {
    let mut out = String::new();
    let _ = writeln!(out, "{}  →  {}", styled(STRONG, &plain(&file.address)), styled(GOOD, "200"));
    let what = match (&file.made, &file.theme) {
        (Some(made), _) => {
            let recipe = &made.recipe;
            let format = recipe.format.extension();
            format!("image that is made of another one · {} × {} pixels, {format}", recipe.width, recipe.height)
        }
        (None, Some(theme)) => format!("file of {}", plain(theme)),
        (None, None) => "file of the site".to_owned(),
    };
    let _ = writeln!(out, "{what}\n");
    let from = if file.made.is_some() { "made of" } else { "sends" };
    let _ = writeln!(out, "{}  {}", styled(FAINT, &format!("{from:<8}")), plain(&file.path));
    for covered in &file.covers {
        let _ = writeln!(out, "{}  {}", styled(FAINT, "covers  "), plain(&covered.path));
    }
    if file.theme.is_some() {
        let command = format!("hausblatt reach {}", word(&file.path));
        let what = "To see which pages load it:";
        let between = if columns(what) + 2 + columns(&command) <= 80 { "  " } else { "\n  " };
        let _ = writeln!(out, "\n{what}{between}{}", to_type(&command));
    }
    out
}

/// An answer in words.
pub fn text(explained: &Explanation) -> String {
    let mut out = String::new();
    let status = &explained.status;
    let style = match status.code {
        ..300 => GOOD,
        300..400 => NOTE,
        _ => BAD,
    };
    let location = status.location.as_ref().map_or(String::new(), |to| format!("  {}", plain(to)));
    let code = styled(style, &status.code.to_string());
    let _ = writeln!(out, "{}  →  {code}{location}", styled(STRONG, &plain(&explained.address)));
    let _ = writeln!(out, "{}\n", plain(&explained.subject));
    if !explained.rungs.is_empty() {
        out.push_str(&ladder::table(explained));
    }
    out.push_str(&files(explained));
    if !explained.notes.is_empty() {
        out.push('\n');
    }
    for note in &explained.notes {
        let _ = writeln!(out, "{}", wrapped(&plain(&note.text), NOTE));
    }
    out.push_str(&next(explained));
    out
}

fn files(explained: &Explanation) -> String {
    let mut out = String::new();
    let mut line = |word: &str, text: &str| {
        let _ = writeln!(out, "{}  {text}", styled(FAINT, &format!("{word:<8}")));
    };
    match &explained.renders {
        Renders::Template(file) => line("renders", &plain(&file.path)),
        Renders::BuiltInFeed => line("renders", "an Atom feed that is built in"),
        Renders::BuiltInFile => line("renders", "a file that is built in"),
        Renders::BuiltInPage => line("renders", "a plain page that is built in"),
        Renders::Nothing => line("renders", "nothing"),
    }
    explained.extends.iter().for_each(|file| line("extends", &plain(&file.path)));
    match &explained.layout {
        ExplainedLayout::Files(files) => {
            for (file, extended) in files {
                line("inside", &plain(&file.path));
                extended.iter().for_each(|next| line("extends", &plain(&next.path)));
            }
        }
        ExplainedLayout::Missing(name) => line("inside", &format!("{name}, which does not exist")),
        ExplainedLayout::None if explained.renders.template().is_some() => line("inside", "no layout"),
        ExplainedLayout::None => {}
    }
    let uses: Vec<String> = explained.uses.iter().map(use_text).collect();
    if !uses.is_empty() {
        line("uses", &wrap::list(&uses, 10));
    }
    if let Some(spot) = &explained.stopped_at {
        let at = format!("{}:{}", plain(&spot.path), spot.line);
        match &explained.status.location {
            Some(to) => line("leads", &format!("to {}, by {at}", plain(to))),
            None => line("answers", &format!("with {}, by {at}", explained.status.code)),
        }
    }
    if !explained.may.is_empty() {
        let statuses: Vec<String> = explained.may.iter().map(u16::to_string).collect();
        line("may", &format!("answer with {}", statuses.join(", ")));
    }
    out
}

fn use_text(used: &ExplainedUse) -> String {
    let theme = &used.file.theme;
    if used.what != Used::Partial {
        format!("{} {} ({theme})", used.what.word(), plain(&used.name))
    } else if used.asked_as == used.name {
        format!("{} ({theme})", plain(&used.name))
    } else {
        format!("{} → {} ({theme})", plain(&used.asked_as), plain(&used.name))
    }
}

/// Where to write what would change this answer, or what to ask next.
fn next(explained: &Explanation) -> String {
    if explained.is_missing {
        return nearest(explained);
    }
    let lines = explained.next.iter();
    let lines: Vec<(String, String)> =
        lines.map(|step| (format!("To change {}:", plain(&step.changes)), step.command.clone())).collect();
    let widest = lines.iter().map(|(what, _)| columns(what)).max().unwrap_or(0);
    let fits = lines.iter().all(|(_, command)| widest + 2 + columns(command) <= 80);
    let mut out = String::new();
    for (what, command) in &lines {
        let command = to_type(command);
        let line = if fits { format!("{}  {command}", padded(what, widest)) } else { format!("{what}\n  {command}") };
        let _ = writeln!(out, "{line}");
    }
    if out.is_empty() { out } else { format!("\n{out}") }
}

fn nearest(explained: &Explanation) -> String {
    if explained.nearest.is_empty() {
        return format!("\nTo see every address:  {}\n", to_type("hausblatt map"));
    }
    let mut out = String::from("\nThe nearest addresses that exist:\n");
    for (address, title) in &explained.nearest {
        let _ = writeln!(out, "  {}  {}", styled(TYPED, &plain(address)), styled(FAINT, &plain(title)));
    }
    out
}
