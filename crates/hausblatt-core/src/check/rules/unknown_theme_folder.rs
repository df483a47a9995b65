//! A folder of a theme whose name is nearly one that Hausblatt knows.

use std::collections::BTreeMap;

use hausblatt_lang::text::code::Code;
use hausblatt_lang::text::diagnostic::{Diagnostic, Severity};
use hausblatt_lang::text::source::Span;
use hausblatt_lang::text::suggest::is_slip;

use crate::check::{Check, Look};
use crate::themes::file_name::Role;
use crate::themes::theme::FOLDERS;
use crate::world::World;

/// The check.
pub(crate) const CHECK: Check = Check {
    code: Code {
        name: "unknown-theme-folder",
        severity: Severity::Warning,
        about: "a folder of a theme is nearly named like one that is used",
        explanation: "Only templates/, partials/, layouts/, components/, prepare/ and assets/ are used. The files of this folder are part of no page.",
    },
    look: Look::Site(look),
};

fn look(world: &World) -> Vec<Diagnostic> {
    let mut first: BTreeMap<(usize, &str), &str> = BTreeMap::new();
    for file in world.lineage.files.iter().filter(|file| file.role == Role::Other) {
        if let Some((folder, _)) = file.name.split_once('/') {
            first.entry((file.theme, folder)).or_insert(&file.node.path);
        }
    }
    let found = first.into_iter().filter_map(|((_, folder), path)| {
        let known = FOLDERS.iter().map(|known| known.trim_end_matches('/'));
        let lower = folder.to_lowercase();
        let meant = known.into_iter().find(|known| *known != folder && is_slip(&lower, known))?;
        let message = format!("the folder \"{folder}\" of a theme is not used");
        let help = format!("rename it to \"{meant}\"");
        Some(Diagnostic::of(&CHECK.code, message).help(help).at(&path.into(), Span::default()))
    });
    found.collect()
}

#[cfg(test)]
mod tests {
    use crate::check::tests::told;

    #[test]
    fn finds_it_once_for_each_folder() {
        let files = [
            ("themes/t/template/a.html", "1"),
            ("themes/t/template/b.html", "1"),
            ("themes/t/Layouts/c.html", "1"),
            ("themes/t/notes/d.txt", "1"),
        ];
        let expected = ["themes/t/Layouts/c.html:1", "themes/t/template/a.html:1"];
        assert_eq!(told(super::CHECK.code.name, &files), expected);
    }
}
