"""GeoJSON from outside, read by a model; what is wrong is named by its place."""

from typing import TypeVar

from pydantic import BaseModel, ValidationError

from mudlamp.core.errors import DomainError

Model = TypeVar("Model", bound=BaseModel)


def read_geojson(model: type[Model], data: bytes, *, most_bytes: int, wanted: str) -> Model:
    """Return a file's bytes as a model; raise DomainError naming the first thing wrong, and that the file must be `wanted`."""
    if len(data) > most_bytes:
        raise DomainError(f"the file has {len(data)} bytes: it may have {most_bytes} at most")
    try:
        return model.model_validate_json(data)
    except ValidationError as error:
        first = error.errors()[0]
        where = ".".join(str(part) for part in first["loc"]) or "file"
        raise DomainError(f"{where}: {first['msg'][:120]}; it must be {wanted}") from None


def require_place(where: str, longitude: float, latitude: float) -> None:
    """Raise DomainError where two numbers are no longitude and latitude [deg]."""
    if not (-180.0 <= longitude <= 180.0 and -90.0 <= latitude <= 90.0):
        raise DomainError(f"{where}: {longitude:g}, {latitude:g} is no longitude and latitude")
