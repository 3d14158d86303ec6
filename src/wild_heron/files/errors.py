"""``FileError``: one line that names the file, the place in it, and the remedy."""

from pathlib import Path


class FileError(Exception):
    """A file that cannot be read or written; the message is meant for the user."""

    def __init__(self, path: str | Path, what: str, remedy: str) -> None:
        self.path, self.what, self.remedy = Path(path), what, remedy
        super().__init__(f"{path}: {what} {remedy}".strip())


def why(error: OSError) -> str:
    """An operating system's error in plain words, as a sentence."""
    return f"{(error.strerror or str(error)).rstrip('.')}."
