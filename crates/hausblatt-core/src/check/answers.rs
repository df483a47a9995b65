//! Codes of answers about what was typed, and of notes on an address: `check` itself never reports them.

use crate::check::{Check, Look};

/// They, in order, explained.
pub static ANSWERS: &[Check] = &[
    Check {
        code: "ambiguous-file",
        about: "what was typed could be several files",
        explanation: "Two theme files go by the name that was typed. Type more of the path, as hausblatt files lists it.",
        look: Look::Told,
    },
    Check {
        code: "dead-template",
        about: "no request could use a template of this name",
        explanation: "A template's name says what it renders, and nothing on this site has this name or could get it. docs/lookup.md lists the names for each kind of request.",
        look: Look::Told,
    },
    Check {
        code: "faulty",
        about: "content or a file has an error, so the page can't be rendered",
        explanation: "The address is answered with 500 until the error is fixed. hausblatt check shows it at its line.",
        look: Look::Told,
    },
    Check {
        code: "file-exists",
        about: "there is a file of this name already",
        explanation: "Nothing was written. Edit the file that is there, choose another name, or replace it where the command has --force.",
        look: Look::Told,
    },
    Check {
        code: "id-differs",
        about: "a page's id is not its address",
        explanation: "A template for one page is named for the id, which is the path of the content file, not for the address.",
        look: Look::Told,
    },
    Check {
        code: "layout-missing",
        about: "a template names a layout that no theme has",
        explanation: "The page is answered with 500. Write the layout, name another one in the template's front matter, or say layout: none there.",
        look: Look::Told,
    },
    Check {
        code: "no-content",
        about: "there is no content file at this path",
        explanation: "What begins with content/ names a content file. hausblatt map lists every address, and resolve says which content is at it.",
        look: Look::Told,
    },
    Check {
        code: "no-copy",
        about: "a file is not a copy, so it can't drift",
        explanation: "Only files that override or start template --from have copied, or that cover an ancestor's file, can go out of date.",
        look: Look::Told,
    },
    Check {
        code: "no-slots",
        about: "a file has no slots to fill",
        explanation: "override --slots writes a file that extends the inherited one by filling its slots. Assets and prepare files have none: copy them.",
        look: Look::Told,
    },
    Check {
        code: "not-a-rung",
        about: "no rung of the address has this name",
        explanation: "override ADDRESS --as NAME takes the names on the ladder of that address. hausblatt resolve ADDRESS -v lists them.",
        look: Look::Told,
    },
    Check {
        code: "not-alone",
        about: "no template name belongs to the address alone",
        explanation: "A file under the most specific name would change other addresses, too; they are listed. Change them together, or let editors choose an offered template.",
        look: Look::Told,
    },
    Check {
        code: "not-found",
        about: "nothing has this address",
        explanation: "The error page answers. Addresses that are nearly the same are named beside it.",
        look: Look::Told,
    },
    Check {
        code: "not-inherited",
        about: "a child theme does not inherit this file",
        explanation: "Manifests belong to their own theme. Templates, partials, layouts, components, prepare files and assets are inherited.",
        look: Look::Told,
    },
    Check {
        code: "not-merged",
        about: "a copy can't be merged with what its original has become",
        explanation: "The message says why: the original is gone or was never recorded, a conflict is marked in the copy, the file is not text, or the merged file would have an error.",
        look: Look::Told,
    },
    Check {
        code: "nothing-to-copy",
        about: "no file renders the address",
        explanation: "It is built in, or answered with an error, so there is no file to copy. Create one with hausblatt start template.",
        look: Look::Told,
    },
    Check {
        code: "passed-over",
        about: "the active theme has a file that is not used here",
        explanation: "The name decides before the theme: a more specific name in any theme of the lineage comes before a general one in the nearest.",
        look: Look::Told,
    },
    Check {
        code: "unknown-collection",
        about: "there is no collection of this name",
        explanation: "Collections are declared in hausblatt.toml, under [collections.NAME].",
        look: Look::Told,
    },
    Check {
        code: "unknown-file",
        about: "no theme file has this name",
        explanation: "Type a path from the site or from the theme; partials and templates may be named without folder and extension. hausblatt files lists every file.",
        look: Look::Told,
    },
];
