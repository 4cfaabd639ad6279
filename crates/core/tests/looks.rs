//! Which look wins.

mod support;

use bathygram_core::diag::Diagnostics;
use bathygram_core::theme::{Colour, Dash, ElementStyle, Ground, Hue, LEGIBLE, Paint, Palette, Styles, Theme, resolve};
use bathygram_core::views::View;
use support::{codes, good};

fn styles(text: &str) -> Styles {
    let reading = good(text);
    let view = View::of(reading.document.diagrams[0].clone());
    resolve(&reading.document.looks, &view, &mut Diagnostics::default())
}

fn hue(name: &str) -> Hue {
    Hue::from_name(name).expect("a colour of the palette")
}

fn fill(name: &str) -> Ground {
    Ground::Fill(hue(name))
}

fn colour(paint: impl Into<Paint>) -> Colour {
    Palette::new(&Theme::default(), Ground::Paper).colour(paint.into())
}

/// Whether both texts of an element can be read on its fill.
fn is_legible(style: &ElementStyle) -> bool {
    [style.text, style.quiet].iter().all(|text| colour(*text).contrast(colour(style.fill)) >= LEGIBLE)
}

const ONE: &str = "architecture a\n  actor keeper\n    tag night\n  keeper uses desk (tag slow)\n";

#[test]
fn kind_then_tag_then_name_then_trait() {
    let kind = format!("{ONE}look\n  actor: fill sand\n");
    assert_eq!(styles(&kind).elements[0].fill, fill("sand"));
    let tag = format!("{ONE}look\n  tag night: fill kelp\n  actor: fill sand\n");
    assert_eq!(styles(&tag).elements[0].fill, fill("kelp"));
    let name = format!("{ONE}look\n  keeper: fill coral\n  tag night: fill kelp\n");
    assert_eq!(styles(&name).elements[0].fill, fill("coral"));
    let own = name.replace("actor keeper", "actor keeper (fill azure)");
    assert_eq!(styles(&own).elements[0].fill, fill("azure"));
}

#[test]
fn later_rules_win_over_earlier_ones_of_the_same_rank() {
    let text = format!("{ONE}look\n  actor: fill sand\n  actor: fill kelp, line coral dashed thick\n");
    let style = styles(&text).elements.remove(0);
    assert_eq!((style.fill, style.dash, style.width), (fill("kelp"), Dash::Dashed, 2.4));
    assert_eq!(style.line, Ground::Shade(hue("coral")).into());
}

#[test]
fn relations_by_verb_tag_and_trait() {
    let base = styles(ONE).relations[0];
    let verb = styles(&format!("{ONE}look\n  uses: line ochre\n")).relations[0];
    assert_ne!(base.line, verb.line);
    let tag = styles(&format!("{ONE}look\n  tag slow: line dotted\n  uses: line dashed\n")).relations[0];
    assert_eq!(tag.dash, Some(Dash::Dotted));
    let own = styles(&ONE.replace("(tag slow)", "(line #123456 thin)")).relations[0];
    assert_eq!((own.line, own.width), (Ground::Fixed(Colour::from_hex("#123456").expect("a colour")).into(), 0.8));
}

#[test]
fn what_holds_others_takes_fill_line_and_text_too() {
    let kinds = [
        ("architecture a\n  system s \"Holder\" (LOOK)\n    service x\n", "s"),
        ("network n\n  group s \"Holder\" (LOOK)\n    device x\n", "s"),
        ("classes c\n  group s \"Holder\" (LOOK)\n    class X\n", "s"),
        ("flow f\n  lane s \"Holder\" (LOOK)\n  in s\n    \"x\"\n", "s"),
        ("states t\n  state s \"Holder\" (LOOK)\n    begin becomes x\n", "s"),
        ("sequence q\n  group s \"Holder\" (LOOK)\n    service x\n  x does \"y\"\n", "s"),
    ];
    for (text, id) in kinds {
        let svg = support::svg(
            &text.replace("LOOK", "fill #cdeedd, text #20304f, line #905010"),
            text.split([' ', '\n']).nth(1).expect("a name"),
        );
        let from = svg.find(&format!("data-element=\"{id}\"")).expect("the holder");
        let own = &svg[from..svg[from..].find("</g>").map_or(svg.len(), |end| from + end)];
        assert!(own.contains("fill=\"#cdeedd\""), "fill of {text}: {own}");
        assert!(own.contains("fill=\"#20304f\""), "text of {text}: {own}");
        let lined = own.contains("stroke=\"#905010\"");
        assert!(lined || text.starts_with("flow"), "line of {text}: {own}");
    }
}

#[test]
fn text_follows_its_fill_unless_it_is_said() {
    let theme = Theme::default();
    let dark = styles("architecture a\n  system x (fill #101820)\n").elements.remove(0);
    assert!(is_legible(&dark));
    assert_eq!(colour(dark.text), theme.paper);
    let said = styles("architecture a\n  system x (text #b00000)\n").elements.remove(0);
    assert_eq!(colour(said.text).hex(), "#b00000");
    // What could not be read there is a little darker.
    let pale = styles("architecture a\n  system x (text #ff9090)\n").elements.remove(0);
    assert!(is_legible(&pale) && colour(pale.text).hex() != "#ff9090");
}

#[test]
fn what_is_external_is_quiet_and_dashed() {
    let style = styles("architecture a\n  system x (external)\n").elements.remove(0);
    assert_eq!((style.dash, style.fill), (Dash::Dashed, Ground::Paper));
    assert!(is_legible(&style));
}

#[test]
fn every_fill_of_every_kind_carries_legible_text() {
    let kinds = ["system", "actor", "service", "store", "queue", "device", "part", "party"];
    let text: String = kinds.iter().map(|k| format!("  {k} x{k} \"X\"\n")).collect();
    for style in styles(&format!("architecture a\n{text}")).elements {
        assert!(is_legible(&style));
    }
    let symbols = [
        "begin",
        "finish",
        "decide",
        "data",
        "document",
        "store",
        "manual",
        "enter",
        "prepare",
        "call",
        "display",
        "connector",
        "wait",
        "step",
    ];
    for kind in symbols {
        let style = styles(&format!("flow f\n  {kind} \"X\"\n")).elements.remove(0);
        assert!(is_legible(&style), "{kind}");
    }
}

#[test]
fn what_means_nothing_is_reported_once() {
    assert_eq!(codes("flow f\n  \"x\" (fill crl)\nlook\n  step: fil coral\n"), ["unknown-colour", "unknown-trait"]);
    assert_eq!(
        codes("flow f\n  \"x\"\nlook\n  boat: fill coral\n  tag none: fill coral\n"),
        ["rule-of-nothing", "rule-of-nothing"]
    );
    assert_eq!(codes("flow f\n  \"x\" (shape sta)\n  \"y\" (icon bel)\n"), ["bad-value", "unknown-icon"]);
    assert_eq!(codes("flow f\n  \"x\" (fill)\n"), ["bad-value"]);
}
