//! All content files, read.

use std::sync::Arc;

use hausblatt_lang::diagnostic::Diagnostic;
use hausblatt_lang::near::did_you_mean;
use hausblatt_lang::shape::Interner;
use hausblatt_lang::source::Span;
use rayon::prelude::*;

use crate::config::{self, Config};
use crate::content::{self, Book, Content, Home, Reading, Shapes};
use crate::site::Sources;
use crate::snapshot::FileNode;
use crate::taxonomy::Taxonomy;

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
    files.par_iter().for_each(|node| {
        node.front();
    });
    let mut shapes = Shapes::default();
    let groups = |name: &str| -> Vec<u16> {
        let of = |taxonomy: &Taxonomy| taxonomy.config.of.iter().any(|of| of.text == name);
        (0u16..).zip(taxonomies.iter()).filter(|(_, taxonomy)| of(taxonomy)).map(|(number, _)| number).collect()
    };
    let of_pages = groups("pages");
    let of_collections: Vec<Vec<u16>> =
        config.collections.iter().map(|collection| groups(&collection.name.text)).collect();
    let mut book = Book { symbols, shapes: &mut shapes, taxonomies, problems };
    let mut contents = Vec::with_capacity(files.len());
    for node in files {
        let below = &node.path["content/".len()..];
        let Some((folder, relative)) = below.split_once('/') else {
            let diagnostic =
                Diagnostic::warning("misplaced-content", "this file stands beside the collections' folders");
            book.problems.push(diagnostic.help("move it to content/pages/").at(&node.path, Span::default()));
            continue;
        };
        let found = config.collections.iter().position(|collection| collection.name.text == folder);
        let (home, fields, shows_future, taxonomies) = match (folder, found) {
            ("pages", _) => (Home::Pages, &config.page_fields, false, &of_pages),
            (_, Some(at)) => (
                Home::Collection(u16::try_from(at).unwrap_or(u16::MAX)),
                &config.collections[at].fields,
                config.collections[at].shows_future,
                &of_collections[at],
            ),
            (_, None) => {
                book.problems.push(misplaced(config, folder).at(&node.path, Span::default()));
                continue;
            }
        };
        let (today, drafts) = (asking.today, asking.drafts);
        let reading = Reading { fields, home, conversion, today, drafts, shows_future, taxonomies };
        contents.extend(content::read(node, relative, &reading, &mut book));
    }
    contents
}

fn misplaced(config: &Config, folder: &str) -> Diagnostic {
    let names = config.collections.iter().map(|collection| collection.name.text.as_str()).chain(["pages"]);
    let help = did_you_mean(folder, names)
        .unwrap_or_else(|| format!("write [collections.{folder}] in {}, or move it to content/pages/", config::FILE));
    Diagnostic::warning("misplaced-content", format!("\"{folder}\" is no collection of this site")).help(help)
}
