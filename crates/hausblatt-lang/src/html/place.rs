//! The rows of the escaping table, and which attribute belongs to which.

/// The place that a hole is in; it decides how a value is printed.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum HtmlPlace {
    /// Text between tags: entities, HTML as it is.
    Text,
    /// The same directly after `<pre>`, where parsers drop a line break.
    LeadingText,
    /// `title` and `textarea`: entities, HTML as its text.
    Title,
    /// The same directly after `<textarea>`, where parsers drop a line break.
    LeadingTitle,
    /// A quoted attribute without a meaning of its own: entities, HTML as its text.
    Attribute,
    /// An address, composed and checked whole, and how it is written.
    Address(EscapingRow, Written),
    /// The number after an address in `srcset`.
    Number,
    /// A value of CSS: numbers, colours, words.
    Style,
    /// Inside a quoted string of CSS.
    StyleText,
    /// A whole JSON value.
    Json,
    /// Inside a JSON string.
    JsonText,
    /// XML text or a quoted attribute: entities, HTML as its source.
    Xml,
    /// Plain text, as it is.
    Plain,
}

/// How a finished address is written.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Written {
    /// With entities, in an attribute of its own.
    Attribute,
    /// Likewise, and without commas: in `srcset`.
    Candidate,
    /// Escaped as in a quoted string of CSS.
    Style,
}

/// Why no value is safe in a place that has a grammar of its own.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct Refusal {
    /// The place.
    pub place: &'static str,
    /// What to do about it.
    pub help: &'static str,
}

impl Refusal {
    /// No value is safe in `place`.
    pub fn new(place: &'static str, help: &'static str) -> Self {
        Self { place, help }
    }
}

/// What an address may point to.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum EscapingRow {
    /// Anywhere with a known scheme.
    Anywhere,
    /// Anywhere, and `data:image/`.
    Image,
    /// It loads code or a document or takes a form: it stays on this site.
    Stays,
}

/// What an attribute that is one hole does with a value that has nothing to print.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Absent {
    /// It is left out.
    LeaveOut,
    /// It stays, empty (`alt`).
    StayEmpty,
    /// It is there or not, by the value's truth.
    Boolean,
}

const ADDRESSES: &[&str] =
    &["action", "cite", "poster", "background", "longdesc", "manifest", "data", "codebase", "formaction"];
const ADDRESS_ENDINGS: &[&str] = &["href", "src", "url", "uri"];
const BOOLEAN: &[&str] = &[
    "allowfullscreen",
    "async",
    "autofocus",
    "autoplay",
    "checked",
    "controls",
    "default",
    "defer",
    "disabled",
    "formnovalidate",
    "hidden",
    "inert",
    "ismap",
    "itemscope",
    "loop",
    "multiple",
    "muted",
    "nomodule",
    "novalidate",
    "open",
    "playsinline",
    "readonly",
    "required",
    "reversed",
    "selected",
];
const HARMLESS_RELATIONS: &[&str] =
    &["alternate", "author", "canonical", "help", "icon", "license", "me", "next", "prev", "search"];
/// Relations of feeds (RFC 4287, RFC 5005), which no browser loads anything for.
const FEED_RELATIONS: &[&str] = &["enclosure", "first", "hub", "last", "previous", "related", "self", "via"];
const ANIMATION: &[&str] = &["animate", "animatetransform", "animatemotion", "set"];

/// The place inside the quoted value of `attribute` on `element`, both in lower case.
/// `relation` is the tag's literal `rel`.
///
/// # Errors
/// Why no value is safe there.
pub fn attribute_place(element: &str, attribute: &str, relation: Option<&str>) -> Result<HtmlPlace, &'static str> {
    if let Some(reason) = forbidden(element, attribute) {
        return Err(reason);
    }
    if matches!(attribute, "srcset" | "imagesrcset") {
        return Ok(HtmlPlace::Address(EscapingRow::Image, Written::Candidate));
    }
    if !is_address(attribute) {
        return Ok(HtmlPlace::Attribute);
    }
    if stays(element, attribute, relation) {
        return Ok(HtmlPlace::Address(EscapingRow::Stays, Written::Attribute));
    }
    let image = matches!(element, "img" | "source") || attribute == "poster";
    Ok(HtmlPlace::Address(if image { EscapingRow::Image } else { EscapingRow::Anywhere }, Written::Attribute))
}

/// The same in XML, by local names: an attribute of any vocabulary is an address only where a browser takes it for one.
///
/// # Errors
/// Why no value is safe there.
pub(crate) fn xml_attribute_place(
    element: &str,
    attribute: &str,
    relation: Option<&str>,
) -> Result<HtmlPlace, &'static str> {
    let address = match attribute {
        "action" => element == "form",
        "data" | "codebase" => element == "object",
        "formaction" => true,
        _ => attribute == "poster" || ADDRESS_ENDINGS.iter().any(|ending| attribute.ends_with(ending)),
    };
    match attribute_place(element, attribute, relation)? {
        HtmlPlace::Address(_, Written::Attribute) if !address => Ok(HtmlPlace::Xml),
        HtmlPlace::Attribute => Ok(HtmlPlace::Xml),
        place => Ok(place),
    }
}

/// What a one-hole `attribute` does with nothing.
pub fn absent(attribute: &str) -> Absent {
    match attribute {
        "alt" => Absent::StayEmpty,
        _ if BOOLEAN.contains(&attribute) => Absent::Boolean,
        _ => Absent::LeaveOut,
    }
}

fn forbidden(element: &str, attribute: &str) -> Option<&'static str> {
    match attribute {
        _ if attribute.starts_with("on") => Some("it would run as a script"),
        "srcdoc" => Some("it is a whole document of its own"),
        "ping" | "http-equiv" | "sandbox" => Some("it decides what the browser does with the page"),
        "type" if element == "script" => Some("it decides whether a script runs"),
        "attributename" | "to" | "from" | "by" | "values" if ANIMATION.contains(&element) => {
            Some("an animation can set any attribute with it")
        }
        _ => None,
    }
}

fn is_address(attribute: &str) -> bool {
    ADDRESSES.contains(&attribute) || ADDRESS_ENDINGS.iter().any(|ending| attribute.ends_with(ending))
}

fn stays(element: &str, attribute: &str, relation: Option<&str>) -> bool {
    match (element, attribute) {
        (_, "action" | "formaction") => true,
        ("script" | "iframe" | "frame" | "embed", "src") | ("base", "href") => true,
        ("object", "data" | "codebase") => true,
        ("use" | "script", "href" | "xlink:href") => true,
        ("link", "href") => !relation.is_some_and(is_harmless),
        _ => false,
    }
}

fn is_harmless(relation: &str) -> bool {
    let mut words = relation.split_ascii_whitespace().peekable();
    words.peek().is_some()
        && words.all(|word| {
            let word = word.to_ascii_lowercase();
            HARMLESS_RELATIONS.contains(&word.as_str()) || FEED_RELATIONS.contains(&word.as_str())
        })
}
