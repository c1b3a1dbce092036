//! Options for how things look, shared by the commands that draw.

use clap::{Args, ValueEnum};
use tideline_views::Context;

/// Colours and characters, for whatever is drawn.
#[derive(Clone, Debug, Args)]
#[command(next_help_heading = "How it looks")]
pub(crate) struct ColourArgs {
    /// When to use colour; without it, `^` marks what changed [default: auto]
    #[arg(long, value_name = "WHEN", value_enum)]
    pub(crate) color: Option<ColorChoice>,
    /// The ground that colours must be readable on; `auto` asks the terminal [default: auto]
    #[arg(long, value_name = "THEME", value_enum)]
    pub(crate) theme: Option<ThemeChoice>,
    /// Use ASCII characters only
    #[arg(long)]
    pub(crate) plain: bool,
}

impl ColourArgs {
    /// The same, or without colours where records are given and nothing is drawn: then nothing is asked of the terminal.
    pub(crate) fn for_records(&self, are_given: bool) -> Self {
        if are_given { Self { color: Some(ColorChoice::Never), ..self.clone() } } else { self.clone() }
    }
}

impl LookArgs {
    /// The same, or without colours where records are given and nothing is drawn: then nothing is asked of the terminal.
    pub(crate) fn for_records(&self, are_given: bool) -> Self {
        Self { colour: self.colour.for_records(are_given), ..self.clone() }
    }
}

#[derive(Clone, Debug, Args)]
#[command(next_help_heading = "How it looks")]
pub(crate) struct LookArgs {
    #[command(flatten)]
    pub(crate) colour: ColourArgs,
    /// How lines are laid out: one above the other, side by side, or merged into one text [default: beside on a terminal
    /// of 150 columns or more, else stacked]
    #[arg(long, value_name = "LAYOUT", value_enum)]
    pub(crate) layout: Option<LayoutChoice>,
    /// Equal lines, or rows of bytes, shown around each change, or `all`, which shows very long lines whole too [default: 3 lines, 1 row]
    #[arg(long, value_name = "N|all", value_parser = parse_context)]
    pub(crate) context: Option<Context>,
    /// What is marked inside a line: `line`, `word`, `letter`, or what a `/regular expression/` matches
    /// [default: word]
    #[arg(long, value_name = "GRAIN")]
    pub(crate) grain: Option<String>,
    /// Colour code by its syntax; `auto` stops where it would take noticeable time [default: auto]
    #[arg(long, value_name = "WHEN", value_enum)]
    pub(crate) syntax: Option<SyntaxChoice>,
    /// Columns to draw in [default: those of the terminal, else 100]
    #[arg(long, value_name = "N", value_parser = clap::value_parser!(u16).range(40..))]
    pub(crate) width: Option<u16>,
    /// Leave out the line that explains the marks
    #[arg(long)]
    pub(crate) no_legend: bool,
    /// Do not show images in small on a terminal with colours
    #[arg(long)]
    pub(crate) no_preview: bool,
    /// Do not page long output on a terminal (the pager is `PAGER`, else `less`)
    #[arg(long)]
    pub(crate) no_pager: bool,
}

/// How lines are laid out.
#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum LayoutChoice {
    Stacked,
    Beside,
    Inline,
}

/// When to use colour; without it, marker lines say what changed.
#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum ColorChoice {
    Auto,
    Always,
    Never,
}

/// The ground to draw on.
#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum ThemeChoice {
    Dark,
    Light,
    Auto,
}

/// Whether code is coloured.
#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum SyntaxChoice {
    On,
    Off,
    Auto,
}

pub(crate) fn parse_context(text: &str) -> Result<Context, String> {
    if text == "all" {
        return Ok(Context::All);
    }
    text.parse().map(Context::Lines).map_err(|_| "give a number of lines, or `all`".to_owned())
}
