//! What is reported when a site is read and compiled, and while its pages are rendered: the codes in order, explained.

use crate::check::{Check, Look};

/// Codes without a file of their own, since what they are about is found elsewhere.
pub static TOLD: &[Check] = &[
    told(
        "argument-count",
        "a member or function has too many or too few arguments",
        "The tables in docs/language.md say what each member and function takes.",
    ),
    told(
        "bad-address",
        "an address in hausblatt.toml can't be one",
        "Addresses begin and end with a slash, and their parts are lower-case words; what is in braces must be a part that the kind of address knows.",
    ),
    told(
        "bad-name",
        "a file or a group has a name that can't name it",
        "Ids, and the names of collections, taxonomies, menus and fields, are lower-case letters and digits; a name must not be a word of the language.",
    ),
    told(
        "bad-record",
        "a copy's record of its original can't be read",
        "The file in .originals/ is not as hausblatt override wrote it. Delete it and let hausblatt drift --adopt write it anew.",
    ),
    told(
        "bare-id",
        "an id or a name is nothing but a value",
        "What content says could be the name of something that scripts look for in the page. A literal prefix in front of the value makes it a name of its own: id=\"entry-+{content.id}\".",
    ),
    told(
        "branches-differ",
        "the branches of a block end in different places of the HTML",
        "One branch leaves a tag, a quote or a comment open that another one closes. What comes after the block could not be escaped rightly for both. Close in each branch what it opens.",
    ),
    told(
        "choice-hidden",
        "content chooses a template that the active theme hides",
        "The theme's manifest lists the file under hide, so the page is rendered by the next rung. Choose another template with hausblatt choose, or stop hiding it.",
    ),
    told(
        "choice-missing",
        "content chooses a template that does not exist",
        "No theme of the lineage has templates/offered/ with this name, so the page is rendered by the next rung. hausblatt choose --list ADDRESS lists what there is.",
    ),
    told(
        "choice-not-allowed",
        "content chooses a template that is not for it",
        "The template's front matter says for which kinds of content it is made. Choose another one, or add this kind to its for.",
    ),
    told(
        "color-in-comment",
        "a colour is lost, since # begins a comment",
        "In YAML and TOML what comes after # is a comment. Put the colour in quotes.",
    ),
    told(
        "component-stops",
        "a component answers or redirects",
        "A component is a part of a page and can't decide what the whole page answers. Let a template answer.",
    ),
    told(
        "computed-name",
        "a name that must be a literal is computed",
        "Names of components and slots, and the folder of a partial, are written out, so that every file knows what it calls before anything is rendered.",
    ),
    told(
        "dead-reference",
        "a reference or a link is broken",
        "What is named does not exist, is a draft, or waits for its date. References are page:ID, entry:COLLECTION/ID, collection:NAME, term:TAXONOMY/TERM and route:NAME.",
    ),
    told(
        "document-in-layout",
        "a whole document would be inside a layout",
        "The file begins with a doctype or <html>, and a layout goes around it. Say layout: none in its front matter, or leave out all but what is in <main>.",
    ),
    told(
        "empty-address",
        "an address is empty",
        "An empty href leads to the page itself, an empty src loads it once more. Leave the element out where there is no address.",
    ),
    told("empty-tag", "a tag holds nothing", "+{} says nothing to print or do. A comment is written +{# … #}."),
    told(
        "error-in-error",
        "an error template answers with another status",
        "An error's answer is what it is; only other templates may answer or redirect. A plain page is sent instead.",
    ),
    told(
        "faulty-file",
        "a file that is needed has errors",
        "The page can't be rendered until the errors of that file are fixed; they are listed with it.",
    ),
    told(
        "former-query",
        "a former address holds a ? or a #",
        "Redirects look at the path alone. Write the address without what comes after it.",
    ),
    told(
        "self-redirect",
        "content redirects to itself",
        "The address under formerly is the one that it has now. Take it out.",
    ),
    told(
        "front-matter",
        "the front matter can't be read",
        "It is between two lines of ---, is YAML, and at most 64 KB long.",
    ),
    told(
        "duplicate-argument",
        "a parameter is given twice in one call",
        "Only one of the two can count. Take one away.",
    ),
    told(
        "unusable-address",
        "an address is one that no file can have, or one of hausblatt's own",
        "A built site is a folder: a part of an address is the name of a file or folder, of at most 255 bytes. Names that begin with .hausblatt, and what is at /~/, are hausblatt's own. What has such an address is left out; the rest is built.",
    ),
    told(
        "unused-hide",
        "a theme hides a file that no ancestor has",
        "The name under hide is misspelt, or the ancestor has lost the file. Names there are like templates/entry.html.",
    ),
    told(
        "html-only",
        "a tag works in .html files only",
        "Layouts and the slots they take belong to HTML; a .xml, .json or .txt template is the whole file.",
    ),
    told(
        "internal",
        "Hausblatt itself has failed here",
        "This is not your error. Please report it with the file that it names.",
    ),
    told(
        "missing-on-site",
        "what a template names, this site lacks",
        "The menu, table, collection or taxonomy may exist on another site; here it is nothing. Add it, or ask before you print it.",
    ),
    told(
        "layout-without-slot",
        "a layout prints nothing of the template",
        "The page would be the layout alone. Write +{slot} where the template's output belongs.",
    ),
    told(
        "let-without-effect",
        "a let inside a block hides a name and is never used",
        "A let never assigns: it ends with its block. To choose a value write +{let name = if A then B else C} before the block.",
    ),
    told(
        "list-replaced",
        "a child's prepare file replaces a list that its parent built",
        "Most often extending was meant: let classes = classes + [\"wide\"].",
    ),
    told(
        "literal-needed",
        "a text must be written out here",
        "What is looked up before rendering, as the name of a slot, can't be computed.",
    ),
    told(
        "unknown-slot",
        "a fill finds no slot",
        "Nothing prints what is filled in: the slot's name is misspelt, or the layout or partial has lost the slot.",
    ),
    told(
        "mismatched-end",
        "an end names another block than it closes",
        "Blocks end in the order in which they began, from the inside outwards.",
    ),
    told(
        "misplaced-content",
        "a content file is where no collection is",
        "Content is in content/pages/ or in the folder of a collection that hausblatt.toml declares.",
    ),
    told(
        "misplaced-table",
        "a file in tables/ is not a table",
        "A table ends in .csv, .toml, .json or .yaml; anything else there is not read.",
    ),
    told(
        "missing-footnote",
        "a footnote is referred to and has no text",
        "Markdown makes a footnote of [^name] only if a line begins with [^name]: and says its text. Without it, visitors see the brackets.",
    ),
    told(
        "missing-key",
        "a key is missing that must be there",
        "Without it the rest can't be understood. The message shows how it is written.",
    ),
    told(
        "missing-media",
        "content names an image or a file that is not there",
        "Files of content are in media/; the name differs, perhaps in upper and lower case alone.",
    ),
    told(
        "missing-parameter",
        "a call lacks a parameter that must be given",
        "The called file says in takes what it needs; what has a default there may be left out.",
    ),
    told(
        "name-taken",
        "a name has a meaning of its own already",
        "The built-in values, functions and words of the language can't be named anew; choose another name.",
    ),
    told(
        "no-dates",
        "a feed or listings by date have no dated entries",
        "Entries say date: in their front matter, or begin their file name with it.",
    ),
    told(
        "no-rows",
        "a table has no rows that a route could use",
        "In JSON and YAML a table is a list of rows, in TOML [[rows]] for each.",
    ),
    told(
        "no-site",
        "tno hausblatt.toml found here here",
        "A site's folder holds hausblatt.toml. Write one with hausblatt start site, or say --site DIR.",
    ),
    told(
        "no-site-address",
        "the site's own address is not known",
        "Feeds and sitemaps need whole addresses. Write address = \"https://…\" under [site].",
    ),
    told(
        "no-slug",
        "a row has nothing to make an address of",
        "A route with each takes a row's slug, id, name or title for its address.",
    ),
    told(
        "no-template",
        "no template answers a request",
        "Not even fallback.html exists in the lineage. Write the file that the message names, or a fallback.html for everything.",
    ),
    told(
        "not-a-list",
        "something that is not a list is looped over or queried",
        "Only a list has members to go through; nothing counts as an empty one. The message says what the value is.",
    ),
    told(
        "not-offered",
        "a file looks offered to editors and is not",
        "It says label or for, as offered templates do, but it is elsewhere, has another extension, or is for a collection that this site lacks.",
    ),
    told(
        "nothing-inherited",
        "there is no file to extend",
        "inherited extends what would have been found without this file; here that is nothing.",
    ),
    told("number-too-large", "a number is too large", "Whole numbers have 64 bits."),
    told(
        "open-html",
        "a file or body ends inside a tag, a comment or a quote",
        "Every file, and every body of with, let and into, begins and ends in text.",
    ),
    told(
        "removed-html",
        "HTML that an editor wrote is removed",
        "Markdown may hold HTML, which is cleaned: what could run, load or restyle is taken out, as docs/files.md says. Write it in Markdown or in a component, or trust all editors with html = \"keep\".",
    ),
    told(
        "required-parameter",
        "a template takes a parameter that nobody can give",
        "Nothing calls a template, so what it takes needs defaults.",
    ),
    told(
        "same-address",
        "two things have the same address",
        "Only one can be reached. Give one of them another slug or address.",
    ),
    told(
        "same-id",
        "two files have the same id",
        "One has a date in its name and the other not, or they differ in their ending. Rename one.",
    ),
    told(
        "same-name",
        "two files give the same table",
        "The table's name is the file's name without its ending. Rename one.",
    ),
    told(
        "script-in-comment",
        "a script in a comment is read in two ways",
        "Browsers read <!-- and <script inside a script so that its end moves. Leave one of the two out.",
    ),
    told("second-part", "a block has the same part twice", "A block has at most one else, one between and one none."),
    told(
        "shortened-partial",
        "a partial answers by its shortened name, and a near one was perhaps meant",
        "There is no partial of the whole name, so the one in front of the slash answers. Its name is close to another that exists.",
    ),
    told(
        "stray-character",
        "a character has no meaning here",
        "It is part of no name, number, text or sign of the language.",
    ),
    told(
        "stray-divider",
        "else, between, none or end is outside its block",
        "Its block was closed before, or never opened.",
    ),
    told(
        "stray-into",
        "an into has nothing that it could fill",
        "It is in the body of a call that has slots, or in a template or layout, for the layout around it.",
    ),
    told("bad-tag", "a tag can't be read", "The message says what was expected at this place."),
    told("bad-table", "a table can't be read", "Its rows are nothing until the file is fixed."),
    told("term-circle", "terms are each other's parents", "Take parent out of one of them."),
    told(
        "text-only",
        "a tag is where only text may be",
        "Calls, raw and the nameless slot put in HTML, so they go between tags, not in an attribute or a title.",
    ),
    told("theme-circle", "themes are each other's parents", "Take parent out of one of the manifests."),
    told("bad-toml", "a TOML file can't be read", "The message comes from the reader of TOML and names the place."),
    told(
        "too-deep",
        "files call each other without end",
        "Calls nest at most 64 deep. A file that calls itself needs an if that ends it.",
    ),
    told(
        "too-large",
        "a page grew too large",
        "A page and what is computed for it may be 64 MB together. Look for a text or list that grows in each round of a loop.",
    ),
    told(
        "too-many-steps",
        "a page takes too many steps",
        "A page may take 50 million. Narrow lists with where or limit, or let the whole site share a query that does not depend on the request.",
    ),
    told(
        "tray-in-component",
        "a tray is printed inside a component",
        "Content places components in trays, so this would have no end. Print trays in templates, partials or layouts.",
    ),
    told("two-fronts", "the front is both a page and a collection", "[front] takes one of the two."),
    told(
        "undeclared-field",
        "content has a field that nothing declares",
        "It may be misspelt. Fields are declared in hausblatt.toml, under the collection's fields or [pages.fields].",
    ),
    told(
        "undeclared-term",
        "content names a term that its taxonomy does not declare",
        "The taxonomy lists its terms, and this is none of them: it may be misspelt. It gets a listing all the same.",
    ),
    told(
        "unclosed-block",
        "a block is never ended",
        "Write +{end} where it ends; +{end each} says what it ends, and is checked.",
    ),
    told(
        "unclosed-tag",
        "a tag is never ended",
        "A tag ends at the first } outside quotes, before the next +{, an empty line or the file's end.",
    ),
    told("unclosed-text", "a quoted text is never ended", "A text ends with the quote that it began with."),
    told(
        "unknown-asset",
        "an asset is used that no theme has",
        "Assets are in assets/ of a theme of the lineage, and are named from there.",
    ),
    told(
        "unknown-component",
        "a component is called that does not exist",
        "A component is a folder in components/ with a component.html.",
    ),
    told(
        "unknown-escape",
        "a text holds an escape that does not exist",
        "The escapes are \\\\ \\\" \\' \\n \\t and \\u{…}.",
    ),
    told(
        "unknown-field",
        "a field is read that nothing declares and no content has",
        "It is misspelt, or its declaration in hausblatt.toml is missing; it is always nothing.",
    ),
    told(
        "unknown-function",
        "a function is called that does not exist",
        "The functions are listed in docs/language.md.",
    ),
    told("unknown-key", "a key is not known here", "It is misspelt or in the wrong group, and has no effect."),
    told("unknown-kind", "a word is where only certain words may be", "The message lists them."),
    told(
        "unknown-layout",
        "a layout is used that does not exist",
        "Layouts are in layouts/ of a theme of the lineage; a template without one says layout: none.",
    ),
    told(
        "unknown-member",
        "a value has no such member",
        "What a value has is known before rendering; the message names the nearest. docs/language.md lists all.",
    ),
    told(
        "unknown-name",
        "a name means nothing here",
        "A file sees its parameters, its own let, and the global values; not what its caller sees. Give it as a parameter.",
    ),
    told(
        "unknown-order",
        "a collection is ordered by a field that it lacks",
        "Declare the field, or order by title, date or order.",
    ),
    told(
        "unknown-parameter",
        "a call gives a parameter that the called file does not take",
        "What is given is lost. It is misspelt, or takes lacks it.",
    ),
    told(
        "unknown-partial",
        "a partial is called that does not exist",
        "Partials are in partials/ of a theme of the lineage; a/b/c falls back to a/b, then to a.",
    ),
    told(
        "unknown-setting",
        "a setting is given that no theme declares",
        "Settings are declared in hausblatt-theme.toml, under [settings.NAME].",
    ),
    told(
        "unknown-statement",
        "a statement is written that does not exist",
        "A tag whose first word is not a statement is a value; this looks like a misspelt statement.",
    ),
    told(
        "unknown-theme",
        "a theme is named that does not exist",
        "Themes are folders in themes/ with a hausblatt-theme.toml.",
    ),
    told(
        "conflict-marks",
        "a merge left a conflict",
        "Lines that begin with <<<<<<<, ======= and >>>>>>> are where two versions of a file could not be merged. Nothing of such a file is published: its page keeps what an earlier build wrote.",
    ),
    told(
        "misplaced-front-matter",
        "front matter is not at the beginning of its file",
        "Front matter begins with --- on line 1. After an empty line it is text like any other: it is published, and what it says has no effect.",
    ),
    told(
        "bad-site-address",
        "the address of the site can't be used",
        "\"address\" in [site] is a scheme and a host, as in https://seeds.example. Feeds, the sitemap and links to other pages as wholes put the path of a page after it.",
    ),
    told(
        "bad-language",
        "the language of the site is not a language tag",
        "\"language\" in [site] is a tag as in BCP 47 (RFC 5646): en, de, pt-BR. Names of months, the order of texts and the lang attribute follow it.",
    ),
    told(
        "left-out",
        "something in the site's folders is not read",
        "Links are followed within the site's folder only; pipes, sockets, devices and names that are not UTF-8 are not read. What they were meant for is missing from the site.",
    ),
    told(
        "list-as-text",
        "several names are written as one text",
        "Authors and the terms of a taxonomy are lists: [ida, tom]. Without the brackets \"ida, tom\" is one name, which nobody has.",
    ),
    told(
        "missing-manifest",
        "a theme has no manifest",
        "A folder in themes/ is a theme if it has a hausblatt-theme.toml; a line [theme] in it is enough.",
    ),
    told(
        "bad-root",
        "a theme's files are not where it says",
        "\"root\" in a theme's manifest names the folder of the theme in which templates/, partials/ and the others are, relative to the manifest. Without it they are beside the manifest. Files elsewhere are not part of the theme.",
    ),
    told(
        "unknown-timezone",
        "a timezone is not known",
        "Timezones are named after places, as in Europe/Berlin, or UTC.",
    ),
    told(
        "unknown-tray",
        "content fills a tray that no file prints",
        "What is placed there is never seen. A template prints it with +{tray \"NAME\"}.",
    ),
    told(
        "unlinked-asset",
        "an asset is used on a page that links none",
        "The page's document does not print used \"styles\" or used \"scripts\", so it is never loaded.",
    ),
    told(
        "unprintable",
        "a list or a record is printed",
        "Print one of its members, go through it with each, or join a list with .join(\", \").",
    ),
    told("unreadable", "a file can't be read", "It is not UTF-8, or its permissions forbid it."),
    told(
        "unsafe-address",
        "an address is not allowed where it is",
        "What it holds could run a script or load one from elsewhere, so about:invalid is printed instead.",
    ),
    told(
        "unsafe-number",
        "a number is where it can't be read back",
        "In a list of pictures a value after the address must be a number.",
    ),
    told(
        "unsafe-place",
        "a value is where no value is safe",
        "No escaping makes a value harmless here: in an event attribute, in a tag's name, in a comment. The message says where to put it instead.",
    ),
    told(
        "unsafe-style",
        "a value is not allowed in a style",
        "Numbers with units, #hex, words, colours, spaces and commas may be there; initial is printed instead.",
    ),
    told(
        "unusable-asset",
        "an asset is used that can't be linked",
        "use takes .css, .js and .mjs; the address of any other asset is asset(\"…\").",
    ),
    told(
        "bad-value",
        "a value can't be computed",
        "The kinds of the values don't fit what is done with them, or a number is divided by zero. The message names them.",
    ),
    told(
        "wrong-type",
        "a value is of the wrong kind",
        "The declaration says which kind is meant, and the message what was found.",
    ),
    told("wrong-value", "a value does not fit its field", "The field says which values it takes."),
];

const fn told(code: &'static str, about: &'static str, explanation: &'static str) -> Check {
    Check { code, about, explanation, look: Look::Told }
}

#[cfg(test)]
mod tests {
    use std::fs;
    use std::path::Path;

    use crate::check::explained;

    /// The codes that are in the sources, as the first argument of what makes a diagnostic.
    fn codes(folder: &Path, found: &mut Vec<String>) {
        for entry in fs::read_dir(folder).expect("the sources are there").flatten() {
            if entry.file_type().is_ok_and(|kind| kind.is_dir()) {
                codes(&entry.path(), found);
                continue;
            }
            let text = fs::read_to_string(entry.path()).expect("the sources are text");
            let text = text.split("#[cfg(test)]").next().unwrap_or("");
            for call in [
                "Diagnostic::error(",
                "Diagnostic::warning(",
                ".error(",
                "refused(",
                "Note { code: ",
                "NoteJson { code: ",
            ] {
                for rest in text.split(call).skip(1) {
                    let Some(rest) = rest.trim_start().strip_prefix('"') else { continue };
                    let Some((code, behind)) = rest.split_once('"') else { continue };
                    let is_code = !code.is_empty() && code.bytes().all(|b| b.is_ascii_lowercase() || b == b'-');
                    if is_code && behind.starts_with(',') {
                        found.push(code.to_owned());
                    }
                }
            }
        }
    }

    #[test]
    fn every_code_of_the_sources_is_explained() {
        let here = Path::new(env!("CARGO_MANIFEST_DIR"));
        let mut found = Vec::new();
        codes(&here.join("src"), &mut found);
        codes(&here.join("../hausblatt-lang/src"), &mut found);
        codes(&here.join("../hausblatt/src"), &mut found);
        assert!(found.len() > 150, "{}", found.len());
        let mut lost: Vec<&String> = found.iter().filter(|code| explained(code).is_none()).collect();
        lost.sort();
        lost.dedup();
        assert!(lost.is_empty(), "no row explains {lost:?}");
    }
}
