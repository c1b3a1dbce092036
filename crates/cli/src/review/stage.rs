//! What all screens share: the terminal, where keys come from, and how things look.

use std::collections::VecDeque;
use std::path::PathBuf;
use std::time::Duration;

use anyhow::{Context as _, Result};
use crossterm::event::Event;
use ratatui_core::backend::{Backend, ClearType};
use ratatui_core::layout::Rect;
use ratatui_core::terminal::Terminal;
use tideline_core::internal::kinds::ContentOptions;
use tideline_views::terminal::{Look, Theme};

use super::colours::Colours;
use super::file::FileState;
use super::hand_on::HandOn;
use super::input::Inputs;
use super::keys::AllKeys;
use super::rule_list::RuleList;
use super::screen;
use crate::commands::remembered::Remembered;
use crate::commands::request::Request;

/// How long a screen waits for a key before it looks at what goes on in the background.
pub(super) const TICK: Duration = Duration::from_millis(50);

/// What a screen is drawn on.
pub(super) trait Surface: Backend<Error: Send + Sync + 'static> {}

impl<B: Backend<Error: Send + Sync + 'static>> Surface for B {}

/// What all screens share: the terminal, where keys come from, and how things look.
pub(crate) struct Stage<'s, B: Surface> {
    pub(super) terminal: Terminal<B>,
    pub(super) inputs: &'s mut dyn Inputs,
    /// Events that came while no screen could take them.
    pub(super) waiting: VecDeque<Event>,
    pub(super) look: Look,
    pub(super) keys: AllKeys,
    pub(super) hand_on: HandOn,
    /// What was seen and noted.
    pub(super) remembered: Remembered,
    /// The rules that are in force, or could be.
    pub(super) rules: RuleList,
    /// How contents are compared, but for the rules.
    contents: ContentOptions,
    pub(super) is_dark: bool,
    counted_only: bool,
    /// The paths of both sides, as they were named.
    pub(super) roots: (PathBuf, PathBuf),
}

impl<'s, B: Surface> Stage<'s, B> {
    pub(super) fn new(
        terminal: Terminal<B>,
        inputs: &'s mut dyn Inputs,
        (look, keys, hand_on): (Look, AllKeys, HandOn),
        remembered: Remembered,
        request: &Request,
    ) -> Self {
        let is_dark = look.ground() == Theme::Dark;
        let roots = (request.before.clone(), request.after.clone());
        let (rules, contents) = (RuleList::new(request.contents.all_rules()), request.contents.clone());
        Self {
            terminal,
            inputs,
            waiting: VecDeque::new(),
            look,
            keys,
            hand_on,
            remembered,
            rules,
            contents,
            is_dark,
            counted_only: request.counted_only,
            roots,
        }
    }

    pub(super) fn colours(&self) -> Colours {
        Colours::of(&self.look)
    }

    pub(super) fn file_state(&self) -> FileState {
        FileState::new(self.look.lines_layout(), self.look.lines_around(), self.counted_only)
    }

    /// The next event, or nothing once something else asks for attention.
    ///
    /// # Errors
    /// When the terminal is gone.
    pub(super) fn next(&mut self, mut is_needed: impl FnMut() -> bool) -> Result<Option<Event>> {
        loop {
            if let Some(event) = self.waiting.pop_front() {
                return Ok(Some(event));
            }
            if let Some(event) = self.inputs.next(TICK).context("cannot read from the terminal")? {
                return Ok(Some(event));
            }
            if screen::came_back() {
                self.redraw()?;
                return Ok(None);
            }
            if is_needed() {
                return Ok(None);
            }
        }
    }

    /// How contents are compared, with the rules that are in force.
    pub(super) fn options(&self) -> ContentOptions {
        self.rules.applied(&self.contents)
    }

    pub(super) fn turn_ground(&mut self) {
        self.is_dark = !self.is_dark;
        self.look = self.look.clone().theme(if self.is_dark { Theme::Dark } else { Theme::Light });
    }

    /// Draws all of the next screen, whatever stands there. The terminal is not asked where its cursor is: some do not answer.
    pub(super) fn redraw(&mut self) -> Result<()> {
        self.terminal.backend_mut().clear_region(ClearType::All)?;
        self.terminal.swap_buffers();
        Ok(())
    }

    /// Does something while the terminal shows no screen.
    pub(super) fn outside<T>(&mut self, action: impl FnOnce() -> T) -> Result<T> {
        screen::leave();
        let done = action();
        screen::show().context("cannot show a screen on this terminal")?;
        self.redraw()?;
        Ok(done)
    }

    /// Goes to the shell until it brings the program back.
    pub(super) fn suspend(&mut self) -> Result<()> {
        self.outside(|| {
            // Where a program cannot be stopped, it goes on.
            let _ = signal_hook::low_level::emulate_default_handler(signal_hook::consts::SIGTSTP);
        })
    }
}

/// Whether a screen has no room for anything.
pub(super) fn is_too_small(area: Rect) -> bool {
    area.width < 30 || area.height < 8
}
