//! `import outline`: ten process descriptions in different styles become the flows that an analyst draws; lists become trees.

use crate::common::{Folder, repository};

/// A text without what only an import writes: origins and comments.
fn bare(text: &str) -> String {
    let mut out = String::new();
    for line in text.lines() {
        let line = line.split(" // guess").next().unwrap_or_default();
        let cut = match line.find("(origin ").or_else(|| line.find(", origin ")) {
            // Nothing stands behind an origin.
            Some(at) if line.as_bytes()[at] == b'(' => line[..at].to_owned(),
            Some(at) => format!("{})", &line[..at]),
            None => line.to_owned(),
        };
        out += cut.trim_end();
        out.push('\n');
    }
    out
}

#[test]
fn ten_descriptions_become_the_flows_that_an_analyst_draws() {
    let folder = Folder::new();
    let data = repository().join("crates/cli/tests/data/outlines");
    let mut all: Vec<_> = std::fs::read_dir(&data).expect("descriptions").flatten().map(|entry| entry.path()).collect();
    all.retain(|path| path.extension().is_some_and(|ending| ending != "bathy"));
    all.sort();
    assert_eq!(all.len(), 10);
    for path in all {
        let run = folder.run(&["-q", "import", "outline", &path.display().to_string()]).ends_with(0);
        folder.write("drawn.bathy", std::fs::read(path.with_extension("bathy")).expect("the flow"));
        folder.write("draft.bathy", bare(&run.out));
        let diff = folder.run(&["diff", "drawn.bathy", "draft.bathy", "--exit-code"]);
        assert_eq!((diff.status, diff.out.as_str()), (0, ""), "{}:\n{}\n{}", path.display(), diff.out, run.out);
        folder.write("draft.bathy", &run.out);
        folder.run(&["format", "--check", "draft.bathy"]).ends_with(0);
        folder.run(&["render", "draft.bathy"]).ends_with(0);
    }
}

#[test]
fn every_guess_says_so_and_nothing_is_lost() {
    let folder = Folder::new();
    let text = "# Lock round\n\n1. The keeper walks the pier.\n2. If a lock is open, lock it.\n3. The tide is what it is.\n\nAll in all a quiet job.\n\nGo to the moon.\n";
    folder.write("round.md", text);
    let run = folder.run(&["import", "outline", "round.md"]).ends_with(0);
    for line in [
        "    begin \"Start\" (origin Start) // guess: not in the text\n",
        "    \"Walk the pier\" (origin \"walk the pier\")\n",
        "    decide \"Is a lock open?\" (origin \"If a lock is open, lock it\") // guess: a decision\n",
        "    \"The tide is what it is\" (origin \"The tide is what it is\")\n",
        "    \"All in all a quiet job\" (origin \"All in all a quiet job\")\n      remark \"Is this a step?\"\n",
        "    \"Go to the moon\" (origin \"Go to the moon\")\n",
    ] {
        assert!(run.out.contains(line), "{line} in:\n{}", run.out);
    }
    assert!(run.err.contains("round.md:7: note [not-understood]"), "{}", run.err);
    assert!(run.err.contains("round.md:9: note [target-missing]: no step here is like \"moon\""), "{}", run.err);
    // A reviewer's questions.
    folder.write("round.bathy", &run.out);
    folder.run(&["check", "--no-pictures", "round.bathy"]).says("one-armed-decision");
}

#[test]
fn lists_become_trees() {
    let folder = Folder::new();
    folder.write("stock.md", "# Stock\n\n- Yard\n  - Cranes\n  - Boats\n- Office\n\n## Lent out\n\n- Skiff\n");
    let run = folder.run(&["import", "outline", "stock.md", "--tree"]).ends_with(0);
    let wanted = "tree stock \"Stock\"\n  \"Yard\" (origin Yard)\n    \"Cranes\" (origin Cranes)\n    \"Boats\" (origin Boats)\n  \"Office\" (origin Office)\n  \"Lent out\" (origin \"Lent out\")\n    \"Skiff\" (origin Skiff)\n";
    assert_eq!(run.out, wanted);
    folder.write(
        "stock.bathy",
        run.out.replace("\"Cranes\"", "\"Our cranes\" ") + "  remark on \"Office\" \"Closed on Sundays.\"\n",
    );
    folder.write("stock.md", "# Stock\n\n- Yard\n  - Cranes\n  - Sheds\n- Office\n\n## Lent out\n\n- Skiff\n");
    folder.run(&["import", "outline", "stock.md", "--tree", "--into", "stock.bathy"]).ends_with(0).says("new: Sheds");
    let text = folder.read("stock.bathy");
    assert!(
        text.contains("\"Our cranes\"  (origin Cranes)\n") && text.contains("    \"Sheds\" (origin Sheds)\n"),
        "{text}"
    );
    assert!(text.contains("\"Boats\"") && text.contains("Closed on Sundays"), "{text}");
}

#[test]
fn a_flow_that_people_edited_is_brought_up_to_date() {
    let folder = Folder::new();
    let outline = "1. Clerk: Collect the forms.\n2. Clerk: Check the forms.\n3. If a page is missing, go back to step 1.\n4. Office: File the forms.\n";
    folder.write("forms.md", outline);
    let first = folder.run(&["-q", "import", "outline", "forms.md"]).ends_with(0).out;
    // Labels, a remark, a comment, a step of their own, another lane name.
    let edited = first
        .replacen("\"Check the forms\"", "\"Check every page\"", 1)
        .replace("lane clerk \"Clerk\"", "lane clerk \"Front desk\"")
        .replace("      when \"yes\"\n", "      // agreed in May\n      when \"yes\"\n        \"Call the sender\"\n")
        + "  remark on collect_forms \"Twice a week.\"\n";
    folder.write("forms.bathy", &edited);
    folder.run(&["check", "--no-pictures", "forms.bathy"]).says("one-armed-decision");
    folder.run(&["import", "outline", "forms.md", "--into", "forms.bathy"]).ends_with(0).says("is up to date");
    assert_eq!(folder.read("forms.bathy"), edited);
    folder.write("forms.md", outline.replace("4. Office", "4. Clerk: Stamp the forms.\n5. Office"));
    folder.run(&["import", "outline", "forms.md", "--into", "forms.bathy"]).ends_with(0).says("new: Stamp the forms");
    let text = folder.read("forms.bathy");
    let mut rest = text.lines();
    assert!(edited.lines().all(|line| rest.any(|own| own == line)), "{text}");
    let at = |what: &str| text.find(what).unwrap_or_else(|| panic!("{what} in:\n{text}"));
    assert!(at("Call the sender") < at("Stamp the forms") && at("Stamp the forms") < at("File the forms"), "{text}");
    folder
        .run(&["import", "outline", "forms.md", "--into", "forms.bathy", "--prune"])
        .ends_with(0)
        .says("is up to date");
}

#[test]
fn another_language_is_another_file_of_words() {
    let folder = Folder::new();
    let english = folder.run(&["import", "words"]).ends_with(0).out;
    // A few sentences of German are enough to see that nothing English is left in the code.
    let words = r#"
order = '^(?:dann|zuerst|danach)\s+'
between = '(?:, dann )'
contrast = ' (?<other>sonst .*)$'
adverb = '^(?:dann)\s+'
article = '^(?:der|die|das|ein|eine)\s+'
modal = '^(?:muss|soll)\s+'
nobodies = ["er", "sie", "es"]
so = ["ja"]
not_so = ["nein"]
beginnings = ["anfang"]
and = " und "
plural = ""
third_person = []
endings = ["en", "t"]
abbreviations = ["ca"]
passive = '\bwird\b'
remark = "Ist das ein Schritt?"
behind_verb = []
yes = "ja"
no = "nein"
start = "Beginn"
end = "Ende"
negations = []
questions = [{ text = '^(?<subject>.+) (?<verb>ist)$', asks = "$verb $subject" }]
patterns = [
  { means = "otherwise", text = '^sonst,? (?<step>.*)$' },
  { means = "repeat", text = '^wiederhole, bis (?<until>.+?): (?<step>.+)$', label = "Bis $until" },
  { means = "go", text = '^zurück zu (?:schritt )?(?<target>.+)$' },
  { means = "decide", text = '^wenn (?<condition>.+?), (?<step>.+)$' },
]
roles = [{ text = '^(?<role>[A-ZÄÖÜ][\wäöüß]*(?: [\wäöüß]+)?): (?<step>.+)$' }]
[not_roles]
words = []
[verbs]
words = []
"#;
    folder.write("deutsch.toml", words);
    folder.write("pegel.md", "# Pegel prüfen\n\n1. Wart: Lies den Pegel ab\n2. Wenn er zu hoch ist, läute die Glocke\n3. Sonst, notiere ihn\n4. Amt: Wiederhole, bis jemand kommt: rufe an\n5. Zurück zu Schritt 1\n");
    let run = folder.run(&["import", "outline", "pegel.md", "--words", "deutsch.toml"]).ends_with(0);
    for line in [
        "    begin \"Beginn\"",
        "    decide \"Ist er zu hoch?\"",
        "      or \"nein\"\n        \"Notiere ihn\"",
        "    repeat \"Bis jemand kommt\"",
        "    go lies_den\n",
        "  lane amt \"Amt\"",
    ] {
        assert!(run.out.contains(line), "{line} in:\n{}", run.out);
    }
    // The words of English are in that form, too.
    folder.write("english.toml", &english);
    folder.write("round.md", "1. Clerk: Check the form.\n2. If it is torn, go back to step 1.\n");
    let own = folder.run(&["import", "outline", "round.md", "--words", "english.toml"]).ends_with(0).out;
    assert_eq!(own, folder.run(&["import", "outline", "round.md"]).ends_with(0).out);
    folder.write("broken.toml", english.replacen("order = '^(", "order = '^((", 1));
    folder.run(&["import", "outline", "round.md", "--words", "broken.toml"]).ends_with(2).says("broken.toml: ");
    folder.write("short.toml", "order = ''\n");
    folder.run(&["import", "outline", "round.md", "--words", "short.toml"]).ends_with(2).says("missing field");
    folder.write("role.toml", english.replacen("(?<role>", "(?<who>", 1));
    folder
        .run(&["import", "outline", "round.md", "--words", "role.toml"])
        .ends_with(2)
        .says("has the parts `role` and `step`");
}

#[test]
fn what_is_no_outline_is_refused() {
    let folder = Folder::new();
    folder.write("empty.md", "\n\n---\n");
    folder.write("bytes.md", [0_u8, 1, 2, 255]);
    folder.write("deep.md", (0..5000).map(|i| format!("{}- x{i}\n", " ".repeat(i.min(300)))).collect::<String>());
    folder.write("long.md", "If ".repeat(200_000));
    folder.run(&["import", "outline", "empty.md"]).ends_with(2).says("there is nothing in it");
    folder.run(&["import", "outline", "bytes.md"]).ends_with(2).says("this is no text");
    folder.run(&["import", "outline", "nothere.md"]).ends_with(2).says("nothere.md cannot be read");
    for option in ["--only", "--without", "--around"] {
        folder.run(&["import", "outline", "long.md", option, "x"]).ends_with(2).says("imported as a whole");
    }
    folder.run(&["-q", "import", "outline", "deep.md"]).ends_with(0);
    folder.run(&["-q", "import", "outline", "long.md"]).ends_with(0);
}
