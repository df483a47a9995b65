//! What a page of the workbench is requested with: the site as it is now, the values in the address, and who asks.

use std::sync::Arc;

use axum::extract::Query as UrlQuery;
use axum::http::Uri;
use hausblatt_core::world::World;

use crate::html::Markup;
use crate::put;
use crate::serve::access::Permission;
use crate::serve::workbench::{compared, posts};
use crate::serve::{Moment, Server, edits};

/// All that a page of the workbench is made from.
pub struct PageRequest<'a> {
    pub(super) server: &'a Arc<Server>,
    pub(super) moment: &'a Moment,
    pub(super) world: &'a World,
    pub(super) query: &'a Query,
    /// The path of the page.
    pub(super) path: &'a str,
    /// Whether whoever asks may write files.
    pub(super) permission: Permission,
}

impl PageRequest<'_> {
    /// The address of this page without a value in its query.
    pub(super) fn without(&self, name: &str) -> String {
        let pairs: edits::Pairs = self.query.0.iter().filter(|(other, _)| other != name).cloned().collect();
        match pairs.is_empty() {
            true => self.path.to_owned(),
            false => format!("{}?{}", self.path, edits::query(&pairs)),
        }
    }

    /// The query of this page with another value of one name.
    pub(super) fn query_with(&self, name: &str, value: &str) -> String {
        let mut pairs: edits::Pairs = self.query.0.iter().filter(|(other, _)| other != name).cloned().collect();
        pairs.push((name.to_owned(), value.to_owned()));
        edits::query(&pairs)
    }

    /// A button that opens a file in the editor at a line; nothing where none is known.
    pub(super) fn opener(&self, file: &str, line: u32) -> Markup {
        let mut out = Markup::new();
        if self.server.editor.is_some() && self.permission == Permission::Granted {
            let line = line.to_string();
            let back = self.without("kept");
            let own = [("token", self.server.token.as_str()), ("file", file), ("line", &line), ("back", &back)];
            put!(
                out,
                "<form method=\"post\" action=\"{}\" class=\"inline\">\n{}<button class=\"quiet\">Open {} in the editor</button>\n</form>\n",
                posts::OPEN,
                compared::hidden(own.into_iter()),
                file
            );
        }
        out
    }

    /// Why there is no button that writes, with what to do about it.
    pub(super) fn refusal(&self) -> Markup {
        let mut out = Markup::new();
        match self.permission {
            Permission::Granted => {}
            Permission::Refused(why) => put!(out, "<p class=\"note\">{} Nothing can be kept.</p>\n", why),
            Permission::NeedsKey => put!(
                out,
                "<form method=\"post\" action=\"{}\" class=\"filter\">\n<input type=\"hidden\" name=\"token\" value=\"{}\">\n\
                 <input type=\"hidden\" name=\"back\" value=\"{}?{}\">\n<p><label for=\"key\">To keep changes, enter the key that the terminal shows</label> \
                 <input id=\"key\" name=\"key\" autocomplete=\"off\" required></p>\n<p><button>Enter</button></p>\n</form>\n",
                posts::KEY,
                self.server.token,
                self.path,
                edits::query(&self.query.0)
            ),
        }
        out
    }
}

/// The values in an address, by name, decoded.
#[derive(Debug, Default)]
pub struct Query(pub(super) Vec<(String, String)>);

impl Query {
    pub(super) fn of(uri: &Uri) -> Self {
        Self(UrlQuery::try_from_uri(uri).map(|UrlQuery(pairs)| pairs).unwrap_or_default())
    }

    /// The values of a form as browsers send it.
    pub(super) fn of_form(form: &[u8]) -> Self {
        Self(form_urlencoded::parse(form).into_owned().collect())
    }

    /// Whether there is a value that is called so.
    pub fn has(&self, name: &str) -> bool {
        self.0.iter().any(|(other, _)| other == name)
    }

    /// The value that is called so; empty if there is none.
    pub fn get(&self, name: &str) -> &str {
        self.0.iter().find(|(other, _)| other == name).map_or("", |(_, value)| value)
    }
}
