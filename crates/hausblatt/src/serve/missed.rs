//! Addresses that were requested but not found, and how often.

use std::collections::BTreeMap;
use std::sync::{Mutex, PoisonError};

/// How many different addresses are kept.
const MOST: usize = 1000;
/// How long an address may be that is kept, in bytes.
const LONGEST: usize = 500;

/// What was requested but not found since the server started.
#[derive(Debug, Default)]
pub struct Missed(Mutex<BTreeMap<String, u64>>);

impl Missed {
    /// Counts one request for an address at which nothing is.
    pub fn count(&self, address: &str) {
        if address.len() > LONGEST {
            return;
        }
        let mut missed = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        if let Some(count) = missed.get_mut(address) {
            *count += 1;
        } else if missed.len() < MOST {
            missed.insert(address.to_owned(), 1);
        }
    }

    /// All of them with how often each was requested, the most frequent first.
    pub fn all(&self) -> Vec<(String, u64)> {
        let missed = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        let mut all: Vec<(String, u64)> = missed.iter().map(|(address, count)| (address.clone(), *count)).collect();
        all.sort_by(|a, b| b.1.cmp(&a.1).then_with(|| a.0.cmp(&b.0)));
        all
    }

    /// Forgets those at which something is by now.
    pub fn forget(&self, is_there: impl Fn(&str) -> bool) {
        self.0.lock().unwrap_or_else(PoisonError::into_inner).retain(|address, _| !is_there(address));
    }

    /// Forgets them.
    pub fn clear(&self) {
        self.0.lock().unwrap_or_else(PoisonError::into_inner).clear();
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn counts_within_bounds() {
        let missed = Missed::default();
        for at in 0..MOST + 10 {
            missed.count(&format!("/{at:05}/"));
        }
        missed.count("/00007/");
        missed.count(&"/x".repeat(LONGEST));
        let all = missed.all();
        assert_eq!((all.len(), &all[0], &all[1]), (MOST, &("/00007/".to_owned(), 2), &("/00000/".to_owned(), 1)));
        missed.forget(|address| address < "/00990/");
        assert_eq!(missed.all().len(), 10);
        missed.clear();
        assert_eq!(missed.all(), []);
    }
}
