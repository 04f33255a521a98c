"""`./lamp cast`: where to throw, how long to count."""

from typing import get_args

from pydantic import ValidationError
from pydantic.fields import FieldInfo

from mudlamp.cli.answer import give
from mudlamp.cli.arguments import Parser, ranged
from mudlamp.core.errors import DomainError
from mudlamp.services.cast.asked import CastAsked, cast_of

REQUIRED = ("range_ft", "depth_ft", "head_oz")


def run(words: list[str]) -> int:
    """Solve a cast; its arguments are the fields of what is asked."""
    parser = Parser(prog="lamp cast", description="Where to throw, how long to count, how far to stay off.")
    for name, field in CastAsked.model_fields.items():
        _add(parser, name, field)
    parser.add_argument("--json", action="store_true", help="answer in JSON")
    options = vars(parser.parse_args(words))
    as_json = options.pop("json")
    try:
        asked = CastAsked(**{name: value for name, value in options.items() if value is not None})
    except ValidationError as error:
        first = error.errors()[0]
        raise DomainError(f"{first['loc'][0]} is {str(first['input'])[:30]}: {first['msg']}") from None
    found = cast_of(asked)
    give(found, as_json=as_json, lines=[found.said, found.why])
    return 0


def _add(parser: Parser, name: str, field: FieldInfo) -> None:
    """Add the argument of a field: a choice, a number in its range, or yes and no."""
    option = "--" + name.replace("_", "-")
    kinds = [kind for kind in get_args(field.annotation) or (field.annotation,) if kind is not type(None)]
    # A percent sign would be read as the start of a format.
    kind, said = kinds[0], (field.description or name.replace("_", " ")).replace("%", "%%")
    if kind is bool:
        parser.add_argument(option, choices=["yes", "no"], help=said)
    elif hasattr(kind, "__members__"):
        parser.add_argument(option, choices=[one.value for one in kind], help=said)
    else:
        low, high = (next(getattr(one, end) for one in field.metadata if hasattr(one, end)) for end in ("ge", "le"))
        parser.add_argument(option, type=ranged(low, high), required=name in REQUIRED, help=f"{said}, {low:g} to {high:g}")
