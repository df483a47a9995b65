//! Elements that one branch opens or closes, and the other ways through the file do not.

use rustc_hash::FxHashMap;

use crate::html::names::{ENDLESS, VOID, is_element};
use crate::html::scanner::{Event, ScanState};
use crate::syntax::tree::{Block, Call, Expr, ExprKind, Node, NodeKind, Operator};
use crate::text::codes;
use crate::text::diagnostic::{Diagnostic, Problems};
use crate::text::ending::Ending;
use crate::text::source::Span;

/// With more conditions than these nothing is said of a file: they are 64 ways through it.
const CONDITIONS: usize = 6;

/// Reports branches that are never taken and, in HTML, elements that are not opened and closed under the same conditions.
/// Conditions that are written alike hold together.
pub fn check(block: &Block, source: &str, ending: Ending, problems: &mut Problems) {
    let mut reader =
        Reader { source, ending, state: ScanState::beginning(ending), apart: Vec::new(), never: Vec::new() };
    let part = reader.block(block, false);
    for (at, text) in std::mem::take(&mut reader.never) {
        let message = format!("this branch is never taken: \"{text}\" is asked further up already");
        problems.push(at, Diagnostic::of(&codes::DEAD_BRANCH, message).help("take it out, or ask for something else"));
    }
    // XML is held against its rules as a whole, and the others have no elements.
    if ending != Ending::Html {
        return;
    }
    let mut parts = std::mem::take(&mut reader.apart);
    parts.push((part, false));
    for (part, in_loop) in parts {
        report(&part, in_loop, problems);
    }
}

/// A tag, or branches of which one is taken.
enum Step {
    Open { name: String, at: Span, in_branch: bool },
    Close { name: String, at: Span, in_branch: bool },
    Branches(Vec<(Condition, Vec<Step>)>),
}

/// What must hold for a branch: a condition as it is written, and whether it is turned around; none for `else`.
type Condition = Option<(String, bool)>;

struct Reader<'s> {
    source: &'s str,
    ending: Ending,
    state: ScanState,
    /// What begins and ends in text by itself: bodies of calls and of loops, and whether it is one of a loop.
    apart: Vec<(Vec<Step>, bool)>,
    /// Conditions that an earlier branch has already, where each is and how it is written.
    never: Vec<(Span, String)>,
}

impl Reader<'_> {
    fn block(&mut self, block: &Block, in_branch: bool) -> Vec<Step> {
        let mut steps = Vec::new();
        block.nodes.iter().for_each(|node| self.node(node, in_branch, &mut steps));
        steps
    }

    fn node(&mut self, node: &Node, in_branch: bool, steps: &mut Vec<Step>) {
        match &node.kind {
            NodeKind::Text(text) => self.text(node.span, text, in_branch, steps),
            NodeKind::If(arms, other) => {
                let mut branches = Vec::new();
                let start = self.state.clone();
                for (condition, block) in arms {
                    self.state = start.clone();
                    let asked = self.condition(condition);
                    if branches.iter().any(|(other, _): &(Condition, _)| other.as_ref() == Some(&asked)) {
                        self.never.push((condition.span, asked.0.clone()));
                    }
                    branches.push((Some(asked), self.block(block, true)));
                }
                if let Some(block) = other {
                    self.state = start;
                    branches.push((None, self.block(block, true)));
                }
                if branches.iter().any(|(_, steps)| !steps.is_empty()) {
                    steps.push(Step::Branches(branches));
                }
            }
            NodeKind::Each(each) => {
                for block in [Some(&each.body), each.between.as_ref(), each.none.as_ref()].into_iter().flatten() {
                    let start = self.state.clone();
                    let part = self.block(block, false);
                    self.apart.push((part, true));
                    self.state = start;
                }
            }
            NodeKind::Capture(_, block) | NodeKind::Into(_, _, block) | NodeKind::Slot(_, Some(block)) => {
                self.separate(block);
            }
            NodeKind::Partial(Call { body: Some(block), .. })
            | NodeKind::Component(Call { body: Some(block), .. })
            | NodeKind::Inherited(Call { body: Some(block), .. }) => self.separate(block),
            _ => {}
        }
    }

    fn separate(&mut self, block: &Block) {
        let outer = std::mem::replace(&mut self.state, ScanState::beginning(self.ending));
        let part = self.block(block, false);
        self.apart.push((part, false));
        self.state = outer;
    }

    /// A condition as it is written, and whether it is turned around: `not a` is `a`, and `a != b` is `a == b`.
    fn condition(&self, value: &Expr) -> (String, bool) {
        match &value.kind {
            ExprKind::Not(inner) => {
                let (text, holds) = self.condition(inner);
                (text, !holds)
            }
            ExprKind::Binary(operator @ (Operator::Equal | Operator::Unequal), left, right) => {
                (format!("{} == {}", self.written(left), self.written(right)), *operator == Operator::Equal)
            }
            _ => (self.written(value), true),
        }
    }

    /// A value as it is written, without brackets around it.
    fn written(&self, value: &Expr) -> String {
        let mut text = value.span.of(self.source).trim();
        while let Some(inner) =
            text.strip_prefix('(').and_then(|text| text.strip_suffix(')')).filter(|it| is_closed(it))
        {
            text = inner.trim();
        }
        text.split_whitespace().collect::<Vec<_>>().join(" ")
    }

    fn text(&mut self, span: Span, text: &str, in_branch: bool, steps: &mut Vec<Step>) {
        let mut from = span.range().start;
        for event in self.state.scan(text) {
            let (at, lead) = match event {
                Event::Element { at } => (at, "<"),
                Event::EndTag { at } => (at, "</"),
                _ => continue,
            };
            // A tag that began in front of a statement is in two pieces.
            let Some(rest) = text.get(at..).and_then(|tag| tag.strip_prefix(lead)) else { continue };
            let length = rest.bytes().take_while(u8::is_ascii_alphanumeric).count();
            let written = &text[at..at + lead.len() + length];
            let name = written[lead.len()..].to_ascii_lowercase();
            if !is_element(&name) || VOID.contains(&&*name) || ENDLESS.contains(&&*name) {
                continue;
            }
            // Lines that print nothing are not in the text.
            let found = self.source.get(from..span.range().end).and_then(|source| source.find(written));
            let at = match found {
                Some(found) => Span::new(from + found, from + found + written.len()),
                None => span,
            };
            from = at.range().end;
            steps.push(match lead {
                "<" => Step::Open { name, at, in_branch },
                _ => Step::Close { name, at, in_branch },
            });
        }
    }
}

/// Whether each bracket of a text is closed in it.
fn is_closed(text: &str) -> bool {
    let mut depth = 0_i32;
    text.chars().all(|c| {
        depth += i32::from(c == '(') - i32::from(c == ')');
        depth >= 0
    })
}

/// What a way through a file leaves open, and what it closes that was open before.
#[derive(Default)]
struct Effect<'p> {
    opened: Vec<(&'p str, Span, bool)>,
    closed: Vec<(&'p str, Span, bool)>,
}

impl<'p> Effect<'p> {
    fn of(steps: &'p [Step], holds: &FxHashMap<&'p str, bool>) -> Self {
        let mut effect = Self::default();
        effect.add(steps, holds);
        effect
    }

    fn add(&mut self, steps: &'p [Step], holds: &FxHashMap<&'p str, bool>) {
        for step in steps {
            match step {
                Step::Open { name, at, in_branch } => self.opened.push((name, *at, *in_branch)),
                Step::Close { name, at, in_branch } => match self.opened.iter().rposition(|(open, ..)| open == name) {
                    Some(open) => drop(self.opened.remove(open)),
                    None => self.closed.push((name, *at, *in_branch)),
                },
                Step::Branches(branches) => {
                    let is_taken = |condition: &Condition| match condition {
                        Some((text, way)) => holds.get(text.as_str()).copied().unwrap_or(false) == *way,
                        None => true,
                    };
                    if let Some((_, steps)) = branches.iter().find(|(condition, _)| is_taken(condition)) {
                        self.add(steps, holds);
                    }
                }
            }
        }
    }

    fn names(&self) -> (Vec<&'p str>, Vec<&'p str>) {
        let sorted = |tags: &[(&'p str, Span, bool)]| {
            let mut names: Vec<&str> = tags.iter().map(|(name, ..)| *name).collect();
            names.sort_unstable();
            names
        };
        (sorted(&self.opened), sorted(&self.closed))
    }

    fn count(&self) -> usize {
        self.opened.len() + self.closed.len()
    }
}

fn conditions<'p>(steps: &'p [Step], found: &mut Vec<&'p str>) {
    for step in steps {
        let Step::Branches(branches) = step else { continue };
        for (condition, steps) in branches {
            if let Some((text, _)) = condition
                && !found.contains(&text.as_str())
            {
                found.push(text);
            }
            conditions(steps, found);
        }
    }
}

/// Whether branches leave all as it was, whichever is taken.
fn is_even(step: &Step) -> bool {
    let Step::Branches(branches) = step else { return false };
    branches.iter().all(|(_, steps)| {
        let straight = steps.iter().all(|step| !matches!(step, Step::Branches(_)) || is_even(step));
        straight && Effect::of(steps, &FxHashMap::default()).count() == 0
    })
}

fn without_even(steps: &[Step]) -> Vec<&Step> {
    steps.iter().filter(|step| !is_even(step)).collect()
}

fn report(part: &[Step], in_loop: bool, problems: &mut Problems) {
    if without_even(part).iter().all(|step| !matches!(step, Step::Branches(_))) {
        return;
    }
    let mut names = Vec::new();
    for step in part.iter().filter(|step| !is_even(step)) {
        conditions(std::slice::from_ref(step), &mut names);
    }
    if names.len() > CONDITIONS {
        return;
    }
    let ways = 0..1_usize << names.len();
    let effects: Vec<Effect<'_>> = ways
        .map(|way| {
            let holds = names.iter().enumerate().map(|(at, name)| (*name, way >> at & 1 == 1)).collect();
            Effect::of(part, &holds)
        })
        .collect();
    let Some(even) = effects.iter().min_by_key(|effect| effect.count()) else { return };
    let usual = even.names();
    // In a loop, one round may open what a later one closes.
    let reaches_on = |tags: fn(&Effect<'_>) -> bool| in_loop && effects.iter().any(tags);
    if reaches_on(|effect| !effect.opened.is_empty()) && reaches_on(|effect| !effect.closed.is_empty()) {
        return;
    }
    for effect in effects.iter().filter(|effect| effect.names() != usual) {
        let opened = more(&effect.opened, &usual.0).map(|tag| (tag, true));
        let Some(((name, at, in_branch), opens)) = opened.or(more(&effect.closed, &usual.1).map(|tag| (tag, false)))
        else {
            continue;
        };
        // Tags of one name are alike: one outside the branches was left over for one in a branch.
        let (at, opens) = [opens, !opens]
            .into_iter()
            .filter(|_| !in_branch)
            .find_map(|opens| Some((in_branches(part, name, opens)?, opens)))
            .unwrap_or((at, opens));
        let what = if opens { "what closes it" } else { "what it closes" };
        let message = format!(
            "this <{}{name}> is in one branch, and {what} is not under the same condition",
            if opens { "" } else { "/" }
        );
        let help = "write the same condition at both ends, or write both tags once around the branches";
        return problems.push(at, Diagnostic::of(&codes::UNEVEN_BRANCHES, message).help(help));
    }
}

/// The last tag of a name that there are more of than usual; rather one in a branch.
fn more<'p>(tags: &[(&'p str, Span, bool)], usual: &[&str]) -> Option<(&'p str, Span, bool)> {
    let is_more = |name: &str| {
        let count = tags.iter().filter(|(other, ..)| *other == name).count();
        count > usual.iter().filter(|other| **other == name).count()
    };
    let found = || tags.iter().rev().copied().filter(|(name, ..)| is_more(name));
    found().find(|(_, _, in_branch)| *in_branch).or_else(|| found().next())
}

/// The first tag of a name that a branch opens and does not close, or closes without having opened it.
fn in_branches(steps: &[Step], wanted: &str, opening: bool) -> Option<Span> {
    let uneven = steps.iter().filter(|step| !is_even(step));
    let arms = uneven.filter_map(|step| match step {
        Step::Branches(branches) => Some(branches),
        _ => None,
    });
    arms.flatten().find_map(|(_, steps)| {
        let effect = Effect::of(steps, &FxHashMap::default());
        let tags = if opening { effect.opened } else { effect.closed };
        let found = tags.iter().find(|(name, ..)| *name == wanted).map(|(_, at, _)| *at);
        found.or_else(|| in_branches(steps, wanted, opening))
    })
}
