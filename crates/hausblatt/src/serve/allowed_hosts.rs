//! Who is let in: requests for this machine's own names, by methods that there are, within limits.

use std::net::IpAddr;

use axum::extract::Request;
use axum::http::header::{CONTENT_TYPE, HOST, ORIGIN};
use axum::http::uri::Authority;
use axum::http::{HeaderMap, Method, StatusCode};
use axum::response::{IntoResponse, Response};

/// How long a request's target may be, in bytes.
const LONGEST: usize = 8 << 10;
/// The same in the workbench, where an address holds what a form says.
const LONGEST_FORM: usize = 48 << 10;

/// What the server is reached by.
#[derive(Clone, Debug)]
pub struct Names {
    /// The name or address that it listens at.
    host: String,
    /// Whether only this machine can reach it.
    pub is_loopback: bool,
}

impl Names {
    /// Those of a server that listens at `host`.
    pub fn new(host: &str, is_loopback: bool) -> Self {
        Self { host: host.trim_matches(['[', ']']).to_lowercase(), is_loopback }
    }

    /// Whether a request for `host` is meant for this server. A page from elsewhere could have its own name lead
    /// here; it can't have a number for its name, or one of ours.
    fn are(&self, host: &str) -> bool {
        let host = host.trim_matches(['[', ']']).trim_end_matches('.').to_lowercase();
        let number: Option<IpAddr> = host.parse().ok();
        match number {
            Some(number) => number.is_loopback() || !self.is_loopback,
            None => host == "localhost" || host.ends_with(".localhost") || host == self.host,
        }
    }
}

/// Why a request is turned away, if it is.
pub fn refusal(names: &Names, request: &Request) -> Option<Response> {
    let longest = if request.uri().path().starts_with("/~/") { LONGEST_FORM } else { LONGEST };
    if request.uri().path_and_query().map_or(0, |target| target.as_str().len()) > longest {
        return Some(plain(StatusCode::URI_TOO_LONG, "This address is too long."));
    }
    let host = match host(request) {
        Some(host) => host,
        None => return Some(plain(StatusCode::BAD_REQUEST, "A request says for which host it is, once.")),
    };
    if !names.are(&host) {
        let text = "This server answers for this machine only. To reach it by another name, start it with --host NAME.";
        return Some(plain(StatusCode::MISDIRECTED_REQUEST, text));
    }
    if !matches!(*request.method(), Method::GET | Method::HEAD | Method::POST) {
        let answer = plain(StatusCode::METHOD_NOT_ALLOWED, "Only GET, HEAD and POST are answered.");
        return Some(([("allow", "GET, HEAD, POST")], answer).into_response());
    }
    None
}

/// The host that a request is for: in its target, or else in its one header.
fn host(request: &Request) -> Option<String> {
    if let Some(authority) = request.uri().authority() {
        return Some(authority.host().to_owned());
    }
    let mut hosts = request.headers().get_all(HOST).iter();
    let host: Authority = hosts.next()?.to_str().ok()?.parse().ok()?;
    hosts.next().is_none().then(|| host.host().to_owned())
}

/// Whether a request that changes something comes from a page of this server: such a page knows the token, and
/// browsers say where a request comes from.
pub fn may_change(headers: &HeaderMap, token: &str, given: &str) -> bool {
    let text = |name: &str| headers.get(name).and_then(|value| value.to_str().ok());
    let fetched = text("sec-fetch-site").is_none_or(|site| site == "same-origin");
    // A form leads to another page; a script that sends one in passing is none of ours.
    let navigates = text("sec-fetch-mode").is_none_or(|mode| mode == "navigate");
    let authority = |origin: &str| origin.split_once("://").map(|(_, authority)| authority.to_owned());
    let own = text(ORIGIN.as_str()).is_none_or(|origin| authority(origin).as_deref() == text(HOST.as_str()));
    let is_form = text(CONTENT_TYPE.as_str()).is_some_and(|kind| kind.starts_with("application/x-www-form-urlencoded"));
    fetched && navigates && own && is_form && !token.is_empty() && given == token
}

/// A short answer in words.
pub fn plain(status: StatusCode, text: &str) -> Response {
    (status, [(CONTENT_TYPE, "text/plain; charset=utf-8")], format!("{text}\n")).into_response()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn knows_its_own_names() {
        let own = Names::new("127.0.0.1", true);
        for (host, ours) in [
            ("localhost", true),
            ("LocalHost.", true),
            ("seeds.localhost", true),
            ("127.0.0.1", true),
            ("127.8.8.8", true),
            ("[::1]", true),
            ("192.0.2.7", false),
            ("seeds.example", false),
            ("localhost.seeds.example", false),
            ("127.0.0.1.seeds.example", false),
            ("", false),
        ] {
            assert_eq!(own.are(host), ours, "{host}");
        }
        let open = Names::new("Shed.lane", false);
        assert!(open.are("shed.lane") && open.are("192.0.2.7") && !open.are("seeds.example"));
    }
}
