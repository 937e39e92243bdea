//! Who has signed in, and how often a wrong password was tried. Sessions last while the application runs.

use std::collections::HashMap;
use std::net::IpAddr;
use std::sync::{Mutex, MutexGuard, PoisonError};
use std::time::{Duration, Instant};

use argon2::password_hash::rand_core::{OsRng, RngCore};

use crate::error::WebError;
use crate::password::Password;

/// The cookie's name, and how long a session lasts.
const COOKIE: &str = "amber-session";
const LIFE: Duration = Duration::from_secs(7 * 24 * 3600);
const MOST_SESSIONS: usize = 1000;
/// Wrong passwords within a minute after which an address, and everybody, has to wait.
const MINUTE: Duration = Duration::from_secs(60);
const MOST_OF_ONE: usize = 5;
const MOST_OF_ALL: usize = 50;

type Token = [u8; 32];

#[derive(Default)]
pub struct Sessions {
    /// Hashes of the tokens that were given, and since when.
    open: Mutex<HashMap<[u8; 32], Instant>>,
    wrong: Mutex<Vec<(IpAddr, Instant)>>,
    /// One password is tried at a time: each takes memory on purpose.
    trying: Mutex<()>,
}

fn held<T>(lock: &Mutex<T>) -> MutexGuard<'_, T> {
    lock.lock().unwrap_or_else(PoisonError::into_inner)
}

impl Sessions {
    /// Tries a password; gives the header that sets the session's cookie.
    pub fn sign_in(&self, password: &Password, given: &str, from: IpAddr) -> Result<String, WebError> {
        let _one = held(&self.trying);
        let mut wrong = held(&self.wrong);
        wrong.retain(|(_, when)| when.elapsed() < MINUTE);
        if wrong.len() >= MOST_OF_ALL || wrong.iter().filter(|(who, _)| *who == from).count() >= MOST_OF_ONE {
            return Err(WebError::Throttled);
        }
        if !password.is(given) {
            wrong.push((from, Instant::now()));
            return Err(WebError::Password);
        }
        let mut token: Token = [0; 32];
        OsRng.fill_bytes(&mut token);
        let mut open = held(&self.open);
        open.retain(|_, since| since.elapsed() < LIFE);
        if open.len() >= MOST_SESSIONS {
            open.clear();
        }
        open.insert(*blake3::hash(&token).as_bytes(), Instant::now());
        Ok(format!("{COOKIE}={}; HttpOnly; SameSite=Strict; Path=/; Max-Age={}", hex(&token), LIFE.as_secs()))
    }

    /// Whether a request's cookies name an open session.
    pub fn know(&self, cookies: &str) -> bool {
        let key = key(cookies);
        key.is_some_and(|key| held(&self.open).get(&key).is_some_and(|since| since.elapsed() < LIFE))
    }

    /// Ends a session; gives the header that removes its cookie.
    pub fn sign_out(&self, cookies: &str) -> String {
        if let Some(key) = key(cookies) {
            held(&self.open).remove(&key);
        }
        format!("{COOKIE}=; HttpOnly; SameSite=Strict; Path=/; Max-Age=0")
    }
}

fn hex(token: &Token) -> String {
    token.iter().map(|b| format!("{b:02x}")).collect()
}

/// The hash of the token among the cookies of a request.
fn key(cookies: &str) -> Option<[u8; 32]> {
    let value = cookies.split(';').find_map(|c| c.trim().strip_prefix(COOKIE)?.strip_prefix('='))?;
    let mut token: Token = [0; 32];
    if value.len() != 2 * token.len() || !value.is_ascii() {
        return None;
    }
    for (byte, at) in token.iter_mut().zip((0..).step_by(2)) {
        *byte = u8::from_str_radix(&value[at..at + 2], 16).ok()?;
    }
    Some(*blake3::hash(&token).as_bytes())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_session_is_known_until_it_is_ended_and_guessing_is_slow() {
        let sessions = Sessions::default();
        let password = Password::of("lantern and thread").unwrap();
        let here: IpAddr = [10, 0, 0, 1].into();
        let cookie = sessions.sign_in(&password, "lantern and thread", here).unwrap();
        let cookie = cookie.split(';').next().unwrap();
        assert!(sessions.know(&format!("a=b; {cookie}")) && !sessions.know("amber-session=00") && !sessions.know(""));
        sessions.sign_out(cookie);
        assert!(!sessions.know(cookie));
        for _ in 0..MOST_OF_ONE {
            assert!(matches!(sessions.sign_in(&password, "guess", here), Err(WebError::Password)));
        }
        let right = || sessions.sign_in(&password, "lantern and thread", here);
        assert!(matches!(right(), Err(WebError::Throttled)), "the right one too, for a minute");
        assert!(sessions.sign_in(&password, "lantern and thread", [10, 0, 0, 2].into()).is_ok());
    }
}
