//! The map of the code names what is there.
#![allow(clippy::unwrap_used)] // a test may fail where it stands

use std::path::{Path, PathBuf};

/// Every file and folder of the sources, with slashes, from the root.
fn sources(root: &Path) -> Vec<String> {
    let (mut found, mut open) = (Vec::new(), vec![PathBuf::new()]);
    while let Some(folder) = open.pop() {
        for entry in std::fs::read_dir(root.join(&folder)).unwrap() {
            let entry = entry.unwrap();
            let path = folder.join(entry.file_name());
            let name = entry.file_name().to_string_lossy().into_owned();
            if name.starts_with('.') || name == "node_modules" || name == "target" {
                continue;
            }
            if entry.file_type().unwrap().is_dir() {
                found.push(format!("{}/", path.display()));
                open.push(path);
            } else {
                found.push(path.display().to_string());
            }
        }
    }
    found
}

/// Whether words in code marks are the path of a file or folder of the sources, and no address, program or part of one.
fn is_path(words: &str) -> bool {
    let ends = [".rs", ".js", ".mjs", ".html", ".css", ".sh", ".md", "/"];
    let plain = words.chars().all(|c| c.is_ascii_alphanumeric() || "/_.-".contains(c));
    plain && !words.starts_with('/') && ends.iter().any(|end| words.ends_with(end))
}

#[test]
fn architecture_names_files_that_exist() {
    let root = Path::new(env!("CARGO_MANIFEST_DIR")).join("../..");
    let sources = sources(&root);
    let text = std::fs::read_to_string(root.join("docs/architecture.md")).unwrap();
    let named: Vec<&str> = text.split('`').skip(1).step_by(2).filter(|words| is_path(words)).collect();
    assert!(named.len() > 60, "{} paths are found", named.len());
    let is_there = |name: &&str| sources.iter().any(|path| path == name || path.ends_with(&format!("/{name}")));
    let missing: Vec<&str> = named.into_iter().filter(|name| !is_there(name)).collect();
    assert!(missing.is_empty(), "docs/architecture.md names what is not there: {missing:?}");
}
