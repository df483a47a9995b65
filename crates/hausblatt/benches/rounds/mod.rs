//! Rounds of a measurement. The host of a virtual machine gives its processors to other machines, too; a round in which it
//! did that for long says little of either side, and is done again, whatever it measured.

use std::fs;
use std::sync::atomic::{AtomicUsize, Ordering};

/// The share of the processors' time that the host may take in a round.
const TAKEN: f64 = 0.05;
/// So often a round is done at most; the one in which the host took least counts.
const OFTEN: usize = 4;

/// How many rounds were done again.
static REPEATED: AtomicUsize = AtomicUsize::new(0);

/// What so many rounds measure; `work` gets another number each time.
pub fn measure<T>(count: usize, mut work: impl FnMut(usize) -> T) -> Vec<T> {
    let mut numbers = 0..;
    (0..count).map(|_| calm(|| work(numbers.next().unwrap()))).collect()
}

fn calm<T>(mut round: impl FnMut() -> T) -> T {
    let mut done = || {
        let before = Processors::now();
        let measured = round();
        (taken_since(before).unwrap_or(0.0), measured)
    };
    let mut best = done();
    for _ in 1..OFTEN {
        if best.0 <= TAKEN {
            break;
        }
        REPEATED.fetch_add(1, Ordering::Relaxed);
        let next = done();
        if next.0 < best.0 {
            best = next;
        }
    }
    best.1
}

/// How many rounds were done again until now.
pub fn repeated() -> usize {
    REPEATED.load(Ordering::Relaxed)
}

/// The time that all processors had, and what of it the host gave to other machines, as Linux counts it.
#[derive(Clone, Copy)]
pub struct Processors {
    all: f64,
    taken: f64,
}

impl Processors {
    /// Both since the machine was started; nothing where that is not known.
    pub fn now() -> Option<Self> {
        let text = fs::read_to_string("/proc/stat").ok()?;
        let times: Option<Vec<f64>> =
            text.lines().next()?.split_whitespace().skip(1).map(|time| time.parse().ok()).collect();
        // The two after these are counted among them.
        let times = times?;
        Some(Self { all: times.iter().take(8).sum(), taken: *times.get(7)? })
    }
}

/// The share of the processors' time that the host has taken since.
pub fn taken_since(before: Option<Processors>) -> Option<f64> {
    let (before, now) = (before?, Processors::now()?);
    Some((now.taken - before.taken) / (now.all - before.all).max(1.0))
}

/// The one in the middle.
pub fn median(figures: &mut [f64]) -> f64 {
    figures.sort_by(f64::total_cmp);
    figures[figures.len() / 2]
}
