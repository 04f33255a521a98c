"""The lure box and the rods, as the Rig page shows them."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from mudlamp.core.records.rigs import KeptLure, KeptRod
from mudlamp.core.units import feet
from mudlamp.services.edge.forms import Field, Read
from mudlamp.services.edge.weights import ounces
from mudlamp.services.rig.answers import lure_answer
from mudlamp.services.rig.box import KINDS, LURE_FIELDS, NEWTON_A_POUND, ROD_FIELDS, boxed
from mudlamp.services.rig.desk import OpenRig
from mudlamp.web.form_views import FieldView, field_views

# What a new lure and a new rod begin with.
USUAL_LURE = {"kind": "jig", "head_oz": "0.0625", "material": "lead"}
USUAL_ROD = {"length_ft": "7", "line": "fluorocarbon"}


@dataclass(frozen=True, slots=True, kw_only=True)
class LureView:
    """A lure of the box."""

    id: str
    what: str
    details: str
    echo: str
    sinks: str
    tangles: str


@dataclass(frozen=True, slots=True, kw_only=True)
class RodView:
    """A rod and what is on it."""

    id: str
    name: str
    line: str
    lure: str
    in_hand: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class BoxView:
    """The lure box and the rods."""

    rig: str
    lures: Sequence[LureView]
    rods: Sequence[RodView]
    lure_fields: Sequence[FieldView]
    rod_fields: Sequence[FieldView]
    lure_open: bool
    rod_open: bool


def box_view(rig: OpenRig, *, lure: Read | None = None, rod: Read | None = None) -> BoxView:
    """Return the lure box and the rods, with what was typed last where something in it is wrong."""
    lure_wrong, rod_wrong = (found if found is not None and found.problems else None for found in (lure, rod))
    return BoxView(
        rig=str(rig.kept.id),
        lures=[lure_view(one) for one in rig.lures],
        rods=[_rod(one) for one in rig.rods],
        lure_fields=_fields(LURE_FIELDS, lure_wrong, USUAL_LURE, "lure"),
        rod_fields=_fields(ROD_FIELDS, rod_wrong, USUAL_ROD, "rod"),
        lure_open=lure_wrong is not None or not rig.lures,
        rod_open=rod_wrong is not None or not rig.rods,
    )


def _fields(fields: Sequence[Field], wrong: Read | None, usual: Mapping[str, str], prefix: str) -> Sequence[FieldView]:
    if wrong is None:
        return field_views(fields, usual, prefix=prefix)
    return field_views(fields, wrong.texts, wrong.problems, prefix=prefix)


def lure_view(lure: KeptLure) -> LureView:
    """Return a lure of the box."""
    answer = lure_answer(boxed(lure))
    over = f", {ounces(lure.weight_kg)} above it" if lure.weight_kg else ""
    parts = [part for part in (lure.color, lure.finish, lure.trailer and f"with {lure.trailer}", lure.recipe) if part]
    return LureView(
        id=str(lure.id),
        what=f"{ounces(lure.head_kg)} {lure.material} {KINDS[lure.kind]}{over}",
        details=", ".join(parts),
        echo=f"{answer.ts_db:.0f} dB",
        sinks=f"{answer.sink_ft_s:.1f} ft/s ± 30 %",
        tangles="It will tangle: the head must be heavier than the weight above it." if answer.tangles else "",
    )


def _rod(rod: KeptRod) -> RodView:
    strength = "" if rod.line_n is None else f"{rod.line_n / NEWTON_A_POUND:.0f} lb "
    return RodView(
        id=str(rod.id),
        name=rod.name,
        line=f"{feet(rod.length_m):.1f} ft, {strength}{rod.line}",
        lure="" if rod.lure_id is None else str(rod.lure_id),
        in_hand=rod.in_hand,
    )
