//! Office texts of ECMA-376 (DOCX): paragraphs with their headings, lists, tables, notes.

use std::collections::HashMap;

use tideline_core::internal::kinds::document::Extracted;

use super::lines::{Lines, part};
use super::markup::{Part, walk};
use super::package::Package;

pub(super) fn read(bytes: &[u8]) -> Result<Extracted, String> {
    let mut package = Package::open(bytes)?;
    let levels = heading_levels(&mut package);
    let mut lines = Lines::default();
    lines.group("", "paragraph");
    let body = package.text("word/document.xml")?;
    let formatting = paragraphs(&body, &levels, &mut lines)?;
    let mut others: Vec<String> = package.names();
    others.sort();
    for name in others {
        let Some(what) = beside(&name) else { continue };
        let text = package.text(&name)?;
        lines.group(what, "paragraph");
        paragraphs(&text, &levels, &mut lines)?;
    }
    let mut left_out = package.left_out(left_out)?;
    left_out.push(part("formatting", formatting.as_bytes()));
    Ok(lines.into_document("office text (DOCX)", left_out))
}

/// What a part with text beside the body is.
fn beside(name: &str) -> Option<&'static str> {
    let name = name.strip_prefix("word/")?;
    let is = |start: &str| name.starts_with(start) && name.ends_with(".xml") && !name.contains('/');
    if is("footnotes") {
        Some("footnotes")
    } else if is("endnotes") {
        Some("endnotes")
    } else if is("header") {
        Some("header")
    } else if is("footer") {
        Some("footer")
    } else if name == "comments.xml" {
        Some("comments")
    } else {
        None
    }
}

fn left_out(name: &str) -> Option<&'static str> {
    if beside(name).is_some() || name == "word/document.xml" {
        return None;
    }
    Some(match name {
        _ if name.contains("/media/") => "pictures",
        _ if name.contains("/embeddings/") => "embedded files",
        _ if name.starts_with("word/styles") || name.contains("theme") || name.contains("fontTable") => "styles",
        _ if name.starts_with("word/numbering") => "numbering",
        _ if name.starts_with("docProps/") => "properties",
        _ => "settings",
    })
}

/// The levels of headings, by the names of their styles.
fn heading_levels(package: &mut Package<'_>) -> HashMap<String, usize> {
    let mut levels = HashMap::new();
    let Ok(styles) = package.text("word/styles.xml") else { return levels };
    let mut style = None;
    // A document without a readable list of styles has no headings.
    let _ = walk(&styles, |part| match part {
        Part::Open(tag) if tag.name == "style" => style = tag.attribute("styleId"),
        Part::Open(tag) if tag.name == "outlineLvl" => {
            if let (Some(style), Some(level)) = (&style, tag.number("val").filter(|level| *level < 9)) {
                levels.insert(style.clone(), level + 1);
            }
        }
        Part::Open(tag) if tag.name == "name" => {
            let name = tag.attribute("val").unwrap_or_default().to_ascii_lowercase();
            let level = if name == "title" {
                Some(1)
            } else {
                name.strip_prefix("heading ").and_then(|level| level.parse().ok())
            };
            if let (Some(style), Some(level)) = (&style, level) {
                levels.entry(style.clone()).or_insert(level);
            }
        }
        _ => {}
    });
    levels
}

/// Adds the paragraphs of a part, and tells what else stands in it.
fn paragraphs(text: &str, levels: &HashMap<String, usize>, lines: &mut Lines) -> Result<String, String> {
    let mut formatting = String::new();
    let (mut paragraph, mut style, mut is_list) = (String::new(), None, false);
    let (mut in_text, mut deleted) = (false, 0_usize);
    // Tables may stand in cells of tables: rows of the outermost one are told.
    let (mut tables, mut cells) = (0_usize, Vec::<String>::new());
    walk(text, |part| match part {
        Part::Open(tag) => match tag.name {
            "p" if tables == 0 => {
                paragraph.clear();
                (style, is_list) = (None, false);
            }
            "p" if cells.last().is_some_and(|cell| !cell.is_empty()) => paragraph.push_str(" / "),
            "p" => {}
            "pStyle" => style = tag.attribute("val"),
            "numPr" => is_list = true,
            "t" => in_text = deleted == 0,
            "tab" | "br" | "cr" => paragraph.push(' '),
            "noBreakHyphen" => paragraph.push('-'),
            "del" | "moveFrom" => deleted += 1,
            "tbl" => tables += 1,
            "tr" if tables == 1 => cells.clear(),
            "tc" if tables == 1 => {
                cells.push(String::new());
                paragraph.clear();
            }
            "rPr" | "pPr" | "sectPr" | "drawing" | "pict" => formatting.push_str(tag.name),
            other if !matches!(other, "r" | "body" | "document" | "proofErr" | "bookmarkStart" | "bookmarkEnd") => {
                formatting.push_str(other);
                formatting.push_str(&tag.attribute("val").unwrap_or_default());
                formatting.push(' ');
            }
            _ => {}
        },
        Part::Close(name) => match name {
            "t" => in_text = false,
            "del" | "moveFrom" => deleted = deleted.saturating_sub(1),
            "p" if tables == 0 => {
                match style.as_ref().and_then(|style| levels.get(style)) {
                    Some(level) => lines.heading(*level, &paragraph),
                    None => lines.add(if is_list || is_list_style(style.as_deref()) { "- " } else { "" }, &paragraph),
                }
                paragraph.clear();
            }
            "p" => {
                if let Some(cell) = cells.last_mut() {
                    cell.push_str(&paragraph);
                    paragraph.clear();
                }
            }
            "tr" if tables == 1 => lines.add("", &row(&cells)),
            "tbl" => tables = tables.saturating_sub(1),
            _ => {}
        },
        Part::Text(text) if in_text => paragraph.push_str(text),
        Part::Text(_) => {}
    })?;
    Ok(formatting)
}

fn is_list_style(style: Option<&str>) -> bool {
    style.is_some_and(|style| style.starts_with("List"))
}

/// A row of a table in a text, with bars between its cells.
pub(super) fn row(cells: &[String]) -> String {
    if cells.iter().all(|cell| cell.trim().is_empty()) {
        return String::new();
    }
    format!("| {} |", cells.iter().map(|cell| cell.trim()).collect::<Vec<_>>().join(" | "))
}
