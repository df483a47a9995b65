//! The text is not proper HTML.

use crate::check::parsed::Trouble;
use crate::check::view::{PageProblem, View};
use crate::check::{Check, Look};
use hausblatt_lang::text::code::Code;
use hausblatt_lang::text::diagnostic::Severity;

/// The check.
pub(crate) const CHECK: Check = Check {
    code: Code {
        name: "bad-markup",
        severity: Severity::Warning,
        about: "the text is not valid HTML",
        explanation: "The parser met characters that HTML does not allow here: a tag without its end, a stray quote, a reference to a character without its semicolon. Browsers guess what was meant, each page in its own way.",
    },
    look: Look::Page(look),
};

fn look(view: &View<'_>, found: &mut Vec<PageProblem>) {
    view.troubles(Trouble::Markup, found, |what| {
        let help = "a \"<\" that begins no tag is written &lt;, an \"&\" that begins no reference &amp;";
        (format!("browsers can only guess what this means: {what}"), help)
    });
}

#[cfg(test)]
mod tests {
    use crate::check::tests::{in_page, quiet_page};

    #[test]
    fn finds_it_at_its_line() {
        in_page(super::CHECK.code.name, "<p>1</p>\n<p class=\"a\"id=\"b\">2</p>", 2);
        in_page(super::CHECK.code.name, "<p>1</p>\n<p>3 < 4</p>", 2);
        quiet_page("<p>1 &lt; 2 &amp; 3 &lt; 4 &copy; AT&T</p>");
    }
}
