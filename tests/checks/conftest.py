"""A renderer that draws what the checks look at, in this process."""

from collections.abc import Callable

import numpy as np
import pytest

import wild_heron as wh
from wild_heron.checks import Judged, Measures, judged
from wild_heron.checks.check_renders import looks_at, read_looks
from wild_heron.gl.renderer import Renderer
from wild_heron.process.checking import request_of

Check = Callable[..., Judged]


@pytest.fixture(scope="session")
def renderer() -> Renderer:
    return Renderer()


@pytest.fixture
def check(renderer: Renderer) -> Check:
    """Judge a scene with everything measured, pictures too (of every frame, or of those given)."""

    def checked(scene: wh.Scene, format: str | None = None, frames: list[int] | None = None) -> Judged:
        measures = Measures(scene)
        measures.measure(scene, np.arange(len(measures)))
        looks = looks_at(scene)
        renderer.set_scene(scene, None)
        for row in frames if frames is not None else range(len(measures)):
            pictures = []
            for look in looks:
                target, _ = renderer.draw(request_of(look, float(measures.frames[row])))
                data = bytearray(look.size[0] * look.size[1] * 4)
                renderer.read_into(target, data)
                pictures.append(np.frombuffer(data, np.uint8).reshape(look.size[1], look.size[0], 4))
            measures.put_picture(row, read_looks(scene, float(measures.frames[row]), looks, pictures))
        names = [each.name for each in measures.formats]
        return judged(scene, measures, names.index(format) if format else 0)

    return checked
