//! What is said of the commands, and what shells know of them.

use crate::support::Site;
use expect_test::expect;

#[test]
fn help() {
    let site = Site::empty();
    expect![[r#"
        exit 0
        Which file renders each request, why, and what else changes if you touch it

        Usage: hausblatt [OPTIONS] <COMMAND>

        Commands:
          demo      Write the demo site, build it, and walk through the main questions
          start     Create a working site, theme, template, layout, partial, component,
                    page or entry
          resolve   Show which file renders an address, and why
          map       List every address and its file
          reach     Show what a theme file affects
          themes    List the active theme and its ancestors
          files     List every theme file: what it renders, covers, its state
          override  Give the active theme its own version of an inherited file
          choose    Choose an offered template for content
          set       Set a setting, a field of content, a component in a tray, a menu's
                    item
          suppose   Show what a change would affect, writing nothing
          drift     List copies whose original has changed
          rename    Rename a theme file or a name, and all that uses it
          extend    Let a copy extend what it is a copy of
          move      Move a theme file to another theme of the lineage
          extract   Make lines of a theme file a partial, or a slot
          neaten    Write theme files neatly, changing nothing that is printed
          undo      Take back the last change that a command wrote
          values    Show the values a template sees, or evaluate an expression
          render    Print the HTML of an address
          build     Build the whole site into a folder
          check     Report problems in themes and content
          rehearse  Render templates with content worse than the site's own
          needs     List what the themes read from the site
          pack      Pack the theme with its ancestors into one file
          expect    Compare the map with a recorded one
          missed    List requested addresses that don't exist, from an access log
          chart     Draw the ladders as an SVG image
          serve     Serve the site live, showing what made each page
          lsp       Answer an editor that speaks the Language Server Protocol
          help      Print this message or the help of the given subcommand(s)

        Options:
          -h, --help
                  Print help (see a summary with '-h')

          -V, --version
                  Print version

        Common options:
              --site <DIR>
                  Site folder [default: nearest parent with hausblatt.toml]

              --theme <NAME>
                  Use this theme as the active one

              --as-of <DATE>
                  Treat this date as today

              --drafts
                  Include drafts

              --format <FORMAT>
                  Output format

                  Possible values:
                  - text:  For people
                  - json:  For programs
                  - csv:   For tables
                  - sarif: For code hosts and editors

                  [default: text]

              --color <WHEN>
                  When to use colours

                  Possible values:
                  - auto:   On a terminal
                  - always: Always
                  - never:  Never

                  [default: auto]

              --strict
                  Make warnings count as errors

          -q, --quiet
                  Say less: no warnings, no summary

          -v, --verbose
                  Say more: every warning

        Start with:  hausblatt demo
    "#]]
    .assert_eq(&site.run(&["--help"]).whole());
    expect![[r#"
        exit 0
        Build the whole site into a folder

        Usage: hausblatt build [OPTIONS]

        Options:
              --out <DIR>
                  The folder to build into; else the folder built in the site's folder

              --map
                  Write the map as hausblatt-map.json, too

              --dry-run
                  List what would change, and write nothing

              --diff
                  Show how files would change; writes nothing either

              --marks
                  Mark with comments where each file's part starts and stops

              --compressed
                  Put compressed files (.gz, .br) beside those that get smaller

              --changed-list <FILE>
                  Write the paths of the files that were written or removed into FILE, a
                  line each

              --jobs <N>
                  How many threads to use

              --part <K/N>
                  Build only one part of so many, as in 3/8; together they are the whole
                  site

          -h, --help
                  Print help (see a summary with '-h')

        Common options:
              --site <DIR>
                  Site folder [default: nearest parent with hausblatt.toml]

              --theme <NAME>
                  Use this theme as the active one

              --as-of <DATE>
                  Treat this date as today

              --drafts
                  Include drafts

              --format <FORMAT>
                  Output format

                  Possible values:
                  - text: For people
                  - json: For programs

                  [default: text]

              --color <WHEN>
                  When to use colours

                  Possible values:
                  - auto:   On a terminal
                  - always: Always
                  - never:  Never

                  [default: auto]

              --strict
                  Make warnings count as errors

          -q, --quiet
                  Say less: no warnings, no summary

          -v, --verbose
                  Say more: every warning

        Examples:
          hausblatt build --out public
          hausblatt build --diff
          hausblatt build -v --jobs 2
          hausblatt build --part 3/8 --out part-3
    "#]]
    .assert_eq(&site.run(&["build", "--help"]).whole());
}

/// What a shell is given: commands and options, and what the site has.
#[test]
fn shells_complete_what_the_site_has() {
    let site = Site::demo();
    let offered = |words: &[&str]| {
        let mut command = site.command(&[]);
        command.env("HAUSBLATT_COMPLETE", "bash").env("_CLAP_COMPLETE_INDEX", (words.len() - 1).to_string());
        command.env("_CLAP_IFS", "\n");
        let mut line = vec!["--"];
        line.extend(words);
        let mut fresh = std::process::Command::new(command.get_program());
        fresh.current_dir(site.root()).args(line);
        fresh.envs(command.get_envs().filter_map(|(name, value)| Some((name, value?))));
        let said = fresh.output().unwrap();
        assert!(said.status.success(), "{}", String::from_utf8_lossy(&said.stderr));
        String::from_utf8(said.stdout).unwrap().lines().map(str::to_owned).collect::<Vec<_>>()
    };
    assert_eq!(offered(&["hausblatt", "res"]), ["resolve"]);
    // What a shell would carry out is offered so that it does not; what would be two lines is not offered.
    site.write("themes/harbour/partials/a $(touch b);'c'.html", "");
    site.write("themes/harbour/partials/a\nb.html", "");
    let odd = "themes/harbour/partials/a\\ \\$\\(touch\\ b\\)\\;\\'c\\'.html";
    assert_eq!(offered(&["hausblatt", "reach", "themes/harbour/partials/a"]), [odd]);
    assert_eq!(offered(&["hausblatt", "reach", "themes/harbour/partials/a\\ \\$"]), [odd]);
    assert_eq!(offered(&["hausblatt", "resolve", "/visit/o"]), ["/visit/opening/"]);
    assert_eq!(offered(&["hausblatt", "values", "content/pages/visit/o"]), ["content/pages/visit/opening.md"]);
    assert_eq!(
        offered(&["hausblatt", "reach", "partials/card"]),
        ["partials/card.html", "partials/card/workshops.html"]
    );
    assert_eq!(offered(&["hausblatt", "reach", "themes/loam/partials/p"]), ["themes/loam/partials/pager.html"]);
    assert_eq!(offered(&["hausblatt", "--theme", "h"]), ["harbour", "hedgerow"]);
    assert_eq!(offered(&["hausblatt", "choose", "no"]), ["no-aside"]);
    assert_eq!(offered(&["hausblatt", "check", "--about", "no-al"]), ["no-alt"]);
    site.write("hausblatt.toml", "[");
    assert_eq!(offered(&["hausblatt", "resolve", "/visit/o"]), Vec::<String>::new());
}
