//! What people write who come from elsewhere, and what it is called here.

use crate::syntax::lex::{Token, TokenKind};
use crate::text::source::Span;

/// A word that begins a tag elsewhere.
pub(crate) struct ForeignStatement {
    /// What to write instead.
    pub help: &'static str,
    /// What it is read as, so that what comes after it is not blamed.
    pub read_as: ReadAs,
}

/// How a foreign statement goes on.
#[derive(Clone, Copy, PartialEq, Eq)]
pub(crate) enum ReadAs {
    /// As this statement.
    Statement(&'static str),
    /// As a block that ends with `end`.
    Block,
    /// It is the tag alone.
    Alone,
}

/// What is meant by a statement of this name, which there is not.
pub(crate) fn statement(name: &str) -> Option<ForeignStatement> {
    use ReadAs::{Alone, Block, Statement};
    let (help, read_as) = match name {
        "for" | "foreach" | "loop" => ("a loop is written +{each x in LIST}", Statement("each")),
        "unless" => ("write +{if not …}", Statement("if")),
        "while" => ("there are no loops without a list: write +{each x in range(1, 3)}", Block),
        "switch" | "case" => ("write +{if …} +{else if …} +{else} … +{end}", Block),
        "set" | "assign" | "var" | "const" | "def" => ("a value is named by +{let name = VALUE}", Statement("let")),
        "print" | "echo" | "out" | "output" => ("a value is printed by +{VALUE}", Alone),
        "include" | "import" | "require" | "insert" | "render" => {
            ("a partial is called by +{partial \"NAME\" given a = VALUE}", Alone)
        }
        "block" | "section" | "define" | "yield" => {
            ("a hole in a layout is +{slot \"NAME\"}, and what fills it +{into \"NAME\"} … +{end}", Block)
        }
        "extends" | "extend" | "layout" => ("a template names its layout in its front matter: layout: NAME", Alone),
        "macro" | "function" => ("what is called with values is a partial: a file in partials/", Block),
        "comment" => ("a comment is written +{# … #}", Block),
        _ => return None,
    };
    Some(ForeignStatement { help, read_as })
}

/// A word of several characters that has no meaning here, with what to say and what it is read as.
pub(crate) const SIGNS: &[(&str, &str, Option<Meant>)] = &[
    ("===", "write ==: values of different types never equal each other anyway", Some(Meant::Sign("=="))),
    ("!==", "write !=: values of different types never equal each other anyway", Some(Meant::Sign("!="))),
    ("||", "write \"or\"", Some(Meant::Name("or"))),
    ("&&", "write \"and\"", Some(Meant::Name("and"))),
    ("??", "write \"or\": it takes the second value where the first is nothing", Some(Meant::Name("or"))),
    ("?.", "write a dot: a member of nothing is nothing", Some(Meant::Sign("."))),
    ("->", "a member is written with a dot, as in content.title", Some(Meant::Sign("."))),
    ("=>", "to compare write >=, and = to give a value", Some(Meant::Sign(">="))),
    ("<>", "write \"!=\"", Some(Meant::Sign("!="))),
    ("...", "a list is added to another with +, and a range written range(1, 3)", None),
    ("..", "a range is written range(1, 3)", None),
    ("/*", "a comment is written +{# … #}", None),
    ("//", "a comment is written +{# … #}", None),
    ("--", "a comment is written +{# … #}", None),
    ("?", "a choice is written: if A then B else C", None),
    (":", "nothing is written with a colon; a choice is: if A then B else C", None),
    ("|", "to change a value, put a dot and a member after it, as in title.upper", None),
    ("~", "texts are joined with +", None),
    ("$", "names are written without a sign in front of them", None),
    ("@", "names are written without a sign in front of them", None),
    (";", "a tag holds one value or statement, without a semicolon", None),
    ("#", "a comment is written +{# … #}", None),
    ("!", "write \"not\" in front of the value, or \"!=\" between two", Some(Meant::Name("not"))),
    ("&", "write \"and\"; texts are joined with +", None),
    ("{", "a tag begins with \"+{\" and ends at the first \"}\" outside quotes", None),
    ("}", "a tag begins with \"+{\" and ends at the first \"}\" outside quotes", None),
    ("`", "texts are written in \"…\" or '…'", None),
];

/// What a foreign sign is read as.
#[derive(Clone, Copy)]
pub(crate) enum Meant {
    /// This sign.
    Sign(&'static str),
    /// This word.
    Name(&'static str),
}

/// What a value is called here.
pub(crate) fn value(name: &str) -> Option<&'static str> {
    Some(match name {
        "null" | "nil" | "None" | "none" | "undefined" | "NULL" | "Null" => "the absent value is written nothing",
        "True" | "TRUE" | "yes" => "write true",
        "False" | "FALSE" | "no" => "write false",
        "now" | "date" => "the day it is is today",
        "page" | "post" | "entry" | "this" | "self" | "item" | "article" => {
            "the page or entry that is requested is content; other data of the request is in request"
        }
        "loop" | "index" => "each x, at in LIST has its counters in at: at.number, at.first, at.last, at.count",
        "config" | "params" | "options" => "settings are in settings, and what hausblatt.toml says of the site in site",
        "query" => "what is searched for is search.query",
        "url" | "path" => "the address that is requested is request.address",
        _ => return None,
    })
}

/// What does here what a function of this name does elsewhere.
pub(crate) fn function(name: &str) -> Option<&'static str> {
    Some(match name {
        "len" | "length" | "count" | "size" => "write .count after a list, and .length after a text",
        "date" | "format" | "strftime" | "date_format" => "write .format(\"%-d %B %Y\") after a date",
        "default" | "coalesce" => "write: A or B",
        "include" | "partial" | "render" => "a partial is called by +{partial \"NAME\" given a = VALUE}",
        "safe" | "html" => "a text is printed as HTML by +{raw VALUE}",
        "escape" | "e" | "h" => "every value is escaped for its place; nothing has to be written",
        "now" => "the day it is is today",
        "min" | "max" => "order a list and take the first: (LIST order by it.days).first",
        "link" | "href" | "permalink" | "ref" => "write url(\"page:ID\"), or .address after a page or an entry",
        "print" | "echo" => "a value is printed by +{VALUE}",
        "isset" | "defined" | "empty" => "write the value itself: nothing, \"\", 0 and an empty list count as false",
        _ => return None,
    })
}

/// Members that are called otherwise here: the first of the names on the right that there is.
const MEMBERS: &[(&[&str], &[&str])] = &[
    (&["length", "size", "len", "total"], &["count", "length", "total"]),
    (&["count"], &["length", "total"]),
    (&["url", "permalink", "href", "link", "path", "src", "uri"], &["address"]),
    (&["name", "heading", "headline"], &["title", "label"]),
    (&["title", "text"], &["label"]),
    (&["content", "html", "text", "markdown"], &["body"]),
    (&["excerpt", "description", "intro", "teaser", "abstract"], &["summary"]),
    (&["slug", "key", "identifier"], &["id"]),
    (&["type"], &["kind"]),
    (&["published", "created", "time"], &["date"]),
    (&["modified", "changed", "updated_at"], &["updated"]),
    (&["entries", "pages", "posts", "results", "articles", "members"], &["items"]),
    (&["previous", "prev"], &["older", "previous"]),
    (&["next"], &["newer"]),
    (&["index", "i", "position"], &["number"]),
    (&["uppercase", "toUpperCase", "upcase", "capitalize"], &["upper"]),
    (&["lowercase", "toLowerCase", "downcase"], &["lower"]),
    (&["strip"], &["trim"]),
    (&["truncate", "slice", "substring", "substr", "limit", "excerpt"], &["words"]),
    (&["startswith", "startsWith", "starts_with"], &["starts"]),
    (&["endswith", "endsWith", "ends_with"], &["ends"]),
    (&["strftime", "date"], &["format"]),
    (&["uniq", "distinct"], &["unique"]),
    (&["reversed"], &["reverse"]),
    (&["active", "current", "selected"], &["here"]),
    (&["subpages", "submenu", "sub", "items"], &["children"]),
    (&["alternative", "caption"], &["alt"]),
    (&["lang", "locale"], &["language"]),
    (&["scale", "resize", "resized", "fit", "thumbnail", "thumb", "size"], &["scaled"]),
    (&["crop", "fill", "cut"], &["cropped"]),
    (&["format", "convert", "webp", "jpeg"], &["as"]),
    (&["sizes", "sources", "widths"], &["srcset"]),
];

/// What a member of this name is called here, among those that there are.
pub(crate) fn member<'a>(name: &str, mut there: impl FnMut(&str) -> bool) -> Option<&'a str> {
    let rows = MEMBERS.iter().filter(|(foreign, _)| foreign.iter().any(|one| one.eq_ignore_ascii_case(name)));
    rows.flat_map(|(_, own)| own.iter().copied()).find(|own| there(own))
}

/// What takes the place of a list's or a text's method that is none here.
pub(crate) fn method(name: &str) -> Option<&'static str> {
    Some(match name.to_ascii_lowercase().as_str() {
        "filter" | "select" | "reject" | "where" => "members are chosen by: LIST where it.easy",
        "sort" | "sortby" | "sorted" | "order" | "orderby" => "a list is ordered by: LIST order by it.title",
        "groupby" | "group" => "a list is grouped by: LIST group by it.grower",
        "map" | "foreach" => "go through the list with \"each\"",
        "limit" | "take" | "slice" | "skip" | "offset" | "head" => "a part of a list is: LIST offset 3 limit 5",
        "contains" | "includes" | "include" | "indexof" | "has" => "write: A has B",
        "concat" | "append" | "push" | "prepend" => "lists and texts are joined with +",
        "items" | "entries" | "all" => "it is the list itself; take .items away",
        "default" => "write: A or B",
        "safe" | "raw" => "a text is printed as HTML by +{raw VALUE}",
        "html" | "markdown" => "write markdown(TEXT)",
        "json" | "tojson" => "write json(VALUE)",
        "escape" => "every value is escaped for its place; nothing has to be written",
        _ => return None,
    })
}

/// What a word in a query, or after a value, is called here.
pub(crate) fn operator(name: &str) -> Option<&'static str> {
    Some(match name.to_ascii_lowercase().as_str() {
        "sort" | "sorted" | "orderby" | "order_by" | "sortby" => "write: order by it.title",
        "groupby" | "group_by" => "write: group by it.grower",
        "filter" | "when" | "if" => "members are chosen by: where it.easy",
        "skip" | "from" => "write: offset 2",
        "first" | "take" | "top" => "write: limit 3",
        "descending" | "reverse" | "reversed" => "write \"desc\" after the value that the order is by",
        "asc" | "ascending" => "leave it out: a list is ordered upwards unless \"desc\" is written",
        "contains" | "includes" | "include" => "write: A has B",
        "startswith" | "starts_with" => "write: A.starts(B)",
        "endswith" | "ends_with" => "write: A.ends(B)",
        "is" | "eq" | "equals" => "write: A == B",
        "isnt" | "ne" | "neq" => "write: A != B",
        "gt" => "write: A > B",
        "lt" => "write: A < B",
        "mod" => "write: A % B",
        "plus" | "concat" => "write: A + B",
        "xor" => "write: (A and not B) or (B and not A)",
        "default" | "otherwise" => "write: A or B",
        _ => return None,
    })
}

/// Elements in which other languages may be meant: what scripts read, and what is shown as code.
const APART: &[&str] = &["script", "style", "template", "pre", "code", "textarea"];

/// The first tag of another language in the text of a file, and what it would be here.
pub(crate) fn foreign_tag(text: &str, tokens: &[Token]) -> Option<(Span, String)> {
    let mut apart: Option<Vec<(usize, usize)>> = None;
    let texts = tokens.iter().filter(|token| token.kind == TokenKind::Text);
    let mut lines = texts.flat_map(|token| {
        let start = token.span.range().start;
        let own = token.span.of(text).split_inclusive('\n');
        own.scan(start, |at, line| {
            *at += line.len();
            Some((*at - line.len(), line))
        })
    });
    lines.find_map(|(start, line)| {
        let mut at = 0;
        // What is not closed in the rest of the line is not looked for any more.
        let mut unclosed = None;
        while let Some((open, close)) = opening(line, at, unclosed) {
            let Some(end) = line[open + 2..].find(close).map(|end| open + 2 + end) else {
                at = open + 2;
                if unclosed.replace(close).is_some() {
                    return None;
                }
                continue;
            };
            let inside = line[open + 2..end].trim();
            at = end + 2;
            let apart = apart.get_or_insert_with(|| self::apart(text));
            let before = apart.partition_point(|(from, _)| *from <= start + open);
            let is_free = before.checked_sub(1).is_none_or(|one| apart[one].1 <= start + open);
            if !inside.is_empty() && is_free {
                return Some((Span::new(start + open, start + at), help(inside)));
            }
        }
        None
    })
}

/// Values that every file has, and words that begin statements: what is written with them in braces is meant as a tag.
const HEADS: &[&str] =
    &["content", "request", "site", "settings", "listing", "classes", "entry", "item", "term", "menus"];
const STATEMENTS: &[&str] =
    &["if", "else", "end", "each", "partial", "component", "let", "slot", "into", "tray", "used", "use"];

/// A longer text in braces is not a tag.
const LONGEST: usize = 200;

/// The first tag in the text of a file that is not written as tags are, and what to write.
pub(crate) fn bare_tag(text: &str, tokens: &[Token]) -> Option<(Span, &'static str, String)> {
    let mut apart: Option<Vec<(usize, usize)>> = None;
    let mut is_free = |at: usize| {
        let apart = apart.get_or_insert_with(|| self::apart(text));
        let before = apart.partition_point(|(from, _)| *from <= at);
        before.checked_sub(1).is_none_or(|one| apart[one].1 <= at)
    };
    let mut after_value = false;
    // Whether a brace of the text is open.
    let mut is_open = false;
    for token in tokens {
        let range = token.span.range();
        let of_tag = std::mem::replace(&mut after_value, token.kind == TokenKind::Tag);
        if token.kind != TokenKind::Text {
            continue;
        }
        let part = token.span.of(text);
        let was_open = std::mem::replace(&mut is_open, part.rfind('{') > part.rfind('}'));
        if of_tag && part.starts_with('}') && !was_open && is_free(range.start) {
            let span = Span::new(range.start, range.start + 1);
            return Some((
                span,
                "this brace is printed as it is",
                "a tag ends with one brace: take this one out".to_owned(),
            ));
        }
        for (open, close) in [('{', '}'), ('(', ')')] {
            for (at, _) in part.match_indices(open) {
                let begins = part[..at].trim_end_matches(['$', '#', '@', '%', ' ']);
                let has_plus = begins.ends_with('+');
                let start = if has_plus { begins.len() - 1 } else { at };
                let is_doubled = part[..at].ends_with(open) || part[at + 1..].starts_with([open, '%', '#']);
                if is_doubled || open == '(' && !(has_plus && begins.len() == at) {
                    continue;
                }
                let ahead = part.as_bytes()[at + 1..].iter().take(LONGEST);
                let end = ahead.into_iter().position(|&byte| byte == close as u8 || byte == b'\n');
                let Some(end) = end.map(|end| at + 1 + end) else { continue };
                let inside = part[at + 1..end].trim();
                if part[end..].starts_with(close) && is_tag(inside) && is_free(range.start + at) {
                    let span = Span::new(range.start + start, range.start + end + 1);
                    return Some((
                        span,
                        "this is printed as it is: a tag begins with +{",
                        format!("write +{{{inside}}}"),
                    ));
                }
            }
        }
    }
    None
}

/// Whether what is in braces would be a tag.
fn is_tag(inside: &str) -> bool {
    let (head, rest) = inside.split_at(inside.find(|c: char| !c.is_alphanumeric() && c != '_').unwrap_or(inside.len()));
    let is_path = || rest.chars().all(|c| c.is_alphanumeric() || matches!(c, '.' | '_')) && rest.len() > 1;
    let goes_on = rest.starts_with([' ', '"']) && !rest.contains(':') && !rest.contains(';');
    HEADS.contains(&head) && rest.starts_with('.') && is_path()
        || STATEMENTS.contains(&head) && (goes_on || rest.is_empty() && matches!(head, "end" | "else" | "slot"))
}

/// Where the next tag of another language begins in a line, and what closes it.
fn opening(line: &str, from: usize, unclosed: Option<&str>) -> Option<(usize, &'static str)> {
    let braces = line[from..].match_indices('{').map(|(at, _)| from + at);
    let openings = braces.filter_map(|at| match line.as_bytes().get(at + 1) {
        Some(b'{') => Some((at, "}}")),
        Some(b'%') => Some((at, "%}")),
        _ => None,
    });
    openings.into_iter().find(|(_, close)| unclosed != Some(*close))
}

fn help(inside: &str) -> String {
    let inside = inside.trim_matches(['-', '=', '~', '{', '}']).trim();
    match inside.chars().all(|c| c.is_alphanumeric() || c == '.' || c == '_') {
        true => format!("a value is printed by +{{{inside}}}"),
        false => "a value is printed by +{VALUE}, and statements are written +{if …}, +{each …}".to_owned(),
    }
}

/// Where comments and elements are in which nothing foreign is looked for, in order and without overlaps; what is not
/// closed goes on to the end of the file.
fn apart(text: &str) -> Vec<(usize, usize)> {
    let lower = text.to_ascii_lowercase();
    let mut found = Vec::new();
    let mut at = 0;
    while let Some(start) = lower[at..].find('<').map(|start| at + start) {
        let rest = &lower[start + 1..];
        let element = APART.iter().find(|name| {
            let after = rest.strip_prefix(**name).map(|after| after.chars().next());
            after.is_some_and(|after| after.is_none_or(|c| !c.is_ascii_alphanumeric() && c != '-'))
        });
        let close = match element {
            Some(name) => format!("</{name}"),
            None if rest.starts_with("!--") => "-->".to_owned(),
            None => {
                at = start + 1;
                continue;
            }
        };
        let end = lower[start..].find(&close).map_or(lower.len(), |end| start + end);
        found.push((start, end));
        at = end.max(start + 1);
    }
    found
}
