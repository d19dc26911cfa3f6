"""What goes wrong on this side: JSON with a plain word, a line in the log, and nothing stored."""

import json
import logging
import sqlite3
import threading
from dataclasses import replace
from typing import Any
from unittest.mock import patch

from django.db import DatabaseError, connection
from django.test import Client

from circuitry.errors import UnusableInput
from circuitry.progress import Stopped, report
from circuitry.sizing import size_build
from oilstone.builds import models, results
from oilstone.work import Work, at_work
from tests.api.base import ApiTest, add_fog, rename
from tests.core.cars import lamp_document, roadster
from tests.fuzz.odd_edits import ODD


def trouble_of(name: str) -> DatabaseError:
    """A database error as Django raises it for this one of SQLite's."""
    cause = sqlite3.OperationalError(name)
    cause.sqlite_errorname = name
    problem = DatabaseError(name)
    problem.__cause__ = cause
    return problem


class TroubleTest(ApiTest):
    def setUp(self) -> None:
        super().setUp()
        logging.getLogger("oilstone").handlers, self.handlers = (
            [],
            logging.getLogger("oilstone").handlers,
        )
        self.addCleanup(setattr, logging.getLogger("oilstone"), "handlers", self.handlers)

    def test_each_cause_is_named_with_a_way_out(self) -> None:
        for name, code, words in (
            ("SQLITE_FULL", "disk-full", "Make room"),
            ("SQLITE_READONLY_DBMOVED", "read-only", "right to write"),
            ("SQLITE_CORRUPT", "damaged", "make restore"),
            ("SQLITE_NOTADB", "damaged", "make restore"),
            ("SQLITE_CANTOPEN", "no-data", "is there"),
            ("SQLITE_IOERR_READ", "disk-error", "another disk"),
            ("SQLITE_BUSY", "busy", "Another program"),
        ):
            with (
                self.subTest(name),
                self.assertLogs("oilstone", "ERROR") as written,
                patch("oilstone.api.builds.history.reversible", side_effect=trouble_of(name)),
            ):
                problem = self.get(expect=503)
                self.assertEqual(problem["code"], code)
                self.assertIn(words, problem["message"])
                self.assertRegex(problem["message"], r"Written down as E-\w{6} in .*oilstone.log")
                self.assertIn("Traceback", written.output[0])

    def test_a_fault_of_ours_is_json_too(self) -> None:
        with (
            self.assertLogs("oilstone", "ERROR"),
            patch("oilstone.api.builds.history.reversible", side_effect=RuntimeError("boom")),
        ):
            problem = self.get(expect=500)
        self.assertEqual(problem["code"], "fault")
        self.assertNotIn("boom", problem["message"])

    def test_a_broken_build_takes_no_other_down(self) -> None:
        other = json.loads(
            self.client.post("/api/builds", json.dumps(lamp_document()), "application/json").content
        )
        models.Part.objects.filter(build=self.build, identity="horn").update(kind="ghost")
        results.forget()
        with self.assertLogs("oilstone", "ERROR"):
            problem = self.get(expect=503)
        self.assertEqual(problem["code"], "unreadable-build")
        self.assertIn("Saltmarsh Roadster", problem["message"])
        self.assertEqual(len(self.client.get("/api/builds").json()), 2)
        self.assertEqual(self.client.get(f"/api/builds/{other['id']}/results").status_code, 200)

    def test_a_read_only_database_refuses_an_edit_and_keeps_all(self) -> None:
        with connection.cursor() as cursor:
            cursor.execute("PRAGMA query_only = ON")
            try:
                with self.assertLogs("oilstone", "ERROR"):
                    problem = self.edit(rename("Klaxon"), base=0, expect=503)
            finally:
                cursor.execute("PRAGMA query_only = OFF")
        self.assertEqual(problem["code"], "read-only")
        self.assertEqual(self.get()["revision"], 0)

    def test_what_is_missing_is_json(self) -> None:
        for path in ("/api/nothing", "/assets/nothing.js"):
            answer = self.client.get(path)
            self.assertEqual((answer.status_code, answer.json()["code"]), (404, "not-found"))


class BodiesTest(ApiTest):
    def test_bodies_that_json_lets_through_and_no_build_can_hold(self) -> None:
        edit = '{"base": 0, "label": "x", "operations": [%s]}'
        note = '{"op": "change", "collection": "parts", "id": "horn", "fields": {"note": %s}}'
        for value, words in (
            ("NaN", "not a number"),
            ("-Infinity", "not a number"),
            ("1e999", "finite"),
            ("9" * 400, "digits"),
            ("9" * 5000, "digits"),
            ('"half \\ud800"', "half a character"),
            ('"bell \\u0007"', "not written as expected"),
            ("[" * 900 + "]" * 900, "nested too deeply"),
            ("[" * 100_000 + "]" * 100_000, "nested too deeply"),
        ):
            with self.subTest(value[:20]):
                for path in ("/edits", "/preview"):
                    body = edit % (note % value)
                    answer = self.client.post(f"{self.url}{path}", body, "application/json")
                    self.assertEqual(answer.status_code, 422, answer.content[:300])
                    self.assertIn(words, answer.json()["message"])
        for body in (b"\xff\xfe", b"{", b"[]", b"null", b"1"):
            answer = self.client.post(f"{self.url}/edits", body, "application/json")
            self.assertEqual(answer.status_code, 422, answer.content[:300])

    def test_odd_answers_policies_and_bodies_are_refused_in_words(self) -> None:
        def change(**fields: Any) -> dict:
            return {"op": "change", "collection": "build", "id": "build", "fields": fields}

        recipes = self.get("/recipes")
        asked = [(row["id"], question["name"]) for row in recipes for question in row["questions"]]
        operations = [
            change(**{name: odd})
            for name in ("policy", "body", "name", "harness_from")
            for odd in ODD
        ]
        operations += [change(policy={"fuse_headroom": odd}) for odd in ODD]
        operations += [change(body={"doors": odd}) for odd in ODD]
        operations += [
            {"op": "write_recipe", "recipe": recipe, "answers": {name: ODD[number % len(ODD)]}}
            for number, (recipe, name) in enumerate(asked)
        ]
        refused = 0
        for operation in operations:
            body = json.dumps({"base": 0, "label": "x", "operations": [operation]})
            answer = self.client.post(f"{self.url}/preview", body, "application/json")
            self.assertIn(answer.status_code, (200, 422), f"{operation} {answer.content[:300]!r}")
            refused += answer.status_code == 422
            if answer.status_code == 422:
                self.assertGreater(len(answer.json()["message"]), 15)
        self.assertGreater(refused, len(operations) / 2)

    def test_a_conflict_tells_the_last_changes_and_counts_the_rest(self) -> None:
        for number in range(25):
            self.edit(rename(f"Horn {number}"), label=f"Horn {number}")
        conflict = self.edit(rename("late"), base=0, expect=409)
        self.assertEqual(len(conflict["since"]), 20)
        self.assertIn("25 changes", conflict["message"])

    def test_a_table_of_too_many_positions_is_refused(self) -> None:
        build = roadster()
        switches = ",".join(part.id for part in build.parts.values() if part.contacts)
        with patch("circuitry.reach.truth.MOST_STATES", 3):
            problem = self.get(f"/circuits/radiator-fan/truth?vary={switches}", expect=422)
        self.assertEqual(problem["code"], "too-many-positions")
        self.assertIn("at most 3", problem["message"])


class AtWorkTest(ApiTest):
    """Sizing of one build holds up no other, says how far it is, and can be stopped."""

    def test_one_build_at_work_holds_up_no_other(self) -> None:
        hold, begun = threading.Event(), threading.Event()

        def slow(build: Any) -> Any:
            begun.set()
            hold.wait(20)
            return size_build(build)

        hard = roadster()
        with patch("oilstone.builds.results.size_build", slow):
            first = threading.Thread(target=results.sized, args=(hard,))
            first.start()
            self.assertTrue(begun.wait(20))
        try:
            created = self.client.post(
                "/api/builds", json.dumps(lamp_document()), "application/json"
            )
            self.assertEqual(created.status_code, 201)
            self.assertEqual(self.client.get("/api/builds").status_code, 200)
        finally:
            hold.set()
            first.join()

    def test_asked_for_twice_at_once_it_is_computed_once(self) -> None:
        counted: list[int] = []

        def counting(build: Any) -> Any:
            counted.append(1)
            return size_build(build)

        with patch("oilstone.builds.results.size_build", counting):
            threads = [threading.Thread(target=results.sized, args=(roadster(),)) for _ in range(4)]
            for thread in threads:
                thread.start()
            for thread in threads:
                thread.join()
        self.assertEqual(len(counted), 1)

    def test_an_edit_that_no_current_feels_takes_over_the_sizes_at_work(self) -> None:
        begun, counted = threading.Event(), []

        def counting(build: Any) -> Any:
            counted.append(build)
            begun.set()
            return size_build(build)

        place = replace(roadster().places["rear"], x_m=3.21)
        moved = replace(roadster(), places={**roadster().places, "rear": place})
        with patch("oilstone.builds.results.size_build", counting):
            first = threading.Thread(target=results.sized, args=(roadster(),))
            first.start()
            self.assertTrue(begun.wait(20))
            self.assertEqual(results.sized(moved).build.places["rear"].x_m, 3.21)
            first.join()
        self.assertEqual(len(counted), 1)

    def test_work_tells_how_far_it_is_and_stops_when_asked(self) -> None:
        told: list[str] = []

        def watch(work: Work, doing: str, share: float) -> None:
            told.append(doing)
            if not work.stop and doing == "Solving the design states":
                shown = Client().get("/api/work/mine").json()
                self.assertIn("doing", shown)
                self.assertEqual(Client().delete("/api/work/mine").status_code, 204)
            if work.stop:
                raise Stopped
            work.doing, work.share = doing, share

        body = json.dumps({"base": 0, "label": "Fog", "operations": [add_fog()]})
        with patch.object(Work, "tell", watch):
            answer = self.client.post(
                f"{self.url}/edits", body, "application/json", headers={"X-Work": "mine"}
            )
        self.assertEqual((answer.status_code, answer.json()["code"]), (409, "stopped"))
        self.assertIn("Looking for ways", told)
        self.assertEqual(self.get()["revision"], 0)
        self.assertIsNone(at_work("mine"))
        self.assertIsNone(self.client.get("/api/work/mine").json())
        self.assertEqual(self.edit(add_fog())["revision"], 1)

    def test_who_waits_for_work_that_another_stops_does_it_himself(self) -> None:
        begun, stop = threading.Event(), threading.Event()

        def stopped(build: Any) -> Any:
            begun.set()
            stop.wait(20)
            raise Stopped

        with patch("oilstone.builds.results.size_build", stopped):
            first = threading.Thread(target=self._expect_stop)
            first.start()
            self.assertTrue(begun.wait(20))
        waiting = threading.Timer(0.5, stop.set)
        waiting.start()
        self.assertTrue(results.sized(roadster()).wires)
        first.join()

    def _expect_stop(self) -> None:
        with self.assertRaises(Stopped):
            results.sized(roadster())

    def test_nobody_needs_to_watch(self) -> None:
        report("anything", 0.5)
        self.assertRaises(UnusableInput, results.sized, _never_settles())


def _never_settles() -> Any:
    from circuitry.document.reading import from_document
    from tests.core.cars import document, part, relay_parts, wire

    parts = [*relay_parts("mini 5-pin"), part("horn", "load", catalogue="Horn")]
    ends = (("battery.+", "relay.30"), ("relay.87a", "relay.86"), ("relay.85", "battery.-"))
    return from_document(document(parts, [wire(n, *end) for n, end in enumerate(ends)]))
