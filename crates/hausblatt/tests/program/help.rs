//! What is said of the commands, and what shells are told of them.

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
          demo       Write the demo site, build it, and walk through the main questions
          start      A working beginning: a site, theme, template, partial, component,
                     page or entry
          resolve    Which file renders an address, and why
          map        Every address and its file
          reach      What a theme file has an effect on
          themes     The active theme and its ancestors
          templates  Every theme file: role, addresses, what it covers, state
          override   A theme's own version of an inherited file
          assign     Choose an offered template for content
          suppose    What a change would change; nothing is written
          drift      Copies whose original has changed since
          values     The values that a template sees at an address, or any value worked
                     out there
          render     The HTML of an address
          build      The whole site into a folder
          check      What is wrong with theme and content
          expect     Hold the map against a recorded one
          missed     Addresses that visitors asked for in vain, from a web server's log
          chart      The ladders as a picture
          serve      The site in a browser, live, with what made each page
          help       Print this message or the help of the given subcommand(s)

        Options:
              --site <DIR>
                  The site's folder; else the nearest one upward with a hausblatt.toml

              --theme <NAME>
                  Another theme to be active, for this run

              --as-of <DATE>
                  The day that counts as today, such as 2026-03-14

              --drafts
                  Show drafts, too

              --format <FORMAT>
                  The form of the answer: text, json, for map also csv, for check also
                  sarif

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

              --deny <WHAT>
                  Make warnings count as errors

                  Possible values:
                  - warnings: Warnings

          -q, --quiet
                  Say less: no warnings, no summary

          -v, --verbose
                  Say more: every warning

          -h, --help
                  Print help (see a summary with '-h')

          -V, --version
                  Print version

        Start with:  hausblatt demo
    "#]]
    .assert_eq(&site.run(&["--help"]).whole());
    expect![[r#"
        exit 0
        The whole site into a folder

        Usage: hausblatt build [OPTIONS]

        Options:
              --out <DIR>
                  The folder to build into; else the folder built in the site's folder

              --site <DIR>
                  The site's folder; else the nearest one upward with a hausblatt.toml

              --map
                  Write the map as hausblatt-map.json, too

              --theme <NAME>
                  Another theme to be active, for this run

              --as-of <DATE>
                  The day that counts as today, such as 2026-03-14

              --dry-run
                  List what would change, and write nothing

              --diff
                  Show how files would change; writes nothing either

              --drafts
                  Show drafts, too

              --format <FORMAT>
                  The form of the answer: text, json, for map also csv, for check also
                  sarif

                  Possible values:
                  - text:  For people
                  - json:  For programs
                  - csv:   For tables
                  - sarif: For code hosts and editors

                  [default: text]

              --marks
                  Leave a comment where each file's part of a page starts and stops

              --color <WHEN>
                  When to use colours

                  Possible values:
                  - auto:   On a terminal
                  - always: Always
                  - never:  Never

                  [default: auto]

              --jobs <N>
                  How many threads to use

              --deny <WHAT>
                  Make warnings count as errors

                  Possible values:
                  - warnings: Warnings

              --part <K/N>
                  Build only one part of so many, as in 3/8; together they are the whole
                  site

          -q, --quiet
                  Say less: no warnings, no summary

          -v, --verbose
                  Say more: every warning

          -h, --help
                  Print help (see a summary with '-h')

        Examples:
          hausblatt build --out public
          hausblatt build --diff
          hausblatt build -v --jobs 2
          hausblatt build --part 3/8 --out part-3
    "#]]
    .assert_eq(&site.run(&["build", "--help"]).whole());
}

/// What a shell is told: commands and options, and what the site has.
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
    assert_eq!(offered(&["hausblatt", "resolve", "/visit/o"]), ["/visit/opening/"]);
    assert_eq!(offered(&["hausblatt", "values", "content/pages/visit/o"]), ["content/pages/visit/opening.md"]);
    assert_eq!(
        offered(&["hausblatt", "reach", "partials/card"]),
        ["partials/card.html", "partials/card/workshops.html"]
    );
    assert_eq!(offered(&["hausblatt", "reach", "themes/loam/partials/p"]), ["themes/loam/partials/pager.html"]);
    assert_eq!(offered(&["hausblatt", "--theme", "h"]), ["harbour", "hedgerow"]);
    assert_eq!(offered(&["hausblatt", "assign", "no"]), ["no-aside"]);
    assert_eq!(offered(&["hausblatt", "check", "--explain", "no-al"]), ["no-alt"]);
    site.write("hausblatt.toml", "[");
    assert_eq!(offered(&["hausblatt", "resolve", "/visit/o"]), Vec::<String>::new());
}
