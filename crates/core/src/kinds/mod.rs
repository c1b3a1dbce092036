//! What contents mean: how a file of each kind is compared.

pub mod text;
