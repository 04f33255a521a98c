"""Kernels of echoes that come late: by way of surface and bottom, a second time around, from the ping before."""

import math

import numpy as np
from numba import njit

from mudlamp.core.sonar._kernels_ground import mix


@njit(cache=True, nogil=True, fastmath=True)
def bounces(
    x, y, z, amplitude, phase, first, last, stride, origin, depth_m, ground_keeps, surface_keeps, upward_sent, least, farthest_m, count
):
    """Append the echoes of scatterers by way of bottom and surface, as scatterers that stand where they seem to; return the new count.

    Image method (flat bottom of the depth below the boat): with legs r1 and r2 the echo seems to come from (r1 + r2) / 2, along either
    leg, with amplitude a k / (r1 r2). Four ways: out direct and back by the bottom, the reverse, both by the bottom, out by the surface.
    With a stride above one, each scatterer taken stands for as many, and goes one of the ways in turn for all four: its amplitude is
    raised so that the powers add up. Under `least` (amplitude over R^2) none is made.
    """
    capacity = x.shape[0]
    for i in range(first, last, stride):
        a = amplitude[i] * (1.0 if stride == 1 else math.sqrt(4.0 * stride))
        dx = x[i] - origin[0]
        dy = y[i] - origin[1]
        dz = z[i] - origin[2]
        flat2 = dx * dx + dy * dy
        r1 = math.sqrt(flat2 + dz * dz)
        if r1 < 0.3 or a / (r1 * r1) < least or count + 4 > capacity:
            continue
        for way in range(4):
            if stride > 1 and way != (i // stride) % 4:
                continue
            # The bottom's image stands as deep under the bottom as the scatterer over it; the surface's as high over the surface.
            image = 2.0 * depth_m - z[i] - origin[2] if way < 3 else z[i] + origin[2]
            if way < 3 and z[i] > depth_m - 0.05:
                continue
            keeps = surface_keeps * upward_sent if way == 3 else ground_keeps
            r2 = math.sqrt(flat2 + image * image)
            level = a * keeps / (r1 * r2)
            reach = 0.5 * (r1 + r2)
            if way == 2:
                level *= keeps * r1 / r2
                reach = r2
            if level < least or reach > farthest_m:
                continue
            # It comes back along the image's leg, or straight.
            by_image = way == 1 or way == 2
            out = reach / (r2 if by_image else r1)
            x[count] = origin[0] + dx * out
            y[count] = origin[1] + dy * out
            z[count] = origin[2] + (image if by_image else dz) * out
            amplitude[count] = level * reach * reach
            phase[count] = phase[i]
            count += 1
    return count


@njit(cache=True, nogil=True, fastmath=True)
def second_echoes(
    x, y, z, amplitude, phase, first, last, origin, depth_m, aslant_keeps, straight_keeps, facet_slope, least, farthest_m, count
):
    """Append the bottom's echoes that come back by surface and bottom (one leg of three depths); return the new count.

    Two reciprocal paths of equal length arrive along one leg or the other; every second scatterer stands for two, and goes one of the
    paths for both. A bounce keeps `straight_keeps` straight down and `aslant_keeps` aslant: between them it goes by the share of the
    ground's facets (Gaussian, `facet_slope`) that stand square to the leg.
    """
    capacity = x.shape[0]
    for i in range(first, last, 2):
        dx = x[i] - origin[0]
        dy = y[i] - origin[1]
        dz = z[i] - origin[2]
        flat2 = dx * dx + dy * dy
        r1 = math.sqrt(flat2 + dz * dz)
        image = z[i] + 2.0 * depth_m - origin[2]
        r2 = math.sqrt(flat2 + image * image)
        mean = 0.5 * (r1 + r2)
        square = math.exp(-0.5 * flat2 / (image * image) / (facet_slope * facet_slope))
        seen = 2.0 * amplitude[i] * (aslant_keeps + (straight_keeps - aslant_keeps) * square) / (r1 * r2)
        if seen < 2.0 * least or mean > farthest_m or count + 1 > capacity:
            continue
        direct = (i // 2) % 2 == 0
        out = mean / (r1 if direct else r2)
        x[count] = origin[0] + dx * out
        y[count] = origin[1] + dy * out
        z[count] = origin[2] + (dz if direct else image) * out
        amplitude[count] = seen * mean * mean
        phase[count] = phase[i]
        count += 1
    return count


@njit(cache=True, nogil=True, fastmath=True)
def flicker(x, y, z, amplitude, phase, first, last, coherent, patch_m, ping, turn):
    """Let echoes that a moving surface passed on flicker: each gets a phase of its own, each patch of water a strength, anew every ping.

    A share `coherent` of the power stays as it is; the rest follows an exponential law from patch to patch (`patch_m`), as many waves'
    glints would, with its mean kept. `ping` and `turn` are what tells pings apart: whole numbers.
    """
    unit = 1.0 / 2097152.0
    bits = np.uint64(2097151)
    for i in range(first, last):
        h = mix(int(math.floor(x[i] / patch_m)) + 4096, int(math.floor(y[i] / patch_m)) * 8192 + int(math.floor(z[i] / patch_m)), turn)
        waves = -math.log(1.0 - (h & bits) * unit * 0.9999999)
        amplitude[i] *= math.sqrt(coherent + (1.0 - coherent) * waves)
        g = mix(i, ping, 77)
        phase[i] += (1.0 - coherent) * 2.0 * math.pi * (g & bits) * unit


@njit(cache=True, nogil=True, fastmath=True)
def fold_late(x, y, z, amplitude, phase, count, origin, interval_m, farthest_m, attenuation_db_m, wavenumber):
    """Draw echoes that come after the next ping has left at the range they seem to have: their own less `interval_m`."""
    for i in range(count):
        dx = x[i] - origin[0]
        dy = y[i] - origin[1]
        dz = z[i] - origin[2]
        r = math.sqrt(dx * dx + dy * dy + dz * dz)
        shown = r - interval_m
        if shown < 0.3 or shown > farthest_m:
            continue
        share = shown / r
        x[i] = origin[0] + dx * share
        y[i] = origin[1] + dy * share
        z[i] = origin[2] + dz * share
        amplitude[i] *= share * share * 10.0 ** (-2.0 * attenuation_db_m * interval_m / 20.0)
        phase[i] += 2.0 * wavenumber * interval_m
