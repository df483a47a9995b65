//! The man pages in `docs/man`, made of the command line and held to it.

use std::fs;
use std::path::Path;

use clap_mangen::Man;

use crate::cli::Cli;

/// With `UPDATE_EXPECT=1` they are written anew.
#[test]
fn the_man_pages_are_those_of_the_command_line() {
    let folder = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../docs/man");
    let mut command = Cli::line().version("").disable_help_subcommand(true);
    command.build();
    // A page describes what short help only names.
    let whole = |command: clap::Command| command.mut_args(|arg| arg.hide_short_help(false));
    let mut pages = vec![("hausblatt.1".to_owned(), whole(command.clone()))];
    for sub in command.get_subcommands() {
        let name = format!("hausblatt-{}", sub.get_name());
        pages.push((format!("{name}.1"), whole(sub.clone()).display_name(&name).name(name.leak() as &'static str)));
    }
    let names: Vec<String> = pages.iter().map(|(name, _)| name.clone()).collect();
    for (name, command) in pages {
        let mut page = Vec::new();
        Man::new(command).title("hausblatt").source("Hausblatt").date("").render(&mut page).unwrap();
        let file = folder.join(&name);
        if std::env::var_os("UPDATE_EXPECT").is_some() {
            fs::create_dir_all(&folder).unwrap();
            fs::write(&file, &page).unwrap();
        } else {
            let written = fs::read(&file).unwrap_or_default();
            assert!(
                written == page,
                "docs/man/{name} is older than the command line: UPDATE_EXPECT=1 cargo test writes it"
            );
        }
    }
    let others = fs::read_dir(&folder).unwrap().map(|entry| entry.unwrap().file_name().into_string().unwrap());
    assert_eq!(others.filter(|name| !names.contains(name)).collect::<Vec<_>>(), Vec::<String>::new());
}
