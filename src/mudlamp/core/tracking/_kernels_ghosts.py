"""Kernels of ghosts: what lies where the bottom's mirror shows a fish."""

import math

import numpy as np
from numba import njit


@njit(cache=True, nogil=True)
def bounced(place, level_db, source, source_db, ground_m, louder_db, apart_m, within_m, beam_rad, out):
    """Write which places (N, 2) hold an echo of one of the sources (M, 2) by way of the bottom: all (ahead, down) as seen from the transducer [m].

    Image method, over a flat bottom `ground_m` under the transducer: with legs r1 straight and r2 by the bottom the echo seems to come
    from (r1 + r2) / 2 along either leg, or from r2 along the bottom's. A source counts that is `louder_db` louder than the place's own
    level (N,), (M,), and whose ghost stands `apart_m` or more from it.
    """
    reach, look = np.empty(3), np.empty(3)
    out[:] = False
    for m in range(len(source)):
        ahead, down = source[m, 0], source[m, 1]
        image = 2.0 * ground_m - down
        if image <= down:
            continue
        straight, by_bottom = math.hypot(ahead, down), math.hypot(ahead, image)
        reach[0] = reach[1] = 0.5 * (straight + by_bottom)
        reach[2] = by_bottom
        look[0] = math.atan2(ahead, down)
        look[1] = look[2] = math.atan2(ahead, image)
        for way in range(3):
            at, under = reach[way] * math.sin(look[way]), reach[way] * math.cos(look[way])
            if math.hypot(at - ahead, under - down) < apart_m:
                continue
            for n in range(len(place)):
                if out[n] or source_db[m] - level_db[n] < louder_db:
                    continue
                off_m = abs(math.hypot(place[n, 0], place[n, 1]) - reach[way])
                off_rad = abs(math.atan2(place[n, 0], place[n, 1]) - look[way])
                out[n] = off_m < within_m and off_rad < beam_rad
