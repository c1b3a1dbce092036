//! `[[converter]]`: a program that reads documents.

use anyhow::Result;
use tideline_core::internal::model::Kind;
use tideline_core::internal::rules::FilePatterns;
use tideline_sources::Converter;

use super::table::Table;

/// A program that was chosen, and where.
#[derive(Clone, Debug)]
pub(crate) struct ConverterChoice {
    pub(crate) converter: Converter,
    /// Where it was chosen.
    pub(crate) place: String,
}

impl ConverterChoice {
    /// Reads a table `[[converter]]`.
    pub(super) fn read(table: &Table<'_>, files: FilePatterns) -> Result<Self> {
        table.only(["files", "command", "kind"])?;
        let wrong = |key: &str, why: String| table.source.error(&table.place_of(key), why);
        let command = table.texts("command")?.unwrap_or_default();
        let kind = match table.text("kind")?.as_deref() {
            None | Some("text") => Kind::Text,
            Some("table") => Kind::Table,
            Some("data") => Kind::Data,
            Some(other) => {
                return Err(wrong(
                    "kind",
                    format!("a converter writes text, table (CSV) or data (JSON), and no `{other}`"),
                ));
            }
        };
        let converter = Converter::new(files, command, kind).map_err(|why| wrong("command", why))?;
        Ok(Self { converter, place: table.source.place(table.span) })
    }
}
