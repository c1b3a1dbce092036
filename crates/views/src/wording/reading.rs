//! How files are compared, and why so, in words.

use tideline_core::internal::kinds::KindReason;

use crate::pair_view::PairView;

/// How two files are compared, and why so.
pub fn reading_in_words(view: &PairView<'_>, reason: &KindReason) -> String {
    let (how, found) = match view {
        PairView::Text(view) => match view.extracted {
            Some(extracted) => {
                let (before, after) = &extracted.what;
                let what = if before == after { before.clone() } else { format!("{before}, {after}") };
                (format!("as the text of documents, paragraph by paragraph ({what})"), "their contents are documents")
            }
            None => ("as text, line by line".to_owned(), "both are text"),
        },
        PairView::Table(_) => ("as tables, row by row".to_owned(), "their contents are tables"),
        PairView::Data(_) => ("as data, by what they mean".to_owned(), "their contents are data"),
        PairView::Sheets(view) => {
            let (before, after) = &view.pair.extracted.what;
            let what = if before == after { before.clone() } else { format!("{before}, {after}") };
            (format!("as sheets, each a table ({what})"), "their contents are workbooks")
        }
        PairView::Image(view) => {
            let (before, after) = (view.pair.before.format, view.pair.after.format);
            let what = if before == after { before.to_owned() } else { format!("{before}, {after}") };
            (format!("as images, pixel by pixel ({what})"), "both begin like images")
        }
        PairView::Bytes(_) => {
            ("byte by byte".to_owned(), "they are not both text, nor images or documents of one kind")
        }
    };
    match reason {
        KindReason::Told => format!("compared {how}: --kind says so"),
        KindReason::Assigned(files) => {
            format!("compared {how}: a [[kind]] of the configuration says so for {}", files.join(", "))
        }
        KindReason::Contents => format!("compared {how}: {found}"),
    }
}
