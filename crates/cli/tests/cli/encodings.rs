//! What files are written in.

use base64::Engine;
use base64::prelude::BASE64_STANDARD;

use crate::support::Folder;

fn utf16(text: &str) -> Vec<u8> {
    [vec![0xff, 0xfe], text.encode_utf16().flat_map(u16::to_le_bytes).collect()].concat()
}

#[test]
fn utf16_is_compared_as_text_and_the_heading_says_so() {
    let folder = Folder::new();
    folder.write("a", &utf16("Ebbe\nhöher\n"));
    folder.write("b", "Ebbe\nhoch\n".as_bytes());
    let ran = folder.run(&["a", "b"]);
    assert!(ran.out.contains("1 change, UTF-16LE with mark, now UTF-8"), "{}", ran.out);
    assert!(ran.out.contains(" ○  2        höher\n"), "{}", ran.out);
    folder.write("c", &utf16("Ebbe\nhoch\n"));
    let ran = folder.run(&["a", "c"]);
    assert!(ran.out.contains("    1 change "), "no word of encodings when both have the same: {}", ran.out);
    let ran = folder.run(&["b", "c"]);
    assert_eq!(ran.status, Some(1), "the bytes differ, and the heading says in what");
    assert!(ran.out.contains("0 changes, UTF-8, now UTF-16LE with mark"), "{}", ran.out);
}

#[test]
fn an_encoding_can_be_named_for_both_sides_or_each() {
    let folder = Folder::new();
    folder.write("a", b"\xd0\xd2\xc9\xcc\xc9\xd7\n");
    folder.write("b", "прилив\n".as_bytes());
    let ran = folder.run(&["--encoding", "koi8-r,utf-8", "a", "b"]);
    assert!(ran.out.contains("0 changes, KOI8-R, now UTF-8"), "{}", ran.out);
    let ran = folder.run(&["--encoding", "tidal", "a", "b"]);
    assert_eq!(ran.status, Some(2));
    assert!(ran.err.contains("--encoding tidal: `tidal` is no encoding; common ones are utf-8"), "{}", ran.err);
}

#[test]
fn files_that_are_not_text_are_told_byte_by_byte() {
    let folder = Folder::new();
    folder.write("spring/chart.png", b"\x89PNG\0\x01\x02\x03");
    folder.write("autumn/chart.png", b"\x89PNG\0\x01\xff\x03\x04");
    let ran = folder.run(&["spring/chart.png", "autumn/chart.png"]);
    assert_eq!(ran.status, Some(1));
    for told in [
        "chart.png    spring ○  autumn ●    1 change",
        "\n  8 bytes, now 9\n",
        "\n  change 1 of 1 · offset 0x6 (6) · 2 bytes, now 3\n",
        "\n ○ 0000        89 50 4e 47 00 01 02 03                           ·PNG····\n",
        "\n ●       0000  89 50 4e 47 00 01 ff 03  04                       ·PNG·····\n",
    ] {
        assert!(ran.out.contains(told), "{told:?} is told: {}", ran.out);
    }
    folder.write("short", b"\x89PNG\0");
    let ran = folder.run(&["short", "spring/chart.png"]);
    assert!(ran.out.contains("offset 0x5 (5) · 3 bytes new"), "{}", ran.out);
}

#[test]
fn a_kind_says_how_both_sides_are_read_whatever_they_hold() {
    let folder = Folder::new();
    folder.write("b", b"low\0\nsame\n");
    folder.write("a", b"high\0\nsame\n\x01\0");
    folder.write("m1", b"\xef\xbb\xbfab\0\x01");
    folder.write("m2", b"\xef\xbb\xbfab\0\x02");
    assert!(folder.run(&["m1", "m2"]).out.contains("offset 0x6"), "a mark alone makes no text");
    assert!(folder.run(&["b", "a"]).out.contains("offset 0x0"));
    let text = folder.run(&["--kind", "text", "b", "a"]);
    assert!(
        text.out.contains(" ○  1        low␀\n") && text.out.contains(" ●      3    ␁␀ ‹no line end›"),
        "{}",
        text.out
    );
    folder.write("c", b"1\n");
    folder.write("d", b"2\n");
    assert!(folder.run(&["--kind", "bytes", "c", "d"]).out.contains("offset 0x"));
    let page = |kind: &str| folder.run(&["report", "--kind", kind, "b", "a", "-o", "-", "--format", "markdown"]).out;
    assert!(page("text").contains("low") && page("auto").contains("offset 0x"));
    // A patch of text is in lines, and puts the very bytes back; what is not text has none in this format.
    let refused = folder.run(&["patch", "b", "a"]);
    assert_eq!((refused.status, refused.out.as_str()), (Some(2), ""));
    assert!(
        refused.err.contains("they are not both text; `--format extended` carries any contents"),
        "{}",
        refused.err
    );
    for format in ["unified", "extended"] {
        folder.run(&["patch", "--kind", "text", "--format", format, "b", "a", "-o", "fix.patch"]);
        let after = folder.read("a");
        folder.write("t", &folder.read("b"));
        let applied = folder.run(&["apply", "fix.patch", "--into", "t"]);
        assert_eq!((applied.status, folder.read("t")), (Some(0), after), "{format}: {}", applied.err);
    }
    // Lines are taken, too.
    let taken = folder.run(&["take", "--kind", "text", "b", "a", "--changes", "1", "--into", "before", "-o", "mixed"]);
    assert_eq!((taken.status, folder.read("mixed")), (Some(0), b"high\0\nsame\n".to_vec()), "{}", taken.err);
}

#[test]
fn records_of_an_encoding_that_does_not_give_its_bytes_back_hold_the_bytes() {
    let folder = Folder::new();
    // Two codes of one letter: written again, the text would have the other.
    folder.write("b", b"\x93\xfa\x96\x7b \xed\x40 1\n\x93\xfa\x96\x7b\n");
    folder.write("a", b"\x93\xfa\x96\x7b \xed\x40 2\n\x93\xfa\x96\x7b\n");
    let ran = folder.run(&["--json", "--encoding", "shift_jis", "b", "a"]);
    let records = ran.out.lines().map(|line| serde_json::from_str::<serde_json::Value>(line).unwrap());
    let change = records.into_iter().find(|record| record["record"] == "change").unwrap();
    let line = &change["before"]["lines"][0];
    let bytes = BASE64_STANDARD.decode(line["base64"].as_str().unwrap()).unwrap();
    assert_eq!((bytes.as_slice(), line["text"].as_str()), (&b"\x93\xfa\x96\x7b \xed\x40 1\n"[..], Some("日本 纊 1\n")));
    // Where the bytes come back, text is enough.
    folder.write("c", b"\x93\xfa\x96\x7b 1\n");
    folder.write("d", b"\x93\xfa\x96\x7b 2\n");
    let ran = folder.run(&["--json", "--encoding", "shift_jis", "c", "d"]);
    assert!(ran.out.contains("\"lines\":[\"日本 1\\n\"]") && !ran.out.contains("base64"), "{}", ran.out);
}
