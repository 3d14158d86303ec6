"""Puts the desktop entry, icon, file type, metainfo, manual and completions in place, or takes them away.

Uses nothing but the standard library, so that packagers can run it as a file: ``make install PREFIX= DESTDIR=``.
"""

import argparse
import os
import shutil
import subprocess
import sys
from pathlib import Path

HERE = Path(__file__).parent
ID = "org.wildheron.WildHeron"
PLACES = {
    f"{ID}.desktop": f"applications/{ID}.desktop",
    "wild-heron.svg": f"icons/hicolor/scalable/apps/{ID}.svg",
    f"{ID}.xml": f"mime/packages/{ID}.xml",
    f"{ID}.metainfo.xml": f"metainfo/{ID}.metainfo.xml",
    "wild-heron.1": "man/man1/wild-heron.1",
    "wild-heron.bash": "bash-completion/completions/wild-heron",
    "_wild-heron": "zsh/site-functions/_wild-heron",
    "wild-heron.fish": "fish/vendor_completions.d/wild-heron.fish",
}
"""Each file, and where it belongs under a folder of shared data."""
_REFRESHED = (
    ("update-desktop-database", "-q", "applications"),
    ("update-mime-database", "mime"),
    ("gtk-update-icon-cache", "-q", "-t", "-f", "icons/hicolor"),
)


def user_share() -> Path:
    """The folder of shared data of whoever runs this."""
    stated = os.environ.get("XDG_DATA_HOME", "")
    return Path(stated) if stated.startswith("/") else Path.home() / ".local" / "share"


def put(share: Path, command: str = "wild-heron") -> list[Path]:
    """Write every file under a folder of shared data; the desktop entry starts ``command``. OSError where it cannot."""
    written = []
    for name, place in PLACES.items():
        target = share / place
        target.parent.mkdir(parents=True, exist_ok=True)
        content = (HERE / name).read_bytes()
        if name.endswith(".desktop"):
            content = _starting(content.decode(), command).encode()
        fresh = target.with_name(target.name + ".new")
        fresh.write_bytes(content)
        fresh.chmod(0o644)
        os.replace(fresh, target)
        written.append(target)
    return written


def remove(share: Path) -> list[Path]:
    """Take away what ``put`` wrote; what else is there stays."""
    gone = []
    for place in PLACES.values():
        target = share / place
        if target.exists():
            target.unlink()
            gone.append(target)
    return gone


def refresh(share: Path) -> None:
    """Have the desktop's own tools, where they are installed, look at the folder again."""
    for tool, *arguments in _REFRESHED:
        if shutil.which(tool) and (share / arguments[-1]).is_dir():
            subprocess.run(
                [tool, *arguments[:-1], str(share / arguments[-1])], check=False, stdout=subprocess.DEVNULL,
                stderr=subprocess.DEVNULL,
            )  # fmt: skip


def _starting(entry: str, command: str) -> str:
    if command == "wild-heron":
        return entry
    quoted = f'"{command}"' if any(each in command for each in " \t'\"\\<>~|&;$*?#()`") else command
    lines = []
    for line in entry.splitlines():
        key, _, value = line.partition("=")
        if key == "Exec":
            line = f"Exec={quoted}{value.removeprefix('wild-heron')}"
        elif key == "TryExec":
            line = f"TryExec={command}"
        lines.append(line)
    return "\n".join(lines) + "\n"


def main(arguments: list[str]) -> int:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--prefix", default="/usr/local", help="where it is going to be used from")
    parser.add_argument("--destdir", default="", help="a folder that stands for / while a package is built")
    parser.add_argument("--remove", action="store_true", help="take everything away again")
    chosen = parser.parse_args(arguments)
    share = Path(chosen.destdir + os.path.abspath(chosen.prefix)) / "share"
    try:
        done = remove(share) if chosen.remove else put(share)
    except OSError as problem:
        print(f"error: {problem.filename}: {problem.strerror}. Choose another --prefix or --destdir.", file=sys.stderr)
        return 2
    if not chosen.destdir:
        refresh(share)
    for path in done:
        print(("removed " if chosen.remove else "") + str(path))
    return 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
