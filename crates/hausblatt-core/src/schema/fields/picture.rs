//! Images that fields name.

use std::sync::Arc;

use hausblatt_lang::value::datum::MadeRecord;
use hausblatt_lang::value::host::Host;
use hausblatt_lang::value::shape::Symbol;
use hausblatt_lang::value::{Record, Scratch, Value};
use xxhash_rust::xxh3::xxh3_64;

use crate::files::FileNode;
use crate::text::names;

/// An image that content names; it prints as its address.
#[derive(Debug)]
pub(crate) struct Picture {
    /// Its address.
    pub address: Box<str>,
    /// Words for those who can't see it.
    pub alt: Option<Box<str>>,
    /// Its file, if it is one of the site's.
    pub node: Option<Arc<FileNode>>,
}

impl MadeRecord for Picture {
    // What its file is like is a matter of the file.
    fn lasting_digest(&self, _: &dyn Host) -> u64 {
        xxh3_64(format!("{:?}", (&self.address, &self.alt, self.node.is_some())).as_bytes())
    }
}

impl Record for Picture {
    fn get<'a>(&'a self, symbol: Symbol, _: &Scratch<'a>) -> Value<'a> {
        let pixels = || self.node.as_ref().and_then(|node| node.pixels());
        let number = |size: Option<u32>| size.map_or(Value::Nothing, |size| Value::Int(i64::from(size)));
        match symbol {
            names::ADDRESS | names::PATH => Value::Text(&self.address),
            names::ALT => self.alt.as_deref().map_or(Value::Nothing, Value::Text),
            names::WIDTH => number(pixels().map(|(width, _)| width)),
            names::HEIGHT => number(pixels().map(|(_, height)| height)),
            _ => Value::Nothing,
        }
    }

    fn keys(&self) -> Vec<Symbol> {
        vec![names::ADDRESS, names::PATH, names::ALT, names::WIDTH, names::HEIGHT]
    }

    fn as_text(&self) -> Option<&str> {
        Some(&self.address)
    }

    fn is_image(&self) -> bool {
        true
    }
}
