"""Every operation of the service's own OpenAPI document, called with what the document allows and with what it does not."""

import os
from contextlib import suppress

import pytest
import schemathesis
from hypothesis import HealthCheck, given, settings
from hypothesis.errors import Unsatisfiable
from schemathesis import GenerationMode
from schemathesis.checks import not_a_server_error

from jostle.api.app import create_app
from jostle.formats.shipped import demo_plan
from jostle.records.store import Store

OPERATIONS = 60
EXAMPLES = max(2, int(os.environ.get("JOSTLE_FUZZ", "200")) // (2 * OPERATIONS))


@pytest.fixture(scope="module")
def operations(tmp_path_factory):
    store = Store(tmp_path_factory.mktemp("fuzz") / "jostle.sqlite")
    store.add_plan(demo_plan().model_copy(update={"days": 0.2}))
    headers = {"host": "127.0.0.1", "If-Match": "*"}
    schema = schemathesis.openapi.from_asgi("/api/openapi.json", create_app(store), headers=headers)
    found = [found.ok() for found in schema.get_all_operations()]
    # What goes on for as long as it is read is left out; what takes out comes last.
    lasting = [one for one in found if not one.path.endswith("/events")]
    return sorted(lasting, key=lambda one: (one.method == "delete", one.path))


@pytest.mark.parametrize("mode", list(GenerationMode))
def test_no_answer_is_a_failure_of_ours(operations, mode):
    assert len(operations) >= OPERATIONS
    for operation in operations:

        @settings(max_examples=EXAMPLES, deadline=None, suppress_health_check=list(HealthCheck))
        @given(operation.as_strategy(generation_mode=mode))
        def every(case):
            case.validate_response(case.call(), checks=[not_a_server_error])

        with suppress(Unsatisfiable):  # nothing in some operations can be spoilt
            every()
