//! `demo`: writes the demo site, builds it, and walks through the main questions.

use std::path::Path;

use hausblatt_core::build::{BuildPart, Options};
use hausblatt_core::files::Depth;
use hausblatt_core::lookup::map::map;
use hausblatt_core::model::request::Routed;
use hausblatt_core::schema::config;
use hausblatt_core::world::World;

use crate::cli::DemoArgs;
use crate::cmd::{build, print, serve};
use crate::demo;
use crate::failure::{Failure, Outcome};
use crate::opened;
use crate::options::Common;
use crate::show::resolved;
use crate::show::style::{FAINT, STRONG, TYPED, plain, styled};
use crate::show::wrap::wrapped;

/// The main questions: what is asked, the address, and what the answer shows.
const QUESTIONS: &[(&str, &str, &str)] = &[
    (
        "Which file renders this entry, and why not the one I wrote?",
        "/varieties/scarlet-runner/",
        "The name decides before the theme does: the first name on the ladder that any theme has wins, and of the themes that have it, the nearest. So harbour's general entry.html loses to hedgerow's specific entry/varieties.html.",
    ),
    (
        "And a page for which an editor chose a template?",
        "/visit/opening/",
        "Its front matter says \"template: no-aside\", so offered/no-aside.html comes first. That file holds three lines: it extends what would have rendered the page without it, and only empties one slot.",
    ),
    (
        "What does a wrong address get?",
        "/varieties/scarlet-runer/",
        "Errors have a ladder too, and their status is always the true one.",
    ),
];

/// Runs the command.
pub fn run(common: &Common, args: &DemoArgs) -> Result<Outcome, Failure> {
    let dir = &args.dir;
    check(dir)?;
    let written = demo::write(dir).map_err(|(path, error)| {
        Failure::Work(format!("{} can't be written: {error}", dir.join(path).display()), None)
    })?;
    let name = plain(&dir.display().to_string());
    if !common.quiet {
        print(&format!("{}\n", told(&written, &name)))?;
    }
    let common = Common { site: Some(dir.clone()), ..common.clone() };
    if args.serve {
        return serve::site(&common, dir);
    }
    let world = opened::open(&common, Depth::Whole)?;
    let out = dir.join("built");
    let (report, outcome) = build::into(
        world,
        &Options {
            out: out.clone(),
            map: false,
            marks: false,
            compressed: false,
            part: BuildPart::WHOLE,
            clears_images: false,
        },
        &common,
    )?;
    if common.quiet {
        return Ok(outcome);
    }
    let page = out.join("index.html");
    print(&format!(
        "Built {} pages; open {} in a browser.\n",
        report.pages,
        styled(TYPED, &plain(&page.display().to_string()))
    ))?;
    tour(world, &format!("{} --site {name}", program()))?;
    Ok(outcome)
}

fn told(written: &demo::Written, name: &str) -> String {
    let what = styled(STRONG, "The Marrow Lane Seed Library");
    match (written.new, written.kept) {
        (0, 0) => format!("{what} is in {name} already."),
        (new, 0) => format!("{what}: {new} files written into {name}."),
        (new, kept) => format!("{what}: {new} files written into {name}; {kept} that you changed stay as they are."),
    }
}

/// A folder with other things in it is none for the demo.
fn check(dir: &Path) -> Result<(), Failure> {
    if !dir.exists() || dir.join(config::FILE).is_file() || demo::was_begun(dir) {
        return Ok(());
    }
    Err(Failure::Work(
        format!("{} has other files in it", dir.display()),
        Some("name another folder, as in: hausblatt demo seeds".to_owned()),
    ))
}

/// How this program can be called again: as it was, if that was by a path from here.
fn program() -> String {
    let typed = std::env::args().next().unwrap_or_default();
    if typed.contains('/') && !typed.starts_with('/') { plain(&typed) } else { "hausblatt".to_owned() }
}

fn tour(world: &World, program: &str) -> Result<(), Failure> {
    let themes: Vec<&str> = world.lineage.themes.iter().map(|theme| theme.name.as_str()).collect();
    print(&format!("Its theme is {}: each is a child of the next.\n", themes.join(" over ")))?;
    for (at, (question, address, lesson)) in QUESTIONS.iter().enumerate() {
        let command = format!("$ {program} resolve {address}");
        print(&format!("\n{}\n{}\n\n", styled(STRONG, &format!("{}. {question}", at + 1)), styled(TYPED, &command)))?;
        if let Routed::Request(request) = world.route(address) {
            let resolution = world.resolve(request);
            print(&resolved::text(&world.explain(&resolution, world.status(&resolution))))?;
        }
        print(&format!("\n{}\n", wrapped(lesson, FAINT)))?;
    }
    let addresses = map(world).len();
    let next = [
        (format!("{program} map"), format!("all {addresses} addresses and their files")),
        (format!("{program} files"), "every theme file, what it renders and what it covers".to_owned()),
        (format!("{program} reach partials/card"), "what an edit of this file would affect".to_owned()),
        (
            format!("{program} suppose --without entry"),
            "what would render instead if this file did not exist".to_owned(),
        ),
        (format!("{program} build"), "the whole site; what is unchanged is not written".to_owned()),
        (format!("{program} serve"), "the site in a browser, live, with what made each page".to_owned()),
    ];
    print(&format!("\n{}\n", styled(STRONG, "Now try:")))?;
    for (command, what) in next {
        print(&format!("  {}\n      {what}\n", styled(TYPED, &command)))?;
    }
    print(&format!(
        "\nThen give one page a file of its own, edit that, and see what has changed:\n  {}\n  {}\n",
        styled(TYPED, &format!("{program} override {} --only", QUESTIONS[0].1)),
        styled(TYPED, &format!("{program} build --diff")),
    ))
}
