//! A site made small for rehearsals: for each template a sample of its content, and what shows it.

use rustc_hash::{FxHashMap, FxHashSet};

use crate::files::Snapshot;
use crate::lookup::ladder::fits;
use crate::model::content::{Content, ContentId, ContentState, Section};
use crate::model::request::Request;
use crate::rehearse::edits::{ContentText, data, text};
use crate::rehearse::worse::{drawings, usual};
use crate::text::address::encoded;
use crate::text::data::DataValue;
use crate::themes::lineage::FileId;
use crate::world::{Unloadable, World};

/// Content that a template is rehearsed with.
#[derive(Clone, Debug)]
pub(crate) struct Sample {
    /// The path of its file.
    pub path: String,
    /// What it is called: "an entry of varieties".
    pub subject: String,
    /// The addresses that are about it, as they are requested.
    pub own: Vec<String>,
}

/// The small site.
pub(crate) struct Small {
    pub world: World,
    pub samples: Vec<Sample>,
    /// One request for each template, kind and view.
    pub keys: Vec<Request>,
}

/// Up to so many pages and entries are kept as they are.
const SMALL: usize = 200;
/// So many entries of a collection are kept of a larger site.
const KEPT: usize = 12;
/// Among so many requests of a template the one with the richest content is looked for.
const LOOKED_AT: usize = 50;
/// The name of what is made up.
pub(super) const MADE_UP: &str = "rehearsal";

/// The path of made-up content.
pub(super) fn made_up(home: &str, name: &str) -> String {
    format!("content/{home}/{name}.md")
}

impl Small {
    /// The small site of `world`, with a sample of each template and these pages and entries.
    pub fn of(world: &World, asked: &[ContentId]) -> Result<Self, Unloadable> {
        let mut chosen = rich(world);
        chosen.extend(asked.iter().copied().filter(|id| !chosen.contains(id)).collect::<Vec<_>>());
        let mut snapshot = reduced(world, &chosen);
        for (path, text) in drawings() {
            snapshot.put(path, Some(&text));
        }
        let mut paths: Vec<String> = chosen.iter().map(|&id| world.site.content(id).path().to_string()).collect();
        paths.extend(offered(world, &mut snapshot));
        paths.extend(empty_collections(world, &mut snapshot));
        let world = World::load(snapshot, world.asking.clone())?;
        let keys = keys(&world);
        let samples = samples(&world, &paths);
        Ok(Self { world, samples, keys })
    }
}

/// What is told of content by its key: the front matter's keys.
fn richness(content: &Content) -> usize {
    content.node.front().entries.len()
}

/// A template, where its content belongs, whether the request is about that, and whether it is the front.
type Group = (FileId, Section, bool, bool);

/// For each template, by the sort of content that it renders, the richest content.
fn rich(world: &World) -> Vec<ContentId> {
    let mut groups: FxHashMap<Group, (usize, usize, ContentId)> = FxHashMap::default();
    for (at, (request, answer)) in world.requests().iter().zip(world.survey()).enumerate() {
        let (Some(id), Some(winner), None) = (request.content(&world.site), answer.winner, &request.view) else {
            continue;
        };
        let content = world.site.content(id);
        if content.broken {
            continue;
        }
        let (own, is_front) = (request.kind.content().is_some(), request.address == "/");
        let (seen, _, best) = groups.entry((winner, content.home, own, is_front)).or_insert((0, at, id));
        *seen += 1;
        if *seen <= LOOKED_AT && richness(content) > richness(world.site.content(*best)) {
            *best = id;
        }
    }
    let mut found: Vec<(usize, ContentId)> = groups.into_values().map(|(_, at, id)| (at, id)).collect();
    found.sort_unstable();
    let mut ids: Vec<ContentId> = Vec::new();
    for (_, id) in found {
        if !ids.contains(&id) {
            ids.push(id);
        }
    }
    ids
}

/// The names that a text may mean content by.
fn words(text: &str) -> impl Iterator<Item = &str> {
    text.split(|c: char| !c.is_alphanumeric() && !matches!(c, '-' | '_' | '/')).filter(|word| !word.is_empty())
}

/// The site's files without most of its content, where that is much: the samples, the first of each collection, and what
/// templates and all these name.
fn reduced(world: &World, samples: &[ContentId]) -> Snapshot {
    let site = &world.site;
    if site.contents.len() <= SMALL {
        return world.snapshot.keeping(|_| true);
    }
    let mut kept: FxHashSet<ContentId> = samples.iter().copied().collect();
    for collection in site.collections.iter() {
        kept.extend(collection.entries.iter().take(KEPT));
    }
    kept.extend(site.top.iter().take(KEPT));
    kept.extend(site.errors.iter().map(|(_, page)| *page));
    kept.extend(
        world.requests().iter().filter(|request| request.address == "/").filter_map(|request| request.kind.content()),
    );
    let mut named: FxHashSet<String> = FxHashSet::default();
    let theme_texts = world.lineage.files.iter().filter_map(|file| file.node.text());
    let config = world.snapshot.file(crate::schema::config::FILE).and_then(|node| node.text());
    for text in theme_texts.chain(config) {
        named.extend(words(text).map(str::to_owned));
    }
    for &id in &kept {
        let whole = site.content(id).node.whole_text().unwrap_or_else(|_| "".into());
        named.extend(words(&whole).map(str::to_owned));
    }
    for (id, content) in site.ids() {
        let is_named = || match content.home {
            Section::Pages => named.contains(&*content.id),
            Section::Collection(number) => {
                let collection = &site.collections[usize::from(number)].config.name.text;
                named.contains(&*content.id) || named.contains(&format!("{collection}/{}", content.id))
            }
        };
        if is_named() || content.address.as_deref().is_some_and(|address| named.contains(address)) {
            kept.insert(id);
        }
    }
    let above = |id: ContentId| std::iter::successors(Some(id), |&id| site.content(id).parent);
    let with_parents: FxHashSet<&str> =
        kept.iter().flat_map(|&id| above(id)).map(|id| &**site.content(id).path()).collect();
    world.snapshot.keeping(|node| !node.path.starts_with("content/") || with_parents.contains(&*node.path))
}

/// Content for each offered template, of every home that it is for and in which none chooses it: a copy of what is there.
fn offered(world: &World, snapshot: &mut Snapshot) -> Vec<String> {
    let mut paths = Vec::new();
    let homes: Vec<Section> = std::iter::once(Section::Pages)
        .chain((0u16..).zip(world.site.collections.iter()).map(|(number, _)| Section::Collection(number)))
        .collect();
    for (id, file) in world.lineage.ids().filter(|(_, file)| file.hidden_by.is_none()) {
        let Some(name) = file.name.offered() else { continue };
        if world.lineage.nearest(&file.name) != Some(id) {
            continue;
        }
        let header = world.header(id);
        for &home in &homes {
            let chooses = |content: &Content| content.template.as_ref().is_some_and(|(chosen, _)| **chosen == *name);
            let all = || {
                world
                    .site
                    .contents
                    .iter()
                    .filter(move |content| content.home == home && content.is_live() && !content.broken)
            };
            if all().any(chooses) {
                continue;
            }
            let is_for = |content: &&Content| fits(&header.fits, &world.site, content);
            let Some(content) = all().filter(is_for).max_by_key(|content| richness(content)) else { continue };
            let Some(copy) = ContentText::of(&content.node) else { continue };
            let folder = content.path().split('/').nth(1).unwrap_or("pages");
            let path = made_up(folder, &format!("{MADE_UP}-{name}"));
            let copy = copy.with("template", Some(text(name))).with("slug", None).with("formerly", None);
            let copy = copy.with("in_lists", Some(data(DataValue::Bool(false))));
            snapshot.put(&path, Some(&copy.written()));
            paths.push(path);
        }
    }
    paths
}

/// An entry of each collection that has none.
fn empty_collections(world: &World, snapshot: &mut Snapshot) -> Vec<String> {
    let mut paths = Vec::new();
    for (number, collection) in (0u16..).zip(world.site.collections.iter()) {
        let home = Section::Collection(number);
        if world.site.contents.iter().any(|content| content.home == home && content.is_live() && !content.broken) {
            continue;
        }
        let name = &collection.config.name.text;
        let mut made = ContentText::new("Made up for a rehearsal.\n").with("title", Some(text("A rehearsal")));
        made = made.with("date", Some(text(world.asking.today.to_string())));
        for field in &collection.config.fields {
            made = made.with(&field.name, usual(world, &field.of));
        }
        let path = made_up(name, MADE_UP);
        snapshot.put(&path, Some(&made.written()));
        paths.push(path);
    }
    paths
}

/// The first request of each template, by kind, view and format.
fn keys(world: &World) -> Vec<Request> {
    let mut known = FxHashSet::default();
    let mut keys = Vec::new();
    for (request, answer) in world.requests().iter().zip(world.survey()) {
        let of = (request.kind.collection(), request.kind.term().map(|term| term.taxonomy));
        let key = (answer.winner, request.kind.word(), of, request.view.clone(), request.number > 1);
        if answer.winner.is_some() && known.insert(key) {
            keys.push(request.clone());
        }
    }
    keys
}

/// The samples at these paths, with what they are called.
fn samples(world: &World, paths: &[String]) -> Vec<Sample> {
    let mut found: Vec<Sample> = Vec::new();
    for path in paths {
        let Some((id, content)) = world.site.ids().find(|(_, content)| **content.path() == **path) else { continue };
        if content.broken || !matches!(content.state, ContentState::Live | ContentState::OnErrors) {
            continue;
        }
        let requests: Vec<&Request> = world
            .requests()
            .iter()
            .filter(|request| request.content(&world.site) == Some(id) && request.number == 1)
            .collect();
        let Some(first) = requests.first() else { continue };
        let winner = world.resolve((*first).clone()).winner;
        let template = winner.and_then(|winner| world.lineage.file(winner).name.template()).unwrap_or("").to_owned();
        let mut subject = subject(world, content, first, &template);
        if found.iter().any(|sample| sample.subject == subject) {
            let home = content.path().trim_start_matches("content/").trim_end_matches(".md");
            subject = format!("{subject} ({home})");
        }
        let own = requests.iter().map(|request| encoded(&request.address)).collect();
        found.push(Sample { path: path.clone(), subject, own });
    }
    found
}

fn subject(world: &World, content: &Content, request: &Request, template: &str) -> String {
    if request.address == "/" {
        return "the front page".to_owned();
    }
    if let Some(collection) = world.site.collection_of(content) {
        let name = &collection.config.name.text;
        return match template.strip_prefix("offered/").and_then(|name| name.strip_suffix(".html")) {
            Some(offered) => format!("an entry of {name} with the template {offered}"),
            None if template == format!("entry/{name}/{}.html", content.id) => {
                format!("the entry {name}/{}", content.id)
            }
            None => format!("an entry of {name}"),
        };
    }
    match template.strip_suffix(".html").unwrap_or(template) {
        offered if offered.starts_with("offered/") => {
            format!("a page with the template {}", &offered["offered/".len()..])
        }
        "page" | "fallback" => "a page".to_owned(),
        below if below.ends_with("/all_below") => {
            format!("a page below {}", below.trim_start_matches("page/").trim_end_matches("/all_below"))
        }
        _ if request.kind.content().is_none() => format!("the page {} as a part of {}", content.id, request.address),
        _ => format!("the page {}", content.id),
    }
}
