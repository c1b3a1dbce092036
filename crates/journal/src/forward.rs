//! Finishing a run that did not end.

use rayon::prelude::*;

use crate::error::{Failure, LeftOut, doing};
use crate::files::{FileSystem, Found};
use crate::place::Phase;
use crate::record::{Entry, NewState, OldState, Run, Site};
use crate::recover::{Done, Order, SINCE};
use crate::session::Session;

impl<F: FileSystem> Session<'_, F> {
    /// Does what a run did not come to. Every path that stands in the way is named.
    pub(crate) fn roll_forward(&self, run: &Run) -> Vec<LeftOut> {
        let entries = &run.entries;
        self.unlock(run);
        let mut left = self.resolve_exchanges(entries);
        for phase in Phase::ALL {
            if left.is_empty() {
                left.extend(
                    self.in_phase(entries, phase, Order::BottomUp, |index| self.forward(entries, index, phase)),
                );
            }
        }
        if left.is_empty() {
            left.extend(self.check_within(entries));
        }
        left.sort();
        left
    }

    /// Does one entry that was not done yet.
    fn forward(&self, entries: &[Entry], index: usize, phase: Phase) -> Done {
        let entry = &entries[index];
        let found = doing("looked at", self.find(&entry.place))?;
        let is_new = doing("read", self.is_new(&entry.place, &found, &entry.will))?;
        match phase {
            Phase::Sets | Phase::WithOther => Ok(()),
            Phase::Move => {
                let Some(from) = entry.with else { return Ok(()) };
                match found {
                    Found::Nothing => self.rename_file(&entries[from], &entry.place),
                    found if doing("read", self.is_old(&entry.place, &found, &entries[from].was))? => Ok(()),
                    _ => Err(Failure::changed(SINCE)),
                }
            }
            Phase::FileGoes => self.forward_gone(entries, index, &found),
            Phase::FolderGoes if entry.will == NewState::Nothing => match found {
                Found::Nothing => Ok(()),
                Found::Folder(_) => {
                    self.clear_waiting(entries, index);
                    doing("removed", self.remove_folder(&entry.place))
                }
                _ => Err(Failure::changed(SINCE)),
            },
            Phase::FolderComes | Phase::FileComes | Phase::FolderGoes => {
                let within = matches!(entry.site, Site::Within(_));
                if !is_new && !within {
                    let temporary = self.temporary(entries, index);
                    let waiting = doing("looked at", self.find(&temporary))?;
                    if !doing("read", self.is_new(&temporary, &waiting, &entry.will))? {
                        return Err(Failure::changed("cannot be written: its new contents are gone"));
                    }
                    if !doing("read", self.is_old(&entry.place, &found, &entry.was))? {
                        return Err(Failure::changed(SINCE));
                    }
                    if entry.was == OldState::Nothing {
                        self.put_new(entries, index)
                    } else {
                        self.replace(entries, index)
                    }?;
                }
                match entry.with {
                    Some(from) if phase == Phase::FileComes => {
                        let found = doing("looked at", self.find(&entries[from].place))?;
                        self.forward_gone(entries, from, &found)
                    }
                    _ => Ok(()),
                }
            }
        }
    }

    fn forward_gone(&self, entries: &[Entry], index: usize, found: &Found) -> Done {
        match found {
            Found::Nothing => Ok(()),
            found if doing("read", self.is_old(&entries[index].place, found, &entries[index].was))? => {
                self.set_aside(entries, index)
            }
            _ => Err(Failure::changed(SINCE)),
        }
    }

    /// What came with its folder must be there.
    fn check_within(&self, entries: &[Entry]) -> Vec<LeftOut> {
        let check = |entry: &Entry| {
            if !matches!(entry.site, Site::Within(_)) {
                return None;
            }
            let checked = doing("looked at", self.find(&entry.place)).and_then(|found| {
                if doing("read", self.is_new(&entry.place, &found, &entry.will))? {
                    Ok(())
                } else {
                    Err(Failure::changed(if found == Found::Nothing { "is not there" } else { SINCE }))
                }
            });
            self.told(entry, checked)
        };
        entries.par_iter().filter_map(check).collect()
    }
}
