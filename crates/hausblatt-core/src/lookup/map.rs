//! The map: every address with the file that answers it.

use serde::Serialize;

use crate::lookup::resolution::{LayoutChoice, Resolution};
use crate::model::request::{self, Request, Routed};
use crate::themes::file_name::Role;
use crate::world::World;
use crate::world::status::Status;

/// One address of the site.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct MapEntry {
    /// The address.
    pub address: String,
    /// The status of its answer.
    pub status: u16,
    /// Where a redirect leads.
    pub location: Option<String>,
    /// The kind of request; none for addresses that only redirect.
    pub kind: Option<&'static str>,
    /// The path of the content it is about.
    pub content: Option<String>,
    /// The template's name with its extension.
    pub template: Option<String>,
    /// The template's theme.
    pub theme: Option<String>,
    /// The layout's name.
    pub layout: Option<String>,
    /// Whether the page was rendered to find out the status.
    pub rendered: bool,
}

/// Every address of the site in order, then the error pages.
pub fn map(world: &World) -> Vec<MapEntry> {
    // Statuses that only rendering shows are found before, on all cores.
    world.odd();
    let mut entries: Vec<MapEntry> =
        request::addresses(&world.site).iter().map(|address| entry(world, address)).collect();
    entries.extend(
        error_statuses(world).into_iter().map(|status| of_resolution(world, &world.resolve(error_request(status)))),
    );
    entries
}

impl World {
    /// Every request that the map has a line for, in its order, without the redirects; found once.
    pub fn requests(&self) -> &[Request] {
        self.requests.get_or_init(|| {
            let leads =
                request::addresses(&self.site).into_iter().filter_map(|address| match self.route_decoded(&address) {
                    Routed::Request(request) => Some(request),
                    Routed::Redirect(_) => None,
                });
            leads.chain(error_statuses(self).into_iter().map(error_request)).collect()
        })
    }
}

/// The request that the built page of an error status answers.
pub fn error_request(status: u16) -> Request {
    Request::error(&format!("/{status}.html"), status, None)
}

/// 404, and every other status for which a template of its own exists.
pub fn error_statuses(world: &World) -> Vec<u16> {
    let of_file = |name: &str| name.strip_prefix("templates/error/")?.strip_suffix(".html")?.parse::<u16>().ok();
    let files = world.lineage.files.iter().filter(|file| file.role == Role::Template && file.hidden_by.is_none());
    let mut statuses: Vec<u16> =
        files.filter_map(|file| of_file(&file.name)).filter(|status| (400..600).contains(status)).collect();
    statuses.push(404);
    statuses.sort_unstable();
    statuses.dedup();
    statuses
}

fn entry(world: &World, address: &str) -> MapEntry {
    match world.route_decoded(address) {
        Routed::Request(request) => of_resolution(world, &world.resolve(request)),
        Routed::Redirect(to) => MapEntry {
            address: address.to_owned(),
            status: 301,
            location: Some(to),
            kind: None,
            content: None,
            template: None,
            theme: None,
            layout: None,
            rendered: false,
        },
    }
}

/// The map's line for a resolution.
pub(crate) fn of_resolution(world: &World, resolution: &Resolution) -> MapEntry {
    let request = &resolution.request;
    let winner = resolution.winner.map(|id| world.lineage.file(id));
    let Status { code, location, rendered, .. } = world.status(resolution);
    MapEntry {
        address: request.address.clone(),
        status: code,
        location,
        kind: request.kind.word(),
        content: request.content(&world.site).map(|id| world.site.content(id).path().to_string()),
        template: winner.map(|file| file.name.template().unwrap_or(&file.name).to_owned()),
        theme: resolution.winner.map(|id| world.lineage.theme_of(id).name.clone()),
        layout: layout_name(world, resolution),
        rendered,
    }
}

/// The name of the layout around an answer.
pub(crate) fn layout_name(world: &World, resolution: &Resolution) -> Option<String> {
    match &resolution.layout {
        LayoutChoice::Files(files) => {
            let name = &world.lineage.file(*files.first()?).name;
            Some(name.strip_prefix("layouts/")?.strip_suffix(".html")?.to_owned())
        }
        LayoutChoice::None | LayoutChoice::Missing(..) => None,
    }
}
