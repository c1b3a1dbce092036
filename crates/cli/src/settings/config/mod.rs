//! `tideline.toml`: the nearest one from the working folder upwards, over the user's own.

mod converter;
mod saved;
mod table;
mod view;

use std::collections::HashSet;
use std::env;
use std::fs;
use std::io::ErrorKind;
use std::path::{Path, PathBuf};
use std::sync::Arc;

use anyhow::{Result, anyhow, bail};
use tideline_core::internal::kinds::document::{ReadAs, ReadDocuments};
use tideline_core::internal::kinds::{Assignment, KindOptions, Tolerance, WantedKind};
use tideline_core::internal::model::Kind;
use tideline_core::internal::rules::{Effect, FilePatterns, NamePattern, Rename, Rule, What, built_in};
use tideline_core::internal::text::encoding::by_name;
use tideline_sources::Converters;
use toml::de::{DeTable, DeValue};

pub(crate) use converter::ConverterChoice;
pub(crate) use saved::Saved;
use table::{Source, Table, choice};
pub(crate) use view::ViewDefaults;

use crate::args::{CellsChoice, WeightChoice, WhatArgs, delimiter, tolerance};
use crate::commands::tell;

/// The name of a configuration file.
pub(crate) const FILE_NAME: &str = "tideline.toml";

/// What the configuration says.
#[derive(Clone, Debug, Default)]
pub(crate) struct Config {
    /// The files it was read from.
    pub(crate) files: Vec<PathBuf>,
    pub(crate) rules: Vec<Rule>,
    pub(crate) assignments: Vec<Assignment>,
    /// For some files, the rules that hold for them.
    pub(crate) choices: Vec<(FilePatterns, Vec<String>)>,
    pub(crate) view: ViewDefaults,
    pub(crate) saved: Vec<Saved>,
    /// Keys of the screen of `review`; only the user's own configuration can choose them.
    pub(crate) keys: Vec<KeyChoice>,
    /// Programs that read documents.
    pub(crate) converters: Vec<ConverterChoice>,
}

/// The keys that were chosen for something that the screen of `review` does.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) struct KeyChoice {
    /// What they do.
    pub(crate) action: String,
    pub(crate) keys: Vec<String>,
    /// Where that was chosen, for messages.
    pub(crate) place: String,
}

impl Config {
    /// Reads the configuration that holds for a command.
    pub(crate) fn load(args: &WhatArgs) -> Result<Self> {
        if args.no_config {
            return Ok(Self::default());
        }
        let nearest = match &args.config {
            Some(path) => Some(path.clone()),
            None => nearest_file(),
        };
        let mut config = match &nearest {
            Some(path) => Self::read(path)?,
            None => Self::default(),
        };
        let is_own = args.config.is_some() || nearest.is_some() && nearest == users_file();
        if let Some(choice) = config.keys.first().filter(|_| !is_own) {
            bail!(
                "cannot use {}: [keys] holds in your own configuration only, and this one belongs to a folder",
                choice.place
            );
        }
        if let Some(choice) = config.converters.first().filter(|_| !is_own) {
            tell(&format!(
                "note: [[converter]] in {} is not used: a program is run only from your own configuration; --config {} allows it",
                choice.place,
                nearest.as_deref().unwrap_or(Path::new("")).display()
            ));
            config.converters.clear();
        }
        if let Some(path) = users_file().filter(|path| Some(path) != nearest.as_ref() && path.is_file()) {
            config.add_users(Self::read(&path)?);
        }
        config.check_choices()?;
        Ok(config)
    }

    /// Who reads documents: the programs that were chosen, then those formats that are known.
    pub(crate) fn readers(&self) -> Arc<dyn ReadDocuments> {
        Converters::new(self.converters.iter().map(|choice| choice.converter.clone()).collect())
    }

    /// Adds what the user's own configuration says and the project's does not.
    fn add_users(&mut self, user: Self) {
        let known: HashSet<String> = self.rules.iter().map(|rule| rule.name().to_owned()).collect();
        self.rules.extend(user.rules.into_iter().filter(|rule| !known.contains(rule.name())));
        let saved: Vec<String> = self.saved.iter().map(|saved| saved.name.clone()).collect();
        self.saved.extend(user.saved.into_iter().filter(|other| !saved.contains(&other.name)));
        self.assignments.extend(user.assignments);
        self.choices.extend(user.choices);
        self.view.add(user.view);
        self.keys.extend(user.keys);
        self.converters.extend(user.converters);
        self.files.extend(user.files);
    }

    fn read(path: &Path) -> Result<Self> {
        let text = fs::read_to_string(path).map_err(|error| match error.kind() {
            ErrorKind::InvalidData => anyhow!("cannot use {}: it is not text in UTF-8", path.display()),
            _ => anyhow!("cannot read the configuration {}: {error}", path.display()),
        })?;
        Self::of(path, text)
    }

    /// Fails where a text would be no configuration.
    ///
    /// # Errors
    /// When it would not.
    pub(crate) fn check(path: &Path, text: String) -> Result<()> {
        Self::of(path, text)?.check_choices()
    }

    fn of(path: &Path, text: String) -> Result<Self> {
        let source = Source::new(path, text);
        let whole = DeTable::parse(&source.text).map_err(|error| {
            let span = error.span().unwrap_or(0..0);
            source.error(&span, error.message().lines().collect::<Vec<_>>().join(", "))
        })?;
        let mut config = Self { files: vec![path.to_path_buf()], ..Self::default() };
        let span = 0..0;
        let table = Table::new(&source, "the configuration", whole.get_ref(), &span);
        table.only(["rule", "kind", "view", "saved", "keys", "converter"])?;
        let mut names = HashSet::new();
        for (key, value) in table.entries() {
            match key {
                "rule" => {
                    for (rule, span) in tables(&source, "[[rule]]", value)? {
                        let rule = read_rule(&Table::new(&source, "a [[rule]]", rule, &span))?;
                        if !names.insert(rule.name().to_owned()) {
                            return Err(source.error(&span, format!("there are two rules `{}`", rule.name())));
                        }
                        config.rules.push(rule);
                    }
                }
                "kind" => {
                    for (kind, span) in tables(&source, "[[kind]]", value)? {
                        config.read_kind(&Table::new(&source, "a [[kind]]", kind, &span))?;
                    }
                }
                "converter" => {
                    for (converter, span) in tables(&source, "[[converter]]", value)? {
                        let table = Table::new(&source, "a [[converter]]", converter, &span);
                        config.converters.push(ConverterChoice::read(&table, needed_files(&table)?)?);
                    }
                }
                "view" => {
                    let view = one_table(&source, "[view]", value)?;
                    config.view = ViewDefaults::read(&Table::new(&source, "[view]", view, &value.span()))?;
                }
                "keys" => {
                    let keys = one_table(&source, "[keys]", value)?;
                    let keys = Table::new(&source, "[keys]", keys, &span);
                    for (action, value) in keys.entries() {
                        let place = source.place(&value.span());
                        let chosen = keys.texts(action)?.unwrap_or_default();
                        config.keys.push(KeyChoice { action: action.to_owned(), keys: chosen, place });
                    }
                }
                _ => {
                    let all = one_table(&source, "[saved.NAME]", value)?;
                    for (name, saved) in Table::new(&source, "[saved]", all, &value.span()).entries() {
                        let title = format!("[saved.{name}]");
                        let inner = one_table(&source, &title, saved)?;
                        config.saved.push(Saved::read(name, &Table::new(&source, &title, inner, &saved.span()))?);
                    }
                }
            }
        }
        Ok(config)
    }

    fn read_kind(&mut self, table: &Table<'_>) -> Result<()> {
        table.only([
            "files",
            "kind",
            "read",
            "encoding",
            "rules",
            "key",
            "header",
            "delimiter",
            "cells",
            "row-order",
            "comments",
            "tolerance",
        ])?;
        let files = needed_files(table)?;
        let kind = match table.text("kind")?.as_deref() {
            None => None,
            Some("text") => Some(WantedKind::As(Kind::Text)),
            Some("table") => Some(WantedKind::As(Kind::Table)),
            Some("data") => Some(WantedKind::As(Kind::Data)),
            Some("image") => Some(WantedKind::As(Kind::Image)),
            Some("bytes") => Some(WantedKind::As(Kind::Bytes)),
            Some("auto") => Some(WantedKind::Auto),
            Some(other) => {
                let error = format!("`{other}` is no kind; kinds are text, table, data, image, bytes, auto");
                return Err(table.source.error(&table.place_of("kind"), error));
            }
        };
        let encoding =
            match table.text("encoding")? {
                None => None,
                Some(name) => Some(by_name(&name).ok_or_else(|| {
                    table.source.error(&table.place_of("encoding"), format!("`{name}` is no encoding"))
                })?),
            };
        if let Some(rules) = table.texts("rules")? {
            self.choices.push((files.clone(), rules));
        }
        let how = read_how(table)?;
        let read = match table.text("read")?.as_deref() {
            None => None,
            Some("visible-text") => Some(ReadAs::VisibleText),
            Some(other) => {
                let error = format!("`{other}` is no way to read a file; `visible-text` reads what a page shows");
                return Err(table.source.error(&table.place_of("read"), error));
            }
        };
        self.assignments.push(Assignment { files, kind, encodings: (encoding, encoding), how, read });
        Ok(())
    }

    /// Rules that are chosen for some files must exist.
    fn check_choices(&self) -> Result<()> {
        let names = || self.rules.iter().map(Rule::name);
        for name in self.choices.iter().flat_map(|(_, names)| names) {
            if names().all(|known| known != name) {
                let meant = tideline_core::internal::text::spelling::nearest(name, names());
                let advice = meant.map(|meant| format!("; did you mean `{meant}`?")).unwrap_or_default();
                let files: Vec<_> = self.files.iter().map(|file| file.display().to_string()).collect();
                bail!(
                    "cannot use {}: a [[kind]] names the rule `{name}`, which there is not{advice}",
                    files.join(", ")
                );
            }
        }
        Ok(())
    }
}

/// The nearest configuration from the working folder upwards.
pub(crate) fn nearest_file() -> Option<PathBuf> {
    let folder = env::current_dir().ok()?;
    let found = folder.ancestors().map(|folder| folder.join(FILE_NAME)).find(|path| path.is_file())?;
    // A path from the working folder is shorter to read than a full one.
    Some(found.strip_prefix(&folder).map(Path::to_path_buf).unwrap_or(found))
}

/// The user's own configuration, by the XDG base folders.
fn users_file() -> Option<PathBuf> {
    let named = env::var_os("XDG_CONFIG_HOME").map(PathBuf::from).filter(|path| path.is_absolute());
    let base = named.or_else(|| env::var_os("HOME").map(|home| PathBuf::from(home).join(".config")))?;
    Some(base.join("tideline").join(FILE_NAME))
}

type Placed<'s> = (&'s DeTable<'s>, std::ops::Range<usize>);

fn tables<'s>(source: &Source, name: &str, value: &'s toml::Spanned<DeValue<'s>>) -> Result<Vec<Placed<'s>>> {
    let wrong = || source.error(&value.span(), format!("write {name} with two brackets on either side"));
    let items = value.get_ref().as_array().ok_or_else(wrong)?;
    items.iter().map(|item| Ok((item.get_ref().as_table().ok_or_else(wrong)?, item.span()))).collect()
}

fn one_table<'s>(source: &Source, name: &str, value: &'s toml::Spanned<DeValue<'s>>) -> Result<&'s DeTable<'s>> {
    let wrong = || source.error(&value.span(), format!("write {name} as a table"));
    value.get_ref().as_table().ok_or_else(wrong)
}

fn read_rule(table: &Table<'_>) -> Result<Rule> {
    table.only(["name", "files", "match", "what", "renamed", "effect"])?;
    let name = table.needed_text("name")?;
    let at = |key: &str, error: &dyn std::fmt::Display| table.source.error(&table.place_of(key), error);
    if built_in().any(|known| known == name) || name.starts_with(['/', '-']) || name.contains(',') || name.is_empty() {
        return Err(at(
            "name",
            &format!("`{name}` cannot be the name of a rule: it would be taken for something else"),
        ));
    }
    let mut parts = Vec::new();
    if let Some(pattern) = table.text("match")? {
        let what = What::pattern(&pattern).map_err(|error| at("match", &error))?;
        parts.push((format!("/{}/", pattern.replace('/', "\\/")), what));
    }
    if let Some((before, after)) = table.two_texts("renamed", ("before", "after"))? {
        let written = Rename::written(before.as_bytes(), after.as_bytes());
        let wrong =
            || at("renamed", &format!("`{before}` and `{after}` are no names of one thing: neither may be empty"));
        let written = written.ok_or_else(wrong)?;
        let what = What::parse(&written, []).map_err(|error| at("renamed", &error))?;
        parts.push((written, what));
    }
    for written in table.texts("what")?.unwrap_or_default() {
        let what = What::parse(&written, []).map_err(|error| at("what", &error))?;
        parts.push((written, what));
    }
    if parts.is_empty() {
        return Err(table.source.error(
            table.span,
            format!("the rule `{name}` needs a pattern (`match = '…'`), two names (`renamed = {{ before = \"…\", after = \"…\" }}`) or something built in (`what = \"comments\"`)"),
        ));
    }
    let effect = match table.needed_text("effect")?.as_str() {
        "ignore" => Effect::Ignore,
        "mute" => Effect::Mute,
        other => return Err(at("effect", &format!("`{other}` is no effect; a rule can `ignore` or `mute`"))),
    };
    let files = table.texts("files")?.map(|files| FilePatterns::new(&files)).transpose();
    let files = files.map_err(|error| at("files", &error))?;
    Ok(Rule::new(name, effect, parts).files(files).origin(table.source.place(table.span)))
}

/// How tables and data of some files are compared.
fn read_how(table: &Table<'_>) -> Result<KindOptions> {
    let wrong = |key: &str, error: String| table.source.error(&table.place_of(key), error);
    let between = match table.text("delimiter")? {
        Some(text) => Some(delimiter(&text).map_err(|error| wrong("delimiter", error))?),
        None => None,
    };
    let near = |text: &str| tolerance(text).map_err(|error| wrong("tolerance", error));
    let mut columns: Vec<(NamePattern, Tolerance)> = Vec::new();
    let mut of_all = None;
    match table.texts_by_name("tolerance")? {
        Some(named) => {
            for (column, text) in named {
                let name = NamePattern::column(&column).map_err(|error| wrong("tolerance", error))?;
                columns.push((name, near(&text)?));
            }
        }
        None => of_all = table.number_or_text("tolerance")?.map(|text| near(&text)).transpose()?,
    }
    let counts = |key: &str| -> Result<Option<bool>> {
        Ok(choice::<WeightChoice>(table, key)?.map(|weight| weight == WeightChoice::Counts))
    };
    Ok(KindOptions::default()
        .key(table.texts("key")?.unwrap_or_default())
        .no_header(table.flag("header")?.map(|header| !header))
        .delimiter(between)
        .cells_as_text(choice::<CellsChoice>(table, "cells")?.map(|cells| cells == CellsChoice::Text))
        .row_order_counts(counts("row-order")?)
        .comments_count(counts("comments")?)
        .tolerance(of_all)
        .column_tolerances(columns))
}

fn needed_files(table: &Table<'_>) -> Result<FilePatterns> {
    let missing = || table.source.error(table.span, format!("{} needs the key `files`", table.name));
    let files = table.texts("files")?.ok_or_else(missing)?;
    FilePatterns::new(&files).map_err(|error| table.source.error(&table.place_of("files"), error))
}
