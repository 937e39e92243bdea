//! Measuring pictures: granularity, histograms.

pub mod granularity;
