//! Sheets that stand in no file, as their users meet them.

use crate::common::Folder;

const MAP: &str = "architecture map \"Map\"\n  system field \"Field\"\n    device buoy\n  system core \"Core\"\n    service gateway \"Gateway\"\n    store readings\n  buoy sends gateway \"levels\"\n  gateway writes readings\n";
const SURGE: &str = "sequence surge \"A surge\"\n  buoy sends gateway \"level\"\n    calls readings \"append\"\n";

fn project() -> Folder {
    let folder = Folder::new();
    folder.write("map.bathy", MAP).write("surge.bathy", SURGE);
    folder
}

#[test]
fn depth_focus_and_follow_are_drawn_beside_what_is_written() {
    let folder = project();
    folder.run(&["render", "--depth", "1"]).ends_with(0).says("pictures/map/depth-1.svg").says("1 picture written");
    folder.run(&["render", "--focus", "gateway"]).ends_with(0).says("pictures/map/focus-gateway.svg");
    folder
        .run(&["render", "--follow", "surge", "--format", "svg,png"])
        .ends_with(0)
        .says("pictures/map/follow-surge.png");
    assert_eq!(folder.files().iter().filter(|f| f.starts_with("pictures/")).count(), 4, "nothing else is drawn");
    assert!(folder.read("pictures/map/depth-1.svg").contains(">Map, from outside</title>"));
    assert!(folder.read("pictures/map/focus-gateway.svg").contains(">Around Gateway</title>"));
    let followed = folder.read("pictures/map/follow-surge.svg");
    assert!(followed.contains(">A surge, step by step</title>") && followed.contains(">append</tspan>"), "{followed}");
    // Both at once, and a distance.
    folder.run(&["render", "--depth", "2", "--focus", "buoy, readings 2", "--out", "both.svg"]).ends_with(0);
    assert!(folder.read("both.svg").contains("data-element=\"core.gateway\""));
    // To standard output, and they are no strays.
    let run = folder.run_with(&["render", "-", "--depth", "1"], MAP).ends_with(0);
    assert!(run.out.starts_with("<svg ") && !run.out.contains("core.gateway\" data-kind"));
    folder.run(&["render"]).ends_with(0);
    folder.run(&["check"]).ends_with(0).says("");
}

#[test]
fn the_whole_stack_is_linked() {
    let folder = project();
    let run = folder.run(&["render", "--all-depths"]).ends_with(0).says("3 pictures written");
    assert!(run.out.contains("pictures/map/index.svg") && run.out.contains("pictures/map/core.svg"));
    assert!(folder.read("pictures/map/index.svg").contains("xlink:href=\"core.svg\""));
    assert!(folder.read("pictures/map/core.svg").contains("xlink:href=\"index.svg\""));
    folder.run(&["render", "--all-depths", "--out", "stack.svg"]).ends_with(2).says("--out FOLDER");
    folder.run(&["render", "--all-depths", "--out", "elsewhere"]).ends_with(0);
    assert_eq!(folder.read("elsewhere/core.svg"), folder.read("pictures/map/core.svg"), "the same bytes anywhere");
}

#[test]
fn what_cannot_be_drawn_is_reported() {
    let folder = project();
    folder
        .run(&["render", "--focus", "gatewy"])
        .ends_with(1)
        .says("no element `gatewy`")
        .says("did you mean `gateway`?");
    folder.run(&["render", "--follow", "surg"]).ends_with(1).says("no element `surg`").says("did you mean `surge`?");
    folder.run(&["render", "--depth", "0"]).ends_with(2).says("a whole number from 1 is expected");
    folder.run(&["render", "--of", "mop", "--depth", "1"]).ends_with(2).says("no architecture `mop`").says("`map`");
    folder.run(&["render", "--of", "map"]).ends_with(2).says("--of needs one of");
    folder.run(&["render", "--all-depths", "--depth", "1"]).ends_with(2).says("cannot be used with");
    folder.write("other.bathy", "architecture other\n  system x\n");
    folder.run(&["render", "--depth", "1"]).ends_with(2).says("--of BLOCK").says("`map`, `other`");
    folder.run(&["render", "surge.bathy", "--depth", "1"]).ends_with(2).says("no architecture to draw a sheet of");
    // A party that the map does not know.
    folder.write("surge.bathy", "sequence surge\n  gull calls gateway \"cry\"\n");
    folder.run(&["render", "--of", "map", "--follow", "surge"]).says("a party `gull`");
    assert!(!folder.files().iter().any(|f| f.ends_with(".svg") && !f.contains("follow")));
}
