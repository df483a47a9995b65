//! Images that are made when a page is looked at that shows them.

use std::any::Any;
use std::sync::{Arc, Mutex, PoisonError};

use axum::http::header::{CACHE_CONTROL, CONTENT_LENGTH, CONTENT_TYPE, ETAG};
use axum::http::{HeaderMap, StatusCode};
use axum::response::{IntoResponse, Response};
use hausblatt_core::files::{KeptImages, MADE, MadeImage, Snapshot};
use hausblatt_core::images::ImageFormat;
use hausblatt_core::text::address::asked;

use crate::serve::{allowed_hosts, files};

/// An image's address says what is in it: browsers may keep it.
const FOR_A_YEAR: &str = "public, max-age=31536000, immutable";

/// Holds the kept images of a site, once there are any, so that no build removes those that an open page may ask for.
#[derive(Default)]
pub struct Held(Mutex<Option<Box<dyn Any + Send>>>);

impl Held {
    fn hold(&self, kept: &KeptImages<'_>) {
        let mut held = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        if held.is_none() {
            *held = kept.hold();
        }
    }
}

/// A made image that is requested.
pub enum Requested {
    /// One that a page has named since the server was started.
    Known(Arc<MadeImage>),
    /// One that a page of an earlier server may have named.
    Kept(String),
}

/// The image that is requested at `target`, if it is one of those that are made.
pub fn requested(snapshot: &Snapshot, target: &str) -> Option<Requested> {
    let path = asked(target).path;
    path.strip_prefix(MADE)?;
    match snapshot.made_images().find(&path) {
        Some(image) if image.is_current(snapshot) => Some(Requested::Known(image)),
        _ => Some(Requested::Kept(path)),
    }
}

/// The bytes of an image with its format; nothing where there is none at this address.
///
/// # Errors
/// Why it can't be made.
pub fn bytes(snapshot: &Snapshot, held: &Held, image: &Requested) -> Result<Option<(Vec<u8>, ImageFormat)>, String> {
    let kept = KeptImages::of(snapshot);
    match image {
        Requested::Known(image) => {
            let made = kept
                .bytes(std::slice::from_ref(image))
                .map_err(|why| format!("{} can't be made: {why}\n{}\n", image.path, image.source.path))?;
            held.hold(&kept);
            Ok(made.into_iter().next().map(|bytes| (bytes, image.recipe.format)))
        }
        Requested::Kept(path) => Ok(kept.at(path)),
    }
}

/// An image as it is sent.
pub fn sent(path: &str, bytes: Vec<u8>, format: ImageFormat, asked: &HeaderMap, is_head: bool) -> Response {
    let tag = format!("\"{path}\"");
    if files::is_not_matched(asked, &tag) {
        return StatusCode::PRECONDITION_FAILED.into_response();
    }
    let headers = [(ETAG, tag.clone()), (CACHE_CONTROL, FOR_A_YEAR.to_owned())];
    if files::has(asked, &tag) {
        return (StatusCode::NOT_MODIFIED, headers).into_response();
    }
    let length = bytes.len();
    let more = [(CONTENT_TYPE, format.media_type().to_owned()), (CONTENT_LENGTH, length.to_string())];
    match is_head {
        true => (headers, more).into_response(),
        false => (headers, more, bytes).into_response(),
    }
}

/// What is sent where an image can't be made.
pub fn failed(why: &str) -> Response {
    allowed_hosts::plain(StatusCode::INTERNAL_SERVER_ERROR, why)
}
