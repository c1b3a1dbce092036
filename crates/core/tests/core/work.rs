//! The work of every stage grows in step with its input, on inputs that are made to be hard. Steps are counted, not timed.

use tideline_core::internal::align::words::align_words;
use tideline_core::internal::align::{Bounds, WalkBounds, align, align_masked, work};
use tideline_core::internal::kinds::text::{TextOptions, compare as compare_texts};
use tideline_core::internal::kinds::{ContentOptions, compare};
use tideline_core::internal::rules::{Effect, MaskedText, Rule, Rules, What};
use tideline_core::internal::text::words::Grain;
use tideline_core::internal::tree::{MemoryTree, Progress, TreeOptions, compare as compare_trees};

/// Holds the steps of some work on inputs of growing size under a multiple of the size.
fn grows_in_step(name: &str, sizes: [usize; 3], per_item: u64, work_on: impl Fn(usize) + Sync) {
    for size in sizes {
        let steps = work::counted(|| work_on(size)).1;
        println!("{name}: {} steps for each of {size}", steps / size as u64);
        assert!(steps <= per_item * size as u64, "{name}: {steps} steps for {size}");
    }
}

fn words(before: &str, after: &str) {
    align_words(before.as_bytes(), after.as_bytes(), &Grain::Word);
}

#[test]
fn words_of_hostile_lines() {
    let sizes = [10_000, 20_000, 80_000];
    for token in ["1.", "1,", "}", "tide", "x ", "潮"] {
        grows_in_step(token, sizes, 100, |size| {
            let line = token.repeat(size);
            words(&line, &format!("y{line}z"));
            words(
                &line,
                &format!("{}q{}", &line[..line.len() / 2 - line.len() / 2 % token.len()], &line[..token.len() * 7]),
            );
        });
    }
    grows_in_step("every second word", sizes, 200, |size| {
        let line = |end: &str| (0..size).map(|at| format!("level{at} {end} ")).collect::<String>();
        words(&line("low"), &line("high"));
    });
    grows_in_step("reversed", sizes, 800, |size| {
        let forwards: String = (0..size).map(|at| format!("{at},")).collect();
        let backwards: String = (0..size).rev().map(|at| format!("{at},")).collect();
        words(&forwards, &backwards);
    });
}

fn lines(before: &str, after: &str, bounds: &Bounds) {
    align(before.as_bytes(), after.as_bytes(), bounds);
}

#[test]
fn lines_of_hostile_texts() {
    let sizes = [4000, 8000, 32_000];
    let walked = Bounds::default().walk_from(0).walk_within(WalkBounds {
        solid: 4,
        varied: 2,
        closing: 16,
        differences: 20,
        steps: 4000,
        window: 4096,
        sampled: 16,
        beside: 64,
    });
    for bounds in [Bounds::default(), walked] {
        grows_in_step("alternating", sizes, 100, |size| {
            lines(&"ebb\n".repeat(size), &"ebb\nflow\n".repeat(size / 2), &bounds);
        });
        grows_in_step("reversed", sizes, 600, |size| {
            let forwards: String = (0..size).map(|at| format!("{at}\n")).collect();
            let backwards: String = (0..size).rev().map(|at| format!("{at}\n")).collect();
            lines(&forwards, &backwards, &bounds);
        });
        grows_in_step("brackets", sizes, 2000, |size| {
            let text = |step: usize| (0..size).map(|at| ["{\n", "}\n", "\n"][at * step % 3]).collect::<String>();
            lines(&text(1), &text(2), &bounds);
        });
        grows_in_step("nested", [1000, 2000, 8000], 600, |size| {
            let text = |last: usize| {
                let deeper = (0..size / 2).map(|at| format!("{}{{\n", " ".repeat(at % 40)));
                let back = (0..size / 2).rev().map(|at| format!("{}}}\n", " ".repeat(at * last % 40)));
                deeper.chain(back).collect::<String>()
            };
            lines(&text(1), &text(3), &bounds);
        });
    }
}

#[test]
fn lines_that_are_alike_under_a_rule() {
    let what = What::parse("numbers", []).unwrap();
    let rule = Rule::new("numbers", Effect::Mute, vec![("numbers".to_owned(), what)]);
    let rules = Rules::new(vec![rule]).file_rules(b"x.c");
    for bounds in [Bounds::default(), Bounds::default().walk_from(0)] {
        grows_in_step("alike without numbers", [900, 1800, 7200], 400, |size| {
            let text = |first: usize| {
                let rows = (first..first + size / 3).map(|at| format!("case {at}:\n  return {};\n  break;\n", at * 7));
                rows.collect::<String>()
            };
            let (before, after) = (text(0), format!("extra();\n{}", text(size / 9)));
            let masked = |text: &str| MaskedText::new(text.as_bytes().to_vec(), &rules);
            align_masked(&masked(&before).before(), &masked(&after), &bounds);
        });
        grows_in_step("one line repeated under a rule", [900, 1800, 7200], 200, |size| {
            let (before, after) = ("level 1\n".repeat(size), format!("new\n{}", "level 2\n".repeat(size)));
            let masked = |text: &str| MaskedText::new(text.as_bytes().to_vec(), &rules);
            align_masked(&masked(&before).before(), &masked(&after), &bounds);
        });
    }
}

#[test]
fn blocks_of_punctuation_that_moved() {
    let sizes = [2000, 4000, 16_000];
    grows_in_step("moved", sizes, 100, |size| {
        let block: String =
            (0..size).map(|at| format!("{}{}\n", "}".repeat(at % 90 + 1), ")".repeat(at / 90 + 1))).collect();
        let text: String = (0..2 * size).map(|at| format!("reading {at}\n")).collect();
        let (before, after) = (format!("{block}{text}"), format!("{text}{block}"));
        compare(b"x", (before.as_bytes(), after.as_bytes()), &ContentOptions::default());
    });
}

#[test]
fn counting_under_rules_pairs_no_lines() {
    let rule = Rule::new("numbers", Effect::Mute, vec![("numbers".to_owned(), What::parse("numbers", []).unwrap())]);
    let options = ContentOptions::default().rules(Rules::new(vec![rule]));
    grows_in_step("under a rule", [1000, 2000, 8000], 100, |size| {
        let before: String = (0..size).map(|at| format!("value_{at} = {} # metres\n", at * at % 1000)).collect();
        let after: String = (0..size).map(|at| format!("other{at} := {}; metres\n", at * at % 999)).collect();
        compare(b"x.py", (before.as_bytes(), after.as_bytes()), &options);
    });
}

#[test]
fn many_equal_files_that_are_renamed() {
    let trees = |size: usize| {
        let tree = |name: &str| {
            (0..size)
                .fold(MemoryTree::new(), |tree, at| tree.file(&format!("{name}/{name}{at}"), "one\ntwo\nthree\nfour\n"))
        };
        (tree("spring"), tree("autumn"))
    };
    grows_in_step("renamed", [500, 1000, 4000], 60, |size| {
        let (before, after) = trees(size);
        let found = compare_trees(&before, &after, &TreeOptions::default(), &Progress::default());
        assert!(found.pairs.iter().filter(|pair| pair.moved_from.is_some()).count() >= size);
    });
}

#[test]
fn what_is_looked_at_again_is_not_compared_again() {
    let text = |step: usize| (0..4000).map(|at| format!("reading {}\n", at * step % 4001)).collect::<String>();
    let (before, after) = (text(1), text(7));
    let options = ContentOptions::default().compared_once();
    let steps = |after: &str| work::counted(|| compare(b"x", (before.as_bytes(), after.as_bytes()), &options).extent());
    let (first, of_first) = steps(&after);
    let (again, of_again) = steps(&after);
    assert_eq!(first, again);
    assert!(100 * of_again < of_first, "{of_again} steps after {of_first}");
    // What changed meanwhile is compared as it is.
    let (changed, of_changed) = steps(&text(9));
    assert!(100 * of_changed > of_first && changed.counted > 0, "{of_changed} steps");
}

#[test]
fn passages_that_single_lines_part() {
    // Nothing is like anything, and every gap is small enough to be looked across.
    let text = |side: &str, size: usize, passage: usize| -> String {
        let line = |at: usize| match at % passage {
            0 => format!("kept {at}\n"),
            _ => format!("{side}{:x}\n", (at as u64).wrapping_mul(0x9e37_79b9_7f4a_7c15)),
        };
        (0..size).map(line).collect()
    };
    for passage in [3, 40, 150] {
        grows_in_step(&format!("passages of {passage}"), [2000, 4000, 16_000], 2000, |size| {
            let (before, after) = (text("b", size, passage), text("a", size, passage));
            compare_texts(before.as_bytes(), after.as_bytes(), &TextOptions::default());
        });
    }
}
