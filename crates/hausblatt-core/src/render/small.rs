//! Files as they are sent: with versions in the addresses that they load and, where the site says so, made small.

use std::hash::{Hash as _, Hasher as _};

use hausblatt_lang::text::code::Code;
use hausblatt_lang::text::diagnostic::{Diagnostic, Severity};
use hausblatt_lang::text::source::Span;
use hausblatt_small::IMPORTED;
use rustc_hash::FxHashMap;
use xxhash_rust::xxh3::Xxh3;

use crate::PROGRAM;
use crate::files::FileNode;
use crate::lookup::{loads, public};
use crate::render::versions::changes;
use crate::text::address::asked;
use crate::text::addresses_in_text::with_changed;
use crate::text::{scripts, styles};
use crate::world::World;

/// That a file stays as it is.
pub const NOT_SMALL: Code = Code {
    name: "not-small",
    severity: Severity::Warning,
    about: "a style sheet or a script can't be made small",
    explanation: "With styles or scripts = \"small\" in [build], style sheets and scripts are published in fewer bytes. One in which something can't be read for certain is published as it is: what browsers make of such a place depends on every byte. So is a style sheet that imports one of another site after its own, one that is nested deeper than 60 brackets, and one that is larger than 4 MB with all that it imports.",
};

/// What is sent in the place of a file.
#[derive(Debug, Default)]
pub struct PublishedFile {
    /// The text; none where the file is sent as it is, byte by byte.
    pub text: Option<String>,
    /// Why it is not small, where it should be.
    pub not_small: Option<Diagnostic>,
}

impl World {
    /// Whether the site says that the file at a path is to be small.
    pub(crate) fn makes_small(&self, path: &str) -> bool {
        let build = &self.site.config.build;
        loads::is_style_sheet(path) && build.small_styles || loads::is_script(path) && build.small_scripts
    }

    /// What is sent in the place of the file at a path, decoded.
    pub fn published_file(&self, path: &str, node: &FileNode) -> PublishedFile {
        let small = match (self.makes_small(path), loads::is_script(path)) {
            (false, _) => Ok(None),
            (true, true) => script(self, path, node),
            (true, false) => sheet(self, path, node),
        };
        let (small, not_small) = match small {
            Ok(small) => (small, None),
            Err(why) => (None, Some(why)),
        };
        PublishedFile { text: small.or_else(|| versioned(self, path, path, node)), not_small }
    }
}

/// A digest of how the file at a path is made small; none where it is not.
pub(super) fn form(world: &World, path: &str) -> Option<u64> {
    if !world.makes_small(path) {
        return None;
    }
    let mut form = Xxh3::new();
    // Another program may make another text of the same file.
    form.update(PROGRAM.as_bytes());
    if loads::is_style_sheet(path) {
        world.site.config.build.browsers.hash(&mut form);
    }
    Some(form.finish())
}

/// The file at a path as it is sent at another one, with versions; none where nothing in it changes.
fn versioned(world: &World, path: &str, sent_at: &str, node: &FileNode) -> Option<String> {
    let changed = changes(world, path, sent_at, node);
    let written = if loads::is_script(path) { scripts::written_address } else { styles::written_address };
    (!changed.is_empty()).then(|| Some(with_changed(&node.whole_text().ok()?, changed, written))).flatten()
}

/// A byte order mark.
const MARK: char = '\u{feff}';

/// A script made small; nothing where it is as small as that already.
fn script(world: &World, path: &str, node: &FileNode) -> Result<Option<String>, Diagnostic> {
    // A file that can't be read is reported as that.
    let Ok(own) = node.whole_text() else { return Ok(None) };
    let text = versioned(world, path, path, node).unwrap_or_else(|| own.to_string());
    match scripts::small(text.trim_start_matches(MARK)) {
        Ok(small) if small.len() >= text.len() => Ok(None),
        // Without the mark, a browser would take letters for those of the page's encoding.
        Ok(small) if text.starts_with(MARK) && !small.is_ascii() => Ok(Some(format!("{MARK}{small}"))),
        Ok(small) => Ok(Some(small)),
        Err(why) => Err(not_small("script", node, Span::default(), &why)),
    }
}

/// A style sheet made small, with those that it imports in it; nothing where it is as small as that already.
fn sheet(world: &World, path: &str, node: &FileNode) -> Result<Option<String>, Diagnostic> {
    let mut joined = Joined { sheets: vec![(path.to_owned(), node)], numbers: FxHashMap::default() };
    joined.numbers.insert(path.to_owned(), 0);
    let mut texts: Vec<String> = Vec::new();
    let mut is_marked = false;
    while let Some((own, node)) = joined.sheets.get(texts.len()).cloned() {
        if node.styles().is_deep {
            return Err(not_small("style sheet", node, Span::default(), "its brackets are nested too deep"));
        }
        let Ok(text) = node.whole_text() else { return Ok(None) };
        let changed = joined.changes(world, &own, node, path);
        let text = with_changed(&text, changed, styles::written_address);
        let bare = text.trim_start_matches(MARK);
        is_marked |= bare.len() < text.len() || bare.get(..8).is_some_and(|at| at.eq_ignore_ascii_case("@charset"));
        texts.push(bare.to_owned());
    }
    match styles::small(&texts, world.site.config.build.browsers) {
        Ok(small) if texts.len() == 1 && small.len() >= texts[0].len() => Ok(None),
        Ok(small) if is_marked && !small.is_ascii() => Ok(Some(format!("@charset \"utf-8\";{small}"))),
        Ok(small) => Ok(Some(small)),
        Err(why) => {
            let node = joined.sheets.get(why.sheet).map_or(node, |(_, node)| node);
            Err(not_small("style sheet", node, line_of(node, why.line), &why.why))
        }
    }
}

/// Style sheets that become one, each with its path: the first one, and what it imports.
struct Joined<'w> {
    sheets: Vec<(String, &'w FileNode)>,
    numbers: FxHashMap<String, usize>,
}

impl<'w> Joined<'w> {
    /// What changes in one of them when the first one is sent at a path: what it imports is put into it by number.
    fn changes(&mut self, world: &'w World, path: &str, node: &'w FileNode, sent_at: &str) -> Vec<(Span, String)> {
        let mut all: FxHashMap<Span, String> = changes(world, path, sent_at, node).into_iter().collect();
        for load in loads::loads(path, node).into_iter().filter(|load| load.is_import) {
            let to = loads::led_to(world, path, load).map(|to| asked(&to).path);
            let Some(to) = to.filter(|to| loads::is_style_sheet(to)) else { continue };
            let Some(imported) = public::file(world, &to).filter(|node| node.whole_text().is_ok()) else { continue };
            let number = *self.numbers.entry(to.clone()).or_insert_with(|| {
                self.sheets.push((to, imported));
                self.sheets.len() - 1
            });
            all.insert(load.span, format!("{IMPORTED}{number}"));
        }
        let mut all: Vec<(Span, String)> = all.into_iter().collect();
        all.sort_by_key(|(span, _)| span.start);
        all
    }
}

/// What is written in a line of a file, counted from 0.
fn line_of(node: &FileNode, line: u32) -> Span {
    let Ok(text) = node.whole_text() else { return Span::default() };
    let Some(written) = text.lines().nth(line as usize) else { return Span::default() };
    let start = written.as_ptr() as usize - text.as_ptr() as usize;
    let end = start + written.trim_end().len();
    Span::new(start + (written.len() - written.trim_start().len()).min(written.trim_end().len()), end)
}

fn not_small(what: &str, node: &FileNode, at: Span, why: &str) -> Diagnostic {
    let mut letters = why.trim_end_matches('.').chars();
    let why = letters.next().map(|first| first.to_lowercase().to_string() + letters.as_str()).unwrap_or_default();
    Diagnostic::of(&NOT_SMALL, format!("this {what} is published as it is, not made small: {why}"))
        .help("write this place as the standard has it, or leave it: the file works as before")
        .at(&node.path, at)
}
