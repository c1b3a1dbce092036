//! Why a sync leaves something as it is, in words.

use tideline_core::internal::plan::{Reason, Side};

/// Why a difference is not carried, in words that name the two trees.
pub(crate) fn reason_words(reason: &Reason, from: &str, into: &str) -> String {
    let name = |side: Side| if side == Side::From { from } else { into };
    let text = |path: &[u8]| String::from_utf8_lossy(path).into_owned();
    match reason {
        Reason::OnlyOn(Side::From) => format!("only {from} has it: it came there, or went from {into}"),
        Reason::OnlyOn(Side::Into) => format!("only {into} has it: it came there, or went from {from}"),
        Reason::At(path) => format!("it stands at {} in {into}", text(path)),
        Reason::Types { from: one, into: other } => {
            let word = |entry_type: Option<_>| {
                entry_type.map_or_else(String::new, |it: tideline_core::internal::tree::EntryType| it.to_string())
            };
            format!("a {} in {from}, a {} in {into}", word(*one), word(*other))
        }
        Reason::SameSecond => "both sides were changed in the same second".to_owned(),
        Reason::NoTimes => "nothing tells which side is newer".to_owned(),
        Reason::NotCarried(entry_type) => format!("it is a {entry_type}, which is not carried"),
        Reason::Unreadable(None, error) => error.to_string(),
        Reason::Unreadable(Some(side), error) => format!("{error} in {}", name(*side)),
        Reason::AboveIsLeft => "what it would be in is left as it is".to_owned(),
        Reason::NotInFolder(folder, entry_type) => {
            format!("{} is a {entry_type} in {into}, and no folder", text(folder))
        }
        Reason::HoldsUnseen => "the folder that stands there holds what was not looked at".to_owned(),
        Reason::FolderInPlace => "a folder stands there; --mirror removes it with what is in it".to_owned(),
        Reason::Unsafe(why) => format!("its name is not followed: {why}"),
        // A saved plan has the words for which the names of the trees stand.
        Reason::Told(words) => words.replace("FROM", from).replace("INTO", into),
    }
}

/// The same, with FROM and INTO for the two trees, as records have it.
pub fn plain_reason(reason: &Reason) -> String {
    reason_words(reason, "FROM", "INTO")
}
