//! A copy of an inherited file that becomes a file which extends it: what differs in its slots is filled in, and nothing is
//! written where something else differs.

use std::collections::{BTreeMap, BTreeSet};

use hausblatt_lang::edit::cut::{Uncut, whole};
use hausblatt_lang::edit::slots::{WrittenSlot, written};
use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::ending::Ending;
use hausblatt_lang::text::source::Span;
use similar::{DiffTag, TextDiff};

use crate::asking::SiteOptions;
use crate::change::changes::changed;
use crate::change::extract::{Becomes, Wanted, extract};
use crate::change::rename::{Proof, Theirs, in_theme, prove_same};
use crate::files::edit::Write;
use crate::lookup::file_argument;
use crate::text::codes;
use crate::text::front;
use crate::text::shell::word;
use crate::themes::file_name::Role;
use crate::themes::lineage::FileId;
use crate::themes::originals;
use crate::world::World;

/// A copy that extends its original.
#[derive(Debug)]
pub struct Extending {
    /// The file.
    pub path: String,
    /// What it extends.
    pub original: String,
    /// The slots that it fills.
    pub filled: Vec<String>,
    /// How many lines it had, and how many it has.
    pub lines: (usize, usize),
    /// Whether the record of the copy ends with it.
    pub ends_record: bool,
    /// What it does to the output.
    pub proof: Proof,
    /// What is to be written.
    pub writes: Vec<Write>,
}

/// Plans how a file of the active theme that is typed so becomes one that extends the inherited file of its name.
///
/// # Errors
/// Which of its lines differ where the inherited file has no slot, with what would make one.
pub fn extend_copy(world: &World, typed: &str) -> Result<Extending, Vec<Diagnostic>> {
    let one = |diagnostic: Diagnostic| vec![diagnostic];
    let (id, original) = pair(world, typed).map_err(one)?;
    let (file, inherited) = (world.lineage.file(id), world.lineage.file(original));
    let path = &*file.node.path;
    let (Some(copy), Some(base)) = (file.node.text(), inherited.node.text()) else {
        let help = "look at their permissions";
        return Err(one(Diagnostic::of(&codes::UNREADABLE, format!("{path} can't be read")).help(help)));
    };
    if let Some(broken) = [file, inherited].into_iter().zip([id, original]).find(|(_, id)| world.program(*id).is_none())
    {
        let message = format!("{} has an error", broken.0.node.path);
        let help = format!("mend it first: hausblatt check {}", word(&broken.0.node.path));
        return Err(one(Diagnostic::of(&codes::NOT_THE_SAME, message).help(help)));
    }
    let ending = Ending::split(&file.name).map_or(Ending::Html, |(_, ending)| ending);
    let (body, base_body) = (front::read(copy).body, front::read(base).body);
    let slots = written(base, base_body);
    let own = written(copy, body);
    let fills = fills(copy, &own, body, base, base_body, &slots).filter(|fills| {
        // A slot may be inside of a title or an attribute, too; what a fill may hold there the compiler says.
        let is_torn =
            |fill: &Fill| matches!(whole(copy, body, ending, fill.text), Err(Uncut::OpenBlock(_) | Uncut::StrayEnd(_)));
        !fills.iter().any(is_torn)
    });
    let Some(fills) = fills else { return Err(one(elsewhere(world, id, original, copy, base, &slots))) };
    let fills: Vec<Fill> = fills.into_iter().map(|fill| fill.without_its_slot(copy, &own)).collect();
    let theirs = Theirs::of(world)?;
    let head = head(copy, base);
    let mut first = None;
    for text in texts(copy, &head, &fills) {
        let removal = originals::removal(&world.snapshot, world.lineage.active(), &file.name);
        let ends_record = removal.is_some();
        let writes: Vec<Write> =
            removal.into_iter().chain([Write::instead_of(path, copy.as_bytes(), &*text)]).collect();
        let paths = BTreeSet::from([path.to_owned()]);
        match prove_same(world, &theirs, &changed(&world.snapshot, &writes), &paths, &BTreeMap::new()) {
            Ok(proof) => {
                return Ok(Extending {
                    path: path.to_owned(),
                    original: inherited.node.path.to_string(),
                    filled: fills.iter().map(|fill| fill.name.clone()).collect(),
                    lines: (copy.lines().count(), text.lines().count()),
                    ends_record,
                    proof,
                    writes,
                });
            }
            Err(problems) => first = first.or(Some(problems)),
        }
    }
    Err(first.unwrap_or_default())
}

/// The file that is typed so, and the inherited one of its name.
fn pair(world: &World, typed: &str) -> Result<(FileId, FileId), Diagnostic> {
    let id = file_argument::theme_file(world, typed)?;
    let file = world.lineage.file(id);
    if !matches!(file.role, Role::Template | Role::Partial | Role::Layout | Role::Component) {
        let message = format!("{} has no slots: only templates, partials, layouts and components have some", file.name);
        return Err(Diagnostic::of(&codes::NO_SLOTS, message));
    }
    if file.theme > 0 {
        let theme = &world.lineage.themes[file.theme].name;
        let message = format!("{} is from the theme {theme}", file.name);
        let help = format!("to extend it: hausblatt override {} --slots", word(typed));
        return Err(Diagnostic::of(&codes::NOT_OWN, message).help(help));
    }
    if world.continues(id) {
        let message = format!("{} extends the inherited file already", file.name);
        return Err(Diagnostic::of(&codes::NOT_THE_SAME, message));
    }
    let below = world.lineage.all(&file.name).iter().copied().find(|&other| {
        let other = world.lineage.file(other);
        other.theme > 0 && other.hidden_by.is_none_or(|by| by == 0)
    });
    let Some(below) = below else {
        let message = format!("no theme farther up has {}", file.name);
        return Err(
            Diagnostic::of(&codes::UNKNOWN_FILE, message).help("only a copy of an inherited file can extend it")
        );
    };
    Ok((id, below))
}

/// How a slot is written.
#[derive(Clone, Copy, PartialEq)]
enum SlotPlace {
    /// Among other things on its line.
    Inside,
    /// Alone on a line.
    Line,
    /// On lines of its own, with its default between them.
    Lines,
}

/// What a copy has in place of a slot.
struct Fill {
    name: String,
    text: Span,
    /// How the slot is written.
    place: SlotPlace,
}

impl Fill {
    /// A copy mostly has the slot, too, with another default: that is what fills it.
    fn without_its_slot(self, copy: &str, own: &[WrittenSlot]) -> Self {
        let text = self.text.of(copy);
        let start = self.text.range().start + (text.len() - text.trim_start().len());
        let is_all = |slot: &&WrittenSlot| {
            slot.name == self.name && slot.span == Span::new(start, start + text.trim().len()) && slot.has_default()
        };
        match own.iter().find(is_all) {
            Some(slot) => Self { text: slot.default, ..self },
            None => self,
        }
    }
}

/// A slot as a piece of its file: the whole lines that it is on, if nothing else is on them.
fn piece(text: &str, slot: &WrittenSlot) -> (Span, SlotPlace) {
    let range = slot.span.range();
    let start = text[..range.start].rfind('\n').map_or(0, |at| at + 1);
    let end = text[range.end..].find('\n').map_or(text.len(), |at| range.end + at + 1);
    let is_alone = text[start..range.start].trim().is_empty() && text[range.end..end].trim().is_empty();
    match is_alone {
        true if slot.span.of(text).contains('\n') => (Span::new(start, end), SlotPlace::Lines),
        true => (Span::new(start, end), SlotPlace::Line),
        false => (slot.span, SlotPlace::Inside),
    }
}

/// What a copy has in place of the slots of its original, where it differs; nothing where it differs elsewhere.
fn fills(
    copy: &str,
    own: &[WrittenSlot],
    body: usize,
    base: &str,
    base_body: usize,
    slots: &[WrittenSlot],
) -> Option<Vec<Fill>> {
    let pieces: Vec<(Span, SlotPlace)> = slots.iter().map(|slot| piece(base, slot)).collect();
    // The slots that the copy has kept, which may hold anything by default.
    let kept: Vec<(&str, Span)> = own.iter().map(|own| (own.name.as_str(), piece(copy, own).0)).collect();
    let mut fills = Vec::new();
    let (mut at, mut base_at) = (body, base_body);
    for (number, (slot, (piece, place))) in slots.iter().zip(&pieces).enumerate() {
        let before = base.get(base_at..piece.range().start)?;
        if !copy.get(at..)?.starts_with(before) {
            return None;
        }
        at += before.len();
        base_at = piece.range().end;
        let next = pieces.get(number + 1).map_or(base.len(), |(next, _)| next.range().start);
        let behind = base.get(base_at..next)?;
        let rest = copy.get(at..)?;
        let kept = kept.iter().find(|(name, piece)| *name == slot.name && piece.range().start == at);
        let length = match number + 1 == slots.len() {
            _ if kept.is_some() => kept?.1.range().len(),
            // What is behind the last slot is the end of the file.
            true => rest.strip_suffix(behind)?.len(),
            false if behind.is_empty() => rest.starts_with(piece.of(base)).then(|| piece.of(base).len())?,
            false => rest.find(behind)?,
        };
        let text = Span::new(at, at + length);
        if text.of(copy) != piece.of(base) {
            fills.push(Fill { name: slot.name.clone(), text, place: *place });
        }
        at += length;
    }
    let rest = base.get(base_at..)?;
    (copy.get(at..)? == rest).then_some(fills)
}

/// The front matter that a copy needs when it extends its original: what it says otherwise.
fn head(copy: &str, base: &str) -> String {
    let (own, other) = (front::read(copy), front::read(base));
    let inherits = |key: &str| matches!(key, "layout" | "takes" | "classes");
    let written = |entries: &[crate::text::data::Entry], text: &str, at: usize| {
        let start = entries[at].span.range().start;
        let fence = text[..front::read(text).body].trim_end_matches(['\r', '\n']).rfind('\n').map_or(0, |at| at + 1);
        let end = entries.get(at + 1).map_or(fence, |next| next.span.range().start);
        text.get(start..end.max(start)).unwrap_or("").trim_end().to_owned()
    };
    let kept: Vec<String> = (0..own.entries.len())
        .map(|at| (own.entries[at].key.clone(), written(&own.entries, copy, at)))
        .filter(|(key, line)| {
            let same = (0..other.entries.len()).any(|at| written(&other.entries, base, at) == *line);
            !(inherits(key) && same)
        })
        .map(|(_, line)| line)
        .collect();
    let eol = if copy.contains("\r\n") { "\r\n" } else { "\n" };
    if kept.is_empty() { String::new() } else { format!("---{eol}{}{eol}---{eol}", kept.join(eol)) }
}

/// The ways to write it, the usual one first.
fn texts(copy: &str, head: &str, fills: &[Fill]) -> Vec<String> {
    let eol = if copy.contains("\r\n") { "\r\n" } else { "\n" };
    if fills.is_empty() {
        return vec![format!("{head}+{{inherited}}{eol}")];
    }
    let bare = |text: &str| {
        let text = text.strip_suffix('\n').unwrap_or(text);
        text.strip_suffix('\r').unwrap_or(text).to_owned()
    };
    let into = |fill: &Fill, text: &str| format!("  +{{into \"{}\"}}{text}+{{end}}{eol}", fill.name);
    let apart =
        |fill: &Fill| format!("  +{{into \"{}\"}}{eol}{}{eol}  +{{end}}{eol}", fill.name, bare(fill.text.of(copy)));
    let usual = |fill: &Fill| {
        let text = fill.text.of(copy);
        match fill.place {
            SlotPlace::Inside => into(fill, text),
            _ if text.trim().is_empty() => into(fill, ""),
            // The white space in front of it is the original's, as is the end of its line.
            SlotPlace::Line => into(fill, text.trim()),
            SlotPlace::Lines => into(fill, &format!("{}  ", text.trim_start())),
        }
    };
    let file = |of: &dyn Fn(&Fill) -> String| {
        let fills: String = fills.iter().map(of).collect();
        format!("{head}+{{inherited with}}{eol}{fills}+{{end}}{eol}")
    };
    let exact = |fill: &Fill| into(fill, &bare(fill.text.of(copy)));
    // A slot is something that prints, so that its line ends with it; the line of a fill's tag goes.
    let below = |fill: &Fill| {
        let text = fill.text.of(copy);
        match fill.place {
            SlotPlace::Inside => into(fill, text),
            SlotPlace::Line => into(fill, &format!("{eol}{}", text.trim_end())),
            SlotPlace::Lines => into(fill, &format!("{eol}{text}")),
        }
    };
    vec![file(&usual), file(&apart), file(&exact), file(&below)]
}

/// What differs where the original has no slot: each of its lines, and how it would get one.
fn elsewhere(world: &World, id: FileId, original: FileId, copy: &str, base: &str, slots: &[WrittenSlot]) -> Diagnostic {
    let (file, inherited) = (world.lineage.file(id), world.lineage.file(original));
    let line_of = |at: usize| base[..at].matches('\n').count();
    let on_lines: Vec<&WrittenSlot> = slots.iter().filter(|slot| piece(base, slot).1 != SlotPlace::Inside).collect();
    let in_slot = |line: usize| {
        on_lines.iter().any(|slot| (line_of(slot.span.range().start)..=line_of(slot.span.range().end)).contains(&line))
    };
    let diff = TextDiff::from_lines(base, copy);
    // Of a line with slots in it what is around them must be the same.
    let inside_line = |old: &std::ops::Range<usize>, new: &std::ops::Range<usize>| {
        let on_line = |slot: &&WrittenSlot| line_of(slot.span.range().start) == old.start;
        let (Some(first), Some(last)) = (slots.iter().find(on_line), slots.iter().rfind(on_line)) else { return false };
        let lines: String = copy.split_inclusive('\n').skip(new.start).take(new.len()).collect();
        let start = base[..first.span.range().start].rfind('\n').map_or(0, |at| at + 1);
        let end = last.span.range().end;
        let behind = base[end..].find('\n').map_or(&base[end..], |at| &base[end..=end + at]);
        lines.starts_with(&base[start..first.span.range().start]) && lines.ends_with(behind)
    };
    let hunks = diff.ops().iter().filter(|op| op.tag() != DiffTag::Equal);
    // What is put in between two lines is in a slot only where both are in it.
    let outside = hunks.filter(|op| {
        let old = op.old_range();
        let lines = if old.is_empty() { old.start.saturating_sub(1)..old.start + 1 } else { old };
        let is_inside = op.old_range().len() == 1 && inside_line(&op.old_range(), &op.new_range());
        !is_inside && !lines.into_iter().all(in_slot)
    });
    let starts: Vec<usize> = std::iter::once(0).chain(copy.match_indices('\n').map(|(at, _)| at + 1)).collect();
    let span_of = |lines: std::ops::Range<usize>| {
        let at = |line: usize| starts.get(line).copied().unwrap_or(copy.len());
        let (start, end) = (at(lines.start), at(lines.end.max(lines.start + 1)));
        // The end of the last line is left out: nothing of the next one differs.
        let lines = copy[start..end.max(start)].trim_end_matches(['\r', '\n']);
        Span::new(start, start + lines.len())
    };
    let message = format!("{} differs from {} where that has no slot", file.name, inherited.node.path);
    let mut diagnostic = Diagnostic::of(&codes::NO_SLOTS, message);
    let mut help = None;
    for op in outside {
        let (old, new) = (op.old_range(), op.new_range());
        if help.is_none() {
            help = Some(how(world, original, &old));
        }
        diagnostic = match diagnostic.place {
            None => diagnostic.at(&file.node.path, span_of(new)),
            Some(_) => diagnostic.related(&file.node.path, span_of(new), "this differs, too"),
        };
    }
    let help = help.unwrap_or_else(|| format!("compare the two: hausblatt drift{}", in_theme(world)));
    diagnostic.help(help)
}

/// How the inherited file would get a slot at these lines, which count from 0.
fn how(world: &World, original: FileId, lines: &std::ops::Range<usize>) -> String {
    let inherited = world.lineage.file(original);
    let theme = &world.lineage.themes[inherited.theme].name;
    if lines.is_empty() {
        return format!(
            "a slot would make it possible: write +{{slot \"NAME\"}} behind line {} of {}",
            lines.start, inherited.node.path
        );
    }
    let (from, to) = (lines.start + 1, lines.end);
    let asking = SiteOptions { theme: Some(theme.clone()), ..world.asking.clone() };
    let wanted = Wanted { file: &inherited.name, lines: from..=to, name: "new-slot", becomes: Becomes::Slot };
    let tried = World::load(world.snapshot.clone(), asking).ok().map(|theirs| extract(&theirs, &wanted).map(|_| ()));
    let typed = if from == to { from.to_string() } else { format!("{from}-{to}") };
    let file = word(&format!("{}:{typed}", inherited.name));
    match tried {
        Some(Ok(())) => {
            let theme = word(theme);
            format!("a slot there would make it possible: hausblatt extract {file} NAME --as slot --theme {theme}")
        }
        _ => {
            let lines = if from == to { "line" } else { "lines" };
            format!("{lines} {typed} of {} can't become a slot, so it stays a copy", inherited.node.path)
        }
    }
}
