//! Style sheets made small: what they import put in its place, and all of it written as shortly as it can be.

use lightningcss::error::{Error, ErrorLocation};
use lightningcss::rules::import::ImportRule;
use lightningcss::rules::layer::LayerBlockRule;
use lightningcss::rules::media::MediaRule;
use lightningcss::rules::supports::SupportsRule;
use lightningcss::rules::{CssRule, CssRuleList, Location};
use lightningcss::stylesheet::{MinifyOptions, ParserOptions, PrinterOptions, StyleSheet};

use crate::Browsers;

/// An import of this and a number is the style sheet of that number.
pub const IMPORTED: &str = "sheet:";

/// So many style sheets are put in their places: one that is imported twice counts twice, as it has an effect twice.
const MOST_IMPORTED: usize = 1000;

/// Why a style sheet can't be made small.
#[derive(Debug, PartialEq, Eq)]
pub struct NotSmall {
    /// The number of the style sheet that it is about.
    pub sheet: usize,
    /// The line, from 0.
    pub line: u32,
    /// The column in UTF-16 units, from 0.
    pub column: u32,
    /// Why.
    pub why: String,
}

/// The first of some style sheets, with those that it imports in their places, for these browsers. Where others are
/// imported by [`IMPORTED`], they are those of that number; other imports stay.
///
/// # Errors
/// Where a part of it is written so that nobody knows what browsers make of it, or where an import that stays would come
/// after rules, where it would have no effect.
pub fn small_styles(sheets: &[String], browsers: Browsers) -> Result<String, NotSmall> {
    let mut parsed = Vec::with_capacity(sheets.len());
    for (number, text) in sheets.iter().enumerate() {
        parsed.push(parse(text, number)?);
    }
    let mut joining = Joining { sheets: &parsed, open: Vec::new(), count: 0, has_rules: false };
    let rules = joining.rules_of(0, false)?;
    let names = (0..sheets.len()).map(|number| number.to_string()).collect();
    let mut joined = StyleSheet::new(names, CssRuleList(rules), options(0));
    // What is to be kept by law is said once.
    for comment in parsed.iter().flat_map(|sheet| &sheet.license_comments) {
        if !joined.license_comments.contains(comment) {
            joined.license_comments.push(comment.clone());
        }
    }
    let targets = browsers.targets();
    joined.minify(MinifyOptions { targets, ..MinifyOptions::default() }).map_err(|error| not_small(&error, 0))?;
    let printed = joined.to_css(PrinterOptions { minify: true, targets, ..PrinterOptions::default() });
    Ok(printed.map_err(|error| not_small(&error, 0))?.code)
}

fn options<'i>(number: usize) -> ParserOptions<'i> {
    let source_index = u32::try_from(number).unwrap_or(u32::MAX);
    ParserOptions { filename: number.to_string(), source_index, ..ParserOptions::default() }
}

fn parse(text: &str, number: usize) -> Result<StyleSheet<'_>, NotSmall> {
    StyleSheet::parse(text, options(number)).map_err(|error| not_small(&error, number))
}

fn not_small<T: std::fmt::Display>(error: &Error<T>, number: usize) -> NotSmall {
    let at = error.loc.as_ref();
    let column = |at: &ErrorLocation| at.column.saturating_sub(1);
    NotSmall {
        sheet: at.and_then(|at| at.filename.parse().ok()).unwrap_or(number),
        line: at.map_or(0, |at| at.line),
        column: at.map_or(0, column),
        why: error.kind.to_string(),
    }
}

struct Joining<'s, 'i> {
    sheets: &'s [StyleSheet<'i>],
    /// The sheets that are being put in, each imported by the one before it.
    open: Vec<usize>,
    count: usize,
    /// Whether a rule has come, after which no import has an effect.
    has_rules: bool,
}

impl<'i> Joining<'_, 'i> {
    /// The rules of a sheet, which stand under a condition or in a layer or not.
    fn rules_of(&mut self, number: usize, is_within: bool) -> Result<Vec<CssRule<'i>>, NotSmall> {
        let mut rules = Vec::new();
        self.open.push(number);
        for rule in &self.sheets[number].rules.0 {
            match rule {
                CssRule::Import(import) => {
                    let imported = import.url.strip_prefix(IMPORTED).and_then(|number| number.parse().ok());
                    match imported.filter(|imported: &usize| *imported < self.sheets.len()) {
                        // A circle ends where it began.
                        Some(imported) if self.open.contains(&imported) => {}
                        Some(imported) => rules.extend(self.imported(import, imported, is_within)?),
                        None if self.has_rules || is_within => {
                            return Err(refused(number, import.loc, "an import of another site comes after rules"));
                        }
                        None => rules.push(rule.clone()),
                    }
                    continue;
                }
                // It holds for its own file alone.
                CssRule::Namespace(namespace) if self.sheets.len() > 1 => {
                    return Err(refused(number, namespace.loc, "it has a namespace and imports"));
                }
                CssRule::LayerStatement(_) | CssRule::Ignored => {}
                _ => self.has_rules = true,
            }
            rules.push(rule.clone());
        }
        self.open.pop();
        Ok(rules)
    }

    /// The rules of a sheet under the conditions of its import.
    fn imported(
        &mut self,
        import: &ImportRule<'i>,
        number: usize,
        is_within: bool,
    ) -> Result<Vec<CssRule<'i>>, NotSmall> {
        self.count += 1;
        if self.count > MOST_IMPORTED {
            return Err(refused(0, import.loc, &format!("it imports more than {MOST_IMPORTED} style sheets")));
        }
        let loc = import.loc;
        let is_bare = import.layer.is_none() && import.supports.is_none() && import.media.media_queries.is_empty();
        let mut rules = self.rules_of(number, is_within || !is_bare)?;
        self.has_rules |= !is_bare;
        if let Some(name) = &import.layer {
            rules = vec![CssRule::LayerBlock(LayerBlockRule { name: name.clone(), rules: CssRuleList(rules), loc })];
        }
        if let Some(condition) = &import.supports {
            let condition = condition.clone();
            rules = vec![CssRule::Supports(SupportsRule { condition, rules: CssRuleList(rules), loc })];
        }
        if !import.media.media_queries.is_empty() {
            let query = import.media.clone();
            rules = vec![CssRule::Media(MediaRule { query, rules: CssRuleList(rules), loc })];
        }
        Ok(rules)
    }
}

fn refused(sheet: usize, at: Location, why: &str) -> NotSmall {
    NotSmall { sheet, line: at.line, column: at.column.saturating_sub(1), why: why.to_owned() }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn small(sheets: &[&str]) -> String {
        let sheets: Vec<String> = sheets.iter().map(|text| (*text).to_owned()).collect();
        match small_styles(&sheets, Browsers::default()) {
            Ok(text) => text,
            Err(NotSmall { sheet, line, column, why }) => format!("{sheet}:{line}:{column} {why}"),
        }
    }

    #[test]
    fn the_same_is_said_in_fewer_bytes() {
        for (text, expected) in [
            ("/* a */\n.bed {\n  color: #ff0000;\n  margin: 0px;\n}\n", ".bed{color:red;margin:0}"),
            ("/*! kept */ a { b: c }", "/*! kept */\na{b:c}"),
            (".a { color: red } .b { color: red }", ".a,.b{color:red}"),
            ("a { --x:  1px ; width: var(--x) }", "a{--x:1px;width:var(--x)}"),
            ("a { background: url(\"/assets/a b.svg?v=1\") }", "a{background:url(\"/assets/a b.svg?v=1\")}"),
            ("a { unknwon: 1 }", "a{unknwon:1}"),
            ("", ""),
        ] {
            assert_eq!(small(&[text]), expected, "{text}");
        }
    }

    #[test]
    fn what_is_imported_stands_in_its_place() {
        let other = "b { color: red }";
        for (text, expected) in [
            ("@import 'sheet:1'; a { c: d }", "b{color:red}a{c:d}"),
            ("@import url(sheet:1) print;", "@media print{b{color:red}}"),
            ("@import url(sheet:1) layer(beds) supports(display: grid) screen;", {
                "@media screen{@supports (display:grid){@layer beds{b{color:red}}}}"
            }),
            ("@import url(sheet:1) layer;", "@layer{b{color:red}}"),
            ("@layer x, y; @import 'sheet:1' layer(y);", "@layer x;@layer y{b{color:red}}"),
            (
                "@import 'https://x.example/a.css'; @import 'sheet:1';",
                "@import \"https://x.example/a.css\";b{color:red}",
            ),
            (
                "@import 'sheet:1'; @import 'https://x.example/a.css';",
                "0:0:19 an import of another site comes after rules",
            ),
            ("@import 'sheet:9';", "@import \"sheet:9\";"),
        ] {
            assert_eq!(small(&[text, other]), expected, "{text}");
        }
    }

    #[test]
    fn circles_end_and_twice_is_twice() {
        assert_eq!(small(&["@import 'sheet:1'; a{b:c}", "@import 'sheet:0'; d{e:f}"]), "d{e:f}a{b:c}");
        assert_eq!(small(&["@import 'sheet:0'; a{b:c}"]), "a{b:c}");
        let twice = ["@import 'sheet:1'; @import 'sheet:2'; @import 'sheet:1';", "a{color:red}", "a{color:#00f}"];
        assert_eq!(small(&twice), "a{color:red}");
        // Each imports the next one twice.
        let mut many: Vec<String> =
            (1..30).map(|next| format!("@import 'sheet:{next}'; @import 'sheet:{next}';")).collect();
        many.push("a{b:c}".to_owned());
        let refused = small_styles(&many, Browsers::default()).unwrap_err();
        assert_eq!(refused.why, "it imports more than 1000 style sheets");
    }

    #[test]
    fn what_is_not_understood_is_refused_at_its_place() {
        for (sheets, place) in [
            (["a { b: c }\nb {\n*zoom: 1;\nd: e\n}", ""], "0:2:"),
            (["@import 'sheet:1';", "a { b: c }\n@media { ü: } ]"], "1:1:"),
            (["a { }\n@import 'sheet:1';", ""], "0:1:"),
            (["@namespace svg url(http://www.w3.org/2000/svg); @import 'sheet:1';", "a{b:c}"], "0:"),
        ] {
            let said = small(&sheets);
            assert!(said.starts_with(place), "{sheets:?}: {said}");
        }
        assert_eq!(small(&["@namespace a url(b); a|b { c: d }"]), "@namespace a \"b\";a|b{c:d}");
    }

    #[test]
    fn older_browsers_get_what_they_know() {
        let nested = ["a { &:hover { color: rgb(255 0 0 / 50%) } }".to_owned()];
        assert_eq!(small_styles(&nested, Browsers::default()).unwrap(), "a{&:hover{color:#ff000080}}");
        let mut old = Browsers::default();
        assert!(old.add("chrome", 100, 0) && old.add("safari", 15, 4));
        assert!(!old.add("netscape", 4, 0));
        assert_eq!(small_styles(&nested, old).unwrap(), "a:hover{color:#ff000080}");
    }
}
