//! The images that the pages of a build name, made of those of the site.

use std::collections::{BTreeMap, BTreeSet};
use std::sync::Arc;

use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::source::Span;
use rayon::prelude::*;

use crate::build::record::Record;
use crate::build::write::{self, OutputFolder};
use crate::build::{BuildPart, Outcome};
use crate::files::{FileNode, KeptImages, MADE, MadeImage};
use crate::text::codes;
use crate::threads::ONE;
use crate::world::World;

/// The images that are named, by path.
pub(super) type NamedImages = BTreeMap<Box<str>, Arc<MadeImage>>;

/// Those that the pages name.
pub(super) fn named<'o>(world: &World, outcomes: impl Iterator<Item = &'o Outcome>) -> NamedImages {
    let paths = outcomes.flat_map(|outcome| &outcome.images);
    let images = paths.filter_map(|path| world.snapshot.made_images().find(path));
    images.map(|image| (image.path.clone(), image)).collect()
}

/// Those that pages name which are as they were: they are there, and nobody has to know how to make them.
pub(super) fn kept<'o>(outcomes: impl Iterator<Item = &'o Outcome>, named: &NamedImages, old: &Record) -> Outcome {
    let paths: BTreeSet<&Box<str>> =
        outcomes.flat_map(|outcome| &outcome.images).filter(|path| !named.contains_key(*path)).collect();
    let kept = paths.into_iter().map(|path| path.trim_start_matches('/'));
    let kept = kept.filter_map(|path| Some((path.into(), old.files.get(path)?.clone())));
    Outcome { kept: kept.collect(), ..Outcome::default() }
}

/// The path of an image below the output folder.
pub(super) fn output_path(image: &MadeImage) -> &str {
    image.path.trim_start_matches('/')
}

/// Whether a file of an earlier build stays although no page of this one names it: pages of other parts may name an image,
/// and those that an earlier build wrote and that have errors now.
pub(super) fn stays(path: &str, part: BuildPart, failed: &[(String, u16)]) -> bool {
    path.starts_with(MADE.trim_start_matches('/')) && (part != BuildPart::WHOLE || !failed.is_empty())
}

/// What is said of a file of which an image can't be made.
pub(crate) fn can_not_be_made(source: &FileNode, why: &str) -> Diagnostic {
    Diagnostic::of(&codes::BAD_IMAGE, format!("no other image can be made of this one: {why}"))
        .help("save it anew, or leave it as it is: without .scaled, .srcset and their like")
        .at(&source.path, Span::default())
}

/// Makes the images that are not there yet, on all cores, and writes them.
pub(super) fn write_all(
    world: &World,
    out: OutputFolder<'_>,
    images: &NamedImages,
    old: &Record,
    done: impl Fn(usize) + Sync,
) -> Vec<Outcome> {
    let kept = KeptImages::of(&world.snapshot);
    let written = MadeImage::by_source(images.values()).into_par_iter().with_max_len(ONE).map(|group| {
        let outcome = write_group(out, &kept, &group, old);
        done(group.len());
        outcome
    });
    written.collect()
}

/// Those of one file.
fn write_group(out: OutputFolder<'_>, kept: &KeptImages<'_>, group: &[Arc<MadeImage>], old: &Record) -> Outcome {
    let mut outcome = Outcome::default();
    let mut missing: Vec<Arc<MadeImage>> = Vec::new();
    for image in group {
        // Its path says what is in it.
        let path = output_path(image);
        match old.files.get(path).filter(|earlier| write::is_as_kept(out, path, earlier)) {
            Some(earlier) => outcome.kept.push((path.into(), earlier.clone())),
            None => missing.push(image.clone()),
        }
    }
    let Some(source) = missing.first().map(|image| image.source.clone()) else { return outcome };
    let bytes = match kept.bytes(&missing) {
        Ok(bytes) => bytes,
        Err(why) => {
            outcome.diagnostics.push(can_not_be_made(&source, &why));
            return outcome;
        }
    };
    for (image, bytes) in missing.iter().zip(bytes) {
        let path = output_path(image);
        match write::bytes(out, path, &bytes, old.files.get(path)) {
            Ok((kept, written)) => {
                outcome.add(path.into(), kept, written);
            }
            Err(error) => {
                outcome.kept.push((path.into(), old.files.get(path).cloned().unwrap_or_default()));
                outcome.error = Some((out.folder.join(path), error));
            }
        }
    }
    outcome
}
