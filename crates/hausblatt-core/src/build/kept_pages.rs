//! What the pages of a build depended on, as its record keeps it: a page of which all of that is as it was is not made
//! again. A digest is compared with a digest; nothing here decides by names what may be affected.

use std::sync::{Arc, Mutex, OnceLock, PoisonError};

use hausblatt_lang::value::dependencies::{Dependencies, Dependency};
use rustc_hash::FxHashMap;
use serde::{Deserialize, Serialize};
use xxhash_rust::xxh3::Xxh3;

use crate::model::content::ContentId;
use crate::model::dependencies::SitePart;
use crate::model::request::Request;
use crate::render::dependencies::{Digests, NamedDependency, NumberedDependency, OWN, named};
use crate::world::World;

/// What a page was made of.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub(crate) struct MadeOf {
    /// The number of the set of what it depended on.
    set: u32,
    /// The digest of that set, and of its request.
    digest: u64,
    /// The paths of the made images that it names.
    pub(super) images: Box<[Box<str>]>,
}

/// What pages depended on, each thing and each set of things once.
#[derive(Clone, Debug, Default, Serialize, Deserialize)]
pub(crate) struct KeptDependencies {
    things: Vec<NamedDependency>,
    sets: Vec<Box<[u32]>>,
}

/// A set.
struct KnownSet {
    things: Box<[u32]>,
    /// What is in it of each page's own content.
    own: Box<[SitePart]>,
    /// The digest of the other things in it.
    digest: OnceLock<u64>,
}

impl KnownSet {
    fn new<'n>(things: Box<[u32]>, named: impl Fn(u32) -> Option<&'n NamedDependency>) -> Self {
        let own = things.iter().filter_map(|&thing| of_own(named(thing)?)).collect();
        Self { things, own, digest: OnceLock::new() }
    }

    /// What is the same for sets of the same things.
    fn key(&self) -> Box<[u32]> {
        let mut key = self.things.clone();
        key.sort_unstable();
        key
    }
}

/// What a dependency is of a page's own content, if it is.
fn of_own(named: &NamedDependency) -> Option<SitePart> {
    match named {
        NamedDependency::Site(sort, name) if name.is_empty() => SitePart::of(*sort).filter(|sort| sort.is_of_content()),
        _ => None,
    }
}

/// The same dependency, with what it has of a page's own content as such.
fn of_page(dependency: Dependency, own: Option<ContentId>) -> Dependency {
    match dependency {
        Dependency::Site(sort, number, 0)
            if own == Some(ContentId(number)) && SitePart::of(sort).is_some_and(SitePart::is_of_content) =>
        {
            Dependency::Site(sort, OWN, 0)
        }
        _ => dependency,
    }
}

fn number_of(at: usize) -> u32 {
    u32::try_from(at).unwrap_or(u32::MAX)
}

struct Thing {
    named: NamedDependency,
    digest: OnceLock<u64>,
}

/// The dependencies of an earlier build and of the one under way, in one state of the site.
pub(crate) struct PageDependencies<'w> {
    world: &'w World,
    digests: Digests<'w>,
    /// The sort of dependencies that are taken for unchanged, if any is.
    blind: String,
    /// Whether a file that uses the day's date has this number.
    reads_today: Vec<bool>,
    earlier: Vec<Thing>,
    earlier_sets: Vec<Arc<KnownSet>>,
    own: Mutex<OwnDependencies>,
}

/// Those of the build under way; the numbers of things and sets go on from those of the earlier one.
#[derive(Default)]
struct OwnDependencies {
    numbers: FxHashMap<NamedDependency, u32>,
    things: Vec<NamedDependency>,
    set_numbers: FxHashMap<Box<[u32]>, u32>,
    sets: Vec<Arc<KnownSet>>,
    /// The digests of its own things.
    digests: Vec<u64>,
}

impl<'w> PageDependencies<'w> {
    /// Those of a build that makes pages in a way with this digest, after one that has left these.
    pub(crate) fn new(world: &'w World, way: u64, earlier: &KeptDependencies, blind: String) -> Self {
        let today = world.globals.find("today").map(|(number, _)| number);
        let reads = |unit: &hausblatt_lang::library::Unit| {
            unit.program.as_ref().zip(today).is_some_and(|(program, today)| program.globals_read.contains(&today))
        };
        let thing = |named: &NamedDependency| Thing { named: named.clone(), digest: OnceLock::new() };
        Self {
            world,
            digests: Digests::new(world, way),
            blind,
            reads_today: world.library.units.iter().map(reads).collect(),
            earlier: earlier.things.iter().map(thing).collect(),
            earlier_sets: earlier
                .sets
                .iter()
                .map(|set| Arc::new(KnownSet::new(set.clone(), |thing| earlier.things.get(thing as usize))))
                .collect(),
            own: Mutex::default(),
        }
    }

    /// A digest of all that pages may depend on but for what content says: the configuration, all files of the lineage,
    /// addresses, menus and tables.
    pub(crate) fn everything_but_content(&self) -> u64 {
        self.digests.of_all_but_content()
    }

    /// Whether the answer to a request, made of this, would be made the same now.
    pub(crate) fn holds(&self, made_of: &MadeOf, request: &Request) -> bool {
        let Some(set) = self.earlier_sets.get(made_of.set as usize) else { return false };
        let (of_request, own) = self.digests.of_request(request);
        self.page_digest(set, of_request, own, |thing| self.earlier_digest(thing)) == Some(made_of.digest)
    }

    /// What the answer to a request was made of, which depended on this; none where that can't be said.
    pub(crate) fn made_of(
        &self,
        request: &Request,
        dependencies: &Dependencies,
        images: &[Box<str>],
    ) -> Option<MadeOf> {
        if dependencies.is_cut {
            return None;
        }
        let (of_request, own) = self.digests.of_request(request);
        let mut all = Vec::with_capacity(dependencies.all.len() + 1);
        let mut reads_today = false;
        for &dependency in &dependencies.all {
            if let Dependency::File(unit) = dependency {
                reads_today |= self.reads_today.get(unit as usize).is_some_and(|reads| *reads);
            }
            all.push(named(self.world, of_page(dependency, own), dependencies)?);
        }
        if reads_today {
            all.push(NamedDependency::Today);
        }
        let (number, set) = self.set_of(all);
        let earlier = self.earlier.len();
        let digest = self.page_digest(&set, of_request, own, |thing| match (thing as usize).checked_sub(earlier) {
            None => self.earlier_digest(thing),
            Some(at) => self.lock().digests.get(at).copied(),
        })?;
        Some(MadeOf { set: number, digest, images: images.into() })
    }

    /// All that the build has left, with the numbers of sets in it changed to what they are there.
    pub(crate) fn kept<'m>(&self, all: impl Iterator<Item = &'m mut MadeOf>) -> KeptDependencies {
        let own = self.lock();
        let (mut kept, mut sets, mut things) =
            (KeptDependencies::default(), FxHashMap::default(), FxHashMap::default());
        for made_of in all {
            let number = made_of.set;
            made_of.set = *sets.entry(number).or_insert_with(|| {
                let members = self.set_at(&own, number).into_iter().flat_map(|set| &*set.things).map(|&thing| {
                    *things.entry(thing).or_insert_with(|| {
                        kept.things.extend(self.thing_at(&own, thing).cloned());
                        number_of(kept.things.len() - 1)
                    })
                });
                kept.sets.push(members.collect());
                number_of(kept.sets.len() - 1)
            });
        }
        kept
    }

    fn lock(&self) -> std::sync::MutexGuard<'_, OwnDependencies> {
        self.own.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// The set of these things, and its number.
    fn set_of(&self, all: Vec<NamedDependency>) -> (u32, Arc<KnownSet>) {
        let mut own = self.lock();
        if own.numbers.is_empty() {
            own.numbers = self.earlier.iter().zip(0..).map(|(thing, number)| (thing.named.clone(), number)).collect();
            own.set_numbers = self.earlier_sets.iter().zip(0..).map(|(set, number)| (set.key(), number)).collect();
        }
        let mut things = Vec::with_capacity(all.len());
        for named in all {
            let number = match own.numbers.get(&named) {
                Some(number) => *number,
                None => {
                    let number = number_of(self.earlier.len() + own.things.len());
                    let digest = self.digest_of(&named);
                    own.digests.push(digest);
                    own.things.push(named.clone());
                    own.numbers.insert(named, number);
                    number
                }
            };
            things.push(number);
        }
        let set = Arc::new(KnownSet::new(things.into(), |thing| self.thing_at(&own, thing)));
        // In which order things were read says nothing about what they are.
        let key = set.key();
        if let Some(&number) = own.set_numbers.get(&key)
            && let Some(known) = self.set_at(&own, number)
        {
            return (number, known.clone());
        }
        let number = number_of(self.earlier_sets.len() + own.sets.len());
        own.sets.push(set.clone());
        own.set_numbers.insert(key, number);
        (number, set)
    }

    fn set_at<'s>(&'s self, own: &'s OwnDependencies, number: u32) -> Option<&'s Arc<KnownSet>> {
        let number = number as usize;
        self.earlier_sets.get(number).or_else(|| own.sets.get(number.checked_sub(self.earlier_sets.len())?))
    }

    fn thing_at<'s>(&'s self, own: &'s OwnDependencies, number: u32) -> Option<&'s NamedDependency> {
        let (number, earlier) = (number as usize, self.earlier.len());
        self.earlier.get(number).map(|thing| &thing.named).or_else(|| own.things.get(number.checked_sub(earlier)?))
    }

    fn earlier_digest(&self, thing: u32) -> Option<u64> {
        let thing = self.earlier.get(thing as usize)?;
        Some(*thing.digest.get_or_init(|| self.digest_of(&thing.named)))
    }

    fn digest_of(&self, thing: &NamedDependency) -> u64 {
        if !self.blind.is_empty() && thing.sort() == self.blind {
            return 1;
        }
        self.digests.numbered(thing).map_or(0, |numbered| self.digests.of(&numbered, None))
    }

    /// The digest of a page: of its request, of what it has in common with other pages, and of what it has not.
    fn page_digest(
        &self,
        set: &KnownSet,
        of_request: u64,
        own: Option<ContentId>,
        digest_of: impl Fn(u32) -> Option<u64>,
    ) -> Option<u64> {
        let common = match set.digest.get() {
            Some(known) => *known,
            None => {
                let mut all = Xxh3::new();
                for &thing in &set.things {
                    all.update(&digest_of(thing)?.to_le_bytes());
                }
                *set.digest.get_or_init(|| all.digest())
            }
        };
        let mut all = Xxh3::new();
        let of_request = if self.blind == "Request" { 1 } else { of_request };
        all.update(&of_request.to_le_bytes());
        all.update(&common.to_le_bytes());
        for &sort in set.own.iter().filter(|sort| self.blind.is_empty() || format!("{sort:?}") != self.blind) {
            all.update(&self.digests.of(&NumberedDependency::Site(sort, OWN, 0), own).to_le_bytes());
        }
        Some(all.digest())
    }
}
