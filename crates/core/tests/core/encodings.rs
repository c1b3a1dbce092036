//! Decoding: whatever the bytes, nothing is lost and nothing is made up.

use proptest::prelude::*;
use tideline_core::internal::text::encoding::{Decoded, by_name, decode};

/// The text and the name of the encoding; `None` for bytes.
fn decoded(bytes: &[u8], wanted: Option<&str>) -> Option<(Vec<u8>, String)> {
    match decode(bytes, wanted.map(|name| by_name(name).unwrap())) {
        Decoded::Text { text, written } => Some((text.into_owned(), written.name())),
        Decoded::Bytes => None,
    }
}

fn utf16(text: &str, little: bool) -> Vec<u8> {
    let units = std::iter::once(0xfeff).chain(text.encode_utf16());
    units.flat_map(|unit: u16| if little { unit.to_le_bytes() } else { unit.to_be_bytes() }).collect()
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(400))]

    #[test]
    fn utf8_stays_as_it_is(text in "[^\\x00\\u{feff}]*") {
        prop_assert_eq!(decoded(text.as_bytes(), None), Some((text.into_bytes(), "UTF-8".to_owned())));
    }

    #[test]
    fn utf16_with_a_mark_gives_its_text(text in "[^\\x00\\u{feff}]*", little in any::<bool>()) {
        let name = if little { "UTF-16LE with mark" } else { "UTF-16BE with mark" };
        prop_assert_eq!(decoded(&utf16(&text, little), None), Some((text.into_bytes(), name.to_owned())));
    }

    #[test]
    fn any_bytes_are_text_or_hold_a_nul(bytes in prop::collection::vec(any::<u8>(), 0..80)) {
        let marked = [&b"\xff\xfe"[..], b"\xfe\xff", b"\xef\xbb\xbf"].iter().any(|mark| bytes.starts_with(mark));
        match decoded(&bytes, None) {
            None => prop_assert!(bytes.contains(&0)),
            Some((text, name)) => {
                prop_assert!(marked || !bytes.contains(&0));
                // Bytes that fit no encoding are left alone; all others came out as UTF-8.
                prop_assert!(text == bytes || marked || std::str::from_utf8(&text).is_ok(), "{}", name);
            }
        }
    }

    #[test]
    fn single_byte_encodings_keep_every_line(bytes in prop::collection::vec(1..=255_u8, 0..80)) {
        let (text, _) = decoded(&bytes, Some("koi8-r")).unwrap();
        let lines = |text: &[u8]| text.iter().filter(|&&byte| byte == b'\n').count();
        prop_assert_eq!(lines(&text), lines(&bytes));
    }
}

#[test]
fn half_a_character_of_utf16_is_not_guessed_at() {
    let mut bytes = utf16("ebb", true);
    bytes.push(b'x');
    assert_eq!(decoded(&bytes, None), None, "a mark and a NUL, but no UTF-16: not text");
    let bytes = b"\xff\xfeabc".to_vec();
    let (text, name) = decoded(&bytes, None).unwrap();
    assert_eq!((text, name.as_str()), (bytes, "UTF-8"), "the bytes stay as they are");
}

#[test]
fn names_are_those_of_the_standard() {
    for name in ["latin1", "UTF-8", "shift_jis", "gbk", "koi8-r", " windows-1252 "] {
        assert!(by_name(name).is_some(), "{name}");
    }
    assert!(by_name("tidal").is_none());
}
