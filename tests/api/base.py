"""A client of the API with the demo car in the database."""

import json
import warnings
from typing import Any

from django.test import TestCase

from oilstone.builds import live, models, results, storage
from tests.core.cars import roadster


class ApiTest(TestCase):
    def setUp(self) -> None:
        # a warning of each answer would fill what the server writes to
        self.enterContext(warnings.catch_warnings())
        warnings.filterwarnings("error", message="Pydantic serializer")
        results.forget()
        live.forget()
        self.build = storage.create(roadster())
        self.url = f"/api/builds/{self.build.pk}"

    def get(self, path: str = "", expect: int = 200) -> Any:
        return self._answer(self.client.get(f"{self.url}{path}"), expect)

    def post(self, path: str, body: object, expect: int = 200) -> Any:
        answer = self.client.post(
            f"{self.url}{path}", json.dumps(body), content_type="application/json"
        )
        return self._answer(answer, expect)

    def edit(
        self, *operations: dict, base: int | None = None, label: str = "Edit", expect: int = 200
    ) -> Any:
        if base is None:
            base = models.Build.objects.get(pk=self.build.pk).revision
        body = {"base": base, "label": label, "operations": list(operations)}
        return self.post("/edits", body, expect)

    def do(self, *actions: dict, expect: int = 200) -> Any:
        """Do things at the bench."""
        return self.post("/bench/do", {"actions": list(actions)}, expect)

    def move(self, word: str, base: int, expect: int = 200) -> Any:
        return self.post(f"/{word}", {"base": base}, expect)

    def document(self) -> Any:
        return self.client.get(f"{self.url}/document").json()

    def _answer(self, answer: Any, expect: int) -> Any:
        self.assertEqual(answer.status_code, expect, answer.content[:500])
        return answer.json()


def rename(name: str, load: str = "horn") -> dict:
    return {"op": "change", "collection": "parts", "id": load, "fields": {"name": name}}


def add_fog(**fields: object) -> dict:
    wiring = {"key": "run", "new_switch": {"name": "Fog switch", "place": "dash"}}
    return {
        "op": "add_load",
        "name": "Rear fog",
        "catalogue": "Rear fog lamp 21 W",
        "place": "rear",
        "wiring": wiring,
    } | fields
