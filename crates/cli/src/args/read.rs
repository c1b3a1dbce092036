//! Options for how a file is read.

use clap::{Args, ValueEnum};

#[derive(Clone, Debug, Default, Args)]
#[command(next_help_heading = "How a file is read")]
pub(crate) struct ReadArgs {
    #[command(flatten)]
    pub(crate) kind: KindArgs,
    /// What both sides are written in, or each of them: `utf-16le`, `latin1`, `shift_jis,utf-8` [default: by a byte order
    /// mark, else UTF-8, else what detection finds]
    #[arg(long, value_name = "NAME|BEFORE,AFTER")]
    pub(crate) encoding: Option<String>,
}

#[derive(Clone, Copy, Debug, Default, Args)]
#[command(next_help_heading = "How a file is read")]
pub(crate) struct KindArgs {
    /// How both sides are read, whatever they hold; `auto` goes by what they hold
    #[arg(long, value_name = "KIND", value_enum)]
    pub(crate) kind: Option<KindChoice>,
}

/// How both sides are read.
#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum KindChoice {
    /// Line by line
    Text,
    /// Byte by byte
    Bytes,
    /// As the folder that an archive holds, documents that are archives inside too
    Archive,
    /// As text if it is text, else byte by byte; the same as without this option
    Auto,
}
