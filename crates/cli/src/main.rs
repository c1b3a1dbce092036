//! The command line of Tideline. This file maps results to exit statuses and nothing else.

mod args;
mod commands;
mod memory;
mod review;
mod settings;

use std::process::ExitCode;

#[global_allocator]
static ALLOCATOR: memory::Telling = memory::Telling;

fn main() -> ExitCode {
    commands::answer_shell();
    let arguments = args::parse();
    match commands::run(arguments) {
        Ok(outcome) => outcome.into(),
        Err(error) => {
            commands::complain(&error);
            ExitCode::from(2)
        }
    }
}
