//! How contents will be compared: rules, kinds and encodings.

use anyhow::{Context, Result};
use tideline_core::internal::kinds::ContentOptions;
use tideline_core::internal::kinds::text::TextOptions;
use tideline_core::internal::rules::{Effect, FilePatterns, Rule, Rules, What, split_list, split_patterns};
use tideline_core::internal::text::encoding::WantedEncodings;

use super::Config;
use crate::args::{RulesChoice, WhatArgs};

/// Where a rule was declared that an option states.
pub(crate) const ON_THE_COMMAND_LINE: &str = "command line";

/// Builds the options for contents.
pub(crate) fn content_options(
    args: &WhatArgs,
    config: &Config,
    encodings: WantedEncodings,
    counted_only: bool,
) -> Result<ContentOptions> {
    Ok(ContentOptions::default()
        .text(TextOptions::default().counted_only(counted_only))
        .rules(rules(args, config)?)
        .assignments(config.assignments.clone())
        .encodings(encodings))
}

/// The files that a list of an option is about, and the rest of it. What stands before the first colon is a scope if it is made of patterns:
/// `*.log: timestamps`.
fn scope(list: &str) -> Result<(Option<FilePatterns>, &str)> {
    let is_scope = |files: &str| !files.starts_with('/') && files.contains(['*', '?', '/']);
    match list.split_once(':') {
        Some((files, rest)) if is_scope(files) => {
            let patterns = split_patterns(files).iter().map(|pattern| pattern.trim().to_owned()).collect::<Vec<_>>();
            Ok((Some(FilePatterns::new(&patterns)?), rest))
        }
        _ => Ok((None, list)),
    }
}

/// The rules in force: those that options state, then those of the configuration.
pub(crate) fn rules(args: &WhatArgs, config: &Config) -> Result<Rules> {
    let mut stated: Vec<Rule> = Vec::new();
    let mut configured = config.rules.clone();
    let lists = [("--ignore", &args.ignore, Effect::Ignore), ("--mute", &args.mute, Effect::Mute)];
    for (option, lists, effect) in lists {
        let scoped = lists.iter().map(|list| scope(list)).collect::<Result<Vec<_>>>()?;
        let written =
            scoped.iter().flat_map(|(files, list)| split_list(list).into_iter().map(move |what| (files, what)));
        for (files, written) in written {
            if let Some(files) = files {
                let name = format!("{}: {written}", files.patterns().join(","));
                let what = What::parse(written, []).with_context(|| format!("cannot use {option} {name}"))?;
                let rule = Rule::new(name, effect, vec![(written.to_owned(), what)]);
                stated.push(rule.files(Some(files.clone())).origin(ON_THE_COMMAND_LINE));
                continue;
            }
            if let Some(at) = configured.iter().position(|rule| rule.name() == written) {
                let rule = configured.remove(at);
                let origin = format!("{}, as {option} says", rule.declared());
                stated.push(rule.with_effect(effect).origin(origin));
                continue;
            }
            let names = config.rules.iter().map(Rule::name);
            let what = What::parse(written, names).with_context(|| format!("cannot use {option} {written}"))?;
            if stated.iter().any(|rule| rule.name() == written && rule.effect() == effect) {
                continue;
            }
            stated.push(Rule::new(written, effect, vec![(written.to_owned(), what)]).origin(ON_THE_COMMAND_LINE));
        }
    }
    let among: Vec<String> = configured.iter().map(|rule| rule.name().to_owned()).collect();
    if args.rules == RulesChoice::On {
        stated.extend(configured);
    }
    let rules = Rules::new(stated);
    Ok(config.choices.iter().fold(rules, |rules, (files, chosen)| rules.choose(files.clone(), &among, chosen)))
}
