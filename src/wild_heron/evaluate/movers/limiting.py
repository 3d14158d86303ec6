"""Solvers of movers that clamp or hold a value: limits and steps."""

import numpy as np

from ...motion.movers.waves import limited
from ...scene.movers import Limiter, StepHold
from .followers import elsewhere_values, mixed_in
from .mover_case import MoverCase, Solvers, Values


def kept_inside(case: MoverCase, values: Values) -> Values:
    mover: Limiter = case.mover
    made = {name: limited(values[name], mover.low, mover.high, mover.soft) for name in case.names}
    return mixed_in(case, values, made)


def stepped(case: MoverCase, values: Values) -> Values:
    mover: StepHold = case.mover
    frames = mover.since + np.floor((case.there.frames - mover.since) / mover.every + 1e-9) * mover.every
    return mixed_in(case, values, elsewhere_values(case, frames, values))


SOLVERS: Solvers = {Limiter: kept_inside, StepHold: stepped}
