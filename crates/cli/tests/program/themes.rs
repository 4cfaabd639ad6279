//! Themes: those that there are, a project's own, and pictures in one or two of them.

use crate::common::{Folder, repository};
use serde_json::Value;

const MAP: &str = "architecture map\n  system shore \"Shore\"\n    service desk \"Desk\"\n      built \"Rust\"\n    store log (fill coral)\n  desk writes log \"levels\" (text sand)\n";
const THEMES: [&str; 6] = ["shoal", "abyss", "chartroom", "ink", "beacon", "pencil"];

#[test]
fn they_are_listed_shown_as_text_and_drawn() {
    let folder = Folder::new();
    let list = folder.run(&["themes"]).ends_with(0).out;
    assert_eq!(list.lines().map(|l| l.split(' ').next().unwrap_or("")).collect::<Vec<_>>(), THEMES);
    assert!(list.lines().next().is_some_and(|l| l.ends_with("used here")) && list.matches("used here").count() == 1);
    let json: Value = serde_json::from_str(&folder.run(&["themes", "--json"]).ends_with(0).out).expect("JSON");
    assert_eq!((json["version"].as_u64(), json["themes"][3]["name"].as_str()), (Some(1), Some("ink")));
    folder.run(&["themes", "shaol"]).ends_with(2).says("did you mean `shoal`?");
    folder.run(&["themes", "shoal+abyss+ink"]).ends_with(2).says("more than two themes");
    folder.run(&["themes", "shoal+pencil"]).ends_with(2).says("different manners");
    assert!(folder.files().is_empty(), "a list writes nothing");
    folder.run(&["themes", "ink", "--picture", "--out", "ink.svg"]).ends_with(0).says("ink.svg");
    let sheet = folder.read("ink.svg");
    for title in ["Sequence", "Classes", "Flow", "States", "Architecture", "Network", "Tree", "Palette"] {
        assert!(sheet.contains(&format!(">{title}</text>")), "{title}");
    }
    let colours: std::collections::BTreeSet<&str> =
        sheet.split("=\"#").skip(1).filter_map(|rest| rest.get(..6)).collect();
    assert_eq!(colours.into_iter().collect::<Vec<_>>(), ["000000", "ffffff"], "ink is black and white");
    folder.run(&["themes", "abyss", "--picture", "--out", "abyss.png"]).ends_with(0);
    folder.run(&["themes", "abyss", "--picture", "--out", "abyss.gif"]).ends_with(2).says(".svg or .png");
    folder.run(&["themes", "--picture"]).ends_with(2);
}

#[test]
fn the_schema_of_themes_fits_themes() {
    let folder = Folder::new();
    let schema = folder.run(&["themes", "--schema"]).ends_with(0).out;
    let committed = std::fs::read_to_string(repository().join("docs/theme.schema.json")).expect("the schema");
    assert_eq!(schema, committed, "docs/theme.schema.json is what `themes --schema` prints");
    let schema = jsonschema::validator_for(&serde_json::from_str(&schema).expect("JSON")).expect("a schema");
    let fits = |text: &str| schema.is_valid(&toml::from_str::<Value>(text).expect("TOML"));
    for name in THEMES {
        assert!(fits(&folder.run(&["themes", name, "--source"]).ends_with(0).out), "{name}");
    }
    for wrong in [
        "[roles]\npapr = \"#ffffff\"\n",
        "[roles]\npaper = \"white\"\n",
        "accent = \"mauve\"\n",
        "[manner]\nstrokes = \"wild\"\n",
    ] {
        assert!(!fits(wrong), "{wrong}");
        folder.write("looks/own.toml", format!("extends = \"shoal\"\n{wrong}")).write("map.bathy", MAP);
        // What is written after `extends` stands in the second line, or the third.
        folder
            .run(&["render", "--theme", "looks/own.toml", "--out", "x.svg"])
            .ends_with(2)
            .says("looks/own.toml")
            .says("line ");
    }
    assert!(!folder.path("x.svg").exists());
}

#[test]
fn a_picture_is_drawn_in_the_theme_that_was_asked_for_and_nothing_moves() {
    let folder = Folder::new();
    folder.write("map.bathy", MAP);
    folder.run(&["render"]).ends_with(0);
    let shoal = folder.read("pictures/map.svg");
    // Geometry without colours, and without what the file says of itself.
    let bare = |svg: &str| {
        let drawn =
            svg.split("<metadata>").next().unwrap_or_default().split("</style>").last().unwrap_or_default().to_owned();
        drawn.split('"').filter(|part| !part.starts_with('#') && !part.contains("class=")).collect::<String>()
    };
    for name in ["abyss", "chartroom", "beacon"] {
        let path = format!("{name}.svg");
        folder.run(&["render", "map.bathy", "--theme", name, "--out", &path]).ends_with(0);
        let svg = folder.read(&path);
        assert_eq!(bare(&svg), bare(&shoal), "{name}");
        assert_ne!(svg, shoal, "{name}");
    }
    for name in ["ink", "pencil"] {
        for form in ["svg", "png", "pdf"] {
            let path = format!("{name}.{form}");
            folder.run(&["render", "map.bathy", "--theme", name, "--out", &path]).ends_with(0);
            let first = std::fs::read(folder.path(&path)).expect("a picture");
            folder.run(&["render", "map.bathy", "--theme", name, "--out", &path]).ends_with(0);
            assert_eq!(
                first,
                std::fs::read(folder.path(&path)).expect("a picture"),
                "{path}: the same bytes each time"
            );
        }
        let drawn = folder.read(&format!("{name}.svg"));
        assert_eq!(
            drawn.matches("data-role=\"frame\"").count(),
            shoal.matches("data-role=\"frame\"").count(),
            "{name}"
        );
        assert_eq!(drawn.matches("data-role=\"line\"").count(), 1, "{name}");
    }
    // The project's own picture stays as it was.
    assert_eq!(folder.read("pictures/map.svg"), shoal);
}

#[test]
fn two_themes_make_one_picture_for_light_and_dark_pages() {
    let folder = Folder::new();
    folder.write("map.bathy", MAP);
    folder.run(&["render", "map.bathy", "--theme", "shoal", "--out", "light.svg"]).ends_with(0);
    folder.run(&["render", "map.bathy", "--theme", "abyss", "--out", "dark.svg"]).ends_with(0);
    folder.run(&["render", "map.bathy", "--theme", "shoal+abyss", "--out", "both.svg"]).ends_with(0);
    let [light, dark, both] = ["light.svg", "dark.svg", "both.svg"].map(|path| folder.read(path));
    let (_, sheet) = both.split_once("<style>@media (prefers-color-scheme: dark){").expect("a style sheet");
    let sheet = sheet.split("</style>").next().unwrap_or_default();
    // Without its classes it is the light picture; each class has a colour of the dark one.
    assert!(both.contains("class=\"") && !light.contains("class=\""));
    for colour in sheet.split(":#").skip(1).filter_map(|rest| rest.get(..6)) {
        assert!(dark.contains(&format!("\"#{colour}\"")), "{colour}");
    }
    for class in both.split("class=\"").skip(1).filter_map(|rest| rest.split('"').next()).flat_map(|all| all.split(' '))
    {
        assert!(sheet.contains(&format!(".{class}{{")), "{class}");
    }
    let fills = |svg: &str| {
        svg.split(" fill=\"").skip(1).filter_map(|r| r.split('"').next().map(str::to_owned)).collect::<Vec<_>>()
    };
    assert_eq!(fills(&both), fills(&light));
    // Other forms know one theme.
    folder.run(&["render", "map.bathy", "--theme", "shoal+abyss", "--out", "both.png"]).ends_with(0);
}

#[test]
fn a_projects_theme_and_accent_are_part_of_what_its_pictures_are_made_of() {
    let folder = Folder::new();
    folder.write("map.bathy", MAP).write("bathygram.toml", "theme = \"looks/harbour.toml\"\n");
    folder.write(
        "looks/harbour.toml",
        "about = \"The harbour's own\"\nextends = \"chartroom\"\n[roles]\nline = \"#123456\"\n",
    );
    folder.run(&["render"]).ends_with(0);
    assert!(folder.read("pictures/map.svg").contains("stroke=\"#123456\""));
    folder.run(&["check"]).ends_with(0);
    folder.run(&["render"]).ends_with(0).says("1 picture up to date");
    folder.run(&["themes"]).ends_with(0).says("The harbour's own, used here");
    // The theme changed: the picture is out of date.
    folder.write("looks/harbour.toml", "extends = \"chartroom\"\n[roles]\nline = \"#654321\"\n");
    folder.run(&["check"]).ends_with(1).says("out of date");
    folder.run(&["render"]).ends_with(0).says("1 picture written (1 changed)");
    assert!(folder.read("pictures/map.svg").contains("stroke=\"#654321\""));
    // So did the accent.
    folder.write("bathygram.toml", "theme = \"shoal\"\naccent = \"coral\"\n");
    folder.run(&["check"]).ends_with(1).says("out of date");
    folder.run(&["render"]).ends_with(0).says("1 changed");
    // The default theme by name is the default theme.
    folder.write("bathygram.toml", "theme = \"shoal\"\n");
    folder.run(&["render"]).ends_with(0);
    let named = folder.read("pictures/map.svg");
    folder.write("bathygram.toml", "");
    folder.run(&["render"]).ends_with(0).says("up to date");
    assert_eq!(folder.read("pictures/map.svg"), named);
}

#[test]
fn a_wrong_theme_of_a_project_is_named_and_nothing_outside_is_read() {
    let folder = Folder::new();
    folder.write("map.bathy", MAP);
    for (config, said) in [
        ("theme = \"shaol\"", "did you mean `shoal`?"),
        ("theme = \"looks/none.toml\"", "looks/none.toml"),
        ("accent = \"mauve\"", "no accent is called `mauve`; there are coral"),
        ("theme = \"shoal+ink\"", "different manners"),
        ("theme = \"../outside.toml\"", "outside"),
    ] {
        folder.write("bathygram.toml", config);
        folder.run(&["render"]).ends_with(3).says("bathygram.toml").says(said);
    }
    assert!(!folder.path("pictures/map.svg").exists());
}
