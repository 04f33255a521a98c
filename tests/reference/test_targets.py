import math

import fluids.drag
import numpy as np
import pytest

from mudlamp.core.casting.heads import (
    TUNGSTEN_ALLOY_KG_M3,
    VISCOSITY_PA_S,
    WATER_KG_M3,
    head_radius_m,
    head_target_strength_db,
    sink_speed_m_s,
    sphere_drag,
)
from mudlamp.core.casting.lures import LureKind, Material, tackle
from mudlamp.core.errors import DomainError
from mudlamp.core.scene.species import (
    BODIES,
    Species,
    bladder_aspect,
    bodies_of,
    bodies_scatterers,
    love_dorsal_db,
    side_target_strength_db,
)
from mudlamp.core.units import FOOT_M, OUNCE_KG
from tests.reference import load

VALUES = load("targets")
# Half way out, where flank and tail have the mean of their beat.
TAIL = math.sqrt(0.5)


def body_scatterers(*, species, length_m, position_m, axis, sideways, sight, carrier_hz, tail_sway):
    """One fish through the door that the simulator uses for all of them."""
    rows = {"position_m": position_m, "axis": axis, "sideways": sideways, "sight": sight}
    body = bodies_of([(species, length_m)], carrier_hz=carrier_hz)
    place, amplitude = bodies_scatterers(
        body, **{name: np.asarray(row, float)[None, :] for name, row in rows.items()}, tail_sway=np.array([tail_sway])
    )
    return place[0], amplitude[0]


def test_heads_have_the_strength_of_a_large_sphere():
    table = VALUES["heads"]
    found = [head_target_strength_db(mass_kg=ounces * OUNCE_KG) for ounces in table["ounces"]]
    np.testing.assert_allclose(found, table["lead_db"], atol=0.01)
    found = [head_target_strength_db(mass_kg=ounces * OUNCE_KG, density_kg_m3=19250.0) for ounces in table["ounces"]]
    np.testing.assert_allclose(found, table["tungsten_db"], atol=0.01)


def test_bare_heads_sink_as_the_correlations_say():
    table = VALUES["heads"]
    for ounces, low, high in zip(table["ounces"], table["bare_low_m_s"], table["bare_high_m_s"], strict=True):
        assert low * 0.99 <= sink_speed_m_s(mass_kg=ounces * OUNCE_KG, drag_area_m2=0.0) <= high * 1.01


def test_tungsten_sounds_weaker_and_sinks_faster_than_lead():
    table = VALUES["heads"]
    for ounces, alloy in zip(table["ounces"], table["alloy_m_s"], strict=True):
        lead, tungsten = (tackle(kind=LureKind.JIG, head_kg=ounces * OUNCE_KG, material=material) for material in Material)
        assert tungsten.ts_db < lead.ts_db
        assert tungsten.sink_m_s > lead.sink_m_s
        bare = sink_speed_m_s(mass_kg=ounces * OUNCE_KG, density_kg_m3=TUNGSTEN_ALLOY_KG_M3, drag_area_m2=0.0)
        assert bare == pytest.approx(alloy, rel=0.09)


@pytest.mark.parametrize("kind", LureKind)
def test_lures_sound_and_sink_as_their_heads_and_sizes_allow(kind):
    light, heavy = (tackle(kind=kind, head_kg=ounces * OUNCE_KG) for ounces in (1 / 16, 3 / 4))
    assert heavy.sink_m_s > light.sink_m_s
    # No lure outshines a foot-long fish, none is weaker than the lightest bare head (bounds of our own invented parts; order of magnitude).
    assert VALUES["heads"]["lead_db"][0] - 3.0 <= light.ts_db <= heavy.ts_db <= -40.0
    hung = tackle(kind=kind, head_kg=OUNCE_KG / 16, weight_kg=OUNCE_KG / 2)
    assert hung.weight_at_m is not None
    assert hung.ts_db == light.ts_db


@pytest.mark.parametrize("reynolds", [1.0, 10.0, 1e3, 1e4, 1e5])
def test_sphere_drag_is_the_published_correlation(reynolds):
    # Morrison (2013), as the fluids library has it.
    assert sphere_drag(reynolds) == pytest.approx(fluids.drag.Morrison(reynolds), rel=1e-3)


def test_a_dressed_sixteenth_falls_about_a_foot_a_second():
    # Common practice, no source: 1 ft/s, give or take 30 %.
    assert sink_speed_m_s(mass_kg=OUNCE_KG / 16.0) == pytest.approx(FOOT_M, rel=0.3)


def test_terminal_speed_balances_weight_buoyancy_and_drag():
    mass, density = OUNCE_KG / 8.0, 11340.0
    speed = sink_speed_m_s(mass_kg=mass)
    radius = head_radius_m(mass_kg=mass)
    area = sphere_drag(WATER_KG_M3 * speed * 2 * radius / VISCOSITY_PA_S) * math.pi * radius**2 + 3.4e-4
    assert 0.5 * WATER_KG_M3 * area * speed**2 == pytest.approx(mass * 9.80665 * (1 - WATER_KG_M3 / density), rel=1e-4)


def test_a_head_of_no_weight_is_refused():
    with pytest.raises(DomainError, match="mass_kg is 0 kg"):
        head_target_strength_db(mass_kg=0.0)


def test_loves_regression_is_computed_right():
    table = VALUES["love"]
    np.testing.assert_allclose(
        [love_dorsal_db(length_m=length, carrier_hz=900e3) for length in table["length_m"]], table["dorsal_db"], atol=0.01
    )


def test_the_bladder_follows_the_prolate_spheroid():
    table = VALUES["spheroid"]
    a, b = table["half_length_m"], table["half_width_m"]
    cosine = np.cos(np.radians(table["angle_deg"]))
    found = 20.0 * math.log10(a / 2.0) + 10.0 * np.log10(bladder_aspect(cosine, b / a))
    np.testing.assert_allclose(found, table["ts_db"], atol=0.01)


@pytest.mark.parametrize("species", Species)
@pytest.mark.parametrize("length_m", [0.2, 0.45])
def test_every_kind_of_fish_keeps_its_mean_level_and_stays_near_loves(species, length_m):
    rng = np.random.default_rng(3)
    off = np.clip(rng.normal(0.0, math.radians(10.0), 3000), -math.radians(25.0), math.radians(25.0))
    body = bodies_of([(species, length_m)] * len(off), carrier_hz=900e3)
    axis = np.stack((np.cos(off), np.sin(off), np.zeros_like(off)), axis=1)
    sight = np.tile([0.0, 1.0, 0.0], (len(off), 1))
    _, amplitude = bodies_scatterers(
        body, position_m=np.zeros_like(axis), axis=axis, sideways=sight, sight=sight, tail_sway=TAIL * np.ones_like(off)
    )
    level = 10.0 * math.log10(np.mean(np.sum(amplitude**2, axis=1)))
    # Incoherent mean of 3000 poses: its scatter is under 0.1 dB.
    assert level == pytest.approx(side_target_strength_db(species=species, length_m=length_m, carrier_hz=900e3), abs=0.3)
    # Love's regression alone is a sanity band of 6 dB (from memory).
    assert abs(level - love_dorsal_db(length_m=length_m, carrier_hz=900e3)) <= 6.0


@pytest.mark.parametrize("index", range(4))
def test_fish_sound_like_digitized_fish_side_on(index):
    table = VALUES["fish"]
    species, length = Species(table["species"][index]), table["length_m"][index]
    rng = np.random.default_rng(1)
    powers = []
    for off in np.clip(rng.normal(0.0, math.radians(10.0), 300), -math.radians(25.0), math.radians(25.0)):
        axis = np.array([math.cos(off), math.sin(off), 0.0])
        place, amplitude = body_scatterers(
            species=species,
            length_m=length,
            position_m=np.zeros(3),
            axis=axis,
            sideways=np.array([-axis[1], axis[0], 0.0]),
            sight=np.array([0.0, 1.0, 0.0]),
            carrier_hz=900e3,
            tail_sway=TAIL,
        )
        phase = 2.0 * (2 * math.pi * 900e3 / 1480.0) * place[:, 1] + rng.uniform(0, 2 * math.pi, len(amplitude))
        powers.append(abs(np.sum(amplitude * np.exp(1j * phase))) ** 2)
    assert 10.0 * math.log10(np.mean(powers)) == pytest.approx(table["side_db"][index], abs=table["tolerance_db"])


def test_a_fish_end_on_is_weaker_but_does_not_vanish():
    for body in BODIES.values():
        end_on = bladder_aspect(np.array(1.0), body.bladder_slenderness)
        assert end_on < 0.01
    along = {"position_m": np.zeros(3), "axis": np.array([0.0, 1.0, 0.0]), "sideways": np.array([1.0, 0.0, 0.0]), "carrier_hz": 900e3}
    _, side = body_scatterers(species=Species.CRAPPIE, length_m=0.3, sight=np.array([1.0, 0.0, 0.0]), tail_sway=TAIL, **along)
    _, end = body_scatterers(species=Species.CRAPPIE, length_m=0.3, sight=np.array([0.0, 1.0, 0.0]), tail_sway=TAIL, **along)
    fall = 10.0 * math.log10(np.sum(side**2) / np.sum(end**2))
    assert 2.0 < fall < 12.0
