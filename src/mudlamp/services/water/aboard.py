"""What is aboard: the rig, and what is tied on."""

from dataclasses import dataclass, field

from mudlamp.core.advice.answers import Answers, Technique, situation
from mudlamp.core.advice.forecast import Gear
from mudlamp.core.casting.lures import Line, LureKind, tackle
from mudlamp.core.rig.profile import BoxedLure, RigProfile
from mudlamp.core.scene.species import Species
from mudlamp.core.sonar.transducer import PROFILES, Profile
from mudlamp.core.units import OUNCE_KG


@dataclass(frozen=True, slots=True, kw_only=True)
class Aboard:
    """What is aboard: the rig, and what is tied on."""

    rig: RigProfile = field(default_factory=RigProfile)
    lure: BoxedLure = field(default_factory=BoxedLure)
    line: Line = Line.FLUOROCARBON

    @property
    def profile(self) -> Profile:
        """The transducer as the simulator knows it."""
        own = self.rig.transducer
        return PROFILES["demo"].like(fan_rad=own.fan_rad, thickness_rad=own.thickness_rad, carrier_hz=own.carrier_hz, facets=own.facets)

    @property
    def gear(self) -> Gear:
        """What the forecast needs of it."""
        lure = self.lure
        tied = tackle(kind=lure.kind, head_kg=lure.head_kg, material=lure.material, line=self.line, weight_kg=lure.weight_kg)
        return Gear(profile=self.profile, depth_m=self.rig.mount.depth_m, lure_ts_db=tied.ts_db)


def usual_lure(answers: Answers) -> BoxedLure:
    """Return what is tied on where nobody says: a 1/16 oz jig; for bass a half-ounce swimbait to cast, a 3/8 oz jig nearer. Common practice."""
    here = situation(answers)
    if here.target is not Species.LARGEMOUTH:
        return BoxedLure()
    if here.technique is Technique.CAST:
        return BoxedLure(kind=LureKind.SWIMBAIT, head_kg=OUNCE_KG / 2.0)
    return BoxedLure(head_kg=3.0 * OUNCE_KG / 8.0)
