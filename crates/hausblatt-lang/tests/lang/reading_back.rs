//! What prints and can be read again is the same again.

use crate::support::{template, written};
use proptest::prelude::*;

fn literal(text: &str) -> String {
    let escaped: String = text.chars().map(|c| format!("\\u{{{:x}}}", c as u32)).collect();
    format!("\"{escaped}\"")
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(200))]

    #[test]
    fn whole_numbers(number in any::<i64>()) {
        prop_assume!(number != i64::MIN);
        prop_assert_eq!(template(&format!("+{{{number}}}")), number.to_string());
        prop_assert_eq!(template(&format!("+{{('' + {number}).number == {number}}}")), "true");
    }

    #[test]
    fn decimal_numbers_of_twelve_digits(whole in -999_999i64..999_999, decimals in 0u32..1_000_000) {
        let number = format!("{whole}.{decimals:06}");
        prop_assert_eq!(template(&format!("+{{('' + {number}).number == {number}}}")), "true");
        let printed = template(&format!("+{{{number}}}"));
        prop_assert_eq!(printed.parse::<f64>().unwrap(), number.parse::<f64>().unwrap());
    }

    #[test]
    fn days(year in 1i16..9999, month in 1i8..=12, day in 1i8..=28) {
        let day = format!("{year:04}-{month:02}-{day:02}");
        prop_assert_eq!(template(&format!("+{{'{day}'.date}}")), day.clone());
        prop_assert_eq!(template(&format!("+{{('' + '{day}'.date).date == '{day}'.date}}")), "true");
        prop_assert_eq!(template(&format!("+{{'{day}'.date.format('%Y-%m-%d')}}")), day.clone());
        prop_assert_eq!(template(&format!("+{{'{day}'.date.stamp.date.format('%Y-%m-%d')}}")), day.clone());
        // A day comes before its first second.
        prop_assert_eq!(template(&format!("+{{'{day}'.date.stamp.date > '{day}'.date}}")), "true");
    }

    #[test]
    fn moments(year in 1971i16..2100, second in 0i64..86_400, offset in -12i8..=14) {
        let stamp = format!("{year}-06-15T{:02}:{:02}:{:02}{offset:+03}:00", second / 3600, second / 60 % 60, second % 60);
        prop_assert_eq!(template(&format!("+{{('' + '{stamp}'.date).date == '{stamp}'.date}}")), "true");
        prop_assert_eq!(template(&format!("+{{'{stamp}'.date.stamp.date.stamp == '{stamp}'.date.stamp}}")), "true");
    }

    #[test]
    fn texts(text in "\\PC{0,20}|[\u{0}-\u{1f}\"'\\\\<>&\u{2028}\u{2029}é🌱]{0,20}") {
        let json = written("json", &format!("[+{{{0}}}, \"+{{{0}}}\", +{{json({0})}}]", literal(&text)));
        let read: Vec<String> = serde_json::from_str(&json).unwrap();
        prop_assert_eq!(&read[0], &text);
        prop_assert_eq!(&read[1], &text);
        prop_assert_eq!(serde_json::from_str::<String>(&read[2]).unwrap(), text.clone());
        prop_assert_eq!(written("txt", &format!("+{{{}}}", literal(&text))), text.clone());
        let html = template(&format!("+{{let x with}}+{{{}}}+{{end}}+{{x.text == {}}}", literal(&text), literal(&text.replace('\0', "\u{fffd}"))));
        prop_assert_eq!(html, "true");
    }
}
