//! The development server: each request is answered from the site as it is at that moment.
//!
//! [`live`] keeps the World up to date, [`watch`] rings when a file may have changed, [`allowed_hosts`] turns away who is not
//! meant, [`answers`], [`files`] and [`images`] make what is sent, [`reload`] and [`badge`] keep open pages up to date and explain
//! them, and [`workbench`] is what is at `/~/`: what it tries is in [`tries`], what it writes in [`keeping`], for whom [`access`]
//! says, and [`edits`] reads forms.

mod access;
mod allowed_hosts;
mod answers;
mod badge;
mod checked;
mod edits;
mod files;
mod images;
mod keeping;
mod live;
mod missed;
mod problem_page;
mod reload;
mod server;
mod tries;
mod watch;
mod workbench;

pub use access::Access;
pub use allowed_hosts::Names;
pub use live::{Live, Moment};
pub use server::*;

use std::sync::{Mutex, MutexGuard, PoisonError};

/// Takes hold of what several threads share. What one that has panicked has left is as good as before.
fn locked<T>(mutex: &Mutex<T>) -> MutexGuard<'_, T> {
    mutex.lock().unwrap_or_else(PoisonError::into_inner)
}
