//! What a render costs is counted, and every order is total.

use hausblatt_lang::compile::{Role, Source, compile};
use hausblatt_lang::text::ending::Ending;
use hausblatt_lang::types::{Globals, Type};
use hausblatt_lang::value::shape::Interner;
use std::cmp::Ordering;
use std::time::{Duration, Instant};

use hausblatt_lang::render::Limits;
use hausblatt_lang::value::arithmetic::whole_and_decimal;
use hausblatt_lang::value::functions::FUNCTIONS;
use hausblatt_lang::value::language::Language;
use hausblatt_lang::value::members::{MEMBERS, Of};
use hausblatt_lang::value::moment::Moment;
use jiff::civil::Date;
use jiff::tz::{Offset, TimeZone};
use proptest::prelude::*;

use crate::support::{Files, check, template};

/// How many steps a template takes: the least budget with which it renders.
fn steps(text: &str) -> u64 {
    let fits = |steps: u64| {
        let mut files = Files::new(&[("t", text)]);
        files.limits = Limits { steps, ..Limits::default() };
        !files.run().contains("too-many-steps")
    };
    let mut most = 64;
    while !fits(most) {
        most *= 2;
        assert!(most < 1 << 40, "{text} never fits");
    }
    let mut least = most / 2;
    while most - least > least / 16 + 1 {
        let middle = (least + most) / 2;
        if fits(middle) { most = middle } else { least = middle }
    }
    most
}

/// A text of 8 letters, doubled so many times.
fn doubled(times: usize) -> String {
    format!("+{{let s = 'a b-c,dé'}}{}", "+{let s = s + s}".repeat(times))
}

/// Twice the input takes at most twice the steps, and some for logarithms: for each member and function that goes through
/// its value, and for operators and queries.
#[test]
fn costs_grow_with_what_is_gone_through() {
    let mut expressions: Vec<String> = Vec::new();
    for member in MEMBERS {
        let arguments = match member.takes {
            "" => String::new(),
            "n" => "(2)".to_owned(),
            "a, b" => "('a', 'bc')".to_owned(),
            "pattern" => "('%Y')".to_owned(),
            "n, s" => "(3, 'x')".to_owned(),
            "list" => "([0, 0 - 1])".to_owned(),
            _ => "(',')".to_owned(),
        };
        let value = match member.of {
            Of::Text => "s",
            Of::List => "range(1, n)",
            Of::Html => "(h + s)",
            Of::Number | Of::Date | Of::Record | Of::Image => continue,
        };
        // What looks at an end only costs the same at any length.
        if !matches!(member.name(), "starts" | "ends" | "count" | "first" | "last" | "date" | "number") {
            expressions.push(format!("{value}.{}{arguments}", member.name()));
        }
    }
    assert!(FUNCTIONS.iter().any(|function| function.name == "markdown"));
    expressions.extend(
        [
            "markdown(s)",
            "json(range(1, n))",
            "json(s)",
            "s == s + ''",
            "s < s + 'x'",
            "'xy' in s",
            "range(1, n) has 0",
            "range(1, n) == range(1, n)",
            "range(1, n) where it > 5",
            "range(1, n) order by 0 - it",
            "range(1, n) group by it",
            "range(1, n) + [1]",
            "s + 'x'",
        ]
        .map(str::to_owned),
    );
    for expression in expressions {
        let cost = |times: usize| {
            let count = 1_usize << (times + 3);
            // What was made is not printed, which would count as well.
            steps(&format!(
                "{}+{{let n = {count}}}+{{let h with}}<b>x</b>+{{end}}+{{let x = {expression}}}",
                doubled(times)
            ))
        };
        let (once, twice) = (cost(9), cost(10));
        assert!(once > 100, "{expression} takes {once} steps for 4 kB or 4,096 members");
        assert!(twice as f64 <= 2.5 * once as f64, "{expression}: {once} steps, then {twice}");
    }
}

#[test]
fn nothing_takes_long_without_being_counted() {
    let lists = |name: &str, first: &str| {
        format!("+{{let {name} = [{first}]}}{}", format!("+{{let {name} = [{name}, {name}]}}").repeat(40))
    };
    let long = doubled(18);
    for (text, ends) in [
        // Lists of lists that are the same are compared once; others until the budget is used up.
        (format!("{}{}+{{a == b}}", lists("a", "1"), lists("b", "1")), "true"),
        (format!("{}{}+{{a == b}}", lists("a", "1"), lists("b", "2")), "false"),
        (format!("{long}+{{each i in range(1, 1000000)}}+{{if s.length > 5}}+{{end}}+{{end}}"), "too-many-steps"),
        (format!("{long}+{{each i in range(1, 1000000)}}+{{if s == s + i}}+{{end}}+{{end}}"), "too-large"),
        (format!("{long}+{{each i in range(1, 1000000)}}+{{if 'zz' in s}}+{{end}}+{{end}}"), "too-many-steps"),
        (format!("{long}+{{each i in range(1, 1000000)}}+{{if s.words(100000000).length == i}}+{{end}}+{{end}}"), ""),
        (
            format!("{long}+{{each i in range(1, 1000000)}}+{{if s.split('zz').count == i}}+{{end}}+{{end}}"),
            "too-many-steps",
        ),
        ("+{let l = range(1, 8000)}+{each i in l}+{if l.unique.count == i}+{end}+{end}".to_owned(), "too-"),
        ("+{let l = [[1], [2]]}+{let m = range(1, 5000) group by [it]}+{m.count}".to_owned(), ""),
        (format!("{long}+{{each i in range(1, 1000000)}}+{{if markdown(s) == i}}+{{end}}+{{end}}"), "too-many-steps"),
        (format!("{long}+{{each i in range(1, 1000000)}}+{{if s.slug == ''}}+{{end}}+{{end}}"), "too-"),
        (format!("{long}+{{json([s, s, s])}}+{{json(range(1, 900000000))}}"), "too"),
    ] {
        let start = Instant::now();
        let mut files = Files::new(&[("t", &text)]);
        files.limits = Limits { steps: 5_000_000, ..Limits::default() };
        let found = files.run();
        assert!(
            found.contains(ends),
            "{}…: {}",
            &text[text.len().saturating_sub(90)..],
            &found[..found.len().min(200)]
        );
        // This is far from what a debug build needs, and from what an uncounted one would.
        assert!(start.elapsed() < Duration::from_secs(60), "{:?}: {}", start.elapsed(), &text[text.len() - 90..]);
    }
}

#[test]
fn what_has_no_order_is_an_error_at_any_length() {
    for list in
        ["[1, '2']", "[1, 2, 3, 4, '5', 6]", "['a', 'b', '2026-03-14'.date]", "[[1]]", "[[1], [2]]", "[true, 1]"]
    {
        let found = template(&format!("+{{(({list}) order by it).count}}"));
        assert!(found.contains("value ") && found.contains("no order"), "{list}: {found}");
        let limited = template(&format!("+{{(({list}) order by it limit 1).count}}"));
        assert!(limited.contains("no order"), "{list}: {limited}");
    }
    let many: String =
        (0..200).map(|at| format!("{}, ", if at % 7 == 3 { format!("'{at}'") } else { at.to_string() })).collect();
    assert!(template(&format!("+{{([{many}1] order by it).count}}")).contains("no order"));
}

#[test]
fn numbers_are_whole_where_they_are_written_so() {
    check(&[
        ("+{(1234567890123).format(0)}", "1,234,567,890,123"),
        ("+{(9007199254740993).format(0)}", "9,007,199,254,740,993"),
        ("+{(9223372036854775807).format(2)}", "9,223,372,036,854,775,807.00"),
        ("+{(0 - 9223372036854775807).format(0)}", "-9,223,372,036,854,775,807"),
        ("+{(9007199254740995 / 5).format(0)}", "1,801,439,850,948,199"),
        ("+{10 / 4} +{9 / 3}", "2.5 3"),
        ("+{9007199254740993 == 9007199254740992.0} +{9007199254740993 > 9007199254740992.0}", "false true"),
        (
            "+{(0 - 9223372036854775807 - 1) / (0 - 1)}",
            "t:1:3 bad-value these can't be divided: the result is too large",
        ),
        ("+{(0 - 9223372036854775807 - 1) % (0 - 1)}", "0"),
        ("+{[9223372036854775807, 1].sum}", "t:1:3 bad-value these can't be added: the result is too large"),
        ("+{[1, 1.0, 2, 9007199254740993, 9007199254740992.0].unique.count}", "4"),
    ]);
}

fn number() -> impl Strategy<Value = (i64, f64)> {
    let near = prop_oneof![Just(0), Just(i64::MAX), Just(i64::MIN), Just(1 << 53), any::<i64>(), -3_i64..3];
    let decimal = prop_oneof![
        Just(f64::NAN),
        Just(f64::INFINITY),
        Just(f64::NEG_INFINITY),
        Just(-0.0),
        Just(9_007_199_254_740_992.0),
        Just(9_223_372_036_854_775_808.0),
        any::<f64>(),
        -3.0..3.0_f64
    ];
    (near.prop_flat_map(|at| (-1_i64..2).prop_map(move |by| at.saturating_add(by))), decimal)
}

fn moment() -> impl Strategy<Value = Moment> {
    let seconds = -200_000_i64..200_000;
    prop_oneof![
        (-3_i64..4).prop_map(|days| Moment::Day(
            Date::constant(1970, 1, 1).checked_add(jiff::Span::new().days(days)).unwrap()
        )),
        (seconds, -50_000_i32..50_000).prop_map(|(seconds, offset)| Moment::At { seconds, offset }),
    ]
}

/// Any three are in one order, however they are compared.
fn is_total<T: Copy + std::fmt::Debug>(all: [T; 3], order: impl Fn(T, T) -> Ordering) {
    for a in all {
        assert_eq!(order(a, a), Ordering::Equal, "{a:?}");
        for b in all {
            assert_eq!(order(a, b), order(b, a).reverse(), "{a:?} {b:?}");
            for c in all {
                if order(a, b).is_le() && order(b, c).is_le() {
                    assert!(order(a, c).is_le(), "{a:?} {b:?} {c:?}");
                }
            }
        }
    }
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 512, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn moments_have_one_order(all in [moment(), moment(), moment()], hours in -12_i8..14) {
        for zone in [TimeZone::UTC, TimeZone::fixed(Offset::constant(hours))] {
            is_total(all, |a, b| a.order(b, &zone));
            // A day before its moments, and after all moments before it.
            for (day, at) in all.into_iter().flat_map(|a| all.into_iter().map(move |b| (a, b))) {
                let (Moment::Day(day), Moment::At { seconds, .. }) = (day, at) else { continue };
                let then = jiff::Timestamp::from_second(seconds).unwrap().to_zoned(zone.clone()).date();
                let expected = day.cmp(&then).then(Ordering::Less);
                prop_assert_eq!(Moment::Day(day).order(at, &zone), expected);
            }
        }
    }

    #[test]
    fn numbers_have_one_order(all in [number(), number(), number()]) {
        is_total([(all[0], true), (all[1], false), (all[2], true)], |((a, x), a_whole), ((b, y), b_whole)| match (a_whole, b_whole) {
            (true, true) => a.cmp(&b),
            (true, false) => whole_and_decimal(a, y),
            (false, true) => whole_and_decimal(b, x).reverse(),
            (false, false) => x.partial_cmp(&y).unwrap_or_else(|| x.is_nan().cmp(&y.is_nan())),
        });
    }

    #[test]
    fn texts_have_one_order(all in ["[a-cA-Cäößé1-2 -]{0,4}", "[a-cA-Cäößé1-2 -]{0,4}", "\\PC{0,3}"]) {
        for language in ["en", "de", "sv", "zz"] {
            let language = Language::new(language);
            is_total([all[0].as_str(), &all[1], &all[2]], |a, b| language.compare(a, b));
        }
    }
}

/// A quarter of a megabyte of each slip: a file costs what it is long, whatever is wrong with it.
#[test]
fn slips_cost_what_they_are_long() {
    let many = |text: &str| text.repeat((256 << 10) / text.len());
    for text in [
        many("+{$}\n"),
        format!("+{{a {}}}", many("$")),
        many("{{"),
        many("{{ {%"),
        many("<prefix "),
        many("<pre"),
        many("<pre>{{ a }}</pre>"),
        many("<!-- {{ a }}\n"),
        many("{ "),
        many("{content.") + "}",
        many("+ ("),
        many("+{it}"),
        many("<p class=\"a>+{a}"),
        many("<!-- +{a} <script>"),
        many("+{each x in peas}+{endfor}"),
        format!("+{{let a = (k = 1)}}{}", "+{let a = (k = a, l = a, m = a)}".repeat(60)),
        format!("+{{let a = peas}}{}", "+{let a = a group by it}".repeat(60)),
        format!("{}+{{a.k}}", many("“")),
    ] {
        let source = Source {
            path: "t".into(),
            text: text.as_str().into(),
            body: 0,
            role: Role::Template,
            ending: Ending::Html,
            takes: None,
            types: Vec::new(),
            flows: Vec::new(),
            next_takes: None,
        };
        let mut globals = Globals::default();
        globals.add("peas", Type::list(Type::Any));
        let start = Instant::now();
        compile(&source, &globals, &mut Interner::starting_with(hausblatt_lang::value::members::NAMES));
        let took = start.elapsed();
        let begin: String = text.chars().take(60).collect();
        assert!(took < Duration::from_secs(10), "{begin} took {took:?}");
    }
}
