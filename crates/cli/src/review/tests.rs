//! What each key does, on a screen in memory.

use std::collections::VecDeque;
use std::fs;
use std::io;
use std::time::Duration;

use clap::Parser;
use crossterm::event::{Event, KeyCode, KeyEvent, KeyModifiers, MouseButton, MouseEvent, MouseEventKind};
use ratatui_core::backend::TestBackend;
use ratatui_core::terminal::Terminal;

use super::input::Inputs;
use super::*;
use crate::args::{Cli, Command};

/// Events that come one after the other, and then none.
struct Scripted(VecDeque<Event>);

impl Inputs for Scripted {
    fn next(&mut self, patience: Duration) -> io::Result<Option<Event>> {
        // Keys come to screens, and not to what waits for a comparison.
        if patience < stage::TICK {
            std::thread::sleep(patience);
            return Ok(None);
        }
        match self.0.pop_front() {
            Some(event) => Ok(Some(event)),
            None => Err(io::Error::other("the script is at its end")),
        }
    }
}

fn events(keys: &str) -> VecDeque<Event> {
    let key = |code, modifiers| Event::Key(KeyEvent::new(code, modifiers));
    let named = |name: &str| match name {
        "up" => key(KeyCode::Up, KeyModifiers::NONE),
        "down" => key(KeyCode::Down, KeyModifiers::NONE),
        "left" => key(KeyCode::Left, KeyModifiers::NONE),
        "right" => key(KeyCode::Right, KeyModifiers::NONE),
        "page-down" => key(KeyCode::PageDown, KeyModifiers::NONE),
        "page-up" => key(KeyCode::PageUp, KeyModifiers::NONE),
        "home" => key(KeyCode::Home, KeyModifiers::NONE),
        "end" => key(KeyCode::End, KeyModifiers::NONE),
        "enter" => key(KeyCode::Enter, KeyModifiers::NONE),
        "esc" => key(KeyCode::Esc, KeyModifiers::NONE),
        "tab" => key(KeyCode::Tab, KeyModifiers::NONE),
        "space" => key(KeyCode::Char(' '), KeyModifiers::NONE),
        name => key(KeyCode::Char(name.chars().next().unwrap()), KeyModifiers::NONE),
    };
    keys.split(' ').filter(|name| !name.is_empty()).map(named).collect()
}

/// The screen after some events on two texts of twelve lines, of which the third and the tenth differ.
fn screen_after(events: VecDeque<Event>, options: &[&str]) -> String {
    let folder = tempfile::tempdir().unwrap();
    let line = |number: usize| {
        format!("line {number} of the log, which is a long line and goes on to the right of a small screen\n")
    };
    let before: String = (1..=12).map(line).collect();
    let after = before.replace("line 3 of", "line three of").replace("line 10 of", "line ten of");
    fs::write(folder.path().join("a.txt"), before).unwrap();
    fs::write(folder.path().join("b.txt"), after).unwrap();
    let path = |name: &str| folder.path().join(name).display().to_string();
    let (a, b) = (path("a.txt"), path("b.txt"));
    let mut arguments = vec!["tideline", "review", "--no-config", "--color", "never", "--context", "1"];
    arguments.extend(options);
    arguments.extend([a.as_str(), b.as_str()]);
    let Command::Review(args) = Cli::try_parse_from(arguments).unwrap().command else { unreachable!("it is a review") };
    let config = Config::default();
    let ReviewArgs { before, after, paths, what, read, files, counted_only, sides, .. } = &args;
    let lines = AskedLines::default();
    let asked = Asked { before, after, paths, what, read, files, sides, counted_only: *counted_only, lines };
    let request = Request::new(&asked, &config).unwrap();
    let Resolved::Files(sides) = request.open().unwrap() else { unreachable!("they are files") };
    let mut script = Scripted(events);
    let terminal = Terminal::new(TestBackend::new(60, 16)).unwrap();
    let look = look(&args.look, &config.view).unwrap();
    let keys = AllKeys::new(&[]).unwrap();
    let mut stage =
        Stage::new(terminal, &mut script, (look, keys, HandOn::new(&args)), Remembered::default(), &request);
    let ended = two_files(&mut stage, &request, &sides);
    // It ends with the script, or before.
    drop(ended);
    let buffer = stage.terminal.backend().buffer();
    let row = |y: u16| (0..60).map(|x| buffer[(x, y)].symbol()).collect::<String>().trim_end().to_owned();
    (0..16).map(row).collect::<Vec<_>>().join("\n").replace(&folder.path().display().to_string(), "FOLDER")
}

/// The row of the cursor.
fn cursor(screen: &str) -> &str {
    screen.lines().find(|line| line.starts_with('▌') || line.starts_with('>')).unwrap_or_default()
}

fn after(keys: &str) -> String {
    screen_after(events(keys), &[])
}

#[test]
fn keys_move_the_cursor() {
    assert!(cursor(&after("")).contains("○  3"), "it begins at the first change: {}", after(""));
    for (keys, at) in [
        ("down", "4   4"),
        ("up", "2   2"),
        ("n", "○ 10"),
        ("n b", "○  3"),
        ("end", "12  12"),
        ("home", "1   1"),
        ("end up", "11  11"),
        ("page-down", "12  12"),
        ("end page-up page-up", "1   1"),
    ] {
        let screen = after(&format!("f {keys}"));
        assert!(cursor(&screen).contains(at), "{keys}:\n{screen}");
    }
    for (keys, told) in [
        ("n n", "this is the last change"),
        ("b", "this is the first change"),
        (".", "this is the last change"),
        (",", "this is the first change"),
        ("y", "this key does nothing here; ? lists the keys"),
        ("enter", "there is no fold at the cursor"),
        ("r", "nothing to do again"),
        ("u", "nothing to take back"),
        ("s", "nothing was edited"),
        ("g", "both sides are as they were"),
    ] {
        let screen = after(keys);
        assert!(screen.contains(told), "{keys}:\n{screen}");
    }
}

#[test]
fn keys_change_how_a_file_is_shown() {
    let lines = |screen: &str| screen.lines().filter(|line| line.contains("of the log")).count();
    let first = after("");
    assert!(first.contains("⋯ 1 equal line") || first.contains("1   1"), "{first}");
    let folded = |screen: &str| screen.contains("equal lines");
    assert_eq!([folded(&first), folded(&after("f")), folded(&after("f f"))], [true, false, true]);
    let folds = |screen: &str| screen.matches("equal line").count();
    assert!(folds(&after("+")) < folds(&first) && folds(&after("+ -")) == folds(&first));
    assert!(after("l").contains("layout beside") && after("l").contains(" │ "), "{}", after("l"));
    assert!(after("l l").contains("layout inline") && after("l l l").contains("layout stacked"));
    assert!(after("").contains('›') && !after("right right right").contains("line 4"), "it pans");
    assert_eq!(after("right left").replace("\n", ""), after("").replace("\n", ""));
    assert!(after("w").contains("long lines are wrapped") && !after("w").contains('›'));
    assert!(after("w right").contains("lines are wrapped; w lets them go on to the right"));
    assert!(after("m").contains("muted changes are hidden") && after("m m").contains("muted changes are shown"));
    assert!(after("?").contains("Keys of this screen") && !after("? ?").contains("Keys of this screen"));
    assert!(after("tab").contains("is the side at hand: it is what is edited"));
    assert!(after("i").contains("Rules: what does not count") && !after("i esc").contains("Rules:"));
    let fold = after("down down enter");
    assert!(lines(&fold) > lines(&first), "{fold}");
}

#[test]
fn keys_carry_edit_find_and_mark() {
    for (keys, told) in [
        (">", "change 1 of a.txt carried into b.txt; not saved yet"),
        ("n <", "change 2 of b.txt carried into a.txt; not saved yet"),
        ("> u", "taken back: change 1 of a.txt carried into b.txt"),
        ("> u r", "done again: change 1 of a.txt carried into b.txt"),
        ("v", "move to the last line, then carry the lines"),
        ("v v", "no lines are chosen"),
        ("v >", "1 chosen row of a.txt carried into b.txt"),
        ("down >", "there is no change at the cursor; n goes to the next one"),
        ("e", "line 3 of b.txt: "),
        ("e x enter", "line 3 of b.txt edited; not saved yet"),
        ("tab e x enter", "line 3 of a.txt edited; not saved yet"),
        ("> q", "1 edit not saved. s saves, q leaves without, esc stays"),
        ("/", "find on both sides (tab: on one):"),
        ("/ tab", "find in a.txt (tab: elsewhere):"),
        ("/ t e n enter", "change 2 of 2"),
        ("/ [ enter", "cannot search for [:"),
        ("/ q q q enter", "no line that is searched holds qqq"),
        ("\\", "nothing was searched for yet"),
        ("space", "1 change left to see"),
        ("space space", "all changes of this file are seen"),
        ("c", "note on change 1:"),
        ("c h i enter", "note: hi"),
        ("x", "write a patch of what is chosen to:"),
        ("X", "write a patch, or a report (NAME.html, NAME.md), of this"),
        ("S", "save b.txt as:"),
    ] {
        let screen = after(keys);
        assert!(screen.contains(told), "{keys}:\n{screen}");
    }
    let marked = after(">");
    assert!(marked.contains("1 edit not saved"), "{marked}");
}

#[test]
fn the_mouse_scrolls_clicks_and_goes_where_the_strip_says() {
    let mouse = |kind, column, row| Event::Mouse(MouseEvent { kind, column, row, modifiers: KeyModifiers::NONE });
    let left = MouseEventKind::Down(MouseButton::Left);
    let mut whole = events("f");
    whole.push_back(mouse(left, 20, 7));
    assert!(cursor(&screen_after(whole.clone(), &[])).contains("5   5"), "{}", screen_after(whole, &[]));
    let mut strip = events("home");
    strip.push_back(mouse(left, 59, 10));
    let screen = screen_after(strip, &[]);
    assert!(cursor(&screen).contains("10"), "{screen}");
    let mut drag = events("home");
    drag.push_back(mouse(MouseEventKind::Drag(MouseButton::Left), 59, 13));
    assert!(cursor(&screen_after(drag.clone(), &[])).contains("12"), "{}", screen_after(drag, &[]));
    let mut wheel = events("f home");
    wheel.push_back(mouse(MouseEventKind::ScrollDown, 5, 5));
    assert!(cursor(&screen_after(wheel, &[])).contains("4"));
}

#[test]
fn plain_screens_are_ascii_in_every_layout() {
    for layout in ["stacked", "beside", "inline"] {
        for keys in ["", "f", "w", "?", "i", "> v"] {
            let screen = screen_after(events(keys), &["--plain", "--layout", layout]);
            assert!(screen.is_ascii(), "{layout} {keys}:\n{screen}");
            assert!(keys.contains(['?', 'i']) || screen.lines().any(|line| line.starts_with('>')), "{screen}");
        }
    }
}
