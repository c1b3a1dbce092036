//! Writing through the journal.

mod interrupt;
mod outputs;
mod run;
mod state;

pub(super) use outputs::{Destination, Inputs, write_new_file, write_output};
pub(super) use run::{
    at_work, carry_out, carry_out_what_can_be, expected_state, in_full, journal, quoted, tell_notes, tell_open_runs,
    typed,
};
pub(crate) use state::own_entries;
