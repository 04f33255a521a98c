"""What else is heard: side lobes, console and live sonars, wash and wakes, splashes, flickering ghosts, a glinting line, quick things."""

import json
import math
from dataclasses import replace

import numpy as np
import pytest

from mudlamp.core.casting.lures import LINE_TS_DB, Line, LureKind, line_square, tackle
from mudlamp.core.ping import Fan
from mudlamp.core.receiver.chain import Receiver
from mudlamp.core.receiver.inks import INKS, SHOWN_LIGHTNESS, first_shown, ink_lightness
from mudlamp.core.receiver.law import BLACK_DB, span_db
from mudlamp.core.receiver.readings import _mark_and_surround
from mudlamp.core.receiver.trial import readings_under
from mudlamp.core.scene.boat import hold_thrust, pose_at
from mudlamp.core.scene.drifting import Bubbles, Plume
from mudlamp.core.scene.fish import Mode
from mudlamp.core.scene.model import Faults, PointTarget, Wake
from mudlamp.core.scene.world import World, first_acquisition
from mudlamp.core.setup import ReceiverSetup
from mudlamp.core.sonar.interference import Console
from mudlamp.core.sonar.transducer import PROFILES
from mudlamp.formats.scene.build import scene_of
from mudlamp.formats.scene.file import load_scene, parse_scene, scene_file
from mudlamp.formats.scene.parts import ConsolePart, OtherSonarPart
from mudlamp.heads.simulated import SimulatedHead
from tests.core.looking import STILL, bare, box, db, flat_ground, mean_power

PEAR = load_scene("pear-tree")


def shown_share(picture, ink="soot"):
    return float(np.mean(picture >= first_shown(ink)))


def test_only_a_faint_trace_of_the_bottoms_side_lobes_stays_at_the_trades_gain():
    # Its own range ring, from the surface to 2 m over the bottom, in calm clear water: it once stood there like a bank.
    scene = bare(PEAR, bottom=flat_ground(PEAR), water=replace(PEAR.water, wind_m_s=0.0, secchi_m=4.0), surface=False)
    lit = {}
    for name in ("demo", "test"):
        head = SimulatedHead(replace(scene, transducer=replace(scene.transducer, profile=name)), seed=2)
        ping = head.listen(0.5)
        picture = Receiver(ReceiverSetup(gain=66.0)).develop(ping)
        ring = np.abs(ping.setup.range_m - 5.75) < 0.2
        above = ping.setup.beam_angle_rad < ping.pose.tilt_rad - math.radians(55.0)
        lit[name] = shown_share(picture[above][:, ring])
    assert lit["demo"] < 0.05
    assert lit["test"] > 0.3


def test_the_demo_facets_are_shaded_harder_and_their_beams_are_wider():
    demo, test = PROFILES["demo"], PROFILES["test"]
    assert demo.taper.side_lobe_db == 38.0
    assert demo.beam_width_rad(1.65e-3) > 1.05 * test.beam_width_rad(1.65e-3)


def load_faults(**faults):
    """The faults of a scene file with these parts."""
    return scene_of(scene_file(name="x", faults=faults)).faults


def test_a_spoke_of_a_second_sonar_at_its_stock_level_is_seen_at_gain_65():
    scene = bare(PEAR, faults=load_faults(other_sonar=OtherSonarPart()), bottom=None, surface=False)
    head = SimulatedHead(scene, seed=4)
    receiver, longest = Receiver(ReceiverSetup(gain=65.0)), 0.0
    for number in range(20):
        ping = head.listen(number / 15.0)
        picture = receiver.develop(ping)
        beam = int(np.argmin(np.abs(ping.setup.beam_angle_rad - math.radians(-50.0))))
        longest = max(longest, float(np.sum(picture[beam, ping.setup.range_m > 2.0] >= first_shown("soot"))) * ping.setup.bin_m)
    # A stroke of more than a meter along its beam.
    assert longest > 1.0


def test_a_console_sonar_left_on_rings_through_the_picture_and_only_where_its_harmonics_fall():
    picture = {}
    for name, console in (("off", None), ("on", ConsolePart()), ("elsewhere", ConsolePart(carrier_khz=200.0))):
        head = SimulatedHead(bare(PEAR, faults=load_faults(console=console), bottom=None, surface=False), seed=4)
        receiver = Receiver(ReceiverSetup(gain=68.0))
        picture[name] = max(shown_share(receiver.develop(head.listen(number / 15.0))[:, 120:]) for number in range(12))
    assert picture["on"] > picture["off"] + 0.02
    assert picture["elsewhere"] < picture["off"] + 0.005
    # 455 kHz: its second harmonic, 26 dB down, lies 10 kHz beside 900 kHz, half a band: 6 dB more (closed form of our own rule).
    console = Console(carrier_hz=455e3, ping_hz=18.0, level_db=-60.0)
    assert console.in_band_db(carrier_hz=900e3, band_hz=20e3) == pytest.approx(-60.0 - 26.0 - 6.02, abs=0.01)


def test_a_held_boat_wanders_and_swings_with_bursts_of_thrust_that_leave_bubbles():
    boat = PEAR.boat
    poses = [pose_at(boat, time_s=0.1 * step, depth_m=0.4, tilt_rad=0.0, aim_rad=0.0) for step in range(1800)]
    wander = max(np.ptp([pose.y_m for pose in poses]), np.ptp([pose.x_m for pose in poses])) / 0.3048
    swing = math.degrees(np.ptp([pose.heading_rad for pose in poses]))
    # Common practice, no source: 3 to 6 ft, 10 to 30 deg.
    assert 3.0 <= wander <= 6.0
    assert 10.0 <= swing <= 30.0
    pushes = [hold_thrust(boat, 0.1 * step) for step in range(600)]
    assert 0.1 < np.mean(np.array(pushes) > 0.0) < 0.4
    assert hold_thrust(STILL, 3.0) == 0.0
    world = World(replace(PEAR, faults=Faults(thrust=0.8)), seed=1, scripted=False)
    world.advance(3.0)
    place, strength, _ = world._bubbles.now(world.time_s)
    assert len(strength) > 100
    assert place[:, 2].min() > 0.0
    assert np.mean(place[:, 1]) < 0.0


def test_bubbles_thrown_are_braked_and_a_boat_that_crosses_leaves_its_wake_as_it_goes():
    bubbles = Bubbles(np.random.default_rng(1))
    bubbles.add(np.array([0.0, 5.0, 3.0]), count=4, spread_m=0.0, time_s=0.0, velocity_m_s=np.tile([1.2, 0.0, 0.0], (4, 1)))
    for step in range(60):
        bubbles.step(time_s=0.05 * step, dt_s=0.05)
    # v tau (1 - exp(-t / tau)), tau 1.2 s, after 3 s (closed form).
    assert bubbles.now(2.95)[0][:, 0] == pytest.approx(1.2 * 1.2 * (1.0 - math.exp(-3.0 / 1.2)), rel=0.05)
    wake = Wake(
        x_m=0.0, y_m=6.0, radius_m=1.0, depth_m=2.0, strength_db=-44.0, age_s=0.0, crosses_s=10.0, length_m=40.0, bearing_rad=math.pi / 2.0
    )
    plume = Plume(wake, np.random.default_rng(2))
    there = [float(np.mean(plume.amplitude(time_s) > 0.0)) for time_s in (5.0, 10.0, 15.0)]
    assert there == pytest.approx([0.0, 0.5, 1.0], abs=0.06)
    assert np.ptp(plume.places_m(12.0)[:, 0]) > 35.0


def test_a_fish_on_the_line_flashes_and_leaves_bubbles():
    scene = replace(PEAR, fish=tuple(replace(group, mood=0.95) for group in PEAR.fish[:2]))
    world = World(scene, seed=5, longest_step_s=0.1)
    most, turned = 0, []
    while world.time_s < 200.0:
        world.advance(world.time_s + 0.1)
        on = next((fish for fish in world.fish if fish.mode is Mode.HOOKED), None)
        if on is not None:
            most = max(most, len(world._bubbles.now(world.time_s)[1]))
            turned.append(on.heading_rad)
    assert most > 10
    assert np.abs(np.diff(turned)).max() > 0.2


def test_ghosts_by_way_of_a_rough_surface_flicker_and_by_a_calm_one_stand():
    rock = load_scene("rock-shallows")
    swing = {}
    for wind in (0.0, 4.0):
        scene = bare(rock, bottom=flat_ground(rock), water=replace(rock.water, wind_m_s=wind), noise=False)
        acquisition = {"fan": Fan.BELOW, "tilt_rad": 0.0, "down_to_m": 8.0, "reach_m": 8.0}
        head = SimulatedHead(scene, seed=1, acquisition=replace(first_acquisition(scene), **acquisition))
        levels = []
        for number in range(16):
            ping = head.listen(0.2 + 0.1 * number)
            cell = int(np.argmin(np.abs(ping.setup.range_m - (2.1 + 2.5))))
            levels.append(float(db(np.mean(10.0 ** (ping.echo_level_db[94:98, cell - 3 : cell + 4] / 10.0)))))
        swing[wind] = float(np.std(levels))
    assert swing[4.0] > 1.0
    assert swing[4.0] > 2.0 * swing[0.0]


def test_braid_glints_where_it_stands_square_to_the_sound_and_fluorocarbon_is_never_seen():
    # A row of points square to the sight 8 m away, and the same row end-on.
    square = np.column_stack((np.zeros(20), np.full(20, 8.0), np.linspace(1.0, 2.2, 20)))
    along = np.column_stack((np.zeros(20), np.linspace(7.0, 8.2, 20), np.full(20, 1.0)))
    origin = np.array([0.0, 0.0, 1.6])
    gain_db = 20.0 * np.log10(line_square(square, origin)[9] / line_square(along, origin)[9])
    assert 10.0 <= gain_db <= 20.0
    # A beam's width of braid (16 cm, its centimeters at random) against what shows at Gain 70 (brightness 19 of 255 over 37.5 dB).
    shows = BLACK_DB - 3.0 + first_shown("soot") / 255.0 * float(span_db(50.0))
    for line, seen in ((Line.BRAID, True), (Line.FLUOROCARBON, False)):
        level = LINE_TS_DB[line] + 10.0 * math.log10(16.0) + 20.0 * math.log10(line_square(square, origin)[9])
        assert (level > shows) is seen


def test_a_jig_and_the_weight_above_it_are_two_dots():
    tied = tackle(kind=LureKind.JIG, head_kg=0.0018, weight_kg=0.0018)
    scene = bare(PEAR, bottom=None, surface=False, noise=False, targets=tuple(
        PointTarget(x_m=0.0, y_m=6.0, z_m=z, ts_db=tied.mark_db) for z in (4.0, 4.0 - tied.weight_at_m)
    ))  # fmt: skip
    power, _, ping = mean_power(scene, seeds=(1,), pings=1)
    dots = [box(power, ping, 6.0, z, beams=1, bins=2).max() for z in (4.0, 4.0 - tied.weight_at_m)]
    between = box(power, ping, 6.0, 4.0 - 0.5 * tied.weight_at_m, beams=0, bins=1).max()
    assert db(min(dots)) - db(between) > 6.0


def over_surround(quieting, head, ident, *, seconds, from_s=0.0, faster_m_s=-1.0):
    """Return an object's mean level over its surround [dB] and how often it is shown, while it moves faster than that."""
    receiver, table = Receiver(ReceiverSetup(gain=70.0, quieting_pings=quieting)), ink_lightness("soot")
    receiver.settling_s = 0.02
    over, shown = [], []
    for number in range(round(20 * seconds)):
        ping = head.listen(from_s + number / 20.0)
        picture = receiver.develop(ping)
        for row in head.rows():
            if row.id == ident and row.in_fan and row.range_m > 3.0 and row.speed_m_s > faster_m_s and number > 5:
                mark, ground = _mark_and_surround(row, ping.setup, picture)
                over.append((mark - ground) / 255.0 * float(span_db(50.0)))
                shown.append(abs(table[int(mark)] - table[int(ground)]) >= SHOWN_LIGHTNESS)
    return float(np.mean(over)), float(np.mean(shown))


def still_flat(**angler):
    """Shallow, nearly calm water without fish, the boat still, and a lure."""
    flat = load_scene("mud-flat")
    return replace(flat, boat=STILL, fish=(), water=replace(flat.water, wind_m_s=1.0), angler=replace(flat.angler, **angler))


def reeled(quieting):
    head = SimulatedHead(still_flat(), seed=901, scripted=False)
    head.world.throw(0.0, 12.0)
    head.listen(3.0)
    head.world.reel(True)
    return over_surround(quieting, head, "lure", seconds=10.0, from_s=3.05, faster_m_s=0.4)


def falling(quieting):
    head = SimulatedHead(replace(bare(PEAR, angler=replace(PEAR.angler, head_kg=0.0142))), seed=901, scripted=False)
    # Near the boat it falls along the beams: through its range cell in a ping.
    head.world.throw(0.0, 2.5)
    return over_surround(quieting, head, "lure", seconds=6.0, faster_m_s=0.6)


def bolting(quieting):
    group = replace(PEAR.fish[0], count=1, x_m=0.0, y_m=7.0, spread_m=0.0, rise_m=0.0)
    head = SimulatedHead(bare(PEAR, fish=(group,)), seed=901, scripted=False)
    head.listen(0.5)
    fish = head.world.fish[0]
    fish.bolt(from_m=fish.position_m + np.array([0.0, -1.0, 0.0]), time_s=0.5)
    return over_surround(quieting, head, "fish1", seconds=0.8, from_s=0.55, faster_m_s=1.0)


@pytest.mark.parametrize(("what", "least_db"), [(reeled, 6.0), (falling, 6.0), (bolting, 3.0)])
def test_five_pings_of_quieting_take_much_of_what_moves_and_nothing_of_what_hangs(what, least_db):
    assert what(1)[0] - what(5)[0] >= least_db
    hung = []
    for quieting in (1, 5):
        head = SimulatedHead(still_flat(), seed=901, scripted=False)
        head.world.hang(0.0, 7.0, 1.2)
        head.listen(0.05)
        head.world.lure.tackle = replace(head.world.lure.tackle, sink_m_s=0.0)
        hung.append(over_surround(quieting, head, "lure", seconds=2.0, from_s=0.1)[0])
    assert abs(hung[0] - hung[1]) < 2.0


def test_five_pings_of_quieting_delete_a_reeled_jig_that_one_ping_shows():
    assert reeled(1)[1] > 0.9
    assert reeled(5)[1] < 0.5


def erased_fish(scene, seed, ghost_cut_db):
    """Return which fish a set-up erases over ten seconds, and its clutter fill [%]."""
    head, samples = SimulatedHead(scene, seed=seed), []
    for number in range(24):
        ping = head.listen(3.0 + 0.4 * number)
        samples.append((ping, head.rows()))
    setup = ReceiverSetup(gain=68.0, ghost_cut_db=ghost_cut_db)
    found = readings_under(setup, samples, head.acquisition.window, settling_s=0.02)
    return [name for name in found.erased if name.startswith("fish")], found.clutter_fill_pct


def test_ghost_cut_costs_fish_beside_strong_wood_at_22_db():
    piling = load_scene("piling")
    found = {cut: [erased_fish(piling, seed, cut) for seed in (901, 904)] for cut in (0.0, 34.0, 22.0)}
    lost = {cut: sum(len(fish) for fish, _ in rows) for cut, rows in found.items()}
    assert lost[0.0] == lost[34.0] == 0
    assert lost[22.0] >= 1
    assert found[22.0][0][1] < found[0.0][0][1]


@pytest.mark.parametrize("name", sorted(INKS))
def test_an_echo_of_the_jigs_level_stands_3_to_1_over_the_ground(name):
    # WCAG 2.2 contrast, (L1 + 0.05) / (L2 + 0.05), of relative luminances; the jig at the card's Gain some 11 dB over black at Punch 50.
    table = INKS[name].table.astype(float) / 255.0
    linear = np.where(table <= 0.04045, table / 12.92, ((table + 0.055) / 1.055) ** 2.4)
    light = linear @ np.array([0.2126, 0.7152, 0.0722])
    jig, ground = light[round(255.0 * 11.0 / float(span_db(50.0)))], light[0]
    assert (max(jig, ground) + 0.05) / (min(jig, ground) + 0.05) >= 3.0


@pytest.mark.parametrize("fan", ["ahead", "flat"])
def test_a_transducer_in_the_ground_hears_no_water_and_breaks_nothing(fan):
    # A hump of 28 m over 6 m of water: no boat floats there, but a file may say so.
    scene = {"name": "aground", "bottom": {"depth_m": 6.1, "features": [{"kind": "hump", "change_m": -28.0, "width_m": 30.0}]}}
    head = SimulatedHead(parse_scene(json.dumps(scene | {"transducer": {"fan": fan, "depth_m": 3.0}})), seed=921)
    for number in range(4):
        assert np.isfinite(head.listen(number / 5.0).echo_level_db).all()
