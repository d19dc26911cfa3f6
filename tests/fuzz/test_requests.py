"""Requests made up from the API's own document: no fault of ours, and refusals that say why."""

import json
import time
from collections import Counter
from collections.abc import Mapping
from typing import Any
from urllib.parse import urlencode

import schemathesis
from django.core.files.uploadedfile import SimpleUploadedFile
from hypothesis import HealthCheck, Phase, given, seed, settings
from hypothesis import strategies as st

from oilstone.api.api import api
from oilstone.builds import models
from tests.api.base import ApiTest
from tests.fuzz import FUZZ, SEED

KNOWN: Mapping[str, tuple[str, ...]] = {
    "circuit_id": ("horn", "ghost"),
    "owner": ("w1", "ghost"),
    "fuse_id": ("fuse-horn", "ghost"),
    "wire_id": ("w1", "ghost"),
    "recipe_id": ("horn", "headlamps", "ghost"),
    "revision": ("0", "1", "9" * 30),
    "ending": ("csv", "xlsx"),
    "name": ("wires", "cuts", "splices", "ghost"),
}
"""What stands in a path beside numbers, so that most requests find something."""
NUMBERS = ("1", "0", "999", "-1", "9" * 30)
ELSEWHERE = ("/api/phone", "/api/work/")
"""What opens a door of the machine, or waits for another request."""
CASES = 3
LONGEST_S = 60.0


def _never(word: str) -> float:
    raise AssertionError(f"{word} is no figure")


class RequestsTest(ApiTest):
    def test_made_up_requests_are_answered_or_refused_in_words(self) -> None:
        document = json.loads(json.dumps(api.get_openapi_schema(path_prefix="/api/")))
        codes: Counter[int] = Counter()
        for found in schemathesis.openapi.from_dict(document).get_all_operations():
            operation = found.ok()
            if not operation.path.startswith(ELSEWHERE):
                models.Build.with_deleted.update(deleted=None)
                with self.subTest(operation=f"{operation.method} {operation.path}"):
                    codes += self.sent(operation)
        self.assertGreater(codes[200], 0.2 * codes.total())
        self.assertGreater(codes[422], 0.2 * codes.total())

    def sent(self, operation: Any) -> Counter[int]:
        codes: Counter[int] = Counter()

        @seed(SEED)
        @settings(
            max_examples=CASES * FUZZ,
            database=None,
            phases=[Phase.generate],
            suppress_health_check=list(HealthCheck),
        )
        @given(case=operation.as_strategy(), data=st.data())
        def send(case: Any, data: st.DataObject) -> None:
            codes[self.status(case, data)] += 1

        send()
        return codes

    def status(self, case: Any, data: st.DataObject) -> int:
        """Send one, hold its answer to what every answer is, and give its status."""
        path = case.path
        for name in case.path_parameters or {}:
            known = (str(self.build.pk),) * 8 if name == "build_id" else KNOWN.get(name, ())
            drawn = data.draw(st.sampled_from((*known, *(() if name in KNOWN else NUMBERS))))
            path = path.replace(f"{{{name}}}", drawn)
        if case.query:
            path = f"{path}?{urlencode(case.query, doseq=True)}"
        body = case.body
        if isinstance(body, dict) and "base" in body and data.draw(st.booleans()):
            body["base"] = models.Build.objects.get(pk=self.build.pk).revision
        if case.media_type == "multipart/form-data":
            sending: dict[str, Any] = {"data": _form(body)}
        elif case.media_type:
            sending = {"data": json.dumps(body), "content_type": "application/json"}
        else:
            sending = {}
        began = time.perf_counter()
        answer = getattr(self.client, case.method.lower())(path, **sending)
        taken_s = time.perf_counter() - began
        said = f"{case.method} {path} {str(sending)[:800]}: {answer.status_code} in {taken_s:.1f} s"
        content = b"".join(answer) if answer.streaming else answer.content
        self.assertLess(answer.status_code, 500, f"{said} {content[:800]!r}")
        self.assertLess(taken_s, LONGEST_S, said)
        if "json" in answer.get("Content-Type", "") and content:
            told = json.loads(content, parse_constant=_never)
            if answer.status_code >= 400:
                self.assertGreater(len(told["message"]), 15, said)
        return int(answer.status_code)


def _form(body: Any) -> dict[str, Any]:
    """The fields of a form, files as files."""
    sent: dict[str, Any] = {}
    for name, value in dict(body or {}).items():
        text = str(value)
        sent[name] = SimpleUploadedFile(name, text.encode()) if name == "file" else text
    return sent
