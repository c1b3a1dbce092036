//! Writing through the journal.

mod interrupt;
mod outputs;
mod run;
mod state;

pub(crate) use interrupt::{before_signal, listen_to_signals};
pub(super) use outputs::{Destination, Inputs, write_new_file, write_output};
pub(super) use run::{at_work, carry_out, carry_out_what_can_be, journal, quoted, tell_notes, tell_open_runs, typed};
pub(crate) use run::{carry_out_silently, expected_state, in_full, run_and_undo};
pub(super) use state::folder as state_folder;
pub(crate) use state::own_entries;
