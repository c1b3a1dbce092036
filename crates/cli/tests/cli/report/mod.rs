//! `report`.

mod documents;
mod pages;
mod places;

use std::collections::BTreeMap;
use std::fs;
use std::path::{Path, PathBuf};

use serde_json::Value;

use crate::support::Folder;

/// Two small trees with a file of each status, and rules that put something aside.
fn trees() -> Folder {
    let lines = |edit: fn(usize) -> Option<String>| -> String {
        (1..=120).map(|line| edit(line).unwrap_or_else(|| format!("level {line}\n"))).collect()
    };
    let before = lines(|line| (line == 40).then(|| "interval = 60\n".to_owned()));
    let after = lines(|line| match line {
        40 => Some("interval = 30\n".to_owned()),
        80 => Some("level 80\nlevel 80 and a half\n".to_owned()),
        100 => Some("LEVEL 100\n".to_owned()),
        _ => None,
    });
    let moved: String = (1..40).map(|line| format!("this file moves, line {line}\n")).collect();
    let folder = Folder::with(&[
        ("b/same.txt", "same\n"),
        ("a/same.txt", "same\n"),
        ("b/deep/down/levels.txt", &before),
        ("a/deep/down/levels.txt", &after),
        ("b/deep/gone.txt", "one\ntwo\n"),
        ("a/deep/new.txt", "three\n"),
        ("b/here.txt", &moved),
        ("a/there.txt", &moved.replace("line 7\n", "line seven\n")),
        ("b/gauge.py", "low = 1\nhigh = 2\n"),
        ("a/gauge.py", "low = 1\nhigh = 3\n"),
    ]);
    folder.write("b/chart.png", b"\x89PNG\0one");
    folder.write("a/chart.png", b"\x89PNG\0two");
    folder
}

/// The records of `--json`, as a report must have them too.
fn records(folder: &Folder, options: &[&str]) -> Vec<Value> {
    let ran = folder.run(&[&["compare", "--json", "--each-file", "b", "a"], options].concat());
    ran.out.lines().map(|line| serde_json::from_str(line).unwrap()).collect()
}

/// How many changes each file has, by path.
fn changes(records: &[Value]) -> BTreeMap<String, usize> {
    let mut changes = BTreeMap::new();
    for record in records.iter().filter(|record| record["record"] == "change") {
        *changes.entry(record["path"].as_str().unwrap().to_owned()).or_default() += 1;
    }
    changes
}

/// The page of a file in a report of several pages.
fn page_of(site: &Path, name: &str) -> PathBuf {
    let pages = fs::read_dir(site.join("pages")).unwrap().map(|page| page.unwrap().path());
    let is_of = |page: &PathBuf| page.file_name().unwrap().to_str().unwrap().starts_with(&format!("{name}-"));
    let found: Vec<PathBuf> = pages.filter(is_of).collect();
    let [page] = &found[..] else { panic!("one page of {name}: {found:?}") };
    page.clone()
}
