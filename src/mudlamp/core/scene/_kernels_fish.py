"""Kernels of a fish that keeps to its place: it hangs or swims its round most of its life, at every step of the world."""

import math

import numpy as np
from numba import njit

# How fast a hanging fish sways about home along each axis [rad/s], how far [m], how hard it is pulled back [1/s], how fast at most [m/s].
SWAY_X, SWAY_Y, SWAY_Z = 0.35, 0.35 * 1.3, 0.35 * 0.8
SWAY_M, PULL_HZ, PULL_M_S = 0.02, 0.4, 0.05
# How quickly it answers [1/s], hanging and on its round.
HANGS_HZ, CRUISES_HZ = 2.0, 6.0
# A round is flatter than a circle, and rises and sinks a little [m], so fast [rad/s].
FLAT, RISE_M, RISE = 0.6, 0.15, 0.11
# How readily a fish that strayed from its round comes back [1/s].
BACK_HZ = 0.8
NOTHING_M = 1e-6


# All are so short that letting go of the interpreter for them would cost more than it gives.
@njit(cache=True)
def apart(place, other):
    """How far two places (3,) are from each other [m]."""
    x, y, z = place[0] - other[0], place[1] - other[1], place[2] - other[2]
    return math.sqrt(x * x + y * y + z * z)


@njit(cache=True)
def moved(place, velocity, dt_s, low, high):
    """A place (3,) after a step at a velocity (3,), its depth held between two limits [m]."""
    new = np.empty(3)
    new[0] = place[0] + velocity[0] * dt_s
    new[1] = place[1] + velocity[1] * dt_s
    new[2] = min(max(place[2] + velocity[2] * dt_s, low), high)
    return new


@njit(cache=True)
def hung(place, velocity, home, phase, time_s, dt_s):
    """The velocity (3,) of a fish that hangs at home (3,), swaying by phases (3,) of its own [rad]."""
    x = (home[0] + SWAY_M * math.sin(SWAY_X * time_s + phase[0]) - place[0]) * PULL_HZ
    y = (home[1] + SWAY_M * math.sin(SWAY_Y * time_s + phase[1]) - place[1]) * PULL_HZ
    z = (home[2] + SWAY_M * math.sin(SWAY_Z * time_s + phase[2]) - place[2]) * PULL_HZ
    slowed = min(1.0, PULL_M_S / max(math.sqrt(x * x + y * y + z * z), NOTHING_M))
    return leaned(velocity, x * slowed, y * slowed, z * slowed, HANGS_HZ * dt_s)


@njit(cache=True)
def cruised(place, velocity, home, round_m, turn, phase, pace, usual_m_s, time_s, dt_s):
    """The velocity (3,) of a fish at an angle of its round about home (3,) [rad], at a pace [m/s], which usually is `usual_m_s`."""
    sine, cosine = math.sin(turn), math.cos(turn)
    x = home[0] + round_m * sine - place[0]
    y = home[1] + round_m * FLAT * cosine - place[1]
    z = home[2] + RISE_M * math.sin(RISE * time_s + phase) - place[2]
    away = math.sqrt(x * x + y * y + z * z)
    back = min(2.0 * usual_m_s, BACK_HZ * away) / max(away, NOTHING_M)
    return leaned(velocity, pace * cosine + x * back, -FLAT * pace * sine + y * back, z * back, CRUISES_HZ * dt_s)


@njit(cache=True)
def leaned(velocity, x, y, z, share):
    """A velocity (3,) leaned toward another [m/s] by a share, all of it at most."""
    share = min(1.0, share)
    new = np.empty(3)
    new[0] = velocity[0] + (x - velocity[0]) * share
    new[1] = velocity[1] + (y - velocity[1]) * share
    new[2] = velocity[2] + (z - velocity[2]) * share
    return new
