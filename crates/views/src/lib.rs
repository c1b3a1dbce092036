//! Draws a comparison onto any writer.
//!
//! [`terminal`] draws for people: rows of styled text, in 24-bit colour, in fewer colours, or in none. [`json`] writes records for programs.

pub mod json;
pub mod terminal;
