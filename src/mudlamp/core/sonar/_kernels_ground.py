"""Kernels of the ground: the bottom laid out in cells, and what stands in the way of an echo."""

import math

import numpy as np
from numba import njit

# The way to a place is looked at every so often [m], so often at the most; ground so little too high [m] hides nothing.
LOOK_M = 0.35
MOST_LOOKS = 40
CLEARANCE_M = 0.05


@njit(cache=True, nogil=True)
def mix(a, b, c):
    """A 64-bit mix of a ground cell's indices and the seed (Stafford's variant 13 of the murmur finalizer, from memory)."""
    h = np.uint64(a) * np.uint64(0x9E3779B97F4A7C15) ^ np.uint64(b) * np.uint64(0xC2B2AE3D27D4EB4F) ^ np.uint64(c)
    h ^= h >> np.uint64(30)
    h *= np.uint64(0xBF58476D1CE4E5B9)
    h ^= h >> np.uint64(27)
    h *= np.uint64(0x94D049BB133111EB)
    h ^= h >> np.uint64(31)
    return h


@njit(cache=True, nogil=True)
def ground_depth(px, py, grid_x, grid_y, grid_m, depth_grid):
    """Depth of the ground at a place, between the nodes of its grid; beyond the grid that of its rim."""
    rows, columns = depth_grid.shape
    fx = min(max((px - grid_x) / grid_m, 0.0), columns - 1.001)
    fy = min(max((py - grid_y) / grid_m, 0.0), rows - 1.001)
    jx = int(fx)
    jy = int(fy)
    fx -= jx
    fy -= jy
    upper = depth_grid[jy, jx] * (1.0 - fx) + depth_grid[jy, jx + 1] * fx
    lower = depth_grid[jy + 1, jx] * (1.0 - fx) + depth_grid[jy + 1, jx + 1] * fx
    return upper * (1.0 - fy) + lower * fy


@njit(cache=True, nogil=True)
def is_behind(origin, dx, dy, dz, grid_x, grid_y, grid_m, depth_grid):
    """Whether ground stands between the transducer and what lies (dx, dy, dz) from it: the one test for bottom, fish, cover and truth."""
    steps = max(4, min(MOST_LOOKS, int(math.sqrt(dx * dx + dy * dy) / LOOK_M)))
    for n in range(1, steps):
        share = n / steps
        z = origin[2] + share * dz
        if z > ground_depth(origin[0] + share * dx, origin[1] + share * dy, grid_x, grid_y, grid_m, depth_grid) + CLEARANCE_M:
            return True
    return False


@njit(cache=True, nogil=True)
def hide(x, y, z, amplitude, first, last, origin, farthest_m, grid_x, grid_y, grid_m, depth_grid):
    """Silence the scatterers from `first` to `last` that ground stands before."""
    for i in range(first, last):
        dx = x[i] - origin[0]
        dy = y[i] - origin[1]
        dz = z[i] - origin[2]
        if dx * dx + dy * dy + dz * dz < farthest_m * farthest_m and is_behind(origin, dx, dy, dz, grid_x, grid_y, grid_m, depth_grid):
            amplitude[i] = 0.0


@njit(cache=True, nogil=True)
def backscatter(sin_grazing, lambert, specular, roughness):
    """Backscattering cross-section of a square meter of ground: Lambert's law plus Gaussian facets near normal incidence."""
    square = sin_grazing * sin_grazing
    tan2 = (1.0 - square) / square
    return lambert * square + specular * math.exp(-tan2 / (2.0 * roughness * roughness)) / (square * square)


@njit(cache=True, nogil=True)
def bottom_cells(
    step_m,
    near_m,
    far_m,
    origin,
    center,
    edge,
    normal,
    cos_fan,
    sin_across,
    farthest_m,
    seed,
    grid_x,
    grid_y,
    grid_m,
    depth_grid,
    kind_grid,
    rugged,
    lambert,
    specular,
    roughness,
    penetration_m,
    x,
    y,
    z,
    amplitude,
    phase,
    count,
):
    """Lay one scatterer in each ground cell that the fan lights between two horizontal distances; return the new count.

    A cell's offset, phase and strength are a hash of its indices: the texture stays on the ground as the boat moves.
    Depth, slope and kind come from grids (north, east); on rugged ground a cell behind a rise is left out.
    """
    capacity = x.shape[0]
    low_x = int(math.floor((origin[0] - far_m) / step_m))
    high_x = int(math.ceil((origin[0] + far_m) / step_m))
    low_y = int(math.floor((origin[1] - far_m) / step_m))
    high_y = int(math.ceil((origin[1] + far_m) / step_m))
    unit = 1.0 / 2097152.0
    bits = np.uint64(2097151)
    rows, columns = depth_grid.shape
    for iy in range(low_y, high_y + 1):
        cy = (iy + 0.5) * step_m - origin[1]
        gy = (cy + origin[1] - grid_y) / grid_m
        if gy < 1.0 or gy > rows - 3.0:
            continue
        for ix in range(low_x, high_x + 1):
            cx = (ix + 0.5) * step_m - origin[0]
            flat = cx * cx + cy * cy
            if flat < near_m * near_m or flat >= far_m * far_m:
                continue
            gx = (cx + origin[0] - grid_x) / grid_m
            if gx < 1.0 or gx > columns - 3.0:
                continue
            # A cheap look first: most cells of the square lie far outside the fan.
            cz = depth_grid[int(gy), int(gx)] - origin[2]
            r = math.sqrt(flat + cz * cz)
            s = cx * normal[0] + cy * normal[1] + cz * normal[2]
            if abs(s) > (sin_across + 0.12) * r:
                continue
            h = mix(ix, iy, seed)
            px = (ix + (h & bits) * unit) * step_m
            py = (iy + ((h >> np.uint64(21)) & bits) * unit) * step_m
            fx = (px - grid_x) / grid_m
            fy = (py - grid_y) / grid_m
            jx = int(fx)
            jy = int(fy)
            fx -= jx
            fy -= jy
            d00 = depth_grid[jy, jx]
            d01 = depth_grid[jy, jx + 1]
            d10 = depth_grid[jy + 1, jx]
            d11 = depth_grid[jy + 1, jx + 1]
            depth = (d00 * (1.0 - fx) + d01 * fx) * (1.0 - fy) + (d10 * (1.0 - fx) + d11 * fx) * fy
            east = ((d01 - d00) * (1.0 - fy) + (d11 - d10) * fy) / grid_m
            north = ((d10 - d00) * (1.0 - fx) + (d11 - d01) * fx) / grid_m
            dx = px - origin[0]
            dy = py - origin[1]
            dz = depth - origin[2]
            r = math.sqrt(dx * dx + dy * dy + dz * dz)
            s = dx * normal[0] + dy * normal[1] + dz * normal[2]
            c = dx * center[0] + dy * center[1] + dz * center[2]
            if r > farthest_m or abs(s) > sin_across * r or c < cos_fan * r:
                continue
            # Surface normal (up): (d depth/dx, d depth/dy, -1) / length. Grazing angle from the ray to the surface.
            length = math.sqrt(1.0 + east * east + north * north)
            sin_grazing = (dz - dx * east - dy * north) / (r * length)
            if sin_grazing <= 0.01 or count >= capacity:
                continue
            if rugged and is_behind(origin, dx, dy, dz, grid_x, grid_y, grid_m, depth_grid):
                continue
            kind = kind_grid[jy, jx]
            strength = backscatter(sin_grazing, lambert[kind], specular[kind], roughness)
            # Some of it comes from under the surface, the deeper the weaker: a hard upper edge that fades downward, its power kept.
            under = -math.log(1.0 - ((h >> np.uint64(42)) & bits) * unit * 0.9999999)
            strength *= 2.0 * math.exp(-under)
            g = mix(iy + 7919, ix - 104729, seed)
            speckle = -math.log(1.0 - (g & bits) * unit * 0.9999999)
            x[count] = px
            y[count] = py
            z[count] = depth + penetration_m[kind] * under
            amplitude[count] = math.sqrt(strength * step_m * step_m * length * speckle)
            phase[count] = ((g >> np.uint64(21)) & bits) * unit * 2.0 * math.pi
            count += 1
    return count


@njit(cache=True, nogil=True, fastmath=True)
def shade(x, y, z, amplitude, first, last, origin, post_x, post_y, post_radius, post_top, post_foot, post_through, post_per_m):
    """Weaken scatterers that stand behind posts: upright cylinders [m] that let through a share of the amplitude.

    A solid post lets `post_through` through (two-way); a soft one costs `post_per_m` nepers a meter of its chord. What stands
    within a post, or less than its radius behind it, is the post's own.
    """
    posts = post_x.shape[0]
    for i in range(first, last):
        dx = x[i] - origin[0]
        dy = y[i] - origin[1]
        flat = math.sqrt(dx * dx + dy * dy)
        if flat < 0.1:
            continue
        ux = dx / flat
        uy = dy / flat
        rise = (z[i] - origin[2]) / flat
        for p in range(posts):
            px = post_x[p] - origin[0]
            py = post_y[p] - origin[1]
            radius = post_radius[p]
            off = px * uy - py * ux
            if off > radius or off < -radius:
                continue
            along = px * ux + py * uy
            if along < 0.0:
                continue
            half = math.sqrt(radius * radius - off * off)
            at = origin[2] + rise * along
            if at < post_top[p] or at > post_foot[p]:
                continue
            if post_per_m[p] > 0.0:
                # Two-way loss along what lies of the chord before the scatterer.
                amplitude[i] *= math.exp(-post_per_m[p] * max(min(along + half, flat) - max(along - half, 0.0), 0.0))
            elif flat > along + radius + 0.1:
                amplitude[i] *= post_through[p]
