//! How numbers print.

/// A decimal number with at most 12 significant digits, without an exponent.
pub fn decimal(number: f64) -> String {
    let rounded: f64 = format!("{number:.11e}").parse().unwrap_or(number);
    if rounded == 0.0 { "0".to_owned() } else { format!("{rounded}") }
}

/// `digits` decimals, halves away from zero.
pub(crate) fn rounded(number: f64, digits: u32) -> f64 {
    let factor = 10f64.powi(digits.min(15).cast_signed());
    let scaled = number * factor;
    // A decimal such as 1.005 is stored a little below what was written; 12 digits are what counts.
    let near: f64 = format!("{scaled:.11e}").parse().unwrap_or(scaled);
    if near.is_finite() { near.round() / factor } else { number }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn prints_twelve_digits() {
        for (number, text) in
            [(0.1 + 0.2, "0.3"), (1.0 / 3.0, "0.333333333333"), (2.50, "2.5"), (-0.0, "0"), (1e15, "1000000000000000")]
        {
            assert_eq!(decimal(number), text);
        }
        for (number, digits, text) in [(1.005, 2, "1.01"), (2.5, 0, "3"), (-2.5, 0, "-3"), (1.24, 1, "1.2")] {
            assert_eq!(decimal(rounded(number, digits)), text);
        }
    }
}
