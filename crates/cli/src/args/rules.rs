//! `rules`

use std::path::PathBuf;

use clap::{Args, Subcommand};

use super::{ReadArgs, WhatArgs};

/// List the rules in force, see what they match, or start a configuration
#[derive(Debug, Args)]
#[command(after_help = "Examples:\n  \
    tideline rules                                 which rules hold here, and where they come from\n  \
    tideline rules test logs/skerry-light.log      what each of them matches in a file\n  \
    tideline rules test --mute timestamps app.log  the same with a rule that is not written down yet\n  \
    tideline rules init                            write a tideline.toml to start from")]
pub(crate) struct RulesArgs {
    #[command(subcommand)]
    pub(crate) action: Option<RulesAction>,
    /// Print JSON Lines for programs: a record for each rule
    #[arg(long)]
    pub(crate) json: bool,
    #[command(flatten)]
    pub(crate) what: WhatArgs,
}

#[derive(Debug, Subcommand)]
pub(crate) enum RulesAction {
    /// Print a file with what each rule matches marked and named
    #[command(after_help = "Example:\n  tideline rules test --ignore comments scripts/plot.py")]
    Test {
        /// The file; `-` is standard input
        #[arg(value_name = "FILE")]
        file: PathBuf,
        #[command(flatten)]
        what: WhatArgs,
        #[command(flatten)]
        read: Box<ReadArgs>,
        #[command(flatten)]
        colour: super::ColourArgs,
    },
    /// Write a commented tideline.toml to start from
    #[command(after_help = "Example:\n  tideline rules init")]
    Init,
}
