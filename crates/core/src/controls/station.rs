//! The stations by name, as controls and pages call them.

use serde::Serialize;

/// A station of the process line.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize)]
#[serde(rename_all = "lowercase")]
pub enum Station {
    /// The light that reaches the camera.
    Scene,
    /// What the camera's optics do to it.
    Lens,
    /// Light becomes density.
    Film,
    /// Development.
    Bath,
    /// Density becomes something to look at.
    Print,
    /// What the picture's colour is made of.
    Tone,
    /// What time does to it.
    Years,
    /// What lies on it.
    Surface,
}

impl Station {
    /// All, in the order of the light's way.
    pub const ALL: [Station; 8] =
        [Self::Scene, Self::Lens, Self::Film, Self::Bath, Self::Print, Self::Tone, Self::Years, Self::Surface];

    /// Place on the line, from 1.
    pub fn number(self) -> usize {
        self as usize + 1
    }

    /// What documents say.
    pub fn id(self) -> &'static str {
        match self {
            Self::Scene => "scene",
            Self::Lens => "lens",
            Self::Film => "film",
            Self::Bath => "bath",
            Self::Print => "print",
            Self::Tone => "tone",
            Self::Years => "years",
            Self::Surface => "surface",
        }
    }

    /// What people read.
    pub fn name(self) -> &'static str {
        match self {
            Self::Scene => "Scene",
            Self::Lens => "Lens",
            Self::Film => "Film",
            Self::Bath => "Bath",
            Self::Print => "Print",
            Self::Tone => "Tone",
            Self::Years => "Years",
            Self::Surface => "Surface",
        }
    }

    /// On which quantity of the picture it acts.
    pub fn acts_on(self) -> &'static str {
        match self {
            Self::Scene => "On the light of the scene, before any lens.",
            Self::Lens => "On the light on its way to the film.",
            Self::Film => "Between light and density: on the exposure of the layers, their curves, and their grain.",
            Self::Bath => "On the density of the layers, while they are developed.",
            Self::Print => "Between density and the picture that is looked at.",
            Self::Tone => "On what the image of the print is made of, and on its colours.",
            Self::Years => "On the finished print: its dyes, its silver, its base.",
            Self::Surface => "Where it came to lie: in the camera, on the negative, on the print, or over everything.",
        }
    }

    /// What the picture is while the station is off, in a sentence.
    pub fn without(self) -> &'static str {
        match self {
            Self::Scene => "The light is as the camera recorded it.",
            Self::Lens => "The lens is perfect; format and crop stay.",
            Self::Film => {
                "The film's curve is as straight as it can be; it has no grain, no halation, no effect between layers."
            }
            Self::Bath => "The film is developed evenly and for its own time, in its own chemistry.",
            Self::Print => "What can be scanned is seen as a flat scan; the rest is as the stock prints it.",
            Self::Tone => "The print has its own colour: no bath, no tint, no wash.",
            Self::Years => "The print is new.",
            Self::Surface => "Nothing lies on the picture, and it has no mount.",
        }
    }

    /// The station with an id.
    pub fn from_id(id: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|s| s.id() == id)
    }
}
