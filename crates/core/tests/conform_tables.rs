//! Tables against a database: cases by hand, and laws on schemas by chance.

use bathygram_core::conform::{Schema, TableConformance, Weight, actual_tables, tables};
use bathygram_core::emit::emit;
use bathygram_core::model::{Diagram, Document};
use bathygram_core::pipeline::{Setting, read};
use bathygram_core::source::Source;
use bathygram_corpus::Dice;
use std::collections::BTreeSet;

fn diagram(text: &str) -> Diagram {
    let reading = read(Source::new("shore.bathy", text), "shore", &Setting::default());
    assert!(!reading.has_errors(), "{:?} in:\n{text}", reading.diagnostics);
    reading.document.diagrams.into_iter().next().expect("classes")
}

const DATABASE: &str = "classes shore
  group shore
    table station (origin shore.station)
      id: bigint (key)
      code: character varying(8) (unique)
      name: text = 'none'
      parent_id: bigint (null, refers station.id, on delete set null)
      check \"name <> ''\"
    table sensor (origin shore.sensor)
      station_id: bigint (key, refers station.id, on delete cascade)
      number: smallint (key)
      kind: level
    table reading (origin shore.reading)
      id: bigint (key)
      station_id: bigint
      sensor_number: smallint
      level: numeric(6,3) (null)
      taken_by: bigint (refers keeper.id)
      checked_by: bigint (null, refers keeper.id)
      unique station_id, sensor_number
      refers station_id, sensor_number to sensor.station_id, sensor.number (on delete cascade)
    enum level (origin shore.level)
      calm
      surge
  group desk
    table keeper (origin desk.keeper)
      id: bigint (key)
      name: text
    table shift (origin desk.shift)
      id: bigint (key)
  group other
    table log (origin other.log)
      id: bigint (key)
";

fn schema(text: &str) -> Schema {
    Schema { diagram: diagram(text), source: "shore.sqlite".to_owned() }
}

fn compared(design: &str) -> (Diagram, TableConformance) {
    let design = diagram(design);
    let of = tables(&design, &schema(DATABASE)).expect("a diagram with tables");
    (design, of)
}

fn told(design: &str) -> Vec<String> {
    let (design, of) = compared(design);
    of.deviations(&design).into_iter().map(|one| format!("{}: {}", one.code, one.says)).collect()
}

/// A design that says all of it.
fn design() -> String {
    DATABASE.replace("  group other\n    table log (origin other.log)\n      id: bigint (key)\n", "")
}

#[test]
fn what_is_as_drawn_conforms() {
    assert_eq!(told(&design()), Vec::<String>::new());
    assert_eq!(told(DATABASE), Vec::<String>::new());
    let (_, of) = compared(DATABASE);
    assert_eq!((of.agreements, of.found()), (7, 7));
}

#[test]
fn names_types_and_conditions_are_the_same_in_other_words() {
    let other = design()
        .replace("character varying(8)", "VARCHAR(8)")
        .replace("numeric(6,3)", "decimal(6, 3)")
        .replace("sensor_number: smallint", "sensorNumber: int2")
        .replace("station_id, sensor_number", "station_id, sensorNumber")
        .replace("name <> ''", "( NAME  <> '' )")
        .replace("table keeper (origin desk.keeper)", "table Keeper")
        .replace("keeper.id", "Keeper.id");
    assert_eq!(told(&other), Vec::<String>::new());
}

#[test]
fn a_drawing_may_leave_things_out() {
    // Only keys and references.
    let keys = "classes s\n  table station (origin shore.station)\n    id: bigint (key)\n    parent_id: bigint (null, refers station.id)\n";
    assert_eq!(told(keys), ["undrawn: in the database and not drawn: `shore.sensor`, `shore.reading`"]);
    // No columns at all, and a line that somebody drew.
    let lines = "classes s\n  table reading, sensor, keeper\n  1 sensor owns 0..1 reading\n";
    let notes = told(lines);
    assert_eq!(notes, ["undrawn: in the database and not drawn: `shore.station`, `desk.shift`"]);
    // Defaults, conditions and actions.
    let less = design()
        .replace(" = 'none'", "")
        .replace("      check \"name <> ''\"\n", "")
        .replace(", on delete cascade", "");
    assert_eq!(told(&less), Vec::<String>::new());
}

#[test]
fn each_deviation_is_told() {
    for (from, to, says) in [
        (
            "      level: numeric(6,3) (null)\n",
            "      level: real (null)\n",
            "type: `level` of `reading` is of type `numeric(6,3)` in the database",
        ),
        ("numeric(6,3) (null)", "numeric(6,3)", "nullable: `level` of `reading` may be missing in the database"),
        (
            "      name: text = 'none'\n",
            "      name: text = 'none' (null)\n",
            "nullable: `name` of `station` may not be missing in the database",
        ),
        ("'none'", "'some'", "default: `name` of `station` is `'none'` by default in the database"),
        (
            "      code: character varying(8) (unique)\n",
            "",
            "member-surprise: `code` of `station` is in the database; the diagram does not show it",
        ),
        (
            "      level: numeric",
            "      depth: int\n      level: numeric",
            "member-absent: `depth` of `reading` is not in the database",
        ),
        (
            "(8) (unique)",
            "(8)",
            "unique-undrawn: the database makes `code` unique in `station`; the diagram does not say so",
        ),
        (
            "name: text = 'none'",
            "name: text = 'none' (unique)",
            "unique: nothing in the database makes `name` unique in `station`",
        ),
        (
            "      number: smallint (key)\n",
            "      number: smallint\n",
            "key: the primary key of `sensor` is `station_id`, `number` in the database",
        ),
        (
            "refers keeper.id)\n      checked",
            "refers keeper.id, on delete cascade)\n      checked",
            "action: `taken_by` of `reading`: on delete the database does `no action`",
        ),
        (
            "on delete set null",
            "on delete cascade",
            "action: `parent_id` of `station`: on delete the database does `set null`",
        ),
        (
            "bigint (refers keeper.id)\n",
            "bigint\n",
            "surprise: `taken_by` of `reading` refers to `keeper` in the database; the diagram does not say so",
        ),
        (
            "      kind: level\n",
            "      kind: level (refers keeper.id)\n",
            "absent: `kind` of `sensor`: the database declares no reference to `keeper.id`",
        ),
        ("name <> ''", "name <> 'x'", "check: the database does not check `name <> 'x'` in `station`"),
        (
            "      surge\n",
            "",
            "member-surprise: the value `surge` of `level` is in the database; the diagram does not show it",
        ),
        (
            "      surge\n",
            "      surge\n      flood\n",
            "member-absent: the value `flood` of `level` is not in the database",
        ),
        (
            "    table shift (origin desk.shift)\n",
            "    table rota (origin desk.rota)\n",
            "absent: `rota` is not in the database",
        ),
        (
            "  group desk\n",
            "  keeper joins station\n  group desk\n",
            "absent: `keeper` joins `station`: neither table refers to the other in the database",
        ),
        (
            "  group desk\n",
            "  0..1 keeper joins 1 reading \"taken_by\"\n  group desk\n",
            "multiplicity: `keeper` joins `reading`: there are 1 and 0..* in the database",
        ),
    ] {
        let changed = design().replacen(from, to, 1);
        assert_ne!(changed, design(), "{from}");
        let mut all = told(&changed);
        all.retain(|one| !one.starts_with("undrawn"));
        assert!(all.contains(&says.to_owned()), "{says}\n{all:?}");
        assert!(all.len() == 1 || says.starts_with("multiplicity"), "{all:?}");
    }
}

#[test]
fn what_is_accepted_is_left_out() {
    let changed = design().replacen("name: text = 'none'", "name: text = 'none' (unique)", 1).replacen(
        "numeric(6,3) (null)",
        "real",
        1,
    );
    let (design, mut of) = compared(&changed);
    let keys: BTreeSet<String> = of.deviations(&design).into_iter().flat_map(|one| one.keys).collect();
    assert_eq!(
        keys.iter().collect::<Vec<_>>(),
        ["nullable reading: level: true", "type reading: level: numeric(6,3)", "unique station: name"]
    );
    assert_eq!(of.accept(&design, &keys), keys);
    assert!(of.differences.is_empty());
}

#[test]
fn the_picture_of_reality_is_what_is_there() {
    let changed = design()
        .replacen("name: text = 'none'", "name: varchar (unique)", 1)
        .replacen("      code: character varying(8) (unique)\n", "", 1)
        .replacen("bigint (refers keeper.id)\n", "bigint\n", 1)
        .replacen("    table shift (origin desk.shift)\n", "    table rota\n", 1);
    let (design, of) = compared(&changed);
    let actual = actual_tables(&design, &of);
    assert!(actual.elements.iter().all(|element| element.name != "rota"));
    let text = emit(&Document { diagrams: vec![actual], ..Document::default() });
    for line in [
        "name: text = 'none'\n",
        "code: character varying(8) (unique)\n",
        "reading knows 0..* - 1 keeper",
        "0..* knows 1 keeper \"taken_by\"",
    ] {
        let is_said = text.contains(line) || line.contains("knows") && text.contains("1 keeper \"taken_by\"");
        assert!(is_said, "{line}\n{text}");
    }
}

/// A schema by chance, as the lines of its tables.
fn sample(dice: &mut Dice) -> Vec<Vec<String>> {
    let count = 2 + dice.roll(6);
    (0..count)
        .map(|table| {
            let mut lines = vec![format!("  table t{table}"), "    id: bigint (key)".to_owned()];
            for column in 0..1 + dice.roll(5) {
                let of = *dice.pick(&["text", "integer", "numeric(6,3)", "boolean", "timestamptz"]);
                let traits = *dice.pick(&["", " (null)", " (unique)", " (null, unique)"]);
                lines.push(format!("    c{column}: {of}{traits}"));
            }
            for column in 0..dice.roll(3) {
                let optional = if dice.roll(2) == 0 { "null, " } else { "" };
                lines.push(format!("    r{column}: bigint ({optional}refers t{}.id)", dice.roll(count)));
            }
            lines
        })
        .collect()
}

fn text_of(tables: &[Vec<String>]) -> String {
    format!("classes s\n{}\n", tables.concat().join("\n"))
}

#[test]
fn by_chance_a_schema_conforms_to_itself_and_every_planted_deviation_is_the_only_one_told() {
    for seed in 0..200 {
        let mut dice = Dice::new(seed);
        let tables_of = sample(&mut dice);
        let schema = schema(&text_of(&tables_of));
        let compare = |text: &str| {
            let design = diagram(text);
            let of = tables(&design, &schema).expect("tables");
            of.deviations(&design)
                .into_iter()
                .filter(|one| one.weight == Weight::Difference)
                .map(|one| one.code)
                .collect::<Vec<_>>()
        };
        assert_eq!(compare(&text_of(&tables_of)), Vec::<&str>::new(), "seed {seed}");
        let mut other = tables_of.clone();
        let table = dice.roll(other.len());
        let column = other[table].iter().position(|line| line.starts_with("    c0")).expect("a column");
        let line = other[table][column].clone();
        let (code, changed) = match dice.roll(4) {
            0 => ("member-absent", Some(format!("{line}\n    extra: text"))),
            1 => ("member-surprise", None),
            2 => ("type", Some(line.replacen(line.split([' ', '(']).nth(5).unwrap_or("text"), "uuid", 1))),
            _ if line.contains("null") => ("nullable", Some(line.replace("(null, ", "(").replace(" (null)", ""))),
            _ => ("nullable", Some(format!("{line} (null)"))),
        };
        match changed {
            Some(changed) => other[table][column] = changed,
            None => _ = other[table].remove(column),
        }
        let is_keys_only = other[table][1..].iter().all(|line| line.contains("(key)") || line.contains("refers"));
        let found = compare(&text_of(&other));
        let wanted = if is_keys_only { Vec::new() } else { vec![code] };
        assert_eq!(found, wanted, "seed {seed}:\n{}", text_of(&other));
    }
}
