//! Scripts made small: without comments and spaces, and with short names for what is known inside of a function alone.

use oxc_allocator::Allocator;
use oxc_codegen::{Codegen, CodegenOptions, CommentOptions, LegalComment};
use oxc_mangler::{MangleOptions, MangleOptionsKeepNames, Mangler};
use oxc_parser::Parser;
use oxc_span::SourceType;

/// A script that does the same in fewer bytes. Names that other scripts may see, and those that functions and classes say
/// of themselves, stay; so do comments with a licence.
///
/// # Errors
/// What keeps browsers from running it, as the parser has it.
pub fn small_script(text: &str) -> Result<String, String> {
    let allocator = Allocator::default();
    let read = Parser::new(&allocator, text, SourceType::unambiguous()).parse();
    if let Some(problem) = read.diagnostics.first() {
        return Err(problem.message.to_string());
    }
    let keep_names = MangleOptionsKeepNames::all_true();
    let options = MangleOptions { top_level: Some(false), keep_names, ..MangleOptions::default() };
    let mangled = Mangler::new().with_options(options).build(&read.program);
    let comments = CommentOptions { legal: LegalComment::Inline, ..CommentOptions::disabled() };
    let options = CodegenOptions { comments, ..CodegenOptions::minify() };
    let printing = Codegen::new().with_options(options).with_scoping(Some(mangled.scoping));
    Ok(printing.with_private_member_mappings(Some(mangled.class_private_mappings)).build(&read.program).code)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_same_is_done_in_fewer_bytes() {
        for (text, expected) in [
            ("// a\nfunction rows(count) {\n  return count * 2; // b\n}\n", "function rows(e){return e*2}"),
            ("/*! kept */\nlet bed = 1;", "/*! kept */\nlet bed=1;"),
            (
                "import { a } from './a.js?v=1';\nexport const rows = a + 1;",
                "import{a}from\"./a.js?v=1\";export const rows=a+1;",
            ),
            (
                "(function(){ 'use strict'; var long = 1; f(long, long) })()",
                "(function(){\"use strict\";var e=1;f(e,e)})();",
            ),
            // What a text may name, stays.
            ("function f(bed) { return eval('bed') }", "function f(bed){return eval(`bed`)}"),
            (
                "f(() => { class Bed {} return new Bed().constructor.name })",
                "f(()=>{class Bed{}return new Bed().constructor.name});",
            ),
            ("const say = `a\n${b}`;", "const say=`a\n${b}`;"),
            ("", ""),
        ] {
            assert_eq!(small_script(text).as_deref(), Ok(expected), "{text}");
        }
    }

    #[test]
    fn what_no_browser_runs_is_refused() {
        assert_eq!(small_script("let a = ;").unwrap_err(), "Unexpected token");
    }
}
