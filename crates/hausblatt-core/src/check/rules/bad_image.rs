//! A file that its name says is an image is none that browsers can show.

use hausblatt_images::MOST_PIXELS;
use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::source::Span;
use rayon::prelude::*;

use crate::check::{Check, Look};
use crate::files::FileNode;
use crate::lookup::public;
use crate::text::codes;
use crate::threads::PAGES;
use crate::world::World;

/// The check. Builds report the same of images that they can't make others of.
pub(crate) const CHECK: Check = Check { code: codes::BAD_IMAGE, look: Look::Site(look) };

/// Extensions that name a format of images whose files say which they are, with the word for it.
const FORMATS: &[(&str, &str, &str)] = &[
    ("jpg", "jpg", "a JPEG"),
    ("jpeg", "jpg", "a JPEG"),
    ("png", "png", "a PNG"),
    ("webp", "webp", "a WebP"),
    ("gif", "gif", "a GIF"),
    ("avif", "avif", "an AVIF"),
    ("heic", "heic", "a HEIC, which few browsers show"),
];

fn look(world: &World) -> Vec<Diagnostic> {
    let files = public::files(world);
    files.par_iter().with_max_len(PAGES).filter_map(|(path, node)| diagnostic(path, node)).collect()
}

/// What is wrong with the file at a path, if it should be an image.
pub(crate) fn diagnostic(path: &str, node: &FileNode) -> Option<Diagnostic> {
    let extension = path.rsplit_once('.')?.1.to_ascii_lowercase();
    let (_, named, word) = FORMATS.iter().find(|(known, ..)| *known == extension)?;
    let at = |diagnostic: Diagnostic| Some(diagnostic.at(&node.path, Span::default()));
    let error = |message: String| at(Diagnostic::of(&codes::BAD_IMAGE, message).help("save the image anew"));
    match node.image() {
        _ if node.stamp.length == 0 && node.text().is_none() => error("this file is empty".to_owned()),
        Err(why) if node.open().is_err() => {
            let message = format!("this file can't be read: {why}");
            at(Diagnostic::of(&codes::BAD_IMAGE, message).help("look at its permissions"))
        }
        Err(why) => error(format!("this is not {word} that can be read: {why}")),
        Ok(None) => error(format!("this is not {word}, though its name says so")),
        Ok(Some(head)) if head.kind.extension() != *named => {
            let found = head.kind.extension();
            let is = FORMATS.iter().find(|(known, ..)| *known == found).map_or("another image", |(.., word)| word);
            let message = format!("this is {is}, though its name says that it is {word}");
            let help = match found {
                "heic" => "save it as a JPEG or a WebP".to_owned(),
                _ => format!("give it a name that ends in .{found}"),
            };
            at(Diagnostic::warning(&codes::BAD_IMAGE, message).help(help))
        }
        Ok(Some(head)) if u64::from(head.width) * u64::from(head.height) > MOST_PIXELS => {
            let message = format!("this image is too large: it has {} × {} pixels", head.width, head.height);
            error(message)
        }
        Ok(Some(head)) if head.is_cut => error("the end of this image is missing".to_owned()),
        Ok(Some(_)) => None,
    }
}

#[cfg(test)]
mod tests {
    use crate::check::tests::told;

    #[test]
    fn finds_files_that_are_no_images_or_others() {
        let at = |path: &str, text: &str| told(super::CHECK.code.name, &[(path, text)]);
        assert_eq!(at("media/bed.png", "<html>"), ["media/bed.png:1"]);
        assert_eq!(at("themes/t/assets/bed.JPG", "beans"), ["themes/t/assets/bed.JPG:1"]);
        assert_eq!(at("media/bed.jpg", "GIF89a@\u{1f}@\u{1f}\0\0\0;"), ["media/bed.jpg:1"]);
        assert!(at("media/bed.gif", "GIF89a@\u{1f}@\u{1f}\0\0\0;").is_empty());
        assert_eq!(at("media/bed.gif", "GIF89a~~~~\0\0\0;"), ["media/bed.gif:1"]);
        assert!(at("media/bed.svg", "beans").is_empty());
    }
}
