//! The site's language: names of months and days, separators of numbers, the order of texts.

use std::cmp::Ordering;

use icu_collator::options::CollatorOptions;
use icu_collator::{Collator, CollatorBorrowed};
use pure_rust_locales::{Locale, locale_match};

use crate::value::moment::Moment;
use crate::value::number;

/// The regions whose customs a language without one has, where they are not the language's own letters.
const REGIONS: &[(&str, &str)] = &[
    ("cs", "CZ"),
    ("cy", "GB"),
    ("da", "DK"),
    ("el", "GR"),
    ("en", "US"),
    ("et", "EE"),
    ("eu", "ES"),
    ("fa", "IR"),
    ("ga", "IE"),
    ("gl", "ES"),
    ("ca", "ES"),
    ("he", "IL"),
    ("hi", "IN"),
    ("ja", "JP"),
    ("ko", "KR"),
    ("nb", "NO"),
    ("nn", "NO"),
    ("no", "NO"),
    ("sl", "SI"),
    ("sq", "AL"),
    ("sr", "RS"),
    ("sv", "SE"),
    ("uk", "UA"),
    ("vi", "VN"),
    ("zh", "CN"),
];

/// What a language tag (BCP 47) says about dates, numbers and the order of texts.
pub struct Language {
    /// The locale whose tables are used (those of the GNU C Library).
    locale: Locale,
    /// The Unicode collation (UTS 10) of the language.
    collator: Option<CollatorBorrowed<'static>>,
}

impl Language {
    /// The language `tag`, such as `de` or `pt-BR`. One that no table knows has the customs of POSIX and the
    /// root collation.
    pub fn new(tag: &str) -> Self {
        let sorted = tag.parse::<icu_locale_core::Locale>().unwrap_or(icu_locale_core::Locale::UNKNOWN);
        let collator = Collator::try_new(sorted.into(), CollatorOptions::default()).ok();
        Self { locale: locale(tag), collator }
    }

    /// A language for names and separators only; none where no table knows the tag.
    pub fn of_formats(tag: &str) -> Option<Self> {
        let locale = locale(tag);
        (locale != Locale::POSIX).then_some(Self { locale, collator: None })
    }

    /// The order of two texts.
    pub fn compare(&self, a: &str, b: &str) -> Ordering {
        match &self.collator {
            Some(collator) => collator.compare(a, b).then_with(|| a.cmp(b)),
            None => a.cmp(b),
        }
    }

    /// A number with `digits` decimals, its thousands grouped as the language does.
    pub fn number(&self, number: f64, digits: u32) -> String {
        self.grouped_number(&format!("{:.*}", digits as usize, number::rounded(number, digits)))
    }

    /// The same of a whole number, all whose digits are kept.
    pub(crate) fn whole_number(&self, number: i64, digits: u32) -> String {
        let zeros = if digits > 0 { format!(".{}", "0".repeat(digits as usize)) } else { String::new() };
        self.grouped_number(&format!("{number}{zeros}"))
    }

    fn grouped_number(&self, plain: &str) -> String {
        let locale = self.locale;
        let (sign, plain) = plain.strip_prefix('-').map_or(("", plain), |rest| ("-", rest));
        let (whole, decimals) = plain.split_once('.').unwrap_or((plain, ""));
        let separator: &str = locale_match!(locale => LC_NUMERIC::THOUSANDS_SEP);
        let sizes: &[i64] = locale_match!(locale => LC_NUMERIC::GROUPING);
        let grouped = grouped(whole, separator, sizes);
        let sign = if plain.bytes().all(|byte| matches!(byte, b'0' | b'.')) { "" } else { sign };
        if decimals.is_empty() {
            return format!("{sign}{grouped}");
        }
        format!("{sign}{grouped}{}{decimals}", locale_match!(locale => LC_NUMERIC::DECIMAL_POINT))
    }

    /// A date by a pattern of POSIX `strftime`, with the flag `-` against leading zeros; names in the language.
    ///
    /// # Errors
    /// Words on what is wrong with the pattern.
    pub fn date(&self, moment: Moment, pattern: &str) -> Result<String, String> {
        moment.format(&self.named(moment, pattern, true)?)
    }

    /// The pattern with names in place of the conversions for them. The patterns of the locale itself
    /// (`whole` is false) hold no others.
    fn named(&self, moment: Moment, pattern: &str, whole: bool) -> Result<String, String> {
        let mut out = String::with_capacity(pattern.len() + 16);
        let mut rest = pattern;
        while let Some(at) = rest.find('%') {
            out.push_str(&rest[..at]);
            let behind = &rest[at + 1..];
            let flag = if behind.starts_with('-') { "-" } else { "" };
            let conversion = behind.trim_start_matches('-').trim_start_matches(['E', 'O']);
            let letter = conversion.chars().next().ok_or("it ends in the middle of a conversion")?;
            rest = &conversion[letter.len_utf8()..];
            match self.name(moment, letter) {
                Some(name) => out.push_str(&name.replace('%', "%%")),
                None if whole => match self.own_pattern(letter) {
                    Some(pattern) => out.push_str(&self.named(moment, pattern, false)?),
                    None if CONVERSIONS.contains(letter) => out.extend(["%", flag, letter.encode_utf8(&mut [0; 4])]),
                    None => return Err(format!("\"%{letter}\" is not a conversion of POSIX strftime")),
                },
                None => out.extend(["%", flag, letter.encode_utf8(&mut [0; 4])]),
            }
        }
        out.push_str(rest);
        Ok(out)
    }

    /// The name that a conversion means.
    fn name(&self, moment: Moment, letter: char) -> Option<&'static str> {
        let locale = self.locale;
        let (day, month) = (moment.weekday() as usize % 7, usize::from(moment.day().month().unsigned_abs()) - 1);
        let names: (&'static [&'static str], usize) = match letter {
            'A' => (locale_match!(locale => LC_TIME::DAY), day),
            'a' => (locale_match!(locale => LC_TIME::ABDAY), day),
            'B' => (locale_match!(locale => LC_TIME::MON), month),
            'b' | 'h' => (locale_match!(locale => LC_TIME::ABMON), month),
            'p' => (locale_match!(locale => LC_TIME::AM_PM), usize::from(moment.hour() >= 12)),
            _ => return None,
        };
        names.0.get(names.1).copied()
    }

    /// The pattern that the language has for a conversion.
    fn own_pattern(&self, letter: char) -> Option<&'static str> {
        let locale = self.locale;
        match letter {
            'c' => Some(locale_match!(locale => LC_TIME::D_T_FMT)),
            'x' => Some(locale_match!(locale => LC_TIME::D_FMT)),
            'X' => Some(locale_match!(locale => LC_TIME::T_FMT)),
            'r' => Some("%I:%M:%S %p"),
            _ => None,
        }
    }
}

/// The conversions of POSIX `strftime` that are not names.
const CONVERSIONS: &str = "CdDeFgGHIjmMnRSTtuUVwWyYzZ%";

/// The digits of a whole number in groups, counted from the right; the last size goes on.
fn grouped(digits: &str, separator: &str, sizes: &[i64]) -> String {
    let mut groups = Vec::new();
    let mut rest = digits;
    let mut sizes = sizes.iter().map(|&size| usize::try_from(size).unwrap_or(0));
    let mut size = sizes.next().unwrap_or(0);
    while size > 0 && rest.len() > size && !separator.is_empty() {
        let (more, group) = rest.split_at(rest.len() - size);
        groups.push(group);
        rest = more;
        size = sizes.next().unwrap_or(size);
    }
    groups.push(rest);
    groups.reverse();
    groups.join(separator)
}

/// Whether a text is a language tag that can be one (BCP 47; its subtags are not looked up).
pub fn is_tag(text: &str) -> bool {
    text.parse::<icu_locale_core::Locale>().is_ok()
}

fn locale(tag: &str) -> Locale {
    let mut parts = tag.split(['-', '_']);
    let language = parts.next().unwrap_or("").to_ascii_lowercase();
    let region = parts.find(|part| part.len() == 2).map(str::to_ascii_uppercase);
    let usual = REGIONS.iter().find(|(known, _)| *known == language).map(|(_, region)| (*region).to_owned());
    let own = language.to_ascii_uppercase();
    let regions = region.into_iter().chain(usual).chain([own]);
    let mut names = regions.map(|region| format!("{language}_{region}"));
    names.find_map(|name| Locale::try_from(name.as_str()).ok()).unwrap_or(Locale::POSIX)
}

#[cfg(test)]
mod tests {
    use jiff::tz::TimeZone;

    use super::*;

    #[test]
    fn names_and_separators_are_the_languages() {
        let day = Moment::parse("2026-03-04", &TimeZone::UTC).unwrap();
        for (tag, date, number) in [
            ("en", "Wednesday 4 March 2026", "1,234,567.50"),
            ("de", "Mittwoch 4 März 2026", "1.234.567,50"),
            ("de-CH", "Mittwoch 4 März 2026", "1’234’567.50"),
            ("fr", "mercredi 4 mars 2026", "1\u{202f}234\u{202f}567,50"),
            ("hi", "बुधवार 4 मार्च 2026", "1,234,567.50"),
            ("xx", "Wednesday 4 March 2026", "1234567.50"),
            ("", "Wednesday 4 March 2026", "1234567.50"),
        ] {
            let language = Language::new(tag);
            assert_eq!(language.date(day, "%A %-d %B %Y").unwrap(), date, "{tag}");
            assert_eq!(language.number(1_234_567.5, 2), number, "{tag}");
            assert_eq!(language.number(-0.001, 2), language.number(0.0, 2), "{tag}");
        }
        assert_eq!(Language::new("de").date(day, "%x %%B %OB %a").unwrap(), "04.03.2026 %B März Mi");
        assert!(Language::new("de").date(day, "%!").is_err());
        assert!(Language::new("de").date(day, "%").is_err());
        let english = Language::new("en");
        for letter in CONVERSIONS.chars().chain("aAbBchprxX".chars()) {
            assert!(english.date(day, &format!("%{letter}")).is_ok_and(|text| !text.is_empty()), "%{letter}");
        }
        assert_eq!(
            english.date(day, "%d %-d %e %j %y %C %V %u %U %R %%").unwrap(),
            "04 4  4 063 26 20 10 3 09 00:00 %"
        );
    }

    #[test]
    fn texts_sort_by_the_languages_collation() {
        let sorted = |tag: &str, texts: &[&str]| {
            let language = Language::new(tag);
            let mut texts: Vec<String> = texts.iter().map(|&text| text.to_owned()).collect();
            texts.sort_by(|a, b| language.compare(a, b));
            texts.join(" ")
        };
        assert_eq!(
            sorted("de", &["Zucchini", "Ölkürbis", "apfel", "Oregano", "Apfel"]),
            "apfel Apfel Ölkürbis Oregano Zucchini"
        );
        assert_eq!(sorted("sv", &["ö", "z", "a", "å"]), "a z å ö");
        assert_eq!(sorted("nowhere", &["b", "a", "B"]), "a b B");
    }
}
