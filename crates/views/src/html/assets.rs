//! The style and the script of pages.

use base64::Engine;
use base64::prelude::BASE64_STANDARD;
use sha2::{Digest, Sha256};

/// The style of every page.
pub const STYLE: &str = include_str!("../../assets/report.css");
/// The script of every page.
pub const SCRIPT: &str = include_str!("../../assets/report.js");
/// What the style is called where pages share it.
pub const STYLE_NAME: &str = "report.css";
/// What the script is called where pages share it.
pub const SCRIPT_NAME: &str = "report.js";
/// What tells that a page is ours.
pub const SIGNATURE: &str = "<meta name=\"generator\" content=\"tideline report\">";

/// Where the style and the script of a page are.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Assets<'a> {
    /// In the page.
    Inline,
    /// In files in this folder, which is empty or ends with a slash.
    Linked(&'a str),
}

impl Assets<'_> {
    /// The content policy (W3C Content Security Policy Level 3): nothing but the page's own style, script and images.
    pub(super) fn policy(self) -> String {
        let hash = |text: &str| format!("'sha256-{}'", BASE64_STANDARD.encode(Sha256::digest(text)));
        let (style, script) = match self {
            Self::Inline => (hash(STYLE), hash(SCRIPT)),
            Self::Linked(_) => ("'self'".to_owned(), "'self'".to_owned()),
        };
        format!(
            "default-src 'none'; style-src {style}; script-src {script}; img-src data:; base-uri 'none'; form-action 'none'"
        )
    }
}
