//! The comparison of two trees on another thread, and what is heard of it.

use std::ops::ControlFlow;
use std::sync::atomic::{AtomicUsize, Ordering};
use std::sync::mpsc::{Receiver, Sender, channel};
use std::thread::Scope;

use anyhow::Result;
use tideline_core::internal::kinds::ContentOptions;
use tideline_core::internal::model::Status;
use tideline_core::internal::tree::{self, Pair, PairSink, Progress, TreeComparison};

use super::state::TreeState;
use crate::commands::compare::{all_that_is_shown, compare_asked};
use crate::commands::pairs::Trees;
use crate::commands::request::Request;
use crate::review::stage::{Stage, Surface};

/// Comparisons that are being made. They cannot be cut short, only left alone.
pub(super) static AT_WORK: AtomicUsize = AtomicUsize::new(0);

/// What is heard of a comparison while it is made.
pub(super) enum News {
    /// A pair as the walk met it; it may become another.
    Met(Box<Pair>),
    /// All of it.
    Done(Box<Result<TreeComparison>>),
}

/// Passes pairs on as the walk meets them.
struct Reporter {
    sender: Sender<News>,
    pairs: Vec<Pair>,
}

impl PairSink for Reporter {
    fn provisional(&mut self, pair: &Pair) {
        if pair.status != Status::Same {
            let _ = self.sender.send(News::Met(Box::new(pair.clone())));
        }
    }

    fn pair(&mut self, pair: Pair, _: Vec<u8>) -> ControlFlow<()> {
        self.pairs.push(pair);
        ControlFlow::Continue(())
    }
}

pub(super) struct Walker {
    pub(super) news: Receiver<News>,
}

/// Compares the trees on another thread.
pub(super) fn begin<'scope, 'env: 'scope>(
    scope: &'scope Scope<'scope, 'env>,
    request: &'env Request,
    trees: &'env Trees,
    (contents, shows_same): (ContentOptions, bool),
) -> Receiver<News> {
    let (sender, news) = channel();
    AT_WORK.fetch_add(1, Ordering::SeqCst);
    scope.spawn(move || {
        let mut options = all_that_is_shown(request, request.trees.clone().contents(contents));
        if shows_same {
            options = options.only(Some(Status::ALL.to_vec()));
        }
        let progress = Progress::default();
        let found = if request.paths.is_empty() {
            let mut reporter = Reporter { sender: sender.clone(), pairs: Vec::new() };
            let mut found = tree::compare_into(trees.both(), &options, &progress, None, &mut reporter);
            found.pairs = reporter.pairs;
            Ok(found)
        } else {
            compare_asked(request, trees, options, &progress).map(|(comparison, _)| comparison)
        };
        // Nobody may listen any more.
        let _ = sender.send(News::Done(Box::new(found)));
        AT_WORK.fetch_sub(1, Ordering::SeqCst);
    });
    news
}

/// Takes in what is known by now; says whether anything changed.
pub(super) fn hear(state: &mut TreeState, walk: &Walker) -> Result<bool> {
    let mut has_changed = false;
    while let Ok(news) = walk.news.try_recv() {
        has_changed = true;
        match news {
            News::Met(pair) if state.comparing.is_some() => state.comparison.pairs.push(*pair),
            News::Met(_) => {}
            News::Done(found) => {
                state.comparison = (*found)?;
                state.comparing = None;
                state.is_whole = true;
                let keeps_message = std::mem::take(&mut state.keeps_message);
                if std::mem::take(&mut state.is_comparing_again) && !keeps_message {
                    state.message.clear();
                }
            }
        }
    }
    if has_changed {
        state.arrange();
    }
    Ok(has_changed)
}

/// Compares the trees anew.
pub(super) fn again<'scope, 'env: 'scope, B: Surface>(
    stage: &Stage<'_, B>,
    state: &mut TreeState,
    walk: &mut Walker,
    (request, trees): (&'env Request, &'env Trees),
    scope: &'scope Scope<'scope, 'env>,
) {
    // What was known stays on the screen until all is known again.
    walk.news = begin(scope, request, trees, (stage.options(), state.shows_same));
    state.message = "comparing again".to_owned();
    state.is_comparing_again = true;
}
