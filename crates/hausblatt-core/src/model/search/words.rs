//! Words as they are looked for: folded, without case, accents and whatever is not a letter or digit.

use unicode_normalization::UnicodeNormalization;
use unicode_normalization::char::is_combining_mark;

/// Whether a word, or the beginning of one, is long enough to be looked for in summaries and texts: three letters of the Latin
/// alphabet, or as many bytes (UTF-8) of another one, of which two or one may be a word. Shorter ones are only looked for in titles.
pub(crate) fn is_long(word: &str) -> bool {
    word.len() >= 3
}

/// Hands each word of a text to `then`, in order.
pub(crate) fn each_word(text: &str, mut then: impl FnMut(&str)) {
    let words = |folded: &str, then: &mut dyn FnMut(&str)| {
        folded.split(|c: char| !c.is_alphanumeric()).filter(|word| !word.is_empty()).for_each(then);
    };
    if text.is_ascii() {
        return words(&text.to_ascii_lowercase(), &mut then);
    }
    let folded: String = text.nfkd().filter(|c| !is_combining_mark(*c)).flat_map(char::to_lowercase).collect();
    words(&folded, &mut then);
}

/// A text's words.
pub(crate) fn words(text: &str) -> Vec<String> {
    let mut all = Vec::new();
    each_word(text, |word| all.push(word.to_owned()));
    all
}

/// How many characters of a query count, and how many different words.
const MOST_CHARACTERS: usize = 200;
const MOST_WORDS: usize = 16;

/// The words of a query, each once.
pub(crate) fn asked(query: &str) -> Vec<String> {
    let query: String = query.chars().take(MOST_CHARACTERS).collect();
    let mut asked: Vec<String> = Vec::new();
    for word in words(&query) {
        if !asked.contains(&word) && asked.len() < MOST_WORDS {
            asked.push(word);
        }
    }
    asked
}

#[cfg(test)]
mod tests {
    use super::{asked, words};

    #[test]
    fn a_query_has_so_many_words() {
        assert_eq!(asked("Bean bean BEÁN pea"), ["bean", "pea"]);
        let many: String = (0..100).map(|number| format!("w{number} ")).collect();
        assert_eq!(asked(&many).len(), 16);
        assert_eq!(asked(&"é".repeat(5000)), ["e".repeat(200)]);
    }

    #[test]
    fn words_are_folded() {
        for (text, expected) in [
            ("Kürbis, CAFÉ & 2 Öl", "kurbis cafe 2 ol"),
            ("ﬁne don't", "fine don t"),
            ("Sow it_in rows-of 3.", "sow it in rows of 3"),
            ("", ""),
            ("—", ""),
            ("豆 ТЫКВА", "豆 тыква"),
        ] {
            assert_eq!(words(text).join(" "), expected);
        }
    }
}
