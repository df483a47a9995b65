//! The badge: a script at the end of a page, which shows what made the page and keeps it up to date.

use hausblatt_lang::html::body_end;

use crate::html::Markup;
use crate::put;
use crate::serve::answers::{By, MadePage};
use crate::serve::reload::Shown;

/// The script.
pub const SCRIPT: &str = include_str!("badge.js");

/// Puts the badge into a page for a browser.
pub fn add(made: &mut MadePage, shown: Shown, address: &str) {
    match made.by.clone() {
        By::Template(name, theme) => put_in(made, shown, address, Some((&name, &theme))),
        // What the program itself has to say needs no explanation.
        By::BuiltIn("problems" | "component") => put_in(made, shown, address, None),
        By::BuiltIn(what) => put_in(made, shown, address, Some((what, ""))),
    }
}

/// Keeps a page up to date without showing anything on it.
pub fn add_quietly(made: &mut MadePage, shown: Shown, address: &str) {
    put_in(made, shown, address, None);
}

fn put_in(made: &mut MadePage, shown: Shown, address: &str, by: Option<(&str, &str)>) {
    let mut script = Markup::new();
    put!(
        script,
        "<script src=\"/~/badge.js\" defer data-address=\"{}\" data-shown=\"{}\" data-status=\"{}\" data-problems=\"{}\"",
        address,
        shown.to_string(),
        made.status,
        made.problems
    );
    match by {
        Some((template, theme)) => put!(script, " data-template=\"{}\" data-theme=\"{}\"", template, theme),
        None => put!(script, " data-quiet"),
    }
    put!(script, "></script>\n");
    let at = body_end(&made.text);
    made.text.insert_str(at, &script.into_text());
}
