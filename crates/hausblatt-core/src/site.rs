//! A site opened, for programs of one's own: an editor's plug-in, a hosting service, a check that nobody else needs.

use std::borrow::Cow;
use std::error::Error;
use std::fmt::{self, Display, Formatter};
use std::io;
use std::path::Path;
use std::sync::Arc;

use bumpalo::Bump;
use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::source::Place;

use crate::analysis::explanation::{Explanation, FileRef};
use crate::asking::SiteOptions;
use crate::change::suppose::{self, Supposition};
use crate::check::{self, Finding, Scope};
use crate::files::{Depth, Files, Snapshot};
use crate::model::content::Content;
use crate::model::request::Routed;
use crate::render::page::{Audience, Page, page};
use crate::world::status::Status;
use crate::world::{Unloadable, World};

/// A site as its files were when it was opened, on one day. To see what has changed since, it is opened again.
///
/// ```
/// use std::path::Path;
/// use std::sync::Arc;
/// use hausblatt_core::files::memory::Memory;
/// use hausblatt_core::jiff::civil::date;
/// use hausblatt_core::{Answer, Site, SiteOptions};
///
/// let files = Memory::of([
///     ("hausblatt.toml", "[site]\ntitle = \"Seeds\"\ntheme = \"bare\"\n"),
///     ("content/pages/visit.md", "---\ntitle: Visit\n---\nCome in.\n"),
///     ("themes/bare/hausblatt-theme.toml", ""),
///     ("themes/bare/templates/page.html", "---\nlayout: none\n---\n<h1>+{content.title}</h1>"),
/// ]);
/// let site = Site::open(Arc::new(files), Path::new("/"), &SiteOptions::on(date(2026, 5, 1)))?;
/// assert_eq!(site.render("/visit/").text, "<h1>Visit</h1>");
/// let Answer::Page(explained) = site.explain("/visit/") else { panic!() };
/// assert_eq!(explained.renders.template().unwrap().name, "templates/page.html");
/// # Ok::<(), hausblatt_core::LoadErrors>(())
/// ```
pub struct Site {
    world: World,
}

/// What an address leads to, and why.
#[derive(Clone, Debug)]
pub enum Answer {
    /// Another address of the site.
    Redirect(String),
    /// A page, or a page that says what is wrong.
    Page(Box<Explanation>),
}

/// What is known of a place in a file.
#[derive(Debug)]
pub struct At<'s> {
    /// The content that the file is, if it is one.
    pub content: Option<&'s Content>,
    /// The file of the lineage that it is, if it is one.
    pub theme_file: Option<FileRef>,
    /// What was found wrong at this place when the site was opened.
    pub problems: Vec<&'s Diagnostic>,
}

/// Why a site can't be opened.
#[derive(Debug)]
pub enum LoadErrors {
    /// Its files can't be read.
    Files(io::Error),
    /// Its configuration or a manifest can't be, with all that is known to be wrong.
    Site(Vec<Diagnostic>),
}

impl Display for LoadErrors {
    fn fmt(&self, out: &mut Formatter<'_>) -> fmt::Result {
        match self {
            LoadErrors::Files(error) => write!(out, "the site's files can't be read: {error}"),
            LoadErrors::Site(problems) => match problems.iter().find(|problem| problem.is_error()) {
                Some(problem) => write!(out, "the site can't be loaded: {}", problem.message),
                None => out.write_str("the site can't be loaded"),
            },
        }
    }
}

impl Error for LoadErrors {
    fn source(&self) -> Option<&(dyn Error + 'static)> {
        match self {
            LoadErrors::Files(error) => Some(error),
            LoadErrors::Site(_) => None,
        }
    }
}

impl From<Unloadable> for LoadErrors {
    fn from(Unloadable(problems): Unloadable) -> Self {
        LoadErrors::Site(problems)
    }
}

impl Site {
    /// Reads the site in the folder `root` of `files`: a folder with a `hausblatt.toml`.
    ///
    /// # Errors
    /// When its files can't be read, or it has no configuration or no theme that a site could be made of. All else that
    /// is wrong is in [`Site::problems`].
    pub fn open(files: Arc<dyn Files>, root: &Path, options: &SiteOptions) -> Result<Self, LoadErrors> {
        let snapshot = Snapshot::load(files, root, Depth::Whole).map_err(LoadErrors::Files)?;
        Ok(Self { world: World::load(snapshot, options.clone())? })
    }

    /// What was found wrong when the site was opened, in the order of the files. What only rendering shows is left to
    /// [`Site::check`].
    pub fn problems(&self) -> &[Diagnostic] {
        &self.world.problems
    }

    /// What an address leads to; it may be encoded, and have a query.
    pub fn route(&self, address: &str) -> Routed {
        self.world.route(address)
    }

    /// Why an address is answered as it is, with its true status: the page is rendered to find out.
    pub fn explain(&self, address: &str) -> Answer {
        match self.route(address) {
            Routed::Redirect(to) => Answer::Redirect(to),
            Routed::Request(request) => {
                let page = page(&self.world, request.clone(), Audience::Visitor, &Bump::new());
                let explained = self.world.explain(&self.world.resolve(request), Status::of_page(&page));
                Answer::Page(Box::new(explained))
            }
        }
    }

    /// What visitors of an address get, error pages included.
    pub fn render(&self, address: &str) -> Page {
        match self.route(address) {
            Routed::Redirect(to) => Page::redirect(301, to),
            Routed::Request(request) => {
                let base = (request.status < 400).then(|| request.address.clone());
                let mut page = page(&self.world, request, Audience::Visitor, &Bump::new());
                if let Cow::Owned(text) = self.world.published(&page.text, page.format, base.as_deref()) {
                    page.text = text;
                }
                page
            }
        }
    }

    /// Everything that is wrong with the site, found by rendering all of it on all cores.
    pub fn check(&self) -> Vec<Finding> {
        check::run(&self.world, &Scope::Whole, &|_, _| ())
    }

    /// The site as it would be with other files, choices, front or theme; nothing is written.
    ///
    /// # Errors
    /// What is named and does not exist, or why no site could be loaded then.
    pub fn suppose(&self, supposition: &Supposition) -> Result<Self, LoadErrors> {
        let world = suppose::suppose(&self.world, supposition).map_err(LoadErrors::Site)?;
        Ok(Self { world })
    }

    /// What is known of a byte of a file, by the file's path from the site.
    pub fn at(&self, path: &str, offset: u32) -> At<'_> {
        let world = &self.world;
        let is_here = |place: &Place| {
            let span = place.span;
            *place.path == *path && span.start <= offset && offset <= span.end
        };
        let id = world.lineage.ids().find(|(_, file)| *file.node.path == *path).map(|(id, _)| id);
        At {
            content: world.site.contents.iter().find(|content| **content.path() == *path),
            theme_file: id.map(|id| world.file_ref(id)),
            problems: world.problems.iter().filter(|one| one.place.as_ref().is_some_and(is_here)).collect(),
        }
    }

    /// All that is known of the site, for what has no method here.
    pub fn world(&self) -> &World {
        &self.world
    }
}
