//! A part of a site that is built apart from the others, on a machine of its own, say.

use std::fmt::{self, Display};
use std::str::FromStr;

use super::{compressed, hash};

/// One of so many parts, counted from 1. Which files are in it depends on nothing but their paths: the parts of a site
/// have no file in common, and together they have all.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct BuildPart {
    number: u32,
    of: u32,
}

impl BuildPart {
    /// All of it.
    pub const WHOLE: Self = Self { number: 1, of: 1 };

    /// Whether the file at this path below the output folder is in it.
    pub fn holds(self, path: &str) -> bool {
        // What is compressed goes with its file.
        let path = compressed::uncompressed(path);
        self.of == 1 || hash(path.as_bytes()) % u64::from(self.of) == u64::from(self.number - 1)
    }
}

impl Display for BuildPart {
    fn fmt(&self, out: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(out, "{}/{}", self.number, self.of)
    }
}

impl FromStr for BuildPart {
    type Err = String;

    fn from_str(text: &str) -> Result<Self, String> {
        let numbers = text.split_once('/').and_then(|(number, of)| Some((number.parse().ok()?, of.parse().ok()?)));
        match numbers {
            Some((number, of)) if (1..=of).contains(&number) && of <= 10_000 => Ok(Self { number, of }),
            _ => Err("write which part of how many, as in 3/8".to_owned()),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn each_path_is_in_one_part() {
        let parts: Vec<BuildPart> = (1..=8).map(|number| format!("{number}/8").parse().unwrap()).collect();
        let mut counts = [0; 8];
        for page in 0..8000 {
            let path = format!("varieties/variety-{page}/index.html");
            let held: Vec<usize> = (0..8).filter(|&at| parts[at].holds(&path)).collect();
            assert_eq!(held.len(), 1, "{path}");
            counts[held[0]] += 1;
        }
        assert!(counts.iter().all(|count| (800..1200).contains(count)), "{counts:?}");
        assert!(BuildPart::WHOLE.holds("index.html"));
        for odd in ["", "1", "0/2", "3/2", "a/b", "1/0", "-1/2", "1/2/3", "1/99999"] {
            assert!(odd.parse::<BuildPart>().is_err(), "{odd}");
        }
    }
}
