//! The endings of files, which decide what is escaped and how.

/// What a file is written in.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
pub enum Ending {
    /// `.html`
    #[default]
    Html,
    /// `.xml`
    Xml,
    /// `.json`
    Json,
    /// `.txt`
    Text,
}

impl Ending {
    /// All of them.
    pub const ALL: [Ending; 4] = [Ending::Html, Ending::Xml, Ending::Json, Ending::Text];

    /// The extension as it is written, without its dot.
    pub fn word(self) -> &'static str {
        match self {
            Ending::Html => "html",
            Ending::Xml => "xml",
            Ending::Json => "json",
            Ending::Text => "txt",
        }
    }

    /// A file's name without its extension, and what that is, if it is one of these.
    pub fn split(name: &str) -> Option<(&str, Ending)> {
        let (stem, word) = name.rsplit_once('.')?;
        Ending::ALL.into_iter().find(|ending| ending.word() == word).map(|ending| (stem, ending))
    }
}
