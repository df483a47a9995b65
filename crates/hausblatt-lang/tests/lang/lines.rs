//! White space: what belongs to how a file is written and not to what it prints.

use crate::support::Files;

#[test]
fn partials_are_cut_at_their_ends() {
    for (call, partial, expected) in [
        ("a+{partial 'p'}b", "\n  x y\n\n", "ax yb"),
        ("a+{partial 'p'}b", " +{let x = 1} \n +{x} ", "a1b"),
        ("a+{partial 'p'}b", "\n+{if true}\n  <i>1</i>\n+{else}\n  2\n+{end}\n", "a<i>1</i>b"),
        // What values print stays, and so do the rounds of a loop.
        ("a+{partial 'p'}b", " +{' '}x+{' '} ", "a x b"),
        ("a+{partial 'p'}b", "+{each n in [1, 2]} +{n}+{end}", "a 1 2b"),
        ("a+{partial 'p'}b", "+{# #} \n +{# #}", "ab"),
        // Inside what keeps white space, nothing is cut, at whatever depth.
        ("<pre>a+{partial 'p'}b</pre>", " x ", "<pre>a x b</pre>"),
        ("<pre>a+{partial 'outer'}b</pre>", " x ", "<pre>a[ x ]b</pre>"),
        ("<pre></pre>a+{partial 'p'}b", " x ", "<pre></pre>axb"),
        ("<pre>+{partial 'panel' with} +{partial 'p'} +{end}</pre>", " x ", "<pre>(  x  )</pre>"),
        ("<pre>+{if true}</pre>a+{partial 'p'}<pre>+{end}</pre>", " x ", "<pre></pre>ax<pre></pre>"),
    ] {
        let files = [("t", call), ("p", partial), ("outer", "[+{partial 'p'}]"), ("panel", "(+{slot})")];
        assert_eq!(Files::new(&files).run(), expected, "{call}");
    }
    let text = Files::new(&[("t.txt", "a+{partial 'p'}b"), ("p.txt", " x ")]);
    assert_eq!(text.run(), "a x b");
}

#[test]
fn a_line_of_one_tag_goes_when_the_tag_prints_nothing() {
    let files = |text: &str| {
        Files::new(&[("t", text), ("none", "+{if false}x+{end}"), ("some", "x"), ("panel", "<s>\n +{slot}\n</s>")])
            .run()
    };
    for (text, expected) in [
        ("a\n  +{partial 'none'}\nb", "a\nb"),
        ("a\r\n\t+{partial 'none'} \r\nb", "a\r\nb"),
        ("a\n  +{partial 'some'} \nb", "a\n  x \nb"),
        ("a\n  +{# why #}+{partial 'none'}\nb", "a\nb"),
        ("a\n  +{partial 'none'}.\nb", "a\n  .\nb"),
        ("a\n  +{partial 'none'}+{partial 'none'}\nb", "a\n  \nb"),
        ("a\n  +{tray 'side'}\nb", "a\nb"),
        ("a\n  +{slot 'side'}\nb", "a\nb"),
        ("a\n  +{used 'styles'}\nb", "a\nb"),
        ("+{use 'a.css'}a\n  +{used 'styles'}\nb", "a\n  <link rel=\"stylesheet\" href=\"/assets/a.css\">\nb"),
        ("a\n  +{used 'styles'}\nb+{use 'a.css'}", "a\n  <link rel=\"stylesheet\" href=\"/assets/a.css\">\nb"),
        ("a\n  +{partial 'none'}", "a\n"),
        ("+{partial 'none'}\n+{partial 'none'}\nb", "b"),
        ("<pre>a\n  +{partial 'none'}\nb</pre>", "<pre>a\n  \nb</pre>"),
        ("<textarea>a\n +{slot 'side'}\nb</textarea>", "<textarea>a\n \nb</textarea>"),
        ("+{partial 'panel'}", "<s>\n</s>"),
        ("<pre>+{partial 'panel'}</pre>", "<pre><s>\n \n</s></pre>"),
        ("+{partial 'panel' with}y+{end}", "<s>\n y\n</s>"),
    ] {
        assert_eq!(files(text), expected, "{text:?}");
    }
}
