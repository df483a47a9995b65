//! Components called from templates: what is given becomes what the fields are declared as, or is reported at the call.

use bumpalo::Bump;
use hausblatt_core::files::Snapshot;
use hausblatt_core::model::request::Routed;
use hausblatt_core::render::page::{Audience, page};
use hausblatt_core::{SiteOptions, world::World};
use hausblatt_lang::text::source::position;

const FIELDS: &str = "\
[[fields]]\nname = \"text\"\ntype = \"rich\"\n\
[[fields]]\nname = \"pic\"\ntype = \"image\"\n\
[[fields]]\nname = \"flip\"\ntype = \"yes-no\"\ndefault = true\n\
[[fields]]\nname = \"tone\"\ntype = \"choice\"\noptions = [\"warm\", \"cool\"]\ndefault = \"cool\"\n\
[[fields]]\nname = \"ground\"\ntype = \"color\"\n\
[[fields]]\nname = \"on\"\ntype = \"date\"\n\
[[fields]]\nname = \"to\"\ntype = \"link\"\n\
[[fields]]\nname = \"seats\"\ntype = \"number\"\nmax = 9\n\
[[fields]]\nname = \"rows\"\ntype = \"list\"\nfields = [ { name = \"to\", type = \"link\" }, { name = \"count\", type = \"number\", default = 7 } ]\n";

/// What the page at an address is, or what is said at the template's lines.
pub fn answer(files: &[(&str, &str)], address: &str) -> String {
    let base = [
        ("hausblatt.toml", "[site]\ntitle = \"S\"\ntheme = \"t\"\n[front]\npage = \"home\"\n"),
        ("themes/t/hausblatt-theme.toml", ""),
        ("themes/t/templates/fallback.html", "x"),
        ("themes/t/layouts/document.html", "+{slot}"),
        ("content/pages/home.md", "---\ntitle: Home & \"garden\"\nimage: /media/bed.svg\n---\n"),
        ("media/bed.svg", "<svg xmlns='http://www.w3.org/2000/svg' width='4' height='3'/>"),
    ];
    let kept = base.iter().filter(|(path, _)| !files.iter().any(|(other, _)| other == path)).chain(files);
    let world = World::load(Snapshot::in_memory(kept.copied()), SiteOptions::on("2026-11-23".parse().unwrap()));
    let world = world.unwrap_or_else(|problems| panic!("{problems:?}"));
    let Routed::Request(request) = world.route(address) else { panic!("{address} is redirected") };
    let arena = Bump::new();
    let answer = page(&world, request, Audience::Build(Default::default()), &arena);
    let mut all = world.problems.clone();
    all.extend(answer.diagnostics.iter().filter(|one| !world.problems.contains(one)).cloned());
    let told = all.iter().map(|one| {
        let place = one.place.as_ref().map(|place| {
            let text = world.snapshot.file(&place.path).and_then(|node| node.whole_text().ok()).unwrap_or_default();
            let at = position(&text, place.span.start);
            format!("{}:{}:{} ", place.path.rsplit('/').next().unwrap_or(""), at.line, at.column)
        });
        let help = one.help.as_ref().map(|help| format!(" | {help}")).unwrap_or_default();
        format!("{}{}: {}{help}", place.unwrap_or_default(), one.code, one.message)
    });
    let told: Vec<String> = told.collect();
    if told.is_empty() { answer.text } else { told.join("\n") }
}

fn called(shows: &str, given: &str) -> String {
    let front = format!("+{{component \"panel\" given {given}}}");
    let files = [
        ("themes/t/components/panel/component.toml", FIELDS),
        ("themes/t/components/panel/component.html", shows),
        ("themes/t/templates/front.html", &front),
    ];
    answer(&files, "/")
}

#[test]
fn what_a_call_gives_becomes_the_declared_type() {
    for (shows, given, expected) in [
        // A literal is Markdown, HTML stays, and what is computed is text, whoever wrote it.
        ("+{text}", "text = \"*a* <b>b</b>\"", "<p><em>a</em> <b>b</b></p>\n"),
        ("+{text}", "text = content.body", ""),
        ("+{text}", "text = content.title + \" *not*\"", "Home &amp; &quot;garden&quot; *not*"),
        ("+{text}", "text = markdown(\"*a*\")", "<p><em>a</em></p>\n"),
        ("+{text}", "text = 1 + 2", "3"),
        ("+{pic}+{pic.width}", "pic = \"media/bed.svg\"", "/media/bed.svg4"),
        (
            "+{pic}+{pic.width}+{pic.alt}",
            "pic = (file = \"media/\" + \"bed.svg\", alt = \"Bed\")",
            "/media/bed.svg4Bed",
        ),
        ("+{pic}+{pic.height}", "pic = content.image", "/media/bed.svg3"),
        ("+{if flip}a+{else}b+{end}", "flip = \"no\"", "b"),
        ("+{if flip}a+{else}b+{end}", "flip = content.date or \"no\"", "b"),
        ("+{if flip}a+{else}b+{end}", "flip = content.date", "a"),
        ("+{tone}", "tone = \"wa\" + \"rm\"", "warm"),
        ("+{tone}", "tone = nothing", "cool"),
        ("+{ground}", "ground = \"#FFF\"", "#FFF"),
        ("+{on.format(\"%d\")}", "on = \"2026-03-14\"", "14"),
        ("+{on.format(\"%d\")}", "on = \"2026-\" + \"03-15\"", "15"),
        ("+{to}", "to = \"page:home\"", "/"),
        ("+{to}", "to = \"page:\" + \"home\"", "/"),
        ("+{to}", "to = content", "/"),
        ("+{seats + 1}", "seats = 4", "5"),
        (
            "+{each r in rows}+{r.to} +{r.count};+{end}",
            "rows = [(to = \"page:home\"), (to = \"/x/\", count = 2)]",
            "/ 7;/x/ 2;",
        ),
        ("+{each r in rows}+{r.to} +{r.count};+{end}", "rows = (to = content, count = 1 + 1)", "/ 2;"),
    ] {
        assert_eq!(called(shows, given), expected, "{shows} {given}");
    }
}

#[test]
fn what_does_not_fit_is_reported_at_the_call() {
    for (given, expected) in [
        (
            "flip = \"true\"",
            "front.html:1:34 wrong-type: \"flip\" of the component \"panel\": this must be true, false, yes or no, not a text",
        ),
        (
            "flip = content.title",
            "front.html:1:34 wrong-type: \"flip\" of the component \"panel\": this must be true, false, yes or no, not a text",
        ),
        (
            "tone = \"worm\"",
            "front.html:1:34 wrong-type: \"tone\" of the component \"panel\": \"worm\" is not one of warm, cool",
        ),
        (
            "tone = \"wor\" + \"m\"",
            "front.html:1:34 wrong-type: \"tone\" of the component \"panel\": \"worm\" is not one of warm, cool; did you mean \"warm\"?",
        ),
        (
            "ground = \"grean\"",
            "front.html:1:36 wrong-type: \"ground\" of the component \"panel\": \"grean\" is not a valid colour; did you mean \"green\"?",
        ),
        (
            "ground = content.title",
            "front.html:1:36 wrong-type: \"ground\" of the component \"panel\": \"Home & \"garden\"\" is not a valid colour; write it as in \"#2f6f4e\"",
        ),
        (
            "on = \"14.3.\"",
            "front.html:1:32 wrong-type: \"on\" of the component \"panel\": \"14.3.\" is not a valid date; write it as in 2026-03-14",
        ),
        (
            "on = content.title",
            "front.html:1:32 wrong-type: \"on\" of the component \"panel\": \"Home & \"garden\"\" is not a valid date; write it as in 2026-03-14",
        ),
        (
            "on = 5",
            "front.html:1:27 wrong-type: \"on\" of the component \"panel\" is a date, and this is a number | give a date, as its component.toml declares it",
        ),
        (
            "to = \"page:hme\"",
            "front.html:1:32 dead-reference: \"to\" of the component \"panel\": broken link \"page:hme\": nothing has this address | did you mean \"page:home\"?",
        ),
        (
            "to = \"page:\" + content.id + \"x\"",
            "front.html:1:32 wrong-type: \"to\" of the component \"panel\": broken link \"page:homex\": nothing has this address",
        ),
        (
            "pic = \"media/bad.svg\"",
            "front.html:1:33 missing-media: \"pic\" of the component \"panel\": there is no file media/bad.svg | did you mean \"media/bed.svg\"?",
        ),
        (
            "pic = content",
            "front.html:1:33 wrong-type: \"pic\" of the component \"panel\": this must be an image, not a page: give its .image",
        ),
        ("seats = 10", "front.html:1:35 wrong-type: \"seats\" of the component \"panel\": this must be at most 9"),
        ("seats = 5 + 5", "front.html:1:35 wrong-type: \"seats\" of the component \"panel\": this must be at most 9"),
        (
            "rows = [(cuont = 1)]",
            "front.html:1:44 wrong-type: \"rows\" of the component \"panel\": there is no field \"cuont\" here; did you mean \"count\"?",
        ),
        (
            "rows = [(count = content.title)]",
            "front.html:1:34 wrong-type: \"rows\" of the component \"panel\": \"count\": this must be a number, not a text",
        ),
    ] {
        assert_eq!(called("+{text}", given), expected, "{given}");
    }
}
