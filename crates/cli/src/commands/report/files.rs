//! A report on two files.

use std::io::Write;

use anyhow::{Result, bail};
use tideline_core::internal::kinds::Comparison;
use tideline_core::internal::model::Status;
use tideline_views::html::{self, Assets};
use tideline_views::json::document::Document;
use tideline_views::report::{Body, FileReport};
use tideline_views::{PairView, beside_as_png, changes_in_words, markdown};

use super::super::Outcome;
use super::super::compare::{give_records, give_section_records};
use super::super::sides::Sides;
use super::super::unused::tell_unused;
use super::making::Making;
use super::target::{Format, Target, write_one};

pub(super) fn run(making: &Making, sides: &Sides, target: &Target) -> Result<Outcome> {
    if let Target::Folder(folder) = target {
        bail!(
            "cannot write {}: two files make one page; name it, as in -o {}page.html",
            folder.display(),
            folder.display()
        );
    }
    let labels = &sides.names.labels;
    let comparison = sides.compare(&making.request.contents);
    making.request.check_kind(&comparison, &sides.names.labels)?;
    making.request.check_lines(&comparison, &sides.names.labels)?;
    if target.format() == Format::Png && !matches!(comparison, Comparison::Image(_)) {
        bail!("cannot write an image of {} and {}: they are not both images", labels.before, labels.after);
    }
    let account = comparison.account();
    let attributes = making.request.attributes(sides);
    let same = attributes.is_empty() && making.request.is_same(sides, &comparison);
    let status = if attributes.is_empty() { comparison.status(same) } else { Status::Changed };
    let both = format!("{} → {}", labels.before, labels.after);
    let name = if sides.names.name.is_empty() { &both } else { &sides.names.name };
    let title = making.title(|| both.clone());
    let paths = making.paths(labels);
    let head = making.head(&title, labels, &paths, &account, Some(sides.type_name().as_bytes()));
    let note = making.request.note(&comparison, sides.attributes_in_words(&attributes));
    let body = Body::Pair(PairView::new(&comparison, sides.title(note.as_deref())));
    let file = FileReport::of_files(name, same, body);
    let shape = making.shape((sides.before.len() + sides.after.len()) as u64);
    let counts = changes_in_words(comparison.extent());
    let write = |out: &mut dyn Write| match target.format() {
        Format::Html => html::write_file_page(&head, &file, &shape, (Assets::Inline, None), out),
        Format::Markdown => {
            markdown::write_head(&head, out)?;
            markdown::write_file(&file, &shape, out)
        }
        Format::Png => match &comparison {
            Comparison::Image(images) => out.write_all(&beside_as_png(images)?),
            _ => Ok(()),
        },
        Format::Json => {
            let mut document = Document::begin(&head, out)?;
            let add = &mut |record| document.add(&record);
            if shape.tells_sections() {
                give_section_records(sides, (&comparison, status, &attributes), add)?;
            } else {
                give_records(sides, (&comparison, status, &attributes), (shape.marked(), shape.changes_shown()), add)?;
            }
            document.end()
        }
    };
    // A report on what was changed meanwhile does not come into its place.
    let whole = |out: &mut dyn Write| {
        write(out)?;
        sides.check().map_err(|error| std::io::Error::other(format!("{error:#}")))?;
        Ok(counts.clone())
    };
    write_one(target, whole)?;
    if !same {
        tell_unused(making.request.contents.all_rules(), &account);
    }
    Ok(Outcome::of(status))
}
