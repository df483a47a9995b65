//! Trays: components that content places, where a template prints a tray or the text of content has one in it.

use crate::escape::html::escape;
use crate::program::Program;
use crate::render::{Chain, Halt, InTray, Renderer};
use crate::text::codes;
use crate::text::diagnostic::Diagnostic;
use crate::text::source::Span;
use crate::value::tray::find;

impl<'a> Renderer<'_, 'a> {
    /// Prints HTML as it is, with the components of the trays in it.
    #[inline]
    pub(super) fn push_html(&mut self, program: &'a Program, span: Span, html: &'a str) -> Result<(), Halt> {
        let mut rest = html;
        while let Some(mark) = find(rest) {
            self.out.push_str(&rest[..mark.at.start]);
            if self.in_components == 0 {
                let placed = self.job.host.tray(mark.content, mark.tray, &self.scratch);
                self.place(program, span, placed, self.job.shows.dumps)?;
            }
            rest = &rest[mark.at.end..];
        }
        self.out.push_str(rest);
        Ok(())
    }

    /// Prints the components that content placed in the tray `name`.
    pub(super) fn tray(&mut self, program: &'a Program, at: usize, name: &str) -> Result<(), Halt> {
        let span = program.spans.get(at).copied().unwrap_or_default();
        if self.in_components > 0 {
            let diagnostic = Diagnostic::of(&codes::TRAY_IN_COMPONENT, "a tray is printed inside a component here")
                .help("print it in a template, a partial or a layout that no component calls");
            return Err(self.problem(program, span, diagnostic));
        }
        let job = self.job;
        let Some(tray) = job.trays.iter().find(|tray| tray.name == name) else { return Ok(()) };
        self.place(program, span, tray.placed, true)
    }

    fn place(
        &mut self,
        program: &'a Program,
        span: Span,
        placed: &'a [InTray<'a>],
        shows_left: bool,
    ) -> Result<(), Halt> {
        for placed in placed {
            match *placed {
                InTray::Component { unit, given } => {
                    self.check_depth(program, span)?;
                    self.bring(unit);
                    self.call(unit, Chain::Partial(0), None, &[], given)?;
                    self.out.push('\n');
                }
                InTray::LeftOut(why) if shows_left => {
                    self.out.push_str("<div role=\"note\" style=\"border:2px dashed #a62a1d;padding:0.5em 1em\">");
                    escape(why, &mut self.out);
                    self.out.push_str("</div>\n");
                }
                InTray::LeftOut(_) => {}
            }
        }
        Ok(())
    }
}
