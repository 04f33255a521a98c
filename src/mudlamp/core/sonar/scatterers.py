"""A reusable buffer of point scatterers, the only thing that the ping kernel sees of a scene."""

import numpy as np

from mudlamp.core.arrays import FloatArray

CAPACITY = 60_000
NOBODY = -1


class Scatterers:
    """Point scatterers in the world frame: position [m], amplitude (square root of backscattering cross-section [m]), phase [rad], owner.

    `owner` is a number of the object a scatterer belongs to (NOBODY: cover, bottom): the simulator's truth uses it, the ping does not.
    Before `first_object` they are cover and what drifts, of which there are many; from `first_ground` on they are the bottom's.
    """

    def __init__(self, capacity: int = CAPACITY) -> None:
        self.x = np.zeros(capacity)
        self.y = np.zeros(capacity)
        self.z = np.zeros(capacity)
        self.amplitude = np.zeros(capacity)
        self.phase = np.zeros(capacity)
        self.owner = np.full(capacity, NOBODY, dtype=np.int64)
        self.count = 0
        self.first_object = 0
        self.first_ground = capacity

    def clear(self) -> None:
        """Forget all scatterers."""
        self.count = 0
        self.first_object = 0
        self.first_ground = len(self.x)

    def add_all(self, other: "Scatterers", first: int, last: int) -> None:
        """Append the scatterers of another buffer from `first` to `last`; what does not fit is left out."""
        n = min(last - first, len(self.x) - self.count)
        to, source = slice(self.count, self.count + n), slice(first, first + n)
        for mine, its in (
            (self.x, other.x),
            (self.y, other.y),
            (self.z, other.z),
            (self.amplitude, other.amplitude),
            (self.phase, other.phase),
        ):
            mine[to] = its[source]
        self.owner[to] = other.owner[source]
        self.count += n

    def add(self, position_m: FloatArray, amplitude: FloatArray, phase_rad: FloatArray, owner: int) -> None:
        """Append (N, 3) positions with (N,) amplitudes and phases; what does not fit is left out."""
        n = min(len(position_m), len(self.x) - self.count)
        where = slice(self.count, self.count + n)
        self.x[where], self.y[where], self.z[where] = position_m[:n, 0], position_m[:n, 1], position_m[:n, 2]
        self.amplitude[where] = amplitude[:n]
        self.phase[where] = phase_rad[:n]
        self.owner[where] = owner
        self.count += n
