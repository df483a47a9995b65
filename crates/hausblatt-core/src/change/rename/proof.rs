//! What a renaming does to the output: both sides rendered and compared, before anything is written.

use std::cmp::Reverse;
use std::collections::{BTreeMap, BTreeSet};

use bumpalo::Bump;
use hausblatt_lang::text::diagnostic::Diagnostic;
use rayon::prelude::*;

use crate::analysis::compare::{AddressChange, Html, Side, answer_text, compare};
use crate::change::rename::collect::NewName;
use crate::text::address::encoded;
use crate::text::addresses_in_text::without_versions;
use crate::themes::file_name::Role;
use crate::world::World;

/// How many addresses are rendered on both sides; of more, so many that lie evenly among them.
pub const MOST_RENDERED: usize = 1000;

/// What a renaming does to the output.
#[derive(Clone, Debug, Default)]
pub struct Proof {
    /// How many addresses were rendered on both sides.
    pub rendered: usize,
    /// How many addresses it could have an effect on.
    pub concerned: usize,
    /// The addresses whose output differs in that it shows the new name.
    pub shows_name: Vec<String>,
    /// The addresses whose output differs otherwise.
    pub differ: Vec<String>,
    /// The addresses that are answered by another file, or with another status.
    pub changed: Vec<AddressChange>,
    /// What would be wrong, and is not now.
    pub problems: Vec<Diagnostic>,
}

/// Compares a World with what it would be.
pub(super) fn prove(before: &World, after: &World, name: &NewName, paths: &BTreeSet<String>, proof: &mut Proof) {
    let renamed = |side: &Option<Side>| {
        let mut side = side.clone()?;
        let of = |own: &mut Option<String>, role: Role| {
            if name.role == role && own.as_deref() == Some(&name.from) {
                *own = Some(name.to.clone());
            }
        };
        of(&mut side.template, Role::Template);
        of(&mut side.layout, Role::Layout);
        Some(side)
    };
    let difference = compare(before, after, Html::No);
    let changed = difference.changed.into_iter().filter(|change| renamed(&change.from) != change.to);
    for change in changed {
        if !proof.changed.iter().any(|known| known.address == change.address) {
            proof.changed.push(change);
        }
    }
    // What was wrong before may have another name in it now.
    let mut known: BTreeMap<&str, usize> = BTreeMap::new();
    before.problems.iter().for_each(|one| *known.entry(one.code).or_default() += 1);
    for problem in difference.problems.into_iter().map(|problem| problem.diagnostic) {
        let count = |world: &World| world.problems.iter().filter(|one| one.code == problem.code).count();
        let is_new = count(after) > known.get(problem.code).copied().unwrap_or(0) || count(after) == 0;
        if is_new && !proof.problems.contains(&problem) {
            proof.problems.push(problem);
        }
    }
    let files = before.lineage.ids().filter(|(_, file)| paths.contains(&*file.node.path));
    let mut addresses: BTreeSet<&str> = BTreeSet::new();
    for (id, _) in files {
        addresses.extend(before.reach(id).map(|(request, _)| request.address.as_str()));
    }
    let contents = before.site.contents.iter().filter(|content| paths.contains(&**content.path()));
    addresses.extend(contents.filter_map(|content| content.address.as_deref()));
    proof.concerned += addresses.len();
    let all: Vec<&str> = addresses.into_iter().collect();
    let step = all.len().div_ceil(MOST_RENDERED).max(1);
    let some: Vec<&str> = all.into_iter().step_by(step).collect();
    proof.rendered += some.len();
    let compared: Vec<(&str, Likeness)> = some
        .par_iter()
        .map_init(Bump::new, |arena, address| (*address, likeness(before, after, name, address, arena)))
        .collect();
    for (address, likeness) in compared {
        let list = match likeness {
            Likeness::Same => continue,
            Likeness::ShowsName => &mut proof.shows_name,
            Likeness::Differs => &mut proof.differ,
        };
        if !list.iter().any(|known| known == address) {
            list.push(address.to_owned());
        }
    }
}

enum Likeness {
    Same,
    ShowsName,
    Differs,
}

fn likeness(before: &World, after: &World, name: &NewName, address: &str, arena: &mut Bump) -> Likeness {
    let (old, new) = (answer_text(before, address, arena), answer_text(after, address, arena));
    if old == new {
        return Likeness::Same;
    }
    let bare = |text: &str| without_versions(text).into_owned();
    let (old, new) = (bare(&old), bare(&new));
    // With its name as it was, in whatever is printed, it is the same again.
    let stem = |text: &str| text.rsplit_once('.').map_or(text.to_owned(), |(stem, _)| stem.to_owned());
    let (from, to) = match name.role {
        Role::Template => (stem(&name.from), stem(&name.to)),
        _ => (name.from.clone(), name.to.clone()),
    };
    let forms_of = |name: &String| [name.clone(), name.replace('/', "-"), encoded(name), lower_escapes(&encoded(name))];
    let mut forms: Vec<String> = [&from, &to].into_iter().flat_map(forms_of).collect();
    forms.extend(name.offered().into_iter().flat_map(|(from, to)| [from.to_owned(), to.to_owned()]));
    // A longer one may have a shorter one in it.
    forms.sort_by_key(|form| Reverse(form.len()));
    let without_name = |text: String| forms.iter().fold(text, |text, form| text.replace(form, "\0"));
    let again = without_name(old) == without_name(new);
    if again { Likeness::ShowsName } else { Likeness::Differs }
}

/// An address whose escapes are written with small letters.
fn lower_escapes(address: &str) -> String {
    let mut parts = address.split('%');
    let first = parts.next().unwrap_or("").to_owned();
    parts.fold(first, |all, part| match part.split_at_checked(2) {
        Some((digits, rest)) => format!("{all}%{}{rest}", digits.to_ascii_lowercase()),
        None => format!("{all}%{part}"),
    })
}
