//! JSON: where everything in a drawing is, for programs. Lengths are px, from the left upper corner; y runs down.

use crate::parts::{TextPart, parts};
use bathygram_core::container::{self, Provenance};
use bathygram_core::geom::Rect;
use bathygram_core::measure::Fonts;
use bathygram_core::scene::Drawing;
use schemars::JsonSchema;
use serde::Serialize;

/// A drawing, part by part.
#[derive(Serialize, JsonSchema)]
#[schemars(title = "A drawing of Bathygram")]
struct Geometry<'a> {
    /// Counts up when something here changes its meaning.
    version: u32,
    /// What the drawing was made from, as one figure.
    digest: String,
    /// The SHA-256 of this file with the seal itself written as zeros.
    seal: String,
    /// The text that it was drawn from, relative to the project.
    file: &'a str,
    /// The picture's name.
    name: &'a str,
    /// Its title.
    title: &'a str,
    /// What it shows, in words.
    description: &'a str,
    /// Its width in px.
    width: f64,
    /// Its height in px.
    height: f64,
    /// Its elements, from the back to the front.
    elements: Vec<Element<'a>>,
    /// Its relations; messages of a sequence in the order of time.
    relations: Vec<Relation<'a>>,
}

/// An element, or something else that has an outline, such as a fragment of a sequence.
#[derive(Serialize, JsonSchema)]
struct Element<'a> {
    /// Its key: its name, behind those of the elements that it lies in.
    key: &'a str,
    /// Its kind.
    kind: &'a str,
    /// What it is called.
    label: &'a str,
    /// Its outline.
    place: Place,
    /// The key of the element that it lies in.
    #[serde(skip_serializing_if = "Option::is_none")]
    inside: Option<&'a str>,
    /// The picture that it leads to.
    #[serde(skip_serializing_if = "Option::is_none")]
    opens: Option<&'a str>,
    /// Its line in the text.
    line: u32,
    /// The file of that line, where it is another one than the picture's.
    #[serde(skip_serializing_if = "Option::is_none")]
    file: Option<&'a str>,
    /// What is written in it, line by line.
    texts: Vec<Written>,
}

/// A relation, or a message.
#[derive(Serialize, JsonSchema)]
struct Relation<'a> {
    /// Its key.
    key: &'a str,
    /// The key of the element at which it begins.
    from: &'a str,
    /// The key of the element at which it ends.
    to: &'a str,
    /// What it says besides its label.
    says: &'a str,
    /// Its places, from 1, in the course of a sequence or a scenario.
    #[serde(skip_serializing_if = "<[u32]>::is_empty")]
    steps: &'a [u32],
    /// Its line in the text.
    line: u32,
    /// All lines that it stands for, if they are several.
    #[serde(skip_serializing_if = "<[u32]>::is_empty")]
    lines: &'a [u32],
    /// The file of that line, where it is another one than the picture's.
    #[serde(skip_serializing_if = "Option::is_none")]
    file: Option<&'a str>,
    /// The points of its line, x and y: where its pieces begin and end. A rounded corner is a piece of its own.
    points: Vec<[f64; 2]>,
    /// Whether a head or another sign stands at an end.
    head: bool,
    /// Its label, line by line.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    label: Vec<Written>,
    /// What is written at its ends: multiplicities, roles, ports.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    ends: Vec<Written>,
}

/// A line of text.
#[derive(Serialize, JsonSchema)]
struct Written {
    /// Its letters.
    text: String,
    /// About the room that it takes.
    place: Place,
}

/// A rectangle.
#[derive(Serialize, JsonSchema)]
struct Place {
    /// Its left edge.
    x: f64,
    /// Its upper edge.
    y: f64,
    /// Its width.
    width: f64,
    /// Its height.
    height: f64,
}

impl Place {
    fn of(rect: Rect) -> Self {
        let [x, y, width, height] = [rect.x, rect.y, rect.w, rect.h].map(rounded);
        Self { x, y, width, height }
    }
}

impl Written {
    fn all(parts: Vec<TextPart>) -> Vec<Self> {
        parts.into_iter().map(|part| Self { text: part.text, place: Place::of(part.place) }).collect()
    }
}

/// Two decimals, as in SVG.
fn rounded(value: f64) -> f64 {
    (value * 100.0).round() / 100.0 + 0.0
}

/// Writes a drawing as JSON.
///
/// # Errors
/// If it has a number that JSON cannot hold.
pub fn write(drawing: &Drawing, fonts: &Fonts, provenance: &Provenance<'_>) -> serde_json::Result<String> {
    let scene = &drawing.scene;
    let (elements, relations) = parts(scene, fonts);
    let elements = elements.into_iter().map(|part| Element {
        key: part.key,
        kind: part.kind,
        label: part.says,
        place: Place::of(part.place),
        inside: part.inside,
        opens: part.opens,
        line: part.line,
        file: part.file,
        texts: Written::all(part.texts),
    });
    let relations = relations.into_iter().map(|part| Relation {
        key: part.key,
        from: part.from,
        to: part.to,
        says: part.says,
        steps: part.steps,
        line: part.line,
        lines: if part.lines.len() > 1 { part.lines } else { &[] },
        file: part.file,
        points: part.points.iter().map(|p| [rounded(p.x), rounded(p.y)]).collect(),
        head: part.has_head,
        label: Written::all(part.label),
        ends: Written::all(part.ends),
    });
    let geometry = Geometry {
        version: 1,
        digest: container::digest(provenance),
        seal: container::open_seal(),
        file: provenance.file,
        name: provenance.name,
        title: &scene.title,
        description: &scene.desc,
        width: rounded(scene.size.w),
        height: rounded(scene.size.h),
        elements: elements.collect(),
        relations: relations.collect(),
    };
    Ok(container::seal_json(serde_json::to_string_pretty(&geometry)? + "\n"))
}

/// The JSON Schema of these files, as text.
pub fn schema() -> String {
    // As it is written: what may be left out is not required.
    let settings = schemars::generate::SchemaSettings::draft2020_12().for_serialize();
    format!("{:#}\n", settings.into_generator().into_root_schema_for::<Geometry<'_>>().to_value())
}
