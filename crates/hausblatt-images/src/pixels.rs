//! Images made of images: decoded, cut, scaled, turned and encoded.

use std::io::Cursor;

use fast_image_resize::images::{Image, ImageRef};
use fast_image_resize::{FilterType, PixelType, ResizeAlg, ResizeOptions, Resizer};
use jpeg_decoder::PixelFormat;
use jpeg_encoder::ColorType;
use png::Transformations;

use crate::head::{ImageFormat, ImageHead, ImageKind, Turn, said};
use crate::recipe::Recipe;

/// Images with more pixels than this are not decoded.
pub const MOST_PIXELS: u64 = 120_000_000;

/// In how many scans a JPEG may be: each goes through all of the image, and none needs more than some twenty.
const MOST_SCANS: usize = 200;

/// How many bytes a decoder may take for what is not pixels, such as a colour profile.
const MOST_BESIDE: usize = 64 << 20;

/// About how many bytes are needed to make images of one with this head.
pub fn cost(head: &ImageHead) -> u64 {
    u64::from(head.width) * u64::from(head.height) * 8
}

/// The pixels of an image as they are stored, with three bytes each, or four if some may be seen through.
struct Pixels {
    width: u32,
    height: u32,
    has_alpha: bool,
    bytes: Vec<u8>,
    /// Its colour profile (ICC.1).
    profile: Option<Vec<u8>>,
}

/// Makes images of the one in `bytes`, each as its recipe says.
///
/// # Errors
/// Why the image can't be decoded, or one of the others can't be encoded.
pub fn make(bytes: &[u8], head: &ImageHead, recipes: &[Recipe]) -> Result<Vec<Vec<u8>>, String> {
    let ImageKind::Pixels(format) = head.kind else { return Err("it is of a sort that stays as it is".to_owned()) };
    if u64::from(head.width) * u64::from(head.height) > MOST_PIXELS {
        let millions = u64::from(head.width) * u64::from(head.height) / 1_000_000;
        return Err(format!("it has {millions} million pixels, and at most {} are decoded", MOST_PIXELS / 1_000_000));
    }
    let pixels = match format {
        ImageFormat::Jpeg => of_jpeg(bytes),
        ImageFormat::Png => of_png(bytes),
        ImageFormat::WebP => of_webp(bytes),
    }?;
    let stored = if head.turn.lies() { (head.height, head.width) } else { (head.width, head.height) };
    if (pixels.width, pixels.height) != stored {
        return Err("it changed while it was read".to_owned());
    }
    let mut resizer = Resizer::new();
    recipes
        .iter()
        .map(|recipe| encoded(&turned(resized(&pixels, head.turn, recipe, &mut resizer)?, head.turn), recipe))
        .collect()
}

fn of_jpeg(bytes: &[u8]) -> Result<Pixels, String> {
    if memchr::memmem::find_iter(bytes, &[0xff, 0xda]).nth(MOST_SCANS).is_some() {
        return Err(format!("it is made of more than {MOST_SCANS} scans"));
    }
    let mut decoder = jpeg_decoder::Decoder::new(bytes);
    decoder.set_max_decoding_buffer_size(MOST_PIXELS as usize * 4);
    let pixels = decoder.decode().map_err(said)?;
    let info = decoder.info().ok_or("it says no size")?;
    let bytes = match info.pixel_format {
        PixelFormat::RGB24 => pixels,
        PixelFormat::L8 => pixels.iter().flat_map(|&gray| [gray; 3]).collect(),
        PixelFormat::L16 | PixelFormat::CMYK32 => return Err("it is of a sort that stays as it is".to_owned()),
    };
    let (width, height) = (info.width.into(), info.height.into());
    Ok(Pixels { width, height, has_alpha: false, bytes, profile: decoder.icc_profile() })
}

fn of_png(bytes: &[u8]) -> Result<Pixels, String> {
    let limits = png::Limits { bytes: MOST_BESIDE };
    let mut decoder = png::Decoder::new_with_limits(Cursor::new(bytes), limits);
    decoder.set_ignore_text_chunk(true);
    decoder.set_transformations(Transformations::EXPAND | Transformations::STRIP_16);
    let mut reader = decoder.read_info().map_err(said)?;
    let mut pixels = vec![0; reader.output_buffer_size().ok_or("it is too large")?];
    let frame = reader.next_frame(&mut pixels).map_err(said)?;
    pixels.truncate(frame.buffer_size());
    let profile = reader.info().icc_profile.as_ref().map(|profile| profile.to_vec());
    let has_alpha = matches!(frame.color_type, png::ColorType::GrayscaleAlpha | png::ColorType::Rgba);
    let bytes = match frame.color_type {
        png::ColorType::Grayscale => pixels.iter().flat_map(|&gray| [gray; 3]).collect(),
        png::ColorType::GrayscaleAlpha => {
            pixels.chunks_exact(2).flat_map(|pixel| [pixel[0], pixel[0], pixel[0], pixel[1]]).collect()
        }
        png::ColorType::Rgb | png::ColorType::Rgba | png::ColorType::Indexed => pixels,
    };
    Ok(Pixels { width: frame.width, height: frame.height, has_alpha, bytes, profile })
}

fn of_webp(bytes: &[u8]) -> Result<Pixels, String> {
    let mut decoder = image_webp::WebPDecoder::new(Cursor::new(bytes)).map_err(said)?;
    decoder.set_memory_limit(MOST_PIXELS as usize * 4);
    let mut pixels = vec![0; decoder.output_buffer_size().ok_or("it is too large")?];
    decoder.read_image(&mut pixels).map_err(said)?;
    let (width, height) = decoder.dimensions();
    let profile = decoder.icc_profile().map_err(said)?;
    Ok(Pixels { width, height, has_alpha: decoder.has_alpha(), bytes: pixels, profile })
}

fn resized(pixels: &Pixels, turn: Turn, recipe: &Recipe, resizer: &mut Resizer) -> Result<Pixels, String> {
    let of = if pixels.has_alpha { PixelType::U8x4 } else { PixelType::U8x3 };
    let (left, top, width, height) = stored_part(recipe.part, turn, (pixels.width, pixels.height));
    let to = if turn.lies() { (recipe.height, recipe.width) } else { (recipe.width, recipe.height) };
    let source = ImageRef::new(pixels.width, pixels.height, &pixels.bytes, of).map_err(said)?;
    let mut target = Image::new(to.0, to.1, of);
    let options = ResizeOptions::new().resize_alg(ResizeAlg::Convolution(FilterType::Lanczos3)).crop(
        left.into(),
        top.into(),
        width.into(),
        height.into(),
    );
    resizer.resize(&source, &mut target, &options).map_err(said)?;
    let profile = pixels.profile.clone();
    Ok(Pixels { width: to.0, height: to.1, has_alpha: pixels.has_alpha, bytes: target.into_vec(), profile })
}

/// A part of an image as it is shown, in the places where its pixels are stored.
fn stored_part(
    (x, y, width, height): (u32, u32, u32, u32),
    turn: Turn,
    (stored_width, stored_height): (u32, u32),
) -> (u32, u32, u32, u32) {
    let (far_x, far_y) = (x + width, y + height);
    match turn.0 {
        2 => (stored_width - far_x, y, width, height),
        3 => (stored_width - far_x, stored_height - far_y, width, height),
        4 => (x, stored_height - far_y, width, height),
        5 => (y, x, height, width),
        6 => (y, stored_height - far_x, height, width),
        7 => (stored_width - far_y, stored_height - far_x, height, width),
        8 => (stored_width - far_y, x, height, width),
        _ => (x, y, width, height),
    }
}

/// An image as it is shown.
fn turned(pixels: Pixels, turn: Turn) -> Pixels {
    if turn.0 == 1 {
        return pixels;
    }
    let stored = (pixels.width, pixels.height);
    let (width, height) = if turn.lies() { (stored.1, stored.0) } else { stored };
    let size = if pixels.has_alpha { 4 } else { 3 };
    let mut bytes = Vec::with_capacity(pixels.bytes.len());
    for y in 0..height {
        for x in 0..width {
            let (from_x, from_y, ..) = stored_part((x, y, 1, 1), turn, stored);
            let at = (from_y as usize * stored.0 as usize + from_x as usize) * size;
            bytes.extend_from_slice(&pixels.bytes[at..at + size]);
        }
    }
    Pixels { width, height, bytes, ..pixels }
}

fn encoded(pixels: &Pixels, recipe: &Recipe) -> Result<Vec<u8>, String> {
    // A profile of other colours than red, green and blue fits no more.
    let profile = pixels.profile.as_deref().filter(|profile| profile.get(16..20) == Some(b"RGB "));
    match recipe.format {
        ImageFormat::Jpeg => to_jpeg(pixels, recipe.quality, profile),
        ImageFormat::Png => to_png(pixels, profile),
        ImageFormat::WebP => to_webp(pixels, recipe.quality, profile),
    }
}

fn to_jpeg(pixels: &Pixels, quality: u8, profile: Option<&[u8]>) -> Result<Vec<u8>, String> {
    let side = |side: u32| u16::try_from(side).map_err(|_| "a JPEG has at most 65,535 pixels a side".to_owned());
    let mut out = Vec::new();
    let mut encoder = jpeg_encoder::Encoder::new(&mut out, quality);
    // In parts of the whole, as most decoders know them; tables for each image are smaller.
    encoder.set_progressive(true);
    encoder.set_optimized_huffman_tables(true);
    if let Some(profile) = profile {
        encoder.add_icc_profile(profile).map_err(said)?;
    }
    let (width, height) = (side(pixels.width)?, side(pixels.height)?);
    match pixels.has_alpha {
        false => encoder.encode(&pixels.bytes, width, height, ColorType::Rgb),
        true => {
            // What may be seen through is in front of white.
            let on_white = |pixel: &[u8]| {
                let alpha = u32::from(pixel[3]);
                [0, 1, 2].map(|at| ((u32::from(pixel[at]) * alpha + 255 * (255 - alpha) + 127) / 255) as u8)
            };
            let flat: Vec<u8> = pixels.bytes.chunks_exact(4).flat_map(on_white).collect();
            encoder.encode(&flat, width, height, ColorType::Rgb)
        }
    }
    .map_err(said)?;
    Ok(out)
}

fn to_png(pixels: &Pixels, profile: Option<&[u8]>) -> Result<Vec<u8>, String> {
    let mut out = Vec::new();
    let mut info = png::Info::with_size(pixels.width, pixels.height);
    info.color_type = if pixels.has_alpha { png::ColorType::Rgba } else { png::ColorType::Rgb };
    info.bit_depth = png::BitDepth::Eight;
    info.icc_profile = profile.map(Into::into);
    let encoder = png::Encoder::with_info(&mut out, info).map_err(said)?;
    let mut writer = encoder.write_header().map_err(said)?;
    writer.write_image_data(&pixels.bytes).map_err(said)?;
    writer.finish().map_err(said)?;
    Ok(out)
}

fn to_webp(pixels: &Pixels, quality: u8, profile: Option<&[u8]>) -> Result<Vec<u8>, String> {
    let (width, height) = (pixels.width, pixels.height);
    if width.max(height) > 16_383 {
        return Err("a WebP has at most 16,383 pixels a side".to_owned());
    }
    let encoder = match pixels.has_alpha {
        true => webp::Encoder::from_rgba(&pixels.bytes, width, height),
        false => webp::Encoder::from_rgb(&pixels.bytes, width, height),
    };
    let plain = encoder.encode_simple(false, f32::from(quality)).map_err(|error| format!("{error:?}"))?;
    Ok(match profile {
        Some(profile) => with_profile(&plain, (width, height), pixels.has_alpha, profile),
        None => plain.to_vec(),
    })
}

/// A WebP with a colour profile (RFC 9649, section 2.7): the encoder writes none.
fn with_profile(plain: &[u8], (width, height): (u32, u32), has_alpha: bool, profile: &[u8]) -> Vec<u8> {
    let mut out = b"RIFF\0\0\0\0WEBPVP8X\x0a\0\0\0".to_vec();
    out.push(0x20 | if has_alpha { 0x10 } else { 0 });
    out.extend([0; 3]);
    out.extend(&(width - 1).to_le_bytes()[..3]);
    out.extend(&(height - 1).to_le_bytes()[..3]);
    let mut chunk = |name: &[u8], bytes: &[u8]| {
        out.extend(name);
        out.extend((bytes.len() as u32).to_le_bytes());
        out.extend(bytes);
        out.extend(&[0][..bytes.len() % 2]);
    };
    chunk(b"ICCP", profile);
    // One with an alpha channel has the header already.
    let mut rest = plain.get(12..).unwrap_or(&[]);
    while let [a, b, c, d, e, f, g, h, after @ ..] = rest {
        let length = u32::from_le_bytes([*e, *f, *g, *h]) as usize;
        let bytes = after.get(..length).unwrap_or(after);
        if [*a, *b, *c, *d] != *b"VP8X" {
            chunk(&[*a, *b, *c, *d], bytes);
        }
        rest = after.get(length + length % 2..).unwrap_or(&[]);
    }
    let length = (out.len() - 8) as u32;
    out[4..8].copy_from_slice(&length.to_le_bytes());
    out
}
