"""Form fields as templates show them."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from mudlamp.services.edge.forms import Field, Option


@dataclass(frozen=True, slots=True, kw_only=True)
class FieldView:
    """A field: what it is called, what stands in it, and what is wrong with that."""

    id: str
    name: str
    label: str
    kind: str
    unit: str
    hint: str
    text: str
    problem: str
    options: Sequence[Option]
    required: bool
    empty: str


def field_views(
    fields: Sequence[Field], texts: Mapping[str, str], problems: Mapping[str, str] | None = None, *, prefix: str = "f"
) -> tuple[FieldView, ...]:
    """Return the views of fields, with texts and messages by field name."""
    wrong = problems or {}
    return tuple(
        FieldView(
            id=f"{prefix}-{one.name}",
            name=one.name,
            label=one.label,
            kind=one.kind.value,
            unit=one.unit.name,
            hint=one.hint,
            text=texts.get(one.name, ""),
            problem=wrong.get(one.name, ""),
            options=one.options,
            required=one.required,
            empty=one.empty,
        )
        for one in fields
    )
