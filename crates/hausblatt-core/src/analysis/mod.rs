//! What is true of a site as a whole: what a file reaches, why it is not used, what content needs and does not find, what differs.

pub mod asset_conflicts;
pub mod chart;
mod choice_problem;
pub mod compare;
pub mod content_refs;
pub mod expect;
pub mod explanation;
pub mod missed;
pub mod needs;
pub(crate) mod next_steps;
pub(crate) mod notes;
pub(crate) mod potential_use;
pub mod reach;
pub mod sent_file;
pub mod states;
mod subject;
