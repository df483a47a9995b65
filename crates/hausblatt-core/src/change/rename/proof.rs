//! What a renaming does to the output: both sides rendered and compared, before anything is written.

use std::collections::{BTreeMap, BTreeSet};
use std::sync::atomic::Ordering;

use aho_corasick::{AhoCorasick, MatchKind};
use bumpalo::Bump;
use hausblatt_lang::render::given_up;
use hausblatt_lang::text::diagnostic::Diagnostic;
use rayon::prelude::*;

use crate::analysis::compare::{AddressChange, Html, Side, answer_text, compare, sides};
use crate::change::rename::collect::NewName;
use crate::text::address::encoded;
use crate::text::addresses_in_text::without_versions;
use crate::themes::file_name::Role;
use crate::threads::PAGES;
use crate::world::World;

/// How many addresses are rendered on both sides; of more, so many that lie evenly among them.
pub const MOST_RENDERED: usize = 1000;

/// What a renaming does to the output.
#[derive(Clone, Debug, Default)]
pub struct Proof {
    /// How many addresses were rendered on both sides.
    pub rendered: usize,
    /// In how many themes any was.
    pub themes: usize,
    /// How many addresses it could have an effect on.
    pub concerned: usize,
    /// The addresses whose output differs in that it shows the new name.
    pub shows_name: Vec<String>,
    /// The addresses whose output differs otherwise.
    pub differ: Vec<String>,
    /// The addresses whose pages would lead to an address that ends.
    pub lost: Vec<String>,
    /// The addresses that are answered by another file, or with another status.
    pub changed: Vec<AddressChange>,
    /// What would be wrong, and is not now.
    pub problems: Vec<Diagnostic>,
}

/// What is renamed, as far as answers show it.
#[derive(Clone, Debug, Default)]
pub(super) struct Renamed {
    /// How its name may be printed, before and after.
    pub printed: Vec<(String, String)>,
    /// Templates, by their names.
    pub templates: BTreeMap<String, String>,
    /// Layouts, by their names.
    pub layouts: BTreeMap<String, String>,
    /// Themes, by their names.
    pub themes: BTreeMap<String, String>,
    /// The themes that templates are in, by the templates' names.
    pub theme_of: BTreeMap<String, String>,
    /// Addresses, decoded.
    pub addresses: BTreeMap<String, String>,
    /// Addresses that end: nothing may lead to them afterwards.
    pub ended: BTreeSet<String>,
    /// Whether any address may be concerned, and not only those that use the files.
    pub all: bool,
}

impl Renamed {
    /// What the renaming of a theme file shows.
    pub fn of_file(name: &NewName) -> Self {
        let stem = |text: &str| text.rsplit_once('.').map_or(text.to_owned(), |(stem, _)| stem.to_owned());
        let pair = (name.from.clone(), name.to.clone());
        let mut renamed = Self::default();
        match name.role {
            Role::Template => {
                renamed.printed.push((stem(&name.from), stem(&name.to)));
                renamed.templates.extend([pair]);
            }
            Role::Layout => {
                renamed.printed.push(pair.clone());
                renamed.layouts.extend([pair]);
            }
            _ => renamed.printed.push(pair),
        }
        renamed.printed.extend(name.offered().map(|(from, to)| (from.to_owned(), to.to_owned())));
        renamed
    }

    /// What may be printed in place of a name, on both sides.
    fn forms(&self) -> Option<AhoCorasick> {
        let forms_of =
            |name: &String| [name.clone(), name.replace('/', "-"), encoded(name), lower_escapes(&encoded(name))];
        let printed = self.printed.iter().flat_map(|(from, to)| [from, to]);
        let maps = self.themes.iter().chain(&self.addresses).flat_map(|(from, to)| [from, to]);
        let mut forms: Vec<String> = printed.chain(maps).flat_map(forms_of).collect();
        let templates = self.templates.iter().flat_map(|(from, to)| [from, to]);
        forms.extend(templates.map(|name| name.rsplit_once('.').map_or(name.clone(), |(stem, _)| stem.to_owned())));
        forms.retain(|form| !form.is_empty());
        forms.sort_unstable();
        forms.dedup();
        // A longer one may have a shorter one in it.
        AhoCorasick::builder().match_kind(MatchKind::LeftmostLongest).build(forms).ok()
    }
}

/// Compares a World with what it would be.
pub(super) fn prove(before: &World, after: &World, name: &Renamed, paths: &BTreeSet<String>, proof: &mut Proof) {
    let renamed = |side: &Option<Side>| {
        let mut side = side.clone()?;
        let of = |own: &mut Option<String>, names: &BTreeMap<String, String>| {
            if let Some(new) = own.as_ref().and_then(|own| names.get(own)) {
                *own = Some(new.clone());
            }
        };
        of(&mut side.template, &name.templates);
        of(&mut side.layout, &name.layouts);
        of(&mut side.theme, &name.themes);
        if let Some(theme) = side.template.as_ref().and_then(|template| name.theme_of.get(template)) {
            side.theme = Some(theme.clone());
        }
        Some(side)
    };
    let new_addresses: BTreeSet<&String> = name.addresses.values().collect();
    let moves = |address: &String| name.addresses.contains_key(address) || new_addresses.contains(address);
    let difference = compare(before, after, Html::No);
    let changed = difference.changed.into_iter().filter(|change| renamed(&change.from) != change.to);
    let changed = changed.filter(|change| !moves(&change.address));
    let moved = match name.addresses.is_empty() {
        true => Vec::new(),
        false => {
            let (old, new) = (sides(before), sides(after));
            let of = |(from, to): (&String, &String)| {
                let (from, to, address) = (old.get(from).cloned(), new.get(to).cloned(), from.clone());
                (renamed(&from) != to).then_some(AddressChange { address, from, to, html: None, diff: None })
            };
            name.addresses.iter().filter_map(of).collect()
        }
    };
    let changed = changed.chain(moved);
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
    if name.all {
        addresses.extend(before.requests().iter().map(|request| request.address.as_str()));
    }
    let forms = name.forms();
    let ended =
        AhoCorasick::builder().match_kind(MatchKind::LeftmostLongest).build(name.ended.iter().map(|one| encoded(one)));
    let ended = ended.ok().filter(|_| !name.ended.is_empty());
    proof.concerned += addresses.len();
    let all: Vec<&str> = addresses.into_iter().collect();
    let step = all.len().div_ceil(MOST_RENDERED).max(1);
    let some: Vec<&str> = all.into_iter().step_by(step).collect();
    proof.rendered += some.len();
    proof.themes += usize::from(!some.is_empty());
    let given_up = given_up();
    let compared: Vec<(&str, Likeness)> = some
        .par_iter()
        .with_max_len(PAGES)
        .map_init(Bump::new, |arena, address| {
            if given_up.as_ref().is_some_and(|given_up| given_up.load(Ordering::Relaxed)) {
                return (*address, Likeness::Same);
            }
            let now = name.addresses.get(*address).map_or(*address, String::as_str);
            (*address, likeness((before, address), (after, now), forms.as_ref(), ended.as_ref(), arena))
        })
        .collect();
    for (address, likeness) in compared {
        let list = match likeness {
            Likeness::Same => continue,
            Likeness::ShowsName => &mut proof.shows_name,
            Likeness::Differs => &mut proof.differ,
            Likeness::Loses => &mut proof.lost,
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
    Loses,
}

fn likeness(
    before: (&World, &str),
    after: (&World, &str),
    forms: Option<&AhoCorasick>,
    ended: Option<&AhoCorasick>,
    arena: &mut Bump,
) -> Likeness {
    let (old, new) = (answer_text(before.0, before.1, arena), answer_text(after.0, after.1, arena));
    let leads_to = |ended: &AhoCorasick| {
        let is_whole = |end: usize| new[end..].starts_with(['"', '\'', '<', '#', '?', ' ']);
        ended.find_iter(&new).any(|found| is_whole(found.end()))
    };
    if ended.is_some_and(leads_to) {
        return Likeness::Loses;
    }
    if old == new {
        return Likeness::Same;
    }
    let bare = |text: &str| without_versions(text).into_owned();
    let (old, new) = (bare(&old), bare(&new));
    // With its name as it was, in whatever is printed, it is the same again.
    let Some(forms) = forms else { return Likeness::Differs };
    let without_name = |text: &str| {
        let mut out = String::with_capacity(text.len());
        forms.replace_all_with(text, &mut out, |_, _, out| {
            out.push('\0');
            true
        });
        out
    };
    let (old, new) = (without_name(&old), without_name(&new));
    // What a sitemap lists is in the order of the addresses.
    let is_sitemap = |text: &str| text.contains("<urlset");
    let sorted = |text: &str| {
        let mut lines: Vec<String> = text.lines().map(str::to_owned).collect();
        lines.sort_unstable();
        lines
    };
    let again = old == new || is_sitemap(&old) && sorted(&old) == sorted(&new);
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
