//! Archives unpacked into a site: new themes, and updates of those that were unpacked before.

use std::collections::{BTreeMap, BTreeSet};
use std::io::ErrorKind;

use hausblatt_lang::text::diagnostic::Diagnostic;

use crate::files::edit::Write;
use crate::pack::archive::Archive;
use crate::text::codes;
use crate::themes::theme;
use crate::world::World;

/// Where the archive is kept that a theme was unpacked from: what an update is held against. It is no file of the theme.
const KEPT: &str = ".packed.tar.gz";

/// What becomes of a theme.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Became {
    /// It is new.
    New,
    /// It is there already, to the byte.
    Same,
    /// It is updated.
    Updated,
}

/// What is to be written.
#[derive(Clone, Debug)]
pub struct Unpacking {
    /// The theme that was packed.
    pub theme: String,
    /// Each theme of the archive, with what becomes of it.
    pub themes: Vec<(String, Became)>,
    /// The files.
    pub writes: Vec<Write>,
    /// Files in which both sides changed the same lines, which are marked.
    pub conflicts: Vec<String>,
    /// Files that were changed here and stay as they are, since they are gone in the archive or hold no text.
    pub kept: Vec<String>,
    /// A theme that one of the archive's names as its parent, and that neither the archive nor the site has.
    pub lacks_parent: Option<String>,
}

/// Plans to unpack an archive into the site of a World; an `update` of themes that are there merges three ways: what was
/// unpacked, what it has become here, and what is in the archive.
///
/// # Errors
/// Why the archive can't be trusted, or what it would overwrite.
pub fn unpack(world: &World, bytes: &[u8], update: bool) -> Result<Unpacking, Diagnostic> {
    let archive = Archive::read(bytes)?;
    let mut plan = Unpacking {
        theme: archive.theme.clone(),
        themes: Vec::new(),
        writes: Vec::new(),
        conflicts: Vec::new(),
        kept: Vec::new(),
        lacks_parent: lacking_parent(world, &archive),
    };
    for name in &archive.themes {
        let folder = format!("themes/{name}/");
        let theirs: BTreeMap<&str, &[u8]> = of_theme(&archive, &folder);
        let ours = present(world, &folder)?;
        let kept = format!("{folder}{KEPT}");
        let earlier = earlier(world, &kept)?;
        let became = if ours.is_empty() {
            Became::New
        } else if ours
            .iter()
            .map(|(path, bytes)| (path.as_str(), bytes.as_slice()))
            .eq(theirs.iter().map(|(p, b)| (*p, *b)))
        {
            Became::Same
        } else if update {
            Became::Updated
        } else {
            return Err(taken(world, name, &archive));
        };
        match became {
            Became::New => {
                plan.writes.extend(theirs.iter().map(|(path, bytes)| Write::new(*path, *bytes)));
            }
            Became::Same => {}
            Became::Updated => {
                let base = earlier
                    .as_deref()
                    .map(Archive::read)
                    .transpose()
                    .map_err(|problem| unusable(&kept, &problem.message))?;
                let base = base.as_ref().map(|base| of_theme(base, &folder)).unwrap_or_default();
                update_theme(&mut plan, &base, &ours, &theirs);
            }
        }
        match earlier {
            Some(earlier) if earlier != bytes => plan.writes.push(Write::instead_of(kept, earlier, bytes)),
            Some(_) => {}
            None => plan.writes.push(Write::new(kept, bytes)),
        }
        plan.themes.push((name.clone(), became));
    }
    Ok(plan)
}

/// The parent that a theme of the archive names and nobody has.
fn lacking_parent(world: &World, archive: &Archive) -> Option<String> {
    let parent = |name: &String| {
        let manifest = archive.files.get(&format!("themes/{name}/{}", theme::MANIFEST))?;
        let manifest = std::str::from_utf8(manifest).ok()?.parse::<toml_edit::DocumentMut>().ok()?;
        Some(manifest.get("theme")?.get("parent")?.as_str()?.to_owned())
    };
    let is_there = |name: &String| {
        archive.themes.contains(name) || world.snapshot.file(&format!("themes/{name}/{}", theme::MANIFEST)).is_some()
    };
    archive.themes.iter().filter_map(parent).find(|parent| !is_there(parent))
}

/// The archive that a theme was unpacked from; none where it was not.
fn earlier(world: &World, kept: &str) -> Result<Option<Vec<u8>>, Diagnostic> {
    match world.snapshot.file_system().read_own(&world.snapshot.root().join(kept)) {
        Ok(bytes) => Ok(Some(bytes)),
        Err(error) if error.kind() == ErrorKind::NotFound => Ok(None),
        Err(error) => Err(unusable(kept, &error.to_string())),
    }
}

/// That what a theme was unpacked from can't be read, so that changes made here can't be told from it.
fn unusable(kept: &str, why: &str) -> Diagnostic {
    Diagnostic::of(&codes::UNREADABLE, format!("{kept} can't be used: {why}"))
        .help("put it back as it was, or remove it: then what differs from the archive is marked for you to choose")
}

fn of_theme<'a>(archive: &'a Archive, folder: &str) -> BTreeMap<&'a str, &'a [u8]> {
    let files = archive.files.iter().filter(|(path, _)| path.starts_with(folder));
    files.map(|(path, bytes)| (path.as_str(), bytes.as_slice())).collect()
}

fn present(world: &World, folder: &str) -> Result<BTreeMap<String, Vec<u8>>, Diagnostic> {
    let read = |node: &std::sync::Arc<crate::files::FileNode>| {
        let unreadable = |error: std::io::Error| {
            Diagnostic::of(&codes::UNREADABLE, format!("{} can't be read: {error}", node.path))
                .help("make it readable first")
        };
        Ok((node.path.to_string(), node.bytes().map_err(unreadable)?))
    };
    world.snapshot.below(folder).map(read).collect()
}

/// That a theme of the archive's is there already, and is another one.
fn taken(world: &World, name: &str, archive: &Archive) -> Diagnostic {
    let version = |text: Option<&[u8]>| -> String {
        let text = text.and_then(|text| std::str::from_utf8(text).ok()).unwrap_or("");
        let document = text.parse::<toml_edit::DocumentMut>().ok();
        let version = document.as_ref().and_then(|it| it.get("theme")?.get("version")?.as_str());
        version.map_or_else(|| "without a version".to_owned(), str::to_owned)
    };
    let manifest = format!("themes/{name}/{}", theme::MANIFEST);
    let here = world.snapshot.file(&manifest).and_then(|node| node.text()).map(|text| text.as_bytes());
    let there = archive.files.get(&manifest).map(Vec::as_slice);
    let message = format!(
        "there is a theme \"{name}\" already ({}), and the archive has another one ({})",
        version(here),
        version(there)
    );
    Diagnostic::of(&codes::FILE_EXISTS, message).help("to merge what is new into it, add --update")
}

/// Merges a theme three ways, file by file.
fn update_theme(
    plan: &mut Unpacking,
    base: &BTreeMap<&str, &[u8]>,
    ours: &BTreeMap<String, Vec<u8>>,
    theirs: &BTreeMap<&str, &[u8]>,
) {
    let all: BTreeSet<&str> =
        base.keys().chain(theirs.keys()).copied().chain(ours.keys().map(String::as_str)).collect();
    for path in all {
        let (was, own, new) = (base.get(path).copied(), ours.get(path).map(Vec::as_slice), theirs.get(path).copied());
        if own == new || new == was {
            // The same on both sides, or changed here alone.
            continue;
        }
        match (own, new) {
            (None, Some(new)) if was.is_none() => plan.writes.push(Write::new(path, new)),
            // Removed here.
            (None, _) => plan.kept.push(path.to_owned()),
            (Some(own), None) if was == Some(own) => plan.writes.push(Write::removal(path, own)),
            (Some(_), None) => plan.kept.push(path.to_owned()),
            (Some(own), Some(new)) if was == Some(own) => plan.writes.push(Write::instead_of(path, own, new)),
            (Some(own), Some(new)) => merge(plan, path, (was.unwrap_or_default(), own, new)),
        }
    }
}

fn merge(plan: &mut Unpacking, path: &str, (was, own, new): (&[u8], &[u8], &[u8])) {
    let texts = (std::str::from_utf8(was), std::str::from_utf8(own), std::str::from_utf8(new));
    let (Ok(was), Ok(mine), Ok(new)) = texts else {
        plan.kept.push(path.to_owned());
        return;
    };
    let mut merge = similar::TextMerge::from_lines(was, mine, new);
    merge.labels("as unpacked", "as it is here", "the archive");
    if merge.conflict_count() > 0 {
        plan.conflicts.push(path.to_owned());
    }
    let merged = merge.to_string();
    if merged != mine {
        plan.writes.push(Write::instead_of(path, own, merged));
    }
}
