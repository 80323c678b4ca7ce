//! The program.

/// A run makes and drops many small strings in several threads.
#[global_allocator]
static ALLOCATOR: mimalloc::MiMalloc = mimalloc::MiMalloc;

fn main() -> std::process::ExitCode {
    lastmaker::run()
}
