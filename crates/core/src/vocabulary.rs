//! The words of each kind of block, and the words of the trade that are written otherwise here.

/// Makes an enum with one word for each of its variants.
macro_rules! words {
    ($(#[$meta:meta])* $name:ident { $($variant:ident $word:literal $doc:literal),+ $(,)? }) => {
        $(#[$meta])*
        #[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
        pub enum $name { $(#[doc = $doc] $variant),+ }

        impl $name {
            /// The word for it.
            pub fn word(self) -> &'static str {
                match self { $(Self::$variant => $word),+ }
            }

            /// What it means, in a few words.
            pub fn about(self) -> &'static str {
                match self { $(Self::$variant => $doc),+ }
            }

            /// All of them, in order.
            pub const ALL: &'static [Self] = &[$(Self::$variant),+];

            /// What a word stands for.
            pub fn from_word(word: &str) -> Option<Self> {
                match word { $($word => Some(Self::$variant),)+ _ => None }
            }
        }
    };
}

pub(crate) use words;

words! {
    /// The traits of elements and relations.
    TraitWord {
        External "external" "Not ours.",
        Hidden "hidden" "Takes room and is not drawn.",
        Tag "tag" "Tags, the same as the property.",
        Abstract "abstract" "An abstract class.",
        Keyword "keyword" "A free keyword in guillemets.",
        Left "left" "A remark to the left.",
        Right "right" "A remark to the right.",
        Above "above" "A remark above.",
        Below "below" "A remark below.",
        Count "count" "How many of a service a host runs.",
        Both "both" "Arrows at both ends.",
        End "end" "A mark at the end of a line.",
        Deep "deep" "History that reaches into inner states.",
        About "about" "A description, the same as the property.",
        Built "built" "The technology, the same as the property.",
        Link "link" "Where more is to be read, the same as the property.",
        Owner "owner" "Who looks after it, the same as the property.",
        Code "code" "The source files, the same as the property.",
        Origin "origin" "What it was imported from, the same as the property.",
        Fill "fill" "The colour of a shape.",
        Line "line" "How a line is drawn.",
        Text "text" "The colour of a text.",
        Icon "icon" "A pictogram.",
        Shape "shape" "A shape other than the kind's.",
    }
}

impl TraitWord {
    /// Whether it says a look: rules of looks give these too.
    pub fn is_look(self) -> bool {
        matches!(self, Self::Fill | Self::Line | Self::Text | Self::Icon | Self::Shape)
    }
}

words! {
    /// Marks at the end of a line, by `(end …)`.
    EndMark {
        Circle "circle" "A circle.",
        Cross "cross" "A cross.",
    }
}

/// The words that begin a block.
pub const BLOCKS: &[&str] =
    &["sequence", "classes", "flow", "states", "architecture", "network", "tree", "sheet", "look", "from"];

/// Words about the picture that belong to any block or sheet.
pub const PICTURE: &[&str] =
    &["caption", "legend", "heading", "arrange", "route", "spacing", "row", "order", "place", "pin"];

/// The words known inside one kind of block.
#[derive(Debug)]
pub struct Vocabulary {
    /// What the block is called in messages.
    pub block: &'static str,
    /// Verbs of statements.
    pub verbs: &'static [&'static str],
    /// Kinds of declarations.
    pub kinds: &'static [&'static str],
    /// Keywords that begin a line of their own.
    pub keywords: &'static [&'static str],
    /// Properties of elements.
    pub properties: &'static [&'static str],
    /// Clauses of statements and declarations.
    pub clauses: &'static [&'static str],
}

const PROPERTIES: &[&str] = &["about", "built", "link", "tag", "icon", "code", "owner", "origin"];

/// Words of a `sequence`.
pub const SEQUENCE: Vocabulary = Vocabulary {
    block: "sequence",
    verbs: &["calls", "sends", "answers", "creates", "destroys", "does"],
    kinds: &["party", "actor", "system", "service", "store", "queue", "device", "part", "group"],
    keywords: &[
        "when",
        "or",
        "otherwise",
        "repeat",
        "together",
        "and",
        "leave",
        "undivided",
        "in",
        "never",
        "see",
        "phase",
        "pause",
        "remark",
    ],
    properties: PROPERTIES,
    clauses: &["when", "within", "returning"],
};

/// Words of a `classes` block.
pub const CLASSES: Vocabulary = Vocabulary {
    block: "classes",
    verbs: &["extends", "implements", "owns", "shares", "knows", "joins", "uses"],
    kinds: &["class", "interface", "enum", "record", "table", "object", "group"],
    keywords: &["remark", "section", "key", "unique", "refers", "check", "multiplicity"],
    properties: PROPERTIES,
    clauses: &["extends", "implements", "of"],
};

/// Words of a `flow`.
pub const FLOW: Vocabulary = Vocabulary {
    block: "flow",
    verbs: &["then"],
    kinds: &[
        "step",
        "begin",
        "finish",
        "decide",
        "data",
        "document",
        "store",
        "manual",
        "enter",
        "prepare",
        "call",
        "display",
        "connector",
        "wait",
        "memory",
        "disk",
        "tape",
        "card",
        "strip",
        "ellipsis",
        "lane",
        "group",
    ],
    keywords: &["in", "when", "or", "otherwise", "together", "and", "repeat", "go", "aside", "remark"],
    properties: PROPERTIES,
    clauses: &["in"],
};

/// Words of a `states` block.
pub const STATES: Vocabulary = Vocabulary {
    block: "states",
    verbs: &["becomes"],
    kinds: &["state", "region", "choice", "junction", "together", "history", "entry", "exit", "group"],
    keywords: &["arriving", "staying", "leaving", "on", "remark"],
    properties: PROPERTIES,
    clauses: &["on", "when", "do"],
};

/// Words of a `network`.
pub const NETWORK: Vocabulary = Vocabulary {
    block: "network",
    verbs: &["joins", "then"],
    kinds: &[
        "device",
        "system",
        "actor",
        "service",
        "store",
        "queue",
        "part",
        "party",
        "zone",
        "host",
        "group",
        "step",
        "begin",
        "finish",
        "decide",
        "data",
        "document",
        "manual",
        "enter",
        "prepare",
        "call",
        "display",
        "connector",
        "wait",
        "memory",
        "disk",
        "tape",
        "card",
        "strip",
        "ellipsis",
        "item",
        "chance",
        "outcome",
    ],
    keywords: &["remark"],
    properties: PROPERTIES,
    clauses: &[],
};

/// Words of a `tree`.
pub const TREE: Vocabulary = Vocabulary {
    block: "tree",
    verbs: &[],
    kinds: &["item", "decide", "chance", "outcome"],
    keywords: &["remark"],
    properties: PROPERTIES,
    clauses: &["when"],
};

/// The blocks whose lines have subjects and verbs.
pub const DIAGRAMS: [&Vocabulary; 7] = [&SEQUENCE, &CLASSES, &FLOW, &STATES, &ARCHITECTURE, &NETWORK, &TREE];

/// Words of an `architecture`.
pub const ARCHITECTURE: Vocabulary = Vocabulary {
    block: "architecture",
    verbs: &["uses", "calls", "sends", "reads", "writes", "never", "runs"],
    kinds: &["system", "actor", "service", "store", "queue", "device", "part", "party", "zone", "host", "group"],
    keywords: &["remark", "from"],
    properties: PROPERTIES,
    clauses: &["over"],
};

/// Words of a `sheet`.
pub const SHEET: Vocabulary = Vocabulary {
    block: "sheet",
    verbs: &[],
    kinds: &[],
    keywords: &["depth", "open", "close", "focus", "show", "hide", "tell", "follow", "by", "members"],
    properties: &[],
    clauses: &["of"],
};

impl Vocabulary {
    /// Every word that may begin a line here.
    pub fn starters(&self) -> impl Iterator<Item = &'static str> {
        [self.verbs, self.kinds, self.keywords, PICTURE, self.properties].into_iter().flatten().copied()
    }
}

/// What to write here for a word that other notations, or other blocks, use.
pub fn ours(word: &str, block: &str) -> Option<&'static str> {
    Some(match (word, block) {
        ("start" | "initial" | "begin", "states") => "begin becomes NAME",
        ("stop" | "final" | "end" | "finish", "states") => "NAME becomes finish",
        ("fork" | "join", "states") => "together NAME",
        ("step", "states") => "state",
        ("transition", "states") => "NAME becomes NAME on \"…\"",
        ("edge" | "link" | "connect", _) => "NAME joins NAME` or `NAME then NAME",
        ("node" | "vertex", "network") => "device",
        ("node" | "root" | "topic" | "leaf" | "child" | "branch", "tree") => "item",
        ("payoff" | "value" | "utility", "tree") => "outcome \"…\"",
        ("if" | "alt" | "opt" | "case" | "switch", "flow") => {
            "decide \"…?\"`, with `when \"…\"` and `or \"…\"` below it"
        }
        ("else" | "elif" | "elseif", "flow") => "or \"…\"` or `otherwise`, below a `decide \"…?\"",
        ("input" | "read", "flow") => "enter \"…\"` or `data \"…\"",
        ("output" | "print", "flow") => "data \"…\"` or `display \"…\"",
        ("subprocess" | "subroutine" | "predefined", "flow") => "call \"…\"",
        ("delay" | "timer", "flow") => "wait \"…\"",
        ("delay" | "timer" | "space", "sequence") => "pause \"…\"` between messages, or `within \"…\"` behind one",
        ("lifeline", "sequence") => "party",
        ("autonumber", "sequence") => "(numbered)` behind the title",
        ("pk", "classes") => "id: integer (key)",
        ("fk", "classes") => "id: integer (refers T.id)",
        ("enumeration", "classes") => "enum",
        ("abstract", "classes") => "class NAME (abstract)",
        ("theme", _) => {
            "say: a theme is chosen with `theme = \"…\"` in bathygram.toml, or with `--theme`; colours of single elements stand in a `look` block"
        }
        ("node", _) => "device` or `host",
        _ => return ours_anywhere(word),
    })
}

/// What to write here for a line whose first words other notations use together. `words` are all words and texts of the line.
pub fn ours_line(words: &[&str], block: &str) -> Option<&'static str> {
    let is_text = |word: &&str| word.starts_with('"');
    let has = |word: &str| words.iter().any(|w| w.eq_ignore_ascii_case(word));
    Some(match (*words.first()?, words.get(1).copied().unwrap_or(""), block) {
        ("end", text, "flow") if is_text(&text) => "finish \"…\"",
        ("entry", "do", "states") => "arriving do \"…\"",
        ("exit", "do", "states") => "leaving do \"…\"",
        ("root" | "node" | "topic" | "leaf" | "child", text, "tree") if is_text(&text) => "item \"…\"",
        ("payoff" | "value" | "utility" | "cost", text, "tree") if is_text(&text) => "outcome \"…\"",
        ("direction" | "orientation", "right" | "horizontal", _) => "heading right",
        ("direction" | "orientation", "left", _) => "heading left",
        ("direction" | "orientation", "up", _) => "heading up",
        ("primary", "key", "classes") => "key a, b",
        ("foreign", "key", "classes") => "refers a to T.b",
        ("abstract", "class", "classes") => "class NAME (abstract)",
        (_, _, "classes") if has("fk") => "id: integer (refers T.id)",
        (_, _, "classes") if has("pk") => "id: integer (key)",
        _ => return None,
    })
}

/// The block that other notations call by this word.
pub fn ours_block(word: &str) -> Option<&'static str> {
    Some(match word {
        "class" | "erd" | "er" | "schema" | "tables" | "entities" => "classes",
        "flowchart" | "activity" | "process" | "procedure" => "flow",
        "state" | "statechart" | "statemachine" | "machine" => "states",
        "system" | "context" | "components" | "deployment" | "model" => "architecture",
        "graph" | "nodes" => "network",
        "mindmap" | "hierarchy" => "tree",
        "view" | "page" => "sheet",
        "style" | "styles" => "look",
        "include" | "import" | "use" | "using" => "from \"path/of/another.bathy\"",
        "interaction" | "messages" => "sequence",
        _ => return None,
    })
}

fn ours_anywhere(word: &str) -> Option<&'static str> {
    Some(match word {
        "alt" | "opt" | "if" => "when \"…\"",
        "else" | "elif" | "elseif" => "or \"…\"` or `otherwise",
        "loop" | "while" | "for" => "repeat \"…\"",
        "par" | "parallel" | "fork" => "together",
        "break" => "leave when \"…\"",
        "critical" => "undivided",
        "strict" => "in order",
        "ref" => "see",
        "note" | "comment" => "remark on NAME \"…\"",
        "start" => "begin",
        "stop" => "finish",
        "decision" | "condition" | "choice" => "decide \"…\"",
        "process" | "task" | "activity" | "action" => "step",
        "swimlane" | "pool" => "lane",
        "participant" => "party",
        "database" | "db" => "store",
        "component" | "module" => "part",
        "package" | "namespace" | "box" => "group",
        "container" => "system",
        "person" | "user" | "human" => "actor",
        "struct" | "dataclass" => "class` or `record",
        "inherits" => "extends",
        "contains" | "has" | "composes" => "owns",
        "aggregates" => "shares",
        "references" | "associates" => "knows",
        "goto" | "jump" => "go NAME",
        "title" => "say: the title stands behind the name of the block, as in `flow name \"Title\"`",
        "direction" | "orientation" => "heading right` or `heading down",
        "layout" => "arrange tree`, `heading right`, or `row a, b",
        "return" | "returns" | "reply" => "answers` or the clause `returning \"…\"",
        "end" => "nothing: what is indented ends with its indentation",
        "activate" | "deactivate" => "an indented body under the message",
        _ => return None,
    })
}
