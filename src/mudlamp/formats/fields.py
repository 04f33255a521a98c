"""Field types for what is read from outside: numbers with bounds, whose messages say what is allowed."""

from dataclasses import dataclass
from typing import Annotated, Any

from pydantic import BeforeValidator, GetCoreSchemaHandler, GetJsonSchemaHandler, ValidationError
from pydantic_core import core_schema

from mudlamp.core.texts import mended


@dataclass(frozen=True, slots=True)
class Within:
    """Annotates a number: it lies within bounds, is `whole` or not, and is no text or yes-or-no. Its schema has the bounds and the unit."""

    low: float
    high: float
    unit: str = ""
    whole: bool = False

    @property
    def allowed(self) -> str:
        """What may be given, in words."""
        unit = f" {self.unit}" if self.unit else ""
        return f"a {'whole ' if self.whole else ''}number, {self.low:g} to {self.high:g}{unit}"

    def check(self, value: object) -> object:
        """Return a value that is allowed; raise ValueError saying what is for one that is not."""
        # Bounds before `int`: they hold back what is no finite number.
        if (
            isinstance(value, bool)
            or not isinstance(value, int | float)
            or not self.low <= value <= self.high
            or (self.whole and value != int(value))
        ):
            raise ValueError(f"it must be {self.allowed}")
        return value

    def __get_pydantic_core_schema__(self, source: Any, handler: GetCoreSchemaHandler) -> core_schema.CoreSchema:
        """Check before the field's own type does."""
        return core_schema.no_info_before_validator_function(self.check, handler(source))

    def __get_pydantic_json_schema__(self, schema: core_schema.CoreSchema, handler: GetJsonSchemaHandler) -> dict[str, Any]:
        """Return the published schema of such a number."""
        found = {"type": "integer" if self.whole else "number", "minimum": self.low, "maximum": self.high}
        return found | ({"description": self.unit} if self.unit else {})


def _mended(given: object) -> object:
    return mended(given) if isinstance(given, str) else given


# A text of a person's or a stranger's: what no screen can show and no database can take is mended before anything else looks at it.
PlainText = Annotated[str, BeforeValidator(_mended)]


def first_problem(error: ValidationError, *, missing: str = "is missing: it must be given") -> tuple[tuple[int | str, ...], str]:
    """Return where the first thing wrong is, and what is wrong with it: the value and what is allowed."""
    detail = error.errors(include_url=False)[0]
    if detail["type"] == "missing":
        return detail["loc"], missing
    message = detail["msg"].removeprefix("Value error, ").replace("Input should be", "it must be")
    return detail["loc"], f"is {str(detail['input'])[:60]!r}: {message[0].lower()}{message[1:]}"
