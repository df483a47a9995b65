//! The global values, as they are for a request.

use hausblatt_lang::value::moment::Moment;
use hausblatt_lang::value::{Scratch, Value};

use crate::lookup::resolution::Resolution;
use crate::model::content::Content;
use crate::model::request::{Kind, Request};
use crate::render::host::content::{self, CollectionSeq, Collections};
use crate::render::host::given::{RouteRecord, Settings, Tables};
use crate::render::host::listing::{self, ListingRecord, SearchRecord};
use crate::render::host::menu::Menus;
use crate::render::host::request::{ErrorRecord, RequestRecord, SiteRecord, ThemeRecord};
use crate::render::host::terms::Taxonomies;
use crate::text::names::GLOBALS;
use crate::world::World;

/// The global values for one request. `nearest` are addresses near a failed one; none in a build.
pub fn values<'a>(
    world: &'a World,
    resolution: &'a Resolution,
    nearest: Option<Vec<(&'a str, &'a str)>>,
    scratch: &Scratch<'a>,
) -> Vec<Value<'a>> {
    let request = &resolution.request;
    let content = request.content(&world.site);
    let listing = listing::of(world, request, scratch);
    let mut values = vec![
        Value::Record(scratch.keep(SiteRecord { world })),
        Value::Record(scratch.keep(RequestRecord { world, resolution })),
        classes(world, resolution, scratch),
        content.map_or(Value::Nothing, |id| content::value(world, id, scratch)),
        listing.map_or(Value::Nothing, |listing| Value::Record(scratch.keep(listing))),
        search(request, listing, scratch),
        match request.kind {
            Kind::Route(number, row) => Value::Record(scratch.keep(RouteRecord { world, number, row })),
            _ => Value::Nothing,
        },
        error(request, nearest, scratch),
        Value::Record(scratch.keep(Collections { world })),
        Value::Record(scratch.keep(Taxonomies { world })),
        Value::Record(scratch.keep(Menus { world, here: &request.address })),
        Value::Record(scratch.keep(Settings { world })),
        Value::Record(scratch.keep(Tables { world })),
        Value::Record(scratch.keep(ThemeRecord { world })),
        Value::Date(Moment::Day(world.asking.today)),
    ];
    for (at, collection) in world.site.collections.iter().enumerate() {
        if !GLOBALS.contains(&collection.config.name.text.as_str()) {
            values
                .push(Value::Seq(scratch.keep(CollectionSeq { world, number: u16::try_from(at).unwrap_or(u16::MAX) })));
        }
    }
    values.resize(world.globals.count(), Value::Nothing);
    values
}

fn error<'a>(request: &'a Request, nearest: Option<Vec<(&'a str, &'a str)>>, scratch: &Scratch<'a>) -> Value<'a> {
    if !matches!(request.kind, Kind::Error(_)) {
        return Value::Nothing;
    }
    Value::Record(scratch.keep(ErrorRecord { request, nearest }))
}

fn search<'a>(request: &'a Request, listing: Option<ListingRecord<'a>>, scratch: &Scratch<'a>) -> Value<'a> {
    match (&request.kind, listing) {
        (Kind::Search, Some(listing)) => Value::Record(scratch.keep(SearchRecord { query: &request.query, listing })),
        _ => Value::Nothing,
    }
}

/// For `<body>`: the kind, then the id or the collection, then the chosen template, then what the template's front matter
/// adds, and that of the files that it extends.
fn classes<'a>(world: &'a World, resolution: &'a Resolution, scratch: &Scratch<'a>) -> Value<'a> {
    let request = &resolution.request;
    let mut classes: Vec<Value<'a>> = request.kind.word().map(Value::Text).into_iter().collect();
    let content: Option<&'a Content> = request.kind.content().map(|id| world.site.content(id));
    if let Some(content) = content {
        if let Some(collection) = world.site.collection_of(content) {
            classes.push(Value::Text(&collection.config.name.text));
        }
        classes.push(Value::Text(scratch.text(&content.id.replace('/', "-"))));
        classes.extend(content.template.as_ref().map(|(name, _)| Value::Text(scratch.text(&name.replace('/', "-")))));
    }
    let collection = request.kind.collection().and_then(|number| world.site.collections.get(usize::from(number)));
    classes.extend(collection.map(|collection| Value::Text(&collection.config.name.text)));
    if let Some((taxonomy, term)) = request.kind.term().and_then(|id| world.site.term(id)) {
        classes.extend([Value::Text(&taxonomy.config.name.text), Value::Text(&term.id)]);
    }
    if let Kind::Route(number, _) = request.kind {
        let route = world.site.routes.get(usize::from(number));
        classes.extend(route.map(|route| Value::Text(&route.config.name.text)));
    }
    classes.extend(request.view.as_deref().map(Value::Text));
    for file in resolution.chain() {
        let of_file = world.header(file).classes.iter().map(|class| Value::Text(class));
        let new: Vec<Value<'a>> =
            of_file.filter(|class| !classes.iter().any(|it| it.as_text() == class.as_text())).collect();
        classes.extend(new);
        if !world.continues(file) {
            break;
        }
    }
    Value::List(scratch.list(&classes))
}

/// The title of a failed request, never empty.
pub(crate) fn title_of_error(request: &Request) -> &str {
    crate::render::host::request::error_title(request)
}
