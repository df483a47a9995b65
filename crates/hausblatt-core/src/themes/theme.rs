//! Themes: their manifests, and the header of a theme file.

use std::sync::Arc;

use hausblatt_lang::text::codes as lang_codes;
use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::source::Span;
use hausblatt_lang::text::suggest::did_you_mean;
use hausblatt_lang::value::datum::{Datum, DatumList};
use semver::{Version, VersionReq};

use crate::files::{FileNode, Snapshot};
use crate::schema::config::Spanned;
use crate::text::codes;
use crate::text::data::{Data, DataValue, Entry};
use crate::text::reader::{DataReader, named};
use crate::text::toml_data;
use crate::themes::file_name::Role;

/// The name of a theme's manifest.
pub(crate) const MANIFEST: &str = "hausblatt-theme.toml";

/// The folders of a theme that pages are made of.
pub(crate) const FOLDERS: &[&str] = &["templates/", "partials/", "layouts/", "components/", "prepare/", "assets/"];

/// Whether a file of this name, a path from its theme, is in one of the folders that pages are made of.
pub fn is_in_folder(name: &str) -> bool {
    FOLDERS.iter().any(|folder| name.starts_with(folder))
}

/// A theme as its manifest describes it.
#[derive(Clone, Debug)]
pub struct Theme {
    /// Its folder's name.
    pub name: String,
    /// The path of its manifest.
    pub manifest: Arc<str>,
    /// Where its folders are, ending in `/`.
    pub root: String,
    /// Its version, if it says one.
    pub version: Option<String>,
    /// What it is, in a sentence.
    pub about: Option<String>,
    /// The theme that it is a child of.
    pub parent: Option<Spanned>,
    /// The versions of the parent that it is written for.
    pub parent_version: Option<Spanned>,
    /// Ancestors' files that it wants gone.
    pub hide: Vec<Spanned>,
    /// The settings that it declares, as they are written.
    pub settings: Vec<Entry>,
    /// What it says that it needs from a site, as it is written; none where it does not say.
    pub needs: Option<Vec<Entry>>,
    /// Where it says so.
    pub needs_span: Span,
}

/// The names of the themes in a site.
pub fn names(snapshot: &Snapshot) -> Vec<String> {
    let manifests = snapshot.below("themes/").filter_map(|node| {
        node.path.strip_prefix("themes/")?.strip_suffix(MANIFEST)?.strip_suffix('/').map(str::to_owned)
    });
    manifests.filter(|name| !name.contains('/')).collect()
}

/// Reads the manifest of the theme `name`; none if there is none.
pub fn read(snapshot: &Snapshot, name: &str, problems: &mut Vec<Diagnostic>) -> Option<Theme> {
    let path: Arc<str> = format!("themes/{name}/{MANIFEST}").into();
    let node = snapshot.file(&path)?;
    let before = problems.len();
    problems.extend(node.unreadable());
    let entries = node.text().map(|text| toml_data::read(&path, text, problems)).unwrap_or_default();
    if problems.len() > before {
        return Some(Theme {
            name: name.to_owned(),
            manifest: path,
            root: format!("themes/{name}/"),
            version: None,
            about: None,
            parent: None,
            parent_version: None,
            hide: Vec::new(),
            settings: Vec::new(),
            needs: None,
            needs_span: Span::default(),
        });
    }
    let mut top = DataReader::new(&path, MANIFEST, &entries, Span::default(), problems);
    let theme = top.map("theme");
    let settings = top.map("settings").map(|(entries, _)| entries.to_vec()).unwrap_or_default();
    let needs = top.map("needs").map(|(entries, span)| (entries.to_vec(), span));
    top.finish();
    let (entries, span) = theme.unwrap_or((&[], Span::default()));
    let mut reader = DataReader::new(&path, "[theme]", entries, span, problems);
    let version = reader.text("version").map(|(version, _)| version.to_owned());
    let parent = reader.text("parent").map(|(text, span)| Spanned { text: text.to_owned(), span });
    let parent_version = reader.text("parent_version").map(|(text, span)| Spanned { text: text.to_owned(), span });
    let about = reader.text("about").map(|(about, _)| about.to_owned());
    let hide = reader
        .texts("hide")
        .unwrap_or_default()
        .into_iter()
        .map(|(text, span)| Spanned { text: text.to_owned(), span })
        .collect();
    let stated = reader.text("root");
    reader.finish();
    let folder = stated.map_or("", |(root, _)| root.trim_matches('/'));
    problems.extend(wrong_root(snapshot, name, stated).map(|problem| match stated {
        Some((_, span)) => problem.at(&path, span),
        None => problem.at(&path, Span::default()),
    }));
    let root = if folder.is_empty() { format!("themes/{name}/") } else { format!("themes/{name}/{folder}/") };
    let needs_span = needs.as_ref().map_or(Span::default(), |(_, span)| *span);
    let needs = needs.map(|(entries, _)| entries);
    Some(Theme {
        name: name.to_owned(),
        manifest: path,
        root,
        version,
        about,
        parent,
        parent_version,
        hide,
        settings,
        needs,
        needs_span,
    })
}

/// What is wrong with the version of a theme's parent, if the theme says for which it is written.
pub(crate) fn wrong_parent_version(theme: &Theme, parent: Option<&Theme>) -> Option<Diagnostic> {
    let wanted = theme.parent_version.as_ref()?;
    let wrong = |message: String, help: String| {
        Some(Diagnostic::of(&codes::PARENT_VERSION, message).help(help).at(&theme.manifest, wanted.span))
    };
    let Ok(range) = VersionReq::parse(&wanted.text) else {
        let message = format!("\"{}\" is not a range of versions", wanted.text);
        return wrong(message, "write it as in parent_version = \">=2.1, <3\"".to_owned());
    };
    let Some(parent) = parent else {
        let message = format!("{} has no parent whose version could be {}", theme.name, wanted.text);
        return wrong(message, "write parent = \"…\", or take \"parent_version\" out".to_owned());
    };
    let needs = format!("{} is written for {} {}", theme.name, parent.name, wanted.text);
    let Some(version) = &parent.version else {
        let help = format!("write version = \"1.0.0\" under [theme] of {}", parent.manifest);
        return wrong(format!("{needs}, which has no version"), help);
    };
    match Version::parse(version) {
        Err(_) => {
            let help = format!(
                "versions have three numbers, as in 1.2.0 (Semantic Versioning); look into {}",
                parent.manifest
            );
            wrong(format!("{needs}, and \"{version}\" is not a semantic version"), help)
        }
        Ok(own) if !range.matches(&own) => {
            let help = format!("put a version into {} that fits, or change \"parent_version\"", parent.root);
            wrong(format!("{needs}, and this is {version}"), help)
        }
        Ok(_) => None,
    }
}

/// What is wrong with the folder in which a theme says that its files are, or with its saying nothing.
fn wrong_root(snapshot: &Snapshot, name: &str, stated: Option<(&str, Span)>) -> Option<Diagnostic> {
    let theme = format!("themes/{name}/");
    let below: Vec<&str> = snapshot.below(&theme).filter_map(|node| node.path.strip_prefix(&theme)).collect();
    let has_files = |root: &str| below.iter().any(|path| path.strip_prefix(root).is_some_and(is_in_folder));
    // The folders in which a root could be, each ending in "/".
    let mut roots: Vec<&str> = below
        .iter()
        .flat_map(|path| FOLDERS.iter().filter_map(|folder| Some(&path[..path.find(&format!("/{folder}"))? + 1])))
        .filter(|root| !is_in_folder(root) && !root.starts_with('.'))
        .collect();
    roots.sort_unstable();
    roots.dedup();
    let right = || match (has_files(""), roots.as_slice()) {
        (true, _) => "the theme's folders are beside the manifest: leave \"root\" out".to_owned(),
        (false, [root]) => format!("its folders are in {root}: write root = \"{}\"", root.trim_end_matches('/')),
        (false, _) => "write the folder in which templates/ is, as in root = \"theme-files\"".to_owned(),
    };
    let Some((root, _)) = stated else {
        let [root] = roots.as_slice() else { return None };
        if has_files("") {
            return None;
        }
        let message = format!("the theme's folders are in {root}, where nothing looks for them");
        return Some(Diagnostic::of(&codes::BAD_ROOT, message).help(right()));
    };
    let message = if root.trim_matches('/').is_empty() {
        "\"root\" names no folder".to_owned()
    } else if root.starts_with('/') || root.split('/').any(|part| part == "..") {
        format!("the root \"{root}\" is not a folder of this theme")
    } else if !has_files(&format!("{}/", root.trim_end_matches('/'))) && (has_files("") || !roots.is_empty()) {
        format!("none of the theme's files are in its root \"{root}\"")
    } else {
        return None;
    };
    Some(Diagnostic::of(&codes::BAD_ROOT, message).help(right()))
}

/// Where a file's front matter says `label` or `for`, as those of offered templates do.
pub(crate) fn looks_offered(node: &FileNode) -> Option<Span> {
    if !node.text()?.starts_with("---") || node.path.ends_with(".toml") || node.path.ends_with(".let") {
        return None;
    }
    let entries = &node.front().entries;
    entries.iter().find(|entry| matches!(&*entry.key, "label" | "for")).map(|entry| entry.span)
}

/// The keys of a theme file's front matter, in the order in which they are written.
pub const HEADER_KEYS: &[&str] = &["label", "about", "for", "layout", "classes", "takes"];

/// What a theme file's front matter says about it.
#[derive(Clone, Debug, Default)]
pub struct Header {
    /// What editors call an offered template.
    pub label: Option<String>,
    /// What the template is for, in a sentence.
    pub about: Option<String>,
    /// What an offered template is for; empty fits all.
    pub fits: Vec<String>,
    /// Which layout goes around it.
    pub layout: Option<Spanned>,
    /// What a template adds to `classes`.
    pub classes: Vec<String>,
    /// What it takes, and each parameter's default; none if it does not say.
    pub takes: Option<Vec<(String, Option<Datum>)>>,
    /// First byte after the front matter.
    pub body: usize,
}

/// Reads the header of a theme file.
pub fn header(node: &FileNode, role: Role, problems: &mut Vec<Diagnostic>) -> Header {
    let front = node.front();
    if let Some(problem) = &front.problem {
        let diagnostic =
            Diagnostic::of(&codes::FRONT_MATTER, problem.message.clone()).maybe_help(problem.help.map(str::to_owned));
        problems.push(diagnostic.at(&node.path, problem.span));
    }
    let mut reader = DataReader::new(&node.path, "the front matter", &front.entries, Span::default(), problems);
    let label = reader.text("label").map(|(label, _)| label.to_owned());
    let about = reader.text("about").map(|(about, _)| about.to_owned());
    let fits = reader.entry("for").map(|entry| &entry.data);
    let layout = reader.text("layout").map(|(text, span)| Spanned { text: text.to_owned(), span });
    let takes = reader.entry("takes").map(|entry| &entry.data);
    let classes = if role == Role::Template { reader.entry("classes").map(|entry| &entry.data) } else { None };
    let fits = fits.map(|data| fitting(data, &mut reader)).unwrap_or_default();
    let takes = takes.map(|data| parameters(data, role, &mut reader));
    let classes = classes.map(|data| class_names(data, &mut reader)).unwrap_or_default();
    reader.finish();
    Header { label, about, fits, layout, classes, takes, body: front.body }
}

fn class_names(data: &Data, reader: &mut DataReader<'_, '_>) -> Vec<String> {
    let one = std::slice::from_ref(data);
    let mut names = Vec::new();
    for name in data.as_list().unwrap_or(one) {
        match name.as_text() {
            Some(text) if !text.is_empty() && !text.contains(char::is_whitespace) => names.push(text.to_owned()),
            _ => {
                let help = "write them as in classes: [wide, quiet]".to_owned();
                reader.error(&codes::WRONG_VALUE, name.span, "a class is a word without spaces", help);
            }
        }
    }
    names
}

fn fitting(data: &Data, reader: &mut DataReader<'_, '_>) -> Vec<String> {
    let one = std::slice::from_ref(data);
    let kinds = data.as_list().unwrap_or(one);
    let mut fits = Vec::new();
    for kind in kinds {
        match kind.as_text() {
            Some(text)
                if text == "page"
                    || text == "entry"
                    || text.strip_prefix("entry/").is_some_and(|name| !name.is_empty()) =>
            {
                fits.push(text.to_owned())
            }
            _ => {
                let help = kind
                    .as_text()
                    .and_then(|text| did_you_mean(text, ["page", "entry"]))
                    .unwrap_or_else(|| "write page, entry or entry/COLLECTION".to_owned());
                reader.error(&codes::WRONG_VALUE, kind.span, "this is nothing that a template can be for", help);
            }
        }
    }
    fits
}

/// A parameter's default: a text, a number, true, false or a list of these.
fn default(data: &Data) -> Datum {
    match &data.value {
        DataValue::Nothing | DataValue::Map(_) => Datum::Nothing,
        DataValue::Bool(truth) => Datum::Bool(*truth),
        DataValue::Int(number) => Datum::Int(*number),
        DataValue::Float(number) => Datum::Float(*number),
        DataValue::Text(text) => Datum::text(text),
        DataValue::List(members) => Datum::List(DatumList(members.iter().map(default).collect())),
    }
}

fn parameters(data: &Data, role: Role, reader: &mut DataReader<'_, '_>) -> Vec<(String, Option<Datum>)> {
    let Some(entries) = data.as_map() else {
        if data.value != DataValue::Nothing {
            reader.error(
                &lang_codes::WRONG_TYPE,
                data.span,
                "\"takes\" is a group of parameters",
                "write it as in takes: { size: small, entry: }".to_owned(),
            );
        }
        return Vec::new();
    };
    let mut parameters = Vec::new();
    for (name, span, value) in named(entries) {
        let default = match &value.value {
            DataValue::Nothing => None,
            DataValue::Text(text) if &**text == "nothing" => Some(Datum::Nothing),
            _ => Some(default(value)),
        };
        let word = name.chars().all(|c| c.is_alphanumeric() || c == '_')
            && name.starts_with(|c: char| c.is_alphabetic() || c == '_');
        if !word || !hausblatt_lang::may_name(name) {
            reader.error(
                &codes::BAD_NAME,
                span,
                format!("\"{name}\" can't name a parameter"),
                "use letters, digits and underscores, and no word of the language".to_owned(),
            );
        } else if role == Role::Template && default.is_none() {
            reader.error(
                &codes::REQUIRED_PARAMETER,
                span,
                format!("nothing can give a template its parameter \"{name}\""),
                "write a default after it, or nothing".to_owned(),
            );
        }
        parameters.push((name.to_owned(), default));
    }
    parameters
}
