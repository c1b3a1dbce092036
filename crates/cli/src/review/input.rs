//! What comes to a screen: keys and the mouse.

use std::collections::VecDeque;
use std::io;
use std::time::Duration;

use crossterm::event::{self, Event, KeyCode, KeyEvent, KeyModifiers};

/// How long the rest of a key that is sent as several bytes may take, over a slow line.
const REST: Duration = Duration::from_millis(40);

/// Where events come from.
pub(super) trait Inputs {
    /// The next event, if one comes within a time.
    fn next(&mut self, patience: Duration) -> io::Result<Option<Event>>;
}

/// The terminal.
#[derive(Default)]
pub(super) struct Keyboard {
    waiting: VecDeque<Event>,
}

impl Inputs for Keyboard {
    fn next(&mut self, patience: Duration) -> io::Result<Option<Event>> {
        if let Some(event) = self.waiting.pop_front() {
            return Ok(Some(event));
        }
        if !event::poll(patience)? {
            return Ok(None);
        }
        let event = event::read()?;
        if let Event::Key(key) = event
            && key.modifiers.contains(KeyModifiers::ALT)
            && matches!(key.code, KeyCode::Char(_))
        {
            // An escape and a letter that came at once: no key here needs Alt.
            let modifiers = key.modifiers - KeyModifiers::ALT;
            self.waiting.push_back(Event::Key(KeyEvent::new(key.code, modifiers)));
            return Ok(Some(Event::Key(KeyEvent::new(KeyCode::Esc, KeyModifiers::NONE))));
        }
        if !matches!(event, Event::Key(key) if key.code == KeyCode::Esc) {
            return Ok(Some(event));
        }
        // An arrow may come as an escape whose rest follows a moment later.
        let mut rest = String::new();
        while event::poll(REST)? {
            let next = event::read()?;
            let letter = match &next {
                Event::Key(KeyEvent { code: KeyCode::Char(letter), .. }) => Some(*letter),
                _ => None,
            };
            match letter {
                Some(letter) if !rest.is_empty() || matches!(letter, '[' | 'O') => rest.push(letter),
                _ => {
                    self.waiting.push_back(next);
                    break;
                }
            }
            if rest.len() > 1 && rest.ends_with(|letter: char| letter.is_ascii_alphabetic() || letter == '~') {
                break;
            }
        }
        let key = |code| Event::Key(KeyEvent::new(code, KeyModifiers::NONE));
        Ok(Some(match key_of(&rest) {
            Some(code) => key(code),
            None => {
                let typed = rest.chars().map(|letter| key(KeyCode::Char(letter)));
                let later: Vec<Event> = typed.chain(self.waiting.drain(..)).collect();
                self.waiting.extend(later);
                event
            }
        }))
    }
}

/// The key that is sent as an escape and these letters (ECMA-48, and the function keys of the terminals that followed it).
fn key_of(rest: &str) -> Option<KeyCode> {
    Some(match rest {
        "[A" | "OA" => KeyCode::Up,
        "[B" | "OB" => KeyCode::Down,
        "[C" | "OC" => KeyCode::Right,
        "[D" | "OD" => KeyCode::Left,
        "[H" | "OH" | "[1~" => KeyCode::Home,
        "[F" | "OF" | "[4~" => KeyCode::End,
        "[3~" => KeyCode::Delete,
        "[5~" => KeyCode::PageUp,
        "[6~" => KeyCode::PageDown,
        _ => return None,
    })
}
