//! The operators as the documentation says them, with examples that a test runs.

/// Operators of one precedence.
pub struct Level {
    /// How they are written.
    pub signs: &'static str,
    /// What they do.
    pub about: &'static str,
    /// Examples and what they print.
    pub examples: &'static [(&'static str, &'static str)],
}

/// All of them, from tight to loose.
pub const LEVELS: &[Level] = &[
    Level {
        signs: "`.name` `.name(…)` `[n]` `[\"key\"]`",
        about: "a member; `[0]` is the first of a list, `[-1]` the last, outside is `nothing`",
        examples: &[("[\"pea\", \"bean\"][-1]", "bean"), ("nothing.title or \"none\"", "none")],
    },
    Level { signs: "`-x`", about: "the negative of a number", examples: &[("-2 + 3", "1")] },
    Level {
        signs: "`*` `/` `%`",
        about: "`/` gives a whole number where the division is exact; `%` has the sign of the divisor",
        examples: &[("7 / 2", "3.5"), ("8 / 2", "4"), ("-7 % 3", "2")],
    },
    Level {
        signs: "`+` `-`",
        about: "`+` also joins texts, a text and anything printable, and lists; `date + n` moves days, `date - date` counts them; `nothing + x` is `x`",
        examples: &[
            ("\"bed \" + 3", "bed 3"),
            ("([1] + [2]).count", "2"),
            ("\"2026-03-01\".date + 31", "2026-04-01"),
            ("nothing + 2", "2"),
        ],
    },
    Level {
        signs: "`==` `!=` `<` `<=` `>` `>=` `in` `has`",
        about: "kinds never equal each other; two numbers, texts or dates have an order; `has` and `in`: member of a list, part of a text, key of a record",
        examples: &[
            ("1 == \"1\"", "false"),
            ("1 == 1.0", "true"),
            ("\"pea\" < \"Radish\"", "true"),
            ("nothing < 1", "false"),
            ("[\"pea\"] has \"pea\"", "true"),
            ("\"ea\" in \"pea\"", "true"),
        ],
    },
    Level { signs: "`not`", about: "true for what counts as false", examples: &[("not \"\"", "true")] },
    Level {
        signs: "`and`",
        about: "the operand that decided",
        examples: &[("1 and \"pea\"", "pea"), ("0 and \"pea\"", "0")],
    },
    Level { signs: "`or`", about: "the operand that decided", examples: &[("\"\" or \"pea\"", "pea")] },
    Level {
        signs: "`if A then B else C`",
        about: "B where A counts as true, else C",
        examples: &[("if 2 > 1 then \"more\" else \"less\"", "more")],
    },
];
