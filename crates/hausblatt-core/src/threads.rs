//! How work is divided among threads. What a thread has begun, no other takes over, so that at the end one may be at work
//! alone for as long as that takes: `.with_max_len(PAGES)` makes it short.

/// So many pages a thread makes before another may take the rest.
pub(crate) const PAGES: usize = 32;

/// The same for what takes far less than a page: files that are read or looked at.
pub(crate) const FILES: usize = 256;

/// The same for what takes far longer: an image that is made, a variation of a site.
pub(crate) const ONE: usize = 1;
