//! The sites that an editor has files of, each with the World of its files and of the texts that are not saved yet.

use std::collections::{HashMap, HashSet};
use std::path::{Path, PathBuf};
use std::sync::Arc;
use std::time::{Duration, Instant};

use hausblatt_core::asking::SiteOptions;
use hausblatt_core::files::{Depth, Snapshot};
use hausblatt_core::text::codes;
use hausblatt_core::world::{Unloadable, World};
use hausblatt_lang::text::diagnostic::Diagnostic;
use lsp_types::Uri;

use crate::lsp::positions::path_of;
use crate::opened;
use crate::options::Common;

/// The name of what makes a folder a site.
const CONFIG: &str = "hausblatt.toml";
/// What was looked at less than this ago is not looked at again.
const FRESH: Duration = Duration::from_millis(300);

/// A text that is open in the editor.
pub struct Document {
    /// Where it is.
    pub path: PathBuf,
    /// Its version, as the editor counts.
    pub version: i32,
    /// Its text.
    pub text: String,
}

/// A site at one moment, with what is open in it.
pub struct Loaded {
    /// The files, open texts in the places of theirs.
    pub snapshot: Snapshot,
    /// The World, or why there is none.
    pub world: Result<World, Vec<Diagnostic>>,
}

impl Loaded {
    /// All that is wrong, as far as loading shows it.
    pub fn problems(&self) -> &[Diagnostic] {
        match &self.world {
            Ok(world) => &world.problems,
            Err(problems) => problems,
        }
    }
}

/// A site.
pub struct Site {
    /// Its folder.
    pub root: PathBuf,
    disk: Snapshot,
    looked: Instant,
    /// The World of each theme that was needed; the site's own under no name.
    loaded: HashMap<Option<String>, Arc<Loaded>>,
    /// What was loaded before the last change: content is taken over from there where it is the same.
    earlier: HashMap<Option<String>, Arc<Loaded>>,
    /// The last time that there was a World.
    last: Option<Arc<Loaded>>,
    /// Why the files could not be looked at the last time: what is answered is from before.
    pub trouble: Option<Diagnostic>,
    /// What rendered pages have shown of the open files.
    pub rendered: Vec<Diagnostic>,
    /// The diagnostics that were pushed last, by the paths of files, as digests.
    pub pushed: HashMap<String, u64>,
    /// The diagnostics that the editor has pulled last, by the paths of files, as digests.
    pub pulled: HashMap<String, u64>,
    /// The address whose values are shown, if one was chosen.
    pub sample: Option<String>,
}

/// All sites and all open texts.
#[derive(Default)]
pub struct Sites {
    common: Common,
    /// The open texts, by their addresses.
    pub documents: HashMap<String, Document>,
    /// Why sites could not be read at all, each once.
    pub failed: Vec<String>,
    sites: Vec<Site>,
}

impl Sites {
    /// None yet.
    pub fn new(common: &Common) -> Self {
        Self { common: common.clone(), ..Self::default() }
    }

    /// The number of the site that a file is in, and its path there; it is read if it was not yet.
    pub fn site_of(&mut self, path: &Path) -> Option<(usize, String)> {
        let folder = path.parent()?.ancestors().find(|folder| folder.join(CONFIG).is_file())?;
        let root = folder.canonicalize().ok()?;
        let inside = path.strip_prefix(folder).ok()?.to_str()?.to_owned();
        if let Some(at) = self.sites.iter().position(|site| site.root == root) {
            return Some((at, inside));
        }
        let disk = match Snapshot::load(Arc::new(opened::disk()), &root, Depth::Heads) {
            Ok(disk) => disk.leniently(),
            Err(error) => {
                let message = format!("the site in {} can't be read: {error}; look at its permissions", root.display());
                if !self.failed.contains(&message) {
                    self.failed.push(message);
                }
                return None;
            }
        };
        let site = Site {
            root,
            disk,
            looked: Instant::now(),
            loaded: HashMap::new(),
            earlier: HashMap::new(),
            last: None,
            trouble: None,
            rendered: Vec::new(),
            pushed: HashMap::new(),
            pulled: HashMap::new(),
            sample: None,
        };
        self.sites.push(site);
        Some((self.sites.len() - 1, inside))
    }

    /// A site by its number.
    pub fn site(&mut self, at: usize) -> &mut Site {
        &mut self.sites[at]
    }

    /// How many sites there are.
    pub fn count(&self) -> usize {
        self.sites.len()
    }

    /// Notes that texts have changed: what is asked next is asked of them.
    pub fn changed(&mut self, path: &Path) {
        if let Some((at, path)) = self.site_of(path) {
            self.sites[at].forget();
            // Where it was found may be another place by now.
            self.sites[at].rendered.retain(|found| found.place.as_ref().is_none_or(|place| *place.path != *path));
        }
    }

    /// Notes that a text is no longer open: an editor that pulls diagnostics of open files does not pull its any more.
    pub fn closed(&mut self, path: &Path) {
        self.changed(path);
        if let Some((at, path)) = self.site_of(path) {
            self.sites[at].pulled.remove(&path);
        }
    }

    /// Notes that files may have changed on disk.
    pub fn files_changed(&mut self) {
        for site in &mut self.sites {
            site.looked = Instant::now().checked_sub(FRESH).unwrap_or(site.looked);
            site.look();
        }
    }

    /// The paths of the open texts of a site, each with its version.
    pub fn versions_in(&self, at: usize) -> HashMap<String, i32> {
        let root = &self.sites[at].root;
        let all = self.documents.values();
        all.filter_map(|document| Some((inside(&document.path, root)?, document.version))).collect()
    }

    /// The paths of the open texts of a site.
    pub fn open_in(&self, at: usize) -> HashSet<String> {
        self.versions_in(at).into_keys().collect()
    }

    /// A site as it is now, with the open texts in it; with a theme as the active one.
    pub fn loaded(&mut self, at: usize, theme: Option<String>) -> Arc<Loaded> {
        self.sites[at].look();
        if let Some(loaded) = self.sites[at].loaded.get(&theme) {
            return loaded.clone();
        }
        let root = self.sites[at].root.clone();
        let mut snapshot = self.sites[at].disk.clone();
        for document in self.documents.values() {
            if let Some(inside) = inside(&document.path, &root) {
                snapshot = snapshot.with(&inside, Some(&document.text));
            }
        }
        let asking = SiteOptions { theme: theme.clone(), ..opened::asking(&self.common, &snapshot) };
        let earlier = self.sites[at].earlier.remove(&theme);
        let world = match earlier.as_ref().and_then(|earlier| earlier.world.as_ref().ok()) {
            Some(earlier) if earlier.asking == asking => earlier.later(snapshot.clone()),
            _ => World::load(snapshot.clone(), asking),
        };
        let world = world.map_err(|Unloadable(problems)| problems);
        let loaded = Arc::new(Loaded { snapshot, world });
        if loaded.world.is_ok() && theme.is_none() {
            self.sites[at].last = Some(loaded.clone());
        }
        self.sites[at].loaded.insert(theme, loaded.clone());
        loaded
    }
}

/// The path of a file in a site, if it is in it; a new file may be in a folder that is not there yet.
fn inside(path: &Path, root: &Path) -> Option<String> {
    let (folder, real) = path.ancestors().skip(1).find_map(|folder| Some((folder, folder.canonicalize().ok()?)))?;
    real.join(path.strip_prefix(folder).ok()?).strip_prefix(root).ok()?.to_str().map(str::to_owned)
}

impl Site {
    /// Looks at the files, unless that was done just now.
    fn look(&mut self) {
        if self.looked.elapsed() < FRESH {
            return;
        }
        self.looked = Instant::now();
        let found = self.disk.refreshed();
        self.trouble = found.as_ref().err().map(|error| {
            let message = format!("the site's files can't be read: {error}; what is shown is from before");
            Diagnostic::of(&codes::UNREADABLE, message).help("look whether its folder is there, and at its permissions")
        });
        if let Ok(disk) = found
            && !disk.changed_since(&self.disk).is_empty()
        {
            self.disk = disk;
            self.forget();
        }
    }

    /// Notes that what is loaded is out of date.
    fn forget(&mut self) {
        self.earlier.extend(self.loaded.drain());
    }
}

/// A place that an editor asks about: the site with it, its path there, its text and the byte.
pub struct Asked {
    /// The number of the site.
    pub site: usize,
    /// The site as it is.
    pub loaded: Arc<Loaded>,
    /// The site as it was the last time that it could be loaded.
    last: Option<Arc<Loaded>>,
    /// The file's path in the site.
    pub path: String,
    /// Its text.
    pub text: String,
    /// The byte.
    pub at: usize,
    /// The address whose values are shown, if one was chosen.
    pub chosen: Option<String>,
}

impl Asked {
    /// The World.
    pub fn world(&self) -> Option<&World> {
        self.loaded.world.as_ref().ok()
    }

    /// The World of the last time that there was one.
    pub fn last_world(&self) -> Option<&World> {
        self.last.as_ref().and_then(|last| last.world.as_ref().ok())
    }
}

impl Sites {
    /// What is asked of a byte of the file at an address.
    pub fn asked(&mut self, uri: &Uri, at: usize) -> Option<Asked> {
        let (site, loaded, path, text) = self.file(uri)?;
        let chosen = self.sites[site].sample.clone();
        let last = self.sites[site].last.clone();
        Some(Asked { site, loaded, last, path, text, at, chosen })
    }

    /// The theme that a file is in, where the active theme does not inherit from that.
    pub fn other_theme(&mut self, at: usize, path: &str) -> Option<String> {
        let theme = path.strip_prefix("themes/")?.split_once('/')?.0;
        let loaded = self.loaded(at, None);
        let is_own = |world: &World| world.lineage.themes.iter().any(|own| own.name == theme);
        (!loaded.world.as_ref().is_ok_and(is_own) && loaded.world.is_ok()).then(|| theme.to_owned())
    }

    /// The file at an address, in its site; a theme that the site's lineage lacks is looked at by itself.
    fn file(&mut self, uri: &Uri) -> Option<(usize, Arc<Loaded>, String, String)> {
        let path = path_of(uri)?;
        let (site, inside) = self.site_of(&path)?;
        let theme = self.other_theme(site, &inside);
        let loaded = self.loaded(site, theme);
        let text = match self.documents.get(uri.as_str()) {
            Some(document) => document.text.clone(),
            None => loaded.snapshot.file(&inside)?.whole_text().ok()?.to_string(),
        };
        Some((site, loaded, inside, text))
    }
}
