//! Assets that a page requests once, and the links for them.

use std::cmp::Reverse;

use crate::escape::html::escape;
use crate::program::Program;
use crate::render::{LinkedAsset, Renderer};
use crate::role::Role;
use crate::syntax::tree::AssetKind;
use crate::text::codes;
use crate::text::diagnostic::Diagnostic;
use crate::text::source::Span;

/// An asset that was requested, and where.
#[derive(Clone, Copy)]
pub(super) struct AssetRequest<'a> {
    path: &'a str,
    program: &'a Program,
    span: Span,
    rank: Rank,
}

/// Where a style sheet comes among those of a page: what layouts of the farthest theme request first, what components of
/// the active theme bring last, so that a child's rules win.
type Rank = (Reverse<usize>, usize);

/// The rank of what a file requests, whose theme is so far up the lineage.
fn rank(role: Role, theme: usize) -> Rank {
    let of_role = match role {
        Role::Layout => 0,
        Role::Template | Role::Prepare => 1,
        Role::Partial => 2,
        Role::Component => 3,
    };
    (Reverse(theme), of_role)
}

impl<'a> Renderer<'_, 'a> {
    /// Requests an asset for a file, or for one of a theme so far up the lineage. Of several requests the earliest place
    /// counts.
    pub(super) fn ask_for(&mut self, program: &'a Program, at: usize, path: &'a str, theme: usize) {
        let rank = rank(program.role, theme);
        match self.asked.iter_mut().find(|asked| asked.path == path) {
            Some(asked) => asked.rank = asked.rank.min(rank),
            None => {
                let span = program.spans.get(at).copied().unwrap_or_default();
                self.asked.push(AssetRequest { path, program, span, rank });
            }
        }
    }

    fn asked_of(&self, kind: AssetKind) -> impl Iterator<Item = AssetRequest<'a>> {
        self.asked.iter().copied().filter(move |asked| AssetKind::of(asked.path) == Some(kind))
    }

    /// Style sheets by their rank, scripts in the order in which they were requested.
    fn in_order(&self, kind: AssetKind) -> Vec<AssetRequest<'a>> {
        let mut all: Vec<AssetRequest<'a>> = self.asked_of(kind).collect();
        if kind == AssetKind::Styles {
            all.sort_by_key(|asked| asked.rank);
        }
        all
    }

    /// What the page links to, in its order.
    pub(super) fn links(&self) -> Vec<LinkedAsset> {
        let kinds = [AssetKind::Styles, AssetKind::Scripts].into_iter();
        let linked = kinds.filter(|kind| self.linked.iter().any(|(linked, _)| linked == kind));
        let of = |kind| {
            let link = move |asked: AssetRequest<'a>| LinkedAsset {
                path: asked.path.to_owned(),
                kind,
                by: asked.program.path.clone(),
            };
            self.in_order(kind).into_iter().map(link)
        };
        linked.flat_map(of).collect()
    }

    /// Prints a link for each asset of this sort.
    pub(super) fn print_links(&mut self, kind: AssetKind) {
        let all = self.in_order(kind);
        self.linked.push((kind, all.len()));
        for (at, asked) in all.iter().enumerate() {
            let Some(address) = self.job.host.asset(asked.path, &self.scratch) else { continue };
            if at > 0 {
                self.out.push('\n');
            }
            let (before, behind) = match kind {
                AssetKind::Styles => ("<link rel=\"stylesheet\" href=\"", "\">"),
                AssetKind::Scripts if asked.path.ends_with(".mjs") => {
                    ("<script type=\"module\" src=\"", "\"></script>")
                }
                AssetKind::Scripts => ("<script defer src=\"", "\"></script>"),
            };
            self.out.push_str(before);
            escape(address, &mut self.out);
            self.out.push_str(behind);
        }
    }

    /// Whether something was requested after the place where its link belongs.
    pub(super) fn links_are_late(&self) -> bool {
        self.linked.iter().any(|&(kind, count)| self.asked_of(kind).count() > count)
    }

    /// Reports what was requested and is linked nowhere on the page.
    pub(super) fn check_links(&mut self) {
        for (kind, word) in [(AssetKind::Styles, "styles"), (AssetKind::Scripts, "scripts")] {
            let first = self.asked_of(kind).next();
            let Some(asked) = first.filter(|_| !self.linked.iter().any(|(linked, _)| *linked == kind)) else {
                continue;
            };
            let message = format!("\"{}\" is used, but this page links to no {word}", asked.path);
            let diagnostic = Diagnostic::of(&codes::UNLINKED_ASSET, message)
                .help(format!("write +{{used \"{word}\"}} in the layout's head"));
            self.warn(&asked.program.path, asked.span, diagnostic);
        }
    }
}
