//! Options for how a file is read.

use clap::Args;

#[derive(Clone, Debug, Default, Args)]
#[command(next_help_heading = "How a file is read")]
pub(crate) struct ReadArgs {
    /// What both sides are written in, or each of them: `utf-16le`, `latin1`, `shift_jis,utf-8` [default: by a byte order
    /// mark, else UTF-8, else what detection finds]
    #[arg(long, value_name = "NAME|BEFORE,AFTER")]
    pub(crate) encoding: Option<String>,
}
