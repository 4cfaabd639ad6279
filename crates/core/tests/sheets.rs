//! Sheets: what they show against a plain computation of the same, context, counts, and stacks of pictures.

mod support;

use bathygram_core::container::Provenance;
use bathygram_core::model::{self, Diagram};
use bathygram_core::pipeline::{DrawOptions, Picture, Studio, draw};
use bathygram_core::views::{self, StackLevel, View};
use proptest::prelude::*;
use std::collections::{BTreeMap, BTreeSet};
use std::fmt::Write;
use support::{good, read, svg};

/// A random model, as parents by number, and relations between numbers.
#[derive(Clone, Debug)]
struct Model {
    parents: Vec<Option<usize>>,
    relations: Vec<(usize, usize)>,
}

/// What a random sheet says.
#[derive(Clone, Debug)]
struct Asked {
    depth: Option<usize>,
    open: Vec<usize>,
    close: Vec<usize>,
    focus: Vec<(usize, usize)>,
    hide: Vec<usize>,
}

impl Model {
    fn around(&self, i: usize) -> Vec<usize> {
        std::iter::successors(self.parents[i], |p| self.parents[*p]).collect()
    }

    fn text(&self, asked: &Asked) -> String {
        let mut text = String::from("architecture a\n");
        self.declare(None, 1, &mut text);
        for (from, to) in &self.relations {
            let _ = writeln!(text, "  e{from} uses e{to}");
        }
        text += "sheet s of a\n";
        asked.depth.iter().for_each(|d| _ = writeln!(text, "  depth {d}"));
        for (word, ids) in [("open", &asked.open), ("close", &asked.close), ("hide", &asked.hide)] {
            ids.iter().for_each(|id| _ = writeln!(text, "  {word} e{id}"));
        }
        asked.focus.iter().for_each(|(id, distance)| _ = writeln!(text, "  focus e{id} {distance}"));
        text
    }

    fn declare(&self, parent: Option<usize>, level: usize, text: &mut String) {
        for i in (0..self.parents.len()).filter(|i| self.parents[*i] == parent) {
            let _ = writeln!(text, "{}system e{i}", "  ".repeat(level));
            self.declare(Some(i), level + 1, text);
        }
    }

    /// The elements that a sheet shows.
    fn shown(&self, asked: &Asked) -> BTreeSet<usize> {
        let nothing_said = asked.open.is_empty() && asked.focus.is_empty();
        let depth = asked.depth.unwrap_or(if nothing_said { usize::MAX } else { 1 });
        let is_opened = |i: usize| {
            let opened = asked.open.iter().any(|o| *o == i || self.around(*o).contains(&i));
            let for_focus = asked.focus.iter().any(|(f, _)| self.around(*f).contains(&i));
            !asked.close.contains(&i) && (opened || for_focus || self.around(i).len() + 1 < depth)
        };
        let shown = (0..self.parents.len()).filter(|i| self.around(*i).into_iter().all(is_opened)).collect();
        let mut kept = self.near_focus(asked, &shown, 0);
        for i in kept.clone() {
            kept.extend(self.around(i));
        }
        let is_hidden = |i: &usize| asked.hide.iter().any(|h| h == i || self.around(*i).contains(h));
        shown.into_iter().filter(|i| (asked.focus.is_empty() || kept.contains(i)) && !is_hidden(i)).collect()
    }

    /// The elements of the focus, and those at their distance less some steps.
    fn near_focus(&self, asked: &Asked, shown: &BTreeSet<usize>, less: usize) -> BTreeSet<usize> {
        let mut kept = BTreeSet::new();
        for (focus, distance) in &asked.focus {
            let mut near: BTreeSet<usize> =
                (0..self.parents.len()).filter(|i| i == focus || self.around(*i).contains(focus)).collect();
            for _ in less..*distance {
                let lines =
                    self.relations.iter().filter_map(|(a, b)| Some((self.lifted(*a, shown)?, self.lifted(*b, shown)?)));
                let touching: Vec<_> = lines.filter(|(a, b)| near.contains(a) || near.contains(b)).collect();
                near.extend(touching.into_iter().flat_map(|(a, b)| [a, b]));
            }
            kept.extend(near);
        }
        kept
    }

    fn lifted(&self, i: usize, shown: &BTreeSet<usize>) -> Option<usize> {
        std::iter::once(i).chain(self.around(i)).find(|a| shown.contains(a))
    }

    /// How many relations stand behind each line.
    fn lines(&self, asked: &Asked) -> BTreeMap<(usize, usize), usize> {
        let shown = self.shown(asked);
        let before_hiding = self.shown(&Asked { hide: Vec::new(), ..asked.clone() });
        let leading = self.near_focus(asked, &before_hiding, 1);
        let mut lines = BTreeMap::new();
        for (a, b) in &self.relations {
            let (Some(from), Some(to)) = (self.lifted(*a, &shown), self.lifted(*b, &shown)) else { continue };
            let apart = from != to && !self.around(from).contains(&to) && !self.around(to).contains(&from);
            if apart && (asked.focus.is_empty() || leading.contains(&from) || leading.contains(&to)) {
                *lines.entry((from, to)).or_insert(0) += 1;
            }
        }
        lines
    }
}

fn models() -> impl Strategy<Value = Model> {
    (3usize..24).prop_flat_map(|n| {
        let parents = proptest::collection::vec(proptest::option::weighted(0.7, any::<prop::sample::Index>()), n);
        let relations = proptest::collection::vec((0..n, 0..n), 0..3 * n);
        (parents, relations).prop_map(|(parents, relations)| {
            let pick = |(i, p): (usize, Option<prop::sample::Index>)| p.filter(|_| i > 0).map(|p| p.index(i));
            let mut model =
                Model { parents: parents.into_iter().enumerate().map(pick).collect(), relations: Vec::new() };
            let apart =
                |(a, b): &(usize, usize)| a != b && !model.around(*a).contains(b) && !model.around(*b).contains(a);
            model.relations = relations.into_iter().filter(apart).collect();
            model
        })
    })
}

fn sheets() -> impl Strategy<Value = (Model, Asked)> {
    models().prop_flat_map(|model| {
        let n = model.parents.len();
        let some = |most| proptest::collection::vec(0..n, 0..most);
        let focus = proptest::collection::vec((0..n, 1usize..3), 0..3);
        let asked = (proptest::option::of(1usize..5), some(3), some(3), focus, some(2));
        let asked = asked.prop_map(|(depth, open, close, focus, hide)| Asked { depth, open, close, focus, hide });
        (Just(model), asked)
    })
}

/// The number in the last name of a key.
fn number(key: &str) -> usize {
    key.rsplit('.').next().and_then(|k| k[1..].parse().ok()).expect("e and a number")
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(400))]

    #[test]
    fn a_sheet_shows_what_a_plain_computation_says((model, asked) in sheets()) {
        let text = model.text(&asked);
        let reading = read(&text);
        prop_assert!(!reading.has_errors(), "{text}\n{:?}", reading.diagnostics.first());
        let view = views::lift(&reading.document.diagrams[0], &reading.document.sheets[0]);
        let lifted = &view.diagram;
        let of = |id: model::ElementId| number(&lifted.element(id).key);
        let shown: BTreeSet<usize> = lifted.ids().map(|(id, _)| of(id)).collect();
        prop_assert_eq!(&shown, &model.shown(&asked), "{}", text);
        let lines: BTreeMap<(usize, usize), usize> =
            lifted.relations.iter().zip(&view.relations).map(|(r, own)| ((of(r.from), of(r.to)), own.spans.len().max(1))).collect();
        prop_assert_eq!(lines.len(), lifted.relations.len(), "one line between two: {}", text);
        prop_assert_eq!(lines, model.lines(&asked), "{}", text);
        // Keys are unique, and every line that is not the relation itself says what it stands for.
        let keys: BTreeSet<&str> = lifted.relations.iter().map(|r| r.key.as_str()).collect();
        prop_assert_eq!(keys.len(), lifted.relations.len());
        for own in view.relations.iter().filter(|own| own.spans.len() > 1) {
            prop_assert_eq!(own.stands_for.len(), own.spans.len());
        }
    }
}

const MAP: &str = "architecture map \"Map\"\n  system field \"Field\"\n    device buoy\n    device gauge\n  system core \"Core\"\n    service gateway \"Gateway\"\n      part decoder\n    store readings\n  system web \"Web\"\n  buoy, gauge sends decoder \"levels\"\n  gateway writes readings \"levels\"\n  web reads readings\n  web reads field \"state\"\n";

fn view(lines: &str) -> View {
    let reading = good(&format!("{MAP}sheet s of map\n{lines}"));
    views::lift(&reading.document.diagrams[0], &reading.document.sheets[0])
}

fn sheet(lines: &str) -> Diagram {
    view(lines).diagram
}

/// The keys of the elements of which a view says something.
fn keys(view: &View, says: fn(&views::ElementView) -> bool) -> Vec<String> {
    let all = view.diagram.elements.iter().zip(&view.elements);
    all.filter(|(_, own)| says(own)).map(|(e, _)| e.key.clone()).collect()
}

fn labels(diagram: &Diagram) -> Vec<String> {
    diagram.relations.iter().filter_map(|r| r.label.as_ref()).map(|l| l.text()).collect()
}

#[test]
fn a_lifted_line_says_how_many_it_stands_for_and_the_description_which() {
    let top = sheet("  depth 1\n");
    assert_eq!(labels(&top), ["levels × 2", "state"]);
    assert_eq!(top.relations[0].key, "field sends core");
    let drawn = svg(&format!("{MAP}sheet s of map\n  depth 1\n"), "s");
    let (_, rest) = drawn.split_once("<desc id=\"desc\">").expect("a description");
    let (desc, _) = rest.split_once("</desc>").expect("its end");
    let listed =
        "field sends core stands for field.buoy sends core.gateway.decoder, field.gauge sends core.gateway.decoder";
    assert!(desc.contains(listed), "{desc}");
    assert!(desc.contains("web reads core stands for web reads core.readings"), "{desc}");
}

#[test]
fn several_verbs_on_one_line_are_uses() {
    let text = "architecture a\n  system x\n    part p\n  y reads p \"levels\"\n  y writes p \"levels\" (line dashed)\nsheet s of a\n  depth 1\n";
    let reading = good(text);
    let lifted = views::lift(&reading.document.diagrams[0], &reading.document.sheets[0]).diagram;
    assert_eq!((lifted.relations.len(), lifted.relations[0].key.as_str()), (1, "y uses x"));
    assert!(lifted.relations[0].traits.is_empty(), "a trait of one is not that of all");
}

#[test]
fn what_is_around_the_subject_of_a_sheet_is_context() {
    let context = |lines: &str| keys(&view(lines), |own| own.context);
    assert_eq!(context("  open core\n"), ["field", "web"]);
    assert_eq!(context("  focus gateway\n"), ["field", "core.readings"]);
    assert!(context("  depth 2\n  open core\n").is_empty(), "a depth makes everything the subject");
    assert!(context("  depth 1\n").is_empty());
    // It is drawn in a quieter tone.
    let [quiet, loud] =
        ["  focus gateway\n", "  depth 1\n"].map(|lines| svg(&format!("{MAP}sheet s of map\n{lines}"), "s"));
    let text_of_field = |svg: &str| {
        let (_, rest) = svg
            .split_once(">Field</text>")
            .map(|(before, _)| before.rsplit_once("fill=\""))
            .expect("a text")
            .expect("a fill");
        rest.split('"').next().expect("a colour").to_owned()
    };
    assert_ne!(text_of_field(&quiet), text_of_field(&loud));
}

#[test]
fn a_focus_shows_no_lines_that_say_nothing_of_it() {
    let focus = sheet("  focus gateway\n");
    let keys: Vec<&str> = focus.relations.iter().map(|r| r.key.as_str()).collect();
    assert_eq!(keys, ["field sends core.gateway", "core.gateway writes core.readings"]);
    let further: Vec<String> = sheet("  focus gateway 2\n").relations.into_iter().map(|r| r.key).collect();
    assert_eq!(
        further,
        ["field sends core.gateway", "core.gateway writes core.readings", "web reads core.readings", "web reads field"]
    );
}

#[test]
fn what_has_more_inside_has_a_band() {
    let more = |lines: &str| keys(&view(lines), |own| own.has_more);
    assert_eq!(more("  depth 1\n"), ["field", "core"]);
    assert_eq!(more("  open core\n"), ["field", "core.gateway"]);
    assert!(more("  depth 9\n").is_empty());
}

#[test]
fn a_legend_says_what_the_band_and_the_quieter_tone_mean() {
    let drawn = |lines: &str| svg(&format!("{MAP}sheet s of map\n  legend\n{lines}"), "s");
    let (inside, whole) = (drawn("  open core\n"), drawn("  depth 9\n"));
    for words in [">more inside</text>", ">around it</text>"] {
        assert!(inside.contains(words) && !whole.contains(words), "{words}");
    }
}

#[test]
fn neighbours_that_a_rule_filled_stay_quiet() {
    let text = "architecture m\n  system core\n    service gate (tag hot)\n  system portal (tag hot)\n  portal reads core\nsheet s of m\n  open core\n  focus core\nlook\n  tag hot: fill coral\n";
    let drawing = svg(text, "s");
    let fill = |key: &str| {
        let element = drawing.split(&format!("data-element=\"{key}\"")).nth(1).expect("the element");
        element.split(" fill=\"").nth(1).and_then(|rest| rest.split('"').next()).expect("a fill").to_owned()
    };
    let paper = drawing.split("<rect ").nth(1).and_then(|r| r.split("fill=\"").nth(1)).expect("the ground");
    assert!(paper.starts_with(&fill("portal")) && !paper.starts_with(&fill("core.gate")));
}

fn stack(text: &str) -> (Vec<StackLevel>, Vec<String>) {
    let reading = good(text);
    let diagram = &reading.document.diagrams[0];
    let levels = views::stack(diagram);
    let studio = Studio::new();
    let svg = |picture: Picture<'_>| {
        let drawing = draw(&studio, &reading, &picture.view(), &DrawOptions::default());
        studio.svg(&drawing, &Provenance { text_in: picture.text_in(), ..reading.provenance(picture.name) })
    };
    let drawn = Picture::of_stack(diagram, &levels).map(svg).collect();
    (levels, drawn)
}

#[test]
fn a_stack_has_the_inside_of_everything_and_its_pictures_lead_to_each_other() {
    let (levels, drawn) = stack(MAP);
    let names: Vec<&str> = levels.iter().map(|l| l.name.as_str()).collect();
    assert_eq!(names, ["index", "field", "core", "core.gateway"]);
    let links = |svg: &str| -> Vec<String> {
        svg.split(" xlink:href=\"").skip(1).filter_map(|p| p.split('"').next()).map(str::to_owned).collect()
    };
    assert_eq!(links(&drawn[0]), ["field.svg", "core.svg"]);
    // The frame of what is shown leads out, what is in it leads further in.
    assert_eq!(links(&drawn[2]), ["index.svg", "field.svg", "core.gateway.svg"]);
    assert_eq!(links(&drawn[3]), ["core.svg", "core.svg", "field.svg"]);
    for svg in &drawn {
        assert_eq!(svg.matches("<a ").count(), svg.matches("</a>").count());
        assert!(roxmltree::Document::parse(svg).is_ok());
    }
    // A picture of a text alone has no links.
    assert!(!svg(MAP, "map").contains("xlink"));
}

#[test]
fn a_long_text_is_carried_by_the_first_picture_of_a_stack() {
    let mut text = MAP.to_owned();
    // Digits that do not pack well.
    for i in 0u64..12_000 {
        let _ = writeln!(text, "  // {:x}", i.wrapping_mul(6_364_136_223_846_793_005).rotate_left(23));
    }
    let (_, drawn) = stack(&text);
    assert_eq!(bathygram_core::container::read_source(&drawn[0]).as_deref(), Some(text.as_str()));
    assert!(drawn[1].contains("text-in=\"index.svg\"") && bathygram_core::container::read_source(&drawn[1]).is_none());
    let (_, drawn) = stack(MAP);
    assert!(drawn.iter().all(|svg| bathygram_core::container::read_source(svg).as_deref() == Some(MAP)));
}
