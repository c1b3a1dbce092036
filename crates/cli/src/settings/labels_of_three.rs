//! What a base and two sides are called: the shortest tails of their paths that tell them apart.

use std::path::{Component, Path};

use tideline_core::internal::merge::Three;

/// The name that three paths share, and what tells them apart.
#[derive(Debug, PartialEq, Eq)]
pub(crate) struct NamesOfThree {
    /// The common tail of the paths; empty when they have none.
    pub(crate) name: String,
    pub(crate) labels: Three<String>,
}

/// Names a base and two sides.
pub(crate) fn name_three(paths: Three<&Path>) -> NamesOfThree {
    let parts = paths.map(parts);
    let whole = || NamesOfThree { name: String::new(), labels: paths.map(|path| path.display().to_string()) };
    let shortest = parts.as_ref().map(Vec::len).all().into_iter().min().unwrap_or(0);
    let from_end = |parts: &[String], at: usize| parts[parts.len() - 1 - at].clone();
    let is_shared = |at: &usize| {
        let [base, mine, theirs] = parts.as_ref().map(|parts| from_end(parts, *at)).all();
        base == mine && mine == theirs
    };
    let shared = (0..shortest).take_while(is_shared).count();
    if shared == shortest {
        return whole();
    }
    // So many parts of each tell them apart.
    let tail = |parts: &[String], count: usize| {
        let upto = parts.len() - shared;
        parts[upto.saturating_sub(count)..upto].join("/")
    };
    let longest = parts.as_ref().map(Vec::len).all().into_iter().max().unwrap_or(0);
    let labels = (1..=longest)
        .map(|count| parts.as_ref().map(|parts| tail(parts, count)))
        .find(|labels| labels.base != labels.mine && labels.mine != labels.theirs && labels.base != labels.theirs);
    let Some(labels) = labels else { return whole() };
    let name = parts.base[parts.base.len() - shared..].join("/");
    NamesOfThree { name, labels }
}

fn parts(path: &Path) -> Vec<String> {
    let named = path.components().filter(|part| !matches!(part, Component::CurDir));
    named.map(|part| part.as_os_str().to_string_lossy().into_owned()).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    fn named(base: &str, mine: &str, theirs: &str) -> [String; 4] {
        let names = name_three(Three::new(Path::new(base), Path::new(mine), Path::new(theirs)));
        let [base, mine, theirs] = names.labels.all();
        [names.name, base, mine, theirs]
    }

    #[test]
    fn three_labels_are_the_shortest_tails_that_differ() {
        assert_eq!(
            named("demo/spring/a.toml", "demo/keeper/a.toml", "office/a.toml"),
            ["a.toml", "spring", "keeper", "office"]
        );
        assert_eq!(named("base.py", "mine.py", "theirs.py"), ["", "base.py", "mine.py", "theirs.py"]);
        assert_eq!(named("x/kit/a", "y/kit/a", "z/kit/a"), ["kit/a", "x", "y", "z"]);
        assert_eq!(named("one/x/a", "two/x/a", "two/y/a"), ["a", "one/x", "two/x", "two/y"]);
        assert_eq!(named("a", "a", "b"), ["", "a", "a", "b"]);
    }
}
