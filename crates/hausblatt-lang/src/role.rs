//! What a file is.

/// What a file is, as far as the language has to know.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Role {
    /// Renders a request; fills outside a call are its layout's.
    Template,
    /// Stands around a template's output; may fill a layout around it.
    Layout,
    /// Is called by name.
    Partial,
    /// Is called by name, and placed by content.
    Component,
    /// Computes values before a template runs.
    Prepare,
}

impl Role {
    /// Whether it gets values from the files that call or extend it.
    pub(crate) fn is_called(self) -> bool {
        matches!(self, Role::Partial | Role::Layout | Role::Component)
    }
}
