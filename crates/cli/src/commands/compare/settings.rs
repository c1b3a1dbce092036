//! What arguments and configuration say, made ready.

use tideline_core::kinds::ContentOptions;
use tideline_views::terminal::Look;

/// What arguments and configuration say, made ready.
#[derive(Clone)]
pub(in crate::commands) struct Settings {
    pub(in crate::commands) look: Look,
    pub(in crate::commands) paged: bool,
    pub(in crate::commands) contents: ContentOptions,
}
