//! The site as templates see it: the language's host, the global values and their records.

mod content;
mod fields;
mod given;
pub mod globals;
mod image;
mod listing;
mod menu;
mod request;
mod terms;

use hausblatt_lang::text::ending::Ending;
use hausblatt_lang::value::host::{Fit, Host};
use hausblatt_lang::value::language::Language;
use hausblatt_lang::value::shape::Interner;
use hausblatt_lang::value::tray::InTray;
use hausblatt_lang::value::{Record, Scratch, Value};
use jiff::tz::TimeZone;

use crate::model::content::ContentId;
use crate::themes::component::TrayItem;
use crate::world::World;

pub(crate) use content::ContentSeq;
pub(crate) use listing::newest;
pub use request::title;

use crate::render::dependencies::lasting_digest;

impl Host for World {
    fn symbols(&self) -> &Interner {
        &self.symbols
    }

    fn zone(&self) -> &TimeZone {
        &self.site.config.timezone
    }

    fn site_address(&self) -> &str {
        &self.site.config.address
    }

    fn url<'a>(&'a self, reference: &str, scratch: &Scratch<'a>) -> Option<&'a str> {
        if reference.starts_with('/') || reference.contains("://") {
            return Some(scratch.text(reference));
        }
        Some(scratch.text(&self.site.reference(reference)?))
    }

    fn asset<'a>(&'a self, path: &str, scratch: &Scratch<'a>) -> Option<&'a str> {
        // A component's own style and script are served below /assets/ too.
        let found = self.asset(path).or_else(|| self.component_asset(path));
        found.map(|_| scratch.text(&format!("/assets/{path}")))
    }

    fn inline<'a>(&'a self, path: &str, title: Option<&str>, scratch: &Scratch<'a>) -> Result<Option<&'a str>, String> {
        let Some(id) = self.asset(path) else { return Ok(None) };
        let told = |why: &str| format!("\"{path}\" can't be put into a page: {why}");
        if !path.ends_with(".svg") {
            return Err(told("only an SVG file can"));
        }
        let drawing =
            self.lineage.file(id).node.drawing(&format!("/assets/{path}")).as_ref().map_err(|why| told(why))?;
        let number = if drawing.has_ids() { scratch.next_number() } else { 0 };
        Ok(Some(scratch.text(&drawing.inline(number, title))))
    }

    fn language(&self) -> &Language {
        &self.language
    }

    fn image<'a>(&'a self, path: &str, scratch: &Scratch<'a>) -> Option<Value<'a>> {
        image::value(self, path, scratch)
    }

    fn fitted<'a>(&'a self, image: &'a dyn Record, fit: Fit<'_>, scratch: &Scratch<'a>) -> Result<Value<'a>, String> {
        image::fitted(self, image, fit, scratch)
    }

    fn srcset<'a>(&'a self, image: &'a dyn Record, widths: &[u32], scratch: &Scratch<'a>) -> Result<Value<'a>, String> {
        Ok(image::srcset(self, image, widths, scratch))
    }

    fn content<'a>(&'a self, reference: &str, scratch: &Scratch<'a>) -> Option<Value<'a>> {
        Some(content::value(self, self.site.referenced_content(reference)?, scratch))
    }

    fn tray<'a>(&'a self, content: u32, name: &str, scratch: &Scratch<'a>) -> &'a [InTray<'a>] {
        let Some(tray) = self.trays_of(ContentId(content)).iter().find(|tray| tray.name == name) else { return &[] };
        let in_tray = |placed: &'a TrayItem| match placed {
            TrayItem::Component(name, values) => {
                let unit = self.library.find_component(Ending::Html, name)?;
                let given: Vec<_> = values.iter().map(|(symbol, value)| (*symbol, value.value())).collect();
                Some(InTray::Component { unit, given: scratch.keep_all(&given) })
            }
            TrayItem::LeftOut(why) => Some(InTray::LeftOut(why)),
        };
        let placed: Vec<InTray<'a>> = tray.placed.iter().filter_map(in_tray).collect();
        scratch.keep_all(&placed)
    }

    fn content_of<'a>(&'a self, number: u32, scratch: &Scratch<'a>) -> Value<'a> {
        content::value(self, ContentId(number), scratch)
    }

    fn lasting_digest(&self, identity: (u32, u32)) -> u64 {
        lasting_digest(&self.site, identity)
    }

    fn converted<'a>(&'a self, field: u32, value: Value<'a>, scratch: &Scratch<'a>) -> Result<Value<'a>, String> {
        let Some((component, field)) = self.component_field(field) else { return Ok(value) };
        fields::converted(self, &field.of, value, scratch)
            .map_err(|why| format!("\"{}\" of the component \"{}\": {why}", field.name, component.name))
    }

    fn markdown<'a>(&'a self, text: &str, scratch: &Scratch<'a>) -> &'a str {
        scratch.text(&self.site.markdown(text, &self.site.config.path))
    }

    fn slug(&self, text: &str) -> String {
        crate::text::slug::slug(text)
    }
}
