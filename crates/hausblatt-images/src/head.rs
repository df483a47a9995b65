//! What the beginning of an image says of it: its format, its size as browsers show it, whether it can be made anew.

use std::fmt::Display;
use std::io::{BufRead, Seek, SeekFrom};

use jpeg_decoder::PixelFormat;

/// A format in which images are made.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum ImageFormat {
    /// JPEG (ITU-T T.81).
    Jpeg,
    /// PNG (ISO/IEC 15948).
    Png,
    /// WebP (RFC 9649).
    WebP,
}

impl ImageFormat {
    /// All of them.
    pub const ALL: [ImageFormat; 3] = [ImageFormat::Jpeg, ImageFormat::Png, ImageFormat::WebP];

    /// The extension of its files, without a dot.
    pub fn extension(self) -> &'static str {
        match self {
            ImageFormat::Jpeg => "jpg",
            ImageFormat::Png => "png",
            ImageFormat::WebP => "webp",
        }
    }

    /// The format with this extension.
    pub fn of_extension(extension: &str) -> Option<Self> {
        match extension.to_ascii_lowercase().as_str() {
            "jpg" | "jpeg" => Some(ImageFormat::Jpeg),
            "png" => Some(ImageFormat::Png),
            "webp" => Some(ImageFormat::WebP),
            _ => None,
        }
    }

    /// Its media type.
    pub fn media_type(self) -> &'static str {
        match self {
            ImageFormat::Jpeg => "image/jpeg",
            ImageFormat::Png => "image/png",
            ImageFormat::WebP => "image/webp",
        }
    }
}

/// What an image is, by its first bytes.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum ImageKind {
    /// One that can be made anew.
    Pixels(ImageFormat),
    /// One that stays as it is: an animation, a JPEG in the colours of printers, a GIF or another format; its extension.
    Stays(&'static str),
}

impl ImageKind {
    /// The extension of such files.
    pub fn extension(self) -> &'static str {
        match self {
            ImageKind::Pixels(format) => format.extension(),
            ImageKind::Stays(extension) => extension,
        }
    }
}

/// How an image is turned before it is shown: the orientation of Exif, from 1 to 8 (JEITA CP-3451, section 4.6.4).
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Turn(pub u8);

impl Turn {
    /// Whether width and height change places.
    pub fn lies(self) -> bool {
        self.0 >= 5
    }
}

/// What an image is.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct ImageHead {
    /// Its format.
    pub kind: ImageKind,
    /// Its width in pixels, as it is shown.
    pub width: u32,
    /// Its height in pixels, as it is shown.
    pub height: u32,
    /// How it is turned for that.
    pub turn: Turn,
    /// Whether its end is missing.
    pub is_cut: bool,
}

/// So much of the end of a file is looked at for the mark that ends an image; some cameras put other data behind it.
const END: u64 = 64 << 10;
/// How much a decoder may hold while it reads a head.
const MOST_OF_HEAD: usize = 64 << 20;

/// Reads the beginning of an image, and its end; none where it is in no format that is known.
///
/// # Errors
/// What is wrong with the file.
pub fn read_head(mut reader: impl BufRead + Seek) -> Result<Option<ImageHead>, String> {
    let mut first = [0; 64];
    let count = reader.read(&mut first).map_err(said)?;
    reader.rewind().map_err(said)?;
    match &first[..count] {
        [0xff, 0xd8, 0xff, ..] => jpeg(reader).map(Some),
        [0x89, b'P', b'N', b'G', b'\r', b'\n', 0x1a, b'\n', ..] => png(reader).map(Some),
        [b'R', b'I', b'F', b'F', _, _, _, _, b'W', b'E', b'B', b'P', ..] => webp(reader).map(Some),
        [b'G', b'I', b'F', b'8', ..] => other(reader, "gif").map(Some),
        [a, b, c, d, b'f', b't', b'y', b'p', brands @ ..] => {
            // The brands that the file is compatible with (ISO/IEC 14496-12, section 4.3).
            let length = u32::from_be_bytes([*a, *b, *c, *d]) as usize;
            let brands = &brands[..length.saturating_sub(8).min(brands.len())];
            let has = |names: &[&[u8]]| brands.chunks_exact(4).any(|brand| names.contains(&brand));
            match () {
                () if has(&[b"avif", b"avis"]) => other(reader, "avif").map(Some),
                () if has(&[b"heic", b"heix", b"heif", b"mif1"]) => other(reader, "heic").map(Some),
                () => Ok(None),
            }
        }
        _ => Ok(None),
    }
}

pub(super) fn said(error: impl Display) -> String {
    match error.to_string() {
        // What readers say of a file that ends in the middle.
        text if text.contains("failed to fill whole buffer") || text.contains("unexpected end of file") => {
            "it ends too soon".to_owned()
        }
        text => text,
    }
}

fn jpeg(mut reader: impl BufRead + Seek) -> Result<ImageHead, String> {
    let mut decoder = jpeg_decoder::Decoder::new(&mut reader);
    decoder.read_info().map_err(said)?;
    let info = decoder.info().ok_or("it says no size")?;
    let turn = turn(decoder.exif_data().map(<[u8]>::to_vec));
    let kind = match info.pixel_format {
        PixelFormat::L8 | PixelFormat::RGB24 => ImageKind::Pixels(ImageFormat::Jpeg),
        PixelFormat::L16 | PixelFormat::CMYK32 => ImageKind::Stays("jpg"),
    };
    drop(decoder);
    let begins = reader.stream_position().map_err(said)?;
    let is_cut = !ends_with(&mut reader, begins, &[0xff, 0xd9])?;
    Ok(head(kind, (info.width.into(), info.height.into()), turn, is_cut))
}

fn png(mut reader: impl BufRead + Seek) -> Result<ImageHead, String> {
    let limits = png::Limits { bytes: MOST_OF_HEAD };
    let mut decoder = png::Decoder::new_with_limits(&mut reader, limits);
    decoder.set_ignore_text_chunk(true);
    decoder.set_ignore_iccp_chunk(true);
    let decoder = decoder.read_info().map_err(said)?;
    let info = decoder.info();
    let is_animated = info.animation_control.is_some_and(|control| control.num_frames > 1);
    let kind = if is_animated { ImageKind::Stays("png") } else { ImageKind::Pixels(ImageFormat::Png) };
    let turn = turn(info.exif_metadata.as_ref().map(|exif| exif.to_vec()));
    let size = (info.width, info.height);
    drop(decoder);
    let is_cut = !ends_with(&mut reader, 0, b"IEND")?;
    Ok(head(kind, size, turn, is_cut))
}

fn webp(mut reader: impl BufRead + Seek) -> Result<ImageHead, String> {
    let length = reader.seek(SeekFrom::End(0)).map_err(said)?;
    let mut chunk = [0; 8];
    reader.rewind().map_err(said)?;
    reader.read_exact(&mut chunk).map_err(said)?;
    reader.rewind().map_err(said)?;
    let [.., a, b, c, d] = chunk;
    let is_cut = u64::from(u32::from_le_bytes([a, b, c, d])) + 8 > length;
    let mut decoder = image_webp::WebPDecoder::new(&mut reader).map_err(said)?;
    decoder.set_memory_limit(MOST_OF_HEAD);
    let kind = if decoder.is_animated() { ImageKind::Stays("webp") } else { ImageKind::Pixels(ImageFormat::WebP) };
    let turn = turn(decoder.exif_metadata().ok().flatten());
    Ok(head(kind, decoder.dimensions(), turn, is_cut))
}

fn other(reader: impl BufRead + Seek, extension: &'static str) -> Result<ImageHead, String> {
    let size = imagesize::reader_size(reader).map_err(said)?;
    let side = |size: usize| u32::try_from(size).map_err(said);
    Ok(head(ImageKind::Stays(extension), (side(size.width)?, side(size.height)?), Turn(1), false))
}

fn head(kind: ImageKind, (width, height): (u32, u32), turn: Turn, is_cut: bool) -> ImageHead {
    let (width, height) = if turn.lies() { (height, width) } else { (width, height) };
    ImageHead { kind, width, height, turn, is_cut }
}

/// The orientation in the Exif data of an image.
fn turn(exif: Option<Vec<u8>>) -> Turn {
    let read = |exif: Vec<u8>| {
        let exif = exif.strip_prefix(b"Exif\0\0").map(<[u8]>::to_vec).unwrap_or(exif);
        let exif = exif::Reader::new().read_raw(exif).ok()?;
        let turn = exif.get_field(exif::Tag::Orientation, exif::In::PRIMARY)?.value.get_uint(0)?;
        u8::try_from(turn).ok().filter(|turn| (1..=8).contains(turn))
    };
    Turn(exif.and_then(read).unwrap_or(1))
}

/// Whether a mark is at the end of a file, or else anywhere behind `begins`.
fn ends_with(reader: &mut (impl BufRead + Seek), begins: u64, mark: &[u8]) -> Result<bool, String> {
    let length = reader.seek(SeekFrom::End(0)).map_err(said)?;
    let mut has_it = |from: u64| -> Result<bool, String> {
        reader.seek(SeekFrom::Start(from)).map_err(said)?;
        let mut piece = vec![0; END as usize];
        let mut kept = 0;
        loop {
            let count = reader.read(&mut piece[kept..]).map_err(said)?;
            if memchr::memmem::find(&piece[..kept + count], mark).is_some() {
                return Ok(true);
            }
            if count == 0 {
                return Ok(false);
            }
            // The mark may be in two pieces.
            let held = kept + count;
            kept = held.min(mark.len() - 1);
            piece.copy_within(held - kept..held, 0);
        }
    };
    let near = length.saturating_sub(END).max(begins);
    Ok(has_it(near)? || (near > begins && has_it(begins)?))
}
