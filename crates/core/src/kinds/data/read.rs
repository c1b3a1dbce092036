//! Documents read by what their names and contents say they are.

use std::borrow::Cow;

use foldhash::quality::RandomState;

use super::document::{DataFormat, Document, NodeId, ROOT};
use super::failure::Failure;
use super::found::compare_documents;
use super::{json, path, toml, xml, yaml};
use crate::internal::kinds::kind_options::KindOptions;
use crate::internal::kinds::values::BothRules;
use crate::internal::model::data::DataComparison;
use crate::internal::text::file_type::FileType;

/// What a document of this name is written in; by its contents, where the name does not tell.
pub fn format_of(name: &str, text: &[u8]) -> Option<DataFormat> {
    let (_, ending) = FileType::name_and_ending(name);
    match ending.to_ascii_lowercase().as_str() {
        "json" | "geojson" | "webmanifest" => Some(DataFormat::Json),
        "jsonl" | "ndjson" => Some(DataFormat::JsonLines),
        "yaml" | "yml" => Some(DataFormat::Yaml),
        "toml" => Some(DataFormat::Toml),
        "xml" | "svg" | "xsd" | "xsl" | "xslt" | "gpx" | "kml" | "rss" | "atom" | "plist" => Some(DataFormat::Xml),
        _ => by_contents(text),
    }
}

fn by_contents(text: &[u8]) -> Option<DataFormat> {
    let text = text.strip_prefix(b"\xef\xbb\xbf").unwrap_or(text).trim_ascii_start();
    match text.first()? {
        b'{' | b'[' => Some(DataFormat::Json),
        b'<' if text.starts_with(b"<?xml") => Some(DataFormat::Xml),
        _ => None,
    }
}

/// Reads a document.
///
/// # Errors
/// When it is malformed, or larger or deeper than any that is read.
pub fn read_document<'t>(text: Cow<'t, [u8]>, format: DataFormat) -> Result<Document<'t>, Failure> {
    read_with(text, format, &RandomState::default())
}

pub(super) fn read_with<'t>(
    text: Cow<'t, [u8]>,
    format: DataFormat,
    hasher: &RandomState,
) -> Result<Document<'t>, Failure> {
    match format {
        DataFormat::Json => match json::read(text.clone(), hasher) {
            // Documents that follow each other have their own name in few places.
            Err(failure) => match json::read_many(text, hasher) {
                Ok(documents) if documents.children(ROOT).count() > 1 => Ok(documents),
                _ => Err(failure),
            },
            read => read,
        },
        DataFormat::JsonLines => json::read_many(text, hasher),
        DataFormat::Yaml => yaml::read(text, hasher),
        DataFormat::Toml => toml::read(text, hasher),
        DataFormat::Xml => xml::read(text, hasher),
    }
}

/// Two documents that can be compared; else which side cannot be read (true: before), and why.
pub(in crate::internal::kinds) fn read_pair<'t>(
    (before, of_before): (Cow<'t, [u8]>, DataFormat),
    (after, of_after): (Cow<'t, [u8]>, DataFormat),
) -> Result<(Document<'t>, Document<'t>), (bool, Failure)> {
    let hasher = RandomState::default();
    let (before, after) = rayon::join(
        || read_with(before, of_before, &hasher).map_err(|failure| (true, failure)),
        || read_with(after, of_after, &hasher).map_err(|failure| (false, failure)),
    );
    Ok((before?, after?))
}

/// Compares two documents that were read together.
pub(in crate::internal::kinds) fn compare_data(
    before: &Document<'_>,
    after: &Document<'_>,
    how: (&KindOptions, BothRules<'_>, bool),
) -> DataComparison {
    compare_documents(before, after, how)
}

/// The node that a JSON Pointer leads to, from the document itself.
pub fn find_node(document: &Document<'_>, pointer: &str) -> Option<NodeId> {
    if pointer.is_empty() { Some(ROOT) } else { path::find(document, ROOT, pointer) }
}
