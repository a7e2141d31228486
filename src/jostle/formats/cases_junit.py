"""The cases of a trial as JUnit XML, as a pipeline reads it."""

import io
from collections.abc import Iterable
from typing import Protocol

from junitparser import Failure, JUnitXml, Skipped, TestCase, TestSuite


class Tried(Protocol):
    """A promise, and why it is broken, or why it was not tried."""

    @property
    def promise(self) -> str: ...
    @property
    def broken(self) -> str | None: ...
    @property
    def skipped(self) -> str | None: ...
    @property
    def seconds(self) -> float: ...


def write_cases(name: str, cases: Iterable[Tried]) -> bytes:
    suite = TestSuite(name)
    for one in cases:
        case = TestCase(one.promise, name, one.seconds)
        if one.broken:
            case.result = [Failure(one.broken)]
        elif one.skipped:
            case.result = [Skipped(one.skipped)]
        suite.add_testcase(case)
    report = JUnitXml("jostle")
    report.add_testsuite(suite)
    text = io.BytesIO()
    report.write(text)
    return text.getvalue()
