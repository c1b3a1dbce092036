//! The list of rules over a screen: put into force, made, saved.

use std::fs;
use std::io::ErrorKind;
use std::path::{Path, PathBuf};

use anyhow::{Context, Result, bail};
use crossterm::event::{KeyCode, KeyEvent};
use ratatui_core::buffer::Buffer;
use ratatui_core::layout::{Position, Rect};
use ratatui_core::style::Style;
use tideline_core::internal::plan::{Contents, ExpectedState, Fingerprint, Plan, Step};
use tideline_core::internal::rules::{Account, Effect, Rule};
use tideline_views::{plural, shown_path};

use super::bars;
use super::colours::Colours;
use super::prompt::{Prompt, Typed};
use super::rule_list::{RuleList, as_toml, effect_word};
use super::style::{put, put_right};
use crate::commands::{carry_out_silently, in_full, run_and_undo};
use crate::settings::{FILE_NAME, nearest_file};

/// What a line is typed for.
#[derive(Clone, Debug, PartialEq, Eq)]
enum Asked {
    /// The pattern of a new rule.
    Pattern,
    /// Whether a pattern becomes a rule, whose work was counted.
    Take(String),
    /// The name under which the rule at the cursor is saved.
    Name,
    /// The file it is saved in, under this name.
    File(String),
}

/// Where a reader is in the list.
#[derive(Clone, Debug, Default)]
pub(super) struct RuleView {
    cursor: usize,
    top: usize,
    asked: Option<(Asked, Prompt)>,
    message: String,
    /// A pattern like the words at the cursor of the screen below.
    suggested: String,
}

/// What a key did.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) enum Turned {
    Stay,
    Close,
    /// Other rules are in force.
    Rules,
    /// What a rule with this pattern would put aside is asked for.
    Count(String),
}

impl RuleView {
    /// The list, with a pattern that a new rule may have.
    pub(super) fn new(suggested: String) -> Self {
        Self { suggested, ..Self::default() }
    }

    /// Says what a pattern would put aside, and asks whether it is taken.
    pub(super) fn counted(&mut self, pattern: String, told: Result<String, String>) {
        match told {
            Ok(told) => {
                self.message = format!("{told}. enter takes it, esc does not");
                self.asked = Some((Asked::Take(pattern), Prompt::default()));
            }
            Err(reason) => self.message = reason,
        }
    }

    /// Does what a key asks for.
    pub(super) fn key(&mut self, key: KeyEvent, list: &mut RuleList) -> Turned {
        if let Some((asked, mut prompt)) = self.asked.take() {
            if let Asked::Take(pattern) = asked {
                self.message.clear();
                if key.code != KeyCode::Enter {
                    return Turned::Stay;
                }
                self.cursor = 0;
                return match list.add_pattern(&pattern) {
                    Ok(()) => Turned::Rules,
                    Err(reason) => {
                        self.message = reason;
                        Turned::Stay
                    }
                };
            }
            return match prompt.key(key) {
                Typed::More => {
                    self.asked = Some((asked, prompt));
                    Turned::Stay
                }
                Typed::Cancelled => Turned::Stay,
                Typed::Done(text) => self.typed(asked, text, list),
            };
        }
        self.message.clear();
        let last = list.items.len().saturating_sub(1);
        match key.code {
            KeyCode::Up => self.cursor = self.cursor.saturating_sub(1),
            KeyCode::Down => self.cursor = (self.cursor + 1).min(last),
            KeyCode::Home => self.cursor = 0,
            KeyCode::End => self.cursor = last,
            KeyCode::Enter | KeyCode::Char(' ') => {
                list.turn(self.cursor);
                return Turned::Rules;
            }
            KeyCode::Char('n') => self.asked = Some((Asked::Pattern, Prompt::of(&self.suggested))),
            KeyCode::Char('s') => match list.items.get(self.cursor) {
                Some(item) if item.effect.is_none() => {
                    self.message = "this rule is off: it is saved with what it does".to_owned();
                }
                Some(_) => self.asked = Some((Asked::Name, Prompt::default())),
                None => {}
            },
            KeyCode::Esc | KeyCode::Char('i' | 'q') => return Turned::Close,
            _ => self.message = "enter, n, s or esc".to_owned(),
        }
        Turned::Stay
    }

    fn typed(&mut self, asked: Asked, text: String, list: &RuleList) -> Turned {
        match asked {
            Asked::Pattern if text.is_empty() => {}
            Asked::Pattern => return Turned::Count(text),
            Asked::Name if text.is_empty() => {}
            Asked::Name => {
                let file = nearest_file().unwrap_or_else(|| PathBuf::from(FILE_NAME));
                self.asked = Some((Asked::File(text), Prompt::of(&file.to_string_lossy())));
            }
            Asked::File(name) => {
                if let Some((item, effect)) = list.items.get(self.cursor).and_then(|item| Some((item, item.effect?))) {
                    self.message =
                        save(&item.rule, effect, &name, Path::new(&text)).unwrap_or_else(|error| format!("{error:#}"));
                }
            }
            Asked::Take(_) => {}
        }
        Turned::Stay
    }

    /// Draws the list; says where the terminal's cursor goes, if a line is typed.
    pub(super) fn draw(
        &mut self,
        list: &RuleList,
        account: &Account,
        colours: &Colours,
        area: Rect,
        buffer: &mut Buffer,
    ) -> Option<Position> {
        for y in area.y..area.bottom() {
            for x in area.x..area.right() {
                buffer[(x, y)].reset();
            }
        }
        let row = |y: u16| Rect { y: area.y + y, height: 1, ..area };
        put(&[("  Rules: what does not count", colours.strong)], row(0), buffer);
        let height = usize::from(area.height.saturating_sub(4));
        self.top = self.top.min(self.cursor).max((self.cursor + 1).saturating_sub(height));
        for (y, (at, item)) in (2..).zip(list.items.iter().enumerate().skip(self.top).take(height)) {
            let line = row(y);
            let cursor = if colours.plain { ">" } else { "▌" };
            put(&[(if at == self.cursor { cursor } else { " " }, colours.strong)], line, buffer);
            let name = item.rule.name();
            let style = if item.effect.is_some() { colours.strong } else { colours.faint };
            let effect = format!(" {:8}", effect_word(item.effect));
            let inner = Rect { x: line.x + 1, width: line.width.saturating_sub(1), ..line };
            put(&[(&effect, style), (&colours.shown(name), Style::new())], inner, buffer);
            let lines: usize = account.parts().iter().filter(|part| part.rule == name).map(|part| part.lines).sum();
            let told = match (item.effect, lines) {
                (Some(_), 0) => item.rule.declared().to_owned(),
                (Some(_), lines) => format!("{} here   {}", plural(lines, "line"), item.rule.declared()),
                (None, _) => String::new(),
            };
            put_right(&colours.shown(&told), colours.faint, line, buffer);
        }
        bars::message(&self.message, colours, row(area.height - 2), buffer);
        let typed = self.asked.as_ref().filter(|(asked, _)| !matches!(asked, Asked::Take(_))).map(|(asked, prompt)| {
            let what = match asked {
                Asked::Pattern => "do not count what this regular expression matches: ",
                Asked::Name => "the name of the rule: ",
                Asked::File(_) | Asked::Take(_) => "add it to the configuration: ",
            };
            bars::prompt(what, prompt, colours, row(area.height - 2), buffer)
        });
        let keys = ["enter", "n", "s", "esc"].map(|key| (key, colours.strong));
        let told = [" mute, ignore, off   ", " new rule   ", " save in a configuration   ", " back"];
        let line: Vec<(&str, Style)> =
            keys.into_iter().zip(told).flat_map(|(key, told)| [key, (told, colours.faint)]).collect();
        put(&line, row(area.height - 1), buffer);
        typed
    }
}

/// Adds a rule to a configuration, whose other text stays as it is; says what came of it.
fn save(rule: &Rule, effect: Effect, name: &str, path: &Path) -> Result<String> {
    let doing = || format!("cannot add the rule to {}", path.display());
    let (old, expected) = match fs::read_to_string(path) {
        Ok(text) => {
            let print = Fingerprint::of(text.as_bytes());
            (text, ExpectedState::File(print))
        }
        Err(error) if error.kind() == ErrorKind::NotFound => (String::new(), ExpectedState::Nothing),
        Err(error) => return Err(error).with_context(doing),
    };
    if name.contains(',') || name.starts_with(['/', '-']) {
        bail!("{}: `{name}` would be taken for something else; name it otherwise", doing());
    }
    let gap = match old.as_str() {
        "" => "",
        text if text.ends_with("\n\n") => "",
        text if text.ends_with('\n') => "\n",
        _ => "\n\n",
    };
    let text = format!("{old}{gap}{}", as_toml(rule, effect, name));
    crate::settings::Config::check(path, text.clone()).with_context(doing)?;
    let path = in_full(path).with_context(doing)?;
    let done =
        carry_out_silently(&Plan::of(vec![Step::write(path.clone(), expected, Contents::Bytes(text.into_bytes()))]))?;
    let run = done.run.map_or_else(String::new, |run| format!(" {}", run_and_undo(run)));
    Ok(format!("the rule {name} is in {}{run}", shown_path(&path)))
}
