"""The ways a camera operator moves: pan, tilt, roll, truck, pedestal, dolly, zoom, and orbit about the aim."""

import math

import msgspec
import numpy as np

from ..arrays import Array
from .rotation import axis_quaternion, quaternion_to_matrix


class Moves(msgspec.Struct, frozen=True):
    """How far a camera was moved from a starting pose. Angles in degrees, distances in units, zoom as a factor.

    Positive is: pan left, tilt up, roll anticlockwise (as the angles count), truck right, pedestal up, dolly in,
    orbit to the right and over.
    """

    pan: float = 0.0
    tilt: float = 0.0
    roll: float = 0.0
    truck: float = 0.0
    pedestal: float = 0.0
    dolly: float = 0.0
    zoom: float = 1.0
    orbit: float = 0.0
    lift: float = 0.0

    def with_amount(self, name: str, amount: float) -> "Moves":
        return msgspec.structs.replace(self, **{name: amount})

    @property
    def is_none(self) -> bool:
        return self == Moves()


def moved_pose(pose: Array, aim: Array, moves: Moves) -> tuple[Array, Array]:
    """The camera's rigid world matrix (4, 4) and its aim (3,) after the moves.

    The orbit goes first, about the aim and world up; then the camera slides along its own axes (the aim stays);
    then it turns on the spot, which swings the aim about the lens. The pan is about world up, so a level camera
    stays level.
    """
    position, rotation = pose[:3, 3], pose[:3, :3]
    position, rotation = _orbited(position, rotation, aim, math.radians(moves.orbit), math.radians(moves.lift))
    position = position + rotation @ np.array([moves.truck, moves.pedestal, -moves.dolly])
    pan = _about(1, math.radians(moves.pan))
    tilt = _about(0, math.radians(moves.tilt))
    roll = _about(2, math.radians(moves.roll))
    turned = pan @ rotation @ tilt
    swing = turned @ rotation.T
    out = np.eye(4)
    out[:3, :3] = turned @ roll
    out[:3, 3] = position
    return out, position + swing @ (aim - position)


def _orbited(position: Array, rotation: Array, aim: Array, turn: float, lift: float) -> tuple[Array, Array]:
    if turn == 0.0 and lift == 0.0:
        return position, rotation
    spin = _about(1, turn)
    position, rotation = aim + spin @ (position - aim), spin @ rotation
    over = rotation @ _about(0, -lift) @ rotation.T
    return aim + over @ (position - aim), over @ rotation


def _about(axis: int, angle: float) -> Array:
    return quaternion_to_matrix(axis_quaternion(axis, np.array(angle)))
