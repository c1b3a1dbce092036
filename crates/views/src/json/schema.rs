//! The JSON Schema of the records.

use super::records::Record;

/// The JSON Schema of the records, as it is published.
pub fn schema() -> String {
    let schema = schemars::schema_for!(Record);
    let mut text = serde_json::to_string_pretty(&schema).unwrap_or_else(|error| error.to_string());
    text.push('\n');
    text
}
