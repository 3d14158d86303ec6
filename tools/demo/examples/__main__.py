"""Paints and writes all of them."""

import wild_heron as wh
from wild_heron.demo import DEMO_SCENE

from .build import SCENES

if __name__ == "__main__":
    folder = DEMO_SCENE.with_name("examples")
    folder.mkdir(exist_ok=True)
    for name, build in SCENES.items():
        wh.save(build(folder), DEMO_SCENE.with_name(f"{name}.heron"))
