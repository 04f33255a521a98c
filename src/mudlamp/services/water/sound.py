"""Sound in one water, and the list of stock scenes: what shell and API both answer."""

from dataclasses import dataclass

from mudlamp.core.scene.model import Scene
from mudlamp.core.units import degc_from_degf, feet, meters
from mudlamp.core.water.sound import absorption_db_per_m, ping_limit_hz, sound_speed_m_s
from mudlamp.formats.scene.file import stock_scenes


@dataclass(frozen=True, slots=True, kw_only=True)
class SoundInWater:
    """Sound speed [m/s], absorption one way [dB/m], the most pings a second [Hz]."""

    sound_speed_m_s: float
    absorption_db_m: float
    ping_limit_hz: float


def sound_in_water(*, temp_f: float, freq_khz: float, reach_ft: float) -> SoundInWater:
    """Return how sound does in water of a temperature [deg F], at a carrier [kHz], out to a reach [ft]."""
    temperature = degc_from_degf(temp_f)
    speed = float(sound_speed_m_s(temperature_degc=temperature))
    return SoundInWater(
        sound_speed_m_s=speed,
        absorption_db_m=float(absorption_db_per_m(carrier_hz=freq_khz * 1000.0, temperature_degc=temperature)),
        ping_limit_hz=ping_limit_hz(range_m=meters(reach_ft), speed_m_s=speed),
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class SceneRow:
    """A scene: name, title, what it teaches, depth and reach [ft], fish."""

    name: str
    title: str
    teaches: str
    depth_ft: float | None
    reach_ft: float
    fish: int


def row_of(scene: Scene) -> SceneRow:
    """Return a scene's row."""
    return SceneRow(
        name=scene.name,
        title=scene.title,
        teaches=scene.teaches,
        depth_ft=None if scene.depth_m is None else round(feet(scene.depth_m), 1),
        reach_ft=round(feet(scene.transducer.reach_m), 1),
        fish=scene.fish_count,
    )


def scene_rows() -> list[SceneRow]:
    """Return a row per stock scene."""
    return [row_of(scene) for scene in stock_scenes()]
