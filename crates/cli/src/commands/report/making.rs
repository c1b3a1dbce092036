//! What every part of a report is made from.

use std::path::Path;

use tideline_core::internal::rules::Account;
use tideline_views::report::{Head, Shape};
use tideline_views::{Labels, Syntax};

use crate::args::SyntaxChoice;
use crate::commands::request::Request;

/// Changes shown of a file in Markdown unless something else is said.
pub(super) const MOST_IN_MARKDOWN: usize = 20;
/// Text up to this size is coloured by its syntax unless something else is said.
const COLOURED: u64 = 256 << 10;

/// What every part of a report is made from.
pub(super) struct Making {
    pub(super) request: Request,
    /// The title that was asked for.
    pub(super) title: Option<String>,
    /// Whether code is coloured, if that was said.
    pub(super) syntax: Option<SyntaxChoice>,
    pub(super) shape: Shape,
    pub(super) made: String,
    pub(super) command: String,
}

impl Making {
    /// What stands at the head of a page, which may be about one file.
    pub(super) fn head<'h>(
        &'h self,
        title: &'h str,
        labels: &'h Labels,
        paths: &'h (String, String),
        account: &'h Account,
        about: Option<&'h [u8]>,
    ) -> Head<'h> {
        Head {
            title,
            labels,
            paths: (&paths.0, &paths.1),
            made: &self.made,
            command: &self.command,
            rules: self.request.contents.all_rules(),
            account,
            about,
        }
    }

    /// The title that was asked for, or one.
    pub(super) fn title(&self, otherwise: impl FnOnce() -> String) -> String {
        self.title.clone().unwrap_or_else(otherwise)
    }

    /// How files are shown, in a report on so much text.
    pub(super) fn shape(&self, bytes: u64) -> Shape {
        let syntax = match self.syntax.unwrap_or(SyntaxChoice::Auto) {
            SyntaxChoice::On => Syntax::On,
            SyntaxChoice::Auto if bytes <= COLOURED => Syntax::On,
            SyntaxChoice::Auto | SyntaxChoice::Off => Syntax::Off,
        };
        self.shape.clone().syntax(syntax)
    }

    /// The paths of both sides, as they were given, and what they are where that does not say it.
    pub(super) fn paths(&self, labels: &Labels) -> (String, String) {
        let told = |path: &Path, about: &Option<String>| match about {
            Some(about) => format!("{} ({about})", path.display()),
            None => path.display().to_string(),
        };
        (told(&self.request.before, &labels.about.0), told(&self.request.after, &labels.about.1))
    }
}
