//! Live reload: an open page is informed when it would look different, and nothing else.

use std::convert::Infallible;
use std::fmt::{self, Display};
use std::sync::Arc;
use std::time::Duration;

use axum::extract::{Query, State};
use axum::http::StatusCode;
use axum::response::sse::{Event, KeepAlive, Sse};
use axum::response::{IntoResponse, Response};
use serde::Deserialize;
use tokio::sync::mpsc;
use tokio_stream::wrappers::ReceiverStream;
use xxhash_rust::xxh3::Xxh3;

use crate::serve::answers::{self, MadePage, Reader};
use crate::serve::live::{Live, Moment};
use crate::serve::{Server, allowed_hosts, workbench};

/// How often an open page is sent a sign of life.
const ALIVE: Duration = Duration::from_secs(15);

/// What an open page shows, in numbers that change when it does.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Shown {
    page: u64,
    files: u64,
    styles: u64,
}

impl Shown {
    /// What a browser shows that was sent `made` at this moment.
    pub fn of(moment: &Moment, made: &MadePage) -> Self {
        let mut page = Xxh3::new();
        page.update(&made.status.to_le_bytes());
        page.update(made.text.as_bytes());
        page.update(&moment.notices().len().to_le_bytes());
        Self { page: page.digest(), files: moment.files, styles: moment.styles }
    }

    /// What a page of the workbench shows, which every change may concern.
    pub fn generation(moment: &Moment) -> Self {
        Self { page: moment.generation, files: 0, styles: 0 }
    }

    /// What a browser shows that is at `target` now.
    fn at(server: &Arc<Server>, moment: &Moment, target: &str) -> Self {
        if let Some(made) = workbench::preview(server, moment, target) {
            return Self::of(moment, &made);
        }
        if workbench::is_part(target) {
            return Self::generation(moment);
        }
        match answers::file(moment, target) {
            None => Self::of(moment, &answers::page(moment, target, Reader::Browser)),
            Some(_) => Self { page: 0, files: moment.files, styles: moment.styles },
        }
    }

    /// The event for a page that showed this and now would show `now`.
    fn event(self, now: Self) -> Option<&'static str> {
        if self.page != now.page || self.files != now.files {
            Some("page")
        } else if self.styles != now.styles {
            Some("styles")
        } else {
            None
        }
    }

    fn parse(text: &str) -> Option<Self> {
        let mut numbers = text.split('.').map(|part| u64::from_str_radix(part, 16).ok());
        let mut number = || numbers.next().flatten();
        Some(Self { page: number()?, files: number()?, styles: number()? })
    }
}

impl Display for Shown {
    fn fmt(&self, out: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(out, "{:x}.{:x}.{:x}", self.page, self.files, self.styles)
    }
}

/// What an open page says of itself.
#[derive(Deserialize)]
pub struct Open {
    address: String,
    shown: String,
}

/// Tells an open page of its changes, for as long as it is open.
pub async fn events(State(server): State<Arc<Server>>, Query(open): Query<Open>) -> Response {
    let Some(shown) = Shown::parse(&open.shown) else {
        return allowed_hosts::plain(StatusCode::BAD_REQUEST, "What is shown is three numbers with dots between them.");
    };
    let Ok(place) = server.listeners.clone().try_acquire_owned() else {
        return allowed_hosts::plain(StatusCode::SERVICE_UNAVAILABLE, "Too many pages are open.");
    };
    let (sender, receiver) = mpsc::channel(4);
    tokio::spawn(async move {
        tell(server, open.address, shown, sender).await;
        drop(place);
    });
    Sse::new(ReceiverStream::new(receiver)).keep_alive(KeepAlive::new().interval(ALIVE)).into_response()
}

async fn tell(server: Arc<Server>, address: String, mut shown: Shown, sender: mpsc::Sender<Result<Event, Infallible>>) {
    let mut changes = server.live.changes();
    changes.mark_changed();
    // What has changed since the page was made is reported at once.
    let mut look: fn(&Live) -> Arc<Moment> = Live::fresh;
    loop {
        tokio::select! {
            changed = changes.changed() => if changed.is_err() { return },
            () = sender.closed() => return,
        }
        changes.borrow_and_update();
        let (asked, target) = (server.clone(), address.clone());
        let now = server.parts.run(move || Shown::at(&asked, &look(&asked.live), &target));
        // Where too many ask at once, it is reported of the next change.
        let Ok(now) = now.await else { continue };
        look = Live::last;
        if let Some(event) = shown.event(now) {
            shown = now;
            if sender.send(Ok(Event::default().event(event).data(now.to_string()))).await.is_err() {
                return;
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn tells_only_what_has_changed() {
        let shown = Shown { page: 10, files: 255, styles: 3 };
        assert_eq!(Shown::parse(&shown.to_string()), Some(shown));
        assert_eq!(shown.event(shown), None);
        assert_eq!(shown.event(Shown { styles: 4, ..shown }), Some("styles"));
        assert_eq!(shown.event(Shown { files: 4, ..shown }), Some("page"));
        assert_eq!(shown.event(Shown { page: 4, styles: 4, ..shown }), Some("page"));
        for odd in ["", "1.2", "x.1.2", "1.2.99999999999999999"] {
            assert_eq!(Shown::parse(odd), None, "{odd}");
        }
    }
}
