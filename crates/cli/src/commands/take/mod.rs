//! `take`: carries chosen changes of two files into one of them.

mod ask;

use std::io::{self, Write};
use std::path::{Path, PathBuf};
use std::sync::Arc;

use anyhow::{Context, Result, bail};
use tideline_core::internal::kinds::text::compare_masked;
use tideline_core::internal::kinds::{Comparison, ContentOptions, TextPair};
use tideline_core::internal::merge::{Pick, Selection, TakeInto, take};
use tideline_core::internal::model::TextComparison;
use tideline_core::internal::plan::{Contents, ExpectedState, Fingerprint, Plan, Step};
use tideline_core::internal::rules::{FileRules, MaskedText};
use tideline_core::internal::text::encoding::TextEncoding;
use tideline_views::json;
use tideline_views::terminal::{Look, draw_file};
use tideline_views::{FileView, Labels, PairView, plural, shown_path};

use super::Outcome;
use super::compare::locate;
use super::lines::AskedLines;
use super::print::printing;
use super::request::{Asked, Request};
use super::resolve::{Resolved, open_in_trees};
use super::sides::Sides;
use super::writing::{Inputs, carry_out, expected_state, in_full, run_and_undo};
use crate::args::{FilesArgs, SideChoice, TakeArgs};
use crate::settings::{Config, look};

pub(super) fn run(args: &TakeArgs) -> Result<Outcome> {
    let config = Config::load(&args.what)?;
    match &args.path {
        Some(path) => {
            let sides = of_trees(args, path, &config)?;
            let (before, after) = sides.paths.clone();
            let args = TakeArgs { before, after, path: None, ..args.clone() };
            run_on(&args, &config, Some(sides))
        }
        None => run_on(args, &config, None),
    }
}

/// The two files at a path in two folders.
fn of_trees(args: &TakeArgs, path: &Path, config: &Config) -> Result<Sides> {
    let TakeArgs { before, after, what, read, counted_only, sides, .. } = args;
    let (files, lines) = (&FilesArgs::default(), AskedLines::default());
    let asked = Asked { before, after, paths: &[], what, read, files, sides, counted_only: *counted_only, lines };
    let Resolved::Trees(trees) = Request::new(&asked, config)?.open()? else {
        bail!("cannot look for {} in two files: a path can follow two folders only", path.display());
    };
    let found = locate(&trees, path)?;
    open_in_trees(&trees, (before, after), &found)
}

/// Carries changes of two files, which may be open already.
fn run_on(args: &TakeArgs, config: &Config, opened: Option<Sides>) -> Result<Outcome> {
    let TakeArgs { before, after, what, read, counted_only, sides, .. } = args;
    let (paths, files) = (&[][..], &FilesArgs::default());
    let lines = AskedLines { holds: Some(&args.holds), part: None };
    let request = Request::new(
        &Asked { before, after, paths, what, read, files, sides, counted_only: *counted_only, lines },
        config,
    )?;
    let contents = &request.contents;
    // Records need no answer from the terminal.
    let look = look(&args.look.for_records(args.json), &config.view)?;
    let sides = match opened {
        Some(sides) => sides,
        None => match request.open()? {
            Resolved::Files(sides) => *sides,
            Resolved::Trees(_) => bail!(
                "cannot take changes of two folders: name the file in them too; `tideline sync` makes one folder like another"
            ),
        },
    };
    if let Some(output) = &args.output {
        Inputs { paths: vec![&args.before, &args.after], is_earlier: |_| false, command: "take" }.refuse(output)?;
    }
    let comparison = sides.compare(contents);
    request.check_lines(&comparison, &sides.names.labels)?;
    let texts = match &comparison {
        Comparison::Text(texts) => &**texts,
        Comparison::Bytes(_) => bail!(
            "cannot take changes of {} and {}: they are not both text",
            args.before.display(),
            args.after.display()
        ),
    };
    let TextPair { before, after, found, .. } = texts;
    let target = Target::of(args, &sides, texts)?;
    let picks = if args.ask {
        let PairView::Text(view) = PairView::new(&comparison, sides.title(None)) else { return Ok(Outcome::Same) };
        match ask::picks(&view, target.into, &look)? {
            Some(picks) => picks,
            None => {
                printing(false, |out| writeln!(out, "nothing was written"))?;
                return Ok(Outcome::Same);
            }
        }
    } else {
        selection(args)
            .picks((before, after), found)
            .with_context(|| format!("cannot take changes of {} and {}", args.before.display(), args.after.display()))?
    };
    let taken = take((before, after), found, target.into, &picks);
    let bytes = target.written.encoded(&taken).with_context(|| {
        format!(
            "cannot write {}: {} lacks letters of what is taken; turn the file into UTF-8 first",
            target.path.display(),
            target.written.name()
        )
    })?;
    sides.check()?;
    let is_same = bytes == target.bytes;
    let replaces = args.output.as_ref().is_some_and(|output| output.symlink_metadata().is_ok());
    let run = if args.dry_run || is_same && args.output.is_none() { None } else { target.write(args, bytes)? };
    // Lines that are all of a change are the change.
    let all_of_them: Vec<Pick> =
        picks.iter().map(|pick| if *pick == Pick::Leave { Pick::Leave } else { Pick::Take }).collect();
    let whole = picks == all_of_them || take((before, after), found, target.into, &all_of_them) == taken;
    let done = Done { target: &target, taken: &taken, picks: &picks, run, whole, replaces };
    printing(false, |out| {
        if args.json { done.write_json(contents, &look, out) } else { done.draw(args, contents, &look, out) }
    })?;
    Ok(Outcome::Same)
}

fn selection(args: &TakeArgs) -> Selection {
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

/// The side that changes are carried into.
struct Target<'s> {
    into: TakeInto,
    path: PathBuf,
    label: String,
    type_name: String,
    bytes: &'s [u8],
    text: &'s [u8],
    written: TextEncoding,
    file_rules: Arc<FileRules>,
}

impl<'s> Target<'s> {
    fn of(args: &TakeArgs, sides: &'s Sides, texts: &'s TextPair<'_>) -> Result<Self> {
        let labels = &sides.names.labels;
        let (into, path, bytes, label) = match args.into {
            SideChoice::Before => (TakeInto::Before, &args.before, &*sides.before, &labels.before),
            SideChoice::After => (TakeInto::After, &args.after, &*sides.after, &labels.after),
        };
        let on_disk = if into == TakeInto::Before { sides.on_disk.0 } else { sides.on_disk.1 };
        if args.output.is_none() && !on_disk {
            let name = if path.as_os_str() == "-" { "standard input".to_owned() } else { path.display().to_string() };
            let why = if path.as_os_str() == "-" { "" } else { ", which is not a file on the disk" };
            bail!("cannot write into {name}{why}: -o FILE says where the result goes");
        }
        let (masked, written) = match into {
            TakeInto::Before => (&texts.before, texts.encodings.0),
            TakeInto::After => (&texts.after, texts.encodings.1),
        };
        let text = masked.text();
        if written.encoded(text).as_deref() != Some(bytes) {
            bail!(
                "cannot take changes into {}: it is {}, and could not be written back as it is; turn it into UTF-8 first",
                path.display(),
                written.name()
            );
        }
        let name = &sides.names.name;
        Ok(Self {
            into,
            path: path.clone(),
            label: if name.is_empty() { label.clone() } else { format!("{label}/{name}") },
            type_name: sides.type_name().to_owned(),
            bytes,
            text,
            written,
            file_rules: Arc::clone(masked.file_rules()),
        })
    }

    /// Writes the result where it goes.
    fn write(&self, args: &TakeArgs, bytes: Vec<u8>) -> Result<Option<u64>> {
        let path = in_full(args.output.as_deref().unwrap_or(&self.path))?;
        let expected = match &args.output {
            Some(_) => expected_state(&path)?,
            // What was read is what is replaced.
            None => ExpectedState::File(Fingerprint::of(self.bytes)),
        };
        carry_out(&Plan::of(vec![Step::write(path, expected, Contents::Bytes(bytes))]))
    }
}

/// What came of it.
struct Done<'d> {
    target: &'d Target<'d>,
    taken: &'d [u8],
    picks: &'d [Pick],
    run: Option<u64>,
    /// Whether nothing of a change that was taken was left.
    whole: bool,
    /// Whether the file that `-o` names was there already.
    replaces: bool,
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
        })
    }

    fn draw(&self, args: &TakeArgs, contents: &ContentOptions, look: &Look, out: &mut dyn Write) -> io::Result<()> {
        let count = self.picks.iter().filter(|pick| **pick != Pick::Leave).count();
        let all = plural(self.picks.len(), "change");
        let verb = if args.dry_run { "would take" } else { "took" };
        let part = if self.whole { "" } else { ", some only in part" };
        let target: &Path = args.output.as_deref().unwrap_or(&self.target.path);
        if self.taken != self.target.text {
            self.compared(contents, |view| draw_file(view, &look.clone().legend(false), out))?;
            writeln!(out)?;
        }
        let replaced = if self.replaces { ", which is replaced" } else { "" };
        write!(out, "{verb} {count} of {all} into {}{replaced}{part}", shown_path(target))?;
        match self.run {
            Some(run) => writeln!(out, " {}", run_and_undo(run)),
            None if args.dry_run => writeln!(out, "; nothing was written, this was a trial"),
            None => writeln!(out, ": nothing to write"),
        }
    }

    fn write_json(&self, contents: &ContentOptions, look: &Look, out: &mut dyn Write) -> io::Result<()> {
        self.compared(contents, |view| {
            json::write_record(&json::opening(view.labels), out)?;
            json::write_changes(self.target.type_name.as_bytes(), view, look.marked(), out)
        })?;
        json::write_record(&json::run_record(self.run, self.run.is_some()), out)
    }
}
