//! All content files, read.

use std::sync::Arc;

use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::source::Span;
use hausblatt_lang::text::suggest::did_you_mean;
use hausblatt_lang::value::shape::{Interner, Shape};
use rayon::prelude::*;

use crate::files::FileNode;
use crate::model::content::{self, Content, ContentRegistry, Read, Reading, Section, Shapes};
use crate::model::site::Sources;
use crate::model::taxonomy::Taxonomy;
use crate::schema::config::{self, Config};
use crate::schema::fields::Field;
use crate::text::codes;

/// So many files are read on all cores before what they hold is entered: more would only take memory.
const AT_ONCE: usize = 1024;

/// Reads the content of a site; the terms that it names join the taxonomies.
pub fn read(
    sources: &Sources<'_>,
    config: &Config,
    taxonomies: &mut [Taxonomy],
    symbols: &mut Interner,
    problems: &mut Vec<Diagnostic>,
) -> Vec<Content> {
    let (asking, conversion) = (sources.asking, sources.conversion);
    let mut files: Vec<&Arc<FileNode>> = sources.snapshot.below("content/").collect();
    files.sort_by(|a, b| a.path.cmp(&b.path));
    let groups = |name: &str| -> Vec<u16> {
        let of = |taxonomy: &Taxonomy| taxonomy.config.of.iter().any(|of| of.text == name);
        (0u16..).zip(taxonomies.iter()).filter(|(_, taxonomy)| of(taxonomy)).map(|(number, _)| number).collect()
    };
    let mut shapes = Shapes::default();
    let mut kind = |home, name, fields, shows_future| {
        let shape = shapes.of_fields(fields, symbols);
        ContentKind { home, name, fields, shows_future, grouped_by: groups(name), shape }
    };
    let mut kinds = vec![kind(Section::Pages, "pages", &config.page_fields, false)];
    for (collection, number) in config.collections.iter().zip(0..) {
        kinds.push(kind(
            Section::Collection(number),
            &collection.name.text,
            &collection.fields,
            collection.shows_future,
        ));
    }
    let (today, drafts) = (asking.today, asking.drafts);
    let mut contents = Vec::with_capacity(files.len());
    let mut placed: Vec<Result<(usize, Read), Diagnostic>> = Vec::new();
    for files in files.chunks(AT_ONCE) {
        let read = files.par_iter().map(|node| {
            let (at, relative) = place(node, &kinds, config)?;
            let ContentKind { home, fields, shows_future, ref grouped_by, ref shape, .. } = kinds[at];
            let taxonomies = &*taxonomies;
            let reading =
                Reading { fields, home, conversion, today, drafts, shows_future, taxonomies, grouped_by, shape };
            Ok((at, content::read(node, relative, &reading)))
        });
        read.collect_into_vec(&mut placed);
        let mut book = ContentRegistry { symbols, shapes: &mut shapes, taxonomies, problems };
        for placed in placed.drain(..) {
            match placed {
                Ok((at, mut read)) => {
                    book.problems.append(&mut read.problems);
                    let Some(content) = read.content else { continue };
                    contents.push(content);
                    // Entered where it stays, since there are many.
                    if let Some(content) = contents.last_mut() {
                        content::register_terms(content, read.undeclared, &kinds[at].grouped_by, &mut book);
                    }
                }
                Err(diagnostic) => book.problems.push(diagnostic),
            }
        }
    }
    contents
}

/// What content of one home has in common.
struct ContentKind<'c> {
    home: Section,
    name: &'c str,
    fields: &'c [Field],
    shows_future: bool,
    /// The taxonomies that group it.
    grouped_by: Vec<u16>,
    /// Of content that has no undeclared field.
    shape: Arc<Shape>,
}

/// The kind of content that a file holds, and the file's path below the folder of that kind.
fn place<'n>(node: &'n FileNode, kinds: &[ContentKind<'_>], config: &Config) -> Result<(usize, &'n str), Diagnostic> {
    let below = &node.path["content/".len()..];
    let Some((folder, relative)) = below.split_once('/') else {
        let diagnostic = Diagnostic::of(&codes::MISPLACED_CONTENT, "this file is beside the collections' folders");
        return Err(diagnostic.help("move it to content/pages/").at(&node.path, Span::default()));
    };
    let found = kinds.iter().position(|kind| kind.name == folder);
    found.map(|at| (at, relative)).ok_or_else(|| misplaced(config, folder).at(&node.path, Span::default()))
}

fn misplaced(config: &Config, folder: &str) -> Diagnostic {
    let names = config.collections.iter().map(|collection| collection.name.text.as_str()).chain(["pages"]);
    let help = did_you_mean(folder, names)
        .unwrap_or_else(|| format!("write [collections.{folder}] in {}, or move it to content/pages/", config::FILE));
    Diagnostic::of(&codes::MISPLACED_CONTENT, format!("\"{folder}\" is not a collection of this site")).help(help)
}
