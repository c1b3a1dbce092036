//! How much room the records of ended runs take, and which go when it is too much.

use std::ffi::OsString;
use std::io;

use serde::{Deserialize, Serialize};

use crate::error::JournalError;
use crate::files::{At, Bytes, FileSystem, NewAttributes};
use crate::store::{HEAD, RunState, Store};

/// Records of runs take at most this much room; the oldest are dropped beyond it.
pub(crate) const MOST_BYTES: u64 = 2 << 30;

const TALLY: &str = "tally";

/// The last number that was given, and the room that all records take.
#[derive(Clone, Copy, Debug, Default, Serialize, Deserialize)]
pub(crate) struct Tally {
    pub(crate) last: u64,
    pub(crate) bytes: u64,
}

impl<F: FileSystem> Store<'_, F> {
    /// Ends a run: from now on it is among those that are done.
    pub(crate) fn close(&self, run: u64, bytes: u64) -> io::Result<()> {
        let name = OsString::from(run.to_string());
        self.files().rename_new(At::new(&self.open, &name), At::new(&self.runs, &name))?;
        self.files().flush_folders(&[&self.open, &self.runs])?;
        let tally = match self.written_tally() {
            Some(tally) if tally.last < run => Some(Tally { last: run, bytes: tally.bytes.saturating_add(bytes) }),
            _ => self.counted().ok(),
        };
        if let Some(tally) = tally {
            self.write_tally(tally);
        }
        Ok(())
    }

    /// Drops the oldest records while all of them take too much room, but none of those that are `spared`. What was dropped is
    /// returned.
    pub(crate) fn keep_small(&self, spared: &[u64]) -> Result<Vec<(u64, String)>, JournalError> {
        let mut bytes = self.tally()?.bytes;
        let mut dropped = Vec::new();
        if bytes <= MOST_BYTES {
            return Ok(dropped);
        }
        for run in self.numbers(&self.runs)? {
            if bytes <= MOST_BYTES {
                break;
            }
            let Some(RunState::Done(record)) = self.state(run, false)? else { continue };
            if !spared.contains(&run) && self.drop_run(run).is_ok() {
                bytes = bytes.saturating_sub(record.bytes);
                dropped.push((run, record.command));
            }
        }
        self.write_tally(Tally { last: self.tally()?.last, bytes });
        Ok(dropped)
    }

    /// Counts anew after records were dropped.
    pub(crate) fn recount(&self) -> Result<(), JournalError> {
        let last = self.written_tally().unwrap_or_default().last;
        let tally = self.counted()?;
        self.write_tally(Tally { last: tally.last.max(last), ..tally });
        Ok(())
    }

    /// The last number and the room taken. What was written down is believed if no later run is there.
    pub(crate) fn tally(&self) -> Result<Tally, JournalError> {
        let tally = self.written_tally().unwrap_or_default();
        if tally.last > 0 && self.folder(tally.last + 1)?.is_none() {
            return Ok(tally);
        }
        let tally = self.counted()?;
        self.write_tally(tally);
        Ok(tally)
    }

    fn written_tally(&self) -> Option<Tally> {
        let read = self.files().read(At::new(&self.root, TALLY), HEAD).ok()?;
        serde_json::from_slice(&read.bytes?).ok()
    }

    fn counted(&self) -> Result<Tally, JournalError> {
        let mut tally = Tally::default();
        for run in self.numbers(&self.runs)?.into_iter().chain(self.open_numbers()?) {
            tally.last = tally.last.max(run);
            let state = self.state(run, false)?;
            let record = state.as_ref().and_then(RunState::record);
            tally.bytes = tally.bytes.saturating_add(record.map_or(0, |record| record.bytes));
        }
        Ok(tally)
    }

    /// Writes the tally down. It is not flushed: what is lost is counted anew.
    fn write_tally(&self, tally: Tally) {
        let draft = At::new(&self.root, "tally.new");
        let Ok(bytes) = serde_json::to_vec(&tally) else { return };
        let _ = self.files().remove(draft);
        let wanted = NewAttributes { mode: Some(0o600), ..NewAttributes::default() };
        if self.files().create(draft, Bytes::These(&bytes), &wanted).is_ok() {
            let _ = self.files().rename(draft, At::new(&self.root, TALLY));
        }
    }
}
