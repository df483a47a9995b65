//! Former addresses written into the content that they were.

use std::collections::BTreeMap;

use hausblatt_lang::text::diagnostic::Diagnostic;

use crate::analysis::missed::Missed;
use crate::change::changes::without_new_problems;
use crate::files::edit::Write;
use crate::files::front_matter_edit::{text_of, with_former};
use crate::model::content::ContentId;
use crate::text::data::yaml;
use crate::world::World;

/// The line of front matter that leads visitors on.
pub fn line(address: &str) -> String {
    format!("formerly: {}", yaml(address))
}

/// What would write the former addresses into the content that they were, and nothing else.
///
/// # Errors
/// Content whose front matter can't be changed by machine, each with its addresses.
pub fn fixes(world: &World, missed: &[Missed]) -> (Vec<Write>, Vec<Diagnostic>) {
    let (writes, mut problems) = edits(world, missed);
    let (writes, new) = without_new_problems(world, writes);
    problems.extend(new);
    (writes, problems)
}

fn edits(world: &World, missed: &[Missed]) -> (Vec<Write>, Vec<Diagnostic>) {
    let mut of_content: BTreeMap<ContentId, Vec<&str>> = BTreeMap::new();
    for Missed { address, meant, .. } in missed {
        if let Some(id) = meant {
            of_content.entry(*id).or_default().push(address);
        }
    }
    let (mut writes, mut problems) = (Vec::new(), Vec::new());
    for (id, addresses) in of_content {
        let node = &world.site.content(id).node;
        let edited = text_of(node).and_then(|text| Ok((with_former(&text, &addresses)?, text)));
        match edited {
            Ok((edited, text)) => writes.push(Write::instead_of(&*node.path, text.as_bytes(), edited)),
            Err(problem) => problems.push(match problem.place {
                Some(_) => problem,
                None => problem.at(&node.path, Default::default()),
            }),
        }
    }
    (writes, problems)
}
