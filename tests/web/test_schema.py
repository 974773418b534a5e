"""Every operation of the API against its own description: odd input gets an answer that was announced, never a 500.

Schemathesis makes the requests, with a fixed seed and few of them; bench/hostile.py makes many.
"""

import logging

import schemathesis
from hypothesis import HealthCheck, Phase, given, seed, settings
from schemathesis.checks import not_a_server_error
from schemathesis.generation import GenerationMode
from schemathesis.specs.openapi.checks import (
    content_type_conformance,
    response_schema_conformance,
    status_code_conformance,
)

from tests.fixtures.support import WebCase, key, tilted_points

EXAMPLES, SEED = 1, 2026
CHECKS = [not_a_server_error, status_code_conformance, content_type_conformance, response_schema_conformance]


class SchemaCase(WebCase):
    """The API with a printer, a visit, a survey and what hangs on them, all of number 1 where possible."""

    examples = EXAMPLES

    def setUp(self):
        super().setUp()
        logging.disable(logging.CRITICAL)
        self.addCleanup(logging.disable, logging.NOTSET)
        printer = self.new_printer(compensation="mesh", probe_kind="nozzle", port="/dev/ttyACM0")["id"]
        visit = self.new_visit(printer)["id"]
        survey = self.new_survey(visit, points=tilted_points(0.3, bow=0.05))["id"]
        self.ids = {"printer_id": printer, "visit_id": visit, "survey_id": survey}
        body = {"client_key": key(), "parts": {"printer": -1.0}, "visit_id": visit}
        self.ids["offset_id"] = self.ask("POST", f"/api/printers/{printer}/offset", body, status=201)["id"]
        body = {"client_key": key(), "words": "It lets go."}
        self.ids["case_id"] = self.ask("POST", f"/api/printers/{printer}/cases", body, status=201)["id"]

    def every_operation(self):
        schema = schemathesis.openapi.from_wsgi("/api/openapi.json", self.app)
        for result in schema.get_all_operations():
            operation = result.ok()
            if operation.method.lower() != "delete" and not operation.path.endswith("/finish"):
                yield operation

    def attack(self, operation, mode):
        ids = self.ids

        @seed(SEED)
        @settings(
            max_examples=self.examples,
            deadline=None,
            database=None,
            phases=[Phase.generate],
            suppress_health_check=list(HealthCheck),
        )
        @given(case=operation.as_strategy(generation_mode=mode))
        def one(case):
            # what exists is asked for every second time
            if case.path_parameters and hash(str(case.path_parameters)) % 2:
                for name, value in ids.items():
                    if name in case.path_parameters:
                        case.path_parameters[name] = value
            case.call_and_validate(checks=CHECKS, headers={"Host": "localhost"})

        one()


class EveryOperationTest(SchemaCase):
    def test_odd_input_gets_an_answer_that_was_announced(self):
        count = 0
        for operation in self.every_operation():
            # what takes nothing cannot be sent anything wrong
            takes = operation.body or any(operation.iter_parameters())
            for mode in (GenerationMode.POSITIVE, *([GenerationMode.NEGATIVE] if takes else [])):
                with self.subTest(operation.label, mode=mode.value):
                    self.attack(operation, mode)
                    count += 1
        self.assertGreater(count, 150)
