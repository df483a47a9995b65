//! Lines of a theme file that become a partial, or a slot with a default: what they need is given, and every page is the
//! same afterwards.

use std::collections::{BTreeMap, BTreeSet};
use std::ops::RangeInclusive;

use hausblatt_lang::edit::cut::{Uncut, whole};
use hausblatt_lang::program::{Act, Callee, Meaning, Program};
use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::ending::Ending;
use hausblatt_lang::text::source::Span;

use crate::change::changes::changed;
use crate::change::rename::{Proof, Theirs, in_theme, prove_same};
use crate::files::edit::Write;
use crate::lookup::file_argument;
use crate::text::codes;
use crate::text::shell::word;
use crate::text::slug::{is_id, slug};
use crate::themes::file_name::Role;
use crate::themes::lineage::FileId;
use crate::world::World;

/// What lines become.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Becomes {
    /// A partial that is called in their place.
    Partial,
    /// What a slot holds by default.
    Slot,
}

/// Lines that are extracted.
#[derive(Debug)]
pub struct Extraction {
    /// The file that they are in.
    pub path: String,
    /// The new file, of a partial.
    pub partial: Option<String>,
    /// The names that the call gives.
    pub given: Vec<String>,
    /// What is written in place of the lines.
    pub call: String,
    /// What it does to the output.
    pub proof: Proof,
    /// What is to be written.
    pub writes: Vec<Write>,
}

/// The file, the lines and the name that are typed.
#[derive(Clone, Debug)]
pub struct Wanted<'w> {
    /// The file as it is typed.
    pub file: &'w str,
    /// The lines, from 1.
    pub lines: RangeInclusive<usize>,
    /// The name of the partial or the slot.
    pub name: &'w str,
    /// Which of the two.
    pub becomes: Becomes,
}

/// How far around the lines another cut is looked for.
const AROUND: usize = 12;

/// Plans how lines of a file of the active theme become a partial or a slot.
///
/// # Errors
/// Why these lines can't, with the nearest that could.
pub fn extract(world: &World, wanted: &Wanted<'_>) -> Result<Extraction, Vec<Diagnostic>> {
    let one = |diagnostic: Diagnostic| vec![diagnostic];
    let source = source(world, wanted).map_err(one)?;
    let name = name(world, wanted, &source).map_err(one)?;
    let theirs = Theirs::of(world)?;
    let planned = match cut(&source, &wanted.lines, wanted.becomes) {
        Ok(cut) => plan(world, &theirs, wanted, &source, &cut, &name),
        Err(problem) => Err(vec![*problem]),
    };
    planned.map_err(|mut problems| {
        if bytes_of(source.text, &wanted.lines).is_none() {
            return problems;
        }
        let nearest = nearest(&source, &wanted.lines, wanted.becomes, |cut| {
            plan(world, &theirs, wanted, &source, cut, &name).is_ok()
        });
        if let (Some(first), Some(lines)) = (problems.first_mut(), nearest) {
            let slot = if wanted.becomes == Becomes::Slot { " --as slot" } else { "" };
            let to = if lines.start() == lines.end() { String::new() } else { format!("-{}", lines.end()) };
            let typed = word(&format!("{}:{}{to}", wanted.file, lines.start()));
            let theme = in_theme(world);
            first.help = Some(format!("these can be: hausblatt extract {typed} {}{slot}{theme}", word(&name)));
        }
        problems
    })
}

/// The file that is cut.
struct Source<'w> {
    id: FileId,
    path: &'w str,
    text: &'w str,
    body: usize,
    ending: Ending,
    program: &'w Program,
}

fn source<'w>(world: &'w World, wanted: &Wanted<'_>) -> Result<Source<'w>, Diagnostic> {
    let id = file_argument::theme_file(world, wanted.file)?;
    let file = world.lineage.file(id);
    if !matches!(file.role, Role::Template | Role::Partial | Role::Layout | Role::Component) {
        let message = format!("nothing can be cut out of {}", file.name);
        return Err(Diagnostic::of(&codes::UNKNOWN_FILE, message).help("name a template, a partial or a layout"));
    }
    if file.theme > 0 {
        let theme = &world.lineage.themes[file.theme].name;
        let help = format!("add --theme {}, or copy it: hausblatt override {}", word(theme), word(wanted.file));
        return Err(Diagnostic::of(&codes::NOT_OWN, format!("{} is from the theme {theme}", file.name)).help(help));
    }
    let program = world.program(id);
    let (Some(text), Some(program)) = (file.node.text(), program) else {
        let message = format!("{} has an error", file.name);
        return Err(Diagnostic::of(&codes::NOT_THE_SAME, message).help("mend it first: hausblatt check"));
    };
    let ending = Ending::split(&file.name).map_or(Ending::Html, |(_, ending)| ending);
    Ok(Source { id, path: &file.node.path, text, body: world.header(id).body, ending, program })
}

/// The name, if nothing has it.
fn name(world: &World, wanted: &Wanted<'_>, source: &Source<'_>) -> Result<String, Diagnostic> {
    let typed = wanted.name;
    if wanted.becomes == Becomes::Slot {
        let fits = |c: char| c.is_alphanumeric() || matches!(c, '_' | '-' | ' ');
        if typed.is_empty() || typed.trim() != typed || !typed.chars().all(fits) {
            let message = format!("\"{typed}\" can't name a slot");
            return Err(Diagnostic::of(&codes::BAD_NAME, message).help("use letters, digits and hyphens"));
        }
        let has = source.program.slots.iter().any(|&slot| world.symbols.name(slot) == typed);
        if has {
            let message = format!("{} has a slot {typed} already", source.path);
            return Err(Diagnostic::of(&codes::FILE_EXISTS, message).help("choose another name"));
        }
        return Ok(typed.to_owned());
    }
    let bare = typed.strip_prefix("partials/").unwrap_or(typed);
    let name = Ending::split(bare).map_or(bare, |(stem, _)| stem);
    if !is_id(name) {
        let better = name.split('/').map(slug).filter(|part| !part.is_empty()).collect::<Vec<_>>().join("/");
        let message = format!("\"{typed}\" can't name a partial");
        let help = format!("use lower-case letters, digits and hyphens, as in {better}");
        return Err(Diagnostic::of(&codes::BAD_NAME, message).help(help));
    }
    let path = format!("partials/{name}.{}", source.ending.word());
    let taken = world.snapshot.files().into_iter().find(|node| {
        let own = world.lineage.themes.iter().find_map(|theme| node.path.strip_prefix(&theme.root));
        own.is_some_and(|own| own.eq_ignore_ascii_case(&path))
    });
    if let Some(node) = taken {
        let message = format!("there is a partial {name} already: {}", node.path);
        return Err(Diagnostic::of(&codes::FILE_EXISTS, message).help("choose another name"));
    }
    Ok(name.to_owned())
}

/// A part of a file that is whole.
struct Cut {
    part: Span,
    /// The names from outside that it uses, in the order in which it does.
    given: Vec<String>,
}

/// The bytes of these lines.
fn bytes_of(text: &str, lines: &RangeInclusive<usize>) -> Option<Span> {
    let starts: Vec<usize> = std::iter::once(0).chain(text.match_indices('\n').map(|(at, _)| at + 1)).collect();
    let start = *starts.get(lines.start().checked_sub(1)?)?;
    let end = starts.get(*lines.end()).copied().unwrap_or(text.len());
    (start < text.len() && start < end && lines.end() <= &starts.len()).then(|| Span::new(start, end))
}

fn cut(source: &Source<'_>, lines: &RangeInclusive<usize>, becomes: Becomes) -> Result<Cut, Box<Diagnostic>> {
    let fail = |message: String, span: Span| {
        Err(Box::new(Diagnostic::of(&codes::NOT_THE_SAME, message).at(&source.path.into(), span)))
    };
    let Some(part) = bytes_of(source.text, lines) else {
        let count = source.text.lines().count();
        let message = format!("{} has {count} lines", source.path);
        return Err(Box::new(Diagnostic::of(&codes::BAD_NAME, message).help("write them as in 12-18")));
    };
    if let Err(why) = whole(source.text, source.body, source.ending, part) {
        let named = |span: &Span| span.of(source.text).lines().next().unwrap_or("").to_owned();
        return match why {
            Uncut::Empty => fail("there is nothing in these lines that could be cut out".to_owned(), part),
            Uncut::InTag => fail("these lines begin or end inside of a tag".to_owned(), part),
            Uncut::OpenBlock(at) => fail(format!("{} is opened here, and ends behind these lines", named(&at)), at),
            Uncut::StrayEnd(at) => fail(format!("{} belongs to what is opened before these lines", named(&at)), at),
            Uncut::OpenElement(name, at) => fail(format!("<{name}> begins here, and ends behind these lines"), at),
            Uncut::StrayEndTag(name, at) => fail(format!("</{name}> ends what begins before these lines"), at),
        };
    }
    let is_inside = |span: Span| part.range().start <= span.range().start && span.range().end <= part.range().end;
    if becomes == Becomes::Partial
        && let Some((what, at)) = of_this_file(source, &is_inside)
    {
        return fail(format!("{what} belongs to this file, and would mean another thing in a partial"), at);
    }
    let words = &source.program.words;
    let mut made_inside: BTreeSet<u16> = BTreeSet::new();
    let mut made_outside: BTreeSet<u16> = BTreeSet::new();
    for word in words {
        if let Meaning::Made(_, slot) = word.meaning {
            let known = if is_inside(word.span) { &mut made_inside } else { &mut made_outside };
            known.insert(slot);
        }
    }
    for word in words.iter().filter(|word| word.span.range().start >= part.range().end) {
        if let Meaning::Own(_, slot) = word.meaning
            && made_inside.contains(&slot)
        {
            let name = word.span.of(source.text);
            return fail(format!("\"{name}\" is named in these lines and used here, behind them"), word.span);
        }
    }
    let mut given: Vec<String> = Vec::new();
    for word in words.iter().filter(|word| is_inside(word.span)) {
        let is_given = match word.meaning {
            Meaning::Own(_, slot) => made_outside.contains(&slot) && !made_inside.contains(&slot),
            Meaning::Parameter(_) => true,
            _ => false,
        };
        let name = word.span.of(source.text);
        if is_given && !given.iter().any(|known| known == name) {
            given.push(name.to_owned());
        }
    }
    Ok(Cut { part, given })
}

/// What means another thing in another file: slots, what asks for them, fills of the layout, and what goes on.
fn of_this_file(source: &Source<'_>, is_inside: &dyn Fn(Span) -> bool) -> Option<(&'static str, Span)> {
    let program = source.program;
    let slots = program.words.iter().filter(|word| matches!(word.meaning, Meaning::Slot(_)));
    let slots = slots.map(|word| ("a slot", word.span));
    let asked = program.asked_filled.iter().map(|(_, span)| ("what asks for a slot", *span));
    let fills = program.layout_fills.iter().map(|(_, span)| ("what fills a slot of the layout", *span));
    let next = program.calls.iter().filter(|call| matches!(call.callee, Callee::Next));
    let next = next.map(|call| ("what goes on with the next file", call.span));
    let bodies =
        program.ops.iter().zip(&program.spans).filter(|(op, _)| matches!(op.act, Act::Slot { name: None, .. }));
    let bodies = bodies.map(|(_, span)| ("the slot without a name", *span));
    slots.chain(asked).chain(fills).chain(next).chain(bodies).find(|(_, span)| is_inside(*span))
}

/// The nearest lines around these that can be cut out, and keep every page as it is.
fn nearest(
    source: &Source<'_>,
    lines: &RangeInclusive<usize>,
    becomes: Becomes,
    keeps: impl Fn(&Cut) -> bool,
) -> Option<RangeInclusive<usize>> {
    let around = i64::try_from(AROUND).unwrap_or(i64::MAX);
    let mut all: Vec<(i64, i64)> = Vec::new();
    for from in -around..=around {
        all.extend((-around..=around).map(|to| (from, to)));
    }
    // What keeps all of it comes before what leaves something out.
    all.sort_by_key(|(from, to)| (*from > 0 || *to < 0, from.abs() + to.abs()));
    let moved = |line: usize, by: i64| usize::try_from(i64::try_from(line).ok()? + by).ok();
    let mut tried = 0;
    for (from, to) in all.into_iter().filter(|both| *both != (0, 0)) {
        let (Some(start), Some(end)) = (moved(*lines.start(), from), moved(*lines.end(), to)) else { continue };
        if start == 0 || end < start {
            continue;
        }
        let Ok(found) = cut(source, &(start..=end), becomes) else { continue };
        if keeps(&found) {
            return Some(start..=end);
        }
        tried += 1;
        // Each is held against all pages.
        if tried == MOST_TRIED {
            return None;
        }
    }
    None
}

/// So many other cuts are rendered at most.
const MOST_TRIED: usize = 4;

fn plan(
    world: &World,
    theirs: &Theirs,
    wanted: &Wanted<'_>,
    source: &Source<'_>,
    cut: &Cut,
    name: &str,
) -> Result<Extraction, Vec<Diagnostic>> {
    let mut first: Option<Vec<Diagnostic>> = None;
    for Form { part, call, file } in forms(world, wanted, source, cut, name) {
        let range = part.range();
        let text = format!("{}{call}{}", &source.text[..range.start], &source.text[range.end..]);
        let mut writes = Vec::new();
        let partial = file.map(|(path, text)| {
            writes.push(Write::new(&*path, text));
            path
        });
        writes.push(Write::instead_of(source.path, source.text.as_bytes(), text));
        let paths = BTreeSet::from([source.path.to_owned()]);
        match prove_same(world, theirs, &changed(&world.snapshot, &writes), &paths, &BTreeMap::new()) {
            Ok(proof) => {
                return Ok(Extraction {
                    path: source.path.to_owned(),
                    partial,
                    given: cut.given.clone(),
                    call: call.trim().to_owned(),
                    proof,
                    writes,
                });
            }
            Err(problems) => first = first.or(Some(problems)),
        }
    }
    Err(first.unwrap_or_default())
}

/// A way to write it: what is in place of which part, and the new file.
struct Form {
    part: Span,
    call: String,
    file: Option<(String, String)>,
}

/// The ways to write it: the usual one first.
fn forms(world: &World, wanted: &Wanted<'_>, source: &Source<'_>, cut: &Cut, name: &str) -> Vec<Form> {
    let form = |call: String, file| Form { part: cut.part, call, file };
    let lines = cut.part.of(source.text);
    let eol = if lines.contains("\r\n") { "\r\n" } else { "\n" };
    let first = lines.lines().find(|line| !line.trim().is_empty()).unwrap_or("");
    let indent = &first[..first.len() - first.trim_start().len()];
    let end = if lines.ends_with('\n') { eol } else { "" };
    let bare = lines.strip_suffix('\n').map_or(lines, |lines| lines.strip_suffix('\r').unwrap_or(lines));
    if wanted.becomes == Becomes::Slot {
        let open = format!("+{{slot \"{name}\" else}}");
        let apart = format!("{indent}{open}{eol}{bare}{eol}{indent}+{{end}}{end}");
        let inner = bare.strip_prefix(indent).unwrap_or(bare);
        let together = format!("{indent}{open}{inner}+{{end}}{end}");
        let around = format!("{open}{lines}+{{end}}");
        let mut forms = vec![form(apart, None), form(together, None), form(around, None)];
        // From the end of the line above, so that lines which go by themselves still do.
        let start = cut.part.range().start;
        let above = source.text[..start].strip_suffix('\n').map(|text| text.strip_suffix('\r').unwrap_or(text).len());
        if let Some(above) = above.filter(|above| *above >= source.body) {
            let part = Span::new(above, cut.part.range().end);
            forms.push(Form { part, call: format!("{open}{eol}{bare}+{{end}}{end}"), file: None });
        }
        return forms;
    }
    let given: Vec<String> = cut.given.iter().map(|name| format!("{name} = {name}")).collect();
    let given = if given.is_empty() { String::new() } else { format!(" given {}", given.join(", ")) };
    let call = format!("+{{partial \"{name}\"{given}}}");
    let takes: Vec<String> = cut.given.iter().map(|name| format!("{name}:")).collect();
    let head = match takes.as_slice() {
        [] => String::new(),
        takes => format!("---{eol}takes: {{ {} }}{eol}---{eol}", takes.join(", ")),
    };
    let root = &world.lineage.themes[world.lineage.file(source.id).theme].root;
    let path = format!("{root}partials/{name}.{}", source.ending.word());
    let inner = lines.strip_prefix(indent).unwrap_or(lines);
    let file = |text: &str| Some((path.clone(), format!("{head}{text}")));
    vec![
        form(format!("{indent}{call}{end}"), file(inner)),
        form(format!("{call}{end}"), file(lines)),
        form(format!("{indent}{call}"), file(inner)),
        form(call.clone(), file(lines)),
    ]
}
