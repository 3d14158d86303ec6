"""The command line: the window, and the same core without one."""

import contextlib
import os
import signal
import sys
import warnings
from typing import NoReturn

import typer

from ..files.errors import FileError, why
from ..files.sessions import clear_stale
from ..scene import SceneError
from . import doctor as doctor
from . import film_commands as film_commands
from . import import_commands as import_commands
from . import packaging_commands as packaging_commands
from . import tracker_commands as tracker_commands
from .arguments import Stopped, UsageError, app, printable
from .window_commands import COMMANDS

__all__ = ["app", "run_command"]


def run_command(arguments: list[str]) -> None:
    """Carry out a command; errors become one line on standard error and exit status 2."""
    try:
        for number in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
            signal.signal(number, _stop)
        _settle_streams()
        clear_stale()
        if arguments and not arguments[0].startswith("-") and arguments[0] not in COMMANDS:
            arguments = ["open", *arguments]
        status = app(arguments, standalone_mode=False)
        sys.stdout.flush()
        if status:
            sys.exit(status)
    except (FileError, SceneError, UsageError) as problem:
        _fail(str(problem))
    except typer.Exit as leave:
        sys.exit(leave.exit_code)
    except Stopped as stopped:
        print("\nStopped. Nothing was left behind.", file=sys.stderr)
        sys.exit(128 + stopped.number)
    except BrokenPipeError:
        # Whoever reads has enough.
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
    except OSError as problem:
        name = problem.filename or "standard output"
        _fail(f"{name}: could not be written or read: {why(problem)} Check the place, and that it is not full.")
    except UnicodeError as problem:
        text = problem.object if isinstance(problem, UnicodeEncodeError | UnicodeDecodeError) else ""
        _fail(f"“{text[:80]!s}”: is not text in UTF-8. Name it otherwise.")
    except MemoryError:
        _fail("there is not enough memory for this. Close other programs, or ask for less.")
    except Exception as problem:
        if hasattr(problem, "format_message"):
            _fail(f"{problem.format_message()} See wild-heron --help.")
        from ..process.messages import RenderError

        if isinstance(problem, RenderError):
            _fail(f"{problem}")
        _mistake(problem)


def _stop(number: int, frame: object) -> None:
    # Once is enough: what is cleared away now is not to be interrupted.
    for each in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
        signal.signal(each, signal.SIG_IGN)
    raise Stopped(number)


def _mistake(problem: Exception) -> NoReturn:
    """A mistake of ours: a line for who called, and everything that can be known of it in the log."""
    from ..log import log, log_folder, start_log

    start_log()
    log.error("unexpected", exc_info=problem)
    what = f"{type(problem).__name__}: {problem}"
    _fail(f"the program made a mistake ({what[:300]}). The log in {log_folder()} says where; please report it.")


def _settle_streams() -> None:
    """Terminals that know few letters get a stand-in for the others; warnings of libraries stay inside."""
    warnings.simplefilter("ignore")
    for stream in (sys.stdout, sys.stderr):
        if hasattr(stream, "reconfigure"):
            stream.reconfigure(errors="replace")


def _fail(message: str) -> NoReturn:
    with contextlib.suppress(OSError):
        print("error: " + printable(" ".join(message.split())), file=sys.stderr, flush=True)
    # What could not be written is not tried again on the way out.
    with contextlib.suppress(OSError, ValueError):
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
    sys.exit(2)
