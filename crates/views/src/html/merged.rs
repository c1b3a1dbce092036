//! Pages of three versions: the base between both sides, in three columns.

use std::io::{self, Write};

use askama::Template;
use tideline_core::internal::kinds::text::sections::Sections;
use tideline_core::internal::merge::{MergedEntry, Region, Three};

use super::assets::{Assets, SCRIPT, STYLE};
use super::line::{LineLimits, PageLine};
use super::streamed::{PageSection, Streamed};
use crate::marks::Marks;
use crate::report::{MergedHead, Shape};
use crate::rows::{Line, RowOptions};
use crate::shown::{Role, shown_bytes, shown_name};
use crate::syntax::Budget;
use crate::three::{
    Cell, MergeView, MergedTreeView, SidePairs, SideTexts, ThreeRow, WhichSide, region_rows, rows_above, rows_below,
};
use crate::wording::account::account_lines;
use crate::wording::merge::{region_lines, tree_clashes};
use crate::wording::section::{section_in_words, section_relation};

/// Lines longer than this are cut around their changes.
const WIDEST: usize = 10_000;
/// Bytes of lines that are cut and can be opened.
const OPENABLE: usize = 1 << 20;

#[derive(Template)]
#[template(path = "merged.html")]
struct Page<'a> {
    head: &'a MergedHead<'a>,
    has_tree: bool,
    main: Streamed<'a>,
}

#[derive(Template)]
#[template(path = "merged_tree.html")]
struct TreePart {
    notes: Vec<String>,
    labels: Three<String>,
    rows: Vec<TreeRow>,
}

/// A path that a side changed.
struct TreeRow {
    mine: (&'static str, &'static str),
    theirs: (&'static str, &'static str),
    together: &'static str,
    path: String,
    href: Option<String>,
    clashes: Vec<String>,
}

#[derive(Template)]
#[template(
    source = "<section class=\"file\" id=\"{{ id }}\">\n<header>\n<h2 class=\"path\">{{ name }}</h2>\n<p class=\"facts\">{{ facts }}</p>\n</header>\n{{ body|safe }}\n</section>\n",
    ext = "html"
)]
struct FilePart<'a> {
    id: &'a str,
    name: String,
    facts: String,
    body: Streamed<'a>,
}

#[derive(Template)]
#[template(path = "merged_region.html")]
struct RegionPart {
    id: String,
    number: usize,
    of: usize,
    is_conflict: bool,
    lies: String,
    section: Option<(&'static str, String)>,
    who: String,
    labels: Three<String>,
    rows: Vec<[CellPart; 3]>,
}

/// What stands in one of three columns.
struct CellPart {
    number: String,
    class: &'static str,
    line: Option<PageLine>,
}

/// Writes a page of three versions; `main` writes what it holds.
///
/// # Errors
/// Whatever `out` fails with.
pub fn write_merged_page(
    head: &MergedHead<'_>,
    has_tree: bool,
    main: PageSection<'_>,
    out: &mut dyn Write,
) -> io::Result<()> {
    Page { head, has_tree, main: Streamed::new(main) }.write_into(&mut { out })
}

/// Writes the table of three trees. `href` gives the address of an entry's changes, if they are in the page.
///
/// # Errors
/// Whatever `out` fails with.
pub fn write_merged_tree(
    view: &MergedTreeView<'_>,
    href: &dyn Fn(&MergedEntry) -> Option<String>,
    out: &mut dyn Write,
) -> io::Result<()> {
    let marks = Marks::of(false);
    let row = |entry: &MergedEntry| TreeRow {
        mine: (marks.of_status(entry.mine.status), entry.mine.status.name()),
        theirs: (marks.of_status(entry.theirs.status), entry.theirs.status.name()),
        together: entry.together.name(),
        path: match &entry.plan.to {
            Some(to) if *to != entry.path => {
                format!("{} → {}", shown_bytes(&entry.path, false), shown_bytes(to, false))
            }
            _ => shown_bytes(&entry.path, false),
        },
        href: href(entry),
        clashes: tree_clashes(entry, view.labels),
    };
    let rows = view.entries().map(row).collect();
    let labels = view.labels.as_ref().map(|label| shown_name(label, false));
    let notes = account_lines(&view.merge.account, false, false).into_iter().chain(view.notes(false)).collect();
    TreePart { notes, labels, rows }.write_into(&mut { out })
}

/// Writes a file of three versions; the addresses of its changes begin with `id`.
///
/// # Errors
/// Whatever `out` fails with.
pub fn write_merged_file(view: &MergeView<'_>, id: &str, shape: &Shape, out: &mut dyn Write) -> io::Result<()> {
    let mut body = |out: &mut dyn Write| write_regions(view, id, shape, out);
    let name = shown_name(view.name, false);
    let facts = view.counts();
    FilePart { id, name, facts, body: Streamed::new(&mut body) }.write_into(&mut { out })
}

fn write_regions(view: &MergeView<'_>, id: &str, shape: &Shape, out: &mut dyn Write) -> io::Result<()> {
    let sections = Sections::new(view.type_name, view.merge.texts.base.text(), view.merge.regions.len());
    let (mine, theirs) = (SideTexts::of(view, WhichSide::Mine), SideTexts::of(view, WhichSide::Theirs));
    let (mine_view, theirs_view) = (mine.view(view), theirs.view(view));
    let pairs = SidePairs { view, mine: (&mine, &mine_view), theirs: (&theirs, &theirs_view) };
    let options = RowOptions { context: shape.context, grain: &shape.grain, budget: Budget::of(shape.syntax) };
    let mut limits = LineLimits { widest: WIDEST, openable: OPENABLE };
    for (number, region) in view.regions().take(shape.changes_shown()) {
        let mut rows = rows_above(view, number - 1, options.context, 0);
        rows.extend(region_rows(&pairs, number - 1, &options));
        rows.extend(rows_below(view, number - 1, options.context));
        let rows = rows.iter().map(|row| cells(row, &mut limits)).collect();
        region_part(view, (number, region), id, &sections, rows).write_into(&mut { &mut *out })?;
    }
    Ok(())
}

fn region_part(
    view: &MergeView<'_>,
    (number, region): (usize, &Region),
    id: &str,
    sections: &Sections<'_>,
    rows: Vec<[CellPart; 3]>,
) -> RegionPart {
    let section = sections
        .of(&region.base.bytes)
        .map(|section| (section_relation(&section), shown_name(&section_in_words(&section, false), false)));
    RegionPart {
        id: format!("{id}-c{number}"),
        number,
        of: view.merge.regions.len(),
        is_conflict: region.is_conflict(),
        lies: region_lines(region, "–"),
        section,
        who: shown_name(&view.who(region), false),
        labels: view.labels.as_ref().map(|label| shown_name(label, false)),
        rows,
    }
}

fn cells(row: &ThreeRow<'_>, limits: &mut LineLimits) -> [CellPart; 3] {
    let nothing = |class: &'static str| CellPart { number: String::new(), class, line: None };
    let mut line = |line: &Line<'_>, role: Role, class: &'static str| CellPart {
        number: line.number.to_string(),
        class,
        line: Some(limits.line(line, role)),
    };
    let base = match &row.base {
        Some((base, true)) => line(base, Role::Gone, "gone-line"),
        Some((base, false)) => line(base, Role::Equal, ""),
        None => nothing("void"),
    };
    let mut cell = |cell: &Cell<'_>| match cell {
        Cell::Equal(own) => line(own, Role::Equal, ""),
        Cell::New(own) => line(own, Role::New, "new-line"),
        Cell::Gone => nothing("gone-here"),
        Cell::Nothing => nothing("void"),
    };
    let (mine, theirs) = (cell(&row.mine), cell(&row.theirs));
    [mine, base, theirs]
}
