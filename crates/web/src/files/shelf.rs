//! Where what is in files lies: in a folder or a bucket, each under the SHA-256 of its bytes, so that the same file lies there once,
//! whoever brings it, and nothing that was brought is ever altered.

use crate::{Error, words};
use object_store::{
    ObjectStore, ObjectStoreExt as _, PutMode, PutOptions, PutPayload, local::LocalFileSystem, memory::InMemory,
    path::Path, prefix::PrefixStore,
};
use sha2::{Digest as _, Sha256};
use std::{str::FromStr, sync::Arc};

/// Where files lie.
#[derive(Clone, Debug)]
pub struct Shelf(Arc<dyn ObjectStore>);

/// In memory, until the server stops: for tests.
impl Default for Shelf {
    fn default() -> Self {
        Self(Arc::new(InMemory::new()))
    }
}

/// A folder, or a bucket as `s3://bucket/prefix`, whose keys are read from the environment (`AWS_ACCESS_KEY_ID`, …).
impl FromStr for Shelf {
    type Err = String;

    fn from_str(place: &str) -> Result<Self, String> {
        let told = |error: &dyn std::fmt::Display| format!("{place}: {error}");
        if place.starts_with("s3://") {
            let address = reqwest::Url::parse(place).map_err(|error| told(&error))?;
            let (bucket, prefix) =
                object_store::parse_url_opts(&address, std::env::vars()).map_err(|error| told(&error))?;
            return Ok(Self(Arc::new(PrefixStore::new(bucket, prefix))));
        }
        std::fs::create_dir_all(place).map_err(|error| told(&error))?;
        let folder = LocalFileSystem::new_with_prefix(place).map_err(|error| told(&error))?;
        Ok(Self(Arc::new(folder)))
    }
}

/// The sum of some bytes, in hexadecimal.
pub fn sum(bytes: &[u8]) -> String {
    words::hex(&Sha256::digest(bytes))
}

fn place(kind: &str, sum: &str) -> Path {
    let first = sum.get(..2).unwrap_or_default();
    Path::from_iter([kind, first, sum])
}

impl Shelf {
    /// Lays bytes down under a sum; where that lies there already, nothing is done.
    ///
    /// # Errors
    /// The store of files does not answer.
    pub async fn put(&self, size: Size, sum: &str, bytes: Vec<u8>) -> Result<(), Error> {
        let only_new = PutOptions { mode: PutMode::Create, ..PutOptions::default() };
        match self.0.put_opts(&place(size.word(), sum), PutPayload::from(bytes), only_new).await {
            Ok(_) | Err(object_store::Error::AlreadyExists { .. }) => Ok(()),
            Err(error) => Err(Error::Files(error.to_string())),
        }
    }

    /// What lies under a sum, if anything does.
    ///
    /// # Errors
    /// The store of files does not answer.
    pub async fn get(&self, size: Size, sum: &str) -> Result<Option<object_store::GetResult>, Error> {
        match self.0.get(&place(size.word(), sum)).await {
            Ok(found) => Ok(Some(found)),
            Err(object_store::Error::NotFound { .. }) => Ok(None),
            Err(error) => Err(Error::Files(error.to_string())),
        }
    }
}

/// In which size something lies there.
#[derive(Clone, Copy, Debug)]
pub enum Size {
    /// A file as it was brought.
    Whole,
    /// A picture made small.
    Small,
}

impl Size {
    fn word(self) -> &'static str {
        match self {
            Self::Whole => "whole",
            Self::Small => "small",
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[tokio::test]
    async fn the_same_bytes_lie_there_once_and_another_server_finds_them() {
        let folder = std::env::temp_dir().join(format!("snug-shelf-{}", std::process::id()));
        let place = folder.to_string_lossy().into_owned();
        let (one, other): (Shelf, Shelf) = (place.parse().unwrap(), place.parse().unwrap());
        let key = sum(b"oak");
        for _ in 0..2 {
            one.put(Size::Whole, &key, b"oak".to_vec()).await.unwrap();
        }
        let found = other.get(Size::Whole, &key).await.unwrap().unwrap();
        assert_eq!(found.bytes().await.unwrap().as_ref(), b"oak");
        assert!(other.get(Size::Small, &key).await.unwrap().is_none());
        std::fs::remove_dir_all(folder).unwrap();
    }
}
