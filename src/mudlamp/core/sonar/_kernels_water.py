"""Kernel of open water: how much of what each cell's water scatters is left by the ground and by what stands before it."""

import math

import numpy as np
from numba import njit

from mudlamp.core.sonar._kernels_ground import ground_depth

MARCH_M = 0.35
MOST_HITS = 24


@njit(cache=True, nogil=True)
def ground_range(origin, dx, dy, dz, farthest_m, grid_x, grid_y, grid_m, depth_grid):
    """Range at which a ray meets the ground [m]; beyond `farthest_m` where it does not, 0 where it begins in the ground."""
    before = 0.0
    over = ground_depth(origin[0], origin[1], grid_x, grid_y, grid_m, depth_grid) - origin[2]
    if over <= 0.0:
        return 0.0
    r = MARCH_M
    while r < farthest_m + MARCH_M:
        now = ground_depth(origin[0] + r * dx, origin[1] + r * dy, grid_x, grid_y, grid_m, depth_grid) - origin[2] - r * dz
        if now <= 0.0:
            return before + MARCH_M * over / max(over - now, 1e-9)
        before, over = r, now
        r += MARCH_M
    return 2.0 * farthest_m


@njit(cache=True, nogil=True)
def water_share(
    origin, center, edge, normal, beam_angle, phi, weight, each_phi, posts, has_ground, grid_x, grid_y, grid_m, depth_grid, bin_m, share
):
    """Write into `share` (range_bin, beam) what is left of the power that open water would scatter back, 0 to 1.

    Rays of each beam at `phi` across the fan carry a share `weight` each: a post on a ray takes its part of all that lies behind,
    the ground all of it. `each_phi`: each ray finds its own ground (a flat fan), else all of a beam that of its middle.
    """
    bins, beams = share.shape
    share[:] = 0.0
    farthest = bins * bin_m
    hit_range = np.empty(MOST_HITS)
    hit_keep = np.empty(MOST_HITS)
    for b in range(beams):
        ca, sa = math.cos(beam_angle[b]), math.sin(beam_angle[b])
        lx = ca * center[0] + sa * edge[0]
        ly = ca * center[1] + sa * edge[1]
        lz = ca * center[2] + sa * edge[2]
        end = 2.0 * farthest
        if has_ground and not each_phi:
            end = ground_range(origin, lx, ly, lz, farthest, grid_x, grid_y, grid_m, depth_grid)
        for p in range(phi.shape[0]):
            cp, sp = math.cos(phi[p]), math.sin(phi[p])
            dx, dy, dz = cp * lx + sp * normal[0], cp * ly + sp * normal[1], cp * lz + sp * normal[2]
            if has_ground and each_phi:
                end = ground_range(origin, dx, dy, dz, farthest, grid_x, grid_y, grid_m, depth_grid)
            hits = _hits(origin, dx, dy, dz, end, posts, hit_range, hit_keep)
            left = weight[p]
            share[0, b] += left
            for h in range(hits):
                at = int(hit_range[h] / bin_m)
                if at < bins:
                    share[at, b] -= left * (1.0 - hit_keep[h])
                left *= hit_keep[h]
            at = int(end / bin_m)
            if at < bins:
                share[at, b] -= left
    for b in range(beams):
        # What is left is none, but for rounding, where ground begins at the transducer.
        share[0, b] = max(share[0, b], 0.0)
    for k in range(1, bins):
        for b in range(beams):
            share[k, b] = max(share[k, b] + share[k - 1, b], 0.0)


@njit(cache=True, nogil=True)
def _hits(origin, dx, dy, dz, end, posts, hit_range, hit_keep):
    """Write where a ray meets posts, the nearest first, and how much power each leaves; return how many. A soft post takes its part midway."""
    flat = math.sqrt(dx * dx + dy * dy)
    if flat < 1e-6:
        return 0
    ux, uy = dx / flat, dy / flat
    count = 0
    for p in range(posts.shape[1]):
        px, py, radius = posts[0, p] - origin[0], posts[1, p] - origin[1], posts[2, p]
        off = px * uy - py * ux
        along = px * ux + py * uy
        if off > radius or off < -radius or along <= 0.0:
            continue
        half = math.sqrt(radius * radius - off * off)
        soft = posts[6, p] > 0.0
        r = (along if soft else along + half) / flat
        z = origin[2] + dz * along / flat
        if r <= 0.0 or r >= end or z < posts[3, p] or z > posts[4, p] or count >= hit_range.shape[0]:
            continue
        keep = math.exp(-4.0 * posts[6, p] * half) if soft else posts[5, p] * posts[5, p]
        # Sorted as they come: there are few.
        n = count
        while n > 0 and hit_range[n - 1] > r:
            hit_range[n] = hit_range[n - 1]
            hit_keep[n] = hit_keep[n - 1]
            n -= 1
        hit_range[n] = r
        hit_keep[n] = keep
        count += 1
    return count
