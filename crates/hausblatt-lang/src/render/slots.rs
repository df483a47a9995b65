//! Slots and what fills them: of calls, of the chain, of the layouts.

use crate::escape::html::{escape, escape_xml, text_of};
use crate::html::place::HtmlPlace;
use crate::library::UnitId;
use crate::program::Program;
use crate::render::marks::mark;
use crate::render::{Chain, Frame, Halt, Renderer};
use crate::role::Role;
use crate::syntax::tree::Mode;
use crate::text::codes;
use crate::text::diagnostic::Diagnostic;
use crate::text::ending::Ending;
use crate::text::suggest::did_you_mean;
use crate::value::shape::Symbol;

/// What fills a slot.
#[derive(Clone, Copy, Debug)]
pub(super) struct Fill<'a> {
    pub(super) name: Symbol,
    pub(super) mode: Mode,
    pub(super) html: &'a str,
    /// How far down the chain the file is that fills; nearer files beat farther ones.
    pub(super) rank: usize,
    /// The file that fills, and its step that does.
    pub(super) from: (UnitId, usize),
}

impl<'a> Renderer<'_, 'a> {
    pub(super) fn check_layout_fills(&mut self, layout: UnitId, fills: &[Fill<'a>]) {
        let Some(program) = self.job.library.program(layout).filter(|_| !fills.is_empty()) else { return };
        let symbols = self.job.host.symbols();
        let slots = self.job.library.slots_of(layout);
        for fill in fills.iter().filter(|fill| !slots.contains(&fill.name)) {
            let name = symbols.name(fill.name);
            let (unit, step) = fill.from;
            let writer = self.job.library.program(unit);
            // What extends a file can fill that file's slots, too.
            let at = self.job.templates.iter().position(|&template| template == unit);
            let behind = at.map_or(&[][..], |at| &self.job.templates[at + 1..]);
            let behind = if writer.is_some_and(|writer| writer.continues) { behind } else { &[] };
            let next = behind.first().and_then(|&next| self.job.library.program(next));
            let message = match next {
                Some(next) => format!("neither {} nor the layout {} has a slot \"{name}\"", next.path, program.path),
                None => format!("the layout {} has no slot \"{name}\"", program.path),
            };
            let mut known: Vec<&str> = slots.iter().map(|&slot| symbols.name(slot)).collect();
            // The chain ends at the first file that extends nothing.
            let mut is_run = true;
            let of_templates = behind.iter().filter_map(|&unit| self.job.library.program(unit));
            let of_templates = of_templates.take_while(|program| std::mem::replace(&mut is_run, program.continues));
            known.extend(of_templates.flat_map(|program| &program.slots).map(|&slot| symbols.name(slot)));
            known.sort_unstable();
            known.dedup();
            let help = did_you_mean(name, known.iter().copied()).unwrap_or_else(|| match known.is_empty() {
                true => "there are no slots to fill".to_owned(),
                false => format!("the slots are {}", known.join(", ")),
            });
            let diagnostic = Diagnostic::of(&codes::UNKNOWN_SLOT, message).help(help);
            let span = writer.and_then(|writer| {
                let name = writer.layout_fills.iter().find(|(slot, _)| *slot == fill.name).map(|(_, span)| *span);
                name.or_else(|| writer.spans.get(step).copied())
            });
            let path = writer.map_or(&program.path, |writer| &writer.path);
            self.warn(path, span.unwrap_or_default(), diagnostic);
        }
    }

    /// Reports what fills slots of a layout where no layout is around any more. What a template extends may fill them for
    /// others.
    pub(super) fn check_fills_left(&mut self) {
        let in_layout = !self.job.layouts.is_empty();
        for fill in std::mem::take(&mut self.layout_fills) {
            let (unit, step) = fill.from;
            let Some(program) = self.job.library.program(unit) else { continue };
            // What templates fill is held against each layout.
            let is_told = if in_layout { program.role != Role::Layout } else { fill.rank > 0 };
            if is_told {
                continue;
            }
            let name = self.job.host.symbols().name(fill.name);
            let span = program.layout_fills.iter().find(|(slot, _)| *slot == fill.name).map(|(_, span)| *span);
            let span = span.or_else(|| program.spans.get(step).copied()).unwrap_or_default();
            let diagnostic = if program.continues && in_layout {
                let slots = self.job.library.slots_of(unit);
                let symbols = self.job.host.symbols();
                let message =
                    format!("neither a file that this one extends nor a layout around it has a slot \"{name}\"");
                let known = slots.iter().map(|&slot| symbols.name(slot));
                Diagnostic::of(&codes::UNKNOWN_SLOT, message).meaning(name, known)
            } else {
                let message = format!("no layout is around {}, so what fills \"{name}\" is lost", program.path);
                Diagnostic::of(&codes::UNKNOWN_SLOT, message).help("say in its front matter which one is: layout: NAME")
            };
            self.warn(&program.path, span, diagnostic);
        }
    }

    pub(super) fn fill(
        &mut self,
        frame: &Frame<'a>,
        at: usize,
        name: Symbol,
        mode: Mode,
        to_call: bool,
    ) -> Result<(), Halt> {
        let mut html = self.captured(frame.program, at)?;
        if self.job.shows.marks && !html.trim().is_empty() && frame.program.ending == Ending::Html {
            let path = &frame.program.path;
            html = self.scratch.text(&format!("{}{html}{}", mark(true, path), mark(false, path)));
        }
        let fill = Fill { name, mode, html, rank: frame.chain.rank(), from: (frame.unit, at) };
        match self.bodies.last_mut().filter(|_| to_call) {
            Some(fills) => fills.push(fill),
            None => self.layout_fills.push(fill),
        }
        Ok(())
    }

    /// Ends a call's body: what the nameless slot gets, and what the others do.
    pub(super) fn call_body(
        &mut self,
        program: &'a Program,
        at: usize,
        has_body: bool,
    ) -> Result<(Option<&'a str>, Vec<Fill<'a>>), Halt> {
        if !has_body {
            return Ok((None, Vec::new()));
        }
        let body = self.captured(program, at)?;
        Ok((Some(body), self.bodies.pop().unwrap_or_default()))
    }

    pub(super) fn keep_fills(&self, fills: &[Fill<'a>]) -> &'a [Fill<'a>] {
        if fills.is_empty() {
            return &[];
        }
        self.scratch.keep_all(fills)
    }

    /// Whether this file, or one that it extends, has the slot.
    pub(super) fn has_slot(&self, unit: UnitId, chain: Chain, name: Symbol) -> bool {
        let mut file = Some((unit, chain));
        while let Some((unit, chain)) = file {
            let Some(program) = self.job.library.program(unit) else { return false };
            if program.slots.contains(&name) {
                return true;
            }
            file = if program.continues { self.after(unit, chain) } else { None };
        }
        false
    }

    /// What fills the slot `name`: the nearest file's, and of one file's the last.
    pub(super) fn filling(fills: &'a [Fill<'a>], name: Symbol) -> Option<&'a str> {
        let replacing = fills.iter().filter(|fill| fill.name == name && fill.mode == Mode::Replace);
        replacing.min_by(|a, b| a.rank.cmp(&b.rank).then(std::cmp::Ordering::Greater)).map(|fill| fill.html)
    }

    pub(super) fn added(frame: &Frame<'a>, name: Symbol, mode: Mode) -> impl Iterator<Item = &'a str> {
        frame.fills.iter().filter(move |fill| fill.name == name && fill.mode == mode).map(|fill| fill.html)
    }

    pub(crate) fn filled(&self, name: Option<Symbol>) -> bool {
        let Some(name) = name else { return false };
        let blank = |html: &str| html.trim().is_empty();
        self.fills.iter().any(|fill| fill.name == name && !blank(fill.html) && fill.mode != Mode::Replace)
            || Self::filling(self.fills, name).is_some_and(|html| !blank(html))
    }

    pub(super) fn slot(
        &mut self,
        frame: &Frame<'a>,
        at: usize,
        name: Option<Symbol>,
        place: HtmlPlace,
        end: u32,
    ) -> Result<Option<u32>, Halt> {
        self.check_budget(frame.program, frame.program.spans.get(at).copied().unwrap_or_default())?;
        let Some(name) = name else {
            let Some(body) = frame.body else { return Ok(None) };
            self.push_fill(body, place);
            return Ok(Some(end));
        };
        for html in Self::added(frame, name, Mode::Before) {
            self.push_fill(html, place);
        }
        let Some(html) = Self::filling(frame.fills, name) else { return Ok(None) };
        self.push_fill(html, place);
        Ok(Some(end))
    }

    pub(super) fn slot_end(&mut self, frame: &Frame<'a>, name: Option<Symbol>, place: HtmlPlace) {
        for html in name.into_iter().flat_map(|name| Self::added(frame, name, Mode::After)) {
            self.push_fill(html, place);
        }
    }

    pub(super) fn push_fill(&mut self, html: &str, place: HtmlPlace) {
        match place {
            HtmlPlace::Text => self.out.push_str(html),
            HtmlPlace::Xml => escape_xml(text_of(html).trim(), &mut self.out),
            _ => escape(text_of(html).trim(), &mut self.out),
        }
    }
}
