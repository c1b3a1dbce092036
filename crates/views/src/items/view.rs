//! What is told change by change, and each change value by value.

use tideline_core::internal::model::{Extent, Form, Weight};
use tideline_core::internal::rules::Account;

use super::item::Item;
use crate::view::{Labels, Title};

/// Names and values above and below a change.
pub(crate) type Around = (Vec<(String, String)>, Vec<(String, String)>);

/// What is told change by change, and each change value by value.
pub(crate) trait ItemView {
    /// What stands above.
    fn title(&self) -> &Title<'_>;
    /// What the sides are called.
    fn labels(&self) -> &Labels {
        self.title().labels
    }
    /// How much differs.
    fn extent(&self) -> Extent;
    /// What does not count, and whether muted changes are left out.
    fn account(&self) -> (&Account, bool);
    /// How many changes there are.
    fn len(&self) -> usize;
    /// What stands below the heading, a line each.
    fn facts(&self) -> Vec<String>;
    /// What a reader should know that may be wrong with the contents, a line each.
    fn troubles(&self) -> Vec<String>;
    /// A change, by its index.
    fn item(&self, index: usize) -> Item;
    /// Values around a change, up to so many above and below.
    fn around(&self, index: usize, most: usize) -> Around;
}

/// What lies in each of `width` equal parts of what is told item by item.
pub(crate) fn strip_of(view: &dyn ItemView, width: usize) -> Vec<Option<(Form, Weight)>> {
    let mut cells: Vec<Option<(Form, Weight)>> = vec![None; width];
    for index in 0..view.len() {
        let item = view.item(index);
        let at = ((item.share * width as f64) as usize).min(width.saturating_sub(1));
        cells[at] = Some(match cells[at] {
            Some((form, Weight::Counted)) if item.weight == Weight::Muted || form == item.form => {
                (form, Weight::Counted)
            }
            Some((_, Weight::Counted)) => (Form::Edited, Weight::Counted),
            _ => (item.form, item.weight),
        });
    }
    cells
}
