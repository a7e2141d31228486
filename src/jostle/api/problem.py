"""Errors of the API as problem details (RFC 9457), every one naming what would be right."""

import traceback

import structlog
from fastapi import FastAPI, Request, Response
from fastapi.exceptions import RequestValidationError
from peewee import DatabaseError
from starlette.exceptions import HTTPException

from jostle.api.bounded import TooLarge
from jostle.api.turns import Busy
from jostle.core.plan.problem import PlanError, Problem, shown
from jostle.formats.series_error import SeriesError
from jostle.provider.details import RESPONSES, Fault, ProblemDetails, problem_answer
from jostle.provider.provider import NotThere, Refused
from jostle.records.backups import what_to_do
from jostle.records.store import NameTaken, NotKept, is_full
from jostle.records.table import Damaged

__all__ = ["RESPONSES", "Fault", "ProblemDetails", "install", "problem_answer", "too_large"]

log = structlog.get_logger()


def too_large(error: TooLarge) -> Response:
    return problem_answer(413, "Too large", str(error))


def _fault(problem: Problem) -> Fault:
    return Fault(path=problem.place, value=shown(problem.value), message=problem.message, line=problem.line)


def install(app: FastAPI) -> None:
    """Turn every error that a route may raise into problem details."""

    @app.exception_handler(PlanError)
    def _(request: Request, error: PlanError) -> Response:
        return problem_answer(422, "Not usable", str(error), [_fault(p) for p in error.problems])

    @app.exception_handler(SeriesError)
    def _(request: Request, error: SeriesError) -> Response:
        faults = [Fault(path=f.column or "", value=f.value, message=f.message, line=f.row) for f in error.faults]
        return problem_answer(422, "The file cannot be read", str(error), faults, error.columns)

    @app.exception_handler(RequestValidationError)
    def _(request: Request, error: RequestValidationError) -> Response:
        faults = [
            Fault(path=".".join(str(s) for s in e["loc"]), value=shown(e.get("input")), message=e["msg"]) for e in error.errors()
        ]
        return problem_answer(422, "Not usable", "; ".join(f"{f.path}: {f.value}: {f.message}" for f in faults), faults)

    @app.exception_handler(UnicodeEncodeError)
    def _(request: Request, error: UnicodeEncodeError) -> Response:
        half = Fault(path="body", value=repr(error.object[error.start : error.end]), message="is half of a character")
        return problem_answer(422, "Not usable", f"a text holds {half.value}, which is half of a character", [half])

    @app.exception_handler(Exception)
    def _(request: Request, error: Exception) -> Response:
        trace = "".join(traceback.format_exception(error, limit=-6))
        log.error("unexpected", method=request.method, path=request.url.path, trace=trace)
        return problem_answer(500, "Our mistake", "something went wrong here that should not; nothing was changed. It is logged.")

    @app.exception_handler(DatabaseError)
    def _(request: Request, error: DatabaseError) -> Response:
        if is_full(error):
            return problem_answer(507, "No room", "the disk is full: nothing was written; make room and try again")
        log.error("records", method=request.method, path=request.url.path, said=str(error))
        said = f"the records cannot be read or written ({error}); nothing was changed"
        if "malformed" in str(error):
            said += f"; {what_to_do(request.app.state.desk.store.path)}"
        return problem_answer(503, "Records not usable", said)

    @app.exception_handler(Damaged)
    def _(request: Request, error: Damaged) -> Response:
        log.error("records damaged", said=str(error))
        said = f"{error} in the records, and is not shown or written over; {what_to_do(request.app.state.desk.store.path)}"
        return problem_answer(503, "Damaged", said)

    @app.exception_handler(TooLarge)
    def _(request: Request, error: TooLarge) -> Response:
        return too_large(error)

    @app.exception_handler(NotKept)
    def _(request: Request, error: NotKept) -> Response:
        return problem_answer(404, "Not found", str(error))

    @app.exception_handler(Refused)
    def _(request: Request, error: Refused) -> Response:
        missing = isinstance(error, NotThere)
        return problem_answer(404 if missing else 409, "Not found" if missing else "Refused", str(error))

    @app.exception_handler(Busy)
    def _(request: Request, error: Busy) -> Response:
        return problem_answer(503, "Busy", str(error), headers={"Retry-After": "5"})

    @app.exception_handler(NameTaken)
    def _(request: Request, error: NameTaken) -> Response:
        return problem_answer(409, "Already there", str(error))

    @app.exception_handler(HTTPException)
    def _(request: Request, error: HTTPException) -> Response:
        return problem_answer(error.status_code, "Not possible", str(error.detail))
