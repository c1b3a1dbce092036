//! Patches onto files that were altered meanwhile, with an oracle that knows where each hunk belongs: whatever happens, no hunk goes
//! to a wrong place, none goes in twice, and none is called in that is not. Refusing is always allowed; guessing never is.
//!
//! Two kinds of cases cannot be decided, and they are only counted: hunks that stand at the very lines that they name, or that
//! their neighbours say, though they belong elsewhere, and hunks of which less than two thirds is left where they belong (by weight: a line of punctuation counts a quarter).

use std::cell::RefCell;
use std::collections::BTreeSet;
use std::env;

use proptest::prelude::*;
use proptest::sample::Index;
use proptest::test_runner::{RngAlgorithm, TestRng, TestRunner};
use tideline_core::internal::align::{Bounds, align};
use tideline_core::internal::patch::{
    FileLabel, Hunk, HunkPlacement, LineRole, PatchOptions, PlaceOptions, Placement, place, read_patch,
    write_file_patch,
};

/// Where lines change, how many go, how many come, and whether these are like others in the text.
type Edit = (Index, u8, u8, bool);

/// What a random case is made of.
#[derive(Clone, Debug)]
struct Case {
    /// The blocks of the text: small numbers stand for one that is repeated, the others are unique.
    blocks: Vec<u8>,
    /// What changes.
    edits: Vec<Edit>,
    context: usize,
    /// Whether the patch is in already.
    already: bool,
    /// What happens to lines: beside a change or anywhere, and what.
    alterations: Vec<(Index, bool, Alteration)>,
    /// So many lines are added in front of everything.
    shift: usize,
    /// So many are added between the first two hunks.
    shift_between: usize,
    /// Which hunk is copied, as it was before or as it is after, and where to.
    copy: Option<(Index, bool, Index)>,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Alteration {
    Replaced,
    Removed,
    Followed,
}

fn cases() -> impl Strategy<Value = Case> {
    let alteration = prop::sample::select(vec![Alteration::Replaced, Alteration::Removed, Alteration::Followed]);
    let edits = prop::collection::vec((any::<Index>(), 0..3_u8, 0..4_u8, any::<bool>()), 1..4);
    let altered = prop::collection::vec((any::<Index>(), prop::bool::weighted(0.8), alteration), 0..4);
    let copy = prop::option::of((any::<Index>(), any::<bool>(), any::<Index>()));
    let moved = (prop_oneof![Just(0), 0..40_usize], prop_oneof![3 => Just(0), 1 => 1..9_usize]);
    let context = prop_oneof![9 => Just(3_usize), 1 => Just(2)];
    (prop::collection::vec(0..9_u8, 6..30), edits, context, any::<bool>(), altered, moved, copy).prop_map(
        |(blocks, edits, context, already, alterations, (shift, shift_between), copy)| Case {
            blocks,
            edits,
            context,
            already,
            alterations,
            shift,
            shift_between,
            copy,
        },
    )
}

/// A text like a program: functions that are alike, blank lines, braces, and lines of their own.
fn text(blocks: &[u8]) -> Vec<String> {
    let mut lines = Vec::new();
    for (at, block) in blocks.iter().enumerate() {
        let block: Vec<String> = match block {
            0 => ["if level.is_none() {", "    return 0", "}", ""].map(String::from).to_vec(),
            1 => ["fn close() {", "    gauge.stop()", "    log.flush()", "    return 1", "}", ""]
                .map(String::from)
                .to_vec(),
            2 => vec![
                format!("fn read_{at}() {{"),
                "    let level = gauge.read()".into(),
                "    return level".into(),
                "}".into(),
                String::new(),
            ],
            3 => ["station {", "  interval 60", "  datum chart", "}"].map(String::from).to_vec(),
            _ => vec![format!("level {at} of harbour {}", at * 7), format!("  sensor {at}")],
        };
        lines.extend(block);
    }
    lines
}

/// The text after: the edits carried out from the last to the first.
fn edited(before: &[String], edits: &[Edit]) -> Vec<String> {
    let mut after = before.to_vec();
    let mut places: Vec<(usize, &Edit)> = edits.iter().map(|edit| (edit.0.index(before.len()), edit)).collect();
    places.sort_by_key(|(at, _)| std::cmp::Reverse(*at));
    for (at, (_, gone, new, alike)) in places {
        let end = (at + usize::from(*gone)).min(after.len());
        let line = |n: u8| {
            let like = &before[(at + usize::from(n) * 3) % before.len()];
            if *alike { like.clone() } else { format!("    added {at}.{n}") }
        };
        after.splice(at..end, (0..*new).map(line));
    }
    after
}

fn joined(lines: &[String]) -> Vec<u8> {
    lines.iter().flat_map(|line| format!("{line}\n").into_bytes()).collect()
}

/// A stretch of changed lines of the patch: where it is before and after, and the lines that come.
struct Change {
    before: std::ops::Range<usize>,
    after: std::ops::Range<usize>,
    new: Vec<String>,
}

fn changes(hunks: &[Hunk]) -> Vec<Change> {
    let mut changes: Vec<Change> = Vec::new();
    for hunk in hunks {
        let (mut before, mut after) = (hunk.before, hunk.after);
        for rows in
            hunk.lines.chunk_by(|one, other| (one.role == LineRole::Context) == (other.role == LineRole::Context))
        {
            let count = |role: LineRole| rows.iter().filter(|row| row.role == role).count();
            if rows[0].role == LineRole::Context {
                (before, after) = (before + rows.len(), after + rows.len());
                continue;
            }
            let (gone, new) = (count(LineRole::Gone), count(LineRole::New));
            let text = |row: &tideline_core::internal::patch::HunkLine| {
                String::from_utf8(row.text.to_vec()).unwrap().trim_end_matches('\n').to_owned()
            };
            let lines = rows.iter().filter(|row| row.role == LineRole::New).map(text).collect();
            changes.push(Change { before: before..before + gone, after: after..after + new, new: lines });
            (before, after) = (before + gone, after + new);
        }
    }
    changes
}

/// A line of the target, and which line of the text it is, if it is one.
type Tagged = (Option<usize>, String);

/// A patch, the file that it meets, and what the file should be afterwards; nothing if only a refusal is right.
struct Meeting {
    hunks: Vec<Hunk>,
    target: Vec<u8>,
    expected: Option<Vec<u8>>,
    /// Where each hunk belongs.
    starts: Vec<Option<isize>>,
    /// Whether enough is left of every hunk there.
    is_left: bool,
}

fn meeting(case: &Case) -> Option<Meeting> {
    let before = text(&case.blocks);
    let after = edited(&before, &case.edits);
    let (old, new) = (joined(&before), joined(&after));
    let mut patch = Vec::new();
    let options = PatchOptions::default().context(case.context);
    let edits = align(&old, &new, &Bounds::default());
    write_file_patch((&FileLabel::new("x"), &FileLabel::new("x")), (&old, &new), &edits, &options, &mut patch).unwrap();
    let hunks = read_patch(&patch).ok()?.files.pop()?.hunks;
    let changes = changes(&hunks);
    let base = if case.already { &after } else { &before };
    let changed = |change: &Change| if case.already { change.after.clone() } else { change.before.clone() };
    let span = |hunk: &Hunk| {
        let (start, lines) =
            if case.already { (hunk.after, hunk.new_lines().count()) } else { (hunk.before, hunk.old_lines().count()) };
        start..start + lines
    };
    let mut tagged: Vec<Tagged> = base.iter().cloned().enumerate().map(|(at, line)| (Some(at), line)).collect();
    let mut only_refusal = false;
    let mut gone = BTreeSet::new();
    for (number, (index, near, what)) in case.alterations.iter().enumerate() {
        let at = if *near {
            let span = span(&hunks[index.index(hunks.len())]);
            span.start + index.index(span.len().max(1))
        } else {
            index.index(base.len())
        };
        let Some(position) = tagged.iter().position(|(tag, _)| *tag == Some(at)) else { continue };
        let is_changed = changes.iter().any(|change| changed(change).contains(&at));
        match what {
            // Of equal lines it cannot be told which one is altered; and a change whose lines are taken out again is not made, or made.
            Alteration::Replaced | Alteration::Removed
                if changes.iter().any(|change| touches(&changed(change), at, base)) =>
            {
                continue;
            }
            Alteration::Removed if is_changed => continue,
            Alteration::Replaced => tagged[position].1 = format!("{} altered {number}", base[at]),
            Alteration::Removed => {
                gone.insert(at);
                tagged.remove(position);
            }
            Alteration::Followed => {
                // Not into the middle of a change, nor beside one: what comes would belong on either side of it.
                if changes.iter().any(|change| (changed(change).start..=changed(change).end).contains(&(at + 1))) {
                    continue;
                }
                tagged.insert(position + 1, (None, format!("    followed {number}")));
            }
        }
        only_refusal |= is_changed && *what != Alteration::Followed;
    }
    if let Some((hunk, of_before, to)) = &case.copy {
        let hunk = &hunks[hunk.index(hunks.len())];
        let lines: Vec<String> = if *of_before {
            before[hunk.before..hunk.before + hunk.old_lines().count()].to_vec()
        } else {
            after[hunk.after..hunk.after + hunk.new_lines().count()].to_vec()
        };
        let to = to.index(tagged.len() + 1);
        // A copy stands elsewhere: not in or beside a hunk, nor where one is expected.
        let beside = tagged.get(to).is_some_and(|(tag, _)| {
            let is_near =
                |at: usize| hunks.iter().any(|hunk| (span(hunk).start..span(hunk).end + 10).contains(&(at + 10 - 5)));
            tag.is_none_or(|tag| is_near(tag) || is_near(to + case.shift))
        });
        // Nor at an end of the file where a hunk says that it is.
        let at_end =
            |hunk: &Hunk| span(hunk).start == 0 && to == 0 || span(hunk).end == base.len() && to == tagged.len();
        if !beside && case.context > 1 && !hunks.iter().any(at_end) {
            tagged.splice(to..to, lines.into_iter().map(|line| (None, line)));
        }
    }
    if case.shift_between > 0 && hunks.len() > 1 {
        let (end, start) = (span(&hunks[0]).end, span(&hunks[1]).start);
        if let Some(at) = tagged.iter().position(|(tag, _)| *tag == Some(end)).filter(|_| end < start) {
            tagged.splice(at..at, (0..case.shift_between).map(|n| (None, format!("between {n}"))));
        }
    }
    tagged.splice(0..0, (0..case.shift).map(|n| (None, format!("in front {n}"))));
    let target: Vec<String> = tagged.iter().map(|(_, line)| line.clone()).collect();
    let expected = if case.already { Some(joined(&target)) } else { counted_text(&tagged, &changes) };
    let is_left = hunks.iter().all(|hunk| {
        let weight = |line: &str| if line.bytes().any(|byte| byte.is_ascii_alphanumeric()) { 4 } else { 1 };
        let all: usize = base[span(hunk)].iter().map(|line| weight(line)).sum();
        let same = |tag: &usize| {
            span(hunk).contains(tag) && tagged.iter().any(|line| *line == (Some(*tag), base[*tag].clone()))
        };
        let left: usize = (0..base.len()).filter(same).map(|tag| weight(&base[tag])).sum();
        left * 3 >= all * 2
    });
    let start = |hunk: &Hunk| {
        let found = tagged
            .iter()
            .enumerate()
            .find_map(|(at, (tag, _))| Some((at, (*tag).filter(|tag| span(hunk).contains(tag))?)));
        found.map(|(at, tag)| at as isize - (tag - span(hunk).start) as isize)
    };
    let starts = hunks.iter().map(start).collect();
    Some(Meeting { hunks, target: joined(&target), expected: expected.filter(|_| !only_refusal), starts, is_left })
}

/// Whether a line is next to a stretch of lines that holds one like it.
fn touches(change: &std::ops::Range<usize>, at: usize, base: &[String]) -> bool {
    !change.contains(&at)
        && (change.start..=change.end).any(|line| line.abs_diff(at) <= change.len() + 1)
        && base[change.clone()].contains(&base[at])
}

/// The target with the changes carried out where they belong; none where nothing tells any more where that is.
fn counted_text(tagged: &[Tagged], changes: &[Change]) -> Option<Vec<u8>> {
    let mut lines: Vec<Tagged> = tagged.to_vec();
    for change in changes.iter().rev() {
        let position = |tag: usize| lines.iter().position(|(of, _)| *of == Some(tag));
        let at = if change.before.is_empty() {
            let above = change.before.start.checked_sub(1);
            match (above.and_then(position), position(change.before.start)) {
                (Some(above), _) => above + 1,
                (None, Some(below)) => below,
                (None, None) => return None,
            }
        } else {
            position(change.before.start)?
        };
        lines.retain(|(tag, _)| tag.is_none_or(|tag| !change.before.contains(&tag)));
        lines.splice(at..at, change.new.iter().map(|line| (None, line.clone())));
    }
    Some(joined(&lines.into_iter().map(|(_, line)| line).collect::<Vec<_>>()))
}

/// Whether each hunk that is in a wrong place stands where it says, or where the one above it says: then nothing in file or patch could
/// tell that it belongs elsewhere.
fn is_undecidable(meeting: &Meeting, found: &Placement) -> bool {
    let mut drift = if meeting.hunks.len() > 1 { None } else { Some(0) };
    meeting.hunks.iter().zip(&found.fits).zip(&meeting.starts).all(|((hunk, fit), start)| {
        let (old, new) = (hunk.old_lines().count() as isize, hunk.new_lines().count() as isize);
        let (line, grown) = match fit {
            HunkPlacement::Placed(placed) => (placed.line as isize, 0),
            HunkPlacement::AlreadyIn(line) => (*line as isize, new - old),
            HunkPlacement::Parts(_) | HunkPlacement::PlacementFailure(_) => return false,
        };
        let offset = line - hunk.before as isize;
        let is_right = start.is_some_and(|start| start.abs_diff(line) <= 3);
        let expected = offset == 0 || drift.is_none_or(|drift| drift == offset);
        drift = Some(offset + grown);
        is_right || expected
    })
}

#[derive(Debug, Default)]
struct Tally {
    right: u32,
    refused: u32,
    undecidable: u32,
}

fn number_of_cases() -> u32 {
    env::var("TIDELINE_TRIAL_CASES").ok().and_then(|cases| cases.parse().ok()).unwrap_or(2_000)
}

#[test]
fn altered_files_never_take_a_hunk_in_a_wrong_place_or_twice() {
    let tally = RefCell::new(Tally::default());
    let config =
        ProptestConfig { cases: number_of_cases(), max_global_rejects: 1_000_000, ..ProptestConfig::default() };
    // The same cases each time: what a run finds can be found again.
    let rng = TestRng::deterministic_rng(RngAlgorithm::ChaCha);
    TestRunner::new_with_rng(config, rng)
        .run(&cases(), |case| {
            let Some(meeting) = meeting(&case) else { return Err(TestCaseError::reject("no change")) };
            let found = place(&meeting.target, &meeting.hunks, &PlaceOptions::default());
            judge(&meeting, &found, &mut tally.borrow_mut())
        })
        .unwrap();
    let tally = tally.into_inner();
    eprintln!("{tally:?}");
    assert!(tally.right > tally.refused / 2, "refusing everything is no way to be right: {tally:?}");
}

fn judge(meeting: &Meeting, found: &Placement, tally: &mut Tally) -> Result<(), TestCaseError> {
    if !found.is_whole() {
        tally.refused += 1;
        return Ok(());
    }
    if meeting.expected.as_ref() == Some(&found.text) {
        tally.right += 1;
        return Ok(());
    }
    if !meeting.is_left || is_undecidable(meeting, found) {
        tally.undecidable += 1;
        return Ok(());
    }
    let target = String::from_utf8_lossy(&meeting.target).into_owned();
    let wanted = meeting.expected.as_ref().map(|text| String::from_utf8_lossy(text).into_owned());
    Err(TestCaseError::fail(format!(
        "{:?}\n--- hunks:\n{:?}\n--- target:\n{target}\n--- expected:\n{}\n--- found:\n{}",
        found.fits,
        meeting.hunks,
        wanted.unwrap_or_else(|| "a refusal".to_owned()),
        String::from_utf8_lossy(&found.text)
    )))
}
