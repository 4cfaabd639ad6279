//! Classifiers of source trees, language by language.

mod common;

use bathygram_core::emit::emit;
use bathygram_core::jobs::OneByOne;
use bathygram_core::model::ShownMembers;
use bathygram_core::pipeline::{Setting, read};
use bathygram_core::source::Source;
use bathygram_readers::code::{ClassesOptions, classes};
use bathygram_readers::{Facts, Selection};
use common::Files;

fn all() -> ClassesOptions {
    ClassesOptions {
        selection: Selection::default(),
        members: ShownMembers::All,
        with_uses: false,
        with_about: false,
        with_tests: false,
    }
}

fn facts(files: &[(&str, &str)], options: &ClassesOptions) -> Facts {
    classes(&Files::new(files), options, &OneByOne).expect("facts")
}

/// The text of a tree, which has no errors, without origins and the first line.
fn text(files: &[(&str, &str)], options: &ClassesOptions) -> String {
    let text = emit(&facts(files, options).document());
    let reading = read(Source::new("bay.bathy", text.clone()), "bay", &Setting::default());
    assert!(!reading.has_errors(), "{:?} in:\n{text}", reading.diagnostics);
    let plain = |line: &str| match line.find("origin ") {
        Some(at) => {
            let head = line[..at].trim_end_matches([' ', '(']).trim_end_matches(',').to_owned();
            if head.contains('(') { head + ")" } else { head }
        }
        None => line.to_owned(),
    };
    text.lines().skip(1).map(plain).collect::<Vec<_>>().join("\n")
}

#[test]
fn rust_has_structures_traits_and_what_impl_gives_them() {
    let source = "/// A gauge. It floats.\npub struct Gauge<'a, T: Clone, const N: usize> { pub level: f64, parts: Vec<Part>, pub(crate) next: Option<Box<Gauge>>, shared: Arc<Mutex<Log>>, pair: (u8, u8), hear: Box<dyn Fn(u8) -> u8>, kind: Kind }\n\
        pub struct Part(pub u32, String);\nstruct Log;\npub enum Kind { Float, Radar { height: f64 } }\n\
        pub trait Hear: Send + Speak { fn hear(&self, data: &[u8]) -> Result<Part, String>; fn deaf(&self) -> bool { false } fn make() -> Self; }\npub trait Speak {}\n\
        impl<T> Gauge<'_, T, 3> { pub fn new(level: f64) -> Self { todo!() } fn part(&mut self, (a, b): (u8, u8), p: &Part) {} }\n\
        impl Hear for Part { fn hear(&self, data: &[u8]) -> Result<Part, String> { todo!() } }\nimpl std::fmt::Display for Log {}\n\
        fn inner() { struct Hidden; }\n#[cfg(test)]\nmod tests { struct Test; }\n";
    let options = ClassesOptions { with_about: true, ..all() };
    assert_eq!(
        text(&[("src/lib.rs", source)], &options),
        "  class Gauge<T, N>
    about \"A gauge\"
    + level: f64
    - pair: tuple
    - hear: Box<dyn Fn→u8>
    - kind: Kind
    + new(level: f64): Self (static)
    - part(_: tuple, p: &Part)
  class Part
    + 0: u32
    - 1: String
  class Log
  enum Kind
    Float
    Radar
  interface Hear
    + hear(data: &[u8]): Result<Part, String> (abstract)
    + deaf(): bool
    + make(): Self (static, abstract)
  interface Speak
  Part implements Hear
  Hear extends Speak
  Gauge owns 0..* Part as parts
  Gauge owns 0..1 Gauge as next
  Gauge knows Log as shared"
    );
}

#[test]
fn python_has_classes_with_what_their_makers_give_them() {
    let level = "from dataclasses import dataclass\nfrom enum import Enum\n@dataclass\nclass Level:\n    metres: float\n    gauge: 'Gauge'\nclass Kind(Enum):\n    FLOAT = 1\n    _hidden = 2\n";
    let gauge = "from abc import ABC, abstractmethod\nfrom typing import Generic, Protocol, TypeVar\nfrom .level import Level, Kind as K\nfrom . import level as lv\nT = TypeVar('T')\n\
        class Hear(Protocol):\n    def hear(self, data: bytes) -> None: ...\n\
        class Base(ABC, Generic[T]):\n    \"\"\"What all gauges are.\n\n    More.\n    \"\"\"\n    count = 0\n    @abstractmethod\n    def read(self) -> Level: ...\n    class Inner: pass\n\
        class Gauge(Base[int], Hear, lv.Other):\n    _name: str = ''\n    def __init__(self, levels: list[Level], last: Level | None = None, *more, key: K = K.FLOAT, **rest):\n        self.levels = levels\n        self.last = last\n        self.__own = Base()\n        self.plain = 1\n        def f():\n            self.not_this = 1\n\
        \n    @property\n    def kind(self) -> K: return K.FLOAT\n    @kind.setter\n    def kind(self, k): pass\n    @staticmethod\n    def make(a: int) -> 'Gauge': ...\n    @classmethod\n    def of(cls, b): ...\n    async def later(self): ...\n";
    let options = ClassesOptions { with_about: true, ..all() };
    assert_eq!(
        text(&[("bay/__init__.py", ""), ("bay/gauge.py", gauge), ("bay/level.py", level)], &options),
        "  interface Hear
    + hear(data: bytes)
  class Base<T> (abstract)
    about \"What all gauges are\"
    + count (static)
    + read(): Level (abstract)
  class Inner
  class Gauge
    # _name: str
    + plain
    + __init__(levels, last, *more, key, **rest)
    + kind: K
    + make(a: int): Gauge (static)
    + of(b) (static)
    + later()
  record Level
    + metres: float
    + gauge: Gauge
  enum Kind
    FLOAT
  Gauge extends Base
  Gauge implements Hear
  Gauge knows 0..* Level as levels
  Gauge knows 0..1 Level as last
  Gauge knows Base as __own"
    );
}

#[test]
fn typescript_has_classes_interfaces_enums_and_records() {
    let files = [
        ("src/index.ts", "export { Gauge as G } from './gauge';\nexport * from './types';\n"),
        (
            "src/types.ts",
            "export interface Hear<T> extends Speak { name?: string; readonly id: number; hear(data: T, n?: number): void; [key: string]: any }\ninterface Speak { speak(): string }\ninterface Speak { loud: boolean }\nexport type Level = { metres: number; \"odd-name\": string };\nexport type Other = string | Level;\n",
        ),
        (
            "src/gauge.ts",
            "import type { Hear, Level } from '.';\nimport * as types from './types';\nexport enum Kind { Float = 1, 'Radar' }\n/** A gauge. */\nexport abstract class Gauge<T extends object> extends Base implements Hear<string>, types.Level {\n  static count = 0;\n  #own: Map<string, Level[]> = new Map();\n  protected kind: Kind;\n  last?: Level;\n  constructor(private readonly log: Log, public name: string, plain: number) { super(); }\n  get high(): number { return 1 }\n  set high(n: number) {}\n  abstract read({ a, b }: object): Promise<Level>;\n  private static make(...parts: Level[]): void {}\n  ['computed']() {}\n  speak(): string;\n  speak(loud?: boolean): string { return '' }\n}\nclass Log {}\n",
        ),
        (
            "src/old.js",
            "class Base { constructor() { this.a = 1; } run(x, y = 1) {} }\nclass Next extends Base {}\nclass Far extends make(Base) {}\n",
        ),
    ];
    let options = ClassesOptions { with_about: true, ..all() };
    assert_eq!(
        text(&files, &options),
        "  enum Kind
    Float
    Radar
  class Gauge<T> (abstract)
    about \"A gauge\"
    + count (static)
    # kind: Kind
    + name: string
    + constructor(log: Log, name: string, plain: number)
    + high: number
    + read(options: object): Promise<Level> (abstract)
    - make(parts: Level[]) (static)
    + speak(): string
  class Log
  class Base
    + constructor()
    + run(x, y)
  class Next
  class Far
  interface Hear<T>
    + name: string [0..1]
    + id: number
    + hear(data: T, n: number) (abstract)
  interface Speak
    + speak(): string (abstract)
    + loud: boolean
  record Level
    + metres: number
    + odd_name: string
  Gauge implements Hear
  Gauge implements Level
  Next extends Base
  Hear extends Speak
  Gauge knows 0..* Level as own
  Gauge knows 0..1 Level as last
  Gauge knows Log as log"
    );
}

#[test]
fn java_has_classes_records_and_what_lies_in_them() {
    let files = [
        (
            "bay/Gauge.java",
            "package bay;\nimport java.util.*;\nimport bay.sea.Level;\n/** A gauge. */\npublic abstract class Gauge<T extends Level> extends Base<T> implements Hear, Comparable<T> {\n  private final List<Level> levels = new ArrayList<>();\n  protected static int count, more[];\n  Optional<Part> part;\n  public Gauge(int n) {}\n  public abstract Map<String, Level> read(Level level, int... rest) throws Exception;\n  enum Kind { FLOAT, RADAR(1) { void z() {} }; private int height; Kind() {} }\n  record Frame(int at, Level level) {}\n  static class Part {}\n  @interface Marked { String value(); }\n}\ninterface Hear extends Speak { int MOST = 1; void hear(byte[] data); default boolean deaf() { return false; } static void none() {} }\ninterface Speak {}\n",
        ),
        ("bay/Base.java", "package bay;\nclass Base<T> { void run() { class Local {} } }\n"),
        ("bay/sea/Level.java", "package bay.sea;\npublic class Level {}\n"),
    ];
    assert_eq!(
        text(&files, &ClassesOptions { with_about: true, ..all() }),
        "  group \"bay\"
    class Base<T>
      ~ run()
    class Gauge<T> (abstract)
      about \"A gauge\"
      # count: int (static)
      # more: int[] (static)
      + Gauge(n: int)
      + read(level: Level, rest: int...): Map<String, Level> (abstract)
    enum Kind
      FLOAT
      RADAR
      - height: int
      ~ Kind()
    record Frame
      + at: int
    class Part
    interface Marked
      + value(): String (abstract)
    interface Hear
      + MOST: int (static)
      + hear(data: byte[]) (abstract)
      + deaf(): boolean
      + none() (static)
    interface Speak
  group \"bay/sea\"
    class Level
  Gauge extends Base
  Gauge implements Hear
  Hear extends Speak
  Gauge knows 0..* Level as levels
  Gauge knows 0..1 Part as part
  Frame knows Level as level"
    );
}

#[test]
fn go_has_structures_interfaces_and_lists_of_values() {
    let files = [
        ("go.mod", "module harbour.example/bay\n"),
        (
            "gauge.go",
            "package bay\nimport \"harbour.example/bay/sea\"\n// Gauge floats. Always.\ntype Gauge[K comparable, V any] struct {\n  Name, Place string\n  *sea.Level\n  parts []*Part `json:\"p\"`\n  one Part\n  hear func(int) error\n}\ntype Part struct{}\ntype Kind int\nconst (\n  Float Kind = iota\n  Radar\n  _\n)\nconst Other = 1\ntype Names []string\ntype Alias = Part\n",
        ),
        (
            "more.go",
            "package bay\nfunc (g *Gauge[K, V]) Read(a, b int, rest ...string) (sea.Level, error) { return sea.Level{}, nil }\nfunc (p Part) hide() {}\nfunc free() {}\ntype Reader interface { Read(a, b int, rest ...string) (sea.Level, error) }\ntype Both interface { Reader; Close() error }\n",
        ),
        ("sea/level.go", "package sea\ntype Level struct { Metres float64 }\n"),
    ];
    assert_eq!(
        text(&files, &ClassesOptions { with_about: true, ..all() }),
        "  group \"bay\"
    class Gauge<K, V>
      about \"Gauge floats\"
      + Name: string
      + Place: string
      ~ hear: function
      + Read(a: int, b: int, rest: ...string): tuple
    class Part
      ~ hide()
    enum Kind
      Float
      Radar
    record Names
      - value: []string
    interface Reader
      + Read(a: int, b: int, rest: ...string): tuple (abstract)
    interface Both
      + Close(): error (abstract)
  group \"sea\"
    class Level
      + Metres: float64
  Both extends Reader
  Gauge implements Reader
  Gauge knows Level as Level
  Gauge knows 0..* Part as parts
  Gauge owns Part as one"
    );
}

#[test]
fn members_uses_and_selections_are_asked_for() {
    let files = [
        (
            "a/gauge.py",
            "from b.level import Level\nclass Gauge:\n    def read(self) -> Level: ...\n    def _own(self): ...\nclass Other: ...\n",
        ),
        ("b/level.py", "class Level:\n    def high(self): ...\n"),
    ];
    let with = |members, with_uses, only: &[&str]| {
        let selection = Selection { only: only.iter().map(|one| (*one).to_owned()).collect(), ..Selection::default() };
        text(&files, &ClassesOptions { members, with_uses, selection, ..all() })
    };
    let none = with(ShownMembers::None, true, &[]);
    assert!(!none.contains("read") && none.contains("Gauge uses Level"), "{none}");
    let public = with(ShownMembers::Public, false, &["Gauge"]);
    assert_eq!(public, "  class Gauge\n    + read(): Level");
    assert!(with(ShownMembers::All, false, &["a/*"]).contains("# _own()"));
    let nothing = Selection { only: vec!["Nobody".into()], ..Selection::default() };
    let wrong = classes(&Files::new(&files), &ClassesOptions { selection: nothing, ..all() }, &OneByOne);
    assert!(wrong.expect_err("nothing").to_string().contains("none of its 3 classifiers"));
    let nothing = Selection { only: vec!["Nobody".into()], ..Selection::default() };
    let wrong = classes(&Files::new(&files[1..]), &ClassesOptions { selection: nothing, ..all() }, &OneByOne);
    assert!(wrong.expect_err("nothing").to_string().contains("its one classifier is not what is asked for"));
    let wrong = classes(&Files::new(&[("a.py", "x = 1\n")]), &all(), &OneByOne);
    assert!(wrong.expect_err("nothing").to_string().contains("there are no classes"));
}

#[test]
fn names_that_files_hand_on_in_circles_end() {
    let files = [
        ("a.py", "from b import *\nfrom b import X\nclass A(X, Y): ...\n"),
        ("b.py", "from a import *\nfrom a import X\nfrom c import Y\n"),
        ("c.py", "class Y: ...\n"),
    ];
    assert_eq!(text(&files, &all()), "  class A\n  class Y\n  A extends Y");
}

#[test]
fn many_classifiers_and_broken_files_are_told() {
    let many: String = (0..70).map(|i| format!("class C{i}: ...\n")).collect();
    let found = facts(&[("a.py", &many), ("b.py", "class B:\n    x: int = (\n")], &all());
    let codes: Vec<&str> = found.findings.iter().map(|finding| finding.code).collect();
    assert_eq!(codes, ["not-understood", "many"]);
    assert_eq!(found.things.len(), 70);
}

#[test]
fn packages_of_java_are_found_in_every_source_root() {
    let files = [
        ("src/main/java/bay/Base.java", "package bay; class Base {}"),
        ("other/bay/Base.java", "package bay; class Base {}"),
        ("src/more/java/bay/Next.java", "package bay; class Next extends Base {}"),
    ];
    let found = facts(&files, &all());
    let [link] = &found.links[..] else { panic!("one relation") };
    assert_eq!(found.things[link.to].origin, "src/main/java/bay/Base.java:Base");
}
