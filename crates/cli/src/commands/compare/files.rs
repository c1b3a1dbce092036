//! `compare`: what changed between two files.

use std::io::{self, Write};

use anyhow::Result;
use tideline_core::kinds::ContentOptions;
use tideline_core::kinds::text::{Grain, compare_masked};
use tideline_core::model::{Kind, Status, TextComparison};
use tideline_core::rules::{FileRules, MaskedText};
use tideline_core::text::encoding::TextEncoding;
use tideline_views::json::{self, records::Record};
use tideline_views::terminal::{Look, draw_file, write_bytes_view};
use tideline_views::{Counts, FileView};

use super::settings::Settings;
use crate::args::CompareArgs;
use crate::commands::Outcome;
use crate::commands::print::printing;
use crate::commands::sides::Sides;
use crate::commands::texts::Texts;
use crate::commands::unused::tell_unused;

pub(super) fn run(args: &CompareArgs, settings: &Settings, sides: &Sides) -> Result<Outcome> {
    let same = *sides.before == *sides.after;
    if same && !args.json {
        if !args.quiet {
            printing(false, |out| writeln!(out, "{}", same_line(sides)))?;
        }
        return sides.check().map(|()| Outcome::Same);
    }
    if args.quiet && settings.contents.all_rules().is_empty() {
        return Ok(if same { Outcome::Same } else { Outcome::Different });
    }
    let compared = Compared::of(sides, &settings.contents);
    let found = compared.comparison(&settings.contents);
    let status = compared.status(same, &found);
    if !args.quiet {
        let paged = settings.paged && !args.json;
        printing(paged, |out| {
            if args.json {
                let write = &mut |record| json::write_record(&record, out);
                give_records(sides, &compared, (&found, status), (settings.look.marked(), usize::MAX), write)
            } else {
                compared.draw(sides, &found, &settings.look, out)
            }
        })?;
        if !same {
            tell_unused(settings.contents.all_rules(), &found.account);
        }
    }
    sides.check().map(|()| Outcome::of(status))
}

/// Two files as they are compared.
pub(in crate::commands) struct Compared<'s> {
    texts: Texts<'s>,
    file_rules: FileRules,
}

impl<'s> Compared<'s> {
    /// Reads two files under the rules that hold for them.
    pub(in crate::commands) fn of(sides: &'s Sides, contents: &ContentOptions) -> Self {
        let path = sides.type_name().as_bytes();
        Self { texts: Texts::of(sides, contents), file_rules: contents.file_rules(path) }
    }

    /// Both texts under the rules; none when they are not text.
    pub(in crate::commands) fn masked(&self) -> Option<(MaskedText<'_>, MaskedText<'_>)> {
        match &self.texts {
            Texts::Text { before, after, .. } => {
                Some((MaskedText::new(before, &self.file_rules), MaskedText::new(after, &self.file_rules)))
            }
            Texts::Bytes => None,
        }
    }

    /// The text of a side, and what it is written in; none when they are not text.
    pub(in crate::commands) fn side(&self, is_before: bool) -> Option<(&[u8], TextEncoding)> {
        match &self.texts {
            Texts::Text { before, written, .. } if is_before => Some((before, written.0)),
            Texts::Text { after, written, .. } => Some((after, written.1)),
            Texts::Bytes => None,
        }
    }

    /// What a heading says of encodings.
    pub(in crate::commands) fn note(&self) -> Option<String> {
        self.texts.note()
    }

    /// What the rules masked.
    pub(in crate::commands) fn file_rules(&self) -> &FileRules {
        &self.file_rules
    }

    pub(in crate::commands) fn comparison(&self, contents: &ContentOptions) -> TextComparison {
        let compare = |(before, after): (MaskedText<'_>, MaskedText<'_>)| {
            compare_masked(&before, &after, contents.text_options())
        };
        self.masked().map(compare).unwrap_or_default()
    }

    /// What became of two files, which may be the same, byte for byte.
    pub(in crate::commands) fn status(&self, same: bool, found: &TextComparison) -> Status {
        match &self.texts {
            _ if same => Status::Same,
            Texts::Text { written, .. } => found.status(written.0 != written.1),
            Texts::Bytes => Status::Changed,
        }
    }

    pub(in crate::commands) fn draw(
        &self,
        sides: &Sides,
        found: &TextComparison,
        look: &Look,
        out: &mut dyn Write,
    ) -> io::Result<()> {
        let note = self.note();
        match self.masked() {
            Some((before, after)) => draw_file(&view(sides, (&before, &after), note.as_deref(), found), look, out),
            None => write_bytes_view(&sides.names.name, &sides.names.labels, (&sides.before, &sides.after), look, out),
        }
    }
}

/// The one line that says that two files are the same.
fn same_line(sides: &Sides) -> String {
    let names = &sides.names;
    let size = match sides.before.len() {
        1 => "1 byte".to_owned(),
        size => format!("{size} bytes"),
    };
    let (before, after) = (&names.labels.before, &names.labels.after);
    if names.name.is_empty() {
        format!("{before} and {after} are the same ({size})")
    } else {
        format!("{} is the same in {before} and {after} ({size})", names.name)
    }
}

pub(in crate::commands) fn view<'a>(
    sides: &'a Sides,
    (before, after): (&'a MaskedText<'a>, &'a MaskedText<'a>),
    note: Option<&'a str>,
    comparison: &'a TextComparison,
) -> FileView<'a> {
    let names = &sides.names;
    FileView {
        name: &names.name,
        type_name: sides.type_name(),
        labels: &names.labels,
        note,
        before,
        after,
        comparison,
        first: (0, 0),
    }
}

/// Gives the records of two files, with up to so many changes.
pub(in crate::commands) fn give_records(
    sides: &Sides,
    compared: &Compared<'_>,
    (found, status): (&TextComparison, Status),
    (grain, most): (&Grain, usize),
    take: &mut dyn FnMut(Record) -> io::Result<()>,
) -> io::Result<()> {
    let path = sides.type_name();
    let masked = compared.masked();
    let kind = if masked.is_none() { Kind::Bytes } else { Kind::Text };
    let counts = Counts::of(found);
    take(json::opening(&sides.names.labels))?;
    take(Record::Pair(json::pair(path, status, kind, counts, &compared.texts.metadata(sides))))?;
    if let Some((before, after)) = &masked {
        json::give_changes(path.as_bytes(), &view(sides, (before, after), None, found), grain, most, take)?;
    }
    take(json::summary(status, counts, &found.account))
}
