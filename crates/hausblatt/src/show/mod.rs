//! What the core returns, as text and as data.

/// Says a line on standard error. A reader that has gone changes nothing, least of all the exit code.
#[macro_export]
macro_rules! tell {
    ($($words:tt)*) => {{
        use std::io::Write as _;
        let _ = writeln!(anstream::stderr(), $($words)*);
    }};
}

/// The same without the end of the line.
#[macro_export]
macro_rules! tell_part {
    ($($words:tt)*) => {{
        use std::io::Write as _;
        let _ = write!(anstream::stderr(), $($words)*);
    }};
}

pub mod changes;
pub mod chart;
pub mod diagnostics;
pub mod difference;
pub mod ladder;
pub mod parts;
pub mod proof;
pub mod resolved;
pub mod sarif;
pub mod style;
pub mod table;
pub mod values;
pub mod wrap;
