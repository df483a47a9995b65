//! What each sort of diagnostic has in common: its code, how bad it is, what it is, and what to do.

use crate::text::diagnostic::Severity;

/// A sort of diagnostic: all that is the same whenever it is reported.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Code {
    /// Its stable name, for programs and for exceptions.
    pub name: &'static str,
    /// How bad it is; where it is reported, another severity can be given.
    pub severity: Severity,
    /// What it is, in a line.
    pub about: &'static str,
    /// Why it matters and what to do.
    pub explanation: &'static str,
}

/// Declares codes, each a constant, and lists of them: `LIST { NAME: Severity, "code", "about", "explanation"; … }`.
#[macro_export]
macro_rules! codes {
    ($($(#[$doc:meta])* $list:ident {
        $($name:ident: $severity:ident, $code:literal, $about:literal, $explanation:literal;)*
    })*) => {
        $($(
            #[doc = concat!("`", $code, "`: ", $about, ".")]
            pub const $name: $crate::text::code::Code = $crate::text::code::Code {
                name: $code,
                severity: $crate::text::diagnostic::Severity::$severity,
                about: $about,
                explanation: $explanation,
            };
        )*
        $(#[$doc])*
        pub const $list: &[$crate::text::code::Code] = &[$($name),*];)*
    };
}
