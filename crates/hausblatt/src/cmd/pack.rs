//! `pack`: the theme with its ancestors in one file.

use std::env;
use std::fs;
use std::io;
use std::path::{Path, PathBuf};

use hausblatt_core::files::Depth;
use hausblatt_core::files::edit::{Write, write_all};
use hausblatt_core::needs::alone;
use hausblatt_core::pack::{Packing, digest, pack};
use hausblatt_core::rehearse::{Stage, Within};
use hausblatt_core::world::{Unloadable, World};
use serde::Serialize;

use crate::cli::PackArgs;
use crate::cmd::build::with_progress;
use crate::cmd::{json, print};
use crate::failure::{Failure, Outcome};
use crate::opened;
use crate::options::{Common, Format};
use crate::show::style::{FAINT, GOOD, STRONG, plain, styled, word};
use crate::show::table::counted;

/// 1980-01-01, the first day that every archive can tell, in seconds since the Unix epoch.
const FIRST_DAY: u64 = 315_532_800;

/// What was packed, as JSON.
#[derive(Serialize)]
struct PackedJson {
    archive: String,
    themes: Vec<String>,
    files: usize,
    bytes: usize,
    sha256: String,
}

/// Runs the command.
pub fn run(common: &Common, args: &PackArgs) -> Result<Outcome, Failure> {
    let world = opened::open(common, Depth::Whole)?;
    let packing = pack(world, !args.without_parents).map_err(|problem| opened::failed(&problem))?;
    if !args.anyway {
        is_ready(common, world, &packing)?;
    }
    let unwritten = |error: io::Error| Failure::Work(format!("the theme can't be packed: {error}"), None);
    let bytes = packing.archive.written(time()?).map_err(unwritten)?;
    let out = args.out.clone().unwrap_or_else(|| PathBuf::from(file_name(&packing)));
    write(&out, &bytes)?;
    let shown = plain(&out.display().to_string());
    if common.format == Format::Json {
        json(&PackedJson {
            archive: out.display().to_string(),
            themes: packing.archive.themes.clone(),
            files: packing.archive.files.len(),
            bytes: bytes.len(),
            sha256: digest(&bytes),
        })?;
    } else if !common.quiet {
        let themes = plain(&packing.archive.themes.join(", "));
        let size = bytes.len().div_ceil(1000);
        let files = counted(packing.archive.files.len(), "file", "files");
        print(&format!(
            "{} {}: {themes}; {files}, {size} kB\n{}\n\nIn another site:  {}\n",
            styled(GOOD, "Wrote"),
            styled(STRONG, &shown),
            styled(FAINT, &format!("sha256 {}", digest(&bytes))),
            styled(crate::show::style::TYPED, &format!("hausblatt start theme --from {}", word(&shown)))
        ))?;
    }
    Ok(Outcome::Clean)
}

/// Refuses a theme that is not ready for others, and says what shows it.
fn is_ready(common: &Common, world: &World, packing: &Packing) -> Result<(), Failure> {
    let refused = |message: String, command: &str| {
        Err(Failure::Work(message, Some(format!("to see it: {command}; to pack it all the same, add --anyway"))))
    };
    let theme = &packing.archive.theme;
    if let Some(name) = packing.without_licence.first() {
        let message = format!("{name} has no licence file, so nobody would know what they may do with it");
        let help = format!("write themes/{name}/LICENCE.txt; to pack it all the same, add --anyway");
        return Err(Failure::Work(message, Some(help)));
    }
    let unloadable = |Unloadable(problems)| Failure::Unloadable(Box::new(world.snapshot.clone()), problems);
    let checked = alone(world).map_err(unloadable)?;
    let problems = checked.in_empty.len() + checked.in_made_up.len();
    if problems > 0 {
        let count = counted(problems, "problem", "problems");
        return refused(format!("{theme} has {count} without this site"), "hausblatt check --alone");
    }
    let stage = Stage::of(world, Within::default()).map_err(unloadable)?;
    let weaknesses = with_progress(common, "rehearsing", |tick| stage.rehearse(tick)).found.len();
    if weaknesses > 0 {
        let count = counted(weaknesses, "weakness", "weaknesses");
        return refused(format!("{theme} has {count} with other content"), "hausblatt rehearse");
    }
    Ok(())
}

/// The time of all files: that of `SOURCE_DATE_EPOCH`, or the first day.
fn time() -> Result<u64, Failure> {
    match env::var("SOURCE_DATE_EPOCH") {
        Err(_) => Ok(FIRST_DAY),
        Ok(text) => text.trim().parse().map_err(|_| {
            let help = "it is a number of seconds since 1970-01-01; unset it for 1980-01-01";
            Failure::usage(format!("SOURCE_DATE_EPOCH is \"{text}\""), help)
        }),
    }
}

fn file_name(packing: &Packing) -> String {
    let is_plain =
        |version: &&String| version.chars().all(|c| c.is_ascii_alphanumeric() || matches!(c, '.' | '-' | '+'));
    match packing.version.as_ref().filter(is_plain) {
        Some(version) => format!("{}-{version}.tar.gz", packing.archive.theme),
        None => format!("{}.tar.gz", packing.archive.theme),
    }
}

/// Writes the archive in place of an earlier one, and of nothing else.
fn write(out: &Path, bytes: &[u8]) -> Result<(), Failure> {
    let failed = |error: io::Error| Failure::Work(format!("{} can't be written: {error}", out.display()), None);
    let (folder, name) = (out.parent().filter(|folder| *folder != Path::new("")), out.file_name());
    let Some(name) = name.and_then(|name| name.to_str()) else {
        return Err(Failure::usage(format!("{} names no file", out.display()), "write --out harbour.tar.gz"));
    };
    let write = match opened::regular(out) {
        Ok(now) if now == bytes => return Ok(()),
        Ok(now) if now.starts_with(&[0x1f, 0x8b]) => Write::instead_of(name, now, bytes),
        Ok(_) => {
            let message = format!("{} is there already and is no archive", out.display());
            return Err(Failure::Work(message, Some("name another file with --out".to_owned())));
        }
        Err(error) if error.kind() == io::ErrorKind::NotFound => Write::new(name, bytes),
        Err(error) => return Err(failed(error)),
    };
    let folder = folder.unwrap_or(Path::new("."));
    fs::create_dir_all(folder).map_err(failed)?;
    write_all(&opened::disk(), folder, &[write])
        .map_err(|(path, error)| Failure::Work(format!("{path} can't be written: {error}"), None))
}
