"""Kinds of fish: how they sound and how they swim."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum
from functools import lru_cache

import numpy as np

from mudlamp.core.arrays import FloatArray
from mudlamp.core.reactions import Eye


class Species(StrEnum):
    """Fish that a scene may hold."""

    CRAPPIE = "crappie"
    LARGEMOUTH = "largemouth"
    BLUEGILL = "bluegill"
    CARP = "carp"
    DRUM = "drum"
    GAR = "gar"
    CATFISH = "catfish"


# How far each minds a lure.
EYES = {
    Species.CRAPPIE: Eye.PANFISH,
    Species.LARGEMOUTH: Eye.BASS,
    Species.BLUEGILL: Eye.PANFISH,
    Species.CARP: Eye.OTHER,
    Species.DRUM: Eye.OTHER,
    Species.GAR: Eye.OTHER,
    Species.CATFISH: Eye.OTHER,
}


class Gait(StrEnum):
    """How a kind moves along: a kick and a glide, a steady beat, or barely, hanging on its fins."""

    KICK = "kick"
    STEADY = "steady"
    HANG = "hang"


# Common practice: bass kick and glide, rough fish beat without a stop, crappie and bluegill hang.
GAITS = {
    Species.CRAPPIE: Gait.HANG,
    Species.LARGEMOUTH: Gait.KICK,
    Species.BLUEGILL: Gait.HANG,
    Species.CARP: Gait.STEADY,
    Species.DRUM: Gait.STEADY,
    Species.GAR: Gait.HANG,
    Species.CATFISH: Gait.STEADY,
}


@dataclass(frozen=True, slots=True, kw_only=True)
class Body:
    """How a kind sounds side-on: decibels over Love's dorsal regression, and the slenderness (width / length) of its bladder.

    `shares` are head, shoulder, flank and tail's shares of the side-on power, the bladder has the rest; `beat` is the tail's swing
    in lengths, `bladder_scale` how long its bladder is by that of a bass.
    """

    over_love_db: float
    bladder_slenderness: float
    shares: tuple[float, float, float, float] = (0.13, 0.09, 0.09, 0.07)
    beat: float = 0.10
    bladder_scale: float = 1.0


# Levels: Love A plus an offset, ours. Shares: common practice (crappie a disc without a tail; rough fish lit head to tail with a big tail).
BODIES = {
    Species.CRAPPIE: Body(over_love_db=4.0, bladder_slenderness=0.22, shares=(0.02, 0.01, 0.01, 0.01), bladder_scale=0.55),
    Species.LARGEMOUTH: Body(over_love_db=4.0, bladder_slenderness=0.20, shares=(0.14, 0.08, 0.08, 0.12), beat=0.12),
    Species.BLUEGILL: Body(over_love_db=2.0, bladder_slenderness=0.25, shares=(0.03, 0.01, 0.01, 0.01), beat=0.06, bladder_scale=0.6),
    Species.CARP: Body(over_love_db=2.0, bladder_slenderness=0.24, shares=(0.22, 0.15, 0.15, 0.22), beat=0.12),
    Species.DRUM: Body(over_love_db=2.0, bladder_slenderness=0.24, shares=(0.22, 0.15, 0.15, 0.24), beat=0.14),
    Species.GAR: Body(over_love_db=-3.0, bladder_slenderness=0.12, shares=(0.22, 0.17, 0.17, 0.16), beat=0.05, bladder_scale=1.6),
    Species.CATFISH: Body(over_love_db=-3.0, bladder_slenderness=0.30, shares=(0.22, 0.12, 0.12, 0.16)),
}

# A body as a line of scatterers: place along it (head +0.5, tail -0.5, in lengths).
BLADDER_PLACE = np.array([0.17, 0.10, 0.03, -0.05, -0.13])
BODY_PLACE = np.array([0.42, 0.27, -0.27, -0.46])
TAIL = 3
# The bladder never falls further than this under its broadside power, its ends being round; the other parts fall so far end-on (both within
# 8 to 15 dB, our assumption: docs/levels.md).
BLADDER_LEAST = 10.0 ** (-9.5 / 10.0)
PARTS_END_ON_DB = 12.0
# How much of the echo of flank and tail comes and goes with the beat (ours).
BEAT_DEPTH = 0.8
POSE_SPREAD_RAD = math.radians(10.0)
POSE_CLIP_RAD = math.radians(25.0)


def love_dorsal_db(*, length_m: float, carrier_hz: float) -> float:
    """Return the dorsal target strength of a fish [dB re 1 m^2]: 19.1 log L_cm - 0.9 log f_kHz - 62.0.

    Source: Love (1977), dorsal aspect; fits data of 1 to 100 wavelengths, taken beyond. Check values: tests/reference/targets.toml.
    """
    return 19.1 * math.log10(length_m * 100.0) - 0.9 * math.log10(carrier_hz / 1000.0) - 62.0


def side_target_strength_db(*, species: Species, length_m: float, carrier_hz: float) -> float:
    """Return the mean side-on target strength of a fish [dB re 1 m^2]: Love's regression plus the kind's offset (ours)."""
    return love_dorsal_db(length_m=length_m, carrier_hz=carrier_hz) + BODIES[species].over_love_db


def bladder_aspect(cos_aspect: FloatArray, slenderness: FloatArray | float) -> FloatArray:
    """Return the power of a prolate bladder relative to broadside, by the cosine between body axis and line of sight.

    Source: geometric limit of a prolate spheroid, (a b^2)^2 / (4 (a^2 cos^2 + b^2 sin^2)^2). Check values: tests/reference/targets.toml.
    """
    cos2 = np.asarray(cos_aspect) ** 2
    b2 = slenderness**2
    relative: FloatArray = (b2 / (cos2 + b2 * (1.0 - cos2))) ** 2
    return relative


def part_aspect(cos_aspect: FloatArray) -> FloatArray:
    """Return the power of head, flank and tail relative to broadside, by the cosine between body axis and line of sight: flat sides echo

    best square to the sound. Source: invented, PARTS_END_ON_DB at the end, in decibels by the cosine's square.
    """
    return np.asarray(10.0 ** (-PARTS_END_ON_DB / 10.0 * np.asarray(cos_aspect) ** 2), dtype=np.float64)


@lru_cache(maxsize=16)
def pose_mean(slenderness: float, bladder_share: float) -> float:
    """Return the mean relative power of a body over side-on poses (normal, 10 deg, cut at 25 deg), by which the mean level is kept."""
    off = np.linspace(-POSE_CLIP_RAD, POSE_CLIP_RAD, 2001)
    weight = np.exp(-0.5 * (off / POSE_SPREAD_RAD) ** 2)
    bladder = np.maximum(bladder_aspect(np.sin(off), slenderness), BLADDER_LEAST)
    power = bladder_share * bladder + (1.0 - bladder_share) * part_aspect(np.sin(off))
    return float(np.sum(power * weight) / np.sum(weight))


@dataclass(frozen=True, slots=True, kw_only=True)
class Bodies:
    """What of N fish does not change from ping to ping: length [m], slenderness, bladder's and other parts' powers [m^2], tail's swing,

    and where the scatterers lie along the body (N, 9) [m from its middle].
    """

    length_m: FloatArray
    slenderness: FloatArray
    bladder_power: FloatArray
    part_power: FloatArray
    beat: FloatArray
    along: FloatArray


def bodies_of(fish: Sequence[tuple[Species, float]], *, carrier_hz: float) -> Bodies:
    """Return the bodies of fish, given as kind and length [m], at a carrier [Hz]."""
    mean = [
        10.0 ** (side_target_strength_db(species=species, length_m=length_m, carrier_hz=carrier_hz) / 10.0)
        / pose_mean(BODIES[species].bladder_slenderness, 1.0 - sum(BODIES[species].shares))
        for species, length_m in fish
    ]
    shares = np.array([BODIES[species].shares for species, _ in fish]).reshape(-1, len(BODY_PLACE))
    power = np.array(mean)[:, None]
    return Bodies(
        length_m=np.array([length_m for _, length_m in fish]),
        slenderness=np.array([BODIES[species].bladder_slenderness for species, _ in fish]),
        bladder_power=(power * (1.0 - shares.sum(axis=1, keepdims=True)) / len(BLADDER_PLACE))[:, 0],
        part_power=power * shares,
        beat=np.array([BODIES[species].beat for species, _ in fish]),
        along=np.array(
            [np.concatenate((BODIES[species].bladder_scale * BLADDER_PLACE, BODY_PLACE)) * length_m for species, length_m in fish]
        ).reshape(-1, len(BLADDER_PLACE) + len(BODY_PLACE)),
    )


def bodies_scatterers(
    bodies: Bodies, *, position_m: FloatArray, axis: FloatArray, sideways: FloatArray, sight: FloatArray, tail_sway: FloatArray
) -> tuple[FloatArray, FloatArray]:
    """Return where the scatterers of N fish are and how strong, seen along lines of sight.

    Parameters
    ----------
    position_m, axis, sideways, sight : (N, 3) arrays
        Middles of the bodies [m]; unit vectors: tail to head, to the side, from transducer to fish.
    tail_sway : (N,) array
        Where the tail is in its beat, -1 to 1 (to its left and right); its flat side then turns, and its echo with it.

    Returns
    -------
    (N, 9, 3) and (N, 9) ndarrays of float64
        Positions [m] and amplitudes [m] (roots of backscattering cross-sections).
    """
    cos_aspect = np.sum(axis * sight, axis=1)
    aspect = np.maximum(bladder_aspect(cos_aspect, bodies.slenderness), BLADDER_LEAST)
    bladder = np.repeat((bodies.bladder_power * aspect)[:, None], len(BLADDER_PLACE), axis=1)
    parts = bodies.part_power * part_aspect(cos_aspect)[:, None]
    position = position_m[:, None, :] + bodies.along[:, :, None] * axis[:, None, :]
    position[:, len(BLADDER_PLACE) + TAIL] += (bodies.beat * bodies.length_m * tail_sway)[:, None] * sideways
    # The flat of flank and tail stands square in the middle of a beat and turns away at its ends; the mean over a beat stays.
    turn = 1.0 - BEAT_DEPTH * (2.0 * tail_sway**2 - 1.0)
    parts = parts * np.stack((np.ones_like(turn), np.ones_like(turn), turn, turn), axis=1)
    return position, np.sqrt(np.concatenate((bladder, parts), axis=1))
