//! How a file will be read.

use anyhow::{Result, bail};
use tideline_core::internal::model::Kind;
use tideline_core::internal::text::encoding::{WantedEncodings, by_name};

use crate::args::{KindArgs, KindChoice, ReadArgs};

/// The kind that was asked for.
pub(crate) fn kind(args: KindArgs) -> Option<Kind> {
    match args.kind? {
        KindChoice::Text => Some(Kind::Text),
        KindChoice::Bytes => Some(Kind::Bytes),
        KindChoice::Archive | KindChoice::Auto => None,
    }
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
