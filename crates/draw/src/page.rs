//! Pages of simple shapes. Lengths are in millimetres from the top left corner, sizes of letters too; shades go from 0
//! (black) to 1 (white), so that a drawing is whole on a printer without colours.

/// The side of its place on which a text stands.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Anchor {
    /// It begins there.
    Start,
    /// Its middle is there.
    Middle,
    /// It ends there.
    End,
}

/// One shape on a page.
#[derive(Debug, Clone, PartialEq)]
pub enum Item {
    /// A line.
    Line {
        /// Its ends: x, y, x, y.
        ends: [f32; 4],
        /// Its thickness.
        width: f32,
        /// Its shade.
        shade: f32,
    },
    /// A rectangle.
    Rect {
        /// Left, top, width and height.
        area: [f32; 4],
        /// The shade inside, if it is filled.
        fill: Option<f32>,
        /// The thickness of its edge; 0 for none.
        edge: f32,
    },
    /// A filled triangle, as the head of an arrow.
    Triangle([f32; 6]),
    /// Words.
    Text {
        /// The place: x, and y of the base line.
        at: [f32; 2],
        /// The height of the letters.
        size: f32,
        /// The way they stand to their place.
        anchor: Anchor,
        /// True if they are bold.
        bold: bool,
        /// Their shade.
        shade: f32,
        /// The words.
        words: String,
    },
}

/// A page.
#[derive(Debug, Clone, PartialEq)]
pub struct Page {
    /// Its width in millimetres.
    pub width: f32,
    /// Its height in millimetres.
    pub height: f32,
    /// The items on it, from the lowest to the topmost.
    pub items: Vec<Item>,
}

impl Page {
    /// The margin that printers leave.
    pub(crate) const MARGIN: f32 = 10.0;

    /// A4, lying (ISO 216).
    pub(crate) fn a4_lying() -> Self {
        Self { width: 297.0, height: 210.0, items: Vec::new() }
    }

    /// The width between the margins.
    pub(crate) fn room(&self) -> f32 {
        self.width - 2.0 * Self::MARGIN
    }

    pub(crate) fn line(&mut self, ends: [f32; 4], width: f32, shade: f32) {
        self.items.push(Item::Line { ends, width, shade });
    }

    pub(crate) fn rect(&mut self, area: [f32; 4], fill: Option<f32>, edge: f32) {
        self.items.push(Item::Rect { area, fill, edge });
    }

    pub(crate) fn text(&mut self, at: [f32; 2], size: f32, anchor: Anchor, words: impl Into<String>) {
        self.items.push(Item::Text { at, size, anchor, bold: false, shade: 0.0, words: words.into() });
    }

    pub(crate) fn grey(&mut self, at: [f32; 2], size: f32, anchor: Anchor, words: impl Into<String>) {
        self.items.push(Item::Text { at, size, anchor, bold: false, shade: 0.35, words: words.into() });
    }

    pub(crate) fn bold(&mut self, at: [f32; 2], size: f32, anchor: Anchor, words: impl Into<String>) {
        self.items.push(Item::Text { at, size, anchor, bold: true, shade: 0.0, words: words.into() });
    }

    /// An arrow from one place to another.
    pub(crate) fn arrow(&mut self, [x1, y1, x2, y2]: [f32; 4], width: f32) {
        let length = ((x2 - x1).powi(2) + (y2 - y1).powi(2)).sqrt();
        if length < 0.01 {
            return;
        }
        let (dx, dy) = ((x2 - x1) / length, (y2 - y1) / length);
        let head = 1.6f32.min(length);
        let (bx, by) = (x2 - dx * head, y2 - dy * head);
        self.line([x1, y1, bx, by], width, 0.0);
        let side = head * 0.38;
        self.items.push(Item::Triangle([x2, y2, bx - dy * side, by + dx * side, bx + dy * side, by - dx * side]));
    }
}

/// Heads of pages, and their numbers, once all pages are there.
pub(crate) fn number(pages: &mut [Page], title: &str, legend: &str) {
    let count = pages.len();
    for (index, page) in pages.iter_mut().enumerate() {
        let (width, height) = (page.width, page.height);
        page.bold([Page::MARGIN, 14.0], 5.0, Anchor::Start, title);
        page.grey([width - Page::MARGIN, 14.0], 3.2, Anchor::End, format!("page {} of {count}", index + 1));
        page.line([Page::MARGIN, 17.0, width - Page::MARGIN, 17.0], 0.3, 0.0);
        page.grey([Page::MARGIN, height - 6.5], 2.8, Anchor::Start, legend);
    }
}
