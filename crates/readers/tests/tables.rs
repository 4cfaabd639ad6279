//! Tables of connections and elements: how headings are understood, what contradicts what, and where.

use bathygram_core::emit::emit;
use bathygram_readers::table::{Columns, Form, Options, read};
use bathygram_readers::{Facts, Selection};
use std::io::Cursor;
use std::path::Path;

fn facts_with(text: &str, options: &Options) -> Facts {
    read(Path::new("cables.csv"), Cursor::new(text.as_bytes().to_vec()), options).expect("facts")
}

fn facts(text: &str) -> Facts {
    facts_with(text, &Options::default())
}

/// Findings as `line:column code`, 0 for none.
fn findings(facts: &Facts) -> Vec<String> {
    let place = |column: Option<u32>| column.unwrap_or(0);
    facts.findings.iter().map(|f| format!("{}:{} {}", f.seen.line, place(f.seen.column), f.code)).collect()
}

/// The text without its first line, its legend and its looks.
fn body(facts: &Facts) -> String {
    let text = emit(&facts.document());
    let lines = text.lines().skip(1).take_while(|line| !line.is_empty() && *line != "  legend");
    lines.map(|line| format!("{line}\n")).collect()
}

#[test]
fn headings_are_understood_in_their_usual_spellings() {
    let wanted = "  device a (origin a)\n  device b (origin b)\n  a at \"1\" joins b at \"2\"\n";
    for headings in [
        "From,From port,To,To port",
        "Device A,Port A,Device B,Port B",
        "Source host;Source interface;Target host;Target interface",
        "local device\tlocal port\tremote device\tremote port",
        "Host (near)|Interface (near)|Host (far)|Interface (far)",
        "from_device,fromPort,to_device,toPort",
        "A_END_HOST,A_END_PORT,B_END_HOST,B_END_PORT",
    ] {
        let mark = headings.chars().find(|c| ",;\t|".contains(*c)).expect("a separator");
        let row = ["a", "1", "b", "2"].join(&mark.to_string());
        assert_eq!(body(&facts(&format!("{headings}\n{row}\n"))), wanted, "{headings}");
    }
}

#[test]
fn titles_and_empty_rows_stand_above_the_headings() {
    let text = "Cables of the harbour\n\n,,,\nas of spring,,,\nFrom,From port,To,To port\n\na,1,b,2\n,,,\n";
    let facts = facts(text);
    assert_eq!((facts.links.len(), facts.links[0].seen.line), (1, 7));
    assert_eq!((facts.counts.rows, facts.counts.empty), (2, 1));
}

#[test]
fn what_contradicts_itself_is_named_where_it_is() {
    let head = "From,From port,To,To port,Speed,Medium,Label\n";
    for (rows, wanted) in [
        ("a,1,b,1,10G,fibre,x\nb,1,a,1,10G,fibre,x\n", vec![]),
        ("a,1,b,1,10G,fibre,x\nb,1,a,1,1G,fibre,x\n", vec!["3:0 directions-differ"]),
        ("a,1,b,1,10G,fibre,x\nb,1,a,1,1G,copper,y\n", vec!["3:0 directions-differ"; 3]),
        ("a,1,b,1,,,\na,1,c,1,,,\n", vec!["3:2 port-in-use"]),
        ("a,1,b,1,,,\nc,1,b,1,,,\n", vec!["3:4 port-in-use"]),
        ("a,1,,,10G,,\n", vec!["2:3 end-missing"]),
        (",,b,1,10G,,\n", vec!["2:1 end-missing"]),
        ("a,1,a,2,,,\n", vec!["2:0 joined-with-itself"]),
        ("core-1,1,b,1,,,\nCore 1,2,c,1,,,\n", vec!["3:1 spelled-two-ways"]),
        // Without ports the same pair may be joined twice.
        ("a,,b,,10G,,\na,,b,,1G,,\n", vec![]),
    ] {
        assert_eq!(findings(&facts(&format!("{head}{rows}"))), wanted, "{rows}");
    }
    let ends = "From,From port,From speed,To,To port,To speed\na,1,10G,b,1,1G\n";
    assert_eq!(findings(&facts(ends)), ["2:3 ends-differ"]);
}

#[test]
fn racks_and_sites_are_groups_and_media_are_tags() {
    let text = "From,From site,From rack,To,To site,To rack,Medium,Speed,Label,VLAN\n\
                core,Shore,1,host,Shore,1,Fibre OM4,10G,C-1,30\nhost,Shore,1,mast,Pier,Cabinet,copper,,,\n";
    assert_eq!(
        body(&facts(text)),
        "  group \"Shore\"\n    group \"Rack 1\"\n      device core (origin core)\n      device host (origin host)\n  group \"Pier\"\n    group \"Cabinet\"\n      device mast (origin mast)\n  core joins host \"C-1, 10G, VLAN 30\" (tag fibre_om4)\n  host joins mast (tag copper)\n"
    );
}

#[test]
fn elements_lie_in_each_other_or_are_a_tree() {
    let text = "Name,Kind,Parent,Description,Technology,Owner,Tags\n\
                Readings,database,Core,Levels,PostgreSQL,Data office,\"critical, kept\"\nCore,system,,,,,\nDesk,service,Core,,,,\n";
    assert_eq!(
        body(&facts(text)),
        "  system Core (origin Core)\n    store Readings (origin Readings)\n      about \"Levels\"\n      built \"PostgreSQL\"\n      owner \"Data office\"\n      tag critical kept\n    service Desk (origin Desk)\n"
    );
    let tree = facts_with(text, &Options { form: Form::Tree, ..Options::default() });
    assert!(
        body(&tree).starts_with("  item Core (origin Core)\n    item Readings (origin Readings)\n"),
        "{}",
        body(&tree)
    );
    for (rows, wanted) in [
        ("a,,\na,,\n", vec!["3:1 listed-twice"]),
        (",x,\n", vec!["2:0 name-missing"]),
        ("a,,b\n", vec!["2:3 parent-missing"]),
        ("a,,b\nb,,a\n", vec!["3:3 in-a-circle"]),
    ] {
        let own = format!("Name,Kind,Parent\nz,,\n{rows}");
        let own = findings(&facts(&own));
        let shifted: Vec<String> = wanted
            .iter()
            .map(|place| {
                let (line, rest) = place.split_once(':').expect("a place");
                format!("{}:{rest}", line.parse::<u32>().expect("a line") + 1)
            })
            .collect();
        assert_eq!(own, shifted, "{rows}");
    }
}

#[test]
fn columns_and_selections_are_the_user_s() {
    let text = "w,x,y,z\na,1,b,2\nb,3,c,4\n";
    let options = |columns: &str| Options { columns: Columns::read(columns).expect("columns"), ..Options::default() };
    let facts = facts_with(text, &options("from=w, from port=B, to=y, to port=D"));
    assert_eq!(body(&facts).matches(" joins ").count(), 2);
    assert!(Columns::read("from").is_err() && Columns::read("colour=A").is_err());
    let selection = Selection { only: vec!["a".into(), "b".into()], without: vec![], name: Some("my cables".into()) };
    let some = facts_with("From,To\na,b\nb,c\n", &Options { selection, ..Options::default() });
    assert_eq!(
        emit(&some.document()),
        "network my_cables \"Cables\"\n  device a (origin a)\n  device b (origin b)\n  a joins b\n"
    );
}
