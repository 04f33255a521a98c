"""Kernels of the scene: the height field of the bottom, and its grid."""

import math

from numba import njit

from mudlamp.core.sonar._kernels_ground import ground_depth

LEDGE, CHANNEL, HUMP = 0, 1, 2


# So short that letting go of the interpreter for it would cost more than it gives.
@njit(cache=True)
def depth_at(
    px,
    py,
    depth_m,
    slope_east,
    slope_north,
    wave_amplitude,
    wave_east,
    wave_north,
    wave_phase,
    feature_kind,
    feature,
    survey_x,
    survey_y,
    survey_m,
    survey_depth,
    survey_kind,
):
    """Depth of the bottom: a plane, waves of relief, features (x, y, east and north of the unit bearing, change, width), and what was surveyed.

    A survey of one node is none; its kinds do not matter here, but travel with it.
    """
    depth = depth_m + slope_east * px + slope_north * py
    for k in range(wave_amplitude.shape[0]):
        depth += wave_amplitude[k] * math.sin(wave_east[k] * px + wave_north[k] * py + wave_phase[k])
    for k in range(feature_kind.shape[0]):
        dx = px - feature[k, 0]
        dy = py - feature[k, 1]
        along = (dx * feature[k, 2] + dy * feature[k, 3]) / feature[k, 5]
        if feature_kind[k] == LEDGE:
            depth += feature[k, 4] * 0.5 * (1.0 + math.tanh(along))
        elif feature_kind[k] == CHANNEL:
            depth += feature[k, 4] * math.exp(-along * along)
        else:
            depth += feature[k, 4] * math.exp(-(dx * dx + dy * dy) / (feature[k, 5] * feature[k, 5]))
    if survey_depth.shape[0] > 1:
        depth += ground_depth(px, py, survey_x, survey_y, survey_m, survey_depth)
    return max(depth, 0.2)


@njit(cache=True, nogil=True)
def fill_grid(
    west_m,
    south_m,
    step_m,
    depth_m,
    slope_east,
    slope_north,
    wave_amplitude,
    wave_east,
    wave_north,
    wave_phase,
    feature_kind,
    feature,
    survey_x,
    survey_y,
    survey_m,
    survey_depth,
    survey_kind,
    patch_kind,
    patch,
    depth,
    kind,
):
    """Write depth and kind of ground at the nodes of a (north, east) grid; patches are circles (x, y, radius) of another kind."""
    rows, columns = survey_kind.shape
    for iy in range(depth.shape[0]):
        py = south_m + iy * step_m
        for ix in range(depth.shape[1]):
            px = west_m + ix * step_m
            depth[iy, ix] = depth_at(
                px, py, depth_m, slope_east, slope_north, wave_amplitude, wave_east, wave_north, wave_phase, feature_kind, feature,
                survey_x, survey_y, survey_m, survey_depth, survey_kind,
            )  # fmt: skip
            if rows > 1:
                jx = min(max(int((px - survey_x) / survey_m + 0.5), 0), columns - 1)
                jy = min(max(int((py - survey_y) / survey_m + 0.5), 0), rows - 1)
                kind[iy, ix] = survey_kind[jy, jx]
            for k in range(patch_kind.shape[0]):
                dx = px - patch[k, 0]
                dy = py - patch[k, 1]
                if dx * dx + dy * dy < patch[k, 2] * patch[k, 2]:
                    kind[iy, ix] = patch_kind[k]


@njit(cache=True, nogil=True, fastmath=True)
def turned(x, y, z, amplitude, facing, stick, origin, out):
    """Write the amplitudes of cover's points as seen from a place: a surface shows its front alone, a stick is brightest seen square.

    A surface point's power goes by four times the square of the cosine to its normal, so that a round post keeps its mean; a stick's by
    the fourth power of the sine to its direction, over a tenth that twigs and bark send anywhere.
    """
    for i in range(out.shape[0]):
        fx, fy, fz = facing[i, 0], facing[i, 1], facing[i, 2]
        if fx == 0.0 and fy == 0.0 and fz == 0.0:
            out[i] = amplitude[i]
            continue
        dx, dy, dz = x[i] - origin[0], y[i] - origin[1], z[i] - origin[2]
        cosine = (fx * dx + fy * dy + fz * dz) / max(math.sqrt(dx * dx + dy * dy + dz * dz), 1e-6)
        if stick[i]:
            square = 1.0 - cosine * cosine
            out[i] = amplitude[i] * math.sqrt(0.1 + 0.9 * square * square)
        else:
            out[i] = amplitude[i] * 2.0 * max(-cosine, 0.0)
