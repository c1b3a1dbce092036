//! The section that a line is in: the function, class, heading or table above it.
//!
//! What opens a section is told by [`LANGUAGES`], a table of patterns by type of files. In languages that indent, a section holds the lines
//! that are indented deeper than its heading; in the others, all up to the next. A function or class comes first; a block is only told
//! after the function that it is in.

mod changes;
mod find;
mod languages;
mod outline;

pub use changes::{SectionChange, SectionChanges, section_changes};
pub use find::{SectionName, Sections};
pub use languages::{LANGUAGES, Language};
pub use outline::Section;
