//! Media and assets, sent as they are: whole or in ranges, or not again if the browser has them already.

use std::path::Path;

use axum::body::Body;
use axum::extract::Request;
use axum::http::header::{
    CONTENT_SECURITY_POLICY, ETAG, IF_MODIFIED_SINCE, IF_NONE_MATCH, IF_RANGE, IF_UNMODIFIED_SINCE, LAST_MODIFIED,
    RANGE,
};
use axum::http::{HeaderMap, HeaderValue, StatusCode};
use axum::response::{IntoResponse, Response};
use hausblatt_core::files::{FileNode, Files as _, Links};
use tower_http::services::ServeFile;

use crate::opened;

/// What a drawing or a document among the media may do when it is opened by itself: nothing but be seen.
const SEEN_ONLY: &str = "default-src 'none'; style-src 'unsafe-inline'; img-src 'self' data:; font-src 'self' data:; \
                         media-src 'self'; sandbox";

/// Sends a file of the site at `root`; nothing if it has changed or gone since it was looked at.
pub async fn send(root: &Path, node: &FileNode, mut request: Request) -> Option<Response> {
    if !is_still(root, node) {
        return None;
    }
    let mime = mime_guess::from_path(&*node.path).first_or_octet_stream();
    let is_text = mime.type_() == "text"
        || mime.suffix().is_some_and(|suffix| suffix == "xml" || suffix == "json")
        || matches!(mime.subtype().as_str(), "javascript" | "json" | "xml");
    let stamp = &node.stamp;
    // What may be sent compressed is not the same to the byte each time.
    let weak = if is_text { "W/" } else { "" };
    let tag = format!("{weak}\"{:x}-{:x}-{:x}\"", stamp.length, stamp.modified, stamp.node.1);
    if has(request.headers(), &tag) {
        return Some((StatusCode::NOT_MODIFIED, [(ETAG, tag)]).into_response());
    }
    let headers = request.headers_mut();
    // A file can change twice within the second that these headers tell.
    headers.remove(IF_MODIFIED_SINCE);
    headers.remove(IF_UNMODIFIED_SINCE);
    let ranged = headers.remove(IF_RANGE).is_none_or(|wanted| weak.is_empty() && wanted == tag.as_str());
    if !ranged {
        headers.remove(RANGE);
    }
    let charset = if is_text { "; charset=utf-8" } else { "" };
    let media = format!("{mime}{charset}");
    let mime = media.parse().unwrap_or(mime);
    let answer = ServeFile::new_with_mime(&node.disk, &mime).try_call(request).await.ok()?;
    if answer.status() == StatusCode::NOT_FOUND {
        return None;
    }
    let mut answer = answer.map(Body::new);
    answer.headers_mut().remove(LAST_MODIFIED);
    if let Ok(tag) = HeaderValue::from_str(&tag) {
        answer.headers_mut().insert(ETAG, tag);
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

/// Whether a file is still the one that was looked at, inside the site.
fn is_still(root: &Path, node: &FileNode) -> bool {
    let inside = || Some(node.disk.canonicalize().ok()?.starts_with(root.canonicalize().ok()?));
    inside() == Some(true) && opened::disk().look(&node.disk, Links::Follow).is_ok_and(|look| look.stamp == node.stamp)
}

/// Whether who asks has what carries this tag (RFC 9110, section 13.1.2: compared weakly).
pub fn has(headers: &HeaderMap, tag: &str) -> bool {
    let bare = |tag: &str| tag.trim().trim_start_matches("W/").to_owned();
    let tags = headers.get_all(IF_NONE_MATCH).iter().filter_map(|value| value.to_str().ok());
    tags.flat_map(|tags| tags.split(',')).any(|known| known.trim() == "*" || bare(known) == bare(tag))
}
