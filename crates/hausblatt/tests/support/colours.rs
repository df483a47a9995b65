//! What an editor colours: tags as tags, and all that is around them as if the tags were letters.

use hausblatt_lang::syntax::lex::{TokenKind, lex};
use hausblatt_lang::text::diagnostic::Problems;

use crate::support::Site;

/// Files that are harder than those of the demo.
const ODD: &[(&str, &str)] = &[
    (
        "themes/loam/templates/odd.html",
        "<a href=\"+{url(\"page:visit\")}\" title='+{\"its\" + 'a'}' class=+{x}>t</a>\n\
         <!-- +{content.title} and ++{text} -->\n\
         <style>.a { color: +{x}; background: url(\"+{asset(\"a.png\")}\") } /* +{x} */ .b { width: 1px }</style>\n\
         <script>let a = \"+{x}\"; /* +{\"}\"} */ const b = `+{x + \"a}b\"}`; c() /* } */</script>\n\
         <h+{level} id=\"x+{n}\">+++{x} ++{y} +{\"\\\"}\" + '}'}</h+{level}>\n\
         +{# a +{# nested } #} still <b> \"x #}<b>bold</b>\n\
         <p>+{each x in list\n  where x.a == \"<p>\"\n  limit 3}+{x}+{end}</p>\n\
         <em>\u{fc} +{b} c</em><title>+{slot \"title\" else}a+{end}</title><p>end</p>\n",
    ),
    (
        "themes/loam/templates/odd.json",
        "{ \"a\": \"+{x}\", \"b\": [+{each x in y}{ \"c\": +{x.n} }+{between}, +{end}], \"d\": \"++{\" }\n",
    ),
    (
        "themes/loam/templates/odd.xml",
        "<a b=\"+{\"x\" + y}\" c='+{z}'><!-- +{q} --><d>+{e}</d><![CDATA[ +{f} ]]></a>\n",
    ),
    ("themes/loam/templates/odd.txt", "Plain +{x} \"its\" +{a + '}'} ++{b}\n"),
];

/// Holds the names that an editor gives to each byte of each line of files, over all files of the demo's themes and odd ones.
pub fn tell_tags_from_what_is_around(names: impl Fn(&[String]) -> Vec<Vec<String>>) {
    let (site, plain) = (Site::demo(), Site::demo());
    for (path, text) in ODD {
        site.write(path, text);
    }
    let is_printed = |path: &str| [".html", ".xml", ".json", ".txt"].iter().any(|ending| path.ends_with(ending));
    let files: Vec<String> = site
        .tree("themes")
        .into_iter()
        .map(|(path, _)| format!("themes/{path}"))
        .filter(|path| is_printed(path))
        .collect();
    let mut texts = Vec::new();
    for path in &files {
        let text = site.read(path);
        let tokens = lex(&text, 0, &mut Problems::new(&"".into()));
        let is_tag = |kind| matches!(kind, TokenKind::Tag | TokenKind::Comment);
        // The same file with letters in place of its tags: what is around them has the same names there.
        let letters = tokens.iter().map(|token| match is_tag(token.kind) {
            true => token.span.of(&text).bytes().map(|byte| if byte == b'\n' { '\n' } else { 'x' }).collect(),
            false => token.span.of(&text).to_owned(),
        });
        plain.write(path, letters.collect::<String>());
        let tags: Vec<_> = tokens.iter().filter(|token| is_tag(token.kind)).map(|token| token.span.range()).collect();
        texts.push((text, tags));
    }
    let all = |site: &Site| {
        let paths: Vec<String> = files.iter().map(|path| site.path(path).display().to_string()).collect();
        names(&paths)
    };
    let (found, wanted) = (all(&site), all(&plain));
    let (mut number, mut bytes, mut wrong) = (0, 0, Vec::new());
    for (path, (text, tags)) in files.iter().zip(&texts) {
        let mut at = 0;
        for line in text.split_inclusive('\n') {
            for byte in 0..line.trim_end_matches('\n').len() {
                let names = found[number][byte].as_str();
                let is_tag = tags.iter().any(|tag| tag.contains(&(at + byte)));
                let is_right = match is_tag {
                    true => names.split(' ').next_back().is_some_and(|name| name.contains("hausblatt")),
                    false => names == wanted[number][byte],
                };
                bytes += 1;
                if !is_right {
                    wrong.push(format!("{path} byte {}: {names:?}, not {:?}", at + byte, wanted[number][byte]));
                }
            }
            at += line.len();
            number += 1;
        }
    }
    assert!(bytes > 10_000, "{bytes}");
    assert!(wrong.is_empty(), "{} of {bytes}\n{}", wrong.len(), wrong[..wrong.len().min(20)].join("\n"));
}
