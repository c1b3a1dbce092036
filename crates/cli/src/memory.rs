//! The allocator of the program: memory that cannot be had is told, and ends the program with the status of what could not be done.

use std::alloc::{GlobalAlloc, Layout};
use std::io::Write;

use mimalloc::MiMalloc;

/// Says so when memory cannot be had, and ends the program.
pub(crate) struct Telling;

// SAFETY: Every call is passed on as it is. Where nothing comes back the program ends, so that memory which is not there is never used.
#[expect(unsafe_code, reason = "an allocator is unsafe by nature; it only passes calls on")]
unsafe impl GlobalAlloc for Telling {
    unsafe fn alloc(&self, layout: Layout) -> *mut u8 {
        // SAFETY: The caller keeps the promises of this function, which are those of the one called.
        had(unsafe { MiMalloc.alloc(layout) }, layout.size())
    }

    unsafe fn alloc_zeroed(&self, layout: Layout) -> *mut u8 {
        // SAFETY: As above.
        had(unsafe { MiMalloc.alloc_zeroed(layout) }, layout.size())
    }

    unsafe fn realloc(&self, memory: *mut u8, layout: Layout, size: usize) -> *mut u8 {
        // SAFETY: As above.
        had(unsafe { MiMalloc.realloc(memory, layout, size) }, size)
    }

    unsafe fn dealloc(&self, memory: *mut u8, layout: Layout) {
        // SAFETY: As above.
        unsafe { MiMalloc.dealloc(memory, layout) }
    }
}

/// Memory that was asked for, if it was had.
fn had(memory: *mut u8, size: usize) -> *mut u8 {
    if memory.is_null() {
        out_of_memory(size);
    }
    memory
}

/// Ends the program. A run that is at work is left open, as if the program had been killed, and can be undone or finished.
#[cold]
fn out_of_memory(size: usize) -> ! {
    let mut room = [0_u8; 256];
    let mut rest = &mut room[..];
    // What does not fit is cut off; with standard error gone nothing can be said.
    let _ = writeln!(
        rest,
        "tideline: not enough memory: {size} more bytes cannot be had; compare smaller files, or fewer at a time"
    );
    let left = rest.len();
    let _ = std::io::stderr().write_all(&room[..room.len() - left]);
    std::process::exit(2)
}
