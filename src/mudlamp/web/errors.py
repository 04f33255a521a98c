"""From errors to answers: type to status and a designed page, or a fragment for htmx, or JSON for the API."""

from dataclasses import dataclass

import structlog
from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse, Response
from starlette.exceptions import HTTPException

from mudlamp.core.errors import ConflictError, DomainError, MissingError, RecordingError, UnavailableError
from mudlamp.core.texts import mended
from mudlamp.web.context import is_part, render

TITLES = {
    400: "That didn't make sense",
    403: "Not from here",
    404: "Nothing here",
    405: "Not that way",
    409: "Changed in the meantime",
    413: "Too large",
    422: "Something isn't right",
    500: "Something broke on our side",
    503: "Not available right now",
}
REMEDIES = {
    400: "Go back and try again.",
    403: "Open the page at the address that ./lamp up printed.",
    404: "Look for it in the Log, or start at the Lamp.",
    405: "Go back and use the buttons on the page.",
    409: "Reload the page and make the change again.",
    413: "Send a smaller file.",
    422: "Correct the value named above. Nothing you saved is lost.",
    500: "Try again. If it keeps happening, find the id below in the log.",
    503: "It retries by itself in a few seconds. What you typed is kept.",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class ErrorView:
    """What an error page says: what, why, what to do, and the id of the log line."""

    status: int
    title: str
    message: str
    remedy: str
    request_id: str


def _answer(request: Request, status: int, message: str) -> Response:
    # What is wrong is often said in the words that were sent.
    message = mended(message)
    request_id = str(request.scope.get("state", {}).get("request_id", ""))
    view = ErrorView(
        status=status, title=TITLES.get(status, "Not possible"), message=message, remedy=REMEDIES.get(status, ""), request_id=request_id
    )
    if request.url.path.startswith("/api/"):
        return JSONResponse({"error": {"status": status, "message": message, "request_id": request_id}}, status_code=status)
    name = "shared/_error.html" if is_part(request) else "shared/error.html"
    return render(request, name, view, status=status)


def _validation_message(error: RequestValidationError) -> str:
    first = error.errors()[0]
    where = ".".join(str(part) for part in first["loc"] if part not in ("body", "query", "path"))
    shown = str(first.get("input", ""))[:60]
    return f"{where or 'request'} is {shown}: {first['msg'][0].lower()}{first['msg'][1:]}"


def add_error_answers(app: FastAPI) -> None:
    """Teach the application what to answer for each kind of error."""
    log = structlog.get_logger()

    @app.exception_handler(HTTPException)
    async def http(request: Request, error: HTTPException) -> Response:
        return _answer(request, error.status_code, str(error.detail) if error.detail else TITLES.get(error.status_code, "Not possible"))

    @app.exception_handler(RequestValidationError)
    async def invalid(request: Request, error: RequestValidationError) -> Response:
        return _answer(request, 422, _validation_message(error))

    @app.exception_handler(DomainError)
    async def domain(request: Request, error: DomainError) -> Response:
        return _answer(request, 422, str(error))

    @app.exception_handler(MissingError)
    async def missing(request: Request, error: MissingError) -> Response:
        return _answer(request, 404, str(error))

    @app.exception_handler(ConflictError)
    async def conflict(request: Request, error: ConflictError) -> Response:
        return _answer(request, 409, str(error))

    @app.exception_handler(RecordingError)
    async def recording(request: Request, error: RecordingError) -> Response:
        log.warning("a file was turned away", why=str(error))
        return _answer(request, 422, str(error))

    @app.exception_handler(UnavailableError)
    async def unavailable(request: Request, error: UnavailableError) -> Response:
        log.warning("unavailable", why=str(error))
        return _answer(request, 503, str(error))

    @app.exception_handler(Exception)
    async def fault(request: Request, error: Exception) -> Response:
        log.error("fault", exc_info=error, path=request.url.path)
        return _answer(request, 500, "The page could not be made.")
