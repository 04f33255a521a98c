"""The lure box and the rods: their forms, and a kept lure as the core has it."""

import datetime as dt
import uuid

from pydantic import TypeAdapter

from mudlamp.core.casting.lures import Line, LureKind, Material
from mudlamp.core.records.rigs import KeptLure, KeptRod
from mudlamp.core.rig.profile import BoxedLure
from mudlamp.core.units import POUND_KG
from mudlamp.services.edge import forms
from mudlamp.services.edge.forms import FEET, OUNCES, Read, multiple

GRAVITY_M_S2 = 9.80665
NEWTON_A_POUND = POUND_KG * GRAVITY_M_S2
KINDS = {kind.value: kind.value.replace("_", " ") for kind in LureKind}

LURE_FIELDS = (
    forms.choice("kind", "Lure", KINDS, LureKind, required=True),
    forms.number("head_oz", "Head", 0.0078, 2.0, OUNCES, required=True, step=0.001),
    forms.choice("material", "Made of", {"lead": "lead", "tungsten": "tungsten"}, Material, required=True),
    forms.words("color", "Color", longest=40),
    forms.words("finish", "Finish", longest=40),
    forms.words("trailer", "Trailer", longest=60),
    forms.number("weight_oz", "Weight above it", 0.0, 2.0, OUNCES, step=0.001, hint="split shot or the like; blank is none"),
    forms.words("recipe", "Recipe, if home-tied", longest=400),
)
ROD_FIELDS = (
    forms.words("name", "Rod", longest=60, required=True),
    forms.number("length_ft", "Length", 2.0, 20.0, FEET, step=0.1, required=True),
    forms.choice(
        "line",
        "Line",
        {"fluorocarbon": "fluorocarbon", "monofilament": "monofilament", "braid": "braid"},
        Line,
        required=True,
    ),
    forms.number("line_lb", "Strength", 1.0, 100.0, multiple("lb", NEWTON_A_POUND)),
)
_BOXED = TypeAdapter(BoxedLure)


def new_lure(rig_id: uuid.UUID, found: Read, *, now: dt.datetime) -> KeptLure:
    """Return a lure of a form without problems, as it is kept."""
    return KeptLure(
        id=uuid.uuid4(),
        rig_id=rig_id,
        kind=found.text("kind"),
        head_kg=found.number("head_oz") or 0.0,
        material=found.text("material"),
        color=found.text("color"),
        finish=found.text("finish"),
        trailer=found.text("trailer"),
        weight_kg=found.number("weight_oz") or 0.0,
        recipe=found.text("recipe"),
        created_at=now,
    )


def new_rod(rig_id: uuid.UUID, found: Read, *, now: dt.datetime) -> KeptRod:
    """Return a rod of a form without problems, as it is kept."""
    return KeptRod(
        id=uuid.uuid4(),
        rig_id=rig_id,
        name=found.text("name"),
        length_m=found.number("length_ft") or 0.0,
        line=found.text("line"),
        line_n=found.number("line_lb"),
        lure_id=None,
        in_hand=False,
        created_at=now,
    )


def boxed(lure: KeptLure) -> BoxedLure:
    """Return a kept lure as the core has it."""
    return _BOXED.validate_python({name: getattr(lure, name) for name in BoxedLure.__slots__})
