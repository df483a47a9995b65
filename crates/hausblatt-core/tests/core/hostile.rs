//! Hostile texts stay texts, whatever way they come into a page.

use crate::components::answer;

/// A text that would be a script, were it printed as it is, and that ends quotes of both sorts.
const TEXT: &str = "\"'><script>alert(1)</script>&";

const SITE: &str = "[site]\ntitle = \"S\"\ntheme = \"t\"\n[front]\npage = \"home\"\n[pages.fields]\nfriend = { type = \"entry\", collection = \"notes\" }\n[collections.notes]\naddress = \"/notes/{slug}/\"\nlisting = \"/notes/\"\nviews = [\"print\"]\n[taxonomies.bed]\nof = [\"notes\"]\naddress = \"/beds/{term}/\"\n[routes.press]\naddress = \"/press/\"\nquery = [\"size\"]\nvalues = { intro = TEXT, on = [TEXT] }\nitems = \"notes\"\n";

/// What gives a hostile text, on the front and on a route; each is printed in a text, an attribute and a script.
const ON_FRONT: &[&str] = &[
    "(name = content.title, end = 1).name",
    "(\"@type\" = content.title)[\"@type\"]",
    "(notes select it.title).join(\", \")",
    "(notes select it.title).max",
    "[content.title, \"~\"].min",
    "[content.title].common([content.title]).first",
    "if [content.title].has_any([content.title]) then content.title else \"\"",
    "\"7\".pad(20, content.title)",
    "content.headings.first.text",
    "entry(\"notes/frost\").title",
    "page(\"home\").title",
    "content.friend.title",
    "(notes group by it.title).first.key",
    "notes.first.bed.first.label",
    "classes.join(\" \")",
    "content.title.split(\">\").last",
];
const ON_ROUTE: &[&str] =
    &["route.values.intro", "route.values.on.first", "request.query.size", "listing.items.first.title"];

fn files(expression: &str, template: &str) -> Vec<(String, String)> {
    let quoted = TEXT.replace('"', "\\\"");
    let page = format!("---\ntitle: \"{quoted}\"\nfriend: frost\n---\n# {}\n\nText.\n", TEXT.replace('<', "\\<"));
    let note = format!("---\ntitle: \"{quoted}\"\nbed: [\"{quoted}\"]\n---\nCold.\n");
    let html = format!(
        "---\nclasses: ['{}']\n---\n<p>+{{{expression}}}</p><p title=\"+{{{expression}}}\">1</p><script type=\"application/json\">+{{{expression}}}</script>",
        TEXT.replace('\'', "''"),
    );
    let all = [
        ("hausblatt.toml", SITE.replace("TEXT", &format!("\"{quoted}\""))),
        ("content/pages/home.md", page),
        ("content/notes/frost.md", note),
        (template, html),
    ];
    all.into_iter().map(|(path, text)| (path.to_owned(), text)).collect()
}

#[test]
fn hostile_texts_stay_texts_through_every_way() {
    let front = ON_FRONT.iter().map(|one| (*one, "themes/t/templates/front.html", "/"));
    let size: String = TEXT.bytes().map(|byte| format!("%{byte:02X}")).collect();
    let press = format!("/press/?size={size}");
    let route = ON_ROUTE.iter().map(|one| (*one, "themes/t/templates/route/press.html", press.as_str()));
    for (expression, template, address) in front.chain(route) {
        let files = files(expression, template);
        let files: Vec<(&str, &str)> = files.iter().map(|(path, text)| (path.as_str(), text.as_str())).collect();
        let page = answer(&files, address);
        assert!(page.contains("alert(1)") || expression.contains("split"), "{expression}: {page}");
        // The text's own script is not a tag, and no quote of its own ends an attribute.
        assert_eq!(page.matches("<script").count(), 1, "{expression}: {page}");
        assert_eq!(page.matches("</script").count(), 1, "{expression}: {page}");
        let attribute = page.split_once("title=\"").unwrap().1.split_once("\">1</p>").unwrap().0;
        assert!(!attribute.contains(['"', '<']), "{expression}: {page}");
    }
}

#[test]
fn hostile_texts_stay_texts_in_components_and_trays() {
    let quoted = TEXT.replace('"', "\\\"");
    let page = format!(
        "---\ntrays:\n  main:\n    - component: card\n      text: \"{quoted}\"\n---\nA\n\n<!-- tray main -->\n\nB\n"
    );
    let call = "+{content.body}+{component \"card\" given text = request.title, rich = request.title}";
    let files = [
        ("content/pages/home.md", page.as_str()),
        (
            "themes/t/components/card/component.toml",
            "[[fields]]\nname = \"text\"\ntype = \"text\"\nlabel = \"Text\"\n[[fields]]\nname = \"rich\"\ntype = \"rich\"\nlabel = \"Rich\"\n",
        ),
        ("themes/t/components/card/component.html", "<p title=\"+{text}\">+{text}</p><div>+{rich}</div>"),
        ("themes/t/templates/front.html", call),
    ];
    let site = format!("[site]\ntitle = \"{quoted}\"\ntheme = \"t\"\n[front]\npage = \"home\"\n");
    let title = page.replacen("---\n", &format!("---\ntitle: \"{quoted}\"\n"), 1);
    let mut with_title = files.to_vec();
    with_title[0].1 = &title;
    with_title.push(("hausblatt.toml", &site));
    let page = answer(&with_title, "/");
    assert!(!page.contains("<script") && page.matches("alert(1)").count() >= 4, "{page}");
}
