//! Pages and entries that are worse than those at home: one thing at a time.

use crate::model::content::{Content, Section};
use crate::model::request::Request;
use crate::rehearse::edits::{ContentText, data, list, text};
use crate::rehearse::samples::{Sample, Small};
use crate::rehearse::variation::{Rank, Variation};
use crate::rehearse::varied::{Probe, varied, words};
use crate::rehearse::worse::{Worse, images, long, missing, of_type, texts, usual, values};
use crate::schema::fields::{Field, FieldType};
use crate::text::address::encoded;
use crate::text::data::{Data, DataValue};
use crate::world::World;

/// What is worse than a sample.
pub(super) fn of_sample(small: &Small, sample: &Sample, probe: &Probe<'_>) -> Vec<Variation> {
    let world = &small.world;
    let Some((_, content)) = world.site.ids().find(|(_, content)| **content.path() == *sample.path) else {
        return Vec::new();
    };
    let Some(own) = ContentText::of(&content.node) else { return Vec::new() };
    let fields = match content.home {
        Section::Pages => &world.site.config.page_fields,
        Section::Collection(number) => &world.site.collections[usize::from(number)].config.fields,
    };
    let mut addresses = sample.own.clone();
    for other in probe.shown(&loud(world, sample, &own, fields), &near(world, content)) {
        if !addresses.contains(&other) {
            addresses.push(other);
        }
    }
    let mut found = Vec::new();
    let mut add = |worse: &Worse, name: &str, text: ContentText| {
        let variation = varied(&sample.subject, worse, name).changing(&sample.path, Some(text.written()));
        found.push(variation.at(addresses.iter().cloned()));
    };
    let other = world.site.contents.iter().find(|other| other.home == content.home && other.title != content.title);
    for worse in of_title(&own, other) {
        add(&worse, "title", own.clone().with("title", worse.value.clone()));
    }
    let built_in = [
        ("summary", FieldType::Text),
        ("image", FieldType::Image),
        ("authors", FieldType::List(Box::new(FieldType::Text))),
        ("updated", FieldType::Date),
    ];
    for (name, of) in &built_in {
        let mut all = vec![match own.get(name) {
            Some(_) => missing(),
            None => {
                Worse { rank: Rank::Counts, words: "with NAME".to_owned(), value: usual(world, of), is_less: false }
            }
        }];
        all.extend(if *name == "image" { images() } else { of_type(world, of, false) });
        for worse in all {
            add(&worse, name, own.clone().with(name, worse.value.clone()));
        }
    }
    for field in fields {
        for worse in values(world, field, own.get(&field.name)) {
            add(&worse, &field.name, own.clone().with(&field.name, worse.value.clone()));
        }
    }
    for (worse, body) in bodies() {
        add(&worse, "text", own.clone().with_body(&body));
    }
    for (name, worse) in terms(world, content, &own) {
        add(&worse, &name, own.clone().with(&name, worse.value.clone()));
    }
    // A listing that it introduces, and an error page that it fills, have titles of their own.
    let is_own = |address: &&String| content.address.as_deref().is_some_and(|own| address.starts_with(&encoded(own)));
    let of_content: Vec<String> = sample.own.iter().filter(is_own).cloned().collect();
    let title = own.get("title").cloned();
    for variation in &mut found {
        if content.address.as_deref().is_some_and(|address| address != "/")
            && variation.words.ends_with("with a very long title")
            && title.is_some()
        {
            variation.titled = of_content.clone();
        }
    }
    found.extend(dates(sample, content, &own).map(|variation| variation.at(addresses.iter().cloned())));
    found.extend(states(sample, &own).map(|variation| variation.at(addresses.iter().cloned())));
    found
}

/// Two variations in which all that a page could show of content is other.
fn loud(world: &World, sample: &Sample, own: &ContentText, fields: &[Field]) -> Vec<Variation> {
    let mut more = own.clone().with_body("A louder text.\n").with("title", Some(text("A louder title")));
    let mut less = own.clone().with_body("");
    let built_in = [("summary", &FieldType::Text), ("image", &FieldType::Image), ("updated", &FieldType::Date)];
    for (name, of) in built_in.into_iter().chain(fields.iter().map(|field| (field.name.as_str(), &field.of))) {
        more = more.with(name, usual(world, of));
        less = less.with(name, None);
    }
    more = more.with("authors", Some(list(vec![text("A loud author")])));
    [more, less]
        .into_iter()
        .map(|text| Variation::new(Rank::Missing, String::new()).changing(&sample.path, Some(text.written())))
        .collect()
}

/// The listings that content is in, so that their first page with it comes before others.
fn near(world: &World, content: &Content) -> Vec<String> {
    let lists = |request: &&Request| {
        let Some(listed) = request.listed(&world.site) else { return false };
        let from = listed.per_page * (request.number as usize - 1);
        let here = listed.ids.iter().skip(from).take(listed.per_page);
        here.into_iter().any(|&id| world.site.content(id).path() == content.path())
    };
    let mut found: Vec<(usize, String)> = world
        .requests()
        .iter()
        .filter(lists)
        .map(|request| {
            let rank = match (request.is_feed(), request.kind.listing(), request.kind.term()) {
                (false, Some(_), _) => 0,
                (false, None, Some(_)) => 1,
                (true, ..) => 2,
                (false, None, None) => 3,
            };
            (rank, encoded(&request.address))
        })
        .collect();
    found.sort();
    // Of each sort one is enough.
    found.dedup_by_key(|(rank, _)| *rank);
    found.into_iter().map(|(_, address)| address).collect()
}

fn of_title(own: &ContentText, other: Option<&Content>) -> Vec<Worse> {
    let mut all = texts();
    all.retain(|worse| !worse.is_less);
    // Without one, a title is made of the file's name.
    all.extend(own.get("title").map(|_| Worse { is_less: false, ..missing() }));
    all.extend(other.map(|other| Worse {
        rank: Rank::Counts,
        words: "with the NAME of another".to_owned(),
        value: Some(text(&*other.title)),
        is_less: false,
    }));
    all
}

/// Texts of content, instead of its own.
fn bodies() -> Vec<(Worse, String)> {
    let worse = |rank, words: &str, is_less| Worse { rank, words: words.to_owned(), value: None, is_less };
    let paragraph = format!("{}.\n\n", long());
    let structured = "## A heading\n\n| One | Two |\n|-----|-----|\n| 1 | 2 |\n\n## A heading\n\n```\nlet code = \"<b>\";\n```\n\n1. One\n   - Two\n\n> Three\n";
    vec![
        (worse(Rank::Missing, "without a NAME", true), String::new()),
        (worse(Rank::Texts, "with a very long NAME", false), paragraph.repeat(60)),
        (worse(Rank::Texts, "with headings, a table and code in its NAME", false), structured.to_owned()),
        (worse(Rank::Scripts, "with a NAME from right to left", false), "ספריית הזרעים של מארו ליין\n".to_owned()),
    ]
}

/// Terms, none and many.
fn terms(world: &World, content: &Content, own: &ContentText) -> Vec<(String, Worse)> {
    let home = world.site.collection_of(content).map_or("pages", |collection| &collection.config.name.text);
    let mut found = Vec::new();
    for taxonomy in world.site.config.taxonomies_of(home) {
        let name = taxonomy.name.text.clone();
        let all: Vec<Data> = taxonomy.terms.iter().map(|term| text(term.id.text.as_str())).collect();
        if own.get(&name).is_some() {
            found.push((name.clone(), missing()));
        }
        if all.len() > 1 {
            let value = Some(list(all));
            found.push((
                name,
                Worse { rank: Rank::Counts, words: "with every term of NAME".to_owned(), value, is_less: false },
            ));
        }
    }
    found
}

/// Dates: none, long ago, far ahead.
fn dates<'a>(sample: &'a Sample, content: &'a Content, own: &'a ContentText) -> impl Iterator<Item = Variation> + 'a {
    let (folder, name) = sample.path.rsplit_once('/').unwrap_or(("", &sample.path));
    // A date in the name of the file goes, for it would stand for the one that is varied.
    let last = content.id.rsplit('/').next().unwrap_or(&content.id);
    let bare = if name.ends_with(&format!("-{last}.md")) { format!("{folder}/{last}.md") } else { sample.path.clone() };
    let write = move |rank, words: &str, date: Option<Data>| {
        let worse = Worse { rank, words: words.to_owned(), value: None, is_less: date.is_none() };
        let variation = varied(&sample.subject, &worse, "date");
        let variation = if bare == sample.path { variation } else { variation.changing(&sample.path, None) };
        variation.changing(bare.clone(), Some(own.clone().with("date", date).written()))
    };
    let has = content.date.is_some();
    let none = has.then(|| write(Rank::Missing, "without NAME", None));
    let given = (!has).then(|| write(Rank::Counts, "with NAME", Some(text("2026-03-14"))));
    let old = write(Rank::Bounds, "with NAME long ago", Some(text("1901-01-01")));
    let future = write(Rank::Bounds, "with NAME far ahead", Some(text("2999-12-31")));
    none.into_iter().chain(given).chain([old, future])
}

/// Drafts, and content that lists leave out.
fn states<'a>(sample: &'a Sample, own: &'a ContentText) -> impl Iterator<Item = Variation> + 'a {
    let with = |words: &str, key: &str, truth: bool| {
        let worse = Worse { rank: Rank::Counts, words: words.to_owned(), value: None, is_less: false };
        let text = own.clone().with(key, Some(data(DataValue::Bool(truth))));
        Variation::new(Rank::Counts, words_of(sample, &worse)).changing(&sample.path, Some(text.written()))
    };
    [
        Variation { drafts: true, ..with("that is a draft", "draft", true) },
        with("that is in no list", "in_lists", false),
    ]
    .into_iter()
}

fn words_of(sample: &Sample, worse: &Worse) -> String {
    words(&sample.subject, worse, "")
}
