//! Options for how things look, shared by the commands that draw.

use clap::{Args, ValueEnum};
use tideline_views::terminal::Context;

#[derive(Clone, Debug, Args)]
#[command(next_help_heading = "How it looks")]
pub(crate) struct LookArgs {
    /// Equal lines shown around each change, or `all`
    #[arg(long, value_name = "N|all", default_value = "3", value_parser = parse_context)]
    pub(crate) context: Context,
    /// What is marked inside a line: `line`, `word`, `letter`, or what a `/regular expression/` matches
    #[arg(long, value_name = "GRAIN", default_value = "word")]
    pub(crate) grain: String,
    /// When to use colour; without it, `^` marks what changed
    #[arg(long, value_name = "WHEN", value_enum, default_value_t = ColorChoice::Auto)]
    pub(crate) color: ColorChoice,
    /// Use ASCII characters only
    #[arg(long)]
    pub(crate) plain: bool,
    /// Leave out the line that explains the marks
    #[arg(long)]
    pub(crate) no_legend: bool,
}

/// When to use colour; without it, marker lines say what changed.
#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum ColorChoice {
    Auto,
    Always,
    Never,
}

pub(crate) fn parse_context(text: &str) -> Result<Context, String> {
    if text == "all" {
        return Ok(Context::All);
    }
    text.parse().map(Context::Lines).map_err(|_| "give a number of lines, or `all`".to_owned())
}
