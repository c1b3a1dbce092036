//! What differs between two documents, node by node.

use std::collections::HashMap;

use super::causes::{KEY_ORDER, put_causes};
use super::document::{Document, NodeId, NodeKind, ROOT};
use super::identity::{Known, known_elements, known_records};
use super::likeness::{LEAST, likeness, share_anything};
use super::path::{Steps, without_positions};
use crate::internal::align::{Bounds, align_items, longest_chain, pair_alike};
use crate::internal::kinds::kind_options::KindOptions;
use crate::internal::kinds::number::Decimal;
use crate::internal::kinds::values::{BothRules, Difference, of_numbers, under_rules};
use crate::internal::model::data::{NodeChange, NodePlace};
use crate::internal::model::{Form, Weight};
use crate::internal::rules::{Account, Effect};

/// Two documents that are compared, and what was found so far.
pub(super) struct Comparing<'c> {
    pub(super) before: &'c Document<'c>,
    pub(super) after: &'c Document<'c>,
    pub(super) options: &'c KindOptions,
    pub(super) rules: BothRules<'c>,
    /// Whether the sides were exchanged.
    pub(super) is_mirrored: bool,
    pub(super) changes: Vec<NodeChange>,
    pub(super) account: Account,
    /// The paths of the nodes that are looked at.
    pub(super) paths: (String, String),
    /// The rule that mutes what is looked at.
    pub(super) muted: Option<String>,
}

/// The children of two nodes that are compared as lists.
struct Lists<'l> {
    before: &'l [NodeId],
    after: &'l [NodeId],
    steps: (Steps, Steps),
    /// The index of the first of each among all children.
    first: (usize, usize),
}

impl Comparing<'_> {
    /// Compares the documents.
    pub(super) fn documents(&mut self) {
        self.nodes(ROOT, ROOT);
    }

    fn nodes(&mut self, b: NodeId, a: NodeId) {
        let (before, after) = (self.before, self.after);
        if before.nodes[b].meaning == after.nodes[a].meaning {
            put_causes((before, b), (after, a), &mut self.account);
            return;
        }
        let outer = self.muted.clone();
        if self.is_put_aside(Some((b, a))) {
            return;
        }
        match (before.kind(b), after.kind(a)) {
            (NodeKind::Map, NodeKind::Map) if before.tag(b) == after.tag(a) => self.members(b, a),
            (NodeKind::List, NodeKind::List) if before.tag(b) == after.tag(a) => {
                let (old, new): (Vec<_>, Vec<_>) = (before.children(b).collect(), after.children(a).collect());
                self.lists(&self.lists_of((b, &old, 0), (a, &new, 0)));
            }
            (NodeKind::Element, NodeKind::Element)
                if before.key(b) == after.key(a) && before.tag(b) == after.tag(a) =>
            {
                self.elements(b, a);
            }
            _ => self.edited(b, a),
        }
        self.muted = outer;
    }

    /// Whether a rule about paths ignores what is looked at; one that mutes it holds from here on.
    fn is_put_aside(&mut self, pair: Option<(NodeId, NodeId)>) -> bool {
        if !self.rules.0.names_paths() {
            return false;
        }
        let plain = |path: &str| if path.contains('[') { without_positions(path) } else { path.to_owned() };
        let (one, other) = (&self.paths.0, &self.paths.1);
        let rule = [one.clone(), other.clone(), plain(one), plain(other)]
            .iter()
            .find_map(|path| self.rules.0.of_path(path))
            .map(|rule| (rule.name().to_owned(), rule.effect()));
        match rule {
            Some((rule, Effect::Ignore)) => {
                let leaves = pair.map_or(1, |(b, a)| leaves(self.before, b).max(leaves(self.after, a)));
                self.account.put(&rule, Effect::Ignore, leaves);
                true
            }
            Some((rule, Effect::Mute)) => {
                self.muted = Some(rule);
                false
            }
            None => false,
        }
    }

    fn edited(&mut self, b: NodeId, a: NodeId) {
        let difference = match &self.muted {
            Some(rule) => Difference::Aside(Effect::Mute, rule.clone()),
            None => self.difference(b, a),
        };
        let Some(weight) = self.weighed(&difference, 1) else { return };
        let cause = difference.cause().map(str::to_owned);
        let (before, after) = (self.place_before(b), self.place_after(a));
        self.push(Form::Edited, weight, cause, (Some(before), Some(after)));
    }

    /// The weight of a change; nothing where it is ignored. What does not count is put down.
    fn weighed(&mut self, difference: &Difference, leaves: usize) -> Option<Weight> {
        if let Difference::Aside(effect, cause) = difference {
            self.account.put(cause, *effect, leaves);
        }
        difference.weight()
    }

    fn difference(&self, b: NodeId, a: NodeId) -> Difference {
        let (before, after) = (self.before, self.after);
        let (one, other) = (before.kind(b), after.kind(a));
        let is_value = !one.is_branch() && one == other && before.tag(b) == after.tag(a);
        if !is_value || before.key(b).is_some() && one == NodeKind::Instruction && before.key(b) != after.key(a) {
            return Difference::Counted;
        }
        let (old, new) = (before.value(b), after.value(a));
        if one == NodeKind::Number
            && let (Some(old), Some(new)) = (Decimal::read(old.as_bytes()), Decimal::read(new.as_bytes()))
            && let Some(difference) = of_numbers(&old, &new, self.options.tolerance.as_ref())
        {
            return difference;
        }
        if one == NodeKind::Comment
            && let Some(rule) = self.rules.0.of_comments()
        {
            return Difference::Aside(rule.effect(), rule.name().to_owned());
        }
        let (old, new) = if self.is_mirrored { (new, old) } else { (old, new) };
        under_rules(old.as_bytes(), new.as_bytes(), self.rules)
    }

    fn members(&mut self, b: NodeId, a: NodeId) {
        let (before, after) = (self.before, self.after);
        let (old, new): (Vec<_>, Vec<_>) = (before.children(b).collect(), after.children(a).collect());
        self.named((b, &old), (a, &new), KEY_ORDER);
    }

    /// Compares nodes that have names, whatever their order.
    fn named(&mut self, (b, old): (NodeId, &[NodeId]), (a, new): (NodeId, &[NodeId]), order: &str) {
        let (before, after) = (self.before, self.after);
        let mut places: HashMap<(&str, Option<&str>), Vec<usize>> = HashMap::with_capacity(new.len());
        for (at, node) in new.iter().enumerate().rev() {
            places.entry(named_as(after, *node)).or_default().push(at);
        }
        let partner: Vec<Option<usize>> =
            old.iter().map(|node| places.get_mut(&named_as(before, *node))?.pop()).collect();
        if !partner.iter().flatten().is_sorted() {
            self.account.put(order, Effect::Mute, 1);
        }
        let mut is_taken = vec![false; new.len()];
        partner.iter().flatten().for_each(|at| is_taken[*at] = true);
        let steps = (Steps::of(before, b), Steps::of(after, a));
        let mut told = 0;
        for (at, node) in old.iter().enumerate() {
            let Some(other) = partner[at] else {
                self.alone((*node, steps.0.get(at)), Form::Gone);
                continue;
            };
            while told <= other {
                if !is_taken[told] {
                    self.alone((new[told], steps.1.get(told)), Form::New);
                }
                told += 1;
            }
            self.inside((*node, steps.0.get(at)), (new[other], steps.1.get(other)));
        }
        for at in told..new.len() {
            if !is_taken[at] {
                self.alone((new[at], steps.1.get(at)), Form::New);
            }
        }
    }

    /// Compares two nodes one step further down.
    fn inside(&mut self, (b, old): (NodeId, &str), (a, new): (NodeId, &str)) {
        let lens = self.step_in(old, new);
        self.nodes(b, a);
        self.step_out(lens);
    }

    fn step_in(&mut self, old: &str, new: &str) -> (usize, usize) {
        let lens = (self.paths.0.len(), self.paths.1.len());
        self.paths.0.push_str(old);
        self.paths.1.push_str(new);
        lens
    }

    fn step_out(&mut self, lens: (usize, usize)) {
        self.paths.0.truncate(lens.0);
        self.paths.1.truncate(lens.1);
    }

    /// Tells of a node that one side alone has.
    fn alone(&mut self, (node, step): (NodeId, &str), form: Form) {
        let lens = self.step_in(step, step);
        let outer = self.muted.clone();
        if !self.is_put_aside(None) {
            let (place, document) = match form {
                Form::Gone => (self.place_before(node), self.before),
                _ => (self.place_after(node), self.after),
            };
            let comments = self.rules.0.of_comments().filter(|_| document.kind(node) == NodeKind::Comment);
            let difference = match (&self.muted, comments) {
                (Some(rule), _) => Difference::Aside(Effect::Mute, rule.clone()),
                (None, Some(rule)) => Difference::Aside(rule.effect(), rule.name().to_owned()),
                (None, None) => Difference::Counted,
            };
            if let Some(weight) = self.weighed(&difference, place.leaves) {
                let cause = difference.cause().map(str::to_owned);
                let places = if form == Form::Gone { (Some(place), None) } else { (None, Some(place)) };
                self.push(form, weight, cause, places);
            }
        }
        self.muted = outer;
        self.step_out(lens);
    }

    fn elements(&mut self, b: NodeId, a: NodeId) {
        let (before, after) = (self.before, self.after);
        let is_attribute = |document: &Document<'_>, node: &NodeId| document.kind(*node) == NodeKind::Attribute;
        let (old, old_rest): (Vec<_>, Vec<_>) = before.children(b).partition(|node| is_attribute(before, node));
        let (new, new_rest): (Vec<_>, Vec<_>) = after.children(a).partition(|node| is_attribute(after, node));
        self.named((b, &old), (a, &new), super::causes::ATTRIBUTE_ORDER);
        let lists = self.lists_of((b, &old_rest, old.len()), (a, &new_rest, new.len()));
        self.lists(&lists);
    }

    fn lists_of<'l>(
        &self,
        (b, before, first_b): (NodeId, &'l [NodeId], usize),
        (a, after, first_a): (NodeId, &'l [NodeId], usize),
    ) -> Lists<'l> {
        let steps = (Steps::of(self.before, b), Steps::of(self.after, a));
        Lists { before, after, steps, first: (first_b, first_a) }
    }

    /// Compares nodes in order: those that have an identity by it, others by our own alignment.
    fn lists(&mut self, lists: &Lists<'_>) {
        let (old, new) = ((self.before, lists.before), (self.after, lists.after));
        let is_xml = self.before.format() == super::document::DataFormat::Xml;
        let keys = &self.options.key;
        let known = if is_xml { known_elements(old, new, keys) } else { known_records(old, new, keys) };
        match known {
            Some(known) => self.by_identity(lists, &known),
            None => self.by_alignment(lists),
        }
    }

    fn by_identity(&mut self, lists: &Lists<'_>, known: &Known) {
        let pairs: Vec<(usize, usize)> =
            known.after_of.iter().enumerate().filter_map(|(b, a)| Some((b, (*a)?))).collect();
        let chain = longest_chain(&pairs);
        self.in_order(lists, &pairs, &chain);
    }

    fn by_alignment(&mut self, lists: &Lists<'_>) {
        let (before, after) = (self.before, self.after);
        let hashes = |document: &Document<'_>, nodes: &[NodeId]| {
            nodes.iter().map(|node| document.nodes[*node].meaning).collect()
        };
        let (old, new): (Vec<u64>, Vec<u64>) = (hashes(before, lists.before), hashes(after, lists.after));
        let stretches = align_items(&old, &new, &Bounds::default());
        let mut chain = Vec::with_capacity(old.len());
        let (mut at_b, mut at_a) = (0, 0);
        let (mut left_b, mut left_a) = (Vec::new(), Vec::new());
        for (b, a) in stretches.into_iter().chain([(old.len()..old.len(), new.len()..new.len())]) {
            chain.extend((at_b..b.start).zip(at_a..a.start));
            let alike = |x: usize, y: usize| {
                let (x, y) = (lists.before[b.start + x], lists.after[a.start + y]);
                let alike = likeness((before, x), (after, y));
                // Branches that stand alone between equal ones need share no more than a name.
                let is_lone = b.len() == 1 && a.len() == 1;
                if is_lone && share_anything((before, x), (after, y)) { alike.max(LEAST) } else { alike }
            };
            let is_plain =
                |nodes: &[NodeId], document: &Document<'_>| nodes.iter().all(|node| !document.kind(*node).is_branch());
            // Values that were replaced one by one were edited.
            let one_by_one = b.len() == a.len()
                && is_plain(&lists.before[b.clone()], before)
                && is_plain(&lists.after[a.clone()], after);
            let pairs = if one_by_one {
                (0..b.len()).map(|at| (at, at)).collect()
            } else {
                pair_alike((b.len(), a.len()), LEAST, alike)
            };
            let (mut of_b, mut of_a) = (vec![false; b.len()], vec![false; a.len()]);
            for (x, y) in pairs {
                (of_b[x], of_a[y]) = (true, true);
                chain.push((b.start + x, a.start + y));
            }
            left_b.extend(b.clone().filter(|at| !of_b[at - b.start]));
            left_a.extend(a.clone().filter(|at| !of_a[at - a.start]));
            (at_b, at_a) = (b.end, a.end);
        }
        // What is left on both sides with the same meaning stands elsewhere in the list.
        let mut places: HashMap<u64, Vec<usize>> = HashMap::new();
        left_a.iter().rev().for_each(|at| places.entry(new[*at]).or_default().push(*at));
        let mut pairs = chain.clone();
        for at in left_b {
            if let Some(other) = places.get_mut(&old[at]).and_then(Vec::pop) {
                pairs.push((at, other));
            }
        }
        pairs.sort_unstable();
        self.in_order(lists, &pairs, &chain);
    }

    /// Goes through two lists whose pairs are known; those that are not in the chain stand elsewhere.
    fn in_order(&mut self, lists: &Lists<'_>, pairs: &[(usize, usize)], chain: &[(usize, usize)]) {
        let mut before_of: HashMap<usize, usize> = pairs.iter().map(|(b, a)| (*a, *b)).collect();
        let is_paired: std::collections::HashSet<usize> = pairs.iter().map(|(b, _)| *b).collect();
        let (mut b, mut a) = (0, 0);
        for &(to_b, to_a) in chain.iter().chain([&(lists.before.len(), lists.after.len())]) {
            for at in b..to_b {
                if !is_paired.contains(&at) {
                    self.alone((lists.before[at], lists.steps.0.get(lists.first.0 + at)), Form::Gone);
                }
            }
            for at in a..to_a {
                let step = lists.steps.1.get(lists.first.1 + at);
                match before_of.remove(&at) {
                    Some(from) => self.moved(lists, from, at),
                    None => self.alone((lists.after[at], step), Form::New),
                }
            }
            if to_b < lists.before.len() && to_a < lists.after.len() {
                before_of.remove(&to_a);
                let old = (lists.before[to_b], lists.steps.0.get(lists.first.0 + to_b));
                self.inside(old, (lists.after[to_a], lists.steps.1.get(lists.first.1 + to_a)));
            }
            (b, a) = (to_b + 1, to_a + 1);
        }
    }

    /// Tells of a node that stands elsewhere in its list, and of what differs in it.
    fn moved(&mut self, lists: &Lists<'_>, from: usize, to: usize) {
        let (b, a) = (lists.before[from], lists.after[to]);
        let lens = self.step_in(lists.steps.0.get(lists.first.0 + from), lists.steps.1.get(lists.first.1 + to));
        let outer = self.muted.clone();
        if !self.is_put_aside(Some((b, a))) {
            let difference = match &self.muted {
                Some(rule) => Difference::Aside(Effect::Mute, rule.clone()),
                None => Difference::Counted,
            };
            if let Some(weight) = self.weighed(&difference, 1) {
                let (before, after) = (self.place_before(b), self.place_after(a));
                let cause = difference.cause().map(str::to_owned);
                self.push(Form::Moved, weight, cause, (Some(before), Some(after)));
            }
            self.nodes(b, a);
        }
        self.muted = outer;
        self.step_out(lens);
    }

    fn place_before(&self, node: NodeId) -> NodePlace {
        place(self.before, node, &self.paths.0)
    }

    fn place_after(&self, node: NodeId) -> NodePlace {
        place(self.after, node, &self.paths.1)
    }

    fn push(
        &mut self,
        form: Form,
        weight: Weight,
        cause: Option<String>,
        (before, after): (Option<NodePlace>, Option<NodePlace>),
    ) {
        self.changes.push(NodeChange { number: 0, form, weight, cause, before, after });
    }
}

/// What a named node is known by: its name, of an attribute its namespace too.
fn named_as<'d>(document: &'d Document<'_>, node: NodeId) -> (&'d str, Option<&'d str>) {
    let space = document.tag(node).filter(|_| document.kind(node) == NodeKind::Attribute);
    (document.key(node).unwrap_or_default(), space)
}

/// Where a node is.
pub(super) fn place(document: &Document<'_>, node: NodeId, path: &str) -> NodePlace {
    NodePlace {
        node: Some(node),
        path: path.to_owned(),
        lines: document.lines(node),
        span: document.span_with_key(node),
        leaves: leaves(document, node),
    }
}

/// The values in a node: 1 of a single one, and of an empty branch.
fn leaves(document: &Document<'_>, node: NodeId) -> usize {
    let nodes = &document.nodes[node..node + document.size(node)];
    nodes.iter().filter(|node| !node.kind.is_branch()).count().max(1)
}
