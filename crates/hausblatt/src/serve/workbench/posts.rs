//! Forms that change something: who may send them, what becomes of them, and what is said where they are refused.

use std::process::{Command, Stdio};
use std::sync::Arc;
use std::time::Duration;

use axum::body::to_bytes;
use axum::extract::Request;
use axum::http::header::{CONTENT_SECURITY_POLICY, CONTENT_TYPE, LOCATION, SET_COOKIE};
use axum::http::{HeaderValue, StatusCode};
use axum::response::{IntoResponse, Response};
use hausblatt_core::change::edit::PlannedEdit;

use crate::html::Markup;
use crate::put;
use crate::serve::access::Permission;
use crate::serve::edits::{Pairs, value};
use crate::serve::keeping::{self, Written};
use crate::serve::workbench::Query;
use crate::serve::workbench::compared::{KEEP, hidden, not_written, text_difference};
use crate::serve::workbench::pages::{POLICY, WorkbenchPage, document};
use crate::serve::{Moment, Server, allowed_hosts, aside, tries};

/// Where the key to writing is entered.
pub const KEY: &str = "/~/key";
/// Where a change is taken back.
pub const UNDO: &str = "/~/undo";
/// Where a file is opened in an editor.
pub const OPEN: &str = "/~/open";
/// How many bytes a form may have: front matter has at most a quarter of it.
const FORM: usize = 256 << 10;
/// How long who enters a wrong key waits for the answer.
const WRONG_KEY: Duration = Duration::from_secs(1);

/// Answers a form.
pub async fn respond(server: Arc<Server>, request: Request) -> Result<Response, Box<Response>> {
    let (head, body) = request.into_parts();
    let Ok(form) = to_bytes(body, FORM).await else {
        return Ok(allowed_hosts::plain(StatusCode::PAYLOAD_TOO_LARGE, "This form is too long."));
    };
    let pairs = Query::of_form(&form).0;
    if !allowed_hosts::may_change(&head.headers, &server.token, value(&pairs, "token")) {
        let text =
            "Only a page of this server can change anything here. Load the page again, and send the form from there.";
        return Ok(allowed_hosts::plain(StatusCode::FORBIDDEN, text));
    }
    let permission = server.access.permits(&head.headers);
    let path = head.uri.path().to_owned();
    match path.as_str() {
        "/~/missed" => {
            server.missed.clear();
            return Ok(to("/~/missed"));
        }
        KEY => return Ok(key(&server, &pairs).await),
        KEEP | UNDO | OPEN => {}
        _ => return Ok(allowed_hosts::plain(StatusCode::NOT_FOUND, "There is nothing to change at this address.")),
    }
    match permission {
        Permission::Granted => {}
        Permission::Refused(why) => {
            return Ok(allowed_hosts::plain(StatusCode::FORBIDDEN, &format!("{why} Nothing was changed.")));
        }
        Permission::NeedsKey => {
            let text = "Enter the key first that the terminal shows. Nothing was changed.";
            return Ok(allowed_hosts::plain(StatusCode::FORBIDDEN, text));
        }
    }
    let work = move || match path.as_str() {
        KEEP => {
            let (moment, written) = keeping::keep(&server, &pairs);
            answer(&server, &moment, &pairs, written)
        }
        UNDO => {
            let (moment, written) = keeping::take_back(&server, value(&pairs, "number"));
            answer(&server, &moment, &pairs, written)
        }
        _ => opened(&server, &pairs),
    };
    aside(work).await
}

/// Where the browser goes next: a page of the workbench, and no other place.
fn back(pairs: &Pairs) -> &str {
    let back = value(pairs, "back");
    let is_part = back.starts_with("/~/") && back.bytes().all(|byte| byte.is_ascii_graphic()) && !back.contains('\\');
    if is_part { back } else { "/~/" }
}

fn to(address: &str) -> Response {
    let location = HeaderValue::from_str(address).unwrap_or(HeaderValue::from_static("/~/"));
    (StatusCode::SEE_OTHER, [(LOCATION, location)]).into_response()
}

async fn key(server: &Server, pairs: &Pairs) -> Response {
    match server.access.entered(value(pairs, "key")).and_then(|cookie| HeaderValue::from_str(&cookie).ok()) {
        Some(cookie) => {
            let mut answer = to(back(pairs));
            answer.headers_mut().insert(SET_COOKIE, cookie);
            answer
        }
        None => {
            tokio::time::sleep(WRONG_KEY).await;
            allowed_hosts::plain(StatusCode::FORBIDDEN, "This is not the key that the terminal shows.")
        }
    }
}

/// What is said of what was written, or was not.
fn answer(server: &Server, moment: &Moment, pairs: &Pairs, written: Written) -> Response {
    let status = written.status();
    let mut main = Markup::new();
    let title = match &written {
        Written::Done(number) => {
            let back = back(pairs);
            let sign = if back.contains('?') { '&' } else { '?' };
            return to(&match number {
                Some(number) => format!("{back}{sign}kept={number}"),
                None => back.to_owned(),
            });
        }
        Written::Gone(why) => {
            put!(main, "<h1>Nothing was changed</h1>\n<p>{}.</p>\n", capital(why));
            "Nothing was changed"
        }
        Written::Failed(why) => {
            put!(main, "<h1>It could not be written</h1>\n<p>{}. No file was changed.</p>\n", capital(why));
            "It could not be written"
        }
        Written::Wrong(problems) => {
            put!(main, "<h1>This can’t be kept</h1>\n<p class=\"lead\">Nothing was changed.</p>\n");
            put!(main, "{}", not_written(&moment.snapshot, problems));
            "This can't be kept"
        }
        Written::Stale(planned) => {
            put!(main, "{}", stale(server, planned, pairs));
            "A file has changed"
        }
    };
    put!(main, "<p><a href=\"{}\">Back</a></p>\n", back(pairs));
    page(status, &WorkbenchPage { title, here: "", main, wide: false })
}

/// A sentence of a reason; a path at its beginning stays as it is.
fn capital(text: &str) -> String {
    if text.split(' ').next().is_some_and(|first| first.contains(['/', '.'])) {
        return text.to_owned();
    }
    let mut chars = text.chars();
    chars.next().map(|first| first.to_uppercase().chain(chars).collect()).unwrap_or_default()
}

/// Both sides of a change whose file is not as it was shown: what it holds now, and what would be kept.
fn stale(server: &Server, planned: &PlannedEdit, pairs: &Pairs) -> Markup {
    let mut out = Markup::new();
    put!(
        out,
        "<h1>A file has changed since you looked</h1>\n<p class=\"lead\">Nothing was changed. This is what the file holds now \
         (lines with −), and what it would hold (lines with +).</p>\n"
    );
    for write in &planned.writes {
        let text = |bytes: &Option<Vec<u8>>| {
            bytes.as_deref().map(|bytes| String::from_utf8_lossy(bytes).into_owned()).unwrap_or_default()
        };
        put!(
            out,
            "<h2><code>{}</code></h2>\n{}",
            write.path,
            text_difference(&text(&write.instead), &text(&write.bytes))
        );
    }
    if planned.writes.is_empty() {
        put!(out, "<p>The files say by now what you wanted to keep.</p>\n");
        return out;
    }
    put!(out, "<form method=\"post\" action=\"{}\" class=\"keep\">\n", KEEP);
    let own = |name: &str| matches!(name, "token" | "seen");
    let others = pairs.iter().filter(|(name, _)| !own(name)).map(|(name, value)| (name.as_str(), value.as_str()));
    put!(
        out,
        "{}",
        hidden([("token", server.token.as_str()), ("seen", &tries::seen(planned))].into_iter().chain(others))
    );
    put!(out, "<p><button>Keep it all the same</button></p>\n</form>\n");
    out
}

/// A page of the workbench in answer to a form.
fn page(status: StatusCode, part: &WorkbenchPage<'_>) -> Response {
    let headers = [(CONTENT_TYPE, "text/html; charset=utf-8"), (CONTENT_SECURITY_POLICY, POLICY)];
    (status, headers, document(part)).into_response()
}

/// Opens a file of the site in the editor that the command line or the environment names: never one that the site names.
fn opened(server: &Server, pairs: &Pairs) -> Response {
    let moment = server.live.fresh();
    let say = |status: StatusCode, text: &str| allowed_hosts::plain(status, text);
    let Some(editor) = &server.editor else {
        return say(StatusCode::CONFLICT, "No editor is known: start the server with --editor COMMAND, or set VISUAL.");
    };
    let Some(node) = moment.snapshot.file(value(pairs, "file")) else {
        return say(StatusCode::CONFLICT, "There is no such file in the site.");
    };
    let line = value(pairs, "line").parse::<u32>().unwrap_or(1).max(1).to_string();
    let path = node.disk().to_string_lossy().into_owned();
    let has_place = editor.iter().any(|word| word.contains("{file}"));
    let mut words: Vec<String> =
        editor.iter().map(|word| word.replace("{line}", &line).replace("{file}", &path)).collect();
    if !has_place {
        words.push(path);
    }
    let (program, arguments) = (words.remove(0), words);
    // Without a shell: what a file is called means nothing to it.
    let started = Command::new(&program)
        .args(&arguments)
        .current_dir(moment.snapshot.root())
        .stdin(Stdio::null())
        .stdout(Stdio::null())
        .stderr(Stdio::null())
        .spawn();
    match started {
        Ok(mut child) => {
            // Nobody waits for it; the system wants it taken off all the same.
            let _ = std::thread::Builder::new().spawn(move || drop(child.wait()));
            server.say("opened:", &node.path, &format!("{program} {}", arguments.join(" ")));
            to(back(pairs))
        }
        Err(error) => {
            say(StatusCode::INTERNAL_SERVER_ERROR, &format!("The editor can't be started: {program}: {error}"))
        }
    }
}
