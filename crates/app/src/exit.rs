//! How the program ends: what is said, and the exit code.

use std::process::ExitCode;

/// Why a command did not do all that it was asked for.
#[derive(Debug)]
pub enum Failure {
    /// Nothing could be done: a value or a file cannot be used. Exit code 2.
    Unusable(String),
    /// Some of several files could not be done; what became of each has been said. Exit code 1.
    Partly(String),
}

impl From<String> for Failure {
    fn from(sentence: String) -> Self {
        Self::Unusable(sentence)
    }
}

impl From<&str> for Failure {
    fn from(sentence: &str) -> Self {
        Self::Unusable(sentence.into())
    }
}

impl Failure {
    /// What is wrong.
    pub fn sentence(self) -> String {
        match self {
            Self::Unusable(sentence) | Self::Partly(sentence) => sentence,
        }
    }

    /// Says it on standard error.
    pub fn told(self) -> ExitCode {
        let (code, sentence) = match self {
            Self::Partly(sentence) => (1, sentence),
            Self::Unusable(sentence) => (2, sentence),
        };
        eprintln!("amber-grain: {sentence}");
        ExitCode::from(code)
    }
}
