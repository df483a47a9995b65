//! `request`, `site`, `theme` and `error` as records.

use hausblatt_lang::value::members;
use hausblatt_lang::value::shape::Symbol;
use hausblatt_lang::value::{Record, Scratch, Value};

use crate::lookup::resolution::{LayoutChoice, Resolution};
use crate::model::request::{Kind, ListingOf, Request};
use crate::model::site::Period;
use crate::render::host::listing::first_day;
use crate::text::names;
use crate::world::World;

/// The present request.
pub(crate) struct RequestRecord<'w> {
    /// The world it is asked of.
    pub world: &'w World,
    /// How it is answered.
    pub resolution: &'w Resolution,
}

/// The words that HTTP (RFC 9110) has for a status.
pub(crate) fn phrase(status: u16) -> &'static str {
    match status {
        400 => "Bad request",
        401 => "Unauthorized",
        403 => "Forbidden",
        404 => "Page not found",
        405 => "Method not allowed",
        410 => "Gone",
        429 => "Too many requests",
        500 => "Internal error",
        503 => "Service unavailable",
        _ if status < 500 => "The request can't be answered",
        _ => "Something went wrong",
    }
}

/// The title of an error: what was said about it, or HTTP's words.
pub(crate) fn error_title(request: &Request) -> &str {
    request.title.as_deref().unwrap_or_else(|| phrase(request.status))
}

/// What a request is called, never empty.
pub fn title<'a>(world: &'a World, request: &'a Request, scratch: &Scratch<'a>) -> &'a str {
    let site = &world.site;
    if let (Kind::Error(_), Some(said)) = (&request.kind, &request.title) {
        return said;
    }
    if let Some(content) = request.content(site) {
        return &site.content(content).title;
    }
    let label = match &request.kind {
        Kind::Error(_) => Some(error_title(request)),
        Kind::Listing(ListingOf::Term(id)) => site.term(*id).map(|(_, term)| term.label.as_str()),
        Kind::Listing(ListingOf::Collection(number)) => {
            site.collections.get(usize::from(*number)).map(|collection| collection.config.label.as_str())
        }
        Kind::Period(..) => request.kind.period(site).map(|period| scratch.text(&period_title(world, period))),
        Kind::Route(number, row) => site.routes.get(usize::from(*number)).map(|route| {
            let row = row.and_then(|row| route.rows.get(row as usize));
            row.map_or(route.label(), |row| row.title.as_str())
        }),
        Kind::Search => Some(request.query.trim()),
        _ => None,
    };
    label.filter(|label| !label.is_empty()).unwrap_or(&site.config.title)
}

fn period_title(world: &World, period: &Period) -> String {
    let pattern = match (period.month, period.day) {
        (None, _) => "%Y",
        (Some(_), None) => "%B %Y",
        (Some(_), Some(_)) => "%-d %B %Y",
    };
    let date = first_day(period).and_then(|day| world.language.date(day, pattern).ok());
    date.unwrap_or_else(|| period.year.to_string())
}

/// What comes after `?` in the present request, of the names that its route declares.
struct QueryRecord<'w> {
    world: &'w World,
    request: &'w Request,
}

impl Record for QueryRecord<'_> {
    fn get<'a>(&'a self, symbol: Symbol, _: &Scratch<'a>) -> Value<'a> {
        let name = self.world.symbols.name(symbol);
        let value = self.request.parameters.iter().find(|(other, _)| other == name);
        value.map_or(Value::Nothing, |(_, value)| Value::Text(value))
    }

    fn keys(&self) -> Vec<Symbol> {
        self.request.parameters.iter().filter_map(|(name, _)| self.world.symbols.find(name)).collect()
    }
}

impl RequestRecord<'_> {
    fn request(&self) -> &Request {
        &self.resolution.request
    }

    fn robots(&self) -> Value<'_> {
        if self.request().status >= 400 || self.request().kind == Kind::Search {
            return Value::Text("noindex");
        }
        let content = self.request().content(&self.world.site).map(|id| self.world.site.content(id));
        content.and_then(|content| content.robots.as_deref()).map_or(Value::Nothing, Value::Text)
    }

    fn layout(&self) -> Value<'_> {
        match &self.resolution.layout {
            LayoutChoice::Files(files) => files.first().map_or(Value::Nothing, |&id| {
                let name = &self.world.lineage.file(id).name;
                Value::Text(name.strip_prefix("layouts/").and_then(|name| name.strip_suffix(".html")).unwrap_or(name))
            }),
            LayoutChoice::None | LayoutChoice::Missing(..) => Value::Nothing,
        }
    }
}

impl Record for RequestRecord<'_> {
    fn get<'a>(&'a self, symbol: Symbol, scratch: &Scratch<'a>) -> Value<'a> {
        let winner = self.resolution.winner;
        match symbol {
            names::ADDRESS => Value::Text(&self.request().address),
            names::KIND => self.request().kind.word().map_or(Value::Nothing, Value::Text),
            names::VIEW => self.request().view.as_deref().map_or(Value::Nothing, Value::Text),
            members::FORMAT => Value::Text(self.request().format.word()),
            names::PAGE => Value::Int(i64::from(self.request().number)),
            names::QUERY => Value::Record(scratch.keep(QueryRecord { world: self.world, request: self.request() })),
            names::STATUS => Value::Int(i64::from(self.request().status)),
            names::TITLE => Value::Text(title(self.world, self.request(), scratch)),
            names::ROBOTS => self.robots(),
            names::TEMPLATE => winner.map_or(Value::Nothing, |id| {
                Value::Text(self.world.lineage.file(id).name.trim_start_matches("templates/"))
            }),
            names::LAYOUT => self.layout(),
            names::THEME => winner.map_or(Value::Nothing, |id| Value::Text(&self.world.lineage.theme_of(id).name)),
            _ => Value::Nothing,
        }
    }

    fn keys(&self) -> Vec<Symbol> {
        vec![
            names::ADDRESS,
            names::KIND,
            names::VIEW,
            members::FORMAT,
            names::PAGE,
            names::STATUS,
            names::TITLE,
            names::ROBOTS,
            names::TEMPLATE,
            names::LAYOUT,
            names::THEME,
        ]
    }
}

/// The site itself.
pub(crate) struct SiteRecord<'w> {
    /// The world it is.
    pub world: &'w World,
}

impl Record for SiteRecord<'_> {
    fn get<'a>(&'a self, symbol: Symbol, _: &Scratch<'a>) -> Value<'a> {
        let config = &self.world.site.config;
        match symbol {
            names::TITLE => Value::Text(&config.title),
            names::ADDRESS => Value::Text(&config.address),
            names::LANGUAGE => Value::Text(&config.language),
            _ => {
                let name = self.world.symbols.name(symbol);
                config.site.iter().find(|(key, _)| key == name).map_or(Value::Nothing, |(_, value)| value.value())
            }
        }
    }

    fn keys(&self) -> Vec<Symbol> {
        let own = self.world.site.config.site.iter().filter_map(|(name, _)| self.world.symbols.find(name));
        [names::TITLE, names::ADDRESS, names::LANGUAGE].into_iter().chain(own).collect()
    }
}

/// The active theme.
pub(crate) struct ThemeRecord<'w> {
    /// The world it is active in.
    pub world: &'w World,
}

impl Record for ThemeRecord<'_> {
    fn get<'a>(&'a self, symbol: Symbol, _: &Scratch<'a>) -> Value<'a> {
        let theme = self.world.lineage.active();
        match symbol {
            names::NAME => Value::Text(&theme.name),
            names::VERSION => theme.version.as_deref().map_or(Value::Nothing, Value::Text),
            _ => Value::Nothing,
        }
    }

    fn keys(&self) -> Vec<Symbol> {
        vec![names::NAME, names::VERSION]
    }
}

/// What went wrong.
pub(crate) struct ErrorRecord<'w> {
    /// The failed request.
    pub request: &'w Request,
    /// Addresses near the requested one; none in a build.
    pub nearest: Option<Vec<(&'w str, &'w str)>>,
}

impl Record for ErrorRecord<'_> {
    fn get<'a>(&'a self, symbol: Symbol, scratch: &Scratch<'a>) -> Value<'a> {
        match symbol {
            names::STATUS => Value::Int(i64::from(self.request.status)),
            names::TITLE => Value::Text(error_title(self.request)),
            names::PATH if self.nearest.is_some() => Value::Text(&self.request.address),
            names::NEAREST => match &self.nearest {
                Some(nearest) => {
                    let links: Vec<Value<'a>> = nearest
                        .iter()
                        .map(|&(address, title)| Value::Record(scratch.keep(Link { address, title })))
                        .collect();
                    Value::List(scratch.list(&links))
                }
                None => Value::Nothing,
            },
            _ => Value::Nothing,
        }
    }

    fn keys(&self) -> Vec<Symbol> {
        vec![names::STATUS, names::TITLE, names::PATH, names::NEAREST]
    }
}

struct Link<'w> {
    address: &'w str,
    title: &'w str,
}

impl Record for Link<'_> {
    fn get<'a>(&'a self, symbol: Symbol, _: &Scratch<'a>) -> Value<'a> {
        match symbol {
            names::ADDRESS => Value::Text(self.address),
            names::TITLE => Value::Text(self.title),
            _ => Value::Nothing,
        }
    }

    fn keys(&self) -> Vec<Symbol> {
        vec![names::ADDRESS, names::TITLE]
    }
}
