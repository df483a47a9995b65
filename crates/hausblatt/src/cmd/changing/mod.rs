//! Commands that change a theme, and keep its pages: each works out the change as a whole and renders both sides first.

pub mod extend;
pub mod extract;
pub mod moving;
pub mod neaten;
pub mod rename;

use hausblatt_core::world::World;
use hausblatt_lang::text::diagnostic::Diagnostic;

use crate::failure::Failure;
use crate::opened;
use crate::options::Common;
use crate::show::diagnostics;

/// Why a change can't be made: one reason without a place is the error itself, others are shown at their places.
fn refused(world: &World, problems: &[Diagnostic], common: &Common) -> Failure {
    if let [problem] = problems
        && problem.place.is_none()
    {
        return opened::failed(problem);
    }
    diagnostics::show(&world.snapshot, problems, common);
    Failure::Work("nothing was written".to_owned(), None)
}
