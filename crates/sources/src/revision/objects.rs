//! The objects of a repository: resolved, weighed and read.

use std::io;
use std::time::SystemTime;

use tideline_core::internal::tree::{TreeError, TreeErrorKind};

use super::program::{Program, Services};

/// An object, as the repository answers for a name.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) struct Object {
    /// Its hash, in hexadecimal digits.
    pub(crate) id: String,
    pub(crate) kind: String,
    pub(crate) size: u64,
}

/// The objects of a repository.
pub(crate) struct Objects {
    plain: Services,
}

/// The contents of objects as they would be checked out.
pub(crate) struct CheckedOut(Services);

impl Objects {
    pub(crate) fn new(program: &Program) -> Self {
        Self { plain: Services::new(program.clone(), &["cat-file", "--batch-command"]) }
    }

    /// The object that a name stands for, if there is one.
    pub(crate) fn find(&self, name: &str) -> io::Result<Option<Object>> {
        if name.contains('\n') {
            return Ok(None);
        }
        self.plain.ask(|service| {
            service.ask(format!("info {name}").as_bytes())?;
            Ok(object(&service.answer(b'\n')?))
        })
    }

    /// An object and what it holds, if there is one.
    pub(crate) fn read(&self, name: &str) -> io::Result<Option<(Object, Vec<u8>)>> {
        if name.contains('\n') {
            return Ok(None);
        }
        self.plain.ask(|service| {
            service.ask(format!("contents {name}").as_bytes())?;
            let Some(object) = object(&service.answer(b'\n')?) else { return Ok(None) };
            let bytes = service.bytes(object.size)?;
            Ok(Some((object, bytes)))
        })
    }

    /// What a file holds.
    pub(crate) fn file(&self, id: &str) -> Result<Vec<u8>, TreeError> {
        let read = self.read(id).map_err(|error| TreeError::from(&error))?;
        read.map(|(_, bytes)| bytes).ok_or_else(|| missing(id))
    }

    /// The size of a file.
    pub(crate) fn size(&self, id: &str) -> Result<u64, TreeError> {
        let found = self.find(id).map_err(|error| TreeError::from(&error))?;
        found.map(|object| object.size).ok_or_else(|| missing(id))
    }
}

impl CheckedOut {
    /// The program must not run filters that it may not.
    pub(crate) fn new(program: &Program) -> Self {
        Self(Services::new(program.clone(), &["cat-file", "--batch", "--filters"]))
    }

    /// What a file holds, as it would be checked out at a path of one line.
    pub(crate) fn file(&self, id: &str, path: &[u8]) -> Result<Vec<u8>, TreeError> {
        self.read(id, path).map_err(|error| TreeError::from(&error))?.ok_or_else(|| missing(id))
    }

    /// What a file holds, as it would be checked out at a path. The size that is told is the one before, so that another question marks the
    /// end: it names what cannot be there, as it is made up now.
    fn read(&self, id: &str, path: &[u8]) -> io::Result<Option<Vec<u8>>> {
        self.0.ask(|service| {
            let now = SystemTime::now().duration_since(SystemTime::UNIX_EPOCH).unwrap_or_default().as_nanos();
            let mark = blake3::hash(format!("{id} {now} {}", std::process::id()).as_bytes()).to_hex();
            service.ask(&[id.as_bytes(), b" ", path].concat())?;
            service.ask(mark[..32].as_bytes())?;
            let found = object(&service.answer(b'\n')?);
            let end = format!("\n{} missing\n", &mark[..32]);
            if found.is_none() {
                // That the mark is missing is told too.
                service.answer(b'\n')?;
                return Ok(None);
            }
            service.until(end.as_bytes()).map(Some)
        })
    }
}

fn missing(id: &str) -> TreeError {
    let short = &id[..id.len().min(10)];
    let reason = format!(
        "the repository does not hold the object {short}, as a partial clone may not; --fetch-missing lets it be fetched"
    );
    TreeError::new(TreeErrorKind::Missing, reason)
}

/// What an answer says: `HASH TYPE SIZE`, or something else where there is no such object.
fn object(answer: &[u8]) -> Option<Object> {
    let answer = std::str::from_utf8(answer).ok()?;
    let mut words = answer.rsplitn(3, ' ');
    let (size, kind, id) = (words.next()?, words.next()?, words.next()?);
    let is_id = id.len() >= 40 && id.bytes().all(|byte| byte.is_ascii_hexdigit());
    is_id.then_some(())?;
    Some(Object { id: id.to_owned(), kind: kind.to_owned(), size: size.parse().ok()? })
}
