//! What is offered for a part of a file: fixes of what is wrong there, lines that become a partial or a slot, copies, and what
//! makes a name known. What needs pages rendered is computed when it is chosen, if the editor can do that.

use std::path::Path;

use hausblatt_core::change::copies::{OverrideOptions, OverrideTarget, Planned, plan};
use hausblatt_core::change::drift::{CopyState, adopt, copies};
use hausblatt_core::change::extending::extend_copy;
use hausblatt_core::change::extract::{Becomes, Wanted, extract};
use hausblatt_core::change::remedies::remedies;
use hausblatt_core::change::rename::Proof;
use hausblatt_core::files::edit::Write;
use hausblatt_core::model::request::Routed;
use hausblatt_core::world::World;
use hausblatt_lang::edit::quotes::other_quotes;
use hausblatt_lang::text::diagnostic::Diagnostic;
use lsp_types::Range;
use serde_json::{Value, json};

use crate::lsp::commands::{OPEN, SAMPLE, WHY, WITHOUT};
use crate::lsp::edits::{edit_of, proof, told};
use crate::lsp::hover::file_of;
use crate::lsp::positions::{Columns, offset, range, uri_of};
use crate::lsp::server::Server;
use crate::lsp::sites::{Asked, Loaded};
use crate::show::table::addresses;

/// What is asked of a part of a file.
pub struct Wished<'a> {
    /// The file.
    pub asked: &'a Asked,
    /// Its address, as the editor has it.
    pub uri: &'a str,
    /// The part.
    pub range: Range,
    /// The site with the theme of the file as the active one, where actions that render pages are wanted.
    pub theirs: Option<&'a Loaded>,
    /// What rendered pages have shown.
    pub rendered: &'a [Diagnostic],
    /// The site's folder.
    pub root: &'a Path,
    /// Whether the editor asks for what an action changes when it is chosen.
    pub is_resolved: bool,
}

/// What is offered for a part of a file.
pub fn actions(wished: &Wished<'_>, columns: Columns) -> Value {
    let asked = wished.asked;
    let Some(world) = asked.world() else { return json!([]) };
    let start = offset(&asked.text, wished.range.start, columns);
    let end = offset(&asked.text, wished.range.end, columns);
    let mut actions = fixes(wished, world, (start, end), columns);
    for remedy in remedies(world, &asked.path, start) {
        let edit = edit_of(&asked.loaded.snapshot, &remedy.writes, &[], wished.root, columns);
        actions.extend(edit.map(|edit| json!({ "title": remedy.title, "kind": "quickfix", "edit": edit })));
    }
    actions.extend(quotes(wished, world, start, columns));
    let Some(loaded) = wished.theirs else { return Value::Array(actions) };
    actions.extend(questions(wished, world));
    let Ok(world) = &loaded.world else { return Value::Array(actions) };
    actions.extend(parts(wished, loaded, world, start < end, columns));
    if let Ok(extending) = extend_copy(world, &asked.path) {
        let title = "Let this copy extend its original";
        let mut action = offered(wished, loaded, &extending.writes, title, &extending.proof, columns);
        if let Some(action) = &mut action {
            action["kind"] = json!("refactor.rewrite");
        }
        actions.extend(action);
    }
    actions.extend(original(wished, loaded, world, columns));
    // The site's own active theme is the one that gets copies.
    if let Ok(world) = &asked.loaded.world {
        actions.extend(copying(wished, world, columns));
    }
    Value::Array(actions)
}

/// What is certainly right, for what is wrong here.
fn fixes(wished: &Wished<'_>, world: &World, (start, end): (usize, usize), columns: Columns) -> Vec<Value> {
    let asked = wished.asked;
    let mut actions = Vec::new();
    for problem in world.problems.iter().chain(wished.rendered) {
        let (Some(fix), Some(place)) = (&problem.fix, &problem.place) else { continue };
        let span = place.span.range();
        if *place.path != *asked.path || span.end < start || end < span.start {
            continue;
        }
        let (Some(uri), Some(goes)) = (uri_of(&wished.root.join(&asked.path)), fix.goes(&asked.text, place.span))
        else {
            continue;
        };
        let edit = json!({ "range": range(&asked.text, goes, columns), "newText": fix.to });
        actions.push(json!({
            "title": problem.help.clone().unwrap_or_else(|| format!("write {}", fix.to)),
            "kind": "quickfix",
            "edit": { "changes": { uri.as_str(): [edit] } },
        }));
    }
    actions
}

/// Quotes of the other sort for the texts of a tag inside of an attribute.
fn quotes(wished: &Wished<'_>, world: &World, at: usize, columns: Columns) -> Option<Value> {
    let asked = wished.asked;
    let id = file_of(world, &asked.path).filter(|_| !asked.path.ends_with(".let"))?;
    let (span, tag) = other_quotes(&asked.text, world.header(id).body, at)?;
    let uri = uri_of(&wished.root.join(&asked.path))?;
    let edit = json!({ "range": range(&asked.text, span, columns), "newText": tag });
    Some(json!({
        "title": "Write the texts of this tag in quotes of the other sort",
        "kind": "refactor.rewrite",
        "edit": { "changes": { uri.as_str(): [edit] } },
    }))
}

/// The commands that are answered as documents, and those of the address whose values are shown.
fn questions(wished: &Wished<'_>, world: &World) -> Vec<Value> {
    let asked = wished.asked;
    let mut found: Vec<(String, &str)> = Vec::new();
    let of_content = world.site.contents.iter().find(|content| **content.path() == *asked.path);
    let sample = asked.sample(world);
    let address = of_content.and_then(|content| content.address.as_deref()).or(sample.as_deref());
    if let Some(address) = address {
        found.push((format!("Show which file renders {address}, and why"), WHY));
        found.push((format!("Open {address} in a browser"), OPEN));
    }
    if file_of(world, &asked.path).is_some() {
        found.push(("Show what would change if this file were gone".to_owned(), WITHOUT));
    }
    if sample.is_some() {
        found.push(("Show the values of another address".to_owned(), SAMPLE));
    }
    let action = |(title, command): (String, &str)| {
        let command = json!({ "title": title, "command": command, "arguments": [wished.uri] });
        json!({ "title": title, "kind": "source", "command": command })
    };
    found.into_iter().map(action).collect()
}

/// Lines that can become a partial or a slot.
fn parts(wished: &Wished<'_>, loaded: &Loaded, world: &World, is_selected: bool, columns: Columns) -> Vec<Value> {
    let asked = wished.asked;
    if !is_selected {
        return Vec::new();
    }
    // A selection that ends at the beginning of a line has not this line in it.
    let (first, end) = (wished.range.start, wished.range.end);
    let last = if end.character == 0 && end.line > first.line { end.line } else { end.line + 1 };
    let lines = (first.line as usize + 1)..=(last as usize);
    let mut actions = Vec::new();
    for (becomes, title, name) in [
        (Becomes::Partial, "Make these lines a partial", "new-partial"),
        (Becomes::Slot, "Make these lines a slot", "new-slot"),
    ] {
        let found = (1..10).find_map(|number| {
            let name = if number == 1 { name.to_owned() } else { format!("{name}-{number}") };
            let wanted = Wanted { file: &asked.path, lines: lines.clone(), name: &name, becomes };
            match extract(world, &wanted) {
                Err(problems) if problems.iter().any(|problem| problem.code == "file-exists") => None,
                result => Some(result.ok()),
            }
        });
        let Some(extraction) = found.flatten() else { continue };
        actions.extend(offered(wished, loaded, &extraction.writes, title, &extraction.proof, columns));
    }
    actions
}

fn offered(
    wished: &Wished<'_>,
    loaded: &Loaded,
    writes: &[Write],
    title: &str,
    proved: &Proof,
    columns: Columns,
) -> Option<Value> {
    let edit = edit_of(&loaded.snapshot, writes, &[], wished.root, columns)?;
    let title = format!("{title} ({})", proof(proved).trim_end_matches('.'));
    Some(json!({ "title": title, "kind": "refactor.extract", "edit": edit }))
}

/// The original of a copy that has none on record.
fn original(wished: &Wished<'_>, loaded: &Loaded, world: &World, columns: Columns) -> Option<Value> {
    let (all, _) = copies(world);
    let copy = all.into_iter().find(|copy| copy.path == wished.asked.path)?;
    if !matches!(copy.state, CopyState::Unrecorded(_)) {
        return None;
    }
    let now = copy.now.clone()?;
    let writes = adopt(world, world.lineage.active(), &copy).ok()?;
    let edit = edit_of(&loaded.snapshot, &writes, &[], wished.root, columns)?;
    let title = format!("Record {} of {} as the original of this copy", now.path, now.theme);
    Some(json!({ "title": title, "kind": "refactor.rewrite", "edit": edit }))
}

/// In which way a file is overridden.
const WAYS: [&str; 3] = ["copy", "address", "slots"];

/// Files of the active theme in place of an inherited one.
fn copying(wished: &Wished<'_>, world: &World, columns: Columns) -> Vec<Value> {
    let asked = wished.asked;
    let Some(id) = file_of(world, &asked.path) else { return Vec::new() };
    let active = &world.lineage.active().name;
    let is_inherited = world.lineage.file(id).theme > 0;
    let sample = asked.sample(world).filter(|_| world.lineage.file(id).name.template().is_some());
    let titles = [
        is_inherited.then(|| format!("Override this file in {active}")),
        sample.map(|sample| format!("Override this file in {active} for {sample} alone")),
        is_inherited.then(|| format!("Override this file in {active} by its slots")),
    ];
    let found = WAYS.iter().zip(titles).filter_map(|(way, title)| {
        let title = title?;
        let kind = "refactor.rewrite";
        if wished.is_resolved {
            return Some(json!({ "title": title, "kind": kind, "data": { "uri": wished.uri, "way": way } }));
        }
        let (edit, effect) = overridden(asked, way, wished.root, columns).ok()?;
        Some(json!({ "title": format!("{title} ({effect})"), "kind": kind, "edit": edit }))
    });
    found.collect()
}

/// The edit that overrides a file, and how many addresses use the new one.
fn overridden(asked: &Asked, way: &str, root: &Path, columns: Columns) -> Result<(Value, String), String> {
    let world = asked.world().ok_or("the site can't be loaded")?;
    let id = file_of(world, &asked.path).ok_or("this file is not in a theme of the site's lineage")?;
    let mut how = OverrideOptions { only: false, name: None, slots: way == "slots", force: false };
    let mut target = OverrideTarget::File(id, true);
    if way == "address" {
        let sample = asked.sample(world).ok_or("no address uses this file")?;
        let Routed::Request(request) = world.route(&sample) else { return Err(format!("{sample} redirects")) };
        (how.only, target) = (true, OverrideTarget::Request(request));
    }
    match plan(world, &target, &how) {
        Ok(Planned::Write(planned)) => {
            let edit = edit_of(&asked.loaded.snapshot, &planned.writes, &[], root, columns);
            let edit = edit.ok_or("a file has a name that editors can't open")?;
            let count = planned.effect.reaches.len();
            let verb = if count == 1 { "uses" } else { "use" };
            Ok((edit, format!("{} {verb} {}", addresses(count), planned.path)))
        }
        Ok(Planned::Already(path)) => Err(format!("{} has it already: {path}", world.lineage.active().name)),
        Err(refused) => Err(told(std::slice::from_ref(&*refused.diagnostic))),
    }
}

/// An action with what it changes.
///
/// # Errors
/// Why it changes nothing.
pub fn resolved(server: &mut Server, mut action: Value, columns: Columns) -> Result<Value, String> {
    let Some(uri) = action["data"]["uri"].as_str().and_then(|uri| uri.parse().ok()) else { return Ok(action) };
    let way = action["data"]["way"].as_str().unwrap_or_default().to_owned();
    let asked = server.sites.asked(&uri, 0).ok_or("the file is in no site")?;
    let root = server.sites.site(asked.site).root.clone();
    let (edit, effect) = overridden(&asked, &way, &root, columns)?;
    action["edit"] = edit;
    server.tell("window/showMessage", json!({ "type": 3, "message": effect }));
    Ok(action)
}
