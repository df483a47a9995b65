//! What a first visit of a page loads, and which pages are too heavy.

use std::cmp::Reverse;
use std::collections::BTreeMap;
use std::sync::{Arc, RwLock};

use bumpalo::Bump;
use hausblatt_lang::render::Shows;
use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::ending::Ending;
use hausblatt_lang::text::source::Span;
use rayon::prelude::*;
use rustc_hash::FxHashMap;

use crate::arena::reset_arena;
use crate::build::can_not_be_made;
use crate::check::parsed::{Element, Parsed};
use crate::check::rules::bad_image;
use crate::check::view::View;
use crate::check::{Finding, Scope, inline};
use crate::files::{FileNode, KeptImages, MadeImage};
use crate::lookup::{loads, public};
use crate::model::request::Request;
use crate::render::page::{Audience, page};
use crate::text::address::asked;
use crate::text::codes;
use crate::text::styles;
use crate::themes::lineage::FileId;
use crate::threads::{ONE, PAGES};
use crate::world::World;

/// The largest files that are named.
const NAMED: usize = 3;

/// A page with what a first visit loads, in bytes.
struct Weighed {
    page: u64,
    /// The files by path, decoded.
    files: BTreeMap<String, u64>,
    /// The images that are made of others, which have to be made to be weighed.
    made: Vec<Arc<MadeImage>>,
}

impl Weighed {
    fn total(&self) -> u64 {
        self.page + self.files.values().sum::<u64>()
    }

    /// What is largest in it.
    fn largest(&self) -> String {
        let mut parts: Vec<(&str, u64)> = self.files.iter().map(|(path, bytes)| (path.as_str(), *bytes)).collect();
        parts.push(("the page itself", self.page));
        parts.sort_by(|a, b| b.1.cmp(&a.1).then(a.0.cmp(b.0)));
        let named = parts.iter().take(NAMED).map(|(path, bytes)| format!("{path} ({})", kilobytes(*bytes)));
        named.collect::<Vec<_>>().join(", ")
    }
}

/// The pages of which a first visit loads more than `most` bytes, a finding for each template that renders some.
pub fn heavy_pages(world: &World, scope: &Scope, most: u64) -> Vec<Finding> {
    let requests: Vec<&Request> = match scope {
        Scope::Whole => world.requests().iter().collect(),
        Scope::Part { asked, through, .. } => asked.iter().chain(through).collect(),
    };
    let known = Known::default();
    let weighed: Vec<Option<(FileId, Weighed)>> = requests
        .par_iter()
        .with_max_len(PAGES)
        .map_init(Bump::new, |arena, request| {
            let weighed = weigh(world, &known, request, arena);
            reset_arena(arena);
            weighed
        })
        .collect();
    let (lengths, unmade) = lengths_of_made(world, weighed.iter().flatten().flat_map(|(_, weighed)| &weighed.made));
    let mut heavy: BTreeMap<FileId, Vec<(&Request, Weighed)>> = BTreeMap::new();
    for (request, weighed) in requests.into_iter().zip(weighed) {
        let Some((template, mut weighed)) = weighed else { continue };
        let made = weighed.made.iter().filter_map(|image| Some((image.path.to_string(), *lengths.get(&*image.path)?)));
        weighed.files.extend(made);
        if weighed.total() > most {
            heavy.entry(template).or_default().push((request, weighed));
        }
    }
    let finding = |(template, mut pages): (FileId, Vec<(&Request, Weighed)>)| {
        pages.sort_by_key(|(_, weighed)| Reverse(weighed.total()));
        let (request, heaviest) = pages.first()?;
        let message = format!(
            "a first visit of {} loads {}, more than {}",
            request.address,
            kilobytes(heaviest.total()),
            kilobytes(most)
        );
        let help = format!("the largest parts are {}", heaviest.largest());
        let path = &world.lineage.file(template).node.path;
        let diagnostic = Diagnostic::of(&codes::HEAVY_PAGE, message).help(help).at(path, Span::default());
        let addresses = pages.iter().map(|(request, _)| request.address.clone()).collect();
        Some(Finding { diagnostic, addresses, also: Vec::new() })
    };
    let bare = |diagnostic| Finding { diagnostic, addresses: Vec::new(), also: Vec::new() };
    // A check of the whole site says of each file what can be seen without making another image of it.
    let is_told = |file: &FileNode| matches!(scope, Scope::Whole) && bad_image::diagnostic(&file.path, file).is_some();
    let unmade = unmade.into_iter().filter(|(file, _)| !is_told(file));
    let unmade = unmade.map(|(file, why)| can_not_be_made(&file, &why));
    unmade.map(bare).chain(heavy.into_iter().filter_map(finding)).collect()
}

/// A file of which an image can't be made, and why.
type Unmade = (Arc<FileNode>, String);

/// The lengths of made images by path, each made or read once; and the files of which none can be made, with why.
fn lengths_of_made<'w>(
    world: &World,
    images: impl Iterator<Item = &'w Arc<MadeImage>>,
) -> (BTreeMap<String, u64>, Vec<Unmade>) {
    let groups = MadeImage::by_source(images);
    let kept = KeptImages::of(&world.snapshot);
    let made: Vec<_> = groups.into_par_iter().with_max_len(ONE).map(|images| (kept.bytes(&images), images)).collect();
    let (mut lengths, mut unmade) = (BTreeMap::new(), Vec::new());
    for (bytes, images) in made {
        match bytes {
            Ok(bytes) => {
                let paths = images.iter().map(|image| image.path.to_string());
                lengths.extend(paths.zip(bytes.iter().map(|bytes| bytes.len() as u64)));
            }
            Err(why) => unmade.extend(images.first().map(|image| (image.source.clone(), why))),
        }
    }
    (lengths, unmade)
}

/// A file as it is sent.
struct Sent {
    length: u64,
    /// The paths, decoded, of what it loads.
    loads: Vec<String>,
}

/// The files that were weighed so far, by path: most are on many pages.
#[derive(Default)]
struct Known(RwLock<FxHashMap<String, Arc<Sent>>>);

impl Known {
    fn of(&self, world: &World, path: &str, node: &FileNode) -> Arc<Sent> {
        if let Some(known) = self.0.read().ok().and_then(|known| known.get(path).cloned()) {
            return known;
        }
        let sent = Arc::new(sent(world, path, node));
        if let Ok(mut known) = self.0.write() {
            known.insert(path.to_owned(), sent.clone());
        }
        sent
    }
}

fn sent(world: &World, path: &str, node: &FileNode) -> Sent {
    let published = world.published_file(path, node);
    let length = published.text.as_ref().map_or(node.stamp.length, |text| text.len() as u64);
    // What a style sheet imports may be in it already.
    let text = published.text.filter(|_| loads::is_style_sheet(path) && world.site.config.build.small_styles);
    let loads = match text {
        None => loads::loaded(world, path, node).collect(),
        Some(text) => {
            let loads = styles::read(&text).loads;
            let to = |load: &styles::Load| Some(asked(&loads::loaded_path(world, path, &load.address)?).path);
            loads.iter().filter_map(to).collect()
        }
    };
    Sent { length, loads }
}

/// Bytes in thousands, as a person reads them.
fn kilobytes(bytes: u64) -> String {
    match bytes {
        0..1000 => format!("{bytes} bytes"),
        1000..10_000 => format!("{:.1} kB", bytes as f64 / 1000.0),
        _ => format!("{} kB", (bytes + 500) / 1000),
    }
}

fn weigh(world: &World, known: &Known, request: &Request, arena: &Bump) -> Option<(FileId, Weighed)> {
    let answer = page(world, request.clone(), Audience::Build(Shows::default()), arena);
    let template = answer.template.filter(|_| answer.location.is_none() && answer.format == Ending::Html)?;
    let parsed = Parsed::of(&answer.text);
    let view = View::of(world, request, &answer.text, &parsed);
    let mut left: Vec<String> = Vec::new();
    let mut add = |address: &str| {
        let path = loads::loaded_path(world, &request.address, address);
        left.extend(path.map(|path| asked(&path).path));
    };
    for element in &parsed.elements {
        loaded_by(element).into_iter().for_each(&mut add);
        if let Some(style) = element.attribute("style") {
            styles::read(&format!("a{{{style}}}")).loads.iter().for_each(|load| add(&load.address));
        }
    }
    for (_, says) in inline::styles(&view) {
        says.loads.iter().for_each(|load| add(&load.address));
    }
    for (_, says) in inline::scripts(&view) {
        says.imports.iter().filter_map(|import| import.as_address()).for_each(&mut add);
    }
    let mut files: BTreeMap<String, u64> = BTreeMap::new();
    let mut made: Vec<Arc<MadeImage>> = Vec::new();
    while let Some(path) = left.pop() {
        if files.contains_key(&path) {
            continue;
        }
        if let Some(image) = world.snapshot.made_images().find(&path) {
            files.insert(path, 0);
            made.push(image);
            continue;
        }
        let Some(node) = public::file(world, &path) else { continue };
        let sent = known.of(world, &path, node);
        left.extend(sent.loads.iter().cloned());
        files.insert(path, sent.length);
    }
    let page = world.published(&answer.text, answer.format, Some(&request.address)).len() as u64;
    Some((template, Weighed { page, files, made }))
}

/// The addresses that a browser loads for an element as soon as it reads it.
fn loaded_by(element: &Element) -> Vec<&str> {
    let is_lazy = element.attribute("loading").is_some_and(|loading| loading.eq_ignore_ascii_case("lazy"));
    let relation = || element.attribute("rel").unwrap_or("").to_ascii_lowercase();
    let names: &[&str] = match element.name() {
        "img" | "iframe" if is_lazy => &[],
        "img" | "script" | "input" | "embed" => &["src"],
        "link" => {
            let loads = ["stylesheet", "icon", "preload", "modulepreload"];
            match relation().split_ascii_whitespace().any(|word| loads.contains(&word)) {
                true => &["href"],
                false => &[],
            }
        }
        "video" => &["poster"],
        "object" => &["data"],
        "use" | "image" => &["href"],
        _ => &[],
    };
    names.iter().filter_map(|name| element.attribute(name)).collect()
}

#[cfg(test)]
mod tests {
    use crate::asking::SiteOptions;
    use crate::check::Scope;
    use crate::files::Snapshot;
    use crate::world::World;

    use super::*;

    #[test]
    fn all_that_a_first_visit_loads_is_counted() {
        let page = "---\nlayout: none\n---\n<!doctype html><link rel=stylesheet href=/assets/a.css><img src=/media/a.png>\
                    <img loading=lazy src=/media/lazy.png><img src=/media/a.png style='background:url(/media/b.png)'>\
                    <a href=/media/c.pdf>1</a><script type=module>import '/assets/a.mjs'</script>";
        let kilo = |name: &str| (name.to_owned(), "x".repeat(1000));
        let media = ["media/a.png", "media/lazy.png", "media/b.png", "media/c.pdf", "themes/t/assets/d.png"].map(kilo);
        let mut files: Vec<(&str, &str)> = vec![
            ("hausblatt.toml", "[site]\ntitle = \"S\"\ntheme = \"t\"\n"),
            ("themes/t/hausblatt-theme.toml", ""),
            ("themes/t/templates/page.html", page),
            ("themes/t/assets/a.css", "@import 'b.css'; a { b: url(d.png) }"),
            ("themes/t/assets/b.css", "@import 'a.css';"),
            ("themes/t/assets/a.mjs", "import './b.mjs'"),
            ("themes/t/assets/b.mjs", "import './a.mjs'"),
            ("content/pages/home.md", ""),
        ];
        files.extend(media.iter().map(|(path, text)| (path.as_str(), text.as_str())));
        let world = World::load(Snapshot::in_memory(files), SiteOptions::on(jiff::civil::date(2026, 5, 1))).unwrap();
        let Some((_, weighed)) = weigh(
            &world,
            &Known::default(),
            world.requests().iter().find(|one| one.address == "/home/").unwrap(),
            &Bump::new(),
        ) else {
            panic!("there is no page")
        };
        let paths: Vec<&str> = weighed.files.keys().map(String::as_str).collect();
        let expected = [
            "/assets/a.css",
            "/assets/a.mjs",
            "/assets/b.css",
            "/assets/b.mjs",
            "/assets/d.png",
            "/media/a.png",
            "/media/b.png",
        ];
        assert_eq!(paths, expected);
        assert!((3300..3600).contains(&weighed.total()), "{}", weighed.total());
        assert!(heavy_pages(&world, &Scope::Whole, 3600).is_empty());
        let found = heavy_pages(&world, &Scope::Whole, 3000);
        assert_eq!(found.len(), 1);
        assert_eq!(found[0].addresses, ["/home/"]);
        assert_eq!(found[0].diagnostic.message, "a first visit of /home/ loads 3.5 kB, more than 3.0 kB");
        let help = "the largest parts are /assets/d.png (1.0 kB), /media/a.png (1.0 kB), /media/b.png (1.0 kB)";
        assert_eq!(found[0].diagnostic.help.as_deref(), Some(help));
    }
}
