"""Shuts a process in before it reads a foreign file: it sees its own folder and the program, and nothing else.

Three fences, all by system calls that any user may make, on Linux: Landlock for files, TCP ports and signals
(`landlock(7)`, from kernel 5.13 on), a seccomp filter for sockets, other programs and other processes' memory
(`seccomp(2)`), and resource limits (`setrlimit(2)`). None can be lifted again by the process or its children.
"""

from __future__ import annotations

import ctypes
import os
import platform
import resource
import struct
import sys
import sysconfig
from collections.abc import Iterable
from pathlib import Path

LIBC = ctypes.CDLL(None, use_errno=True)
PR_SET_NO_NEW_PRIVS, PR_SET_SECCOMP, SECCOMP_MODE_FILTER = 38, 22, 2
CREATE_RULESET, ADD_RULE, RESTRICT_SELF = 444, 445, 446
"""Numbers of the Landlock calls, the same on every architecture."""
PATH_BENEATH = 1
EXECUTE, READ_FILE, READ_DIR = 1 << 0, 1 << 2, 1 << 3
WRITE = (1 << 1) | (1 << 4) | (1 << 5) | (1 << 7) | (1 << 8)
"""Write and remove files and folders, and make them; no links, pipes, sockets or devices."""
FILES_BY_VERSION = {1: 13, 2: 14, 3: 15, 4: 15, 5: 16}
"""Rights on files that a version of Landlock knows, as so many low bits; TRUNCATE came third, IOCTL_DEV fifth."""
TRUNCATE = 1 << 14
TCP, OUTSIDE = 0b11, 0b11
"""Binding and connecting; abstract sockets of, and signals to, those outside."""

AUDIT_ARCH = {"x86_64": 0xC000003E, "aarch64": 0xC00000B7}
DENIED = {
    "x86_64": {
        "socket": 41, "execve": 59, "execveat": 322, "ptrace": 101, "process_vm_readv": 310, "process_vm_writev": 311,
        "io_uring_setup": 425, "mount": 165, "unshare": 272, "setns": 308, "bpf": 321, "keyctl": 250, "add_key": 248,
        "perf_event_open": 298, "userfaultfd": 323, "open_by_handle_at": 304, "pidfd_getfd": 438,
    },
    "aarch64": {
        "socket": 198, "execve": 221, "execveat": 281, "ptrace": 117, "process_vm_readv": 270, "process_vm_writev": 271,
        "io_uring_setup": 425, "mount": 40, "unshare": 97, "setns": 268, "bpf": 280, "keyctl": 219, "add_key": 217,
        "perf_event_open": 241, "userfaultfd": 282, "open_by_handle_at": 265, "pidfd_getfd": 438,
    },
}  # fmt: skip
"""System calls that reading a file never needs."""
EPERM = 1
LARGEST_FILE = 16 * 2**30
MOST_FILES = 256


def landlock_version() -> int:
    """Version of the kernel's Landlock; 0 where it has none or it is switched off."""
    return max(0, int(LIBC.syscall(CREATE_RULESET, None, 0, 1)))


def what_is_missing() -> list[str]:
    """Words on the fences that this kernel does not have; empty when all stand."""
    missing = []
    if landlock_version() < 1:
        missing.append("The kernel has no Landlock: files being imported can read what their user can.")
    if platform.machine() not in DENIED:
        kind = platform.machine()
        missing.append(f"There is no seccomp filter for {kind}: files being imported can use the network.")
    return missing


def limit(memory: int, seconds: int) -> None:
    """Hold the process to so many bytes of address space and seconds of CPU time; no core dumps, no giant files."""
    for what, most in (
        (resource.RLIMIT_AS, memory),
        (resource.RLIMIT_CPU, seconds),
        (resource.RLIMIT_CORE, 0),
        (resource.RLIMIT_FSIZE, LARGEST_FILE),
        (resource.RLIMIT_NOFILE, MOST_FILES),
    ):
        resource.setrlimit(what, (most, most))


def confine(writable: Iterable[Path], readable: Iterable[Path] = ()) -> None:
    """Shut the process in: it may write below some folders, read below others, and read the program it runs.

    Raises OSError when a fence that the kernel has cannot be put up.
    """
    if LIBC.prctl(PR_SET_NO_NEW_PRIVS, 1, 0, 0, 0):
        raise OSError(ctypes.get_errno(), "no_new_privs")
    if version := landlock_version():
        _fence_files(version, list(writable), [*readable, *program_folders()])
    if platform.machine() in DENIED:
        _fence_calls(platform.machine())


def program_folders() -> list[Path]:
    """Where this program, Python and the system's libraries lie."""
    named = [sys.prefix, sys.base_prefix, sysconfig.get_path("stdlib"), str(Path(__file__).parents[2])]
    system = ["/usr", "/lib", "/lib64", "/etc/ld.so.cache", "/etc/localtime", "/dev/null", "/dev/urandom"]
    return [path for path in map(Path, dict.fromkeys([*named, *system])) if path.exists()]


def _fence_files(version: int, writable: list[Path], readable: list[Path]) -> None:
    known = (1 << FILES_BY_VERSION.get(version, 16)) - 1
    handled = struct.pack("<3Q", known, TCP if version >= 4 else 0, OUTSIDE if version >= 6 else 0)
    size = 24 if version >= 6 else 16 if version >= 4 else 8
    ruleset = LIBC.syscall(CREATE_RULESET, handled, size, 0)
    if ruleset < 0:
        raise OSError(ctypes.get_errno(), "landlock_create_ruleset")
    try:
        for path in readable:
            _allow(ruleset, path, READ_FILE | READ_DIR | EXECUTE)
        for path in writable:
            _allow(ruleset, path, (READ_FILE | READ_DIR | WRITE | TRUNCATE) & known)
        if LIBC.syscall(RESTRICT_SELF, ruleset, 0):
            raise OSError(ctypes.get_errno(), "landlock_restrict_self")
    finally:
        os.close(ruleset)


def _allow(ruleset: int, path: Path, rights: int) -> None:
    handle = os.open(path, os.O_PATH | os.O_CLOEXEC)
    try:
        if not path.is_dir():
            rights &= EXECUTE | READ_FILE | (1 << 1) | TRUNCATE
        if LIBC.syscall(ADD_RULE, ruleset, PATH_BENEATH, struct.pack("<Qi", rights, handle), 0):
            raise OSError(ctypes.get_errno(), f"landlock_add_rule for {path}")
    finally:
        os.close(handle)


class _Program(ctypes.Structure):
    _fields_ = [("length", ctypes.c_ushort), ("filter", ctypes.c_void_p)]


def _fence_calls(machine: str) -> None:
    """A classic BPF program (`seccomp(2)`): denied calls, and calls of a foreign architecture, fail with EPERM."""
    load, equal, at_least, answer = 0x20, 0x15, 0x35, 0x06
    allow, deny = 0x7FFF0000, 0x00050000 | EPERM
    # Each comparison that fits jumps over those that follow and over the allowing answer.
    compared = [(at_least, 0x40000000), *((equal, number) for number in DENIED[machine].values())]  # first: x32 calls
    rows = [(load, 0, 0, 4), (equal, 1, 0, AUDIT_ARCH[machine]), (answer, 0, 0, deny), (load, 0, 0, 0)]
    rows += [(code, len(compared) - k, 0, number) for k, (code, number) in enumerate(compared)]
    rows += [(answer, 0, 0, allow), (answer, 0, 0, deny)]
    code = ctypes.create_string_buffer(b"".join(struct.pack("<HBBI", *row) for row in rows))
    program = _Program(len(rows), ctypes.addressof(code))
    if LIBC.prctl(PR_SET_SECCOMP, SECCOMP_MODE_FILTER, ctypes.byref(program), 0, 0):
        raise OSError(ctypes.get_errno(), "seccomp")
