"""Promises as a JUnit report, so that a pipeline can refuse a change that breaks one."""

import io

from junitparser import Failure, JUnitXml, TestCase, TestSuite

from jostle.core.checks.finding import Finding
from jostle.core.rehearsal.verdict import PromiseVerdict


def write_promises(group: str, judged: dict[int, list[PromiseVerdict]], took: dict[int, float], errors: list[Finding]) -> bytes:
    """A suite for each seed with a case for each promise and the time that it took (s), and one for the checks with a case for
    each finding that is an error."""
    report = JUnitXml("jostle")
    for seed, promises in judged.items():
        suite = TestSuite(f"{group}, seed {seed}")
        for promise in promises:
            case = TestCase(promise.text, group, took[seed] / len(promises))
            if not promise.kept:
                case.result = [Failure(promise.measured, "broken")]
            suite.add_testcase(case)
        report.add_testsuite(suite)
    if errors:
        suite = TestSuite(f"{group}, checks")
        for finding in errors:
            case = TestCase(f"{finding.code} at {finding.path}", group)
            case.result = [Failure(finding.text, finding.code)]
            suite.add_testcase(case)
        report.add_testsuite(suite)
    text = io.BytesIO()
    report.write(text)
    return text.getvalue()
