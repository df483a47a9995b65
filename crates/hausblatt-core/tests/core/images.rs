//! Images that are made of others: which, how they look, what is kept of them, and what is said of those that can't be.

use std::io::Cursor;
use std::path::Path;
use std::sync::Arc;

use hausblatt_core::build::{self, BuildPart, ChangeKind, Options, Report, dry_run};
use hausblatt_core::check::{self, Scope};
use hausblatt_core::files::memory::Memory;
use hausblatt_core::files::{self, Depth, Files, KeptImages, Snapshot};
use hausblatt_core::images::{ImageFormat, ImageHead, ImageKind, Recipe, Turn, make, read_head};
use hausblatt_core::world::World;
use jpeg_decoder::Decoder;
use jpeg_encoder::{ColorType, Encoder};

use crate::support::failing::{Event, Failing};
use crate::support::{asking, checked, snapshot};

const SITE: &str = "[site]\ntitle = \"Seeds\"\ntheme = \"near\"\naddress = \"https://seeds.example\"\n";
const PAGE: &str = "---\nlayout: none\n---\n<!doctype html>\n+{let gate = image(\"/media/Old gate.jpg\")}\n\
    <img src=\"+{gate.scaled(32)}\" srcset=\"+{gate.scaled(32).srcset([16, 99, 16, 8])}\" width=\"+{gate.scaled(32).width}\" height=\"+{gate.scaled(32).height}\">\n\
    <img src=\"+{gate.cropped(1, 1).as(\"png\")}\" data-all='+{json([gate.as(\"webp\").quality(50)])}'>\n+{content.body}";

/// Half red, half blue, so wide and so high.
fn photo(width: u16, height: u16, extra: &[(u8, &[u8])]) -> Vec<u8> {
    let mut pixels = Vec::new();
    for _ in 0..height {
        for x in 0..width {
            pixels.extend(if x < width / 2 { [220, 20, 20] } else { [20, 20, 220] });
        }
    }
    let mut out = Vec::new();
    let mut encoder = Encoder::new(&mut out, 95);
    for (segment, data) in extra {
        encoder.add_app_segment(*segment, data).unwrap();
    }
    encoder.encode(&pixels, width, height, ColorType::Rgb).unwrap();
    out
}

/// Exif data that says how an image is turned.
fn exif(turn: u8) -> Vec<u8> {
    let mut exif = b"Exif\0\0MM\0\x2a\0\0\0\x08\0\x01\x01\x12\0\x03\0\0\0\x01\0".to_vec();
    exif.extend([turn, 0, 0, 0, 0, 0, 0]);
    exif
}

fn site() -> Memory {
    let files = Memory::of([
        ("hausblatt.toml", SITE),
        ("content/pages/home.md", "---\ntitle: Home\n---\nOne\n"),
        ("content/pages/visit.md", "---\ntitle: Visit\n---\nTwo\n"),
        ("themes/near/hausblatt-theme.toml", "[theme]\nversion = \"1.0\"\n"),
        ("themes/near/templates/page.html", PAGE),
    ]);
    files.write("media/Old gate.jpg", photo(64, 48, &[]));
    files
}

fn options(part: BuildPart) -> Options {
    Options { out: "/built".into(), map: false, marks: false, compressed: true, part, clears_images: true }
}

fn built(files: &(impl Files + Clone + 'static)) -> Report {
    built_part(files, BuildPart::WHOLE)
}

fn built_part(files: &(impl Files + Clone + 'static), part: BuildPart) -> Report {
    let world = World::load(snapshot(files), asking()).unwrap();
    build::build(&world, &options(part), &|_, _| {}).unwrap()
}

/// The names of the made images below a folder, with their sizes.
fn made(files: &Memory, folder: &str) -> Vec<(String, u32, u32)> {
    let below = files.all().into_iter().filter(|(path, _)| path.starts_with(folder));
    let mut all: Vec<(String, u32, u32)> = below
        .filter_map(|(path, bytes)| {
            let head = read_head(Cursor::new(&*bytes)).ok()??;
            Some((path.file_name()?.to_str()?.to_owned(), head.width, head.height))
        })
        .collect();
    all.sort();
    all
}

const MADE: [(&str, u32, u32); 5] = [
    ("old-gate-16.jpg", 16, 12),
    ("old-gate-32.jpg", 32, 24),
    ("old-gate-48.png", 48, 48),
    ("old-gate-64.webp", 64, 48),
    ("old-gate-8.jpg", 8, 6),
];

fn owned(all: &[(&str, u32, u32)]) -> Vec<(String, u32, u32)> {
    all.iter().map(|(name, width, height)| ((*name).to_owned(), *width, *height)).collect()
}

#[test]
fn a_build_has_the_images_that_its_pages_name() {
    let files = site();
    let first = built(&files);
    assert!(first.diagnostics.is_empty(), "{first:?}");
    assert_eq!(made(&files, "/built/media/_made"), owned(&MADE));
    assert_eq!(made(&files, "/.hausblatt-images").len(), 5);
    let page = String::from_utf8(files.bytes("/built/visit/index.html").unwrap().to_vec()).unwrap();
    let widths: Vec<&str> = page.split(' ').filter(|word| word.trim_end_matches([',', '"']).ends_with('w')).collect();
    assert_eq!(widths, ["8w,", "16w,", "32w\""], "{page}");
    assert!(page.contains("width=\"32\" height=\"24\""), "{page}");
    assert!(!page.contains("?v="), "the digest is their version: {page}");
    assert_eq!((built(&files).written, first.removed), (0, 0));
    // In every text that is published, whatever it is.
    for path in page.split("/media/_made/").skip(1).map(|rest| rest.split(['"', ' ', '&']).next().unwrap()) {
        assert!(files.bytes(format!("/built/media/_made/{path}")).is_some(), "{path}");
    }
}

#[test]
fn what_no_page_names_any_more_goes_and_what_is_lost_is_made_again() {
    let files = site();
    built(&files);
    let before = files.all();
    for (path, _) in before.iter().filter(|(path, _)| path.starts_with("/.hausblatt-images")) {
        files.remove(path);
    }
    files.remove("/built/.hausblatt-build");
    for (path, _) in before.iter().filter(|(path, _)| path.starts_with("/built")) {
        files.remove(path);
    }
    built(&files);
    let same = |(path, bytes): &(std::path::PathBuf, _)| {
        path.to_string_lossy().contains("/.hausblatt-") || files.bytes(path).as_ref() == Some(bytes)
    };
    assert!(before.iter().all(same));
    // A damaged one is none.
    let kept =
        files.all().into_iter().find(|(path, _)| path.starts_with("/.hausblatt-images") && !path.ends_with(".in-use"));
    files.write(&kept.as_ref().unwrap().0, "lost");
    files.remove("/built/.hausblatt-build");
    files.all().iter().filter(|(path, _)| path.starts_with("/built")).for_each(|(path, _)| files.remove(path));
    built(&files);
    assert_eq!(files.bytes(&kept.as_ref().unwrap().0).as_deref(), Some(&*kept.unwrap().1));
    assert_eq!(made(&files, "/built/media/_made"), owned(&MADE));
    let narrow = "---\nlayout: none\n---\n<img src=\"+{image(\"/media/Old gate.jpg\").scaled(8)}\">";
    files.write("themes/near/templates/page.html", narrow);
    assert_eq!(built(&files).removed, 4);
    assert_eq!(made(&files, "/built/media/_made"), owned(&MADE[4..]));
    assert_eq!(made(&files, "/.hausblatt-images").len(), 1);
    files.write("media/Old gate.jpg", photo(64, 48, &[(1, &exif(1))]));
    let again = built(&files);
    assert_eq!((again.removed, again.written), (1, 4), "{again:?}");
}

#[test]
fn a_page_that_stays_for_its_error_keeps_its_images() {
    let files = site();
    built(&files);
    let before = (made(&files, "/built/media/_made"), made(&files, "/.hausblatt-images"));
    files.write("themes/near/templates/page.html", "---\nlayout: none\n---\n+{content.body.scaled(1)}");
    assert_eq!(built(&files).failed.len(), 2);
    assert_eq!((made(&files, "/built/media/_made"), made(&files, "/.hausblatt-images")), before);
    let world = World::load(snapshot(&files), asking()).unwrap();
    let dry = dry_run(&world, &options(BuildPart::WHOLE), false, &|_, _| {}).unwrap();
    assert!(dry.would.is_empty(), "{:?}", dry.would);
}

#[test]
fn images_in_use_are_not_removed() {
    let files = site();
    built(&files);
    let serving = snapshot(&files);
    let kept = KeptImages::of(&serving);
    let held = kept.hold().unwrap();
    assert!(kept.hold().is_none());
    files.write("themes/near/templates/page.html", "---\nlayout: none\n---\n1");
    built(&files);
    assert_eq!((made(&files, "/.hausblatt-images").len(), made(&files, "/built/media/_made").len()), (5, 0));
    drop(held);
    files.write("themes/near/templates/page.html", "---\nlayout: none\n---\n2");
    built(&files);
    assert!(made(&files, "/.hausblatt-images").is_empty());
}

#[test]
fn parts_have_the_images_of_their_pages() {
    let (whole, parts) = (site(), site());
    built(&whole);
    for number in 1..=3 {
        let report = built_part(&parts, format!("{number}/3").parse().unwrap());
        assert_eq!(report.removed, 0);
    }
    let all = |files: &Memory| {
        let own = |path: &Path| path.starts_with("/built") && !path.to_string_lossy().contains("/.hausblatt-");
        files.all().into_iter().filter(|(path, _)| own(path)).collect::<Vec<_>>()
    };
    assert_eq!(all(&whole), all(&parts));
}

#[test]
fn a_build_that_ends_anywhere_is_completed_by_the_next() {
    let expected = site();
    built(&expected);
    let calls = {
        let files = Failing::never(&site());
        built(&files);
        files.calls()
    };
    for call in (1..=calls).step_by(5) {
        let files = site();
        let ended = Arc::new(Failing::at(&files, call, Event::Ends));
        if let Ok(snapshot) = Snapshot::load(ended, Path::new("/"), Depth::Whole)
            && let Ok(world) = World::load(snapshot, asking())
        {
            let _ = build::build(&world, &options(BuildPart::WHOLE), &|_, _| {});
        }
        let report = built(&files);
        assert!(report.diagnostics.is_empty(), "{call}: {report:?}");
        assert_eq!(made(&files, "/built/media/_made"), owned(&MADE), "{call}");
        // What was interrupted while it was kept is removed when its process is known to have ended.
        let whole = |files: &Memory| {
            let paths = files.all().into_iter().map(|(path, _)| path);
            paths.filter(|path| !files::edit::is_temporary(path) && !path.ends_with(".in-use")).collect::<Vec<_>>()
        };
        assert_eq!(whole(&files), whole(&expected), "{call}");
    }
}

#[test]
fn a_dry_run_says_which_are_still_to_be_made() {
    let files = site();
    let dry = |files: &Memory| {
        let world = World::load(snapshot(files), asking()).unwrap();
        dry_run(&world, &options(BuildPart::WHOLE), true, &|_, _| {}).unwrap()
    };
    let before = files.all().len();
    let run = dry(&files);
    let new =
        |path: &str| run.would.iter().filter(|would| would.path.ends_with(path)).map(|would| would.becomes).next();
    assert_eq!((run.unmade, new("/old-gate-8.jpg")), (5, Some(ChangeKind::New)));
    assert_eq!(files.all().len(), before, "nothing is written");
    let report = built(&files);
    let run = dry(&files);
    assert_eq!((run.unmade, run.would.len(), run.bytes), (0, 0, report.bytes));
    files.write("themes/near/templates/page.html", "---\nlayout: none\n---\n1");
    let gone = dry(&files).would.iter().filter(|would| would.becomes == ChangeKind::Removed).count();
    assert!(gone >= 5, "{gone}");
}

/// The colour of the middle of each quarter of a JPEG: r for red, b for blue.
fn quarters(jpeg: &[u8]) -> String {
    let mut decoder = Decoder::new(Cursor::new(jpeg));
    let pixels = decoder.decode().unwrap();
    let size = decoder.info().unwrap();
    let (width, height) = (usize::from(size.width), usize::from(size.height));
    let at = |(x, y): (usize, usize)| &pixels[((y * height / 4) * width + x * width / 4) * 3..][..3];
    [(1, 1), (3, 1), (1, 3), (3, 3)].map(|place| if at(place)[0] > at(place)[2] { 'r' } else { 'b' }).iter().collect()
}

#[test]
fn images_are_turned_as_browsers_show_them() {
    // Red is at the left in the file.
    for (turn, size, colours) in [
        (1, (40, 20), "rbrb"),
        (2, (40, 20), "brbr"),
        (3, (40, 20), "brbr"),
        (4, (40, 20), "rbrb"),
        (5, (20, 40), "rrbb"),
        (6, (20, 40), "rrbb"),
        (7, (20, 40), "bbrr"),
        (8, (20, 40), "bbrr"),
        (9, (40, 20), "rbrb"),
    ] {
        let bytes = photo(80, 40, &[(1, &exif(turn))]);
        let head = read_head(Cursor::new(&bytes)).unwrap().unwrap();
        let half = Recipe::whole(&head).unwrap().scaled(head.width / 2);
        let all = make(&bytes, &head, &[half, half.cropped(1, 1), half.in_format(ImageFormat::Png)]).unwrap();
        let again = read_head(Cursor::new(&all[0])).unwrap().unwrap();
        assert_eq!(((again.width, again.height), again.turn), (size, Turn(1)), "{turn}");
        assert_eq!((quarters(&all[0]), quarters(&all[1])), (colours.to_owned(), colours.to_owned()), "{turn}");
        let png = read_head(Cursor::new(&all[2])).unwrap().unwrap();
        assert_eq!((png.kind, png.width), (ImageKind::Pixels(ImageFormat::Png), size.0), "{turn}");
    }
    // A crop is of what is shown: here the right third, which is blue.
    let bytes = photo(90, 30, &[(1, &exif(8))]);
    let head = read_head(Cursor::new(&bytes)).unwrap().unwrap();
    let recipe =
        Recipe { part: (0, 0, 30, 30), width: 30, height: 30, is_whole: false, ..Recipe::whole(&head).unwrap() };
    assert_eq!(quarters(&make(&bytes, &head, &[recipe]).unwrap()[0]), "bbbb");
}

#[test]
fn a_colour_profile_stays_with_its_image() {
    let mut profile = vec![7; 300];
    profile[16..20].copy_from_slice(b"RGB ");
    let mut segment = b"ICC_PROFILE\0\x01\x01".to_vec();
    segment.extend(&profile);
    let bytes = photo(20, 20, &[(2, &segment)]);
    let head = read_head(Cursor::new(&bytes)).unwrap().unwrap();
    let whole = Recipe::whole(&head).unwrap();
    for format in ImageFormat::ALL {
        let made = make(&bytes, &head, &[whole.scaled(10).in_format(format)]).unwrap().remove(0);
        // Once more, so that all three are read as well.
        let again = read_head(Cursor::new(&made)).unwrap().unwrap();
        assert_eq!((again.kind, again.width, again.is_cut), (ImageKind::Pixels(format), 10, false), "{format:?}");
        let jpeg = Recipe::whole(&again).unwrap().scaled(5).in_format(ImageFormat::Jpeg);
        let jpeg = make(&made, &again, &[jpeg]).unwrap().remove(0);
        let mut decoder = Decoder::new(Cursor::new(&jpeg));
        decoder.read_info().unwrap();
        assert_eq!(decoder.icc_profile().as_deref(), Some(&*profile), "{format:?}");
    }
    // One for other colours fits none of these.
    segment[14 + 16..14 + 20].copy_from_slice(b"CMYK");
    let bytes = photo(20, 20, &[(2, &segment)]);
    let made = make(&bytes, &head, &[whole.scaled(10)]).unwrap().remove(0);
    let mut decoder = Decoder::new(Cursor::new(&made));
    decoder.read_info().unwrap();
    assert_eq!(decoder.icc_profile(), None);
}

pub fn png(width: u32, height: u32, color: png::ColorType, depth: png::BitDepth, data: &[u8]) -> Vec<u8> {
    let mut out = Vec::new();
    let mut encoder = png::Encoder::new(&mut out, width, height);
    encoder.set_color(color);
    encoder.set_depth(depth);
    if color == png::ColorType::Indexed {
        encoder.set_palette(vec![250, 10, 10, 10, 10, 250]);
        encoder.set_trns(vec![255, 0]);
    }
    let mut writer = encoder.write_header().unwrap();
    writer.write_image_data(data).unwrap();
    writer.finish().unwrap();
    out
}

#[test]
fn pngs_of_all_sorts_are_read() {
    use png::{BitDepth, ColorType as Of};
    for (color, depth, data, see_through) in [
        (Of::Grayscale, BitDepth::One, vec![0xf0; 8], false),
        (Of::Grayscale, BitDepth::Sixteen, vec![200; 128], false),
        (Of::GrayscaleAlpha, BitDepth::Eight, [200, 0].repeat(64), true),
        (Of::Indexed, BitDepth::Two, vec![0x55; 16], true),
        (Of::Rgb, BitDepth::Sixteen, vec![200; 384], false),
        (Of::Rgba, BitDepth::Eight, [200, 0, 0, 0].repeat(64), true),
    ] {
        let bytes = png(8, 8, color, depth, &data);
        let head = read_head(Cursor::new(&bytes)).unwrap().unwrap();
        let recipe = Recipe::whole(&head).unwrap().scaled(4);
        let all = ImageFormat::ALL.map(|format| recipe.in_format(format));
        let made = make(&bytes, &head, &all).unwrap_or_else(|why| panic!("{color:?} {depth:?}: {why}"));
        // What may be seen through is in front of white in a JPEG.
        let mut jpeg = Decoder::new(Cursor::new(&made[0]));
        assert_eq!(
            jpeg.decode().unwrap()[1] > 240,
            see_through || color == Of::Grayscale && depth == BitDepth::One,
            "{color:?}"
        );
        let mut decoder = image_webp::WebPDecoder::new(Cursor::new(&made[2])).unwrap();
        assert_eq!((decoder.dimensions(), decoder.has_alpha()), ((4, 4), see_through), "{color:?}");
        let mut pixels = vec![0; decoder.output_buffer_size().unwrap()];
        decoder.read_image(&mut pixels).unwrap();
        let reader = png::Decoder::new(Cursor::new(&made[1])).read_info().unwrap();
        assert_eq!(reader.info().color_type == Of::Rgba, see_through, "{color:?}");
    }
}

/// What a page shows that prints this.
fn shown(files: &Memory, template: &str) -> String {
    files.write("themes/near/templates/page.html", format!("---\nlayout: none\n---\n{template}"));
    let world = World::load(snapshot(files), asking()).unwrap();
    let site = hausblatt_core::Site::open(Arc::new(files.clone()), Path::new("/"), &asking()).unwrap();
    let page = site.render("/home/");
    let said: Vec<String> = world
        .problems
        .iter()
        .chain(&page.diagnostics)
        .map(|it| match &it.help {
            Some(help) => format!("{} | {help}", it.message),
            None => it.message.clone(),
        })
        .collect();
    format!("{}{}", page.text, said.join("\n"))
}

#[test]
fn what_can_not_be_made_anew_stays_as_it_is() {
    let files = site();
    files.write("media/a.svg", "<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"90\" height=\"60\"/>");
    files.write("media/a.gif", "GIF89a@\u{1f}@\u{1f}\0\0\0;");
    let mut animated = png(4, 4, png::ColorType::Grayscale, png::BitDepth::Eight, &[9; 16]);
    animated.splice(33..33, *b"\0\0\0\x08acTL\0\0\0\x02\0\0\0\0\xf3\x8d\x93\x70");
    files.write("media/b.png", animated);
    let mut cmyk = Vec::new();
    Encoder::new(&mut cmyk, 90).encode(&[9; 64], 4, 4, ColorType::Cmyk).unwrap();
    files.write("media/c.jpg", cmyk);
    for path in ["a.svg", "a.gif", "b.png", "c.jpg"] {
        let asked = format!(
            "+{{let i = image(\"/media/{path}\")}}+{{i.scaled(2).cropped(1, 1).as(\"webp\").quality(9).path}} <img srcset=\"+{{i.srcset([1])}}\">"
        );
        assert_eq!(shown(&files, &asked), format!("/media/{path} <img>"));
    }
    // Nothing that is asked changes these.
    let same = "+{let i = image(\"/media/Old gate.jpg\")}+{i.scaled(64).scaled(99).cropped(4, 3).as(\"jpg\").path}";
    assert_eq!(shown(&files, same), "/media/Old gate.jpg");
    for (slip, says) in [
        ("as(\"avif\")", "no image is made as \"avif\"; it can be one of jpg, png, webp"),
        ("quality(101)", "a quality is from 1 to 100"),
        ("scald(9)", "an image has no \"scald\" | did you mean \"scaled\"?"),
        ("resize(640)", "an image has no \"resize\" | here it is called \"scaled\""),
        ("crop(4, 3)", "an image has no \"crop\" | here it is called \"cropped\""),
        ("webp", "an image has no \"webp\" | here it is called \"as\""),
        ("scaled", "\"scaled\" takes 1 argument, not 0"),
        ("cropped(4)", "\"cropped\" takes 2 arguments, not 1"),
        ("srcset(360, 720)", "\"srcset\" takes 1 argument, not 2"),
        ("scaled(\"640\")", "a whole number is needed here, not a text"),
        ("srcset(640)", "srcset needs a list of widths in pixels, as in .srcset([360, 720])"),
    ] {
        let found = shown(&files, &format!("+{{image(\"/media/Old gate.jpg\").{slip}}}"));
        assert!(found.contains(says), "{slip}: {found}");
    }
}

#[test]
fn images_of_fields_and_themes_are_made_too() {
    let files = site();
    files.write("themes/near/assets/img/bed.jpg", photo(30, 20, &[]));
    files.write("content/pages/home.md", "---\ntitle: Home\nimage: { file: media/Old gate.jpg, alt: The gate }\n---\n");
    let template = "+{let i = content.image}<img src=\"+{i.scaled(10)}\" alt=\"+{i.scaled(10).alt}\"> +{image(\"assets/img/bed.jpg\").scaled(10).height} +{content.nothing.scaled(3)}";
    let page = shown(&files, template);
    assert!(page.contains("/old-gate-10.jpg\" alt=\"The gate\"> 7 "), "{page}");
}

#[test]
fn images_in_markdown_are_offered_in_widths() {
    let files = site();
    files.write("hausblatt.toml", format!("{SITE}[content]\nimages = {{ widths = [16, 32], sizes = \"50vw\" }}\n"));
    let body = "---\ntitle: Home\n---\n![The *gate*](</media/Old gate.jpg>)\n![](/media/small.png) ![](https://elsewhere.example/media/small.png)\n\n<!-- tray x -->\n";
    files.write("content/pages/home.md", body);
    files.write("media/small.png", png(8, 8, png::ColorType::Grayscale, png::BitDepth::Eight, &[9; 64]));
    let page = shown(&files, "+{content.body}+{markdown(\"![](/media/small.png)\")}");
    for part in [
        "/old-gate-32.jpg\" srcset=\"/media/_made/",
        "/old-gate-16.jpg 16w, ",
        "/old-gate-32.jpg 32w\" sizes=\"50vw\" width=\"32\" height=\"24\" alt=\"The gate\" />",
        " width=\"8\" height=\"8\" alt=\"\" /> <img src=\"https://elsewhere.example/media/small.png\" alt=\"\" />",
    ] {
        assert!(page.contains(part), "{part}: {page}");
    }
    assert_eq!(page.matches("small.png").count(), 3);
    let world = |toml: &str| {
        files.write("hausblatt.toml", format!("{SITE}[content]\n{toml}\n"));
        let world = World::load(snapshot(&files), asking()).unwrap();
        world.problems.iter().map(|it| it.message.clone()).collect::<Vec<_>>()
    };
    for (toml, says) in [
        ("images = { sizes = \"50vw\" }", "images lacks \"widths\""),
        ("images = { widths = [] }", "\"widths\" must be a list of widths in pixels"),
        ("images = { widths = [\"6\"] }", "\"widths\" must be a list of widths in pixels"),
        ("images = { widths = [0] }", "\"widths\" must be a list of widths in pixels"),
        ("images = [640]", "\"images\" must be a group of keys, not a list"),
        ("images = { widths = [640], size = 1 }", "unknown key \"size\" in images"),
    ] {
        assert_eq!(world(toml), [says], "{toml}");
    }
}

#[test]
fn images_that_are_broken_or_too_large_are_reported_where_they_are() {
    let gate = "media/Old gate.jpg";
    let whole = photo(64, 48, &[]);
    let after = |bytes: &[u8]| {
        let files = site();
        files.write(gate, bytes);
        let report = built(&files);
        let said = report.diagnostics.iter().map(|it| {
            let place = it.place.as_ref().unwrap();
            assert_eq!((it.code, &*place.path, it.is_error()), ("bad-image", gate, true));
            it.message.clone()
        });
        (said.collect::<Vec<_>>(), checked(&snapshot(&files)).into_iter().filter(|said| said.0 == "bad-image").count())
    };
    assert_eq!(after(&whole), (vec![], 0));
    // Without its end it is shown in part; only a check says so.
    assert_eq!(after(&whole[..whole.len() - 2]).1, 1);
    // 60,000 pixels wide and high, as the header says.
    let mut large = whole.clone();
    let frame = large.windows(2).position(|pair| pair == [0xff, 0xc0]).unwrap();
    large[frame + 5..frame + 9].copy_from_slice(&[0xea, 0x60, 0xea, 0x60]);
    assert_eq!(
        after(&large).0,
        ["no other image can be made of this one: it has 3600 million pixels, and at most 120 are decoded"]
    );
    // Scans cost time, however short they are.
    let scan = [0xff, 0xda, 0, 8, 1, 1, 0, 0, 63, 0];
    let mut slow = whole.clone();
    slow.truncate(whole.len() - 2);
    slow.extend([&scan.repeat(300)[..], &[0xff, 0xd9]].concat());
    assert_eq!(after(&slow).0, ["no other image can be made of this one: it is made of more than 200 scans"]);
    let mut lying = png(64, 48, png::ColorType::Grayscale, png::BitDepth::Eight, &[9; 64 * 48]);
    assert_eq!(after(&lying), (vec![], 1), "a PNG that is called a JPEG");
    lying.truncate(60);
    assert_eq!(after(&lying).0.len(), 1);
    // In no format that is known, it stays as it is.
    assert_eq!(after(b"beans"), (vec![], 1));
    assert_eq!(after(b""), (vec![], 1));
    // What a page with it weighs can't be known, and is not said to be little.
    let files = site();
    let start = whole.windows(2).position(|pair| pair == [0xff, 0xda]).unwrap();
    for (bytes, told) in [(&whole[..start + 2], 0), (&[&whole[..start + 2], &[0xff, 0xd9]].concat(), 1)] {
        files.write(gate, bytes);
        let world = World::load(snapshot(&files), asking()).unwrap();
        let heavy = check::heavy_pages(&world, &Scope::Whole, 1 << 30);
        assert_eq!(heavy.iter().filter(|found| found.diagnostic.code == "bad-image").count(), told);
    }
    let files = site();
    files.write("media/_made/x.txt", "1");
    assert!(checked(&snapshot(&files)).iter().any(|said| (&*said.0, &*said.1) == ("bad-name", "media/_made/x.txt")));
}

#[test]
fn no_bytes_are_too_strange() {
    let see_through = png(9, 9, png::ColorType::Rgba, png::BitDepth::Eight, &[90; 9 * 9 * 4]);
    let head = read_head(Cursor::new(&see_through)).unwrap().unwrap();
    let webp =
        make(&see_through, &head, &[Recipe::whole(&head).unwrap().in_format(ImageFormat::WebP)]).unwrap().remove(0);
    for bytes in [photo(16, 16, &[(1, &exif(6))]), see_through, webp] {
        let tried = |bytes: &[u8]| {
            let Ok(Some(head)) = read_head(Cursor::new(bytes)) else { return };
            let Some(recipe) = Recipe::whole(&head) else { return };
            let _ = make(bytes, &head, &[recipe.scaled(5).cropped(2, 1), recipe.in_format(ImageFormat::WebP)]);
        };
        for end in 0..bytes.len() {
            tried(&bytes[..end]);
        }
        for at in 0..bytes.len() {
            for value in [0, 0xff, bytes[at] ^ 0x80] {
                let mut changed = bytes.clone();
                changed[at] = value;
                // What says that it is large takes its time and is stopped by its size.
                if read_head(Cursor::new(&changed))
                    .is_ok_and(|head| head.is_none_or(|head: ImageHead| head.width < 999 && head.height < 999))
                {
                    tried(&changed);
                }
            }
        }
    }
}
