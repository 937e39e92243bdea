//! Choices that are enums: their values are declared once and read back without matching text.

use super::Choice;

/// An enum whose values a control offers.
pub trait Choices: Copy + Sized + 'static {
    /// What a control offers, the first being the neutral one.
    const CHOICES: &'static [Choice];
    /// The values in the same order.
    const ALL: &'static [Self];

    /// The id of a value.
    fn id(self) -> &'static str;

    /// The value with an id.
    fn named(id: &str) -> Option<Self> {
        Self::CHOICES.iter().position(|choice| choice.id == id).map(|index| Self::ALL[index])
    }
}

/// Declares an enum with the id and the label of each value.
macro_rules! choices {
    ($(#[$doc:meta])* pub enum $name:ident { $($(#[$of:meta])* $value:ident = $id:literal, $label:literal;)+ }) => {
        $(#[$doc])*
        #[derive(Debug, Clone, Copy, PartialEq, Eq)]
        pub enum $name {
            $(#[doc = $label] $(#[$of])* $value,)+
        }

        impl $crate::controls::Choices for $name {
            const CHOICES: &'static [$crate::controls::Choice] =
                &[$($crate::controls::Choice { id: $id, label: $label },)+];
            const ALL: &'static [Self] = &[$(Self::$value,)+];

            fn id(self) -> &'static str {
                match self {
                    $(Self::$value => $id,)+
                }
            }
        }
    };
}

pub(crate) use choices;

#[cfg(test)]
mod tests {
    use super::*;

    choices! {
        /// For this test.
        pub enum Side {
            Left = "left", "On the left";
            Right = "right", "On the right";
        }
    }

    #[test]
    fn values_are_found_by_their_ids() {
        assert_eq!((Side::named("right"), Side::named("up")), (Some(Side::Right), None));
        assert!(Side::ALL.iter().all(|side| Side::named(side.id()) == Some(*side)));
        assert_eq!(Side::CHOICES[0].label, "On the left");
    }
}
