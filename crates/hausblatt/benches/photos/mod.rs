//! A site of photographs, and a bare program that makes the same images of them with the same libraries.

use std::fs;
use std::path::{Path, PathBuf};

use fast_image_resize::images::{Image, ImageRef};
use fast_image_resize::{FilterType, PixelType, ResizeAlg, ResizeOptions, Resizer};
use jpeg_encoder::{ColorType, Encoder};
use rayon::prelude::*;

/// How many there are.
pub const COUNT: usize = 16;
/// Their size: 12 megapixels.
const SIZE: (u16, u16) = (4000, 3000);
const WIDTHS: [u32; 4] = [360, 720, 1440, 2160];

const TEMPLATE: &str = "---\nlayout: none\n---\n<!doctype html><html lang=\"en\"><title>+{content.title}</title>\
    +{let p = content.image.scaled(2160)}<img src=\"+{p}\" srcset=\"+{p.srcset([360, 720, 1440])}\" alt=\"\">\n";

/// Writes the site.
pub fn write(site: &Path) {
    let write = |path: &str, bytes: &[u8]| {
        let path = site.join(path);
        fs::create_dir_all(path.parent().unwrap()).unwrap();
        fs::write(path, bytes).unwrap();
    };
    write("hausblatt.toml", b"[site]\ntitle = \"Photographs\"\ntheme = \"plain\"\n");
    write("themes/plain/hausblatt-theme.toml", b"");
    write("themes/plain/templates/page.html", TEMPLATE.as_bytes());
    for number in 0..COUNT {
        write(&format!("media/photo-{number}.jpg"), &photo(number));
        let page = format!("---\ntitle: {number}\nimage: media/photo-{number}.jpg\n---\n");
        write(&format!("content/pages/photo-{number}.md"), page.as_bytes());
    }
}

/// Soft slopes with edges and the noise of a sensor.
fn photo(number: usize) -> Vec<u8> {
    let (width, height) = (usize::from(SIZE.0), usize::from(SIZE.1));
    let mut pixels = Vec::with_capacity(width * height * 3);
    let mut noise = number as u32 + 1;
    let (across, down) = (0.002 + number as f32 * 0.0003, 0.0015 + number as f32 * 0.0002);
    let slope: Vec<f32> = (0..width).map(|x| (x as f32 * across).sin() * 60.0).collect();
    for y in 0..height {
        let base = 128.0 + (y as f32 * down).cos() * 50.0;
        for (x, slope) in slope.iter().enumerate() {
            noise = noise.wrapping_mul(1_664_525).wrapping_add(1_013_904_223);
            let edge = if (x / 40 + y / 50) % 2 == 0 { 15.0 } else { 0.0 };
            let value = base + slope + (noise >> 28) as f32 + edge;
            pixels.extend([value as u8, (value * 0.8) as u8, (255.0 - value * 0.7) as u8]);
        }
    }
    let mut bytes = Vec::new();
    Encoder::new(&mut bytes, 85).encode(&pixels, SIZE.0, SIZE.1, ColorType::Rgb).unwrap();
    bytes
}

/// Removes what a build has kept of the images that it made.
pub fn forget(site: &Path) {
    fs::remove_dir_all(site.join(".hausblatt-images")).unwrap();
}

/// The same images, and no more.
pub fn make(site: &Path, out: &Path) {
    fs::create_dir_all(out).unwrap();
    let files: Vec<PathBuf> = fs::read_dir(site.join("media")).unwrap().map(|entry| entry.unwrap().path()).collect();
    let pool = rayon::ThreadPoolBuilder::new().num_threads(2).build().unwrap();
    pool.install(|| files.par_iter().for_each(|file| make_all(file, out)));
}

fn make_all(file: &Path, out: &Path) {
    let bytes = fs::read(file).unwrap();
    let mut decoder = jpeg_decoder::Decoder::new(&bytes[..]);
    let pixels = decoder.decode().unwrap();
    let (width, height) = (u32::from(SIZE.0), u32::from(SIZE.1));
    let source = ImageRef::new(width, height, &pixels, PixelType::U8x3).unwrap();
    let mut resizer = Resizer::new();
    for to in WIDTHS {
        let mut target = Image::new(to, (height * to + width / 2) / width, PixelType::U8x3);
        let options = ResizeOptions::new().resize_alg(ResizeAlg::Convolution(FilterType::Lanczos3));
        resizer.resize(&source, &mut target, &options).unwrap();
        let mut encoded = Vec::new();
        let mut encoder = Encoder::new(&mut encoded, 80);
        encoder.set_progressive(true);
        encoder.set_optimized_huffman_tables(true);
        encoder.encode(target.buffer(), target.width() as u16, target.height() as u16, ColorType::Rgb).unwrap();
        let name = file.file_stem().unwrap().to_str().unwrap();
        fs::write(out.join(format!("{name}-{to}.jpg")), encoded).unwrap();
    }
}
