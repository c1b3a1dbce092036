//! `tideline demo`

use std::fs;

use crate::support::Folder;

#[test]
fn the_tour_shows_every_command_with_its_output() {
    let folder = Folder::new();
    let ran = folder.run(&["demo"]);
    assert_eq!((ran.status, ran.err.as_str()), (Some(0), ""));
    for shown in [
        "$ tideline spring/scripts/plot_levels.py autumn/scripts/plot_levels.py\n",
        "scripts/plot_levels.py    spring ○  autumn ●    1 change ",
        "$ tideline patch spring/stations/harbour-mouth.toml autumn/stations/harbour-mouth.toml\n",
        "(exit status 0)",
        "(exit status 1)",
    ] {
        assert!(ran.out.contains(shown), "{shown:?} in:\n{}", ran.out);
    }
    assert!(!ran.out.contains("(exit status 2)"), "{}", ran.out);
    let data = concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo/spring/notes/handbook.txt");
    assert_eq!(folder.read("tideline-demo/spring/notes/handbook.txt"), fs::read(data).unwrap());
}

#[test]
fn nothing_is_written_over_an_existing_folder() {
    let folder = Folder::with(&[("estuary/mine.txt", "mine\n")]);
    let ran = folder.run(&["demo", "estuary"]);
    assert_eq!(ran.status, Some(2));
    assert!(ran.err.contains("estuary: it exists already; name a new folder"), "{}", ran.err);
    assert_eq!(fs::read_dir(folder.path().join("estuary")).unwrap().count(), 1);
}

#[test]
fn the_planted_comma_is_the_only_difference_of_the_script() {
    let folder = Folder::new();
    folder.run(&["demo", "d"]);
    let script = |season: &str| format!("d/{season}/scripts/plot_levels.py");
    let ran = folder.run(&["--context", "0", &script("spring"), &script("autumn")]);
    let markers: Vec<_> = ran.out.lines().filter(|row| row.trim() == "^").collect();
    assert_eq!(markers.len(), 1, "{}", ran.out);
}
