//! How a file will be read.

use anyhow::{Result, bail};
use encoding_rs::Encoding;
use tideline_core::text::encoding::by_name;

use crate::args::ReadArgs;

/// The encodings that were asked for, of either side.
#[derive(Clone, Copy, Debug, Default)]
pub(crate) struct Encodings {
    pub(crate) before: Option<&'static Encoding>,
    pub(crate) after: Option<&'static Encoding>,
}

/// Finds the encodings that were asked for.
pub(crate) fn encodings(args: &ReadArgs) -> Result<Encodings> {
    let Some(names) = &args.encoding else { return Ok(Encodings::default()) };
    let find = |name: &str| match by_name(name) {
        Some(encoding) => Ok(Some(encoding)),
        None => bail!(
            "cannot use --encoding {names}: `{name}` is no encoding; common ones are utf-8, utf-16le, latin1, \
             windows-1252, koi8-r, shift_jis, gbk"
        ),
    };
    let (before, after) = names.split_once(',').unwrap_or((names, names));
    Ok(Encodings { before: find(before)?, after: find(after)? })
}
