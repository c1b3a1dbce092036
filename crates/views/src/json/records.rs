//! The records as they are written. A change that would surprise a reader of theirs changes [`VERSION`](super::VERSION).

use std::io::{self, Write};

#[cfg(feature = "schema")]
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use tideline_core::internal::model::{Form, Status, Weight};
use tideline_core::internal::rules::Effect;

use super::apply_records::AppliedRecord;
use super::image_records::{ImageRecord, PixelsRecord};
use super::item_records::{ColumnRecord, NodeRecord, RowRecord};
pub use super::kind_names::{PairKind, UnitName};
use super::merge_records::{MergedRecord, PathRecord, RegionRecord, UnresolvedRecord, VersionsRecord};
#[cfg(feature = "schema")]
use super::names::{FormName, StatusName, WeightName};
use super::plan_records::{LeftOutRecord, PlanRecord, StepRecord, TotalsRecord, UndecidedRecord};
use super::range_records::RangeRecord;
#[cfg(feature = "schema")]
use super::rule_records::EffectName;
use super::rule_records::{ExplanationRecord, ReadingRecord, RuleRecord};
pub use super::value::ChangeSide;
use super::value::TextOrBytes;

/// One line of `--json`.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
#[serde(tag = "record", rename_all = "lowercase")]
pub enum Record {
    /// Opens the output.
    Comparison(ComparisonRecord),
    /// A pair of entries.
    Pair(PairRecord),
    /// A change of the pair before it.
    Change(ChangeRecord),
    /// A column of the pair before it in which something differs.
    Column(ColumnRecord),
    /// A row of the pair before it that differs.
    Row(Box<RowRecord>),
    /// A node of the pair before it that differs.
    Node(Box<NodeRecord>),
    /// What is known of the images of the pair before it.
    Image(ImageRecord),
    /// A region of the images of the pair before it that differs.
    Pixels(PixelsRecord),
    /// A range of bytes of the pair before it that differs.
    Range(RangeRecord),
    /// An edit of words that occurs more than once.
    Repeat(RepeatRecord),
    /// A section of the pair before it that differs: a function, a class, a chapter.
    Section(SectionRecord),
    /// A stretch of the pair before it that is not shown as different: only ignored text differs in it, or muted text that is hidden.
    Aside(AsideRecord),
    /// Changes of the pair before it that are not given.
    Cut(CutRecord),
    /// Closes the output.
    Summary(SummaryRecord),
    /// A file that a patch is about, and what became of it.
    Applied(Box<AppliedRecord>),
    /// Closes the output of a command that writes.
    Run(WrittenRecord),
    /// Opens a plan.
    Plan(PlanRecord),
    /// A step of a plan.
    Step(StepRecord),
    /// A difference that a plan does not carry.
    Undecided(UndecidedRecord),
    /// Closes a plan.
    Totals(TotalsRecord),
    /// A rule in force.
    Rule(RuleRecord),
    /// Why a line counts, is muted or is ignored.
    Explanation(ExplanationRecord),
    /// How two files are compared, and why so.
    Reading(ReadingRecord),
    /// A step that could not be carried out.
    #[serde(rename = "left_out")]
    LeftOut(LeftOutRecord),
    /// Opens the output of what compares or merges with a base.
    Versions(VersionsRecord),
    /// A stretch of lines that at least one side changed since the base.
    Region(Box<RegionRecord>),
    /// A path that at least one side changed since the base.
    Path(PathRecord),
    /// A conflict that is marked in a file.
    Unresolved(UnresolvedRecord),
    /// Closes the output of what compares or merges with a base.
    Merged(MergedRecord),
}

/// Opens the output: what is compared.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
pub struct ComparisonRecord {
    /// The version of the records.
    pub version: u32,
    /// The label of the side before.
    pub before: String,
    /// The label of the side after.
    pub after: String,
    /// What the side before is, where its path does not say that.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub before_is: Option<String>,
    /// What the side after is.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub after_is: Option<String>,
}

/// A pair of entries and its status.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
pub struct PairRecord {
    /// Its path; of two files, the name they share, or the name after.
    pub path: TextOrBytes,
    /// What became of it.
    #[cfg_attr(feature = "schema", schemars(with = "StatusName"))]
    pub status: Status,
    /// What it is; of a pair of two types, what it is after.
    pub entry: EntryName,
    /// How its contents were compared; null when there are none, or when there was no need to look at them.
    pub kind: Option<PairKind>,
    /// Changes that count.
    pub changes: usize,
    /// Changes that do not.
    pub muted: usize,
    /// Lines that differ; of a gone or new text, its lines. Of tables these are rows, of data values, as `unit` says.
    pub lines: usize,
    /// Of changes that count, how many lines are gone.
    pub lines_gone: usize,
    /// Of changes that count, how many lines are new.
    pub lines_new: usize,
    /// What `lines` counts, where it is not lines.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub unit: Option<UnitName>,
    /// The side before, if it is there.
    pub before: Option<PairSide>,
    /// The side after, if it is there.
    pub after: Option<PairSide>,
    /// The side that was changed later; null when neither was, or when that is not known.
    pub newer: Option<Side>,
    /// The path it moved from.
    pub moved_from: Option<TextOrBytes>,
    /// Blocks of its lines that moved to other files of the tree, or came from there.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub moved_blocks: Vec<MovedBlockRecord>,
    /// Attributes that differ, when they are compared.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub attributes: Vec<AttributeName>,
    /// What else there is to say: why it is unreadable, where links point.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub note: Option<String>,
}

/// One side of a pair.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
pub struct PairSide {
    /// Its size in bytes.
    pub size: u64,
    /// When it was last changed, by RFC 3339.
    pub modified: Option<String>,
    /// Its permission bits, in octal.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub mode: Option<String>,
    /// What it is written in; lines are given in UTF-8. Null when it is not text.
    pub encoding: Option<String>,
}

/// An end of a block of lines that moved from one file to another. In its own file, its lines are gone or new.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
pub struct MovedBlockRecord {
    /// Gone where it left, new where it came to.
    #[cfg_attr(feature = "schema", schemars(with = "FormName"))]
    pub form: Form,
    /// Its first line in this file, from 1.
    pub line: usize,
    /// How many lines it has here.
    pub lines: usize,
    /// The other file.
    pub other_path: TextOrBytes,
    /// Its first line there, from 1.
    pub other_line: usize,
    /// How many lines it has there.
    pub other_lines: usize,
    /// How many of its lines here are not the same there.
    pub edited_lines: usize,
}

/// What an entry of a tree is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
#[serde(rename_all = "lowercase")]
pub enum EntryName {
    /// A file.
    File,
    /// A folder.
    Folder,
    /// A symbolic link.
    Link,
    /// A socket, a pipe or a device.
    Special,
}

/// An attribute that differs.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
#[serde(rename_all = "lowercase")]
pub enum AttributeName {
    /// Permission bits.
    Mode,
    /// The time of the last change.
    Time,
}

/// One of the two sides.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
#[serde(rename_all = "lowercase")]
pub enum Side {
    /// The side before.
    Before,
    /// The side after.
    After,
}

/// An edit of words that occurs more than once.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
pub struct RepeatRecord {
    /// What it was.
    pub before: TextOrBytes,
    /// What it is now.
    pub after: TextOrBytes,
    /// How often it occurs.
    pub times: usize,
    /// In how many files.
    pub files: usize,
    /// How many changes are nothing else.
    pub alone: usize,
    /// The path of the first file with it.
    pub path: TextOrBytes,
    /// The line there, from 1.
    pub line: usize,
    /// What a rule that leaves it out would be told, if a rule can say it.
    pub rule: Option<String>,
}

/// A section that differs.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
pub struct SectionRecord {
    /// The path of its pair.
    pub path: TextOrBytes,
    /// The headings that it is in, the outermost first, and its own.
    pub section: Vec<String>,
    /// What happened to it.
    #[cfg_attr(feature = "schema", schemars(with = "FormName"))]
    pub form: Form,
    /// The changes in it that count, those in the sections inside it left out.
    pub changes: usize,
    /// Its lines before, if it is there: the first and the last, from 1.
    pub before: Option<(usize, usize)>,
    /// Its lines after.
    pub after: Option<(usize, usize)>,
}

/// A stretch of lines that differ.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
pub struct ChangeRecord {
    /// The path of its pair.
    pub path: TextOrBytes,
    /// Its number in its file, from 1.
    pub number: usize,
    /// What happened.
    #[cfg_attr(feature = "schema", schemars(with = "FormName"))]
    pub form: Form,
    /// Whether it counts.
    #[cfg_attr(feature = "schema", schemars(with = "WeightName"))]
    pub weight: Weight,
    /// The rules that mute it; none when it counts.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub rules: Vec<String>,
    /// The heading of the section it is in, or stands above.
    pub section: Option<String>,
    /// Whether it stands above that section and belongs to it, as a remark or an attribute does.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub above_section: bool,
    /// Its lines before.
    pub before: ChangeSide,
    /// Its lines after.
    pub after: ChangeSide,
    /// The lines in it that belong together, piece by piece.
    pub words: Vec<LineParts>,
}

/// A stretch that is not shown as different. With it and the changes, the text after can be rebuilt from the text before.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
pub struct AsideRecord {
    /// The path of its pair.
    pub path: TextOrBytes,
    /// Its lines before.
    pub before: ChangeSide,
    /// Its lines after.
    pub after: ChangeSide,
}

/// Changes that are not given, because a limit was set.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
pub struct CutRecord {
    /// The path of their pair.
    pub path: TextOrBytes,
    /// How many there are.
    pub changes: usize,
}

/// What a rule masked.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
pub struct PutAsideRecord {
    /// The rule.
    pub rule: String,
    /// What became of the lines.
    #[cfg_attr(feature = "schema", schemars(with = "EffectName"))]
    pub effect: Effect,
    /// Lines that differ and would count without the rule; two that belong together are one.
    pub lines: usize,
}

/// Two lines that belong together, or a line of which only a part differs. On either side, the parts add up to the line.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
pub struct LineParts {
    /// The number of the line before, from 1; missing where there is none.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub before_line: Option<usize>,
    /// The number of the line after, from 1; missing where there is none.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub after_line: Option<usize>,
    /// The line before, in parts; none where there is no such line.
    pub before: Vec<LinePart>,
    /// The line after, in parts; none where there is no such line.
    pub after: Vec<LinePart>,
}

/// A part of a line.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
pub struct LinePart {
    /// Its text.
    pub text: TextOrBytes,
    /// Whether it differs from the other side, and counts.
    pub changed: bool,
    /// Whether it differs from the other side, and is muted.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub muted: bool,
}

/// Closes the output: pairs by status, and changes in all of them.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
pub struct SummaryRecord {
    /// All pairs.
    pub files: usize,
    /// Pairs in which nothing differs.
    pub same: usize,
    /// Pairs in which only what does not count differs.
    pub muted: usize,
    /// Pairs in which something differs.
    pub changed: usize,
    /// Entries that only before has.
    pub gone: usize,
    /// Entries that only after has.
    pub new: usize,
    /// Pairs of which the path differs.
    pub moved: usize,
    /// Pairs of different types.
    pub retyped: usize,
    /// Pairs that could not be read.
    pub unreadable: usize,
    /// Folders that only before has; they are not counted among the files.
    pub folders_gone: usize,
    /// Folders that only after has.
    pub folders_new: usize,
    /// Changes that count, in all pairs.
    pub changes: usize,
    /// Changes that do not count, in all pairs.
    pub muted_changes: usize,
    /// Blocks of lines that moved from one file to another.
    #[serde(default, skip_serializing_if = "is_zero")]
    pub moved_blocks: usize,
    /// What the rules masked, in all pairs.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub put_aside: Vec<PutAsideRecord>,
    /// The edit that at least half of all lines that differ have in common.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub common_edit: Option<CommonEditRecord>,
    /// Pairs whose permissions were not compared, or only in part, because a side does not hold them.
    #[serde(default, skip_serializing_if = "is_zero")]
    pub modes_not_compared: usize,
    /// Pairs whose times were not compared, because a side does not hold them.
    #[serde(default, skip_serializing_if = "is_zero")]
    pub times_not_compared: usize,
    /// What there is to know of the sides and of some entries, besides what differs.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub remarks: Vec<RemarkRecord>,
}

/// Something to know of a side, or of an entry of it.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
pub struct RemarkRecord {
    /// The entry; none where it is about a side.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub path: Option<TextOrBytes>,
    /// What there is to know, in words.
    pub text: String,
}

/// An edit that is all that differs in many lines.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
pub struct CommonEditRecord {
    /// What it was.
    pub before: TextOrBytes,
    /// What it is now.
    pub after: TextOrBytes,
    /// The lines that differ in nothing else.
    pub lines: usize,
    /// All lines that differ.
    pub of: usize,
    /// What a rule that leaves it out would be told, if a rule can say it.
    pub rule: Option<String>,
}

impl SummaryRecord {
    /// Counts one pair.
    pub fn count(&mut self, status: Status, pairs: usize) {
        let counter = match status {
            Status::Same => &mut self.same,
            Status::Muted => &mut self.muted,
            Status::Changed => &mut self.changed,
            Status::Gone => &mut self.gone,
            Status::New => &mut self.new,
            Status::Moved => &mut self.moved,
            Status::Retyped => &mut self.retyped,
            Status::Unreadable => &mut self.unreadable,
        };
        *counter += pairs;
    }
}

fn is_zero(count: &usize) -> bool {
    *count == 0
}

/// What a command wrote.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
pub struct WrittenRecord {
    /// The number of the run, by which it can be undone; null when nothing was written.
    pub run: Option<u64>,
    /// Whether everything that was to be written is written.
    pub written: bool,
}

/// Writes one record and its line end.
///
/// # Errors
/// Whatever `out` fails with.
pub fn write_record(record: &Record, out: &mut dyn Write) -> io::Result<()> {
    serde_json::to_writer(&mut *out, record)?;
    out.write_all(b"\n")
}
