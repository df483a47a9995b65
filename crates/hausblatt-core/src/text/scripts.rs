//! Scripts as they are written (ECMAScript 2026): what modules import, where else files are named, and what keeps a browser
//! from running them.

use hausblatt_lang::text::source::Span;
use hausblatt_lang::value::json;
use hausblatt_small::small_script;
use oxc_allocator::Allocator;
use oxc_parser::{Parser, ParserReturn};
use oxc_span::{GetSpan, SourceType};

use crate::text::deep::with_stack;

/// What a script says.
#[derive(Debug, Default)]
pub struct Scripts {
    /// The addresses that it loads as a module, in their order.
    pub imports: Vec<Import>,
    /// Where modules are loaded whose address is put together by the script.
    pub computed: Vec<Span>,
    /// The texts in it that begin like the address of a file of the site, imports left out.
    pub named: Vec<(String, Span)>,
    /// What keeps browsers from running it.
    pub problem: Option<ScriptProblem>,
    /// Whether it was too large to be read, or could not be.
    pub is_unread: bool,
}

impl Scripts {
    /// What is said of a script that can't be read, for this reason.
    pub fn unreadable(why: &str) -> Self {
        let problem = ScriptProblem { span: Span::default(), message: format!("this script can't be read: {why}") };
        Self { problem: Some(problem), is_unread: true, ..Self::default() }
    }
}

/// An address that a script loads.
#[derive(Debug, PartialEq, Eq)]
pub struct Import {
    /// The address, without escapes.
    pub address: String,
    /// Where it is, with its quotes.
    pub span: Span,
    /// Whether it is an address whatever it begins with; what a module imports is a name unless it begins with `.` or `/`.
    pub is_address: bool,
}

impl Import {
    /// Its address; none for the name of a module, whose address an import map says.
    pub fn as_address(&self) -> Option<&str> {
        let begins = self.address.starts_with(['/', '.']) || self.address.contains("://");
        (self.is_address || begins).then_some(&*self.address)
    }
}

/// An address as it is written in the place of another one.
pub(crate) fn written_address(other: &str, address: &str) -> String {
    let quote = if other.starts_with('\'') { '\'' } else { '"' };
    let mut escaped = String::with_capacity(address.len() + 2);
    json::characters(address, &mut escaped);
    format!("{quote}{escaped}{quote}")
}

/// Something that is written wrong.
#[derive(Debug, PartialEq, Eq)]
pub struct ScriptProblem {
    /// Where.
    pub span: Span,
    /// What is wrong, as the parser has it.
    pub message: String,
}

/// How files of the site are named.
const BEGINNINGS: &[&str] = &["/assets/", "/media/"];

/// Whether a script may load anything as a module: it need not be read to find that it does not.
pub fn may_import(text: &str) -> bool {
    memchr::memmem::find(text.as_bytes(), b"import").is_some()
        || memchr::memmem::find(text.as_bytes(), b"from").is_some()
}

/// Reads a script.
pub fn read(text: &str) -> Scripts {
    let unread = || Scripts { is_unread: true, ..Scripts::default() };
    if text.len() > u32::MAX as usize {
        return unread();
    }
    with_stack(stack_for(text), || parsed(text)).unwrap_or_else(unread)
}

/// A script made small.
///
/// # Errors
/// Why it can't be.
pub(crate) fn small(text: &str) -> Result<String, String> {
    let small = with_stack(SMALL_DEPTH * stack_for(text), || small_script(text));
    small.unwrap_or_else(|| Err("it is too large".to_owned()))
}

/// To make a script small takes so many times the stack that reading it does.
const SMALL_DEPTH: usize = 2;

/// So much stack is enough for a script, in bytes, however deep it nests: the parser calls itself for what is inside.
fn stack_for(text: &str) -> usize {
    let needs = |byte: u8| match byte {
        b'(' | b'[' | b'{' | b'`' => 2400,
        b'@' => 1000,
        b'a'..=b'z' | b'A'..=b'Z' | b'0'..=b'9' | b'_' | b' ' | b'\n' | b')' | b']' | b'}' | b'.' | b',' | b';' => 150,
        _ => 600,
    };
    (256 << 10) + text.bytes().map(needs).sum::<usize>()
}

fn parsed(text: &str) -> Scripts {
    let allocator = Allocator::default();
    let read = Parser::new(&allocator, text, SourceType::unambiguous()).parse();
    let mut scripts = Scripts::default();
    if let Some(first) = read.diagnostics.first() {
        let at = first.labels.first().map(|label| span(label.span()));
        scripts.problem = Some(ScriptProblem { span: at.unwrap_or_default(), message: first.message.to_string() });
        return scripts;
    }
    imports(text, &read, &mut scripts);
    named(text, &read, &mut scripts);
    scripts
}

fn span(span: oxc_span::Span) -> Span {
    Span { start: span.start, end: span.end }
}

fn imports(text: &str, read: &ParserReturn<'_>, scripts: &mut Scripts) {
    let record = &read.module_record;
    for (address, requests) in &record.requested_modules {
        let import = |at: Span| Import { address: address.to_string(), span: at, is_address: false };
        scripts.imports.extend(requests.iter().map(|request| import(span(request.span))));
    }
    for dynamic in &record.dynamic_imports {
        let at = span(dynamic.module_request);
        match literal(&text[at.range()]) {
            Some(address) => scripts.imports.push(Import { address: address.to_owned(), span: at, is_address: false }),
            None => scripts.computed.push(at),
        }
    }
    // new URL("part.svg", import.meta.url)
    for meta in &record.import_metas {
        let before = text[..meta.start as usize].trim_end();
        let Some(before) = before.strip_suffix(',').map(str::trim_end) else { continue };
        let Some(quote) = before.chars().next_back().filter(|quote| matches!(quote, '"' | '\'')) else { continue };
        let Some(open) = before[..before.len() - 1].rfind(quote) else { continue };
        let of_url = before[..open].trim_end().strip_suffix('(').map(str::trim_end);
        if of_url.is_some_and(|before| before.ends_with("URL"))
            && let Some(address) = literal(&before[open..])
        {
            scripts.imports.push(Import {
                address: address.to_owned(),
                is_address: true,
                span: Span::new(open, before.len()),
            });
        }
    }
    scripts.imports.sort_by_key(|import| import.span.start);
}

/// What a text in quotes says, if that needs no escapes.
fn literal(written: &str) -> Option<&str> {
    let quote = written.chars().next().filter(|quote| matches!(quote, '"' | '\'' | '`'))?;
    let inside = written[1..].strip_suffix(quote)?;
    let is_made = quote == '`' && inside.contains("${");
    (!is_made && !inside.contains([quote, '\\', '\n'])).then_some(inside)
}

/// Texts that begin like the address of a file, where no comment is and no import.
fn named(text: &str, read: &ParserReturn<'_>, scripts: &mut Scripts) {
    for beginning in BEGINNINGS {
        for (at, _) in text.match_indices(beginning) {
            let Some(quote) = text[..at].chars().next_back().filter(|quote| matches!(quote, '"' | '\'' | '`')) else {
                continue;
            };
            let end = text[at..].find([quote, '\n', '$']).map_or(text.len(), |end| at + end);
            // Both are in their order.
            let comments = &read.program.comments;
            let before = comments.partition_point(|comment| (comment.span().start as usize) <= at);
            let is_comment = before > 0 && span(comments[before - 1].span()).range().contains(&at);
            let before = scripts.imports.partition_point(|import| import.span.range().start <= at);
            let is_import = before > 0 && scripts.imports[before - 1].span.range().contains(&at);
            if !is_comment && !is_import {
                scripts.named.push((text[at..end].to_owned(), Span::new(at, end)));
            }
        }
    }
    scripts.named.sort_by_key(|(_, span)| span.start);
}

#[cfg(test)]
mod tests {
    use super::*;

    fn imported(text: &str) -> Vec<String> {
        let read = read(text);
        assert_eq!(read.problem, None, "{text}");
        read.imports.iter().map(|import| format!("{} {}", import.address, &text[import.span.range()])).collect()
    }

    #[test]
    fn finds_what_modules_import() {
        for (text, expected) in [
            ("import a from './a.js'; export * from \"/b.js\"; import 'c';", "./a.js './a.js'|/b.js \"/b.js\"|c 'c'"),
            (
                "const a = await import('./a.js'); import(`./b.js`); import(`./${a}.js`); import(a)",
                "./a.js './a.js'|./b.js `./b.js`",
            ),
            ("new URL('part.svg', import.meta.url)", "part.svg 'part.svg'"),
            ("f('part.svg', import.meta.url); import.meta.url", ""),
            ("// import './a.js'\nconst a = \"import './a.js'\";", ""),
            ("\u{feff}import './a.js'", "./a.js './a.js'"),
            ("let x = 1", ""),
        ] {
            assert_eq!(imported(text).join("|"), expected, "{text}");
        }
        let computed = read("import(`./${a}.js`); import('a' + b)").computed;
        assert_eq!(computed.len(), 2);
    }

    #[test]
    fn finds_where_files_are_named() {
        let text =
            "import '/assets/a.js'; // '/assets/b.js'\nfetch('/media/c.json'); f(`/assets/${d}`); '/assets/e.js'";
        let named: Vec<String> = read(text).named.into_iter().map(|(text, _)| text).collect();
        assert_eq!(named, ["/media/c.json", "/assets/", "/assets/e.js"]);
    }

    #[test]
    fn finds_what_browsers_cannot_run() {
        for (text, at) in [("let a = ;", "1:8"), ("f(\n  1", "2:3"), ("const b;", "1:6"), ("}", "1:0"), ("'a", "1:0")] {
            let problem = read(text).problem.unwrap_or_else(|| panic!("{text}"));
            let before = &text[..problem.span.range().start];
            let column = before.len() - before.rfind('\n').map_or(0, |line| line + 1);
            assert_eq!(format!("{}:{column}", before.matches('\n').count() + 1), at, "{text}: {}", problem.message);
        }
        for text in [
            "",
            "\u{feff}let a = 1",
            "#!/usr/bin/env node\nlet a",
            "import('a')",
            "return_(1)",
            "await = 1; var yield_",
        ] {
            assert_eq!(read(text).problem, None, "{text}");
        }
    }

    #[test]
    fn depth_and_size_have_limits() {
        for deep in ["[", "(", "{", "!", "a=", "`${", "({a(){", "@", "a:", "a=>", "new ", "do "] {
            let read = read(&deep.repeat(20_000));
            assert!(read.problem.is_some() || read.is_unread, "{deep}");
        }
        assert!(read(&"[".repeat(4 << 20)).is_unread);
    }

    #[test]
    fn what_is_deep_can_be_made_small() {
        let mut count = 0;
        for (open, middle, close) in [
            ("[", "", "]"),
            ("(", "a", ")"),
            ("!", "a", ""),
            ("a=>", "a", ""),
            ("a?b:", "c", ""),
            ("if(a){}else ", "{}", ""),
            ("a+", "a", ""),
            ("a**", "a", ""),
            ("", "a", ".b"),
            ("", "a", "()"),
            ("", "a", "[b]"),
            ("`${", "a", "}`"),
            ("{", "", "}"),
            ("({a:", "1", "})"),
            ("(function(){", "", "})"),
            ("(class{static{", "", "}})"),
            ("typeof ", "a", ""),
            ("a=", "b", ""),
            ("a:", "b", ""),
            ("do ", "b", " while(a)"),
            ("for(;;)", "b", ""),
            ("new (", "a", ")"),
            ("", "a", "?.b"),
            ("a&&(b||", "a", ")"),
        ] {
            let text = format!("{}{middle}{}", open.repeat(5_000), close.repeat(5_000));
            if read(&text).problem.is_none() {
                assert!(small(&text).is_ok(), "{open}{middle}{close}");
                count += 1;
            }
        }
        assert!(count > 15, "{count}");
    }
}
