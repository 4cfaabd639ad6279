//! What a scene is made of.

use crate::geom::{Path, Rect, Size};
use crate::measure::{Cluster, Face, Fonts, TextSpan, Writing};
use crate::theme::{Dash, Ground, Paint};

/// A whole picture.
#[derive(Clone, Debug, PartialEq)]
pub struct Scene {
    /// Its size.
    pub size: Size,
    /// What it is called, for those who cannot see it.
    pub title: String,
    /// What it shows, in words.
    pub desc: String,
    /// The ground.
    pub ground: Ground,
    /// What is painted, from the back to the front.
    pub items: Vec<Item>,
}

/// One thing to paint.
#[derive(Clone, Debug, PartialEq)]
pub enum Item {
    /// Things that belong together.
    Group(Tag, Vec<Item>),
    /// An outline or a line.
    Path {
        /// Its shape.
        path: Path,
        /// Inside.
        fill: Option<Paint>,
        /// Its line.
        stroke: Option<Stroke>,
        /// What it is to those who read the drawing.
        role: Option<Role>,
    },
    /// One line of text.
    Text(Text),
    /// Pixels.
    Image {
        /// Where they are.
        place: Rect,
        /// A PNG.
        png: std::sync::Arc<[u8]>,
    },
}

/// A line of text.
#[derive(Clone, Debug, PartialEq)]
pub struct Text {
    /// Where its anchor is.
    pub x: f64,
    /// Its base line.
    pub y: f64,
    /// What is anchored.
    pub anchor: TextAnchor,
    /// Its letters.
    pub spans: Vec<TextSpan>,
    /// Their size.
    pub size: f64,
    /// Their colour.
    pub fill: Paint,
    /// Whether they are underlined.
    pub underline: bool,
    /// In which direction they are written.
    pub writing: Writing,
}

impl Text {
    /// Where it begins on its left, if it is so wide.
    pub fn left(&self, width: f64) -> f64 {
        match self.anchor {
            TextAnchor::Start => self.x,
            TextAnchor::Middle => self.x - width / 2.0,
            TextAnchor::End => self.x - width,
        }
    }

    /// Whether it has no letters.
    pub fn is_empty(&self) -> bool {
        self.spans.iter().all(|span| span.text.is_empty())
    }
}

/// Which point of a line of text is given.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum TextAnchor {
    /// Its left end.
    Start,
    /// Its middle.
    Middle,
    /// Its right end.
    End,
}

/// A painted line.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Stroke {
    /// What it is painted with.
    pub paint: Paint,
    /// Its width.
    pub width: f64,
    /// How it is broken.
    pub dash: Dash,
}

impl Stroke {
    /// An unbroken line.
    pub fn solid(paint: Paint, width: f64) -> Self {
        Self { paint, width, dash: Dash::Solid }
    }
}

/// What a part of a drawing is, by the drawing contract.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Role {
    /// The outline of an element.
    Frame,
    /// The line of a relation.
    Line,
    /// An arrow head or another end.
    Head,
    /// A lifeline.
    Lifeline,
}

impl Role {
    /// The word in the drawing.
    pub fn word(self) -> &'static str {
        match self {
            Role::Frame => "frame",
            Role::Line => "line",
            Role::Head => "head",
            Role::Lifeline => "lifeline",
        }
    }
}

/// What an element lies in.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Inside {
    /// The picture itself.
    Nothing,
    /// The frame of an element, by its key.
    Frame(String),
    /// A lane, by its key: lines from other lanes may pass there.
    Lane(String),
}

/// Whether an element holds others, which then lie in it.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Holds {
    /// It holds nothing.
    Nothing,
    /// It holds others.
    Others,
}

/// What a group of things is.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Tag {
    /// Nothing in particular.
    Plain,
    /// An element.
    Element {
        /// Its key.
        id: String,
        /// Its kind.
        kind: String,
        /// What it is called, for those who cannot see it; empty where its kind says all.
        says: String,
        /// What it lies in.
        inside: Inside,
        /// Whether it holds others.
        holds: Holds,
        /// Its source line.
        line: u32,
        /// The file of that line, where it is not the picture's own.
        file: Option<std::sync::Arc<str>>,
        /// The picture beside this one that it leads to, by name.
        opens: Option<String>,
    },
    /// A relation.
    Relation {
        /// Its key.
        id: String,
        /// The element it begins at.
        from: String,
        /// The element it ends at.
        to: String,
        /// What it says besides its label, as a sentence.
        says: String,
        /// Its places, from 1, in the course of what the picture shows.
        steps: Vec<u32>,
        /// Its source line.
        line: u32,
        /// The file of that line, where it is not the picture's own.
        file: Option<std::sync::Arc<str>>,
        /// All lines it stands for, if there are several.
        lines: Vec<u32>,
    },
    /// The label of a relation.
    Label,
    /// A text at the end of a relation.
    EndLabel,
    /// Part of an element that has a line of its own, such as a member of a class.
    Row {
        /// Its source line, in the picture's own file.
        line: u32,
    },
}

impl Tag {
    /// An element of its own in the picture's own file, which holds nothing and leads nowhere.
    pub fn element(id: String, kind: &str, says: String, line: u32) -> Self {
        let (kind, inside, holds) = (kind.to_owned(), Inside::Nothing, Holds::Nothing);
        Tag::Element { id, kind, says, inside, holds, line, file: None, opens: None }
    }

    /// The picture that an element leads to.
    pub fn opens(&self) -> Option<&str> {
        if let Tag::Element { opens, .. } = self { opens.as_deref() } else { None }
    }
}

impl Item {
    fn forget_lines(&mut self) {
        let Item::Group(tag, items) = self else { return };
        match tag {
            Tag::Element { line, file, .. } => (*line, *file) = (0, None),
            Tag::Relation { line, file, lines, .. } => (*line, *file, *lines) = (0, None, Vec::new()),
            Tag::Row { line } => *line = 0,
            Tag::Plain | Tag::Label | Tag::EndLabel => {}
        }
        items.iter_mut().for_each(Self::forget_lines);
    }

    /// Things that belong together; no more memory than they need.
    // A large picture has tens of thousands of these.
    pub fn group(tag: Tag, mut items: Vec<Item>) -> Self {
        items.shrink_to_fit();
        Item::Group(tag, items)
    }

    /// The same at another scale, then moved; px.
    pub fn placed(self, scale: f64, dx: f64, dy: f64) -> Item {
        match self {
            Item::Group(tag, items) => Item::Group(tag, items.into_iter().map(|i| i.placed(scale, dx, dy)).collect()),
            Item::Path { path, fill, stroke, role } => {
                let stroke = stroke.map(|s| Stroke { width: s.width * scale, ..s });
                Item::Path { path: path.placed(scale, dx, dy), fill, stroke, role }
            }
            Item::Image { place: r, png } => {
                let place = Rect::new(r.x * scale + dx, r.y * scale + dy, r.w * scale, r.h * scale);
                Item::Image { place, png }
            }
            Item::Text(text) => {
                let (x, y, size) = (text.x * scale + dx, text.y * scale + dy, text.size * scale);
                Item::Text(Text { x, y, size, ..text })
            }
        }
    }
}

impl Scene {
    /// The same without the lines that its parts were written in: what is left is seen.
    pub fn without_lines(mut self) -> Self {
        self.items.iter_mut().for_each(Item::forget_lines);
        self
    }

    /// Calls `visit` for every line of text.
    pub fn texts(&self, visit: &mut impl FnMut(&Text)) {
        let mut work: Vec<&Item> = self.items.iter().collect();
        while let Some(item) = work.pop() {
            match item {
                Item::Group(_, items) => work.extend(items),
                Item::Text(text) => visit(text),
                Item::Path { .. } | Item::Image { .. } => {}
            }
        }
    }

    /// How many items there are, groups and what they hold.
    pub fn count(&self) -> usize {
        let mut work: Vec<&[Item]> = vec![&self.items];
        let mut count = 0;
        while let Some(items) = work.pop() {
            count += items.len();
            work.extend(
                items.iter().filter_map(|item| if let Item::Group(_, inner) = item { Some(&inner[..]) } else { None }),
            );
        }
        count
    }

    /// What it holds that no shipped font can draw.
    pub fn lacking(&self, fonts: &Fonts) -> std::collections::BTreeSet<Cluster> {
        let mut found = std::collections::BTreeSet::new();
        self.texts(&mut |text| {
            for span in &text.spans {
                let is_bold = span.face.is_bold();
                let lacking = fonts.lacking(&span.text, span.face);
                found.extend(lacking.map(|text| Cluster { text: text.to_owned(), is_bold }));
            }
        });
        found
    }

    /// The letters beyond ASCII of each face that is used.
    pub fn letters(&self) -> std::collections::BTreeMap<Face, std::collections::BTreeSet<char>> {
        let mut letters: std::collections::BTreeMap<Face, std::collections::BTreeSet<char>> = Default::default();
        self.texts(&mut |text| {
            for span in &text.spans {
                letters.entry(span.face).or_default().extend(span.text.chars().filter(|c| !c.is_ascii()));
            }
        });
        letters
    }
}
