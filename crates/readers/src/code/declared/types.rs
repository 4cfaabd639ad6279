//! Types as people write them: what they are of, and how many of it.

/// A type, as far as a picture of classes shows it.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub(crate) struct Type {
    /// What it is of in the end: `Gauge` of `Vec<Option<Gauge>>`. A path, in the way of the language.
    pub(crate) of: String,
    /// Whether there may be several.
    pub(crate) is_many: bool,
    /// Whether there may be none.
    pub(crate) is_optional: bool,
    /// Whether it is only referred to.
    pub(crate) is_shared: bool,
}

/// Types that stand for what is in them.
const TRANSPARENT: [&str; 26] = [
    "Box",
    "RefCell",
    "Cell",
    "Mutex",
    "RwLock",
    "Cow",
    "Pin",
    "OnceCell",
    "OnceLock",
    "LazyLock",
    "UnsafeCell",
    "ManuallyDrop",
    "Promise",
    "Awaited",
    "Readonly",
    "Required",
    "Partial",
    "Final",
    "ClassVar",
    "Annotated",
    "Type",
    "type",
    "Lazy",
    "AtomicReference",
    "Future",
    "CompletableFuture",
];
/// Types that refer to what is in them.
const SHARED: [&str; 8] = ["Rc", "Arc", "Weak", "WeakReference", "WeakRef", "NonNull", "SoftReference", "ref"];
/// Types of which there may be none.
const OPTIONAL: [&str; 3] = ["Option", "Optional", "NotRequired"];
/// Types with many of the same.
const MANY: [&str; 44] = [
    "Vec",
    "VecDeque",
    "HashSet",
    "BTreeSet",
    "LinkedList",
    "BinaryHeap",
    "IndexSet",
    "SmallVec",
    "List",
    "Set",
    "Collection",
    "Iterable",
    "Iterator",
    "ArrayList",
    "SortedSet",
    "NavigableSet",
    "Queue",
    "Deque",
    "ArrayDeque",
    "TreeSet",
    "LinkedHashSet",
    "Stream",
    "Array",
    "ReadonlyArray",
    "ReadonlySet",
    "WeakSet",
    "list",
    "set",
    "frozenset",
    "tuple",
    "Tuple",
    "Sequence",
    "MutableSequence",
    "deque",
    "AbstractSet",
    "FrozenSet",
    "Generator",
    "AsyncIterator",
    "AsyncIterable",
    "ImmutableList",
    "ImmutableSet",
    "CopyOnWriteArrayList",
    "DefaultDict",
    "PriorityQueue",
];
/// Types with many values, each by a key.
const MAPS: [&str; 21] = [
    "HashMap",
    "BTreeMap",
    "IndexMap",
    "Map",
    "ReadonlyMap",
    "WeakMap",
    "Record",
    "dict",
    "Dict",
    "Mapping",
    "MutableMapping",
    "defaultdict",
    "OrderedDict",
    "TreeMap",
    "SortedMap",
    "NavigableMap",
    "LinkedHashMap",
    "ConcurrentHashMap",
    "ConcurrentMap",
    "EnumMap",
    "ImmutableMap",
];
/// Words before a type that say nothing of what it is of.
const WORDS: [&str; 9] = ["mut", "dyn", "impl", "const", "readonly", "final", "unsafe", "unique", "static"];
/// Values that stand for nothing.
const NOTHING: [&str; 4] = ["None", "null", "undefined", "nil"];

/// Types lie in each other at most so deep.
const DEEPEST: usize = 12;

impl Type {
    /// Reads a type.
    pub(crate) fn read(text: &str) -> Self {
        let mut out = Self::default();
        out.take(text, DEEPEST);
        out
    }

    fn take(&mut self, text: &str, left: usize) {
        let text = text.trim();
        // A type in quotes is one that comes later.
        let quoted = ['"', '\'', '`'].into_iter().find_map(|sign| text.strip_prefix(sign)?.strip_suffix(sign));
        let text = quoted.unwrap_or(text).trim();
        let Some(left) = left.checked_sub(1) else { return };
        // Several types: one of them, or none.
        let either = split(text, '|');
        if either.len() > 1 {
            let some: Vec<&str> = either.iter().map(|one| one.trim()).filter(|one| !NOTHING.contains(one)).collect();
            self.is_optional |= some.len() < either.len();
            if let [one] = some[..] {
                self.take(one, left);
            }
            return;
        }
        if let Some(rest) = text.strip_prefix("[]") {
            self.is_many = true;
            return self.take(rest, left);
        }
        if let Some(rest) = text.strip_prefix("map[") {
            self.is_many = true;
            return self.take(rest.split_once(']').map_or("", |(_, value)| value), left);
        }
        if let Some(rest) = text.strip_prefix('[') {
            // `[T]`, `[T; 4]` and `[4]T`.
            self.is_many = true;
            let (inside, after) = rest.split_once(']').unwrap_or((rest, ""));
            let of = if after.trim().is_empty() { inside.split(';').next().unwrap_or_default() } else { after };
            return self.take(of, left);
        }
        if let Some(rest) = text.strip_suffix("[]").or_else(|| text.strip_suffix("...")) {
            self.is_many = true;
            return self.take(rest.trim_start_matches('(').trim_end_matches(')'), left);
        }
        if let Some(rest) = text.strip_prefix(['&', '*']) {
            self.is_shared = true;
            return self.take(rest, left);
        }
        if let Some(rest) = text.strip_prefix('\'') {
            return self.take(rest.split_once(' ').map_or("", |(_, of)| of), left);
        }
        if let Some((word, rest)) = text.split_once(' ')
            && (WORDS.contains(&word)
                || word.starts_with('\'')
                || word.starts_with('@')
                || word == "chan"
                || word == "<-chan")
        {
            return self.take(rest, left);
        }
        self.named(text, left);
    }

    /// A name, with arguments or without.
    fn named(&mut self, text: &str, left: usize) {
        let text = split(text, '+')[0].trim();
        let Some(open) = text.find(['<', '[']) else {
            let is_name = |c: char| c.is_alphanumeric() || matches!(c, '_' | '.' | ':' | '$');
            self.of = if text.chars().all(is_name) { text.to_owned() } else { String::new() };
            return;
        };
        let head = text[..open].trim();
        let inside = text[open + 1..].trim_end().trim_end_matches(['>', ']', '?']);
        let arguments = split(inside, ',');
        let arguments: Vec<&str> =
            arguments.into_iter().map(str::trim).filter(|one| !one.starts_with('\'') && *one != "...").collect();
        let name = head.rsplit(['.', ':']).next().unwrap_or(head);
        let argument = |at: usize| arguments.get(at).or(arguments.last()).copied().unwrap_or_default();
        match name {
            name if TRANSPARENT.contains(&name) => self.take(argument(0), left),
            name if SHARED.contains(&name) => {
                self.is_shared = true;
                self.take(argument(0), left);
            }
            name if OPTIONAL.contains(&name) => {
                self.is_optional = true;
                self.take(argument(0), left);
            }
            name if MANY.contains(&name) => {
                self.is_many = true;
                self.take(argument(0), left);
            }
            name if MAPS.contains(&name) => {
                self.is_many = true;
                self.take(argument(1), left);
            }
            "Union" => self.take(&arguments.join(" | "), left),
            "Result" => self.take(argument(0), left),
            _ => self.of = head.to_owned(),
        }
    }
}

/// Parts between signs that stand in no brackets.
fn split(text: &str, sign: char) -> Vec<&str> {
    let (mut depth, mut start, mut out) = (0i32, 0, Vec::new());
    let mut before = ' ';
    for (at, c) in text.char_indices() {
        match c {
            '<' | '[' | '(' | '{' => depth += 1,
            // The head of an arrow closes nothing.
            '>' if matches!(before, '-' | '=') => {}
            '>' | ']' | ')' | '}' => depth -= 1,
            c if c == sign && depth == 0 => {
                out.push(&text[start..at]);
                start = at + c.len_utf8();
            }
            _ => {}
        }
        before = c;
    }
    out.push(&text[start..]);
    out
}

/// Of longer types only the beginning is shown.
const LONGEST: usize = 44;

/// A type as a member shows it: in one line, without what the language would read as something else.
pub(crate) fn shown(text: &str) -> String {
    let text = text.split_whitespace().collect::<Vec<_>>().join(" ");
    let text = text.replace(['"', '`', '\\'], "'").replace("'", "").replace("//", "/");
    let text = without_functions(&text);
    if text.chars().count() <= LONGEST {
        return text;
    }
    let head = text.split(['<', '[', '|', ' ']).next().unwrap_or_default();
    let head: String = head.chars().take(LONGEST).collect();
    if head.is_empty() {
        "…".to_owned()
    } else if text[head.len()..].starts_with('<') {
        format!("{head}<…>")
    } else {
        format!("{head} …")
    }
}

/// Tuples, functions and objects by a word: brackets mean something else in a member.
fn without_functions(text: &str) -> String {
    if text.contains("=>") || text.starts_with("fn(") || text.starts_with("func(") {
        return "function".to_owned();
    }
    if text.starts_with('{') {
        return "object".to_owned();
    }
    let mut out = String::new();
    let mut depth = 0;
    for c in text.chars() {
        match c {
            '(' | '{' => {
                if depth == 0 && (out.is_empty() || out.ends_with(['<', ' ', ',', '[', '&', '*'])) {
                    out.push_str(if c == '{' { "object" } else { "tuple" });
                }
                depth += 1;
            }
            ')' | '}' => depth = std::cmp::max(depth - 1, 0),
            c if depth == 0 => out.push(c),
            _ => {}
        }
    }
    // `Fn(u8) -> u8` has lost what it is given.
    out.replace(" -> ", "→")
}

#[cfg(test)]
mod tests {
    use super::*;

    fn read(text: &str) -> (String, bool, bool, bool) {
        let Type { of, is_many, is_optional, is_shared } = Type::read(text);
        (of, is_many, is_optional, is_shared)
    }

    #[test]
    fn types_tell_what_they_are_of() {
        for (text, of, is_many, is_optional, is_shared) in [
            ("Gauge", "Gauge", false, false, false),
            ("Vec<Option<Gauge>>", "Gauge", true, true, false),
            ("Arc<Mutex<Gauge>>", "Gauge", false, false, true),
            ("&'a mut [Gauge]", "Gauge", true, false, true),
            ("Box<dyn Gauge + Send>", "Gauge", false, false, false),
            ("HashMap<String, Vec<sea::Gauge>>", "sea::Gauge", true, false, false),
            ("Optional[list[\"Gauge\"]]", "Gauge", true, true, false),
            ("Gauge | None", "Gauge", false, true, false),
            ("Gauge | Buoy", "", false, false, false),
            ("Union[Gauge, None]", "Gauge", false, true, false),
            ("dict[str, sea.Gauge]", "sea.Gauge", true, false, false),
            ("tuple[Gauge, ...]", "Gauge", true, false, false),
            ("Map<string, Gauge[]>", "Gauge", true, false, false),
            ("readonly Gauge[]", "Gauge", true, false, false),
            ("[]*Gauge", "Gauge", true, false, true),
            ("map[string]sea.Gauge", "sea.Gauge", true, false, false),
            ("[4]Gauge", "Gauge", true, false, false),
            ("[Gauge; 4]", "Gauge", true, false, false),
            ("Series<Gauge>", "Series", false, false, false),
            ("(x: number) => void", "", false, false, false),
            ("", "", false, false, false),
        ] {
            assert_eq!(read(text), (of.to_owned(), is_many, is_optional, is_shared), "{text}");
        }
    }

    #[test]
    fn types_are_shown_in_one_line() {
        for (text, says) in [
            ("Vec<\n  Gauge\n>", "Vec< Gauge >"),
            ("(u8, u8)", "tuple"),
            ("Vec<(u8, Level)>", "Vec<tuple>"),
            ("Box<dyn Fn(u8) -> u8>", "Box<dyn Fn→u8>"),
            ("(a: string) => void", "function"),
            ("{ a: string }", "object"),
            ("Optional[\"Gauge\"]", "Optional[Gauge]"),
        ] {
            assert_eq!(shown(text), says);
        }
        assert_eq!(shown(&format!("Series<{}>", "Gauge, ".repeat(20))), "Series<…>");
    }
}
