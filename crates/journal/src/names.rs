//! Names of temporary files: of one shape, and unique to a run.

use std::ffi::{OsStr, OsString};

use serde::{Deserialize, Serialize};

/// How the names begin.
const PREFIX: &str = ".tideline-";
/// How they end.
const SUFFIX: &str = ".tmp";
/// How versions are named that other programs wrote during a run, in the folder of its record.
pub(crate) const LATER: &str = "later-";
/// Letters of a token.
const LETTERS: usize = 20;

/// What tells the temporary files of one run from those of all others: random letters.
#[derive(Clone, Debug, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
pub struct Token(String);

impl Token {
    /// A new one.
    pub(crate) fn random() -> std::io::Result<Self> {
        let mut bytes = [0_u8; LETTERS / 2];
        getrandom::fill(&mut bytes).map_err(|error| std::io::Error::other(error.to_string()))?;
        Ok(Self(bytes.iter().map(|byte| format!("{byte:02x}")).collect()))
    }

    /// The name of the temporary file for an entry of the run.
    pub(crate) fn name(&self, entry: usize) -> OsString {
        format!("{PREFIX}{}-{entry}{SUFFIX}", self.0).into()
    }

    /// The name under which the old file of an entry is made again from its backup.
    pub(crate) fn restored_name(&self, entry: usize) -> OsString {
        format!("{PREFIX}{}-{entry}r{SUFFIX}", self.0).into()
    }

    /// A second name, where an exchange needs two steps.
    pub(crate) fn second_name(&self, entry: usize) -> OsString {
        format!("{PREFIX}{}-{entry}x{SUFFIX}", self.0).into()
    }
}

/// The token in a name that has the shape of a temporary file's.
pub(crate) fn token_in(name: &OsStr) -> Option<Token> {
    let (token, entry) = name.to_str()?.strip_prefix(PREFIX)?.strip_suffix(SUFFIX)?.split_once('-')?;
    let hexadecimal = token.len() == LETTERS && token.bytes().all(|byte| matches!(byte, b'0'..=b'9' | b'a'..=b'f'));
    let number = entry.strip_suffix(['x', 'r']).unwrap_or(entry);
    (hexadecimal && !number.is_empty() && number.bytes().all(|byte| byte.is_ascii_digit()))
        .then(|| Token(token.to_owned()))
}

/// Keys under which names that some file systems take for one are alike: case and normal form do not count.
pub(crate) fn folded(name: &OsStr) -> String {
    use unicode_normalization::UnicodeNormalization;
    name.to_string_lossy().nfc().collect::<String>().to_lowercase().nfc().collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn names_have_one_shape_and_tokens_are_found_in_them() {
        let token = Token::random().unwrap();
        for name in [token.name(0), token.name(123), token.second_name(7), token.restored_name(8)] {
            assert_eq!(token_in(&name), Some(token.clone()), "{}", name.display());
        }
        assert_ne!(token, Token::random().unwrap());
        for name in
            [".tideline-1-file-0.tmp", ".tideline-0123456789abcdef0123-.tmp", ".tideline-0123456789abcdef012-1.tmp"]
        {
            assert_eq!(token_in(OsStr::new(name)), None, "{name}");
        }
    }

    #[test]
    fn names_that_some_systems_take_for_one_fold_alike() {
        assert_eq!(folded(OsStr::new("README")), folded(OsStr::new("readme")));
        assert_eq!(folded(OsStr::new("caf\u{e9}")), folded(OsStr::new("cafe\u{301}")));
        assert_ne!(folded(OsStr::new("a")), folded(OsStr::new("b")));
    }
}
