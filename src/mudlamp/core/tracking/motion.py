"""How a track moved lately, and at what beat its level swings: from its fixes."""

import math

from mudlamp.core.tracking.track import HISTORY_S, WAYS_S, Track

# How far a track roamed is told over so long [s]; it has moved so far only where it was heard this steadily.
MOTION_S, STEADY = 3.0, 0.8
# Over how long a tail's beat is looked for, at every how manieth telling.
BEAT_S, BEAT_EVERY = 4.0, 4


def note_motion(track: Track, time_s: float) -> None:
    """Work out how far the track roamed lately, how straight, how fast it sank, and, now and then, at what beat its level swings, from its fixes."""
    if track.told % BEAT_EVERY == 0:
        track.beat = track.fixes.beat(since_s=time_s - BEAT_S)
    for number, span_s in enumerate(WAYS_S):
        way = track.fixes.straight(since_s=time_s - span_s)
        track.ways[number] = math.nan if way is None else way
    travel = track.fixes.travel(since_s=time_s - MOTION_S)
    if travel is None or travel[2] <= 0.5:
        return
    ahead_m, down_m, span_s = travel
    track.shift_m = (ahead_m, down_m)
    track.roam_m = math.hypot(ahead_m, down_m)
    longer = track.fixes.travel(since_s=time_s - HISTORY_S)
    if longer is not None:
        track.long_shift_m = longer[:2]
    if track.score > STEADY:
        track.moved_m = max(track.moved_m, track.roam_m)
    track.sink_m_s = down_m / span_s
