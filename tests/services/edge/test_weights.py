import pytest

from mudlamp.core.casting.heads import SOLD_OZ
from mudlamp.core.units import OUNCE_KG
from mudlamp.services.edge.weights import ounces, sold_from


# The sizes that jig heads are sold in: common practice, no source.
@pytest.mark.parametrize(
    ("weight_oz", "said"),
    [
        (3 / 16, "3/16 oz"),
        (3 / 8, "3/8 oz"),
        (3 / 4, "3/4 oz"),
        (1 / 16, "1/16 oz"),
        (3 / 32, "3/32 oz"),
        (1.0, "1 oz"),
        (0.0626, "1/16 oz"),
    ],
)
def test_a_weight_is_said_in_the_size_that_is_sold(weight_oz, said):
    assert ounces(weight_oz * OUNCE_KG) == said


def test_every_size_is_itself_and_what_is_none_is_said_in_figures():
    for size in SOLD_OZ:
        assert ounces(float(size) * OUNCE_KG) == f"{size} oz"
        assert sold_from(float(size) * OUNCE_KG) == f"{size} oz"
    assert ounces(1.7 * OUNCE_KG) == "1.7 oz"
    assert sold_from(0.2 * OUNCE_KG) == "1/4 oz"
    assert sold_from(5.0 * OUNCE_KG) == "1 oz"
