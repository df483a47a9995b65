//! Whether a theme does without what it reads: seen by taking it away.

use std::sync::Arc;

use bumpalo::Bump;
use hausblatt_lang::render::Shows;
use hausblatt_lang::text::codes::{MISSING_ON_SITE, UNKNOWN_FIELD, UNKNOWN_NAME};
use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::source::Place;
use rayon::prelude::*;
use rustc_hash::FxHashSet;

use crate::analysis::needs::{Need, ReadAt, read_from_site};
use crate::check::{BROKEN_LINK, MISSING_FIELD};
use crate::files::Snapshot;
use crate::model::content::Section;
use crate::model::request::Routed;
use crate::rehearse::{ContentText, Small, configured, table_rows};
use crate::render::page::{Audience, page};
use crate::schema::config;
use crate::threads::ONE;
use crate::world::{Unloadable, World};

/// Something that the themes read from the site.
#[derive(Clone, Debug)]
pub struct Needed {
    /// What it is.
    pub need: Need,
    /// The type of a field, as configuration writes it.
    pub of: Option<&'static str>,
    /// Where it is read, in the order of the files.
    pub places: Vec<Place>,
    /// What is reported of the themes where it is missing; none where they do without it.
    pub fails: Option<Diagnostic>,
}

/// What is wrong in the files of themes: the code, the place and the words.
type Wrong = (&'static str, Place, String);

/// All that the lineage reads from the site, and what comes of taking each away.
///
/// # Errors
/// Why no site can be loaded from a part of its content.
pub fn needed(world: &World) -> Result<Vec<Needed>, Unloadable> {
    let small = Small::of(world, &[])?;
    let home: FxHashSet<Wrong> = wrong(&small.world, &small).into_iter().map(|(wrong, _)| wrong).collect();
    let all: Vec<(Need, ReadAt)> = read_from_site(world).into_iter().collect();
    let read: Vec<Need> = all.iter().map(|(need, _)| need.clone()).collect();
    let judged = all.into_par_iter().with_max_len(ONE).map(|(need, ReadAt { places, is_written_out })| {
        let fails = match &need {
            // What is written out is there whatever the site has.
            need if is_written_out => {
                Some(Diagnostic::of(&BROKEN_LINK.code, format!("{} is written out", need.words())))
            }
            Need::Setting(name) => {
                let is_required = world.settings.iter().any(|one| one.field.name == *name && one.field.is_required);
                let required = || Diagnostic::of(&MISSING_FIELD.code, format!("{} is required", need.words()));
                is_required.then(required)
            }
            need => match without(&small, need) {
                // Whether something goes wrong is not known.
                None => {
                    Some(Diagnostic::of(&UNKNOWN_NAME, format!("{} can't be taken away here to see", need.words())))
                }
                Some(after) => {
                    // Whoever writes collections.journal knows that a site may lack it.
                    let is_asked = |diagnostic: &Diagnostic| {
                        matches!(need, Need::Collection(_)) && diagnostic.code == MISSING_ON_SITE.name
                    };
                    let all = wrong(&after, &small).into_iter();
                    let mut new = all.filter(|(wrong, diagnostic)| !home.contains(wrong) && !is_asked(diagnostic));
                    // What a part is read for is said of that.
                    let is_of_part = |diagnostic: &Diagnostic| {
                        read.iter().any(|other| {
                            other.container().as_ref() == Some(need)
                                && diagnostic.code == UNKNOWN_FIELD.name
                                && diagnostic.message.contains(&format!("\"{}\"", other.names()[0]))
                        })
                    };
                    new.find(|(_, diagnostic)| !is_of_part(diagnostic)).map(|(_, diagnostic)| diagnostic)
                }
            },
        };
        Needed { of: type_of(world, &need), need, places, fails }
    });
    Ok(judged.collect())
}

fn type_of(world: &World, need: &Need) -> Option<&'static str> {
    let Need::Field(of, name) = need else { return None };
    let fields = match world.site.collection(of) {
        Some((_, collection)) => &collection.config.fields,
        None => &world.site.config.page_fields,
    };
    fields.iter().find(|field| field.name == *name).map(|field| field.of.word())
}

/// What is wrong in the files of themes, when they are read and when the pages of each template are rendered.
fn wrong(world: &World, small: &Small) -> Vec<(Wrong, Diagnostic)> {
    let arena = Bump::new();
    let mut all: Vec<Diagnostic> = world.problems.clone();
    for request in &small.keys {
        let Routed::Request(request) = world.route_decoded(&request.address) else { continue };
        all.extend(page(world, request, Audience::Build(Shows::default()), &arena).diagnostics);
    }
    let of_themes = all.into_iter().filter_map(|diagnostic| {
        let place = diagnostic.place.clone().filter(|place| place.path.starts_with("themes/"))?;
        Some(((diagnostic.code, place, diagnostic.message.clone()), diagnostic))
    });
    of_themes.collect()
}

/// The small site without something; none where it can't be taken away or no site is left.
fn without(small: &Small, need: &Need) -> Option<World> {
    let world = &small.world;
    let mut snapshot = world.snapshot.clone();
    let configure = |snapshot: &mut Snapshot, path: &[&str]| {
        let text = configured(world, path, None)?;
        snapshot.put(config::FILE, Some(&text));
        Some(())
    };
    match need {
        Need::Collection(name) => {
            configure(&mut snapshot, &["collections", name])?;
            remove_below(world, &mut snapshot, name);
        }
        Need::Field(of, name) => {
            let path: &[&str] =
                if of == "pages" { &["pages", "fields", name] } else { &["collections", of, "fields", name] };
            configure(&mut snapshot, path)?;
            strip(world, &mut snapshot, Some(of), name);
        }
        Need::Taxonomy(name) => {
            configure(&mut snapshot, &["taxonomies", name])?;
            strip(world, &mut snapshot, None, name);
        }
        Need::Term(of, id) => {
            // A term that only content names goes with that.
            let _ = configure(&mut snapshot, &["taxonomies", of, "terms", id]);
            strip(world, &mut snapshot, None, of);
        }
        Need::Table(name) => {
            let table = world.site.tables.iter().find(|table| table.name == *name)?;
            snapshot.put(&table.path, None);
        }
        Need::Column(of, name) => {
            let table = world.site.tables.iter().find(|table| table.name == *of)?;
            let mut rows = table_rows(world, table)?;
            rows.iter_mut().for_each(|row| drop(row.remove(name)));
            snapshot.put(&table.path, None);
            snapshot.put(&format!("tables/{of}.json"), Some(&serde_json::to_string(&rows).ok()?));
        }
        Need::Menu(name) => configure(&mut snapshot, &["menus", name])?,
        Need::Route(name) => configure(&mut snapshot, &["routes", name])?,
        Need::SiteKey(name) => configure(&mut snapshot, &["site", name])?,
        Need::Page(id) => snapshot.put(&format!("content/pages/{id}.md"), None),
        Need::Entry(of, id) => {
            let (number, _) = world.site.collection(of)?;
            let entry = world.site.find(Section::Collection(number), id)?;
            snapshot.put(&Arc::clone(world.site.content(entry).path()), None);
        }
        Need::Search(_) | Need::Setting(_) | Need::Media(_) | Need::Address(_) => return None,
    }
    World::load(snapshot, world.asking.clone()).ok()
}

fn remove_below(world: &World, snapshot: &mut Snapshot, collection: &str) {
    let folder = format!("content/{collection}/");
    for content in world.site.contents.iter().filter(|content| content.path().starts_with(&folder)) {
        snapshot.put(content.path(), None);
    }
}

/// Takes a key out of the front matter of all content, or of that of one home.
fn strip(world: &World, snapshot: &mut Snapshot, home: Option<&str>, key: &str) {
    for content in world.site.contents.iter() {
        let is_home = home.is_none_or(|home| content.path().starts_with(&format!("content/{home}/")));
        if let Some(text) = ContentText::of(&content.node).filter(|text| is_home && text.get(key).is_some()) {
            snapshot.put(content.path(), Some(&text.with(key, None).written()));
        }
    }
}
