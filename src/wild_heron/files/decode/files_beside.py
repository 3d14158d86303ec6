"""Which files lie beside a glTF file and belong to it."""

from urllib.parse import unquote

from .gltf.buffers import Buffers
from .source import Source

_MOST = 10_000


def files_beside(file: Source) -> list[str]:
    """Their names relative to it, of those in its folder or below."""
    buffers = Buffers(file)
    names = [str(item["uri"]) for what in ("buffers", "images") for item in buffers.items(what) if "uri" in item]
    plain = [unquote(name) for name in names[:_MOST] if ":" not in name]
    return [name for name in dict.fromkeys(plain) if name and not name.startswith("/") and ".." not in name.split("/")]
