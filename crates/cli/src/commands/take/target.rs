//! The side that changes are carried into, and what came of it.

use std::io::{self, Write};
use std::path::{Path, PathBuf};
use std::sync::Arc;

use anyhow::{Context, Result, bail};
use tideline_core::internal::kinds::text::compare_masked;
use tideline_core::internal::kinds::{ContentOptions, TextPair};
use tideline_core::internal::merge::{Pick, Selection, TakeInto};
use tideline_core::internal::model::TextComparison;
use tideline_core::internal::plan::{Contents, ExpectedState, Fingerprint, Plan, Step};
use tideline_core::internal::rules::{FileRules, MaskedText};
use tideline_core::internal::text::encoding::TextEncoding;
use tideline_views::json;
use tideline_views::terminal::{Look, draw_file};
use tideline_views::{FileView, Labels, plural, shown_path};

use crate::args::{SideChoice, TakeArgs};
use crate::commands::sides::Sides;
use crate::commands::writing::{carry_out, expected_state, in_full, run_and_undo};

/// The changes that were asked for.
pub(super) fn selection(args: &TakeArgs) -> Selection {
    let lines = |side: SideChoice| {
        args.lines.iter().filter(move |lines| lines.0 == side).flat_map(|lines| lines.1.clone()).collect()
    };
    Selection {
        changes: args.changes.clone().map(|numbers| numbers.0).unwrap_or_default(),
        all_but: args.all_but.clone().map(|numbers| numbers.0).unwrap_or_default(),
        before: lines(SideChoice::Before),
        after: lines(SideChoice::After),
    }
}

/// The texts of both sides, in UTF-8, and how they are written.
pub(super) struct BothTexts<'t> {
    pub(super) texts: (&'t [u8], &'t [u8]),
    pub(super) encodings: (TextEncoding, TextEncoding),
    pub(super) rules: (&'t Arc<FileRules>, &'t Arc<FileRules>),
}

impl<'t> BothTexts<'t> {
    pub(super) fn of(texts: &'t TextPair<'_>) -> Self {
        Self {
            texts: (texts.before.text(), texts.after.text()),
            encodings: texts.encodings,
            rules: (texts.before.file_rules(), texts.after.file_rules()),
        }
    }
}

/// The side that was named for changes to come into.
pub(super) struct Into<'s> {
    pub(super) into: TakeInto,
    pub(super) path: &'s PathBuf,
    pub(super) bytes: &'s [u8],
    /// What it is called in headings.
    pub(super) label: String,
}

impl<'s> Into<'s> {
    /// The side, if it can be written to or something else is.
    pub(super) fn of(args: &'s TakeArgs, sides: &'s Sides) -> Result<Self> {
        let (labels, name) = (&sides.names.labels, &sides.names.name);
        let (into, path, bytes, label) = match args.into {
            SideChoice::Before => (TakeInto::Before, &args.before, &*sides.before, &labels.before),
            SideChoice::After => (TakeInto::After, &args.after, &*sides.after, &labels.after),
        };
        let on_disk = if into == TakeInto::Before { sides.on_disk.0 } else { sides.on_disk.1 };
        if args.output.is_none() && !on_disk {
            let shown = if path.as_os_str() == "-" { "standard input".to_owned() } else { path.display().to_string() };
            let why = if path.as_os_str() == "-" { "" } else { ", which is not a file on the disk" };
            bail!("cannot write into {shown}{why}: -o FILE says where the result goes");
        }
        let label = if name.is_empty() { label.clone() } else { format!("{label}/{name}") };
        Ok(Self { into, path, bytes, label })
    }
}

/// The side that changes are carried into.
pub(super) struct Target<'s> {
    pub(super) into: TakeInto,
    pub(super) path: PathBuf,
    label: String,
    type_name: String,
    pub(super) bytes: &'s [u8],
    pub(super) text: &'s [u8],
    written: TextEncoding,
    file_rules: Arc<FileRules>,
}

impl<'s> Target<'s> {
    pub(super) fn of(args: &'s TakeArgs, sides: &'s Sides, both: &BothTexts<'s>) -> Result<Self> {
        let Into { into, path, bytes, label } = Into::of(args, sides)?;
        let (text, written, file_rules) = match into {
            TakeInto::Before => (both.texts.0, both.encodings.0, both.rules.0),
            TakeInto::After => (both.texts.1, both.encodings.1, both.rules.1),
        };
        if written.encoded(text).as_deref() != Some(bytes) {
            bail!(
                "cannot take changes into {}: it is {}, and could not be written back as it is; turn it into UTF-8 first",
                path.display(),
                written.name()
            );
        }
        Ok(Self {
            into,
            path: path.clone(),
            label,
            type_name: sides.type_name().to_owned(),
            bytes,
            text,
            written,
            file_rules: Arc::clone(file_rules),
        })
    }

    /// What was taken, in the encoding of the target.
    pub(super) fn encoded(&self, taken: &[u8]) -> Result<Vec<u8>> {
        self.written.encoded(taken).with_context(|| {
            format!(
                "cannot write {}: {} lacks letters of what is taken; turn the file into UTF-8 first",
                self.path.display(),
                self.written.name()
            )
        })
    }

    /// Writes the result where it goes.
    pub(super) fn write(&self, args: &TakeArgs, bytes: Vec<u8>) -> Result<Option<u64>> {
        write(args, (&self.path, self.bytes), bytes)
    }
}

/// Writes what comes of a side where it goes.
pub(super) fn write(args: &TakeArgs, (side, read): (&Path, &[u8]), bytes: Vec<u8>) -> Result<Option<u64>> {
    let path = in_full(args.output.as_deref().unwrap_or(side))?;
    let expected = match &args.output {
        Some(_) => expected_state(&path)?,
        // What was read is what is replaced.
        None => ExpectedState::File(Fingerprint::of(read)),
    };
    carry_out(&Plan::of(vec![Step::write(path, expected, Contents::Bytes(bytes))]))
}

/// Says how many changes were taken, where they went, and which run wrote them.
pub(super) fn write_done(
    args: &TakeArgs,
    (side, replaces): (&Path, bool),
    (count, all, part): (usize, usize, &str),
    run: Option<u64>,
    out: &mut dyn Write,
) -> io::Result<()> {
    let all = plural(all, "change");
    let verb = if args.dry_run { "would take" } else { "took" };
    let target: &Path = args.output.as_deref().unwrap_or(side);
    let replaced = if replaces { ", which is replaced" } else { "" };
    write!(out, "{verb} {count} of {all} into {}{replaced}{part}", shown_path(target))?;
    match run {
        Some(run) => writeln!(out, " {}", run_and_undo(run)),
        None if args.dry_run => writeln!(out, "; nothing was written, this was a trial"),
        None => writeln!(out, ": nothing to write"),
    }
}

/// What came of it.
pub(super) struct Done<'d> {
    pub(super) target: &'d Target<'d>,
    pub(super) taken: &'d [u8],
    pub(super) picks: &'d [Pick],
    pub(super) run: Option<u64>,
    /// Whether nothing of a change that was taken was left.
    pub(super) whole: bool,
    /// Whether the file that `-o` names was there already.
    pub(super) replaces: bool,
}

impl Done<'_> {
    /// The target before and after, as a comparison of its own.
    fn compared<T>(&self, contents: &ContentOptions, look: impl FnOnce(&FileView<'_>) -> T) -> T {
        let file_rules = &self.target.file_rules;
        let (before, after) = (MaskedText::new(self.target.text, file_rules), MaskedText::new(self.taken, file_rules));
        let comparison: TextComparison = compare_masked(&before, &after, contents.text_options());
        let labels = Labels::new("as it was", "as it is now");
        look(&FileView {
            name: &self.target.label,
            type_name: &self.target.type_name,
            labels: &labels,
            note: None,
            before: &before,
            after: &after,
            comparison: &comparison,
            first: (0, 0),
            originals: (None, None),
            extracted: None,
        })
    }

    pub(super) fn draw(
        &self,
        args: &TakeArgs,
        contents: &ContentOptions,
        look: &Look,
        out: &mut dyn Write,
    ) -> io::Result<()> {
        if self.taken != self.target.text {
            self.compared(contents, |view| draw_file(view, &look.clone().legend(false), out))?;
            writeln!(out)?;
        }
        let count = self.picks.iter().filter(|pick| **pick != Pick::Leave).count();
        let part = if self.whole { "" } else { ", some only in part" };
        let counts = (count, self.picks.len(), part);
        write_done(args, (&self.target.path, self.replaces), counts, self.run, out)
    }

    pub(super) fn write_json(&self, contents: &ContentOptions, look: &Look, out: &mut dyn Write) -> io::Result<()> {
        self.compared(contents, |view| {
            json::write_record(&json::opening(view.labels), out)?;
            json::write_changes(self.target.type_name.as_bytes(), view, look.marked(), out)
        })?;
        json::write_record(&json::run_record(self.run, self.run.is_some()), out)
    }
}
