//! Sentences as steps, decisions, repetitions, parts and lanes: a case for each way of saying it.

use bathygram_core::emit::emit_with;
use bathygram_core::pipeline::{self, Setting};
use bathygram_core::source::Source;
use bathygram_readers::Facts;
use bathygram_readers::outline::{Form, Options, read};
use std::path::Path;

fn facts(text: &str) -> Facts {
    read(Path::new("work.md"), text.as_bytes(), &Options::default()).expect("facts")
}

/// The flow without its header, its lanes and what only an import writes.
fn flow(text: &str) -> String {
    let facts = facts(text);
    let written = emit_with(&facts.document(), &facts.comments());
    // What is drawn is a text without errors.
    let reading = pipeline::read(Source::new("a.bathy", written.as_str()), "a", &Setting::default());
    assert!(!reading.has_errors(), "{:?}\n{written}", reading.diagnostics);
    let mut out = String::new();
    for line in written.lines().skip(1).filter(|line| !line.starts_with("  lane ")) {
        let line = line.split(" // guess").next().unwrap_or_default();
        let cut = line.find(" (origin ").map_or(line, |at| &line[..at]);
        if !cut.contains("begin \"Start\"") && !cut.contains("finish \"End\"") {
            out += &format!("{}\n", cut.strip_prefix("  ").unwrap_or(cut));
        }
    }
    out
}

#[test]
fn conditions_are_said_in_many_ways() {
    for (text, wanted) in [
        ("- If the seal is torn, replace it", "decide \"Is the seal torn?\"\n  when \"yes\"\n    \"Replace it\"\n"),
        ("- Replace the seal if it is torn", "decide \"Is it torn?\"\n  when \"yes\"\n    \"Replace the seal\"\n"),
        ("- Unless the seal is dry, wipe it", "decide \"Is the seal dry?\"\n  when \"no\"\n    \"Wipe it\"\n"),
        ("- In case of frost, heat the pipe", "decide \"Frost?\"\n  when \"yes\"\n    \"Heat the pipe\"\n"),
        ("- If it is not dry, then wipe it", "decide \"Is it dry?\"\n  when \"no\"\n    \"Wipe it\"\n"),
        (
            "- Open it\n- When the lid has opened, look inside",
            "\"Open it\"\ndecide \"Has the lid opened?\"\n  when \"yes\"\n    \"Look inside\"\n",
        ),
        (
            "- If it leaks, fix it, otherwise paint it",
            "decide \"It leaks?\"\n  when \"yes\"\n    \"Fix it\"\n  or \"no\"\n    \"Paint it\"\n",
        ),
        (
            "- If it leaks:\n  - Close the valve\n  - Call the office\n- Else: paint it",
            "decide \"It leaks?\"\n  when \"yes\"\n    \"Close the valve\"\n    \"Call the office\"\n  or \"no\"\n    \"Paint it\"\n",
        ),
        (
            "- Check whether the lamp is lit\n- If so, leave it\n- If not, replace it",
            "decide \"Is the lamp lit?\"\n  when \"yes\"\n    \"Leave it\"\n  or \"no\"\n    \"Replace it\"\n",
        ),
        (
            "- Is the lamp lit?\n  - Yes: leave it\n  - No: replace it. Then log it.",
            "decide \"Is the lamp lit?\"\n  when \"yes\"\n    \"Leave it\"\n  or \"no\"\n    \"Replace it\"\n    \"Log it\"\n",
        ),
        ("- Is the lamp lit?\n- Go on watching it", "decide \"Is the lamp lit?\"\n\"Go on watching it\"\n"),
    ] {
        assert_eq!(flow(text), wanted, "{text}");
    }
}

#[test]
fn work_is_repeated_and_goes_back() {
    for (text, wanted) in [
        ("- Repeat until it is dry:\n  - Wipe it", "repeat \"Until it is dry\"\n  \"Wipe it\"\n"),
        ("- Wipe it\n- Repeat this until it is dry", "repeat \"Until it is dry\"\n  \"Wipe it\"\n"),
        ("- Keep wiping it until it is dry", "repeat \"Until it is dry\"\n  \"Keep wiping it\"\n"),
        ("- For each buoy, read the lamp", "repeat \"For each buoy\"\n  \"Read the lamp\"\n"),
        ("- Every hour: read the lamp", "repeat \"Every hour\"\n  \"Read the lamp\"\n"),
        (
            "1. Read the lamp\n2. Write it down\n3. Repeat steps 1 to 2 until the page is full",
            "step read_lamp \"Read the lamp\"\n\"Write it down\"\ndecide \"Is the page full?\"\n  when \"no\"\n    go read_lamp\n",
        ),
        (
            "1. Read the lamp\n2. If it flickers, go back to reading the lamp.\n3. Leave",
            "step read_lamp \"Read the lamp\"\ndecide \"It flickers?\"\n  when \"yes\"\n    go read_lamp\n\"Leave\"\n",
        ),
        (
            "1. If the door is locked, continue with step 3\n2. Open the door\n3. Take the key",
            "decide \"Is the door locked?\"\n  when \"yes\"\n    go take_key\n\"Open the door\"\nstep take_key \"Take the key\"\n",
        ),
    ] {
        assert_eq!(flow(text), wanted, "{text}");
    }
}

#[test]
fn parts_happen_at_the_same_time() {
    let both = "together\n  \"Ring the bell\"\nand\n  \"Call the crew\"\n";
    for text in [
        "- Ring the bell\n- At the same time, call the crew",
        "- Ring the bell\n- Meanwhile call the crew",
        "- In parallel:\n  - Ring the bell\n  - Call the crew",
        "- Do the following steps at the same time:\n  1. Ring the bell\n  2. Call the crew",
    ] {
        assert_eq!(flow(text), both, "{text}");
    }
    let three = "- Ring the bell\n- At the same time, call the crew\n- Meanwhile, open the gate";
    assert_eq!(flow(three), format!("{both}and\n  \"Open the gate\"\n"));
}

#[test]
fn roles_are_lanes_and_sentences_are_cut() {
    let wanted = "in clerk\n  \"Check the form\"\nin office\n  \"File it\"\n";
    for text in [
        "- Clerk: check the form\n- Office: file it",
        "- [Clerk] Check the form\n- [Office] File it",
        "- Check the form (Clerk)\n- File it (Office)",
        "The clerk checks the form. The office files it.",
        "The clerk must check the form, then the office files it.",
    ] {
        assert_eq!(flow(text).replace("    \"", "  \""), wanted, "{text}");
    }
    let cut = flow("The clerk signs the form and sends it to the office. They are informed by the clerk.");
    assert_eq!(cut, "in clerk\n  \"Sign the form\"\n  \"Send it to the office\"\n  \"They are informed\"\n");
    // No roles: a note, a way, a place.
    let text = "- Note: it takes two days\n- Send it by mail\n- Put it by the window";
    let own = facts(text);
    assert!(own.things.iter().all(|thing| thing.kind.word() != "lane"), "{:?}", own.things);
    // Under a heading with the name of a role.
    let headed =
        flow("# Work\n\nClerk: Open the shop.\n\n## Office\n\n- Print the list\n\n## Clerk\n\n- Close the shop\n");
    assert!(headed.contains("\"Close the shop\""), "{headed}");
}

#[test]
fn beginning_end_waiting_and_notes() {
    let text = "The process starts when a storm is forecast.\nCheck the moorings. Note: twice in winter.\nWait for the tide. Once the wind drops, open the harbour.\nThe process ends with a report.";
    let facts = facts(text);
    let kinds: Vec<(&str, &str)> = facts.things.iter().map(|thing| (thing.kind.word(), thing.shown())).collect();
    assert_eq!(
        kinds,
        [
            ("begin", "A storm is forecast"),
            ("step", "Check the moorings"),
            ("wait", "Wait for the tide"),
            ("wait", "The wind drops"),
            ("step", "Open the harbour"),
            ("finish", "Report"),
        ]
    );
    assert_eq!(facts.things[1].remark.as_deref(), Some("Twice in winter"));
    assert!(facts.things[3].guess.is_some() && facts.things[0].guess.is_none());
}

#[test]
fn nothing_that_is_written_is_lost() {
    // Whatever sentences say, each word of them comes back in a label, a remark or an origin.
    let text = "Ponder the quux if frobbed, unless zorg; otherwise blip. Until, hmm. Repeat. Else. If. At the same time. Go to. Yes: no: maybe. (what) is? Steps 1 to 2. The the the.";
    let facts = facts(text);
    let all: String = facts
        .things
        .iter()
        .map(|thing| format!("{} {} {} ", thing.origin, thing.shown(), thing.remark.clone().unwrap_or_default()))
        .chain(facts.findings.iter().map(|finding| finding.says.clone()))
        .collect();
    for word in ["quux", "frobbed", "zorg", "blip", "hmm", "maybe", "what", "Steps"] {
        assert!(all.to_lowercase().contains(&word.to_lowercase()), "{word} in {all}");
    }
}

#[test]
fn any_bytes_give_facts_or_a_reason() {
    let pieces = [
        "1. ",
        "- ",
        "  ",
        "\n",
        "If ",
        ", ",
        "otherwise",
        "Clerk: ",
        "Repeat until ",
        "go to step 1",
        "?",
        "Yes: ",
        "é",
        "\t",
        "# ",
        "(",
        ")",
        "\"",
        "\\",
        "`",
        "In parallel:\n",
    ];
    let mut state = 7_u64;
    for _ in 0..3000 {
        let mut text = String::new();
        for _ in 0..30 {
            state = state.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
            text.push_str(pieces[(state >> 33) as usize % pieces.len()]);
        }
        for form in [Form::Flow, Form::Tree] {
            let Ok(facts) = read(Path::new("x.md"), text.as_bytes(), &Options { form, ..Options::default() }) else {
                continue;
            };
            let written = emit_with(&facts.document(), &facts.comments());
            let reading = pipeline::read(Source::new("a.bathy", written.as_str()), "a", &Setting::default());
            assert!(!reading.has_errors(), "{text:?}\n{written}\n{:?}", reading.diagnostics);
        }
    }
}
