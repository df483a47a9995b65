//! The program as users meet it: the built binary, run on files in a temporary folder. A file for each question.

#![allow(clippy::unwrap_used, clippy::panic, clippy::expect_used)]

#[path = "../support/mod.rs"]
mod support;

mod answers;
mod build;
mod charting;
mod checking;
mod choosing;
mod demo;
mod documents;
mod drifting;
mod editor;
mod editor_views;
mod expecting;
mod fresh;
mod help;
mod images;
mod keeping;
mod layers;
mod looking;
mod lsp_client;
mod moving;
mod needing;
mod overriding;
mod packing;
mod placing;
mod problems;
mod reaching;
mod refactoring;
mod rehearsing;
mod resolve;
mod serving;
mod setting;
mod sites;
mod starting;
mod supposing;
mod understanding;
mod undoing;
mod walkthroughs;
mod writing;
