//! Tables as grids, and documents as trees that fold.

use std::collections::BTreeMap;
use std::io::{self, Write};

use askama::Template;
use tideline_core::internal::kinds::text::Grain;
use tideline_core::internal::model::{Form, Segment, Weight};

use super::filters;
use super::rows::form_word;
use super::streamed::Streamed;
use crate::items::{DataView, Item, ItemView, SheetsView, TableView, Value, ValueEdit, Whole};
use crate::marks::Marks;
use crate::report::Shape;
use crate::shown::{DisplayLine, Medium, shown_bytes, shown_name};
use crate::wording::plural;

#[derive(Template)]
#[template(path = "items.html")]
struct ItemsPart<'a> {
    facts: Vec<String>,
    troubles: Vec<String>,
    body: Streamed<'a>,
    cut: usize,
}

#[derive(Template)]
#[template(path = "grid.html")]
struct Grid<'a> {
    columns: &'a [GridColumn],
    folded: usize,
    rows: Streamed<'a>,
}

struct GridColumn {
    name: String,
    says: String,
    is_folded: bool,
}

#[derive(Template)]
#[template(path = "grid_row.html")]
struct GridRow {
    id: String,
    number: usize,
    form: &'static str,
    mark: &'static str,
    says: String,
    is_muted: bool,
    cells: Vec<GridCell>,
    line: String,
}

struct GridCell {
    class: String,
    title: String,
    html: String,
}

#[derive(Template)]
#[template(path = "node_row.html")]
struct NodeRow {
    id: String,
    number: usize,
    form: &'static str,
    mark: &'static str,
    says: String,
    is_muted: bool,
    name: String,
    html: String,
    place: String,
    cause: String,
}

#[derive(Template)]
#[template(source = "<h3>sheet {{ name }}</h3>", ext = "html")]
struct SheetHeading<'a> {
    name: &'a str,
}

#[derive(Template)]
#[template(source = "{% if differs %}<mark>{{ text }}</mark>{% else %}{{ text }}{% endif %}", ext = "html")]
struct Piece<'a> {
    text: &'a str,
    differs: bool,
}

pub(super) fn rendered(template: &impl Template) -> String {
    template.render().unwrap_or_else(|error| unreachable!("a string takes all that is written: {error}"))
}

pub(super) fn say(view: &dyn ItemView, shape: &Shape, body: Streamed<'_>, out: &mut dyn Write) -> io::Result<()> {
    let shown = |lines: Vec<String>| lines.iter().map(|line| shown_name(line, false)).collect();
    let part =
        ItemsPart { facts: shown(view.facts()), troubles: shown(view.troubles()), body, cut: shape.cut(view.len()) };
    part.write_into(&mut { out })
}

/// What is marked inside values: letters, where nothing else was asked for than words.
fn value_grain(grain: &Grain) -> &Grain {
    if matches!(grain, Grain::Word) { &Grain::Letter } else { grain }
}

/// The address of a change.
pub(super) fn address(id: &str, number: usize) -> String {
    format!("{id}{}change-{number}", if id.is_empty() { "" } else { "-" })
}

/// Writes two tables: a grid with a row for each change.
pub(super) fn write_table(view: &TableView<'_>, id: &str, shape: &Shape, out: &mut dyn Write) -> io::Result<()> {
    if view.len() == 0 {
        return say(view, shape, Streamed::new(&mut |_| Ok(())), out);
    }
    let (columns, folded) = columns(view);
    let told: Vec<GridColumn> = columns
        .iter()
        .map(|(at, is_folded)| {
            let column = &view.comparison.columns[*at];
            let mut says = Vec::new();
            match (&column.renamed_from, column.form()) {
                (Some(old), _) => says.push(format!("was {}", shown_name(old, false))),
                (None, Some(form)) => says.push(form.name().to_owned()),
                (None, None) => {}
            }
            if column.edited > 0 {
                says.push(format!("edited in {}", plural(column.edited, "row")));
            }
            GridColumn { name: shown_name(&column.name, false), says: says.join(", "), is_folded: *is_folded }
        })
        .collect();
    let mut rows = |out: &mut dyn Write| {
        for index in 0..view.len().min(shape.changes_shown()) {
            let row = row(view, index, &columns, (id, value_grain(&shape.grain)));
            writeln!(out, "{}", rendered(&row))?;
        }
        Ok(())
    };
    let mut body =
        |mut out: &mut dyn Write| Grid { columns: &told, folded, rows: Streamed::new(&mut rows) }.write_into(&mut out);
    say(view, shape, Streamed::new(&mut body), out)
}

/// Writes the sheets of two documents: a grid for each in which something differs.
pub(super) fn write_sheets(view: &SheetsView<'_>, id: &str, shape: &Shape, out: &mut dyn Write) -> io::Result<()> {
    let mut body = |out: &mut dyn Write| {
        for sheet in view.differing() {
            writeln!(out, "{}", rendered(&SheetHeading { name: &shown_name(&sheet.name, false) }))?;
            write_table(&view.sheet(sheet), id, shape, out)?;
        }
        Ok(())
    };
    say(view, shape, Streamed::new(&mut body), out)
}

/// The columns in the order in which they are shown, and whether each is folded: the key first.
fn columns(view: &TableView<'_>) -> (Vec<(usize, bool)>, usize) {
    let key = view.comparison.matched.key();
    let is_told = |at: &usize| !matches!(&view.comparison.columns[*at].aside, Some((_, false)));
    let folds = |at: usize| {
        let column = &view.comparison.columns[at];
        column.edited + column.muted == 0 && column.form().is_none()
    };
    let rest = (0..view.comparison.columns.len()).filter(|at| !key.contains(at)).filter(is_told);
    let all: Vec<(usize, bool)> = key.iter().map(|at| (*at, false)).chain(rest.map(|at| (at, folds(at)))).collect();
    let folded = all.iter().filter(|(_, is_folded)| *is_folded).count();
    // Where nothing but rows came or went, all columns are worth a look; so they are where a row that did has no key to be known by.
    let has_nameless =
        key.is_empty() && view.comparison.changes.iter().any(|change| matches!(change.form, Form::Gone | Form::New));
    if folded + key.len() == all.len() || has_nameless {
        return (all.into_iter().map(|(at, _)| (at, false)).collect(), 0);
    }
    (all, folded)
}

fn row(view: &TableView<'_>, index: usize, columns: &[(usize, bool)], (id, grain): (&str, &Grain)) -> GridRow {
    let change = &view.comparison.changes[index];
    let (edits, whole) = (view.edits(change), view.whole_row(change));
    let cell = |(at, is_folded): &(usize, bool)| {
        let fold = if *is_folded { "folded " } else { "" };
        if let Some(edit) = edits.iter().find(|edit| edit.column == *at) {
            let title =
                edit.cause.as_ref().map_or_else(String::new, |cause| format!("muted: {}", shown_name(cause, false)));
            let muted = if edit.weight == Weight::Muted { " muted" } else { "" };
            return GridCell { class: format!("{fold}edited{muted}"), title, html: edited(edit, grain) };
        }
        let value = whole.iter().find(|(column, _)| column == at).map(|(_, value)| value);
        let html = value.filter(|value| **value != Value::Missing).map_or_else(String::new, plain);
        GridCell { class: format!("{fold}equal"), title: String::new(), html }
    };
    let line = match (change.before.map(|row| view.before.line(row)), change.after.map(|row| view.after.line(row))) {
        (Some(before), Some(after)) if before != after => format!("{before}, now {after}"),
        (_, Some(line)) | (Some(line), None) => line.to_string(),
        (None, None) => String::new(),
    };
    GridRow {
        id: address(id, change.number),
        number: change.number,
        form: form_word(change.form),
        mark: mark(change.form, change.weight),
        says: change.form.name().to_owned(),
        is_muted: change.weight == Weight::Muted,
        cells: columns.iter().map(cell).collect(),
        line,
    }
}

fn mark(form: Form, weight: Weight) -> &'static str {
    let marks = Marks::of(false);
    if weight == Weight::Muted { marks.muted } else { marks.of_form(form) }
}

/// A value that does not differ.
fn plain(value: &Value) -> String {
    let (bytes, ours) = value.shown();
    let text = shown_bytes(bytes, false);
    let escaped = rendered(&Piece { text: &text, differs: false });
    if ours { format!("<em>{escaped}</em>") } else { escaped }
}

/// A value that differs: what it was and what it is.
fn edited(edit: &ValueEdit, grain: &Grain) -> String {
    let (before, after) = edit.words(grain);
    let side = |value: &Value, parts: &[Segment], tag: &str| {
        let (bytes, ours) = value.shown();
        let shown = DisplayLine::new(bytes, parts, &[], Medium::Page);
        let piece =
            |piece: &crate::shown::Piece| rendered(&Piece { text: &piece.text, differs: piece.differs.is_some() });
        let inner: String = shown.pieces.iter().map(piece).collect();
        let inner = if ours { format!("<em>{inner}</em>") } else { inner };
        format!("<{tag}>{inner}</{tag}>")
    };
    let (old, new) = (side(&edit.before, &before, "del"), side(&edit.after, &after, "ins"));
    format!("{old} <span class=\"faint\">→</span> {new}")
}

/// A branch of the tree of paths.
#[derive(Default)]
struct Branch {
    branches: BTreeMap<String, Branch>,
    /// The indexes of the changes in it, and where the first of them stands.
    items: Vec<usize>,
    first: usize,
    count: usize,
}

/// Writes two documents: a tree that folds, with the changes in their branches.
pub(super) fn write_data(view: &DataView<'_>, id: &str, shape: &Shape, out: &mut dyn Write) -> io::Result<()> {
    let shown = view.len().min(shape.changes_shown());
    let mut root = Branch { first: 0, ..Branch::default() };
    for index in 0..shown {
        let group = view.item(index).group.unwrap_or_default();
        let mut at = &mut root;
        at.count += 1;
        for step in group.split('/').filter(|step| !step.is_empty()) {
            at = at.branches.entry(step.to_owned()).or_insert_with(|| Branch { first: index, ..Branch::default() });
            at.count += 1;
        }
        at.items.push(index);
    }
    let mut body = |out: &mut dyn Write| write_branch(view, &root, "/", (id, value_grain(&shape.grain)), out);
    say(view, shape, Streamed::new(&mut body), out)
}

fn write_branch(
    view: &DataView<'_>,
    branch: &Branch,
    name: &str,
    told: (&str, &Grain),
    out: &mut dyn Write,
) -> io::Result<()> {
    // A branch that holds nothing but another one is told with it.
    if branch.items.is_empty()
        && branch.branches.len() == 1
        && let Some((step, only)) = branch.branches.iter().next()
    {
        let name = if name == "/" { format!("/{step}") } else { format!("{name}/{step}") };
        return write_branch(view, only, &name, told, out);
    }
    if branch.count == 0 {
        return Ok(());
    }
    let title = rendered(&Piece { text: &shown_name(name, false), differs: false });
    let count = plural(branch.count, "change");
    write!(
        out,
        "<details class=\"node\" open><summary><code>{title}</code> <span class=\"faint\">{count}</span></summary>"
    )?;
    if !branch.items.is_empty() {
        writeln!(out, "<table class=\"nodes\">")?;
        for index in &branch.items {
            writeln!(out, "{}", rendered(&node_row(&view.item(*index), told)))?;
        }
        writeln!(out, "</table>")?;
    }
    let mut inner: Vec<(&String, &Branch)> = branch.branches.iter().collect();
    inner.sort_by_key(|(_, branch)| branch.first);
    for (step, inside) in inner {
        write_branch(view, inside, step, told, out)?;
    }
    writeln!(out, "</details>")
}

fn node_row(item: &Item, (id, grain): (&str, &Grain)) -> NodeRow {
    let own = item.title.rfind('/').map_or(item.title.as_str(), |at| &item.title[at + 1..]);
    let html = match (&item.whole, item.edits.first()) {
        (_, Some(edit)) => edited(edit, grain),
        (Whole::Values(values), None) => {
            let class = form_word(item.form);
            let values = values.iter().map(|(_, value)| format!("<span class=\"{class}\">{}</span>", plain(value)));
            values.collect()
        }
        (Whole::Lines(lines), None) => {
            let shown: Vec<String> = lines.iter().map(|line| shown_bytes(line, false)).collect();
            let text = rendered(&Piece { text: &shown.join("\n"), differs: false });
            let lines = plural(lines.len(), "line");
            format!("<details><summary>{lines}</summary><pre class=\"{}\">{text}</pre></details>", form_word(item.form))
        }
        (Whole::None, None) => String::new(),
    };
    NodeRow {
        id: address(id, item.number),
        number: item.number,
        form: form_word(item.form),
        mark: mark(item.form, item.weight),
        says: item.form.name().to_owned(),
        is_muted: item.weight == Weight::Muted,
        name: shown_name(own, false),
        html,
        place: shown_name(&item.place, false),
        cause: item.cause.as_deref().map_or_else(String::new, |cause| shown_name(cause, false)),
    }
}
