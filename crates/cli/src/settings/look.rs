//! How a view will look.

use std::env;
use std::io::{self, IsTerminal};
use std::time::Duration;

use anyhow::{Context as _, Result, bail};
use regex::bytes::Regex;
use terminal_colorsaurus::{QueryOptions, ThemeMode, theme_mode};
use tideline_core::internal::kinds::text::Grain;
use tideline_views::terminal::{Colours, Layout, Look, Theme};
use tideline_views::{Context, Syntax};

use super::config::ViewDefaults;
use crate::args::{ColorChoice, ColourArgs, LayoutChoice, LookArgs, SyntaxChoice, ThemeChoice};
use crate::commands::tell;

/// A terminal of so many columns shows both sides beside each other.
const ROOM_FOR_TWO: usize = 150;
/// How long a terminal may take to say what its ground is.
const PATIENCE: Duration = Duration::from_millis(150);

/// Builds the look of a view on standard output.
pub(crate) fn look(args: &LookArgs, defaults: &ViewDefaults) -> Result<Look> {
    let on_terminal = io::stdout().is_terminal();
    let terminal = terminal_size::terminal_size().filter(|_| on_terminal).map(|(width, _)| width.0);
    let width = usize::from(args.width.or(defaults.width).or(terminal).unwrap_or(100));
    let layout = match args.layout.or(defaults.layout) {
        Some(LayoutChoice::Stacked) => Layout::Stacked,
        Some(LayoutChoice::Beside) => Layout::Beside,
        Some(LayoutChoice::Inline) => Layout::Inline,
        None if on_terminal && width >= ROOM_FOR_TWO => Layout::Beside,
        None => Layout::Stacked,
    };
    let colours = colours(args.colour.color.or(defaults.color).unwrap_or(ColorChoice::Auto));
    if args.syntax == Some(SyntaxChoice::On) && !matches!(colours, Colours::Many | Colours::All) {
        tell("note: --syntax on does nothing here: it needs 256 colours or more");
    }
    Ok(Look::default()
        .layout(layout)
        .colours(colours)
        .theme(theme(args.colour.theme.or(defaults.theme).unwrap_or(ThemeChoice::Auto), colours))
        .with_syntax(match args.syntax.or(defaults.syntax).unwrap_or(SyntaxChoice::Auto) {
            SyntaxChoice::On => Syntax::On,
            SyntaxChoice::Off => Syntax::Off,
            SyntaxChoice::Auto => Syntax::Auto,
        })
        .plain(args.colour.plain || defaults.plain == Some(true))
        .context(args.context.or(defaults.context).unwrap_or_default())
        .neighbours(args.context.map(Context::lines))
        .grain(grain_of(args, defaults)?)
        .value_grain(match args.grain.as_deref().or(defaults.grain.as_deref()) {
            Some(text) => grain(text)?,
            None => Grain::Letter,
        })
        .preview(!args.no_preview)
        .legend(!args.no_legend && defaults.legend != Some(false))
        .width(width))
}

/// The look of what is drawn in one layout only.
pub(crate) fn look_of_colours(args: &ColourArgs, defaults: &ViewDefaults) -> Result<Look> {
    look(
        &LookArgs {
            colour: args.clone(),
            layout: Some(LayoutChoice::Stacked),
            context: None,
            grain: None,
            syntax: None,
            width: None,
            no_legend: false,
            no_preview: false,
            no_pager: true,
        },
        defaults,
    )
}

/// Whether long output is paged.
pub(crate) fn is_paged(args: &LookArgs, defaults: &ViewDefaults) -> bool {
    !args.no_pager && defaults.pager != Some(false)
}

/// What is marked inside a line, as the arguments or the configuration say.
pub(crate) fn grain_of(args: &LookArgs, defaults: &ViewDefaults) -> Result<Grain> {
    grain(args.grain.as_deref().or(defaults.grain.as_deref()).unwrap_or("word"))
}

/// What is marked inside a line.
pub(crate) fn grain(text: &str) -> Result<Grain> {
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

/// The ground that was asked for, or that the terminal says it has; dark where it says nothing.
fn theme(choice: ThemeChoice, colours: Colours) -> Theme {
    match choice {
        ThemeChoice::Dark => Theme::Dark,
        ThemeChoice::Light => Theme::Light,
        ThemeChoice::Auto if colours == Colours::None || !io::stdout().is_terminal() => Theme::Dark,
        ThemeChoice::Auto => {
            let mut options = QueryOptions::default();
            options.timeout = PATIENCE;
            match theme_mode(options) {
                Ok(ThemeMode::Light) => Theme::Light,
                Ok(ThemeMode::Dark) | Err(_) => Theme::Dark,
            }
        }
    }
}

/// The colours that were asked for, or that the terminal says it has.
fn colours(choice: ColorChoice) -> Colours {
    let set = |name: &str| env::var_os(name).is_some_and(|value| !value.is_empty());
    match choice {
        ColorChoice::Never => Colours::None,
        ColorChoice::Always => depth().unwrap_or(Colours::Sixteen),
        ColorChoice::Auto if set("NO_COLOR") => Colours::None,
        ColorChoice::Auto if env::var_os("CLICOLOR_FORCE").is_some_and(|value| value != "0" && !value.is_empty()) => {
            depth().unwrap_or(Colours::Sixteen)
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
