//! What the two sides are called: the shortest tails of their paths that tell them apart.

use std::path::{Component, Path};

use tideline_sources::Origin;
use tideline_views::Labels;

/// The name that both sides share, and what tells them apart.
#[derive(Debug, PartialEq, Eq)]
pub(crate) struct Names {
    /// The common tail of both paths; empty when they have none.
    pub(crate) name: String,
    pub(crate) labels: Labels,
}

/// Names two sides.
pub(crate) fn name_sides(before: &Origin, after: &Origin) -> Names {
    let (Origin::Path(before), Origin::Path(after)) = (before, after) else {
        return Names { name: String::new(), labels: Labels::new(whole(before), whole(after)) };
    };
    let (parts_before, parts_after) = (parts(before), parts(after));
    let same = |(b, a): &(&String, &String)| b == a;
    let shared = parts_before.iter().rev().zip(parts_after.iter().rev()).take_while(same).count();
    let (left_before, left_after) = (parts_before.len() - shared, parts_after.len() - shared);
    let device = |path: &Path| path.starts_with("/dev") || path.starts_with("/proc");
    if left_before == 0 || left_after == 0 || device(before) || device(after) {
        let labels = Labels::new(before.display().to_string(), after.display().to_string());
        return Names { name: String::new(), labels };
    }
    let labels = Labels::new(parts_before[left_before - 1].clone(), parts_after[left_after - 1].clone());
    Names { name: parts_before[left_before..].join("/"), labels }
}

/// Names two trees: the last parts of their paths, or as much of them as tells them apart.
pub(crate) fn name_trees(before: &Path, after: &Path) -> Labels {
    let resolved = |path: &Path| path.canonicalize().map_or_else(|_| parts(path), |path| parts(&path));
    let (parts_before, parts_after) = (resolved(before), resolved(after));
    let longest = parts_before.len().max(parts_after.len());
    let tail = |parts: &[String], count: usize| parts[parts.len().saturating_sub(count)..].join("/");
    let apart = |count: &usize| tail(&parts_before, *count) != tail(&parts_after, *count);
    let count = (1..=longest).find(apart).unwrap_or(1);
    let short =
        |parts: &[String]| parts.get(parts.len().saturating_sub(count)).cloned().unwrap_or_else(|| "/".to_owned());
    Labels::new(short(&parts_before), short(&parts_after))
}

fn whole(origin: &Origin) -> String {
    match origin {
        Origin::StandardInput => "standard input".to_owned(),
        Origin::Path(path) => path.display().to_string(),
    }
}

fn parts(path: &Path) -> Vec<String> {
    let named = path.components().filter(|part| !matches!(part, Component::CurDir));
    named.map(|part| part.as_os_str().to_string_lossy().into_owned()).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    fn named(before: &str, after: &str) -> [String; 3] {
        let names = name_sides(&Origin::of(Path::new(before)), &Origin::of(Path::new(after)));
        [names.name, names.labels.before, names.labels.after]
    }

    #[test]
    fn labels_are_the_shortest_tails_that_differ() {
        assert_eq!(named("demo/spring/a/x.toml", "demo/autumn/a/x.toml"), ["a/x.toml", "spring", "autumn"]);
        assert_eq!(named("old.py", "new.py"), ["", "old.py", "new.py"]);
        assert_eq!(named("x.toml", "./old/x.toml"), ["", "x.toml", "./old/x.toml"]);
        assert_eq!(named("-", "x.toml"), ["", "standard input", "x.toml"]);
        assert_eq!(named("/dev/fd/63", "/dev/fd/62"), ["", "/dev/fd/63", "/dev/fd/62"]);
    }
}
