//! Two trees.

use proptest::prelude::*;
use tideline_core::internal::model::Status;
use tideline_core::internal::tree::{MemoryTree, Progress, TreeComparison, TreeOptions, compare};
use tideline_views::json;
use tideline_views::terminal::{Look, draw_tree};
use tideline_views::{Labels, TreeView};

fn draw(comparison: &TreeComparison, only: Option<&[Status]>, look: &Look) -> String {
    let labels = Labels::new("spring", "autumn");
    let mut out = Vec::new();
    draw_tree(
        &TreeView { labels: &labels, comparison, only, trusted: None, muted_is_hidden: false, is_sorted: false },
        look,
        &mut out,
    )
    .unwrap();
    String::from_utf8(out).expect("what is drawn is UTF-8")
}

fn compared(before: &MemoryTree, after: &MemoryTree) -> TreeComparison {
    compare(before, after, &TreeOptions::default(), &Progress::default())
}

fn tree() -> impl Strategy<Value = MemoryTree> {
    let path = prop::sample::select(vec!["a", "b", "c/d", "c/e", "c/f/g", "h/i", "h/j", "zeta"]);
    let text = prop::sample::select(vec!["", "one\n", "two\n", "one\ntwo\n"]);
    prop::collection::btree_map(path, text, 0..8)
        .prop_map(|files| files.into_iter().fold(MemoryTree::new(), |tree, (path, text)| tree.file(path, text)))
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(200))]

    #[test]
    fn every_file_that_differs_is_drawn_or_counted_in_its_folder(before in tree(), after in tree()) {
        let comparison = compared(&before, &after);
        let text = draw(&comparison, None, &Look::default().legend(false));
        let lines: Vec<&str> = text.lines().skip(1).filter(|line| line.starts_with("    ")).collect();
        let inside: usize = lines
            .iter()
            .filter_map(|line| line.split("folder with ").nth(1)?.split(' ').next()?.parse::<usize>().ok())
            .sum();
        let folders_drawn = lines.iter().filter(|line| line.contains("folder")).count();
        let collapsed = lines.iter().filter(|line| line.contains("folder with ") && !line.contains("moved")).count();
        let files = comparison.pairs.iter().filter(|pair| !pair.is_folder()).count();
        let drawn = lines.len() - folders_drawn;
        prop_assert!(drawn <= files && drawn + inside >= files, "{} {} {}:\n{}", drawn, inside, collapsed, text);
        let summary = text.lines().next().unwrap_or_default().to_owned();
        prop_assert!(summary.contains(&format!("{} file", comparison.files())), "{}", summary);
    }
}

#[test]
fn one_file_is_not_several_files() {
    let comparison = compared(&MemoryTree::new().file("a", "1\n"), &MemoryTree::new().file("a", "2\n"));
    let text = draw(&comparison, None, &Look::default());
    assert!(text.starts_with("spring ○  autumn ●    1 file: 0 same, 1 changed\n"), "{text}");
    assert!(text.contains("    ◐ a    1 change, 1 ○ 1 ●\n"), "{text}");
}

#[test]
fn a_folder_that_files_moved_out_of_was_not_empty() {
    let prose: String = (0..20).map(|n| format!("a line of prose, number {n}\n")).collect();
    let before = MemoryTree::new().file("old/report", prose.clone()).file("old/deep/list", "one\ntwo\n");
    let after = MemoryTree::new().file("report", prose);
    let text = draw(&compared(&before, &after), None, &Look::default());
    assert!(text.contains("○ old/      gone, folder with 1 file, 1 more moved\n"), "{text}");
    assert!(text.contains("↷ report    from old/report\n"), "{text}");
}

#[test]
fn what_is_hidden_is_counted() {
    let before = MemoryTree::new().file("a", "1\n").file("b", "1\n");
    let after = MemoryTree::new().file("a", "2\n").file("c", "another text\n");
    let only = [Status::New];
    let options = TreeOptions::default().only(Some(only.to_vec()));
    let comparison = compare(&before, &after, &options, &Progress::default());
    let text = draw(&comparison, Some(&only), &Look::default().legend(false));
    assert!(text.ends_with("\n  not shown: 1 changed, 1 gone (--only new)\n"), "{text}");
}

#[test]
fn records_of_trees_tell_what_the_pairs_tell() {
    let before = MemoryTree::new().link("link", "one").folder("empty").unreadable("locked");
    let after = MemoryTree::new().link("link", "two").file("locked", "x\n");
    let comparison = compared(&before, &after);
    let mut out = Vec::new();
    for pair in &comparison.pairs {
        json::write_record(&json::records::Record::Pair(json::tree_pair(pair)), &mut out).unwrap();
    }
    json::write_record(&json::tree_summary(&comparison), &mut out).unwrap();
    let text = String::from_utf8(out).unwrap();
    let rows: Vec<&str> = text.lines().collect();
    assert!(rows[0].contains("\"path\":\"empty\",\"status\":\"gone\",\"entry\":\"folder\""), "{text}");
    assert!(
        rows[1].contains("\"entry\":\"link\"") && rows[1].contains("\"note\":\"link to one, now to two\""),
        "{text}"
    );
    assert!(rows[2].contains("\"status\":\"unreadable\""), "{text}");
    assert!(rows[3].contains("\"files\":2") && rows[3].contains("\"folders_gone\":1"), "{text}");
}
