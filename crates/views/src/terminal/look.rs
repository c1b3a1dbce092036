//! How things look: what the person asked for and what the terminal can do.

use std::ops::RangeInclusive;

use anstyle::Style;
use tideline_core::internal::kinds::text::Grain;

use super::palette::{Palette, TextRole};
use super::theme::{Colours, Theme};
use crate::marks::Marks;
use crate::rows::RowOptions;
use crate::syntax::Budget;
use crate::view::{Context, Syntax};

/// How lines are laid out.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum Layout {
    /// One column, gone lines above the new ones.
    #[default]
    Stacked,
    /// Two columns, before on the left.
    Beside,
    /// One text, changed words marked in place.
    Inline,
}

/// Everything that decides how a view looks. Unchanging once built.
#[derive(Clone, Debug)]
pub struct Look {
    pub(super) layout: Layout,
    pub(super) colours: Colours,
    syntax: Budget,
    is_syntax_asked_for: bool,
    pub(super) theme: Theme,
    pub(super) plain: bool,
    pub(super) context: Context,
    /// How many neighbours of a value are shown, where that was asked for.
    pub(super) neighbours: Option<usize>,
    pub(super) grain: Grain,
    /// What is marked inside values of tables and documents.
    pub(super) value_grain: Grain,
    pub(super) preview: bool,
    pub(super) legend: bool,
    pub(super) width: usize,
    /// The numbers of the changes that are drawn, if not all are.
    pub(super) changes: Option<Vec<RangeInclusive<usize>>>,
}

/// How headings and notes look.
#[derive(Clone, Copy, Debug)]
pub struct Styles {
    /// What stands for the side before.
    pub gone: Style,
    /// What stands for the side after.
    pub new: Style,
    /// Names and numbers.
    pub strong: Style,
    /// Notes.
    pub faint: Style,
    /// What needs attention.
    pub trouble: Style,
    /// Whether there is ASCII only.
    pub plain: bool,
    /// The marks of both sides.
    pub marks: (&'static str, &'static str),
}

impl Default for Look {
    fn default() -> Self {
        Self {
            layout: Layout::Stacked,
            colours: Colours::None,
            syntax: Budget::of(Syntax::Auto),
            is_syntax_asked_for: false,
            theme: Theme::Dark,
            plain: false,
            context: Context::default(),
            neighbours: None,
            grain: Grain::default(),
            value_grain: Grain::Letter,
            preview: true,
            legend: true,
            width: 100,
            changes: None,
        }
    }
}

impl Look {
    /// How lines are laid out. Default: stacked.
    pub fn layout(mut self, layout: Layout) -> Self {
        self.layout = layout;
        self
    }

    /// Whether code is coloured by its syntax. Default: within a narrow bound.
    pub fn with_syntax(mut self, syntax: Syntax) -> Self {
        self.syntax = Budget::of(syntax);
        self.is_syntax_asked_for = syntax == Syntax::On;
        self
    }

    /// What is marked inside values of tables and documents. Default: letters.
    pub fn value_grain(mut self, grain: Grain) -> Self {
        self.value_grain = grain;
        self
    }

    /// Values around each change of a document. Default: none.
    pub fn neighbours(mut self, neighbours: Option<usize>) -> Self {
        self.neighbours = neighbours;
        self
    }

    /// Whether images are shown in small, where there are colours enough. Default: they are.
    pub fn preview(mut self, preview: bool) -> Self {
        self.preview = preview;
        self
    }

    /// Syntax needs colours enough to keep its own apart from those of changes.
    /// Whether colours by syntax were asked for, and there are enough colours for them.
    pub fn needs_syntax(&self) -> bool {
        self.is_syntax_asked_for && matches!(self.colours, Colours::Many | Colours::All)
    }

    pub(super) fn syntax_budget(&self) -> Budget {
        if matches!(self.colours, Colours::Many | Colours::All) { self.syntax.clone() } else { Budget::default() }
    }

    /// What decides which lines are met on the way through a comparison.
    pub(super) fn row_options(&self) -> RowOptions<'_> {
        RowOptions { context: self.context, grain: &self.grain, budget: self.syntax_budget() }
    }

    pub(super) fn palette(&self) -> Palette {
        Palette::new(self.colours, self.theme)
    }

    /// Whether only some changes are shown.
    pub fn shows_some_changes(&self) -> bool {
        self.changes.is_some()
    }

    /// The ground.
    pub fn ground(&self) -> Theme {
        self.theme
    }

    /// How lines are laid out.
    pub fn lines_layout(&self) -> Layout {
        self.layout
    }

    /// Equal lines around each change.
    pub fn lines_around(&self) -> Context {
        self.context
    }

    /// The styles of what stands around rows.
    pub fn styles(&self) -> Styles {
        let (palette, marks) = (self.palette(), Marks::of(self.plain));
        Styles {
            gone: palette.style(TextRole::Gone),
            new: palette.style(TextRole::New),
            strong: palette.style(TextRole::Strong),
            faint: palette.style(TextRole::Faint),
            trouble: palette.style(TextRole::Trouble),
            plain: self.plain,
            marks: (marks.gone, marks.new),
        }
    }

    /// How many colours may be used. Default: none.
    pub fn colours(mut self, colours: Colours) -> Self {
        self.colours = colours;
        self
    }

    /// The ground. Default: dark.
    pub fn theme(mut self, theme: Theme) -> Self {
        self.theme = theme;
        self
    }

    /// ASCII only. Default: no.
    pub fn plain(mut self, plain: bool) -> Self {
        self.plain = plain;
        self
    }

    /// Equal lines around each change. Default: 3.
    pub fn context(mut self, context: Context) -> Self {
        self.context = context;
        self
    }

    /// What is marked inside a line. Default: words.
    pub fn grain(mut self, grain: Grain) -> Self {
        self.grain = grain;
        self
    }

    /// What is marked inside a line.
    pub fn marked(&self) -> &Grain {
        &self.grain
    }

    /// Whether a legend closes the view. Default: yes.
    pub fn legend(mut self, legend: bool) -> Self {
        self.legend = legend;
        self
    }

    /// Only changes with these numbers are drawn. Default: all.
    pub fn changes(mut self, changes: Option<Vec<RangeInclusive<usize>>>) -> Self {
        self.changes = changes;
        self
    }

    /// The width in columns. Default: 100.
    pub fn width(mut self, width: usize) -> Self {
        self.width = width;
        self
    }
}
