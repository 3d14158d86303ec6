"""The ``wild-heron`` command. Opening the window is the common case and should be quick, so it goes straight there;
everything else is the command line's."""

import contextlib
import gc
import os
import signal
import sys
from pathlib import Path

from .blas_threads import use_one_thread


def _interrupted(number: int, frame: object) -> None:
    # Whoever reads standard error may be gone.
    with contextlib.suppress(OSError):
        os.write(2, b"\nStopped. Nothing was left behind.\n")
    os._exit(128 + number)


def _hold_streams() -> None:
    """Where a standard stream is closed, the next file that is opened would take its number, and what is said its
    words. What cannot be written is told as such."""
    for number, way in ((0, os.O_RDONLY), (1, os.O_RDONLY), (2, os.O_WRONLY)):
        try:
            os.fstat(number)
        except OSError:
            os.set_inheritable(os.open(os.devnull, way), True)
    if sys.stdout is None:
        sys.stdout = os.fdopen(1, "w", closefd=False)
    if sys.stderr is None:
        sys.stderr = os.fdopen(2, "w", closefd=False)


def _leave_out_here() -> None:
    """Look for modules in the folder that the program was started in only where it lies there itself: a folder from a
    stranger can hold a package of any name."""
    own = str(Path(__file__).parent.parent)
    with contextlib.suppress(OSError):
        if sys.path and sys.path[0] in ("", os.getcwd()) and sys.path[0] != own and os.getcwd() != own:
            del sys.path[0]


def main() -> None:
    # Until there is something to put in order.
    for number in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
        signal.signal(number, _interrupted)
    _hold_streams()
    _leave_out_here()
    use_one_thread(os.environ)
    from .desk import open_window

    arguments = sys.argv[1:]
    if not arguments:
        open_window(None)
    if arguments == ["demo"]:
        from .demo import DEMO_SCENE

        open_window(DEMO_SCENE, as_copy=True)
    if len(arguments) == 1 and arguments[0].endswith(".heron") and Path(arguments[0]).is_file():
        open_window(Path(arguments[0]))
    gc.disable()  # While modules load nothing is garbage.
    from .cli import run_command

    gc.freeze()
    gc.enable()
    run_command(arguments)


if __name__ == "__main__":
    main()
