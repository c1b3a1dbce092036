//! Names in patches: how headers write them, and how many of their leading folders are to be dropped.

use super::model::{FilePatch, Operation};

/// So many files of a patch are looked for.
const SAMPLE: usize = 100;

/// A name without its first folders; `None` when it has no more than those. An absolute name has its root as the first.
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

/// Whether two names are the same but for their first folder.
pub(super) fn same_tail(one: &[u8], other: &[u8]) -> bool {
    let tail = |name: &[u8]| name.iter().position(|&byte| byte == b'/').map_or(0, |at| at + 1);
    one[tail(one)..] == other[tail(other)..]
}

/// The name in a header, in front of a tab or blanks that a time follows; none of a file that is not there.
pub(super) fn header_name(text: &[u8]) -> Option<Vec<u8>> {
    let quoted = unquoted(text).map(|(name, _)| name);
    let name = quoted.unwrap_or_else(|| text[..name_end(text)].to_vec());
    (name != b"/dev/null").then_some(name)
}

/// Where the name ends in a header.
fn name_end(text: &[u8]) -> usize {
    if let Some(tab) = text.iter().position(|&byte| byte == b'\t') {
        return tab;
    }
    // A time that blanks set off: it begins with a year or the name of a day, and has a time of the day in it.
    let starts_time = |at: &usize| {
        let rest = text[*at..].trim_ascii_start();
        let is_year = rest.len() > 10 && rest[..4].iter().all(u8::is_ascii_digit) && rest[4] == b'-' && rest[7] == b'-';
        let day = [&b"Mon "[..], b"Tue ", b"Wed ", b"Thu ", b"Fri ", b"Sat ", b"Sun "];
        let has_clock = rest.windows(6).any(|part| part[2] == b':' && part[5] == b':' && part[0].is_ascii_digit());
        (is_year || day.iter().any(|day| rest.starts_with(day))) && has_clock
    };
    let blanks = (1..text.len()).filter(|at| text[*at] == b' ' && text[at - 1] != b' ');
    blanks.into_iter().find(starts_time).unwrap_or(text.len())
}

/// Whether the time in a header is the beginning of 1970 (POSIX.1-2017, "Seconds Since the Epoch"), in whatever time zone: so programs
/// write that a file is not there.
pub(super) fn is_epoch(text: &[u8]) -> bool {
    let time = match unquoted(text) {
        Some((_, rest)) => rest,
        None => &text[name_end(text)..],
    };
    let Ok(time) = std::str::from_utf8(time) else { return false };
    let mut words = time.split_whitespace();
    let (Some(date), Some(clock)) = (words.next(), words.next()) else { return false };
    let number = |text: &str| text.parse::<i32>().ok();
    let mut parts = clock.split(':');
    let mut minutes = || {
        let minutes = number(parts.next()?)? * 60 + number(parts.next()?)?;
        parts.next()?.bytes().all(|byte| matches!(byte, b'0' | b'.')).then_some(minutes)
    };
    let zone = words.next().map_or(Some(0), |zone| {
        let hours_minutes = number(zone.trim_start_matches(['+', '-']))?;
        let minutes = hours_minutes / 100 * 60 + hours_minutes % 100;
        Some(if zone.starts_with('-') { -minutes } else { minutes })
    });
    let day = match date {
        "1970-01-01" => 0,
        "1969-12-31" => -24 * 60,
        _ => return false,
    };
    minutes().zip(zone).is_some_and(|(minutes, zone)| day + minutes - zone == 0)
}

/// A name quoted as in C, and what follows it.
pub(super) fn unquoted(text: &[u8]) -> Option<(Vec<u8>, &[u8])> {
    let mut rest = text.strip_prefix(b"\"")?;
    let mut name = Vec::new();
    loop {
        let (&byte, tail) = rest.split_first()?;
        rest = tail;
        match byte {
            b'"' => return Some((name, rest)),
            b'\\' => {
                let (&escaped, tail) = rest.split_first()?;
                rest = tail;
                name.push(match escaped {
                    b'n' => b'\n',
                    b't' => b'\t',
                    b'r' => b'\r',
                    b'a' => 7,
                    b'b' => 8,
                    b'v' => 11,
                    b'f' => 12,
                    b'0'..=b'7' => {
                        let digits: Vec<u8> = [escaped]
                            .into_iter()
                            .chain(rest.iter().copied().take(2).take_while(|byte| (b'0'..=b'7').contains(byte)))
                            .collect();
                        rest = &rest[digits.len() - 1..];
                        digits.iter().fold(0_u8, |value, digit| value.wrapping_mul(8).wrapping_add(digit - b'0'))
                    }
                    other => other,
                });
            }
            _ => name.push(byte),
        }
    }
}

/// What a target tells when the leading folders to drop are found out.
pub trait Names {
    /// Whether a file of this name is there.
    fn has_file(&self, name: &[u8]) -> bool;
    /// Whether a folder of this name is there.
    fn has_folder(&self, name: &[u8]) -> bool;
    /// What the target itself is called.
    fn own_name(&self) -> Vec<u8>;
}

/// Finds out how many leading folders to drop from what is there: the number with which most files are found that the patch does not
/// make; of several the one that every name allows, then the one with which most of the folders are found that files are made in, then
/// that of the `others`, and then the smallest. Where nothing is found, prefixes like `a/` and `b/`, which differ on the two sides,
/// are dropped.
pub fn folders_to_drop(files: &[FilePatch], target: &dyn Names, others: Option<usize>) -> usize {
    if files.is_empty() {
        return 0;
    }
    let names = |file: &FilePatch| [file.before.clone(), file.after.clone()].into_iter().flatten().collect::<Vec<_>>();
    let depth = |name: &Vec<u8>| name.iter().filter(|&&byte| byte == b'/').count();
    let deepest = files.iter().flat_map(names).map(|name| depth(&name)).max().unwrap_or(0);
    // Of very many files, some from everywhere say enough.
    let sample: Vec<&FilePatch> = files.iter().step_by(files.len().div_ceil(SAMPLE).max(1)).collect();
    let is_made = |file: &FilePatch| (file.is_new() || file.expects_nothing()) && file.operation == Operation::Change;
    let judged = |folders: usize| {
        let short = |name: &[u8]| without_folders(name, folders).map(<[u8]>::to_vec);
        let allowed = sample
            .iter()
            .all(|file| names(file).iter().all(|name| short(name).is_some_and(|name| !name.starts_with(b"/"))));
        let there =
            |file: &&&FilePatch| names(file).iter().any(|name| short(name).is_some_and(|name| target.has_file(&name)));
        // A file that is made is at home where the topmost folder of its name is there, or where that folder is the target itself.
        let parent = |file: &&&FilePatch| {
            let Some(name) = file.after.as_ref() else { return false };
            let Some(short) = short(name) else { return false };
            match short.iter().position(|&byte| byte == b'/') {
                Some(at) => target.has_folder(&short[..at]),
                None if folders == 1 => {
                    is_side(name)
                        || name.strip_prefix(&target.own_name()[..]).is_some_and(|rest| rest.starts_with(b"/"))
                }
                None => false,
            }
        };
        let found = sample.iter().filter(|file| !is_made(file)).filter(there).count();
        let parents = sample.iter().filter(|file| is_made(file)).filter(parent).count();
        (found, allowed, parents, others == Some(folders))
    };
    let best = (0..=deepest)
        .map(|folders| (judged(folders), folders))
        .max_by_key(|(judged, folders)| (*judged, std::cmp::Reverse(*folders)));
    match best {
        Some(((found, _, parents, is_others), folders)) if found > 0 || parents > 0 || is_others => folders,
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
pub(super) fn is_side(name: &[u8]) -> bool {
    name.len() > 2 && name[0].is_ascii_lowercase() && name[1] == b'/'
}
