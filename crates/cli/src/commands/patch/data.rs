//! `patch` on two documents of JSON: by RFC 6902, or RFC 7396.

use std::borrow::Cow;

use anyhow::{Context, Result, anyhow, bail};
use tideline_core::internal::kinds::data::{DataFormat, Document, read_document, write_json_patch, write_merge_patch};
use tideline_core::internal::kinds::read_text;

use super::common::inputs;
use crate::args::{PatchArgs, PatchFormat};
use crate::commands::Outcome;
use crate::commands::print::printing;
use crate::commands::request::Request;
use crate::commands::sides::Sides;
use crate::commands::writing::write_output;

pub(super) fn run(args: &PatchArgs, request: &Request, sides: &Sides) -> Result<Outcome> {
    let path = sides.type_name().as_bytes();
    if !request.contents.file_rules(path).is_clear() || request.counted_only {
        bail!(
            "cannot leave out what rules put aside: a patch of JSON tells all that differs; --rules off leaves the rules out"
        );
    }
    let text = |bytes: &'_ [u8], is_before: bool, named: &std::path::Path| -> Result<Vec<u8>> {
        let read = read_text(path, bytes, is_before, &request.contents);
        let (text, _) = read.ok_or_else(|| anyhow!("cannot read {} as JSON: it is not text", named.display()))?;
        Ok(text.into_owned())
    };
    let texts = (text(&sides.before, true, &args.before)?, text(&sides.after, false, &args.after)?);
    let (before, after) = (read(&texts.0, &args.before)?, read(&texts.1, &args.after)?);
    let bytes = match args.format {
        PatchFormat::MergePatch => write_merge_patch(&before, &after).with_context(|| {
            format!("cannot write a merge patch of {} and {}", args.before.display(), args.after.display())
        })?,
        _ => write_json_patch(&before, &after),
    };
    sides.check()?;
    let is_same = bytes.is_empty();
    match &args.output {
        Some(output) => {
            inputs(args).refuse(output)?;
            write_output(output, bytes)?;
        }
        None => printing(false, |out| out.write_all(&bytes))?,
    }
    Ok(if is_same { Outcome::Same } else { Outcome::Different })
}

fn read<'t>(text: &'t [u8], named: &std::path::Path) -> Result<Document<'t>> {
    read_document(Cow::Borrowed(text), DataFormat::Json).map_err(|failure| {
        let (line, column) = failure.line_and_column(text);
        anyhow!("cannot read {} as JSON: line {line}, column {column}: {}", named.display(), failure.reason)
    })
}
