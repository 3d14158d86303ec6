"""What the reader process may do: read the program's own files and the fonts, and nothing else.

It opens no file of the user's (they are handed to it), writes none, starts no program and talks to nobody. Where the
kernel has Landlock (Linux 5.13) it holds that; Python's audit hooks say no in any case.
"""

import ctypes
import os
import resource
import signal
import struct
import sys
from pathlib import Path

MEMORY_BYTES = 1_600_000_000
OUTPUT_BYTES = 900_000_000

_PR_SET_NO_NEW_PRIVS = 38
_CREATE_RULESET, _ADD_RULE, _RESTRICT_SELF = 444, 445, 446  # The same numbers on every architecture.
_PATH_BENEATH = 1
_READ_FILE, _READ_DIR = 1 << 2, 1 << 3
_EVERY_FILE_RIGHT = {1: (1 << 13) - 1, 2: (1 << 14) - 1, 3: (1 << 15) - 1}
_EVERY_NET_RIGHT = 3
_REFUSED = (
    "subprocess.Popen", "os.exec", "os.posix_spawn", "os.system", "os.fork", "os.forkpty", "pty.spawn",
    "socket.connect", "socket.bind", "socket.sendto", "socket.getaddrinfo",
)  # fmt: skip


def limit_resources() -> None:
    """Bound the memory and what can be handed over, and leave no core file."""
    resource.setrlimit(resource.RLIMIT_DATA, (MEMORY_BYTES, MEMORY_BYTES))
    resource.setrlimit(resource.RLIMIT_FSIZE, (OUTPUT_BYTES, OUTPUT_BYTES))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    signal.signal(signal.SIGXFSZ, signal.SIG_IGN)


def confine() -> bool:
    """Give up every right that reading does not need; whether the kernel holds it."""

    def refuse(event: str, arguments: object) -> None:
        if event in _REFUSED:
            raise PermissionError(f"a reader may not do this ({event})")

    sys.addaudithook(refuse)
    try:
        return _landlock()
    except (OSError, AttributeError):
        return False


def _readable() -> list[Path]:
    home = Path.home()
    package = Path(__file__).resolve().parents[2]
    found = [package, Path(sys.prefix), Path(sys.base_prefix), Path(sys.executable).resolve().parent]
    found += [Path(each) for each in sys.path if each]
    found += [home / ".local/share/fonts", home / ".fonts", home / ".cache/fontconfig"]
    found += [Path(each) for each in ("/usr", "/lib", "/lib64", "/etc", "/proc", "/dev/null", "/dev/urandom", "/sys")]
    return [path for path in dict.fromkeys(found) if path.exists() and path != Path("/")]


def _landlock() -> bool:
    libc = ctypes.CDLL(None, use_errno=True)
    version = libc.syscall(_CREATE_RULESET, None, ctypes.c_size_t(0), ctypes.c_uint32(1))
    if version < 1:
        return False
    files = _EVERY_FILE_RIGHT.get(min(version, 3), _EVERY_FILE_RIGHT[3])
    rules = struct.pack("QQ", files, _EVERY_NET_RIGHT) if version >= 4 else struct.pack("Q", files)
    ruleset = libc.syscall(_CREATE_RULESET, rules, ctypes.c_size_t(len(rules)), ctypes.c_uint32(0))
    if ruleset < 0:
        return False
    for path in _readable():
        handle = os.open(path, os.O_PATH | os.O_CLOEXEC)
        rights = _READ_FILE | _READ_DIR if path.is_dir() else _READ_FILE
        libc.syscall(_ADD_RULE, ruleset, _PATH_BENEATH, struct.pack("=Qi", rights, handle), ctypes.c_uint32(0))
        os.close(handle)
    libc.prctl(_PR_SET_NO_NEW_PRIVS, 1, 0, 0, 0)
    held = libc.syscall(_RESTRICT_SELF, ruleset, ctypes.c_uint32(0)) == 0
    os.close(ruleset)
    return bool(held)
