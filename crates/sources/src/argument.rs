//! What an argument is, before anything is opened.

use std::path::{Path, PathBuf};

/// How the arguments that stand for revisions begin.
const REVISION: &str = "git:";
/// What is staged, in the place of a revision.
const STAGED: &str = "staged";

/// What an argument is.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Argument {
    /// `-`: standard input.
    StandardInput,
    /// `git:REV` or `git:REV:PATH`.
    Revision {
        /// The revision; none for what is staged.
        revision: Option<String>,
        /// The path in it.
        path: Option<String>,
    },
    /// A path on the disk.
    Path(PathBuf),
}

impl Argument {
    /// What an argument is. A file whose name begins like a revision is written `./git:…`.
    pub fn of(argument: &Path) -> Self {
        if argument.as_os_str() == "-" {
            return Self::StandardInput;
        }
        match argument.to_str().and_then(|text| text.strip_prefix(REVISION)) {
            Some(rest) => {
                let (revision, path) = match rest.split_once(':') {
                    Some((revision, path)) => (revision, Some(path.to_owned())),
                    None => (rest, None),
                };
                Self::Revision { revision: (revision != STAGED).then(|| revision.to_owned()), path }
            }
            None => Self::Path(argument.to_path_buf()),
        }
    }

    /// Whether an argument stands for a revision.
    pub fn is_revision(argument: &Path) -> bool {
        matches!(Self::of(argument), Self::Revision { .. })
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn revisions_paths_and_standard_input_are_told_apart() {
        let of = |text: &str| Argument::of(Path::new(text));
        let revision = |revision: Option<&str>, path: Option<&str>| Argument::Revision {
            revision: revision.map(str::to_owned),
            path: path.map(str::to_owned),
        };
        assert_eq!(of("git:HEAD~3"), revision(Some("HEAD~3"), None));
        assert_eq!(of("git:v1.2:docs/a:b"), revision(Some("v1.2"), Some("docs/a:b")));
        assert_eq!(of("git:HEAD:"), revision(Some("HEAD"), Some("")));
        assert_eq!(of("git:staged"), revision(None, None));
        assert_eq!(of("git:refs/heads/staged"), revision(Some("refs/heads/staged"), None));
        assert_eq!(of("./git:HEAD"), Argument::Path("./git:HEAD".into()));
        assert_eq!(of("-"), Argument::StandardInput);
    }
}
