"""Layered artwork written as OpenRaster (openraster.org, baseline 0.0.6)."""

import io
import zipfile
from pathlib import Path
from xml.sax.saxutils import quoteattr

from PIL import Image

from .canvas import Canvas

_TIME = (2026, 1, 1, 0, 0, 0)
_COLOURS = 128


class Layered:
    """Named canvases and groups of them, far to near, all of one size."""

    def __init__(self, width: int, height: int, layers: "tuple[tuple[str, Canvas | Layered], ...]") -> None:
        self.width, self.height, self.layers = width, height, layers

    def image(self) -> Image.Image:
        """Everything over each other."""
        whole = Image.new("RGBA", (self.width, self.height))
        for _, layer in self.layers:
            whole.alpha_composite(layer.image().convert("RGBA"))
        return whole

    def save(self, path: Path) -> None:
        pictures: list[tuple[str, Image.Image]] = []
        stack = self._stack(pictures)
        whole = self.image()
        small = whole.copy()
        small.thumbnail((256, 256))
        with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as archive:
            _write(archive, "mimetype", b"image/openraster", zipfile.ZIP_STORED)
            text = f'<?xml version=\'1.0\' encoding=\'UTF-8\'?>\n<image version="0.0.6" w="{self.width}" h="{self.height}">'
            _write(archive, "stack.xml", f"{text}{stack}</image>\n".encode())
            for name, image in (*pictures, ("Thumbnails/thumbnail.png", small), ("mergedimage.png", whole)):
                _write(archive, name, _png(image), zipfile.ZIP_STORED)

    def _stack(self, pictures: list[tuple[str, Image.Image]]) -> str:
        items = []
        for name, layer in self.layers:
            if isinstance(layer, Layered):
                items.append(layer._stack(pictures).replace("<stack", f"<stack name={quoteattr(name)}", 1))
                continue
            image = layer.image().convert("RGBA")
            box = image.getbbox() or (0, 0, 1, 1)
            source = f"data/{name.lower().replace(' ', '-')}.png"
            pictures.append((source, image.crop(box)))
            items.append(f'<layer name={quoteattr(name)} src="{source}" x="{box[0]}" y="{box[1]}"/>')
        # The nearest is listed first.
        return f"<stack>{''.join(reversed(items))}</stack>"


def _png(image: Image.Image) -> bytes:
    out = io.BytesIO()
    # Few colours keep painted paper small, and are not missed in it.
    image.quantize(_COLOURS, Image.Quantize.FASTOCTREE).save(out, "PNG", optimize=True)
    return out.getvalue()


def _write(archive: zipfile.ZipFile, name: str, data: bytes, how: int = zipfile.ZIP_DEFLATED) -> None:
    archive.writestr(zipfile.ZipInfo(name, _TIME), data, how)
