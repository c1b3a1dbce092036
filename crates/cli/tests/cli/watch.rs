//! `compare --watch`, driven by saving files.

use std::io::{BufRead, BufReader};
use std::process::{Child, Stdio};
use std::sync::mpsc::{Receiver, channel};
use std::thread;
use std::time::Duration;

use crate::support::Folder;

/// A running watch, and what it prints.
struct Watch {
    child: Child,
    lines: Receiver<String>,
}

impl Watch {
    fn begin(folder: &Folder, arguments: &[&str]) -> Self {
        let mut child = folder.command(arguments).stdout(Stdio::piped()).spawn().unwrap();
        let out = BufReader::new(child.stdout.take().unwrap());
        let (sender, lines) = channel();
        thread::spawn(move || {
            for line in out.lines().map_while(Result::ok) {
                if sender.send(line).is_err() {
                    return;
                }
            }
        });
        let watch = Self { child, lines };
        watch.until("watching both sides");
        watch
    }

    /// Reads up to a line that holds some words; what was read.
    fn until(&self, words: &str) -> String {
        let mut read = String::new();
        while let Ok(line) = self.lines.recv_timeout(Duration::from_secs(20)) {
            read = format!("{read}{line}\n");
            if line.contains(words) {
                return read;
            }
        }
        panic!("no {words:?} in:\n{read}");
    }
}

impl Drop for Watch {
    fn drop(&mut self) {
        self.child.kill().unwrap();
        self.child.wait().unwrap();
    }
}

#[test]
fn saving_a_file_tells_what_became_different() {
    let folder = Folder::with(&[("a", "one\n2\n3\n4\n5\nlast\n"), ("b", "uno\n2\n3\n4\n5\nlast\n")]);
    let watch = Watch::begin(&folder, &["--watch", "--context", "0", "a", "b"]);
    folder.write("b", b"uno\n2\n3\n4\n5\nultimo\n");
    let told = watch.until("ultimo");
    assert!(told.contains("saved: 1 change came, 0 went, 2 in all"), "{told}");
    assert!(told.contains("change 2 of 2 · line 6"), "{told}");
    assert!(!told.contains("uno"), "only what came is drawn:\n{told}");
    folder.write("a", b"uno\n2\n3\n4\n5\nultimo\n");
    watch.until("2 changes went, both sides are alike now");
}

#[test]
fn trees_tell_the_pairs_that_became_different() {
    let folder = Folder::with(&[("one/x", "1\n"), ("two/x", "1\n"), ("one/y", "1\n"), ("two/y", "2\n")]);
    let watch = Watch::begin(&folder, &["--watch", "one", "two"]);
    folder.write("two/x", b"2\n");
    let told = watch.until("x    1 change, 1 ○ 1 ●");
    assert!(!told.contains("◐ y"), "{told}");
    folder.write("two/y", b"1\n");
    watch.until("y no longer differs");
}

#[test]
fn a_change_that_is_the_same_as_another_is_told_too() {
    let folder = Folder::with(&[("a", "1\nlow\n2\n3\n4\nlow\n"), ("b", "1\nhigh\n2\n3\n4\nlow\n")]);
    let watch = Watch::begin(&folder, &["--watch", "--context", "0", "a", "b"]);
    folder.write("b", b"1\nhigh\n2\n3\n4\nhigh\n");
    let told = watch.until("change 2 of 2");
    assert!(told.contains("saved: 1 change came, 0 went, 2 in all") && !told.contains("change 1 of 2"), "{told}");
}

#[test]
fn a_file_that_is_named_by_its_tail_is_watched_and_what_is_left_is_counted() {
    let folder = Folder::with(&[("one/deep/x", "1\n"), ("two/deep/x", "2\n"), ("one/y", "1\n"), ("two/y", "2\n")]);
    let watch = Watch::begin(&folder, &["--watch", "one", "two", "x"]);
    folder.write("two/deep/x", b"2\n3\n");
    let told = watch.until("deep/");
    assert!(told.contains("saved: 1 change in 1 file in all"), "{told}");
}
