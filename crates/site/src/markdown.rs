//! A Markdown document as HTML. What is written as HTML in it is shown as text, but for a few tags that do nothing but stand
//! there; links lead to pages of the site, to the web, or nowhere.

use bathygram_core::source::Unique;
use bathygram_outputs::html::escaped;
use bathygram_outputs::markdown as pictures;
use pulldown_cmark::{CodeBlockKind, CowStr, Event, HeadingLevel, Options, Parser, Tag, TagEnd, html};
use std::collections::BTreeSet;

/// Tags without attributes that a document may write as HTML.
const TAGS: [&str; 11] =
    ["<br>", "<br/>", "<br />", "<kbd>", "</kbd>", "<sub>", "</sub>", "<sup>", "</sup>", "<wbr>", "<hr>"];

fn parser(text: &str) -> Parser<'_> {
    let options = Options::ENABLE_TABLES | Options::ENABLE_TASKLISTS | Options::ENABLE_STRIKETHROUGH;
    Parser::new_ext(text, options)
}

/// The text of a document's first heading.
pub fn title(text: &str) -> Option<String> {
    let mut found: Option<String> = None;
    for event in parser(text) {
        match event {
            Event::Start(Tag::Heading { level: HeadingLevel::H1, .. }) => found = Some(String::new()),
            Event::End(TagEnd::Heading(HeadingLevel::H1)) => break,
            Event::Text(part) | Event::Code(part) => found.iter_mut().for_each(|title| title.push_str(&part)),
            _ => {}
        }
    }
    found.map(|title| title.trim().to_owned()).filter(|title| !title.is_empty())
}

/// The anchors of a document's headings.
pub(crate) fn anchors(text: &str) -> BTreeSet<String> {
    /// A document whose links are not asked for.
    struct Nowhere;
    impl Around for Nowhere {
        fn link(&mut self, _: &str, _: usize) -> Target {
            Target::Nothing
        }
        fn image(&mut self, _: &str, _: usize) -> Target {
            Target::Nothing
        }
        fn block(&mut self, _: usize) -> String {
            String::new()
        }
    }
    to_html(text, &mut Nowhere).1.into_iter().map(|(_, anchor, _)| anchor).collect()
}

/// What a link or an image of a document leads to.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) enum Target {
    /// An address, relative to the page or of the web.
    Address(String),
    /// A picture of the project: its page and its file.
    Picture { page: String, file: String },
    /// Nothing that the site has.
    Nothing,
}

/// What surrounds a document.
pub(crate) trait Around {
    /// What a link leads to that begins at a byte of the document.
    fn link(&mut self, written: &str, at: usize) -> Target;
    /// What an image shows that begins at a byte of the document.
    fn image(&mut self, written: &str, at: usize) -> Target;
    /// The pictures of a block, by its number among those of the document, as HTML.
    fn block(&mut self, number: usize) -> String;
}

/// The headings of a document: level, anchor, text.
pub(crate) type Headings = Vec<(u8, String, String)>;

/// The document as HTML, and its headings. It has no heading of the first level where `title` is shown above it.
pub(crate) fn to_html(text: &str, around: &mut dyn Around) -> (String, Headings) {
    let bare = pictures::Undrawn::of(text);
    let mut writer = Writer {
        bare: &bare,
        around,
        headings: Headings::new(),
        anchors: Unique::default(),
        open_heading: None,
        number: 0,
        is_block: false,
        ends: Vec::new(),
        images: 0,
    };
    // One piece after the other: a table of some megabytes has millions of them.
    let pieces = parser(&bare.text).into_offset_iter();
    let mut out = String::with_capacity(2 * text.len());
    html::push_html(&mut out, pieces.flat_map(|(event, range)| writer.write(event, range.start)));
    (out, writer.headings)
}

/// A document that is being written as HTML.
struct Writer<'a, 't> {
    bare: &'a pictures::Undrawn,
    around: &'a mut dyn Around,
    headings: Headings,
    anchors: Unique,
    /// Its level, what is written in it, and that as text.
    open_heading: Option<(HeadingLevel, Vec<Event<'t>>, String)>,
    /// How many blocks with a diagram came before.
    number: usize,
    /// Whether such a block is read.
    is_block: bool,
    /// How links and images end.
    ends: Vec<Option<&'static str>>,
    /// How many images are open: what stands in one are words in an attribute, and no more.
    images: usize,
}

impl<'t> Writer<'_, 't> {
    /// What is written for a piece of the document that begins at a byte.
    fn write(&mut self, event: Event<'t>, at: usize) -> Vec<Event<'t>> {
        let mut events = Vec::new();
        let event = self.turned(event, at, &mut events);
        events.extend(event);
        match &mut self.open_heading {
            Some((_, inner, _)) => {
                inner.append(&mut events);
                Vec::new()
            }
            None => events,
        }
    }

    /// What is written for a piece, behind what `events` holds then.
    fn turned(&mut self, event: Event<'t>, at: usize, events: &mut Vec<Event<'t>>) -> Option<Event<'t>> {
        Some(match event {
            Event::Start(Tag::Image { .. }) if self.images > 0 => {
                self.images += 1;
                return None;
            }
            Event::End(TagEnd::Image) if self.images > 1 => {
                self.images -= 1;
                return None;
            }
            Event::Start(_) | Event::Html(_) | Event::InlineHtml(_) if self.images > 0 => return None,
            Event::End(end) if self.images > 0 && end != TagEnd::Image => return None,
            Event::Code(text) if self.images > 0 => Event::Html(escaped_text(&text)),
            Event::SoftBreak | Event::HardBreak if self.images > 0 => Event::Html(" ".into()),
            Event::Start(Tag::CodeBlock(CodeBlockKind::Fenced(info))) if pictures::is_ours(&info) => {
                self.is_block = true;
                Event::Html(self.around.block(self.number).into())
            }
            Event::End(TagEnd::CodeBlock) if self.is_block => {
                self.is_block = false;
                self.number += 1;
                return None;
            }
            _ if self.is_block => return None,
            Event::Start(Tag::CodeBlock(_)) => Event::Html("<pre tabindex=\"0\"><code>".into()),
            Event::End(TagEnd::CodeBlock) => Event::Html("</code></pre>\n".into()),
            Event::Start(Tag::Table(_)) => {
                events.push(Event::Html("<div class=\"wide\" tabindex=\"0\">".into()));
                event
            }
            Event::End(TagEnd::Table) => {
                events.push(event);
                Event::Html("</div>\n".into())
            }
            Event::Start(Tag::Heading { level, .. }) => {
                self.open_heading = Some((level, Vec::new(), String::new()));
                return None;
            }
            Event::End(TagEnd::Heading(_)) => {
                let (level, inner, shown) = self.open_heading.take()?;
                let anchor = heading_anchor(&shown, &mut self.anchors);
                events.push(Event::Html(format!("<{level} id=\"{}\">", escaped(&anchor)).into()));
                events.extend(inner);
                self.headings.push((level as u8, anchor, shown));
                Event::Html(format!("</{level}>\n").into())
            }
            Event::Start(Tag::Link { dest_url, .. }) => {
                let (start, end) = opened(&self.around.link(&dest_url, self.bare.origin(at)));
                self.ends.push(end);
                start
            }
            Event::Start(Tag::Image { dest_url, .. }) => {
                self.images = 1;
                let (event, end) = match self.around.image(&dest_url, self.bare.origin(at)) {
                    Target::Address(address) => (image_start(&address), Some("\">")),
                    Target::Picture { page, file } => {
                        let start = format!("<a class=\"figure\" href=\"{}\">", escaped(&page));
                        events.push(Event::Html(start.into()));
                        (image_start(&file), Some("\"></a>"))
                    }
                    // The words instead of the image.
                    Target::Nothing => (Event::Html("<em>".into()), Some("</em>")),
                };
                self.ends.push(end);
                event
            }
            Event::End(end @ (TagEnd::Link | TagEnd::Image)) => {
                self.images = if end == TagEnd::Image { 0 } else { self.images };
                Event::Html(self.ends.pop().flatten()?.into())
            }
            Event::Html(written) | Event::InlineHtml(written) => foreign(&written)?,
            Event::Text(text) => {
                self.open_heading.iter_mut().for_each(|(_, _, shown)| shown.push_str(&text));
                Event::Html(escaped_text(&text))
            }
            Event::Code(code) => {
                self.open_heading.iter_mut().for_each(|(_, _, shown)| shown.push_str(&code));
                Event::Html(format!("<code>{}</code>", escaped_text(&code)).into())
            }
            // Nothing on a page of a site can be pressed.
            Event::TaskListMarker(is_done) => {
                let sign = if is_done { '\u{2611}' } else { '\u{2610}' };
                Event::Html(format!("<span class=\"task\">{sign}</span> ").into())
            }
            Event::HardBreak => Event::Html("<br>\n".into()),
            Event::Rule => Event::Html("<hr>\n".into()),
            other => other,
        })
    }
}

fn image_start(address: &str) -> Event<'static> {
    // What stands between are the words that tell what it shows.
    Event::Html(format!("<img loading=\"lazy\" src=\"{}\" alt=\"", escaped(address)).into())
}

fn opened(target: &Target) -> (Event<'static>, Option<&'static str>) {
    match target {
        Target::Address(address) | Target::Picture { page: address, .. } => {
            (Event::Html(format!("<a href=\"{}\">", escaped(address)).into()), Some("</a>"))
        }
        Target::Nothing => (Event::Html("<span class=\"nowhere\">".into()), Some("</span>")),
    }
}

/// HTML of the author's: comments go, a few tags stay, all else is text.
fn foreign(written: &str) -> Option<Event<'static>> {
    let bare = written.trim();
    if bare.is_empty() || bare.starts_with("<!--") && bare.ends_with("-->") {
        return None;
    }
    match TAGS.contains(&bare) {
        true => Some(Event::Html(bare.to_owned().into())),
        false => Some(Event::Html(escaped_text(written))),
    }
}

/// Text as HTML, line breaks kept.
fn escaped_text(text: &str) -> CowStr<'static> {
    bathygram_outputs::html::escaped_lines(text).into()
}

/// The anchor of a heading: its words in small letters, joined by `-`, as links in documents write it.
fn heading_anchor(shown: &str, taken: &mut Unique) -> String {
    let small = shown.trim().to_lowercase();
    let plain: String = small
        .chars()
        .filter_map(|c| match c {
            c if c.is_alphanumeric() || matches!(c, '-' | '_') => Some(c),
            c if c.is_whitespace() => Some('-'),
            _ => None,
        })
        .collect();
    let wanted = if plain.is_empty() { "section" } else { &plain };
    taken.give(wanted, |number| format!("{wanted}-{}", number - 1))
}

#[cfg(test)]
mod tests {
    use super::*;

    struct Bare;

    impl Around for Bare {
        fn link(&mut self, written: &str, _: usize) -> Target {
            if written.starts_with("https:") { Target::Address(written.to_owned()) } else { Target::Nothing }
        }

        fn image(&mut self, written: &str, _: usize) -> Target {
            match written {
                "buoy.png" => Target::Address("../files/buoy.png".to_owned()),
                "a.svg" => Target::Picture { page: "a.html".into(), file: "a.svg".into() },
                _ => Target::Nothing,
            }
        }

        fn block(&mut self, number: usize) -> String {
            format!("<figure>{number}</figure>")
        }
    }

    fn shown(text: &str) -> String {
        to_html(text, &mut Bare).0
    }

    #[test]
    fn nothing_that_an_author_writes_acts() {
        let text =
            "<script>alert(1)</script>\n\nA <b onclick=x>b</b> <br> [x](javascript:1) ![y](data:z) <img src=x>\n";
        let out = shown(text);
        for bad in ["<script", "<b ", "javascript:", "data:", "<img"] {
            assert!(!out.contains(bad), "{bad} in {out}");
        }
        assert!(out.contains("<br>") && out.contains("&lt;script&gt;"));
        let quoted = shown("![\" onerror=\"x](buoy.png) [a](https://x.test/\"onclick=\")");
        assert!(!quoted.contains("\" onerror"), "{quoted}");
        assert!(!quoted.contains("\"onclick"), "{quoted}");
        let nested = shown("![*a* [b](https://x.test) ![c](buoy.png) `d`](buoy.png)");
        assert_eq!(nested.trim(), "<p><img loading=\"lazy\" src=\"../files/buoy.png\" alt=\"a b c d\"></p>");
    }

    #[test]
    fn blocks_and_pictures_are_shown_and_headings_have_anchors() {
        let text = "# Tides & *surge*\n\n```bathygram\nflow a\n```\n\n## Ebb\n## Ebb\n![A](a.svg) ![B](buoy.png) ![C](c.png)\n\n```rust\nx < y\n```\n";
        let (out, headings) = to_html(text, &mut Bare);
        assert!(out.contains("<figure>0</figure>"), "{out}");
        assert!(
            out.contains("<a class=\"figure\" href=\"a.html\"><img loading=\"lazy\" src=\"a.svg\" alt=\"A\"></a>"),
            "{out}"
        );
        assert!(out.contains("<em>C</em>") && out.contains("x &lt; y\n"), "{out}");
        let anchors: Vec<&str> = headings.iter().map(|(_, anchor, _)| anchor.as_str()).collect();
        assert_eq!(anchors, ["tides--surge", "ebb", "ebb-1"]);
        assert_eq!(title(text).as_deref(), Some("Tides & surge"));
    }
}
