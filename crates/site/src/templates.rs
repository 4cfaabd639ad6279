//! The pages as templates: one type for each file in `templates/`.

use askama::Template;
use bathygram_core::language::Language;
use std::collections::BTreeMap;

/// Where the drawing is put; no text of a page holds this.
pub(crate) const PICTURE: &str = "\u{1}picture\u{1}";
/// Where what the drawing needs of the style is put.
pub(crate) const STYLE: &str = "\u{1}style\u{1}";
/// Where the policy names that style.
pub(crate) const POLICY: &str = "\u{1}policy\u{1}";

/// What all pages have.
#[derive(Clone, Copy)]
pub(crate) struct Frame<'a> {
    pub(crate) language: &'a Language,
    /// What the project is called.
    pub(crate) project: &'a str,
    /// The way up to the front page's folder.
    pub(crate) root: &'a str,
    pub(crate) has_documents: bool,
}

impl<'a> Frame<'a> {
    /// A word of the site.
    pub(crate) fn say(&self, key: &'a str) -> &'a str {
        self.language.say("site", key)
    }

    /// A word that pages of pictures have, too.
    pub(crate) fn page(&self, key: &'a str) -> &'a str {
        self.language.say("page", key)
    }

    /// The words that the site's script says.
    pub(crate) fn words(&self) -> String {
        self.as_json(&[
            ("nothing", self.page("nothing")),
            ("found", self.say("found")),
            ("results", self.say("results")),
        ])
    }

    /// The words that the script of the picture says.
    pub(crate) fn viewer_words(&self) -> String {
        let own = ["relation", "inside", "nothing"].map(|key| (key, self.page(key)));
        let all: Vec<(&str, &str)> = own.into_iter().chain([("open", self.say("open_page"))]).collect();
        self.as_json(&all)
    }

    fn as_json(&self, words: &[(&str, &str)]) -> String {
        let words: BTreeMap<&str, &str> = words.iter().copied().collect();
        // Nothing ends the script.
        serde_json::to_string(&words).unwrap_or_default().replace('<', "\\u003c")
    }

    /// Where the drawing is put.
    pub(crate) fn picture(&self) -> &'static str {
        PICTURE
    }
}

/// A link with a small picture.
pub(crate) struct Card {
    pub(crate) href: String,
    pub(crate) image: String,
    pub(crate) title: String,
    pub(crate) about: String,
}

/// A link, and what is said of it.
#[derive(Clone)]
pub(crate) struct Link {
    pub(crate) href: String,
    pub(crate) title: String,
    pub(crate) about: String,
}

/// Pictures of one folder, or of one kind.
pub(crate) struct CardGroup {
    pub(crate) title: String,
    pub(crate) cards: Vec<Card>,
}

#[derive(Template)]
#[template(path = "front.html")]
pub(crate) struct Front<'a> {
    pub(crate) frame: Frame<'a>,
    pub(crate) title: &'a str,
    pub(crate) style: &'a str,
    pub(crate) policy: &'a str,
    pub(crate) heading: &'a str,
    pub(crate) summary: &'a str,
    pub(crate) documents: &'a [Link],
    pub(crate) groups: &'a [CardGroup],
}

/// The elements of one diagram.
pub(crate) struct LinkGroup {
    pub(crate) href: String,
    pub(crate) title: String,
    pub(crate) links: Vec<Link>,
}

#[derive(Template)]
#[template(path = "elements.html")]
pub(crate) struct Elements<'a> {
    pub(crate) frame: Frame<'a>,
    pub(crate) title: &'a str,
    pub(crate) style: &'a str,
    pub(crate) policy: &'a str,
    pub(crate) summary: &'a str,
    pub(crate) groups: &'a [LinkGroup],
}

/// An element in the page of its diagram.
pub(crate) struct Listed {
    pub(crate) anchor: String,
    pub(crate) href: String,
    pub(crate) title: String,
    pub(crate) kind: String,
    pub(crate) about: String,
    pub(crate) others: Vec<Link>,
    /// How many more there are, in words.
    pub(crate) more_others: String,
}

/// A version of a diagram.
pub(crate) struct ShownVersion<'a> {
    pub(crate) date: &'a str,
    pub(crate) author: &'a str,
    pub(crate) subject: &'a str,
    /// Sentences as HTML.
    pub(crate) says: Vec<String>,
    pub(crate) before: String,
    pub(crate) after: String,
}

#[derive(Template)]
#[template(path = "diagram.html")]
pub(crate) struct DiagramPage<'a> {
    pub(crate) frame: Frame<'a>,
    pub(crate) title: &'a str,
    pub(crate) style: &'a str,
    pub(crate) policy: &'a str,
    pub(crate) trail: &'a str,
    pub(crate) heading: &'a str,
    pub(crate) about: &'a str,
    pub(crate) name: &'a str,
    pub(crate) download: &'a str,
    pub(crate) description: &'a str,
    pub(crate) sheets: &'a [Card],
    pub(crate) used: &'a [Link],
    pub(crate) elements: &'a [Listed],
    pub(crate) relations: &'a [String],
    pub(crate) versions: &'a [ShownVersion<'a>],
    pub(crate) file: &'a str,
    pub(crate) source: &'a str,
}

/// Something that is known of an element.
pub(crate) struct Fact {
    pub(crate) name: String,
    pub(crate) value: String,
    pub(crate) href: String,
}

/// Links under a heading.
pub(crate) struct TitledLinks {
    pub(crate) title: String,
    pub(crate) links: Vec<Link>,
    /// How many more there are, in words.
    pub(crate) more: String,
}

#[derive(Template)]
#[template(path = "element.html")]
pub(crate) struct ElementPage<'a> {
    pub(crate) frame: Frame<'a>,
    pub(crate) title: &'a str,
    pub(crate) style: &'a str,
    pub(crate) policy: &'a str,
    pub(crate) trail: &'a str,
    pub(crate) heading: &'a str,
    pub(crate) name: &'a str,
    pub(crate) kind: &'a str,
    pub(crate) about: &'a str,
    pub(crate) has_inside: bool,
    pub(crate) facts: &'a [Fact],
    pub(crate) members: &'a [String],
    pub(crate) lists: &'a [TitledLinks],
    /// Out and in.
    pub(crate) relations: &'a [TitledLinks],
    pub(crate) shown: &'a [Card],
}

#[derive(Template)]
#[template(path = "document.html")]
pub(crate) struct DocumentPage<'a> {
    pub(crate) frame: Frame<'a>,
    pub(crate) title: &'a str,
    pub(crate) style: &'a str,
    pub(crate) policy: &'a str,
    pub(crate) trail: &'a str,
    pub(crate) needs_heading: bool,
    pub(crate) body: &'a str,
    pub(crate) file: &'a str,
}
