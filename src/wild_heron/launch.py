"""The ``wild-heron`` command. Opening the window is the common case and should be quick, so it goes straight there;
everything else is the command line's."""

import sys
from pathlib import Path

from .desk import open_window

_OTHER = ("sample", "render", "open", "--help", "--version")


def main() -> None:
    arguments = sys.argv[1:]
    if not arguments:
        open_window(None)
    if arguments == ["demo"]:
        from .demo import DEMO_SCENE

        open_window(DEMO_SCENE, as_copy=True)
    if len(arguments) == 1 and not arguments[0].startswith("-") and arguments[0] not in (*_OTHER, "demo"):
        open_window(Path(arguments[0]))
    from .cli import run_command

    run_command(arguments)


if __name__ == "__main__":
    main()
