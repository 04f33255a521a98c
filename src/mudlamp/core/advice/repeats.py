"""Believed only as far as it repeats: a difference measured on several waters, or none where chance explains it."""

import math
from collections.abc import Sequence

import numpy as np

# So sure must it be that there is a difference at all.
SURE = 0.95
LEAST = 3


def repeated(differences: Sequence[float]) -> float:
    """Return the mean of paired differences where its 95 % interval leaves out zero, else 0; with fewer than three, 0.

    Source: Student's t interval of paired differences (Student 1908).
    """
    # Imported here: special functions are slow to load, and the first page should not wait for them.
    from scipy.special import stdtrit

    count = len(differences)
    if count < LEAST:
        return 0.0
    mean, spread = float(np.mean(differences)), float(np.std(differences, ddof=1))
    half = float(stdtrit(count - 1, 0.5 + 0.5 * SURE)) * spread / math.sqrt(count)
    return mean if abs(mean) > half else 0.0
