//! `import rdf` and `conform --rdf` on files.

use crate::common::{Folder, repository};

fn demo() -> Folder {
    let folder = Folder::new();
    folder.write("moorings.ttl", std::fs::read(repository().join("demo/tidewatch/moorings.ttl")).expect("the demo"));
    folder
}

#[test]
fn classes_come_with_what_their_instances_have() {
    let folder = demo();
    let run = folder
        .run(&["import", "rdf", "moorings.ttl", "--picture", "m.svg"])
        .ends_with(0)
        .says("51 triples read: 5 elements, 6 relations");
    for line in [
        "  class Buoy (keyword \"2 instances\", origin https://data.tidewatch.example/terms#Buoy)\n    lit: boolean // in 2 instances\n",
        "    about \"A place where the tide is measured.\"\n",
        "    opened: date [0..1] // in 1 instance\n",
        "  class Place (origin https://data.tidewatch.example/terms#Place)\n",
        "  Buoy extends Station\n",
        "  Buoy knows 1..* Mooring \"mooredAt, 3\"\n",
        "  Reading knows 0..1 Reading \"follows, 1\"\n",
    ] {
        assert!(run.out.contains(line), "{line}\n{}", run.out);
    }
    assert!(folder.read("m.svg").contains("«2 instances»"));
    folder.write("m.bathy", &run.out).run(&["format", "--check", "m.bathy"]).ends_with(0);
    folder.run(&["conform", "m.bathy", "--rdf", "moorings.ttl"]).ends_with(0).says("0 differences");
}

#[test]
fn all_forms_say_the_same() {
    let folder = Folder::new();
    let base = "https://data.tidewatch.example/terms#";
    folder
        .write("a.ttl", format!("@prefix t: <{base}> .\nt:b1 a t:Buoy ; t:name \"Outer\"@en ; t:near t:b2 .\nt:b2 a t:Buoy ; t:name \"Bar\" .\n"))
        .write("a.nt", format!("<{base}b1> <http://www.w3.org/1999/02/22-rdf-syntax-ns#type> <{base}Buoy> .\n<{base}b1> <{base}name> \"Outer\"@en .\n<{base}b1> <{base}near> <{base}b2> .\n<{base}b2> <http://www.w3.org/1999/02/22-rdf-syntax-ns#type> <{base}Buoy> .\n<{base}b2> <{base}name> \"Bar\" .\n"))
        .write("a.rdf", format!("<?xml version=\"1.0\"?>\n<rdf:RDF xmlns:rdf=\"http://www.w3.org/1999/02/22-rdf-syntax-ns#\" xmlns:t=\"{base}\">\n<t:Buoy rdf:about=\"{base}b1\"><t:name xml:lang=\"en\">Outer</t:name><t:near rdf:resource=\"{base}b2\"/></t:Buoy>\n<t:Buoy rdf:about=\"{base}b2\"><t:name>Bar</t:name></t:Buoy>\n</rdf:RDF>\n"));
    let text = |file: &str| folder.run(&["-q", "import", "rdf", file]).ends_with(0).out;
    let turtle = text("a.ttl");
    assert!(
        turtle.contains("name: text | string // in 1 instance | in 1 instance\n")
            && turtle.contains("Buoy knows 0..1 Buoy \"near, 1\""),
        "{turtle}"
    );
    assert_eq!(text("a.nt"), turtle);
    assert_eq!(text("a.rdf"), turtle);
    for (file, form) in [("a.ttl", "Turtle"), ("a.nt", "N-Triples"), ("a.rdf", "RDF/XML")] {
        let piped = folder.run_with(&["-q", "import", "rdf", "-"], &folder.read(file)).ends_with(0).out;
        assert_eq!(piped.lines().skip(1).collect::<Vec<_>>(), turtle.lines().skip(1).collect::<Vec<_>>(), "{form}");
    }
}

#[test]
fn broken_files_say_where() {
    let folder = Folder::new();
    let nested: String = (0..30).map(|i| format!("<!ENTITY e{} \"&e{i};&e{i};&e{i};&e{i};\">", i + 1)).collect();
    folder
        .write("a.ttl", "@prefix t: <urn:t:> .\nt:a a t:B .\nt:a t:c .\n")
        .write("a.nt", "<urn:a> <urn:b> <urn:c> .\n<urn:a> urn:b <urn:c> .\n")
        .write("a.rdf", "<?xml version=\"1.0\"?>\n<rdf:RDF xmlns:rdf=\"http://www.w3.org/1999/02/22-rdf-syntax-ns#\">\n<rdf:Description>\n</rdf:RDF>\n")
        .write("bomb.rdf", format!("<?xml version=\"1.0\"?>\n<!DOCTYPE r [<!ENTITY e0 \"x\">{nested}]>\n<rdf:RDF xmlns:rdf=\"http://www.w3.org/1999/02/22-rdf-syntax-ns#\" xmlns:t=\"urn:t:\"><t:A><t:n>&e30;</t:n></t:A></rdf:RDF>\n"))
        .write("none.ttl", "# nothing\n")
        .write("plain.ttl", "<urn:a> <urn:b> <urn:c> .\n")
        .write("a.jsonld", "{}");
    for (file, says) in [
        ("a.ttl", "a.ttl:3: "),
        ("a.nt", "a.nt:2: "),
        ("a.rdf", "a.rdf:4: "),
        ("none.ttl", "there is no triple in it"),
        ("plain.ttl", "nothing in it has a class: no triple says `rdf:type`"),
        ("a.jsonld", "`.jsonld` is not read; write the data as Turtle, N-Triples or RDF/XML"),
        ("missing.ttl", "missing.ttl cannot be read"),
    ] {
        let run = folder.run(&["import", "rdf", file]).ends_with(2).says(says);
        assert_eq!(run.out, "");
    }
    // Entities that stand for ever more entities are not followed to their end.
    folder.run(&["import", "rdf", "bomb.rdf"]).ends_with(2).says("the entity `e4` stands for more than 1024 bytes");
}

#[test]
fn what_is_wrong_is_told() {
    let folder = demo();
    let text = folder.run(&["-q", "import", "rdf", "moorings.ttl"]).ends_with(0).out;
    let changed = text
        .replace("lit: boolean", "lit: integer")
        .replace("checked: date [0..1]", "checked: date")
        .replace("    height: decimal // in 2 instances\n", "")
        .replace("    name: string", "    colour: string\n    name: string")
        .replace("knows 1..* Mooring", "knows 1 Mooring")
        .replace("  Station extends Place\n", "")
        .replace(
            "class Reading (keyword \"4 instances\", origin https://data.tidewatch.example/terms#Reading)",
            "class Reading",
        )
        .replace("  Reading knows 0..1 Reading \"follows, 1\"\n", "");
    folder.write("m.bathy", &changed);
    let run = folder.run(&["conform", "m.bathy", "--rdf", "moorings.ttl"]).ends_with(1);
    let mut found: Vec<&str> = run
        .out
        .lines()
        .filter_map(|line| line.split_once("error [")?.1.split_once(" (moorings"))
        .map(|(told, _)| told)
        .collect();
    found.sort_unstable();
    assert_eq!(
        found,
        [
            "member-absent]: `Station` has no `colour: string` in the data",
            "member-surprise]: `Station` has `height` in the data; the diagram does not show it",
            "multiplicity]: `Buoy` knows `Mooring`: there are 1..* in the data",
            "multiplicity]: `checked: date` of `Mooring`: there are 0..1 in the data",
            "surprise]: `Reading` knows `Reading` as `follows`; the diagram does not say so",
            "surprise]: `Station` extends `Place`; the diagram does not say so",
            "type]: `lit: integer` of `Buoy` is of type `boolean` in the data",
        ],
        "{}",
        run.out
    );
    folder.run(&["conform", "m.bathy", "--rdf", "moorings.ttl", "--picture", "d.svg"]).ends_with(1);
    assert!(folder.read("d.svg").contains("in reality only"));
}
