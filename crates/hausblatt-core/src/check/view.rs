//! A page as the checks of pages see it, and what they find in it.

use hausblatt_lang::text::source::Place;

use crate::check::links::{Leading, inside};
use crate::check::parsed::{Parsed, Trouble};
use crate::model::request::Request;
use crate::world::World;

/// A rendered page.
pub(crate) struct View<'v> {
    /// The site.
    pub world: &'v World,
    /// What was asked.
    pub request: &'v Request,
    /// The page as it is written.
    pub text: &'v str,
    /// The page as browsers read it.
    pub page: &'v Parsed,
    /// Its links that stay within the site.
    pub links: Vec<Leading<'v>>,
}

impl<'v> View<'v> {
    /// A page of `world`, whose links are read once for all checks.
    pub(super) fn of(world: &'v World, request: &'v Request, text: &'v str, page: &'v Parsed) -> Self {
        Self { world, request, text, page, links: inside(world, request, page) }
    }

    /// Whether it is a document of its own, and not a part for other pages.
    pub(crate) fn is_document(&self) -> bool {
        self.page.has_doctype || self.page.has_html
    }

    /// Reports each trouble of one sort.
    pub(crate) fn troubles(
        &self,
        trouble: Trouble,
        found: &mut Vec<PageProblem>,
        told: impl Fn(&str) -> (String, &'static str),
    ) {
        for stumble in self.page.stumbles.iter().filter(|stumble| stumble.trouble == trouble) {
            let (message, help) = told(&stumble.what);
            found.push(PageProblem::at(Some(stumble.at), message, help));
        }
    }
}

/// Something found in a page.
#[derive(Clone, Debug)]
pub struct PageProblem {
    /// The byte of the page where it is; none where it is about the page as a whole.
    pub at: Option<usize>,
    /// Where it is, if that is known without the byte.
    pub place: Option<Place>,
    /// What is wrong.
    pub message: String,
    /// What to do.
    pub help: String,
    /// The address that is a broken link, where that is what is wrong.
    pub lost: Option<String>,
    /// The address of a menu's item, where that is what is wrong: it counts only where it is written out.
    pub of_menu: Option<String>,
    /// Whether it counts only where a template writes it out, and not in HTML that is a value.
    pub of_template: bool,
}

impl PageProblem {
    /// Something at a byte of the page, or about the page as a whole.
    pub fn at(at: Option<usize>, message: impl Into<String>, help: impl Into<String>) -> Self {
        let (message, help) = (message.into(), help.into());
        Self { at, place: None, message, help, lost: None, of_menu: None, of_template: false }
    }
}
