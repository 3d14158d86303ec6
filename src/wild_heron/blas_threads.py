"""How many threads NumPy's linear algebra starts with, which has to be told before NumPy is loaded."""

from collections.abc import MutableMapping


def use_one_thread(environment: MutableMapping[str, str]) -> None:
    """Have it start none of its own, unless somebody said otherwise. Matrices here are small: threads that wait for
    large ones take processors from what is drawn, and a third of the time that NumPy takes to load."""
    for name in ("OPENBLAS_NUM_THREADS", "OMP_NUM_THREADS"):
        environment.setdefault(name, "1")
