//! A Markdown document as HTML. What is written as HTML in it is shown as text, but for a few tags that do nothing but stand
//! there; links lead to pages of the site, to the web, or nowhere.

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
    let mut events: Vec<Event<'_>> = Vec::new();
    let mut headings = Headings::new();
    let mut anchors = BTreeSet::new();
    let mut open_heading: Option<(HeadingLevel, Vec<Event<'_>>, String)> = None;
    let mut number = 0;
    let mut is_block = false;
    // How links and images end.
    let mut ends: Vec<Option<&'static str>> = Vec::new();
    // How many images are open: what stands in one are words in an attribute, and no more.
    let mut images = 0_usize;
    for (event, range) in parser(&bare.text).into_offset_iter() {
        let event = match event {
            Event::Start(Tag::Image { .. }) if images > 0 => {
                images += 1;
                continue;
            }
            Event::End(TagEnd::Image) if images > 1 => {
                images -= 1;
                continue;
            }
            Event::Start(_) | Event::Html(_) | Event::InlineHtml(_) if images > 0 => continue,
            Event::End(end) if images > 0 && end != TagEnd::Image => continue,
            Event::Code(text) if images > 0 => Event::Html(escaped_text(&text)),
            Event::SoftBreak | Event::HardBreak if images > 0 => Event::Html(" ".into()),
            Event::Start(Tag::CodeBlock(CodeBlockKind::Fenced(info))) if pictures::is_ours(&info) => {
                is_block = true;
                Event::Html(around.block(number).into())
            }
            Event::End(TagEnd::CodeBlock) if is_block => {
                is_block = false;
                number += 1;
                continue;
            }
            _ if is_block => continue,
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
                open_heading = Some((level, Vec::new(), String::new()));
                continue;
            }
            Event::End(TagEnd::Heading(_)) => {
                let Some((level, inner, shown)) = open_heading.take() else { continue };
                let anchor = heading_anchor(&shown, &mut anchors);
                events.push(Event::Html(format!("<{level} id=\"{}\">", escaped(&anchor)).into()));
                events.extend(inner);
                headings.push((level as u8, anchor, shown));
                Event::Html(format!("</{level}>\n").into())
            }
            Event::Start(Tag::Link { dest_url, .. }) => {
                let (start, end) = opened(&around.link(&dest_url, bare.origin(range.start)));
                ends.push(end);
                start
            }
            Event::Start(Tag::Image { dest_url, .. }) => {
                images = 1;
                let (event, end) = match around.image(&dest_url, bare.origin(range.start)) {
                    Target::Address(address) => (image_start(&address), Some("\">")),
                    Target::Picture { page, file } => {
                        let start = format!("<a class=\"figure\" href=\"{}\">", escaped(&page));
                        events.push(Event::Html(start.into()));
                        (image_start(&file), Some("\"></a>"))
                    }
                    // The words instead of the image.
                    Target::Nothing => (Event::Html("<em>".into()), Some("</em>")),
                };
                ends.push(end);
                event
            }
            Event::End(end @ (TagEnd::Link | TagEnd::Image)) => {
                images = if end == TagEnd::Image { 0 } else { images };
                match ends.pop().flatten() {
                    Some(end) => Event::Html(end.into()),
                    None => continue,
                }
            }
            Event::Html(written) | Event::InlineHtml(written) => match foreign(&written) {
                Some(event) => event,
                None => continue,
            },
            Event::Text(text) => {
                open_heading.iter_mut().for_each(|(_, _, shown)| shown.push_str(&text));
                Event::Html(escaped_text(&text))
            }
            Event::Code(code) => {
                open_heading.iter_mut().for_each(|(_, _, shown)| shown.push_str(&code));
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
        };
        match &mut open_heading {
            Some((_, inner, _)) => inner.push(event),
            None => events.push(event),
        }
    }
    let mut out = String::with_capacity(2 * text.len());
    html::push_html(&mut out, events.into_iter());
    (out, headings)
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
fn heading_anchor(shown: &str, taken: &mut BTreeSet<String>) -> String {
    let small = shown.trim().to_lowercase();
    let plain: String = small
        .chars()
        .filter_map(|c| match c {
            c if c.is_alphanumeric() || matches!(c, '-' | '_') => Some(c),
            c if c.is_whitespace() => Some('-'),
            _ => None,
        })
        .collect();
    let wanted = if plain.is_empty() { "section".to_owned() } else { plain };
    let mut anchor = wanted.clone();
    let mut count = 0;
    while !taken.insert(anchor.clone()) {
        count += 1;
        anchor = format!("{wanted}-{count}");
    }
    anchor
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
