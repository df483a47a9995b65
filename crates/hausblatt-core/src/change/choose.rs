//! Choosing offered templates for content.

use hausblatt_lang::text::codes as lang_codes;
use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::source::Span;
use hausblatt_lang::text::suggest::{nearest, which_of};

use crate::analysis::notes::offered;
use crate::files::edit::Write;
use crate::files::front_matter_edit::{edited, text_of};
use crate::lookup::ladder::fits;
use crate::lookup::offers;
use crate::model::content::{Content, ContentId, ContentState};
use crate::model::request::{Kind, Routed};
use crate::text::codes;
use crate::text::shell::word;
use crate::themes::theme;
use crate::world::World;

/// What a choice changes in one file.
#[derive(Clone, Debug)]
pub struct Chosen {
    /// The content.
    pub content: ContentId,
    /// The template that it named before.
    pub from: Option<String>,
    /// The file as it shall be; none if it is that already.
    pub write: Option<Write>,
}

/// What choosing `name` for content would write; without a name, taking back what it chose.
///
/// # Errors
/// Why the content can't have it, and what it could have.
pub fn choose(world: &World, id: ContentId, name: Option<&str>) -> Result<Chosen, Diagnostic> {
    let content = world.site.content(id);
    if let Some(name) = name {
        has_choice(content)?;
        may_choose(world, content, name)?;
    }
    let text = text_of(&content.node)?;
    let new = edited(&text, name).map_err(|problem| problem.at(content.path(), Span::default()))?;
    let write = (new != *text).then(|| Write::instead_of(&**content.path(), text.as_bytes(), new));
    Ok(Chosen { content: id, from: content.template.as_ref().map(|(name, _)| name.to_string()), write })
}

/// Why content can't choose any template: it has no address, and will have none.
fn has_choice(content: &Content) -> Result<(), Diagnostic> {
    let (why, help) = match content.state {
        ContentState::OnErrors => {
            ("fills an error page, which has templates of its own", "write templates/error/404.html, say")
        }
        ContentState::Live if content.address.is_none() => ("has no address", "see why: hausblatt check"),
        ContentState::Live | ContentState::Draft | ContentState::Waits => return Ok(()),
    };
    Err(Diagnostic::of(&codes::NO_CONTENT, format!("{} {why}", content.path())).help(help))
}

/// Why content may not choose the template `name`.
fn may_choose(world: &World, content: &Content, name: &str) -> Result<(), Diagnostic> {
    let file = format!("templates/offered/{name}.html");
    let all = offered(world, Some(content));
    let others = match all.is_empty() {
        true => {
            format!(
                "no theme of the lineage offers one for it; create one: hausblatt start template {}",
                word(&format!("offered/{name}"))
            )
        }
        false => format!("offered for it are {}", all.join(", ")),
    };
    let Some(id) = world.lineage.nearest(&file) else {
        if let Some(theme) = world.lineage.all(&file).iter().find_map(|&id| world.lineage.file(id).hidden_by) {
            let theme = &world.lineage.themes[theme].name;
            let message = format!("{theme} hides {file}");
            return Err(Diagnostic::error(&codes::CHOICE_HIDDEN, message).help(others));
        }
        let near = nearest(name, all.iter().map(String::as_str)).map(|near| format!("did you mean \"{near}\"?"));
        let help = near.or_else(|| offers::why_not(world, name)).unwrap_or(others);
        let message = format!("no theme of the lineage has {file}");
        return Err(Diagnostic::error(&codes::CHOICE_MISSING, message).help(help));
    };
    if world.program(id).is_none() {
        let path = &world.lineage.file(id).node.path;
        let message = format!("{path} has an error: every page that chooses it would answer with 500");
        return Err(
            Diagnostic::of(&lang_codes::FAULTY_FILE, message).help(format!("see it: hausblatt check {}", word(path)))
        );
    }
    let header = world.header(id);
    if !fits(&header.fits, &world.site, content) {
        let message = format!("{file} does not fit {}: it is for {}", content.path(), header.fits.join(", "));
        return Err(Diagnostic::error(&codes::CHOICE_NOT_ALLOWED, message).help(others));
    }
    Ok(())
}

/// A template that content could choose, or why not.
#[derive(Clone, Debug)]
pub struct Choice {
    /// Its name.
    pub name: String,
    /// What editors call it.
    pub label: Option<String>,
    /// What it is for, in a sentence.
    pub about: Option<String>,
    /// Its theme.
    pub theme: String,
    /// Its path from the site.
    pub path: String,
    /// Why this content can't have it; none if it can.
    pub reason: Option<String>,
}

/// All templates that are offered, or look as if they should be: those that content can have come first.
pub fn choices(world: &World, id: ContentId) -> Vec<Choice> {
    let content = world.site.content(id);
    let mut found: Vec<Choice> = Vec::new();
    for (file_id, file) in world.lineage.ids() {
        let in_folder = file.name.strip_prefix("templates/offered/");
        if in_folder.is_none() && theme::looks_offered(&file.node).is_none() {
            continue;
        }
        let name = in_folder.unwrap_or(&file.name);
        let name = name.strip_suffix(".html").unwrap_or(name);
        // A view of an offered template comes with it.
        if in_folder.is_some_and(|name| name.trim_end_matches(".html").contains('.') && name.ends_with(".html")) {
            continue;
        }
        let nearest = world.lineage.nearest(&file.name);
        let header = world.header(file_id);
        let reason = match (file.hidden_by, offers::reason_of(world, file)) {
            (Some(theme), _) => Some(format!("{} hides it", world.lineage.themes[theme].name)),
            (None, Some((reason, help))) => Some(format!("{reason}; {help}")),
            (None, None) if nearest != Some(file_id) => continue,
            (None, None) if world.program(file_id).is_none() => Some("it has an error".to_owned()),
            (None, None) if !fits(&header.fits, &world.site, content) => {
                Some(format!("it is for {}", header.fits.join(", ")))
            }
            (None, None) => None,
        };
        found.push(Choice {
            name: name.to_owned(),
            label: header.label.clone(),
            about: header.about.clone(),
            theme: world.lineage.theme_of(file_id).name.clone(),
            path: file.node.path.to_string(),
            reason,
        });
    }
    found.extend(outside(world));
    found.sort_by_key(|choice| choice.reason.is_some());
    found
}

/// Offered templates of themes outside the lineage.
fn outside(world: &World) -> Vec<Choice> {
    let inside = |name: &String| world.lineage.themes.iter().any(|theme| theme.name == *name);
    let themes = theme::names(&world.snapshot).into_iter().filter(|name| !inside(name));
    let themes = themes.filter_map(|name| theme::read(&world.snapshot, &name, &mut Vec::new()));
    let mut found = Vec::new();
    for theme in themes {
        let folder = format!("{}templates/offered/", theme.root);
        for node in world.snapshot.below(&folder) {
            let Some(name) = node.path[folder.len()..].strip_suffix(".html").filter(|name| !name.contains('.')) else {
                continue;
            };
            found.push(Choice {
                name: name.to_owned(),
                label: None,
                about: None,
                theme: theme.name.clone(),
                path: node.path.to_string(),
                reason: Some(format!("the theme {} is not in the lineage", theme.name)),
            });
        }
    }
    found
}

/// The content at an address that can choose a template.
///
/// # Errors
/// Why nothing there can.
pub fn chooser(world: &World, address: &str) -> Result<ContentId, Diagnostic> {
    let error = |message: String, help: String| Err(Diagnostic::of(&codes::NO_CONTENT, message).help(help));
    match world.route(address) {
        Routed::Redirect(to) => {
            error(format!("{address} redirects"), format!("name the address that it leads to: {to}"))
        }
        Routed::Request(request) if request.status == 404 && request.address != "/404.html" => {
            let near: Vec<&str> = crate::render::page::nearest_addresses(world, &request.address)
                .into_iter()
                .map(|(near, _)| near)
                .collect();
            let help = which_of(&near).unwrap_or_else(|| "\"hausblatt map\" lists every address".to_owned());
            error(format!("nothing is at {}", request.address), help)
        }
        Routed::Request(request) => match request.kind {
            Kind::Page(id) | Kind::Entry(id) | Kind::Front(crate::model::request::FrontOf::Page(id)) => Ok(id),
            _ => {
                let what = request.kind.word().unwrap_or("file");
                let (what, article) = (what, if what.starts_with(['e', 'o']) { "an" } else { "a" });
                let help = "give it a template of its own: hausblatt override ADDRESS --only"
                    .replace("ADDRESS", &request.address);
                error(format!("{} is {article} {what}: only pages and entries choose templates", request.address), help)
            }
        },
    }
}
