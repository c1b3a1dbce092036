//! Programs of the user's own that turn a document into text, a table or data.

use std::collections::HashMap;
use std::fs::{File, Permissions};
use std::io::{self, Read, Write};
use std::path::Path;
use std::process::{Child, Command, ExitStatus, Stdio};
use std::sync::{Arc, Mutex, MutexGuard, PoisonError};
use std::thread;
use std::time::{Duration, Instant};

use tideline_core::internal::kinds::document::{Extracted, ExtractedContents, Places, ReadAs, ReadDocuments};
use tideline_core::internal::model::Kind;
use tideline_core::internal::rules::FilePatterns;

use crate::documents::Documents;

/// Stands for the path of the file in a command.
const FILE: &str = "{file}";
/// Says that the file comes through standard input.
const INPUT: &str = "{stdin}";
/// How often it is looked whether a program has ended.
const TICK: Duration = Duration::from_millis(5);
/// What of its complaints is told.
const LONGEST_COMPLAINT: usize = 300;

/// How long a program may take, and how much it may write.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct ConverterLimits {
    /// How long it may take.
    pub time: Duration,
    /// How many bytes it may write.
    pub output: usize,
}

impl Default for ConverterLimits {
    fn default() -> Self {
        Self { time: Duration::from_secs(30), output: 64 << 20 }
    }
}

/// A program that reads files of certain names.
#[derive(Clone, Debug)]
pub struct Converter {
    files: FilePatterns,
    command: Vec<String>,
    kind: Kind,
    limits: ConverterLimits,
}

impl Converter {
    /// A program, and what it writes: text, a table (CSV) or data (JSON).
    ///
    /// # Errors
    /// When the command is empty, or does not say how it gets the file: in words.
    pub fn new(files: FilePatterns, command: Vec<String>, kind: Kind) -> Result<Self, String> {
        if command.first().is_none_or(String::is_empty) {
            return Err("a command needs a program".to_owned());
        }
        let names_file = command.iter().any(|argument| argument.contains(FILE));
        let reads_input = command.iter().any(|argument| argument == INPUT);
        if names_file == reads_input {
            return Err(
                "a command says how it gets the file: by its path, `{file}`, or through standard input, `{stdin}`"
                    .to_owned(),
            );
        }
        Ok(Self { files, command, kind, limits: ConverterLimits::default() })
    }

    /// How long it may take, and how much it may write. Default: 30 seconds, 64 MiB.
    pub fn limits(mut self, limits: ConverterLimits) -> Self {
        self.limits = limits;
        self
    }

    fn convert(&self, path: &[u8], bytes: &[u8]) -> Result<Extracted, String> {
        let program = &self.command[0];
        let text = self.run(path, bytes).map_err(|why| format!("its converter {program} {why}"))?;
        let what = format!("text from {program}");
        let contents = match self.kind {
            Kind::Text => ExtractedContents::Text { text, places: Places::default(), type_name: "converted.txt" },
            kind => ExtractedContents::Converted { text, kind },
        };
        Ok(Extracted { what, contents, left_out: Vec::new() })
    }

    fn run(&self, path: &[u8], bytes: &[u8]) -> Result<Vec<u8>, String> {
        let folder = tempfile::tempdir().map_err(|error| format!("has no place for the file ({error})"))?;
        let file = folder.path().join(file_name(path));
        let reads_input = self.command.iter().any(|argument| argument == INPUT);
        let mut command = Command::new(&self.command[0]);
        for argument in self.command[1..].iter().filter(|argument| *argument != INPUT) {
            command.arg(argument.replace(FILE, &file.to_string_lossy()));
        }
        if !reads_input {
            write_private(&file, bytes).map_err(|error| format!("has no place for the file ({error})"))?;
        }
        command.stdin(if reads_input { Stdio::piped() } else { Stdio::null() });
        command.stdout(Stdio::piped()).stderr(Stdio::piped()).current_dir(folder.path());
        #[cfg(unix)]
        std::os::unix::process::CommandExt::process_group(&mut command, 0);
        let child = command.spawn().map_err(|error| match error.kind() {
            io::ErrorKind::NotFound => {
                "was not found; give its whole path, or put it where programs are looked for".to_owned()
            }
            _ => format!("cannot be started ({error})"),
        })?;
        finish(child, reads_input.then_some(bytes), &self.limits)
    }
}

/// The name that a program sees: that of the file, whose ending may matter to it.
fn file_name(path: &[u8]) -> String {
    let name = path.rsplit(|byte| *byte == b'/').next().unwrap_or_default();
    let name: String =
        String::from_utf8_lossy(name).chars().map(|letter| if letter.is_control() { '_' } else { letter }).collect();
    if name.is_empty() || name == "." || name == ".." || name.starts_with('-') { format!("file{name}") } else { name }
}

fn write_private(path: &Path, bytes: &[u8]) -> io::Result<()> {
    let mut file = File::create_new(path)?;
    #[cfg(unix)]
    file.set_permissions(<Permissions as std::os::unix::fs::PermissionsExt>::from_mode(0o600))?;
    file.write_all(bytes)
}

/// Lets a program read and write until it ends, or has to be stopped.
fn finish(mut child: Child, input: Option<&[u8]>, limits: &ConverterLimits) -> Result<Vec<u8>, String> {
    let (stdin, stdout, stderr) = (child.stdin.take(), child.stdout.take(), child.stderr.take());
    thread::scope(|scope| {
        let writing = stdin.zip(input).map(|(mut stdin, input)| {
            // A program need not read all that it gets.
            scope.spawn(move || drop(stdin.write_all(input)))
        });
        let most = limits.output as u64;
        let output = scope.spawn(move || read_upto(stdout, most + 1));
        let complaint = scope.spawn(move || read_upto(stderr, LONGEST_COMPLAINT as u64 * 4));
        let started = Instant::now();
        let ended = loop {
            if let Some(status) = child.try_wait().map_err(|error| format!("cannot be waited for ({error})"))? {
                break Some(status);
            }
            if started.elapsed() > limits.time || output.is_finished() && complaint.is_finished() {
                break None;
            }
            thread::sleep(TICK);
        };
        // What it may have started must not keep its pipes open.
        let patience = Instant::now();
        let is_over = ended.is_none() && started.elapsed() > limits.time;
        if is_over {
            stop(&mut child);
        } else {
            while !(output.is_finished() && complaint.is_finished()) && patience.elapsed() < Duration::from_millis(500)
            {
                thread::sleep(TICK);
            }
            let status = ended.or_else(|| wait_a_little(&mut child));
            stop(&mut child);
            let (output, complaint) = (output.join().unwrap_or_default(), complaint.join().unwrap_or_default());
            drop(writing);
            return outcome(status, output, &complaint, limits);
        }
        drop((output.join(), complaint.join(), writing));
        Err(format!("took longer than {} s, and was stopped", limits.time.as_secs_f32()))
    })
}

/// Its status, if it ends soon: a program may close its output a little earlier.
fn wait_a_little(child: &mut Child) -> Option<ExitStatus> {
    for _ in 0..100 {
        if let Ok(Some(status)) = child.try_wait() {
            return Some(status);
        }
        thread::sleep(TICK);
    }
    None
}

fn outcome(
    status: Option<ExitStatus>,
    output: Vec<u8>,
    complaint: &[u8],
    limits: &ConverterLimits,
) -> Result<Vec<u8>, String> {
    if output.len() > limits.output {
        return Err(format!("wrote more than {} bytes, and was stopped", limits.output));
    }
    match status {
        Some(status) if status.success() => Ok(output),
        status => {
            let told: String = String::from_utf8_lossy(complaint).trim().chars().take(LONGEST_COMPLAINT).collect();
            let why = status.map_or_else(|| "it did not end".to_owned(), |status| status.to_string());
            let told = if told.is_empty() { String::new() } else { format!(": {told}") };
            Err(format!("failed ({why}){told}"))
        }
    }
}

fn read_upto(from: Option<impl Read>, most: u64) -> Vec<u8> {
    let mut bytes = Vec::new();
    if let Some(from) = from {
        // What was read before a failure is what there is.
        let _ = from.take(most).read_to_end(&mut bytes);
    }
    bytes
}

/// Stops a program, and all that it started.
fn stop(child: &mut Child) {
    #[cfg(unix)]
    if let Some(group) = i32::try_from(child.id()).ok().and_then(rustix::process::Pid::from_raw) {
        // It may have ended already.
        let _ = rustix::process::kill_process_group(group, rustix::process::Signal::KILL);
    }
    let _ = child.kill();
    let _ = child.wait();
}

/// What programs made of contents: by the converter, and the hash of what it got.
#[derive(Debug, Default)]
struct Made {
    results: HashMap<(usize, blake3::Hash), Result<Extracted, String>>,
    /// About how many bytes they take.
    bytes: usize,
}

/// Of so many bytes of results, the rest is made again where it is needed again.
const MOST_HELD: usize = 256 << 20;

/// Reads documents by the programs that were chosen, and those whose formats are known.
#[derive(Debug, Default)]
pub struct Converters {
    converters: Vec<Converter>,
    made: Mutex<Made>,
}

impl Converters {
    /// Programs, in the order in which they are asked.
    pub fn new(converters: Vec<Converter>) -> Arc<Self> {
        Arc::new(Self { converters, made: Mutex::default() })
    }

    fn made(&self) -> MutexGuard<'_, Made> {
        // Nothing is left half done where somebody panicked.
        self.made.lock().unwrap_or_else(PoisonError::into_inner)
    }
}

impl ReadDocuments for Converters {
    fn read(&self, path: &[u8], bytes: &[u8], asked: Option<ReadAs>) -> Option<Result<Extracted, String>> {
        let Some(at) = self.converters.iter().position(|converter| converter.files.fit(path)) else {
            return Documents.read(path, bytes, asked);
        };
        let key = (at, blake3::hash(bytes));
        if let Some(known) = self.made().results.get(&key) {
            return Some(known.clone());
        }
        let made = self.converters[at].convert(path, bytes);
        let size = made.as_ref().map_or(0, size_of_text);
        let mut held = self.made();
        if held.bytes + size <= MOST_HELD {
            held.bytes += size;
            held.results.insert(key, made.clone());
        }
        Some(made)
    }

    fn may_read(&self, path: &[u8], bytes: &[u8], asked: Option<ReadAs>) -> bool {
        self.converters.iter().any(|converter| converter.files.fit(path)) || Documents.may_read(path, bytes, asked)
    }
}

/// How much a program wrote.
fn size_of_text(made: &Extracted) -> usize {
    match &made.contents {
        ExtractedContents::Text { text, .. } | ExtractedContents::Converted { text, .. } => text.len(),
        ExtractedContents::Sheets(_) => 0,
    }
}
