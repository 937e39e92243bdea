//! Common tones of silver prints: the baths that give them. Common practice of the darkroom, no source.

use super::settings::Toner;

/// A sequence of baths that has a name.
#[derive(Debug, Clone, Copy)]
pub struct Recipe {
    /// What the page says.
    pub id: &'static str,
    /// What people read.
    pub label: &'static str,
    /// Toner and time in per cent, in order.
    pub baths: &'static [(Toner, f64)],
}

/// What a bath that is added begins as.
pub const FIRST: (Toner, f64) = (Toner::Sepia, 50.0);

/// In the order of the bench.
pub const RECIPES: [Recipe; 5] = [
    Recipe { id: "sepia", label: "Sepia", baths: &[(Toner::Sepia, 100.0)] },
    Recipe { id: "selenium", label: "Selenium", baths: &[(Toner::Selenium, 80.0)] },
    Recipe { id: "crossed", label: "Sepia, selenium", baths: &[(Toner::Sepia, 35.0), (Toner::Selenium, 90.0)] },
    Recipe { id: "gold", label: "Gold", baths: &[(Toner::Gold, 90.0)] },
    Recipe { id: "none", label: "No tone", baths: &[] },
];
