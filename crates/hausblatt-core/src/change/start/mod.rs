//! Beginnings: files that work at once, for a site, a theme, a template, a partial, a component, a page, an entry.

mod scaffold;
mod site;
mod texts;

pub use scaffold::*;
