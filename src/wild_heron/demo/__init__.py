"""The demo scene: the opening of the Emberfold Lantern Fair, a paper theatre."""

from pathlib import Path

DEMO_SCENE = Path(__file__).with_name("lantern-fair.heron")
"""The shipped scene file; its artwork lies beside it in ``art``."""

STUDY_SCENE = Path(__file__).with_name("ease-study.heron")
"""One move at the fair three times: flat, before it is shaped, and after."""
