//! Finding text in a file.

use regex::Regex;
use tideline_core::internal::kinds::TextPair;
use tideline_views::terminal::screen::FileScreen;

use super::state::FileState;

/// Where a search goes.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Way {
    Forwards,
    Backwards,
}

/// Goes to the next line of either side that holds what is searched for, beyond the cursor; from the end on at the start again.
pub(super) fn go(state: &mut FileState, texts: &TextPair<'_>, screen: &mut FileScreen<'_>, way: Way) {
    let Some(regex) = state.found.clone() else {
        state.message = "nothing was searched for yet".to_owned();
        return;
    };
    let here = super::cursor::lines_near(state.cursor, screen);
    let sides = [(texts.before.text(), here.0, false), (texts.after.text(), here.1, true)];
    let state_side = state.find_in;
    let hits = |beyond: bool| -> Vec<(usize, bool)> {
        let of = |&(text, line, is_after): &(&[u8], usize, bool)| {
            Some((line_of_hit(&regex, text, (line, beyond), way)?, is_after))
        };
        let is_searched = |side: &&(&[u8], usize, bool)| state_side.is_none_or(|wanted| wanted.is_after() == side.2);
        sides.iter().filter(is_searched).filter_map(of).collect()
    };
    for beyond in [true, false] {
        let found = hits(beyond);
        let mut rows: Vec<_> =
            found.into_iter().filter_map(|(line, is_after)| screen.row_of_line(line, is_after)).collect();
        rows.sort_unstable();
        let row = if way == Way::Forwards { rows.first() } else { rows.last() };
        if let Some(row) = row {
            state.message = if beyond {
                String::new()
            } else if way == Way::Forwards {
                "no further hit: from the start again".to_owned()
            } else {
                "no hit above: from the end again".to_owned()
            };
            state.cursor = *row;
            return;
        }
    }
    let wanted = state.found.as_ref().map_or("", Regex::as_str);
    state.message = format!("no line that is searched holds {wanted}");
}

/// The first line with a hit beyond one, or the first of all.
fn line_of_hit(regex: &Regex, text: &[u8], (line, beyond): (usize, bool), way: Way) -> Option<usize> {
    let lines = text.split(|&byte| byte == b'\n').enumerate();
    let holds = |(_, text): &(usize, &[u8])| regex.is_match(&String::from_utf8_lossy(text));
    match way {
        Way::Forwards => lines.skip(if beyond { line + 1 } else { 0 }).find(holds).map(|(at, _)| at),
        Way::Backwards => lines.take(if beyond { line } else { usize::MAX }).filter(holds).last().map(|(at, _)| at),
    }
}
