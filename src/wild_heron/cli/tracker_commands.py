"""The stand-in for a hand-held tracker."""

from typing import Annotated

import typer

from ..files.errors import why
from .arguments import UsageError, app


@app.command()
def tracker(
    gesture: Annotated[str, typer.Option("--hand", help="What the hand does: walk, look or push.")] = "walk",
    seconds: Annotated[float, typer.Option("--seconds", help="How long it goes on.")] = 20.0,
    rate: Annotated[float, typer.Option("--rate", help="Messages a second, such as 60 or 90.")] = 90.0,
    seed: Annotated[int, typer.Option("--seed", help="Another seed, another hand.")] = 1,
    clean: Annotated[bool, typer.Option("--clean", help="Without jitter, lost messages and jumps.")] = False,
    repeat: Annotated[bool, typer.Option("--repeat", help="Begin again until it is interrupted.")] = False,
    to: Annotated[str, typer.Option("--to", help="HOST:PORT that listens.")] = "",
) -> None:
    """A stand-in for a hand-held tracker: sends what a made hand does, over OSC on this machine."""
    from ..tracker.hand import CLEAN, GESTURES, Flaws, tracked
    from ..tracker.messages import HOST, PORT
    from ..tracker.sending import send

    if gesture not in GESTURES:
        raise UsageError(f"--hand {gesture}: use {', '.join(GESTURES)}.")
    if not 0.1 <= seconds <= 7200.0:
        raise UsageError(f"--seconds {seconds:g}: use 0.1 to 7200.")
    if not 1.0 <= rate <= 1000.0:
        raise UsageError(f"--rate {rate:g}: use 1 to 1000.")
    if seed < 0:
        raise UsageError(f"--seed {seed}: use 0 or more.")
    host, _, port = (to or f"{HOST}:{PORT}").rpartition(":")
    if not host or not port.isdigit() or not 0 < int(port) < 65_536:
        raise UsageError(f"--to {to}: use HOST:PORT, such as {HOST}:{PORT}.")
    print(f"Sending to {host}:{port}, {rate:g} a second. Ctrl+C ends it.", flush=True)
    sent = 0
    while True:
        flaws = CLEAN if clean else Flaws()
        try:
            sent += send(tracked(gesture, seconds, rate, seed, flaws), (host, int(port)))
        except OSError as problem:
            raise UsageError(f"--to {host}:{port}: could not be reached: {why(problem)}") from problem
        if not repeat:
            break
        seed += 1
    print(f"{sent} messages sent.")
