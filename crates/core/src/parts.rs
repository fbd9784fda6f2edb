//! Sums over very many on all threads.

use rayon::prelude::*;

/// Fewer than these are not worth a thread of their own.
const FEWEST: usize = 500;

/// Works on a list, of people for the most part, in about as many parts as there are threads, and gives what each part came to, in order.
/// What is worked out must not depend on how the list is parted.
pub(crate) fn in_parts<I: Sync, T: Send>(list: &[I], work: impl Fn(&[I]) -> T + Send + Sync) -> Vec<T> {
    let size = list.len().div_ceil(rayon::current_num_threads()).max(FEWEST);
    match list.len() {
        0 => Vec::new(),
        few if few <= size => vec![work(list)],
        _ => list.par_chunks(size).map(work).collect(),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn parts_are_the_list_in_its_order() {
        for length in [0, 1, FEWEST, FEWEST + 1, 10 * FEWEST + 7] {
            let list: Vec<usize> = (0..length).collect();
            let parts = in_parts(&list, |part| (part.len(), part.to_vec()));
            assert_eq!(parts.iter().flat_map(|(_, part)| part.clone()).collect::<Vec<_>>(), list);
            assert!(parts.iter().all(|(size, _)| *size > 0), "nobody works on nothing");
        }
    }
}
