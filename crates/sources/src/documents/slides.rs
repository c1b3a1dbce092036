//! Presentations of ECMA-376 (PPTX), slide by slide.

use std::collections::HashMap;

use tideline_core::internal::kinds::document::Extracted;

use super::lines::{Lines, part};
use super::markup::{Part, walk};
use super::package::Package;
use super::word::row;

pub(super) fn read(bytes: &[u8]) -> Result<Extracted, String> {
    let mut package = Package::open(bytes)?;
    let order = order(&mut package)?;
    let (mut lines, mut formatting) = (Lines::default(), String::new());
    for (at, name) in order.iter().enumerate() {
        let slide = package.text(name)?;
        lines.group(format!("slide {}", at + 1), "paragraph");
        paragraphs(&slide, &mut lines, &mut formatting)?;
        if let Some(notes) = notes_of(&mut package, name) {
            let text = package.text(&notes)?;
            lines.group(format!("notes of slide {}", at + 1), "paragraph");
            paragraphs(&text, &mut lines, &mut String::new())?;
        }
    }
    let mut left_out = package.left_out(|name| {
        let is_read = name.starts_with("ppt/slides/slide") || name.starts_with("ppt/notesSlides/notesSlide");
        (!is_read).then_some(match name {
            _ if name.contains("/media/") => "pictures",
            _ if name.contains("/embeddings/") => "embedded files",
            _ if name.contains("slideMaster") || name.contains("slideLayout") || name.contains("theme") => "styles",
            _ if name.starts_with("docProps/") => "properties",
            _ => "settings",
        })
    })?;
    left_out.push(part("formatting", formatting.as_bytes()));
    Ok(lines.into_document("presentation (PPTX)", left_out))
}

/// What the relations of a part lead to, by their names.
fn relations(package: &mut Package<'_>, part: &str) -> HashMap<String, String> {
    let mut targets = HashMap::new();
    let (folder, name) = part.rsplit_once('/').unwrap_or(("", part));
    let Ok(text) = package.text(&format!("{folder}/_rels/{name}.rels")) else { return targets };
    // Relations that cannot be read lead nowhere.
    let _ = walk(&text, |part| {
        if let Part::Open(tag) = part
            && let (Some(id), Some(target)) = (tag.attribute("Id"), tag.attribute("Target"))
        {
            targets.insert(id, resolved(folder, &target));
        }
    });
    targets
}

/// A path from a folder of a document.
fn resolved(folder: &str, target: &str) -> String {
    if let Some(whole) = target.strip_prefix('/') {
        return whole.to_owned();
    }
    let mut steps: Vec<&str> = folder.split('/').collect();
    for step in target.split('/') {
        match step {
            ".." => drop(steps.pop()),
            "." => {}
            step => steps.push(step),
        }
    }
    steps.join("/")
}

/// The slides in the order in which they are shown.
fn order(package: &mut Package<'_>) -> Result<Vec<String>, String> {
    let targets = relations(package, "ppt/presentation.xml");
    let presentation = package.text("ppt/presentation.xml")?;
    let mut order = Vec::new();
    walk(&presentation, |part| {
        if let Part::Open(tag) = part
            && tag.name == "sldId"
            && let Some(target) = tag.prefixed("r:id").and_then(|id| targets.get(&id))
        {
            order.push(target.clone());
        }
    })?;
    Ok(order)
}

fn notes_of(package: &mut Package<'_>, slide: &str) -> Option<String> {
    relations(package, slide).into_values().find(|target| target.contains("notesSlide"))
}

fn paragraphs(slide: &str, lines: &mut Lines, formatting: &mut String) -> Result<(), String> {
    let (mut paragraph, mut in_text, mut is_title) = (String::new(), false, false);
    let (mut tables, mut cells) = (0_usize, Vec::<String>::new());
    walk(slide, |part| match part {
        Part::Open(tag) => match tag.name {
            "sp" => is_title = false,
            "ph" => is_title = matches!(tag.attribute("type").as_deref(), Some("title" | "ctrTitle")),
            "p" => paragraph.clear(),
            "t" => in_text = true,
            "br" => paragraph.push(' '),
            "tbl" => tables += 1,
            "tr" => cells.clear(),
            "tc" => cells.push(String::new()),
            other => {
                formatting.push_str(other);
                formatting.push(' ');
            }
        },
        Part::Close(name) => match name {
            "t" => in_text = false,
            "p" if tables > 0 => {
                if let Some(cell) = cells.last_mut() {
                    cell.push_str(&paragraph);
                }
            }
            "p" if is_title => lines.heading(1, &paragraph),
            "p" => lines.add("", &paragraph),
            "tr" => lines.add("", &row(&cells)),
            "tbl" => tables = tables.saturating_sub(1),
            _ => {}
        },
        Part::Text(text) if in_text => paragraph.push_str(text),
        Part::Text(_) => {}
    })
}
