//! Where a theme file is named: in templates, front matter, content, manifests, style sheets and scripts.

use std::io;

use hausblatt_lang::program::{Act, Callee, Mentioned};
use hausblatt_lang::text::ending::Ending;
use hausblatt_lang::text::source::{Place, Span};

use crate::change::rename::edits::Edits;
use crate::files::FileNode;
use crate::lookup::{loads, public};
use crate::text::address::{asked, encoded};
use crate::text::data::{Data, DataValue};
use crate::text::{scripts, styles};
use crate::themes::component::name_of;
use crate::themes::file_name::Role;
use crate::themes::lineage::FileId;
use crate::world::World;

/// What is renamed.
#[derive(Clone, Debug)]
pub(super) struct NewName {
    /// What it is.
    pub role: Role,
    /// Its name as those who ask for it write it.
    pub from: String,
    /// Its new one.
    pub to: String,
    /// Whether partials below it are renamed with it: `card/wide` with `card`.
    pub with_below: bool,
}

impl NewName {
    /// Whether it is a template.
    pub fn is_template(&self) -> bool {
        self.role == Role::Template
    }

    /// What comes of the name of a partial; none for one that stays.
    fn partial(&self, name: &str) -> Option<String> {
        let rest = name.strip_prefix(self.from.as_str())?;
        (rest.is_empty() || self.with_below && rest.starts_with('/')).then(|| format!("{}{rest}", self.to))
    }

    /// The path from the theme that a file of this path gets; none for a file that stays.
    pub fn path(&self, path: &str) -> Option<String> {
        let Self { role, from, to, .. } = self;
        match role {
            Role::Partial => {
                let (stem, ending) = Ending::split(path.strip_prefix("partials/")?)?;
                self.partial(stem).map(|name| format!("partials/{name}.{}", ending.word()))
            }
            Role::Layout => {
                (path.strip_prefix("layouts/")?.strip_suffix(".html")? == from).then(|| format!("layouts/{to}.html"))
            }
            Role::Component => {
                let (name, file) = path.strip_prefix("components/")?.split_once('/')?;
                (name == from).then(|| format!("components/{to}/{file}"))
            }
            Role::Template => (path.strip_prefix("templates/")? == from).then(|| format!("templates/{to}")),
            Role::Asset => (path.strip_prefix("assets/")? == from).then(|| format!("assets/{to}")),
            Role::Prepare => {
                (path.strip_prefix("prepare/")?.strip_suffix(".let")? == from).then(|| format!("prepare/{to}.let"))
            }
            Role::Other => None,
        }
    }

    /// What comes of an address below `/assets/`, decoded, without that; none for one that stays.
    pub fn below_assets(&self, below: &str) -> Option<String> {
        match self.role {
            Role::Asset => (below == self.from).then(|| self.to.clone()),
            Role::Component => {
                let file = below.strip_prefix("components/")?.strip_prefix(self.from.as_str())?.strip_prefix('/')?;
                Some(format!("components/{}/{file}", self.to))
            }
            _ => None,
        }
    }

    /// What comes of a name by which a partial is called; none for one that stays. `card/wide` is looked for as `card`, too.
    fn called(&self, world: &World, ending: Ending, name: &str) -> Option<String> {
        let (_, found) = world.library.find_partial(ending, name)?;
        let rest = name.strip_prefix(found)?;
        Some(self.partial(found)? + rest)
    }

    /// The name of an offered template before and after.
    pub fn offered(&self) -> Option<(&str, &str)> {
        let name =
            |name: &'_ str| -> Option<usize> { name.strip_prefix("offered/")?.strip_suffix(".html").map(str::len) };
        let of = |text| name(text).map(|length| (8, 8 + length));
        let ((start, end), (new_start, new_end)) = (of(&self.from)?, of(&self.to)?);
        Some((&self.from[start..end], &self.to[new_start..new_end]))
    }
}

/// What is found of a name.
#[derive(Default)]
pub(super) struct Found {
    /// The places that change.
    pub edits: Edits,
    /// Places that may mean it, and why that is not known.
    pub uncertain: Vec<(Place, String)>,
    /// Texts that are the same, by the paths of their files: whether they mean it only the pages can tell.
    pub same: Vec<(String, Span)>,
}

impl Found {
    /// Gives a place its new name; one that is written in a way of its own, as with escapes, is for a person.
    pub fn rename(&mut self, path: &str, text: &str, span: Span, old: &str, new: &str) {
        if !self.edits.add(path, text, span, old, new) {
            self.unsure(path, span, "it names this, written with escapes");
        }
    }

    /// Notes a text that is the name and may mean it.
    pub fn may_mean(&mut self, path: &str, span: Span) {
        let one = (path.to_owned(), span);
        if !self.same.contains(&one) {
            self.same.push(one);
        }
        self.unsure(path, span, "this text is the same, and may mean it");
    }

    pub fn unsure(&mut self, path: &str, span: Span, why: impl Into<String>) {
        let one = (Place { path: path.into(), span }, why.into());
        if !self.uncertain.contains(&one) {
            self.uncertain.push(one);
        }
    }
}

/// Adds the places where a World names what is renamed.
pub(super) fn collect(world: &World, name: &NewName, found: &mut Found) {
    for (id, file) in world.lineage.ids() {
        let path = &*file.node.path;
        in_program(world, id, name, found);
        if let Some(layout) = world.header(id).layout.as_ref().filter(|layout| layout.text == name.from)
            && name.role == Role::Layout
            && let Some(text) = file.node.text()
        {
            found.rename(path, text, layout.span, &name.from, &name.to);
        }
    }
    in_loads(world, name, found);
    for content in world.site.contents.iter() {
        let Some(text) = content.node.text() else { continue };
        if let (Some((chosen, span)), Some((from, to))) = (&content.template, name.offered())
            && **chosen == *from
        {
            found.rename(content.path(), text, *span, from, to);
        }
        if name.role == Role::Component {
            let front = content.node.front();
            let trays = front.entries.iter().filter(|entry| &*entry.key == "trays");
            trays.for_each(|entry| in_trays(content.path(), text, &entry.data, name, found));
        }
    }
}

/// Adds the places where manifests hide files that are renamed.
pub(super) fn hidden(world: &World, path: &dyn Fn(&str) -> Option<String>, found: &mut Found) {
    for theme in &world.lineage.themes {
        let Some(text) = world.snapshot.file(&theme.manifest).and_then(|node| node.text()) else { continue };
        for hide in &theme.hide {
            if let Some(new) = path(&hide.text) {
                found.rename(&theme.manifest, text, hide.span, &hide.text, &new);
            }
        }
    }
}

/// Adds the places where style sheets have a class of one of these names among their selectors.
pub(super) fn selectors(world: &World, names: &[String], found: &mut Found) {
    let is_name = |c: char| c.is_alphanumeric() || matches!(c, '-' | '_');
    for (_, node) in loads::style_sheets(world) {
        let Ok(text) = node.whole_text() else { continue };
        for name in names {
            let class = format!(".{name}");
            for (at, _) in text.match_indices(&class) {
                let end = at + class.len();
                let before = text[..at].chars().next_back();
                if !before.is_some_and(is_name) && !text[end..].chars().next().is_some_and(is_name) {
                    found.unsure(&node.path, Span::new(at, end), "a selector, which may mean a class of this name");
                }
            }
        }
    }
}

/// The components that content places.
fn in_trays(path: &str, text: &str, data: &Data, name: &NewName, found: &mut Found) {
    match &data.value {
        DataValue::List(members) => members.iter().for_each(|member| in_trays(path, text, member, name, found)),
        DataValue::Map(entries) => {
            for entry in entries {
                if &*entry.key == "component" && entry.data.as_text() == Some(&name.from) {
                    found.rename(path, text, entry.data.span, &name.from, &name.to);
                }
                in_trays(path, text, &entry.data, name, found);
            }
        }
        _ => {}
    }
}

fn in_program(world: &World, id: FileId, name: &NewName, found: &mut Found) {
    let file = world.lineage.file(id);
    let (path, Some(text)) = (&*file.node.path, file.node.text()) else { return };
    let Some(unit) = world.unit(id).and_then(|unit| world.library.unit(unit)) else { return };
    // What is wrong with it is reported; what it names is not known as a whole.
    if (unit.program.is_none() || !unit.is_sound) && text.contains(&name.from) {
        found.unsure(path, Span::default(), "it has an error, so what it names is not known");
    }
    let Some(program) = &unit.program else { return };
    for call in &program.calls {
        match (&call.callee, name.role) {
            (Callee::Named(called), Role::Partial) => {
                if let Some(new) = name.called(world, program.ending, called) {
                    found.rename(path, text, call.span, called, &new);
                }
            }
            (Callee::Computed(prefix, _), Role::Partial)
                if name.with_below && prefix.starts_with(&format!("{}/", name.from)) =>
            {
                let new = format!("{}{}", name.to, &prefix[name.from.len()..]);
                found.rename(path, text, call.span, prefix, &new);
            }
            (Callee::Computed(prefix, _), Role::Partial) => {
                let may_be =
                    format!("{}/", name.from).starts_with(prefix.as_str()) || name.from.starts_with(prefix.as_str());
                if may_be {
                    found.unsure(path, call.span, "the name of this partial is computed, and may be this one");
                }
            }
            (Callee::Component(called), Role::Component) if *called == name.from => {
                found.rename(path, text, call.span, called, &name.to);
            }
            _ => {}
        }
    }
    let mentions = program.mentions.iter().filter(|mention| mention.what == Mentioned::Asset);
    let mentions = mentions.map(|mention| (mention.text.as_str(), mention.span));
    let uses = program.ops.iter().zip(&program.spans).filter_map(|(op, span)| match op.act {
        Act::Use(kept) => Some((program.kept(kept), *span)),
        _ => None,
    });
    for (asset, span) in mentions.chain(uses) {
        if let Some(new) = name.below_assets(asset) {
            found.rename(path, text, span, asset, &new);
        }
    }
}

/// What a style sheet or a script loads by an address that is relative, or that becomes so where the file itself moves.
fn in_loads(world: &World, name: &NewName, found: &mut Found) {
    if matches!(name.role, Role::Asset | Role::Component) {
        let files = loads::style_sheets(world).chain(loads::scripts(world));
        files.for_each(|(path, node)| in_loads_of(world, &path, node, name, found));
    }
}

fn in_loads_of(world: &World, path: &str, node: &FileNode, name: &NewName, found: &mut Found) {
    let base = public::base_of(world, path);
    let moved = |at: &str| Some(format!("/assets/{}", name.below_assets(at.strip_prefix("/assets/")?)?));
    let new_base = moved(&base);
    for load in loads::loads(path, node) {
        // An address from the root is found wherever it is written.
        if load.address.trim_start().starts_with('/') || load.address.contains(':') {
            continue;
        }
        let Some(to) = loads::loaded_path(world, &base, load.address).map(|to| asked(&to).path) else { continue };
        let new = moved(&to);
        if new.is_none() && new_base.is_none() {
            continue;
        }
        let behind = load.address.find(['?', '#']).map_or("", |at| &load.address[at..]);
        let target = encoded(&new.unwrap_or(to));
        let mut address = relative(&encoded(new_base.as_deref().unwrap_or(&base)), &target) + behind;
        // What a module imports is an address only with this.
        if loads::is_script(path) && !address.starts_with('.') {
            address.insert_str(0, "./");
        }
        if address != load.address {
            let Ok(text) = node.whole_text() else { continue };
            let written = if loads::is_script(path) { scripts::written_address } else { styles::written_address };
            let Some(old) = text.get(load.span.range()) else { continue };
            found.edits.set(&node.path, load.span, written(old, &address));
        }
    }
}

/// An address from the root as one relative to another one.
pub(super) fn relative(base: &str, to: &str) -> String {
    let folder: Vec<&str> = base.split('/').collect();
    let folder = &folder[..folder.len() - 1];
    let target: Vec<&str> = to.split('/').collect();
    let last = target.len() - 1;
    let same = folder.iter().zip(&target[..last]).take_while(|(a, b)| a == b).count();
    let up = std::iter::repeat_n("..", folder.len() - same);
    up.chain(target[same..].iter().copied()).collect::<Vec<_>>().join("/")
}

/// Adds the places where files of the site write the address of what is renamed from the root, with escapes or without.
pub(super) fn collect_addresses(world: &World, name: &NewName, found: &mut Found) {
    if !matches!(name.role, Role::Asset | Role::Component) {
        return;
    }
    let is_text = |path: &str| {
        let endings = [".html", ".xml", ".json", ".txt", ".let", ".css", ".js", ".mjs", ".md", ".toml", ".svg"];
        endings.iter().any(|ending| path.ends_with(ending)) && !path.contains("/.")
    };
    for node in world.snapshot.files().iter().filter(|node| is_text(&node.path)) {
        let text = match node.whole_text() {
            Ok(text) => text,
            // What is no text names nothing.
            Err(error) if error.kind() == io::ErrorKind::InvalidData => continue,
            Err(error) => {
                found.unsure(&node.path, Span::default(), format!("it can't be read: {error}"));
                continue;
            }
        };
        for (at, _) in text.match_indices(ASSETS) {
            let before = text[..at].chars().next_back();
            if before.is_some_and(|c| c.is_alphanumeric() || matches!(c, '-' | '_' | '.')) {
                continue;
            }
            let below = at + ASSETS.len();
            for end in [below + quoted(&text[..at], &text[below..]), below + bare(&text[below..])] {
                let written = &text[below..end];
                let Some(new) = name.below_assets(asked(&format!("/{written}")).path.trim_start_matches('/')) else {
                    continue;
                };
                let new = if written.contains(' ') { new } else { encoded(&new) };
                found.edits.set(&node.path, Span::new(below, end), new);
                break;
            }
        }
    }
}

/// Where assets are.
const ASSETS: &str = "/assets/";

/// How long a path is that goes on to the quote which is in front of it; nothing without one.
pub(super) fn quoted(before: &str, rest: &str) -> usize {
    let quote = before.chars().next_back().filter(|quote| matches!(quote, '"' | '\'' | '`'));
    let end = quote.and_then(|quote| rest.find([quote, '\n', '?', '#']));
    end.unwrap_or(0)
}

/// How long a path is that nothing encloses.
pub(super) fn bare(rest: &str) -> usize {
    let ends =
        |c: char| c.is_whitespace() || matches!(c, '"' | '\'' | '`' | '(' | ')' | '<' | '>' | '?' | '#' | ',' | ';');
    rest.find(ends).unwrap_or(rest.len())
}

/// The name of a file, as those write it who name it.
pub(super) fn name_of_file(role: Role, path: &str) -> Option<String> {
    let stem = |path: &str| Ending::split(path).map(|(stem, _)| stem.to_owned());
    match role {
        Role::Partial => stem(path.strip_prefix("partials/")?),
        Role::Layout => Some(path.strip_prefix("layouts/")?.strip_suffix(".html")?.to_owned()),
        Role::Component => name_of(path).map(str::to_owned),
        Role::Template => Some(path.strip_prefix("templates/")?.to_owned()),
        Role::Asset => Some(path.strip_prefix("assets/")?.to_owned()),
        Role::Prepare => Some(path.strip_prefix("prepare/")?.strip_suffix(".let")?.to_owned()),
        Role::Other => None,
    }
}
