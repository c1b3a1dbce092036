//! `saved`

use std::ffi::OsString;

use clap::Args;

use super::WhatArgs;

/// List the saved comparisons of tideline.toml, or run one
#[derive(Debug, Args)]
#[command(after_help = "Examples:\n  \
    tideline saved                      their names\n  \
    tideline saved release              run one\n  \
    tideline saved release --each-file  run one with more options of `compare`")]
pub(crate) struct SavedArgs {
    #[command(flatten)]
    pub(crate) what: WhatArgs,
    /// The name of a saved comparison, and further options for it
    #[arg(value_name = "NAME", trailing_var_arg = true, allow_hyphen_values = true)]
    pub(crate) name: Vec<OsString>,
}
