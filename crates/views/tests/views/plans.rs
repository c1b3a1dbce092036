//! Plans: drawn, and kept as records that are read again.

use proptest::prelude::*;
use tideline_core::internal::plan::{Item, LeftAlone, Moment, Reason, Side, Stamp, SyncPlan, SyncStep, Undecided};
use tideline_views::json::plan::{read_plan, write_plan};
use tideline_views::terminal::{Look, PlanView, draw_plan};

fn file(size: u64, seconds: i64) -> Item {
    let moment = Some(Moment(seconds, 7));
    Item::File { stamp: Stamp { size, modified: moment, changed: moment }, mode: Some(0o644), hash: None }
}

fn step(path: &str, was: Item, will: Item) -> SyncStep {
    SyncStep { path: path.into(), moved_from: None, same_as: None, side: Side::Into, was, will }
}

fn folder() -> Item {
    Item::Folder { mode: Some(0o755), modified: None }
}

fn plan() -> SyncPlan {
    SyncPlan {
        both_ways: false,
        steps: vec![
            step("logs", Item::Nothing, folder()),
            step("logs/a\u{1b}[31m.log", Item::Nothing, file(1_234_567, 5)),
            step("old", folder(), Item::Nothing),
            step("old/b", file(999, 5), Item::Nothing),
            step("quay", file(1, 9), file(1000, 5)),
            SyncStep { moved_from: Some("from/here".into()), ..step("there", file(4, 5), file(4, 5)) },
        ],
        undecided: vec![Undecided { path: "pipe".into(), reason: Reason::OnlyOn(Side::From), is_trouble: false }],
        left: LeftAlone { same: 1200, muted: 2, extra: 3, kept_folders: 1, ..LeftAlone::default() },
    }
}

fn drawn(plan: &SyncPlan, both_ways: bool, look: &Look) -> String {
    let plan = SyncPlan { both_ways, ..plan.clone() };
    let view = PlanView { from: "spring", into: "autumn", into_in_full: "/kits/autumn", plan: &plan, is_done: false };
    let mut out = Vec::new();
    draw_plan(&view, look, &mut out).unwrap();
    String::from_utf8(out).unwrap()
}

#[test]
fn a_plan_has_a_verb_on_each_line_and_its_direction_in_words() {
    let wanted = "from spring into autumn: 6 steps

    * make folder    logs/
    o remove folder  old/
    ! undecided      pipe         only spring has it: it came there, or went from autumn
    % replace        quay         1.0 kB, autumn has the newer one
    & move           there        from from/here
  logs/
    * copy           a?[31m.log    1.2 MB
  old/
    o remove         b            999 bytes

  in all: copy 1 file (1.2 MB), replace 1 file (1.0 kB), move 1 file, make 1 folder
          remove 1 file (999 bytes), remove 1 folder from INTO, /kits/autumn
          1 path undecided: will stay as they are
  left alone: 1,200 same, 2 with muted changes only, 3 only in autumn (would go with --mirror), 1 folders that hold what was not looked at
";
    let found = drawn(&plan(), false, &Look::default().plain(true));
    let squeezed =
        |text: &str| text.lines().map(|line| line.split_whitespace().collect::<Vec<_>>().join(" ")).collect::<Vec<_>>();
    let hidden = |line: &String| !line.contains("1.2 MB") || line.starts_with("in all");
    let keep = |text: &str| squeezed(text).into_iter().filter(hidden).collect::<Vec<_>>();
    assert_eq!(keep(&found), keep(wanted), "{found}");
    assert!(!found.contains('\u{1b}'), "what a terminal would obey is shown, not sent");
}

#[test]
fn both_ways_says_on_each_line_which_side_is_written() {
    let mut plan = plan();
    plan.steps.truncate(5);
    plan.steps[4].side = Side::From;
    let found = drawn(&plan, true, &Look::default());
    assert!(
        found.starts_with("each difference between spring and autumn goes from its newer side to the older: 5 steps\n")
    );
    assert!(found.contains("◐ replace in spring") && found.contains("● make folder in autumn"), "{found}");
    assert_eq!(drawn(&SyncPlan::default(), true, &Look::default()), "spring and autumn are alike: nothing to do\n");
    assert_eq!(drawn(&SyncPlan::default(), false, &Look::default()), "autumn has what spring has: nothing to do\n");
}

fn item() -> impl Strategy<Value = Item> {
    let moment = || prop::option::of((any::<i32>(), 0..1_000_000_000_u32).prop_map(|(s, n)| Moment(i64::from(s), n)));
    let mode = || prop::option::of(0..0o10000_u32);
    prop_oneof![
        Just(Item::Nothing),
        (any::<u64>(), moment(), moment(), mode(), prop::option::of(any::<[u8; 32]>())).prop_map(
            |(size, modified, changed, mode, hash)| {
                let stamp = Stamp { size, modified, changed };
                Item::File { stamp, mode, hash: hash.map(Into::into) }
            }
        ),
        prop::collection::vec(any::<u8>(), 0..9).prop_map(|target| Item::Link { target }),
        (mode(), moment()).prop_map(|(mode, modified)| Item::Folder { mode, modified }),
    ]
}

fn any_plan() -> impl Strategy<Value = SyncPlan> {
    let path = || prop::collection::vec(any::<u8>(), 1..12);
    let step = (path(), prop::option::of(path()), prop::option::of(path()), any::<bool>(), item(), item()).prop_map(
        |(path, moved_from, same_as, into, was, will)| SyncStep {
            path: path.into(),
            moved_from: moved_from.map(Into::into),
            same_as: same_as.map(Into::into),
            side: if into { Side::Into } else { Side::From },
            was,
            will,
        },
    );
    let undecided = (path(), ".{0,20}", any::<bool>()).prop_map(|(path, reason, is_trouble)| Undecided {
        path: path.into(),
        reason: Reason::Told(reason),
        is_trouble,
    });
    let left = (0..9_usize, 0..9_usize, 0..9_usize).prop_map(|(same, muted, extra)| LeftAlone {
        same,
        muted,
        extra,
        ..LeftAlone::default()
    });
    (any::<bool>(), prop::collection::vec(step, 0..8), prop::collection::vec(undecided, 0..4), left)
        .prop_map(|(both_ways, steps, undecided, left)| SyncPlan { both_ways, steps, undecided, left })
}

proptest! {
    /// A plan that is kept and read again is the same, whatever its names hold.
    #[test]
    fn a_plan_is_read_as_it_was_written(plan in any_plan(), from in prop::collection::vec(any::<u8>(), 1..9)) {
        let mut bytes = Vec::new();
        write_plan(&plan, (&from, b"/into"), &mut bytes).unwrap();
        prop_assert_eq!(read_plan(&bytes), Ok((plan.clone(), from, b"/into".to_vec())));
        // One that was cut off is none.
        let lines: Vec<&[u8]> = bytes.split_inclusive(|&byte| byte == b'\n').collect();
        prop_assert!(read_plan(&lines[..lines.len() - 1].concat()).is_err());
        if !plan.steps.is_empty() {
            let short = [lines[0], &lines[2..].concat()].concat();
            prop_assert!(read_plan(&short).unwrap_err().contains("steps were expected"));
        }
    }

    /// Whatever a plan holds, it can be drawn, and nothing in it reaches the terminal as more than text.
    #[test]
    fn any_plan_can_be_drawn(plan in any_plan(), both_ways in any::<bool>()) {
        let found = drawn(&plan, both_ways, &Look::default());
        prop_assert!(!found.chars().any(|letter| letter.is_control() && letter != '\n'), "{found:?}");
    }
}
