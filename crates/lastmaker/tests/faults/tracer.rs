//! Runs the program and lets one of its calls that change the disk fail, or kills it there.

use std::collections::HashMap;
use std::os::unix::process::CommandExt;
use std::path::PathBuf;
use std::process::{Command, ExitStatus, Stdio};

use nix::errno::Errno;
use nix::sys::ptrace::{self, Options};
use nix::sys::signal::{Signal, kill};
use nix::sys::wait::{WaitPidFlag, WaitStatus, waitpid};
use nix::unistd::Pid;

/// What happens at a call.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Fault {
    /// The program is killed before it.
    Kill,
    /// Half of what is to be written is, and the program is killed; where nothing is written, it
    /// is killed right after the call.
    Torn,
    /// The call, and no other, fails with this.
    Once(Errno),
    /// This call and all later ones that take space fail with this.
    FromThenOn(Errno),
}

/// Calls that change the disk, and what of them takes space (`syscall_64.tbl`).
fn changes_disk(registers: &nix::libc::user_regs_struct) -> Option<bool> {
    use nix::libc;
    let takes_space = true;
    let creates = |flags: u64| flags & libc::O_CREAT as u64 != 0;
    Some(match registers.orig_rax as i64 {
        libc::SYS_write | libc::SYS_pwrite64 | libc::SYS_writev if registers.rdi > 2 => takes_space,
        libc::SYS_openat if creates(registers.rdx) => takes_space,
        libc::SYS_open if creates(registers.rsi) => takes_space,
        libc::SYS_mkdir | libc::SYS_mkdirat | libc::SYS_symlink | libc::SYS_symlinkat => {
            takes_space
        }
        libc::SYS_link | libc::SYS_linkat | libc::SYS_fsetxattr | libc::SYS_copy_file_range => {
            takes_space
        }
        libc::SYS_fsync | libc::SYS_fdatasync | libc::SYS_syncfs => !takes_space,
        libc::SYS_rename | libc::SYS_renameat | libc::SYS_renameat2 => !takes_space,
        libc::SYS_unlink | libc::SYS_unlinkat | libc::SYS_rmdir => !takes_space,
        libc::SYS_ftruncate | libc::SYS_flock | libc::SYS_utimensat => !takes_space,
        libc::SYS_chmod | libc::SYS_fchmod | libc::SYS_fchmodat => !takes_space,
        libc::SYS_chown | libc::SYS_fchown | libc::SYS_fchownat => !takes_space,
        _ => return None,
    })
}

/// How a run came out.
#[derive(Debug)]
pub(crate) struct Run {
    /// Its exit code; none if it was killed.
    pub(crate) code: Option<i32>,
    /// The calls that change the disk, in order.
    pub(crate) calls: Vec<Call>,
}

/// A call that changes the disk.
#[derive(Debug)]
pub(crate) struct Call {
    /// Its number.
    pub(crate) number: i64,
    /// What it is made on, as far as a descriptor says it: a file, or the folder of a name.
    pub(crate) on: PathBuf,
    /// The name in that folder, if it takes one.
    pub(crate) name: String,
}

impl Call {
    fn read(pid: Pid, registers: &nix::libc::user_regs_struct) -> Self {
        use nix::libc;
        let number = registers.orig_rax as i64;
        let descriptor = |fd: u64| {
            let link = format!("/proc/{pid}/fd/{}", fd as i32);
            std::fs::read_link(link).unwrap_or_default()
        };
        // The last name is the one that the call makes or takes away.
        let (on, name) = match number {
            libc::SYS_openat | libc::SYS_mkdirat | libc::SYS_unlinkat => {
                (descriptor(registers.rdi), text(pid, registers.rsi))
            }
            libc::SYS_renameat | libc::SYS_renameat2 | libc::SYS_linkat => {
                (descriptor(registers.rdx), text(pid, registers.r10))
            }
            libc::SYS_symlinkat => (descriptor(registers.rsi), text(pid, registers.rdx)),
            libc::SYS_mkdir | libc::SYS_rmdir | libc::SYS_unlink => {
                (PathBuf::new(), text(pid, registers.rdi))
            }
            libc::SYS_rename | libc::SYS_link => (PathBuf::new(), text(pid, registers.rsi)),
            _ => (descriptor(registers.rdi), String::new()),
        };
        Self { number, on, name }
    }

    /// Whether it makes durable what it is made on, a file's content or a folder's names.
    pub(crate) fn syncs(&self) -> bool {
        let syncs = [nix::libc::SYS_fsync, nix::libc::SYS_fdatasync];
        syncs.contains(&self.number)
    }

    /// The path that it makes or takes away, or is made on.
    pub(crate) fn path(&self) -> PathBuf {
        if self.name.is_empty() {
            self.on.clone()
        } else {
            self.on.join(&self.name)
        }
    }
}

/// The text at an address of a process.
fn text(pid: Pid, address: u64) -> String {
    use std::os::unix::fs::FileExt;
    let mut bytes = [0; 512];
    let memory = std::fs::File::open(format!("/proc/{pid}/mem"));
    let read = memory
        .and_then(|memory| memory.read_at(&mut bytes, address))
        .unwrap_or(0);
    let end = bytes[..read]
        .iter()
        .position(|byte| *byte == 0)
        .unwrap_or(0);
    String::from_utf8_lossy(&bytes[..end]).into_owned()
}

/// Runs the command. At the call `point` of those that change the disk, counted from 0, `fault`
/// happens.
#[expect(
    clippy::zombie_processes,
    reason = "the trace waits until it has ended"
)]
pub(crate) fn run(command: &mut Command, point: usize, fault: Option<Fault>) -> Run {
    command
        .stdin(Stdio::null())
        .stdout(Stdio::null())
        .stderr(Stdio::null());
    // A group of its own, so that its threads can be waited for and nobody else's children.
    command.process_group(0);
    trace_me(command);
    let child = command.spawn().expect("the program can be started");
    let pid = Pid::from_raw(child.id() as i32);
    let mut trace = Trace {
        pid,
        point,
        fault,
        calls: Vec::new(),
        inside: HashMap::new(),
    };
    trace.follow()
}

#[expect(
    unsafe_code,
    reason = "what a child does before it becomes the program cannot be checked"
)]
fn trace_me(command: &mut Command) {
    // SAFETY: the closure makes one system call and touches no memory of the parent.
    unsafe {
        command.pre_exec(|| ptrace::traceme().map_err(std::io::Error::from));
    }
}

/// What is to be done when a call that a thread is in comes back.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Then {
    Nothing,
    Kill,
    Fail(Errno),
}

struct Trace {
    pid: Pid,
    point: usize,
    fault: Option<Fault>,
    calls: Vec<Call>,
    /// The threads that are in a call.
    inside: HashMap<Pid, Then>,
}

impl Trace {
    fn follow(&mut self) -> Run {
        let first = waitpid(self.pid, None).expect("the child stops where it becomes the program");
        assert!(matches!(first, WaitStatus::Stopped(..)), "{first:?}");
        let options = Options::PTRACE_O_TRACESYSGOOD
            | Options::PTRACE_O_TRACECLONE
            | Options::PTRACE_O_EXITKILL;
        ptrace::setoptions(self.pid, options).expect("the child is stopped");
        ptrace::syscall(self.pid, None).expect("the child is stopped");
        loop {
            match waitpid(Pid::from_raw(-self.pid.as_raw()), Some(WaitPidFlag::__WALL)) {
                Ok(WaitStatus::Exited(pid, code)) if pid == self.pid => {
                    return self.ended(Some(code));
                }
                Ok(WaitStatus::Signaled(pid, ..)) if pid == self.pid => return self.ended(None),
                Ok(WaitStatus::PtraceSyscall(pid)) => {
                    self.at_call(pid);
                    let _ = ptrace::syscall(pid, None);
                }
                Ok(WaitStatus::Stopped(pid, signal)) => {
                    let own = [Signal::SIGSTOP, Signal::SIGTRAP].contains(&signal);
                    let _ = ptrace::syscall(pid, (!own).then_some(signal));
                }
                Ok(WaitStatus::PtraceEvent(pid, ..)) => {
                    let _ = ptrace::syscall(pid, None);
                }
                Ok(_) | Err(Errno::EINTR) => {}
                Err(Errno::ECHILD) => return self.ended(None),
                Err(error) => panic!("{error}"),
            }
        }
    }

    fn ended(&mut self, code: Option<i32>) -> Run {
        Run {
            code,
            calls: std::mem::take(&mut self.calls),
        }
    }

    fn at_call(&mut self, pid: Pid) {
        if let Some(then) = self.inside.remove(&pid) {
            self.leave(pid, then);
            return;
        }
        let then = self.enter(pid);
        self.inside.insert(pid, then);
    }

    fn enter(&mut self, pid: Pid) -> Then {
        let Ok(mut registers) = ptrace::getregs(pid) else {
            return Then::Nothing;
        };
        let Some(takes_space) = changes_disk(&registers) else {
            return Then::Nothing;
        };
        let number = self.calls.len();
        self.calls.push(Call::read(pid, &registers));
        let fault = match self.fault {
            Some(fault) if number == self.point => fault,
            Some(Fault::FromThenOn(error)) if number > self.point && takes_space => {
                Fault::Once(error)
            }
            _ => return Then::Nothing,
        };
        match fault {
            Fault::Kill => {
                let _ = kill(self.pid, Signal::SIGKILL);
                Then::Nothing
            }
            Fault::Torn => {
                let writes = [nix::libc::SYS_write, nix::libc::SYS_pwrite64];
                if writes.contains(&(registers.orig_rax as i64)) {
                    registers.rdx /= 2;
                    let _ = ptrace::setregs(pid, registers);
                }
                Then::Kill
            }
            Fault::Once(error) | Fault::FromThenOn(error) => {
                // No call has this number, so that nothing is done.
                registers.orig_rax = u64::MAX;
                let _ = ptrace::setregs(pid, registers);
                Then::Fail(error)
            }
        }
    }

    fn leave(&mut self, pid: Pid, then: Then) {
        match then {
            Then::Nothing => {}
            Then::Kill => {
                let _ = kill(self.pid, Signal::SIGKILL);
            }
            Then::Fail(error) => {
                if let Ok(mut registers) = ptrace::getregs(pid) {
                    registers.rax = -i64::from(error as i32) as u64;
                    let _ = ptrace::setregs(pid, registers);
                }
            }
        }
    }
}

/// The exit code of a run that nothing happens to.
pub(crate) fn plain(command: &mut Command) -> (ExitStatus, String) {
    let output = command
        .stdin(Stdio::null())
        .output()
        .expect("the program can be started");
    let told = [output.stdout, output.stderr].concat();
    (output.status, String::from_utf8_lossy(&told).into_owned())
}
