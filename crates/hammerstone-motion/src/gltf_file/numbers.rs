//! The numbers behind the keys of a channel.

use gltf::accessor::{DataType, Dimensions};

use crate::skeleton::{Between, LONGEST, MOST_NUMBERS, MotionError, Track, sound};

/// Reads the numbers of a channel.
pub(super) struct Reader<'a> {
    pub(super) place: String,
    pub(super) buffers: &'a [Vec<u8>],
}

impl Reader<'_> {
    pub(super) fn wrong(&self, problem: String) -> MotionError {
        MotionError::new(self.place.clone(), problem)
    }

    pub(super) fn times(&self, accessor: &gltf::Accessor<'_>) -> Result<Vec<f64>, MotionError> {
        let mut budget = MOST_NUMBERS;
        let times: Vec<f64> =
            self.values::<1>(accessor, &mut budget)?.into_iter().map(|[time]| time).collect();
        if times.is_empty() {
            return Err(self.wrong("it has no keys; take it out".to_owned()));
        }
        if times.windows(2).any(|pair| pair[0] >= pair[1]) || times[0] < 0.0 {
            return Err(
                self.wrong("the times of its keys do not rise from 0; export the file again".to_owned())
            );
        }
        match times.last().filter(|&&last| last > LONGEST) {
            Some(last) => Err(self.wrong(format!("it lasts {last:.0} s; cut it to {LONGEST} s at most"))),
            None => Ok(times),
        }
    }

    pub(super) fn track<const N: usize>(&self, track: Track<N>) -> Result<Track<N>, MotionError> {
        let each = if track.between == Between::Cubic { 3 } else { 1 };
        if track.values.len() != track.times.len() * each {
            let (values, keys) = (track.values.len(), track.times.len());
            return Err(self.wrong(format!("it has {values} values for {keys} keys; export the file again")));
        }
        Ok(track)
    }

    /// The values of an accessor: numbers in single precision, or whole numbers that stand for -1 to 1.
    pub(super) fn values<const N: usize>(
        &self,
        accessor: &gltf::Accessor<'_>,
        budget: &mut usize,
    ) -> Result<Vec<[f64; N]>, MotionError> {
        let wanted = match N {
            1 => Dimensions::Scalar,
            3 => Dimensions::Vec3,
            _ => Dimensions::Vec4,
        };
        if accessor.dimensions() != wanted {
            return Err(
                self.wrong(format!("accessor {} does not hold {N} numbers for each key", accessor.index()))
            );
        }
        if accessor.sparse().is_some() {
            return Err(self.wrong(format!(
                "accessor {} is sparse, which is not read; export it in full",
                accessor.index()
            )));
        }
        let (width, whole): (usize, f64) = match accessor.data_type() {
            DataType::F32 => (4, 0.0),
            DataType::I8 => (1, 127.0),
            DataType::U8 => (1, 255.0),
            DataType::I16 => (2, 32767.0),
            DataType::U16 => (2, 65535.0),
            DataType::U32 => {
                return Err(
                    self.wrong(format!("accessor {} holds no numbers of this sort", accessor.index()))
                );
            }
        };
        let beyond = || {
            self.wrong(format!("accessor {} goes beyond its buffer; export the file again", accessor.index()))
        };
        let view = accessor
            .view()
            .ok_or_else(|| self.wrong(format!("accessor {} has no values", accessor.index())))?;
        let buffer = self.buffers.get(view.buffer().index()).ok_or_else(beyond)?;
        let end = view.offset().checked_add(view.length()).ok_or_else(beyond)?;
        let bytes = buffer
            .get(view.offset()..end)
            .and_then(|bytes| bytes.get(accessor.offset()..))
            .ok_or_else(beyond)?;
        let stride = view.stride().unwrap_or(width * N);
        let count = accessor.count();
        let last = count
            .checked_sub(1)
            .map(|last| last.checked_mul(stride).and_then(|at| at.checked_add(width * N)));
        if last.is_some_and(|long| long.is_none_or(|long| long > bytes.len())) || stride < width * N {
            return Err(beyond());
        }
        *budget = budget.checked_sub(count * N).ok_or_else(|| {
            self.wrong(format!("the animations have more than {MOST_NUMBERS} numbers; cut them"))
        })?;
        let mut values = Vec::with_capacity(count);
        for key in 0..count {
            let mut value = [0.0; N];
            for (i, value) in value.iter_mut().enumerate() {
                let number = &bytes[key * stride + i * width..][..width];
                let read = match (accessor.data_type(), number) {
                    (DataType::F32, &[a, b, c, d]) => f64::from(f32::from_le_bytes([a, b, c, d])),
                    (DataType::I8, &[a]) => (f64::from(a as i8) / whole).max(-1.0),
                    (DataType::U8, &[a]) => f64::from(a) / whole,
                    (DataType::I16, &[a, b]) => (f64::from(i16::from_le_bytes([a, b])) / whole).max(-1.0),
                    (DataType::U16, &[a, b]) => f64::from(u16::from_le_bytes([a, b])) / whole,
                    _ => f64::NAN,
                };
                if !sound(read) {
                    return Err(self.wrong(format!("key {} is not finite; export the file again", key + 1)));
                }
                *value = read;
            }
            values.push(value);
        }
        Ok(values)
    }
}
