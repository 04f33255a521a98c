"""A water from a seed, over the whole range that an angler meets. Where things stand is plausible; the shares are ours."""

import math
from dataclasses import dataclass, replace

from mudlamp.core.casting.lures import Material
from mudlamp.core.chance import stream
from mudlamp.core.controls import DOWN_TO
from mudlamp.core.ping import Fan
from mudlamp.core.scene import model
from mudlamp.core.scene.draw_life import LifeDraw
from mudlamp.core.scene.draw_shares import HEADS_OZ, HEAVY, HEAVY_OZ, LINES, LURES
from mudlamp.core.scene.kinds_of_water import WATER_KINDS, WaterKind
from mudlamp.core.sonar.interference import Console, OtherSonar
from mudlamp.core.sonar.transducer import usual_tilt_rad
from mudlamp.core.units import OUNCE_KG

# Waters with no lure; with another sonar near, with a console sonar left on, with a boat that drifts; with a fan that is mounted steeper or
# flatter than usual.
NO_LURE = 0.12
SONAR_SHARE, CONSOLE_SHARE, DRIFTING_SHARE, TILTED_SHARE = 0.12, 0.05, 0.2, 0.3


@dataclass(frozen=True, slots=True, kw_only=True)
class DrawnWater:
    """A drawn water: its kind, the scene, how often the sounder pings [Hz]."""

    kind: WaterKind
    scene: model.Scene
    ping_hz: float


def draw_water(seed: int, kind: WaterKind | None = None, *, evenly: bool = False) -> DrawnWater:
    """Return the water of a seed: one of WATER_KINDS, or of the kind given; `evenly`: all species as often, wherever they are at home."""
    rng = stream(seed, "draw")
    chosen = WATER_KINDS[int(rng.integers(len(WATER_KINDS)))]
    return _Draw(seed, kind or chosen, rng, evenly=evenly).water()


class _Draw(LifeDraw):
    """One draw: what is drawn later stands on what was drawn before."""

    def water(self) -> DrawnWater:
        """Draw all of it."""
        rng = self._rng
        self._put_cover()
        wind = round(float(rng.gamma(2.0, 1.4)), 1)
        scene = model.Scene(
            name=f"drawn-{self._seed}",
            title=f"Drawn water {self._seed}: {self._kind}",
            teaches="",
            water=model.Water(
                temperature_degc=self._temperature_degc,
                secchi_m=round(0.25 * 2.0 ** float(rng.uniform(0.0, 5.0)), 2),
                wind_m_s=min(wind, 8.0),
                thermocline=self._thermocline(),
            ),
            bottom=self._plan,
            surface=True,
            noise=True,
            boat=self._boat(),
            transducer=self._transducer(),
            cover=tuple(self._cover),
            fish=self._fish(),
            bait=self._bait(),
            insects=self._insects(),
            wakes=self._wakes(),
            angler=self._angler(),
            faults=self._faults(),
        )
        most_hz = min(20.0, 0.95 * 1430.0 / (2.0 * (self._reach_m + 1.0)))
        return DrawnWater(kind=self._kind, scene=scene, ping_hz=round(float(rng.uniform(8.0, max(most_hz, 8.5))), 1))

    def _boat(self) -> model.Boat:
        held = not self._happens(DRIFTING_SHARE)
        return model.Boat(
            x_m=0.0,
            y_m=0.0,
            heading_rad=0.0,
            speed_m_s=0.0,
            sway_rad=math.radians(self._between(1.0, 13.0)),
            drift_m=self._between(0.15, 1.0),
            pitch_rad=math.radians(self._between(0.1, 1.5)),
            held=held,
            wind_from_rad=math.radians(self._between(-180.0, 180.0)),
            current_m_s=0.0 if held else self._between(0.0, 0.08),
            current_toward_rad=math.radians(self._between(-180.0, 180.0)),
        )

    def _transducer(self) -> model.Transducer:
        rng, fan = self._rng, self._kind.fan
        own = self._happens(0.5)
        found = model.Transducer(
            profile="demo" if self._happens(0.7) else "test",
            fan=fan,
            depth_m=self._between(0.2, 1.0),
            reach_m=self._reach_m,
            down_to_m=DOWN_TO.held(round(self._down_to_m, 1)),
            look_back_m=0.6,
            tilt_rad=math.radians(self._between(74.0, 86.0)) if fan is Fan.FLAT else None,
            fan_rad=math.radians(self._between(95.0, 145.0)) if own else None,
            thickness_rad=math.radians(self._between(11.0, 26.0)) if own else None,
            carrier_hz=1000.0 * round(float(rng.uniform(500.0, 1200.0)), 0) if own else None,
            facets=int(rng.integers(1, 5)) if own else None,
        )
        if fan is not Fan.AHEAD or not self._happens(TILTED_SHARE):
            return found
        usual_deg = math.degrees(usual_tilt_rad(fan, found.shape))
        return replace(found, tilt_rad=math.radians(round(max(usual_deg + self._between(-8.0, 8.0), 5.0), 1)))

    def _faults(self) -> model.Faults:
        if self._happens(CONSOLE_SHARE):
            carrier_hz = (200e3, 455e3, 800e3)[int(self._rng.integers(3))]
            return model.Faults(
                console=Console(carrier_hz=carrier_hz, ping_hz=self._between(8.0, 25.0), level_db=self._between(-70.0, -50.0))
            )
        if not self._happens(SONAR_SHARE):
            return model.Faults()
        other = OtherSonar(
            ping_hz=self._between(8.0, 20.0), angle_rad=math.radians(self._between(-55.0, 55.0)), level_db=self._between(-98.0, -85.0)
        )
        return model.Faults(other_sonar=other)

    def _angler(self) -> model.ScriptedAngler | None:
        if self._happens(NO_LURE):
            return None
        lure = LURES[int(self._rng.integers(len(LURES)))]
        heads = HEAVY_OZ if lure in HEAVY else HEADS_OZ
        return model.ScriptedAngler(
            head_kg=heads[int(self._rng.integers(len(heads)))] * OUNCE_KG,
            lure=lure,
            material=Material.TUNGSTEN if self._happens(0.3) else Material.LEAD,
            line=tuple(LINES)[int(self._rng.choice(len(LINES), p=list(LINES.values())))],
            weight_kg=1 / 32 * OUNCE_KG if self._happens(0.1) else 0.0,
        )
