//! `hausblatt.toml`: typed, validated, with the place of what may have to be reported.

mod allow;
mod build;
mod collection;
mod content;
mod file;
mod former;
mod ladders;
mod menu;
mod route;
mod taxonomy;

pub use allow::Allowance;
pub use build::BuildConfig;
pub use collection::CollectionConfig;
pub use collection::PeriodPart;
pub use content::ImagesConfig;
pub use file::*;
pub use ladders::Ladders;
pub use menu::MenuConfig;
pub use route::RouteConfig;
pub use route::SearchConfig;
pub use taxonomy::TaxonomyConfig;
pub use taxonomy::TermConfig;
