//! Numbers and sizes, in words.

/// A number of things in words, its thousands set apart; more than one of them, or none, with an `s`.
pub fn plural(count: usize, thing: &str) -> String {
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
        return plural(usize::try_from(bytes).unwrap_or(usize::MAX), "byte");
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
