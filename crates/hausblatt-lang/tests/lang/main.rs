//! The language on its own: templates, and what comes of them. A file for each question.

#![allow(clippy::unwrap_used, clippy::panic, clippy::expect_used)]

#[path = "../support/hostile.rs"]
mod hostile;
#[path = "../support/structure.rs"]
mod structure;
#[path = "../support/mod.rs"]
mod support;

mod balance;
mod calls;
mod compositions;
mod costs;
mod cutting;
mod escaping;
mod flowing;
mod language;
mod lines;
mod neat;
mod parsing;
mod places;
mod problems;
mod reading_back;
mod slips;
