//! Watching files and folders, to compare again when somebody else saves.

use std::path::{Path, PathBuf};
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};
use std::thread;
use std::time::{Duration, Instant};

use notify::{Event, RecommendedWatcher, RecursiveMode, Watcher};

/// Editors save in several steps; what comes within this time belongs together.
const SETTLING: Duration = Duration::from_millis(200);

/// Files that are watched as long as this lives.
pub(super) struct Watch {
    /// Keeps the system telling.
    _watcher: Option<RecommendedWatcher>,
    was_told: Arc<AtomicBool>,
    since: Option<Instant>,
}

impl Watch {
    /// Watches single files. Where that cannot be done, there is still a key to compare again.
    pub(super) fn files(paths: &[&Path]) -> Self {
        let was_told = Arc::new(AtomicBool::new(false));
        let full: Vec<PathBuf> = paths.iter().filter_map(|path| path.canonicalize().ok()).collect();
        let (told, watched) = (Arc::clone(&was_told), full.clone());
        let watcher = notify::recommended_watcher(move |event: notify::Result<Event>| {
            if event.is_ok_and(|event| !event.kind.is_access() && event.paths.iter().any(|path| watched.contains(path)))
            {
                told.store(true, Ordering::SeqCst);
            }
        });
        let mut watcher = watcher.ok();
        // A new file may take the place of the old one: only the folder sees that.
        for folder in full.iter().filter_map(|path| path.parent()) {
            if let Some(watcher) = &mut watcher {
                let _ = watcher.watch(folder, RecursiveMode::NonRecursive);
            }
        }
        Self { _watcher: watcher, was_told, since: None }
    }

    /// Watches folders with all that is in them. Large ones take a while to be watched; nobody waits for that.
    pub(super) fn folders(paths: [&Path; 2]) -> Self {
        let was_told = Arc::new(AtomicBool::new(false));
        let paths = paths.map(Path::to_path_buf);
        let told = Arc::clone(&was_told);
        thread::spawn(move || {
            let watcher = notify::recommended_watcher(move |event: notify::Result<Event>| {
                if event.is_ok_and(|event| !event.kind.is_access()) {
                    told.store(true, Ordering::SeqCst);
                }
            });
            let Ok(mut watcher) = watcher else { return };
            for path in &paths {
                let _ = watcher.watch(path, RecursiveMode::Recursive);
            }
            // The watcher lives as long as the program.
            loop {
                thread::park();
            }
        });
        Self { _watcher: None, was_told, since: None }
    }

    /// Whether anything was saved, and nothing more comes right behind it.
    pub(super) fn has_settled(&mut self) -> bool {
        if self.was_told.swap(false, Ordering::SeqCst) {
            self.since = Some(Instant::now());
        }
        let has_settled = self.since.is_some_and(|since| since.elapsed() >= SETTLING);
        if has_settled {
            self.since = None;
        }
        has_settled
    }
}
