//! JSON by RFC 8259, with the place of every value. Strict, but for documents that follow each other in one text.

use std::borrow::Cow;
use std::ops::Range;

use foldhash::quality::RandomState;

use super::build::Builder;
use super::document::{DataFormat, Document, NodeKind, Stored};
use super::failure::Failure;
use crate::internal::kinds::number::Decimal;

/// Reads a document.
pub(super) fn read<'t>(text: Cow<'t, [u8]>, hasher: &RandomState) -> Result<Document<'t>, Failure> {
    let mut reader = Reader::new(text, DataFormat::Json, hasher)?;
    reader.skip_space();
    reader.value(None, None)?;
    reader.skip_space();
    if reader.at < reader.len {
        return Err(reader.wrong("the document ends here, and more follows"));
    }
    Ok(reader.builder.finish())
}

/// Reads documents that follow each other, which make a list.
pub(super) fn read_many<'t>(text: Cow<'t, [u8]>, hasher: &RandomState) -> Result<Document<'t>, Failure> {
    let mut reader = Reader::new(text, DataFormat::JsonLines, hasher)?;
    reader.builder.open(NodeKind::List, (None, None), (0, 0))?;
    reader.builder.is_many();
    reader.skip_space();
    while reader.at < reader.len {
        reader.value(None, None)?;
        reader.skip_space();
    }
    reader.builder.close(reader.len);
    Ok(reader.builder.finish())
}

struct Reader<'t> {
    builder: Builder<'t>,
    at: usize,
    len: usize,
}

impl<'t> Reader<'t> {
    fn new(text: Cow<'t, [u8]>, format: DataFormat, hasher: &RandomState) -> Result<Self, Failure> {
        let len = text.len();
        let at = if text.starts_with(b"\xef\xbb\xbf") { 3 } else { 0 };
        Ok(Self { builder: Builder::new(text, format, hasher)?, at, len })
    }

    fn peek(&self) -> Option<u8> {
        self.builder.text().get(self.at).copied()
    }

    fn wrong(&self, reason: &str) -> Failure {
        Failure::new(self.at, reason)
    }

    fn skip_space(&mut self) {
        let text = self.builder.text();
        let mut at = self.at;
        while matches!(text.get(at), Some(b' ' | b'\n' | b'\r' | b'\t')) {
            at += 1;
        }
        self.at = at;
    }

    /// Reads a value and all that is in it, without calling itself: depth costs no stack.
    fn value(&mut self, key: Option<Stored>, from: Option<usize>) -> Result<(), Failure> {
        let base = self.builder.depth();
        let (mut key, mut from) = (key, from);
        let mut is_map: Vec<bool> = Vec::new();
        loop {
            let start = self.at;
            let place = (from.unwrap_or(start), start);
            let mut opened = false;
            match self.peek() {
                Some(byte @ (b'{' | b'[')) => {
                    let kind = if byte == b'{' { NodeKind::Map } else { NodeKind::List };
                    self.builder.open(kind, (key, None), place)?;
                    self.at += 1;
                    is_map.push(byte == b'{');
                    opened = true;
                }
                Some(b'"') => {
                    let value = self.string()?;
                    self.leaf(NodeKind::Text, key, value, place)?;
                }
                Some(b'-' | b'0'..=b'9') => {
                    let value = self.number()?;
                    self.leaf(NodeKind::Number, key, Stored::part(value), place)?;
                }
                Some(b't') => self.word("true", NodeKind::Boolean, key, place)?,
                Some(b'f') => self.word("false", NodeKind::Boolean, key, place)?,
                Some(b'n') => self.word("null", NodeKind::Null, key, place)?,
                Some(_) => return Err(self.wrong("a value is expected here")),
                None => return Err(self.wrong("the text ends where a value is expected")),
            }
            // To the next value, through all that ends before it.
            loop {
                if self.builder.depth() == base {
                    return Ok(());
                }
                self.skip_space();
                let in_map = is_map.last().copied().unwrap_or_default();
                let close = if in_map { b'}' } else { b']' };
                match self.peek() {
                    Some(byte) if byte == close => {
                        self.at += 1;
                        is_map.pop();
                        self.builder.close(self.at);
                        opened = false;
                        continue;
                    }
                    Some(b',') if !opened => {
                        self.at += 1;
                        self.skip_space();
                        if self.peek() == Some(close) {
                            return Err(self.wrong("a comma stands before the end"));
                        }
                    }
                    Some(_) if opened => {}
                    Some(_) if in_map => return Err(self.wrong("`,` or `}` is expected here")),
                    Some(_) => return Err(self.wrong("`,` or `]` is expected here")),
                    None => return Err(self.wrong("the text ends before what is open is closed")),
                }
                (key, from) = (None, None);
                if in_map {
                    from = Some(self.at);
                    if self.peek() != Some(b'"') {
                        return Err(self.wrong("a key in double quotes is expected here"));
                    }
                    key = Some(self.string()?);
                    self.skip_space();
                    if self.peek() != Some(b':') {
                        return Err(self.wrong("`:` is expected here"));
                    }
                    self.at += 1;
                    self.skip_space();
                }
                break;
            }
        }
    }

    fn leaf(
        &mut self,
        kind: NodeKind,
        key: Option<Stored>,
        value: Stored,
        (from, start): (usize, usize),
    ) -> Result<(), Failure> {
        self.builder.leaf(kind, (key, value, None), (from, start..self.at))
    }

    fn word(&mut self, word: &str, kind: NodeKind, key: Option<Stored>, place: (usize, usize)) -> Result<(), Failure> {
        if !self.builder.text()[self.at..].starts_with(word.as_bytes()) {
            return Err(self.wrong("a value is expected here"));
        }
        let range = self.at..self.at + word.len();
        self.at = range.end;
        self.leaf(kind, key, Stored::part(range), place)
    }

    fn number(&mut self) -> Result<Range<usize>, Failure> {
        let text = &self.builder.text()[self.at..];
        let is_part = |byte: &u8| matches!(byte, b'0'..=b'9' | b'-' | b'+' | b'.' | b'e' | b'E');
        let len = text.iter().take_while(|byte| is_part(byte)).count();
        if Decimal::read(&text[..len]).is_none() {
            return Err(self.wrong("this is no number as JSON writes them"));
        }
        let range = self.at..self.at + len;
        self.at = range.end;
        Ok(range)
    }

    /// Reads a string, its quotes left out.
    fn string(&mut self) -> Result<Stored, Failure> {
        let start = self.at + 1;
        let text = self.builder.text();
        let Some(found) = memchr::memchr2(b'"', b'\\', &text[start..]) else {
            return Err(Failure::new(self.at, "this string has no end"));
        };
        let at = start + found;
        if let Some(control) = text[start..at].iter().position(|byte| *byte < 0x20) {
            return Err(Failure::new(start + control, "a control character in a string; it is written with an escape"));
        }
        if text[at] == b'"' {
            self.at = at + 1;
            return Ok(Stored::part(start..at));
        }
        let mut made = String::from_utf8_lossy(&text[start..at]).into_owned();
        let end = unescape(text, at, &mut made)?;
        let stored = self.builder.make(&made)?;
        self.at = end;
        Ok(stored)
    }
}

/// Reads on in a string from an escape, up to its end.
fn unescape(text: &[u8], mut at: usize, made: &mut String) -> Result<usize, Failure> {
    loop {
        let Some(found) = memchr::memchr2(b'"', b'\\', &text[at..]) else {
            return Err(Failure::new(at, "this string has no end"));
        };
        let plain = &text[at..at + found];
        if let Some(control) = plain.iter().position(|byte| *byte < 0x20) {
            return Err(Failure::new(at + control, "a control character in a string; it is written with an escape"));
        }
        made.push_str(&String::from_utf8_lossy(plain));
        at += found;
        if text[at] == b'"' {
            return Ok(at + 1);
        }
        let escaped = text.get(at + 1).copied();
        let letter = match escaped {
            Some(byte @ (b'"' | b'\\' | b'/')) => char::from(byte),
            Some(b'b') => '\u{8}',
            Some(b'f') => '\u{c}',
            Some(b'n') => '\n',
            Some(b'r') => '\r',
            Some(b't') => '\t',
            Some(b'u') => {
                let (letter, len) = unicode(text, at)?;
                made.push(letter);
                at += len;
                continue;
            }
            _ => return Err(Failure::new(at, "this escape is none of JSON")),
        };
        made.push(letter);
        at += 2;
    }
}

/// Reads `\uXXXX`, or two of them that make one letter.
fn unicode(text: &[u8], at: usize) -> Result<(char, usize), Failure> {
    let unit = |at: usize| {
        let digits = text.get(at + 2..at + 6).filter(|_| text[at..].starts_with(b"\\u"))?;
        let digits = digits.iter().all(u8::is_ascii_hexdigit).then(|| std::str::from_utf8(digits).ok()).flatten()?;
        u32::from_str_radix(digits, 16).ok()
    };
    let first = unit(at).ok_or_else(|| Failure::new(at, "`\\u` needs four hexadecimal digits"))?;
    if (0xd800..0xdc00).contains(&first)
        && let Some(second) = unit(at + 6).filter(|second| (0xdc00..0xe000).contains(second))
    {
        let letter = 0x10000 + ((first - 0xd800) << 10) + (second - 0xdc00);
        return Ok((char::from_u32(letter).unwrap_or(char::REPLACEMENT_CHARACTER), 12));
    }
    let letter = char::from_u32(first).ok_or_else(|| Failure::new(at, "this escape is half of a letter"))?;
    Ok((letter, 6))
}
