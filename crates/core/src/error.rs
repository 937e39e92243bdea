//! What can go wrong in the computation, with a sentence that a person can act on.
#![allow(missing_docs, reason = "an error says itself in its sentence")]

use thiserror::Error;

use crate::text::{shortened, shortened_to};

/// Most characters of an explanation, which may quote what came from outside.
const LONGEST: usize = 700;

#[derive(Debug, Error, Clone, PartialEq)]
pub enum CoreError {
    #[error("the render was abandoned because a newer one was asked for")]
    Abandoned,
    #[error("the render was not prepared as far as the print")]
    NotPrinted,
    #[error("the picture was not smoothed and framed as the development asks for")]
    NotFramed,
    #[error("the render threads could not be started: {why}")]
    Threads { why: String },
    #[error("there is no stock called '{}'", shortened(id))]
    UnknownStock { id: String },
    #[error("the stock file is not valid: {}", shortened_to(why, LONGEST))]
    StockFile { why: String },
    #[error("this is no table of a look: {}", shortened_to(why, LONGEST))]
    Look {
        /// What is wrong with it.
        why: String,
    },
    #[error("the preset is not valid: {}", shortened_to(why, LONGEST))]
    PresetFile { why: String },
    #[error("there is no control called '{}'", shortened(id))]
    UnknownControl { id: String },
    #[error("nothing called '{}' can be switched off", shortened(id))]
    UnknownLamp { id: String },
    #[error("{label} takes {wanted}; '{}' is not one", shortened(given))]
    NotAValue { label: &'static str, wanted: String, given: String },
    #[error("{label} goes from {low} to {high}{unit}; {given} lies outside")]
    OutOfRange { label: &'static str, low: f64, high: f64, unit: &'static str, given: f64 },
    #[error("mask '{}' {}", shortened(name), shortened_to(why, LONGEST))]
    Mask { name: String, why: String },
    #[error("{label} asks for mask '{}', which this frame does not have", shortened(id))]
    UnknownMask { label: String, id: String },
    #[error("the development is not valid: {}", shortened_to(why, LONGEST))]
    Development { why: String },
    #[error(
        "this development has version {found}; this Amber Grain reads up to version {known}. Use a newer Amber Grain"
    )]
    TooNew { found: u32, known: u32 },
    #[error(
        "the region {x},{y} of {width} x {height} does not lie inside the picture, which is {frame_width} x \
            {frame_height}"
    )]
    RegionOutside { x: u32, y: u32, width: u32, height: u32, frame_width: u32, frame_height: u32 },
}
