//! What a change does to the output, as it was found by rendering both sides.

use std::fmt::Write as _;

use hausblatt_core::change::rename::Proof;

use crate::options::Common;
use crate::show::style::plain;
use crate::show::table::{addresses, counted};
use crate::show::wrap;

/// How many addresses were rendered on both sides, and which differ.
pub fn text(proof: &Proof, common: &Common) -> String {
    let mut out = String::new();
    let all = if proof.rendered < proof.concerned { format!(" of {}", proof.concerned) } else { String::new() };
    let sample = if all.is_empty() { "" } else { ", which lie evenly among them" };
    let themes = if proof.themes > 1 { format!(" in {} themes", proof.themes) } else { String::new() };
    let checked = format!("{}{all}{themes}{sample}", counted(proof.rendered, "address", "addresses"));
    if proof.concerned == 0 {
        out.push_str("No address uses it.\n");
    } else if proof.shows_name.is_empty() && proof.differ.is_empty() {
        let _ = writeln!(out, "Rendered before and after: {checked}. All are the same to the byte.");
    } else {
        let _ = writeln!(out, "Rendered before and after: {checked}.");
        let most = if common.verbose { usize::MAX } else { MOST_SHOWN };
        let listed = |list: &[String]| {
            let more = list.len().saturating_sub(most);
            let mut parts: Vec<String> = list.iter().take(most).map(|address| plain(address)).collect();
            parts.extend((more > 0).then(|| format!("{more} more")));
            wrap::list(&parts, 4)
        };
        if !proof.shows_name.is_empty() {
            let verb = if proof.shows_name.len() == 1 { "shows" } else { "show" };
            let how = format!("{} {verb} the new name, and nothing else differs:", addresses(proof.shows_name.len()));
            let _ = writeln!(out, "  {how}\n    {}", listed(&proof.shows_name));
        }
        if !proof.differ.is_empty() {
            let verb = if proof.differ.len() == 1 { "differs" } else { "differ" };
            let _ = writeln!(out, "  {} {verb}:\n    {}", addresses(proof.differ.len()), listed(&proof.differ));
        }
    }
    out
}

/// So many addresses are listed without `-v`.
const MOST_SHOWN: usize = 5;
