//! What is reported of a site, when it is read and rendered and when it is asked about: the codes in order.

hausblatt_lang::codes! {
    /// What is found wrong with a site.
    OF_SITES {
        BAD_ADDRESS: Error, "bad-address",
            "an address in hausblatt.toml is not valid",
            "Addresses begin and end with a slash, and their parts are lower-case words; what is in braces must be a placeholder that this kind of address has.";
        BAD_IMAGE: Error, "bad-image",
            "an image can't be read as one",
            "Browsers show nothing of it, or only a part. Save it anew; the message says what is wrong. An image whose name says another format than its bytes should be renamed: some hosts tell browsers to believe the name.";
        BAD_LANGUAGE: Warning, "bad-language",
            "the language of the site is not a language tag",
            "\"language\" in [site] is a tag as in BCP 47 (RFC 5646): en, de, pt-BR. Names of months, the order of texts and the lang attribute follow it.";
        BAD_NAME: Error, "bad-name",
            "a file or a group has an invalid name",
            "Ids, and the names of collections, taxonomies, menus and fields, are lower-case letters and digits; a name must not be a word of the language.";
        BAD_RECORD: Error, "bad-record",
            "a copy's record of its original can't be read",
            "The file in .originals/ is not as hausblatt override wrote it. Delete it; hausblatt drift --adopt writes a new one.";
        BAD_ROOT: Error, "bad-root",
            "a theme's files are not where it says",
            "\"root\" in a theme's manifest names the folder of the theme in which templates/, partials/ and the others are, relative to the manifest. Without it they are beside the manifest. Files elsewhere are not part of the theme.";
        BAD_SITE_ADDRESS: Warning, "bad-site-address",
            "the address of the site can't be used",
            "\"address\" in [site] is a scheme and a host, as in https://seeds.example. Feeds, the sitemap and absolute links put the path of a page after it.";
        BAD_TABLE: Error, "bad-table",
            "a table can't be read",
            "Its rows are nothing until the file is fixed.";
        BAD_TOML: Error, "bad-toml",
            "a TOML file can't be read",
            "The message says what is wrong, and where.";
        CHOICE_HIDDEN: Warning, "choice-hidden",
            "content chooses a template that the active theme hides",
            "The theme's manifest lists the file under hide, so the page is rendered by the next rung. Choose another template with hausblatt choose, or stop hiding it.";
        CHOICE_MISSING: Warning, "choice-missing",
            "content chooses a template that does not exist",
            "No theme of the lineage has templates/offered/ with this name, so the page is rendered by the next rung. hausblatt choose --list ADDRESS lists what there is.";
        CHOICE_NOT_ALLOWED: Warning, "choice-not-allowed",
            "content chooses a template that is not for it",
            "The template's front matter says for which kinds of content it is made. Choose another one, or add this kind to its for.";
        COLOR_IN_COMMENT: Warning, "color-in-comment",
            "a colour is lost, since # starts a comment",
            "In YAML and TOML what comes after # is a comment. Put the colour in quotes.";
        COMPONENT_STOPS: Error, "component-stops",
            "a component answers or redirects",
            "A component is a part of a page and can't decide what the whole page answers. Let a template answer.";
        CONFLICT_MARKS: Error, "conflict-marks",
            "a merge left a conflict",
            "Lines that begin with <<<<<<<, ======= and >>>>>>> are where two versions of a file could not be merged. Nothing of such a file is published: its page keeps what an earlier build wrote.";
        DEAD_FILE: Warning, "dead-file",
            "a theme file that nothing can use",
            "No request leads to this file and no file calls it: its name is an address where an id was meant, a kind is misspelt, or what called it has gone. hausblatt map --unused lists all such files, and those that wait for something.";
        DOCUMENT_IN_LAYOUT: Error, "document-in-layout",
            "a whole document would be inside a layout",
            "The file begins with a doctype or <html>, and a layout goes around it. Say layout: none in its front matter, or leave out all but what is in <main>.";
        ERROR_IN_ERROR: Error, "error-in-error",
            "an error template answers with another status",
            "An error's answer is what it is; only other templates may answer or redirect. A plain page is sent instead.";
        FORMER_QUERY: Warning, "former-query",
            "a former address has a ? or a #",
            "Redirects look at the path alone. Write the address without what comes after it.";
        FRONT_MATTER: Error, "front-matter",
            "the front matter can't be read",
            "It is between two lines of ---, is YAML, and at most 64 KB long.";
        LAYOUT_WITHOUT_SLOT: Warning, "layout-without-slot",
            "a layout prints nothing of the template",
            "The page would be the layout alone. Write +{slot} where the template's output belongs.";
        LEFT_OUT: Warning, "left-out",
            "something in the site's folders is not read",
            "Links are followed within the site's folder only; pipes, sockets, devices and names that are not UTF-8 are not read. What they were meant for is missing from the site.";
        HIDDEN_COLLECTION: Warning, "hidden-collection",
            "a prepare file makes a value that is called like a collection",
            "Its own value is meant by that name in all files then; the collection is still there as collections.NAME.";
        LIST_AS_TEXT: Warning, "list-as-text",
            "several names are written as one text",
            "Authors and the terms of a taxonomy are lists: [ida, tom]. Without the brackets \"ida, tom\" is one name.";
        LIST_REPLACED: Warning, "list-replaced",
            "a prepare file replaces a list that was built before it",
            "Most often extending was meant: let classes = classes + [\"wide\"].";
        MISPLACED_CONTENT: Warning, "misplaced-content",
            "a content file is not in a collection's folder",
            "Content is in content/pages/ or in the folder of a collection that hausblatt.toml declares.";
        MISPLACED_FRONT_MATTER: Warning, "misplaced-front-matter",
            "front matter is not at the beginning of its file",
            "Front matter begins with --- on line 1. After an empty line it is text like any other: it is published, and what it says has no effect.";
        MISPLACED_TABLE: Warning, "misplaced-table",
            "a file in tables/ is not a table",
            "A table ends in .csv, .toml, .json or .yaml; anything else there is not read.";
        MISSING_FOOTNOTE: Warning, "missing-footnote",
            "a footnote is referred to and has no text",
            "Markdown makes a footnote of [^name] only if a line begins with [^name]: and says its text. Without it, visitors see the brackets.";
        MISSING_KEY: Error, "missing-key",
            "a required key is missing",
            "Without it the rest can't be understood. The message shows how it is written.";
        MISSING_MANIFEST: Error, "missing-manifest",
            "a theme has no manifest",
            "A folder in themes/ is a theme if it has a hausblatt-theme.toml; a line [theme] in it is enough.";
        MISSING_MEDIA: Warning, "missing-media",
            "content names an image or a file that is not there",
            "Files of content are in media/; the name differs, perhaps in upper and lower case alone.";
        NO_DATE: Error, "no-date",
            "an entry has no date, and its address needs one",
            "The pattern of the collection's addresses has {year}, {month} or {day}. Say date: in the entry's front matter, or begin its file name with it.";
        NO_DATES: Warning, "no-dates",
            "a feed or listings by date have no dated entries",
            "Entries say date: in their front matter, or begin their file name with it.";
        NO_ROWS: Error, "no-rows",
            "a table has no rows that a route could use",
            "In JSON and YAML a table is a list of rows, in TOML [[rows]] for each.";
        NO_SITE: Error, "no-site",
            "no hausblatt.toml is in this folder or above it",
            "A site's folder holds hausblatt.toml. Write one with hausblatt start site, or say --site DIR.";
        NO_SITE_ADDRESS: Warning, "no-site-address",
            "the site's own address is not known",
            "Feeds and sitemaps need whole addresses. Write address = \"https://…\" under [site].";
        NO_SLUG: Error, "no-slug",
            "a row has no value for its address",
            "A route with each takes a row's slug, id, name or title for its address.";
        NO_TEMPLATE: Error, "no-template",
            "no template answers a request",
            "Not even fallback.html exists in the lineage. Write the file that the message names, or a fallback.html for everything.";
        NO_TERM: Error, "no-term",
            "an entry has no term, and its address needs one",
            "The pattern of the collection's addresses has a taxonomy in braces. Give the entry a term of it in its front matter.";
        NOT_OFFERED: Warning, "not-offered",
            "a file looks offered to editors and is not",
            "It says label or for, as offered templates do, but it is elsewhere, has another extension, or is for a collection that this site lacks.";
        PARENT_VERSION: Error, "parent-version",
            "a theme's parent has another version than the theme is written for",
            "\"parent_version\" under [theme] says which versions of the parent fit, as in >=2.1, <3 (Semantic Versioning). The site is loaded all the same. Put a fitting version of the parent into themes/, or change the range when the theme works with this one.";
        PRINTED_AS_TEXT: Warning, "printed-as-text",
            "something of a text was meant as Markdown and is not",
            "Visitors see it as it is written, or a link that leads nowhere. A heading has a space after its signs, a table a line |---|---| below its first one, a link its address directly after its text: [text](/address/).";
        REMOVED_HTML: Warning, "removed-html",
            "HTML that an editor wrote is removed",
            "Markdown may hold HTML, which is cleaned: what could run, load or restyle is taken out, as docs/files.md says. Write it in Markdown or in a component, or trust all editors with html = \"keep\".";
        REQUIRED_PARAMETER: Error, "required-parameter",
            "a template takes a parameter that nothing can give",
            "Nothing calls a template, so what it takes needs defaults.";
        SAME_ADDRESS: Error, "same-address",
            "two things have the same address",
            "Only one can be reached. Give one of them another slug or address.";
        SAME_ID: Error, "same-id",
            "two files have the same id",
            "One has a date in its name and the other not, or they differ in their extension. Rename one.";
        SAME_NAME: Error, "same-name",
            "two files give the same table",
            "The table's name is the file's name without its extension. Rename one.";
        SAME_OUTPUT: Error, "same-output",
            "two addresses would be published in one file",
            "A built site is a folder, and the two would be one file in it; names that differ by case alone are one on many systems. Of the two, a file of the site is published before a page, and a page before a redirect; the other is left out until one of them has another address.";
        SELF_REDIRECT: Warning, "self-redirect",
            "content redirects to itself",
            "The address under formerly is the one that it has now. Take it out.";
        TERM_CIRCLE: Error, "term-circle",
            "terms are each other's parents",
            "Take parent out of one of them.";
        THEME_CIRCLE: Error, "theme-circle",
            "themes are each other's parents",
            "Take parent out of one of the manifests.";
        TWO_FRONTS: Error, "two-fronts",
            "the front is both a page and a collection",
            "[front] takes one of the two.";
        UNDECLARED_FIELD: Warning, "undeclared-field",
            "content has a field that nothing declares",
            "It may be misspelt. Fields are declared in hausblatt.toml, under the collection's fields or [pages.fields].";
        UNDECLARED_TERM: Warning, "undeclared-term",
            "content names a term that its taxonomy does not declare",
            "The taxonomy lists its terms, and this is not one of them: it may be misspelt. It gets a listing all the same.";
        UNGIVEN_PARAMETER: Warning, "ungiven-parameter",
            "a layout takes a parameter that no file gives",
            "A layout gets values from a layout that extends it with +{inherited given …}; it always has its default here. Write the value into the layout, or set it as a setting.";
        UNENDED_BLOCK: Warning, "unended-block",
            "a comment or a code block of a text is never ended",
            "It takes in all that comes after it: what follows a comment is not shown, what follows a code block is shown as code.";
        UNKNOWN_ASSET: Error, "unknown-asset",
            "an asset is used that no theme has",
            "Assets are in assets/ of a theme of the lineage, and are named from there.";
        UNKNOWN_KEY: Error, "unknown-key",
            "a key is not known here",
            "It is misspelt or in the wrong group, and has no effect.";
        TEMPLATE_MISSING: Warning, "template-missing",
            "a route names a template that no theme has",
            "[routes.NAME] may say template = \"OTHER\", so that several routes share templates/route/OTHER. Without that file the rest of the ladder answers.";
        UNKNOWN_LAYOUT: Error, "unknown-layout",
            "a layout is used that does not exist",
            "Layouts are in layouts/ of a theme of the lineage; a template without one says layout: none.";
        UNKNOWN_ORDER: Warning, "unknown-order",
            "a collection is ordered by a field that it lacks",
            "Declare the field, or order by title, date or order.";
        UNKNOWN_SETTING: Warning, "unknown-setting",
            "a setting is given that no theme declares",
            "Settings are declared in hausblatt-theme.toml, under [settings.NAME].";
        UNKNOWN_THEME: Error, "unknown-theme",
            "a theme is named that does not exist",
            "Themes are folders in themes/ with a hausblatt-theme.toml.";
        UNKNOWN_TIMEZONE: Error, "unknown-timezone",
            "a timezone is not known",
            "Timezones are named after places, as in Europe/Berlin, or UTC.";
        UNKNOWN_TRAY: Warning, "unknown-tray",
            "content fills a tray that no file prints",
            "What is placed there is never seen. A template prints it with +{tray \"NAME\"}.";
        UNREADABLE: Error, "unreadable",
            "a file can't be read",
            "It is not UTF-8, or its permissions forbid it.";
        UNREAD_VALUE: Warning, "unread-value",
            "a prepare file makes a value that no file reads",
            "The name may be misspelt, or what read it has gone. Remove the line.";
        UNUSABLE_ADDRESS: Error, "unusable-address",
            "an address is one that no file can have, or one of hausblatt's own",
            "A built site is a folder: a part of an address is the name of a file or folder, of at most 255 bytes. Names that begin with .hausblatt, and what is at /~/, are hausblatt's own. What has such an address is left out; the rest is built.";
        UNUSED_HIDE: Warning, "unused-hide",
            "a theme hides a file that no ancestor has",
            "The name under hide is misspelt, or the ancestor has lost the file. Names there are like templates/entry.html.";
        USED_BEFORE_SET: Warning, "used-before-set",
            "a prepare file reads a value that it makes in a later line",
            "Lines run from top to bottom. Move the line that makes the value up.";
        WRONG_VALUE: Error, "wrong-value",
            "a value does not fit its field",
            "The field says which values it takes.";
    }
    /// What is said of what was typed, and noted on an address: `check` itself never reports it.
    OF_ANSWERS {
        AMBIGUOUS_FILE: Error, "ambiguous-file",
            "what was typed could be several things",
            "Two theme files go by the name that was typed, or a file and something else. Type more of the path, as hausblatt files lists it, or a prefix as in menu:main.";
        BAD_ARCHIVE: Error, "bad-archive",
            "an archive of themes can't be trusted",
            "Archives are written by hausblatt pack. One that is cut off or changed, that would write outside of themes/, that holds links, or far more than themes do, is not unpacked.";
        CHANGED_MEANWHILE: Warning, "changed-meanwhile",
            "content was edited while the site was built",
            "Its front matter is from before the edit, and its text may be from after it. Build again: what was made of it is not taken for made.";
        DEAD_TEMPLATE: Error, "dead-template",
            "no request could use a template of this name",
            "A template's name says what it renders, and nothing on this site has this name or could get it. docs/lookup.md lists the names for each kind of request.";
        FAULTY: Warning, "faulty",
            "content or a file has an error, so the page can't be rendered",
            "The address is answered with 500 until the error is fixed. hausblatt check shows it at its line.";
        FILE_EXISTS: Error, "file-exists",
            "there is a file of this name already",
            "Nothing was written. Edit the file that is there, choose another name, or replace it where the command has --force.";
        HEAVY_PAGE: Warning, "heavy-page",
            "a first visit loads more than --weight allows",
            "With check --weight: the page, the styles, scripts and images that it names, and what these load, apart from images with loading=\"lazy\". Counted are the bytes of the files, not compressed; of a srcset the image in src.";
        ID_DIFFERS: Warning, "id-differs",
            "a page's id is not its address",
            "A template for one page is named for the id, which is the path of the content file, not for the address.";
        LAYOUT_MISSING: Warning, "layout-missing",
            "a template names a layout that no theme has",
            "The page is answered with 500. Write the layout, name another one in the template's front matter, or say layout: none there.";
        NO_CONTENT: Error, "no-content",
            "there is no content file at this path",
            "What begins with content/ names a content file. hausblatt map lists every address, and resolve says which content is at it.";
        NO_COPY: Error, "no-copy",
            "a file is not a copy, so it can't drift",
            "Only files that override or start template --from have copied, or that cover an ancestor's file, can go out of date.";
        NO_SLOTS: Error, "no-slots",
            "a file has no slots to fill",
            "override --slots writes a file that extends the inherited one by filling its slots. Assets and prepare files have none: copy them.";
        NOT_A_RUNG: Error, "not-a-rung",
            "no rung of the address has this name",
            "override ADDRESS --as NAME takes the names on the ladder of that address. hausblatt resolve ADDRESS -v lists them.";
        NOT_ALONE: Error, "not-alone",
            "no template name belongs to the address alone",
            "A file under the most specific name would change other addresses, too; they are listed. Change them together, or let editors choose an offered template.";
        NOT_FOUND: Warning, "not-found",
            "nothing has this address",
            "The error page answers. Addresses that are nearly the same are named beside it.";
        NOT_INHERITED: Error, "not-inherited",
            "a child theme does not inherit this file",
            "Manifests belong to their own theme. Templates, partials, layouts, components, prepare files and assets are inherited.";
        NOT_MERGED: Error, "not-merged",
            "a copy can't be merged with what its original has become",
            "The message says why: the original is gone or was never recorded, a conflict is marked in the copy, the file is not text, or the merged file would have an error.";
        NOTHING_TO_RENAME: Error, "nothing-to-rename",
            "nothing has the name that was typed",
            "A prefix says what is meant: menu:main, field:varieties/days, term:family/pods, slot:document/aside. Names of templates and partials need none.";
        NOT_OWN: Error, "not-own",
            "a file belongs to a theme farther up",
            "A name is given by the farthest theme that has it: all nearer ones cover that file. Rename it there, with --theme; files that cover it in other themes of the site are renamed with it.";
        NOT_THE_SAME: Error, "not-the-same",
            "pages would not be the same after a change that should keep them",
            "Both sides were rendered and compared, and some pages differ in more than the name. Nothing was written.";
        NOTHING_TO_COPY: Error, "nothing-to-copy",
            "no file renders the address",
            "It is built in, or answered with an error, so there is no file to copy. Create one with hausblatt start template.";
        PASSED_OVER: Warning, "passed-over",
            "the active theme has a file that is not used here",
            "The name decides before the theme: a more specific name in any theme of the lineage comes before a general one in the nearest.";
        UNKNOWN_COLLECTION: Error, "unknown-collection",
            "there is no collection of this name",
            "Collections are declared in hausblatt.toml, under [collections.NAME].";
        UNMET_NEEDS: Error, "unmet-needs",
            "the site lacks something of [needs], so it can't be written anew",
            "needs --write looks at what the files read from this site. What this site does not have would be lost from the manifest.";
        UNKNOWN_FILE: Error, "unknown-file",
            "no theme file has this name",
            "Type a path from the site or from the theme; partials and templates may be named without folder and extension. hausblatt files lists every file.";
    }

    /// What only a rehearsal finds.
    OF_REHEARSALS {
        BARE_LABEL: Warning, "bare-label",
            "a label is printed without its value",
            "Where the value is missing, its words remain: a heading with nothing below it, \"Kept by\" with nobody behind it. Print both only where there is a value: +{if content.grower}Kept by +{content.grower}+{end}.";
        EMPTY_ELEMENT: Warning, "empty-element",
            "an element is printed without its value",
            "Where the value is missing, an empty paragraph or list item remains, with its space and its border. Print it only where there is a value: +{if content.tagline}<p>+{content.tagline}</p>+{end}.";
        EMPTY_LIST: Warning, "empty-list",
            "a list is printed without items",
            "Where there is nothing to list, <ul> and </ul> remain, and screen readers announce a list of no items. Put them within the question whether there is anything, or say what is missing in +{none}.";
        SAME_TITLE: Warning, "same-title",
            "the title of a page is not in its <title>",
            "Every page of such a template has the same <title>: tabs, bookmarks and search engines can't tell them apart. Print request.title or content.title in it.";
    }
}
