//! The core through its public functions.

#![expect(clippy::unwrap_used, reason = "a test that cannot go on has failed")]

mod alignment;
mod altered;
mod byte_ranges;
mod comment_cases;
mod comment_readings;
mod comment_table;
mod comments;
mod data;
mod data_patches;
mod documents;
mod encodings;
mod equal_first;
mod file_graph;
mod house_rules;
mod images;
mod line_breaks;
mod merge_reference;
mod merging;
mod merging_by_kind;
mod merging_laws;
mod merging_trees;
mod moved_blocks;
mod moves;
mod odd_trees;
mod patches;
mod placing;
mod reading;
mod rule_patterns;
mod rules;
mod sections;
mod slow_reading;
mod support;
mod syncing;
mod tables;
mod taking;
mod taking_rows;
mod trees;
mod verdicts;
mod words_and_pairs;
mod work;
