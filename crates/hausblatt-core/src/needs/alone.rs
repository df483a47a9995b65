//! Themes against an empty site, and against one that is made up: what a site's owner would meet.

use std::collections::BTreeMap;

use crate::check::{Finding, MISSING_NEEDS, Scope, run};
use crate::needs::made_up::{made_up_site, with};
use crate::schema::config;
use crate::world::{Unloadable, World};

/// What is wrong with themes alone.
pub struct Alone {
    /// The empty site, for the texts of what was found there.
    pub empty: World,
    /// What is wrong there beside what the themes say that they need.
    pub in_empty: Vec<Finding>,
    /// The made-up site.
    pub made_up: World,
    /// What is wrong there and not in the empty site.
    pub in_made_up: Vec<Finding>,
}

/// Checks the lineage of a World without its site.
///
/// # Errors
/// Why no site can be loaded with these themes.
pub fn alone(world: &World) -> Result<Alone, Unloadable> {
    let bare = format!(
        "[site]\ntitle = \"An empty site\"\ntheme = {}\n",
        toml_edit::Value::from(world.lineage.active().name.as_str())
    );
    let files = BTreeMap::from([(config::FILE.to_owned(), bare)]);
    let mut asking = world.asking.clone();
    asking.theme = None;
    let empty = World::load(with(world, &files).keeping(|node| !node.path.starts_with("media/")), asking.clone())?;
    let made_up = World::load(with(world, &made_up_site(world)?), asking)?;
    let in_themes = |world: &World| -> Vec<Finding> {
        let found = run(world, &Scope::Whole, &|_, _| {});
        let is_of_theme = |finding: &Finding| {
            let place = finding.diagnostic.place.as_ref();
            place.is_none_or(|place| place.path.starts_with("themes/"))
        };
        found.into_iter().filter(is_of_theme).collect()
    };
    let mut in_empty = in_themes(&empty);
    in_empty.retain(|finding| finding.diagnostic.code != MISSING_NEEDS.code.name);
    // What is wrong in both is said once.
    let is_same = |a: &Finding, b: &Finding| {
        let key = |it: &Finding| (it.diagnostic.code, it.diagnostic.place.clone(), it.diagnostic.message.clone());
        key(a) == key(b)
    };
    let mut in_made_up = in_themes(&made_up);
    in_made_up.retain(|finding| !in_empty.iter().any(|known| is_same(known, finding)));
    Ok(Alone { empty, in_empty, made_up, in_made_up })
}
