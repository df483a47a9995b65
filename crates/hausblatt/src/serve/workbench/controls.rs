//! Controls of forms for values of each type, and their values read again.

use hausblatt_core::model::content::Section;
use hausblatt_core::schema::fields::FieldType;
use hausblatt_core::text::address::encoded;
use hausblatt_core::text::data::{Data, DataValue, yaml};
use hausblatt_core::text::front::one_line;
use hausblatt_core::world::World;
use hausblatt_lang::value::datum::Datum;

use crate::html::{Exact, Markup};
use crate::put;

/// So many pages, entries or files are offered to choose from; the others are typed.
const OFFERED: usize = 300;
/// So many images are shown to choose from.
const SHOWN: usize = 60;

/// A control.
pub struct Control<'c> {
    /// Its name in the form.
    pub name: &'c str,
    /// What it is called.
    pub label: &'c str,
    /// What its values are.
    pub of: &'c FieldType,
    /// Its value as it would be typed on a command line.
    pub value: &'c str,
    /// Whether it may have no value at all.
    pub is_optional: bool,
    /// The id of what says more of it, if anything does.
    pub described_by: Option<&'c str>,
}

impl Control<'_> {
    /// It as HTML.
    pub fn html(&self, world: &World) -> Markup {
        let mut out = Markup::new();
        put!(
            out,
            "<label for=\"{}\">{} <span class=\"faint\">{}</span></label>\n",
            self.name,
            self.label,
            self.of.word()
        );
        put!(out, "{}\n", self.input(world));
        out
    }

    fn described(&self) -> Markup {
        let mut out = Markup::new();
        if let Some(id) = self.described_by {
            put!(out, " aria-describedby=\"{}\"", id);
        }
        out
    }

    fn input(&self, world: &World) -> Markup {
        let mut out = Markup::new();
        let (name, value, described) = (self.name, Exact(self.value), self.described());
        match self.of {
            FieldType::Rich | FieldType::List(_) | FieldType::Group(_) | FieldType::Unknown => {
                let rows: usize = if *self.of == FieldType::Rich { 5 } else { 3 };
                put!(
                    out,
                    "<textarea id=\"{}\" name=\"{}\" rows=\"{}\"{}>\n{}</textarea>",
                    name,
                    name,
                    rows,
                    described,
                    value
                );
            }
            FieldType::Text if self.value.contains('\n') => {
                put!(out, "<textarea id=\"{}\" name=\"{}\" rows=\"4\"{}>\n{}</textarea>", name, name, described, value);
            }
            // What is neither stays as it is until another value is typed.
            FieldType::YesNo if !matches!(self.value, "" | "true" | "false") => {
                put!(out, "{}", self.text("true or false", None));
            }
            FieldType::YesNo => {
                let checked = Markup::raw(if self.value == "true" { " checked" } else { "" });
                put!(
                    out,
                    "<input type=\"hidden\" name=\"{}\" value=\"false\"><input type=\"checkbox\" role=\"switch\" \
                     id=\"{}\" name=\"{}\" value=\"true\"{}{}>",
                    name,
                    name,
                    name,
                    checked,
                    described
                );
            }
            FieldType::Choice(choices) => {
                let choices: Vec<(String, String)> =
                    choices.iter().map(|choice| (choice.clone(), choice.clone())).collect();
                put!(out, "{}", self.select(&choices));
            }
            FieldType::Page => put!(out, "{}", self.of_content(world, Section::Pages)),
            FieldType::Entry(collection) => match world.site.collection(collection) {
                Some((number, _)) => put!(out, "{}", self.of_content(world, Section::Collection(number))),
                None => put!(out, "{}", self.text("", None)),
            },
            FieldType::Number(least, most) => {
                let mut bounds = Markup::raw(" inputmode=\"decimal\"");
                if let Some(least) = least {
                    put!(bounds, " data-least=\"{}\"", *least);
                }
                if let Some(most) = most {
                    put!(bounds, " data-most=\"{}\"", *most);
                }
                put!(out, "<input id=\"{}\" name=\"{}\" value=\"{}\"{}{}>", name, name, value, bounds, described);
                match (least, most) {
                    (Some(least), Some(most)) => {
                        put!(out, " <span class=\"faint\">{} to {}</span>", *least, *most);
                    }
                    (Some(least), None) => put!(out, " <span class=\"faint\">at least {}</span>", *least),
                    (None, Some(most)) => put!(out, " <span class=\"faint\">at most {}</span>", *most),
                    (None, None) => {}
                }
            }
            FieldType::Color => {
                put!(
                    out,
                    "<span class=\"color\"><input id=\"{}\" name=\"{}\" value=\"{}\" placeholder=\"#2f6f4e\"{}>\
                     <input type=\"color\" data-fills=\"{}\" value=\"{}\" aria-label=\"{}: choose a colour\" hidden></span>",
                    name,
                    name,
                    value,
                    described,
                    name,
                    six_digits(self.value),
                    self.label
                );
            }
            FieldType::Date => put!(out, "{}", self.text("2026-03-14", None)),
            FieldType::Image => put!(out, "{}", self.image(world)),
            FieldType::Link => {
                let list = format!("{name}-list");
                put!(out, "{}<datalist id=\"{}\">", self.text("page:visit, or an address", Some(&list)), list);
                for reference in world.site.references().take(OFFERED) {
                    put!(out, "<option value=\"{}\"></option>", reference);
                }
                put!(out, "</datalist>");
            }
            FieldType::Text => put!(out, "{}", self.text("", None)),
        }
        out
    }

    fn text(&self, placeholder: &str, list: Option<&str>) -> Markup {
        let mut out = Markup::new();
        put!(out, "<input id=\"{}\" name=\"{}\" value=\"{}\"", self.name, self.name, Exact(self.value));
        if !placeholder.is_empty() {
            put!(out, " placeholder=\"{}\"", placeholder);
        }
        if let Some(list) = list {
            put!(out, " list=\"{}\"", list);
        }
        put!(out, "{}>", self.described());
        out
    }

    /// One of several: what is given is among them, so that nothing is lost by looking.
    fn select(&self, choices: &[(String, String)]) -> Markup {
        let mut out = Markup::new();
        put!(out, "<select id=\"{}\" name=\"{}\"{}>", self.name, self.name, self.described());
        if self.is_optional || self.value.is_empty() {
            put!(out, "<option value=\"\">(none)</option>");
        }
        if !self.value.is_empty() && !choices.iter().any(|(value, _)| value == self.value) {
            put!(out, "<option value=\"{}\" selected>{}</option>", Exact(self.value), self.value);
        }
        for (value, label) in choices {
            let selected = Markup::raw(if value == self.value { " selected" } else { "" });
            put!(out, "<option value=\"{}\"{}>{}</option>", Exact(value), selected, label);
        }
        put!(out, "</select>");
        out
    }

    fn of_content(&self, world: &World, home: Section) -> Markup {
        let all = world.site.contents.iter().filter(|content| content.home == home);
        let mut choices: Vec<(String, String)> =
            all.map(|content| (content.id.to_string(), format!("{} ({})", content.title, content.id))).collect();
        choices.sort();
        if choices.len() <= OFFERED {
            return self.select(&choices);
        }
        let list = format!("{}-list", self.name);
        let mut out = self.text("its id", Some(&list));
        put!(out, "<datalist id=\"{}\">", list);
        for (value, label) in choices.iter().take(OFFERED) {
            put!(out, "<option value=\"{}\">{}</option>", value, label);
        }
        put!(out, "</datalist>");
        out
    }

    /// A file, what it shows in words, and images to choose from.
    fn image(&self, world: &World) -> Markup {
        let image = ImageText::read(self.value);
        let mut out = Markup::new();
        let (name, list) = (self.name, format!("{}-list", self.name));
        put!(
            out,
            "<input id=\"{}\" name=\"{}\" value=\"{}\" placeholder=\"/media/…\" list=\"{}\"{}>\n<datalist id=\"{}\">",
            name,
            name,
            Exact(&image.file),
            list,
            self.described(),
            list
        );
        let files: Vec<String> =
            world.snapshot.below("media/").map(|node| node.path.to_string()).filter(|path| is_image(path)).collect();
        for path in files.iter().take(OFFERED) {
            put!(out, "<option value=\"/{}\"></option>", path);
        }
        put!(
            out,
            "</datalist>\n<label for=\"{}.alt\">{} <span class=\"faint\">alt: what it shows</span></label>\n\
             <input id=\"{}.alt\" name=\"{}.alt\" value=\"{}\">\n\
             <label class=\"check\"><input type=\"checkbox\" name=\"{}.decoration\" value=\"yes\"{}> It is decoration: alt is empty</label>\n",
            name,
            self.label,
            name,
            name,
            Exact(image.alt.as_deref().unwrap_or("")),
            name,
            Markup::raw(if image.alt.as_deref() == Some("") { " checked" } else { "" })
        );
        if files.is_empty() {
            return out;
        }
        put!(out, "<details class=\"images\" data-script hidden><summary>Choose an image</summary>\n<p>");
        for path in files.iter().take(SHOWN) {
            put!(
                out,
                "<button type=\"button\" data-fill=\"{}\" data-value=\"/{}\"><img src=\"{}\" alt=\"\" loading=\"lazy\"><span>{}</span></button>\n",
                name,
                path,
                encoded(&format!("/{path}")),
                path.trim_start_matches("media/")
            );
        }
        put!(out, "</p>\n");
        if files.len() > SHOWN {
            put!(out, "<p>… and {} more: type the beginning of the name above.</p>\n", files.len() - SHOWN);
        }
        put!(out, "</details>");
        out
    }
}

fn is_image(path: &str) -> bool {
    let ending = path.rsplit('.').next().unwrap_or("").to_ascii_lowercase();
    matches!(ending.as_str(), "svg" | "png" | "jpg" | "jpeg" | "webp" | "gif" | "avif")
}

/// A colour as the browser's own control takes it.
fn six_digits(value: &str) -> String {
    let digits = value.strip_prefix('#').filter(|digits| digits.bytes().all(|byte| byte.is_ascii_hexdigit()));
    match digits {
        Some(digits) if digits.len() == 6 => format!("#{digits}"),
        Some(digits) if digits.len() == 3 => {
            format!("#{}", digits.chars().flat_map(|digit| [digit, digit]).collect::<String>())
        }
        _ => "#808080".to_owned(),
    }
}

/// An image as it is typed: its file, and its text if it has one.
struct ImageText {
    file: String,
    alt: Option<String>,
}

impl ImageText {
    fn read(typed: &str) -> Self {
        let data = typed.trim_start().starts_with('{').then(|| hausblatt_core::text::front::yaml(typed).ok()).flatten();
        let Some(keys) = data.as_ref().and_then(Data::as_map) else {
            return Self { file: typed.to_owned(), alt: None };
        };
        let of = |key: &str| {
            let found = keys.iter().find(|entry| &*entry.key == key)?;
            found.data.as_text().map(str::to_owned)
        };
        Self { file: of("file").unwrap_or_default(), alt: of("alt") }
    }

    fn written(&self) -> String {
        match &self.alt {
            None => self.file.clone(),
            Some(alt) => format!("{{ file: {}, alt: {} }}", yaml(&self.file), yaml(alt)),
        }
    }
}

/// The value that a form gives a control, as it would be typed; none where the form has no such control.
pub fn given(pairs: &[(String, String)], name: &str, of: &FieldType) -> Option<String> {
    // Of a switch both are sent; the later one counts.
    let last = |name: &str| pairs.iter().rev().find(|(other, _)| other == name).map(|(_, value)| value);
    let value = crate::serve::edits::unix_lines(last(name)?);
    if *of != FieldType::Image || value.is_empty() {
        return Some(value);
    }
    let alt = last(&format!("{name}.alt")).cloned().unwrap_or_default();
    let is_decoration = last(&format!("{name}.decoration")).is_some();
    let alt = (!alt.is_empty() || is_decoration).then_some(alt);
    Some(ImageText { file: value, alt }.written())
}

/// A value as it would be typed.
pub fn typed(data: &Data) -> String {
    match &data.value {
        DataValue::Nothing => String::new(),
        _ => one_line(data),
    }
}

/// A value as it would be typed, where only that is known which came of reading it.
pub fn typed_datum(value: &Datum) -> String {
    match value {
        Datum::Text(text) => text.to_string(),
        Datum::Int(number) => number.to_string(),
        Datum::Float(number) => number.to_string(),
        Datum::Bool(truth) => truth.to_string(),
        Datum::Date(moment) => moment.to_string(),
        _ => String::new(),
    }
}
