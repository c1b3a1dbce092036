//! What each of two sides did since a common base.

use std::path::Path;

use anyhow::{Result, bail};
use tideline_core::internal::kinds::ContentOptions;
use tideline_core::internal::merge::{
    FileMerge, MergeOptions, MergedText, Three, Together, TreeMerge, TreeMergeOptions, WholeMerge, merge_files,
};
use tideline_core::internal::tree::{Tree, TreePath};
use tideline_views::json::merge as records;
use tideline_views::terminal::{Look, draw_merge, draw_merged_tree};
use tideline_views::{MergeView, MergedTreeView, value_in_words};

use crate::args::{CompareArgs, FilesArgs};
use crate::commands::Outcome;
use crate::commands::print::{printing, printing_changes};
use crate::commands::progress::with_progress;
use crate::commands::resolve::refuse_paths;
use crate::commands::unused::tell_unused;
use crate::commands::versions::{FileVersions, OpenedVersions, TreeVersions, open_versions, tell_unreadable};
use crate::settings::{
    Config, content_options, encodings, how, is_paged, kind, look, side_options, togethers, tree_options,
};

pub(super) fn run(args: &CompareArgs, base: &Path, config: &Config) -> Result<Outcome> {
    if args.after.as_os_str().is_empty() {
        bail!("cannot compare with a base: name both sides");
    }
    let contents = content_options(&args.what, config, encodings(&args.read)?, args.counted_only)?;
    let contents = contents.kind(kind(args.read.kind)).how(how(&args.read.how));
    // What each side did is told by lines: a merge by kind tells only what both changed.
    let contents = contents.lines_only();
    let paths = Three::new(base, args.before.as_path(), args.after.as_path());
    let shown = Shown { args, config, only: togethers(&args.files)?, contents };
    match open_versions(paths, &side_options(&args.files, &args.sides, args.read.kind), &[])? {
        OpenedVersions::Files(versions) => {
            refuse_paths(&args.paths, &args.before, &args.after)?;
            shown.files(&versions)
        }
        OpenedVersions::Trees(versions) => shown.trees(&versions),
    }
}

/// What is shown, and how.
struct Shown<'a> {
    args: &'a CompareArgs,
    config: &'a Config,
    only: Vec<Together>,
    contents: ContentOptions,
}

impl Shown<'_> {
    fn look(&self) -> Result<Look> {
        look(&self.args.look.for_records(self.args.json), &self.config.view)
    }

    fn files(&self, versions: &FileVersions) -> Result<Outcome> {
        let names = &versions.names;
        let path = if names.name.is_empty() { names.labels.theirs.clone() } else { names.name.clone() };
        let merge = merge_files(path.as_bytes(), versions.bytes(), &self.contents, &MergeOptions::default());
        versions.check()?;
        self.file(&merge, (&names.name, &path), &names.labels)
    }

    /// Shows a file.
    fn file(&self, merge: &FileMerge<'_>, (name, path): (&str, &str), labels: &Three<String>) -> Result<Outcome> {
        match merge {
            FileMerge::Text(text) => self.text(text, (name, path), labels),
            FileMerge::Whole(whole) => self.whole(*whole, name, labels),
        }
    }

    fn text(&self, text: &MergedText<'_>, (name, path): (&str, &str), labels: &Three<String>) -> Result<Outcome> {
        let values: Vec<String> = text.value_conflicts().iter().map(|value| value_in_words(value, labels)).collect();
        let note = (!values.is_empty()).then(|| values.join(", "));
        let view = MergeView {
            name,
            type_name: path,
            labels,
            note: note.as_deref(),
            merge: &text.merge,
            only: (!self.only.is_empty()).then_some(&self.only[..]),
            counted_only: self.args.counted_only,
        };
        if self.args.json {
            printing(false, |out| records::write_texts(&view, values.clone(), false, out))?;
        } else if !self.args.quiet {
            let look = self.look()?;
            let paged = is_paged(&self.args.look, &self.config.view);
            printing_changes(paged, |out| draw_merge(&view, &look, out))?;
        }
        tell_unused(self.contents.all_rules(), &text.merge.account);
        let differs = text.merge.regions.iter().any(|region| region.counts) || !values.is_empty();
        Ok(if differs { Outcome::Different } else { Outcome::Same })
    }

    fn whole(&self, whole: WholeMerge, name: &str, labels: &Three<String>) -> Result<Outcome> {
        let Three { base, mine, theirs } = labels;
        let (together, told) = match whole {
            WholeMerge::Mine => (Together::OneSided, format!("{theirs} is the same as {base}")),
            WholeMerge::Theirs => (Together::OneSided, format!("{mine} is the same as {base}")),
            WholeMerge::Alike => (Together::Alike, format!("{mine} and {theirs} are the same")),
            WholeMerge::Conflict => (Together::Conflict, format!("both {mine} and {theirs} differ from {base}")),
        };
        if self.args.json {
            printing(false, |out| records::write_whole(labels, told, false, out))?;
        } else if !self.args.quiet {
            let name = if name.is_empty() { String::new() } else { format!("{name}    ") };
            printing(false, |out| writeln!(out, "{name}not text    {}: {told}", together.name()))?;
        }
        Ok(Outcome::Different)
    }

    fn trees(&self, versions: &TreeVersions) -> Result<Outcome> {
        let files = FilesArgs { only: Vec::new(), ..self.args.files.clone() };
        let options = tree_options(&files, self.contents.clone())?.counts(false);
        let merging = TreeMergeOptions { contents: self.contents.clone(), ..TreeMergeOptions::default() };
        let mut merge = with_progress(|progress| versions.merged(&options, &merging, progress));
        if let [path] = &self.args.paths[..]
            && let Some(outcome) = self.one_file(versions, &located(versions, &merge, path)?)?
        {
            return Ok(outcome);
        }
        self.narrow(versions, &mut merge)?;
        let view = MergedTreeView {
            labels: &versions.labels,
            merge: &merge,
            only: (!self.only.is_empty()).then_some(&self.only[..]),
        };
        if self.args.json {
            printing(false, |out| records::write_trees(&view, out))?;
        } else if !self.args.quiet {
            let look = self.look()?;
            printing(is_paged(&self.args.look, &self.config.view), |out| draw_merged_tree(&view, &look, out))?;
        }
        let is_troubled = tell_unreadable(&merge);
        if !merge.account.is_empty() {
            tell_unused(self.contents.all_rules(), &merge.account);
        }
        Ok(match (is_troubled, merge.entries.is_empty()) {
            (true, _) => Outcome::Trouble,
            (false, true) => Outcome::Same,
            (false, false) => Outcome::Different,
        })
    }

    /// Keeps only what is at the paths that were named, or below them.
    fn narrow(&self, versions: &TreeVersions, merge: &mut TreeMerge) -> Result<()> {
        if self.args.paths.is_empty() {
            return Ok(());
        }
        let named: Result<Vec<TreePath>> = self.args.paths.iter().map(|path| located(versions, merge, path)).collect();
        let named = named?;
        let is_named = |path: &TreePath| named.iter().any(|named| path.is_within(named));
        merge.entries.retain(|entry| {
            is_named(&entry.path) || [&entry.mine.path, &entry.theirs.path].into_iter().flatten().any(is_named)
        });
        Ok(())
    }

    /// Shows the one file that was named, if it is a file in any of the versions.
    fn one_file(&self, versions: &TreeVersions, path: &TreePath) -> Result<Option<Outcome>> {
        let read = |tree: &dyn Tree| tree.contents(path).ok();
        let contents = versions.trees().map(read);
        if contents.as_ref().all().into_iter().all(Option::is_none) {
            return Ok(None);
        }
        let empty: &[u8] = &[];
        let bytes = contents.as_ref().map(|contents| contents.as_ref().map_or(empty, |contents| (**contents).as_ref()));
        let merge = merge_files(path, bytes, &self.contents, &MergeOptions::default());
        let name = path.to_text();
        self.file(&merge, (&name, &name), &versions.labels).map(Some)
    }
}

/// What was named: a path of one of the trees, or the end of the path of a file that changed.
fn located(versions: &TreeVersions, merge: &TreeMerge, path: &Path) -> Result<TreePath> {
    let named = tree_path(path);
    if versions.trees().all().into_iter().any(|tree| tree.metadata(&named).is_ok()) {
        return Ok(named);
    }
    let tail = [b"/", named.as_bytes()].concat();
    let mut found = merge.entries.iter().map(|entry| &entry.path).filter(|path| path.as_bytes().ends_with(&tail));
    match (found.next(), found.next()) {
        (Some(only), None) => Ok(only.clone()),
        (Some(one), Some(other)) => bail!(
            "cannot tell which file {} is: {} and {} end so; name more of its path",
            path.display(),
            one.to_text(),
            other.to_text()
        ),
        (None, _) => {
            bail!("cannot find {}: none of the three has it, and no path that changed ends so", path.display())
        }
    }
}

fn tree_path(path: &Path) -> TreePath {
    let text = path.as_os_str().as_encoded_bytes();
    let text = text.strip_prefix(b"./").unwrap_or(text);
    text.strip_suffix(b"/").unwrap_or(text).into()
}
