//! Breaking labels into lines. Lines are about equally long: the narrowest measure that needs no
//! more lines than the allowed one.

use super::face::Face;
use super::fonts::Fonts;
use super::writing::Writing;
use crate::syntax::{FORMULA_SPACE, Label, RunStyle, ends_with_operator};
use unicode_segmentation::UnicodeSegmentation;

/// Letters of one face.
#[derive(Clone, Debug, PartialEq)]
pub struct TextSpan {
    /// The letters.
    pub text: String,
    /// Their face.
    pub face: Face,
    /// Whether they stand on the base line.
    pub script: Script,
}

/// Where letters stand.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Default)]
pub enum Script {
    /// On the base line.
    #[default]
    Base,
    /// Below it, smaller.
    Below,
    /// Above it, smaller.
    Above,
}

impl Script {
    /// The size of its letters, as a part of the text's.
    pub fn scale(self) -> f64 {
        if self == Script::Base { 1.0 } else { 0.72 }
    }

    /// How far its base line lies below the text's, as a part of the text's size.
    pub fn drop(self) -> f64 {
        match self {
            Script::Base => 0.0,
            Script::Below => 0.18,
            Script::Above => -0.34,
        }
    }
}

impl TextSpan {
    /// Its width in px in a text of this size.
    fn width(&self, fonts: &Fonts, size: f64) -> f64 {
        fonts.width(&self.text, self.face, size * self.script.scale())
    }
}

/// Where each span of a line begins, and how wide the line is, in px: a superscript right behind a subscript stands above it, as
/// the bounds of a sum do.
pub fn starts(spans: &[TextSpan], fonts: &Fonts, size: f64) -> (Vec<f64>, f64) {
    let (mut pen, mut end) = (0.0, 0.0);
    let mut starts = Vec::with_capacity(spans.len());
    let mut before = Script::Base;
    for span in spans {
        // `pen` is where the span before this one began.
        let is_stacked =
            matches!((before, span.script), (Script::Below, Script::Above) | (Script::Above, Script::Below));
        pen = if is_stacked { pen } else { end };
        starts.push(pen);
        end = f64::max(end, pen + span.width(fonts, size));
        // A third one stands behind both.
        before = if is_stacked { Script::Base } else { span.script };
    }
    (starts, end)
}

/// How wide a line of spans is, in px.
pub fn line_width(spans: &[TextSpan], fonts: &Fonts, size: f64) -> f64 {
    if spans.iter().all(|span| span.script == Script::Base) {
        return spans.iter().map(|span| span.width(fonts, size)).sum();
    }
    starts(spans, fonts, size).1
}

/// One line of text.
#[derive(Clone, Debug, PartialEq, Default)]
pub struct TextLine {
    /// Its spans.
    pub spans: Vec<TextSpan>,
    /// Its width in px.
    pub width: f64,
}

/// A text broken into lines.
#[derive(Clone, Debug, PartialEq, Default)]
pub struct TextBlock {
    /// Its lines.
    pub lines: Vec<TextLine>,
    /// Its letters' size in px.
    pub size: f64,
    /// In which direction it is written.
    pub writing: Writing,
    /// How far lines behind the first are moved in, in px.
    pub hanging: f64,
}

impl TextBlock {
    /// The width of its widest line.
    pub fn width(&self) -> f64 {
        let first = self.lines.first().map_or(0.0, |line| line.width);
        self.lines.iter().skip(1).map(|line| line.width + self.hanging).fold(first, f64::max)
    }

    /// Its letters, lines joined by spaces.
    pub fn text(&self) -> String {
        let line = |line: &TextLine| line.spans.iter().map(|span| span.text.as_str()).collect::<String>();
        self.lines.iter().map(line).collect::<Vec<_>>().join(" ")
    }

    /// The distance from one base line to the next.
    pub fn leading(&self) -> f64 {
        libm::round(self.size * 1.3)
    }

    /// The height of all lines.
    pub fn height(&self) -> f64 {
        self.lines.len() as f64 * self.leading()
    }
}

/// A word, or a line break.
enum Piece {
    Word(Vec<TextSpan>, f64),
    Break,
}

/// Breaks a label to a measure of `limit` px. Words longer than that are broken between letters.
pub fn wrap(fonts: &Fonts, label: &Label, face: Face, size: f64, limit: f64) -> TextBlock {
    let pieces = pieces(fonts, label, face, size, limit);
    let space = fonts.width(" ", fonts.cast(face), size);
    let lines = fill(&pieces, space, limit);
    let mut best = lines;
    // Narrow the measure as long as the number of lines stays the same.
    if best.len() > 1 && best.len() <= 8 {
        let (mut low, mut high) = (limit / 3.0, limit);
        for _ in 0..7 {
            let middle = (low + high) / 2.0;
            let tried = fill(&pieces, space, middle);
            if tried.len() == best.len() && tried.iter().all(|l| width_of(&pieces, l, space) <= limit) {
                best = tried;
                high = middle;
            } else {
                low = middle;
            }
        }
    }
    let lines = best.into_iter().map(|line| set(fonts, &pieces, &line, size)).collect();
    let writing = match label.runs.as_slice() {
        [only] => Writing::of(&only.text),
        runs => Writing::of(&runs.iter().map(|run| run.text.as_str()).collect::<String>()),
    };
    TextBlock { lines, size, writing, hanging: 0.0 }
}

/// The same with lines behind the first moved in, so that it is seen where the next text begins.
pub fn wrap_hanging(fonts: &Fonts, label: &Label, face: Face, size: f64, limit: f64) -> TextBlock {
    let hanging = libm::round(size);
    let whole = wrap(fonts, label, face, size, limit);
    match whole.lines.len() {
        0 | 1 => whole,
        _ => TextBlock { hanging, ..wrap(fonts, label, face, size, limit - hanging) },
    }
}

fn pieces(fonts: &Fonts, label: &Label, face: Face, size: f64, limit: f64) -> Vec<Piece> {
    let mut pieces = Vec::new();
    let mut word: Vec<TextSpan> = Vec::new();
    let flush = |word: &mut Vec<TextSpan>, pieces: &mut Vec<Piece>| {
        pieces.extend(fitted(fonts, std::mem::take(word), size, limit));
    };
    for run in &label.runs {
        let face = match run.style {
            RunStyle::Plain | RunStyle::Below | RunStyle::Above => face,
            RunStyle::Emphasis => face.italic(),
            RunStyle::Strong => face.bold(),
            RunStyle::Code => Face::Mono,
        };
        let script = match run.style {
            RunStyle::Below => Script::Below,
            RunStyle::Above => Script::Above,
            _ => Script::Base,
        };
        for (i, part) in run.text.split(['\n', ' ', '\t']).enumerate() {
            if i > 0 {
                flush(&mut word, &mut pieces);
                let before = part.as_ptr() as usize - run.text.as_ptr() as usize - 1;
                if run.text.as_bytes()[before] == b'\n' {
                    pieces.push(Piece::Break);
                }
            }
            let shown: String = part.chars().filter(|c| !c.is_control()).collect();
            if !shown.is_empty() {
                word.extend(cast(fonts, shown, face).map(|(text, face)| TextSpan { text, face, script }));
            }
        }
    }
    flush(&mut word, &mut pieces);
    pieces
}

/// Letters in the face that the picture is written in, as far as it has them.
fn cast(fonts: &Fonts, text: String, face: Face) -> impl Iterator<Item = (String, Face)> {
    let own = fonts.cast(face);
    let mut parts: Vec<(String, Face)> = Vec::new();
    if own == face || text.chars().all(|c| fonts.has(c, own)) {
        parts.push((text, own));
        return parts.into_iter();
    }
    for letter in text.graphemes(true) {
        let face = if letter.chars().all(|c| fonts.has(c, own)) { own } else { face };
        match parts.last_mut() {
            Some((part, last)) if *last == face => part.push_str(letter),
            _ => parts.push((letter.to_owned(), face)),
        }
    }
    parts.into_iter()
}

/// A word in pieces that are no wider than `limit`.
fn fitted(fonts: &Fonts, word: Vec<TextSpan>, size: f64, limit: f64) -> Vec<Piece> {
    if word.is_empty() {
        return Vec::new();
    }
    let width = |word: &[TextSpan]| line_width(word, fonts, size);
    let words = if width(&word) > limit { cut_after_operators(&word) } else { vec![word] };
    let mut pieces = Vec::new();
    for word in words {
        let width = width(&word);
        if width <= limit {
            pieces.push(Piece::Word(word, width));
            continue;
        }
        // The parts of a broken word stand on lines of their own, so that no space joins them.
        for (i, part) in broken(fonts, &word, size, limit).into_iter().enumerate() {
            pieces.extend((i > 0).then_some(Piece::Break));
            pieces.push(part);
        }
    }
    pieces
}

/// Cuts a formula that is too long after its operators, at the spaces there.
fn cut_after_operators(word: &[TextSpan]) -> Vec<Vec<TextSpan>> {
    let mut out = Vec::new();
    let mut part: Vec<TextSpan> = Vec::new();
    for span in word {
        let mut text = String::new();
        for letter in span.text.chars() {
            if letter == FORMULA_SPACE && ends_with_operator(&text) {
                part.push(TextSpan { text: std::mem::take(&mut text), ..span.clone() });
                out.push(std::mem::take(&mut part));
            } else {
                text.push(letter);
            }
        }
        if !text.is_empty() {
            part.push(TextSpan { text, ..span.clone() });
        }
    }
    out.push(part);
    out.retain(|w| !w.is_empty());
    out
}

/// Cuts a word that is too long, after marks where it can be, else between letters.
fn broken(fonts: &Fonts, word: &[TextSpan], size: f64, limit: f64) -> Vec<Piece> {
    let mut out = Vec::new();
    for span in word {
        let mut part = String::new();
        let mut mark = 0;
        for letter in span.text.graphemes(true) {
            while !part.is_empty() && fonts.width(&(part.clone() + letter), span.face, size) > limit {
                let rest = if mark > 0 { part.split_off(mark) } else { String::new() };
                let width = fonts.width(&part, span.face, size);
                out.push(Piece::Word(
                    vec![TextSpan { text: std::mem::replace(&mut part, rest), ..span.clone() }],
                    width,
                ));
                mark = 0;
            }
            part.push_str(letter);
            if matches!(letter, "/" | "." | "_" | "-" | ":" | ",") {
                mark = part.len();
            }
        }
        if !part.is_empty() {
            let width = fonts.width(&part, span.face, size);
            out.push(Piece::Word(vec![TextSpan { text: part, ..span.clone() }], width));
        }
    }
    out
}

/// Pieces to lines, greedily: indices of words.
fn fill(pieces: &[Piece], space: f64, limit: f64) -> Vec<Vec<usize>> {
    let mut lines = vec![Vec::new()];
    let mut width = 0.0;
    for (i, piece) in pieces.iter().enumerate() {
        let Piece::Word(_, word) = piece else {
            lines.push(Vec::new());
            width = 0.0;
            continue;
        };
        let last = lines.len() - 1;
        if !lines[last].is_empty() && width + space + word > limit {
            lines.push(vec![i]);
            width = *word;
        } else {
            width += if lines[last].is_empty() { *word } else { space + word };
            lines[last].push(i);
        }
    }
    lines
}

fn width_of(pieces: &[Piece], line: &[usize], space: f64) -> f64 {
    let words = line.iter().map(|i| if let Piece::Word(_, w) = &pieces[*i] { *w } else { 0.0 });
    words.sum::<f64>() + space * line.len().saturating_sub(1) as f64
}

/// A line of words, joined by spaces, spans of one face merged and measured as a whole.
fn set(fonts: &Fonts, pieces: &[Piece], line: &[usize], size: f64) -> TextLine {
    let mut spans: Vec<TextSpan> = Vec::new();
    for (n, i) in line.iter().enumerate() {
        let Piece::Word(word, _) = &pieces[*i] else { continue };
        for (k, span) in word.iter().enumerate() {
            let gap = if n > 0 && k == 0 { " " } else { "" };
            // What was not to be broken is an ordinary space where it is drawn: more fonts have it.
            let text = span.text.replace(FORMULA_SPACE, " ");
            match spans.last_mut() {
                Some(last) if last.face == span.face && last.script == span.script => {
                    last.text += &format!("{gap}{text}")
                }
                // The space belongs to the span before it, unless that is code, whose spaces are wider.
                Some(last) if last.face != Face::Mono => {
                    last.text += gap;
                    spans.push(TextSpan { text, ..span.clone() });
                }
                Some(_) => spans.push(TextSpan { text: format!("{gap}{text}"), ..span.clone() }),
                None => spans.push(TextSpan { text, ..span.clone() }),
            }
        }
    }
    let width = line_width(&spans, fonts, size);
    TextLine { spans, width }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::source::Span;

    fn lines(written: &str, limit: f64) -> Vec<String> {
        let label = Label::read(written, Span::default());
        let block = wrap(&Fonts::new(), &label, Face::Regular, 14.0, limit);
        assert!(block.lines.iter().all(|l| l.width <= limit + 0.01), "{block:?}");
        block.lines.iter().map(|l| l.spans.iter().map(|s| s.text.as_str()).collect()).collect()
    }

    #[test]
    fn a_long_formula_is_cut_after_its_operators() {
        let fonts = Fonts::new();
        let label = Label::read("\"x $E[v] = 0.4 * 90 + 0.6 * (-20) - 30 * 4.5$\"", Default::default());
        let block = wrap(&fonts, &label, Face::Regular, 13.5, 120.0);
        assert!(block.width() <= 120.0);
        let line = |line: &TextLine| line.spans.iter().map(|s| s.text.as_str()).collect::<String>();
        let lines: Vec<String> = block.lines.iter().map(line).collect();
        assert!(lines.len() > 1 && lines[..lines.len() - 1].iter().all(|l| ends_with_operator(l)), "{lines:?}");
        // A short one stays whole.
        let label = Label::read("\"a long label before $c = 40$\"", Default::default());
        let last = wrap(&fonts, &label, Face::Regular, 13.5, 120.0).lines.pop().expect("a line");
        assert!(line(&last).ends_with("c = 40"));
    }

    #[test]
    fn lines_are_about_equal() {
        assert_eq!(lines("\"one two three four five six\"", 120.0), ["one two three", "four five six"]);
        assert_eq!(lines("\"short\"", 120.0), ["short"]);
        assert_eq!(lines("\"a\\nb\"", 120.0), ["a", "b"]);
    }

    #[test]
    fn long_words_are_broken_after_marks() {
        assert_eq!(lines("\"services/gateway/source/decoder\"", 120.0).concat(), "services/gateway/source/decoder");
        assert!(lines("\"services/gateway/source/decoder\"", 120.0)[0].ends_with('/'));
    }

    #[test]
    fn styles_keep_their_faces() {
        let label = Label::read("\"tide *over* `4 m`\"", Span::default());
        let block = wrap(&Fonts::new(), &label, Face::Bold, 14.0, 500.0);
        let spans: Vec<(&str, Face)> = block.lines[0].spans.iter().map(|s| (s.text.as_str(), s.face)).collect();
        assert_eq!(spans, [("tide ", Face::Bold), ("over ", Face::BoldItalic), ("4 m", Face::Mono)]);
    }
}
