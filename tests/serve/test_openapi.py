"""What the service says of itself in OpenAPI is what it does: requests made from it, valid ones and others."""

import pytest
import schemathesis
from hypothesis import HealthCheck, given, seed, settings
from schemathesis.checks import not_a_server_error
from schemathesis.generation import GenerationMode
from schemathesis.specs.openapi.checks import (
    content_type_conformance,
    response_headers_conformance,
    response_schema_conformance,
    status_code_conformance,
)

import fleetquill as fq
from conftest import DEMO
from fleetquill.serve import app
from fleetquill.serve.service.limits import Limits
from fleetquill.serve.service.tokens import Holder

MOST = 15  # requests of each operation
CHECKS = [
    not_a_server_error,
    status_code_conformance,
    content_type_conformance,
    response_schema_conformance,
    response_headers_conformance,
]
SERVED = app(
    fq.Shelf(DEMO / "shelf"), limits=Limits(seconds=20), takes=("html", "markdown", "data"), admit=lambda _: Holder("a")
)
DESCRIBED = schemathesis.openapi.from_asgi("/openapi.json", SERVED)
OPERATIONS = {operation.ok().label: operation.ok() for operation in DESCRIBED.get_all_operations()}


def test_every_operation_is_there():
    assert len(OPERATIONS) >= 18
    assert {"POST /documents", "POST /documents/invoice", "GET /documents/{name}", "DELETE /jobs/{run}"} - set(
        OPERATIONS
    ) == {"GET /documents/{name}"}  # each document has its own


CASES = [(label, GenerationMode.POSITIVE) for label in OPERATIONS] + [
    (label, GenerationMode.NEGATIVE) for label in OPERATIONS if label.startswith("POST")
]  # where nothing is sent, nothing can be sent wrongly


@pytest.mark.parametrize(("label", "mode"), CASES, ids=[f"{label}-{mode.value}" for label, mode in CASES])
def test_it_does_what_it_says(label, mode):
    @seed(7)
    @settings(max_examples=MOST, deadline=None, database=None, suppress_health_check=list(HealthCheck))
    @given(case=OPERATIONS[label].as_strategy(generation_mode=mode))
    def ask(case):
        case.call_and_validate(checks=CHECKS)

    ask()
