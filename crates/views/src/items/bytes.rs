//! Two contents that are compared byte by byte, ready to be drawn.

use tideline_core::internal::model::ranges::{BytesComparison, RangeChange};
use tideline_core::internal::model::{Extent, Form, Weight};
use tideline_core::internal::rules::Account;

use super::item::{Item, Value, ValueEdit, Whole};
use super::view::{Around, ItemView};
use crate::view::Title;
use crate::wording::{grouped, plural};

/// Bytes of a range that are written out where a line must hold them.
const MOST_WRITTEN: usize = 16;
/// Ranges with fewer equal bytes between them are always told as one: half a number, a letter that happens to be the same.
const USUAL_DISTANCE: usize = 4;

static NO_ACCOUNT: Account = Account::NONE;

/// Two contents and the ranges that differ between them, ready to be drawn.
#[derive(Clone, Copy, Debug)]
pub struct BytesView<'a> {
    /// What stands above.
    pub title: Title<'a>,
    /// The bytes before.
    pub before: &'a [u8],
    /// The bytes after.
    pub after: &'a [u8],
    /// What differs.
    pub comparison: &'a BytesComparison,
}

impl BytesView<'_> {
    /// What happened in a change, in words.
    pub(crate) fn says(change: &RangeChange) -> String {
        let (before, after) = (change.before.len(), change.after.len());
        match change.form {
            Form::Edited if before == after => format!("{} edited", plural(before, "byte")),
            Form::Edited => format!("{}, now {}", plural(before, "byte"), grouped(after)),
            Form::New => format!("{} new", plural(after, "byte")),
            _ => format!("{} gone", plural(before, "byte")),
        }
    }

    /// Where a change is, in words.
    pub(crate) fn place(change: &RangeChange) -> String {
        let (before, after) = (change.before.start, change.after.start);
        match change.form {
            Form::New => offset(after),
            Form::Edited if before != after => format!("{}, now {}", offset(before), offset(after)),
            _ => offset(before),
        }
    }

    fn sizes(&self) -> String {
        let (before, after) = self.comparison.sizes;
        if before == after {
            format!("{} on both sides", plural(before, "byte"))
        } else {
            format!("{}, now {}", plural(before, "byte"), grouped(after))
        }
    }

    fn formats(&self) -> Option<String> {
        let labels = self.title.labels;
        match &self.comparison.formats {
            (None, None) => None,
            (before, after) if before == after => before.clone(),
            (before, after) => {
                let told =
                    |format: &Option<String>| format.clone().unwrap_or_else(|| "no format that is known".to_owned());
                Some(format!("{} is {}, {} is {}", labels.before, told(before), labels.after, told(after)))
            }
        }
    }
}

/// An offset as it is written.
fn offset(at: usize) -> String {
    format!("offset {at:#x} ({})", grouped(at))
}

/// Bytes in hexadecimal, as many as a line holds.
fn written(bytes: &[u8]) -> Vec<u8> {
    let shown: Vec<String> = bytes.iter().take(MOST_WRITTEN).map(|byte| format!("{byte:02x}")).collect();
    let more = bytes.len().saturating_sub(MOST_WRITTEN);
    let more = if more > 0 { format!(" … {} more", grouped(more)) } else { String::new() };
    format!("{}{more}", shown.join(" ")).into_bytes()
}

impl ItemView for BytesView<'_> {
    fn title(&self) -> &Title<'_> {
        &self.title
    }

    fn extent(&self) -> Extent {
        self.comparison.extent()
    }

    fn account(&self) -> (&Account, bool) {
        (&NO_ACCOUNT, false)
    }

    fn len(&self) -> usize {
        self.comparison.changes.len()
    }

    fn facts(&self) -> Vec<String> {
        let mut facts = vec![match self.formats() {
            Some(formats) => format!("{}; {formats}", self.sizes()),
            None => self.sizes(),
        }];
        if self.comparison.joined_within > USUAL_DISTANCE {
            facts.push(format!(
                "ranges with fewer than {} equal bytes between them are told as one: there are too many",
                grouped(self.comparison.joined_within)
            ));
        }
        facts
    }

    fn troubles(&self) -> Vec<String> {
        Vec::new()
    }

    fn item(&self, index: usize) -> Item {
        let change = &self.comparison.changes[index];
        let (before, after) = (&self.before[change.before.clone()], &self.after[change.after.clone()]);
        let value = |bytes: &[u8]| {
            if bytes.is_empty() { Value::Missing } else { Value::Text(written(bytes)) }
        };
        let title = Self::place(change);
        let edits = if change.form == Form::Edited {
            vec![ValueEdit {
                name: title.clone(),
                column: 0,
                before: value(before),
                after: value(after),
                weight: Weight::Counted,
                cause: None,
            }]
        } else {
            Vec::new()
        };
        let whole = match change.form {
            Form::Edited | Form::Moved => Whole::None,
            Form::Gone => Whole::Values(vec![(String::new(), value(before))]),
            Form::New => Whole::Values(vec![(String::new(), value(after))]),
        };
        let size = self.comparison.sizes.0.max(1);
        Item {
            number: change.number,
            form: change.form,
            weight: Weight::Counted,
            cause: None,
            title,
            group: None,
            place: Self::says(change),
            share: change.before.start as f64 / size as f64,
            edits,
            whole,
        }
    }

    fn around(&self, _: usize, _: usize) -> Around {
        Default::default()
    }
}
