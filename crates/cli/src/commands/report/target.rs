//! Where a report goes, and putting it there.

use std::ffi::OsStr;
use std::io::{self, Write};
use std::path::{Path, PathBuf};

use anyhow::{Context, Result, bail};

use tideline_views::shown_path;

use super::super::print::printing;
use super::super::writing::{Destination, journal};
use crate::args::{FormatChoice, ReportArgs};

/// The format of a report.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Format {
    Html,
    Markdown,
    Json,
    /// Two images and what differs, as an image.
    Png,
}

/// Where a report goes.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) enum Target {
    /// To standard output.
    Output(Format),
    /// Into one file.
    File(PathBuf, Format),
    /// Into a folder of pages.
    Folder(PathBuf),
}

impl Target {
    pub(super) fn of(args: &ReportArgs) -> Result<Self> {
        let path = &args.output;
        let shown = path.display();
        let asked = args.format.map(|format| match format {
            FormatChoice::Html => Format::Html,
            FormatChoice::Markdown => Format::Markdown,
            FormatChoice::Json => Format::Json,
            FormatChoice::Png => Format::Png,
        });
        if path.as_os_str() == "-" {
            let Some(format) = asked else {
                bail!("cannot tell the format for standard output: add --format html, markdown, json or png");
            };
            return Ok(Self::Output(format));
        }
        if path.as_os_str().as_encoded_bytes().ends_with(b"/") || path.is_dir() {
            if asked.is_some_and(|format| format != Format::Html) {
                bail!("cannot write {shown}: a folder of pages is HTML; name a file for another format");
            }
            return Ok(Self::Folder(path.clone()));
        }
        let ending = path.extension().and_then(OsStr::to_str).map(str::to_ascii_lowercase);
        let told = match ending.as_deref() {
            Some("html" | "htm") => Some(Format::Html),
            Some("md" | "markdown") => Some(Format::Markdown),
            Some("json") => Some(Format::Json),
            Some("png") => Some(Format::Png),
            _ => None,
        };
        match asked.or(told) {
            Some(format) => Ok(Self::File(path.clone(), format)),
            None => bail!(
                "cannot tell the format of {shown}: end it with .html, .md or .json (.png for two images), add --format, or end it with / for a folder"
            ),
        }
    }

    pub(super) fn format(&self) -> Format {
        match self {
            Self::Output(format) | Self::File(_, format) => *format,
            Self::Folder(_) => Format::Html,
        }
    }

    /// The file or folder.
    pub(super) fn path(&self) -> Option<&Path> {
        match self {
            Self::Output(_) => None,
            Self::File(path, _) | Self::Folder(path) => Some(path),
        }
    }

    /// What a browser opens.
    pub(super) fn shown(&self) -> Option<PathBuf> {
        match self {
            Self::Output(_) => None,
            Self::File(path, _) => Some(path.clone()),
            Self::Folder(path) => Some(path.join("index.html")),
        }
    }
}

/// Lets `write` write a report that is one file, or standard output, and say what is in it. A file comes into its place when it is
/// whole.
pub(super) fn write_one(target: &Target, write: impl FnOnce(&mut dyn Write) -> io::Result<String>) -> Result<()> {
    let Target::File(path, _) = target else { return printing(false, |out| write(out).map(|_| ())) };
    let destination = Destination::of(path)?;
    let staging = journal()?.staging()?;
    let making = || format!("cannot write {}", path.display());
    let mut staged = staging.begin("report").with_context(making)?;
    let held = write(&mut staged).with_context(making)?;
    let replaced = destination.replaces();
    let run = destination.write(staged.finish().with_context(making)?)?;
    tell(path, &held, run.filter(|_| replaced))
}

/// Says what was written, what is in it, and which run replaced what was there.
pub(super) fn tell(path: &Path, held: &str, replaced_by: Option<u64>) -> Result<()> {
    let replaced = replaced_by.map_or_else(String::new, |run| {
        format!("; what was there is replaced (run {run}; `tideline undo {run}` puts it back)")
    });
    printing(false, |out| writeln!(out, "wrote {} ({held}){replaced}", shown_path(path)))
}
