//! The columns of a sequence: its parties from left to right. Input: a sequence. Output: the order that the text asks for, and
//! which of its constraints contradict others before them.

use super::{Constraint, Diagram, ElementId, ElementKind, Placing};

/// Parties from left to right, those of a group side by side.
pub struct Columns {
    /// The parties.
    pub order: Vec<ElementId>,
    /// The constraints that are not kept, by their places in the text.
    pub dropped: Vec<usize>,
}

impl Diagram {
    /// The columns of a sequence: in the order of the text, as far as nothing else is asked for.
    pub fn columns(&self) -> Columns {
        let mut columns = Columns { order: self.columns_as_declared(), dropped: Vec::new() };
        let mut kept: Vec<Vec<ElementId>> = Vec::new();
        for (i, written) in self.picture.constraints.iter().enumerate() {
            let Some(asked) = from_left(&written.constraint) else {
                columns.dropped.push(i);
                continue;
            };
            let tried = match written.constraint {
                Constraint::Place(moved, ..) => self.placed(&columns.order, moved, &asked),
                _ => self.rearranged(&columns.order, &asked),
            };
            let holds = |order: &[ElementId], asked: &Vec<ElementId>| {
                let place = |id: &ElementId| order.iter().position(|o| o == id);
                asked.windows(2).all(|pair| place(&pair[0]) < place(&pair[1]))
            };
            if holds(&tried, &asked) && kept.iter().all(|before| holds(&tried, before)) {
                columns.order = tried;
                kept.push(asked);
            } else {
                columns.dropped.push(i);
            }
        }
        columns
    }

    fn columns_as_declared(&self) -> Vec<ElementId> {
        let is_party =
            |kind| !matches!(kind, ElementKind::Group | ElementKind::Lost | ElementKind::Found | ElementKind::Remark);
        let mut order: Vec<ElementId> = Vec::new();
        for (id, element) in self.ids().filter(|(_, e)| e.parent.is_none()) {
            if is_party(element.kind) {
                order.push(id);
            } else if element.kind == ElementKind::Group {
                let inside = |m: ElementId| self.ancestors(m).any(|a| a == id);
                order.extend(self.ids().filter(|(m, e)| is_party(e.kind) && inside(*m)).map(|(m, _)| m));
            }
        }
        order
    }

    /// The same columns with one of a pair moved beside the other; all others keep their order. Groups move as one.
    fn placed(&self, order: &[ElementId], moved: ElementId, pair: &[ElementId]) -> Vec<ElementId> {
        let around = |id: ElementId| -> Vec<ElementId> {
            let mut path: Vec<ElementId> = std::iter::once(id).chain(self.ancestors(id)).collect();
            path.reverse();
            path
        };
        let (Some(first), Some(second)) = (pair.first().map(|id| around(*id)), pair.get(1).map(|id| around(*id)))
        else {
            return order.to_vec();
        };
        let Some(level) = (0..first.len().min(second.len())).find(|i| first[*i] != second[*i]) else {
            return order.to_vec();
        };
        // What is moved, and beside what: of groups, all.
        let [left, right] = [first[level], second[level]];
        let is_left_moved = pair.first() == Some(&moved);
        let (unit, beside) = if is_left_moved { (left, right) } else { (right, left) };
        let lies_in = |id: &ElementId, unit: ElementId| *id == unit || self.ancestors(*id).any(|own| own == unit);
        let place = |unit: ElementId| order.iter().position(|id| lies_in(id, unit));
        if place(left) < place(right) {
            return order.to_vec();
        }
        let (own, mut rest): (Vec<ElementId>, Vec<ElementId>) = order.iter().partition(|id| lies_in(id, unit));
        let at = match is_left_moved {
            true => rest.iter().position(|id| lies_in(id, beside)),
            false => rest.iter().rposition(|id| lies_in(id, beside)).map(|at| at + 1),
        };
        let at = at.unwrap_or(rest.len());
        rest.splice(at..at, own);
        rest
    }

    /// The same columns with these parties one after the other, in the places that they have together. Groups move as one.
    fn rearranged(&self, order: &[ElementId], asked: &[ElementId]) -> Vec<ElementId> {
        let outermost = |id: ElementId| self.ancestors(id).last().unwrap_or(id);
        // 1. What is outermost.
        let mut units: Vec<ElementId> = order.iter().map(|id| outermost(*id)).collect();
        units.dedup();
        let mut wanted: Vec<ElementId> = asked.iter().map(|id| outermost(*id)).collect();
        wanted.dedup();
        permute(&mut units, &wanted);
        // 2. The parties of each group.
        let mut all = Vec::with_capacity(order.len());
        for unit in units {
            let is_own = |id: &&ElementId| outermost(**id) == unit;
            let mut own: Vec<ElementId> = order.iter().filter(is_own).copied().collect();
            let wanted: Vec<ElementId> = asked.iter().filter(is_own).copied().collect();
            permute(&mut own, &wanted);
            all.extend(own);
        }
        all
    }
}

/// The parties that a constraint wants one right of the other, if it is about that.
fn from_left(constraint: &Constraint) -> Option<Vec<ElementId>> {
    match constraint {
        Constraint::Order(ids) => Some(ids.clone()),
        Constraint::Place(a, Placing::LeftOf, b) => Some(vec![*a, *b]),
        Constraint::Place(a, Placing::RightOf, b) => Some(vec![*b, *a]),
        Constraint::Place(..) | Constraint::Row(_) | Constraint::Pin(..) | Constraint::Heading(..) => None,
    }
}

/// Puts some of a list into another order, in the places that they have together.
fn permute(list: &mut [ElementId], wanted: &[ElementId]) {
    let places: Vec<usize> = (0..list.len()).filter(|i| wanted.contains(&list[*i])).collect();
    if places.len() == wanted.len() {
        places.into_iter().zip(wanted).for_each(|(place, id)| list[place] = *id);
    }
}

#[cfg(test)]
mod tests {
    use crate::pipeline::{Setting, read};
    use crate::source::Source;

    fn columns(lines: &str) -> (Vec<String>, Vec<usize>) {
        let text =
            format!("sequence s\n  party a\n  group g\n    party b\n    party c\n  party d\n{lines}  a calls d\n");
        let reading = read(Source::new("s.bathy", &text), "s", &Setting::default());
        let diagram = &reading.document.diagrams[0];
        let columns = diagram.columns();
        let names = columns.order.iter().map(|id| diagram.element(*id).name.clone()).collect();
        (names, columns.dropped)
    }

    #[test]
    fn one_is_placed_beside_another_and_the_rest_stays() {
        assert_eq!(columns("  place d left of a\n").0, ["d", "a", "b", "c"]);
        assert_eq!(columns("  place a right of d\n").0, ["b", "c", "d", "a"]);
        assert_eq!(columns("  place a right of b\n").0, ["b", "c", "a", "d"], "behind all of the group");
        assert_eq!(columns("  place c left of b\n").0, ["a", "c", "b", "d"]);
        assert_eq!(columns("  place a left of d\n").0, ["a", "b", "c", "d"], "it is there already");
    }

    #[test]
    fn parties_stand_in_the_order_that_was_asked_for() {
        assert_eq!(columns("").0, ["a", "b", "c", "d"]);
        assert_eq!(columns("  order d, a\n"), (["d", "b", "c", "a"].map(str::to_owned).to_vec(), vec![]));
        assert_eq!(columns("  order c, b\n").0, ["a", "c", "b", "d"]);
    }

    #[test]
    fn what_contradicts_is_left_out() {
        let (names, dropped) = columns("  order d, a\n  order a, d\n  row a, d\n");
        assert_eq!((names[0].as_str(), dropped), ("d", vec![1, 2]));
        // A group is not torn apart.
        assert_eq!(columns("  order b, a, c\n").1, [0]);
    }
}
