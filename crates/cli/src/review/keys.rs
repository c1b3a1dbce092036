//! Which key does what, in which place.

use crossterm::event::{KeyCode, KeyEvent, KeyModifiers};

/// What a key does.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Action {
    Up,
    Down,
    PageUp,
    PageDown,
    First,
    Last,
    Left,
    Right,
    Open,
    Back,
    Quit,
    Help,
    Suspend,
    Redraw,
    NextChange,
    PreviousChange,
    NextFile,
    PreviousFile,
    Layout,
    Wrap,
    Folds,
    Wider,
    Narrower,
    Muted,
    Theme,
    Find,
    FindBack,
    OtherSide,
    IntoAfter,
    IntoBefore,
    Choose,
    Edit,
    Editor,
    Undo,
    Redo,
    Save,
    SaveAs,
    Again,
    AllFiles,
    Statuses,
    Sort,
}

/// A key, what it does, and what that is.
pub(super) struct Binding {
    /// As it is shown: the keys that do the same, with a blank between them.
    pub(super) keys: &'static str,
    pub(super) action: Action,
    /// In a word or two, for the lowest line; nothing where it goes without saying.
    pub(super) short: &'static str,
    /// For the list of all keys.
    pub(super) long: &'static str,
}

const fn binding(keys: &'static str, action: Action, short: &'static str, long: &'static str) -> Binding {
    Binding { keys, action, short, long }
}

/// Keys that do the same everywhere.
pub(super) const EVERYWHERE: &[Binding] = &[
    binding("up", Action::Up, "", "one row up"),
    binding("down", Action::Down, "", "one row down"),
    binding("page-up", Action::PageUp, "", "a screen up"),
    binding("page-down", Action::PageDown, "", "a screen down"),
    binding("home", Action::First, "", "to the top"),
    binding("end", Action::Last, "", "to the end"),
    binding("?", Action::Help, "keys", "this list of keys"),
    binding("esc", Action::Back, "back", "back to where you came from"),
    binding("q ctrl-c", Action::Quit, "quit", "leave"),
    binding("ctrl-z", Action::Suspend, "", "to the shell; `fg` comes back"),
    binding("ctrl-l", Action::Redraw, "", "draw the screen anew"),
];

/// Keys of the screen of a file.
pub(super) const FILE: &[Binding] = &[
    binding("n", Action::NextChange, "next", "next change, and on into the next file that differs"),
    binding("b", Action::PreviousChange, "previous", "previous change, and on into the file before"),
    binding(".", Action::NextFile, "next file", "next file that differs"),
    binding(",", Action::PreviousFile, "", "previous file that differs"),
    binding("<", Action::IntoBefore, "", "carry the change at the cursor, or the chosen lines, into BEFORE"),
    binding(">", Action::IntoAfter, "", "carry the change at the cursor, or the chosen lines, into AFTER"),
    binding("v", Action::Choose, "choose lines", "begin or end choosing lines of a change"),
    binding("e", Action::Edit, "edit", "edit the line at the cursor, on the side at hand"),
    binding("E", Action::Editor, "", "open the side at hand in $VISUAL or $EDITOR, at the line of the cursor"),
    binding("tab", Action::OtherSide, "side", "make the other side the one at hand"),
    binding("u", Action::Undo, "undo", "take back the last edit that is not saved"),
    binding("r", Action::Redo, "", "do again what was taken back"),
    binding("s", Action::Save, "save", "save what was edited"),
    binding("S", Action::SaveAs, "", "save the side at hand under another name"),
    binding(
        "/",
        Action::Find,
        "find",
        "find text on both sides, by a regular expression; nothing typed finds the next one",
    ),
    binding("\\", Action::FindBack, "", "find the one before"),
    binding("f", Action::Folds, "folds", "show the whole file, or only the changes and lines around them"),
    binding("enter", Action::Open, "", "show the lines of the fold at the cursor"),
    binding("+", Action::Wider, "", "show more lines around the change at the cursor"),
    binding("-", Action::Narrower, "", "show only the usual lines around changes again"),
    binding("l", Action::Layout, "layout", "lay lines out stacked, beside each other, or inline"),
    binding("w", Action::Wrap, "wrap", "wrap long lines, or let them go on to the right"),
    binding("left", Action::Left, "", "to the left, on both sides"),
    binding("right", Action::Right, "", "to the right, on both sides"),
    binding("m", Action::Muted, "muted", "hide or show muted changes"),
    binding("t", Action::Theme, "", "colours for a dark or a light ground"),
    binding("g", Action::Again, "", "read both sides from the disk again and compare"),
];

/// Keys of the screen of a tree.
pub(super) const TREE: &[Binding] = &[
    binding("enter right", Action::Open, "open", "open the file, or unfold the folder"),
    binding("left", Action::Left, "fold", "fold the folder"),
    binding("f", Action::Folds, "folds", "fold or unfold all folders"),
    binding(".", Action::NextFile, "", "next file that differs"),
    binding(",", Action::PreviousFile, "", "previous file that differs"),
    binding("/", Action::Find, "find", "show only paths that hold what is typed"),
    binding("a", Action::AllFiles, "all", "hide or show files that are the same"),
    binding("v", Action::Statuses, "only", "show only files with one status: the next one each time"),
    binding("o", Action::Sort, "order", "order by path, changes, lines, size, or time"),
    binding("t", Action::Theme, "", "colours for a dark or a light ground"),
    binding("g", Action::Again, "", "compare both sides again"),
];

/// The name of a key.
pub(super) fn name_of(key: KeyEvent) -> Option<String> {
    let name = match key.code {
        KeyCode::Up => "up".to_owned(),
        KeyCode::Down => "down".to_owned(),
        KeyCode::Left => "left".to_owned(),
        KeyCode::Right => "right".to_owned(),
        KeyCode::PageUp => "page-up".to_owned(),
        KeyCode::PageDown => "page-down".to_owned(),
        KeyCode::Home => "home".to_owned(),
        KeyCode::End => "end".to_owned(),
        KeyCode::Enter => "enter".to_owned(),
        KeyCode::Esc => "esc".to_owned(),
        KeyCode::Tab => "tab".to_owned(),
        KeyCode::Char(' ') => "space".to_owned(),
        KeyCode::Char(letter) if key.modifiers.contains(KeyModifiers::CONTROL) => format!("ctrl-{letter}"),
        KeyCode::Char(letter) => letter.to_string(),
        KeyCode::F(number) => format!("f{number}"),
        _ => return None,
    };
    Some(name)
}

/// What a key does in a place that has these bindings besides those that hold everywhere.
pub(super) fn action_of(key: KeyEvent, place: &[Binding]) -> Option<Action> {
    let name = name_of(key)?;
    let all = place.iter().chain(EVERYWHERE);
    all.into_iter().find(|binding| binding.keys.split(' ').any(|key| key == name)).map(|binding| binding.action)
}

/// The keys of an action as they are shown.
pub(super) fn keys_of(action: Action, place: &[Binding]) -> &'static str {
    let all = place.iter().chain(EVERYWHERE);
    all.into_iter().find(|binding| binding.action == action).map_or("", |binding| binding.keys)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_key_does_one_thing_in_a_place_and_each_is_described() {
        for place in [FILE, TREE] {
            let all: Vec<&Binding> = place.iter().chain(EVERYWHERE).collect();
            let mut keys: Vec<&str> = all.iter().flat_map(|binding| binding.keys.split(' ')).collect();
            assert!(all.iter().all(|binding| !binding.long.is_empty()));
            let count = keys.len();
            keys.sort_unstable();
            keys.dedup();
            assert_eq!(keys.len(), count, "{keys:?}");
        }
    }
}
