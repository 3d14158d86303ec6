"""The demo scene: the opening of the Emberfold Lantern Fair, a paper theatre."""

from pathlib import Path

DEMO_SCENE = Path(__file__).with_name("lantern-fair.heron")
"""The shipped scene file; its artwork lies beside it in ``art``."""
