//! The word that was probably meant.

/// Of some known words, the one that a misspelt word is nearest to; none when all are too far away.
///
/// Distance counts letters put in, left out, replaced or swapped with their neighbour (F. J. Damerau, "A technique for
/// computer detection and correction of spelling errors", CACM 7, 1964). A third of the letters may be wrong.
///
/// ```
/// use tideline_core::internal::text::spelling::nearest;
///
/// assert_eq!(nearest("efect", ["name", "effect", "files"]), Some("effect"));
/// assert_eq!(nearest("zebra", ["name", "effect", "files"]), None);
/// ```
pub fn nearest<'k>(word: &str, known: impl IntoIterator<Item = &'k str>) -> Option<&'k str> {
    let farthest = (word.chars().count() / 3).max(1);
    let distances = known.into_iter().map(|candidate| (distance(word, candidate), candidate));
    distances
        .filter(|(distance, _)| *distance <= farthest)
        .min_by_key(|(distance, _)| *distance)
        .map(|(_, known)| known)
}

/// The number of slips between two words, neighbouring letters swapped being one.
fn distance(one: &str, other: &str) -> usize {
    let letters = |word: &str| word.chars().flat_map(char::to_lowercase).collect::<Vec<_>>();
    let (one, other) = (letters(one), letters(other));
    // rows[i][j]: the distance between the first i letters of one and the first j of the other.
    let mut rows = vec![(0..=other.len()).collect::<Vec<usize>>()];
    for i in 1..=one.len() {
        let mut row = vec![i];
        for j in 1..=other.len() {
            let replaced = rows[i - 1][j - 1] + usize::from(one[i - 1] != other[j - 1]);
            let mut least = replaced.min(rows[i - 1][j] + 1).min(row[j - 1] + 1);
            if i > 1 && j > 1 && one[i - 1] == other[j - 2] && one[i - 2] == other[j - 1] {
                least = least.min(rows[i - 2][j - 2] + 1);
            }
            row.push(least);
        }
        rows.push(row);
    }
    rows[one.len()][other.len()]
}

#[cfg(test)]
mod tests {
    use super::distance;

    #[test]
    fn each_slip_counts_one() {
        assert_eq!(distance("space", "space"), 0);
        assert_eq!(distance("spcae", "space"), 1);
        assert_eq!(distance("spac", "space"), 1);
        assert_eq!(distance("comment", "comments"), 1);
        assert_eq!(distance("", "abc"), 3);
    }
}
