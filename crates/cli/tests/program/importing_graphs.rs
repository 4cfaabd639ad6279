//! `import graph`: what kinds of nodes and edges there are, or a small graph itself.

use crate::common::{Folder, repository};

fn data(name: &str) -> String {
    repository().join(format!("crates/cli/tests/data/graphs/{name}")).display().to_string()
}

const KINDS: &str = r#"  class Station (keyword "40 nodes", origin Station)
    name: Text
    height: Decimal
    opened: Date
  class Buoy (keyword "300 nodes", origin Buoy)
    name: Text
    lit: Boolean
    depth: Integer [0..1]
  class Keeper (keyword "60 nodes", origin Keeper)
    name: Text
  record Keeper_watches_Station "watches" (keyword "120 edges", origin "Keeper watches Station")
    since: Date
    nights: Integer
  1..* Buoy knows 1 Station "reports to, 300"
  1 Keeper knows 1..* Keeper_watches_Station
  0..* Keeper_watches_Station knows 1 Station
  caption "400 nodes and 420 edges"
"#;

#[test]
fn kinds_come_with_properties_counts_and_multiplicities() {
    let folder = Folder::new();
    // The same graph, as networkx writes it and as two tables.
    let graphml = folder.run(&["import", "graph", &data("network.graphml"), "--picture", "kinds.svg"]).ends_with(0);
    assert_eq!(graphml.out, format!("classes network \"Network\"\n{KINDS}"));
    assert!(graphml.err.contains("820 rows read"), "{}", graphml.err);
    let tables = folder.run(&["import", "graph", &data("stations.csv"), &data("links.csv")]).ends_with(0);
    assert_eq!(tables.out, format!("classes stations \"Stations\"\n{KINDS}"));
    assert!(folder.read("kinds.svg").contains("reports to, 300"));
    // Edges alone tell less.
    let edges = folder.run(&["import", "graph", &data("links.csv")]).ends_with(0).out;
    assert!(edges.contains("  0..* node knows 0..1 node \"reports to, 300\"\n"), "{edges}");
    let only =
        folder.run(&["import", "graph", &data("network.graphml"), "--only", "B*", "--only", "Station"]).ends_with(0);
    assert!(only.out.contains("Buoy knows") && !only.out.contains("Keeper"), "{}", only.out);
    folder.write("kinds.bathy", &graphml.out);
    folder.run(&["format", "--check", "kinds.bathy"]).ends_with(0);
    folder.run(&["check", "kinds.bathy"]);
}

#[test]
fn a_small_graph_is_drawn_itself() {
    let folder = Folder::new();
    let run = folder.run(&["import", "graph", &data("moorings.graphml")]).ends_with(0);
    for line in [
        "  item b0 \"Buoy 0\" (origin b0)\n    tag buoy\n",
        "  b0 then s0 (tag reports_to)\n",
        "  tag buoy: fill sand\n",
        "  tag watches: line lagoon thick\n",
    ] {
        assert!(run.out.contains(line), "{line} in:\n{}", run.out);
    }
    let kinds = folder.run(&["import", "graph", &data("moorings.graphml"), "--kinds"]).ends_with(0).out;
    assert!(kinds.starts_with("classes moorings"), "{kinds}");
    let all = folder.run(&["import", "graph", &data("network.graphml"), "--instances"]).ends_with(0).out;
    assert!(all.starts_with("network network") && all.matches("\n  item ").count() == 400, "{}", &all[..300]);
    let near = ["import", "graph", &data("moorings.graphml"), "--around", "k0"];
    let near = folder.run(&near).ends_with(0).out;
    assert!(near.contains("k0 then s0") && !near.contains("k1"), "{near}");
}

#[test]
fn graphml_has_groups_defaults_and_undirected_edges() {
    let folder = Folder::new();
    let text = r#"<?xml version="1.0"?>
<!-- by hand -->
<graphml xmlns="http://graphml.graphdrawing.org/xmlns">
  <key id="k" for="node" attr.name="kind" attr.type="string"><default>lamp</default></key>
  <key id="w" for="edge" attr.name="weight" attr.type="double"/>
  <graph edgedefault="undirected">
    <node id="pier">
      <graph edgedefault="undirected">
        <node id="a"/><node id="b &amp; c"><data key="k">mast &lt;tall&gt;</data></node>
      </graph>
    </node>
    <edge source="a" target="b &amp; c"/>
    <edge source="a" target="pier" directed="true"/>
    <edge source="a" target="nowhere"/>
    <hyperedge><endpoint node="a"/><endpoint node="pier"/><endpoint node="b &amp; c"/></hyperedge>
  </graph>
</graphml>
"#;
    folder.write("lamps.graphml", text);
    let run = folder.run(&["import", "graph", "lamps.graphml"]).ends_with(0);
    for line in [
        "  system pier (origin pier)\n    tag lamp\n    item a (origin a)\n",
        "item b_c \"b & c\" (origin \"b & c\")\n      tag mast__tall_\n",
        "  a joins b_c\n",
        "  a then pier\n",
    ] {
        assert!(run.out.contains(line), "{line} in:\n{}", run.out);
    }
    assert!(run.err.contains("[not-listed]: an edge ends at a node"), "{}", run.err);
}

#[test]
fn classes_that_people_edited_are_brought_up_to_date() {
    let folder = Folder::new();
    let nodes = "id,kind,name\n1,Gauge,a\n2,Gauge,b\n3,Mast,c\n";
    folder.write("nodes.csv", nodes);
    folder.write("edges.csv", "source,target,kind\n1,3,hangs on\n2,3,hangs on\n");
    let import = ["import", "graph", "nodes.csv", "edges.csv", "--kinds"];
    let first = folder.run(&import).ends_with(0).out;
    let edited = first
        .replace("class Gauge (", "class Gauge \"Tide gauge\" (")
        .replace("    name: Text\n", "    name: Text // as painted on it\n")
        + "  remark on Mast \"Painted in May.\"\n";
    folder.write("kinds.bathy", &edited);
    let again: Vec<&str> = import.iter().copied().chain(["--into", "kinds.bathy"]).collect();
    folder.run(&again).ends_with(0).says("is up to date");
    folder.write("nodes.csv", "id,kind,name,height\n1,Gauge,a,\n2,Gauge,b,\n3,Mast,c,4.2\n4,Lamp,d,1.5\n");
    folder.write("edges.csv", "source,target,kind\n1,3,hangs on\n2,3,hangs on\n4,3,hangs on\n");
    folder.run(&again).ends_with(0).says("new: Lamp");
    let text = folder.read("kinds.bathy");
    assert!(edited.lines().all(|line| text.lines().any(|own| own == line)), "{text}");
    assert!(text.contains("    height: Decimal\n") && text.contains("Lamp knows"), "{text}");
    folder.run(&again).ends_with(0).says("is up to date");
}

#[test]
fn broken_graphs_are_named_with_their_place() {
    let folder = Folder::new();
    let whole = std::fs::read_to_string(data("moorings.graphml")).expect("the graph");
    folder.write("cut.graphml", &whole[..whole.len() / 2]);
    folder.write("no.graphml", "<svg><rect/></svg>\n");
    folder.write("ends.graphml", "<graphml><graph>\n<node id='a'/>\n<edge source='a'/>\n</graph></graphml>\n");
    folder.write("deep.graphml", "<graphml>".to_owned() + &"<graph><node id='a'>".repeat(5000));
    folder.write("bomb.graphml", "<!DOCTYPE g [<!ENTITY a \"aaaaaaaaaa\"><!ENTITY b \"&a;&a;&a;&a;\">]><graphml><graph><node id=\"&b;\"/></graph></graphml>");
    folder.write("odd.csv", "colour,size\nred,1\n");
    folder.write(
        "names.csv",
        "source,target,kind\n".to_owned() + &(0..9000).map(|i| format!("a,b,k{i}\n")).collect::<String>(),
    );
    folder.write("empty.csv", "");
    for (file, says) in [
        ("cut.graphml", "cut.graphml:"),
        ("no.graphml", "there is no `graph` in it"),
        ("ends.graphml", "ends.graphml:3: an edge without a `source` or a `target`"),
        ("deep.graphml", "nested more than 120 deep"),
        ("odd.csv", "odd.csv:1: this is neither a table of edges"),
        ("names.csv", "there are more than 500 kinds"),
        ("empty.csv", "the table is empty"),
    ] {
        let run = folder.run(&["import", "graph", file, "--picture", "out.svg"]).ends_with(2).says(says);
        assert_eq!(run.out, "", "{file}");
    }
    // Entities are not expanded.
    let bomb = folder.run(&["-q", "import", "graph", "bomb.graphml"]);
    assert!(!bomb.out.contains("aaaa"), "{}", bomb.out);
    folder
        .run(&["import", "graph", &data("network.graphml"), "--only", "nothing"])
        .ends_with(2)
        .says("nothing in it matches");
    assert!(!folder.path("out.svg").exists());
}
