//! Texts of any size, to measure with.

use std::fmt::Write;

/// How many elements, steps or messages.
pub const SIZES: [usize; 3] = [30, 1_000, 10_000];

/// The other end of a further relation: a child of a neighbour in the tree, or a sibling of the
/// element's own parent where there is none.
fn partner(i: usize, n: usize) -> usize {
    let down = 3 * (i + 1 + i % 5) + 1 + i % 3;
    if down < n { down } else { i / 3 + i % 2 }
}

/// An architecture of `n` elements and one and a half times as many relations.
pub fn architecture(n: usize) -> String {
    let mut text = String::from("architecture map \"A generated map\"\n");
    for i in 0..n {
        let _ = writeln!(text, "  service s{i} \"Service {i}\"");
    }
    for i in 1..n {
        let _ = writeln!(text, "  s{} uses s{i}", (i - 1) / 3);
        if i % 2 == 0 {
            let _ = writeln!(text, "  s{i} reads s{} \"levels\"", partner(i, n));
        }
    }
    text
}

/// A flow of `n` steps with a decision at every fifth.
pub fn flow(n: usize) -> String {
    let mut text = String::from("flow steps \"A generated flow\"\n  begin \"Begin\"\n");
    for i in 0..n / 5 {
        let _ = write!(
            text,
            "  step a{i} \"Read gauge {i}\"\n  \"Compare {i}\"\n  decide \"Within limits {i}?\"\n    when \"yes\"\n      \"Store {i}\"\n    or \"no\"\n      \"Ask again {i}\"\n"
        );
    }
    text + "  finish \"End\"\n"
}

/// A sequence of `n` messages between eight parties.
pub fn sequence(n: usize) -> String {
    let mut text = String::from("sequence talk \"A generated talk\"\n");
    for i in 0..n / 2 {
        let _ = writeln!(text, "  p{} calls p{} \"message {i}\" returning \"answer {i}\"", i % 8, (i * 3 + 1) % 8);
    }
    text
}

/// An architecture of `n` elements in systems of ten, five systems in a zone, with relations within systems and across.
pub fn nested(n: usize) -> String {
    let mut text = String::from("architecture map \"A generated map\"\n");
    for i in 0..n {
        if i % 50 == 0 {
            let _ = writeln!(text, "  zone z{0} \"Zone {0}\"", i / 50);
        }
        if i % 10 == 0 {
            let _ = writeln!(text, "    system y{0} \"System {0}\"", i / 10);
        }
        let _ = writeln!(text, "      service s{i} \"Service {i}\"");
    }
    for i in 1..n {
        let from = if i % 10 == 0 { (i - 1) / 3 } else { i - i % 10 + (i % 10 - 1) / 3 };
        let _ = writeln!(text, "  s{from} uses s{i}");
    }
    text
}

/// `n` classes of twenty members each, in clusters of twelve: a hub, a parent with four children, associations with
/// multiplicities within the cluster, and one to the next.
pub fn classes(n: usize) -> String {
    const WORDS: [&str; 12] =
        ["level", "tide", "swell", "gauge", "keeper", "lamp", "berth", "chart", "pilot", "wave", "radio", "route"];
    const TYPES: [&str; 5] = ["Text", "Metres", "Time", "Count", "Percent"];
    let mut text = String::from("classes plan \"A generated plan\"\n");
    for i in 0..n {
        let parent = i - i % 12 + 1;
        let extends = if (2..6).contains(&(i % 12)) { format!(" extends C{parent}") } else { String::new() };
        let _ = writeln!(text, "  class C{i}{extends}");
        for m in 0..20 {
            let (first, second) = (WORDS[(i + m) % 12], WORDS[(i * 5 + m * 7) % 12]);
            let kind = TYPES[(i + m) % 5];
            let _ = match m {
                0..12 => writeln!(text, "    - {first}{m}Of{second}: {kind}"),
                _ => writeln!(text, "    + {first}{m}({second}: {kind}, at: Time): {kind}"),
            };
        }
    }
    for i in 1..n {
        let verb = ["knows", "owns", "joins", "uses"][i % 4];
        let to = if i % 12 == 0 { i - 12 } else { i - i % 12 };
        let _ = writeln!(text, "  C{i} {verb} 0..* C{to}");
        if i % 2 == 0 && i % 12 > 6 {
            let _ = writeln!(text, "  1 C{i} knows C{} \"reads\"", i - 1);
        }
    }
    text
}

/// How many elements lie in each element of [`model`].
const BRANCHES: usize = 4;

/// A model of systems in systems: `n` elements in six levels, and about two thirds of this many relations, most of them
/// between neighbours, fewer the further apart their ends are. Among four neighbours each uses the next or the one after
/// it; one in thirty answers the first. What goes to another system leaves by the last part and enters by the first, at
/// every level.
pub fn model(n: usize, relations: usize) -> String {
    let mut text = String::from("architecture coast \"A generated coast\"\n");
    // Element i has the children 4 i + 4 to 4 i + 7, so the first four are the outermost.
    let parent = |i: usize| (i >= BRANCHES).then(|| i / BRANCHES - 1);
    let kinds = ["system", "system", "service", "service", "part", "part"];
    let words = ["Harbour", "Bay", "Gauge", "Buoy", "Relay", "Desk", "Mast"];
    let mut open: Vec<usize> = (0..BRANCHES.min(n)).rev().collect();
    while let Some(i) = open.pop() {
        let level = std::iter::successors(parent(i), |p| parent(*p)).count();
        let kind = kinds[level.min(kinds.len() - 1)];
        let _ = writeln!(text, "{}{kind} e{i} \"{} {i}\"", "  ".repeat(level + 1), words[i % words.len()]);
        open.extend((BRANCHES * i + BRANCHES..BRANCHES * (i + 2)).filter(|c| *c < n).rev());
    }
    let mut state = 88_172_645_463_325_252u64;
    let mut random = move |below: usize| {
        state ^= state << 13;
        state ^= state >> 7;
        state ^= state << 17;
        (state % below as u64) as usize
    };
    let verbs = ["uses", "calls", "sends", "reads", "writes"];
    let labels = ["levels", "asks", "warns", "positions", "reports"];
    for _ in 0..relations {
        let mut start = random(n);
        // Up to where the ways of the two part: half of the relations stay among neighbours.
        let mut levels = 0;
        while random(2) == 0 {
            let Some(outer) = parent(start) else { break };
            (start, levels) = (outer, levels + 1);
        }
        let (first, own) = (start / BRANCHES * BRANCHES, start % BRANCHES);
        let next = if random(30) == 0 { 0 } else { own + 1 + random(2) };
        if next == own || next >= BRANCHES {
            continue;
        }
        // Down again, on both sides.
        let mut end = first + next;
        for _ in 0..levels {
            let child = |of: usize, door: usize| Some(BRANCHES * (of + 1) + door).filter(|c| *c < n);
            let inner = |of: usize, door: usize| child(of, door).unwrap_or(of);
            (start, end) = (inner(start, BRANCHES - 1), inner(end, 0));
        }
        let (verb, label) = (verbs[random(5)], labels[random(5)]);
        let _ = writeln!(text, "  e{start} {verb} e{end} \"{label}\"");
    }
    text
}
