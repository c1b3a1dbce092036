//! The text of a page in HTML that a reader sees, as the standard's own algorithm reads it.

use ego_tree::NodeRef;
use ego_tree::iter::Edge;
use scraper::node::Element;
use scraper::{ElementRef, Html, Node};
use tideline_core::internal::kinds::document::Extracted;

use super::lines::{Lines, part};
use super::word::row;

pub(super) fn read(bytes: &[u8]) -> Result<Extracted, String> {
    let text = String::from_utf8_lossy(bytes);
    let mut lines = Lines::default();
    lines.group("", "paragraph");
    visible_text(&text, &mut lines);
    Ok(lines.into_document("visible text of a page (HTML)", vec![part("markup", bytes)]))
}

/// Adds what a reader of a page sees.
pub(super) fn visible_text(page: &str, lines: &mut Lines) {
    let page = Html::parse_document(page);
    let mut seeing = Seeing { lines, paragraph: String::new(), prefix: String::new(), hiding: 0 };
    seeing.walk(page.root_element());
    seeing.end();
}

struct Seeing<'l> {
    lines: &'l mut Lines,
    paragraph: String,
    prefix: String,
    /// How many of the open elements hide what is in them.
    hiding: usize,
}

impl Seeing<'_> {
    /// Walks through an element. Deep ones are not walked through by calls of calls: a page may nest as it likes.
    fn walk(&mut self, root: ElementRef<'_>) {
        for edge in root.traverse() {
            match edge {
                Edge::Open(node) => match node.value() {
                    Node::Text(text) if self.hiding == 0 => self.paragraph.push_str(text),
                    Node::Element(element) => {
                        self.hiding += usize::from(hides(element));
                        self.open(element, node);
                    }
                    _ => {}
                },
                Edge::Close(node) => {
                    if let Node::Element(element) = node.value() {
                        self.hiding -= usize::from(hides(element));
                        if is_block(element.name()) {
                            self.end();
                        }
                    }
                }
            }
        }
    }

    fn open(&mut self, element: &Element, node: NodeRef<'_, Node>) {
        match element.name() {
            "br" => self.end(),
            "tr" => {
                self.end();
                let cells: Vec<String> = node
                    .children()
                    .filter_map(ElementRef::wrap)
                    .filter(|cell| matches!(cell.value().name(), "td" | "th"))
                    .map(|cell| cell.text().collect::<Vec<_>>().join(""))
                    .collect();
                self.lines.add("", &row(&cells));
            }
            "img" => {
                if let Some(text) = element.attr("alt").filter(|text| !text.trim().is_empty()) {
                    self.paragraph.push_str(&format!("[{}]", text.trim()));
                }
            }
            name if is_block(name) => {
                self.end();
                self.prefix = match name {
                    "h1" | "h2" | "h3" | "h4" | "h5" | "h6" => {
                        format!("{} ", "#".repeat(name[1..].parse().unwrap_or(1)))
                    }
                    "li" => "- ".to_owned(),
                    _ => String::new(),
                };
            }
            _ => {}
        }
    }

    fn end(&mut self) {
        self.lines.add(&self.prefix, &self.paragraph);
        if !self.paragraph.trim().is_empty() {
            self.prefix.clear();
        }
        self.paragraph.clear();
    }
}

/// Whether the text in an element is not shown, or was told with its row.
fn hides(element: &Element) -> bool {
    matches!(element.name(), "head" | "script" | "style" | "template" | "noscript" | "tr" | "svg")
        || element.attr("hidden").is_some()
        || element.attr("aria-hidden") == Some("true")
}

fn is_block(name: &str) -> bool {
    matches!(
        name,
        "address"
            | "article"
            | "aside"
            | "blockquote"
            | "body"
            | "dd"
            | "details"
            | "div"
            | "dl"
            | "dt"
            | "fieldset"
            | "figcaption"
            | "figure"
            | "footer"
            | "form"
            | "h1"
            | "h2"
            | "h3"
            | "h4"
            | "h5"
            | "h6"
            | "header"
            | "hr"
            | "legend"
            | "li"
            | "main"
            | "nav"
            | "ol"
            | "option"
            | "p"
            | "pre"
            | "section"
            | "summary"
            | "table"
            | "tbody"
            | "thead"
            | "tfoot"
            | "caption"
            | "ul"
    )
}
