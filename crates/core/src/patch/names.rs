//! How many leading folders of the names in a patch are to be dropped.

use super::model::FilePatch;

/// So many files of a patch are looked for.
const SAMPLE: usize = 100;

/// A name without its first folders; `None` when it has no more than those.
pub fn without_folders(name: &[u8], folders: usize) -> Option<&[u8]> {
    let mut rest = name;
    for _ in 0..folders {
        let at = rest.iter().position(|&byte| byte == b'/')?;
        rest = &rest[at + 1..];
        // Doubled slashes are one.
        while let Some(shorter) = rest.strip_prefix(b"/") {
            rest = shorter;
        }
    }
    (!rest.is_empty()).then_some(rest)
}

/// Finds out how many leading folders to drop from what exists: the number with which most files are found, and of several the
/// smallest. Where no file says anything, prefixes like `a/` and `b/`, which differ on the two sides, are dropped.
///
/// ```
/// use tideline_core::patch::{folders_to_drop, read_patch};
///
/// let patch = read_patch(b"--- a/src/x\n+++ b/src/x\n@@ -1 +1 @@\n-1\n+2\n").unwrap();
/// assert_eq!(folders_to_drop(&patch.files, |name| name == b"src/x"), 1);
/// assert_eq!(folders_to_drop(&patch.files, |name| name == b"x"), 2);
/// ```
pub fn folders_to_drop(files: &[FilePatch], exists: impl Fn(&[u8]) -> bool) -> usize {
    let names = |file: &FilePatch| [file.before.clone(), file.after.clone()].into_iter().flatten().collect::<Vec<_>>();
    let depth = |name: &Vec<u8>| name.iter().filter(|&&byte| byte == b'/').count();
    let deepest = files.iter().flat_map(names).map(|name| depth(&name)).max().unwrap_or(0);
    // Of very many files, some from everywhere say enough.
    let sample: Vec<&FilePatch> = files.iter().step_by(files.len().div_ceil(SAMPLE).max(1)).collect();
    let found = |folders: usize| {
        let there =
            |file: &&FilePatch| names(file).iter().any(|name| without_folders(name, folders).is_some_and(&exists));
        sample.iter().copied().filter(there).count()
    };
    let best = (0..=deepest)
        .map(|folders| (found(folders), folders))
        .max_by_key(|(found, folders)| (*found, std::cmp::Reverse(*folders)));
    match best {
        Some((found, folders)) if found > 0 => folders,
        _ => usize::from(
            files.iter().any(has_sides) || files.iter().all(|file| names(file).iter().all(|name| is_side(name))),
        ),
    }
}

/// Whether the two names of a file differ in their first folder alone.
fn has_sides(file: &FilePatch) -> bool {
    let (Some(before), Some(after)) = (&file.before, &file.after) else { return false };
    before != after && without_folders(before, 1).is_some() && without_folders(before, 1) == without_folders(after, 1)
}

/// Whether a name begins with a folder of one letter, as version-control systems write them.
fn is_side(name: &[u8]) -> bool {
    name.len() > 2 && name[0].is_ascii_lowercase() && name[1] == b'/'
}
