//! All content files, read.

use std::sync::Arc;

use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::source::Span;
use hausblatt_lang::text::suggest::did_you_mean;
use hausblatt_lang::value::shape::{Interner, Shape};
use rayon::prelude::*;

use crate::asking::SiteOptions;
use crate::files::{Depth, FileNode};
use crate::model::content::{self, Content, ContentRegistry, Read, Reading, Section, Shapes};
use crate::model::contents::Contents;
use crate::model::site::{Site, Sources};
use crate::model::taxonomy::Taxonomy;
use crate::schema::config::{self, Config};
use crate::schema::fields::Field;
use crate::text::codes;
use crate::text::data::Entry;
use crate::threads::FILES;

/// So many files are read on all cores before what they hold is entered: more would only take memory.
const AT_ONCE: usize = 1024;

/// Reads the content of a site; the terms that it names join the taxonomies.
pub fn read(
    sources: &Sources<'_>,
    config: &Config,
    taxonomies: &mut [Taxonomy],
    symbols: &mut Interner,
    problems: &mut Vec<Diagnostic>,
) -> Contents {
    let mut files: Vec<&Arc<FileNode>> = sources.snapshot.below("content/").collect();
    files.sort_by(|a, b| a.path.cmp(&b.path));
    let kinds = kinds(config, taxonomies);
    let mut shapes = Shapes::default();
    let of_kinds: Vec<Arc<Shape>> = kinds.iter().map(|kind| shapes.of_fields(kind.fields, symbols)).collect();
    let mut contents = Contents::default();
    let mut placed: Vec<Result<(usize, Read), Diagnostic>> = Vec::new();
    for files in files.chunks(AT_ONCE) {
        let read = files.par_iter().with_max_len(FILES).map(|node| {
            let (at, relative) = place(node, &kinds, config)?;
            Ok((at, content::read(node, relative, &kinds[at].reading(sources, taxonomies, &of_kinds[at]))))
        });
        read.collect_into_vec(&mut placed);
        let mut book = ContentRegistry { symbols, shapes: &mut shapes, taxonomies, problems };
        for placed in placed.drain(..) {
            match placed {
                Ok((at, mut read)) => {
                    book.problems.append(&mut read.problems);
                    let Some(content) = read.content else { continue };
                    // Entered where it stays, since there are many.
                    let content = contents.add(content);
                    content::register_terms(content, read.undeclared, &kinds[at].grouped_by, &mut book);
                    if sources.snapshot.depth() == Depth::Digests {
                        content.node.let_front_matter_go();
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
}

impl<'c> ContentKind<'c> {
    /// What is known when such content is read; `shape` is that of content that has no undeclared field.
    fn reading<'r>(&'r self, sources: &Sources<'r>, taxonomies: &'r [Taxonomy], shape: &'r Arc<Shape>) -> Reading<'r> {
        let ContentKind { home, fields, shows_future, ref grouped_by, .. } = *self;
        let SiteOptions { today, drafts, .. } = *sources.asking;
        let conversion = sources.conversion;
        Reading { fields, home, conversion, today, drafts, shows_future, taxonomies, grouped_by, shape }
    }
}

fn kinds<'c>(config: &'c Config, taxonomies: &[Taxonomy]) -> Vec<ContentKind<'c>> {
    let kind = |home, name, fields, shows_future| {
        let is_grouped = |taxonomy: &Taxonomy| taxonomy.config.of.iter().any(|of| of.text == name);
        let grouped_by = (0..).zip(taxonomies).filter(|(_, taxonomy)| is_grouped(taxonomy));
        ContentKind { home, name, fields, shows_future, grouped_by: grouped_by.map(|(number, _)| number).collect() }
    };
    let collections = config.collections.iter().zip(0..).map(|(of, number)| {
        kind(Section::Collection(number), of.name.text.as_str(), of.fields.as_slice(), of.shows_future)
    });
    std::iter::once(kind(Section::Pages, "pages", &config.page_fields, false)).chain(collections).collect()
}

/// A file of a site that is read already, read again; with the names of the keys that nothing but this file settles: its
/// terms, and fields that nothing declares.
pub(super) fn again(site: &Site, sources: &Sources<'_>, node: &Arc<FileNode>, shape: &Arc<Shape>) -> Option<Again> {
    let kinds = kinds(&site.config, &site.taxonomies);
    let (at, relative) = place(node, &kinds, &site.config).ok()?;
    let read = content::read(node, relative, &kinds[at].reading(sources, &site.taxonomies, shape));
    let front = node.front();
    let entries = &front.entries;
    let undeclared = read.undeclared.iter().map(|&at| &entries[at]);
    let is_term = |entry: &&Entry| {
        let mut taxonomies = kinds[at].grouped_by.iter().map(|&number| &site.taxonomies[usize::from(number)]);
        taxonomies.any(|taxonomy| taxonomy.config.name.text == *entry.key)
    };
    let registered = entries.iter().filter(is_term).chain(undeclared).cloned().collect();
    Some(Again { content: read.content?, problems: read.problems, declared: kinds[at].fields.len(), registered })
}

/// A file that was read again.
pub(super) struct Again {
    /// What it holds, without what is entered with all content.
    pub content: Content,
    /// What is wrong with it.
    pub problems: Vec<Diagnostic>,
    /// How many of its values are those of declared fields.
    pub declared: usize,
    /// Its terms and undeclared fields, as it writes them.
    pub registered: Vec<Entry>,
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
