"""Standard weights against their published English intercepts (Henson 1991; Neumann and Murphy 1991; Hillman 1982; Bister and others 2000; from memory)."""

import math

import pytest

from mudlamp.core.fish_weight import Weighed, standard_weight_kg
from mudlamp.core.units import FOOT_M

POUND_KG = 0.45359237
# log10 of the weight in pounds at a length of one inch, and the slope, as published for inches and pounds; 0.5 % of arithmetic.
ENGLISH = {
    Weighed.LARGEMOUTH: (-3.587, 3.273),
    Weighed.BLACK_CRAPPIE: (-3.576, 3.345),
    Weighed.WHITE_CRAPPIE: (-3.618, 3.332),
    Weighed.BLUEGILL: (-3.371, 3.316),
    Weighed.CARP: (-3.194, 2.920),
}


@pytest.mark.parametrize("kind", list(Weighed))
@pytest.mark.parametrize("inches", [10.0, 14.5, 20.0])
def test_weights_agree_with_the_published_line_in_inches_and_pounds(kind, inches):
    base, slope = ENGLISH[kind]
    found = standard_weight_kg(kind, inches * FOOT_M / 12.0)
    assert found / POUND_KG == pytest.approx(10.0 ** (base + slope * math.log10(inches)), rel=0.005)


def test_a_fifteen_inch_largemouth_weighs_under_two_pounds_and_a_fingerling_is_not_told():
    assert standard_weight_kg(Weighed.LARGEMOUTH, 15.0 * FOOT_M / 12.0) / POUND_KG == pytest.approx(1.831, rel=0.005)
    assert standard_weight_kg(Weighed.CARP, 0.19) is None
