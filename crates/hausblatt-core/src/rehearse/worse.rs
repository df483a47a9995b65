//! Values that are worse than those that sites have at home, for each type of field.

use hausblatt_lang::value::datum::Datum;

use crate::model::content::Section;
use crate::rehearse::edits::{data, list, map, text};
use crate::rehearse::variation::Rank;
use crate::schema::fields::{Field, FieldType};
use crate::text::data::{Data, DataValue};
use crate::world::World;

/// A value, and what is said of it: "with a blank NAME" has a place for the name.
pub(super) struct Worse {
    pub rank: Rank,
    /// What it is, with `NAME` where the name of the field belongs.
    pub words: String,
    /// The value; none where the key is missing.
    pub value: Option<Data>,
    /// Whether the value shows nothing.
    pub is_less: bool,
}

/// The drawing that stands for images in made-up content.
pub(crate) const DRAWING: &str = "media/rehearsal.svg";
/// Drawings of extreme shapes.
pub(super) const WIDE: &str = "media/rehearsal-wide.svg";
/// The same, high.
pub(super) const TALL: &str = "media/rehearsal-tall.svg";

/// An image that is not there.
pub(super) const MISSING: &str = "media/rehearsal-none.jpg";

/// The files of these drawings.
pub(crate) fn drawings() -> [(&'static str, String); 3] {
    let drawing = |width: u32, height: u32| {
        format!(
            "<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"{width}\" height=\"{height}\" viewBox=\"0 0 {width} {height}\"><rect width=\"{width}\" height=\"{height}\"/></svg>"
        )
    };
    [(DRAWING, drawing(640, 480)), (WIDE, drawing(8000, 20)), (TALL, drawing(20, 8000))]
}

/// Texts of one sort: what is said of it, and the text.
const TEXTS: [(Rank, &str, &str); 5] = [
    (Rank::Texts, "with markup and quotes in NAME", "<b>Tom's</b> \"best\" & <script>alert(1)</script> {{1}} +{2}"),
    (Rank::Scripts, "with NAME from right to left", "ספריית הזרעים של מארו ליין"),
    (Rank::Scripts, "with NAME in Chinese characters", "种子图书馆里有三千种菜豆和南瓜的种子"),
    (Rank::Scripts, "with emoji in NAME", "🌱 👩‍🌾 🏳️‍🌈 🫘"),
    (Rank::Texts, "with NAME of one long word", LONG_WORD),
];

const LONG_WORD: &str = "Feuerbohnensamentütenbeschriftungsmaschinenbedienungsanleitungsübersetzerinnenvereinigungsvorsitzendenstellvertretung";

/// A text of some two hundred letters.
pub(super) fn long() -> String {
    "The long story of a bean that was borrowed in spring, returned in autumn and lent again "
        .repeat(3)
        .trim_end()
        .to_owned()
}

/// A number that is larger than any that is meant.
const HUGE: i64 = 999_999_999_999;

/// Values of a field that are worse than `own`.
pub(super) fn values(world: &World, field: &Field, own: Option<&Data>) -> Vec<Worse> {
    let mut found = Vec::new();
    let usual = usual(world, &field.of);
    match own {
        Some(_) if !field.is_required => found.push(missing()),
        None if usual.is_some() => {
            found.push(Worse { rank: Rank::Counts, words: "with NAME".to_owned(), value: usual, is_less: false })
        }
        _ => {}
    }
    found.extend(of_type(world, &field.of, field.is_required));
    found.retain(|worse| worse.value.as_ref() != own);
    found
}

/// The value that is not there.
pub(super) fn missing() -> Worse {
    Worse { rank: Rank::Missing, words: "without NAME".to_owned(), value: None, is_less: true }
}

/// Values of a type that are worse than those at home.
pub(super) fn of_type(world: &World, of: &FieldType, is_required: bool) -> Vec<Worse> {
    let value = |rank: Rank, words: &str, value: Data| Worse {
        rank,
        words: words.to_owned(),
        value: Some(value),
        is_less: false,
    };
    let int = |number: i64| data(DataValue::Int(number));
    match of {
        FieldType::Text | FieldType::Rich => {
            let mut all = texts();
            all.retain(|worse| !is_required || !worse.is_less);
            all
        }
        FieldType::Number(least, most) => {
            let fits =
                |number: f64| least.is_none_or(|least| number >= least) && most.is_none_or(|most| number <= most);
            let bound =
                |words: &str, number: Option<f64>| Some(value(Rank::Bounds, words, data(DataValue::Float(number?))));
            let fixed = |words: &str, number: i64| fits(number as f64).then(|| value(Rank::Bounds, words, int(number)));
            let whole =
                |number: f64| if number.fract() == 0.0 { int(number as i64) } else { data(DataValue::Float(number)) };
            let mut all: Vec<Worse> = [bound("with the least NAME", *least), bound("with the largest NAME", *most)]
                .into_iter()
                .flatten()
                .collect();
            for worse in &mut all {
                if let Some(Data { value: DataValue::Float(number), .. }) = worse.value {
                    worse.value = Some(whole(number));
                }
            }
            all.extend(fixed("with 0 as NAME", 0));
            all.extend(fixed("with a negative NAME", -7));
            all.extend(fixed("with a huge NAME", HUGE));
            all
        }
        FieldType::YesNo => vec![
            value(Rank::Bounds, "with NAME set to no", data(DataValue::Bool(false))),
            value(Rank::Bounds, "with NAME set to yes", data(DataValue::Bool(true))),
        ],
        FieldType::Color => vec![
            value(Rank::Bounds, "with white as NAME", text("#fff")),
            value(Rank::Bounds, "with black as NAME", text("#000")),
            value(Rank::Bounds, "with NAME transparent", text("transparent")),
        ],
        FieldType::Date => vec![
            value(Rank::Bounds, "with NAME long ago", text("1901-01-01")),
            value(Rank::Bounds, "with NAME far ahead", text("2999-12-31")),
        ],
        FieldType::Choice(options) => {
            let set =
                |option: &String| value(Rank::Bounds, &format!("with NAME set to {option}"), text(option.as_str()));
            options.iter().map(set).collect()
        }
        FieldType::Link => vec![
            value(Rank::Bounds, "with NAME on another site", text("https://other.example/a?b=1&c=2#d")),
            value(Rank::Bounds, "with NAME for mail", text("mailto:ida@seeds.example")),
        ],
        FieldType::Image => images(),
        FieldType::List(of) => lists(world, of, is_required),
        FieldType::Page | FieldType::Entry(_) | FieldType::Group(_) | FieldType::Unknown => Vec::new(),
    }
}

/// Texts that are worse than those at home.
pub(super) fn texts() -> Vec<Worse> {
    let fixed = TEXTS.iter().map(|&(rank, words, told)| Worse {
        rank,
        words: words.to_owned(),
        value: Some(text(told)),
        is_less: false,
    });
    let blank =
        Worse { rank: Rank::Texts, words: "with a blank NAME".to_owned(), value: Some(text("")), is_less: true };
    let long = Worse {
        rank: Rank::Texts,
        words: "with a very long NAME".to_owned(),
        value: Some(text(long())),
        is_less: false,
    };
    [blank, long].into_iter().chain(fixed).collect()
}

/// Images that are worse than those at home.
pub(super) fn images() -> Vec<Worse> {
    let image = |rank, words: &str, file: &str, alt: Option<&str>| {
        let file = ("file", text(format!("/{file}")));
        let alt = alt.map(|alt| ("alt", text(alt)));
        Worse {
            rank,
            words: words.to_owned(),
            value: Some(map(std::iter::once(file).chain(alt).collect())),
            is_less: false,
        }
    };
    let shown = Some("A made-up image");
    vec![
        image(Rank::Missing, "with NAME without alt", DRAWING, None),
        image(Rank::Bounds, "with a very wide NAME", WIDE, shown),
        image(Rank::Bounds, "with a very high NAME", TALL, shown),
        Worse { is_less: false, ..image(Rank::Missing, "with the file of NAME missing", MISSING, shown) },
    ]
}

fn lists(world: &World, of: &FieldType, is_required: bool) -> Vec<Worse> {
    let counted = |words: &str, count: usize| {
        let member = usual(world, of)?;
        let value = Some(list(vec![member; count]));
        Some(Worse { rank: Rank::Counts, words: words.to_owned(), value, is_less: count == 0 })
    };
    let empty = Worse {
        rank: Rank::Missing,
        words: "with an empty NAME".to_owned(),
        value: Some(list(Vec::new())),
        is_less: true,
    };
    let mut all: Vec<Worse> = (!is_required).then_some(empty).into_iter().collect();
    all.extend(counted("with one member in NAME", 1));
    all.extend(counted("with 40 members in NAME", 40));
    if let FieldType::Group(group) = of {
        // One thing at a time: a member lacks one value.
        for field in group.fields.iter().filter(|field| !field.is_required) {
            let members: Option<Vec<(&str, Data)>> = usual_group(world, &group.fields);
            let Some(members) = members else { continue };
            let rest: Vec<(&str, Data)> = members.into_iter().filter(|(name, _)| *name != field.name).collect();
            let value = Some(list(vec![map(rest)]));
            let words = format!("with a member of NAME that lacks {}", field.name);
            all.push(Worse { rank: Rank::Missing, words, value, is_less: true });
        }
    }
    all
}

fn usual_group<'f>(world: &World, fields: &'f [Field]) -> Option<Vec<(&'f str, Data)>> {
    let value = |field: &'f Field| match usual(world, &field.of) {
        Some(value) => Some(Some((field.name.as_str(), value))),
        None if field.is_required => None,
        None => Some(None),
    };
    Some(fields.iter().map(value).collect::<Option<Vec<_>>>()?.into_iter().flatten().collect())
}

/// A value of a type as content has it; none where the site has nothing that it could name.
pub(crate) fn usual(world: &World, of: &FieldType) -> Option<Data> {
    Some(match of {
        FieldType::Text => text("Made up"),
        FieldType::Rich => text("Made up for a *rehearsal*."),
        FieldType::Number(least, most) => {
            let number = least.unwrap_or(1.0).max(if most.is_some_and(|most| most < 1.0) { f64::MIN } else { 1.0 });
            let number = if number == f64::MIN { most.unwrap_or(0.0) } else { number };
            if number.fract() == 0.0 { data(DataValue::Int(number as i64)) } else { data(DataValue::Float(number)) }
        }
        FieldType::YesNo => data(DataValue::Bool(true)),
        FieldType::Color => text("#336699"),
        FieldType::Date => text("2026-03-14"),
        FieldType::Choice(options) => text(options.first()?.as_str()),
        FieldType::Link => text("/"),
        FieldType::Image => map(vec![("file", text(format!("/{DRAWING}"))), ("alt", text("A made-up image"))]),
        FieldType::Page => text(&*first_id(world, Section::Pages)?),
        FieldType::Entry(name) => text(&*first_id(world, Section::Collection(world.site.collection(name)?.0))?),
        FieldType::List(of) => {
            let member = usual(world, of)?;
            list(vec![member.clone(), member])
        }
        FieldType::Group(group) => map(usual_group(world, &group.fields)?),
        FieldType::Unknown => return None,
    })
}

fn first_id(world: &World, home: Section) -> Option<Box<str>> {
    let found = world.site.contents.iter().find(|content| content.home == home && content.is_live());
    Some(found?.id.clone())
}

/// Whether a default shows nothing.
pub(super) fn is_nothing(value: &Datum) -> bool {
    match value {
        Datum::Nothing => true,
        Datum::Text(text) => text.trim().is_empty(),
        _ => false,
    }
}
