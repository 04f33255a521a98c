"""Kernels of the ping: scatterers summed coherently, bottom laid out on the ground, field turned into levels.

Field arrays are (range_bin, beam) so that the innermost loop runs over neighboring beams.
"""

import math

import numpy as np
from numba import njit

LN2 = math.log(2.0)
# Beams to each side in which a ground echo is summed with its phase: main lobe and the first three side lobes.
GROUND_BEAMS = 6


@njit(cache=True, nogil=True, fastmath=True)
def add_scatterers(
    x,
    y,
    z,
    amplitude,
    phase,
    count,
    first_ground,
    origin,
    center,
    edge,
    normal,
    facet_sin,
    facet_cos,
    beam_x,
    table,
    table_per_x,
    aperture_wavelengths,
    facet_half_rad,
    beam_step_rad,
    half_thickness_rad,
    across_limit,
    attenuation_db_m,
    wavenumber,
    range_scale,
    bin_m,
    pulse_m,
    weak_power,
    floor_power,
    field_re,
    field_im,
    leak,
    pattern,
):
    bins = field_re.shape[0]
    facets, per_facet = beam_x.shape
    overlap = math.sin(facet_half_rad + 0.105)
    reach_bins = 1.7 * pulse_m / bin_m
    envelope = np.empty(int(2.0 * reach_bins) + 3, np.float32)
    per_x = np.float32(table_per_x)
    ln_per_db = math.log(10.0) / 20.0
    for i in range(count):
        dx = x[i] - origin[0]
        dy = y[i] - origin[1]
        dz = z[i] - origin[2]
        r = math.sqrt(dx * dx + dy * dy + dz * dz)
        at = r * range_scale / bin_m - 0.5
        if at > bins + reach_bins or r < 0.05:
            continue
        c = dx * center[0] + dy * center[1] + dz * center[2]
        e = dx * edge[0] + dy * edge[1] + dz * edge[2]
        s = dx * normal[0] + dy * normal[1] + dz * normal[2]
        across = math.asin(s / r) / half_thickness_rad
        if across * across > across_limit:
            continue
        in_plane = math.sqrt(c * c + e * e)
        c /= in_plane
        e /= in_plane
        # EL - SL = TS - 40 log R - 2 alpha R + A(across), as an amplitude; two-way phase 2 k R.
        a = amplitude[i] / (r * r) * math.exp(-ln_per_db * (2.0 * attenuation_db_m * r + 3.0 * across * across))
        power = a * a
        turn = 2.0 * wavenumber * r + phase[i]
        turn -= 2.0 * math.pi * math.floor(turn / (2.0 * math.pi))
        re = np.float32(a * math.cos(turn))
        im = np.float32(a * math.sin(turn))
        first_bin = max(0, int(math.ceil(at - reach_bins)))
        rows = min(bins - 1, int(math.floor(at + reach_bins))) - first_bin + 1
        for n in range(rows):
            # Pulse envelope: power falls to half at half a resolution cell from its middle.
            d = (first_bin + n - at) * bin_m / pulse_m
            envelope[n] = math.exp(-2.0 * LN2 * d * d)
        for f in range(facets):
            along = c * facet_cos[f] + e * facet_sin[f]
            sine = e * facet_cos[f] - c * facet_sin[f]
            if along <= 0.0 or abs(sine) > overlap:
                # A facet that looks elsewhere hears it through the errors of its elements alone.
                for n in range(rows):
                    leak[first_bin + n, f] += floor_power * power * envelope[n] * envelope[n]
                continue
            first, last = 0, per_facet
            if power < weak_power or i >= first_ground:
                shown = max(-1.0, min(1.0, sine * range_scale))
                nearest = (math.asin(shown) + facet_half_rad) / beam_step_rad
                reach = 4 if power < weak_power else GROUND_BEAMS
                first = max(0, int(nearest) - reach)
                last = min(per_facet, int(nearest) + reach + 1)
                if power >= weak_power:
                    # The far side lobes of the ground's many echoes add up at random: no lower than the element errors.
                    for n in range(rows):
                        leak[first_bin + n, f] += floor_power * power * envelope[n] * envelope[n]
            if last <= first:
                continue
            here = np.float32(sine * aperture_wavelengths)
            steered = beam_x[f, first:last]
            for j in range(last - first):
                # One-way receive pattern of the facet, by linear interpolation in its table.
                position = abs(here - steered[j]) * per_x
                low = np.int32(position)
                pattern[j] = table[low] + (position - np.float32(low)) * (table[low + 1] - table[low])
            base = f * per_facet + first
            for n in range(rows):
                pr = re * envelope[n]
                pi = im * envelope[n]
                row_re = field_re[first_bin + n, base : base + last - first]
                row_im = field_im[first_bin + n, base : base + last - first]
                for j in range(row_re.shape[0]):
                    row_re[j] += pr * pattern[j]
                    row_im[j] += pi * pattern[j]


@njit(cache=True, nogil=True, fastmath=True)
def power_at_cells(
    x,
    y,
    z,
    amplitude,
    owner,
    count,
    origin,
    center,
    edge,
    normal,
    cell_bin,
    cell_sine,
    cell_facet,
    cell_owner,
    facet_sin,
    facet_cos,
    table,
    table_per_x,
    aperture_wavelengths,
    half_thickness_rad,
    attenuation_db_m,
    range_scale,
    bin_m,
    pulse_m,
    own,
    other,
):
    """Expected (incoherent) power of each cell's own object, and of every other scatterer, in that cell."""
    cells = cell_bin.shape[0]
    reach_bins = 1.7 * pulse_m / bin_m
    for i in range(count):
        dx = x[i] - origin[0]
        dy = y[i] - origin[1]
        dz = z[i] - origin[2]
        r = math.sqrt(dx * dx + dy * dy + dz * dz)
        at = r * range_scale / bin_m - 0.5
        near = False
        for n in range(cells):
            if abs(at - cell_bin[n]) < reach_bins:
                near = True
        if not near or r < 0.05:
            continue
        c = dx * center[0] + dy * center[1] + dz * center[2]
        e = dx * edge[0] + dy * edge[1] + dz * edge[2]
        s = dx * normal[0] + dy * normal[1] + dz * normal[2]
        across = math.asin(s / r) / half_thickness_rad
        in_plane = math.sqrt(c * c + e * e)
        c /= in_plane
        e /= in_plane
        a = amplitude[i] / (r * r) * 10.0 ** (-attenuation_db_m * r / 10.0 - 0.15 * across * across)
        for n in range(cells):
            d = (at - cell_bin[n]) * bin_m / pulse_m
            if abs(d) > 1.7:
                continue
            f = cell_facet[n]
            if c * facet_cos[f] + e * facet_sin[f] <= 0.0:
                continue
            sine = e * facet_cos[f] - c * facet_sin[f]
            position = abs(sine - cell_sine[n]) * aperture_wavelengths * table_per_x
            low = min(int(position), table.shape[0] - 2)
            b = a * (table[low] + (position - low) * (table[low + 1] - table[low])) * math.exp(-2.0 * LN2 * d * d)
            if owner[i] == cell_owner[n]:
                own[n] += b * b
            else:
                other[n] += b * b


@njit(cache=True, nogil=True)
def depth_and_slope(px, py, depth_m, slope_east, slope_north, wave_amplitude, wave_east, wave_north, wave_phase):
    depth = depth_m + slope_east * px + slope_north * py
    east = slope_east
    north = slope_north
    for k in range(wave_amplitude.shape[0]):
        turn = wave_east[k] * px + wave_north[k] * py + wave_phase[k]
        depth += wave_amplitude[k] * math.sin(turn)
        east += wave_amplitude[k] * wave_east[k] * math.cos(turn)
        north += wave_amplitude[k] * wave_north[k] * math.cos(turn)
    return depth, east, north


@njit(cache=True, nogil=True)
def _mix(a, b, c):
    """A 64-bit mix of a ground cell's indices and the seed (Stafford's variant 13 of the murmur finalizer, from memory)."""
    h = np.uint64(a) * np.uint64(0x9E3779B97F4A7C15) ^ np.uint64(b) * np.uint64(0xC2B2AE3D27D4EB4F) ^ np.uint64(c)
    h ^= h >> np.uint64(30)
    h *= np.uint64(0xBF58476D1CE4E5B9)
    h ^= h >> np.uint64(27)
    h *= np.uint64(0x94D049BB133111EB)
    h ^= h >> np.uint64(31)
    return h


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
    depth_m,
    slope_east,
    slope_north,
    wave_amplitude,
    wave_east,
    wave_north,
    wave_phase,
    lambert,
    specular,
    roughness,
    x,
    y,
    z,
    amplitude,
    phase,
    count,
):
    """Lay one scatterer in each ground cell that the fan lights between two horizontal distances; return the new count.

    A cell's offset, phase and strength are a hash of its indices: the texture stays on the ground as the boat moves.
    """
    capacity = x.shape[0]
    low_x = int(math.floor((origin[0] - far_m) / step_m))
    high_x = int(math.ceil((origin[0] + far_m) / step_m))
    low_y = int(math.floor((origin[1] - far_m) / step_m))
    high_y = int(math.ceil((origin[1] + far_m) / step_m))
    unit = 1.0 / 2097152.0
    bits = np.uint64(2097151)
    rough = max(depth_m, 0.5)
    for iy in range(low_y, high_y + 1):
        cy = (iy + 0.5) * step_m - origin[1]
        for ix in range(low_x, high_x + 1):
            cx = (ix + 0.5) * step_m - origin[0]
            flat = cx * cx + cy * cy
            if flat < near_m * near_m or flat >= far_m * far_m:
                continue
            # A cheap look with the mean depth first: most cells of the square lie far outside the fan.
            cz = rough + slope_east * (cx + origin[0]) + slope_north * (cy + origin[1]) - origin[2]
            r = math.sqrt(flat + cz * cz)
            s = cx * normal[0] + cy * normal[1] + cz * normal[2]
            if abs(s) > (sin_across + 0.12) * r:
                continue
            h = _mix(ix, iy, seed)
            px = (ix + (h & bits) * unit) * step_m
            py = (iy + ((h >> np.uint64(21)) & bits) * unit) * step_m
            depth, east, north = depth_and_slope(
                px, py, depth_m, slope_east, slope_north, wave_amplitude, wave_east, wave_north, wave_phase
            )
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
            # Lambert's law plus Gaussian facets near normal incidence, times the lit area of the cell.
            cos2 = sin_grazing * sin_grazing
            tan2 = (1.0 - cos2) / cos2
            strength = lambert * cos2 + specular * math.exp(-tan2 / (2.0 * roughness * roughness)) / (cos2 * cos2)
            g = _mix(iy + 7919, ix - 104729, seed)
            speckle = -math.log(1.0 - (g & bits) * unit * 0.9999999)
            x[count] = px
            y[count] = py
            z[count] = depth
            amplitude[count] = math.sqrt(strength * step_m * step_m * length * speckle)
            phase[count] = ((g >> np.uint64(21)) & bits) * unit * 2.0 * math.pi
            count += 1
    return count


@njit(cache=True, nogil=True, fastmath=True)
def finish_field(field_re, field_im, shade, leak, noise_power, table_re, table_im, at_noise, at_drift, keep, drift_re, drift_im, power):
    """Add reverberation (drifting from ping to ping), leak and noise to the field; write its power.

    The tables hold unit complex Gaussian fields shaped by pulse and beam, their first columns repeated behind the last:
    a random window of them is one realization. `shade` is the root of the mean reverberation.
    """
    bins, beams = field_re.shape
    rows = table_re.shape[0]
    kept = np.float32(keep)
    fresh = np.float32(math.sqrt(1.0 - keep * keep))
    per_facet = beams // leak.shape[1]
    for k in range(bins):
        row_n = (at_noise[0] + k) % rows
        row_d = (at_drift[0] + k) % rows
        for f in range(leak.shape[1]):
            noise = np.float32(math.sqrt(noise_power + leak[k, f]))
            base = f * per_facet
            noise_re = table_re[row_n, at_noise[1] + base : at_noise[1] + base + per_facet]
            noise_im = table_im[row_n, at_noise[1] + base : at_noise[1] + base + per_facet]
            fresh_re = table_re[row_d, at_drift[1] + base : at_drift[1] + base + per_facet]
            fresh_im = table_im[row_d, at_drift[1] + base : at_drift[1] + base + per_facet]
            for j in range(per_facet):
                b = base + j
                dr = kept * drift_re[k, b] + fresh * fresh_re[j]
                di = kept * drift_im[k, b] + fresh * fresh_im[j]
                drift_re[k, b] = dr
                drift_im[k, b] = di
                re = field_re[k, b] + shade[k, b] * dr + noise * noise_re[j]
                im = field_im[k, b] + shade[k, b] * di + noise * noise_im[j]
                power[k, b] = re * re + im * im


@njit(cache=True, nogil=True, fastmath=True)
def levels_db(bits, floor_power_bits, out):
    """Write 10 log10 of float32 powers, given as their int32 bit patterns; both arrays flat.

    log2 = exponent + log2 of the mantissa, by five terms of the area-tangent series (error under 1e-5 dB, tested).
    """
    for n in range(bits.shape[0]):
        word = max(bits[n], floor_power_bits)
        exponent = np.float32((word >> 23) - 127)
        m = np.float32(word & 0x7FFFFF) * np.float32(1.0 / 8388608.0)
        t = m / (np.float32(2.0) + m)
        t2 = t * t
        # log2(1 + m) = (2 / ln 2) atanh(m / (2 + m)), five terms of its series.
        series = t * (
            np.float32(2.885390082)
            + t2 * (np.float32(0.961796694) + t2 * (np.float32(0.577078016) + t2 * (np.float32(0.412198583) + t2 * np.float32(0.32059890))))
        )
        out[n] = np.float32(3.010299957) * (exponent + series)
