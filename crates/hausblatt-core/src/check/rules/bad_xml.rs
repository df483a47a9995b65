//! An answer or a drawing is not XML, though it says so.

use hausblatt_lang::text::code::Code;
use hausblatt_lang::text::diagnostic::Severity;
use hausblatt_lang::text::ending::Ending;
use roxmltree::{Document, ParsingOptions};

use crate::check::view::PageProblem;
use crate::check::{Check, Look};

/// The check.
pub(crate) const CHECK: Check = Check {
    code: Code {
        name: "bad-xml",
        severity: Severity::Error,
        about: "an answer is not well-formed XML",
        explanation: "What this template writes can't be read as XML 1.0, so feed readers and other programs refuse all of it. Each element is closed, attributes have quotes, & is written &amp;, and <?xml … ?> is the first thing in the file, with nothing in front of it, not even an empty line.",
    },
    look: Look::Answer(Ending::Xml, look),
};

fn look(text: &str, found: &mut Vec<PageProblem>) {
    found.extend(problem(text).map(|(at, message, help)| PageProblem::at(Some(at), message, help)));
}

/// What keeps a text from being XML, the byte where that is, and what to do.
pub(super) fn problem(text: &str) -> Option<(usize, String, &'static str)> {
    let trimmed = text.trim_start_matches(|c: char| c.is_whitespace());
    if trimmed.starts_with("<?xml ") && trimmed.len() < text.len() && !text.starts_with('\u{feff}') {
        let at = text.len() - trimmed.len();
        return Some((at, "something is in front of <?xml … ?>".to_owned(), "begin the file with it"));
    }
    let options = ParsingOptions { allow_dtd: true, ..ParsingOptions::default() };
    let error = Document::parse_with_options(text, options).err()?;
    let place = error.pos();
    let line: usize = text.split_inclusive('\n').take(place.row.saturating_sub(1) as usize).map(str::len).sum();
    let rest = text.get(line..).unwrap_or("");
    let column = rest.chars().take(place.col.saturating_sub(1) as usize).map(char::len_utf8).sum::<usize>();
    let mut at = (line + column).min(text.len());
    if at >= text.trim_end().len() {
        at = text.trim_end().char_indices().next_back().map_or(0, |(last, _)| last);
    }
    let (why, help) = explained(&error);
    Some((at, format!("this is not well-formed XML: {why}"), help))
}

fn explained(error: &roxmltree::Error) -> (String, &'static str) {
    use roxmltree::Error;
    match error {
        Error::UnexpectedCloseTag(expected, actual, _) => {
            (format!("</{actual}> is written where </{expected}> belongs"), "close each element, the inner one first")
        }
        Error::UnclosedRootNode => ("an element is not closed".to_owned(), "write its end tag"),
        Error::NoRootNode => ("it has no element".to_owned(), "write one element around all others"),
        Error::DuplicatedAttribute(name, _) => (format!("the attribute {name} is written twice"), "write it once"),
        Error::UnknownNamespace(name, _) => {
            (format!("nothing says what {name}: means"), "declare it at the first element: xmlns:…=\"…\"")
        }
        Error::UnknownEntityReference(name, _) => (
            format!("&{name}; is not known in XML"),
            "XML knows &amp; &lt; &gt; &quot; &apos; and numbers such as &#160; only",
        ),
        Error::MalformedEntityReference(_) => {
            ("this \"&\" begins no reference".to_owned(), "write it as &amp;; values are escaped by themselves")
        }
        _ => {
            let why = error.to_string();
            let end = why.rfind(" at ").unwrap_or(why.len());
            (
                why[..end].to_owned(),
                "each element is closed, attributes have quotes, and one element is around all others",
            )
        }
    }
}

#[cfg(test)]
mod tests {
    use crate::check::tests::told;

    #[test]
    fn finds_it_at_its_line() {
        let at = |text: &str| {
            let config = "[site]\ntitle = \"Seeds\"\ntheme = \"t\"\n[front]\npage = \"home\"\n[routes.list]\naddress = \"/list.xml\"\n";
            told(super::CHECK.code.name, &[("hausblatt.toml", config), ("themes/t/templates/route/list.xml", text)])
        };
        let place = |line: usize| [format!("themes/t/templates/route/list.xml:{line}")];
        assert_eq!(at("<a>\n<b></a>"), place(2));
        assert_eq!(at("\n<?xml version=\"1.0\"?>\n<a/>"), place(2));
        assert_eq!(at("<a>\n<b></b>"), place(1));
        assert_eq!(at("<a>\n1 & 2</a>"), place(2));
        assert_eq!(at("<a>\n&nbsp;</a>"), place(2));
        assert_eq!(at("<a/>\n<b/>"), place(2));
        assert_eq!(at("<a b=\"1\"\nb=\"2\"/>"), place(2));
        assert_eq!(at("<a>\n<c:d/></a>"), place(2));
        assert!(at("<?xml version=\"1.0\"?>\n<!DOCTYPE a>\n<a>&amp; &#160;<![CDATA[<]]></a>").is_empty());
    }
}
