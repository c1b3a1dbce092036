//! E-books (EPUB 3.3), chapter by chapter.

use std::collections::HashMap;

use tideline_core::internal::kinds::document::Extracted;

use super::lines::Lines;
use super::markup::{Part, walk};
use super::package::Package;
use super::page::visible_text;

pub(super) fn read(bytes: &[u8]) -> Result<Extracted, String> {
    let mut package = Package::open(bytes)?;
    let container = package.text("META-INF/container.xml")?;
    let mut root = None;
    walk(&container, |part| {
        if let Part::Open(tag) = part
            && tag.name == "rootfile"
        {
            root = root.take().or_else(|| tag.attribute("full-path"));
        }
    })?;
    let root = root.ok_or("it does not name its contents")?;
    let opf = package.text(&root)?;
    let (mut items, mut spine) = (HashMap::new(), Vec::new());
    walk(&opf, |part| {
        let Part::Open(tag) = part else { return };
        match tag.name {
            "item" => {
                if let (Some(id), Some(target)) = (tag.attribute("id"), tag.attribute("href")) {
                    items.insert(id, target);
                }
            }
            "itemref" => spine.extend(tag.attribute("idref")),
            _ => {}
        }
    })?;
    let folder = root.rsplit_once('/').map_or(String::new(), |(folder, _)| format!("{folder}/"));
    let chapters: Vec<String> =
        spine.iter().filter_map(|id| items.get(id)).map(|target| format!("{folder}{target}")).collect();
    let mut lines = Lines::default();
    for (at, name) in chapters.iter().enumerate() {
        let text = package.part(name)?;
        lines.group(format!("chapter {}", at + 1), "paragraph");
        visible_text(&String::from_utf8_lossy(&text), &mut lines);
    }
    let left_out = package.left_out(|name| {
        let ending = name.rsplit_once('.').map_or("", |(_, ending)| ending);
        let is_read = chapters.iter().any(|chapter| chapter == name) || name == "mimetype";
        (!is_read).then_some(match ending {
            "jpg" | "jpeg" | "png" | "gif" | "svg" | "webp" => "pictures",
            "css" | "ttf" | "otf" | "woff" | "woff2" => "styles",
            "opf" | "ncx" => "properties",
            _ => "settings",
        })
    })?;
    Ok(lines.into_document("e-book (EPUB)", left_out))
}
