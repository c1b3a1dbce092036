//! TOML 1, with the place of every key and value.

use std::borrow::Cow;

use foldhash::quality::RandomState;
use toml::Spanned;
use toml::de::{DeTable, DeValue};

use super::build::Builder;
use super::document::{DataFormat, Document, NodeKind, Stored};
use super::failure::Failure;
use crate::internal::rules::{comments, languages::Syntax};

/// Reads a document.
pub(super) fn read<'t>(text: Cow<'t, [u8]>, hasher: &RandomState) -> Result<Document<'t>, Failure> {
    let own = text.to_vec();
    let mut builder = Builder::new(text, DataFormat::Toml, hasher)?;
    let string = String::from_utf8(own).map_err(|_| Failure::new(0, "this is not text in UTF-8"))?;
    let table = DeTable::parse(&string).map_err(|error| {
        let at = error.span().map_or(0, |span| span.start);
        Failure::new(at, error.message().lines().collect::<Vec<_>>().join(", "))
    })?;
    add_table(&mut builder, table.get_ref(), None, (0, 0))?;
    if let Some(syntax) = Syntax::of("x.toml") {
        builder.comments(comments(string.as_bytes(), syntax));
    }
    Ok(builder.finish())
}

/// Adds a table, its members in the order of the text; tells where the last of them ends.
fn add_table(
    builder: &mut Builder<'_>,
    table: &DeTable<'_>,
    key: Option<Stored>,
    (from, start): (usize, usize),
) -> Result<usize, Failure> {
    builder.open(NodeKind::Map, (key, None), (from, start))?;
    let mut members: Vec<_> = table.iter().collect();
    members.sort_by_key(|(key, _)| key.span().start);
    let mut end = start;
    for (key, value) in members {
        let place = key.span();
        let stored = builder.store(key.get_ref().as_ref(), place.start)?;
        end = end.max(add(builder, value, Some(stored), place.start)?);
    }
    builder.close(end);
    Ok(end)
}

fn add(
    builder: &mut Builder<'_>,
    value: &Spanned<DeValue<'_>>,
    key: Option<Stored>,
    from: usize,
) -> Result<usize, Failure> {
    let span = value.span();
    let (kind, stored) = match value.get_ref() {
        DeValue::Table(table) => {
            let end = add_table(builder, table, key, (from, span.start.max(from)))?;
            return Ok(end.max(span.end));
        }
        DeValue::Array(values) => {
            builder.open(NodeKind::List, (key, None), (from, span.start.max(from)))?;
            let mut end = span.end;
            for value in values {
                end = end.max(add(builder, value, None, value.span().start)?);
            }
            builder.close(end);
            return Ok(end);
        }
        DeValue::String(text) => (NodeKind::Text, text_of(builder, text, span.start)?),
        DeValue::Boolean(value) => (NodeKind::Boolean, builder.make(if *value { "true" } else { "false" })?),
        DeValue::Datetime(date) => (NodeKind::Date, builder.make(&date.to_string())?),
        DeValue::Integer(number) => {
            let digits = number.as_str();
            let written = match number.radix() {
                10 => digits.trim_start_matches('+').to_owned(),
                radix => {
                    i128::from_str_radix(digits, radix).map_or_else(|_| digits.to_owned(), |value| value.to_string())
                }
            };
            (NodeKind::Number, text_of(builder, &written, span.start)?)
        }
        DeValue::Float(number) => {
            let written = number.as_str().trim_start_matches('+').to_owned();
            (NodeKind::Number, text_of(builder, &written, span.start)?)
        }
    };
    builder.leaf(kind, (key, stored, None), (from, span.clone()))?;
    Ok(span.end)
}

/// A value that may stand in the text as it is, or behind its quote.
fn text_of(builder: &mut Builder<'_>, text: &str, start: usize) -> Result<Stored, Failure> {
    let is_quoted = matches!(builder.text().get(start), Some(b'"' | b'\''));
    builder.store(text, start + usize::from(is_quoted))
}
