//! A pair of contents together with what was found between them, made in the background.

use std::path::PathBuf;
use std::sync::Arc;
use std::sync::mpsc::{Receiver, channel};
use std::thread;

use self_cell::self_cell;
use tideline_core::internal::kinds::{self, Comparison, ContentOptions};
use tideline_views::Labels;

/// Two contents and how they are compared.
#[derive(Clone)]
pub(super) struct Contents {
    pub(super) before: Arc<Vec<u8>>,
    pub(super) after: Arc<Vec<u8>>,
    /// The names by which rules know them.
    pub(super) names: (Arc<str>, Arc<str>),
    pub(super) options: Arc<ContentOptions>,
}

self_cell!(
    /// A comparison with the contents that it borrows from.
    pub(super) struct Compared {
        owner: Contents,
        #[covariant]
        dependent: Comparison,
    }
);

impl Compared {
    /// Compares contents.
    pub(super) fn of(contents: Contents) -> Self {
        Self::new(contents, |contents| {
            let names = (contents.names.0.as_bytes(), contents.names.1.as_bytes());
            kinds::compare_named(names, (&contents.before, &contents.after), &contents.options)
        })
    }

    /// Compares contents on another thread.
    pub(super) fn in_background(contents: Contents) -> Receiver<Self> {
        let (sender, receiver) = channel();
        thread::spawn(move || {
            // Nobody may wait any more.
            let _ = sender.send(Self::of(contents));
        });
        receiver
    }
}

/// A file of either side, as it was read.
#[derive(Clone, Debug)]
pub(super) struct Origin {
    /// Where it is; nothing for what cannot be written to.
    pub(super) path: Option<PathBuf>,
    /// Whether there is a file.
    pub(super) exists: bool,
    pub(super) bytes: Arc<Vec<u8>>,
}

/// A pair that is looked at.
#[derive(Clone, Debug)]
pub(super) struct Opened {
    /// Its name in headings; empty when the labels say it all.
    pub(super) name: String,
    pub(super) type_names: (String, String),
    pub(super) labels: Labels,
    pub(super) note: Option<String>,
    pub(super) before: Origin,
    pub(super) after: Origin,
}
