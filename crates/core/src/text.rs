//! Text that comes from outside: names that people give, values that they wrote.

/// Most characters of a refused value that are said back.
const SHOWN: usize = 60;

/// Whether a text has only letters and signs that can be seen: no control characters, nothing that turns the direction
/// of writing.
pub fn is_plain(text: &str) -> bool {
    !text.chars().any(is_hidden)
}

fn is_hidden(c: char) -> bool {
    c.is_control()
        || matches!(c, '\u{200E}' | '\u{200F}' | '\u{2028}'..='\u{202E}' | '\u{2066}'..='\u{2069}' | '\u{FEFF}')
}

/// A refused text as it is said back: short, without hidden characters.
pub fn shortened(text: &str) -> String {
    shortened_to(text, SHOWN)
}

/// [`shortened`] to a number of characters.
pub fn shortened_to(text: &str, most: usize) -> String {
    let seen = |c: char| if is_hidden(c) { '\u{B7}' } else { c };
    let mut short: String = text.chars().take(most).map(seen).collect();
    if text.chars().nth(most).is_some() {
        short.push('…');
    }
    short
}

/// Most letters of an id that is made from a name.
const LONGEST_SLUG: usize = 56;

/// An id made from a name: lower-case letters, digits and hyphens; another word where the name has none.
pub fn slug(name: &str, instead: &str) -> String {
    let lower = name.to_lowercase();
    let words = lower.split(|c: char| !c.is_ascii_alphanumeric()).filter(|w| !w.is_empty());
    let id: String = words.collect::<Vec<_>>().join("-").chars().take(LONGEST_SLUG).collect();
    if id.is_empty() { instead.into() } else { id }
}

/// Data of our own as JSON: plain structs and maps with text for keys, which always have one.
pub(crate) fn json(data: &impl serde::Serialize) -> Vec<u8> {
    serde_json::to_vec(data).unwrap_or_else(|e| unreachable!("data of our own is no JSON: {e}"))
}

/// The same in lines, as text.
pub(crate) fn json_in_lines(data: &impl serde::Serialize) -> String {
    serde_json::to_string_pretty(data).unwrap_or_else(|e| unreachable!("data of our own is no JSON: {e}"))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn hidden_characters_and_length() {
        assert!(is_plain("Étude – 3 µm"));
        for hidden in ["a\u{7f}", "a\nb", "\u{202E}gpj", "\u{85}"] {
            assert!(!is_plain(hidden), "{hidden:?}");
        }
        assert_eq!(shortened("a\u{7f}b"), "a·b");
        assert_eq!(shortened(&"x".repeat(20_000)).chars().count(), 61);
    }
}
