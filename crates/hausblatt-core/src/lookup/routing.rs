//! What an address leads to: a request, a redirect, a search, an error page.

use crate::lookup::map;
use crate::model::request::{self, Kind, RESULTS, Request, Routed};
use crate::text::address::asked;
use crate::world::World;

/// A value after `?` may have so many bytes; a longer one counts as not given.
const PARAMETER: usize = 200;

impl World {
    /// What `address` leads to.
    pub fn route(&self, address: &str) -> Routed {
        let asked = asked(address);
        match self.route_decoded(&asked.path) {
            Routed::Request(request) if request.kind == Kind::Search => self.search(request, &asked.query),
            Routed::Request(request) => Routed::Request(self.with_parameters(request, &asked.query)),
            // Only a slash is missing: the query goes along.
            Routed::Redirect(to) if to.strip_suffix('/') == Some(&asked.path) && !asked.query.is_empty() => {
                Routed::Redirect(format!("{to}?{}", asked.query))
            }
            led => led,
        }
    }

    /// A request with what comes after `?`, of the names that its route declares.
    fn with_parameters(&self, mut request: Request, query: &str) -> Request {
        if let Kind::Route(number, _) = request.kind
            && let Some(route) = self.site.routes.get(usize::from(number))
        {
            let given = route.config.query.iter().filter_map(|name| Some((name.clone(), value_of(query, name)?)));
            request.parameters = given.filter(|(_, value)| value.len() <= PARAMETER).collect();
        }
        request
    }

    /// A search, with what is searched for; a page that its results do not fill does not exist.
    fn search(&self, request: Request, query: &str) -> Routed {
        let query = query_of(query);
        let pages = request::pages(self.found(&query).len(), RESULTS);
        if request.number > pages {
            return Routed::Request(Request::error(&request.address, 404, None));
        }
        Routed::Request(Request { query, ..request })
    }

    /// What an address leads to that is already decoded.
    pub fn route_decoded(&self, path: &str) -> Routed {
        match request::route(&self.site, path) {
            Routed::Request(request) if request.status == 404 => {
                Routed::Request(self.error_page(path).unwrap_or(request))
            }
            led => led,
        }
    }

    /// The built page of an error status, if that is what `path` names.
    fn error_page(&self, path: &str) -> Option<Request> {
        let status = path.strip_prefix('/')?.strip_suffix(".html")?.parse().ok()?;
        map::error_statuses(self).contains(&status).then(|| map::error_request(status))
    }
}

/// The value of `q` in a query.
fn query_of(query: &str) -> String {
    value_of(query, "q").unwrap_or_default().trim().to_owned()
}

/// The first value of a name in a query, as a form sends it.
fn value_of(query: &str, name: &str) -> Option<String> {
    let value = query.split('&').find_map(|part| part.strip_prefix(name)?.strip_prefix('='))?.replace('+', " ");
    Some(percent_encoding::percent_decode_str(&value).decode_utf8_lossy().into_owned())
}
