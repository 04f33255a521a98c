"""What the eye needs: how far the smallest target must stand out on this screen, in this light, to be seen at a glance."""

from mudlamp.core.advice.answers import Situation, Sky
from mudlamp.core.receiver.screen import EASY_ARCMIN, Screen, mark_on_screen
from mudlamp.core.setup import Window

# What a large mark needs in the shade, as a difference in CIE L* (ours); a mark as small as is seen at ease needs twice that, a smaller one
# more. Source of the form: below a certain size, what must differ grows as the mark shrinks (Ricco 1877, spatial summation).
NEED = 30.0
# Light that falls on the screen washes it out: in the sun more is needed, in the dark less (ours).
IN_SUN, IN_SHADE, IN_DARK = 1.5, 1.0, 0.75
# Between these heights of the sun its light on the screen grows to all [rad].
SUN_RAD = (0.0, 0.5)


def enough_contrast(here: Situation, screen: Screen, window: Window, *, across_m: float, along_m: float) -> float:
    """Return the difference in CIE L* that a mark of a size in the water [m] must have to be seen at a glance."""
    mark = mark_on_screen(screen, window, across_m=across_m, down_m=along_m, contrast=0.0, least_contrast=0.0)
    return NEED * _light(here) * (1.0 + EASY_ARCMIN / mark.arcmin)


def _light(here: Situation) -> float:
    if here.sky is Sky.DARK or here.sun_rad < SUN_RAD[0]:
        return IN_DARK
    if here.sky is not Sky.BRIGHT:
        return IN_SHADE
    share = min(here.sun_rad / SUN_RAD[1], 1.0)
    return IN_SHADE + (IN_SUN - IN_SHADE) * share
