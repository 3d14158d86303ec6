"""Paint every picture, and make the model, of the demo scene into the shipped ``art``: ``python -m demo.painting [FOLDER]``."""

import sys
from collections.abc import Callable
from pathlib import Path

from wild_heron.demo import DEMO_SCENE

from .canvas import Canvas
from .cart import cart, wheel
from .emblem import emblem, emblem_glow
from .fair import kite, lantern_string, stalls, town
from .far import far_ridge, mist, moon, near_ridge, sky
from .lamp import Lamp
from .lane import market_lane
from .layered import Layered
from .near import crowd, grass

PICTURES: dict[str, Callable[[], Canvas | Layered | Lamp]] = {
    "sky.webp": sky,
    "moon.webp": moon,
    "far-ridge.webp": far_ridge,
    "near-ridge.webp": near_ridge,
    "town.ora": town,
    "mist.webp": mist,
    "emblem.svg": emblem,
    "emblem-glow.svg": emblem_glow,
    "stalls.webp": stalls,
    "lanterns-far.webp": lambda: lantern_string(31, 15, 150),
    "lanterns-near.webp": lambda: lantern_string(47, 11, 190),
    "kite.webp": kite,
    "cart.webp": cart,
    "wheel.webp": wheel,
    "crowd.webp": crowd,
    "grass.webp": grass,
    "market-lane.webp": market_lane,
    "street-lamp.glb": Lamp,
}


def main() -> None:
    folder = Path(sys.argv[1]) if len(sys.argv) > 1 else DEMO_SCENE.with_name("art")
    folder.mkdir(parents=True, exist_ok=True)
    for name, draw in PICTURES.items():
        draw().save(folder / name)
        print(f"{name:20} {(folder / name).stat().st_size / 1024:6.0f} KiB")


if __name__ == "__main__":
    main()
