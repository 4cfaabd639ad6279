//! `import`: tables become texts and pictures, what contradicts itself is named with its place, and texts are brought up to date.

use crate::common::{Folder, repository};
use serde_json::Value;

fn data(name: &str) -> String {
    repository().join(format!("crates/cli/tests/data/tables/{name}")).display().to_string()
}

/// Codes of findings with their rows and columns.
fn findings(error: &str) -> Vec<(String, u64, u64)> {
    let start = error.find('[').expect("a list");
    let end = error.rfind(']').expect("its end");
    let all: Vec<Value> = serde_json::from_str(&error[start..=end]).expect("JSON");
    let number = |of: &Value| of.as_u64().unwrap_or(0);
    all.iter()
        .map(|f| {
            (f["code"].as_str().expect("a code").to_owned(), number(&f["seen"]["line"]), number(&f["seen"]["column"]))
        })
        .collect()
}

#[test]
fn a_workbook_gives_a_network_and_exactly_what_is_wrong_in_it() {
    let folder = Folder::new();
    // The same workbook as two programs write it.
    for file in ["harbour.xlsx", "harbour.ods"] {
        let run = folder.run(&["-q", "import", "table", &data(file), "--findings", "json"]).ends_with(0);
        let wanted = [
            ("directions-differ", 10, 0),
            ("port-in-use", 11, 2),
            ("spelled-two-ways", 12, 1),
            ("not-listed", 12, 3),
            ("end-missing", 13, 3),
            ("joined-with-itself", 14, 0),
            ("no-columns", 1, 0),
        ];
        let wanted: Vec<(String, u64, u64)> =
            wanted.iter().map(|(code, row, column)| ((*code).to_owned(), *row, *column)).collect();
        assert_eq!(findings(&run.err), wanted, "{file}");
        for line in [
            "  group \"Shore\"\n    group \"Rack 1\"\n      device core-1 \"Core switch\" (icon switch, origin core-1)\n        owner \"Network office\"\n",
            // A merged cell holds for both of its rows, and whole numbers have no decimals.
            "  pier-sw at \"6\" joins mast-2 at lan \"C-11, 100M\" (tag copper)\n",
            "  legend\n\nlook\n  tag copper: line ochre thick\n",
        ] {
            assert!(run.out.contains(line), "{file}: {line} in:\n{}", run.out);
        }
        assert!(!run.out.contains('5') || !run.out.contains("=2+3"), "formulas are not texts");
    }
    let log = folder.run(&["-q", "import", "table", &data("harbour.xlsx"), "--findings", "sarif"]).ends_with(0);
    let log: Value = serde_json::from_str(&log.err).expect("JSON");
    let schema = std::fs::read_to_string(repository().join("crates/cli/tests/data/sarif-2.1.0.schema.json"))
        .expect("the schema");
    let schema: Value = serde_json::from_str(&schema).expect("JSON");
    let schema = jsonschema::validator_for(&schema).expect("a schema");
    let wrong: Vec<String> = schema.iter_errors(&log).map(|e| e.to_string()).collect();
    assert!(wrong.is_empty(), "{wrong:?}");
    let facts = folder.run(&["-q", "import", "table", &data("harbour.xlsx"), "--json"]).ends_with(0);
    let facts: Value = serde_json::from_str(&facts.out).expect("JSON");
    let schema: Value = serde_json::from_str(&folder.run(&["import", "schema"]).ends_with(0).out).expect("JSON");
    let schema = jsonschema::validator_for(&schema).expect("a schema");
    let wrong: Vec<String> = schema.iter_errors(&facts).map(|e| e.to_string()).collect();
    assert!(wrong.is_empty(), "{wrong:?}");
    // What other sources give is described by the same schema.
    let demo = |file: &str| repository().join("demo/tidewatch").join(file).display().to_string();
    for source in [
        ["graph", &demo("moorings.graphml"), "--kinds"],
        ["graph", &demo("moorings.graphml"), "--instances"],
        ["trace", &demo("surge_traces.jsonl"), "--trace=usual"],
        ["trace", &demo("surge_traces.jsonl"), "--trace=all"],
        ["outline", &demo("silent_gauge.md"), "--findings=text"],
        ["outline", &demo("silent_gauge.md"), "--tree"],
    ] {
        let arguments: Vec<&str> = ["-q", "import"].into_iter().chain(source).chain(["--json"]).collect();
        let other: Value = serde_json::from_str(&folder.run(&arguments).ends_with(0).out).expect("JSON");
        let wrong: Vec<String> = schema.iter_errors(&other).map(|e| e.to_string()).collect();
        assert!(wrong.is_empty(), "{source:?}: {wrong:?}");
    }
    assert_eq!(facts["counts"]["empty"], 1);
    let written = std::fs::read_to_string(repository().join("docs/import.schema.json")).expect("the schema");
    assert_eq!(folder.run(&["import", "schema"]).ends_with(0).out, written);
    let near = ["-q", "import", "table", &data("harbour.xlsx"), "--around", "gauge-7", "--distance", "1"];
    let near = folder.run(&near).ends_with(0).out;
    assert!(near.contains("device pier-sw") && !near.contains("core-1"), "{near}");
    folder
        .run(&["import", "table", &data("harbour.xlsx"), "--around", "nobody"])
        .ends_with(2)
        .says("is called `nobody`");
}

#[test]
fn the_demo_s_table_has_its_six_faults_and_is_drawn() {
    let folder = Folder::new();
    let table = repository().join("demo/tidewatch/harbour_cabling.csv").display().to_string();
    let run = folder.run(&["import", "table", &table, "--picture", "cables.html"]).ends_with(0);
    for code in ["port-in-use", "directions-differ", "spelled-two-ways", "end-missing", "joined-with-itself"] {
        assert!(run.err.contains(&format!("[{code}]")), "{code}: {}", run.err);
    }
    assert_eq!(run.err.matches(": warning [").count(), 6, "{}", run.err);
    assert!(folder.read("cables.html").contains("data-element=\"gauge-7\""));
    // The text is one that everything else takes.
    folder.write("harbour_cabling.bathy", &run.out);
    folder.run(&["format", "--check", "harbour_cabling.bathy"]).ends_with(0);
    folder.run(&["render", "harbour_cabling.bathy"]).ends_with(0);
    folder.run(&["check", "harbour_cabling.bathy"]).ends_with(0);
    let piped =
        folder.run_with(&["import", "table", "-"], &std::fs::read_to_string(&table).expect("the table")).ends_with(0);
    assert!(piped.out.contains("core-1 at \"1/1\" joins ingest-1 at eth0 \"C-01, 10G\""), "{}", piped.out);
}

#[test]
fn a_table_of_200_devices_gives_a_clean_picture_and_exactly_the_known_faults() {
    let folder = Folder::new();
    let run = folder.run(&["import", "table", &data("sites.xlsx"), "--picture", "sites.svg"]).ends_with(0);
    let codes: Vec<&str> =
        run.err.lines().filter_map(|line| line.split(": warning [").nth(1)?.split(']').next()).collect();
    let known =
        ["port-in-use", "directions-differ", "spelled-two-ways", "not-listed", "end-missing", "joined-with-itself"];
    assert_eq!(codes, known, "{}", run.err);
    assert!(run.err.contains("201 elements in 45 groups, 245 relations"), "{}", run.err);
    // Nothing in its picture lies on anything else.
    folder.write("sites.bathy", &run.out);
    let render = folder.run(&["render", "sites.bathy"]).ends_with(0);
    assert!(!render.err.contains("warning"), "{}", render.err);
}

#[test]
fn an_inventory_gives_an_architecture() {
    let folder = Folder::new();
    folder.write("parts.tsv", "Element\tKind\tParent\tDescription\tTags\nTidewatch\tsystem\t\tWatches\t\nGateway\tservice\tTidewatch\t\tcritical, edge\nReadings\tdatabase\tTidewatch\t\t\nDesk\tservice\tHarbour\t\t\nA\tservice\tB\t\t\nB\tservice\tA\t\t\n");
    let run = folder.run(&["import", "table", "parts.tsv"]).ends_with(0);
    assert!(run.err.contains("parts.tsv:5:3: note [parent-missing]: `Harbour` is listed nowhere"), "{}", run.err);
    assert!(run.err.contains("[in-a-circle]"), "{}", run.err);
    for line in [
        "  system Tidewatch (origin Tidewatch)\n    about \"Watches\"\n    service Gateway (origin Gateway)\n      tag critical edge\n    store Readings (origin Readings)\n",
        "  group \"Harbour\"\n    service Desk (origin Desk)\n",
    ] {
        assert!(run.out.contains(line), "{line} in:\n{}", run.out);
    }
}

#[test]
fn elements_with_parents_may_be_a_tree_that_is_brought_up_to_date() {
    let folder = Folder::new();
    folder.write("stock.csv", "Name,Parent,Description\nYard,,\nCranes,Yard,Lift boats\nBoats,Yard,\n");
    let first = folder.run(&["-q", "import", "table", "stock.csv", "--tree"]).ends_with(0).out;
    let wanted = "tree stock \"Stock\"\n  item Yard (origin Yard)\n    item Cranes (origin Cranes)\n      about \"Lift boats\"\n    item Boats (origin Boats)\n";
    assert_eq!(first, wanted);
    let edited =
        first.replace("item Boats (", "item Boats \"Our boats\" (") + "  remark on Cranes \"Painted in May.\"\n";
    folder.write("stock.bathy", &edited);
    folder.write("stock.csv", "Name,Parent,Description\nYard,,\nCranes,Yard,Lift boats\nBoats,Yard,\nSkiff,Boats,\n");
    let again = ["import", "table", "stock.csv", "--tree", "--into", "stock.bathy"];
    folder.run(&again).ends_with(0).says("new: Skiff");
    let text = folder.read("stock.bathy");
    assert!(text.contains("    item Boats \"Our boats\" (origin Boats)\n      item Skiff (origin Skiff)\n"), "{text}");
    assert!(text.contains("Painted in May"), "{text}");
    folder.run(&again).ends_with(0).says("is up to date");
}

#[test]
fn an_architecture_that_people_edited_is_brought_up_to_date() {
    let folder = Folder::new();
    folder.write(
        "parts.csv",
        "Name,Kind,Parent\nTidewatch,system,\nGateway,service,Tidewatch\nReadings,database,Tidewatch\n",
    );
    let first = folder.run(&["-q", "import", "table", "parts.csv"]).ends_with(0).out;
    // Another label, an order, a relation, a group around what was imported, a pin.
    let edited = first.replace(
        "    service Gateway (origin Gateway)\n",
        "    group \"At the edge\"\n      service Gateway \"Our gateway\" (origin Gateway)\n",
    ) + "  Gateway writes Readings \"appends\"\n  order Readings, Gateway\n  pin Tidewatch 40 40\n";
    assert_ne!(first, edited);
    folder.write("parts.bathy", &edited);
    folder.run(&["import", "table", "parts.csv", "--into", "parts.bathy"]).ends_with(0).says("is up to date");
    folder.write("parts.csv", "Name,Kind,Parent\nTidewatch,system,\nGateway,service,Tidewatch\nReadings,database,Tidewatch\nDesk,service,Tidewatch\n");
    folder.run(&["import", "table", "parts.csv", "--into", "parts.bathy"]).ends_with(0).says("new: Desk");
    let text = folder.read("parts.bathy");
    let mut rest = text.lines();
    assert!(edited.lines().all(|line| rest.any(|own| own == line)), "{text}");
    assert!(text.contains("    service Desk (origin Desk)\n"), "{text}");
}

#[test]
fn encodings_and_separators_are_known_by_themselves() {
    let folder = Folder::new();
    let text = "From;Port (from);To;Port (to)\nBühne;1;\"Mole; Süd\";2\n";
    folder.write("utf8.csv", format!("\u{feff}{text}"));
    folder.write("latin.csv", text.chars().map(|c| c as u8).collect::<Vec<u8>>());
    let low: Vec<u8> = [0xff, 0xfe].into_iter().chain(text.encode_utf16().flat_map(u16::to_le_bytes)).collect();
    folder.write("utf16.csv", low);
    folder.write("commas.csv", text.replace(';', ",").replace("Mole, Süd", "Mole; Süd"));
    folder.write("bars.csv", text.replace(';', "|").replace("Mole| Süd", "Mole; Süd"));
    for file in ["utf8.csv", "latin.csv", "utf16.csv", "commas.csv", "bars.csv"] {
        let run = folder.run(&["import", "table", file, "--name", "cables"]).ends_with(0);
        assert!(run.out.contains("  device Mole_Süd \"Mole; Süd\" (origin \"Mole; Süd\")\n"), "{file}:\n{}", run.out);
        assert_eq!(run.err.contains("[latin]"), file == "latin.csv", "{}", run.err);
    }
    folder.write("odd.csv", "Gerät,Buchse,Ziel,Buchse dort\nx,1,y,2\n");
    folder
        .run(&["import", "table", "odd.csv"])
        .ends_with(2)
        .says("no column is recognised by its heading: Gerät, Buchse");
    let asked = ["import", "table", "odd.csv", "--columns", "from=A, from port=B, to=Ziel, to port=D"];
    assert!(folder.run(&asked).ends_with(0).out.contains("x at \"1\" joins y at \"2\""));
    folder
        .run(&["import", "table", "odd.csv", "--columns", "colour=A"])
        .ends_with(2)
        .says("nothing that a column holds");
    let only = ["import", "table", "utf8.csv", "--without", "Mole*"];
    assert!(!folder.run(&only).ends_with(0).out.contains("Mole"));
}

#[test]
fn broken_tables_are_named_and_nothing_is_written() {
    let folder = Folder::new();
    let whole = std::fs::read(data("harbour.xlsx")).expect("the workbook");
    folder.write("cut.xlsx", &whole[..whole.len() / 2]);
    folder.write("no.xlsx", b"From,To\na,b\n");
    folder.write("packed.csv", &whole[..]);
    folder.write("empty.csv", "");
    folder.write("alone.csv", "From,To\n");
    folder.write("long.csv", format!("From,To\na,\"{}\n", "x".repeat(1_200_000)));
    folder.write("wide.csv", format!("From,To\na,b{}\n", ",".repeat(100_000)));
    folder.write("bytes.csv", (0..=255_u8).cycle().take(40_000).collect::<Vec<u8>>());
    for (file, says) in [
        ("cut.xlsx", "this is no whole workbook"),
        ("no.xlsx", "this is no whole workbook"),
        ("packed.csv", "its name ends in .xlsx or .ods"),
        ("empty.csv", "there are no rows"),
        ("alone.csv", "there are no rows"),
        ("long.csv", "long.csv:2:2: a cell of"),
        ("wide.csv", "wide.csv:2: a row of 100002 cells"),
        ("bytes.csv", "no column is recognised"),
        ("nothere.csv", "nothere.csv cannot be read"),
    ] {
        let run = folder.run(&["import", "table", file, "--picture", "out.svg"]).ends_with(2).says(says);
        assert_eq!(run.out, "", "{file}");
    }
    assert!(!folder.path("out.svg").exists());
}

#[test]
fn importing_again_keeps_what_people_did() {
    let folder = Folder::new();
    folder.write("bathygram.toml", "");
    folder.write("cables.csv", "From,From port,To,To port,Rack A\ncore,1,host,eth0,Shore\ncore,2,gauge,lan,Shore\n");
    let first = folder.run(&["-q", "import", "table", "cables.csv"]).ends_with(0).out;
    let by_hand = first.replace("device host", "// rebooted on Mondays\n  device host \"Ingest host\"")
        + "  remark on gauge \"Read once a minute.\"\n  pin gauge 200 300\n";
    folder.write("cables.bathy", &by_hand);
    folder.run(&["check", "--no-pictures", "cables.bathy"]).ends_with(0);
    folder.run(&["import", "table", "cables.csv", "--into", "cables.bathy"]).ends_with(0).says("is up to date");
    assert_eq!(folder.read("cables.bathy"), by_hand);
    folder.write("cables.csv", "From,From port,To,To port,Rack A\ncore,1,host,eth0,Shore\ncore,3,mast,lan,Shore\n");
    let run = folder.run(&["import", "table", "cables.csv", "--into", "cables.bathy"]).ends_with(0);
    assert!(
        run.err.contains("gauge: gone from the source; it stays here") && run.err.contains("new: mast"),
        "{}",
        run.err
    );
    let after = folder.read("cables.bathy");
    assert!(by_hand.lines().all(|line| after.lines().any(|own| own == line)), "{after}");
    assert!(
        after.contains("  device mast (origin mast)\n") && after.contains("  core at \"3\" joins mast at lan\n"),
        "{after}"
    );
    // A remark and a pin speak of the gauge: it is not pruned. Its cable is.
    folder.run(&["import", "table", "cables.csv", "--into", "cables.bathy", "--prune"]).ends_with(0);
    let pruned = folder.read("cables.bathy");
    assert!(pruned.contains("device gauge") && !pruned.contains("joins gauge"), "{pruned}");
    folder.run(&["import", "table", "cables.csv", "--into", "nothere.bathy"]).ends_with(2).says("is no file");
    folder.write("broken.bathy", "network n\n  a jions b\n");
    folder.run(&["import", "table", "cables.csv", "--into", "broken.bathy"]).ends_with(2).says("the text has errors");
}
