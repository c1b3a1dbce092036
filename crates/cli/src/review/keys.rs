//! Which key does what, in which place.

use std::borrow::Cow;
use std::collections::HashMap;

use anyhow::{Result, bail};
use crossterm::event::{KeyCode, KeyEvent, KeyModifiers};
use tideline_core::internal::text::spelling::nearest;

use crate::settings::KeyChoice;

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
    HandOn,
    HandOnFile,
    Rules,
    Seen,
    Note,
    AllFiles,
    Statuses,
    Sort,
    TakeMine,
    TakeTheirs,
    TakeBoth,
    Reopen,
}

/// A key, what it does, and what that is.
#[derive(Clone, Debug)]
pub(super) struct Binding {
    /// As it is shown: the keys that do the same, with a blank between them.
    pub(super) keys: Cow<'static, str>,
    pub(super) action: Action,
    /// In a word or two, for the lowest line; nothing where it goes without saying.
    pub(super) short: &'static str,
    /// For the list of all keys.
    pub(super) long: &'static str,
}

const fn binding(keys: &'static str, action: Action, short: &'static str, long: &'static str) -> Binding {
    Binding { keys: Cow::Borrowed(keys), action, short, long }
}

/// Keys that do the same everywhere.
const EVERYWHERE: &[Binding] = &[
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
const FILE: &[Binding] = &[
    binding("n", Action::NextChange, "next", "next change, and on into the next file that differs"),
    binding("b", Action::PreviousChange, "previous", "previous change, and on into the file before"),
    binding(".", Action::NextFile, "next file", "next file that differs"),
    binding(",", Action::PreviousFile, "", "previous file that differs"),
    binding("<", Action::IntoBefore, "", "carry the change, or the chosen lines, into BEFORE"),
    binding(">", Action::IntoAfter, "", "carry the change, or the chosen lines, into AFTER"),
    binding("v", Action::Choose, "choose lines", "begin or end choosing lines of a change"),
    binding("e", Action::Edit, "edit", "edit the line at the cursor, on the side at hand"),
    binding("E", Action::Editor, "", "open the side at hand in $VISUAL or $EDITOR"),
    binding("tab", Action::OtherSide, "side", "make the other side the one at hand"),
    binding("u", Action::Undo, "undo", "take back the last edit that is not saved"),
    binding("r", Action::Redo, "", "do again what was taken back"),
    binding("s", Action::Save, "save", "save what was edited"),
    binding("S", Action::SaveAs, "", "save the side at hand under another name"),
    binding("/", Action::Find, "find", "find a regular expression; nothing typed: the next hit"),
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
    binding("space", Action::Seen, "seen", "mark the change as seen, or not seen; on to the next"),
    binding("c", Action::Note, "note", "write a note on the change at the cursor"),
    binding("i", Action::Rules, "rules", "list the rules; make one of the words at the cursor"),
    binding("x", Action::HandOn, "", "write a patch of the change, or of the chosen ones"),
    binding("X", Action::HandOnFile, "", "write a patch or a report of this file"),
    binding("g", Action::Again, "", "read both sides from the disk again and compare"),
];

/// Keys of the screen of a tree.
const TREE: &[Binding] = &[
    binding("enter right", Action::Open, "open", "open the file, or unfold the folder"),
    binding("left", Action::Left, "fold", "fold the folder"),
    binding("f", Action::Folds, "folds", "fold or unfold all folders"),
    binding("<", Action::IntoBefore, "", "make it in BEFORE what it is in AFTER, once it is saved"),
    binding(">", Action::IntoAfter, "", "make it in AFTER what it is in BEFORE, once it is saved"),
    binding("u", Action::Undo, "undo", "take back the last choice that is not saved"),
    binding("r", Action::Redo, "", "choose again what was taken back"),
    binding("s", Action::Save, "save", "carry out what was chosen"),
    binding(".", Action::NextFile, "", "next file that differs"),
    binding(",", Action::PreviousFile, "", "previous file that differs"),
    binding("/", Action::Find, "find", "show only paths that hold what is typed"),
    binding("a", Action::AllFiles, "all", "hide or show files that are the same"),
    binding("v", Action::Statuses, "only", "show only files with one status: the next one each time"),
    binding("o", Action::Sort, "order", "order by path, changes, lines, size, or time"),
    binding("t", Action::Theme, "", "colours for a dark or a light ground"),
    binding("space", Action::Seen, "seen", "mark the file at the cursor as seen, or as not seen"),
    binding("i", Action::Rules, "rules", "list the rules and put them into force"),
    binding("x", Action::HandOnFile, "", "write a patch or a report of the file or folder at the cursor"),
    binding("g", Action::Again, "", "compare both sides again"),
];

/// Keys of the screen of a merge.
const MERGE: &[Binding] = &[
    binding("n", Action::NextChange, "next", "next conflict, or next change once all are decided"),
    binding("b", Action::PreviousChange, "previous", "previous conflict, or previous change"),
    binding("<", Action::TakeMine, "take left", "decide the conflict for the side on the left"),
    binding(">", Action::TakeTheirs, "take right", "decide the conflict for the side on the right"),
    binding("+", Action::TakeBoth, "take both", "take both, left first; again: right first"),
    binding("e", Action::Edit, "edit", "decide the conflict by hand, in $VISUAL or $EDITOR"),
    binding("delete d", Action::Reopen, "", "leave the conflict undecided again"),
    binding("enter", Action::Open, "", "open the file at the cursor, in a list of files"),
    binding("u", Action::Undo, "undo", "take back the last decision"),
    binding("r", Action::Redo, "", "decide again what was taken back"),
    binding("s", Action::Save, "save", "save the result; what is not decided is marked in it"),
    binding("a", Action::AllFiles, "all", "go through all changes, or through the conflicts only"),
    binding("t", Action::Theme, "", "colours for a dark or a light ground"),
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
        KeyCode::Delete => "delete".to_owned(),
        KeyCode::Char(' ') => "space".to_owned(),
        KeyCode::Char(letter) if key.modifiers.contains(KeyModifiers::CONTROL) => format!("ctrl-{letter}"),
        KeyCode::Char(letter) => letter.to_string(),
        KeyCode::F(number) => format!("f{number}"),
        _ => return None,
    };
    Some(name)
}

/// The keys of a place, with those that hold everywhere.
#[derive(Clone, Debug)]
pub(super) struct Keys {
    all: Vec<Binding>,
}

impl Keys {
    /// What a key does.
    pub(super) fn action_of(&self, key: KeyEvent) -> Option<Action> {
        let name = name_of(key)?;
        self.all.iter().find(|binding| binding.has(&name)).map(|binding| binding.action)
    }

    /// All of them, in the order in which they are listed.
    pub(super) fn all(&self) -> &[Binding] {
        &self.all
    }

    /// The first key of an action, and what it does in a word or two.
    pub(super) fn of(&self, action: Action) -> (&str, &'static str) {
        let found = self.all.iter().find(|binding| binding.action == action);
        found.map_or(("", ""), |binding| (binding.keys.split(' ').next().unwrap_or_default(), binding.short))
    }

    fn choose(&mut self, choice: &KeyChoice) -> bool {
        let chosen: Vec<&mut Binding> =
            self.all.iter_mut().filter(|binding| binding.action.name() == choice.action).collect();
        let is_known = !chosen.is_empty();
        chosen.into_iter().for_each(|binding| binding.keys = Cow::Owned(choice.keys.join(" ")));
        is_known
    }

    /// A key that does two things.
    fn ambiguous(&self) -> Option<(&str, Action, Action)> {
        let mut known: HashMap<&str, Action> = HashMap::new();
        for binding in &self.all {
            for key in binding.keys.split(' ') {
                if let Some(other) = known.insert(key, binding.action) {
                    return Some((key, other, binding.action));
                }
            }
        }
        None
    }
}

impl Binding {
    fn has(&self, name: &str) -> bool {
        self.keys.split(' ').any(|key| key == name)
    }
}

impl Action {
    /// Its name in a configuration.
    pub(super) fn name(self) -> String {
        let mut name = String::new();
        for letter in format!("{self:?}").chars() {
            if letter.is_uppercase() && !name.is_empty() {
                name.push('-');
            }
            name.extend(letter.to_lowercase());
        }
        name
    }
}

/// The keys of all places.
#[derive(Clone, Debug)]
pub(super) struct AllKeys {
    pub(super) file: Keys,
    pub(super) tree: Keys,
    pub(super) merge: Keys,
}

impl AllKeys {
    /// The keys, with what the user's own configuration chose.
    ///
    /// # Errors
    /// When a choice names nothing that a key does, no key, or a key that does something else.
    pub(super) fn new(choices: &[KeyChoice]) -> Result<Self> {
        let keys = |own: &[Binding]| Keys { all: own.iter().chain(EVERYWHERE).cloned().collect() };
        let mut all = Self { file: keys(FILE), tree: keys(TREE), merge: keys(MERGE) };
        for choice in choices {
            let KeyChoice { action, keys, place } = choice;
            if let Some(wrong) = keys.iter().find(|key| !is_key(key)) {
                bail!(
                    "cannot use {place}: `{wrong}` is no key; write one letter, or a name such as `page-up`, `f5`, `ctrl-g`, `space`"
                );
            }
            if keys.is_empty() {
                bail!("cannot use {place}: `{action}` needs a key");
            }
            let is_known = [all.file.choose(choice), all.tree.choose(choice), all.merge.choose(choice)].contains(&true);
            if !is_known {
                let names: Vec<String> = FILE
                    .iter()
                    .chain(TREE)
                    .chain(MERGE)
                    .chain(EVERYWHERE)
                    .map(|binding| binding.action.name())
                    .collect();
                let meant = nearest(action, names.iter().map(String::as_str));
                let advice = meant.map_or_else(
                    || format!("they are {}", names.join(", ")),
                    |meant| format!("did you mean `{meant}`?"),
                );
                bail!("cannot use {place}: keys do nothing called `{action}`; {advice}");
            }
        }
        for (keys, choice) in [&all.file, &all.tree, &all.merge].into_iter().zip(std::iter::repeat(choices.last())) {
            if let (Some((key, one, other)), Some(choice)) = (keys.ambiguous(), choice) {
                bail!(
                    "cannot use {}: the key `{key}` would be both `{}` and `{}`; give one of them another key",
                    choice.place,
                    one.name(),
                    other.name()
                );
            }
        }
        Ok(all)
    }
}

/// Whether a name is that of a key.
fn is_key(name: &str) -> bool {
    const NAMES: [&str; 13] = [
        "up",
        "down",
        "left",
        "right",
        "page-up",
        "page-down",
        "home",
        "end",
        "enter",
        "esc",
        "tab",
        "space",
        "delete",
    ];
    let letter = name.strip_prefix("ctrl-").unwrap_or(name);
    let is_function = name
        .strip_prefix('f')
        .is_some_and(|number| number.parse::<u8>().is_ok_and(|number| (1..=24).contains(&number)));
    NAMES.contains(&name) || letter.chars().count() == 1 && letter != " " || is_function
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_key_does_one_thing_in_a_place_and_each_is_described() {
        let all = AllKeys::new(&[]).unwrap();
        for keys in [&all.file, &all.tree, &all.merge] {
            assert!(keys.all().iter().all(|binding| (1..63).contains(&binding.long.len())), "it fits 80 columns");
            assert_eq!(keys.ambiguous(), None);
            assert!(keys.all().iter().flat_map(|binding| binding.keys.split(' ')).all(is_key));
        }
    }

    #[test]
    fn keys_are_chosen_by_name_and_wrong_choices_are_refused() {
        let choice = |action: &str, keys: &[&str]| KeyChoice {
            action: action.to_owned(),
            keys: keys.iter().map(|key| (*key).to_owned()).collect(),
            place: "tideline.toml:3".to_owned(),
        };
        let key = |letter| KeyEvent::new(KeyCode::Char(letter), KeyModifiers::NONE);
        let all = AllKeys::new(&[choice("next-change", &["j", "f8"])]).unwrap();
        assert_eq!((all.file.action_of(key('j')), all.file.action_of(key('n'))), (Some(Action::NextChange), None));
        for (wrong, reason) in [
            (choice("next-chang", &["j"]), "did you mean `next-change`?"),
            (choice("next-change", &["nn"]), "`nn` is no key"),
            (choice("next-change", &["b"]), "the key `b` would be both `next-change` and `previous-change`"),
        ] {
            let error = AllKeys::new(&[wrong]).unwrap_err().to_string();
            assert!(error.starts_with("cannot use tideline.toml:3: ") && error.contains(reason), "{error}");
        }
    }
}
