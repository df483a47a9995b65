//! Commands that change a theme, and keep its pages: each works out the change as a whole and renders both sides first.

pub mod extend;
pub mod extract;
pub mod moving;
pub mod neaten;
pub mod rename;
