//! Where the names of a site are used: in templates, configuration, manifests and content.

use std::collections::{BTreeMap, BTreeSet};

use hausblatt_lang::compile;
use hausblatt_lang::library::UnitId;
use hausblatt_lang::program::{Callee, Meaning, Mentioned, Program, Step};
use hausblatt_lang::text::source::Span;
use hausblatt_lang::types::RecordId;
use hausblatt_lang::value::shape::Symbol;

use crate::analysis::expect;
use crate::change::rename::collect::{Found, NewName, collect};
use crate::change::rename::thing::{Thing, extension, table_path};
use crate::lookup::resolution::LayoutChoice;
use crate::model::content::{Content, Section};
use crate::model::request::ListingOf;
use crate::model::taxonomy::TermId;
use crate::schema::config;
use crate::schema::fields::FieldType;
use crate::text::data::{Data, DataValue, Entry};
use crate::text::markdown;
use crate::text::slug::{slug, title_of};
use crate::text::toml_places::{TomlPlace, bare, places};
use crate::themes::file_name::Role;
use crate::themes::lineage::FileId;
use crate::themes::theme;
use crate::world::World;

/// A renaming of something that is no file of a theme.
pub(super) struct Naming {
    /// What it is.
    pub thing: Thing,
    /// Its name.
    pub from: String,
    /// Its new one.
    pub to: String,
    /// The theme files whose slots or parameters are meant, by their names.
    pub family: BTreeSet<String>,
    /// The theme files that are renamed with it.
    pub files: Vec<NewName>,
    /// The files that move with it, by path.
    pub moved: BTreeMap<String, String>,
    /// What has the same address, and is renamed with it: the page that introduces the listing of a term.
    pub also: Option<Box<Naming>>,
}

impl Naming {
    /// The renaming, with the files that it moves in these Worlds.
    pub fn new(worlds: &[&World], thing: Thing, from: &str, to: &str) -> Self {
        let mut naming = Self {
            thing,
            from: from.to_owned(),
            to: to.to_owned(),
            family: BTreeSet::new(),
            files: Vec::new(),
            moved: BTreeMap::new(),
            also: None,
        };
        naming.family = family(worlds, &naming);
        naming.files = worlds.iter().fold(Vec::new(), |mut files: Vec<NewName>, world| {
            let new = naming.files_of(world);
            new.into_iter().for_each(|file| {
                if !files.iter().any(|known| (known.role, &known.from) == (file.role, &file.from)) {
                    files.push(file);
                }
            });
            files
        });
        if let Some(world) = worlds.first() {
            naming.moved = naming.moved_in(world);
            naming.also =
                naming.introduction(world).map(|(id, new)| Box::new(Self::new(worlds, Thing::Page, &id, &new)));
        }
        if let Some(also) = &naming.also {
            naming.files.extend(also.files.iter().cloned());
            naming.moved.extend(also.moved.clone());
        }
        naming
    }

    /// It, and what is renamed with it.
    pub fn each(&self) -> impl Iterator<Item = &Self> {
        std::iter::once(self).chain(self.also.as_deref())
    }

    /// The page that introduces the listing of a term and is called like it, with its new id.
    fn introduction(&self, world: &World) -> Option<(String, String)> {
        let Thing::Term(of) = &self.thing else { return None };
        let (number, taxonomy) = world.site.taxonomy(of)?;
        let id = TermId { taxonomy: number, term: taxonomy.find(&self.from)? };
        let page = world.site.content(*world.site.introductions.get(&ListingOf::Term(id))?);
        let new = match page.id.rsplit_once('/') {
            Some((head, last)) if last == self.from => format!("{head}/{}", self.to),
            None if *page.id == *self.from => self.to.clone(),
            _ => return None,
        };
        Some((page.id.to_string(), new))
    }

    /// What comes of an id, if it is the renamed one or below it.
    fn id(&self, id: &str) -> Option<String> {
        let rest = id.strip_prefix(self.from.as_str())?;
        (rest.is_empty() || self.thing == Thing::Page && rest.starts_with('/')).then(|| format!("{}{rest}", self.to))
    }

    /// What comes of a template's name below `templates/`, without its view and extension; none for one that stays.
    fn template(&self, stem: &str) -> Option<String> {
        let swapped = |head: &str, from: &str, to: &str| {
            let rest = stem.strip_prefix(head)?.strip_prefix(from)?;
            (rest.is_empty() || rest.starts_with('/')).then(|| format!("{head}{to}{rest}"))
        };
        let (from, to) = (self.from.as_str(), self.to.as_str());
        match &self.thing {
            Thing::Page => swapped("page/", from, to),
            Thing::Entry(of) => swapped(&format!("entry/{of}/"), from, to),
            Thing::Route => swapped("route/", from, to),
            Thing::Collection => ["entry/", "listing/", "period/"].iter().find_map(|kind| swapped(kind, from, to)),
            Thing::Taxonomy => swapped("listing/", from, to),
            Thing::Term(of) => swapped(&format!("listing/{of}/"), from, to),
            _ => None,
        }
    }

    /// What comes of a template's name that one of the site's own ladders makes of the name.
    fn on_own_ladder(&self, world: &World, stem: &str) -> Option<String> {
        let own = |kind: &str| -> Vec<String> {
            match &self.thing {
                Thing::Page if matches!(kind, "page" | "front") => vec!["id".to_owned()],
                Thing::Entry(_) if kind == "entry" => vec!["id".to_owned()],
                Thing::Collection => vec!["collection".to_owned()],
                Thing::Taxonomy if kind == "listing" => vec!["taxonomy".to_owned()],
                Thing::Term(of) if kind == "listing" => vec!["term".to_owned(), of.clone()],
                Thing::Term(of) => vec![of.clone()],
                Thing::Route if kind == "route" => vec!["name".to_owned()],
                _ => Vec::new(),
            }
        };
        for (kind, patterns) in world.site.config.ladders.all() {
            for (pattern, name) in
                patterns.iter().flat_map(|pattern| own(kind).into_iter().map(move |name| (pattern, name)))
            {
                let Some((before, behind)) = pattern.split_once(&format!("{{{name}}}")) else { continue };
                for (at, _) in stem.match_indices(&self.from) {
                    let rest = &stem[at + self.from.len()..];
                    if fits(before, &stem[..at]) && fits(behind, rest) {
                        return Some(format!("{}{}{rest}", &stem[..at], self.to));
                    }
                }
            }
        }
        None
    }

    /// The theme files that are renamed with it.
    fn files_of(&self, world: &World) -> Vec<NewName> {
        let mut files = Vec::new();
        let new = |role, from: &str, to: String| NewName { role, from: from.to_owned(), to, with_below: false };
        for (_, file) in world.lineage.ids() {
            if let Some(name) = file.name.template() {
                let (head, last) = name.rsplit_once('/').map_or(("", name), |(head, last)| (head, last));
                let (stem, dots) = last.split_at(last.find('.').unwrap_or(last.len()));
                let full = if head.is_empty() { stem.to_owned() } else { format!("{head}/{stem}") };
                let renamed = match (&self.thing, dots.strip_prefix('.').and_then(|rest| rest.split_once('.'))) {
                    (Thing::View(_), Some((view, rest))) if view == self.from => {
                        Some(format!("{full}.{}.{rest}", self.to))
                    }
                    (Thing::View(_), _) => None,
                    _ => self.template(&full).or_else(|| self.on_own_ladder(world, &full)).map(|new| new + dots),
                };
                files.extend(renamed.map(|to| new(Role::Template, name, to)));
            }
            if let (Thing::Collection, Some((name, _))) = (&self.thing, file.name.partial()) {
                let behind = |prefix: &String| name.strip_prefix(prefix.as_str()) == Some(&self.from);
                let prefix = prefixes_of_collections(world).into_iter().find(behind);
                files.extend(prefix.map(|prefix| new(Role::Partial, name, format!("{prefix}{}", self.to))));
            }
        }
        files
    }

    /// The files of the site that move with it, by path.
    fn moved_in(&self, world: &World) -> BTreeMap<String, String> {
        let (from, to) = (&self.from, &self.to);
        let mut moved = BTreeMap::new();
        match &self.thing {
            Thing::Table => {
                let path = table_path(world, from);
                moved.insert(path.clone(), format!("tables/{to}{}", extension(&path)));
            }
            Thing::Media => {
                moved.insert(format!("media/{from}"), format!("media/{to}"));
            }
            Thing::Theme => {
                for node in world.snapshot.below(&format!("themes/{from}/")) {
                    let rest = &node.path[format!("themes/{from}/").len()..];
                    moved.insert(node.path.to_string(), format!("themes/{to}/{rest}"));
                }
            }
            Thing::Collection => {
                for node in world.snapshot.below(&format!("content/{from}/")) {
                    let rest = &node.path[format!("content/{from}/").len()..];
                    moved.insert(node.path.to_string(), format!("content/{to}/{rest}"));
                }
            }
            Thing::Page | Thing::Entry(_) => {
                for content in world.site.contents.iter().filter(|content| self.is_home(world, content)) {
                    let Some(new) = self.id(&content.id) else { continue };
                    let path = content.path();
                    // The date in front of an entry's name stays.
                    let Some(before) = path.strip_suffix(&format!("{}.md", content.id)) else {
                        let (folder, last) = content.id.rsplit_once('/').unwrap_or(("", &content.id));
                        let file = path.rsplit('/').next().unwrap_or(path);
                        let (new_folder, new_last) = new.rsplit_once('/').unwrap_or(("", &new));
                        let date = file.strip_suffix(&format!("{last}.md")).unwrap_or("");
                        let home = path.strip_suffix(file).and_then(|home| home.strip_suffix(&slashed(folder)));
                        if let Some(home) = home {
                            moved.insert(path.to_string(), format!("{home}{}{date}{new_last}.md", slashed(new_folder)));
                        }
                        continue;
                    };
                    let (head, date) = before.rsplit_once('/').map_or(("", before), |(head, date)| (head, date));
                    let (folder, last) = new.rsplit_once('/').unwrap_or(("", &new));
                    moved.insert(path.to_string(), format!("{head}/{}{date}{last}.md", slashed(folder)));
                }
            }
            _ => {}
        }
        moved
    }

    /// Whether content is among what is meant: pages, or the entries of the collection.
    fn is_home(&self, world: &World, content: &Content) -> bool {
        let home = world.site.collection_of(content).map(|collection| collection.config.name.text.as_str());
        match &self.thing {
            Thing::Page => home.is_none(),
            Thing::Entry(of) => home == Some(of),
            Thing::Field(of) => home.unwrap_or("pages") == of,
            Thing::Taxonomy => {
                let taxonomy = world.site.config.taxonomies.iter().find(|one| one.name.text == self.from);
                taxonomy.is_some_and(|taxonomy| taxonomy.of.iter().any(|of| of.text == home.unwrap_or("pages")))
            }
            Thing::Term(name) => {
                let taxonomy = world.site.config.taxonomies.iter().find(|one| one.name.text == *name);
                taxonomy.is_some_and(|taxonomy| taxonomy.of.iter().any(|of| of.text == home.unwrap_or("pages")))
            }
            _ => true,
        }
    }

    /// What comes of the path of a theme's file from its theme.
    pub fn theme_path(&self, path: &str) -> Option<String> {
        self.files.iter().find_map(|file| file.path(path))
    }

    /// How its name may be printed, before and after.
    pub fn printed(&self) -> Vec<(String, String)> {
        match &self.thing {
            Thing::Slot(_) | Thing::Parameter(_) | Thing::Prepared | Thing::Setting | Thing::Table | Thing::Menu => {
                Vec::new()
            }
            Thing::Field(_) | Thing::Pattern(_) | Thing::Tray => Vec::new(),
            _ => {
                let mut forms = vec![(self.from.clone(), self.to.clone())];
                let last = |id: &str| id.rsplit('/').next().unwrap_or(id).to_owned();
                if last(&self.from) != last(&self.to) {
                    forms.push((last(&self.from), last(&self.to)));
                }
                // What says nothing else is called after its name.
                forms.push((title_of(&self.from), title_of(&self.to)));
                forms
            }
        }
    }

    /// Adds the places where a World uses the name.
    pub fn collect(&self, world: &World, found: &mut Found) {
        for name in &self.files {
            collect(world, name, found);
        }
        self.in_programs(world, found);
        self.in_headers(world, found);
        self.in_toml(world, found);
        for content in world.site.contents.iter() {
            self.in_front_matter(world, content, found);
        }
        if let Some(also) = &self.also {
            also.collect(world, found);
        }
        if self.thing == Thing::Tray {
            self.in_texts(world, found);
        }
    }

    fn in_programs(&self, world: &World, found: &mut Found) {
        let layouts = match self.thing {
            Thing::Slot(_) => layouts(world),
            _ => BTreeMap::new(),
        };
        for (id, file) in world.lineage.ids() {
            let (path, Some(text)) = (&*file.node.path, file.node.text()) else { continue };
            let Some(unit) = world.unit(id).and_then(|unit| world.library.unit(unit)) else { continue };
            if (unit.program.is_none() || !unit.is_sound) && text.contains(&self.from) {
                found.unsure(path, Span::default(), "it has an error, so what it names is not known");
            }
            let Some(program) = &unit.program else { continue };
            let own = self.family.contains(&*file.name);
            self.words(world, path, text, program, own, found);
            self.calls(world, id, &layouts, (path, text, program), found);
            if let Thing::Slot(_) = self.thing {
                let fills = program.layout_fills.iter().filter(|(name, _)| self.is_name(world, *name));
                for (_, span) in fills {
                    let mut around = layouts.get(&id).into_iter().flatten();
                    if around.any(|layout| self.family.contains(&format!("layouts/{layout}.html"))) {
                        found.rename(path, text, *span, &self.from, &self.to);
                    }
                }
                let asked = program.asked_filled.iter().filter(|(name, _)| own && self.is_name(world, *name));
                asked.for_each(|(_, span)| found.rename(path, text, *span, &self.from, &self.to));
            }
            if self.thing == Thing::Prepared {
                let sets = program.sets.iter().filter(|set| world.globals.name(set.global) == self.from);
                sets.for_each(|set| found.rename(path, text, set.span, &self.from, &self.to));
            }
            self.mentions(path, text, program, found);
            self.same_texts(path, program, found);
            if let Thing::View(_) = self.thing {
                self.in_addresses(path, text, found);
            }
        }
    }

    fn is_name(&self, world: &World, name: Symbol) -> bool {
        world.symbols.name(name) == self.from
    }

    /// The words of a program that mean it.
    fn words(&self, world: &World, path: &str, text: &str, program: &Program, own: bool, found: &mut Found) {
        for word in &program.words {
            let is_it = match (&self.thing, &word.meaning) {
                (Thing::Slot(_), Meaning::Slot(name)) | (Thing::Parameter(_), Meaning::Parameter(name)) => {
                    own && self.is_name(world, *name)
                }
                (Thing::Tray, Meaning::Tray(name)) => self.is_name(world, *name),
                (Thing::Prepared, Meaning::Global(number)) => world.globals.name(*number) == self.from,
                (Thing::Collection, Meaning::Global(number)) => {
                    world.globals.name(*number) == self.from && world.globals.is_of_site(*number)
                }
                (_, Meaning::Member(name, records)) if self.is_name(world, *name) => {
                    match self.is_member(world, records) {
                        Some(is_it) => is_it,
                        None => {
                            found.unsure(
                                path,
                                word.span,
                                "it may be a member of this, which is known only when it runs",
                            );
                            false
                        }
                    }
                }
                (_, Meaning::Compared(member, records)) => {
                    let written = bare(word.span.of(text));
                    written == self.from && self.is_compared(world, *member, records)
                }
                _ => false,
            };
            if is_it {
                found.rename(path, text, word.span, &self.from, &self.to);
            }
        }
    }

    /// Whether a member of this name, of a record of one of these sorts, is it; nothing where it may be.
    fn is_member(&self, world: &World, records: &[RecordId]) -> Option<bool> {
        let sorts = &world.sorts;
        let entry = |name: &str| match name {
            "pages" => sorts.page,
            _ => world.site.collection(name).and_then(|(at, _)| sorts.entries.get(usize::from(at)).copied()),
        };
        let meant: Vec<RecordId> = match &self.thing {
            Thing::Setting => sorts.settings.into_iter().collect(),
            Thing::Menu => sorts.menus.into_iter().collect(),
            Thing::Table => sorts.tables.into_iter().collect(),
            Thing::View(_) => sorts.views.into_iter().collect(),
            Thing::Collection => sorts.collections.into_iter().collect(),
            Thing::Field(of) => entry(of).into_iter().collect(),
            Thing::Taxonomy => {
                let config = world.site.config.taxonomies.iter().find(|one| one.name.text == self.from)?;
                config.of.iter().filter_map(|of| entry(&of.text)).chain(sorts.taxonomies).collect()
            }
            _ => return Some(false),
        };
        // Of values that may be anything, such members are asked too.
        if records.is_empty() {
            return None;
        }
        let all_content = || sorts.entries.iter().copied().chain(sorts.page);
        let having = records.iter().flat_map(|&record| match Some(record) == sorts.any_content {
            true => all_content().collect(),
            false => vec![record],
        });
        let having: Vec<RecordId> = having.filter(|&record| world.globals.has_member(record, &self.from)).collect();
        match having.iter().filter(|record| meant.contains(record)).count() {
            0 => Some(false),
            count if count == having.len() => Some(true),
            _ => None,
        }
    }

    /// Whether a text that is compared with this member is it.
    fn is_compared(&self, world: &World, member: Symbol, records: &[RecordId]) -> bool {
        let sorts = &world.sorts;
        let member = world.symbols.name(member);
        let of = |sort: Option<RecordId>| !records.is_empty() && records.iter().all(|record| Some(*record) == sort);
        let is_content = |record: &RecordId| {
            sorts.entries.contains(record) || Some(*record) == sorts.page || Some(*record) == sorts.any_content
        };
        let of_content = !records.is_empty() && records.iter().all(is_content);
        match &self.thing {
            Thing::View(_) => member == "view" && of(sorts.request),
            Thing::Collection => member == "collection" && !records.is_empty(),
            Thing::Route => member == "name" && of(sorts.route),
            Thing::Page => member == "id" && of(sorts.page),
            Thing::Entry(of) => {
                let at = world.site.collection(of).and_then(|(at, _)| sorts.entries.get(usize::from(at)).copied());
                member == "id" && records.iter().all(|record| Some(*record) == at) && at.is_some()
            }
            Thing::Term(taxonomy) => {
                let at = world.site.taxonomies.iter().position(|one| one.config.name.text == *taxonomy);
                let of_terms = of(at.and_then(|at| sorts.terms.get(at).copied()));
                member == taxonomy && of_content || member == "id" && of_terms
            }
            Thing::Theme => member == "theme" && of(sorts.request),
            _ => false,
        }
    }

    /// What calls give, and which slots their bodies fill.
    fn calls(
        &self,
        world: &World,
        id: FileId,
        layouts: &Layouts,
        (path, text, program): (&str, &str, &Program),
        found: &mut Found,
    ) {
        let unit = world.unit(id);
        for (at, call) in program.calls.iter().enumerate() {
            let places: Vec<Span> = match self.thing {
                Thing::Parameter(_) => {
                    call.given.iter().filter(|given| self.is_name(world, given.name)).map(|given| given.span).collect()
                }
                Thing::Slot(_) => {
                    call.fills.iter().filter(|(name, _)| self.is_name(world, *name)).map(|(_, span)| *span).collect()
                }
                _ => return,
            };
            if places.is_empty() {
                continue;
            }
            let mut called: Vec<String> =
                called_names(world, unit, program, at).into_iter().map(str::to_owned).collect();
            // What a template fills in one that it extends goes on to the layout.
            if program.role == compile::Role::Template && matches!(call.callee, Callee::Next) {
                let around = layouts.get(&id).into_iter().flatten();
                called.extend(around.map(|layout| format!("layouts/{layout}.html")));
            }
            let meant = called.iter().filter(|name| self.family.contains(*name)).count();
            let having =
                called.iter().filter(|name| self.family.contains(*name) || has(world, name, &self.thing, &self.from));
            match (meant, having.count()) {
                (0, _) => {}
                (meant, all) if meant == all => {
                    places.into_iter().for_each(|span| found.rename(path, text, span, &self.from, &self.to));
                }
                _ => {
                    places.into_iter().for_each(|span| found.unsure(path, span, "this call may reach other files, too"))
                }
            }
        }
    }

    /// Pages and entries that `page` and `entry` are given.
    fn mentions(&self, path: &str, text: &str, program: &Program, found: &mut Found) {
        for mention in program.mentions.iter().filter(|mention| mention.what == Mentioned::Content) {
            let Some((sort, named)) = mention.text.split_once(':') else { continue };
            let new = match (&self.thing, sort) {
                (Thing::Page, "page") => self.id(named),
                (Thing::Entry(of), "entry") => {
                    let id = named.strip_prefix(&format!("{of}/")).and_then(|id| self.id(id));
                    id.map(|id| format!("{of}/{id}"))
                }
                (Thing::Collection, "entry") => {
                    named.strip_prefix(&format!("{}/", self.from)).map(|id| format!("{}/{id}", self.to))
                }
                _ => None,
            };
            if let Some(new) = new {
                found.rename(path, text, mention.span, named, &new);
            }
        }
    }

    /// Texts that are the same and have no meaning that is known.
    fn same_texts(&self, path: &str, program: &Program, found: &mut Found) {
        let is_name = matches!(
            self.thing,
            Thing::View(_)
                | Thing::Collection
                | Thing::Route
                | Thing::Page
                | Thing::Entry(_)
                | Thing::Term(_)
                | Thing::Theme
                | Thing::Menu
                | Thing::Table
                | Thing::Taxonomy
                | Thing::Setting
        );
        if !is_name {
            return;
        }
        for (step, span) in program.codes.iter().zip(&program.code_spans) {
            let Step::Text(kept) = step else { continue };
            if program.kept(*kept) == self.from && !found.edits.covers(path, *span) {
                found.may_mean(path, *span);
            }
        }
    }

    /// The word of a view at the end of an address, behind what is computed: whether it means this the pages can tell.
    fn in_addresses(&self, path: &str, text: &str, found: &mut Found) {
        let word = format!("{}/", self.from);
        for (at, _) in text.match_indices(&word) {
            let span = Span::new(at, at + self.from.len());
            if text[..at].ends_with(['/', '}', '"', '\'']) && !found.edits.covers(path, span) {
                found.may_mean(path, span);
            }
        }
    }

    /// What the front matter of theme files says: parameters, and what a template is offered for.
    fn in_headers(&self, world: &World, found: &mut Found) {
        for (_, file) in world.lineage.ids() {
            let (path, Some(text)) = (&*file.node.path, file.node.text()) else { continue };
            for entry in &file.node.front().entries {
                match (&self.thing, &*entry.key) {
                    (Thing::Parameter(_), "takes") if self.family.contains(&*file.name) => {
                        let taken = entry.data.as_map().unwrap_or_default().iter().filter(|own| *own.key == *self.from);
                        taken.for_each(|own| found.rename(path, text, own.span, &self.from, &self.to));
                    }
                    (Thing::Collection, "for") => {
                        let one = std::slice::from_ref(&entry.data);
                        let (old, new) = (format!("entry/{}", self.from), format!("entry/{}", self.to));
                        let same =
                            entry.data.as_list().unwrap_or(one).iter().filter(|data| data.as_text() == Some(&old));
                        same.for_each(|data| found.rename(path, text, data.span, &old, &new));
                    }
                    _ => {}
                }
            }
        }
    }

    /// What configuration and manifests say.
    fn in_toml(&self, world: &World, found: &mut Found) {
        let is_toml = |path: &str| {
            path == config::FILE || path.starts_with("themes/") && path.ends_with(".toml") && !path.contains("/.")
        };
        for node in world.snapshot.files().into_iter().filter(|node| is_toml(&node.path)) {
            let Ok(text) = node.whole_text() else { continue };
            for place in places(&text) {
                let written = bare(place.span.of(&text));
                if let Some((old, new)) = self.toml_place(world, &node.path, &place, written) {
                    let new = if place.is_key { key(&new) } else { new };
                    match place.is_key {
                        true => found.edits.set(&node.path, place.span, new),
                        false => found.rename(&node.path, &text, place.span, &old, &new),
                    }
                }
            }
        }
    }

    /// What is to be written in place of a key or a value, of all of it or of a part.
    fn toml_place(&self, world: &World, file: &str, place: &TomlPlace, written: &str) -> Option<(String, String)> {
        let whole = || Some((self.from.clone(), self.to.clone()));
        let is = |path: &[&str]| place.is_at(path);
        let own = written == self.from;
        let manifest = file.ends_with(theme::MANIFEST);
        if file != config::FILE && !manifest {
            // A component's fields.
            let component = file.rsplit_once("/components/").map(|(_, rest)| format!("components/{rest}"));
            let manifest_of = |name: &String| {
                let folder = name.rsplit_once('/').map_or("", |(folder, _)| folder);
                component.as_deref() == Some(&format!("{folder}/component.toml"))
            };
            return match &self.thing {
                Thing::Parameter(_) if own && !place.is_key && is(&["fields", "name"]) => {
                    self.family.iter().any(manifest_of).then(whole).flatten()
                }
                Thing::Collection
                    if own && !place.is_key && place.path.last().is_some_and(|key| key == "collection") =>
                {
                    whole()
                }
                _ => None,
            };
        }
        if manifest && place.path.first().is_some_and(|key| key == "needs") {
            let inside = TomlPlace { path: place.path[1..].to_vec(), ..place.clone() };
            return self.needed(&inside, written).or_else(|| self.configured(world, &inside, written));
        }
        if manifest {
            let theme = file.split('/').nth(1).unwrap_or("");
            let concerned = || world.lineage.themes.iter().any(|one| one.name == theme);
            return match &self.thing {
                Thing::Setting if own && place.is_key && is(&["settings", "*"]) => concerned().then(whole).flatten(),
                Thing::Theme if own && !place.is_key && is(&["theme", "parent"]) => whole(),
                Thing::Collection
                    if own && !place.is_key && place.path.last().is_some_and(|key| key == "collection") =>
                {
                    whole()
                }
                _ => None,
            };
        }
        if !place.is_key && (is(&["check", "except", "path"]) || is(&["rehearse", "except", "path"])) {
            let moved = self.moved.get(written).cloned();
            let of_theme = || {
                let (theme, rest) = written.strip_prefix("themes/")?.split_once('/')?;
                Some(format!("themes/{theme}/{}", self.theme_path(rest)?))
            };
            return moved.or_else(of_theme).map(|new| (written.to_owned(), new));
        }
        self.configured(world, place, written)
    }

    /// What is to be written in a list of what a theme needs from a site.
    fn needed(&self, place: &TomlPlace, written: &str) -> Option<(String, String)> {
        let whole = |new: String| Some((written.to_owned(), new));
        let is = |path: &[&str]| place.is_at(path);
        let own = written == self.from;
        match (&self.thing, place.is_key) {
            (Thing::Menu, false) if own && is(&["menus"]) => whole(self.to.clone()),
            (Thing::Table, true) if own && is(&["tables", "*"]) => whole(self.to.clone()),
            (Thing::Media, false) if is(&["media"]) => {
                let new = self.moved.get(&format!("media/{written}"))?;
                whole(new.trim_start_matches("media/").to_owned())
            }
            (_, false) if is(&["content"]) => {
                let (home, id) = written.split_once('/')?;
                match &self.thing {
                    Thing::Page if home == "pages" => whole(format!("pages/{}", self.id(id)?)),
                    Thing::Entry(of) if home == of => whole(format!("{home}/{}", self.id(id)?)),
                    Thing::Collection if home == self.from => whole(format!("{}/{id}", self.to)),
                    _ => None,
                }
            }
            (_, false) if is(&["optional"]) => {
                let mut parts: Vec<&str> = written.split('.').collect();
                let at = match (&self.thing, parts.as_slice()) {
                    (Thing::Collection, ["collections", ..])
                    | (Thing::Taxonomy, ["taxonomies", ..])
                    | (Thing::Route, ["routes", ..])
                    | (Thing::Table, ["tables", ..])
                    | (Thing::Menu, ["menus", ..]) => 1,
                    (Thing::Field(of), ["pages", "fields", _]) if of == "pages" => 2,
                    (Thing::Field(of), ["collections", name, "fields", _]) if of == name => 3,
                    (Thing::Term(of), ["taxonomies", name, "terms", _]) if of == name => 3,
                    _ => return None,
                };
                let part = parts.get_mut(at).filter(|part| **part == self.from)?;
                *part = &self.to;
                whole(parts.join("."))
            }
            _ => None,
        }
    }

    /// What is to be written in the configuration, or in what a theme needs of it.
    fn configured(&self, world: &World, place: &TomlPlace, written: &str) -> Option<(String, String)> {
        let whole = || Some((self.from.clone(), self.to.clone()));
        let is = |path: &[&str]| place.is_at(path);
        let own = written == self.from;
        match (&self.thing, place.is_key) {
            (Thing::Setting, true) => (own && is(&["settings", "*"])).then(whole).flatten(),
            (Thing::Menu, true) => (own && is(&["menus", "*"])).then(whole).flatten(),
            (Thing::Route, true) => (own && is(&["routes", "*"])).then(whole).flatten(),
            (Thing::Route, false) => (own && is(&["routes", "*", "template"])).then(whole).flatten(),
            (Thing::Table, false) => (own && is(&["routes", "*", "each"])).then(whole).flatten(),
            (Thing::Theme, false) => (own && is(&["site", "theme"])).then(whole).flatten(),
            (Thing::View(_), false) => (own && is(&["collections", "*", "views"])).then(whole).flatten(),
            (Thing::Page, false) => {
                let is_id = is(&["front", "page"]) || place.path.len() == 2 && place.path[0] == "errors";
                let by_type = self.by_type_in_config(world, place);
                let new = if is_id || by_type { self.id(written) } else { None };
                new.map(|new| (written.to_owned(), new))
            }
            (Thing::Entry(_), false) => {
                let new = if self.by_type_in_config(world, place) { self.id(written) } else { None };
                new.map(|new| (written.to_owned(), new))
            }
            (Thing::Collection, true) => (own && is(&["collections", "*"])).then(whole).flatten(),
            (Thing::Collection, false) => {
                let at = [&["front", "collection"][..], &["taxonomies", "*", "of"], &["routes", "*", "items"]];
                let of_field = || {
                    place.path.iter().any(|key| key == "fields")
                        && place.path.last().is_some_and(|key| key == "collection")
                };
                if own && (at.iter().any(|path| is(path)) || of_field()) {
                    return whole();
                }
                let pattern = is(&["ladders", "*"]).then(|| self.template(written)).flatten();
                pattern.map(|new| (written.to_owned(), new))
            }
            (Thing::Taxonomy, true) => (own && is(&["taxonomies", "*"])).then(whole).flatten(),
            (Thing::Taxonomy, false) => {
                let is_pattern = is(&["collections", "*", "address"]) || is(&["ladders", "*"]);
                let braces = |name: &str| format!("{{{name}}}");
                let replaced = written.replace(&braces(&self.from), &braces(&self.to));
                let new = if is(&["ladders", "*"]) { self.template(&replaced).unwrap_or(replaced) } else { replaced };
                (is_pattern && new != written).then(|| (written.to_owned(), new))
            }
            (Thing::Term(of), true) => (own && is(&["taxonomies", of, "terms", "*"])).then(whole).flatten(),
            (Thing::Term(of), false) => {
                (own && is(&["taxonomies", of, "terms", "*", "parent"])).then(whole).flatten().or_else(|| {
                    let new = is(&["ladders", "*"]).then(|| self.template(written)).flatten();
                    new.map(|new| (written.to_owned(), new))
                })
            }
            (Thing::Field(of), true) => {
                let path: &[&str] =
                    if of == "pages" { &["pages", "fields", "*"] } else { &["collections", of, "fields", "*"] };
                (own && is(path)).then(whole).flatten()
            }
            (Thing::Field(of), false) => {
                let is_order =
                    is(&["collections", of, "order"]) && written.split_whitespace().next() == Some(&self.from);
                is_order.then(whole).flatten()
            }
            (Thing::Pattern(of), false) => {
                is(&["collections", of, "address"]).then(|| (written.to_owned(), self.to.clone()))
            }
            _ => None,
        }
    }

    /// Whether a value of the configuration is that of a setting, or a default, which names content by its id.
    fn by_type_in_config(&self, world: &World, place: &TomlPlace) -> bool {
        let path: Vec<&str> = place.path.iter().map(String::as_str).collect();
        let field = |fields: &[crate::schema::fields::Field], name: &str| {
            fields.iter().find(|field| field.name == name).map(|field| field.of.clone())
        };
        let of = match path.as_slice() {
            ["settings", name] => world
                .settings
                .iter()
                .find(|setting| setting.field.name == *name)
                .map(|setting| setting.field.of.clone()),
            ["pages", "fields", name, "default"] => field(&world.site.config.page_fields, name),
            ["collections", of, "fields", name, "default"] => {
                world.site.collection(of).and_then(|(_, collection)| field(&collection.config.fields, name))
            }
            _ => None,
        };
        of.is_some_and(|of| self.is_of_type(&of))
    }

    /// Whether the values of a field are ids of what is meant.
    fn is_of_type(&self, of: &FieldType) -> bool {
        match (of, &self.thing) {
            (FieldType::List(of), _) => self.is_of_type(of),
            (FieldType::Page, Thing::Page) => true,
            (FieldType::Entry(collection), Thing::Entry(own)) => collection == own,
            _ => false,
        }
    }

    fn in_front_matter(&self, world: &World, content: &Content, found: &mut Found) {
        let Some(text) = content.node.text() else { return };
        let path = content.path();
        let here = self.is_home(world, content);
        let fields = match content.home {
            Section::Pages => &world.site.config.page_fields,
            Section::Collection(at) => &world.site.collections[usize::from(at)].config.fields,
        };
        for entry in &content.node.front().entries {
            let own = *entry.key == *self.from;
            match &self.thing {
                Thing::Field(_) | Thing::Taxonomy if own && here => {
                    found.rename(path, text, entry.span, &self.from, &self.to);
                }
                Thing::Term(taxonomy) if here && *entry.key == **taxonomy => {
                    let one = std::slice::from_ref(&entry.data);
                    for data in entry.data.as_list().unwrap_or(one) {
                        let Some(written) = data.as_text().filter(|written| slug(written) == self.from) else {
                            continue;
                        };
                        found.rename(path, text, data.span, written, &self.to);
                    }
                }
                Thing::Page | Thing::Entry(_) => {
                    if let Some(field) = fields.iter().find(|field| *field.name == *entry.key) {
                        self.in_typed(path, text, &field.of, &entry.data, found);
                    }
                }
                _ => {}
            }
            if &*entry.key == "trays" {
                self.in_trays(world, path, text, entry, found);
            }
        }
    }

    /// Ids in a value of this type.
    fn in_typed(&self, path: &str, text: &str, of: &FieldType, data: &Data, found: &mut Found) {
        match (of, &data.value) {
            (FieldType::List(of), DataValue::List(members)) => {
                members.iter().for_each(|member| self.in_typed(path, text, of, member, found));
            }
            (FieldType::Group(group), DataValue::Map(entries)) => {
                for entry in entries {
                    if let Some(field) = group.fields.iter().find(|field| *field.name == *entry.key) {
                        self.in_typed(path, text, &field.of, &entry.data, found);
                    }
                }
            }
            (of, DataValue::Text(id)) if self.is_of_type(of) => {
                if let Some(new) = self.id(id) {
                    found.rename(path, text, data.span, id, &new);
                }
            }
            _ => {}
        }
    }

    /// Trays, and the fields of the components in them.
    fn in_trays(&self, world: &World, path: &str, text: &str, entry: &Entry, found: &mut Found) {
        for tray in entry.data.as_map().unwrap_or_default() {
            if self.thing == Thing::Tray && *tray.key == *self.from {
                found.rename(path, text, tray.span, &self.from, &self.to);
            }
            for placed in tray.data.as_list().unwrap_or_default() {
                let Some(entries) = placed.as_map() else { continue };
                let name =
                    entries.iter().find(|entry| &*entry.key == "component").and_then(|entry| entry.data.as_text());
                let Some(component) = world.components.iter().find(|one| Some(one.name.as_str()) == name) else {
                    continue;
                };
                let file = format!("components/{}/component.", component.name);
                let own = self.family.iter().any(|name| name.starts_with(&file));
                for entry in entries {
                    if matches!(self.thing, Thing::Parameter(_)) && own && *entry.key == *self.from {
                        found.rename(path, text, entry.span, &self.from, &self.to);
                    }
                    if let Some(field) = component.fields.iter().find(|field| *field.name == *entry.key) {
                        self.in_typed(path, text, &field.of, &entry.data, found);
                    }
                }
            }
        }
    }

    /// Trays in the texts of content.
    fn in_texts(&self, world: &World, found: &mut Found) {
        for content in world.site.contents.iter() {
            let Ok(text) = content.node.whole_text() else { continue };
            for (name, at) in markdown::trays(text.get(content.body..).unwrap_or("")) {
                if name == self.from {
                    let span = Span::new(content.body + at.start, content.body + at.end);
                    found.rename(content.path(), &text, span, &self.from, &self.to);
                }
            }
        }
    }

    /// The record of what the site is expected to be, as far as it names what is renamed.
    pub fn in_expected(&self, world: &World, addresses: &BTreeMap<String, String>, found: &mut Found) {
        let Some(text) = expect::recorded(&world.snapshot).and_then(|bytes| String::from_utf8(bytes).ok()) else {
            return;
        };
        for place in places(&text) {
            let written = bare(place.span.of(&text));
            let key = place.path.last().map_or("", String::as_str);
            let new = match (place.is_key, key) {
                (true, _) => addresses.get(written).filter(|_| place.path.len() == 1).cloned(),
                (false, "template") => {
                    self.theme_path(&format!("templates/{written}")).map(|path| path["templates/".len()..].to_owned())
                }
                (false, "theme") if self.thing == Thing::Theme && written == self.from => Some(self.to.clone()),
                (false, "location") => addresses.get(written).cloned(),
                _ => None,
            };
            if let Some(new) = new {
                found.rename(expect::FILE, &text, place.span, written, &new);
            }
        }
    }
}

/// Whether a pattern of names, with braces for what is anything, may have made a text.
fn fits(pattern: &str, text: &str) -> bool {
    match pattern.split_once('{').and_then(|(before, behind)| Some((before, behind.split_once('}')?.1))) {
        None => pattern == text,
        Some((before, behind)) => text.strip_prefix(before).is_some_and(|rest| {
            rest.char_indices()
                .skip(1)
                .map(|(at, _)| at)
                .chain([rest.len()])
                .any(|at| at > 0 && fits(behind, &rest[at..]))
        }),
    }
}

/// A key of TOML, in quotes where it needs them.
fn key(name: &str) -> String {
    let plain = !name.is_empty() && name.chars().all(|c| c.is_ascii_alphanumeric() || matches!(c, '_' | '-'));
    if plain { name.to_owned() } else { toml::Value::from(name).to_string() }
}

fn slashed(folder: &str) -> String {
    if folder.is_empty() { String::new() } else { format!("{folder}/") }
}

/// What the names of partials begin with that are computed of the collection of an entry: `card/`.
fn prefixes_of_collections(world: &World) -> BTreeSet<String> {
    let mut prefixes = BTreeSet::new();
    for unit in &world.library.units {
        let Some(program) = &unit.program else { continue };
        for call in &program.calls {
            let Callee::Computed(prefix, code) = &call.callee else { continue };
            let Some(span) = program.code_spans.get(code.0 as usize) else { continue };
            let of_collection = program.words.iter().any(|word| {
                let inside = span.range().start <= word.span.range().start && word.span.range().end <= span.range().end;
                inside && matches!(&word.meaning, Meaning::Member(name, _) if world.symbols.name(*name) == "collection")
            });
            if of_collection {
                prefixes.insert(prefix.clone());
            }
        }
    }
    prefixes
}

/// The names of the layouts that may be around files.
pub(super) type Layouts = BTreeMap<FileId, BTreeSet<String>>;

/// The layouts that may be around each file that fills their slots.
pub(super) fn layouts(world: &World) -> Layouts {
    let mut all = Layouts::new();
    let of_layout = |id: FileId| world.lineage.file(id).name.layout().map(str::to_owned);
    for request in world.requests() {
        let resolution = world.resolve(request.clone());
        let LayoutChoice::Files(around) = &resolution.layout else { continue };
        let Some(first) = around.first().and_then(|&id| of_layout(id)) else { continue };
        for file in resolution.winner.into_iter().chain(resolution.after) {
            all.entry(file).or_default().insert(first.clone());
        }
    }
    for (id, file) in world.lineage.ids() {
        match file.role {
            Role::Layout => {
                let stated = world.stated_layout(id).filter(|layout| layout.text != "none");
                all.entry(id).or_default().extend(stated.map(|layout| layout.text));
            }
            // What no request uses goes by what it says itself.
            Role::Template if !all.contains_key(&id) => {
                let stated = world.header(id).layout.as_ref().map_or("document", |layout| layout.text.as_str());
                all.entry(id).or_default().insert(stated.to_owned());
            }
            _ => {}
        }
    }
    all
}

/// The names of the files that a call may lead to.
pub(super) fn called_names<'w>(world: &'w World, unit: Option<UnitId>, program: &Program, call: usize) -> Vec<&'w str> {
    let library = &world.library;
    let units: Vec<UnitId> = match &program.calls[call].callee {
        Callee::Named(name) => library.find_partial(program.ending, name).map(|(id, _)| id).into_iter().collect(),
        Callee::Component(name) => library.find_component(program.ending, name).into_iter().collect(),
        Callee::Computed(prefix, _) => library.partials_behind(program.ending, prefix).map(|(_, id)| id).collect(),
        Callee::Next => match program.role {
            compile::Role::Template => followers(world, unit),
            _ => unit.and_then(|unit| library.unit(unit)?.next).into_iter().collect(),
        },
    };
    units.into_iter().map(|unit| &*world.lineage.file(world.file_of(unit)).name).collect()
}

/// The templates that a template may extend.
fn followers(world: &World, unit: Option<UnitId>) -> Vec<UnitId> {
    let Some(id) = unit.map(|unit| world.file_of(unit)) else { return Vec::new() };
    let mut all = BTreeSet::new();
    for request in world.requests() {
        let resolution = world.resolve(request.clone());
        let chain: Vec<FileId> = resolution.winner.into_iter().chain(resolution.after).collect();
        let next = chain.iter().position(|&file| file == id).and_then(|at| chain.get(at + 1));
        all.extend(next.and_then(|&next| world.unit(next)));
    }
    all.into_iter().collect()
}

/// Whether a theme file of this name has such a slot or parameter.
fn has(world: &World, name: &str, thing: &Thing, own: &str) -> bool {
    let files = world.lineage.ids().filter(|(_, file)| *file.name == *name);
    let programs = files.filter_map(|(id, _)| world.library.unit(world.unit(id)?)?.program.as_ref());
    programs.into_iter().any(|program| match thing {
        Thing::Slot(_) => program.slots.iter().any(|&slot| world.symbols.name(slot) == own),
        _ => program.parameters.iter().any(|parameter| world.symbols.name(parameter.name) == own),
    })
}

/// The theme files whose slots or parameters of this name are one and the same: what extends the file and what it
/// extends, what the same computed call may reach, and layouts that the same template fills.
fn family(worlds: &[&World], naming: &Naming) -> BTreeSet<String> {
    let (Thing::Slot(of) | Thing::Parameter(of)) = &naming.thing else { return BTreeSet::new() };
    let mut family = BTreeSet::from([of.clone()]);
    let of_layouts = |world: &World| match naming.thing {
        Thing::Slot(_) => layouts(world),
        _ => BTreeMap::new(),
    };
    let layouts: Vec<(&&World, Layouts)> = worlds.iter().map(|world| (world, of_layouts(world))).collect();
    loop {
        let before = family.len();
        for (world, layouts) in &layouts {
            let has = |name: &str| has(world, name, &naming.thing, &naming.from);
            let fills = |id: FileId| {
                let program = world.unit(id).and_then(|unit| world.library.unit(unit)?.program.as_ref());
                program.is_some_and(|program| {
                    let next = program.calls.iter().filter(|call| matches!(call.callee, Callee::Next));
                    let of_template = next.filter(|_| program.role == compile::Role::Template);
                    let fills = of_template.flat_map(|call| &*call.fills).chain(&*program.layout_fills);
                    fills.into_iter().any(|(name, _)| naming.is_name(world, *name))
                })
            };
            for (_, around) in layouts.iter().filter(|(id, _)| fills(**id)) {
                let reached = around.iter().map(|layout| format!("layouts/{layout}.html")).filter(|name| has(name));
                let reached: Vec<String> = reached.collect();
                if reached.iter().any(|name| family.contains(name)) {
                    family.extend(reached);
                }
            }
            for (id, file) in world.lineage.ids() {
                let Some(unit) = world.unit(id) else { continue };
                let Some(program) = world.library.unit(unit).and_then(|unit| unit.program.as_ref()) else { continue };
                for (at, call) in program.calls.iter().enumerate() {
                    let gives = match naming.thing {
                        Thing::Slot(_) => call.fills.iter().any(|(name, _)| naming.is_name(world, *name)),
                        _ => call.given.iter().any(|given| naming.is_name(world, given.name)),
                    };
                    let mut reached = match &call.callee {
                        Callee::Computed(..) if gives => called_names(world, Some(unit), program, at),
                        Callee::Next => {
                            let mut chain = called_names(world, Some(unit), program, at);
                            chain.push(&file.name);
                            chain
                        }
                        _ => continue,
                    };
                    reached.retain(|name| has(name));
                    if reached.iter().any(|name| family.contains(*name)) {
                        family.extend(reached.into_iter().map(str::to_owned));
                    }
                }
            }
        }
        if family.len() == before {
            return family;
        }
    }
}
