//! The editor of the person at the keyboard.

use std::env;
use std::fs;
use std::process::Command;

use anyhow::{Context, Result, bail};
use tideline_core::internal::kinds::{self, ContentOptions, Read};

/// Lets the person edit a text in a private copy, whose name ends as that of its file so that the editor knows what it is. The cursor
/// begins at a line, where the editor takes `+N` before the file as its kin do.
pub(crate) fn edited_in_editor(name: &str, text: &[u8], line: Option<usize>) -> Result<Vec<u8>> {
    let Some(editor) =
        ["VISUAL", "EDITOR"].into_iter().find_map(|name| env::var(name).ok()).filter(|it| !it.is_empty())
    else {
        bail!("neither VISUAL nor EDITOR says which editor to use");
    };
    let folder = tempfile::tempdir().context("cannot make a folder for the editor")?;
    let path = folder.path().join(name);
    fs::write(&path, text).with_context(|| format!("cannot write {}", path.display()))?;
    let mut command = if cfg!(windows) { Command::new("cmd") } else { Command::new("sh") };
    if cfg!(windows) {
        command.arg("/C").arg(format!("{editor} \"{}\"", path.display()));
    } else {
        let at = line.filter(|_| takes_line(&editor)).map(|line| format!("+{line}"));
        command.arg("-c").arg(format!("{editor} \"$@\"")).arg("editor").args(at).arg(&path);
    }
    let status = command.status().with_context(|| format!("cannot start the editor {editor}"))?;
    if !status.success() {
        bail!("the editor {editor} ended with trouble ({status})");
    }
    let bytes = fs::read(&path).with_context(|| format!("cannot read {}", path.display()))?;
    Ok(match kinds::read(b"", &bytes, true, &ContentOptions::default()) {
        Read::Text(text) => text.into_owned(),
        Read::Bytes(bytes) => bytes.to_vec(),
    })
}

/// Whether an editor is one of those that take `+N` for the line to begin at.
fn takes_line(editor: &str) -> bool {
    let program = editor.split_whitespace().next().unwrap_or_default();
    let name = program.rsplit('/').next().unwrap_or_default();
    ["vi", "vim", "nvim", "view", "nano", "pico", "emacs", "emacsclient", "ed", "ex", "joe", "mg", "kak", "ne", "micro"]
        .contains(&name)
}
