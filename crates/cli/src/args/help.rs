//! The table of arguments as it is shown: short help with what is needed most, long help with all, examples and exit statuses.

/// Options under a heading that short help has too.
const NEEDED_MOST: [&str; 7] = ["ignore", "mute", "layout", "context", "only", "include", "exclude"];

/// What the exit statuses of a command mean. Those that are not here say it themselves.
const EXIT_STATUSES: [(&str, &str); 15] = [
    ("compare", "0 nothing that counts differs; 1 something differs; 2 it could not be told"),
    ("review", "0 nothing that counts differs at the end; 1 something differs; 2 it could not be told or shown"),
    ("explain", "0 it was told; 2 it could not be told"),
    ("patch", "0 nothing differs, and the patch is empty; 1 it holds changes; 2 it could not be told or written"),
    ("report", "0 nothing that counts differs; 1 something differs; 2 it could not be told or written"),
    ("show", "0 it was shown; 2 it could not be read"),
    ("apply", "0 all of it was done; 1 something does not fit, or was left over; 2 it could not be done"),
    ("take", "0 it was done; 2 it could not be done"),
    (
        "inventory",
        "0 it was written, or nothing differs from it; 1 something differs; 2 it could not be told or written",
    ),
    ("runs", "0 it was told or done; 2 it could not be told or done"),
    ("rules", "0 it was told or done; 2 it could not be told or done"),
    ("saved", "that of `compare`; without a name, 0 they were listed; 2 it could not be told"),
    ("demo", "0 it was done; 2 it could not be done"),
    ("completions", "0"),
    ("manual", "0 it was told; 2 there is no such command"),
];

/// The table of arguments, for whoever reads its help.
pub(super) fn with_help(mut whole: clap::Command) -> clap::Command {
    let names: Vec<String> = whole.get_subcommands().map(|command| command.get_name().to_owned()).collect();
    for name in names {
        whole = whole.mut_subcommand(&name, |command| dressed(command, &name));
    }
    whole
}

fn dressed(command: clap::Command, name: &str) -> clap::Command {
    let shown = |option: &clap::Arg| {
        option.get_help_heading().is_none() || option.get_long().is_none_or(|long| NEEDED_MOST.contains(&long))
    };
    let hides_some = command.get_arguments().any(|option| !shown(option));
    let command = command.mut_args(|option| if shown(&option) { option } else { option.hide_short_help(true) });
    let told = command.get_after_help().map(ToString::to_string).unwrap_or_default();
    let exit = EXIT_STATUSES.iter().find(|(of, _)| *of == name);
    let exit = exit.map(|(_, statuses)| format!("\n\nExit status: {statuses}.")).unwrap_or_default();
    let more = if hides_some { "all options, examples and exit statuses" } else { "examples and exit statuses" };
    command.after_long_help(format!("{told}{exit}")).after_help(format!("More: `tideline {name} --help` has {more}."))
}
