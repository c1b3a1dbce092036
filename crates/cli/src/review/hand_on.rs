//! Handing on what is looked at: a report, or a patch of files, made as the commands make them.

use std::env;
use std::ffi::OsString;
use std::path::PathBuf;
use std::process::{Command, Stdio};

use crate::args::{ReviewArgs, RulesChoice};

/// What the commands that hand on need to know.
#[derive(Clone, Debug)]
pub(super) struct HandOn {
    before: PathBuf,
    after: PathBuf,
    /// Rules, and how sides are opened, for patches and reports.
    rules: Vec<OsString>,
    /// How files are read, for reports.
    reading: Vec<OsString>,
}

/// What a file name asks for.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Form {
    Patch,
    Report,
}

impl Form {
    /// A report by its usual endings; anything else is a patch.
    pub(super) fn of(name: &str) -> Self {
        let is_report = name.ends_with('/') || [".html", ".htm", ".md", ".json"].iter().any(|end| name.ends_with(end));
        if is_report { Self::Report } else { Self::Patch }
    }
}

impl HandOn {
    pub(super) fn new(args: &ReviewArgs) -> Self {
        let mut rules: Vec<OsString> = Vec::new();
        let what = &args.what;
        for (option, all) in [("--ignore=", &what.ignore), ("--mute=", &what.mute)] {
            rules.extend(all.iter().map(|what| format!("{option}{what}").into()));
        }
        if what.rules == RulesChoice::Off {
            rules.push("--rules=off".into());
        }
        if what.no_config {
            rules.push("--no-config".into());
        }
        if let Some(path) = &what.config {
            rules.extend(["--config".into(), path.clone().into_os_string()]);
        }
        if args.counted_only {
            rules.push("--counted-only".into());
        }
        if let Some(repository) = &args.sides.repository {
            rules.extend(["--repository".into(), repository.clone().into_os_string()]);
        }
        let flags = [
            (args.sides.run_filters, "--run-filters"),
            (args.sides.fetch_missing, "--fetch-missing"),
            (args.files.open_archives, "--open-archives"),
            (args.files.no_ignore_files, "--no-ignore-files"),
        ];
        rules.extend(flags.into_iter().filter(|(is_set, _)| *is_set).map(|(_, flag)| flag.into()));
        let mut reading = Vec::new();
        if let Some(encoding) = &args.read.encoding {
            reading.push(format!("--encoding={encoding}").into());
        }
        Self { before: args.before.clone(), after: args.after.clone(), rules, reading }
    }

    /// Writes a patch or a report of what is at a path in both trees, or of all; says in a line what came of it.
    pub(super) fn write(&self, path: Option<&str>, is_folder: bool, output: &str) -> String {
        let Ok(program) = env::current_exe() else { return "cannot find the program itself".to_owned() };
        let mut command = Command::new(program);
        match Form::of(output) {
            Form::Report => {
                command.arg("report").args(&self.rules).args(&self.reading).arg("-o").arg(output).arg("--");
                command.arg(&self.before).arg(&self.after).args(path);
            }
            Form::Patch => {
                command.arg("patch").args(&self.rules);
                if let Some(path) = path {
                    let below = if is_folder { "/**" } else { "" };
                    command.arg(format!("--include={}{below}", literal(path)));
                }
                command.arg("-o").arg(output).arg("--").arg(&self.before).arg(&self.after);
            }
        }
        match command.stdin(Stdio::null()).output() {
            Err(error) => format!("cannot start the program itself: {error}"),
            Ok(done) => {
                let told =
                    [done.stderr, done.stdout].map(|told| String::from_utf8_lossy(&told).trim().replace('\n', "; "));
                let told: Vec<String> = told.into_iter().filter(|told| !told.is_empty()).collect();
                match done.status.code() {
                    // The patch command is silent where all went well.
                    Some(0 | 1) if told.is_empty() => format!("wrote {output}"),
                    _ => told.join("; ").replace("tideline: ", ""),
                }
            }
        }
    }
}

/// A path as a pattern that fits it alone.
fn literal(path: &str) -> String {
    let mut pattern = String::new();
    for letter in path.chars() {
        if matches!(letter, '*' | '?' | '[' | ']' | '{' | '}' | ',' | '\\' | '!') {
            pattern.push('\\');
        }
        pattern.push(letter);
    }
    pattern
}
