"""A sheet of paper to draw on: SVG shapes, gradients and two paper filters, rasterised to a picture file."""

import io
from pathlib import Path

import resvg_py
from PIL import Image


def number(value: float) -> str:
    return f"{value:.1f}".rstrip("0").rstrip(".")


def points(*pairs: tuple[float, float]) -> str:
    return " ".join(f"{number(x)},{number(y)}" for x, y in pairs)


class Canvas:
    """SVG under construction. Coordinates are pixels from the top-left corner."""

    def __init__(self, width: int, height: int) -> None:
        self.width, self.height = width, height
        self._defs: list[str] = []
        self._body: list[str] = []
        self._names = 0

    def add(self, markup: str) -> None:
        self._body.append(markup)

    def define(self, markup: str) -> str:
        """Add a definition whose markup has ``{id}`` in it; returns a reference to it."""
        self._names += 1
        name = f"d{self._names}"
        self._defs.append(markup.replace("{id}", name))
        return f"url(#{name})"

    def fade(self, *stops: tuple[float, str, float], across: bool = False) -> str:
        """A linear gradient from the top (or the left): (place 0–1, colour, opacity) each."""
        end = 'x2="1" y2="0"' if across else 'x2="0" y2="1"'
        inner = "".join(f'<stop offset="{o}" stop-color="{c}" stop-opacity="{a}"/>' for o, c, a in stops)
        return self.define(f'<linearGradient id="{{id}}" x1="0" y1="0" {end}>{inner}</linearGradient>')

    def glow(self, *stops: tuple[float, str, float]) -> str:
        """A radial gradient from the middle out."""
        inner = "".join(f'<stop offset="{o}" stop-color="{c}" stop-opacity="{a}"/>' for o, c, a in stops)
        return self.define(f'<radialGradient id="{{id}}">{inner}</radialGradient>')

    def paper(self, rim: str, strength: float = 0.55, thickness: float = 3.0, seed: int = 1) -> str:
        """Cut paper: a lit upper edge and a fine grain."""
        return self.define(
            f'<filter id="{{id}}" x="0" y="0" width="1" height="1" color-interpolation-filters="sRGB">'
            f'<feTurbulence type="fractalNoise" baseFrequency="0.55" numOctaves="2" seed="{seed}" result="n"/>'
            '<feColorMatrix in="n" type="matrix" values="0 0 0 0 1  0 0 0 0 1  0 0 0 0 1  0.28 0 0 0 -0.085" result="g"/>'
            '<feComposite in="g" in2="SourceAlpha" operator="in" result="grain"/>'
            f'<feOffset in="SourceAlpha" dx="{thickness * 0.4}" dy="{thickness}" result="o"/>'
            '<feComposite in="SourceAlpha" in2="o" operator="out" result="edge"/>'
            f'<feGaussianBlur in="edge" stdDeviation="{thickness * 0.22}" result="soft"/>'
            '<feComposite in="soft" in2="SourceAlpha" operator="in" result="inside"/>'
            f'<feFlood flood-color="{rim}" flood-opacity="{strength}"/>'
            '<feComposite in2="inside" operator="in" result="lit"/>'
            '<feMerge><feMergeNode in="SourceGraphic"/><feMergeNode in="grain"/><feMergeNode in="lit"/></feMerge></filter>'
        )

    def blur(self, radius: float) -> str:
        return self.define(
            f'<filter id="{{id}}" x="-0.5" y="-0.5" width="2" height="2">'
            f'<feGaussianBlur stdDeviation="{radius}"/></filter>'
        )

    def svg(self) -> str:
        return (
            f'<svg xmlns="http://www.w3.org/2000/svg" width="{self.width}" height="{self.height}" '
            f'viewBox="0 0 {self.width} {self.height}"><defs>{"".join(self._defs)}</defs>{"".join(self._body)}</svg>'
        )

    def image(self) -> Image.Image:
        """The drawing as pixels."""
        return Image.open(io.BytesIO(bytes(resvg_py.svg_to_bytes(svg_string=self.svg(), skip_system_fonts=True))))

    def save(self, path: Path, quality: int = 84) -> None:
        """Rasterise to WebP, or write the SVG itself, by the file's ending."""
        if path.suffix == ".svg":
            path.write_text(self.svg() + "\n", encoding="utf-8")
            return
        image = self.image()
        image.save(path, quality=quality, alpha_quality=90, method=6)
