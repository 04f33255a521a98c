"""Kinds of fish: how they sound and how they swim."""

import math
from dataclasses import dataclass
from enum import StrEnum
from functools import lru_cache

import numpy as np

from mudlamp.core.arrays import FloatArray


class Species(StrEnum):
    """Fish that a scene may hold."""

    CRAPPIE = "crappie"
    LARGEMOUTH = "largemouth"
    BLUEGILL = "bluegill"
    CARP = "carp"
    DRUM = "drum"
    GAR = "gar"
    CATFISH = "catfish"


@dataclass(frozen=True, slots=True, kw_only=True)
class Body:
    """How a kind sounds side-on: decibels over Love's dorsal regression, and the slenderness (width / length) of its bladder.

    `shares` are head, shoulder, flank and tail's shares of the side-on power, the bladder has the rest; `beat` is the tail's swing
    in lengths.
    """

    over_love_db: float
    bladder_slenderness: float
    shares: tuple[float, float, float, float] = (0.13, 0.09, 0.09, 0.07)
    beat: float = 0.10


# Levels: Love A plus an offset, ours. Shares: common practice (crappie a disc without a tail; rough fish lit head to tail with a big tail).
BODIES = {
    Species.CRAPPIE: Body(over_love_db=4.0, bladder_slenderness=0.22),
    Species.LARGEMOUTH: Body(over_love_db=4.0, bladder_slenderness=0.20, shares=(0.17, 0.09, 0.09, 0.12), beat=0.12),
    Species.BLUEGILL: Body(over_love_db=2.0, bladder_slenderness=0.25, shares=(0.10, 0.08, 0.06, 0.03), beat=0.06),
    Species.CARP: Body(over_love_db=2.0, bladder_slenderness=0.24, shares=(0.20, 0.14, 0.14, 0.18), beat=0.12),
    Species.DRUM: Body(over_love_db=2.0, bladder_slenderness=0.24, shares=(0.16, 0.14, 0.14, 0.18), beat=0.14),
    Species.GAR: Body(over_love_db=-3.0, bladder_slenderness=0.12, shares=(0.18, 0.16, 0.16, 0.12), beat=0.05),
    Species.CATFISH: Body(over_love_db=-3.0, bladder_slenderness=0.30, shares=(0.18, 0.12, 0.10, 0.10)),
}

# A body as a line of scatterers: place along it (head +0.5, tail -0.5, in lengths).
BLADDER_PLACE = np.array([0.17, 0.10, 0.03, -0.05, -0.13])
BODY_PLACE = np.array([0.42, 0.27, -0.27, -0.46])
TAIL = 3
POSE_SPREAD_RAD = math.radians(10.0)
POSE_CLIP_RAD = math.radians(25.0)


def love_dorsal_db(*, length_m: float, carrier_hz: float) -> float:
    """Return the dorsal target strength of a fish [dB re 1 m^2]: 19.1 log L_cm - 0.9 log f_kHz - 62.0.

    Source: Love (1977), from memory. Check values: tests/reference/targets.toml.
    """
    return 19.1 * math.log10(length_m * 100.0) - 0.9 * math.log10(carrier_hz / 1000.0) - 62.0


def side_target_strength_db(*, species: Species, length_m: float, carrier_hz: float) -> float:
    """Return the mean side-on target strength of a fish [dB re 1 m^2]: Love's regression plus the kind's offset (ours)."""
    return love_dorsal_db(length_m=length_m, carrier_hz=carrier_hz) + BODIES[species].over_love_db


def bladder_aspect(cos_aspect: FloatArray, slenderness: float) -> FloatArray:
    """Return the power of a prolate bladder relative to broadside, by the cosine between body axis and line of sight.

    Source: geometric limit of a prolate spheroid, (a b^2)^2 / (4 (a^2 cos^2 + b^2 sin^2)^2). Check values: tests/reference/targets.toml.
    """
    cos2 = np.asarray(cos_aspect) ** 2
    b2 = slenderness**2
    return (b2 / (cos2 + b2 * (1.0 - cos2))) ** 2


@lru_cache(maxsize=16)
def pose_mean(slenderness: float, bladder_share: float) -> float:
    """Return the mean relative power of a body over side-on poses (normal, 10 deg, cut at 25 deg), by which the mean level is kept."""
    off = np.linspace(-POSE_CLIP_RAD, POSE_CLIP_RAD, 2001)
    weight = np.exp(-0.5 * (off / POSE_SPREAD_RAD) ** 2)
    power = bladder_share * bladder_aspect(np.sin(off), slenderness) + 1.0 - bladder_share
    return float(np.sum(power * weight) / np.sum(weight))


def body_scatterers(
    *,
    species: Species,
    length_m: float,
    position_m: FloatArray,
    axis: FloatArray,
    sideways: FloatArray,
    sight: FloatArray,
    carrier_hz: float,
    tail_phase_rad: float,
) -> tuple[FloatArray, FloatArray]:
    """Return where a fish's scatterers are and how strong, seen along a line of sight.

    Parameters
    ----------
    position_m, axis, sideways, sight : (3,) arrays
        Middle of the body [m]; unit vectors: tail to head, to its side, from transducer to fish.
    tail_phase_rad : float
        Phase of the tail beat, which swings the tail to each side.

    Returns
    -------
    (9, 3) and (9,) ndarrays of float64
        Positions [m] and amplitudes [m] (roots of backscattering cross-sections).
    """
    body = BODIES[species]
    bladder = 1.0 - sum(body.shares)
    mean_power = 10.0 ** (side_target_strength_db(species=species, length_m=length_m, carrier_hz=carrier_hz) / 10.0) / pose_mean(
        body.bladder_slenderness, bladder
    )
    aspect = float(bladder_aspect(np.dot(axis, sight), body.bladder_slenderness))
    share = np.concatenate((np.full(len(BLADDER_PLACE), bladder * aspect / len(BLADDER_PLACE)), body.shares))
    place = np.concatenate((BLADDER_PLACE, BODY_PLACE)) * length_m
    position = position_m + place[:, None] * axis
    position[len(BLADDER_PLACE) + TAIL] += body.beat * length_m * math.sin(tail_phase_rad) * sideways
    return position, np.sqrt(mean_power * share)
