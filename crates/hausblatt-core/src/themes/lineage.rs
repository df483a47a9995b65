//! The active theme and its ancestors, merged: which file of which theme has which name.

use std::sync::Arc;

use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::suggest::{did_you_mean, nearest};
use rustc_hash::FxHashMap;
use smallvec::SmallVec;

use crate::files::{FileNode, LeftOut, ORIGINALS, Snapshot, Why};
use crate::schema::config::{self, Spanned};
use crate::text::codes;
use crate::themes::file_name::{Role, ThemeFileName};
use crate::themes::theme::{self, Theme};
use hausblatt_lang::text::source::Span;

/// A theme file's number in a [`Lineage`].
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub struct FileId(pub u32);

/// A file of a theme.
#[derive(Clone, Debug)]
pub struct ThemeFile {
    /// The theme's place in the lineage, from 0.
    pub theme: usize,
    /// Its path from the theme's root: `templates/page.html`.
    pub name: ThemeFileName,
    /// What it is for.
    pub role: Role,
    /// The file.
    pub node: Arc<FileNode>,
    /// The nearer theme that hides it, if one does.
    pub hidden_by: Option<usize>,
}

/// The merged themes.
#[derive(Debug, Default)]
pub struct Lineage {
    /// The active theme, its parent, its parent's parent.
    pub themes: Vec<Theme>,
    /// All their files.
    pub files: Vec<ThemeFile>,
    /// By name, the files that have it, nearest theme first, hidden ones included.
    names: FxHashMap<Box<str>, SmallVec<[FileId; 3]>>,
}

impl Lineage {
    /// The active theme: a lineage begins with it.
    pub fn active(&self) -> &Theme {
        &self.themes[0]
    }

    /// A theme outside the lineage that has a file.
    pub fn outside(&self, snapshot: &Snapshot, file: &str) -> Option<String> {
        let inside = |theme: &String| self.themes.iter().any(|other| other.name == *theme);
        let mut others = theme::names(snapshot).into_iter().filter(|theme| !inside(theme));
        others.find(|theme| {
            let root = theme::read(snapshot, theme, &mut Vec::new()).map(|theme| theme.root);
            root.is_some_and(|root| snapshot.file(&format!("{root}{file}")).is_some())
        })
    }

    /// Loads the lineage of `active`. Without that theme there is none.
    pub fn load(snapshot: &Snapshot, active: &Spanned, problems: &mut Vec<Diagnostic>) -> Option<Self> {
        let mut lineage = Self { themes: themes(snapshot, active, problems)?, ..Self::default() };
        for theme in 0..lineage.themes.len() {
            lineage.add_files(snapshot, theme);
        }
        lineage.hide(problems);
        let unreadable = |diagnostic: &Diagnostic| {
            let path = diagnostic.place.as_ref().map(|place| &place.path);
            [codes::BAD_TOML.name, codes::UNREADABLE.name].contains(&diagnostic.code)
                && lineage.themes.iter().any(|theme| Some(&theme.manifest) == path)
        };
        // Without its manifest nobody knows what a theme is a child of.
        if problems.iter().any(unreadable) { None } else { Some(lineage) }
    }

    fn add_files(&mut self, snapshot: &Snapshot, theme: usize) {
        let root = self.themes[theme].root.clone();
        for node in snapshot.below(&root) {
            let name = ThemeFileName::new(&node.path[root.len()..]);
            if name.starts_with(ORIGINALS) {
                continue;
            }
            let id = FileId(u32::try_from(self.files.len()).unwrap_or(u32::MAX));
            self.names.entry(name.as_str().into()).or_default().push(id);
            self.files.push(ThemeFile { theme, role: name.role(), name, node: node.clone(), hidden_by: None });
        }
    }

    fn hide(&mut self, problems: &mut Vec<Diagnostic>) {
        for theme in 0..self.themes.len() {
            for hide in self.themes[theme].hide.clone() {
                let ids = self.names.get(hide.text.as_str()).cloned().unwrap_or_default();
                let gone: Vec<FileId> = ids.into_iter().filter(|id| self.file(*id).theme > theme).collect();
                if gone.is_empty() {
                    let names = self.files.iter().filter(|file| file.theme > theme).map(|file| &*file.name);
                    let help = did_you_mean(&hide.text, names)
                        .unwrap_or_else(|| "write its path from its theme, as in templates/page/visit.html".to_owned());
                    let message = format!("no ancestor has a file \"{}\" to hide", hide.text);
                    problems.push(
                        Diagnostic::of(&codes::UNUSED_HIDE, message)
                            .help(help)
                            .at(&self.themes[theme].manifest, hide.span),
                    );
                }
                for id in gone {
                    self.files[id.0 as usize].hidden_by.get_or_insert(theme);
                }
            }
        }
    }

    /// A file by its number.
    pub fn file(&self, id: FileId) -> &ThemeFile {
        &self.files[id.0 as usize]
    }

    /// The files of a name, nearest theme first, hidden ones included.
    pub fn all(&self, name: &str) -> &[FileId] {
        self.names.get(name).map_or(&[], |ids| ids)
    }

    /// The files of a name that no theme hides, nearest first.
    pub fn not_hidden<'l>(&'l self, name: &str) -> impl Iterator<Item = FileId> + 'l {
        self.all(name).iter().copied().filter(|&id| self.file(id).hidden_by.is_none())
    }

    /// The file that answers for a name.
    pub fn nearest(&self, name: &str) -> Option<FileId> {
        self.not_hidden(name).next()
    }

    /// All files with their numbers.
    pub fn ids(&self) -> impl Iterator<Item = (FileId, &ThemeFile)> {
        self.files.iter().enumerate().map(|(at, file)| (FileId(u32::try_from(at).unwrap_or(u32::MAX)), file))
    }

    /// The theme that a file belongs to.
    pub fn theme_of(&self, id: FileId) -> &Theme {
        &self.themes[self.file(id).theme]
    }
}

/// The active theme and its ancestors. A missing or circular parent ends the lineage with an error.
fn themes(snapshot: &Snapshot, active: &Spanned, problems: &mut Vec<Diagnostic>) -> Option<Vec<Theme>> {
    let config: Arc<str> = config::FILE.into();
    let Some(first) = theme::read(snapshot, &active.text, problems) else {
        let missing = missing(snapshot, &active.text);
        // Who names another theme than the configured one has written it elsewhere.
        let is_configured = active.span != Span::default();
        problems.push(if is_configured { missing.at(&config, active.span) } else { missing });
        return None;
    };
    let mut themes = vec![first];
    while let Some(parent) = themes.last().and_then(|theme| theme.parent.clone()) {
        let manifest = themes.last().map_or_else(|| config.clone(), |theme| theme.manifest.clone());
        if let Some(start) = themes.iter().position(|theme| theme.name == parent.text) {
            let circle: Vec<&str> =
                themes[start..].iter().map(|theme| theme.name.as_str()).chain([parent.text.as_str()]).collect();
            let message = format!("these themes are each other's parents: {}", circle.join(" → "));
            problems.push(
                Diagnostic::of(&codes::THEME_CIRCLE, message)
                    .help("take \"parent\" out of one of them")
                    .at(&manifest, parent.span),
            );
            return None;
        }
        let Some(theme) = theme::read(snapshot, &parent.text, problems) else {
            problems.push(missing(snapshot, &parent.text).at(&manifest, parent.span));
            return None;
        };
        problems.extend(themes.last().and_then(|child| theme::wrong_parent_version(child, Some(&theme))));
        themes.push(theme);
    }
    problems.extend(themes.last().and_then(|oldest| theme::wrong_parent_version(oldest, None)));
    Some(themes)
}

fn missing(snapshot: &Snapshot, name: &str) -> Diagnostic {
    let names = theme::names(snapshot);
    if snapshot.below(&format!("themes/{name}/")).next().is_some() {
        let manifest = format!("themes/{name}/{}", theme::MANIFEST);
        return Diagnostic::of(&codes::MISSING_MANIFEST, format!("the theme \"{name}\" has no {}", theme::MANIFEST))
            .help(format!("write {manifest}; a line [theme] is enough"));
    }
    let folder = format!("themes/{name}");
    let is_above = |left: &&LeftOut| left.path == "themes" || left.path == folder;
    if let Some(left) = snapshot.left_out().iter().find(is_above) {
        let help = match left.why {
            Why::Outside => {
                format!("{} is a link that leads out of the site's folder; copy what it leads to", left.path)
            }
            Why::Nowhere => format!("{} is a link that leads to nothing", left.path),
            _ => format!("{} is not read", left.path),
        };
        return Diagnostic::of(&codes::UNKNOWN_THEME, format!("there is no theme \"{name}\"")).help(help);
    }
    let help = match nearest(name, names.iter().map(String::as_str)) {
        Some(near) => format!("did you mean \"{near}\"?"),
        None if names.is_empty() => format!("a theme is a folder below themes/ with a {}", theme::MANIFEST),
        None => format!("the themes are {}", names.join(", ")),
    };
    Diagnostic::of(&codes::UNKNOWN_THEME, format!("there is no theme \"{name}\"")).help(help)
}
