//! The functions of the language: one table, one row each.

use crate::value::context::Context;
use crate::value::json::Writer;
use crate::value::{Scratch, Seq, Value};

type Run = for<'a> fn(&Context<'_, 'a>, &[Value<'a>]) -> Result<Outcome<'a>, String>;

/// What a function gives.
pub enum Outcome<'a> {
    /// A value.
    Value(Value<'a>),
    /// A reference that is a broken link: `nothing`, and a warning with these words.
    Dead(String),
}

/// A row of the table. `filled` is not in it: it asks about the present file.
pub struct Function {
    /// Its name.
    pub name: &'static str,
    /// How many arguments it takes.
    pub arguments: usize,
    /// How many more it may take.
    pub optional: usize,
    /// What the arguments are called, for the documentation.
    pub takes: &'static str,
    /// What it gives, for the documentation.
    pub about: &'static str,
    /// An example and what it prints, for the documentation and its test.
    pub example: (&'static str, &'static str),
    run: Run,
}

impl Function {
    /// Works it out.
    ///
    /// # Errors
    /// What is wrong with an argument.
    pub fn evaluate<'a>(&self, context: &Context<'_, 'a>, arguments: &[Value<'a>]) -> Result<Outcome<'a>, String> {
        (self.run)(context, arguments)
    }
}

/// All of them.
pub const FUNCTIONS: &[Function] = &[
    Function {
        name: "url",
        arguments: 1,
        optional: 0,
        takes: "reference",
        about: "the address of `page:ID`, `entry:COLLECTION/ID`, `collection:NAME`, `term:TAXONOMY/ID`, `route:NAME`, `route:NAME/ROW`, `feed:COLLECTION` or `period:COLLECTION/2026/03`",
        example: ("url(\"page:visit\")", "/visit/"),
        run: url,
    },
    Function {
        name: "absolute",
        arguments: 1,
        optional: 0,
        takes: "address",
        about: "the address with the site in front of it",
        example: ("absolute(\"/visit/\")", "https://seeds.example/visit/"),
        run: absolute,
    },
    Function {
        name: "asset",
        arguments: 1,
        optional: 0,
        takes: "path",
        about: "the address of a file in `assets/`, of the nearest theme that has it",
        example: ("asset(\"bed.css\")", "/assets/bed.css"),
        run: asset,
    },
    Function {
        name: "image",
        arguments: 1,
        optional: 0,
        takes: "path",
        about: "an image in `media/` or `assets/`: `.address` `.width` `.height`, and `.path`, which is the address without `?` and what comes after it; it prints as its address",
        example: ("image(\"/media/bed.svg\").width", "40"),
        run: image,
    },
    Function {
        name: "inline",
        arguments: 1,
        optional: 1,
        takes: "path, title",
        about: "an SVG file in `assets/` as HTML, so that styles of the page reach it; it is hidden from screen readers unless it has a title. What would run in it is an error",
        example: ("inline(\"bed.svg\", \"A bed\").text", "A bed"),
        run: inline,
    },
    Function {
        name: "page",
        arguments: 1,
        optional: 0,
        takes: "id",
        about: "the page with this id, as a record; without an address while it is a draft or waits for its date",
        example: ("page(\"visit\").title", "Visit"),
        run: |context, arguments| content(context, arguments, "page"),
    },
    Function {
        name: "entry",
        arguments: 1,
        optional: 0,
        takes: "id",
        about: "likewise an entry, by its collection and its id: `entry(\"varieties/tidemark\")`",
        example: ("entry(\"varieties/tidemark\").title", "Tidemark"),
        run: |context, arguments| content(context, arguments, "entry"),
    },
    Function {
        name: "range",
        arguments: 2,
        optional: 0,
        takes: "a, b",
        about: "the whole numbers from a to b, both included",
        example: ("range(1, 3).join(\" \")", "1 2 3"),
        run: range,
    },
    Function {
        name: "markdown",
        arguments: 1,
        optional: 0,
        takes: "text",
        about: "Markdown as HTML, by the rules of content",
        example: ("markdown(\"*Sow* in spring.\").text", "Sow in spring."),
        run: markdown,
    },
    Function {
        name: "json",
        arguments: 1,
        optional: 0,
        takes: "value",
        about: "any value as JSON, in a text",
        example: ("json([1, nothing])", "[1,null]"),
        run: json,
    },
];

/// How many steps a byte of Markdown takes.
const MARKDOWN: usize = 2;
/// The most bytes of JSON.
const LARGEST: usize = 64 << 20;
/// The longest list that `range` makes.
const LONGEST: i64 = 1_000_000_000;

fn text<'a>(arguments: &[Value<'a>], at: usize) -> Result<Option<&'a str>, String> {
    match arguments.get(at).copied().unwrap_or(Value::Nothing) {
        Value::Nothing => Ok(None),
        value => value.as_text().map(Some).ok_or_else(|| format!("a text is needed here, not {}", value.kind())),
    }
}

fn url<'a>(context: &Context<'_, 'a>, arguments: &[Value<'a>]) -> Result<Outcome<'a>, String> {
    let Some(reference) = text(arguments, 0)? else { return Ok(Outcome::Value(Value::Nothing)) };
    Ok(match context.host.url(reference, context.scratch) {
        Some(address) => Outcome::Value(Value::Text(address)),
        None => Outcome::Dead(format!("broken reference \"{reference}\"")),
    })
}

fn absolute<'a>(context: &Context<'_, 'a>, arguments: &[Value<'a>]) -> Result<Outcome<'a>, String> {
    let Some(address) = text(arguments, 0)? else { return Ok(Outcome::Value(Value::Nothing)) };
    if !address.starts_with('/') {
        return Ok(Outcome::Value(Value::Text(address)));
    }
    let whole = format!("{}{address}", context.host.site_address().trim_end_matches('/'));
    Ok(Outcome::Value(Value::Text(context.scratch.text(&whole))))
}

fn asset<'a>(context: &Context<'_, 'a>, arguments: &[Value<'a>]) -> Result<Outcome<'a>, String> {
    let Some(path) = text(arguments, 0)? else { return Ok(Outcome::Value(Value::Nothing)) };
    Ok(match context.host.asset(path, context.scratch) {
        Some(address) => Outcome::Value(Value::Text(address)),
        None => Outcome::Dead(format!("no theme of the lineage has the asset \"{path}\"")),
    })
}

fn image<'a>(context: &Context<'_, 'a>, arguments: &[Value<'a>]) -> Result<Outcome<'a>, String> {
    let Some(path) = text(arguments, 0)? else { return Ok(Outcome::Value(Value::Nothing)) };
    Ok(match context.host.image(path, context.scratch) {
        Some(image) => Outcome::Value(image),
        None => Outcome::Dead(format!("there is no image \"{path}\"")),
    })
}

fn inline<'a>(context: &Context<'_, 'a>, arguments: &[Value<'a>]) -> Result<Outcome<'a>, String> {
    let Some(path) = text(arguments, 0)? else { return Ok(Outcome::Value(Value::Nothing)) };
    Ok(match context.host.inline(path, text(arguments, 1)?, context.scratch)? {
        Some(html) => {
            context.scratch.spend(html.len() / 8);
            Outcome::Value(Value::Html(html))
        }
        None => Outcome::Dead(format!("no theme of the lineage has the asset \"{path}\"")),
    })
}

fn content<'a>(context: &Context<'_, 'a>, arguments: &[Value<'a>], sort: &str) -> Result<Outcome<'a>, String> {
    let Some(id) = text(arguments, 0)? else { return Ok(Outcome::Value(Value::Nothing)) };
    Ok(match context.host.content(&format!("{sort}:{id}"), context.scratch) {
        Some(content) => Outcome::Value(content),
        None => Outcome::Dead(format!("there is no {sort} \"{id}\"")),
    })
}

fn markdown<'a>(context: &Context<'_, 'a>, arguments: &[Value<'a>]) -> Result<Outcome<'a>, String> {
    let Some(text) = text(arguments, 0)? else { return Ok(Outcome::Value(Value::Nothing)) };
    if !context.scratch.spend(text.len().saturating_mul(MARKDOWN)) {
        return Ok(Outcome::Value(Value::Nothing));
    }
    Ok(Outcome::Value(Value::Html(context.host.markdown(text, context.scratch))))
}

fn json<'a>(context: &Context<'_, 'a>, arguments: &[Value<'a>]) -> Result<Outcome<'a>, String> {
    let writer = Writer { symbols: context.host.symbols(), scratch: context.scratch, limit: LARGEST };
    let mut out = String::new();
    writer.write(arguments.first().copied().unwrap_or(Value::Nothing), &mut out)?;
    context.scratch.spend(out.len() / 8);
    Ok(Outcome::Value(Value::Text(context.scratch.text(&out))))
}

fn range<'a>(context: &Context<'_, 'a>, arguments: &[Value<'a>]) -> Result<Outcome<'a>, String> {
    let (Some(&Value::Int(from)), Some(&Value::Int(to))) = (arguments.first(), arguments.get(1)) else {
        return Err("range needs two whole numbers".to_owned());
    };
    let count = to.checked_sub(from).and_then(|more| more.checked_add(1)).filter(|&count| count <= LONGEST);
    let count = count.ok_or_else(|| format!("a range can't be longer than {LONGEST}"))?;
    let range = Range { from, count: usize::try_from(count).unwrap_or(0) };
    Ok(Outcome::Value(Value::Seq(context.scratch.keep(range))))
}

/// Whole numbers one after the other, evaluated on demand.
struct Range {
    from: i64,
    count: usize,
}

impl Seq for Range {
    fn len(&self) -> usize {
        self.count
    }

    fn at<'a>(&'a self, index: usize, _: &Scratch<'a>) -> Value<'a> {
        if index < self.count { Value::Int(self.from + index as i64) } else { Value::Nothing }
    }
}
