"""The cast solver by the HTTP API."""

from fastapi import APIRouter

from mudlamp.services.cast.asked import CastAnswer, CastAsked, cast_of

router = APIRouter(prefix="/api/v1")


@router.post("/cast")
def cast(asked: CastAsked) -> CastAnswer:
    """Return where to throw, how long to count, how far to stay off. Nothing is kept."""
    return cast_of(asked)
