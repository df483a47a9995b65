//! Words as a shell reads them, for the commands that are suggested.

/// A word as a POSIX shell takes it for one: in single quotes where anything in it means something there.
pub fn word(text: &str) -> String {
    let is_plain = |c: char| c.is_alphanumeric() || "_./:@%+=,-~".contains(c);
    match !text.is_empty() && text.chars().all(is_plain) {
        true => text.to_owned(),
        false => format!("'{}'", text.replace('\'', "'\\''")),
    }
}
