//! The command line of Tideline. This file maps results to exit statuses and nothing else.

mod args;
mod commands;
mod settings;

use std::process::ExitCode;

use mimalloc::MiMalloc;

#[global_allocator]
static ALLOCATOR: MiMalloc = MiMalloc;

fn main() -> ExitCode {
    let arguments = args::parse();
    match commands::run(arguments) {
        Ok(outcome) => outcome.into(),
        Err(error) => {
            commands::complain(&error);
            ExitCode::from(2)
        }
    }
}
