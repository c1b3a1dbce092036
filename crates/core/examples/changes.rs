//! Tells what changed between two files, in a line for each change: `cargo run --example changes BEFORE AFTER`

use std::error::Error;
use std::{env, fs};

use tideline_core::{Address, Comparison, Options, compare};

fn main() -> Result<(), Box<dyn Error>> {
    let paths: Vec<String> = env::args().skip(1).collect();
    let [before, after] = &paths[..] else { return Err("give two files".into()) };
    let (old, new) = (fs::read(before)?, fs::read(after)?);
    let options = Options::new().ignore("trailing-space")?;
    match compare(after, &old, &new, &options) {
        Comparison::Text(texts) => {
            for change in &texts.found.changes {
                let Address::Lines { before, after } = change.address();
                println!("{}. {:?}: lines {before:?} before, {after:?} after", change.number, change.form);
            }
        }
        Comparison::Table(tables) => println!("rows that differ: {}", tables.found.changes.len()),
        Comparison::Data(documents) => {
            for change in &documents.found.changes {
                let path = change.place().map_or("", |place| &place.path);
                println!("{}. {:?}: {path}", change.number, change.form);
            }
        }
        Comparison::Sheets(sheets) => println!("cells that differ: {}", sheets.extent().size),
        Comparison::Image(images) => {
            for change in &images.found.changes {
                println!("{}. {:?}: {} pixels", change.number, change.form, change.pixels);
            }
        }
        Comparison::Bytes(bytes) => {
            for change in &bytes.found.changes {
                println!(
                    "{}. {:?}: bytes {:?} before, {:?} after",
                    change.number, change.form, change.before, change.after
                );
            }
        }
    }
    Ok(())
}
