//! A table of a configuration file whose keys know where they stand.

use std::fmt::Display;
use std::ops::Range;
use std::path::{Path, PathBuf};

use anyhow::{Result, anyhow};
use clap::ValueEnum;
use tideline_core::internal::text::spelling::nearest;
use toml::Spanned;
use toml::de::{DeTable, DeValue};

/// A configuration file.
#[derive(Clone, Debug)]
pub(super) struct Source {
    path: PathBuf,
    pub(super) text: String,
    /// The bytes after which a line begins.
    line_ends: Vec<usize>,
}

impl Source {
    pub(super) fn new(path: &Path, text: String) -> Self {
        let line_ends = text.match_indices('\n').map(|(at, _)| at).collect();
        Self { path: path.to_path_buf(), text, line_ends }
    }

    /// The line that holds a byte, from 1.
    pub(super) fn line(&self, at: usize) -> usize {
        1 + self.line_ends.partition_point(|&end| end < at)
    }

    /// An error that names the file and the line.
    pub(super) fn error(&self, at: &Range<usize>, message: impl Display) -> anyhow::Error {
        anyhow!("cannot use {}, line {}: {message}", self.path.display(), self.line(at.start))
    }

    /// Where something was declared, for people.
    pub(super) fn place(&self, at: &Range<usize>) -> String {
        format!("{}:{}", self.path.display(), self.line(at.start))
    }

    /// The folder that paths in it are relative to.
    pub(super) fn folder(&self) -> &Path {
        self.path.parent().unwrap_or(Path::new(""))
    }
}

/// A table and its name.
#[derive(Clone, Copy)]
pub(super) struct Table<'s> {
    pub(super) source: &'s Source,
    pub(super) name: &'s str,
    table: &'s DeTable<'s>,
    pub(super) span: &'s Range<usize>,
}

impl<'s> Table<'s> {
    pub(super) fn new(source: &'s Source, name: &'s str, table: &'s DeTable<'s>, span: &'s Range<usize>) -> Self {
        Self { source, name, table, span }
    }

    /// Refuses keys that are not known.
    pub(super) fn only<'k>(&self, known: impl IntoIterator<Item = &'k str> + Clone) -> Result<()> {
        for key in self.table.keys() {
            let name: &str = key.get_ref();
            if known.clone().into_iter().all(|known| known != name) {
                let advice = match nearest(name, known.clone()) {
                    Some(meant) => format!("did you mean `{meant}`?"),
                    None => format!("it knows {}", known.into_iter().collect::<Vec<_>>().join(", ")),
                };
                let error = format!("{} has no key `{name}`; {advice}", self.name);
                return Err(self.source.error(&key.span(), error));
            }
        }
        Ok(())
    }

    /// All keys in the order of the file, with their values.
    pub(super) fn entries(&self) -> Vec<(&'s str, &'s Spanned<DeValue<'s>>)> {
        let mut entries: Vec<_> = self.table.iter().collect();
        entries.sort_by_key(|(key, _)| key.span().start);
        entries.into_iter().map(|(key, value)| (&**key.get_ref(), value)).collect()
    }

    fn value(&self, key: &str) -> Option<&'s Spanned<DeValue<'s>>> {
        self.table.get(key)
    }

    /// Where the value of a key stands; without it, where the table stands.
    pub(super) fn place_of(&self, key: &str) -> Range<usize> {
        self.value(key).map_or_else(|| self.span.clone(), Spanned::span)
    }

    fn wrong(&self, key: &str, value: &Spanned<DeValue<'_>>, wanted: &str) -> anyhow::Error {
        let found = value.get_ref().type_str();
        self.source.error(&value.span(), format!("`{key}` of {} is {wanted}, not a value of type {found}", self.name))
    }

    /// A piece of text.
    pub(super) fn text(&self, key: &str) -> Result<Option<String>> {
        let Some(value) = self.value(key) else { return Ok(None) };
        let text = value.get_ref().as_str().ok_or_else(|| self.wrong(key, value, "a text in quotes"))?;
        Ok(Some(text.to_owned()))
    }

    /// A piece of text that must be there.
    pub(super) fn needed_text(&self, key: &str) -> Result<String> {
        let missing = || self.source.error(self.span, format!("{} needs the key `{key}`", self.name));
        self.text(key)?.ok_or_else(missing)
    }

    /// A list of texts; one text is a list of one.
    pub(super) fn texts(&self, key: &str) -> Result<Option<Vec<String>>> {
        let Some(value) = self.value(key) else { return Ok(None) };
        if let Some(text) = value.get_ref().as_str() {
            return Ok(Some(vec![text.to_owned()]));
        }
        let wrong = || self.wrong(key, value, "a list of texts, as in [\"a\", \"b\"]");
        let items = value.get_ref().as_array().ok_or_else(wrong)?;
        let text = |item: &Spanned<DeValue<'_>>| item.get_ref().as_str().map(str::to_owned).ok_or_else(wrong);
        items.iter().map(text).collect::<Result<Vec<_>>>().map(Some)
    }

    /// Two texts by their names, as in `{ before = "a", after = "b" }`.
    pub(super) fn two_texts(&self, key: &str, names: (&str, &str)) -> Result<Option<(String, String)>> {
        let Some(value) = self.value(key) else { return Ok(None) };
        let wrong =
            || self.wrong(key, value, &format!("a table, as in {{ {} = \"a\", {} = \"b\" }}", names.0, names.1));
        let span = value.span();
        let table = Table::new(self.source, key, value.get_ref().as_table().ok_or_else(wrong)?, &span);
        table.only([names.0, names.1])?;
        Ok(Some((table.needed_text(names.0)?, table.needed_text(names.1)?)))
    }

    /// Numbers or texts by name, as in `{ level_m = 0.01 }`; nothing where the value is no table.
    pub(super) fn texts_by_name(&self, key: &str) -> Result<Option<Vec<(String, String)>>> {
        let Some(value) = self.value(key) else { return Ok(None) };
        let Some(inner) = value.get_ref().as_table() else { return Ok(None) };
        let span = value.span();
        let table = Table::new(self.source, key, inner, &span);
        let text = |name: &str| Ok((name.to_owned(), table.number_or_text(name)?.unwrap_or_default()));
        table.entries().into_iter().map(|(name, _)| text(name)).collect::<Result<Vec<_>>>().map(Some)
    }

    /// A number, or a word, as text.
    pub(super) fn number_or_text(&self, key: &str) -> Result<Option<String>> {
        match self.value(key) {
            Some(value) if value.get_ref().is_integer() => {
                Ok(value.get_ref().as_integer().map(|number| number.as_str().to_owned()))
            }
            Some(value) if value.get_ref().is_float() => {
                Ok(value.get_ref().as_float().map(|number| number.as_str().to_owned()))
            }
            _ => self.text(key),
        }
    }

    /// `true` or `false`.
    pub(super) fn flag(&self, key: &str) -> Result<Option<bool>> {
        let Some(value) = self.value(key) else { return Ok(None) };
        value.get_ref().as_bool().map(Some).ok_or_else(|| self.wrong(key, value, "true or false"))
    }
}

/// Reads a word that an option takes too.
pub(super) fn choice<T: ValueEnum>(table: &Table<'_>, key: &str) -> Result<Option<T>> {
    let Some(text) = table.text(key)? else { return Ok(None) };
    let read = T::from_str(&text, false).map_err(|_| {
        let names: Vec<String> = T::value_variants()
            .iter()
            .filter_map(|value| Some(value.to_possible_value()?.get_name().to_owned()))
            .collect();
        anyhow!("`{text}` is no {key}; it can be {}", names.join(", "))
    });
    read.map(Some).map_err(|error| table.source.error(&table.place_of(key), error))
}
