//! What is wrong with files beside each other: names without a file, layouts that don't exist.

use std::cmp::Ordering;
use std::sync::Arc;

use hausblatt_lang::library::UnitId;
use hausblatt_lang::program::{Mention, Mentioned, Program};
use hausblatt_lang::text::codes as lang_codes;
use hausblatt_lang::text::diagnostic::{Diagnostic, Severity};
use hausblatt_lang::text::ending::Ending;
use hausblatt_lang::text::source::Span;
use hausblatt_lang::value::shape::Symbol;

use crate::schema::config;
use crate::text::codes;
use crate::themes::file_name::Role;
use crate::themes::lineage::FileId;
use crate::themes::theme;
use crate::world::World;

/// The order in which problems are reported: first the configuration, then the manifests of themes and of components, from
/// which much else follows; then all other files by path.
pub fn in_order(a: &Diagnostic, b: &Diagnostic) -> Ordering {
    const FIRST: [&str; 3] = [config::FILE, theme::MANIFEST, "component.toml"];
    let rank = |diagnostic: &Diagnostic| {
        let name = diagnostic.place.as_ref().and_then(|place| place.path.rsplit('/').next());
        FIRST.iter().position(|file| name == Some(*file)).unwrap_or(FIRST.len())
    };
    rank(a).cmp(&rank(b)).then_with(|| a.place.cmp(&b.place))
}

impl World {
    /// References that literals name.
    pub(super) fn check_references(&mut self) {
        self.check_mentions(|world, mention| match mention.what {
            Mentioned::Reference if world.site.reference(&mention.text).is_none() => {
                Some(world.dead_reference(&mention.text))
            }
            Mentioned::Content if world.site.referenced_content(&mention.text).is_none() => {
                Some(world.unknown_content(&mention.text))
            }
            _ => None,
        });
    }

    /// Assets that literals name. A page without one can be shown all the same.
    pub(super) fn check_assets(&mut self) {
        self.check_mentions(|world, mention| match mention.what {
            Mentioned::Asset if world.asset(&mention.text).is_none() => Some(world.unknown_asset(&mention.text)),
            _ => None,
        });
    }

    fn check_mentions(&mut self, check: impl Fn(&Self, &Mention) -> Option<Diagnostic>) {
        let mut found = Vec::new();
        for program in self.library.units.iter().filter_map(|unit| unit.program.as_ref()) {
            for mention in &program.mentions {
                let problem = check(self, mention);
                found.extend(problem.map(|problem| problem.at(&program.path, mention.span)));
            }
        }
        self.problems.extend(found);
    }

    fn dead_reference(&self, text: &str) -> Diagnostic {
        let is_address = text.starts_with('/') || text.starts_with("http");
        let help = match self.site.nearest_reference(text) {
            _ if is_address => {
                format!("an address is written as it is, without url; {}", crate::model::site::reference_syntax())
            }
            Some(nearest) => nearest,
            None => crate::model::site::reference_syntax(),
        };
        Diagnostic::of(&lang_codes::DEAD_REFERENCE, format!("broken reference \"{text}\"")).help(help)
    }

    /// What to say of a page or an entry that a literal names and that does not exist.
    fn unknown_content(&self, reference: &str) -> Diagnostic {
        let (sort, id) = reference.split_once(':').unwrap_or(("page", reference));
        let diagnostic = Diagnostic::of(&lang_codes::DEAD_REFERENCE, format!("there is no {sort} \"{id}\""));
        let all = self.site.ids().map(|(_, content)| match self.site.collection_of(content) {
            Some(collection) => ("entry", format!("{}/{}", collection.config.name.text, content.id)),
            None => ("page", content.id.to_string()),
        });
        let ids: Vec<String> = all.filter(|(other, _)| *other == sort).map(|(_, id)| id).collect();
        let help = match sort {
            "entry" => "an entry is named by its collection and its id, as in entry(\"varieties/tidemark\")",
            _ => "a page's id is its file's path below content/pages/, without its extension",
        };
        diagnostic.meaning(id, ids.iter().map(String::as_str)).or_help(|| help.to_owned())
    }

    fn unknown_asset(&self, text: &str) -> Diagnostic {
        let assets = self.lineage.files.iter().filter_map(|file| file.name.asset());
        let diagnostic =
            Diagnostic::of(&codes::UNKNOWN_ASSET, format!("no theme of the lineage has the asset \"{text}\""));
        let bare = text.trim_start_matches('/').trim_start_matches("assets/");
        if bare != text && self.asset(bare).is_some() {
            return diagnostic.help(format!("write \"{bare}\": assets/ is in front of it already"));
        }
        if text.trim_start_matches('/').starts_with("media/") {
            let path = text.trim_start_matches('/');
            return diagnostic.help(format!("an image of the site's media is image(\"/{path}\")"));
        }
        if self.site.reference(text).is_some() {
            return diagnostic.help(format!("the address of content is url(\"{text}\")"));
        }
        diagnostic.meaning(text, assets).or_help(|| format!("put the file at assets/{text} in a theme of the lineage"))
    }

    /// Layouts that don't exist, and whole documents inside a layout.
    pub(super) fn check_layouts(&mut self) {
        let mut found = Vec::new();
        for (id, file) in self.lineage.ids().filter(|(_, file)| matches!(file.role, Role::Template | Role::Layout)) {
            let stated = self.header(id).layout.clone();
            let own = stated.as_ref().is_some_and(|layout| layout.text == "none")
                || (stated.is_none() && file.role == Role::Layout);
            if let Some(layout) = stated.filter(|layout| {
                layout.text != "none" && self.lineage.nearest(&format!("layouts/{}.html", layout.text)).is_none()
            }) {
                let names = self.lineage.files.iter().filter_map(|file| file.name.layout());
                let message = format!("no theme of the lineage has the layout \"{}\"", layout.text);
                let diagnostic = Diagnostic::of(&codes::UNKNOWN_LAYOUT, message).meaning(&layout.text, names);
                let diagnostic = diagnostic.or_help(|| "a template without a layout says: layout: none".to_owned());
                found.push(diagnostic.at(&file.node.path, layout.span));
            }
            let swallows = |program: &Program| !program.takes_body && !program.continues;
            if file.role == Role::Layout && self.program(id).is_some_and(swallows) {
                let message = "this layout prints nothing of the template inside it";
                let diagnostic = Diagnostic::of(&codes::LAYOUT_WITHOUT_SLOT, message)
                    .help("write +{slot} where the template's output belongs");
                found.push(diagnostic.at(&file.node.path, Span::default()));
            }
            found.extend(self.ungiven(id));
            let document =
                self.program(id).and_then(|program| program.document).filter(|_| !own && !self.continues(id));
            if let Some(span) = document {
                let diagnostic = Diagnostic::of(
                    &codes::DOCUMENT_IN_LAYOUT,
                    "this is a whole document, and a layout would put another one around it",
                );
                found.push(
                    diagnostic
                        .help("say layout: none in the front matter, or leave out all but what is in <main>")
                        .at(&file.node.path, span),
                );
            }
        }
        self.problems.extend(found);
    }

    /// Templates that routes name and no theme has.
    pub(super) fn check_route_templates(&mut self) {
        let mut found = Vec::new();
        for (number, route) in self.site.routes.iter().enumerate() {
            let Some(template) = &route.config.template else { continue };
            let address = route.rows.first().map_or(&route.config.address.text, |row| &row.address);
            let format = route.config.format.or_else(|| Some(Ending::split(address)?.1)).unwrap_or_default();
            let name = format!("templates/route/{}.{}", template.text, format.word());
            if self.lineage.nearest(&name).is_some() || number > usize::from(u16::MAX) {
                continue;
            }
            let names = self.lineage.files.iter().filter_map(|file| {
                let (stem, of) = Ending::split(file.name.strip_prefix("templates/route/")?)?;
                (of == format).then_some(stem)
            });
            let message = format!("no theme of the lineage has templates/route/{}.{}", template.text, format.word());
            let diagnostic = Diagnostic::of(&codes::TEMPLATE_MISSING, message).meaning(&template.text, names);
            let help = || format!("create it with: hausblatt start template route/{}", template.text);
            found.push(diagnostic.or_help(help).at(&self.site.config.path, template.span));
        }
        self.problems.extend(found);
    }

    /// Parameters of a layout that no layout which extends it gives.
    fn ungiven(&self, id: FileId) -> Vec<Diagnostic> {
        let file = self.lineage.file(id);
        let unit = self.unit(id).filter(|_| file.role == Role::Layout);
        let Some(program) = self.program(id).filter(|program| unit.is_some() && program.states_parameters) else {
            return Vec::new();
        };
        let lost = program.parameters.iter().filter(|parameter| !self.is_given(unit, parameter.name));
        let at =
            file.node.text().and_then(|text| text.find("takes")).map_or(Span::default(), |at| Span::new(at, at + 5));
        let report = |name: &str| {
            let message = format!("no file gives this layout \"{name}\", so it always has its default");
            let help = "a layout that extends this one gives it with +{inherited given …}; a setting is for what a site decides";
            Diagnostic::of(&codes::UNGIVEN_PARAMETER, message).help(help).at(&file.node.path, at)
        };
        lost.map(|parameter| report(self.symbols.name(parameter.name))).collect()
    }

    /// Whether a layout that extends this one gives it a value of this name: its own, or one that it was given itself.
    fn is_given(&self, unit: Option<UnitId>, name: Symbol) -> bool {
        let units = (0..).zip(&self.library.units).filter(|(_, other)| other.next == unit);
        units.filter_map(|(id, other)| Some((id, other.program.as_ref()?))).any(|(id, program)| {
            let own = program.parameters.iter().any(|own| own.name == name);
            let by_call = program.calls.iter().flat_map(|call| &*call.given).any(|given| given.name == name);
            by_call || (own && (program.states_parameters || self.is_given(Some(id), name)))
        })
    }

    /// An error in a file that is hidden or covered is only a warning. Manifests are all in force.
    pub(crate) fn sort_problems(&mut self) {
        let asleep: Vec<Arc<str>> = self
            .lineage
            .ids()
            .filter(|(_, file)| *file.node.path != *self.lineage.themes[file.theme].manifest)
            .filter(|(id, file)| {
                file.hidden_by.is_some()
                    || (file.role != Role::Prepare
                        && self.lineage.nearest(&file.name) != Some(*id)
                        && !self.is_continued(*id))
            })
            .map(|(_, file)| file.node.path.clone())
            .collect();
        for problem in &mut self.problems {
            if problem.place.as_ref().is_some_and(|place| asleep.contains(&place.path)) {
                problem.severity = Severity::Warning;
            }
        }
        self.problems.sort_by(in_order);
    }

    /// Whether a nearer file of the same name extends this one.
    fn is_continued(&self, id: FileId) -> bool {
        let files: Vec<FileId> = self.lineage.not_hidden(&self.lineage.file(id).name).collect();
        let nearer = files.iter().take_while(|&&other| other != id);
        nearer.into_iter().all(|&other| self.continues(other))
    }
}
