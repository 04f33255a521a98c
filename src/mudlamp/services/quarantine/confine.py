"""Takes away from a process what it does not need to look at a file: memory, time, files, network, other users' rights.

Landlock: the kernel's own documentation of its system calls (landlock(7)); the numbers of the calls and bits are from its headers.
"""

import contextlib
import ctypes
import os
import resource
import struct

CREATE_RULESET, RESTRICT_SELF = 444, 446
VERSION_FLAG = 1
NO_NEW_PRIVILEGES = 38
NOBODY = 65_534
# How many kinds of access to files each version of Landlock knows, and from which it knows the network, and signals and sockets of others.
FILE_ACCESS_BITS = {1: 13, 2: 14, 3: 15, 4: 15}
NEWEST_FILE_ACCESS_BITS = 16
NETWORK_FROM, SCOPES_FROM = 4, 6


def limit_memory(more_bytes: int) -> None:
    """Allow this process so much more memory than it has."""
    with open("/proc/self/statm") as file:
        taken = int(file.read().split()[0]) * resource.getpagesize()
    resource.setrlimit(resource.RLIMIT_AS, (taken + more_bytes, taken + more_bytes))


def limit(*, memory_bytes: int, cpu_s: int) -> None:
    """Allow this process so much more memory than it has, so much processor time, and no new files or programs."""
    limit_memory(memory_bytes)
    for kind, most in (
        (resource.RLIMIT_CPU, cpu_s),
        (resource.RLIMIT_FSIZE, 0),
        (resource.RLIMIT_CORE, 0),
        (resource.RLIMIT_NPROC, 0),
    ):
        resource.setrlimit(kind, (most, most))


def landlock_version() -> int:
    """Return which Landlock the kernel has, 0 where it has none or it is switched off."""
    found: int = ctypes.CDLL(None, use_errno=True).syscall(CREATE_RULESET, None, 0, VERSION_FLAG)
    return max(0, found)


def shut_in() -> bool:
    """Give up other users' rights, and all access to files and the network by name; what is open stays open. Return whether the kernel holds us to it.

    Python's own modules must be imported before: nothing can be opened afterwards.
    """
    kernel = ctypes.CDLL(None, use_errno=True)
    kernel.prctl(NO_NEW_PRIVILEGES, 1, 0, 0, 0)
    version = landlock_version()
    held = False
    if version:
        files = (1 << FILE_ACCESS_BITS.get(version, NEWEST_FILE_ACCESS_BITS)) - 1
        attributes = struct.pack("Q", files)
        attributes += struct.pack("Q", 3) if version >= NETWORK_FROM else b""
        attributes += struct.pack("Q", 3) if version >= SCOPES_FROM else b""
        # No rule is added: nothing of what is handled is allowed.
        ruleset = kernel.syscall(CREATE_RULESET, attributes, len(attributes), 0)
        held = ruleset >= 0 and kernel.syscall(RESTRICT_SELF, ruleset, 0) == 0
        if ruleset >= 0:
            os.close(ruleset)
    # Without the right to change users there are no rights of others to give up.
    with contextlib.suppress(PermissionError):
        os.setgroups([])
        os.setresgid(NOBODY, NOBODY, NOBODY)
        os.setresuid(NOBODY, NOBODY, NOBODY)
    return held
