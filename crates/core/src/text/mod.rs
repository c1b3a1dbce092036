//! Bytes, lines and words: how a text is cut up before it is compared.

pub mod bytes;
pub mod encoding;
pub mod file_type;
pub mod lines;
pub(crate) mod single_lines;
pub mod spelling;
pub mod words;
