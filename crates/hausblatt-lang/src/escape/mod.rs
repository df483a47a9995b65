//! How a value is written so that it stays a value: in HTML, in addresses, in CSS.

mod blocks;
pub mod css;
pub mod html;
pub mod url;
