//! Office texts and presentations of ISO/IEC 26300 (ODT, ODP).

use tideline_core::internal::kinds::document::Extracted;

use super::failure::PASSWORD;
use super::lines::{Lines, part};
use super::markup::{Part, walk};
use super::package::Package;
use super::word::row;

pub(super) fn read_text(bytes: &[u8]) -> Result<Extracted, String> {
    read(bytes, false)
}

pub(super) fn read_slides(bytes: &[u8]) -> Result<Extracted, String> {
    read(bytes, true)
}

/// Fails where a password protects the document.
pub(super) fn check_protection(package: &mut Package<'_>) -> Result<(), String> {
    let manifest = package.text("META-INF/manifest.xml").unwrap_or_default();
    if manifest.contains("encryption-data") { Err(PASSWORD.to_owned()) } else { Ok(()) }
}

fn read(bytes: &[u8], has_slides: bool) -> Result<Extracted, String> {
    let mut package = Package::open(bytes)?;
    check_protection(&mut package)?;
    let content = package.text("content.xml")?;
    let mut lines = Lines::default();
    if !has_slides {
        lines.group("", "paragraph");
    }
    let formatting = walk_content(&content, &mut lines)?;
    let mut left_out = package.left_out(left_out)?;
    left_out.push(part("formatting", formatting.as_bytes()));
    let what = if has_slides { "presentation (ODP)" } else { "office text (ODT)" };
    Ok(lines.into_document(what, left_out))
}

pub(super) fn left_out(name: &str) -> Option<&'static str> {
    Some(match name {
        "content.xml" | "mimetype" => return None,
        _ if name.starts_with("Pictures/") || name.starts_with("Thumbnails/") => "pictures",
        _ if name.starts_with("Object") => "embedded files",
        "styles.xml" => "styles",
        "meta.xml" => "properties",
        _ => "settings",
    })
}

/// Adds the paragraphs of a document, and tells what else stands in it.
fn walk_content(content: &str, lines: &mut Lines) -> Result<String, String> {
    let (mut formatting, mut paragraph) = (String::new(), String::new());
    let (mut level, mut depth, mut lists, mut tables, mut slides) = (0, 0_usize, 0_usize, 0_usize, 0);
    let (mut is_skipped, mut cells) = (0_usize, Vec::<String>::new());
    walk(content, |part| match part {
        Part::Open(tag) => match tag.name {
            "p" | "h" => {
                if depth == 0 {
                    paragraph.clear();
                    level = if tag.name == "h" { tag.number("outline-level").unwrap_or(1) } else { 0 };
                }
                depth += 1;
            }
            "s" => paragraph.extend(std::iter::repeat_n(' ', tag.number("c").unwrap_or(1).min(100))),
            "tab" | "line-break" => paragraph.push(' '),
            "list" => lists += 1,
            "page" => {
                slides += 1;
                lines.group(format!("slide {slides}"), "paragraph");
            }
            "notes" => lines.group(format!("notes of slide {slides}"), "paragraph"),
            "table" => tables += 1,
            "table-row" if tables == 1 => cells.clear(),
            "table-cell" if tables == 1 => cells.push(String::new()),
            // What was deleted under tracked changes is kept apart.
            "tracked-changes" | "annotation" => is_skipped += 1,
            other => {
                formatting.push_str(other);
                formatting.push_str(&tag.attribute("style-name").unwrap_or_default());
                formatting.push(' ');
            }
        },
        Part::Close(name) => match name {
            "p" | "h" => {
                depth = depth.saturating_sub(1);
                if depth > 0 {
                    return;
                }
                if tables > 0 {
                    if let Some(cell) = cells.last_mut() {
                        let between = if cell.is_empty() { "" } else { " / " };
                        cell.push_str(between);
                        cell.push_str(&paragraph);
                    }
                } else if level > 0 {
                    lines.heading(level, &paragraph);
                } else {
                    lines.add(if lists > 0 { "- " } else { "" }, &paragraph);
                }
                paragraph.clear();
            }
            "list" => lists = lists.saturating_sub(1),
            "table-row" if tables == 1 => lines.add("", &row(&cells)),
            "table" => tables = tables.saturating_sub(1),
            "tracked-changes" | "annotation" => is_skipped = is_skipped.saturating_sub(1),
            _ => {}
        },
        Part::Text(text) if depth > 0 && is_skipped == 0 => paragraph.push_str(text),
        Part::Text(_) => {}
    })?;
    Ok(formatting)
}
