//! Requests as pages: the values that templates see, pages and error pages, feeds and sitemaps, and the true status.

pub(crate) mod component_preview;
pub(crate) mod dependencies;
pub(crate) mod feed;
pub mod host;
pub mod outline;
pub mod page;
pub(crate) mod search;
pub(crate) mod sitemap;
pub mod small;
pub mod status;
pub mod values;
pub mod versions;
