//! Files beside those of a build that hold the same compressed, for hosts that send what is there.

use std::borrow::Cow;
use std::io::{self, Write};

use brotli::enc::BrotliEncoderParams;
use flate2::Compression;
use flate2::write::GzEncoder;
use xxhash_rust::xxh3::xxh3_64;

use crate::build::record::{Kept, Record};
use crate::build::write::{self, OutputFolder};

/// How a file is compressed.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Coding {
    /// `.gz` (RFC 1952).
    Gzip,
    /// `.br` (RFC 7932).
    Brotli,
}

/// Both.
pub(super) const CODINGS: [Coding; 2] = [Coding::Gzip, Coding::Brotli];

/// Extensions of what compression makes smaller: texts, and what holds numbers as they are.
const GAINS: &[&str] = &[
    "html",
    "css",
    "js",
    "mjs",
    "json",
    "xml",
    "svg",
    "txt",
    "csv",
    "md",
    "webmanifest",
    "ico",
    "ttf",
    "otf",
    "eot",
    "wasm",
    "geojson",
    "map",
    "vtt",
    "ics",
];
/// What is shorter, in bytes, fits into one packet as it is.
const SHORTEST: u64 = 512;
/// Of 11; those above take ten times as long for a few per cent.
const QUALITY: i32 = 9;
/// How far back a repetition is found, as a power of two: in all of most files.
const WINDOW: i32 = 22;

impl Coding {
    /// What is behind the path of a file that is compressed so.
    pub(super) fn ending(self) -> &'static str {
        match self {
            Coding::Gzip => ".gz",
            Coding::Brotli => ".br",
        }
    }

    fn compressed(self, bytes: &[u8]) -> io::Result<Vec<u8>> {
        match self {
            Coding::Gzip => {
                let mut encoder = GzEncoder::new(Vec::new(), Compression::best());
                encoder.write_all(bytes)?;
                encoder.finish()
            }
            Coding::Brotli => {
                let mut out = Vec::new();
                let parameters =
                    BrotliEncoderParams { quality: QUALITY, lgwin: WINDOW, ..BrotliEncoderParams::default() };
                brotli::BrotliCompress(&mut &*bytes, &mut out, &parameters)?;
                Ok(out)
            }
        }
    }
}

/// The path of the file that this one is beside; the path itself for any other file.
pub(super) fn uncompressed(path: &str) -> &str {
    CODINGS.iter().find_map(|coding| path.strip_suffix(coding.ending())).unwrap_or(path)
}

/// The paths of the files that may be beside one.
pub(super) fn beside(path: &str) -> impl Iterator<Item = String> + '_ {
    let may = gains(path);
    CODINGS.iter().filter(move |_| may).map(move |coding| format!("{path}{}", coding.ending()))
}

fn gains(path: &str) -> bool {
    path.rsplit_once('.').is_some_and(|(_, extension)| GAINS.contains(&&*extension.to_ascii_lowercase()))
}

/// A hash that is other where other bytes were compressed.
fn key(of: &Kept, coding: Coding) -> u64 {
    xxh3_64(&[of.hash.to_le_bytes(), of.length.to_le_bytes(), [coding as u8; 8]].concat())
}

/// What a file that is to be beside another one holds.
pub(super) enum Beside {
    /// It is there, and right.
    Stays(String, Kept),
    /// These bytes, and the key of those that were compressed.
    Holds(String, Vec<u8>, u64),
}

/// The files that are to be beside the one at a path, which is as it was kept: none where it would not be smaller.
///
/// # Errors
/// When it can't be read.
pub(super) fn made<'b>(
    out: OutputFolder<'_>,
    path: &str,
    of: &Kept,
    old: &Record,
    bytes: impl Fn() -> io::Result<Cow<'b, [u8]>>,
) -> io::Result<Vec<Beside>> {
    let mut all = Vec::new();
    if !gains(path) || of.length < SHORTEST {
        return Ok(all);
    }
    let mut whole = None;
    for coding in CODINGS {
        let (beside, key) = (format!("{path}{}", coding.ending()), key(of, coding));
        if let Some(kept) =
            old.files.get(&*beside).filter(|kept| kept.hash == key && write::is_as_kept(out, &beside, kept))
        {
            all.push(Beside::Stays(beside, kept.clone()));
            continue;
        }
        let whole = match &whole {
            Some(whole) => whole,
            None => whole.insert(bytes()?),
        };
        let compressed = coding.compressed(whole)?;
        if compressed.len() < whole.len() {
            all.push(Beside::Holds(beside, compressed, key));
        }
    }
    Ok(all)
}

#[cfg(test)]
mod tests {
    use std::io::Read;

    use super::*;

    #[test]
    fn what_is_compressed_is_the_same_again() {
        let text = "Sow in spring, thin in May. ".repeat(100);
        let mut read = String::new();
        let gzip = Coding::Gzip.compressed(text.as_bytes()).unwrap();
        flate2::read::GzDecoder::new(&*gzip).read_to_string(&mut read).unwrap();
        assert_eq!(read, text);
        let mut read = Vec::new();
        let brotli = Coding::Brotli.compressed(text.as_bytes()).unwrap();
        brotli::BrotliDecompress(&mut &*brotli, &mut read).unwrap();
        assert_eq!(read, text.as_bytes());
        assert!(brotli.len() < gzip.len() && gzip.len() < text.len() / 10);
        // The same bytes give the same file, on any day.
        assert_eq!(Coding::Gzip.compressed(text.as_bytes()).unwrap(), gzip);
    }

    #[test]
    fn paths_belong_together() {
        assert_eq!(beside("a/index.html").collect::<Vec<_>>(), ["a/index.html.gz", "a/index.html.br"]);
        assert_eq!(beside("a.png").count() + beside("README").count(), 0);
        assert_eq!(uncompressed("a/index.html.br"), "a/index.html");
        assert_eq!(uncompressed("a/index.html"), "a/index.html");
    }
}
