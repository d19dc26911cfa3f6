"""Builds through the API: list, read, export, create, and refusals that leave nothing behind."""

import json
from dataclasses import replace
from unittest import mock

from circuitry.design.model import Policy
from circuitry.document.reading import MAX_BYTES, to_document
from circuitry.sizing import size_build
from oilstone.builds import models, results, storage
from tests.api.base import ApiTest
from tests.core.cars import (
    ROADSTER_FILE,
    document,
    lamp,
    lamp_document,
    part,
    relay_parts,
    roadster,
    wire,
)


class BuildsTest(ApiTest):
    def create(self, body: str | bytes, expect: int) -> dict:
        answer = self.client.post("/api/builds", body, content_type="application/json")
        self.assertEqual(answer.status_code, expect, answer.content[:300])
        return answer.json()

    def test_the_list_counts_loads_and_circuits(self) -> None:
        rows = self.client.get("/api/builds").json()
        self.assertEqual([(row["loads"], row["circuits"]) for row in rows], [(35, 15)])

    def test_a_stored_build_is_the_same_build(self) -> None:
        self.assertEqual(storage.load(self.build), roadster())

    def test_export_is_the_document_to_the_byte(self) -> None:
        answer = self.client.get(f"{self.url}/document")
        self.assertEqual(answer.content.decode(), ROADSTER_FILE.read_text(encoding="utf-8"))
        self.assertIn("saltmarsh-roadster.json", answer["Content-Disposition"])

    def test_what_is_exported_can_be_created_again(self) -> None:
        created = self.create(json.dumps(self.document()), 201)
        again = self.client.get(f"/api/builds/{created['id']}/document").json()
        self.assertEqual(again, self.document())

    def test_the_view_has_what_the_screens_need(self) -> None:
        view = self.get()
        horn = next(row for row in view["parts"] if row["id"] == "horn")
        self.assertEqual((horn["rated_a"], horn["output_word"]), (5.0, "sound"))
        relay = next(row for row in view["parts"] if row["id"] == "run-relay")
        self.assertEqual(relay["terminals"], ["30", "85", "86", "87"])
        self.assertEqual((view["undo"], view["redo"], view["revision"]), (None, None, 0))

    def test_results_carry_reasons_and_findings(self) -> None:
        answer = self.get("/results")
        self.assertEqual(answer["circuits"]["radiator-fan"]["verdict"], "stop")
        reasons = [row["reason"] for row in self.get("/candidates/w2")]
        self.assertIn("smallest that passes all", reasons)
        self.assertEqual(answer["findings"][0]["mends"][0]["label"][:4], "Fit ")

    def test_choices_and_catalogue(self) -> None:
        self.assertEqual(len(self.get("/choices")["ways"]), 8)
        loads = self.client.get("/api/catalogue/loads").json()
        self.assertEqual(len(loads), 89)

    def test_unusable_documents_are_refused_and_nothing_is_kept(self) -> None:
        chase = document(
            [*relay_parts("mini 5-pin"), part("horn", "load", catalogue="Horn")],
            [
                wire(1, "battery.+", "relay.30"),
                wire(2, "relay.87a", "relay.86"),
                wire(3, "relay.85", "battery.-"),
            ],
        )
        cases = [
            (json.dumps(lamp_document() | {"version": 7}), "wrong-version", 422),
            (json.dumps(lamp_document() | {"parts": [], "wires": []}), "no-battery", 422),
            (json.dumps(chase), "relays-never-settle", 422),
            ("not json", "not-json", 422),
            ("[1]", "wrong-format", 422),
            (b" " * (MAX_BYTES + 1), "too-large", 413),
            (b" " * 50_000_000, "too-large", 413),
        ]
        for body, code, status in cases:
            with self.subTest(code):
                problem = self.create(body, status)
                self.assertEqual(problem["code"], code)
                self.assertTrue(problem["where"])
                self.assertTrue(problem["message"])
        self.assertEqual(models.Build.objects.count(), 1)
        self.assertEqual(models.Part.objects.count(), len(roadster().parts))

    def test_a_build_that_is_not_there(self) -> None:
        for path in ("", "/results", "/choices", "/proofs", "/document"):
            answer = self.client.get(f"/api/builds/999{path}")
            self.assertEqual((answer.status_code, answer.json()["code"]), (404, "not-found"))

    def test_results_are_kept_by_revision(self) -> None:
        self.assertIs(results.sizing_at(self.build), results.sizing_at(self.build))

    def test_another_origin_may_not_change_anything(self) -> None:
        body = json.dumps(to_document(roadster()))
        for origin, status in (("http://elsewhere.example", 403), ("http://testserver", 201)):
            answer = self.client.post(
                "/api/builds", body, content_type="application/json", headers={"Origin": origin}
            )
            self.assertEqual(answer.status_code, status)

    def test_every_other_address_is_the_page_and_never_a_debug_page(self) -> None:
        answer = self.client.get("/builds/1/stock")
        self.assertIn(answer.status_code, (200, 503))
        self.assertEqual(self.client.get("/api/nothing").status_code, 404)
        self.assertEqual(self.client.get("/assets/nothing.js").status_code, 404)


class KeptTest(ApiTest):
    def test_what_is_computed_is_kept_by_the_wires_of_the_build(self) -> None:
        """So that a large car does not fill the memory; two are kept of any."""
        cars = [
            replace(lamp(), policy=Policy(fuse_headroom=0.7 + number / 50)) for number in range(3)
        ]
        for most_wires, computed in ((results.MOST_WIRES, 3), (1, 4)):
            results.forget()
            with (
                mock.patch.object(results, "MOST_WIRES", most_wires),
                mock.patch.object(results, "size_build", wraps=size_build) as sizes,
            ):
                for build in (*cars, cars[0]):
                    results.sized(build)
            self.assertEqual(sizes.call_count, computed)
