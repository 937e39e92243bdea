//! Ten thousand mutated files: `cargo test --release -p amber-files --test soak -- --ignored --nocapture`.

use amber_files::{Limits, Metadata, open, write};

/// A small deterministic generator (splitmix64: Steele, Lea, Flood 2014).
struct Chance(u64);

impl Chance {
    fn next(&mut self) -> u64 {
        self.0 = self.0.wrapping_add(0x9E37_79B9_7F4A_7C15);
        let mut z = self.0;
        z = (z ^ (z >> 30)).wrapping_mul(0xBF58_476D_1CE4_E5B9);
        z = (z ^ (z >> 27)).wrapping_mul(0x94D0_49BB_1331_11EB);
        z ^ (z >> 31)
    }

    fn below(&mut self, n: usize) -> usize {
        (self.next() % n.max(1) as u64) as usize
    }
}

/// Bytes set, flipped, cut out, doubled or cut off; numbers set to their ends.
fn mutated(bytes: &[u8], chance: &mut Chance) -> Vec<u8> {
    let mut out = bytes.to_vec();
    for _ in 0..1 + chance.below(6) {
        let at = chance.below(out.len());
        match chance.below(7) {
            0 => out[at] = chance.next() as u8,
            1 => out[at] ^= 1 << chance.below(8),
            2 => {
                let end = (at + 1 + chance.below(40)).min(out.len());
                out.drain(at..end);
            }
            3 => {
                let end = (at + 1 + chance.below(40)).min(out.len());
                let again = out[at..end].to_vec();
                out.splice(at..at, again);
            }
            4 => out.truncate(at.max(1)),
            5 => out[at..].iter_mut().take(4).for_each(|b| *b = 0xFF),
            // the heads of files decide most
            _ => {
                let head = chance.below(out.len().min(64));
                out[head] = chance.next() as u8;
            }
        }
        if out.is_empty() {
            out.push(0);
        }
    }
    out
}

fn peak_mib() -> f64 {
    let status = std::fs::read_to_string("/proc/self/status").unwrap_or_default();
    let line = status.lines().find(|l| l.starts_with("VmHWM")).unwrap_or("VmHWM: 0 kB");
    line.split_whitespace().nth(1).and_then(|v| v.parse::<f64>().ok()).unwrap_or(0.0) / 1024.0
}

#[test]
#[ignore = "a minute"]
fn mutated_files_get_a_picture_or_a_sentence() {
    let pixels: Vec<u8> = (0..64 * 48 * 3u32).map(|i| (i * 7 % 251) as u8).collect();
    let deep: Vec<u16> = pixels.iter().map(|v| u16::from(*v) * 257).collect();
    let mut jpeg = Vec::new();
    jpeg_encoder::Encoder::new(&mut jpeg, 85).encode(&pixels, 64, 48, jpeg_encoder::ColorType::Rgb).unwrap();
    let mut shallow = std::io::Cursor::new(Vec::new());
    let mut encoder = tiff::encoder::TiffEncoder::new(&mut shallow).unwrap();
    encoder.write_image::<tiff::encoder::colortype::RGB8>(64, 48, &pixels).unwrap();
    let png = write::png(&pixels, 64, 48).unwrap();
    let tiff = write::tiff_16_bit(&deep, 64, 48, &Metadata::default()).unwrap();
    let seeds = [jpeg, png, shallow.into_inner(), tiff];
    let mut chance = Chance(20_261_128);
    let (mut opened, mut refused) = (0, 0);
    for i in 0..10_000 {
        let file = mutated(&seeds[i % seeds.len()], &mut chance);
        match open(&file, Limits::default()) {
            Ok(_) => opened += 1,
            Err(e) => {
                let told = e.to_string();
                assert!(told.len() > 8 && told.len() < 400, "{told}");
                refused += 1;
            }
        }
    }
    println!("{opened} opened, {refused} refused, peak memory {:.0} MiB", peak_mib());
    assert!(peak_mib() < 1536.0);
}
