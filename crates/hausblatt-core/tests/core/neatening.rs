//! Theme files written neatly: the demo, disfigured, builds the same bytes when it is neat again.

use hausblatt_core::SiteOptions;
use hausblatt_core::change::changes::changed;
use hausblatt_core::change::neaten::neaten;
use hausblatt_core::files::Snapshot;
use hausblatt_core::files::edit::Write;
use hausblatt_core::files::memory::Memory;
use hausblatt_core::world::World;

use crate::support::{asking, demo, pages, snapshot};

fn world(snapshot: &Snapshot, theme: &str) -> World {
    World::load(snapshot.clone(), SiteOptions { theme: Some(theme.to_owned()), ..asking() }).unwrap()
}

/// A site with all its themes neat, and how many files were changed for that.
fn neat(mut snapshot: Snapshot) -> (Snapshot, usize) {
    let mut count = 0;
    for theme in ["harbour", "hedgerow", "loam"] {
        let neatening = neaten(&world(&snapshot, theme), &[]).unwrap();
        assert_eq!(neatening.left, [""; 0]);
        count += neatening.changed.len();
        let writes: Vec<Write> = neatening.changed.into_iter().map(|one| one.write).collect();
        snapshot = changed(&snapshot, &writes);
    }
    (snapshot, count)
}

/// The demo with the tags of its themes written in another way that means the same.
fn disfigured() -> Memory {
    let files = demo();
    for (path, bytes) in files.all() {
        let path = path.strip_prefix("/").unwrap();
        let (Ok(text), true) = (String::from_utf8(bytes.to_vec()), path.starts_with("themes")) else { continue };
        if path.extension().is_none_or(|ending| ending != "html") {
            continue;
        }
        let text = text.replace("+{end}", "+{  end }").replace("+{if ", "+{if   ").replace(" given ", "  given  ");
        let lines = text.lines().enumerate().map(|(at, line)| match line.trim_start().starts_with("+{  end }") {
            true => format!("{}{}\n", " ".repeat(at % 5), line.trim_start()),
            false => format!("{line}\n"),
        });
        files.write(path, lines.collect::<String>());
    }
    files
}

#[test]
fn the_demo_is_neat_and_becomes_so_again_with_every_byte_that_it_prints() {
    let (same, count) = neat(snapshot(&demo()));
    assert_eq!(count, 0);
    let before = pages(&world(&same, "harbour"));
    let odd = snapshot(&disfigured());
    assert_eq!(pages(&world(&odd, "harbour")), before);
    let (again, count) = neat(odd);
    assert!(count > 20, "{count}");
    assert_eq!(pages(&world(&again, "harbour")), before);
    for node in same.below("themes/").filter(|node| node.path.ends_with(".html")) {
        assert_eq!(again.file(&node.path).unwrap().text(), node.text(), "{}", node.path);
    }
}

#[test]
fn the_keys_of_front_matter_get_one_order_and_take_their_comments_along() {
    let files = |head: &str| {
        let files = Memory::of([
            ("hausblatt.toml", "[site]\ntitle = \"Seeds\"\ntheme = \"bare\"\n"),
            ("themes/bare/hausblatt-theme.toml", ""),
            ("themes/bare/templates/fallback.html", "1"),
        ]);
        files.write("themes/bare/templates/offered/calm.html", format!("{head}1\n"));
        let world = world(&snapshot(&files), "bare");
        let neatening = neaten(&world, &["calm".to_owned()]).unwrap();
        let bytes = neatening.changed.first().and_then(|one| one.write.bytes.clone());
        bytes.map_or("as it is".to_owned(), |bytes| String::from_utf8(bytes).unwrap())
    };
    assert_eq!(
        files("---\nlayout: none\n# who sees it\nfor:\n  - page\n\nlabel: Calm   # its name\n---\n"),
        "---\nlabel: Calm   # its name\n# who sees it\nfor:\n  - page\n\nlayout: none\n---\n1\n"
    );
    for head in ["---\nlabel: Calm\nfor: [page]\n---\n", "---\n{ layout: none, label: Calm }\n---\n", "---\n---\n"] {
        assert_eq!(files(head), "as it is");
    }
}
