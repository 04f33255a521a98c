"""How kinds of fish look: how far they fall when they turn, how long and how round they are on the picture, how they beat and swim.

Levels and shares are ours, their order common practice, no source; so are the 8 to 15 dB between side and end.
"""

import math
from dataclasses import replace

import numpy as np
import pytest

from mudlamp.core.ping import Fan, Pose
from mudlamp.core.scene.fish import Fish, Surroundings
from mudlamp.core.scene.species import GAITS, Gait, Species, bodies_of, bodies_scatterers
from mudlamp.core.sonar.scatterers import Scatterers
from mudlamp.core.sonar.synthesis import Synthesizer, WaterBody
from mudlamp.core.sonar.transducer import PROFILES, Acquisition

RANGE_M = 6.0
LENGTH_M = 0.3
POSE = Pose(x_m=0.0, y_m=0.0, z_m=0.4, heading_rad=0.0, pitch_rad=0.0, roll_rad=0.0, tilt_rad=0.0)


def pictures(species, *, end_on=False, frames=120):
    """Return the power (frame, beam, range_bin) about one fish 6 m under the boat, in the fan's plane, its axis square to the sight or along it."""
    acquisition = Acquisition(fan=Fan.BELOW, reach_m=9.0, down_to_m=9.0, look_back_m=9.0, tilt_rad=0.0, aim_rad=0.0, sound_speed_m_s=1482.4)
    water = WaterBody(temperature_degc=20.0, secchi_m=6.0, wind_m_s=None, noise=False)
    synthesizer = Synthesizer(
        profile=PROFILES["demo"], acquisition=acquisition, water=water, ground=None, depth_m=0.4, rng=np.random.default_rng(1)
    )
    rng, body, buffer = np.random.default_rng(5), bodies_of([(species, LENGTH_M)], carrier_hz=900e3), Scatterers(100)
    near = np.abs(synthesizer.setup.range_m - RANGE_M) < 0.5
    found = []
    for number in range(frames):
        turn = (math.pi / 2.0 if end_on else 0.0) + rng.normal(0.0, math.radians(5.0))
        place, amplitude = bodies_scatterers(
            body,
            position_m=np.array([[0.0, rng.uniform(-0.05, 0.05), 0.4 + RANGE_M + rng.uniform(-0.02, 0.02)]]),
            axis=np.array([[0.0, math.cos(turn), math.sin(turn)]]),
            sideways=np.array([[1.0, 0.0, 0.0]]),
            sight=np.array([[0.0, 0.0, 1.0]]),
            tail_sway=np.sin(rng.uniform(0.0, 2.0 * math.pi, 1)),
        )
        buffer.clear()
        buffer.add(place.reshape(-1, 3), amplitude.ravel(), rng.uniform(0.0, 2.0 * math.pi, place.shape[1]), owner=1)
        ping = synthesizer.ping(buffer, pose=POSE, number=number, time_s=0.1 * number)
        found.append(10.0 ** (ping.echo_level_db[:, near].astype(float) / 10.0))
    return np.array(found), synthesizer.setup.beam_angle_rad * RANGE_M


def rms_length(power, across_m):
    """Return the mean root-mean-square length across the beams [m] of what is within 15 dB of the brightest."""
    row = power.sum(axis=2)
    row = np.where(row > row.max(axis=1, keepdims=True) * 10.0**-1.5, row, 0.0)
    middle = (row * across_m).sum(axis=1) / row.sum(axis=1)
    return float(np.mean(np.sqrt((row * (across_m - middle[:, None]) ** 2).sum(axis=1) / row.sum(axis=1))))


def lobes(frame):
    """Return how many peaks across the beams stand within 10 dB of the highest."""
    row = frame.max(axis=1)
    peak = (row[1:-1] >= row[:-2]) & (row[1:-1] > row[2:]) & (row[1:-1] > 0.1 * row.max())
    return int(peak.sum())


@pytest.mark.parametrize("species", Species)
def test_a_fish_falls_by_8_to_15_db_when_it_turns_end_on(species):
    side, end = (10.0 * math.log10(pictures(species, end_on=end)[0].max(axis=(1, 2)).mean()) for end in (False, True))
    assert 8.0 <= side - end <= 15.0


def test_a_crappie_is_round_and_a_drum_of_its_length_is_long():
    crappie, across = pictures(Species.CRAPPIE)
    drum, _ = pictures(Species.DRUM)
    assert np.mean([lobes(frame) == 1 for frame in crappie]) >= 0.4
    assert rms_length(drum, across) >= 1.35 * rms_length(crappie, across)
    gar, _ = pictures(Species.GAR)
    assert rms_length(gar, across) >= 1.35 * rms_length(crappie, across)


@pytest.mark.parametrize("species", [Species.CARP, Species.DRUM])
def test_rough_fish_are_lit_head_to_tail(species):
    body = bodies_of([(species, 0.5)], carrier_hz=900e3)
    _, amplitude = bodies_scatterers(
        body, position_m=np.zeros((1, 3)), axis=np.array([[0.0, 1.0, 0.0]]), sideways=np.array([[1.0, 0.0, 0.0]]),
        sight=np.array([[0.0, 0.0, 1.0]]), tail_sway=np.array([math.sqrt(0.5)]),
    )  # fmt: skip
    along, power = body.along[0], amplitude[0] ** 2
    thirds = [power[(along >= low) & (along < low + 0.17)].sum() for low in (-0.25, -0.085, 0.085)]
    assert min(thirds) > 0.15 * sum(thirds)


def swum(species, *, cruise_m, seconds=20.0):
    fish = Fish(
        name="one", species=species, length_m=0.4, home_m=np.array([0.0, 6.0, 3.0]), mood=0.5, rng=np.random.default_rng(2),
        cruise_m=cruise_m, pace_m_s=0.4,
    )  # fmt: skip
    around = Surroundings(time_s=0.0, dt_s=0.05, lure=None, boat_m=np.array([0.0, -20.0, 0.0]), sight_m=1.0, bottom_m=8.0)
    speed, tail = [], []
    for step in range(round(seconds / 0.05)):
        fish.step(replace(around, time_s=0.05 * step))
        speed.append(float(np.linalg.norm(fish.velocity_m_s)))
        tail.append(fish.tail_sway)
    return np.array(speed[100:]), np.array(tail[100:])


def test_bass_kick_and_glide_rough_fish_beat_on_and_crappie_hang():
    bass, bass_tail = swum(Species.LARGEMOUTH, cruise_m=2.0)
    drum, drum_tail = swum(Species.DRUM, cruise_m=2.0)
    crappie, crappie_tail = swum(Species.CRAPPIE, cruise_m=0.0)
    assert GAITS[Species.LARGEMOUTH] is Gait.KICK
    assert bass.std() / bass.mean() > 2.0 * drum.std() / drum.mean()
    assert crappie.max() < 0.1

    def busy(tail):
        """The share of a second's stretches in which the tail swings over half its way."""
        return float(np.mean([np.abs(tail[at : at + 20]).max() > 0.5 for at in range(0, len(tail) - 20, 10)]))

    assert busy(drum_tail) == 1.0
    assert busy(bass_tail[::1]) >= busy(crappie_tail)
    assert np.abs(crappie_tail).max() < 0.4
    # The drum's beat is Bainbridge's, (V / L + 1) / 0.75 a second (1958), seen in its spectrum.
    spectrum = np.abs(np.fft.rfft(drum_tail - drum_tail.mean()))
    beat = np.fft.rfftfreq(len(drum_tail), 0.05)[int(np.argmax(spectrum))]
    assert beat == pytest.approx((drum.mean() / 0.4 + 1.0) / 0.75, rel=0.2)


def test_the_echo_of_a_tail_comes_and_goes_with_its_beat_and_keeps_its_mean():
    body = bodies_of([(Species.CARP, 0.5)] * 400, carrier_hz=900e3)
    square = np.tile([[0.0, 1.0, 0.0]], (400, 1))
    sway = np.sin(np.linspace(0.0, 2.0 * math.pi, 400, endpoint=False))
    _, amplitude = bodies_scatterers(
        body, position_m=np.zeros((400, 3)), axis=square, sideways=np.tile([[1.0, 0.0, 0.0]], (400, 1)),
        sight=np.tile([[0.0, 0.0, 1.0]], (400, 1)), tail_sway=sway,
    )  # fmt: skip
    tail = amplitude[:, -1] ** 2
    assert tail.max() / tail.min() > 4.0
    assert tail.mean() == pytest.approx(body.part_power[0, -1], rel=0.02)
