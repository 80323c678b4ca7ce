//! How paths and bytes are written down in JSON, also those that are no text.

use std::path::{Path, PathBuf};

use serde::{Deserialize, Serialize};

use crate::base::platform::path_from;

/// A path, also one that is no Unicode.
#[derive(Clone, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(untagged)]
pub enum PathText {
    /// A path that is Unicode.
    Text(String),
    /// The bytes of one that is not.
    Bytes(Vec<u8>),
}

impl From<&Path> for PathText {
    fn from(path: &Path) -> Self {
        match path.to_str() {
            Some(text) => Self::Text(text.to_owned()),
            None => Self::Bytes(path.as_os_str().as_encoded_bytes().to_vec()),
        }
    }
}

impl PathText {
    /// The path.
    pub fn to_path(&self) -> PathBuf {
        match self {
            Self::Text(text) => PathBuf::from(text),
            // Another system's record.
            Self::Bytes(bytes) => path_from(bytes)
                .unwrap_or_else(|| PathBuf::from(String::from_utf8_lossy(bytes).into_owned())),
        }
    }
}

/// Bytes, written as text where they are.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(untagged)]
pub enum RawText {
    /// Bytes that are UTF-8.
    Text(String),
    /// Bytes that are not.
    Bytes(Vec<u8>),
}

impl From<&[u8]> for RawText {
    fn from(bytes: &[u8]) -> Self {
        match std::str::from_utf8(bytes) {
            Ok(text) => Self::Text(text.to_owned()),
            Err(_) => Self::Bytes(bytes.to_vec()),
        }
    }
}

impl RawText {
    /// The bytes.
    pub fn as_bytes(&self) -> &[u8] {
        match self {
            Self::Text(text) => text.as_bytes(),
            Self::Bytes(bytes) => bytes,
        }
    }
}
