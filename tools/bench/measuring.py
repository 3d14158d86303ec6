"""What measurements have in common: turns taken, marks, the table."""

import os
import platform
import statistics
import time
from collections.abc import Callable
from pathlib import Path

import moderngl
import numpy as np

ROWS: list[tuple[str, str, str, str, bool]] = []


def timed(work: Callable[[], object]) -> float:
    start = time.perf_counter()
    work()
    return time.perf_counter() - start


def paired(ours: Callable[[], object], theirs: Callable[[], object], runs: int) -> tuple[float, float]:
    """Medians of two jobs that take turns, so that both see the same machine."""
    ours(), theirs()
    a, b = [], []
    for _ in range(runs):
        a.append(timed(ours))
        b.append(timed(theirs))
    return statistics.median(a), statistics.median(b)


def report(what: str, ours: str, base: str, got: float, limit: float, unit: str = "×") -> None:
    ROWS.append((what, ours, base, f"{got:.2f} {unit} (≤ {limit:g})", got <= limit))
    print(
        f"{'ok  ' if got <= limit else 'MISS'}  {what}: {ours} against {base}: {got:.2f} {unit}, mark {limit:g}",
        flush=True,
    )


def ms(seconds: float) -> str:
    return f"{seconds * 1e3:.1f} ms" if seconds < 10 else f"{seconds:.1f} s"


def machine() -> str:
    name = next(
        (
            line.split(":", 1)[1].strip()
            for line in Path("/proc/cpuinfo").read_text().splitlines()
            if "model name" in line
        ),
        platform.processor(),
    )
    gl = moderngl.create_context(standalone=True, backend="egl").info
    versions = f"Python {platform.python_version()}, NumPy {np.__version__}"
    return f"{os.cpu_count()} cores of {name}; {gl['GL_RENDERER']}; {versions}"


def write(path: Path) -> None:
    lines = [
        "# Performance",
        "",
        'Made by `make bench ARGS="--write docs/performance.md"`. Ratios are of medians that take turns',
        "within one run; a mark that is missed is shown as missed.",
        "",
        f"Machine: {machine()}. There is no graphics card in it: OpenGL is drawn by the processor.",
        "",
        "| what | ours | compared with | result (mark) | |",
        "| --- | --- | --- | --- | --- |",
        *(f"| {a} | {b} | {c} | {d} | {'met' if ok else '**missed**'} |" for a, b, c, d, ok in ROWS),
        "",
    ]
    path.write_text("\n".join(lines), encoding="utf-8")
