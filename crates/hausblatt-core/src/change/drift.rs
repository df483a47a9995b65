//! Drift: copies held against what their originals have become, and merged with it.

use hausblatt_lang::text::diagnostic::Diagnostic;
use similar::{ChangeTag, TextDiff};

use crate::analysis::compare::unified;
use crate::change::changes::added_by;
use crate::files::edit::Write;
use crate::files::{FileNode, Snapshot};
use crate::text::codes;
use crate::text::shell::word;
use crate::themes::lineage::FileId;
use crate::themes::originals::{self, Original};
use crate::themes::theme::{self, Theme};
use crate::world::World;

/// How alike two files must be for one to be the other renamed; 1 is the same.
const RENAMED: f32 = 0.75;
/// How alike a file must be to a recorded original to be the copy that is missing, under another name. A copy is made to
/// be edited, so this is less.
const RENAMED_COPY: f32 = 0.5;
/// What a line of an unsettled conflict begins with.
const MARK: &str = "<<<<<<< ";

/// What has become of a copy's original.
#[derive(Clone, Debug, PartialEq)]
pub enum CopyState {
    /// It is as it was.
    Current,
    /// It has changed.
    Drifted,
    /// It is elsewhere in its theme now, or in another theme of the lineage.
    Moved,
    /// It is not there any more.
    Gone,
    /// Nobody knows: no original is recorded. How alike the copy is to what it covers, from 0 to 1.
    Unrecorded(f32),
    /// The copy itself is gone; only the record is left.
    Left,
    /// It extends the inherited file now: it is a copy no longer, only the record is left.
    Extends,
}

impl CopyState {
    /// The word for it in JSON.
    pub fn word(&self) -> &'static str {
        match self {
            CopyState::Current => "current",
            CopyState::Drifted => "drifted",
            CopyState::Moved => "moved",
            CopyState::Gone => "gone",
            CopyState::Unrecorded(_) => "no original recorded",
            CopyState::Left => "copy gone",
            CopyState::Extends => "extends",
        }
    }

    /// Whether something is to be done about it.
    pub fn differs(&self) -> bool {
        matches!(self, CopyState::Drifted | CopyState::Moved | CopyState::Gone)
    }
}

/// Where an original is now.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Now {
    /// Its theme.
    pub theme: String,
    /// Its path from the theme.
    pub path: String,
    /// The theme's version, if it says one.
    pub version: Option<String>,
    /// Its path from the site.
    pub file: String,
}

/// A file of the active theme that is a copy, or looks like one.
#[derive(Clone, Debug)]
pub struct Copy {
    /// Its path from the theme.
    pub name: String,
    /// Its path from the site.
    pub path: String,
    /// The name that its record is under, where that is another: the copy was renamed, and is known by what it holds.
    pub recorded_as: Option<String>,
    /// What it was copied from.
    pub original: Option<Original>,
    /// Where that is now, or what a copy without a record covers.
    pub now: Option<Now>,
    /// What has become of it.
    pub state: CopyState,
    /// Lines that the original has got since.
    pub added: usize,
    /// Lines that it has lost.
    pub removed: usize,
    /// Whether the copy is the same as its original is now.
    pub same: bool,
    /// Whether that original would replace it, so that it may go.
    pub may_go: bool,
    /// Whether a conflict is marked in it that is not settled yet.
    pub conflicts: bool,
}

/// The copies in the active theme, in the order of their names, and records that can't be read.
pub fn copies(world: &World) -> (Vec<Copy>, Vec<Diagnostic>) {
    let (mut found, mut problems) = (Vec::new(), Vec::new());
    let active = world.lineage.active();
    let mut records: Vec<(String, Original)> = Vec::new();
    for name in originals::recorded(&world.snapshot, active) {
        match originals::read(&world.snapshot, active, &name) {
            Some(Ok(original)) => records.push((name, original)),
            Some(Err(problem)) => problems.push(problem),
            None => {}
        }
    }
    for (name, original) in &records {
        match with_record(world, active, (name, original), &records, &found) {
            Ok(copy) => found.push(copy),
            Err(problem) => problems.push(problem),
        }
    }
    for (id, file) in world.lineage.ids().filter(|(_, file)| file.theme == 0) {
        let known = found.iter().any(|copy: &Copy| copy.name == *file.name)
            || problems.iter().any(|one| {
                one.place.as_ref().is_some_and(|place| *place.path == *originals::place(active, &file.name))
            });
        if !known && may_be_copy(world, id) {
            match unrecorded(world, id) {
                Ok(copy) => found.extend(copy),
                Err(problem) => problems.push(problem),
            }
        }
    }
    found.sort_by(|a, b| a.name.cmp(&b.name));
    (found, problems)
}

/// The copy that a record is of, under the name that it has now.
fn with_record(
    world: &World,
    active: &Theme,
    (name, original): (&str, &Original),
    records: &[(String, Original)],
    found: &[Copy],
) -> Result<Copy, Diagnostic> {
    let renamed = renamed_copy(world, active, name, original, records)?;
    match renamed.filter(|name| !found.iter().any(|copy| copy.name == *name)) {
        Some(now) => {
            let copy = recorded(world, active, &now, original, records)?;
            Ok(Copy { recorded_as: Some(name.to_owned()), ..copy })
        }
        None => recorded(world, active, name, original, records),
    }
}

fn recorded(
    world: &World,
    active: &Theme,
    name: &str,
    original: &Original,
    records: &[(String, Original)],
) -> Result<Copy, Diagnostic> {
    let snapshot = &world.snapshot;
    // What another copy was made of, or is over, is not what this one's original has become.
    let taken = |theme: &Theme, path: &str| {
        records.iter().any(|(_, other)| other.theme == theme.name && other.path == path)
            || snapshot.file(&format!("{}{path}", active.root)).is_some()
    };
    let path = format!("{}{name}", active.root);
    let copy = snapshot.file(&path).map(|node| bytes_of(node)).transpose()?;
    let here = match original.now(snapshot) {
        Some((node, theme)) => Some((now_of(&theme, original.path.clone(), node), bytes_of(node)?)),
        None => None,
    };
    let extends =
        world.lineage.nearest(name).is_some_and(|id| world.lineage.file(id).theme == 0 && world.continues(id));
    let (state, now) = match (&copy, here) {
        (None, now) => (CopyState::Left, now),
        (Some(_), now) if extends => (CopyState::Extends, now),
        (Some(_), Some(now)) if now.1 == original.bytes => (CopyState::Current, Some(now)),
        (Some(_), Some(now)) => (CopyState::Drifted, Some(now)),
        (Some(_), None) => {
            let now = match renamed(snapshot, original, &taken)? {
                Some(now) => Some(now),
                None => elsewhere(world, original)?,
            };
            (if now.is_some() { CopyState::Moved } else { CopyState::Gone }, now)
        }
    };
    let (added, removed) = now.as_ref().map_or((0, 0), |(_, bytes)| counted(&original.bytes, bytes));
    let same = copy.is_some() && copy == now.as_ref().map(|(_, bytes)| bytes.clone());
    let conflicts = copy.as_ref().is_some_and(|bytes| is_marked(&String::from_utf8_lossy(bytes)));
    Ok(Copy {
        name: name.to_owned(),
        path,
        recorded_as: None,
        original: Some(original.clone()),
        state,
        added,
        removed,
        same,
        may_go: same && stands_in(world, name, now.as_ref().map(|(now, _)| now)),
        now: now.map(|(now, _)| now),
        conflicts,
    })
}

/// The name that a copy has now which is not where its record says: of the active theme's files without a record, of the
/// same folder and extension, the one most like the original.
fn renamed_copy(
    world: &World,
    active: &Theme,
    name: &str,
    original: &Original,
    records: &[(String, Original)],
) -> Result<Option<String>, Diagnostic> {
    if world.snapshot.file(&format!("{}{name}", active.root)).is_some() {
        return Ok(None);
    }
    let parts = |name: &str| {
        let folder = name.split('/').next().unwrap_or("").to_owned();
        (folder, name.rsplit('.').next().unwrap_or("").to_owned())
    };
    let mut best: Option<(f32, String)> = None;
    for (id, file) in world.lineage.ids().filter(|(_, file)| file.theme == 0) {
        let known = records.iter().any(|(other, _)| *other == *file.name);
        // The file that it was copied from within its own theme is not a copy of itself.
        let itself = original.theme == active.name && original.path == *file.name;
        if known || itself || parts(&file.name) != parts(name) || world.continues(id) {
            continue;
        }
        let alike = ratio(&original.bytes, &bytes_of(&file.node)?);
        if alike >= RENAMED_COPY && best.as_ref().is_none_or(|(most, _)| alike > *most) {
            best = Some((alike, file.name.to_string()));
        }
    }
    Ok(best.map(|(_, name)| name))
}

fn now_of(theme: &Theme, path: String, node: &FileNode) -> Now {
    Now { theme: theme.name.clone(), path, version: theme.version.clone(), file: node.path.to_string() }
}

/// What a file holds; one that can't be read must not be taken for an empty one.
fn bytes_of(node: &FileNode) -> Result<Vec<u8>, Diagnostic> {
    node.bytes().map_err(|error| unreadable(&node.path, &error.to_string()))
}

fn unreadable(path: &str, why: &str) -> Diagnostic {
    Diagnostic::of(&codes::UNREADABLE, format!("{path} can't be read: {why}")).help("look at its permissions")
}

/// Whether an original is what would be found for the name of its copy, if that were gone.
fn stands_in(world: &World, name: &str, now: Option<&Now>) -> bool {
    let next = world.lineage.not_hidden(name).find(|&id| world.lineage.file(id).theme > 0);
    next.is_some_and(|id| now.is_some_and(|now| *world.lineage.file(id).node.path == *now.file))
}

/// The file of the original's theme that it is now, if it was renamed: the same bytes, or nearly the same lines.
fn renamed(
    snapshot: &Snapshot,
    original: &Original,
    taken: &dyn Fn(&Theme, &str) -> bool,
) -> Result<Option<(Now, Vec<u8>)>, Diagnostic> {
    let Some(theme) = theme::read(snapshot, &original.theme, &mut Vec::new()) else { return Ok(None) };
    let folder = original.path.split('/').next().unwrap_or("");
    let ending = original.path.rsplit('.').next().unwrap_or("");
    let alike = |node: &FileNode| {
        let bytes = bytes_of(node)?;
        let ratio = if bytes == original.bytes { 2.0 } else { ratio(&original.bytes, &bytes) };
        Ok((ratio, bytes))
    };
    let below = format!("{}{folder}/", theme.root);
    let others = snapshot.below(&below).filter(|node| node.path.rsplit('.').next() == Some(ending));
    let others = others.filter(|node| !taken(&theme, &node.path[theme.root.len()..]));
    let others: Result<Vec<_>, Diagnostic> = others.map(|node| Ok((alike(node)?, node))).collect();
    let mut others: Vec<_> = others?.into_iter().filter(|((ratio, _), _)| *ratio >= RENAMED).collect();
    others.sort_by(|((a, _), _), ((b, _), _)| b.total_cmp(a));
    Ok(others.into_iter().next().map(|((_, bytes), node)| {
        let path = node.path[theme.root.len()..].to_owned();
        (now_of(&theme, path, node), bytes)
    }))
}

/// The nearest ancestor's file of the original's name, where its own theme has lost it or is gone itself.
fn elsewhere(world: &World, original: &Original) -> Result<Option<(Now, Vec<u8>)>, Diagnostic> {
    let mut ids = world.lineage.all(&original.path).iter().copied();
    let Some(id) = ids.find(|&id| world.lineage.file(id).theme > 0) else { return Ok(None) };
    let node = &world.lineage.file(id).node;
    Ok(Some((now_of(world.lineage.theme_of(id), original.path.clone(), node), bytes_of(node)?)))
}

/// How much of two files' lines is the same, from 0 to 1.
fn ratio(one: &[u8], other: &[u8]) -> f32 {
    match (std::str::from_utf8(one), std::str::from_utf8(other)) {
        (Ok(one), Ok(other)) => TextDiff::from_lines(one, other).ratio(),
        _ => f32::from(u8::from(one == other)),
    }
}

/// How many lines came and went between two versions.
fn counted(before: &[u8], after: &[u8]) -> (usize, usize) {
    let (Ok(before), Ok(after)) = (std::str::from_utf8(before), std::str::from_utf8(after)) else { return (0, 0) };
    let diff = TextDiff::from_lines(before, after);
    let count = |tag: ChangeTag| diff.iter_all_changes().filter(|change| change.tag() == tag).count();
    (count(ChangeTag::Insert), count(ChangeTag::Delete))
}

/// Whether a file covers one of the same name and does not extend it: then it may be a copy made by hand.
fn may_be_copy(world: &World, id: FileId) -> bool {
    let file = world.lineage.file(id);
    theme::is_in_folder(&file.name) && !world.continues(id) && covered(world, id).is_some()
}

/// The nearest ancestor's file of the same name.
fn covered(world: &World, id: FileId) -> Option<FileId> {
    let name = &world.lineage.file(id).name;
    world.lineage.all(name).iter().copied().find(|&other| world.lineage.file(other).theme > 0)
}

fn unrecorded(world: &World, id: FileId) -> Result<Option<Copy>, Diagnostic> {
    let file = world.lineage.file(id);
    let Some(other) = covered(world, id) else { return Ok(None) };
    let node = &world.lineage.file(other).node;
    let (own, theirs) = (bytes_of(&file.node)?, bytes_of(node)?);
    Ok(Some(Copy {
        name: file.name.to_string(),
        path: file.node.path.to_string(),
        recorded_as: None,
        original: None,
        now: Some(now_of(world.lineage.theme_of(other), file.name.to_string(), node)),
        state: CopyState::Unrecorded(ratio(&theirs, &own)),
        added: 0,
        removed: 0,
        same: own == theirs,
        may_go: own == theirs && world.lineage.not_hidden(&file.name).nth(1) == Some(other),
        conflicts: is_marked(&String::from_utf8_lossy(&own)),
    }))
}

/// What has changed in a copy's original since it was copied, as a unified diff; of a copy without a record, how it
/// differs from what it covers.
///
/// # Errors
/// A file that can't be read.
pub fn diff(world: &World, copy: &Copy) -> Result<String, Diagnostic> {
    let text = |bytes: Vec<u8>| String::from_utf8(bytes).unwrap_or_else(|_| "(these bytes are not text)\n".to_owned());
    let of = |path: &str| readable(world, path).map(text);
    match (&copy.original, &copy.now) {
        (Some(original), now) => {
            let after = now.as_ref().map_or(Ok(String::new()), |now| of(&now.file))?;
            Ok(unified(&text(original.bytes.clone()), &after, &format!("{}/{}", original.theme, original.path)))
        }
        (None, Some(now)) => Ok(unified(&of(&now.file)?, &of(&copy.path)?, &copy.path)),
        (None, None) => Ok(String::new()),
    }
}

/// A copy merged with what its original has become.
#[derive(Clone, Debug)]
pub struct Merged {
    /// What is to be written, in this order.
    pub writes: Vec<Write>,
    /// How many conflicts are marked in the copy; the record is renewed only if there are none.
    pub conflicts: usize,
}

/// Merges a copy three ways: what the theme changed in it, and what its original has changed since.
///
/// # Errors
/// Why it can't be merged.
pub fn merge(world: &World, active: &Theme, copy: &Copy) -> Result<Merged, Diagnostic> {
    let refused = |message: String, help: String| Err(Diagnostic::of(&codes::NOT_MERGED, message).help(help));
    let (Some(original), Some(now)) = (&copy.original, &copy.now) else {
        let message = match copy.original {
            Some(_) => format!("the original of {} is gone", copy.path),
            None => format!("no original of {} is recorded", copy.path),
        };
        return refused(message, format!("take the present one: hausblatt drift --adopt {}", word(&copy.name)));
    };
    let (ours, theirs) = (readable(world, &copy.path)?, readable(world, &now.file)?);
    let texts =
        (String::from_utf8(original.bytes.clone()), String::from_utf8(ours.clone()), String::from_utf8(theirs.clone()));
    let (Ok(base), Ok(own), Ok(others)) = texts else {
        let help = format!("choose one of the two, then: hausblatt drift --adopt {}", word(&copy.name));
        return refused(format!("{} is not text, so it can't be merged", copy.path), help);
    };
    if is_marked(&own) {
        let help = format!("settle the lines between the marks, then: hausblatt drift --adopt {}", word(&copy.name));
        return refused(format!("{} still holds the marks of a conflict", copy.path), help);
    }
    // Other line ends are no change of the text: a copy keeps its own, unless it has both.
    let (breaks, pairs) = (own.matches('\n').count(), own.matches("\r\n").count());
    let plainly = |text: &str| if pairs == 0 || pairs == breaks { text.replace("\r\n", "\n") } else { text.to_owned() };
    let (base, plain, others) = (plainly(&base), plainly(&own), plainly(&others));
    let mut merge = similar::TextMerge::from_lines(base.as_str(), plain.as_str(), others.as_str());
    let label = |theme: &str, version: &Option<String>| match version {
        Some(version) => format!("{theme} {version}"),
        None => theme.to_owned(),
    };
    merge.labels(&original.from_where(), &active.name, &label(&now.theme, &now.version));
    let conflicts = merge.conflict_count();
    let mut merged = merge.to_string();
    if pairs > 0 && pairs == breaks {
        merged = merged.replace('\n', "\r\n");
    }
    let mut writes = Vec::new();
    if merged != own {
        writes.push(Write::instead_of(&copy.path, ours, merged));
    }
    if conflicts == 0 {
        writes.extend(renewed(world, active, copy, now)?);
    }
    let new = match conflicts {
        0 => added_by(world, &writes).into_iter().find(Diagnostic::is_error),
        // Its marks are the error.
        _ => None,
    };
    match new {
        None => Ok(Merged { writes, conflicts }),
        Some(problem) => refused(
            format!("merged, {} would have an error: {}", copy.path, problem.message),
            format!("merge it by hand, then: hausblatt drift --adopt {}", word(&copy.name)),
        ),
    }
}

fn is_marked(text: &str) -> bool {
    text.lines().any(|line| line.starts_with(MARK))
}

/// The record that says what the original is now, and the removal of one under an earlier name.
fn renewed(world: &World, active: &Theme, copy: &Copy, now: &Now) -> Result<Vec<Write>, Diagnostic> {
    let original = Original {
        theme: now.theme.clone(),
        path: now.path.clone(),
        version: now.version.clone(),
        bytes: readable(world, &now.file)?,
    };
    let old = copy.recorded_as.as_ref().and_then(|name| originals::removal(&world.snapshot, active, name));
    Ok(std::iter::once(originals::record(&world.snapshot, active, &copy.name, &original)).chain(old).collect())
}

/// What the file at a path holds.
fn readable(world: &World, path: &str) -> Result<Vec<u8>, Diagnostic> {
    match world.snapshot.file(path) {
        Some(node) => bytes_of(node),
        None => Err(unreadable(path, "it is gone")),
    }
}

/// Takes what a copy's original is now as its original, without touching the copy. Where there is none any more, the
/// record goes, and the file is the theme's own.
///
/// # Errors
/// What can't be read, or a conflict that is not settled.
pub fn adopt(world: &World, active: &Theme, copy: &Copy) -> Result<Vec<Write>, Diagnostic> {
    let is_copy = !matches!(copy.state, CopyState::Left | CopyState::Extends);
    if copy.conflicts && is_copy {
        let message = format!("{} still has a conflict", copy.path);
        let help = "keep one of the two versions, and remove the lines with <<<<<<<, ======= and >>>>>>>";
        return Err(Diagnostic::of(&codes::CONFLICT_MARKS, message).help(help));
    }
    match &copy.now {
        Some(now) if is_copy => renewed(world, active, copy, now),
        _ => {
            let name = copy.recorded_as.as_ref().unwrap_or(&copy.name);
            Ok(originals::removal(&world.snapshot, active, name).into_iter().collect())
        }
    }
}

/// Ends the record of a copy's original, without touching the copy: from then on it is the theme's own.
///
/// # Errors
/// It has none.
pub fn release(world: &World, active: &Theme, copy: &Copy) -> Result<Write, Diagnostic> {
    let name = copy.recorded_as.as_ref().unwrap_or(&copy.name);
    originals::removal(&world.snapshot, active, name).ok_or_else(|| {
        let message = format!("{} has no record of an original", copy.path);
        Diagnostic::of(&codes::NO_COPY, message).help("nothing is to be done")
    })
}

/// The copy that is typed so.
///
/// # Errors
/// There is none; which there are.
pub fn find<'c>(world: &World, copies: &'c [Copy], typed: &str) -> Result<&'c Copy, Diagnostic> {
    let typed = typed.trim_start_matches("./");
    let named = |copy: &&Copy| copy.path == typed || copy.name == typed;
    if let Some(copy) = copies.iter().find(named) {
        return Ok(copy);
    }
    let active = &world.lineage.active().name;
    let file = crate::lookup::file_argument::theme_file(world, typed)?;
    let name = &world.lineage.file(file).name;
    if let Some(copy) = copies.iter().find(|copy| copy.name == **name) {
        return Ok(copy);
    }
    let own = world.lineage.all(name).iter().any(|&id| world.lineage.file(id).theme == 0);
    let (message, help) = match own {
        false => (format!("{active} has no {name} of its own"), format!("copy it: hausblatt override {}", word(name))),
        true if world.lineage.all(name).len() > 1 => (
            format!("{active}'s {name} extends what it covers, so it can't go out of date"),
            "nothing is to be done".to_owned(),
        ),
        true => (format!("{active}'s {name} is a copy of nothing"), "no ancestor has a file of this name".to_owned()),
    };
    Err(Diagnostic::of(&codes::NO_COPY, message).help(help))
}
