//! The browsers that a style sheet has to be right in.

use std::hash::{Hash, Hasher};

use lightningcss::targets::{self, Targets};

/// The names of the browsers, as they are given.
pub const BROWSERS: [&str; 8] = ["chrome", "edge", "firefox", "safari", "ios", "opera", "samsung", "android"];

/// The oldest browsers that a style sheet has to be right in; without any, today's.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Browsers(targets::Browsers);

impl Browsers {
    /// Adds a browser by its name, which is one of [`BROWSERS`], with its version; whether it is known.
    pub fn add(&mut self, name: &str, major: u8, minor: u8) -> bool {
        let all = &mut self.0;
        let browser = match name {
            "chrome" => &mut all.chrome,
            "edge" => &mut all.edge,
            "firefox" => &mut all.firefox,
            "safari" => &mut all.safari,
            "ios" => &mut all.ios_saf,
            "opera" => &mut all.opera,
            "samsung" => &mut all.samsung,
            "android" => &mut all.android,
            _ => return false,
        };
        *browser = Some((u32::from(major) << 16) | (u32::from(minor) << 8));
        true
    }

    /// Whether none is named.
    pub fn is_empty(&self) -> bool {
        *self == Self::default()
    }

    pub(crate) fn targets(self) -> Targets {
        match self.is_empty() {
            true => Targets::default(),
            false => Targets::from(self.0),
        }
    }
}

impl Hash for Browsers {
    fn hash<H: Hasher>(&self, state: &mut H) {
        let all = &self.0;
        [all.chrome, all.edge, all.firefox, all.safari, all.ios_saf, all.opera, all.samsung, all.android].hash(state);
    }
}
