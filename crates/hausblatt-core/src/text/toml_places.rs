//! Where a TOML file writes what: each key and each value, with the keys that lead to it.

use hausblatt_lang::text::source::Span;
use toml_parser::parser::{Event, EventKind, parse_document};
use toml_parser::{ErrorSink, ParseError, Source};

/// A key or a value of a TOML file.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) struct TomlPlace {
    /// The keys that lead to it; of a key itself included. Members of lists have those of the list.
    pub path: Vec<String>,
    /// Where it is, with its quotes.
    pub span: Span,
    /// Whether it is a key.
    pub is_key: bool,
}

impl TomlPlace {
    /// Whether these keys lead to it; `*` stands for any one.
    pub fn is_at(&self, path: &[&str]) -> bool {
        self.path.len() == path.len() && self.path.iter().zip(path).all(|(own, one)| *one == "*" || own == one)
    }
}

/// All keys and values of a TOML file, in their order: a table that several headers name has several keys.
pub(crate) fn places(text: &str) -> Vec<TomlPlace> {
    let mut ignored = Ignored;
    let source = Source::new(text);
    let tokens = source.lex().into_vec();
    let mut walk =
        Walk { text, places: Vec::new(), around: Vec::new(), keys: Vec::new(), is_complete: false, is_header: false };
    parse_document(&tokens, &mut |event: Event| walk.event(&event), &mut ignored);
    walk.places
}

/// What is wrong with the file is reported where it is read.
struct Ignored;

impl ErrorSink for Ignored {
    fn report_error(&mut self, _error: ParseError) {}
}

struct Walk<'t> {
    text: &'t str,
    places: Vec<TomlPlace>,
    /// The keys that lead to what is read, for each table and list around it.
    around: Vec<Vec<String>>,
    /// The keys of the present one.
    keys: Vec<String>,
    /// Whether these are complete, so that another begins anew.
    is_complete: bool,
    is_header: bool,
}

impl Walk<'_> {
    fn add(&mut self, span: Span, is_key: bool) {
        let around = self.around.last().into_iter().flatten();
        let path = around.chain(&self.keys).cloned().collect();
        self.places.push(TomlPlace { path, span, is_key });
    }

    fn event(&mut self, event: &Event) {
        let span = Span::new(event.span().start(), event.span().end());
        match event.kind() {
            EventKind::StdTableOpen | EventKind::ArrayTableOpen => {
                (self.around, self.keys) = (Vec::new(), Vec::new());
                (self.is_complete, self.is_header) = (false, true);
            }
            EventKind::StdTableClose | EventKind::ArrayTableClose => {
                self.around.push(std::mem::take(&mut self.keys));
                self.is_header = false;
            }
            EventKind::SimpleKey => {
                if std::mem::take(&mut self.is_complete) {
                    self.keys.clear();
                }
                self.keys.push(bare(span.of(self.text)).to_owned());
                self.add(span, true);
            }
            EventKind::KeyValSep => self.is_complete = true,
            EventKind::InlineTableOpen | EventKind::ArrayOpen => {
                let around = self.around.last().cloned().unwrap_or_default();
                let keys = std::mem::take(&mut self.keys);
                self.around.push([around, keys].concat());
                self.is_complete = false;
            }
            EventKind::InlineTableClose | EventKind::ArrayClose => {
                self.around.pop();
                self.keys.clear();
            }
            EventKind::Scalar => self.add(span, false),
            _ => {}
        }
    }
}

/// A key or a text without its quotes.
pub(crate) fn bare(written: &str) -> &str {
    let quoted = |quote: &str| written.strip_prefix(quote)?.strip_suffix(quote);
    ["\"\"\"", "'''", "\"", "'"].into_iter().find_map(quoted).unwrap_or(written)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn each_key_and_value_is_found_with_the_keys_that_lead_to_it() {
        let text = "a = 1\n[b.\"c\"]\nd.e = { f = ['x', { g = 2 }], h = 3 }\ni = [1,\n 2]\n[[b.c.k]]\nl = true\n";
        let found: Vec<String> = places(text)
            .iter()
            .map(|place| {
                format!("{}{}{}", place.path.join("."), if place.is_key { " " } else { "=" }, place.span.of(text))
            })
            .collect();
        assert_eq!(
            found.join("; "),
            "a a; a=1; b b; b.c \"c\"; b.c.d d; b.c.d.e e; b.c.d.e.f f; b.c.d.e.f='x'; b.c.d.e.f.g g; b.c.d.e.f.g=2; \
             b.c.d.e.h h; b.c.d.e.h=3; b.c.i i; b.c.i=1; b.c.i=2; b b; b.c c; b.c.k k; b.c.k.l l; b.c.k.l=true"
        );
    }
}
