//! Components called from templates: what a call gives is converted to the declared types of the fields, as what content
//! gives is. Literals are converted once, here; what is computed is converted when a page is rendered.

use std::sync::Arc;

use hausblatt_lang::library::Fit;
use hausblatt_lang::program::{CallSite, Callee, Code, Given, Program, Step};
use hausblatt_lang::text::codes as lang_codes;
use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::source::{Place, Span};
use hausblatt_lang::value::datum::Datum;

use crate::model::site::Link;
use crate::schema::fields::{self, Conversion, Field, FieldType};
use crate::text::codes;
use crate::text::data::{Data, DataValue, Entry};
use crate::themes::component::Component;
use crate::themes::site_file::file_of;
use crate::world::World;

impl World {
    /// Says for each call of a component how what it gives becomes its fields; what does not fit is reported at the call.
    pub(super) fn fit_component_calls(&mut self) {
        let (mut found, mut fitting) = (Vec::new(), Vec::new());
        for (at, unit) in self.library.units.iter().enumerate() {
            let Some(program) = &unit.program else { continue };
            for (number, call) in program.calls.iter().enumerate() {
                let Callee::Component(name) = &call.callee else { continue };
                let component = self.components.iter().find(|it| it.name == *name && it.unreadable.is_none());
                if let Some(component) = component {
                    fitting.push((at, number, self.fits(program, call, component, &mut found)));
                }
            }
        }
        for (unit, call, fits) in fitting {
            if let Some(Some(link)) = self.library.units[unit].callees.get_mut(call) {
                link.fits = fits;
            }
        }
        self.problems.extend(found);
    }

    /// How each value that a call gives becomes one of its field.
    fn fits(&self, program: &Program, call: &CallSite, to: &Component, found: &mut Vec<Diagnostic>) -> Box<[Fit]> {
        let at_name = |span| Place { path: program.path.clone(), span };
        let fit = |given: &Given| {
            let name = self.symbols.name(given.name);
            let Some(at) = to.fields.iter().position(|field| field.name == name) else { return Fit::AsItIs };
            let field = &to.fields[at];
            if !is_converted(&field.of) {
                return Fit::AsItIs;
            }
            let Some(literal) = self.literal(program, given.value) else {
                return self.field_number(to, at).map_or(Fit::AsItIs, Fit::Converted);
            };
            match self.converted_literal(field, &literal, &program.path) {
                Ok(datum) => Fit::Constant(datum),
                // That its type is another one is reported already.
                Err(_) if self.problems.iter().any(|it| it.place.as_ref() == Some(&at_name(given.span))) => Fit::AsItIs,
                Err(wrong) => {
                    let (diagnostic, span) = *wrong;
                    let message = format!("\"{name}\" of the component \"{}\": {}", to.name, diagnostic.message);
                    found.push(Diagnostic { message, ..diagnostic }.at(&program.path, span));
                    Fit::AsItIs
                }
            }
        };
        call.given.iter().map(fit).collect()
    }

    fn converted_literal(
        &self,
        field: &Field,
        literal: &Data,
        path: &Arc<str>,
    ) -> Result<Datum, Box<(Diagnostic, Span)>> {
        let pictures = |address: &str| file_of(&self.snapshot, &self.lineage, address);
        let conversion = Conversion { zone: &self.site.config.timezone, pictures: &pictures };
        let value = fields::convert(&field.of, literal, &conversion)
            .map_err(|(span, message)| Box::new((Diagnostic::of(&lang_codes::WRONG_TYPE, message), span)))?;
        if let (FieldType::Link, Some(text)) = (&field.of, literal.as_text())
            && let Link::Dead(message, _) = self.site.link(text, path)
        {
            return Err(Box::new((
                Diagnostic::of(&lang_codes::DEAD_REFERENCE, message).maybe_help(self.site.nearest_reference(text)),
                literal.span,
            )));
        }
        if let (FieldType::Image, Some(text)) = (&field.of, literal.as_text()) {
            let address = fields::picture_address(text);
            let is_local = ["/media/", "/assets/"].iter().any(|folder| address.starts_with(folder));
            if is_local && pictures(&address).is_none() {
                let near = self.snapshot.below("media/").map(|node| &*node.path);
                let missing = Diagnostic::of(
                    &codes::MISSING_MEDIA,
                    format!("there is no file {}", address.trim_start_matches('/')),
                );
                return Err(Box::new((missing.meaning(text, near), literal.span)));
            }
        }
        Ok(self.site.settled(&field.of, value, path))
    }

    /// A value that is written out, as data.
    fn literal(&self, program: &Program, code: Code) -> Option<Data> {
        let span = *program.code_spans.get(code.0 as usize)?;
        let arguments = |start: u32, count: u16| {
            let from = start as usize;
            program.arguments.get(from..from + usize::from(count)).unwrap_or_default().iter().copied()
        };
        let value = match *program.codes.get(code.0 as usize)? {
            Step::Nothing => DataValue::Nothing,
            Step::Bool(truth) => DataValue::Bool(truth),
            Step::Int(number) => DataValue::Int(number),
            Step::Float(number) => DataValue::Float(number),
            Step::Text(text) => DataValue::Text(program.kept(text).into()),
            Step::Negate(number) => match self.literal(program, number)?.value {
                DataValue::Int(number) => DataValue::Int(number.checked_neg()?),
                DataValue::Float(number) => DataValue::Float(-number),
                _ => return None,
            },
            Step::List(members) => {
                let members = arguments(members.start, members.count).map(|member| self.literal(program, member));
                DataValue::List(members.collect::<Option<_>>()?)
            }
            Step::Record(names, values) => {
                let names = program.record_names.get(names as usize)?;
                let entries = names.iter().zip(arguments(values.start, values.count)).map(|(&name, value)| {
                    let data = self.literal(program, value)?;
                    Some(Entry { key: self.symbols.name(name).into(), span: data.span, data })
                });
                DataValue::Map(entries.collect::<Option<_>>()?)
            }
            _ => return None,
        };
        Some(Data { span, value })
    }

    /// The number of a component's field among those of all components.
    fn field_number(&self, component: &Component, at: usize) -> Option<u32> {
        let before = self.components.iter().take_while(|other| other.name != component.name);
        u32::try_from(before.map(|other| other.fields.len()).sum::<usize>() + at).ok()
    }

    /// The component's field of a number, and the component's name.
    pub(crate) fn component_field(&self, number: u32) -> Option<(&Component, &Field)> {
        let mut left = number as usize;
        self.components.iter().find_map(|component| {
            let field = component.fields.get(left);
            left = left.saturating_sub(component.fields.len());
            Some((component, field?))
        })
    }
}

/// Whether a value of this type may have to become another one.
fn is_converted(of: &FieldType) -> bool {
    !matches!(of, FieldType::Text | FieldType::Unknown | FieldType::Number(None, None))
}
