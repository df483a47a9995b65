//! Files that look as if editors should be offered them, and why they are not.

use hausblatt_lang::text::diagnostic::Diagnostic;
use hausblatt_lang::text::suggest::did_you_mean;

use crate::text::codes;
use crate::themes::file_name::Role;
use crate::themes::lineage::ThemeFile;
use crate::themes::theme::looks_offered;
use crate::world::World;

/// Where offered templates are.
const FOLDER: &str = "templates/offered/";

/// Warnings for the files of the lineage that say `label` or `for` and yet can't be chosen.
pub fn check(world: &World) -> Vec<Diagnostic> {
    let mut found = Vec::new();
    for file in &world.lineage.files {
        let Some(span) = looks_offered(&file.node) else { continue };
        if let Some((reason, help)) = reason_of(world, file) {
            let diagnostic = Diagnostic::of(&codes::NOT_OFFERED, format!("editors are not offered this: {reason}"));
            found.push(diagnostic.help(help).at(&file.node.path, span));
        }
    }
    found
}

/// Why the nearest file `offered/NAME.html` can't be chosen by any content, and what to do.
pub(crate) fn why_not_offered(world: &World, name: &str) -> Option<(String, String)> {
    let id = world.lineage.nearest(&format!("{FOLDER}{name}.html"))?;
    reason_of(world, world.lineage.file(id))
}

/// Why a file that looks offered can't be chosen by any content, and what to do; none if it can.
pub(crate) fn reason_of(world: &World, file: &ThemeFile) -> Option<(String, String)> {
    let name = &*file.name;
    let Some(rest) = name.strip_prefix(FOLDER) else {
        let stem = name.rsplit('/').next().unwrap_or(name);
        let place = name
            .rsplit_once('/')
            .map_or("it is beside the theme's folders".to_owned(), |(folder, _)| format!("it is in {folder}/"));
        return Some((place, format!("move it to {FOLDER}{stem}")));
    };
    if file.role != Role::Template || !name.ends_with(".html") {
        let stem = rest.split('.').next().unwrap_or(rest);
        return Some(("its name does not end in .html".to_owned(), format!("rename it to {FOLDER}{stem}.html")));
    }
    let header = world.lineage.all(name).iter().copied().find(|&id| world.lineage.file(id).theme == file.theme);
    let fits = header.map(|id| world.header(id).fits.clone()).unwrap_or_default();
    let collections = || world.site.collections.iter().map(|collection| collection.config.name.text.as_str());
    let lost = |fit: &String| {
        fit.strip_prefix("entry/").is_some_and(|name| !collections().any(|collection| collection == name))
    };
    if !fits.is_empty() && fits.iter().all(lost) {
        let wanted = fits[0].trim_start_matches("entry/");
        let help =
            did_you_mean(wanted, collections()).unwrap_or_else(|| match collections().collect::<Vec<_>>().as_slice() {
                [] => "this site has no collections; say for: page, or leave it out".to_owned(),
                names => format!("the collections are {}", names.join(", ")),
            });
        return Some((format!("it is for {}, which this site lacks", fits.join(", ")), help));
    }
    None
}

/// Why content can't have the offered template `name`, where there is a file that might be meant.
pub(crate) fn why_not(world: &World, name: &str) -> Option<String> {
    if let Some(theme) = world.lineage.outside(&world.snapshot, &format!("{FOLDER}{name}.html")) {
        return Some(format!("only the theme {theme} has it, which is not in the lineage"));
    }
    let elsewhere = world.lineage.files.iter().find(|file| {
        let stem = file.name.rsplit('/').next().and_then(|last| last.split('.').next());
        stem == Some(name) && matches!(file.role, Role::Template | Role::Partial | Role::Other)
    });
    elsewhere.map(|file| format!("offered templates are .html files in {FOLDER}, and {} is not one", file.node.path))
}
