//! Twelve packages, each in two versions, fetched with the ordinary client of its registry.

use std::fs;
use std::path::Path;
use std::process::Command;

use anyhow::{Context, Result, ensure};

/// A package in two versions.
struct Package {
    client: Client,
    name: &'static str,
    versions: [&'static str; 2],
}

#[derive(Clone, Copy)]
enum Client {
    Cargo,
    Npm,
    Pip,
}

const fn package(client: Client, name: &'static str, before: &'static str, after: &'static str) -> Package {
    Package { client, name, versions: [before, after] }
}

/// Code of several languages, C among it, pages, style sheets, documents and message catalogues.
const PACKAGES: [Package; 12] = [
    package(Client::Pip, "click", "8.0.0", "8.1.7"),
    package(Client::Pip, "django", "4.2", "5.0"),
    package(Client::Pip, "networkx", "2.8", "3.2"),
    package(Client::Pip, "sqlalchemy", "2.0.10", "2.0.36"),
    package(Client::Npm, "bootstrap", "5.1.0", "5.3.0"),
    package(Client::Npm, "eslint", "8.0.0", "8.57.0"),
    package(Client::Npm, "fastify", "4.0.0", "4.28.0"),
    package(Client::Npm, "webpack", "5.70.0", "5.97.0"),
    package(Client::Cargo, "clap_builder", "4.4.0", "4.5.20"),
    package(Client::Cargo, "regex-automata", "0.3.0", "0.4.8"),
    package(Client::Cargo, "tokio", "1.20.0", "1.40.0"),
    package(Client::Cargo, "zstd-sys", "2.0.1", "2.0.13"),
];

/// Fetches all of them: each into a folder of its name that holds `before` and `after`.
pub(super) fn fetch(into: &Path) -> Result<()> {
    for package in &PACKAGES {
        for (side, version) in ["before", "after"].iter().zip(package.versions) {
            eprintln!("fetching {} {version}", package.name);
            let folder = into.join(package.name).join(side);
            fs::create_dir_all(&folder)?;
            match package.client {
                Client::Pip => {
                    let wanted = format!("{}=={version}", package.name);
                    let mut pip = Command::new("pip");
                    pip.args(["install", "--quiet", "--no-deps", "--no-compile", "--target"]).arg(&folder);
                    done(pip.arg(wanted))?;
                }
                Client::Npm => {
                    let wanted = format!("{}@{version}", package.name);
                    done(Command::new("npm").args(["pack", "--silent", &wanted]).current_dir(&folder))?;
                    let unpack = "tar xzf *.tgz --strip-components=1 && rm *.tgz";
                    done(Command::new("sh").args(["-c", unpack]).current_dir(&folder))?;
                }
                Client::Cargo => vendor(package.name, version, &folder)?,
            }
        }
    }
    Ok(())
}

/// Fetches a crate by way of a package that depends on it.
fn vendor(name: &str, version: &str, folder: &Path) -> Result<()> {
    let dependent = tempfile::tempdir()?;
    let manifest = format!(
        "[package]\nname = \"dependent\"\nversion = \"0.1.0\"\nedition = \"2021\"\n\n[lib]\npath = \"lib.rs\"\n\n\
         [dependencies]\n{name} = {{ version = \"={version}\", default-features = false }}\n"
    );
    fs::write(dependent.path().join("Cargo.toml"), manifest)?;
    fs::write(dependent.path().join("lib.rs"), "")?;
    done(Command::new(env!("CARGO")).args(["vendor", "--quiet", "vendor"]).current_dir(dependent.path()))?;
    fs::remove_dir(folder)?;
    let vendored = dependent.path().join("vendor").join(name);
    done(Command::new("mv").arg(vendored).arg(folder))
}

fn done(command: &mut Command) -> Result<()> {
    let name = command.get_program().to_string_lossy().into_owned();
    let output = command.output().with_context(|| format!("cannot start {name}"))?;
    ensure!(output.status.success(), "{name} failed: {}", String::from_utf8_lossy(&output.stderr).trim());
    Ok(())
}
