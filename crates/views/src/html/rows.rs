//! The lines of a file. Each line stands in the page once for each side that has it; the style lays them out beside each other or
//! one above the other.

use std::io::{self, Write};

use askama::Template;
use tideline_core::internal::kinds::text::causes;
use tideline_core::internal::model::{Form, Place, Weight};

use super::filters;
use super::line::{LineLimits, PageLine};
use crate::groups::{as_one, last_of_group};
use crate::muted_run::{MutedRuns, Step};
use crate::report::{Remarks, Shape};
use crate::rows::{Block, FileRow, Line, LineChange, RowSource};
use crate::shown::{Role, shown_name};
use crate::view::{BothSections, Context, FileView};
use crate::wording::change::{folded_lines, moved_blocks, where_it_lies};
use crate::wording::section::{section_in_words, section_relation};

/// Lines longer than this are cut around their changes.
const WIDEST: usize = 10_000;
/// Bytes of lines that are cut and can be opened, for each byte of equal text that may be folded.
const OPENABLE: usize = 4;
/// Rows kept at either end of a run of muted ones.
const KEPT: usize = 3;
/// Rows shown of one change.
const MOST_ROWS: usize = 4000;

/// Bytes that are worth writing.
const ENOUGH: usize = 16 << 10;

/// Makes the lines of one file, and writes them in larger parts.
pub(super) struct PageRows<'a> {
    /// The addresses of the places that come next.
    addresses: std::slice::Iter<'a, String>,
    /// Where muted changes are shown too: of each change, how many up to it count.
    counted: Option<Vec<usize>>,
    sections: BothSections<'a>,
    /// Bytes of equal text that may still be folded.
    foldable: usize,
    remarks: Remarks,
    /// Whether changes that are close to each other stand under one heading.
    groups: bool,
    /// Rows of the change that is being written.
    rows: usize,
    limits: LineLimits,
    fold: Fold,
    /// What is made and not written yet: rows are many and small.
    made: String,
}

/// Equal lines that are being put away.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Fold {
    /// None are.
    Closed,
    /// Some are, and no text is open.
    Open,
    /// Some are, and these are the numbers of the lines that would come next in the open text.
    Text(usize, usize),
}

#[derive(Template)]
#[template(path = "change.html")]
struct ChangePart<'a> {
    form: &'static str,
    muted: bool,
    /// Whether it stands under the heading of the change before it.
    joined: bool,
    /// Whether others stand under its heading.
    group: bool,
    id: &'a str,
    all: String,
    counted: Option<String>,
    lies: &'a str,
    other: Option<String>,
    rules: Option<String>,
    section: Option<(&'static str, String)>,
    blocks: Vec<String>,
    seen: bool,
    note: Option<String>,
}

#[derive(Template)]
#[template(path = "row.html")]
struct RowPart {
    class: &'static str,
    halves: [Option<Half>; 2],
}

#[derive(Template)]
#[template(
    source = "<p class=\"cut\">{{ rows|grouped }} more lines of this change are not in this report.</p>\n",
    ext = "html"
)]
struct CutRows {
    rows: usize,
}

#[derive(Template)]
#[template(
    source = "{% if kept %}<details class=\"fold\"><summary>{{ lines }}</summary>\n{% else %}<p class=\"fold\">{{ lines }}, not in this report</p>\n{% endif %}",
    ext = "html"
)]
struct FoldHead {
    lines: String,
    kept: bool,
}

#[derive(Template)]
#[template(
    source = "<details class=\"fold {{ aside }}\"><summary>{{ rows|grouped }} {{ aside }} line{{ rows|pluralize }}</summary>\n",
    ext = "html"
)]
struct MutedFold {
    rows: usize,
    aside: &'static str,
}

/// A line of one side.
struct Half {
    number: usize,
    line: PageLine,
}

/// What the address of the second end of a change that moved ends in.
const SECOND: &str = "-end";

/// The addresses of all places of a file, which begin with `id`.
pub(super) fn addresses(view: &FileView<'_>, id: &str) -> Vec<String> {
    let dash = if id.is_empty() { "" } else { "-" };
    // Changes are numbered as they are met.
    let mut met = 0;
    let address = |place: &Place| {
        let end = if place.change < met { SECOND } else { "" };
        met = met.max(place.change + 1);
        format!("{id}{dash}c{}{end}", place.change + 1)
    };
    view.comparison.places.iter().map(address).collect()
}

/// The address of the other end of a change that moved.
fn other_end(address: &str) -> String {
    address.strip_suffix(SECOND).map_or_else(|| format!("{address}{SECOND}"), str::to_owned)
}

impl<'a> PageRows<'a> {
    pub(super) fn new(view: &FileView<'a>, addresses: &'a [String], shape: &Shape) -> Self {
        let counted = view.comparison.has_muted().then(|| {
            let weights = view.comparison.changes.iter().map(|change| usize::from(change.weight == Weight::Counted));
            let up_to = |sum: &mut usize, counts: usize| {
                *sum += counts;
                Some(*sum)
            };
            weights.scan(0, up_to).collect()
        });
        let addresses = addresses.iter();
        let sections = view.sections();
        Self {
            addresses,
            counted,
            sections,
            foldable: shape.most_folded,
            remarks: shape.remarks.clone(),
            groups: shape.context.lines() > 0,
            rows: 0,
            limits: LineLimits {
                widest: if shape.context == Context::All { usize::MAX } else { WIDEST },
                openable: shape.most_folded.saturating_mul(OPENABLE),
            },
            fold: Fold::Closed,
            made: String::new(),
        }
    }

    /// Writes all rows of a file.
    pub(super) fn write(
        &mut self,
        view: &FileView<'_>,
        source: &mut RowSource<'_>,
        out: &mut dyn Write,
    ) -> io::Result<()> {
        let groups = last_of_group(view, source);
        for index in 0..source.len() {
            match source.block(index) {
                Block::Change(place) => {
                    let is_joined = index > 0 && groups[index - 1] == groups[index];
                    let last = match source.block(groups[index]) {
                        Block::Change(last) if self.groups => last,
                        _ => place,
                    };
                    self.heading(view, (place, last), is_joined && self.groups, out)?;
                    self.rows_of_change(source.rows(index), out)?;
                    self.end(out)?;
                }
                Block::Hidden { rows, put_aside, bytes } => {
                    if self.begin_fold(folded_lines(rows, put_aside), bytes, out)? {
                        source.rows(index).try_for_each(|row| self.row(&row, out))?;
                        self.end_fold();
                    }
                }
            }
        }
        self.flush(out)
    }

    /// Makes the rows of a change. Long runs of rows that do not count are folded.
    fn rows_of_change<'r>(&mut self, rows: impl Iterator<Item = FileRow<'r>>, out: &mut dyn Write) -> io::Result<()> {
        let mut runs = MutedRuns::new(KEPT);
        let mut folded = String::new();
        let mut pass_on = |step: Step<'r>| match step {
            Step::Show(row) => self.row(&row, out),
            Step::Fold(row) => {
                // What is folded waits apart: how many rows there are is said before them.
                let made = std::mem::take(&mut self.made);
                let mut written = Vec::new();
                self.row(&row, &mut written)?;
                folded.push_str(&String::from_utf8_lossy(&written));
                folded.push_str(&std::mem::replace(&mut self.made, made));
                Ok(())
            }
            Step::Folded(rows, aside) => {
                self.make(&MutedFold { rows, aside: aside.word() }, out)?;
                self.made.push_str(&std::mem::take(&mut folded));
                self.made.push_str("</details>\n");
                Ok(())
            }
        };
        for row in rows {
            runs.add(row, &mut pass_on)?;
        }
        runs.end(&mut pass_on)
    }

    /// Writes what is made.
    fn flush(&mut self, out: &mut dyn Write) -> io::Result<()> {
        out.write_all(self.made.as_bytes())?;
        self.made.clear();
        Ok(())
    }

    fn make(&mut self, part: &impl Template, out: &mut dyn Write) -> io::Result<()> {
        part.render_into(&mut self.made).map_err(io::Error::other)?;
        if self.made.len() < ENOUGH { Ok(()) } else { self.flush(out) }
    }

    /// Makes a row, as long as its change has not too many.
    fn make_row(&mut self, class: &'static str, halves: [Option<Half>; 2], out: &mut dyn Write) -> io::Result<()> {
        self.rows += 1;
        if self.rows > MOST_ROWS && self.fold == Fold::Closed {
            return Ok(());
        }
        self.make(&RowPart { class, halves }, out)
    }

    /// Makes a line of a fold, which is text until it is opened.
    fn make_folded(&mut self, (before, after): (&Line<'_>, &Line<'_>), out: &mut dyn Write) -> io::Result<()> {
        if self.fold != Fold::Text(before.number, after.number) {
            self.end_text();
            // A page drops the first line end of such a text.
            self.made.push_str(&format!("<pre data-before=\"{}\" data-after=\"{}\">\n", before.number, after.number));
        }
        self.fold = Fold::Text(before.number + 1, after.number + 1);
        let line = self.limits.line(after, Role::Equal);
        self.make(&line, out)?;
        self.made.push('\n');
        Ok(())
    }

    fn end_text(&mut self) {
        if let Fold::Text(..) = self.fold {
            self.made.push_str("</pre>\n");
            self.fold = Fold::Open;
        }
    }
}

impl PageRows<'_> {
    /// The heading of a change, and of those up to another that stand under it; of one that stands under another's, its number.
    fn heading(
        &mut self,
        view: &FileView<'_>,
        (place, last): (&Place, &Place),
        is_joined: bool,
        out: &mut dyn Write,
    ) -> io::Result<()> {
        self.rows = 0;
        let change = &view.comparison.changes[place.change];
        let end = &view.comparison.changes[last.change];
        let muted = change.weight == Weight::Muted;
        let is_group = end.number > change.number && !is_joined;
        let number_of = |first: usize, last: usize, of: usize| match (is_joined, is_group) {
            (true, _) => first.to_string(),
            (false, true) => format!("{first}–{last} of {of}"),
            (false, false) => format!("{first} of {of}"),
        };
        let counted = self.counted.as_ref();
        let counted =
            counted.map(|all| number_of(all[place.change], all[last.change], all.last().copied().unwrap_or(0)));
        let address = self.addresses.next().map_or("", String::as_str);
        let lies = if is_group {
            where_it_lies(view, &as_one(change, end), place, "–")
        } else {
            where_it_lies(view, change, place, "–")
        };
        let remark = self.remarks.of(view, place.change).unwrap_or_default();
        let part = ChangePart {
            form: form_word(change.form),
            muted,
            joined: is_joined,
            group: is_group,
            id: address,
            all: number_of(change.number, end.number, view.comparison.changes.len()),
            counted,
            lies: &lies,
            other: (change.form == Form::Moved).then(|| other_end(address)),
            rules: muted.then(|| {
                let rules = causes((view.before, &change.before), (view.after, &change.after));
                shown_name(&rules.join(", "), false)
            }),
            section: self
                .sections
                .of(&place.before, &place.after)
                .map(|name| (section_relation(&name), shown_name(&section_in_words(&name, false), false))),
            blocks: moved_blocks(view.comparison, place, false, "–"),
            seen: remark.is_seen,
            note: remark.note.map(|note| shown_name(&note, false)),
        };
        self.make(&part, out)
    }

    fn end(&mut self, out: &mut dyn Write) -> io::Result<()> {
        self.made.push_str("</div>\n");
        if self.rows > MOST_ROWS {
            self.make(&CutRows { rows: self.rows - MOST_ROWS }, out)?;
        }
        self.made.push_str("</section>\n");
        Ok(())
    }

    /// Begins a stretch of equal lines that is folded, if there is room for it; else it is only counted.
    fn begin_fold(&mut self, lines: String, bytes: usize, out: &mut dyn Write) -> io::Result<bool> {
        let kept = bytes <= self.foldable;
        self.make(&FoldHead { lines, kept }, out)?;
        if kept {
            self.foldable -= bytes;
            self.fold = Fold::Open;
        }
        Ok(kept)
    }

    fn end_fold(&mut self) {
        self.end_text();
        self.fold = Fold::Closed;
        self.made.push_str("</details>\n");
    }

    fn row(&mut self, row: &FileRow<'_>, out: &mut dyn Write) -> io::Result<()> {
        match row {
            FileRow::Equal(Some(before), Some(after)) if self.fold != Fold::Closed && before.text == after.text => {
                return self.make_folded((before, after), out);
            }
            FileRow::Equal(..) => self.end_text(),
            _ => {}
        }
        let limits = &mut self.limits;
        let mut half = |line: &Line<'_>, role| Some(Half { number: line.number, line: limits.line(line, role) });
        let (class, halves) = match row {
            FileRow::Equal(before, after) => {
                let class = match (before, after) {
                    (Some(_), None) => "equal before",
                    (None, Some(_)) => "equal after",
                    _ => "equal",
                };
                (class, [before, after].map(|line| line.as_ref().and_then(|line| half(line, Role::Equal))))
            }
            FileRow::Gone(line, change) => {
                let class = match change {
                    LineChange::Counted | LineChange::Indented => "gone",
                    LineChange::Moved => "gone moved",
                    LineChange::Muted => "gone muted",
                };
                (class, [half(line, Role::Gone), None])
            }
            FileRow::New(line, change) => {
                let class = match change {
                    LineChange::Counted | LineChange::Indented => "new",
                    LineChange::Moved => "new moved",
                    LineChange::Muted => "new muted",
                };
                (class, [None, half(line, Role::New)])
            }
            FileRow::Edited(before, after, change) => {
                let class = match change {
                    LineChange::Muted => "edited muted",
                    LineChange::Indented => "edited indented",
                    LineChange::Counted | LineChange::Moved => "edited",
                };
                (class, [half(before, Role::Gone), half(after, Role::New)])
            }
        };
        self.make_row(class, halves, out)
    }
}

/// The word for a form.
pub(super) fn form_word(form: Form) -> &'static str {
    match form {
        Form::Gone => "gone",
        Form::New => "new",
        Form::Edited => "edited",
        Form::Moved => "moved",
    }
}
