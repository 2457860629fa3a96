//! Work in shares of which each has memory of its own: on threads of the host's where the feature `threads` is on, one after the other
//! where it is off, and the same comes of it.

/// Runs `run` on each share.
pub(crate) fn each<T: Send>(shares: &mut [T], run: impl Fn(&mut T) + Send + Sync) {
    #[cfg(feature = "threads")]
    if shares.len() > 1 {
        use rayon::prelude::*;
        shares.par_iter_mut().with_max_len(1).for_each(run);
        return;
    }
    shares.iter_mut().for_each(run);
}

/// Makes each of `made` of the item of `source` at its place, in runs of `length`.
pub(crate) fn fill<S: Sync, T: Send>(
    made: &mut [T],
    source: &[S],
    length: usize,
    make: impl Fn(&S, &mut T) + Send + Sync,
) {
    let run = |(made, source): (&mut [T], &[S])| {
        made.iter_mut().zip(source).for_each(|(made, source)| make(source, made));
    };
    #[cfg(feature = "threads")]
    if made.len() > length {
        use rayon::prelude::*;
        made.par_chunks_mut(length).zip(source.par_chunks(length)).for_each(run);
        return;
    }
    made.chunks_mut(length).zip(source.chunks(length)).for_each(run);
}
