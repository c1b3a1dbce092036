//! How much of what is packed is unpacked.

use std::time::Duration;

/// How much of what is packed is unpacked. What is beyond it is told, and not read.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Limits {
    /// Bytes that all contents of an archive may have, unpacked.
    pub expanded_size: u64,
    /// How many times as large contents may become; small ones may always.
    pub expansion_ratio: u64,
    /// Entries of an archive.
    pub entries: usize,
    /// How many archives may stand one in the other.
    pub depth: usize,
}

impl Default for Limits {
    fn default() -> Self {
        Self { expanded_size: 16 << 30, expansion_ratio: 2_000, entries: 2_000_000, depth: 4 }
    }
}

impl Limits {
    /// Contents up to this size may have grown by any ratio.
    pub(crate) const SMALL: u64 = 16 << 20;

    /// Whether contents have grown too much.
    pub(crate) fn is_bomb(&self, packed: u64, unpacked: u64) -> bool {
        unpacked > Self::SMALL && unpacked / packed.max(1) > self.expansion_ratio
    }

    pub(crate) fn too_large(&self) -> String {
        format!("it unpacks to more than {} bytes; --expanded-size allows more", self.expanded_size)
    }

    pub(crate) fn too_large_in_all(&self) -> String {
        format!("the archive unpacks to more than {} bytes in all; --expanded-size allows more", self.expanded_size)
    }

    pub(crate) fn too_steep(&self) -> String {
        format!("it unpacks to more than {} times its size; --expansion-ratio allows more", self.expansion_ratio)
    }

    pub(crate) fn too_many(&self) -> String {
        format!("it holds more than {} entries, and the rest was not read; --archive-entries allows more", self.entries)
    }
}

/// The times in an archive are so coarse: whole seconds.
pub(crate) const WHOLE_SECONDS: Duration = Duration::from_secs(1);
/// The times that the older form of a zip archive holds are so coarse.
pub(crate) const TWO_SECONDS: Duration = Duration::from_secs(2);
