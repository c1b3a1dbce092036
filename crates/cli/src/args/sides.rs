//! Options for what a side may be: archives, and revisions of a repository.

use std::path::PathBuf;

use clap::Args;
use clap::builder::{OsStringValueParser, TypedValueParser};

/// How archives and revisions are opened.
#[derive(Clone, Debug, Default, Args)]
#[command(next_help_heading = "Archives and revisions")]
pub(crate) struct SideArgs {
    /// The repository that `git:REV` is of [default: the one around the working folder]
    #[arg(long, value_name = "PATH")]
    pub(crate) repository: Option<PathBuf>,
    /// Let the repository run the filters that it is set up with
    #[arg(long)]
    pub(crate) run_filters: bool,
    /// Let the repository fetch objects that it lacks
    #[arg(long)]
    pub(crate) fetch_missing: bool,
    /// Unpack so much of an archive or a compressed file at most (`500M`, `16G`) [default: 16G]
    #[arg(long, value_name = "SIZE", value_parser = parse_size)]
    pub(crate) expanded_size: Option<u64>,
    /// Unpack what becomes at most so many times as large; what stays under 16 MiB always is [default: 2000]
    #[arg(long, value_name = "N", value_parser = clap::value_parser!(u64).range(1..))]
    pub(crate) expansion_ratio: Option<u64>,
    /// Read so many entries of an archive at most [default: 2000000]
    #[arg(long, value_name = "N", value_parser = clap::value_parser!(u32).range(1..))]
    pub(crate) archive_entries: Option<u32>,
    /// With --open-archives, open archives in archives so many deep [default: 4]
    #[arg(long, value_name = "N", value_parser = clap::value_parser!(u8).range(1..=16))]
    pub(crate) archive_depth: Option<u8>,
}

/// Reads a path that may be left out, and is empty then.
pub(crate) fn any_path() -> impl TypedValueParser<Value = PathBuf> {
    OsStringValueParser::new().map(PathBuf::from)
}

/// A number of bytes: `1000`, `64K`, `500M`, `16G`, `1T`, each 1,024 times the one before.
fn parse_size(text: &str) -> Result<u64, String> {
    let wrong = || "give a size as in 500M or 16G".to_owned();
    let digits = text.trim_end_matches(|letter: char| letter.is_ascii_alphabetic());
    let shift = match text[digits.len()..].to_ascii_uppercase().trim_end_matches("IB").trim_end_matches('B') {
        "" => 0,
        "K" => 10,
        "M" => 20,
        "G" => 30,
        "T" => 40,
        _ => return Err(wrong()),
    };
    let number: u64 = digits.parse().map_err(|_| wrong())?;
    number.checked_mul(1 << shift).filter(|size| *size > 0).ok_or_else(wrong)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn sizes_have_units() {
        assert_eq!(parse_size("1000"), Ok(1000));
        assert_eq!(parse_size("2k"), Ok(2048));
        assert_eq!(parse_size("16G"), Ok(16 << 30));
        assert_eq!(parse_size("3MiB"), Ok(3 << 20));
        for wrong in ["", "M", "0", "-1", "1.5G", "9999999999T", "5X"] {
            assert!(parse_size(wrong).is_err(), "{wrong}");
        }
    }
}
