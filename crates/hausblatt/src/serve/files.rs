//! Media and assets, sent as they are: whole or in ranges, or not again if the browser has them already.

use std::path::Path;

use axum::body::Body;
use axum::extract::Request;
use axum::http::header::{
    CACHE_CONTROL, CONTENT_LENGTH, CONTENT_SECURITY_POLICY, CONTENT_TYPE, ETAG, IF_MATCH, IF_MODIFIED_SINCE,
    IF_NONE_MATCH, IF_RANGE, IF_UNMODIFIED_SINCE, LAST_MODIFIED, RANGE,
};
use axum::http::{HeaderMap, HeaderValue, Method, StatusCode};
use axum::response::{IntoResponse, Response};
use hausblatt_core::files::{FileNode, Files as _, Links};
use mime_guess::Mime;
use tower_http::services::ServeFile;
use xxhash_rust::xxh3::xxh3_64;

use crate::opened;

/// What a drawing or a document among the media may do when it is opened by itself: nothing but be seen.
const SEEN_ONLY: &str = "default-src 'none'; style-src 'unsafe-inline'; img-src 'self' data:; font-src 'self' data:; \
                         media-src 'self'; sandbox";

/// Sends a file of the site at `root`, or a text in its place; nothing if it has changed or gone since it was looked at.
pub async fn send(root: &Path, node: &FileNode, text: Option<String>, mut request: Request) -> Option<Response> {
    if !is_still(root, node) {
        return None;
    }
    let mime = mime_guess::from_path(&*node.path).first_or_octet_stream();
    let is_text = mime.type_() == "text"
        || mime.suffix().is_some_and(|suffix| suffix == "xml" || suffix == "json")
        || matches!(mime.subtype().as_str(), "javascript" | "json" | "xml");
    if let Some(text) = text {
        return Some(sent_text(text, &mime, request.headers(), request.method() == Method::HEAD));
    }
    let stamp = &node.stamp;
    // What may be sent compressed is not the same to the byte each time.
    let weak = if is_text { "W/" } else { "" };
    let (device, inode) = stamp.node;
    let tag = format!("{weak}\"{:x}-{:x}-{:x}-{device:x}-{inode:x}\"", stamp.length, stamp.modified, stamp.changed);
    // What may change again under the same stamp is none that a browser may keep.
    let tag = (!stamp.is_young(opened::disk().now())).then_some(tag);
    let known = tag.as_deref().unwrap_or("");
    if is_not_matched(request.headers(), known) {
        return Some(StatusCode::PRECONDITION_FAILED.into_response());
    }
    if let Some(tag) = tag.as_ref().filter(|tag| has(request.headers(), tag)) {
        return Some((StatusCode::NOT_MODIFIED, [(ETAG, tag)]).into_response());
    }
    let headers = request.headers_mut();
    // A file can change twice within the second that these headers say.
    headers.remove(IF_MODIFIED_SINCE);
    headers.remove(IF_UNMODIFIED_SINCE);
    let same = headers.remove(IF_RANGE).is_none_or(|wanted| weak.is_empty() && wanted == known);
    let ranges: Vec<&[u8]> = headers.get_all(RANGE).iter().map(HeaderValue::as_bytes).collect();
    if !same || !matches!(ranges[..], [range] if is_one_range(range)) {
        headers.remove(RANGE);
    }
    let charset = if is_text { "; charset=utf-8" } else { "" };
    let media = format!("{mime}{charset}");
    let mime = media.parse().unwrap_or(mime);
    let answer = ServeFile::new_with_mime(node.disk(), &mime).try_call(request).await.ok()?;
    if answer.status() == StatusCode::NOT_FOUND {
        return None;
    }
    let mut answer = answer.map(Body::new);
    answer.headers_mut().remove(LAST_MODIFIED);
    match tag.and_then(|tag| HeaderValue::from_str(&tag).ok()) {
        Some(tag) => drop(answer.headers_mut().insert(ETAG, tag)),
        None => drop(answer.headers_mut().insert(CACHE_CONTROL, HeaderValue::from_static("no-store"))),
    }
    let scripted = matches!(
        media.split(';').next(),
        Some("image/svg+xml" | "text/html" | "application/xhtml+xml" | "text/xml" | "application/xml")
    );
    if scripted && node.path.starts_with("media/") {
        answer.headers_mut().insert(CONTENT_SECURITY_POLICY, HeaderValue::from_static(SEEN_ONLY));
    }
    Some(answer)
}

/// A text in the place of a file.
fn sent_text(text: String, mime: &Mime, asked: &HeaderMap, is_head: bool) -> Response {
    let tag = format!("W/\"{:x}\"", xxh3_64(text.as_bytes()));
    if is_not_matched(asked, &tag) {
        return StatusCode::PRECONDITION_FAILED.into_response();
    }
    if has(asked, &tag) {
        return (StatusCode::NOT_MODIFIED, [(ETAG, tag)]).into_response();
    }
    let length = text.len();
    let headers = [(CONTENT_TYPE, format!("{mime}; charset=utf-8")), (ETAG, tag)];
    if is_head {
        return (headers, [(CONTENT_LENGTH, length.to_string())]).into_response();
    }
    (headers, text).into_response()
}

/// Sends these bytes as the file at a path.
pub fn sent_bytes(path: &str, bytes: Vec<u8>, is_head: bool) -> Response {
    let mime = mime_guess::from_path(path).first_or_octet_stream();
    let charset = if mime.type_() == "text" { "; charset=utf-8" } else { "" };
    let headers = [
        (CONTENT_TYPE, format!("{mime}{charset}")),
        (CACHE_CONTROL, "no-store".to_owned()),
        (CONTENT_LENGTH, bytes.len().to_string()),
    ];
    let mut answer = (headers, if is_head { Vec::new() } else { bytes }).into_response();
    if path.starts_with("media/") {
        answer.headers_mut().insert(CONTENT_SECURITY_POLICY, HeaderValue::from_static(SEEN_ONLY));
    }
    answer
}

/// Whether a file is still the one that was looked at, inside the site.
fn is_still(root: &Path, node: &FileNode) -> bool {
    let inside = || Some(node.disk().canonicalize().ok()?.starts_with(root.canonicalize().ok()?));
    inside() == Some(true)
        && opened::disk().look(&node.disk(), Links::Follow).is_ok_and(|look| look.stamp == node.stamp)
}

/// Whether a `Range` requests one range of bytes that can be read as one (RFC 9110, section 14.1.2). One that can't be
/// read is ignored, and so are several: they may overlap, and no answer has to be in parts.
fn is_one_range(range: &[u8]) -> bool {
    let Some((unit, range)) = std::str::from_utf8(range).ok().and_then(|text| text.split_once('=')) else {
        return false;
    };
    let Some((first, last)) = range.trim().split_once('-') else { return false };
    let number =
        |text: &str| text.bytes().all(|byte| byte.is_ascii_digit()).then(|| text.parse::<u64>().ok()).flatten();
    let in_order = match (first.is_empty(), last.is_empty()) {
        (true, _) => number(last).is_some(),
        (false, true) => number(first).is_some(),
        (false, false) => number(first).zip(number(last)).is_some_and(|(first, last)| first <= last),
    };
    unit.trim().eq_ignore_ascii_case("bytes") && in_order
}

/// Whether who asks wants something only if it is another thing than what carries this tag (RFC 9110, section 13.1.1:
/// compared strongly).
pub fn is_not_matched(headers: &HeaderMap, tag: &str) -> bool {
    let tags: Vec<&str> = headers.get_all(IF_MATCH).iter().filter_map(|value| value.to_str().ok()).collect();
    let strong = |known: &str| known == "*" || (known == tag && !tag.starts_with("W/") && !tag.is_empty());
    !tags.is_empty() && !tags.iter().flat_map(|tags| tags.split(',')).any(|known| strong(known.trim()))
}

/// Whether who asks has what carries this tag (RFC 9110, section 13.1.2: compared weakly).
pub fn has(headers: &HeaderMap, tag: &str) -> bool {
    let bare = |tag: &str| tag.trim().trim_start_matches("W/").to_owned();
    let tags = headers.get_all(IF_NONE_MATCH).iter().filter_map(|value| value.to_str().ok());
    tags.flat_map(|tags| tags.split(',')).any(|known| known.trim() == "*" || bare(known) == bare(tag))
}
