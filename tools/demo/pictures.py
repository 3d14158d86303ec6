"""``python -m demo.pictures``: the small pictures of the shipped scenes that the start page shows."""

import numpy as np
from PIL import Image

import wild_heron as wh
from wild_heron.demo import EXAMPLES
from wild_heron.gl.renderer import Renderer
from wild_heron.gl.request import FrameRequest, ThroughLens

SIZE = (160, 90)
_AT = 0.35
"""How far into the scene they are taken."""
_COLOURS = 128


def main() -> None:
    """Draw each anew."""
    renderer = Renderer()
    for example in EXAMPLES:
        scene = wh.load(example.scene)
        settings = scene.settings
        # Twice as large, cut to one shape.
        height = 2 * SIZE[1]
        width = max(round(height * settings.width / settings.height), 2 * SIZE[0])
        height = round(width * settings.height / settings.width)
        renderer.set_scene(scene, example.scene.parent)
        frame = round(settings.first + _AT * (settings.last - settings.first))
        drawn, _ = renderer.draw(FrameRequest(float(frame), ThroughLens(), width, height, fine=True))
        pixels = bytearray(width * height * 4)
        renderer.read_into(drawn, pixels)
        image = Image.fromarray(np.frombuffer(pixels, np.uint8).reshape(height, width, 4)[..., :3])
        left, top = (width - 2 * SIZE[0]) // 2, (height - 2 * SIZE[1]) // 2
        small = image.crop((left, top, left + 2 * SIZE[0], top + 2 * SIZE[1])).resize(SIZE, Image.Resampling.LANCZOS)
        example.picture.parent.mkdir(exist_ok=True)
        small.quantize(_COLOURS, dither=Image.Dither.FLOYDSTEINBERG).save(example.picture, optimize=True)


if __name__ == "__main__":
    main()
