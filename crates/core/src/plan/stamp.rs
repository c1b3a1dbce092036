//! By what a file is known again: without reading it, and by what it holds.

use std::time::{Duration, SystemTime};

use serde::{Deserialize, Serialize};

use crate::internal::tree::EntryMetadata;

/// A moment: seconds since the beginning of 1970, and the nanoseconds after them.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
pub struct Moment(pub i64, pub u32);

impl From<SystemTime> for Moment {
    fn from(time: SystemTime) -> Self {
        match time.duration_since(SystemTime::UNIX_EPOCH) {
            Ok(since) => Self(i64::try_from(since.as_secs()).unwrap_or(i64::MAX), since.subsec_nanos()),
            Err(before) => {
                let back = before.duration();
                let up = u64::from(back.subsec_nanos() > 0);
                let nanos = if up == 1 { 1_000_000_000 - back.subsec_nanos() } else { 0 };
                Self(-i64::try_from(back.as_secs() + up).unwrap_or(i64::MAX), nanos)
            }
        }
    }
}

impl From<Moment> for SystemTime {
    fn from(Moment(seconds, nanos): Moment) -> Self {
        let nanos = Duration::from_nanos(u64::from(nanos));
        let whole = Duration::from_secs(seconds.unsigned_abs());
        if seconds >= 0 { Self::UNIX_EPOCH + whole + nanos } else { Self::UNIX_EPOCH - whole + nanos }
    }
}

/// What the system says of a file: as long as it stays the same, no program wrote to the file.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct Stamp {
    /// Its size in bytes.
    pub size: u64,
    /// When what it holds was last changed.
    pub modified: Option<Moment>,
    /// When it was last changed in any way, where the system keeps that: a program cannot set it back.
    pub changed: Option<Moment>,
}

/// The clocks of file systems step this far, or less; a file changed twice within one step shows only once.
const STEP: Duration = Duration::from_millis(100);

impl From<&EntryMetadata> for Stamp {
    fn from(metadata: &EntryMetadata) -> Self {
        let moment = |time: Option<SystemTime>| time.map(Moment::from);
        Self { size: metadata.size, modified: moment(metadata.modified), changed: moment(metadata.changed) }
    }
}

impl Stamp {
    /// Whether what was read at a moment is told apart by this stamp from everything written later.
    pub fn is_conclusive(&self, read: SystemTime) -> bool {
        let long_before = |moment: Moment| SystemTime::from(moment).checked_add(STEP).is_some_and(|then| then < read);
        self.changed.is_some_and(long_before) && self.modified.is_some_and(long_before)
    }
}

/// By what the contents of a file are known again.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Fingerprint {
    /// Its size in bytes.
    pub size: u64,
    /// Its BLAKE3 hash.
    pub hash: [u8; 32],
}

impl Fingerprint {
    /// That of some bytes.
    pub fn of(bytes: &[u8]) -> Self {
        Self { size: bytes.len() as u64, hash: *blake3::hash(bytes).as_bytes() }
    }
}
