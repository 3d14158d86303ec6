"""What goes over the system's clipboard: nodes from one window to another, and pictures from anywhere."""

import os
from pathlib import Path

from PyQt6.QtCore import QMimeData
from PyQt6.QtGui import QGuiApplication, QImage

from ...edits.transfer import put_in, taken_out
from ...files.artwork_files import rebase
from ...files.errors import FileError
from ...files.project import decode, encode
from ...scene import Scene, SceneError
from ..state.document import Document

NODES, KEYS = "application/x-wild-heron-nodes", "application/x-wild-heron-keys"
_MOST_BYTES = 64_000_000


def _clipboard_data() -> QMimeData | None:
    board = QGuiApplication.clipboard()
    return board.mimeData() if board is not None else None


def holds(kind: str) -> bool:
    data = _clipboard_data()
    return data is not None and data.hasFormat(kind)


def _put(kind: str, content: bytes) -> None:
    board = QGuiApplication.clipboard()
    if board is not None:
        data = QMimeData()
        data.setData(kind, content)
        board.setMimeData(data)


def note_keys() -> None:
    """Keys were copied: what else was on the clipboard is not what is pasted next."""
    _put(KEYS, b"keys")


def copy_nodes(document: Document, node_ids: tuple[str, ...]) -> int:
    """Copy nodes with what they carry; how many there are. SceneError where they cannot be told."""
    taken = rebase(taken_out(document.scene, node_ids), document.file.base, None)
    _put(NODES, encode(taken))
    return len(taken.nodes)


def paste_nodes(document: Document) -> bool:
    """Put copied nodes into the scene, as one step; whether there were any."""
    data = _clipboard_data()
    content = bytes(data.data(NODES).data()) if data is not None else b""
    if not content or len(content) > _MOST_BYTES:
        return False
    try:
        nodes = rebase(decode(content, "what was copied"), None, document.file.base).nodes
    except FileError as problem:
        document.messages.say(str(problem), True)
        return True
    added: tuple[str, ...] = ()

    def change(scene: Scene) -> Scene:
        nonlocal added
        scene, added = put_in(scene, nodes)
        return scene

    if document.edit("Paste nodes", change):
        document.selection.choose(added)
        document.messages.say(f"Pasted {len(added)} node{'' if len(added) == 1 else 's'}")
    return True


def pasted_files(document: Document) -> list[Path]:
    """Files that were copied in a file manager, or a picture, which is first saved beside the scene.

    SceneError where it cannot be saved.
    """
    data = _clipboard_data()
    if data is None:
        return []
    files = [Path(url.toLocalFile()) for url in data.urls() if url.isLocalFile()]
    if files or not data.hasImage():
        return files
    image = QImage(data.imageData())
    if image.isNull():
        return []
    if document.file.path is None:
        raise SceneError("Save the scene first: a pasted picture is kept beside it.")
    folder = document.file.path.parent
    number = 1
    while (path := folder / f"pasted-{number}.png").exists():
        number += 1
    if not os.access(folder, os.W_OK) or not image.save(str(path), "PNG"):
        raise SceneError(f"{path}: the pasted picture could not be saved. Check that you may write there.")
    return [path]
