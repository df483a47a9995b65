//! The names of theme files: paths from the theme's root, and what they say about the files.

use std::fmt::{self, Display, Formatter};
use std::ops::Deref;

use hausblatt_lang::text::ending::Ending;

/// What a theme file is for, by the folder that it is in.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Role {
    /// `templates/`
    Template,
    /// `partials/`
    Partial,
    /// `layouts/`
    Layout,
    /// `components/`, the file that is rendered
    Component,
    /// `prepare/`
    Prepare,
    /// `assets/`
    Asset,
    /// Any other.
    Other,
}

impl Role {
    /// The words for it.
    pub fn word(self) -> &'static str {
        match self {
            Role::Template => "template",
            Role::Partial => "partial",
            Role::Layout => "layout",
            Role::Component => "component",
            Role::Prepare => "prepare file",
            Role::Asset => "asset",
            Role::Other => "other file",
        }
    }
}

/// Whether a path of a site is that of a theme file that prints and does nothing else.
pub fn only_prints(path: &str) -> bool {
    let name = path.strip_prefix("themes/").and_then(|rest| rest.split_once('/')).map(|(_, name)| name);
    let role = name.map(|name| ThemeFileName::new(name).role());
    matches!(role, Some(Role::Template | Role::Partial | Role::Layout | Role::Component))
}

/// A theme file's path from the theme's root: `templates/entry/varieties.html`.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct ThemeFileName(Box<str>);

impl ThemeFileName {
    /// The name with this path.
    pub fn new(path: &str) -> Self {
        Self(path.into())
    }

    /// The path.
    pub fn as_str(&self) -> &str {
        &self.0
    }

    /// What such a file is for.
    pub fn role(&self) -> Role {
        let ending = Ending::split(&self.0);
        match self.0.split('/').next() {
            Some("templates") if ending.is_some() => Role::Template,
            Some("partials") if ending.is_some() => Role::Partial,
            Some("layouts") if self.0.ends_with(".html") => Role::Layout,
            Some("components") if ending.is_some_and(|(stem, _)| stem.ends_with("/component")) => Role::Component,
            Some("prepare") if self.0.ends_with(".let") => Role::Prepare,
            Some("assets") => Role::Asset,
            _ => Role::Other,
        }
    }

    /// The name below `templates/`, as it is on ladders: `entry/varieties.html`.
    pub fn template(&self) -> Option<&str> {
        self.0.strip_prefix("templates/")
    }

    /// The name of an offered template, as content chooses it; none where the file does not end in `.html`.
    pub fn offered(&self) -> Option<&str> {
        self.0.strip_prefix("templates/offered/")?.strip_suffix(".html")
    }

    /// Whether it is in the folder of offered templates.
    pub(crate) fn is_in_offered(&self) -> bool {
        self.0.starts_with("templates/offered/")
    }

    /// The name of a partial, as calls write it, and its format.
    pub fn partial(&self) -> Option<(&str, Ending)> {
        Ending::split(self.0.strip_prefix("partials/")?)
    }

    /// The name of a layout, as templates ask for it.
    pub fn layout(&self) -> Option<&str> {
        self.0.strip_prefix("layouts/")?.strip_suffix(".html")
    }

    /// The component that the file belongs to, whatever its part in it.
    pub fn component(&self) -> Option<&str> {
        let (component, _) = self.0.strip_prefix("components/")?.rsplit_once('/')?;
        Some(component)
    }

    /// The kind of request that a prepare file runs for.
    pub fn prepare(&self) -> Option<&str> {
        self.0.strip_prefix("prepare/")?.strip_suffix(".let")
    }

    /// The name of an asset, as `use` and `asset()` write it.
    pub fn asset(&self) -> Option<&str> {
        self.0.strip_prefix("assets/")
    }
}

impl Deref for ThemeFileName {
    type Target = str;

    fn deref(&self) -> &str {
        &self.0
    }
}

impl Display for ThemeFileName {
    fn fmt(&self, out: &mut Formatter<'_>) -> fmt::Result {
        out.write_str(&self.0)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn names_say_what_files_are() {
        for (path, role) in [
            ("templates/page.html", Role::Template),
            ("templates/listing.xml", Role::Template),
            ("templates/page.md", Role::Other),
            ("partials/card/wide.html", Role::Partial),
            ("layouts/document.html", Role::Layout),
            ("layouts/document.xml", Role::Other),
            ("components/quote/component.html", Role::Component),
            ("components/quote/component.toml", Role::Other),
            ("prepare/all.let", Role::Prepare),
            ("assets/main.css", Role::Asset),
            ("hausblatt-theme.toml", Role::Other),
        ] {
            assert_eq!(ThemeFileName::new(path).role(), role, "{path}");
        }
        let name = ThemeFileName::new("templates/offered/wide.html");
        assert_eq!((name.template(), name.offered()), (Some("offered/wide.html"), Some("wide")));
        assert_eq!(ThemeFileName::new("templates/offered/wide.htm").offered(), None);
        assert_eq!(ThemeFileName::new("partials/card/wide.html").partial(), Some(("card/wide", Ending::Html)));
        assert_eq!(ThemeFileName::new("components/quote/style.css").component(), Some("quote"));
        assert_eq!(ThemeFileName::new("components/quote.html").component(), None);
        assert_eq!(ThemeFileName::new("prepare/all.let").prepare(), Some("all"));
        assert_eq!(ThemeFileName::new("assets/a/b.css").asset(), Some("a/b.css"));
        assert_eq!(ThemeFileName::new("layouts/document.html").layout(), Some("document"));
    }
}
