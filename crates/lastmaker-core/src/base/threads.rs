//! Threads, as many as there are to be had.

use rayon::{ThreadPool, ThreadPoolBuilder};

/// More threads than this bring nothing, and cost memory.
pub(crate) const MOST: usize = 256;

/// One thread for each processor that there is to be had.
pub fn processors() -> usize {
    std::thread::available_parallelism().map_or(1, usize::from)
}

/// Runs `work` with `jobs` threads, or as many as the system gives; with none of its own where it
/// gives none.
pub(crate) fn with_threads<T: Send>(jobs: usize, work: impl FnOnce() -> T + Send) -> T {
    let mut jobs = jobs.clamp(1, MOST);
    while jobs > 1 {
        if let Ok(pool) = ThreadPoolBuilder::new().num_threads(jobs).build() {
            return pool.install(work);
        }
        jobs /= 2;
    }
    match of_this_thread() {
        Some(pool) => pool.install(work),
        None => work(),
    }
}

/// A pool that is the present thread alone.
fn of_this_thread() -> Option<ThreadPool> {
    let builder = ThreadPoolBuilder::new().num_threads(1);
    builder.use_current_thread().build().ok()
}

/// Makes sure that work which is shared out can be done, also where the system gives no threads.
/// Whoever calls the core from a program of its own need not do so.
pub fn prepare() {
    // What is shared by all can be asked for only once, so that a pool of the same size is tried
    // first.
    let is_given = ThreadPoolBuilder::new().build().is_ok();
    let builder = if is_given {
        ThreadPoolBuilder::new()
    } else {
        ThreadPoolBuilder::new().num_threads(1).use_current_thread()
    };
    let _ = builder.build_global();
}
