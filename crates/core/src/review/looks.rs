//! Rules of two versions, by what they ask of the elements and relations that both versions have.

use crate::compare::{Change, Difference, ElementName, Fate, Matching, Paired, Subject, called, code, traits};
use crate::model::{Diagram, LookRule};
use crate::source::Span;
use crate::theme::{Asked, asked};
use std::collections::BTreeMap;

/// A version of a diagram, and the rules that hold in it.
#[derive(Clone, Copy)]
pub(super) struct Version<'a> {
    /// The diagram.
    pub(super) diagram: &'a Diagram,
    /// The rules, in their order.
    pub(super) looks: &'a [LookRule],
}

/// A look that is asked for then and now.
type Both<'a> = (&'a Asked, &'a Asked);

/// What other rules draw differently: one change for all that differ in the same way. What has other traits, tags, or another
/// name or kind is reported by these.
pub(super) fn compare([old, new]: [Version<'_>; 2], matched: &Matching, paired: &Paired) -> Vec<Change> {
    if old.looks.is_empty() && new.looks.is_empty() {
        return Vec::new();
    }
    let (then, now) = (asked(old.looks, old.diagram), asked(new.looks, new.diagram));
    let mut groups: BTreeMap<(bool, String), Group> = BTreeMap::new();
    let mut add = |is_relation, (then, now): Both<'_>, key: &str, name: String, [old_span, span]: [Span; 2]| {
        let differences = differences(then, now);
        if differences.is_empty() {
            return;
        }
        let of = (is_relation, format!("{differences:?}"));
        let group = groups.entry(of).or_insert_with(|| Group { differences, span, old_span, ..Group::default() });
        group.keys.push(key.to_owned());
        group.names.push(name);
    };
    for (o, n) in &matched.to_new {
        let (a, b) = (&old.diagram.elements[*o], &new.diagram.elements[*n]);
        let is_same = a.kind == b.kind && a.properties.tags == b.properties.tags;
        if is_same && is_alike(&a.traits, &b.traits) {
            add(false, (&then.elements[*o], &now.elements[*n]), &b.key, called(&ElementName::of(b)), [a.span, b.span]);
        }
    }
    for (o, n) in &paired.pairs {
        let (a, b) = (&old.diagram.relations[*o], &new.diagram.relations[*n]);
        if a.verb == b.verb && is_alike(&a.traits, &b.traits) {
            add(true, (&then.relations[*o], &now.relations[*n]), &b.key, code(&b.key), [a.span, b.span]);
        }
    }
    let mut changes: Vec<Change> =
        groups.into_iter().map(|((is_relation, _), group)| group.change(is_relation)).collect();
    let ground = differences(&then.ground, &now.ground);
    if !ground.is_empty() {
        changes.push(Change {
            fate: Fate::Drawn,
            subject: Subject::diagram(new.diagram),
            differences: ground,
            span: new.diagram.span,
            old_span: Some(old.diagram.span),
        });
    }
    changes
}

/// What differs in the same way.
#[derive(Default)]
struct Group {
    keys: Vec<String>,
    names: Vec<String>,
    differences: Vec<Difference>,
    span: Span,
    old_span: Span,
}

impl Group {
    fn change(self, is_relation: bool) -> Change {
        let sort = if is_relation { "relation" } else { "element" };
        let subject = Subject::Looks { sort, keys: self.keys, names: self.names };
        Change {
            fate: Fate::Drawn,
            subject,
            differences: self.differences,
            span: self.span,
            old_span: Some(self.old_span),
        }
    }
}

fn is_alike(a: &[crate::syntax::Trait], b: &[crate::syntax::Trait]) -> bool {
    traits(a) == traits(b)
}

fn differences(then: &Asked, now: &Asked) -> Vec<Difference> {
    let words: std::collections::BTreeSet<&'static str> = then.keys().chain(now.keys()).copied().collect();
    let differ = words.into_iter().filter(|word| then.get(word) != now.get(word));
    differ.map(|of| Difference::Look { of, old: then.get(of).cloned(), new: now.get(of).cloned() }).collect()
}
