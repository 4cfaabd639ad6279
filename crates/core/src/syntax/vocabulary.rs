//! The words of each kind of block, and the words of the trade that are written otherwise here.

/// The kinds of block that this version draws, and `look`, `sheet`, `from`.
pub const BLOCKS: &[&str] = &["sequence", "classes", "flow", "architecture", "sheet", "look", "from"];

/// Kinds of block of the language that this version cannot draw yet.
pub const LATER_BLOCKS: &[&str] = &["states", "network", "tree"];

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

const PROPERTIES: &[&str] = &["about", "built", "link", "tag", "icon", "code", "owner"];

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
        "caption",
    ],
    properties: PROPERTIES,
    clauses: &["when", "within", "returning"],
};

/// Words of a `classes` block.
pub const CLASSES: Vocabulary = Vocabulary {
    block: "classes",
    verbs: &["extends", "implements", "owns", "shares", "knows", "joins", "uses"],
    kinds: &["class", "interface", "enum", "record", "table", "object", "group"],
    keywords: &["remark", "section", "key", "unique", "caption", "heading"],
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
        "lane",
        "group",
    ],
    keywords: &["in", "when", "or", "otherwise", "together", "and", "go", "aside", "remark", "caption", "heading"],
    properties: PROPERTIES,
    clauses: &["in"],
};

/// Words of an `architecture`.
pub const ARCHITECTURE: Vocabulary = Vocabulary {
    block: "architecture",
    verbs: &["uses", "calls", "sends", "reads", "writes", "never"],
    kinds: &["system", "actor", "service", "store", "queue", "device", "part", "party", "group"],
    keywords: &["remark", "caption", "heading"],
    properties: PROPERTIES,
    clauses: &["over"],
};

/// Words of a `sheet`.
pub const SHEET: Vocabulary = Vocabulary {
    block: "sheet",
    verbs: &[],
    kinds: &[],
    keywords: &["depth", "open", "close", "focus", "show", "hide", "tell", "caption", "heading"],
    properties: &[],
    clauses: &["of"],
};

impl Vocabulary {
    /// Every word that may begin a line here.
    pub fn starters(&self) -> impl Iterator<Item = &'static str> {
        [self.verbs, self.kinds, self.keywords, self.properties].into_iter().flatten().copied()
    }
}

/// What to write here for a word that other notations, or other blocks, use.
pub fn ours(word: &str) -> Option<&'static str> {
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
        "title" => "NAME \"Title\"` after the kind of block",
        "direction" | "orientation" => "heading down",
        "return" | "returns" | "reply" => "answers` or the clause `returning \"…\"",
        "activate" | "deactivate" => "an indented body under the message",
        _ => return None,
    })
}
