//! Tokens to tree. All errors of a file are found in one go; what can't be read becomes `Broken`.

pub mod edges;
pub(crate) mod lines;
pub mod prepare;
pub(crate) mod statement;
pub(crate) mod value;

use crate::syntax::lex::Token;
use crate::syntax::tree::Block;
use crate::text::diagnostic::Problems;

/// How deep values and blocks may nest.
pub const DEPTH: usize = 100;

/// Parses the tokens of `text`.
pub fn parse(text: &str, tokens: &[Token], problems: &mut Problems) -> Block {
    let pieces = lines::standalone(text, tokens);
    statement::parse(text, &pieces, problems)
}
