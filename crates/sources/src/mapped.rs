//! Large files, mapped into memory. When another program shortens such a file, the system ends whoever reads the lost part with a
//! bus error; a handler puts zeros there instead and notes it, so that the file becomes one that changed while it was read.

use std::fs::{File, Metadata};
use std::io;
use std::ops::{Deref, Range};
use std::time::SystemTime;

use memmap2::Mmap;
use tideline_core::internal::tree::FileContents;

/// A mapped file.
#[derive(Debug)]
pub(crate) struct Mapped {
    guard: guard::Guard,
    map: Mmap,
    file: File,
    size: u64,
    modified: Option<SystemTime>,
}

impl Mapped {
    /// Maps a file; `None` where that cannot be done without danger, so that it must be read.
    #[expect(unsafe_code, reason = "mapping a file is unsafe by nature; see below")]
    pub(crate) fn new(file: File, metadata: &Metadata) -> io::Result<Result<Self, File>> {
        if !guard::is_there() {
            return Ok(Err(file));
        }
        // SAFETY: The map is only read, as plain bytes, for which every value is valid. Bytes that another program changes
        // meanwhile are told by `changed`; bytes that it cuts off are zeros, thanks to the guard.
        let map = unsafe { Mmap::map(&file)? };
        let Some(guard) = guard::Guard::over(&map) else { return Ok(Err(file)) };
        Ok(Ok(Self { guard, map, file, size: metadata.len(), modified: metadata.modified().ok() }))
    }

    /// The parts of the file that have no place on the disk, and read as zeros; none where the system does not tell.
    pub(crate) fn holes(&self) -> Vec<Range<usize>> {
        holes(&self.file, self.size)
    }

    /// Whether the file was changed since it was mapped.
    pub(crate) fn changed(&self) -> bool {
        let now = self.file.metadata();
        self.guard.was_hit() || !now.is_ok_and(|now| now.len() == self.size && now.modified().ok() == self.modified)
    }
}

/// More holes than these are read as what they are.
const MOST_HOLES: usize = 100_000;

#[cfg(unix)]
fn holes(file: &File, size: u64) -> Vec<Range<usize>> {
    use rustix::fs::{SeekFrom, seek};
    let mut holes = Vec::new();
    let mut at = 0;
    while at < size && holes.len() < MOST_HOLES {
        let Ok(start) = seek(file, SeekFrom::Hole(at)) else { break };
        if start >= size {
            break;
        }
        // Where there is no more data, the hole goes on to the end.
        let end = seek(file, SeekFrom::Data(start)).unwrap_or(size).min(size);
        let (Ok(from), Ok(to)) = (usize::try_from(start), usize::try_from(end)) else { break };
        holes.push(from..to);
        at = end;
    }
    holes
}

#[cfg(not(unix))]
fn holes(_: &File, _: u64) -> Vec<Range<usize>> {
    Vec::new()
}

impl Deref for Mapped {
    type Target = [u8];

    fn deref(&self) -> &[u8] {
        &self.map
    }
}

/// A part of a private temporary file, mapped. Nobody else can shorten such a file.
#[derive(Debug)]
pub(crate) struct PrivateMap(Mmap);

impl PrivateMap {
    /// Maps so many bytes from a place. The file must be one without a name, that only grows.
    #[expect(unsafe_code, reason = "mapping a file is unsafe by nature; see below")]
    pub(crate) fn new(file: &File, start: u64, len: u64) -> io::Result<Self> {
        let len = usize::try_from(len).map_err(|_| io::ErrorKind::OutOfMemory)?;
        // SAFETY: The map is only read, as plain bytes. The file has no name and is written by this process alone, behind what is mapped.
        let map = unsafe { memmap2::MmapOptions::new().offset(start).len(len).map(file)? };
        Ok(Self(map))
    }
}

impl AsRef<[u8]> for PrivateMap {
    fn as_ref(&self) -> &[u8] {
        &self.0
    }
}

impl FileContents for PrivateMap {}

#[cfg(unix)]
mod guard {
    use std::ptr;
    use std::sync::OnceLock;
    use std::sync::atomic::{AtomicBool, AtomicUsize, Ordering};

    /// Maps that can be guarded at a time; further files are read.
    const MOST: usize = 64;

    struct Slot {
        start: AtomicUsize,
        end: AtomicUsize,
        hit: AtomicBool,
    }

    static SLOTS: [Slot; MOST] =
        [const { Slot { start: AtomicUsize::new(0), end: AtomicUsize::new(0), hit: AtomicBool::new(false) } }; MOST];

    /// The slot of a map that is guarded.
    #[derive(Debug)]
    pub(super) struct Guard(usize);

    impl Guard {
        pub(super) fn over(map: &[u8]) -> Option<Self> {
            let start = map.as_ptr() as usize;
            let free = |slot: &Slot| slot.start.compare_exchange(0, start, Ordering::SeqCst, Ordering::SeqCst).is_ok();
            let index = SLOTS.iter().position(free)?;
            SLOTS[index].hit.store(false, Ordering::SeqCst);
            SLOTS[index].end.store(start + map.len(), Ordering::SeqCst);
            Some(Self(index))
        }

        pub(super) fn was_hit(&self) -> bool {
            SLOTS[self.0].hit.load(Ordering::SeqCst)
        }
    }

    impl Drop for Guard {
        fn drop(&mut self) {
            SLOTS[self.0].end.store(0, Ordering::SeqCst);
            SLOTS[self.0].start.store(0, Ordering::SeqCst);
        }
    }

    /// Whether bus errors are handled; installs the handler on the first call.
    #[expect(unsafe_code, reason = "a signal handler is installed")]
    pub(super) fn is_there() -> bool {
        static INSTALLED: OnceLock<bool> = OnceLock::new();
        *INSTALLED.get_or_init(|| {
            // SAFETY: The structure is filled before it is given to the system; the handler calls only what may be called in one.
            unsafe {
                let mut action: libc::sigaction = std::mem::zeroed();
                action.sa_sigaction = handle as *const () as usize;
                action.sa_flags = libc::SA_SIGINFO;
                libc::sigaction(libc::SIGBUS, &raw const action, ptr::null_mut()) == 0
            }
        })
    }

    /// Puts zeros in the place of what is missing of a guarded map. Any other bus error ends the program as it would have.
    #[expect(unsafe_code, reason = "it is called by the system, with its pointers")]
    extern "C" fn handle(_: libc::c_int, info: *mut libc::siginfo_t, _: *mut libc::c_void) {
        // SAFETY: The system gives a valid structure to a handler that was installed with SA_SIGINFO.
        let address = unsafe { (*info).si_addr() } as usize;
        let slot = SLOTS.iter().find(|slot| {
            let (start, end) = (slot.start.load(Ordering::SeqCst), slot.end.load(Ordering::SeqCst));
            start != 0 && (start..end).contains(&address)
        });
        // SAFETY: `sysconf`, `mmap` and `sigaction` only make system calls. The pages from the address to the end of the map are
        // the map's own, and beyond the end of its file.
        unsafe {
            if let Some(slot) = slot {
                let page = usize::try_from(libc::sysconf(libc::_SC_PAGESIZE)).unwrap_or(4096);
                let from = address & !(page - 1);
                let length = slot.end.load(Ordering::SeqCst) - from;
                let flags = libc::MAP_FIXED | libc::MAP_PRIVATE | libc::MAP_ANONYMOUS;
                slot.hit.store(true, Ordering::SeqCst);
                if libc::mmap(from as *mut libc::c_void, length, libc::PROT_READ, flags, -1, 0) != libc::MAP_FAILED {
                    return;
                }
            }
            let mut action: libc::sigaction = std::mem::zeroed();
            action.sa_sigaction = libc::SIG_DFL;
            libc::sigaction(libc::SIGBUS, &raw const action, ptr::null_mut());
        }
    }
}

#[cfg(not(unix))]
mod guard {
    #[derive(Debug)]
    pub(super) struct Guard;

    impl Guard {
        pub(super) fn over(_: &[u8]) -> Option<Self> {
            None
        }

        pub(super) fn was_hit(&self) -> bool {
            false
        }
    }

    pub(super) fn is_there() -> bool {
        false
    }
}

#[cfg(all(test, unix))]
mod tests {
    use super::*;

    #[test]
    fn a_file_that_becomes_shorter_reads_as_zeros_and_is_told() {
        let folder = tempfile::tempdir().unwrap();
        let path = folder.path().join("levels");
        std::fs::write(&path, vec![b'x'; 1 << 20]).unwrap();
        let file = File::options().read(true).write(true).open(&path).unwrap();
        let metadata = file.metadata().unwrap();
        let map = Mapped::new(file, &metadata).unwrap().unwrap();
        assert!(!map.changed());
        File::options().write(true).open(&path).unwrap().set_len(5000).unwrap();
        assert_eq!(map.iter().filter(|&&byte| byte == b'x').count(), 5000);
        assert!(map.changed());
    }

    #[test]
    fn a_file_that_is_written_into_is_told() {
        let folder = tempfile::tempdir().unwrap();
        let path = folder.path().join("levels");
        std::fs::write(&path, vec![b'x'; 1 << 16]).unwrap();
        let file = File::open(&path).unwrap();
        let metadata = file.metadata().unwrap();
        let map = Mapped::new(file, &metadata).unwrap().unwrap();
        std::thread::sleep(std::time::Duration::from_millis(20));
        std::fs::write(&path, vec![b'y'; 1 << 16]).unwrap();
        assert!(map.changed());
    }
}
