//! What is wanted of an image: which part of it, how large, in which format.

use crate::head::{ImageFormat, ImageHead, ImageKind};

/// The quality where none is given.
const QUALITY: u8 = 80;

/// How an image is made of another one. Places and sizes are in pixels, as browsers show the image.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub struct Recipe {
    /// The part of the image that is kept: left, top, width, height.
    pub part: (u32, u32, u32, u32),
    /// Its width then.
    pub width: u32,
    /// Its height then.
    pub height: u32,
    /// Its format.
    pub format: ImageFormat,
    /// From 1 to 100.
    pub quality: u8,
    /// Whether nothing was asked that changes it.
    pub is_whole: bool,
}

impl Recipe {
    /// That which leaves an image as it is; none for one that can't be made anew.
    pub fn whole(head: &ImageHead) -> Option<Self> {
        let ImageKind::Pixels(format) = head.kind else { return None };
        let (width, height) = (head.width, head.height);
        Some(Self { part: (0, 0, width, height), width, height, format, quality: QUALITY, is_whole: true })
    }

    /// The same at most so wide.
    #[must_use]
    pub fn scaled(self, width: u32) -> Self {
        if width >= self.width {
            return self;
        }
        let height = scaled(self.height, width, self.width);
        Self { width, height, is_whole: false, ..self }
    }

    /// Its middle, in a shape of so wide to so high.
    #[must_use]
    pub fn cropped(self, across: u32, down: u32) -> Self {
        let (width, height) = (self.width, self.height);
        let wanted = (scaled(height, across, down), scaled(width, down, across));
        let (width, height) = if wanted.0 <= width { (wanted.0, height) } else { (width, wanted.1.min(height)) };
        if (width, height) == (self.width, self.height) {
            return self;
        }
        let (left, top, whole_width, whole_height) = self.part;
        let kept_width = scaled(whole_width, width, self.width);
        let kept_height = scaled(whole_height, height, self.height);
        let part = (
            left + (whole_width - kept_width.min(whole_width)) / 2,
            top + (whole_height - kept_height.min(whole_height)) / 2,
            kept_width.min(whole_width),
            kept_height.min(whole_height),
        );
        Self { part, width, height, is_whole: false, ..self }
    }

    /// The same in another format.
    #[must_use]
    pub fn in_format(self, format: ImageFormat) -> Self {
        Self { format, is_whole: self.is_whole && format == self.format, ..self }
    }

    /// The same with another quality.
    #[must_use]
    pub fn with_quality(self, quality: u8) -> Self {
        Self { quality, is_whole: false, ..self }
    }
}

/// A length times `to` / `of`, rounded; never 0.
fn scaled(length: u32, to: u32, of: u32) -> u32 {
    let (length, to, of) = (u64::from(length), u64::from(to), u64::from(of.max(1)));
    u32::try_from((length * to + of / 2) / of).unwrap_or(u32::MAX).max(1)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::head::Turn;

    fn of(width: u32, height: u32) -> Recipe {
        let kind = ImageKind::Pixels(ImageFormat::Jpeg);
        Recipe::whole(&ImageHead { kind, width, height, turn: Turn(1), is_cut: false }).expect("pixels")
    }

    #[test]
    fn sizes_keep_their_shape_and_never_grow() {
        let size = |recipe: Recipe| (recipe.width, recipe.height);
        for (recipe, becomes, part) in [
            (of(400, 300).scaled(200), (200, 150), (0, 0, 400, 300)),
            (of(400, 300).scaled(4000), (400, 300), (0, 0, 400, 300)),
            (of(400, 300).scaled(200).scaled(300), (200, 150), (0, 0, 400, 300)),
            (of(4000, 3).scaled(1), (1, 1), (0, 0, 4000, 3)),
            (of(400, 300).cropped(1, 1), (300, 300), (50, 0, 300, 300)),
            (of(300, 400).cropped(4, 3), (300, 225), (0, 87, 300, 225)),
            (of(400, 300).scaled(200).cropped(1, 1), (150, 150), (50, 0, 300, 300)),
            (of(400, 300).cropped(1, 1).scaled(100), (100, 100), (50, 0, 300, 300)),
            (of(400, 300).cropped(4, 3), (400, 300), (0, 0, 400, 300)),
            (of(400, 300).cropped(u32::MAX, 1), (400, 1), (0, 149, 400, 1)),
            (of(1, 1).cropped(1, u32::MAX), (1, 1), (0, 0, 1, 1)),
        ] {
            assert_eq!((size(recipe), recipe.part), (becomes, part));
        }
        assert!(of(400, 300).scaled(400).cropped(8, 6).in_format(ImageFormat::Jpeg).is_whole);
        assert!(!of(400, 300).in_format(ImageFormat::WebP).is_whole);
        assert!(!of(400, 300).with_quality(80).is_whole);
    }
}
