"""Kernels of a console's beams: points and ground summed into one column of range cells.

A beam's frame is the boat's: `along` toward the bow, `aside` to starboard, `down`. Its two-way pattern is a table over
x = (aperture / wavelength) times a sine: that to the bow for a thin beam, that off the axis for a round one.
"""

import math

from numba import njit

from mudlamp.core.sonar._kernels_ground import backscatter, ground_depth, mix

LN_PER_DB = math.log(10.0) / 20.0
# Parts of a bin at which the pulse's envelope is tabled, and bins to either side of its middle.
PARTS = 16
WINGS = 5
# How far apart the ground before a side beam is looked at [m].
HORIZON_M = 0.35


@njit(cache=True, nogil=True, fastmath=True)
def two_way(along, aside, down, r, is_round, table, per_x, apertures, center_aside, center_down, half_across):
    """Two-way amplitude of a beam toward (along, aside, down) at distance r; 0 where the table ends."""
    sine = math.sqrt(along * along + aside * aside) / r if is_round else abs(along) / r
    if is_round and down <= 0.0:
        return 0.0
    at = sine * apertures * per_x
    j = int(at)
    if j >= table.shape[0] - 1:
        return 0.0
    level = table[j] + (at - j) * (table[j + 1] - table[j])
    if is_round:
        return level
    flat = math.sqrt(aside * aside + down * down)
    if flat < 1e-6:
        return 0.0
    cosine = (aside * center_aside + down * center_down) / flat
    if cosine <= 0.0:
        return 0.0
    off = math.acos(min(cosine, 1.0)) / half_across
    if off > 2.4:
        return 0.0
    return level * math.exp(-3.0 * LN_PER_DB * off * off)


@njit(cache=True, nogil=True, fastmath=True)
def put(at, re, im, envelope, field_re, field_im):
    """Add an echo at a fractional bin, spread by the pulse."""
    first = int(math.floor(at + 0.5)) - WINGS
    part = int((at - (first + WINGS) + 0.5) * PARTS)
    part = min(max(part, 0), PARTS - 1)
    bins = field_re.shape[0]
    for n in range(2 * WINGS + 1):
        b = first + n
        if 0 <= b < bins:
            field_re[b] += re * envelope[part, n]
            field_im[b] += im * envelope[part, n]


@njit(cache=True, nogil=True, fastmath=True)
def past_posts(dx, dy, dz, z0, posts):
    """The share of an echo's amplitude that comes past upright posts (x and y from the transducer, radius, top, foot, through, loss a meter)."""
    share = 1.0
    flat = math.sqrt(dx * dx + dy * dy)
    if flat < 0.1:
        return share
    ux = dx / flat
    uy = dy / flat
    rise = dz / flat
    for p in range(posts.shape[1]):
        radius = posts[2, p]
        off = posts[0, p] * uy - posts[1, p] * ux
        if off > radius or off < -radius:
            continue
        way = posts[0, p] * ux + posts[1, p] * uy
        if way < 0.0:
            continue
        half = math.sqrt(radius * radius - off * off)
        height = z0 + rise * way
        if height < posts[3, p] or height > posts[4, p]:
            continue
        if posts[6, p] > 0.0:
            share *= math.exp(-posts[6, p] * max(min(way + half, flat) - max(way - half, 0.0), 0.0))
        elif flat > way + radius + 0.1:
            share *= posts[5, p]
    return share


@njit(cache=True, nogil=True, fastmath=True)
def horizon(origin, east, north, side, farthest_m, grid_x, grid_y, grid_m, depth_grid, lowest):
    """Write the least downward slope that ground lets through, every HORIZON_M to one side of the boat (`side` 1 is starboard)."""
    least = 1e9
    for n in range(lowest.shape[0]):
        flat = (n + 0.5) * HORIZON_M
        x = origin[0] + side * north * flat
        y = origin[1] - side * east * flat
        lowest[n] = least
        slope = (ground_depth(x, y, grid_x, grid_y, grid_m, depth_grid) - origin[2]) / flat
        least = min(least, slope)


@njit(cache=True, nogil=True, fastmath=True)
def is_hidden(flat, dz, lowest):
    """Whether ground nearer than `flat` to that side stands before what lies dz under the transducer; a hand's breadth is let pass."""
    n = min(int(flat / HORIZON_M), lowest.shape[0]) - 1
    return n > 0 and dz > lowest[n] * flat + 0.1


@njit(cache=True, nogil=True, fastmath=True)
def add_points(
    x,
    y,
    z,
    amplitude,
    phase,
    origin,
    east,
    north,
    is_round,
    table,
    per_x,
    apertures,
    center_aside,
    center_down,
    half_across,
    posts,
    lowest,
    attenuation_db_m,
    wavenumber,
    bin_m,
    envelope,
    field_re,
    field_im,
):
    """Sum the echoes of points into a column: EL - SL = TS - 40 log R - 2 alpha R + pattern, as amplitudes with phase 2 k R; count those lit."""
    bins = field_re.shape[0]
    widest = (table.shape[0] - 2) / (per_x * apertures)
    lit = 0
    for i in range(x.shape[0]):
        dx = x[i] - origin[0]
        dy = y[i] - origin[1]
        dz = z[i] - origin[2]
        r = math.sqrt(dx * dx + dy * dy + dz * dz)
        at = r / bin_m - 0.5
        if at > bins + WINGS or r < 0.1:
            continue
        along = dx * east + dy * north
        if not is_round and abs(along) > widest * r:
            continue
        aside = dx * north - dy * east
        level = two_way(along, aside, dz, r, is_round, table, per_x, apertures, center_aside, center_down, half_across)
        if level == 0.0:
            continue
        if lowest.shape[0] > 0 and is_hidden(math.sqrt(dx * dx + dy * dy), dz, lowest):
            continue
        a = amplitude[i] * level / (r * r) * math.exp(-LN_PER_DB * 2.0 * attenuation_db_m * r)
        if posts.shape[1] > 0:
            a *= past_posts(dx, dy, dz, origin[2], posts)
        turn = 2.0 * wavenumber * r + phase[i]
        put(at, a * math.cos(turn), a * math.sin(turn), envelope, field_re, field_im)
        lit += 1
    return lit


@njit(cache=True, nogil=True, fastmath=True)
def add_ground(
    step_m,
    widest,
    near_aside_m,
    far_aside_m,
    far_along_m,
    side,
    origin,
    east,
    north,
    is_round,
    table,
    per_x,
    apertures,
    center_aside,
    center_down,
    half_across,
    posts,
    lowest,
    seed,
    grid_x,
    grid_y,
    grid_m,
    depth_grid,
    kind_grid,
    lambert,
    specular,
    roughness,
    penetration_m,
    again,
    attenuation_db_m,
    wavenumber,
    bin_m,
    envelope,
    field_re,
    field_im,
):
    """Sum the ground's echoes into a column, a cell of the ground at a time, each cell once; count those lit.

    The cells are those of a rectangle about the boat: from `near_aside_m` to `far_aside_m` on one side (`side` 1 or -1), or to that on both (0),
    `far_along_m` fore and aft, and of them those at a sine of `widest` off the beam's axis at most. A cell's place, phase and strength are a hash of its indices. `again` is the amplitude that comes back a second time by way of the
    surface, at twice the range.
    """
    bins = field_re.shape[0]
    rows, columns = depth_grid.shape
    unit = 1.0 / 2097152.0
    # The rectangle's corners east and north.
    low_aside = near_aside_m if side > 0 else -far_aside_m
    high_aside = -near_aside_m if side < 0 else far_aside_m
    least_y = 1e9
    most_y = -1e9
    for corner in range(4):
        a = far_along_m if corner & 1 else -far_along_m
        s = high_aside if corner & 2 else low_aside
        cy = a * north - s * east
        least_y = min(least_y, cy)
        most_y = max(most_y, cy)
    lit = 0
    for iy in range(int(math.floor((origin[1] + least_y) / step_m)), int(math.ceil((origin[1] + most_y) / step_m)) + 1):
        ry = (iy + 0.5) * step_m - origin[1]
        # Where this row of cells crosses the rectangle: along = rx east + ry north and aside = rx north - ry east between their bounds.
        low_x = -1e9
        high_x = 1e9
        if abs(east) > 1e-9:
            one = (-far_along_m - ry * north) / east
            two = (far_along_m - ry * north) / east
            low_x = max(low_x, min(one, two))
            high_x = min(high_x, max(one, two))
        elif abs(ry * north) > far_along_m:
            continue
        if abs(north) > 1e-9:
            one = (low_aside + ry * east) / north
            two = (high_aside + ry * east) / north
            low_x = max(low_x, min(one, two))
            high_x = min(high_x, max(one, two))
        elif -ry * east < low_aside or -ry * east > high_aside:
            continue
        if low_x > high_x:
            continue
        for ix in range(int(math.ceil((origin[0] + low_x) / step_m - 0.5)), int(math.floor((origin[0] + high_x) / step_m - 0.5)) + 1):
            h = mix(ix, iy, seed)
            bits = 2097151
            px = (ix + (h & bits) * unit) * step_m
            py = (iy + ((h >> 21) & bits) * unit) * step_m
            dx = px - origin[0]
            dy = py - origin[1]
            fx = (px - grid_x) / grid_m
            fy = (py - grid_y) / grid_m
            if fx < 1.0 or fy < 1.0 or fx > columns - 2.0 or fy > rows - 2.0:
                continue
            jx = int(fx)
            jy = int(fy)
            fx -= jx
            fy -= jy
            d00 = depth_grid[jy, jx]
            d01 = depth_grid[jy, jx + 1]
            d10 = depth_grid[jy + 1, jx]
            d11 = depth_grid[jy + 1, jx + 1]
            dz = (d00 * (1.0 - fx) + d01 * fx) * (1.0 - fy) + (d10 * (1.0 - fx) + d11 * fx) * fy - origin[2]
            flat2 = dx * dx + dy * dy
            r = math.sqrt(flat2 + dz * dz)
            at = r / bin_m - 0.5
            if at > bins + WINGS or dz < 0.05:
                continue
            along = dx * east + dy * north
            if (flat2 if is_round else along * along) > widest * widest * r * r:
                continue
            level = two_way(along, dx * north - dy * east, dz, r, is_round, table, per_x, apertures, center_aside, center_down, half_across)
            if level == 0.0:
                continue
            slope_x = ((d01 - d00) * (1.0 - fy) + (d11 - d10) * fy) / grid_m
            slope_y = ((d10 - d00) * (1.0 - fx) + (d11 - d01) * fx) / grid_m
            length = math.sqrt(1.0 + slope_x * slope_x + slope_y * slope_y)
            grazing = (dz - dx * slope_x - dy * slope_y) / (r * length)
            if grazing <= 0.01:
                continue
            if lowest.shape[0] > 0 and is_hidden(math.sqrt(flat2), dz, lowest):
                continue
            kind = kind_grid[jy, jx]
            strength = backscatter(grazing, lambert[kind], specular[kind], roughness)
            g = mix(iy + 7919, ix - 104729, seed)
            under = -math.log(1.0 - ((h >> 42) & bits) * unit * 0.9999999)
            speckle = -math.log(1.0 - (g & bits) * unit * 0.9999999)
            # Some of it comes from under the surface, the deeper the weaker, its power kept.
            r += penetration_m[kind] * under
            at = r / bin_m - 0.5
            a = math.sqrt(strength * 2.0 * math.exp(-under) * step_m * step_m * length * speckle) * level
            a *= math.exp(-LN_PER_DB * 2.0 * attenuation_db_m * r) / (r * r)
            if posts.shape[1] > 0:
                a *= past_posts(dx, dy, dz, origin[2], posts)
            turn = 2.0 * wavenumber * r + ((g >> 21) & bits) * unit * 2.0 * math.pi
            re = math.cos(turn)
            im = math.sin(turn)
            put(at, a * re, a * im, envelope, field_re, field_im)
            lit += 1
            if again > 0.0:
                twice = 2.0 * r + origin[2]
                at = twice / bin_m - 0.5
                if at < bins + WINGS:
                    b = again * a * (r * r) / (twice * twice) * math.exp(-LN_PER_DB * 2.0 * attenuation_db_m * (twice - r))
                    put(at, b * im, b * re, envelope, field_re, field_im)
    return lit
