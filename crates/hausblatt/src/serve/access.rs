//! Who may write files through the workbench: on this machine everyone who sees it, from elsewhere only with a key.

use axum::http::HeaderMap;
use axum::http::header::COOKIE;

/// The cookie that holds the key.
const COOKIE_NAME: &str = "hausblatt-key";

/// Whether files may be written.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Access {
    /// By whoever reaches the server, which is this machine alone.
    Open,
    /// By nobody: for this reason.
    Closed(&'static str),
    /// By whoever knows this key.
    Keyed(String),
}

/// Whether a request may write.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Permission {
    /// It may.
    Granted,
    /// It may not, for this reason.
    Refused(&'static str),
    /// It may when the key has been entered.
    NeedsKey,
}

impl Access {
    /// As the command line says it.
    pub fn of(is_loopback: bool, read_only: bool, allow_edits: bool, key: impl FnOnce() -> String) -> Self {
        match (read_only, is_loopback, allow_edits) {
            (true, ..) => Access::Closed("The server was started with --read-only."),
            (false, true, _) => Access::Open,
            (false, false, true) => Access::Keyed(key()),
            (false, false, false) => Access::Closed(
                "The server is reached from other machines, so nothing can be written; --allow-edits asks for a key instead.",
            ),
        }
    }

    /// What a request with these headers may do.
    pub fn permits(&self, headers: &HeaderMap) -> Permission {
        match self {
            Access::Open => Permission::Granted,
            Access::Closed(why) => Permission::Refused(why),
            Access::Keyed(key) if cookies(headers).any(|given| same(given, key)) => Permission::Granted,
            Access::Keyed(_) => Permission::NeedsKey,
        }
    }

    /// What keeps a key that was entered; none where it is not the right one.
    pub fn entered(&self, given: &str) -> Option<String> {
        match self {
            Access::Keyed(key) if same(given.trim(), key) => {
                Some(format!("{COOKIE_NAME}={key}; Path=/~/; HttpOnly; SameSite=Strict"))
            }
            _ => None,
        }
    }
}

/// The values of our cookie (RFC 6265, section 4.2.1).
fn cookies(headers: &HeaderMap) -> impl Iterator<Item = &str> {
    let all = headers.get_all(COOKIE).iter().filter_map(|value| value.to_str().ok());
    all.flat_map(|text| text.split(';')).filter_map(|pair| {
        let (name, value) = pair.trim().split_once('=')?;
        (name == COOKIE_NAME).then_some(value)
    })
}

/// Whether two texts are the same, in a time that does not say where they differ.
fn same(a: &str, b: &str) -> bool {
    a.len() == b.len() && a.bytes().zip(b.bytes()).fold(0, |all, (a, b)| all | (a ^ b)) == 0
}

#[cfg(test)]
mod tests {
    use axum::http::HeaderValue;

    use super::*;

    #[test]
    fn only_who_may_writes() {
        let key = || "0123abcd".to_owned();
        assert_eq!(Access::of(true, false, false, key), Access::Open);
        assert!(matches!(Access::of(true, true, true, key), Access::Closed(_)));
        assert!(matches!(Access::of(false, false, false, key), Access::Closed(_)));
        let keyed = Access::of(false, false, true, key);
        let with = |cookie: &str| {
            let mut headers = HeaderMap::new();
            headers.insert(COOKIE, HeaderValue::from_str(cookie).unwrap_or(HeaderValue::from_static("")));
            keyed.permits(&headers)
        };
        assert_eq!(keyed.permits(&HeaderMap::new()), Permission::NeedsKey);
        for wrong in ["", "hausblatt-key=", "hausblatt-key=0123abce", "other=0123abcd", "hausblatt-key=0123abcd0"] {
            assert_eq!(with(wrong), Permission::NeedsKey, "{wrong}");
        }
        assert_eq!(with("a=b; hausblatt-key=0123abcd"), Permission::Granted);
        assert!(keyed.entered("0123abce").is_none() && Access::Open.entered("").is_none());
        assert!(keyed.entered(" 0123abcd ").is_some_and(|cookie| cookie.contains("HttpOnly; SameSite=Strict")));
    }
}
