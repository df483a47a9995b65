//! What CSS knows as colours by name: CSS Color Module Level 4, sections 4 to 11, and Level 5 for `color-mix`.

/// The named and the system colours, `currentcolor`, `transparent`, and the words that every property takes.
#[rustfmt::skip]
pub(crate) const NAMED: &[&str] = &[
    "accentcolor", "accentcolortext", "activetext", "aliceblue", "antiquewhite", "aqua", "aquamarine", "azure",
    "beige", "bisque", "black", "blanchedalmond", "blue", "blueviolet", "brown", "burlywood", "buttonborder",
    "buttonface", "buttontext", "cadetblue", "canvas", "canvastext", "chartreuse", "chocolate", "coral",
    "cornflowerblue", "cornsilk", "crimson", "currentcolor", "cyan", "darkblue", "darkcyan", "darkgoldenrod",
    "darkgray", "darkgreen", "darkgrey", "darkkhaki", "darkmagenta", "darkolivegreen", "darkorange", "darkorchid",
    "darkred", "darksalmon", "darkseagreen", "darkslateblue", "darkslategray", "darkslategrey", "darkturquoise",
    "darkviolet", "deeppink", "deepskyblue", "dimgray", "dimgrey", "dodgerblue", "field", "fieldtext", "firebrick",
    "floralwhite", "forestgreen", "fuchsia", "gainsboro", "ghostwhite", "gold", "goldenrod", "gray", "graytext",
    "green", "greenyellow", "grey", "highlight", "highlighttext", "honeydew", "hotpink", "indianred", "indigo",
    "inherit", "initial", "ivory", "khaki", "lavender", "lavenderblush", "lawngreen", "lemonchiffon", "lightblue",
    "lightcoral", "lightcyan", "lightgoldenrodyellow", "lightgray", "lightgreen", "lightgrey", "lightpink",
    "lightsalmon", "lightseagreen", "lightskyblue", "lightslategray", "lightslategrey", "lightsteelblue",
    "lightyellow", "lime", "limegreen", "linen", "linktext", "magenta", "mark", "marktext", "maroon",
    "mediumaquamarine", "mediumblue", "mediumorchid", "mediumpurple", "mediumseagreen", "mediumslateblue",
    "mediumspringgreen", "mediumturquoise", "mediumvioletred", "midnightblue", "mintcream", "mistyrose", "moccasin",
    "navajowhite", "navy", "oldlace", "olive", "olivedrab", "orange", "orangered", "orchid", "palegoldenrod",
    "palegreen", "paleturquoise", "palevioletred", "papayawhip", "peachpuff", "peru", "pink", "plum", "powderblue",
    "purple", "rebeccapurple", "red", "revert", "rosybrown", "royalblue", "saddlebrown", "salmon", "sandybrown",
    "seagreen", "seashell", "selecteditem", "selecteditemtext", "sienna", "silver", "skyblue", "slateblue",
    "slategray", "slategrey", "snow", "springgreen", "steelblue", "tan", "teal", "thistle", "tomato", "transparent",
    "turquoise", "unset", "violet", "visitedtext", "wheat", "white", "whitesmoke", "yellow", "yellowgreen",
];

/// The functions whose value is a colour.
#[rustfmt::skip]
pub const FUNCTIONS: &[&str] = &[
    "color", "color-mix", "hsl", "hsla", "hwb", "lab", "lch", "light-dark", "oklab", "oklch", "rgb", "rgba",
];
