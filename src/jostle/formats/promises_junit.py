"""Promises as a JUnit report, so that a pipeline can refuse a change that breaks one."""

import io

from junitparser import Failure, JUnitXml, TestCase, TestSuite

from jostle.core.checks.finding import Finding
from jostle.core.rehearsal.verdict import PromiseVerdict


def write_promises(group: str, judged: dict[int, list[PromiseVerdict]], errors: list[Finding]) -> bytes:
    """One case for each promise under each seed, and one for each finding that is an error."""
    suite = TestSuite(group)
    for seed, promises in judged.items():
        for promise in promises:
            case = TestCase(f"{promise.text} (seed {seed})", group)
            if not promise.kept:
                case.result = [Failure(promise.measured, "broken")]
            suite.add_testcase(case)
    for finding in errors:
        case = TestCase(f"{finding.code} at {finding.path}", group)
        case.result = [Failure(finding.text, finding.code)]
        suite.add_testcase(case)
    report = JUnitXml("jostle")
    report.add_testsuite(suite)
    text = io.BytesIO()
    report.write(text)
    return text.getvalue()
