//! Text and sheets taken out of documents: real ones, made by the libraries that usually write them, and made ones with known differences.

use std::io::{Cursor, Write};
use std::sync::Arc;

use proptest::prelude::*;
use tideline_core::internal::kinds::document::{
    Extracted, ExtractedContents, PACKING, Places, ReadAs, ReadDocuments, Sheet,
};
use tideline_core::internal::kinds::{Assignment, Comparison, ContentOptions, KindOptions, compare};
use tideline_core::internal::model::{Form, Kind, Status, Unit};
use tideline_core::internal::rules::{Effect, FilePatterns};
use tideline_sources::Documents;
use zip::write::SimpleFileOptions;

macro_rules! fixture {
    ($name:literal) => {
        include_bytes!(concat!(env!("CARGO_MANIFEST_DIR"), "/tests/fixtures/", $name)) as &[u8]
    };
}

fn read(name: &str, bytes: &[u8]) -> Result<Extracted, String> {
    Documents.read(name.as_bytes(), bytes, None).unwrap_or_else(|| panic!("{name} is a document"))
}

fn text_of(name: &str, bytes: &[u8]) -> (Vec<String>, Places) {
    match read(name, bytes).unwrap().contents {
        ExtractedContents::Text { text, places, .. } => {
            (String::from_utf8(text).unwrap().lines().map(str::to_owned).collect(), places)
        }
        other => panic!("{name} is text, not {other:?}"),
    }
}

fn sheets_of(name: &str, bytes: &[u8]) -> Vec<Sheet> {
    match read(name, bytes).unwrap().contents {
        ExtractedContents::Sheets(sheets) => sheets,
        other => panic!("{name} is a workbook, not {other:?}"),
    }
}

fn options() -> ContentOptions {
    ContentOptions::default().read_documents(Arc::new(Documents))
}

fn compared<'b>(name: &str, before: &'b [u8], after: &'b [u8]) -> Comparison<'b> {
    compare(name.as_bytes(), (before, after), &options())
}

/// A zip archive of some parts.
fn package(parts: &[(&str, &[u8])]) -> Vec<u8> {
    let mut writer = zip::ZipWriter::new(Cursor::new(Vec::new()));
    for (name, bytes) in parts {
        writer.start_file(*name, SimpleFileOptions::default()).unwrap();
        writer.write_all(bytes).unwrap();
    }
    writer.finish().unwrap().into_inner()
}

const WORD: &str = "xmlns:w=\"http://schemas.openxmlformats.org/wordprocessingml/2006/main\"";

/// An office text with this body.
fn word(body: &str, others: &[(&str, &[u8])]) -> Vec<u8> {
    let document = format!("<?xml version=\"1.0\"?><w:document {WORD}><w:body>{body}</w:body></w:document>");
    let mut parts: Vec<(&str, &[u8])> =
        vec![("[Content_Types].xml", b"<Types/>"), ("word/document.xml", document.as_bytes())];
    parts.extend(others);
    package(&parts)
}

fn paragraph(text: &str) -> String {
    format!("<w:p><w:r><w:t>{text}</w:t></w:r></w:p>")
}

/// A workbook with one sheet of these rows, as they are written.
fn workbook(rows: &str) -> Vec<u8> {
    const MAIN: &str = "http://schemas.openxmlformats.org/spreadsheetml/2006/main";
    const RELATIONS: &str = "http://schemas.openxmlformats.org/officeDocument/2006/relationships";
    let book = format!(
        "<workbook xmlns=\"{MAIN}\" xmlns:r=\"{RELATIONS}\"><sheets><sheet name=\"One\" sheetId=\"1\" r:id=\"r1\"/></sheets></workbook>"
    );
    let relations = format!(
        "<Relationships xmlns=\"http://schemas.openxmlformats.org/package/2006/relationships\"><Relationship Id=\"r1\" Type=\"{RELATIONS}/worksheet\" Target=\"worksheets/sheet1.xml\"/></Relationships>"
    );
    let root = relations.replace("worksheet\"", "officeDocument\"").replace("worksheets/sheet1.xml", "xl/workbook.xml");
    let sheet = format!("<worksheet xmlns=\"{MAIN}\"><sheetData>{rows}</sheetData></worksheet>");
    package(&[
        ("[Content_Types].xml", b"<Types/>"),
        ("_rels/.rels", root.as_bytes()),
        ("xl/workbook.xml", book.as_bytes()),
        ("xl/_rels/workbook.xml.rels", relations.as_bytes()),
        ("xl/worksheets/sheet1.xml", sheet.as_bytes()),
    ])
}

#[test]
fn office_texts_are_read_by_paragraphs_with_their_headings() {
    let (lines, places) = text_of("letter.docx", fixture!("letter-1.docx"));
    assert_eq!(
        lines,
        [
            "# Letter",
            "# Lamp",
            "The lamp burns well.",
            "| gauge | level |",
            "| mouth | 1.20 |",
            "- oil",
            "Merrow estuary",
        ]
    );
    assert_eq!(places.of(2), Some(("", "paragraph", 3)));
    assert_eq!(places.of(6), Some(("header", "paragraph", 1)));
    let (lines, _) = text_of("letter.odt", fixture!("letter-1.odt"));
    assert_eq!(lines, ["# Letter", "The lamp burns.", "- oil"]);
}

#[test]
fn slides_pages_and_chapters_are_places() {
    let (lines, places) = text_of("talk.pptx", fixture!("talk-2.pptx"));
    assert_eq!(lines, ["# Gauges", "mouth", "quay", "say it slowly", "# Levels", "high"]);
    assert_eq!(places.of(2), Some(("slide 1", "paragraph", 3)));
    assert_eq!(places.of(3), Some(("notes of slide 1", "paragraph", 1)));
    assert_eq!(places.of(5), Some(("slide 2", "paragraph", 2)));
    let (lines, places) = text_of("tables.pdf", fixture!("tables-1.pdf"));
    assert_eq!(lines, ["Tide tables", "High water at six.", "Second page."]);
    assert_eq!((places.of(1), places.of(2)), (Some(("page 1", "line", 2)), Some(("page 2", "line", 1))));
    let left_out = read("tables.pdf", fixture!("tables-1.pdf")).unwrap().left_out;
    assert!(left_out.iter().any(|part| part.name == "page 3, without text that can be extracted"), "{left_out:?}");
    let (lines, places) = text_of("log.epub", fixture!("log-2.epub"));
    assert_eq!(lines, ["# One", "The sea was calm.", "A ship came in."]);
    assert_eq!(places.of(2), Some(("chapter 1", "paragraph", 3)));
}

#[test]
fn workbooks_are_read_sheet_by_sheet_with_formulas_dates_and_places() {
    let sheets = sheets_of("levels.xlsx", fixture!("levels-1.xlsx"));
    let names: Vec<&str> = sheets.iter().map(|sheet| sheet.name.as_str()).collect();
    assert_eq!(names, ["Levels", "Days", "Empty"]);
    let levels = &sheets[0];
    assert_eq!((levels.first_row, levels.first_column, levels.has_header), (2, 1, true));
    assert_eq!(String::from_utf8_lossy(&levels.text), "gauge,level\nmouth,1.2\nquay,0.8\nall,=SUM(C4:C5)\n");
    assert_eq!(String::from_utf8_lossy(&sheets[1].text), "day\n2031-03-01\n2031-03-01 06:30:00\n");
    assert!(sheets[2].text.is_empty());
    let open = sheets_of("levels.ods", fixture!("levels-1.ods"));
    assert_eq!(String::from_utf8_lossy(&open[0].text), "gauge,level\nmouth,1.2\nquay,0.8\n");
}

#[test]
fn two_workbooks_differ_in_their_cells() {
    let Comparison::Sheets(sheets) = compared("levels.xlsx", fixture!("levels-1.xlsx"), fixture!("levels-2.xlsx"))
    else {
        panic!("workbooks have sheets")
    };
    let extent = sheets.extent();
    assert_eq!((extent.counted, extent.size, extent.unit), (1, 1, Unit::Cells));
    let sheet = &sheets.sheets[0];
    let change = &sheet.found.changes[0];
    assert_eq!((change.form, change.cells.len()), (Form::Edited, 1));
    // The row of the sheet, from 1: the table begins in its third row.
    assert_eq!(sheet.before.line(change.before.unwrap()) + sheet.origins.0.0, 4);
    let comparison = compared("levels.xlsx", fixture!("levels-1.xlsx"), fixture!("levels-2.ods"));
    assert_eq!(comparison.kind(), Kind::Table, "both kinds of workbook have sheets");
}

#[test]
fn a_sheet_that_one_side_alone_has_is_gone_or_new_with_its_rows() {
    let rows = "<row r=\"1\"><c r=\"A1\" t=\"inlineStr\"><is><t>name</t></is></c></row><row r=\"2\"><c r=\"A2\"><v>7</v></c></row>";
    let (one, two) = (workbook(rows), workbook(rows));
    let renamed = {
        let mut parts = Vec::new();
        let mut archive = zip::ZipArchive::new(Cursor::new(&two[..])).unwrap();
        for at in 0..archive.len() {
            let mut part = archive.by_index(at).unwrap();
            let mut bytes = Vec::new();
            std::io::Read::read_to_end(&mut part, &mut bytes).unwrap();
            let name = String::from_utf8_lossy(part.name_raw()).into_owned();
            let text = String::from_utf8(bytes).unwrap().replace("name=\"One\"", "name=\"Other\"");
            parts.push((name, text));
        }
        let parts: Vec<(&str, &[u8])> = parts.iter().map(|(name, text)| (name.as_str(), text.as_bytes())).collect();
        package(&parts)
    };
    let comparison = compared("a.xlsx", &one, &renamed);
    let Comparison::Sheets(sheets) = &comparison else { panic!("workbooks have sheets: {:?}", comparison.unparsed()) };
    let told: Vec<_> =
        sheets.sheets.iter().map(|sheet| (sheet.name.as_str(), sheet.form, sheet.found.changes.len())).collect();
    assert_eq!(told, [("Other", Some(Form::New), 1), ("One", Some(Form::Gone), 1)]);
    assert!(sheets.differs());
}

#[test]
fn tracked_changes_count_as_they_would_be_accepted() {
    let body = "<w:p><w:r><w:t xml:space=\"preserve\">The lamp </w:t></w:r><w:del><w:r><w:delText>burns</w:delText></w:r></w:del>\
                <w:ins><w:r><w:t>is out</w:t></w:r></w:ins></w:p>";
    assert_eq!(text_of("a.docx", &word(body, &[])).0, ["The lamp is out"]);
}

#[test]
fn tables_in_tables_and_soft_breaks_stay_in_their_paragraphs() {
    let cell = |inner: &str| format!("<w:tc>{inner}</w:tc>");
    let inner = format!("<w:tbl><w:tr>{}{}</w:tr></w:tbl>", cell(&paragraph("in")), cell(&paragraph("ner")));
    let body = format!(
        "<w:p><w:r><w:t>one</w:t><w:br/><w:t>two</w:t><w:tab/><w:t>three &amp; &#52;</w:t></w:r></w:p>\
         <w:tbl><w:tr>{}{}</w:tr></w:tbl>{}",
        cell(&(paragraph("a") + &paragraph("b"))),
        cell(&inner),
        paragraph("end")
    );
    let (lines, _) = text_of("a.docx", &word(&body, &[]));
    assert_eq!(lines[0], "one two three & 4");
    assert!(lines[1].starts_with("| a / b |") && lines[1].contains("in"), "{lines:?}");
    assert_eq!(lines.last().unwrap(), "end");
}

#[test]
fn what_is_not_taken_out_is_named_and_told_where_it_alone_differs() {
    let picture = |bytes| word(&paragraph("same"), &[("word/media/image1.png", bytes)]);
    let (one, other) = (picture(b"one"), picture(b"two"));
    let comparison = compared("a.docx", &one, &other);
    assert_eq!(comparison.status(false), Status::Changed);
    let beside = comparison.only_beside().expect("the text is the same");
    assert_eq!(beside.differing, ["pictures"]);
    assert!(beside.left_out.contains(&"formatting".to_owned()), "{:?}", beside.left_out);
    // The same parts, packed in another way.
    let plain = word(&paragraph("same"), &[]);
    let repacked = {
        let mut writer = zip::ZipWriter::new(Cursor::new(Vec::new()));
        let mut archive = zip::ZipArchive::new(Cursor::new(&plain[..])).unwrap();
        for at in 0..archive.len() {
            let mut part = archive.by_index(at).unwrap();
            let stored = SimpleFileOptions::default().compression_method(zip::CompressionMethod::Stored);
            writer.start_file(String::from_utf8_lossy(part.name_raw()), stored).unwrap();
            std::io::copy(&mut part, &mut writer).unwrap();
        }
        writer.finish().unwrap().into_inner()
    };
    assert_ne!(plain, repacked);
    let comparison = compared("a.docx", &plain, &repacked);
    assert_eq!(comparison.status(false), Status::Muted);
    assert_eq!(comparison.account().by_rule(Effect::Mute), [(PACKING, 1)]);
}

#[test]
fn documents_have_words_rules_and_blocks_that_moved_like_any_text() {
    let text = |parts: &[&str]| word(&parts.iter().map(|part| paragraph(part)).collect::<String>(), &[]);
    let lines = |what: &str, count: usize| -> Vec<String> {
        (0..count).map(|at| format!("{what} number {at} has a sentence of its own, as letters do")).collect()
    };
    let (moved, rest) = (lines("the moved one", 6), lines("the other one", 9));
    let all = |parts: [&[String]; 2]| -> Vec<String> { parts.concat() };
    let mut later = rest.clone();
    later[4] = later[4].replace("sentence", "picture");
    let text = |lines: &[String]| text(&lines.iter().map(String::as_str).collect::<Vec<_>>());
    let (before, after) = (text(&all([&moved, &rest])), text(&all([&later, &moved])));
    let Comparison::Text(texts) = compared("a.docx", &before, &after) else { panic!("these are texts") };
    let mut forms: Vec<&str> = texts.found.changes.iter().map(|change| change.form.name()).collect();
    forms.sort_unstable();
    assert_eq!(forms, ["edited", "moved"]);
    let plain: String = all([&moved, &rest]).iter().map(|line| format!("{line}\n")).collect();
    let comparison = compare(b"a.txt", (&before, plain.as_bytes()), &options());
    assert_eq!((comparison.kind(), comparison.extent().counted), (Kind::Text, 0), "a document and a text");
}

#[test]
fn a_page_is_read_as_what_is_seen_when_that_is_asked_for() {
    let page = "<!doctype html><title>t</title><style>p { color: red }</style><h2>Levels</h2>\
                <p>The <b>mouth</b> is <i>low</i>.<p hidden>no<script>let a = 1;</script>\
                <ul><li>one<li>two</ul><table><tr><th>g<td>1.2</table><img alt=\"a chart\">";
    let read = Documents.read(b"x.html", page.as_bytes(), Some(ReadAs::VisibleText)).unwrap().unwrap();
    let ExtractedContents::Text { text, .. } = read.contents else { panic!("a page is text") };
    assert_eq!(
        String::from_utf8(text).unwrap(),
        "## Levels\nThe mouth is low.\n- one\n- two\n| g | 1.2 |\n[a chart]\n"
    );
    assert!(Documents.read(b"x.html", page.as_bytes(), None).is_none(), "else it is text like any other");
    let assigned = Assignment {
        files: FilePatterns::new(&["*.html".to_owned()]).unwrap(),
        kind: None,
        how: KindOptions::default(),
        encodings: (None, None),
        read: Some(ReadAs::VisibleText),
    };
    let other = page.replace("<b>mouth</b>", "<em class=\"x\">mouth</em>");
    let options = options().assignments(vec![assigned]);
    let comparison = compare(b"x.html", (page.as_bytes(), other.as_bytes()), &options);
    assert_eq!(comparison.extent().counted, 0);
    assert_eq!(comparison.only_beside().map(|beside| beside.differing.clone()), Some(vec!["markup".to_owned()]));
}

#[test]
fn notebooks_are_read_cell_by_cell_and_outputs_apart() {
    let notebook = |source: &str, count: u32| {
        format!(
            "{{\"cells\":[{{\"cell_type\":\"markdown\",\"metadata\":{{}},\"source\":[\"# Tides\\n\",\"of March\"]}},\
             {{\"cell_type\":\"code\",\"execution_count\":{count},\"metadata\":{{}},\"source\":\"{source}\",\
             \"outputs\":[{{\"output_type\":\"stream\",\"text\":[\"3\\n\"]}}]}}],\"metadata\":{{}},\"nbformat\":4}}"
        )
    };
    let one = notebook("1 + 2", 1);
    let (lines, places) = text_of("a.ipynb", one.as_bytes());
    assert_eq!(lines, ["# Tides", "of March", "1 + 2", "3"]);
    assert_eq!(places.of(1), Some(("cell 1 (markdown)", "line", 2)));
    assert_eq!(
        (places.of(2), places.of(3)),
        (Some(("cell 2 (code)", "line", 1)), Some(("output of cell 2", "line", 1)))
    );
    let counted_anew = notebook("1 + 2", 7);
    let comparison = compared("a.ipynb", one.as_bytes(), counted_anew.as_bytes());
    assert_eq!(
        comparison.only_beside().map(|beside| beside.differing.clone()),
        Some(vec!["metadata and counts".to_owned()])
    );
}

#[test]
fn the_contents_tell_a_document_whatever_it_is_called() {
    for (name, bytes) in
        [("a.zip", fixture!("letter-1.docx")), ("a.txt", fixture!("tables-1.pdf")), ("a", fixture!("levels-1.xlsx"))]
    {
        assert!(Documents.read(name.as_bytes(), bytes, None).is_some_and(|read| read.is_ok()), "{name}");
    }
    for (name, bytes) in [("a.docx", &b"no document"[..]), ("a.pdf", b"text"), ("a.docx", &package(&[("a", b"b")])[..])]
    {
        assert!(Documents.read(name.as_bytes(), bytes, None).is_none(), "{name}");
    }
}

#[test]
fn what_a_password_protects_says_so() {
    let refused = |name: &str, bytes: &[u8]| read(name, bytes).unwrap_err();
    assert!(refused("locked.pdf", fixture!("locked.pdf")).contains("password"));
    let manifest = b"<manifest:manifest><manifest:file-entry><manifest:encryption-data/></manifest:file-entry></manifest:manifest>";
    let mut writer = zip::ZipWriter::new(Cursor::new(Vec::new()));
    let stored = SimpleFileOptions::default().compression_method(zip::CompressionMethod::Stored);
    for (name, bytes) in [
        ("mimetype", &b"application/vnd.oasis.opendocument.text"[..]),
        ("META-INF/manifest.xml", manifest),
        ("content.xml", b"\x01\x02"),
    ] {
        writer.start_file(name, stored).unwrap();
        writer.write_all(bytes).unwrap();
    }
    let locked = writer.finish().unwrap().into_inner();
    assert!(refused("a.odt", &locked).contains("password"));
    let name: Vec<u8> = "EncryptedPackage".encode_utf16().flat_map(u16::to_le_bytes).collect();
    let compound = [&b"\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1"[..], &[0; 600], &name].concat();
    assert!(refused("a.xlsx", &compound).contains("password"));
}

#[test]
fn bombs_are_refused_before_they_go_off() {
    // Entities that a document declares are never expanded.
    let entities = "<?xml version=\"1.0\"?><!DOCTYPE w [<!ENTITY a \"ha\"><!ENTITY b \"&a;&a;&a;&a;&a;&a;\"><!ENTITY c \"&b;&b;&b;&b;&b;\">]>";
    let document =
        format!("{entities}<w:document {WORD}><w:body><w:p><w:r><w:t>&c;</w:t></w:r></w:p></w:body></w:document>");
    let bomb = package(&[("[Content_Types].xml", b"<Types/>"), ("word/document.xml", document.as_bytes())]);
    assert_eq!(text_of("a.docx", &bomb).0, ["&c;"]);
    // A part that unpacks to far more than it is.
    let zeros = vec![b' '; 300 << 20];
    let large = word(&paragraph("a"), &[("word/footnotes.xml", &zeros)]);
    assert!(large.len() < 1 << 20);
    assert!(read("a.docx", &large).unwrap_err().contains("unpacks to more than"));
    // Two cells in opposite corners of a sheet.
    let far = workbook(
        "<row r=\"1\"><c r=\"A1\"><v>1</v></c></row><row r=\"1048576\"><c r=\"XFD1048576\"><v>2</v></c></row>",
    );
    let why = read("a.xlsx", &far).unwrap_err();
    assert!(why.contains("more than 20 million cells"), "{why}");
    let wide =
        "<table:table-cell office:value=\"1\" office:value-type=\"float\" table:number-columns-repeated=\"1000000\"/>";
    let content = format!(
        "<office:document-content><table:table table:name=\"One\"><table:table-row table:number-rows-repeated=\"1000\">{wide}</table:table-row></table:table></office:document-content>"
    );
    let mut writer = zip::ZipWriter::new(Cursor::new(Vec::new()));
    let stored = SimpleFileOptions::default().compression_method(zip::CompressionMethod::Stored);
    for (name, bytes) in [("mimetype", "application/vnd.oasis.opendocument.spreadsheet"), ("content.xml", &content)] {
        writer.start_file(name, stored).unwrap();
        writer.write_all(bytes.as_bytes()).unwrap();
    }
    let wide = writer.finish().unwrap().into_inner();
    assert!(read("a.ods", &wide).unwrap_err().contains("more than 20 million cells"));
}

const ALL: [(&str, &[u8]); 9] = [
    ("letter.docx", fixture!("letter-1.docx")),
    ("letter.odt", fixture!("letter-1.odt")),
    ("levels.xlsx", fixture!("levels-1.xlsx")),
    ("levels.ods", fixture!("levels-1.ods")),
    ("talk.pptx", fixture!("talk-1.pptx")),
    ("tables.pdf", fixture!("tables-1.pdf")),
    ("log.epub", fixture!("log-1.epub")),
    ("locked.pdf", fixture!("locked.pdf")),
    ("log.epub", fixture!("log-2.epub")),
];

proptest! {
    #![proptest_config(ProptestConfig::with_cases(150))]

    #[test]
    fn nothing_that_is_cut_off_or_damaged_breaks_a_reader(
        (which, end, at, byte) in (0..ALL.len(), any::<prop::sample::Index>(), any::<prop::sample::Index>(), any::<u8>())
    ) {
        let (name, bytes) = ALL[which];
        let mut broken = bytes.to_vec();
        let place = at.index(broken.len());
        broken[place] = byte;
        let cut = &bytes[..end.index(bytes.len())];
        for damaged in [&broken[..], cut] {
            // It may still be read; it must not end the program.
            if let Some(Err(why)) = Documents.read(name.as_bytes(), damaged, None) {
                prop_assert!(!why.is_empty());
            }
            let comparison = compared(name, bytes, damaged);
            if let Some(unparsed) = comparison.unparsed() {
                prop_assert!(unparsed.is_fatal && unparsed.is_before == (name == "locked.pdf"));
            }
        }
    }

    #[test]
    fn known_edits_of_paragraphs_come_back(
        (count, edited) in (3..40_usize, prop::collection::btree_set(0..40_usize, 0..6))
    ) {
        let text = |changed: bool| {
            let line = |at: usize| {
                let word = if changed && edited.contains(&at) { "late" } else { "early" };
                paragraph(&format!("Reading number {at} of the gauge came {word} that day"))
            };
            word(&(0..count).map(line).collect::<String>(), &[])
        };
        let (before, after) = (text(false), text(true));
        let Comparison::Text(texts) = compared("a.docx", &before, &after) else { panic!("these are texts") };
        let found: usize = texts.found.changes.iter().map(|change| change.before.lines.len()).sum();
        prop_assert_eq!(found, edited.iter().filter(|at| **at < count).count());
    }
}
