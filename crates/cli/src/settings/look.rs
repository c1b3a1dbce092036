//! How a view will look.

use std::env;
use std::io::{self, IsTerminal};

use anyhow::{Context as _, Result, bail};
use regex::bytes::Regex;
use tideline_core::kinds::text::Grain;
use tideline_views::terminal::{Colours, Look};

use crate::args::{ColorChoice, LookArgs};

/// Builds the look of a view on standard output.
pub(crate) fn look(args: &LookArgs) -> Result<Look> {
    let width = terminal_size::terminal_size().map_or(100, |(width, _)| usize::from(width.0));
    Ok(Look::default()
        .colours(colours(args.color))
        .plain(args.plain)
        .context(args.context)
        .grain(grain(&args.grain)?)
        .legend(!args.no_legend)
        .width(width))
}

fn grain(text: &str) -> Result<Grain> {
    match text {
        "line" => Ok(Grain::Line),
        "word" => Ok(Grain::Word),
        "letter" => Ok(Grain::Letter),
        _ => match text.strip_prefix('/').and_then(|rest| rest.strip_suffix('/')) {
            Some(pattern) if !pattern.is_empty() => {
                let pattern = pattern.replace("\\/", "/");
                let regex = Regex::new(&pattern).with_context(|| format!("cannot use --grain {text}"))?;
                Ok(Grain::Pattern(regex))
            }
            _ => bail!("cannot use --grain {text}: give `line`, `word`, `letter` or a `/regular expression/`"),
        },
    }
}

/// The colours that were asked for, or that the terminal says it has.
fn colours(choice: ColorChoice) -> Colours {
    let set = |name: &str| env::var_os(name).is_some_and(|value| !value.is_empty());
    match choice {
        ColorChoice::Never => Colours::None,
        ColorChoice::Always => depth().unwrap_or(Colours::All),
        ColorChoice::Auto if set("NO_COLOR") => Colours::None,
        ColorChoice::Auto if env::var_os("CLICOLOR_FORCE").is_some_and(|value| value != "0" && !value.is_empty()) => {
            depth().unwrap_or(Colours::All)
        }
        ColorChoice::Auto if io::stdout().is_terminal() => depth().unwrap_or(Colours::None),
        ColorChoice::Auto => Colours::None,
    }
}

/// How many colours the terminal says it has; nothing where it says nothing.
fn depth() -> Option<Colours> {
    let term = env::var("TERM").unwrap_or_default();
    if env::var("COLORTERM").is_ok_and(|value| value == "truecolor" || value == "24bit") || term.ends_with("-direct") {
        return Some(Colours::All);
    }
    match term.as_str() {
        "" | "dumb" => None,
        term if term.contains("256") => Some(Colours::Many),
        _ => Some(Colours::Sixteen),
    }
}
