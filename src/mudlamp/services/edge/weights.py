"""Weights of heads as anglers say them: the sizes that are sold, as fractions of an ounce."""

from functools import lru_cache

from mudlamp.core.casting.heads import SOLD_OZ
from mudlamp.core.units import OUNCE_KG

# Within this share of a size that is sold, it is that size.
NEAR = 0.06


@lru_cache(maxsize=512)
def ounces(mass_kg: float) -> str:
    """Return a weight [kg] in words: the size sold that is nearest, or, where none is near, two places of an ounce."""
    value = mass_kg / OUNCE_KG
    nearest = min(SOLD_OZ, key=lambda size: abs(float(size) - value) / float(size))
    if abs(float(nearest) - value) <= NEAR * float(nearest):
        return f"{nearest} oz"
    return f"{value:.2g} oz"


def sold_from(mass_kg: float) -> str:
    """Return the lightest size sold that weighs a mass [kg] or more; the heaviest where none does."""
    value = mass_kg / OUNCE_KG
    found = next((size for size in SOLD_OZ if float(size) >= value * (1.0 - NEAR)), SOLD_OZ[-1])
    return f"{found} oz"
