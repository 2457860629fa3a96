//! Exact numbers convert, parse and compute as numbers do: held against whole-number arithmetic that has room for everything.

use hammerstone::{Fixed, NotExact};
use proptest::prelude::*;

const ONE: i128 = 10_000;

/// To the nearest, halves away from zero, within what fits.
fn nearest(part: i128, whole: i128) -> Fixed {
    let (size, by) = (part.abs(), whole.abs());
    let near = (size + by / 2) / by;
    let signed = if (part < 0) == (whole < 0) { near } else { -near };
    held(signed)
}

fn held(raw: i128) -> Fixed {
    Fixed::raw(raw.clamp(i64::MIN.into(), i64::MAX.into()) as i64)
}

fn raws() -> impl Strategy<Value = i64> {
    prop_oneof![any::<i64>(), -1_000_000i64..1_000_000, -9i64..9, Just(i64::MAX), Just(i64::MIN)]
}

proptest! {
    #![proptest_config(testkit::cases(2_000))]

    #[test]
    fn they_compute_like_numbers(a in raws(), b in raws()) {
        let (one, other) = (Fixed::raw(a), Fixed::raw(b));
        let (a, b) = (i128::from(a), i128::from(b));
        prop_assert_eq!(one + other, held(a + b));
        prop_assert_eq!(one - other, held(a - b));
        prop_assert_eq!(one * other, nearest(a * b, ONE));
        prop_assert_eq!(one / other, if b == 0 { Fixed::ZERO } else { nearest(a * ONE, b) });
        prop_assert_eq!(-one, held(-a));
        prop_assert_eq!(one.abs(), held(a.abs()));
        prop_assert_eq!(one < other, a < b);
        let mut changed = [one; 4];
        changed[0] += other;
        changed[1] -= other;
        changed[2] *= other;
        changed[3] /= other;
        prop_assert_eq!(changed, [one + other, one - other, one * other, one / other]);
        prop_assert_eq!([one, other, one].into_iter().sum::<Fixed>(), one + other + one);
    }

    #[test]
    fn they_come_back_from_how_they_are_written(raw in raws()) {
        let number = Fixed::raw(raw);
        prop_assert_eq!(number.to_string().parse(), Ok(number));
        let plus = format!("+{}", number.abs());
        prop_assert_eq!(plus.parse(), Ok(number.abs()));
    }

    #[test]
    fn they_come_back_from_double_precision(raw in -1_000_000_000_000_000i64..1_000_000_000_000_000) {
        let number = Fixed::raw(raw);
        prop_assert_eq!(Fixed::try_from(number.to_f64()), Ok(number));
    }

    #[test]
    fn whole_numbers_are_exact(signed in any::<i32>(), unsigned in any::<u32>()) {
        prop_assert_eq!(Fixed::from(signed), Fixed::whole(signed.into()));
        prop_assert_eq!(Fixed::from(unsigned).floor(), i64::from(unsigned));
        prop_assert_eq!(signed.to_string().parse(), Ok(Fixed::from(signed)));
    }

    /// Whatever is parsed, it is a number as it is written, or refused.
    #[test]
    fn nothing_else_is_a_number(text in "[-+0-9. e]{0,12}") {
        let read = text.parse::<Fixed>();
        let digits = text.strip_prefix(['-', '+']).unwrap_or(&text);
        let (whole, part) = digits.split_once('.').unwrap_or((digits, "0"));
        let plain = |text: &str| !text.is_empty() && text.chars().all(|c| c.is_ascii_digit());
        prop_assert_eq!(read.is_ok(), plain(whole) && plain(part) && part.len() <= 4, "{:?}", text);
        if let Ok(number) = read {
            prop_assert!((number.to_f64() - text.parse::<f64>().unwrap()).abs() < 1.0e-3);
        }
    }
}

#[test]
fn what_is_not_exact_is_refused() {
    for value in [f64::NAN, f64::INFINITY, 0.00001, 1.0e18, -1.0e18] {
        assert_eq!(Fixed::try_from(value), Err(NotExact), "{value}");
    }
    for text in [
        "",
        "-",
        ".",
        "1.",
        ".5",
        "1.00001",
        "1e3",
        " 1",
        "1,5",
        "922337203685477.5808",
        "99999999999999999999999999999999999999999",
    ] {
        assert_eq!(text.parse::<Fixed>(), Err(NotExact), "{text}");
    }
    assert_eq!("922337203685477.5807".parse(), Ok(Fixed::MAX));
    assert_eq!("-922337203685477.5808".parse(), Ok(Fixed::MIN));
    assert_eq!(Fixed::ONE / Fixed::ZERO, Fixed::ZERO);
}
