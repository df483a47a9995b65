//! "Did you mean": the names nearest to a mistyped one.

/// The best candidate for a mistyped `name`, if one is near enough to be meant.
pub fn nearest<'a>(name: &str, candidates: impl IntoIterator<Item = &'a str>) -> Option<&'a str> {
    nearest_all(name, candidates, 1).into_iter().next()
}

/// Up to `count` candidates near `name`, best first; equal ones in their given order.
pub fn nearest_all<'a>(name: &str, candidates: impl IntoIterator<Item = &'a str>, count: usize) -> Vec<&'a str> {
    let wanted = name.to_lowercase();
    let mut scored: Vec<(usize, &str)> = candidates
        .into_iter()
        .filter(|candidate| *candidate != name)
        .filter_map(|candidate| Some((distance(&wanted, &candidate.to_lowercase())?, candidate)))
        .collect();
    scored.sort_by_key(|&(score, _)| score);
    scored.dedup_by_key(|&mut (_, candidate)| candidate);
    // Far ones are no help beside a near one.
    let farthest = scored.first().map_or(0, |&(best, _)| best * 2 + 1);
    scored.retain(|&(score, _)| score <= farthest);
    scored.into_iter().take(count).map(|(_, candidate)| candidate).collect()
}

fn distance(wanted: &str, candidate: &str) -> Option<usize> {
    let length = wanted.chars().count().max(candidate.chars().count());
    if length > 200 {
        return None;
    }
    let score = strsim::damerau_levenshtein(wanted, candidate);
    (score <= (length / 3).max(1)).then_some(score)
}

/// The help line for a mistyped name: `did you mean "card"?`
pub fn did_you_mean<'a>(name: &str, candidates: impl IntoIterator<Item = &'a str>) -> Option<String> {
    nearest(name, candidates).map(|best| format!("did you mean \"{best}\"?"))
}
