//! The records of a plan: written by `--json`, kept in a file, and read again from there.

use std::io::{self, Write};

use serde::Deserialize;
use tideline_core::internal::plan::{
    Item, LeftAlone, Moment, Reason, Side, Stamp, SyncPlan, SyncStep, Undecided, Verb,
};

use super::plan_records::{
    ItemRecord, LeftOutRecord, PlanRecord, SideRecord, StepRecord, TotalsRecord, UndecidedRecord, VerbRecord,
};
use super::records::{Record, write_record};
use super::value::{VERSION, bytes_of, text};
use crate::wording::sync::plain_reason;

/// Writes a plan for trees with these roots.
///
/// # Errors
/// Whatever `out` fails with.
pub fn write_plan(plan: &SyncPlan, (from, into): (&[u8], &[u8]), out: &mut dyn Write) -> io::Result<()> {
    let (from, into) = (text(from), text(into));
    write_record(&Record::Plan(PlanRecord { version: VERSION, from, into, both_ways: plan.both_ways }), out)?;
    for step in &plan.steps {
        let record = StepRecord {
            verb: verb(step.verb()),
            path: text(&step.path),
            side: if step.side == Side::Into { SideRecord::Into } else { SideRecord::From },
            moved_from: step.moved_from.as_deref().map(text),
            same_as: step.same_as.as_deref().map(text),
            bytes: step.bytes(),
            was: item(&step.was),
            will: item(&step.will),
        };
        write_record(&Record::Step(record), out)?;
    }
    for one in &plan.undecided {
        let Undecided { path, reason, is_trouble } = one;
        let record = UndecidedRecord { path: text(path), reason: plain_reason(reason), trouble: *is_trouble };
        write_record(&Record::Undecided(record), out)?;
    }
    let LeftAlone { same, muted, extra, not_newer, kept_folders, ignored } = plan.left;
    let writes = [Verb::Copy, Verb::Replace, Verb::Move];
    let totals = TotalsRecord {
        steps: plan.steps.len(),
        bytes: writes.iter().fold(0, |bytes: u64, verb| bytes.saturating_add(plan.total(*verb).1)),
        removals: plan.total(Verb::Remove).0,
        same,
        muted,
        extra,
        not_newer,
        kept_folders,
        ignored,
    };
    write_record(&Record::Totals(totals), out)
}

/// Reads a plan that was kept, with the roots of its trees: from, into.
///
/// # Errors
/// When a line is not what it should be, with its number.
pub fn read_plan(bytes: &[u8]) -> Result<(SyncPlan, Vec<u8>, Vec<u8>), String> {
    let mut plan = SyncPlan::default();
    let mut roots = None;
    let mut whole = false;
    for (index, line) in bytes.split(|&byte| byte == b'\n').enumerate().filter(|(_, line)| !line.is_empty()) {
        let wrong = |reason: String| format!("line {}: {reason}", index + 1);
        // A plan of another version may have other records; that is said, and not which record is strange.
        if index == 0
            && let Ok(head) = serde_json::from_slice::<VersionOnly>(line)
            && head.record == "plan"
            && head.version != VERSION
        {
            return Err(other_version(head.version));
        }
        match serde_json::from_slice(line).map_err(|error| wrong(error.to_string()))? {
            Record::Plan(head) if head.version == VERSION => {
                plan.both_ways = head.both_ways;
                roots = Some((bytes_of(&head.from), bytes_of(&head.into)));
            }
            Record::Plan(head) => return Err(wrong(other_version(head.version))),
            Record::Step(step) => plan.steps.push(SyncStep {
                path: bytes_of(&step.path).into(),
                moved_from: step.moved_from.as_ref().map(|path| bytes_of(path).into()),
                same_as: step.same_as.as_ref().map(|path| bytes_of(path).into()),
                side: if step.side == SideRecord::Into { Side::Into } else { Side::From },
                was: item_of(&step.was),
                will: item_of(&step.will),
            }),
            Record::Undecided(one) => plan.undecided.push(Undecided {
                path: bytes_of(&one.path).into(),
                reason: Reason::Told(one.reason),
                is_trouble: one.trouble,
            }),
            Record::Totals(totals) => {
                if totals.steps != plan.steps.len() {
                    let (said, found) = (totals.steps, plan.steps.len());
                    return Err(wrong(format!("{said} steps were expected, and {found} are there")));
                }
                let TotalsRecord { same, muted, extra, not_newer, kept_folders, ignored, .. } = totals;
                plan.left = LeftAlone { same, muted, extra, not_newer, kept_folders, ignored };
                whole = true;
            }
            _ => return Err(wrong("it is no part of a plan".to_owned())),
        }
    }
    let (from, into) = roots.ok_or("it does not begin as a plan does")?;
    if whole { Ok((plan, from, into)) } else { Err("its end is missing".to_owned()) }
}

/// What is read of the first record before all else.
#[derive(Deserialize)]
struct VersionOnly {
    record: String,
    version: u32,
}

fn other_version(version: u32) -> String {
    format!(
        "another version of Tideline wrote it (its records have the version {version}, not {VERSION}); make the plan anew"
    )
}

/// A step that was left out, as a record.
pub fn left_out(path: &[u8], reason: &str) -> Record {
    Record::LeftOut(LeftOutRecord { path: text(path), reason: reason.to_owned() })
}

fn verb(verb: Verb) -> VerbRecord {
    match verb {
        Verb::Copy => VerbRecord::Copy,
        Verb::Replace => VerbRecord::Replace,
        Verb::Move => VerbRecord::Move,
        Verb::MakeFolder => VerbRecord::MakeFolder,
        Verb::Remove => VerbRecord::Remove,
        Verb::RemoveFolder => VerbRecord::RemoveFolder,
    }
}

fn item(item: &Item) -> ItemRecord {
    let pair = |moment: Option<Moment>| moment.map(|moment| (moment.0, moment.1));
    match item {
        Item::Nothing => ItemRecord::Nothing,
        Item::File { stamp, mode, hash } => ItemRecord::File {
            size: stamp.size,
            modified: pair(stamp.modified),
            changed: pair(stamp.changed),
            mode: *mode,
            hash: hash.map(|hash| hash.to_hex().to_string()),
        },
        Item::Link { target } => ItemRecord::Link { target: text(target) },
        Item::Folder { mode, modified } => ItemRecord::Folder { mode: *mode, modified: pair(*modified) },
    }
}

fn item_of(record: &ItemRecord) -> Item {
    let moment = |pair: Option<(i64, u32)>| pair.map(|(seconds, nanos)| Moment(seconds, nanos.min(999_999_999)));
    match record {
        ItemRecord::Nothing => Item::Nothing,
        ItemRecord::File { size, modified, changed, mode, hash } => Item::File {
            stamp: Stamp { size: *size, modified: moment(*modified), changed: moment(*changed) },
            mode: mode.map(|mode| mode & 0o7777),
            hash: hash.as_deref().and_then(|hash| blake3::Hash::from_hex(hash).ok()),
        },
        ItemRecord::Link { target } => Item::Link { target: bytes_of(target) },
        ItemRecord::Folder { mode, modified } => {
            Item::Folder { mode: mode.map(|mode| mode & 0o7777), modified: moment(*modified) }
        }
    }
}
