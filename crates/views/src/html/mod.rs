//! Pages for a browser. Each is whole in itself: it loads nothing from elsewhere, and without scripts it can still be read.
//!
//! Templates are checked when they are compiled, and escape every text; what stands in a page unescaped are pieces of the page
//! itself, which other templates made. A content policy lets nothing run or load but the page's own style and script.

mod assets;
mod bytes;
mod file;
#[expect(unreachable_pub, reason = "the macro makes more than it is told to")]
mod filters;
mod image;
mod items;
mod line;
mod merged;
mod rows;
mod streamed;
mod tree;

use std::io::{self, Write};

use askama::Template;

use crate::report::{FileReport, Head, RuleLine, Shape};
use crate::shown::{shown_bytes, shown_name};
use crate::view::TreeView;
use crate::wording::account::account_lines;
use crate::wording::edit::common_edit;
use crate::wording::tree::{moved_blocks_in_all, summary};
pub use assets::{Assets, SCRIPT, SCRIPT_NAME, SIGNATURE, STYLE, STYLE_NAME};
pub use merged::{write_merged_file, write_merged_page, write_merged_tree};
pub use streamed::PageSection;
use streamed::Streamed;

/// The way from the page of a file to others.
#[derive(Clone, Debug, Default)]
pub struct Links {
    /// The address of the page of the tree.
    pub index: String,
    /// The file before it.
    pub previous: Option<Link>,
    /// The file after it.
    pub next: Option<Link>,
}

/// An address, and what it leads to.
#[derive(Clone, Debug)]
pub struct Link {
    href: String,
    name: String,
}

impl Link {
    /// A link to an address, which is escaped as addresses are, with what is there.
    pub fn new(href: impl Into<String>, name: &[u8]) -> Self {
        Self { href: href.into(), name: shown_bytes(name, false) }
    }
}

#[derive(Template)]
#[template(
    source = "<p class=\"cut\">The changes of {{ files|grouped }} more file{{ files|pluralize }} are not in this page, which holds {{ megabytes }} MB of them; a report into a folder (-o FOLDER/) holds all.</p>\n",
    ext = "html"
)]
struct Left {
    files: usize,
    megabytes: usize,
}

struct Side {
    label: String,
    path: String,
}

#[derive(Template)]
#[template(path = "page.html")]
struct Page<'a> {
    made: String,
    command: String,
    assets: Assets<'a>,
    /// The title of the report, where the page is about one file of it.
    over: Option<String>,
    heading: String,
    before: Side,
    after: Side,
    summary: Vec<String>,
    rules: Vec<RuleLine>,
    /// What is said where no rule is in force.
    without_rules: &'static str,
    links: Option<&'a Links>,
    has_changes: bool,
    /// Whether changes are of lines, which can be laid out, wrapped and folded.
    has_lines: bool,
    has_muted: bool,
    has_tree: bool,
    main: Streamed<'a>,
}

impl<'a> Page<'a> {
    fn new(head: &'a Head<'a>, assets: Assets<'a>, main: Streamed<'a>) -> Self {
        let side = |label: &str, path: &str| Side { label: shown_name(label, false), path: shown_name(path, false) };
        Self {
            made: shown_name(head.made, false),
            command: shown_name(head.command, false),
            assets,
            over: None,
            heading: shown_name(head.title, false),
            before: side(&head.labels.before, head.paths.0),
            after: side(&head.labels.after, head.paths.1),
            summary: Vec::new(),
            rules: head.rule_lines(),
            without_rules: head.without_rules(),
            links: None,
            has_changes: true,
            has_lines: true,
            has_muted: false,
            has_tree: false,
            main,
        }
    }
}

/// Writes a page of one file.
///
/// # Errors
/// Whatever `out` fails with.
pub fn write_file_page(
    head: &Head<'_>,
    file: &FileReport<'_>,
    shape: &Shape,
    (assets, links): (Assets<'_>, Option<&Links>),
    out: &mut dyn Write,
) -> io::Result<()> {
    let mut main = |out: &mut dyn Write| file::write_body(file, "", shape, out);
    let mut says = vec![file.facts.clone()];
    says.extend(file.account());
    let page = Page {
        over: (head.title != file.name).then(|| shown_name(head.title, false)),
        heading: file.name.clone(),
        summary: says,
        links,
        has_changes: !shape.sections && file::has_changes(file),
        has_lines: file.is_text(),
        has_muted: !shape.sections && file::has_muted(file),
        ..Page::new(head, assets, Streamed::new(&mut main))
    };
    page.write_into(&mut { out })
}

/// Writes one file into a page of many. Its addresses begin with `id`.
///
/// # Errors
/// Whatever `out` fails with.
pub fn write_file(file: &FileReport<'_>, id: &str, shape: &Shape, out: &mut dyn Write) -> io::Result<()> {
    file::write_file(file, id, shape, out)
}

/// Says how many files a page has no room for, if there are any; it holds so many bytes.
///
/// # Errors
/// Whatever `out` fails with.
pub fn write_left(files: usize, room: usize, out: &mut dyn Write) -> io::Result<()> {
    if files == 0 {
        return Ok(());
    }
    Left { files, megabytes: room >> 20 }.write_into(&mut { out })
}

/// Writes the page of two trees. `href` gives the address of a pair's changes, by its index, if they are anywhere; `more` writes
/// what follows the tree, if anything does, and whether it has changes to go through is said with it.
///
/// # Errors
/// Whatever `out` fails with.
pub fn write_tree_page(
    head: &Head<'_>,
    view: &TreeView<'_>,
    href: &dyn Fn(usize) -> Option<String>,
    assets: Assets<'_>,
    more: Option<(PageSection<'_>, bool)>,
    out: &mut dyn Write,
) -> io::Result<()> {
    let has_changes = more.as_ref().is_some_and(|(_, has_changes)| *has_changes);
    let mut more = more.map(|(more, _)| more);
    let mut main = |out: &mut dyn Write| {
        tree::write_tree(view, href, out)?;
        more.as_mut().map_or(Ok(()), |more| more(out))
    };
    let mut says = vec![summary(view).join(", ")];
    says.extend(account_lines(&view.comparison.account, view.muted_is_hidden, false));
    says.extend(moved_blocks_in_all(view.comparison));
    says.extend(view.comparison.common_edit().map(|edit| common_edit(&edit, false)));
    let page = Page {
        summary: says,
        has_changes,
        has_muted: !view.muted_is_hidden && view.comparison.muted > 0,
        has_tree: true,
        ..Page::new(head, assets, Streamed::new(&mut main))
    };
    page.write_into(&mut { out })
}
