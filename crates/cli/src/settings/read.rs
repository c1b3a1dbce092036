//! How a file will be read.

use std::io;
use std::sync::Arc;

use anyhow::{Result, bail};
use tideline_core::internal::kinds::{KindOptions, Scratch, ScratchFile, WantedKind};
use tideline_core::internal::model::Kind;
use tideline_core::internal::text::encoding::{WantedEncodings, by_name};

use crate::args::{CellsChoice, HowArgs, KindArgs, KindChoice, ReadArgs, WeightChoice};

/// The kind that was asked for.
pub(crate) fn kind(args: KindArgs) -> Option<WantedKind> {
    match args.kind? {
        KindChoice::Text => Some(WantedKind::As(Kind::Text)),
        KindChoice::Table => Some(WantedKind::As(Kind::Table)),
        KindChoice::Data => Some(WantedKind::As(Kind::Data)),
        KindChoice::Image => Some(WantedKind::As(Kind::Image)),
        KindChoice::Bytes => Some(WantedKind::As(Kind::Bytes)),
        KindChoice::Auto => Some(WantedKind::Auto),
        KindChoice::Archive => None,
    }
}

/// How tables and data are compared.
pub(crate) fn how(args: &HowArgs) -> KindOptions {
    KindOptions::default()
        .key(args.key.iter().map(|name| name.trim().to_owned()).collect())
        .no_header(args.no_header.then_some(true))
        .delimiter(args.delimiter)
        .cells_as_text(args.cells.map(|cells| cells == CellsChoice::Text))
        .row_order_counts(args.row_order.map(|order| order == WeightChoice::Counts))
        .comments_count(args.comments.map(|comments| comments == WeightChoice::Counts))
        .tolerance(args.tolerance.clone())
        .scratch(Some(Arc::new(TemporaryFiles)))
}

/// Finds the encodings that were asked for.
pub(crate) fn encodings(args: &ReadArgs) -> Result<WantedEncodings> {
    let Some(names) = &args.encoding else { return Ok((None, None)) };
    let find = |name: &str| match by_name(name) {
        Some(encoding) => Ok(Some(encoding)),
        None => bail!(
            "cannot use --encoding {names}: `{name}` is no encoding; common ones are utf-8, utf-16le, latin1, \
             windows-1252, koi8-r, shift_jis, gbk"
        ),
    };
    let (before, after) = names.split_once(',').unwrap_or((names, names));
    Ok((find(before)?, find(after)?))
}

/// Files in the system's folder for such.
#[derive(Debug)]
struct TemporaryFiles;

impl Scratch for TemporaryFiles {
    fn file(&self) -> io::Result<Box<dyn ScratchFile>> {
        Ok(Box::new(tempfile::tempfile()?))
    }
}
