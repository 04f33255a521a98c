"""Names that must differ."""

from collections.abc import Collection


def free_name(name: str, taken: Collection[str]) -> str:
    """Return a name that is not taken: the name itself, or with a number."""
    number, found = 2, name
    while found in taken:
        found = f"{name[:54]} ({number})"
        number += 1
    return found
