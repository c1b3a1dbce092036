//! A line that is typed on the screen.

use crossterm::event::{KeyCode, KeyEvent, KeyModifiers};
use unicode_width::UnicodeWidthChar;

/// A line and the place in it at which letters come in.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub(super) struct Prompt {
    letters: Vec<char>,
    at: usize,
}

/// What a key did.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) enum Typed {
    /// The line may have changed.
    More,
    /// The line is done.
    Done(String),
    /// It is given up.
    Cancelled,
}

impl Prompt {
    pub(super) fn of(text: &str) -> Self {
        let letters: Vec<char> = text.chars().collect();
        Self { at: letters.len(), letters }
    }

    pub(super) fn text(&self) -> String {
        self.letters.iter().collect()
    }

    /// What is seen of it in so many columns, and the column of the cursor.
    pub(super) fn shown(&self, room: usize) -> (String, usize) {
        let width = |letter: &char| if *letter == '\t' { 1 } else { letter.width().unwrap_or(0) };
        let mut start = self.at;
        let mut used = 0;
        while start > 0 && used + width(&self.letters[start - 1]) < room {
            start -= 1;
            used += width(&self.letters[start]);
        }
        let text = self.letters[start..].iter().map(|letter| if *letter == '\t' { '→' } else { *letter });
        (text.collect(), used)
    }

    pub(super) fn paste(&mut self, text: &str) {
        let letters: Vec<char> = text.chars().filter(|letter| !letter.is_control() || *letter == '\t').collect();
        let count = letters.len();
        self.letters.splice(self.at..self.at, letters);
        self.at += count;
    }

    pub(super) fn key(&mut self, key: KeyEvent) -> Typed {
        let is_control = key.modifiers.contains(KeyModifiers::CONTROL);
        match key.code {
            KeyCode::Enter => return Typed::Done(self.text()),
            KeyCode::Esc => return Typed::Cancelled,
            KeyCode::Char('c') if is_control => return Typed::Cancelled,
            KeyCode::Char('u') if is_control => {
                self.letters.drain(..self.at);
                self.at = 0;
            }
            KeyCode::Char(letter) if !is_control => {
                self.letters.insert(self.at, letter);
                self.at += 1;
            }
            KeyCode::Tab => self.paste("\t"),
            KeyCode::Backspace if self.at > 0 => {
                self.at -= 1;
                self.letters.remove(self.at);
            }
            KeyCode::Delete if self.at < self.letters.len() => {
                self.letters.remove(self.at);
            }
            KeyCode::Left => self.at = self.at.saturating_sub(1),
            KeyCode::Right => self.at = (self.at + 1).min(self.letters.len()),
            KeyCode::Home => self.at = 0,
            KeyCode::End => self.at = self.letters.len(),
            _ => {}
        }
        Typed::More
    }
}
