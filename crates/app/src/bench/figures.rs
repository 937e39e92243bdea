//! Wall and processor time of work, and how they are told: as multiples of a plain decode and encode.

use std::ops::{Add, AddAssign};
use std::time::{Duration, Instant};

use cpu_time::ProcessTime;
use serde_json::{Value, json};

/// Time that work took.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, PartialOrd, Ord)]
pub struct Spent {
    /// Of the processor, all threads together: what counts.
    pub cpu: Duration,
    pub wall: Duration,
}

impl Spent {
    pub fn saturating_sub(self, other: Self) -> Self {
        Self { cpu: self.cpu.saturating_sub(other.cpu), wall: self.wall.saturating_sub(other.wall) }
    }
}

impl Add for Spent {
    type Output = Self;

    fn add(self, other: Self) -> Self {
        Self { cpu: self.cpu + other.cpu, wall: self.wall + other.wall }
    }
}

impl AddAssign for Spent {
    fn add_assign(&mut self, other: Self) {
        *self = *self + other;
    }
}

pub fn timed<T>(work: impl FnOnce() -> T) -> (T, Spent) {
    let (wall, cpu) = (Instant::now(), ProcessTime::now());
    let made = work();
    (made, Spent { cpu: cpu.elapsed(), wall: wall.elapsed() })
}

/// What was measured, in groups.
#[derive(Debug, Default)]
pub struct Figures {
    pub groups: Vec<(&'static str, Vec<(String, Spent)>)>,
}

impl Figures {
    pub fn add(&mut self, group: &'static str, figures: Vec<(String, Spent)>) {
        self.groups.push((group, figures));
    }

    /// A table for people. `plain` is the unit.
    pub fn print(&self, plain: Spent, pixels: f64) {
        for (group, figures) in &self.groups {
            println!("\n{group:<42} {:>9} {:>9} {:>9} {:>8}", "wall ms", "cpu ms", "ns/pixel", "x plain");
            for (name, spent) in figures {
                let [wall, cpu] = [spent.wall, spent.cpu].map(|t| t.as_secs_f64() * 1e3);
                let (per_pixel, of_plain) = (cpu * 1e6 / pixels, cpu / (plain.cpu.as_secs_f64() * 1e3));
                println!("{name:<42} {wall:>9.0} {cpu:>9.0} {per_pixel:>9.1} {of_plain:>8.2}");
            }
        }
    }

    /// The same for programs.
    pub fn json(&self, plain: Spent, pixels: f64) -> Value {
        let figure = |group: &str, (name, spent): &(String, Spent)| {
            let cpu = spent.cpu.as_secs_f64();
            json!({
                "group": group, "name": name, "wall_ms": spent.wall.as_secs_f64() * 1e3, "cpu_ms": cpu * 1e3,
                "ns_per_pixel": cpu * 1e9 / pixels, "of_plain": cpu / plain.cpu.as_secs_f64(),
            })
        };
        let all = self.groups.iter().flat_map(|(group, list)| list.iter().map(move |one| figure(group, one)));
        Value::Array(all.collect())
    }
}
