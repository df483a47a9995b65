//! `request`, `site`, `theme` and `error` as records.

use hausblatt_lang::members;
use hausblatt_lang::shape::Symbol;
use hausblatt_lang::value::{Record, Scratch, Value};

use crate::names;
use crate::request::Request;
use crate::resolution::{LayoutChoice, Resolution};
use crate::world::World;

/// The request at hand.
pub struct RequestRecord<'w> {
    /// The world it is asked of.
    pub world: &'w World,
    /// How it is answered.
    pub resolution: &'w Resolution,
}

/// The words that HTTP (RFC 9110) has for a status.
pub fn phrase(status: u16) -> &'static str {
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
pub fn error_title(request: &Request) -> &str {
    request.title.as_deref().unwrap_or_else(|| phrase(request.status))
}

impl RequestRecord<'_> {
    fn request(&self) -> &Request {
        &self.resolution.request
    }

    fn title(&self) -> &str {
        let site = &self.world.site;
        if self.request().status >= 400 {
            return error_title(self.request());
        }
        if let Some(content) = self.request().content(site) {
            return &site.content(content).title;
        }
        let listing = self.request().kind.listing().filter(|_| self.request().kind.word() != "front");
        let collection = listing.and_then(|number| site.collections.get(usize::from(number)));
        collection.map_or(&site.config.title, |collection| &collection.config.label)
    }

    fn robots(&self) -> Value<'_> {
        if self.request().status >= 400 {
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
    fn get<'a>(&'a self, symbol: Symbol, _: &Scratch<'a>) -> Value<'a> {
        let winner = self.resolution.winner;
        match symbol {
            names::ADDRESS => Value::Text(&self.request().address),
            names::KIND => Value::Text(self.request().kind.word()),
            members::FORMAT => Value::Text("html"),
            names::PAGE => Value::Int(i64::from(self.request().number)),
            names::STATUS => Value::Int(i64::from(self.request().status)),
            names::TITLE => Value::Text(self.title()),
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
pub struct SiteRecord<'w> {
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
pub struct ThemeRecord<'w> {
    /// The world it is active in.
    pub world: &'w World,
}

impl Record for ThemeRecord<'_> {
    fn get<'a>(&'a self, symbol: Symbol, _: &Scratch<'a>) -> Value<'a> {
        let theme = self.world.lineage.themes.first();
        match symbol {
            names::NAME => theme.map_or(Value::Nothing, |theme| Value::Text(&theme.name)),
            names::VERSION => theme.and_then(|theme| theme.version.as_deref()).map_or(Value::Nothing, Value::Text),
            _ => Value::Nothing,
        }
    }

    fn keys(&self) -> Vec<Symbol> {
        vec![names::NAME, names::VERSION]
    }
}

/// What went wrong.
pub struct ErrorRecord<'w> {
    /// The failed request.
    pub request: &'w Request,
    /// Addresses near the one asked for; none in a build.
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
