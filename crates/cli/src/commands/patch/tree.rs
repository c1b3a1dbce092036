//! `patch` on two folders: one patch with created and deleted files, in path order.

use std::borrow::Cow;
use std::collections::{HashMap, HashSet};
use std::io::{self, Write};
use std::path::PathBuf;

use anyhow::{Result, anyhow};
use tideline_core::internal::align::{Bounds, align};
use tideline_core::internal::model::Status;
use tideline_core::internal::patch::{FileLabel, NO_TIME, PatchOptions, write_file_patch};
use tideline_core::internal::rules;
use tideline_core::internal::tree::{
    self, Attribute, Attributes, EntryMetadata, EntryType, Pair, Tree, TreePath, pair_texts,
};

use tideline_sources::Argument;
use tideline_views::{Labels, plural};

use super::common::{in_memory, inputs, stamp, tell_left_out, wanted};
use super::extended::{LINK_MODE, Version, file_mode, write_versions};
use crate::args::{PatchArgs, PatchFormat};
use crate::commands::pairs::Trees;
use crate::commands::print::printing;
use crate::commands::progress::with_progress;
use crate::commands::request::Request;
use crate::commands::writing::write_output;
use crate::commands::{Outcome, tell};

/// So many files that cannot be carried for one reason are told one by one.
const MOST_ALIKE: usize = 10;
/// Of more, so many are.
const NAMED: usize = 3;

/// What became of a tree in the patch format.
#[derive(Default)]
struct Account {
    files: usize,
    /// What the format cannot carry, with its reason.
    not_carried: Vec<String>,
    /// What could not be read, with its reason.
    unreadable: Vec<String>,
}

pub(super) fn run(args: &PatchArgs, request: &Request, trees: &Trees) -> Result<Outcome> {
    let options = request
        .trees
        .clone()
        .moves(args.format == PatchFormat::Extended)
        .counts(false)
        .attributes(Attributes { mode: true, time: false });
    let (before, after) = trees.both();
    let comparison = with_progress(|progress| tree::compare(before, after, &options, progress));
    let options = PatchOptions::default().context(args.context.lines());
    let writer = Writer { before, after, labels: &trees.labels, args, request, options };
    tree::prepare((before, after), comparison.pairs.iter(), &[]);
    let mut account = Account::default();
    account.tell_empty_folders(&comparison.pairs);
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
    tell_left_out(&comparison.account, request.counted_only);
    if !account.unreadable.is_empty() {
        return Err(anyhow!("{} could not be read and are not in the patch", account.unreadable.len()));
    }
    Ok(if comparison.differs() { Outcome::Different } else { Outcome::Same })
}

impl Account {
    /// Notes folders that are on one side only and hold nothing.
    fn tell_empty_folders(&mut self, pairs: &[Pair]) {
        let filled: HashSet<TreePath> = pairs.iter().map(|pair| pair.path.parent()).collect();
        let one_sided = |pair: &&Pair| pair.is_folder() && matches!(pair.status, Status::Gone | Status::New);
        for pair in pairs.iter().filter(one_sided).filter(|pair| !filled.contains(&pair.path)) {
            self.not_carried.push(format!("{}/: an empty folder", String::from_utf8_lossy(&pair.path).escape_debug()));
        }
    }

    /// Says on standard error what is not in the patch.
    fn tell(&self) {
        // Where one reason holds for many, as when all permissions differ, the first few are named.
        let reason = |line: &'_ str| line.rsplit_once(": ").map_or(line.len(), |(path, _)| path.len() + 2);
        let mut alike: HashMap<&str, usize> = HashMap::new();
        for line in &self.not_carried {
            *alike.entry(&line[reason(line)..]).or_default() += 1;
        }
        let mut told: HashMap<&str, usize> = HashMap::new();
        for line in &self.not_carried {
            let why = &line[reason(line)..];
            let (all, told) = (alike[why], told.entry(why).or_default());
            *told += 1;
            if all <= MOST_ALIKE || *told <= NAMED {
                tell(&format!("not in the patch: {line}"));
            } else if *told == all {
                tell(&format!("not in the patch: {} more: {why}", plural(all - NAMED, "file")));
            }
        }
        for line in &self.unreadable {
            tell(&format!("cannot read {line}"));
        }
        if !self.not_carried.is_empty() {
            let (files, left) = (self.files, self.not_carried.len());
            tell(&format!("files in the patch: {files}; differences it cannot carry: {left}"));
        }
    }
}

struct Writer<'a> {
    labels: &'a Labels,
    before: &'a dyn Tree,
    after: &'a dyn Tree,
    args: &'a PatchArgs,
    request: &'a Request,
    options: PatchOptions,
}

impl Writer<'_> {
    fn pair(&self, pair: &Pair, account: &mut Account, out: &mut dyn Write) -> io::Result<()> {
        let path = String::from_utf8_lossy(&pair.path).escape_debug().to_string();
        let note = tideline_views::note(pair).unwrap_or_default();
        if pair.status == Status::Unreadable {
            account.unreadable.push(format!("{path}: {note}"));
            return Ok(());
        }
        if self.args.format == PatchFormat::Extended {
            return self.extended(pair, &path, account, out);
        }
        if pair.attributes.contains(&Attribute::Mode) {
            let mode = |metadata: Option<EntryMetadata>| metadata.and_then(|metadata| metadata.mode).unwrap_or(0);
            account.not_carried.push(format!("{path}: mode {:o}, now {:o}", mode(pair.before), mode(pair.after)));
        }
        if pair.is_folder() {
            return Ok(());
        }
        match pair.types {
            (Some(EntryType::File), Some(EntryType::File)) => self.file(pair, (true, true), &path, account, out),
            (Some(EntryType::File), None) => self.file(pair, (true, false), &path, account, out),
            (None, Some(EntryType::File)) => self.file(pair, (false, true), &path, account, out),
            (Some(EntryType::File), Some(_)) => {
                if pair.types.1 != Some(EntryType::Folder) {
                    account.not_carried.push(format!("{path}: {note}"));
                }
                self.file(pair, (true, false), &path, account, out)
            }
            (Some(_), Some(EntryType::File)) => self.file(pair, (false, true), &path, account, out),
            (one, other) => {
                let entry_type = other.or(one).map(|entry_type| entry_type.to_string()).unwrap_or_default();
                account.not_carried.push(format!("{path}: {entry_type}"));
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
        let side = |is: bool, tree| is.then_some((tree, &pair.path));
        let texts = match pair_texts(side(is_before, self.before), side(is_after, self.after)) {
            Ok(texts) => texts,
            Err(problem) => {
                account.unreadable.push(format!("{path}: {problem}"));
                return Ok(());
            }
        };
        let (before, after) = texts.bytes();
        let is_text = |bytes| self.request.contents.reads_as_lines(&pair.path, bytes);
        if !is_text(before) || !is_text(after) {
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
            wanted((before, after), &pair.path, self.request, &mut rules::Account::default())
        } else {
            Cow::Borrowed(after)
        };
        let edits = align(before, &after, &Bounds::default());
        account.files += usize::from(!edits.is_empty());
        let labels = (self.label(pair, true, is_before), self.label(pair, false, is_after));
        write_file_patch((&labels.0, &labels.1), (before, &after), &edits, &self.options, &mut { out })
    }

    /// Writes a pair with the headers that say what the plain format cannot.
    fn extended(&self, pair: &Pair, path: &str, account: &mut Account, out: &mut dyn Write) -> io::Result<()> {
        if pair.status == Status::Same && pair.attributes.is_empty() {
            return Ok(());
        }
        let folder = Some(EntryType::Folder);
        let sides = (
            pair.types.0.filter(|entry_type| Some(*entry_type) != folder),
            pair.types.1.filter(|entry_type| Some(*entry_type) != folder),
        );
        if pair.is_folder() && pair.attributes.contains(&Attribute::Mode) {
            account.not_carried.push(format!("{path}: the mode of a folder"));
        }
        // What becomes something else goes first, and comes as what it is then.
        let retyped = sides.0.is_some() && sides.1.is_some() && sides.0 != sides.1;
        let parts = if retyped { vec![(sides.0, None), (None, sides.1)] } else { vec![sides] };
        parts
            .into_iter()
            .filter(|sides| *sides != (None, None))
            .try_for_each(|sides| self.extended_part(pair, sides, path, account, out))
    }

    fn extended_part(
        &self,
        pair: &Pair,
        sides: (Option<EntryType>, Option<EntryType>),
        path: &str,
        account: &mut Account,
        out: &mut dyn Write,
    ) -> io::Result<()> {
        let read =
            |entry_type: Option<EntryType>, tree: &dyn Tree, path: &TreePath| -> Result<Option<Vec<u8>>, String> {
                match entry_type {
                    None => Ok(None),
                    Some(EntryType::Link) => tree.link_target(path).map(Some).map_err(|problem| problem.to_string()),
                    Some(EntryType::File) => tree
                        .contents(path)
                        .map(|bytes| Some((*bytes).as_ref().to_vec()))
                        .map_err(|problem| problem.to_string()),
                    Some(other) => Err(format!("{other}, which a patch cannot carry")),
                }
            };
        let both = read(sides.0, self.before, pair.path_before())
            .and_then(|before| Ok((before, read(sides.1, self.after, &pair.path)?)));
        let (before, after) = match both {
            Ok(both) => both,
            Err(problem) => {
                account.unreadable.push(format!("{path}: {problem}"));
                return Ok(());
            }
        };
        let mode = |entry_type: Option<EntryType>, tree: &dyn Tree, path: &TreePath| match entry_type? {
            EntryType::Link => Some(LINK_MODE),
            _ => Some(file_mode(tree.metadata(path).ok()?.mode?)),
        };
        let modes = (mode(sides.0, self.before, pair.path_before()), mode(sides.1, self.after, &pair.path));
        if pair.attributes.contains(&Attribute::Mode) && modes.0 == modes.1 {
            account.not_carried.push(format!("{path}: permissions beyond whether it can be run"));
        }
        let (prefix_before, prefix_after) =
            self.args.labels.clone().unwrap_or_else(|| ("a".to_owned(), "b".to_owned()));
        let account_of_pair = &mut rules::Account::default();
        let after = match (&before, after) {
            (Some(before), Some(after)) if sides == (Some(EntryType::File), Some(EntryType::File)) => {
                let both = (&before[..], &after[..]);
                Some(wanted(both, &pair.path, self.request, account_of_pair).into_owned())
            }
            (_, after) => after,
        };
        let is_text = |bytes: &Option<Vec<u8>>| {
            bytes.as_ref().is_none_or(|bytes| self.request.contents.reads_as_lines(&pair.path, bytes))
        };
        let is_text = is_text(&before) && is_text(&after);
        let versions = (
            Version {
                name: TreePath::from(&*prefix_before).join(pair.path_before()).to_vec(),
                mode: modes.0,
                contents: before,
            },
            Version { name: TreePath::from(&*prefix_after).join(&pair.path).to_vec(), mode: modes.1, contents: after },
        );
        let written = write_versions(versions, (pair.moved_from.is_some(), is_text), &self.options, out)?;
        account.files += usize::from(written);
        Ok(())
    }

    fn label(&self, pair: &Pair, is_before: bool, is_there: bool) -> FileLabel {
        if !is_there {
            let stamp = self.args.labels.is_none().then(|| NO_TIME.to_owned());
            return FileLabel::new("/dev/null").stamp(stamp);
        }
        let (tree, root) = if is_before { (self.before, &self.args.before) } else { (self.after, &self.args.after) };
        if let Some((before, after)) = &self.args.labels {
            return FileLabel::new(TreePath::from(&**if is_before { before } else { after }).join(&pair.path).to_vec());
        }
        let modified = tree.metadata(&pair.path).ok().and_then(|metadata| metadata.modified);
        // An absolute name would not be followed, and that of an archive or a revision is no folder's.
        let is_folder = root.is_dir() && !Argument::is_revision(root);
        let short = (root.is_absolute() || !is_folder).then(|| {
            let label = if is_before { &self.labels.before } else { &self.labels.after };
            PathBuf::from(label.replace('/', "-"))
        });
        let root = short.as_ref().unwrap_or(root).as_os_str().as_encoded_bytes();
        let root = root.strip_suffix(b"/").unwrap_or(root);
        FileLabel::new(TreePath::from(root).join(&pair.path).to_vec()).stamp(modified.and_then(stamp))
    }
}
