//! Runs programs: a template, then the layouts around it, to one complete page or a stop.

mod assets;
mod calls;
pub(crate) mod evaluate;
mod loops;
mod marks;
mod print;
pub(crate) mod query;
mod renderer;
mod slots;
mod stop;
mod trace;
mod trays;

pub use marks::{Mark, marks};
pub use query::{digest_of_order, digest_of_rows, digests_of_index};
pub use renderer::*;
pub(crate) use stop::Halt;
pub use stop::{Limits, Stop, given_up, unless_given_up};
pub use trace::{Piece, piece_at, pieces, written_at};
