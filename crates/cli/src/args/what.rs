//! Options for what counts.

use std::path::PathBuf;

use clap::{Args, ValueEnum};

#[derive(Clone, Debug, Default, Args)]
#[command(next_help_heading = "What counts")]
pub(crate) struct WhatArgs {
    /// Exclude this from the comparison: `case`, `space`, `space-amount`, `edge-space`, `leading-space`, `trailing-space`,
    /// `blank-lines`, `line-breaks`, `line-ends`, `final-newline`, `comments`, `trailing-punctuation`, `timestamps`, `numbers`,
    /// `uuids`, `hex-addresses`, `/a regular expression/`, `chars:1-24+30-40` (`chars:25-` to the end), `renamed:OLD=NEW`, or a rule of the configuration; `'*.log: WHAT'` only in files
    /// that fit; repeatable
    #[arg(long, value_name = "WHAT,…", allow_hyphen_values = true)]
    pub(crate) ignore: Vec<String>,
    /// Show this faintly, count it apart and do not let it make a difference; takes the same as --ignore
    #[arg(long, value_name = "WHAT,…", allow_hyphen_values = true)]
    pub(crate) mute: Vec<String>,
    /// Whether the rules of the configuration hold
    #[arg(long, value_name = "WHEN", value_enum, default_value_t = RulesChoice::On)]
    pub(crate) rules: RulesChoice,
    /// Read this configuration instead of the nearest `tideline.toml`
    #[arg(long, value_name = "FILE")]
    pub(crate) config: Option<PathBuf>,
    /// Read no configuration
    #[arg(long, conflicts_with = "config")]
    pub(crate) no_config: bool,
}

/// Whether the rules of the configuration hold.
impl WhatArgs {
    /// Whether nothing was chosen.
    pub(crate) fn is_default(&self) -> bool {
        let Self { ignore, mute, rules, config, no_config } = self;
        ignore.is_empty() && mute.is_empty() && *rules == RulesChoice::On && config.is_none() && !no_config
    }
}

#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, ValueEnum)]
pub(crate) enum RulesChoice {
    #[default]
    On,
    Off,
}
