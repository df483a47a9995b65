//! "Did you mean": the names nearest to a mistyped one.

use std::borrow::Cow;

use rapidfuzz::distance::osa::{Args, BatchComparator};

/// The best candidate for a mistyped `name`, if one is near enough to be meant.
pub fn nearest<'a>(name: &str, candidates: impl IntoIterator<Item = &'a str>) -> Option<&'a str> {
    nearest_all(name, candidates, 1).into_iter().next()
}

/// Up to `count` candidates near `name`, best first; equal ones in their given order.
pub fn nearest_all<'a>(name: &str, candidates: impl IntoIterator<Item = &'a str>, count: usize) -> Vec<&'a str> {
    let wanted = Wanted::new(name);
    let mut best = usize::MAX;
    let mut scored: Vec<(usize, &str)> = Vec::new();
    for candidate in candidates.into_iter().filter(|candidate| *candidate != name) {
        if let Some(score) = wanted.distance(candidate, farthest(best)) {
            best = best.min(score);
            scored.push((score, candidate));
        }
    }
    // Letters that only changed places come before others that are as far.
    let letters = |text: &str| {
        let mut letters: Vec<char> = text.chars().collect();
        letters.sort_unstable();
        letters
    };
    let own = letters(&lower(name));
    scored.sort_by_key(|&(score, candidate)| (score, score == 1 && letters(candidate) != own));
    scored.dedup_by_key(|&mut (_, candidate)| candidate);
    scored.retain(|&(score, _)| score <= farthest(best));
    scored.into_iter().take(count).map(|(_, candidate)| candidate).collect()
}

/// What to say of the names that are near: which one may be meant, or which are the nearest; nothing where none is.
pub fn which_of(near: &[&str]) -> Option<String> {
    match near {
        [] => None,
        [one] if one.starts_with('/') => Some(format!("did you mean {one}?")),
        [one] => Some(format!("did you mean \"{one}\"?")),
        several => Some(format!("the nearest are {}", several.join(", "))),
    }
}

/// Whether `name` is `other` but for a slip or two of the fingers.
pub fn is_slip(name: &str, other: &str) -> bool {
    let length = name.rsplit('/').next().unwrap_or("").chars().count();
    Wanted::new(name).distance(other, (length / 4).clamp(1, 3)).is_some()
}

/// Far ones are no help beside a near one.
fn farthest(best: usize) -> usize {
    best.saturating_mul(2).saturating_add(1)
}

fn lower(name: &str) -> Cow<'_, str> {
    if name.bytes().any(|byte| byte.is_ascii_uppercase() || !byte.is_ascii()) {
        Cow::Owned(name.to_lowercase())
    } else {
        Cow::Borrowed(name)
    }
}

/// A mistyped name.
struct Wanted {
    letters: Vec<char>,
    comparator: BatchComparator<char>,
}

impl Wanted {
    fn new(name: &str) -> Self {
        let letters: Vec<char> = lower(name).chars().collect();
        Self { comparator: BatchComparator::new(letters.iter().copied()), letters }
    }

    /// How many letters it has in common with a candidate up to the last slash of those.
    fn folder_with(&self, candidate: &str) -> usize {
        let same = self.letters.iter().copied().zip(candidate.chars()).take_while(|(a, b)| a == b);
        same.zip(1..).filter(|((letter, _), _)| *letter == '/').last().map_or(0, |(_, count)| count)
    }

    /// How many letters are other ones, missing, too many or swapped with their neighbour, if not more than `most` and
    /// few enough.
    fn distance(&self, candidate: &str, most: usize) -> Option<usize> {
        let candidate = lower(candidate);
        let length = self.letters.len().max(candidate.chars().count());
        if length > 200 {
            return None;
        }
        // What is in one folder is only half as alike for that.
        let most = most.min(((length - self.folder_with(&candidate) / 2) / 3).max(1));
        self.comparator.distance_with_args(candidate.chars(), &Args::default().score_cutoff(most))
    }
}

/// The help line for a mistyped name: `did you mean "card"?`
pub fn did_you_mean<'a>(name: &str, candidates: impl IntoIterator<Item = &'a str>) -> Option<String> {
    nearest(name, candidates).map(|best| format!("did you mean \"{best}\"?"))
}

/// The nearest of a few names, or all of them.
pub(crate) fn meant_or_all<'a>(name: &str, names: impl Iterator<Item = &'a str> + Clone) -> Option<String> {
    const FEW: usize = 8;
    did_you_mean(name, names.clone()).or_else(|| {
        let all: Vec<String> = names.take(FEW + 1).map(str::to_owned).collect();
        (1..=FEW).contains(&all.len()).then(|| format!("it has {}", joined(&all, "and")))
    })
}

/// "a page, a term or an entry of journal".
pub fn joined(names: &[String], word: &str) -> String {
    match names {
        [all @ .., last] if !all.is_empty() => format!("{} {word} {last}", all.join(", ")),
        _ => names.concat(),
    }
}

#[cfg(test)]
mod tests {
    use super::{is_slip, nearest_all};

    #[test]
    fn the_nearest_come_first_and_far_ones_not_at_all() {
        for (name, candidates, found) in [
            ("crad", &["cart", "card", "header"][..], &["card"][..]),
            ("il", &["dl", "li"], &["li", "dl"]),
            ("CARD", &["header", "card"], &["card"]),
            ("card", &["card"], &[]),
            ("a", &["b", "bc"], &["b"]),
            ("entry/jounal", &["entry/journal", "entry/varieties"], &["entry/journal"]),
            ("varieties/bell", &["varieties/moon-boat", "varieties/ball"], &["varieties/ball"]),
            ("varieties/bell", &["varieties/moon-boat"], &[]),
            ("größe", &["grösse", "GRÖSSE", "groesse"], &["grösse", "GRÖSSE"]),
            ("", &["card", "c"], &["c"]),
        ] {
            assert_eq!(nearest_all(name, candidates.iter().copied(), 5), found, "{name}");
        }
        for (name, other, is) in [
            ("/vsit", "/visit", true),
            ("/varieties/scralet-runnr", "/varieties/scarlet-runner", true),
            ("/varieties/red-runner", "/varieties/scarlet-runner", false),
            ("/visit/find", "/visit/find-us", false),
        ] {
            assert_eq!(is_slip(name, other), is, "{name}");
        }
        let long = "x".repeat(201);
        assert!(nearest_all(&long[1..], [long.as_str()], 1).is_empty());
    }
}
