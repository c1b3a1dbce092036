//! What views say in words, whatever they are drawn on.

pub(crate) mod account;
pub(crate) mod bytes;
pub(crate) mod change;
pub(crate) mod tree;

use tideline_core::patch::{Doubt, Misfit};

/// Why a hunk has no place, in words.
pub(crate) fn misfit_words(misfit: &Misfit) -> String {
    match misfit {
        Misfit::NoMatch { line, slack: Some(slack), .. } => {
            format!("no match; closest is line {}, where it goes in with --slack {slack}:", line + 1)
        }
        Misfit::NoMatch { line, .. } => format!("no match; closest is line {}:", line + 1),
        Misfit::Ambiguous(one, other) if one == other => {
            format!("line {} matches what it was and what it will be about equally well", one + 1)
        }
        Misfit::Ambiguous(one, other) => {
            format!("lines {} and {} match about equally well", one + 1, other + 1)
        }
        Misfit::Doubtful { line, differing, context, against } => {
            let fits = match differing {
                0 => format!("it matches at line {}, but ", line + 1),
                _ => format!(
                    "it matches at line {} with {differing} of {} different, but ",
                    line + 1,
                    plural(*context, "context line")
                ),
            };
            let why = match against {
                Doubt::AddedNearby(there) => format!("lines that it adds are there already, at line {}", there + 1),
                Doubt::RemovedNearby(there) => format!("lines that it removes are still there, at line {}", there + 1),
                Doubt::OthersDiffer => "some hunks of this file are in already and others are not".to_owned(),
                Doubt::NotAtFileEnd => "it adds lines at an end of the file, and other lines are there".to_owned(),
                Doubt::TooFewLines => "too few of its lines match for a place so far from its own".to_owned(),
            };
            fits + &why
        }
    }
}

/// A number of things in words; more than one of them, or none, with an `s`.
pub fn plural(count: usize, thing: &str) -> String {
    format!("{count} {thing}{}", if count == 1 { "" } else { "s" })
}

/// A number of things, with its thousands set apart.
pub(crate) fn counted(count: usize, thing: &str) -> String {
    format!("{} {thing}{}", grouped(count), if count == 1 { "" } else { "s" })
}

/// A number with its thousands set apart.
pub(crate) fn grouped(number: usize) -> String {
    let digits = number.to_string();
    let mut text = String::new();
    for (at, digit) in digits.chars().enumerate() {
        if at > 0 && (digits.len() - at).is_multiple_of(3) {
            text.push(',');
        }
        text.push(digit);
    }
    text
}

/// A number of bytes as people say it, in powers of a thousand.
pub fn bytes_in_words(bytes: u64) -> String {
    const UNITS: [&str; 5] = ["kB", "MB", "GB", "TB", "PB"];
    if bytes < 1000 {
        return counted(usize::try_from(bytes).unwrap_or(usize::MAX), "byte");
    }
    let mut value = bytes as f64 / 1000.0;
    let mut unit = 0;
    while value >= 999.95 && unit + 1 < UNITS.len() {
        value /= 1000.0;
        unit += 1;
    }
    format!("{value:.1} {}", UNITS[unit])
}

#[cfg(test)]
mod tests {
    use super::grouped;

    #[test]
    fn thousands_are_set_apart() {
        assert_eq!([0, 999, 1000, 1_234_567].map(grouped), ["0", "999", "1,000", "1,234,567"]);
    }
}
