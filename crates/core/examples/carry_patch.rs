//! Writes what changed between two texts as a patch, and puts it into a third that moved on: `cargo run --example carry_patch`

use std::error::Error;

use tideline_core::patch;

fn main() -> Result<(), Box<dyn Error>> {
    let before = b"[mouth]\ninterval = 60\noffset = 140\n";
    let after = b"[mouth]\ninterval = 30\noffset = 140\n";
    let written = patch::write(("a/gauges.toml", before), ("b/gauges.toml", after), 3);
    print!("{}", String::from_utf8_lossy(&written));
    let moved_on = b"# Read by the loggers.\n\n[mouth]\ninterval = 60\noffset = 140\n";
    for file in patch::read(&written)?.files() {
        let patched = patch::apply(&file, moved_on)?;
        println!("\n{}", String::from_utf8_lossy(&patched));
    }
    Ok(())
}
