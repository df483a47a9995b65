//! What is wrong with files of the language, found when they are compiled and rendered: the codes in order.

crate::codes! {
    /// All of them.
    ALL {
        ARGUMENT_COUNT: Error, "argument-count",
            "a member or function has too many or too few arguments",
            "The tables in docs/language.md say what each member and function takes.";
        BAD_TAG: Error, "bad-tag",
            "a tag can't be read",
            "The message says what was expected at this place.";
        BAD_VALUE: Error, "bad-value",
            "a value can't be computed",
            "The types of the values don't fit what is done with them, or a number is divided by zero. The message names them.";
        BARE_ID: Warning, "bare-id",
            "an id or a name is nothing but a value",
            "What content says could be the name of something that scripts look for in the page. A literal prefix in front of the value makes it a name of its own: id=\"entry-+{content.id}\".";
        BRANCHES_DIFFER: Error, "branches-differ",
            "the branches of a block end in different places of the HTML",
            "One branch leaves a tag, a quote or a comment open that another one closes. What comes after the block could not be escaped correctly for both. Close in each branch what it opens.";
        COMPUTED_NAME: Error, "computed-name",
            "a name that must be a literal is computed",
            "Names of components and slots, and the folder of a partial, are written out, so that every file knows what it calls before anything is rendered.";
        DEAD_BRANCH: Warning, "dead-branch",
            "a branch is never taken",
            "An earlier branch of the same \"if\" has the same condition, so this one never comes into question.";
        DEAD_REFERENCE: Error, "dead-reference",
            "a reference or a link is broken",
            "What is named does not exist, is a draft, or is not published yet. References are page:ID, entry:COLLECTION/ID, collection:NAME, term:TAXONOMY/TERM, route:NAME, feed:COLLECTION and period:COLLECTION/YEAR/MONTH/DAY.";
        DUMP_LEFT_BEHIND: Error, "dump-left-behind",
            "a dump was left behind",
            "+{dump …} shows what a value holds, in the server and in hausblatt render. A build refuses the pages that reach one.";
        DUPLICATE_ARGUMENT: Error, "duplicate-argument",
            "a parameter is given twice in one call",
            "Only one of the two can count. Remove one.";
        EMPTY_ADDRESS: Warning, "empty-address",
            "an address is empty",
            "An empty href leads to the page itself, an empty src loads it once more. Leave the element out where there is no address.";
        EMPTY_TAG: Error, "empty-tag",
            "a tag holds nothing",
            "+{} says nothing to print or do. A comment is written +{# … #}.";
        FAULTY_FILE: Error, "faulty-file",
            "a file that is needed has errors",
            "The page can't be rendered until the errors of that file are fixed; they are listed with it.";
        FOREIGN_TAG: Warning, "foreign-tag",
            "a tag of another language is printed as it is",
            "Tags are written +{…} here. What scripts are to find in the page belongs into a script or a template element, where nothing is said of it.";
        HTML_ONLY: Error, "html-only",
            "a tag works in .html files only",
            "Layouts and the slots they take belong to HTML; a .xml, .json or .txt template is the whole file.";
        INTERNAL: Error, "internal",
            "Hausblatt itself has failed here",
            "This is not your error. Please report it with the file that it names.";
        LET_WITHOUT_EFFECT: Warning, "let-without-effect",
            "a let inside a block hides a name and is never used",
            "A let never assigns: it ends with its block. To choose a value write +{let name = if A then B else C} before the block.";
        LITERAL_NEEDED: Error, "literal-needed",
            "a text must be written out here",
            "What is looked up before rendering, such as the name of a slot, can't be computed.";
        MISMATCHED_END: Error, "mismatched-end",
            "an end names a different block from the one it closes",
            "Blocks end in the order in which they began, from the inside outwards.";
        MISSING_ON_SITE: Warning, "missing-on-site",
            "what a template names, this site lacks",
            "The menu, table, collection or taxonomy may exist on another site; here it is nothing. Add it, or ask before you print it.";
        MISSING_PARAMETER: Error, "missing-parameter",
            "a call lacks a parameter that must be given",
            "The called file says in takes what it needs; what has a default there may be left out.";
        NAME_TAKEN: Error, "name-taken",
            "a name already has a meaning",
            "The built-in values, functions and words of the language can't be used for anything else; choose another name.";
        NOT_A_LIST: Error, "not-a-list",
            "something that is not a list is looped over or queried",
            "Only a list can be looped over; nothing counts as an empty one. The message says what the value is.";
        NOTHING_INHERITED: Error, "nothing-inherited",
            "there is no file to extend",
            "inherited extends the file that would be found without this one; here there is none.";
        NUMBER_TOO_LARGE: Error, "number-too-large",
            "a number is too large",
            "Whole numbers have 64 bits.";
        OPEN_HTML: Error, "open-html",
            "a file or body ends inside a tag, a comment or a quote",
            "Every file, and every body of with, let and into, begins and ends in text.";
        PATTERN_WITHOUT_DATE: Warning, "pattern-without-date",
            "a date is printed by a pattern that has no part of it",
            "A pattern is one of POSIX strftime: its parts begin with %, as in %-d %B %Y. Other letters are printed as they are.";
        POINTLESS_COMPARISON: Warning, "pointless-comparison",
            "a comparison always has the same answer",
            "Values of different types never equal each other: 1 is not \"1\". Change one of them, or leave the condition out.";
        QUOTED_VALUE: Warning, "quoted-value",
            "the name of a value is written in quotes",
            "What is in quotes is a text, and is printed letter by letter. A value is named without quotes.";
        SCRIPT_IN_COMMENT: Error, "script-in-comment",
            "a script in a comment is read in two ways",
            "With both <!-- and <script inside a script, browsers find its end at another place. Leave one of the two out.";
        SECOND_PART: Error, "second-part",
            "a block has the same part twice",
            "A block has at most one else, one between and one none.";
        SHORTENED_PARTIAL: Warning, "shortened-partial",
            "a partial is found by its shortened name, and a similar one was perhaps meant",
            "There is no partial of the whole name, so the one before the slash is used. The name is close to another that exists.";
        STRAY_CHARACTER: Error, "stray-character",
            "a character has no meaning here",
            "It is part of no name, number, text or sign of the language.";
        STRAY_DIVIDER: Error, "stray-divider",
            "else, between, none or end is outside its block",
            "Its block was closed before, or never opened.";
        STRAY_INTO: Error, "stray-into",
            "an into has no slot to fill",
            "An into belongs in the body of a call whose file has slots, or in a template or layout, for the layout around it.";
        TEXT_ONLY: Error, "text-only",
            "a tag is where only text may be",
            "Calls, raw and the nameless slot print HTML, so they go between tags, not in an attribute or a title.";
        TOO_DEEP: Error, "too-deep",
            "files call each other without end",
            "Calls nest at most 64 deep. A file that calls itself needs an if that ends it.";
        TOO_LARGE: Error, "too-large",
            "a page grew too large",
            "A page and what is computed for it may be 64 MB together. Look for a text or list that grows in each round of a loop.";
        TOO_MANY_STEPS: Error, "too-many-steps",
            "a page takes too many steps",
            "A page may take 50 million. Narrow lists with where or limit, or let the whole site share a query that does not depend on the request.";
        TRAY_IN_COMPONENT: Error, "tray-in-component",
            "a tray is printed inside a component",
            "Content places components in trays, so this would have no end. Print trays in templates, partials or layouts.";
        UNCLOSED_BLOCK: Error, "unclosed-block",
            "a block is never ended",
            "Write +{end} where it ends; +{end each} says what it ends, and is checked.";
        UNCLOSED_TAG: Error, "unclosed-tag",
            "a tag is never ended",
            "A tag ends at the first } outside quotes, before the next +{, an empty line or the file's end.";
        UNCLOSED_TEXT: Error, "unclosed-text",
            "a quoted text is never ended",
            "A text ends with the quote that it starts with.";
        UNEVEN_BRANCHES: Warning, "uneven-branches",
            "an element is opened or closed in one branch only",
            "On pages that take the other branch, the element's other end is alone: what follows is inside an element that should have ended, or outside one that should go on. Write the same condition at both ends, letter by letter, or put the tags around the branches.";
        UNKNOWN_COMPONENT: Error, "unknown-component",
            "a component is called that does not exist",
            "A component is a folder in components/ with a component.html.";
        UNKNOWN_ESCAPE: Error, "unknown-escape",
            "a text holds an escape that does not exist",
            "The escapes are \\\\ \\\" \\' \\n \\t and \\u{…}.";
        UNKNOWN_FIELD: Error, "unknown-field",
            "a field is read that nothing declares and no content has",
            "It is misspelt, or its declaration in hausblatt.toml is missing; it is always nothing.";
        UNKNOWN_FUNCTION: Error, "unknown-function",
            "a function is called that does not exist",
            "The functions are listed in docs/language.md.";
        UNKNOWN_KIND: Error, "unknown-kind",
            "a word is where only certain words may be",
            "The message lists them.";
        UNKNOWN_LANGUAGE: Error, "unknown-language",
            "a format names a language that is not known",
            "Dates and numbers are written by the customs of the site's language, or of the one named last. Languages are named by tags (BCP 47): \"de\", \"en\", \"pt-BR\".";
        UNKNOWN_MEMBER: Error, "unknown-member",
            "a value has no such member",
            "What a value has is known before rendering; the message names the nearest. docs/language.md lists all.";
        UNKNOWN_NAME: Error, "unknown-name",
            "a name is not known here",
            "A file sees its parameters, its own let, and the global values; not what its caller sees. Give it as a parameter.";
        UNKNOWN_PARAMETER: Error, "unknown-parameter",
            "a call gives a parameter that the called file does not take",
            "Its value is lost. The name is misspelt, or missing in takes.";
        UNKNOWN_PARTIAL: Error, "unknown-partial",
            "a partial is called that does not exist",
            "Partials are in partials/ of a theme of the lineage; a/b/c falls back to a/b, then to a.";
        UNKNOWN_SLOT: Warning, "unknown-slot",
            "a fill finds no slot",
            "Nothing prints what is filled in: the slot's name is misspelt, or the layout or partial has lost the slot.";
        UNKNOWN_STATEMENT: Error, "unknown-statement",
            "a statement is written that does not exist",
            "A tag whose first word is not a statement is a value; this looks like a misspelt statement.";
        UNLINKED_ASSET: Warning, "unlinked-asset",
            "an asset is used on a page that links none",
            "The page's document does not print used \"styles\" or used \"scripts\", so the asset is never loaded.";
        UNPRINTABLE: Error, "unprintable",
            "a list or a record is printed",
            "Print one of its members, loop over it with each, or join a list with .join(\", \").";
        UNSAFE_ADDRESS: Error, "unsafe-address",
            "an address is not allowed where it is",
            "What it holds could run a script or load one from elsewhere, so about:invalid is printed instead.";
        UNSAFE_NUMBER: Warning, "unsafe-number",
            "a number is where it can't be read back",
            "In a list of images, a value after the address must be a number.";
        UNSAFE_PLACE: Error, "unsafe-place",
            "a value is where no value is safe",
            "No escaping makes a value harmless here: in an event attribute, in a tag's name, in a comment. The message says where to put it instead.";
        UNSAFE_STYLE: Warning, "unsafe-style",
            "a value is not allowed in a style",
            "Numbers with units, #hex, words, colours, spaces and commas are allowed; initial is printed instead.";
        UNUSABLE_ASSET: Error, "unusable-asset",
            "an asset is used that can't be linked",
            "use takes .css, .js and .mjs; the address of any other asset is asset(\"…\").";
        WRONG_TYPE: Error, "wrong-type",
            "a value has the wrong type",
            "The declaration says which type is expected, and the message what was found.";
    }
}
