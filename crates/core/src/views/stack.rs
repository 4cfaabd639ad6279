//! The whole stack of a model: its outermost level, and the inside of every element that has one, each with what it
//! touches. Elements are linked to the picture of their inside, and the frame around an inside to the picture around it.

use super::lift::lift;
use super::view::View;
use super::visible::hosting;
use crate::model::{Choice, ChoiceWord, Chosen, Diagram, ElementId, Sheet};
use crate::source::{Span, Spanned, Unique};
use crate::syntax::Label;

/// The name of the picture of the outermost level.
const TOP: &str = "index";
/// A picture's name has at most this many letters.
// It becomes the name of a file, which may have 255 bytes, with letters of up to two bytes.
const LONGEST: usize = 96;

/// One picture of a stack.
#[derive(Clone, Debug)]
pub struct StackLevel {
    /// The element whose inside it shows; `None` for the outermost level.
    pub inside: Option<ElementId>,
    /// Its name, which is that of its file without the ending: letters, digits, `.`, `-` and `_`.
    pub name: String,
}

/// The pictures of a stack, the outermost level first, then in the order of the model.
pub fn stack(diagram: &Diagram) -> Vec<StackLevel> {
    let hosting = hosting(diagram);
    let mut has_inside = vec![false; diagram.elements.len()];
    for (id, element) in diagram.ids().filter(|(id, e)| !hosting[id.index()] && !e.kind.is_box() && !e.kind.is_mark()) {
        // A group is no level: what lies in it lies in what is around it.
        let holder = diagram.ancestors(id).find(|a| !diagram.element(*a).kind.is_box());
        holder.iter().filter(|_| element.parent.is_some()).for_each(|h| has_inside[h.index()] = true);
    }
    let mut taken = Unique::whatever_the_case();
    taken.take(TOP);
    let mut levels = vec![StackLevel { inside: None, name: TOP.to_owned() }];
    for (id, element) in diagram.ids().filter(|(id, _)| has_inside[id.index()]) {
        levels.push(StackLevel { inside: Some(id), name: file_name(&element.key, &mut taken) });
    }
    levels
}

impl StackLevel {
    /// The diagram of this level, each element that has an inside linked to its picture among `levels`.
    pub fn view(&self, diagram: &Diagram, levels: &[StackLevel]) -> View {
        let sheet = self.sheet(diagram);
        let mut view = lift(diagram, &sheet);
        let of = |inside: Option<ElementId>| levels.iter().find(|l| l.inside == inside);
        let around = |id: ElementId| diagram.ancestors(id).find(|a| !diagram.element(*a).kind.is_box());
        let keys: std::collections::HashMap<&str, ElementId> =
            levels.iter().filter_map(|l| l.inside).map(|id| (diagram.element(id).key.as_str(), id)).collect();
        for (element, own) in view.diagram.elements.iter().zip(&mut view.elements) {
            let Some(id) = keys.get(element.key.as_str()).copied() else { continue };
            // The frame of what is shown leads back to where it is seen from outside.
            let target = if Some(id) == self.inside { of(around(id)) } else { of(Some(id)) };
            own.opens = target.map(|level| level.name.clone());
        }
        view
    }

    fn sheet(&self, diagram: &Diagram) -> Sheet {
        let span = Span::default();
        let mut sheet = Sheet {
            title: self.inside.map(|id| title(diagram, id)).or_else(|| diagram.title.clone()),
            depth: self.inside.is_none().then_some(Spanned { value: 1, span }),
            ..Sheet::whole(&self.name, &diagram.name, diagram.span)
        };
        for (word, id) in [ChoiceWord::Open, ChoiceWord::Focus].into_iter().zip(self.inside.iter().cycle()) {
            sheet.choose(Choice { word, chosen: Chosen::Elements(vec![*id]), distance: None, span }, vec![*id]);
        }
        sheet
    }
}

/// The title of a picture of an element's inside: what it stands in, and itself; boxes are no level.
fn title(diagram: &Diagram, id: ElementId) -> Label {
    let is_level = |a: &ElementId| !diagram.element(*a).kind.is_box();
    let around = std::iter::once(id).chain(diagram.ancestors(id).filter(is_level));
    let mut path: Vec<String> = around.map(|i| diagram.element(i).shown().text()).collect();
    path.reverse();
    Label::plain(path.join(" / "), Span::default())
}

/// A file's name for what has a key, which no other has, not even where capitals do not count: letters, digits, `.`, `-` and `_`.
/// `taken` are the names of others, whatever the case; the new one comes to them.
pub fn file_name(key: &str, taken: &mut Unique) -> String {
    let plain = |c: char| if c.is_alphanumeric() || matches!(c, '_' | '-' | '.') { c } else { '-' };
    let cut: String = key.chars().map(plain).take(LONGEST).collect();
    // No hidden files, and none that end in a dot.
    let wanted = cut.trim_matches('.');
    taken.give(wanted, |number| format!("{wanted}-{number}"))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn names_of_files_are_plain_and_differ_even_without_capitals() {
        let mut taken = Unique::whatever_the_case();
        taken.take(TOP);
        let mut name = |key: &str| file_name(key, &mut taken);
        assert_eq!(name("core.gateway"), "core.gateway");
        assert_eq!(name("Core.Gateway"), "Core.Gateway-2");
        assert_eq!(name("../../etc"), "-..-etc");
        assert_eq!(name("..."), "-2");
        assert_eq!(name("index"), "index-2");
        assert_eq!(name("hafen/süd"), "hafen-süd");
    }
}
