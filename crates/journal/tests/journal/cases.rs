//! Targets in memory, and plans for them.

use std::panic::{AssertUnwindSafe, catch_unwind};
use std::path::{Path, PathBuf};
use std::sync::OnceLock;

use tideline_core::internal::plan::{Contents, ExpectedState, FileAttributes, Fingerprint, Moment, Plan, Step};
use tideline_core::internal::tree::Progress;
use tideline_journal::{Journal, JournalError, Outcome, Policy, Request};

use crate::model::{Memory, Thing};

pub(crate) fn journal(memory: &Memory) -> Journal<Memory> {
    Journal::new(PathBuf::from("/journal"), memory.clone())
}

pub(crate) fn path(name: &str) -> PathBuf {
    Path::new("/target").join(name)
}

/// A target with files, links, a file with two names, and folders.
pub(crate) fn target() -> Memory {
    let memory = Memory::new();
    for folder in ["f", "f/g", "h", "goes", "goes/deep"] {
        memory.make_folder_at(&format!("/target/{folder}"));
    }
    for name in ["a", "b", "c", "d", "f/in", "f/g/deep", "h/in", "goes/one", "goes/deep/two", "moves", "edits"] {
        memory.make(&format!("/target/{name}"), &format!("<{name} as it was>"));
    }
    memory.make_link_at("/target/link", "a");
    memory
}

/// What a file holds, as a plan expects it.
pub(crate) fn expected(memory: &Memory, name: &str) -> ExpectedState {
    match memory.held().get(&path(name)) {
        None => ExpectedState::Nothing,
        Some((Thing::File(bytes), ..)) => ExpectedState::File(Fingerprint::of(bytes)),
        Some((Thing::Link(to), ..)) => ExpectedState::Link(to.clone()),
        Some((Thing::Folder(_), ..)) => ExpectedState::Folder,
    }
}

pub(crate) fn planned(name: &str) -> Contents {
    Contents::Bytes(format!("<planned {name}>").into_bytes())
}

fn attributes(mode: u32) -> FileAttributes {
    FileAttributes::of(Some(mode), Some(Moment(1_700_000_000, 0)))
}

/// A plan with every kind of step.
pub(crate) fn great_plan(memory: &Memory) -> Plan {
    let write = |name: &str| Step::Write {
        path: path(name),
        expected: expected(memory, name),
        contents: planned(name),
        attributes: attributes(0o640),
    };
    let remove = |name: &str| Step::Remove { path: path(name), expected: expected(memory, name) };
    let folder = |name: &str| Step::MakeFolder {
        path: path(name),
        expected: expected(memory, name),
        like: None,
        attributes: attributes(0o750),
    };
    let steps = vec![
        write("a"),
        Step::write(path("b"), expected(memory, "b"), planned("b")),
        remove("c"),
        folder("d"),
        write("d/inside"),
        folder("new"),
        folder("new/deeper"),
        write("new/deeper/file"),
        Step::write(path("new/second"), ExpectedState::Nothing, Contents::SameAs(path("new/deeper/file"))),
        Step::write(path("link"), expected(memory, "link"), Contents::Link("b".into())),
        Step::write(path("new/link"), ExpectedState::Nothing, Contents::Link("nowhere".into())),
        remove("f/g/deep"),
        remove("f/in"),
        Step::RemoveFolder { path: path("f/g") },
        write("f"),
        remove("goes/one"),
        remove("goes/deep/two"),
        Step::RemoveFolder { path: path("goes/deep") },
        Step::RemoveFolder { path: path("goes") },
        Step::Move {
            from: path("moves"),
            path: path("new/moved"),
            expected: expected(memory, "moves"),
            contents: None,
            attributes: FileAttributes::default(),
        },
        Step::Move {
            from: path("edits"),
            path: path("h/edited"),
            expected: expected(memory, "edits"),
            contents: Some(planned("edited")),
            attributes: FileAttributes::default(),
        },
        Step::SetFolder { path: path("h"), attributes: attributes(0o711) },
    ];
    Plan { roots: vec!["/target".into()], ..Plan::of(steps) }
}

/// Carries a plan out; the program may end in the middle.
pub(crate) fn carried(memory: &Memory, plan: &Plan, policy: Policy) -> Option<Result<Outcome, JournalError>> {
    let watched = Progress::default();
    alone(|| journal(memory).carry_out(plan, &Request { command: "test", policy, watched: &watched }))
}

/// Does something on one thread, so that the same happens every time. Nothing comes of a program that ends in the middle.
pub(crate) fn alone<T: Send>(work: impl FnOnce() -> T + Send) -> Option<T> {
    static ONE: OnceLock<rayon::ThreadPool> = OnceLock::new();
    let pool = ONE.get_or_init(|| {
        std::panic::set_hook(Box::new(|panic| {
            let ends = panic.payload().downcast_ref::<&str>().is_some_and(|text| text.starts_with("the program ends"));
            if !ends {
                eprintln!("{panic}");
            }
        }));
        rayon::ThreadPoolBuilder::new().num_threads(1).build().unwrap()
    });
    match catch_unwind(AssertUnwindSafe(|| pool.install(work))) {
        Ok(done) => Some(done),
        Err(payload) if payload.downcast_ref::<&str>().is_some_and(|text| text.starts_with("the program ends")) => None,
        Err(payload) => std::panic::resume_unwind(payload),
    }
}
