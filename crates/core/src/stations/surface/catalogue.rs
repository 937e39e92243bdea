//! The kinds of sheet that are made here, and what each wants by itself.

use super::made::{self, Ask, Made};
use crate::colour::blend::Blend;
use crate::controls::{Choice, Choices, choices};

choices! {
    /// Where in the picture's history a sheet lies.
    pub enum Place {
        Own = "own", "Where it belongs";
        Camera = "camera", "In the camera";
        Negative = "negative", "On the negative";
        Print = "print", "On the print";
        Over = "over", "Over everything";
    }
}

choices! {
    /// What kinds have in common, as the board groups them.
    pub enum Family {
        Light = "light", "Light";
        Film = "film", "On film";
        Plate = "plate", "Plates and instant";
        Paper = "paper", "Papers";
        Wear = "wear", "Wear";
    }
}

/// What a kind's lengths are measured on.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Ruler {
    /// The film: micrometres are the film's.
    Film,
    /// A print whose long edge is [`PRINT_LONG_UM`].
    Print,
}

/// Long edge of the print on which papers and wear are measured.
pub const PRINT_LONG_UM: f64 = 240_000.0;

/// A kind of sheet.
pub struct Kind {
    /// What documents say.
    pub id: &'static str,
    /// What people read.
    pub label: &'static str,
    /// Its group on the board.
    pub family: Family,
    /// Where it lies when nobody says.
    pub place: Place,
    /// How it is laid on a picture when nobody says; what passes light multiplies by itself.
    pub blend: Blend,
    /// What its lengths are measured on.
    pub ruler: Ruler,
    /// It is an accident that leaves out what is kept clear.
    pub avoids: bool,
    /// What its amount does.
    pub amount: &'static str,
    /// What it is, in a sentence.
    pub help: &'static str,
    /// Makes it.
    pub make: fn(&Ask) -> Box<dyn Made>,
}

const LIGHT: Kind = Kind {
    id: "",
    label: "",
    family: Family::Light,
    place: Place::Camera,
    blend: Blend::Screen,
    ruler: Ruler::Film,
    avoids: false,
    amount: "how bright",
    help: "",
    make: made::leak_seam::make,
};

const MARK: Kind = Kind {
    family: Family::Film,
    place: Place::Negative,
    blend: Blend::Normal,
    avoids: true,
    amount: "how many",
    ..LIGHT
};

const PLATE: Kind = Kind { family: Family::Plate, place: Place::Print, amount: "how much", ..MARK };

const PAPER: Kind = Kind {
    family: Family::Paper,
    place: Place::Print,
    blend: Blend::HardLight,
    ruler: Ruler::Print,
    avoids: false,
    amount: "how rough",
    ..LIGHT
};

/// All kinds, family by family.
pub const KINDS: [Kind; 22] = [
    Kind {
        id: "leak-seam",
        label: "Seam leak",
        help: "Light through the seam of the camera's back, at a short side of the frame.",
        make: made::leak_seam::make,
        ..LIGHT
    },
    Kind {
        id: "leak-corner",
        label: "Corner leak",
        help: "A fan of light from a corner of the gate.",
        make: made::leak_corner::make,
        ..LIGHT
    },
    Kind {
        id: "leak-edge",
        label: "Edge leak",
        help: "Tongues of light along a long edge: a roll that was not wound tight.",
        make: made::leak_edge::make,
        ..LIGHT
    },
    Kind {
        id: "leak-holes",
        label: "Perforation leak",
        help: "A row of soft fans, one to a perforation, along one edge.",
        make: made::leak_holes::make,
        ..LIGHT
    },
    Kind {
        id: "burn",
        label: "Burnt end",
        amount: "how far it reaches",
        help: "The end of the roll, loaded in daylight: behind a soft front all is light.",
        make: made::burn::make,
        ..LIGHT
    },
    Kind {
        id: "dust",
        label: "Dust",
        help: "Specks of all sizes, most of them too small to be seen.",
        make: made::dust::make,
        ..MARK
    },
    Kind { id: "hairs", label: "Hairs", help: "Hairs and fibres: few, long, curled.", make: made::hairs::make, ..MARK },
    Kind {
        id: "scratches",
        label: "Transport scratches",
        help: "Along the film's way, broken by gaps; cut layers leave colour.",
        make: made::scratches::along,
        ..MARK
    },
    Kind {
        id: "scratches-any",
        label: "Handling scratches",
        help: "Fine, in any direction, in small families.",
        make: made::scratches::any_way,
        ..MARK
    },
    Kind {
        id: "fingerprint",
        label: "Fingerprint",
        amount: "how greasy",
        help: "Ridges half a millimetre apart, broken, pressed unevenly.",
        make: made::fingerprint::make,
        ..MARK
    },
    Kind {
        id: "lifted",
        label: "Lifted emulsion",
        amount: "how far in",
        help: "Flakes gone at the edges, with curled rims.",
        make: made::lifted::make,
        ..MARK
    },
    Kind {
        id: "plate-pour",
        label: "Pour edge",
        help: "Collodion poured and let off at a corner: a thick dark front, and swirls.",
        make: made::plate_pour::make,
        ..PLATE
    },
    Kind {
        id: "plate-comets",
        label: "Comets",
        amount: "how many",
        help: "Grains of dust in the collodion, each with its tail.",
        make: made::plate_comets::make,
        ..PLATE
    },
    Kind {
        id: "plate-peel",
        label: "Peeled corners",
        amount: "how far in",
        help: "The picture came off at the corners, and the corner it was held by is bare.",
        make: made::plate_peel::make,
        ..PLATE
    },
    Kind {
        id: "grunge",
        label: "Worn plate",
        blend: Blend::Lighten,
        help: "Stains, scuffs and spots on dark ground: what is light in it lightens.",
        make: made::grunge::make,
        ..PLATE
    },
    Kind {
        id: "rollers",
        label: "Roller marks",
        amount: "how much",
        help: "Bands of an instant camera's rollers, and developer missing at one end.",
        make: made::rollers::make,
        ..PLATE
    },
    Kind { id: "paper", label: "Paper grain", help: "Fibres that lie every way.", make: made::paper::grain, ..PAPER },
    Kind {
        id: "laid",
        label: "Laid paper",
        help: "Wire lines every 1.1 mm and the chains that hold them.",
        make: made::paper::laid,
        ..PAPER
    },
    Kind {
        id: "canvas",
        label: "Canvas",
        help: "Two sets of threads, over and under one another.",
        make: made::canvas::make,
        ..PAPER
    },
    Kind {
        id: "crumple",
        label: "Crumple",
        family: Family::Wear,
        amount: "how many folds",
        help: "Folds that end; along some of them the emulsion is broken.",
        make: made::crumple::make,
        ..PAPER
    },
    Kind {
        id: "crease",
        label: "Crease",
        family: Family::Wear,
        amount: "how broken",
        help: "One fold right across, or a corner; broken, with dirt in it.",
        make: made::crease::make,
        ..PAPER
    },
    Kind {
        id: "cup",
        label: "Stain of a cup",
        family: Family::Wear,
        blend: Blend::Multiply,
        avoids: true,
        amount: "how much was spilt",
        help: "A ring, its outer rim darkest, doubled and broken, with splashes.",
        make: made::cup::make,
        ..PAPER
    },
];

/// The kind with an id.
pub fn kind(id: &str) -> Option<&'static Kind> {
    KINDS.iter().find(|kind| kind.id == id)
}

/// What the control of a sheet offers; the first is no sheet.
pub const KIND_CHOICES: [Choice; KINDS.len() + 1] = {
    let mut list = [Choice { id: "", label: "None" }; KINDS.len() + 1];
    let mut i = 0;
    while i < KINDS.len() {
        list[i + 1] = Choice { id: KINDS[i].id, label: KINDS[i].label };
        i += 1;
    }
    list
};

impl Place {
    /// Whether what lies there lies on the film, all of it, and not on the framed picture.
    pub fn is_on_film(self) -> bool {
        matches!(self, Self::Camera | Self::Negative)
    }
}

impl Family {
    /// Its kinds in their order.
    pub fn kinds(self) -> impl Iterator<Item = &'static Kind> {
        KINDS.iter().filter(move |kind| kind.family == self)
    }

    /// What people read.
    pub fn label(self) -> &'static str {
        Self::CHOICES.iter().find(|choice| choice.id == self.id()).map_or("", |choice| choice.label)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn kinds_are_complete_and_named_once() {
        let mut ids = std::collections::BTreeSet::new();
        for kind in &KINDS {
            assert!(ids.insert(kind.id) && !kind.label.is_empty() && kind.help.ends_with('.'), "{}", kind.id);
            assert_ne!(kind.place, Place::Own, "{}", kind.id);
        }
        assert_eq!(Family::ALL.iter().flat_map(|f| f.kinds()).count(), KINDS.len());
    }
}
