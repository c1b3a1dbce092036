//! Options for how a file is read.

use clap::{Args, ValueEnum};
use tideline_core::internal::kinds::Tolerance;

#[derive(Clone, Debug, Default, Args)]
#[command(next_help_heading = "How a file is read")]
pub(crate) struct ReadArgs {
    #[command(flatten)]
    pub(crate) kind: KindArgs,
    /// What both sides are written in, or each of them: `utf-16le`, `latin1`, `shift_jis,utf-8` [default: by a byte order
    /// mark, else UTF-8, else what detection finds]
    #[arg(long, value_name = "NAME|BEFORE,AFTER")]
    pub(crate) encoding: Option<String>,
    #[command(flatten)]
    pub(crate) how: HowArgs,
}

/// How tables and data are compared.
#[derive(Clone, Debug, Default, Args)]
#[command(next_help_heading = "How a file is read")]
pub(crate) struct HowArgs {
    /// Match rows of tables by these columns, and records in lists of data by these members (`id`, `/meta/name`) [default: what is
    /// unique and filled on both sides; `id`, `name` or `key` in data]
    #[arg(long, value_name = "COLUMN,…", value_delimiter = ',')]
    pub(crate) key: Vec<String>,
    /// The first row of a table is a row like the others; columns are called `column 1`, `column 2`, …
    #[arg(long)]
    pub(crate) no_header: bool,
    /// What stands between two cells of a table: one character, or `tab` [default: what is found]
    #[arg(long, value_name = "CHAR", value_parser = delimiter)]
    pub(crate) delimiter: Option<u8>,
    /// What cells of a table are: `value` takes a column of numbers or dates by value, so that 1.50 is 1.5 [default: value]
    #[arg(long, value_name = "HOW", value_enum, hide_default_value = true)]
    pub(crate) cells: Option<CellsChoice>,
    /// Whether it counts that rows of a table stand in another order [default: muted]
    #[arg(long, value_name = "WHETHER", value_enum)]
    pub(crate) row_order: Option<WeightChoice>,
    /// Whether comments of YAML and TOML count when they are compared as data [default: muted]
    #[arg(long, value_name = "WHETHER", value_enum)]
    pub(crate) comments: Option<WeightChoice>,
    /// Numbers this near are equal, in tables and data: `0.01`, or `1%` of the larger one; in images, colours this far apart in OKLab,
    /// where black and white are 100 apart
    #[arg(long, value_name = "NUMBER", value_parser = tolerance, help_heading = "What counts")]
    pub(crate) tolerance: Option<Tolerance>,
}

/// What cells of a table are.
#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum CellsChoice {
    /// Numbers and dates by value, where a whole column is of them
    Value,
    /// Always text
    Text,
}

/// Whether something counts.
#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum WeightChoice {
    /// It counts
    Counts,
    /// It is told, and does not count
    Muted,
}

/// Reads what stands between two cells.
pub(crate) fn delimiter(text: &str) -> Result<u8, String> {
    match text.as_bytes() {
        _ if text == "tab" || text == "\\t" => Ok(b'\t'),
        [byte] if !matches!(byte, b'"' | b'\n' | b'\r') => Ok(*byte),
        _ => Err("a delimiter is one character of ASCII, or `tab`; a quote or a line end is none".to_owned()),
    }
}

/// Reads how near numbers are equal.
pub(crate) fn tolerance(text: &str) -> Result<Tolerance, String> {
    Tolerance::parse(text).ok_or_else(|| "a tolerance is a number such as 0.01, or a share such as 1%".to_owned())
}

#[derive(Clone, Copy, Debug, Default, Args)]
#[command(next_help_heading = "How a file is read")]
pub(crate) struct KindArgs {
    /// How both sides are compared; `auto` goes by their names and contents [default: as text if they are text, else as images if they are
    /// images, else byte by byte]
    #[arg(long, value_name = "KIND", value_enum)]
    pub(crate) kind: Option<KindChoice>,
}

/// How both sides are read.
#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum KindChoice {
    /// Line by line
    Text,
    /// Row by row and cell by cell: text with delimiters (CSV), JSON Lines, lists of records in JSON
    Table,
    /// By what a document of JSON, YAML, TOML or XML means
    Data,
    /// Pixel by pixel: PNG, JPEG, GIF, BMP, WebP, TIFF, ICO
    Image,
    /// Byte by byte
    Bytes,
    /// As the folder that an archive holds, documents that are archives inside too
    Archive,
    /// As what its name and contents say it is: a table, data, text, an image, bytes
    Auto,
}
