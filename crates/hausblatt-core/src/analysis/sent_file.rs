//! Why a file is what is sent at its address.

use std::sync::Arc;

use bumpalo::Bump;
use hausblatt_lang::render::Shows;
use rayon::prelude::*;

use crate::analysis::explanation::FileRef;
use crate::arena::reset_arena;
use crate::files::{MADE, MadeImage};
use crate::lookup::public;
use crate::model::request::{self, Routed};
use crate::render::page::{Audience, page};
use crate::text::address::asked;
use crate::threads::PAGES;
use crate::world::World;

/// A file of the site that is sent at an address.
#[derive(Clone, Debug)]
pub struct SentFile {
    /// The address, decoded, without what comes after `?`.
    pub address: String,
    /// The file's path from the site.
    pub path: Arc<str>,
    /// The theme that it is from; none for one of the site's media.
    pub theme: Option<String>,
    /// The files of farther themes that it covers, the nearest first.
    pub covers: Vec<FileRef>,
    /// The image that is made of it, where that is what is sent.
    pub made: Option<Arc<MadeImage>>,
}

impl World {
    /// The file that is sent at an address; none where a page or nothing is. To know an image that is made of another one,
    /// all pages are rendered.
    pub fn sent_file(&self, address: &str) -> Option<SentFile> {
        let address = asked(address).path;
        let made = address.starts_with(MADE).then(|| made_image(self, &address)).flatten();
        let node = match &made {
            Some(made) => &made.source,
            None => public::file(self, &address)?,
        };
        let path = node.path.clone();
        let theme_file = self.lineage.ids().find(|(_, file)| *file.node.path == *path);
        let covered = theme_file
            .into_iter()
            .flat_map(|(id, file)| self.lineage.not_hidden(&file.name).skip_while(move |other| *other != id).skip(1));
        let covers = covered.map(|id| self.file_ref(id)).collect();
        let theme = theme_file.map(|(id, _)| self.lineage.theme_of(id).name.clone());
        Some(SentFile { address, path, theme, covers, made })
    }
}

/// A made image, which is known when a page that shows it has been rendered.
fn made_image(world: &World, path: &str) -> Option<Arc<MadeImage>> {
    let images = world.snapshot.made_images();
    if images.find(path).is_none() {
        let addresses = request::addresses(&world.site).into_par_iter().with_max_len(PAGES);
        addresses.for_each_init(Bump::new, |arena, address| {
            if let Routed::Request(request) = world.route_decoded(&address) {
                page(world, request, Audience::Build(Shows::default()), arena);
                reset_arena(arena);
            }
        });
    }
    images.find(path)
}
