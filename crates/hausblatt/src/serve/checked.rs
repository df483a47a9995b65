//! Which addresses have problems, as `check` finds them: found once for each state of the site.

use std::collections::BTreeMap;
use std::sync::{Arc, Mutex, PoisonError};

use hausblatt_core::check::{self, Scope};
use hausblatt_core::world::World;

use crate::serve::live::Moment;

/// Addresses with problems; whether one of these is an error.
type Wrong = Arc<BTreeMap<String, bool>>;

/// What was found last.
#[derive(Default)]
pub struct Checked(Mutex<Option<(u64, Wrong)>>);

impl Checked {
    /// The addresses that have problems now.
    pub fn of(&self, moment: &Moment, world: &World) -> Wrong {
        let mut kept = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        if let Some((_, wrong)) = kept.as_ref().filter(|(generation, _)| *generation == moment.generation) {
            return wrong.clone();
        }
        let mut wrong: BTreeMap<String, bool> = BTreeMap::new();
        for finding in check::run(world, &Scope::Whole, &|_, _| {}) {
            for address in &finding.addresses {
                let worst = wrong.entry(address.clone()).or_default();
                *worst |= finding.diagnostic.is_error();
            }
        }
        let wrong = Arc::new(wrong);
        *kept = Some((moment.generation, wrong.clone()));
        wrong
    }
}
