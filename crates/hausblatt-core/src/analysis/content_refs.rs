//! What content needs and the lineage or the site lacks: the everyday sight after a change of theme.

use std::sync::Arc;

use hausblatt_lang::program::Program;
use hausblatt_lang::text::codes as lang_codes;
use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::source::Place;
use hausblatt_lang::value::datum::Datum;
use rayon::prelude::*;
use rustc_hash::FxHashMap;

use crate::analysis::choice_problem::ChoiceProblem;
use crate::lookup::content_links::{lost_in_text, missing_file, problem_of};
use crate::lookup::map::error_request;
use crate::model::content::{Content, ContentId, Section};
use crate::model::request::{Kind, Request, Routed};
use crate::schema::fields::{Field, FieldType, picture_address};
use crate::text::codes;
use crate::text::data::Data;
use crate::text::markdown;
use crate::themes::lineage::FileId;
use crate::world::World;

/// What front matter needs and does not find: chosen templates, trays, images and links in fields.
pub(crate) fn of_front_matter(world: &World) -> Vec<Diagnostic> {
    let site = &world.site;
    let asking = |fields: &'_ [Field]| fields.iter().any(|field| asks(&field.of));
    let of_pages = asking(&site.config.page_fields);
    let of_collections: Vec<bool> =
        site.collections.iter().map(|collection| asking(&collection.config.fields)).collect();
    let has_asking = |content: &Content| match content.home {
        _ if !matches!(content.image, Datum::Nothing) => true,
        Section::Pages => of_pages,
        Section::Collection(number) => of_collections[usize::from(number)],
    };
    let of_content = |number: usize| {
        let content = site.contents.get(number).filter(|it| it.template.is_some() || has_asking(it));
        let mut found = Vec::new();
        if let Some(content) = content {
            found.extend(choice(world, content.number, content));
            in_own_fields(world, content, &mut found);
        }
        found
    };
    let mut found = of_trays(world);
    let numbers = (0..site.contents.len()).into_par_iter().with_min_len(512);
    found.par_extend(numbers.flat_map_iter(of_content));
    found
}

/// What the fields of some content ask for.
fn in_own_fields(world: &World, content: &Content, found: &mut Vec<Diagnostic>) {
    let fields = world.site.fields_of(content);
    for entry in &content.node.front().entries {
        let field = fields.iter().find(|field| *field.name == *entry.key);
        let of = field.map(|field| &field.of).or((&*entry.key == "image").then_some(&FieldType::Image));
        if let Some(of) = of.filter(|of| asks(of)) {
            in_field(world, of, &entry.data, content.path(), found);
        }
    }
}

/// Trays that nothing prints, and what the components in them ask for.
fn of_trays(world: &World) -> Vec<Diagnostic> {
    let mut found = Vec::new();
    let programs = world.library.units.iter().filter_map(|unit| unit.program.as_ref());
    let all_trays: Vec<&str> = programs.flat_map(|program| program.trays.iter().map(String::as_str)).collect();
    let filled = |name: &str| world.trays.values().flatten().any(|tray| tray.name == name);
    let mut known = FxHashMap::default();
    for (id, content) in world.site.ids().filter(|(_, content)| content.trays.is_some()) {
        let mut printed: Option<Printed> = None;
        for tray in world.trays.get(&id).into_iter().flatten() {
            let printed = printed.get_or_insert_with(|| printed_trays(world, id, &mut known));
            let is_in_text = || content.markdown(markdown::trays).iter().any(|(name, _)| *name == tray.name);
            if printed.trays.contains(&tray.name) || is_in_text() {
                continue;
            }
            // What is said names no page, so that what many pages lack is one report.
            let message = match &printed.by {
                Some(path) if all_trays.contains(&tray.name.as_str()) => {
                    format!("{path} and what it uses do not print the tray \"{}\"", tray.name)
                }
                _ => format!("no file of the lineage prints the tray \"{}\"", tray.name),
            };
            let mut diagnostic = Diagnostic::of(&codes::UNKNOWN_TRAY, message)
                .meaning(&tray.name, printed.trays.iter().map(String::as_str));
            // It may as well be the template that is misspelt, unless other content has the tray that it prints.
            diagnostic.fix = diagnostic.fix.filter(|fix| filled(&fix.to));
            let help = || format!("a template prints it with +{{tray \"{}\"}}", tray.name);
            found.push(diagnostic.or_help(help).at(content.path(), tray.span));
        }
        in_trays(world, content, &mut found);
    }
    found
}

/// The trays that are printed where some content is rendered.
#[derive(Default)]
struct Printed {
    trays: Vec<String>,
    /// The template that renders it first.
    by: Option<Arc<str>>,
    /// Whether one of the files has an error, so that what it prints can't be known.
    is_unknown: bool,
}

/// Whether a file that renders some content has an error, so that which trays it prints can't be known.
pub(crate) fn has_unknown_trays(world: &World, id: ContentId) -> bool {
    printed_trays(world, id, &mut FxHashMap::default()).is_unknown
}

/// The trays in which what some content places is printed, in the order of the files that print them, those in its text last.
pub fn trays_of(world: &World, id: ContentId) -> Vec<String> {
    let mut names = printed_trays(world, id, &mut FxHashMap::default()).trays;
    names.extend(world.site.content(id).markdown(markdown::trays).into_iter().map(|(name, _)| name.to_string()));
    let mut seen: Vec<String> = Vec::new();
    names.retain(|name| {
        let is_new = !seen.contains(name);
        if is_new {
            seen.push(name.clone());
        }
        is_new
    });
    names
}

/// The trays that the files print which render content: in all its views, and where it fills an error page. What the same
/// files print is the same, and looked for once.
fn printed_trays(world: &World, id: ContentId, known: &mut FxHashMap<Vec<FileId>, (Vec<String>, bool)>) -> Printed {
    let content = world.site.content(id);
    let views = world.site.collection_of(content).map_or(0, |collection| collection.config.views.len());
    let views = (0..views).filter_map(|view| world.site.view_address(id, u16::try_from(view).ok()?));
    let addresses = content.address.as_deref().map(str::to_owned).into_iter().chain(views);
    let routed = addresses.filter_map(|address| match world.route_decoded(&address) {
        Routed::Request(request) => Some(request),
        Routed::Redirect(_) => None,
    });
    let errors = world.site.errors.iter().filter(|(_, page)| *page == id).map(|(status, _)| error_request(*status));
    let mut printed = Printed::default();
    for request in routed.chain(errors) {
        let resolution = world.resolve(request);
        let running = resolution.running(world);
        let of_files = known.entry(running.clone()).or_insert_with(|| {
            let uses = resolution.uses(world).into_iter().map(|used| used.file);
            let files = running.into_iter().chain(uses).filter(|&file| world.unit(file).is_some());
            let programs: Vec<Option<&Program>> = files.map(|file| world.program(file)).collect();
            let trays = programs.iter().flatten().flat_map(|program| program.trays.iter().cloned());
            (trays.collect(), programs.iter().any(Option::is_none))
        });
        printed.is_unknown |= of_files.1;
        printed.trays.extend(of_files.0.iter().cloned());
        printed.by = printed.by.or_else(|| Some(world.lineage.file(resolution.winner?).node.path.clone()));
    }
    printed
}

/// What the configuration needs and does not find: images of terms, and links and images in settings.
pub(crate) fn of_configuration(world: &World) -> Vec<Diagnostic> {
    let config = &world.site.config;
    let mut found = Vec::new();
    for (image, _) in
        config.taxonomies.iter().flat_map(|taxonomy| &taxonomy.terms).filter_map(|term| term.image.as_ref())
    {
        let address = if image.text.starts_with('/') { image.text.clone() } else { format!("/{}", image.text) };
        found.extend(missing_file(world, &address).map(|it| it.at(&config.path, image.span)));
    }
    for entry in &config.settings {
        let setting = world.settings.iter().find(|setting| setting.field.name == *entry.key);
        if let Some(setting) = setting.filter(|setting| asks(&setting.field.of)) {
            // The theme that declares it was written for another site.
            for name in setting.field.of.collections().into_iter().filter(|name| world.site.collection(name).is_none())
            {
                let message =
                    format!("this setting names entries of \"{name}\", which is not a collection of this site");
                let help = format!("add [collections.{name}], or take the setting out");
                let diagnostic = Diagnostic::of(&lang_codes::DEAD_REFERENCE, message).help(help);
                found.push(diagnostic.at(&config.path, entry.data.span));
            }
            in_field(world, &setting.field.of, &entry.data, &config.path, &mut found);
        }
    }
    for collection in world.site.collections.iter() {
        let dated = collection.entries.iter().any(|&id| world.site.content(id).date.is_some());
        let wants = [
            (collection.config.feed, "feed"),
            ((!collection.config.periods.is_empty()).then_some(collection.config.name.span), "listings by date"),
        ];
        for (span, what) in wants.into_iter().filter(|_| !dated && !collection.entries.is_empty()) {
            let Some(span) = span else { continue };
            let message = format!(
                "no entry of \"{}\" has a date, so there is nothing for its {what}",
                collection.config.name.text
            );
            let help = "write date: 2026-03-14 into entries, or begin their file names with it";
            found.push(Diagnostic::of(&codes::NO_DATES, message).help(help).at(&config.path, span));
        }
    }
    found
}

/// Whether values of a type name files or addresses.
fn asks(of: &FieldType) -> bool {
    match of {
        FieldType::Link | FieldType::Image | FieldType::Rich | FieldType::Page | FieldType::Entry(_) => true,
        FieldType::List(of) => asks(of),
        FieldType::Group(group) => group.fields.iter().any(|field| asks(&field.of)),
        _ => false,
    }
}

/// What the components ask for that content places.
fn in_trays(world: &World, content: &Content, found: &mut Vec<Diagnostic>) {
    let front = content.node.front();
    let trays = front.entries.iter().find(|entry| &*entry.key == "trays");
    let trays = trays.and_then(|entry| entry.data.as_map()).unwrap_or_default();
    for member in trays.iter().flat_map(|tray| tray.data.as_list().unwrap_or_default()) {
        let entries = member.as_map().unwrap_or_default();
        let name = entries.iter().find(|entry| &*entry.key == "component").and_then(|entry| entry.data.as_text());
        let Some(component) = world.components.iter().find(|component| Some(component.name.as_str()) == name) else {
            continue;
        };
        for field in &component.fields {
            if let Some(entry) = entries.iter().find(|entry| *entry.key == *field.name) {
                in_field(world, &field.of, &entry.data, content.path(), found);
            }
        }
    }
}

fn in_field(world: &World, of: &FieldType, data: &Data, path: &Arc<str>, found: &mut Vec<Diagnostic>) {
    match of {
        FieldType::List(of) => {
            let one = std::slice::from_ref(data);
            data.as_list().unwrap_or(one).iter().for_each(|member| in_field(world, of, member, path, found));
        }
        FieldType::Group(group) => {
            for entry in data.as_map().unwrap_or_default() {
                if let Some(field) = group.fields.iter().find(|field| *field.name == *entry.key) {
                    in_field(world, &field.of, &entry.data, path, found);
                }
            }
        }
        FieldType::Image => {
            let file = data.as_map().and_then(|entries| entries.iter().find(|entry| &*entry.key == "file"));
            let data = file.map_or(data, |entry| &entry.data);
            let address =
                data.as_text().map(|text| if text.starts_with('/') { text.to_owned() } else { format!("/{text}") });
            found.extend(address.and_then(|address| missing_file(world, &address)).map(|it| it.at(path, data.span)));
        }
        FieldType::Page | FieldType::Entry(_) => {
            let Some((id, reference)) = data.as_text().and_then(|id| Some((id, of.reference(id)?))) else { return };
            // A collection that is not there is reported where the field is declared.
            let is_there = of.collections().iter().all(|name| world.site.collection(name).is_some());
            if is_there && world.site.referenced_content(&reference).is_none() {
                let (what, head) = match of {
                    FieldType::Entry(collection) => {
                        (format!("no entry \"{id}\" in {collection}"), format!("entry:{collection}/"))
                    }
                    _ => (format!("no page \"{id}\""), "page:".to_owned()),
                };
                let references: Vec<String> = world.site.references().collect();
                let ids = references.iter().filter_map(|reference| reference.strip_prefix(head.as_str()));
                let diagnostic =
                    Diagnostic::of(&lang_codes::DEAD_REFERENCE, format!("there is {what}")).meaning(id, ids);
                found.push(diagnostic.at(path, data.span));
            }
        }
        FieldType::Link => {
            found
                .extend(data.as_text().and_then(|text| problem_of(world, text, path)).map(|it| it.at(path, data.span)));
        }
        FieldType::Rich => {
            for (link, _) in data.as_text().into_iter().flat_map(markdown::links) {
                found.extend(problem_of(world, &link, path).map(|it| it.at(path, data.span)));
            }
            let lost = data.as_text().map(|text| lost_in_text(world, text)).unwrap_or_default();
            found.extend(lost.into_iter().map(|(it, _)| it.at(path, data.span)));
        }
        _ => {}
    }
}

/// A chosen template that content does not get.
fn choice(world: &World, id: ContentId, content: &Content) -> Option<Diagnostic> {
    let (name, span) = content.template.as_ref()?;
    if !content.is_live() {
        return None;
    }
    let kind = if content.home == Section::Pages { Kind::Page(id) } else { Kind::Entry(id) };
    let resolution = world.resolve(Request::ok(content.address.as_deref().unwrap_or("/"), kind, 1));
    Some(ChoiceProblem::of(world, &resolution, content)?.diagnostic(content, name, *span))
}

/// The images that live content names without an alt, by address, each with the places that name it.
pub(crate) fn images_without_alt(world: &World) -> FxHashMap<String, Vec<Place>> {
    let mut found: FxHashMap<String, Vec<Place>> = FxHashMap::default();
    for (_, content) in world.site.ids().filter(|(_, content)| content.is_live()) {
        let fields = world.site.fields_of(content);
        for entry in &content.node.front().entries {
            let field = fields.iter().find(|field| *field.name == *entry.key);
            let of = field.map(|field| &field.of).or((&*entry.key == "image").then_some(&FieldType::Image));
            if let Some(of) = of {
                silent_in_field(of, &entry.data, &mut |address, data| {
                    let place = Place { path: content.path().clone(), span: data.span };
                    found.entry(address).or_default().push(place);
                });
            }
        }
    }
    found
}

fn silent_in_field(of: &FieldType, data: &Data, add: &mut dyn FnMut(String, &Data)) {
    match of {
        FieldType::List(of) => {
            let one = std::slice::from_ref(data);
            data.as_list().unwrap_or(one).iter().for_each(|member| silent_in_field(of, member, add));
        }
        FieldType::Group(group) => {
            for entry in data.as_map().unwrap_or_default() {
                if let Some(field) = group.fields.iter().find(|field| *field.name == *entry.key) {
                    silent_in_field(&field.of, &entry.data, add);
                }
            }
        }
        FieldType::Image => {
            let entries = data.as_map().unwrap_or_default();
            let key = |name: &str| entries.iter().find(|entry| &*entry.key == name).map(|entry| &entry.data);
            let file = key("file").unwrap_or(data);
            if let Some(file) = file.as_text().filter(|_| key("alt").is_none()) {
                add(picture_address(file), data);
            }
        }
        _ => {}
    }
}

impl World {
    /// The images that live content names without an alt, by address, each with the places that name it.
    pub(crate) fn images_without_alt(&self) -> &FxHashMap<String, Vec<Place>> {
        self.silent_images.get_or_init(|| images_without_alt(self))
    }
}
