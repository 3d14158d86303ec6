"""Commands with hostile values, odd streams, and a folder that holds packages of our names."""

import os
import random
import signal
import subprocess
import sys
from pathlib import Path
from typing import Any

import wild_heron as wh

from .scenes import Failure

SECONDS = 20.0
_STATUSES = {0, 1, 2, -signal.SIGPIPE}
"""The last: who reads has enough."""
_VALUES: tuple[str | bytes, ...] = (
    "", "-", "--", "0", "-1", "1e400", "nan", "inf", "9" * 400, "1:2:0", "1:1e9:1e-9", "0x0", "99999999x99999999",
    "²x²", b"\xff\xfe", "a\x1b[31mb", "\x1b]0;title\x07", "x" * 5000, "/dev/zero", "/dev/full", "/proc/self/mem", ".",
    "pipe", "missing.heron", "scene.heron/", "../", "Cam", "cam", "Cam,Cam", "{{Param.Order}}", "a\tb", "film_####.png",
    "film.mp4", "out.glb", "out.usda", "out.otio", "out.csv", "out.json", "nowhere/out.mp4", "h264", "float", "nobody",
    "a\nb", "‮evil", "%s%n", "$(touch ran)", "`touch ran`",
)  # fmt: skip
_COMMANDS: tuple[tuple[str, ...], ...] = (
    ("sample", "scene.heron", "--frames", "1:3"),
    ("sample", "scene.heron", "--json", "--nodes", "Cam", "--frames", "2"),
    ("sample", "scene.heron", "--size", "64x36", "--format", "Wide"),
    ("check", "scene.heron", "--quiet"),
    ("check", "scene.heron", "--json"),
    ("render", "scene.heron", "-o", "frame_##.png", "--frames", "1:2", "--size", "32x18", "--quiet"),
    ("render", "scene.heron", "-o", "one.png", "--frames", "1", "--size", "32x18", "--workers", "1"),
    ("export", "scene.heron", "-o", "out.glb", "--nodes", "Cam", "--quiet"),
    ("export", "scene.heron", "-o", "out.csv", "--frames", "1:4", "--few-keys"),
    ("gather", "scene.heron", "-o", "gathered"),
    ("gather", "scene.heron", "-o", "gathered.zip"),
    ("job", "scene.heron", "-o", "bundle", "--name", "film.mp4", "--chunk", "4"),
    ("task", "draw", "order.json", "--scene", "scene.heron", "--output", "out", "--chunk", "1"),
    ("task", "join", "order.json", "--scene", "scene.heron", "--output", "out"),
    ("demo", "--where"),
    ("demo", "--copy", "copied"),
    ("completion", "bash"),
    ("tracker", "--seconds", "0.1", "--rate", "30", "--to", "127.0.0.1:9"),
    ("integrate", "--remove"),
    ("scene.heron",),
    ("--help",),
    ("sample", "--help"),
    ("--version",),
)
_RUN_MARK = "import os; open(os.environ['RAN'], 'a').write(__name__ + '\\n')\n"
_NAMES = ("wild_heron", "numpy", "msgspec", "PyQt6", "typer", "moderngl", "PIL", "platformdirs", "site", "runpy")


def hostile_folder(folder: Path) -> Path:
    """A folder with a scene, and packages that note where they were run; where they note it."""
    scene = wh.Scene(settings=wh.Settings(width=64, height=36, last=8))
    scene = wh.edits.add_node(scene, wh.Camera(id="cam", name="Cam"))
    card = wh.Picture(id="card", name="Card \x1b[31m", artwork=wh.Solid("#c08040"), width=900, height=900)
    scene = wh.edits.add_node(scene, card)
    scene = wh.edits.set_value(scene, "cam", "position.z", 10.0)
    folder.mkdir(parents=True, exist_ok=True)
    wh.save(scene, folder / "scene.heron")
    os.mkfifo(folder / "pipe")
    for name in _NAMES:
        (folder / name).mkdir()
        for part in ("__init__.py", "__main__.py"):
            (folder / name / part).write_text(_RUN_MARK)
    for part in ("sitecustomize.py", "usercustomize.py"):
        (folder / part).write_text(_RUN_MARK)
    for inner in ("render", "files/reader", "desk/sound"):
        (folder / "wild_heron" / inner).mkdir(parents=True)
        for part in ("__init__.py", "worker.py", "device.py"):
            (folder / "wild_heron" / inner / part).write_text(_RUN_MARK)
    return folder.parent / f"{folder.name}-ran.txt"


def fuzz_commands(count: int, seed: int, folder: Path) -> tuple[dict[str, int], list[Failure]]:
    """So many commands, each in the folder; how often what came of them, and what failed."""
    ran = hostile_folder(folder / "here")
    home = folder / "home"
    home.mkdir()
    environment = {name: value for name, value in os.environ.items() if not name.startswith(("DISPLAY", "WAYLAND"))}
    environment |= {f"XDG_{name}_HOME": str(home / name.lower()) for name in ("CONFIG", "DATA", "CACHE", "STATE")}
    environment |= {"HOME": str(home), "RAN": str(ran)}
    tally: dict[str, int] = {}
    failures: list[Failure] = []
    for k in range(count):
        rng = random.Random(f"{seed}/command/{k}")
        command = list(rng.choice(_COMMANDS))
        for _ in range(rng.choice((0, 0, 1, 1, 2))):
            value: Any = rng.choice(_VALUES)
            command[rng.randrange(len(command))] = value
        came, why = _run(command, rng, folder / "here", environment)
        tally[came] = tally.get(came, 0) + 1
        if not why and ran.exists():
            why = f"code of the folder ran: {ran.read_text().split()[:4]}"
            ran.unlink()
        if why:
            failures.append(Failure("command", k, f"{command}: {why}"))
    return tally, failures


def _run(command: list[Any], rng: random.Random, folder: Path, environment: dict[str, str]) -> tuple[str, str]:
    """What came of a command, and what is wrong with that."""
    out, err = (
        rng.choice(("pipe", "pipe", "closed", "full", "gone", "read")),
        rng.choice(("pipe", "pipe", "closed", "full")),
    )
    closed = [number for number, how in ((1, out), (2, err)) if how == "closed"]
    if rng.random() < 0.2:
        closed.append(0)
    streams: dict[str, Any] = {"stdin": subprocess.DEVNULL, "stdout": subprocess.PIPE, "stderr": subprocess.PIPE}
    opened: list[int] = []
    if out in ("full", "read"):
        opened.append(
            os.open("/dev/full" if out == "full" else "/dev/null", os.O_WRONLY if out == "full" else os.O_RDONLY)
        )
        streams["stdout"] = opened[-1]
    elif out == "gone":
        reads, writes = os.pipe()
        os.close(reads)
        opened.append(writes)
        streams["stdout"] = writes
    if err == "full":
        opened.append(os.open("/dev/full", os.O_WRONLY))
        streams["stderr"] = opened[-1]
    # Closed by a shell, since Python's own processes always have all three.
    shut = " ".join({0: "<&-", 1: ">&-", 2: "2>&-"}[number] for number in closed)
    launcher = [sys.executable, "-P", "-c", "from wild_heron.launch import main; main()"]
    words = ["/bin/sh", "-c", f'exec "$@" {shut}', "sh", *launcher, *command]
    encoded = [each if isinstance(each, bytes) else each.encode("utf-8", "surrogateescape") for each in words]
    encoded = [each.replace(b"\0", b"") for each in encoded]
    try:
        done = subprocess.run(encoded, cwd=folder, env=environment, timeout=SECONDS, **streams)
    except subprocess.TimeoutExpired:
        return "hung", f"took more than {SECONDS:.0f} s ({out}, {err}, {closed})"
    finally:
        for each in opened:
            os.close(each)
    said = (done.stderr or b"").decode(errors="replace")
    told = (done.stdout or b"").decode(errors="replace")
    how = f"({done.returncode}; out {out}, err {err}, closed {closed})"
    if "Traceback" in said or "made a mistake" in said:
        return "raw", f"{how} {said[-400:]}"
    if done.returncode not in _STATUSES:
        return "odd status", f"{how} {said[-300:]}"
    if "\x1b" in said + told:
        return "escapes", f"{how} steers the terminal"
    if done.returncode == 2 and err == "pipe" and 2 not in closed and not said.startswith("error: "):
        return "silent", f"{how} {said[-300:]!r}"
    return {0: "done", 1: "found something", 2: "refused"}.get(done.returncode, "done"), ""
