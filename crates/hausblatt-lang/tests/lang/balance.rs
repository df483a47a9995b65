//! Elements that one branch opens and another way does not close.

use proptest::prelude::*;
use proptest::sample::select;

use crate::support::Files;

#[test]
fn a_condition_is_asked_once() {
    for (text, expected) in [
        ("+{if any}1+{else if not any}2+{else if first}3+{end}", "1"),
        (
            "+{if any == 7}1+{else if first}2+{else if any  ==  7}3+{end}",
            "1\nt:1:43 dead-branch this branch is never taken: \"any == 7\" is asked further up already | take it out, or ask for something else",
        ),
    ] {
        assert_eq!(Files::new(&[("t", text)]).run(), expected, "{text}");
    }
    let text = Files::new(&[("t.txt", "+{if any}1+{else if any}2+{end}")]).run();
    assert!(text.contains("t.txt:1:21 dead-branch"), "{text}");
}

#[test]
fn elements_are_opened_and_closed_under_the_same_conditions() {
    let told = |at: &str, tag: &str, what: &str| {
        format!(
            "{at} uneven-branches this {tag} is in one branch, and {what} is not under the same condition | write the same condition at both ends, or write both tags once around the branches"
        )
    };
    for (text, expected) in [
        ("+{if any}<div>+{end}1+{if any}</div>+{end}", None),
        ("+{if any}<a href=\"/\">+{else}<b>+{end}1+{if not any}</b>+{else}</a>+{end}", None),
        ("+{if any}<a href=\"/\">+{else if first}<b>+{end}1+{if any}</a>+{else if first}</b>+{end}", None),
        ("+{if any  != 7}<b>+{end}1+{if (any == 7)}+{else}</b>+{end}", None),
        ("+{if any}<div>+{end}", Some(told("t:1:10", "<div>", "what closes it"))),
        ("<div>+{if any}</div>+{end}", Some(told("t:1:15", "</div>", "what it closes"))),
        ("+{if any}<div>+{end}1+{if any == 7}</div>+{end}", Some(told("t:1:10", "<div>", "what closes it"))),
        ("+{if any}<div>+{if first}</div>+{end}+{else}2+{end}", Some(told("t:1:10", "<div>", "what closes it"))),
        (
            "+{if any}\n  <section class=\"a>\">\n+{else}\n<div>\n+{end}\n</section>",
            Some(told("t:4:1", "<div>", "what closes it")),
        ),
        (
            "<div>+{if any}<div>+{end}<div>1</div>+{if first}<div>2</div>+{end}</div>",
            Some(told("t:1:15", "<div>", "what closes it")),
        ),
        ("<a>+{if any}</re+{any}a>1</+{end}b>", None),
        // What all ways leave open, another file may close.
        ("<main><div>+{if any}<b>1</b>+{end}", None),
        ("+{if any}<p>1+{else}<li>2<br>+{end}<svg>+{if any}<path d=\"\"/>+{end}</svg>", None),
        // A loop may open in one round what it closes in a later one.
        ("+{each p, at in peas}+{if at.first}<ul>+{end}<li>1</li>+{if at.last}</ul>+{end}+{end}", None),
        ("+{each p, at in peas}+{if at.first}<b>+{end}+{end}", Some(told("t:1:36", "<b>", "what closes it"))),
        ("+{let a with}+{if any}<i>+{end}+{end}+{a}", Some(told("t:1:23", "<i>", "what closes it"))),
        // Seven conditions are more than 64 ways.
        (
            "+{if any}<b>+{end}+{if any == 1}<b>+{end}+{if any == 2}<b>+{end}+{if any == 3}<b>+{end}+{if any == 4}<b>+{end}+{if any == 5}<b>+{end}+{if any == 6}<b>+{end}",
            None,
        ),
        ("<!-- +{if any}<b>+{end} --><script>+{if any}let a = '<b>'+{end}</script>", None),
    ] {
        let (_, report) = Files::new(&[("t", text)]).page();
        let report: Vec<&str> = report.lines().filter(|line| line.contains("uneven-branches")).collect();
        assert_eq!(report, Vec::from_iter(expected.as_deref()), "{text}");
    }
}

/// Templates in which every way through closes what it opens.
fn even() -> impl Strategy<Value = String> {
    let leaf =
        select(vec!["x", "<br>", "<img alt=''>", "<li>y", "+{any}", "<!-- <b> -->", "\n"]).prop_map(str::to_owned);
    leaf.prop_recursive(4, 24, 3, |inner| {
        let condition = || select(vec!["any", "first", "not any", "site.title == 'x'"]);
        let two = (inner.clone(), inner.clone());
        prop_oneof![
            inner.clone().prop_map(|inner| format!("<div class=\"a>b\">{inner}</div>")),
            two.clone().prop_map(|(a, b)| a + &b),
            (condition(), inner.clone()).prop_map(|(c, inner)| format!("+{{if {c}}}{inner}+{{end}}")),
            (condition(), two).prop_map(|(c, (a, b))| format!("+{{if {c}}}{a}+{{else}}{b}+{{end}}")),
            (condition(), inner.clone())
                .prop_map(|(c, inner)| format!("+{{if {c}}}<b>+{{end}}{inner}+{{if {c}}}</b>+{{end}}")),
            (condition(), inner.clone()).prop_map(|(c, inner)| {
                format!("+{{if {c}}}<b>+{{else}}<i>+{{end}}{inner}+{{if not ({c})}}</i>+{{else}}</b>+{{end}}")
            }),
            inner.prop_map(|inner| format!("+{{each p in peas}}{inner}+{{between}}<hr>+{{none}}<p>z</p>+{{end}}")),
        ]
    })
}

proptest! {
    #[test]
    fn what_is_even_is_not_reported(template in even()) {
        let (_, report) = Files::new(&[("t", template.as_str())]).page();
        prop_assert!(!report.contains("uneven-branches") && !report.contains("dead-branch"), "{}\n{}", template, report);
    }
}
