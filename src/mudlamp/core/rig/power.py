"""Power: voltage at the unit and hours left, from battery, loads and cable."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from mudlamp.core.errors import require_range

COPPER_OHM_M = 1.7241e-8
COPPER_PER_K = 0.00393
GAUGE = (4, 22)
CABLE_M = (0.1, 30.0)
CAPACITY_AH = (1.0, 400.0)
CHARGE = (0.0, 1.0)
LOAD_W = (0.0, 2000.0)
AMBIENT_DEGC = (-20.0, 60.0)
# Below it the live picture degrades for no visible reason; from 12 V on all is well (common practice).
LEAST_V = 11.5
GOOD_V = 12.0


class Chemistry(StrEnum):
    """What is in the battery."""

    FLOODED = "flooded"
    AGM = "agm"
    LITHIUM = "lithium"


# Voltage at a light load by charge (0, 0.1, 0.2, 0.4, 0.6, 0.8, 1), and the share of the capacity that should be used. Our assumption,
# within 0.2 V (docs/levels.md): lead is kept over half, lithium iron phosphate over a tenth.
_CHARGE = (0.0, 0.1, 0.2, 0.4, 0.6, 0.8, 1.0)
_VOLTAGE = {
    Chemistry.FLOODED: (10.5, 11.3, 11.55, 11.9, 12.2, 12.4, 12.65),
    Chemistry.AGM: (10.6, 11.5, 11.75, 12.05, 12.3, 12.55, 12.8),
    Chemistry.LITHIUM: (10.0, 12.8, 12.9, 13.1, 13.15, 13.25, 13.4),
}
KEEP_SHARE = {Chemistry.FLOODED: 0.5, Chemistry.AGM: 0.5, Chemistry.LITHIUM: 0.1}


class Verdict(StrEnum):
    """What the voltage at the unit means."""

    GOOD = "good"
    THIN = "thin"
    LOW = "low"
    NOT_POSSIBLE = "not_possible"


@dataclass(frozen=True, slots=True, kw_only=True)
class Load:
    """Something that draws: its power [W], and whether it hangs on the unit's cable (else on a cable of its own)."""

    power_w: float
    on_cable: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Supply:
    """Battery and cable: chemistry, capacity [Ah], charge (0 to 1), cable length one way [m], American wire gauge, temperature [degC]."""

    chemistry: Chemistry
    capacity_ah: float
    charge: float
    cable_m: float
    gauge: int
    ambient_degc: float


@dataclass(frozen=True, slots=True, kw_only=True)
class PowerBudget:
    """What comes of it: voltage at battery and unit [V], drop [V], current in the cable and from the battery [A].

    `hours` are left until the battery is down to what should be kept, `good_hours` until the unit falls under LEAST_V, the sooner of the
    two being the day's.
    """

    battery_v: float
    unit_v: float
    drop_v: float
    cable_a: float
    battery_a: float
    hours: float
    good_hours: float
    verdict: Verdict


def wire_ohm_m(gauge: int, *, ambient_degc: float = 20.0) -> float:
    """Return the resistance of one copper conductor [ohm/m] of a wire gauge (AWG) at a temperature [degC].

    Source: resistivity of annealed copper, 1.7241e-8 ohm m at 20 degC, 0.393 % a kelvin; diameter 0.127 mm x 92^((36 - n) / 39). Check
    values: tests/reference/rig.toml.
    """
    require_range("gauge", gauge, *GAUGE)
    diameter = 0.127e-3 * 92.0 ** ((36.0 - gauge) / 39.0)
    return COPPER_OHM_M * (1.0 + COPPER_PER_K * (ambient_degc - 20.0)) / (math.pi * diameter**2 / 4.0)


def cable_ohm(supply: Supply) -> float:
    """Return the resistance of both conductors of the cable [ohm]."""
    return 2.0 * supply.cable_m * wire_ohm_m(supply.gauge, ambient_degc=supply.ambient_degc)


def checked_supply(supply: Supply) -> Supply:
    """Return `supply` where it can be; raise DomainError naming the first figure that cannot."""
    require_range("capacity_ah", supply.capacity_ah, *CAPACITY_AH, "Ah")
    require_range("charge", supply.charge, *CHARGE)
    require_range("cable_m", supply.cable_m, *CABLE_M, "m")
    require_range("gauge", supply.gauge, *GAUGE)
    require_range("ambient_degc", supply.ambient_degc, *AMBIENT_DEGC, "degC")
    return supply


def battery_voltage(chemistry: Chemistry, charge: float) -> float:
    """Return a battery's voltage [V] at a charge (0 to 1). Source: our assumption, see _VOLTAGE."""
    return float(np.interp(charge, _CHARGE, _VOLTAGE[chemistry]))


def unit_voltage(*, battery_v: float, ohm: float, power_w: float) -> float | None:
    """Return the voltage at a load of constant power behind a resistance [V], or None where the cable cannot carry it.

    Source: Ohm's law; V^2 - V_b V + P R = 0, the upper root.
    """
    under = battery_v**2 - 4.0 * power_w * ohm
    return None if under < 0.0 else 0.5 * (battery_v + math.sqrt(under))


def power_budget(supply: Supply, loads: Sequence[Load]) -> PowerBudget:
    """Return voltage at the unit and hours left; raise DomainError for a figure out of range."""
    checked_supply(supply)
    for load in loads:
        require_range("power_w", load.power_w, *LOAD_W, "W")
    ohm = cable_ohm(supply)
    cable_w = sum(load.power_w for load in loads if load.on_cable)
    other_w = sum(load.power_w for load in loads if not load.on_cable)
    battery = battery_voltage(supply.chemistry, supply.charge)
    unit = unit_voltage(battery_v=battery, ohm=ohm, power_w=cable_w)
    if unit is None:
        return PowerBudget(
            battery_v=battery,
            unit_v=0.0,
            drop_v=battery,
            cable_a=0.0,
            battery_a=0.0,
            hours=0.0,
            good_hours=0.0,
            verdict=Verdict.NOT_POSSIBLE,
        )
    cable_a = cable_w / unit
    battery_a = cable_a + other_w / battery
    spare = max(supply.charge - KEEP_SHARE[supply.chemistry], 0.0)
    hours = math.inf if battery_a == 0.0 else spare * supply.capacity_ah / battery_a
    good = max(supply.charge - _charge_at_limit(supply.chemistry, ohm, cable_w), 0.0)
    good_hours = math.inf if battery_a == 0.0 else good * supply.capacity_ah / battery_a
    verdict = Verdict.GOOD if unit >= GOOD_V else Verdict.THIN if unit >= LEAST_V else Verdict.LOW
    return PowerBudget(
        battery_v=battery,
        unit_v=unit,
        drop_v=battery - unit,
        cable_a=cable_a,
        battery_a=battery_a,
        hours=hours,
        good_hours=good_hours,
        verdict=verdict,
    )


def _charge_at_limit(chemistry: Chemistry, ohm: float, power_w: float) -> float:
    """Return the charge (0 to 1) at which the unit has just LEAST_V, 1 where even a full battery does not reach it."""
    wanted = LEAST_V + power_w / LEAST_V * ohm
    return float(np.interp(wanted, _VOLTAGE[chemistry], _CHARGE, left=0.0, right=1.0))
