"""Errors as problem+json (RFC 9457): what is wrong, where, how to mend it, and what was kept."""

from __future__ import annotations

from collections.abc import Awaitable, Callable
from http import HTTPStatus
from typing import Any, cast

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from pydantic import ConfigDict, Field
from sqlalchemy.exc import DataError, DBAPIError, OperationalError
from starlette.exceptions import HTTPException
from starlette.responses import Response

from tickstone.api.schemas.base import Answer
from tickstone.store.database import is_disk_full

NOTHING_CHANGED = "Nothing was changed."


class FieldProblem(Answer):
    """One field that does not do."""

    field: str
    message: str


class Problem(Answer):
    """What went wrong. `detail` says what and how to mend it; `kept` says what was not lost."""

    model_config = ConfigDict(
        json_schema_extra={
            "examples": [
                {
                    "title": "That does not fit",
                    "status": 422,
                    "detail": "The stop distance has to be smaller than the go-again distance.",
                    "fields": [{"field": "go_m", "message": "has to be above stop_m"}],
                    "kept": NOTHING_CHANGED,
                }
            ]
        }
    )

    title: str
    status: int
    detail: str
    fields: list[FieldProblem] = Field(default_factory=list)
    kept: str = NOTHING_CHANGED


class ProblemError(HTTPException):
    """Raised anywhere in a request, also while its body comes; becomes a problem+json answer."""

    def __init__(
        self,
        status: int,
        title: str,
        detail: str,
        fields: list[FieldProblem] | None = None,
        kept: str = NOTHING_CHANGED,
    ) -> None:
        super().__init__(status, detail)
        self.problem = Problem(
            title=title, status=status, detail=detail, fields=fields or [], kept=kept
        )


def not_found(what: str) -> ProblemError:
    """There is no such thing, or it was deleted."""
    return ProblemError(404, "Not here", f"There is no such {what}; it may have been deleted.")


def does_not_fit(detail: str, field: str | None = None) -> ProblemError:
    """The request is well formed but cannot be."""
    # A sentence begins with a capital; the name of a field stays as it is.
    names_field = detail.split(" ", 1)[0].endswith(":")
    text = (detail if names_field else detail[:1].upper() + detail[1:]).rstrip(".") + "."
    fields = [FieldProblem(field=field, message=detail)] if field else []
    return ProblemError(422, "That does not fit", text, fields)


def disk_full() -> ProblemError:
    """There is no room for what was to be kept."""
    return ProblemError(
        507,
        "The disk is full",
        "There is no room left on the disk. Make some, for instance by deleting old files, and try "
        "again.",
        kept="What was saved before is safe. Nothing of this was kept.",
    )


def install_problem_handlers(app: FastAPI) -> None:
    """Answer every error of `app` as problem+json."""
    handlers: dict[type[Exception], Callable[..., Awaitable[Response]]] = {
        ProblemError: _on_problem,
        RequestValidationError: _on_validation,
        HTTPException: _on_http,
        DBAPIError: _on_database,
        OSError: _on_system,
        Exception: _on_surprise,
    }
    for kind, handler in handlers.items():
        app.add_exception_handler(kind, handler)


def answer(problem: Problem) -> JSONResponse:
    """The problem as a response."""
    return JSONResponse(
        problem.model_dump(), status_code=problem.status, media_type="application/problem+json"
    )


async def _on_problem(_: Request, error: Exception) -> Response:
    return answer(cast(ProblemError, error).problem)


async def _on_validation(_: Request, error: Exception) -> Response:
    fields = [_field(e) for e in cast(RequestValidationError, error).errors()]
    detail = "; ".join(f"{field.field}: {field.message}" for field in fields[:5])
    return answer(
        Problem(title="That does not fit", status=422, detail=detail + ".", fields=fields[:20])
    )


def _field(error: dict[str, Any]) -> FieldProblem:
    path = [str(part) for part in error.get("loc", ()) if part not in ("body", "query", "path")]
    message = str(error.get("msg", "does not fit"))
    message = message.removeprefix("Value error, ")
    return FieldProblem(field=".".join(path) or "request", message=message[:300])


async def _on_http(_: Request, error: Exception) -> Response:
    http = cast(HTTPException, error)
    title = HTTPStatus(http.status_code).phrase
    return answer(Problem(title=title, status=http.status_code, detail=str(http.detail)))


async def _on_database(request: Request, error: Exception) -> Response:
    if is_disk_full(error):
        return answer(disk_full().problem)
    if isinstance(error, DataError):
        # What PostgreSQL cannot hold, such as a number beyond its own.
        said = str(error.orig).splitlines()[0]
        return answer(does_not_fit(f"the store cannot keep it: {said}").problem)
    if not isinstance(error, OperationalError):
        return await _on_surprise(request, error)
    return answer(
        Problem(
            title="The store does not answer",
            status=503,
            detail="The database is not reachable. Restart Tick Stone and try again.",
            kept="What was saved before is safe on disk.",
        )
    )


async def _on_system(request: Request, error: Exception) -> Response:
    if is_disk_full(error):
        return answer(disk_full().problem)
    return await _on_surprise(request, error)


async def _on_surprise(_: Request, error: Exception) -> Response:
    return answer(
        Problem(
            title="Tick Stone slipped",
            status=500,
            detail=f"Something unforeseen happened ({type(error).__name__}). "
            "The server's log has the details.",
        )
    )
