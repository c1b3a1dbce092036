//! `patch` on two folders: one patch with created and deleted files, in path order.

use std::borrow::Cow;
use std::io::{self, Write};

use anyhow::{Result, anyhow};
use tideline_core::align::{Bounds, align};
use tideline_core::kinds::ContentOptions;
use tideline_core::model::Status;
use tideline_core::patch::{FileLabel, PatchOptions, write_file_patch};
use tideline_core::rules;
use tideline_core::tree::{self, Attribute, Attributes, Facts, Nature, Pair, Tree, join, pair_texts};
use tideline_sources::FolderTree;

use super::Outcome;
use super::patch::{in_memory, inputs, stamp, tell_left_out, wanted};
use super::print::printing;
use super::progress::with_progress;
use super::writing::write_output;
use crate::args::PatchArgs;
use crate::settings::{Config, content_options, folder_tree, tree_options};

/// What the header of a side that is not there says of its time.
const NO_TIME: &str = "1970-01-01 00:00:00.000000000 +0000";

/// What became of a tree in the patch format.
#[derive(Default)]
struct Account {
    files: usize,
    /// What the format cannot carry, with its reason.
    not_carried: Vec<String>,
    /// What could not be read, with its reason.
    unreadable: Vec<String>,
}

pub(super) fn run(args: &PatchArgs) -> Result<Outcome> {
    let config = Config::load(&args.what)?;
    let contents = content_options(&args.what, &config, (None, None), args.counted_only)?;
    let options = tree_options(&args.files, contents.clone())?
        .moves(false)
        .counts(false)
        .attributes(Attributes { mode: true, time: false });
    let before = folder_tree(&args.before, &args.files);
    let after = folder_tree(&args.after, &args.files);
    let comparison = with_progress(|progress| tree::compare(&before, &after, &options, progress));
    let options = PatchOptions::default().context(args.context.lines());
    let writer = Writer { before: &before, after: &after, args, contents, options };
    let mut account = Account::default();
    let mut write = |out: &mut dyn Write| -> io::Result<()> {
        for pair in &comparison.pairs {
            writer.pair(pair, &mut account, out)?;
        }
        Ok(())
    };
    if let Some(path) = &args.output {
        inputs(args).refuse(path)?;
    }
    match &args.output {
        Some(path) => write_output(path, in_memory(&mut write)?)?,
        None => printing(false, &mut write)?,
    }
    account.tell();
    tell_left_out(&comparison.account, args.counted_only);
    if !account.unreadable.is_empty() {
        return Err(anyhow!("{} could not be read and are not in the patch", account.unreadable.len()));
    }
    Ok(if comparison.differs() { Outcome::Different } else { Outcome::Same })
}

impl Account {
    /// Says on standard error what is not in the patch.
    fn tell(&self) {
        for line in &self.not_carried {
            super::tell(&format!("not in the patch: {line}"));
        }
        for line in &self.unreadable {
            super::tell(&format!("cannot read {line}"));
        }
        if !self.not_carried.is_empty() {
            let (files, left) = (self.files, self.not_carried.len());
            super::tell(&format!("files in the patch: {files}; differences it cannot carry: {left}"));
        }
    }
}

struct Writer<'a> {
    before: &'a FolderTree,
    after: &'a FolderTree,
    args: &'a PatchArgs,
    contents: ContentOptions,
    options: PatchOptions,
}

impl Writer<'_> {
    fn pair(&self, pair: &Pair, account: &mut Account, out: &mut dyn Write) -> io::Result<()> {
        let path = String::from_utf8_lossy(&pair.path).escape_debug().to_string();
        let note = pair.note.as_deref().unwrap_or_default();
        if pair.status == Status::Unreadable {
            account.unreadable.push(format!("{path}: {note}"));
            return Ok(());
        }
        if pair.attributes.contains(&Attribute::Mode) {
            let mode = |facts: Option<Facts>| facts.and_then(|facts| facts.mode).unwrap_or(0);
            account.not_carried.push(format!("{path}: mode {:o}, now {:o}", mode(pair.before), mode(pair.after)));
        }
        if pair.is_folder() {
            return Ok(());
        }
        match pair.natures {
            (Some(Nature::File), Some(Nature::File)) => self.file(pair, (true, true), &path, account, out),
            (Some(Nature::File), None) => self.file(pair, (true, false), &path, account, out),
            (None, Some(Nature::File)) => self.file(pair, (false, true), &path, account, out),
            (Some(Nature::File), Some(_)) => {
                if pair.natures.1 != Some(Nature::Folder) {
                    account.not_carried.push(format!("{path}: {note}"));
                }
                self.file(pair, (true, false), &path, account, out)
            }
            (Some(_), Some(Nature::File)) => self.file(pair, (false, true), &path, account, out),
            (one, other) => {
                let nature = other.or(one).map(|nature| nature.to_string()).unwrap_or_default();
                account.not_carried.push(format!("{path}: {nature}"));
                Ok(())
            }
        }
    }

    /// Writes the patch of a file that is there on one side or both.
    fn file(
        &self,
        pair: &Pair,
        (is_before, is_after): (bool, bool),
        path: &str,
        account: &mut Account,
        out: &mut dyn Write,
    ) -> io::Result<()> {
        let side = |is: bool, tree| is.then_some((tree as &dyn Tree, &pair.path[..]));
        let texts = match pair_texts(side(is_before, self.before), side(is_after, self.after)) {
            Ok(texts) => texts,
            Err(problem) => {
                account.unreadable.push(format!("{path}: {problem}"));
                return Ok(());
            }
        };
        let (before, after) = texts.bytes();
        if [before, after].iter().any(|bytes| memchr::memchr(0, bytes).is_some()) {
            account.not_carried.push(format!("{path}: not text"));
            return Ok(());
        }
        if before.is_empty() && after.is_empty() {
            if !(is_before && is_after) {
                account.not_carried.push(format!("{path}: an empty file"));
            }
            return Ok(());
        }
        let after = if is_before && is_after {
            wanted((before, after), &pair.path, &self.contents, self.args.counted_only, &mut rules::Account::default())
        } else {
            Cow::Borrowed(after)
        };
        let edits = align(before, &after, &Bounds::default());
        account.files += usize::from(!edits.is_empty());
        let labels = (self.label(pair, true, is_before), self.label(pair, false, is_after));
        write_file_patch((&labels.0, &labels.1), (before, &after), &edits, &self.options, &mut { out })
    }

    fn label(&self, pair: &Pair, is_before: bool, is_there: bool) -> FileLabel {
        if !is_there {
            let stamp = self.args.labels.is_none().then(|| NO_TIME.to_owned());
            return FileLabel::new("/dev/null").stamp(stamp);
        }
        let (tree, root) = if is_before { (self.before, &self.args.before) } else { (self.after, &self.args.after) };
        if let Some((before, after)) = &self.args.labels {
            return FileLabel::new(join(if is_before { before } else { after }.as_bytes(), &pair.path));
        }
        let modified = tree.facts(&pair.path).ok().and_then(|facts| facts.modified);
        let root = root.as_os_str().as_encoded_bytes();
        let root = root.strip_suffix(b"/").unwrap_or(root);
        FileLabel::new(join(root, &pair.path)).stamp(modified.and_then(stamp))
    }
}
