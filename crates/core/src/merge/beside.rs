//! Names of versions that are written beside a conflict that no marks can show: `NAME.LABEL.conflict`.

/// What follows a name in that of a version beside it; `number` counts from 1 those of one label.
///
/// ```
/// use tideline_core::internal::merge::suffix_beside;
///
/// assert_eq!(suffix_beside("feature/tides", 1), ".feature-tides.conflict");
/// assert_eq!(suffix_beside("office", 2), ".office.conflict.2");
/// ```
pub fn suffix_beside(label: &str, number: usize) -> String {
    let label = label.replace(['/', '\0'], "-");
    let number = if number == 1 { String::new() } else { format!(".{number}") };
    format!(".{label}.conflict{number}")
}

/// Whether a file of this name is such a version.
///
/// ```
/// use tideline_core::internal::merge::is_named_beside;
///
/// assert!(is_named_beside(b"chart.png.office.conflict"));
/// assert!(is_named_beside(b"chart.png.office.conflict.2"));
/// assert!(!is_named_beside(b"office.conflict"));
/// ```
pub fn is_named_beside(name: &[u8]) -> bool {
    let mut parts = name.rsplit(|byte| *byte == b'.');
    let mut last = parts.next();
    if last.is_some_and(|part| !part.is_empty() && part.iter().all(u8::is_ascii_digit)) {
        last = parts.next();
    }
    last == Some(b"conflict") && parts.count() >= 2
}
