//! Blocks of lines that moved from one file of a tree to another.

use proptest::prelude::*;
use tideline_core::internal::align::work;
use tideline_core::internal::kinds::ContentOptions;
use tideline_core::internal::model::{Form, MovedBlock};
use tideline_core::internal::tree::{MemoryTree, Progress, TreeComparison, TreeOptions, compare};

use crate::rules::rules;
use crate::support::{lines, smallest_size};

const BLOCK: &str = "def feet(level, datum):\n    if datum is None:\n        raise ValueError(\"no datum\")\n    \
                     metres = level - datum\n    feet = metres / 0.3048\n    return round(feet, 2)\n";

fn tree(files: &[(&str, &str)]) -> MemoryTree {
    files.iter().fold(MemoryTree::default(), |tree, (path, text)| tree.file(path, text.as_bytes()))
}

fn compared(before: &[(&str, &str)], after: &[(&str, &str)], options: &TreeOptions) -> TreeComparison {
    compare(&tree(before), &tree(after), options, &Progress::default())
}

/// A block: its file, its form, its first and last line from 1, and the other end.
type Told = (String, Form, (usize, usize), String, (usize, usize));

/// The blocks of all files.
fn blocks(found: &TreeComparison) -> Vec<Told> {
    let text = |path: &[u8]| String::from_utf8_lossy(path).into_owned();
    let ends = |lines: &std::ops::Range<usize>| (lines.start + 1, lines.end);
    let of_pair = found.pairs.iter().flat_map(|pair| pair.moved_blocks.iter().map(move |block| (pair, block)));
    of_pair
        .map(|(pair, block)| (text(&pair.path), block.form, ends(&block.lines), text(&block.path), ends(&block.other)))
        .collect()
}

#[test]
fn a_block_that_moved_is_named_at_both_ends() {
    let main = format!("import sys\n{BLOCK}print(feet(1, 2))\n");
    let found = compared(
        &[("main.py", &main), ("lib/levels.py", "LEVELS = []\n")],
        &[("main.py", "import sys\nprint(feet(1, 2))\n"), ("lib/levels.py", &format!("LEVELS = []\n\n{BLOCK}"))],
        &TreeOptions::default(),
    );
    let (main, levels) = ("main.py".to_owned(), "lib/levels.py".to_owned());
    let here = [(levels.clone(), Form::New, (3, 8), main.clone(), (2, 7)), (main, Form::Gone, (2, 7), levels, (3, 8))];
    assert_eq!(blocks(&found), here);
    assert_eq!((found.moved_blocks, found.changes), (1, 2), "each end is still a removal and an insertion");
}

#[test]
fn a_block_whose_lines_are_nearly_the_same_moved_too_and_its_edits_are_known() {
    let long =
        format!("{BLOCK}def mean(levels):\n    return sum(levels) / len(levels)\n\n# all of them\nLEVELS = []\n");
    let edited = long.replace("return round(feet, 2)", "return round(feet, 3)");
    let found = compared(
        &[("a.py", &long), ("b.py", "x\n")],
        &[("a.py", ""), ("b.py", &format!("x\n{edited}"))],
        &TreeOptions::default(),
    );
    let came: Vec<&MovedBlock> =
        found.pairs.iter().flat_map(|pair| &pair.moved_blocks).filter(|block| block.form == Form::New).collect();
    let [block] = came[..] else { panic!("{:?}", blocks(&found)) };
    assert_eq!((block.lines.clone(), block.other.clone()), (1..12, 0..11));
    let [(6, words)] = &block.differing[..] else { panic!("{:?}", block.differing) };
    let line = "    return round(feet, 3)\n";
    let changed: Vec<&str> =
        words.iter().filter(|part| part.differs.is_some()).map(|part| &line[part.bytes.clone()]).collect();
    assert_eq!(changed, ["3"]);
}

#[test]
fn too_few_lines_too_few_letters_and_no_moves_are_no_blocks() {
    let of = |block: &str, options: &TreeOptions| {
        let (left, came) = (format!("one\n{block}two\n"), format!("three\n{block}"));
        let (before, after) = ([("a.txt", &*left), ("b.txt", "three\n")], [("a.txt", "one\ntwo\n"), ("b.txt", &*came)]);
        compared(&before, &after, options).moved_blocks
    };
    assert_eq!(of(BLOCK, &TreeOptions::default()), 1);
    assert_eq!(of(BLOCK, &TreeOptions::default().moves(false)), 0);
    let four: String = BLOCK.split_inclusive('\n').take(4).collect();
    assert_eq!(of(&four, &TreeOptions::default()), 0);
    assert_eq!(of("a {\n b {\n  c {\n  } d\n } e\n} f\n", &TreeOptions::default()), 0);
}

#[test]
fn what_does_not_count_does_not_keep_a_block_from_moving() {
    let before = [("a.py", BLOCK), ("b.py", "x\n")];
    let moved = format!("x\n{}", BLOCK.replace('\n', "  # checked\n"));
    let after = [("a.py", ""), ("b.py", moved.as_str())];
    assert_eq!(compared(&before, &after, &TreeOptions::default()).moved_blocks, 0);
    let contents = ContentOptions::default().rules(rules("comments", ""));
    assert_eq!(compared(&before, &after, &TreeOptions::default().contents(contents)).moved_blocks, 1);
}

/// Files by their paths.
type Files = Vec<(String, String)>;

/// Files of numbered lines, of which some runs went to other files.
fn carried() -> impl Strategy<Value = (Files, Files)> {
    let carry = (0..4_usize, 0..30_usize, 1..14_usize, 0..4_usize, 0..30_usize, 0..12_usize);
    prop::collection::vec(carry, 1..5).prop_map(|carries| {
        let name = |file: usize| format!("file-{file}.txt");
        let line = |file: usize, at: usize| format!("reading {at} of the gauge in file {file}\n");
        let mut files: Vec<Vec<String>> = (0..4).map(|file| (0..40).map(|at| line(file, at)).collect()).collect();
        let whole = |files: &[Vec<String>]| {
            files.iter().enumerate().map(|(file, lines)| (name(file), lines.concat())).collect::<Vec<_>>()
        };
        let before = whole(&files);
        for (from, at, count, to, place, edit) in carries {
            let end = (at + count).min(files[from].len());
            let mut block: Vec<String> = files[from].drain(at.min(end)..end).collect();
            if let Some(line) = block.get_mut(edit) {
                line.insert_str(0, "edited ");
            }
            let place = place.min(files[to].len());
            files[to].splice(place..place, block);
        }
        (before, whole(&files))
    })
}

proptest! {
    #[test]
    fn both_ends_are_nearly_the_same_lines_and_differ_only_where_it_is_said((before, after) in carried()) {
        let borrowed = |files: &[(String, String)]| {
            files.iter().fold(MemoryTree::default(), |tree, (path, text)| tree.file(path, text.as_bytes()))
        };
        let found = compare(&borrowed(&before), &borrowed(&after), &TreeOptions::default(), &Progress::default());
        let text = |files: &[(String, String)], path: &[u8]| {
            files.iter().find(|(name, _)| name.as_bytes() == path).unwrap().1.clone().into_bytes()
        };
        let mut ends = 0;
        for pair in &found.pairs {
            let mut last = [0, 0];
            for block in &pair.moved_blocks {
                ends += 1;
                let (own, other) = match block.form {
                    Form::Gone => (text(&before, &pair.path), text(&after, &block.path)),
                    _ => (text(&after, &pair.path), text(&before, &block.path)),
                };
                let (here, there) = (lines(&own)[block.lines.clone()].concat(), lines(&other)[block.other.clone()].concat());
                let longer = block.lines.len().max(block.other.len());
                let equal = (block.lines.len() + block.other.len() - smallest_size(&here, &there)) / 2;
                prop_assert!(10 * equal >= 9 * longer && longer >= 5);
                prop_assert!(block.differing.len() <= longer - equal);
                let side = usize::from(block.form == Form::New);
                prop_assert!(block.lines.start >= last[side], "blocks of a side do not overlap");
                last[side] = block.lines.end;
                let back = found.pairs.iter().find(|other| *other.path == *block.path).unwrap();
                prop_assert!(back.moved_blocks.iter().any(|other| other.lines == block.other && other.other == block.lines));
            }
        }
        prop_assert_eq!(ends, 2 * found.moved_blocks);
        let mirrored = compare(&borrowed(&after), &borrowed(&before), &TreeOptions::default(), &Progress::default());
        prop_assert_eq!(mirrored.moved_blocks, found.moved_blocks);
    }
}

#[test]
fn the_work_keeps_step_with_the_lines() {
    let steps = |files: usize| {
        let block =
            |file: usize| (0..40).map(|at| format!("line {} of all\n", (file * 7 + at) % 5000)).collect::<String>();
        let mut trees = (MemoryTree::default(), MemoryTree::default());
        for file in 0..files {
            trees.0 = trees.0.file(&format!("a{file}.txt"), format!("head {file}\n{}", block(file)).as_bytes());
            trees.0 = trees.0.file(&format!("b{file}.txt"), b"x\n");
            trees.1 = trees.1.file(&format!("a{file}.txt"), format!("head {file}\n").as_bytes());
            trees.1 = trees.1.file(&format!("b{file}.txt"), format!("x\n{}", block(file)).as_bytes());
        }
        work::counted(|| compare(&trees.0, &trees.1, &TreeOptions::default(), &Progress::default())).1
    };
    let (few, many) = (steps(100), steps(400));
    assert!(many <= 6 * few, "{few} steps for 100 files, {many} for 400");
}
