//! The password that is asked for beyond loopback.

use argon2::Argon2;
use argon2::password_hash::rand_core::OsRng;
use argon2::password_hash::{PasswordHash, PasswordHasher, PasswordVerifier, SaltString};

/// How a hash in a password file begins; anything else is the password itself.
const HASHED: &str = "$argon2";
const SHORTEST: usize = 8;

/// A password, as its Argon2 hash (RFC 9106).
#[derive(Clone)]
pub struct Password(String);

impl std::fmt::Debug for Password {
    fn fmt(&self, f: &mut std::fmt::Formatter) -> std::fmt::Result {
        f.write_str("a password")
    }
}

impl Password {
    /// Reads a password file: its first line is the password, or an Argon2 hash of it.
    pub fn from_file(text: &str) -> Result<Self, &'static str> {
        let line = text.lines().next().unwrap_or_default().trim();
        if line.starts_with(HASHED) {
            let whole = PasswordHash::new(line).is_ok_and(|h| h.hash.is_some() && h.salt.is_some());
            return if whole { Ok(Self(line.into())) } else { Err("its Argon2 hash cannot be read") };
        }
        Self::of(line)
    }

    /// Hashes a password.
    pub fn of(password: &str) -> Result<Self, &'static str> {
        if password.chars().count() < SHORTEST {
            return Err("a password needs at least 8 characters");
        }
        let salt = SaltString::generate(&mut OsRng);
        let hash = Argon2::default().hash_password(password.as_bytes(), &salt);
        hash.map(|h| Self(h.to_string())).map_err(|_| "the password cannot be hashed")
    }

    pub fn hash(&self) -> &str {
        &self.0
    }

    pub fn is(&self, given: &str) -> bool {
        let verify = |hash: PasswordHash| Argon2::default().verify_password(given.as_bytes(), &hash).is_ok();
        PasswordHash::new(&self.0).is_ok_and(verify)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_file_holds_the_password_or_its_hash() {
        let plain = Password::from_file("lantern and thread\n").unwrap();
        assert!(plain.is("lantern and thread") && !plain.is("lantern and threat"));
        let hashed = Password::from_file(plain.hash()).unwrap();
        assert!(hashed.is("lantern and thread") && !hashed.is(plain.hash()));
        for refused in ["", "short", "$argon2id$nonsense"] {
            assert!(Password::from_file(refused).is_err(), "{refused}");
        }
    }
}
