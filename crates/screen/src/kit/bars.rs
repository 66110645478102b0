//! Bars to an eighth of a cell.

/// Eighths of a character cell, from nothing to all.
pub(crate) const EIGHTHS: [&str; 9] = [" ", "▁", "▂", "▃", "▄", "▅", "▆", "▇", "█"];
const LEFT_EIGHTHS: [&str; 9] = [" ", "▏", "▎", "▍", "▌", "▋", "▊", "▉", "█"];

/// A bar of `width` cells that is filled to a share of 0..1, to an eighth of a cell.
pub fn bar(share: f32, width: usize) -> String {
    let eighths = (share.clamp(0.0, 1.0) * (width * 8) as f32).round() as usize;
    (0..width).map(|cell| LEFT_EIGHTHS[eighths.saturating_sub(cell * 8).min(8)]).collect()
}

/// A line of bands, the loudest of those that share a cell.
pub(crate) fn spectrum_line(bands: &[f32], cells: usize) -> String {
    let per_cell = bands.len().div_ceil(cells.max(1));
    let height =
        |chunk: &[f32]| EIGHTHS[(chunk.iter().copied().fold(0.0, f32::max) * 8.0).round().clamp(0.0, 8.0) as usize];
    bands.chunks(per_cell).map(height).collect()
}
