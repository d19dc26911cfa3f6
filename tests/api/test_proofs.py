"""Power up over HTTP: the plan, the car as it stands, and the record of proof."""

import io
from datetime import datetime, timedelta
from typing import Any

from django.core.files.uploadedfile import SimpleUploadedFile
from django.utils import timezone
from pypdf import PdfReader

from oilstone.builds import models
from tests.api.base import ApiTest, rename

HORN_FIGURES = {
    "op": "change",
    "collection": "parts",
    "id": "horn",
    "fields": {"figures": {"rated_a": 5.6}},
}


class ProofTest(ApiTest):
    def plan(self) -> dict[str, Any]:
        return self.get("/plan")

    def step(self, start: str) -> dict[str, Any]:
        return next(row for row in self.plan()["steps"] if row["id"].startswith(start))

    def record(self, step: dict[str, Any], expect: int = 201, **fields: Any) -> Any:
        bands = {
            row["id"]: {name: row[name] for name in ("name", "unit", "expected", "low", "high")}
            for row in step["readings"]
        }
        sent = {
            "step": step["id"],
            "token": step["token"],
            "title": step["title"],
            "passed": True,
            "bands": bands,
            "mark": f"mark-of-{models.Proof.objects.count()}",
        }
        return self.post("/proofs", sent | fields, expect)

    def again(self) -> list[str]:
        return [row["again"] for row in self.get("/proofs")["states"]]

    def test_a_step_says_what_to_do_see_and_expect(self) -> None:
        horn = self.step("works/horn")
        self.assertEqual([row["said"] for row in horn["operate"]], ["Horn push to pressed"])
        self.assertEqual([row["right"] for row in horn["looks"]], ["sounds"])
        volts = next(row for row in horn["readings"] if row["id"] == "volts/horn")
        self.assertTrue(volts["low"] < volts["expected"] < volts["high"] < 13)
        self.assertEqual((volts["red"], volts["black"]), ("horn.+", "horn.-"))
        self.assertEqual((horn["key"], horn["switches"]), ("off", {"horn-push": "pressed"}))
        self.assertTrue(horn["cautions"])

    def test_a_proof_is_kept_with_what_was_read_and_seen(self) -> None:
        horn, an_hour_ago = self.step("works/horn"), timezone.now() - timedelta(hours=1)
        kept = self.record(
            horn,
            readings={"volts/horn": "12,3 V", "amps/horn": "4900 mA", "before/horn": " "},
            looks={"look/horn": "dim"},
            note="hoarse",
            who="Jo",
            said_at=an_hour_ago.isoformat(),
        )
        told = {row["id"]: (row["value"], row["verdict"]) for row in kept["readings"]}
        self.assertEqual(told, {"volts/horn": (12.3, "in band"), "amps/horn": (4.9, "in band")})
        self.assertEqual(
            kept["looks"][0] | {"id": ""},
            {
                "id": "",
                "name": "Horn",
                "right": "sounds",
                "seen": "dim",
            },
        )
        self.assertEqual((kept["who"], kept["note"], kept["again"]), ("Jo", "hoarse", ""))
        self.assertEqual(datetime.fromisoformat(kept["at"]).minute, an_hour_ago.minute)
        (found,) = self.get(f"/proofs/record?step={horn['id']}")
        self.assertEqual(found, kept)

    def test_sent_twice_it_is_kept_once(self) -> None:
        horn = self.step("works/horn")
        first = self.record(horn, mark="of-the-phone-1")
        self.assertEqual(self.record(horn, mark="of-the-phone-1", note="again"), first)
        self.assertEqual(models.Proof.objects.count(), 1)

    def test_a_clock_that_is_far_off_is_not_believed(self) -> None:
        for year in ("2093", "2019"):
            kept = self.record(self.step("works/horn"), said_at=f"{year}-01-01T00:00:00Z")
            self.assertFalse(kept["at"].startswith(year))

    def test_two_who_did_not_see_each_other_and_say_otherwise_are_told(self) -> None:
        horn = self.step("works/horn")
        minutes = [timezone.now() - timedelta(minutes=ago) for ago in (9, 5, 1)]
        self.record(horn, who="Jo", said_at=minutes[1].isoformat())
        self.assertEqual(self.again(), [""])
        self.record(horn, who="Wren", passed=False, said_at=minutes[0].isoformat())
        (state,) = self.get("/proofs")["states"]
        self.assertEqual((state["passed"], state["who"], state["kept"]), (True, "Jo", 2))
        self.assertIn("Jo said passed and Wren said not right, neither", state["again"])
        self.record(horn, who="Jo")
        self.assertEqual(self.again(), [""])

    def test_a_change_that_matters_asks_for_it_again_and_says_why(self) -> None:
        horn, stop = self.step("works/horn"), self.step("works/stop-lamp-left")
        self.record(horn)
        self.record(stop)
        self.edit(rename("Hooter"), label="Rename")
        self.assertEqual(self.again(), ["", ""])
        self.edit(HORN_FIGURES, label="A louder horn")
        reasons = {row["step"]: row["again"] for row in self.get("/proofs")["states"]}
        self.assertEqual(reasons[stop["id"]], "")
        self.assertIn("Hooter", reasons[horn["id"]])
        self.assertIn("“A louder horn”", reasons[horn["id"]])

    def test_what_was_measured_before_an_edit_is_kept_and_judged_by_what_the_sheet_said(
        self,
    ) -> None:
        horn = self.step("works/horn")
        self.edit(HORN_FIGURES)
        kept = self.record(horn, readings={"amps/horn": "5.0"})
        self.assertEqual(kept["readings"][0]["expected"], 5.0)
        self.assertIn("between looking and measuring", kept["again"])
        fresh = self.record(self.step("works/horn"), readings={"amps/horn": "5.0"})
        self.assertEqual((fresh["readings"][0]["expected"], fresh["again"]), (5.6, ""))

    def test_the_newest_counts_and_what_is_gone_says_so(self) -> None:
        horn = self.step("works/horn")
        self.record(horn)
        self.record(horn, passed=False)
        (state,) = self.get("/proofs")["states"]
        self.assertFalse(state["passed"])
        self.edit({"op": "remove_load", "load": "horn"}, label="No horn")
        self.assertIn("Changed since", self.again()[0])

    def test_what_is_no_reading_is_refused_with_the_way_out(self) -> None:
        horn = self.step("works/horn")
        for text, words in (
            ("loud", "volts, like 12.3"),
            ("4 A", "volts, like"),
            ("1,2,3", "850 mV"),
        ):
            problem = self.record(horn, 422, readings={"volts/horn": text})
            self.assertIn(words, problem["message"])
        self.assertEqual(models.Proof.objects.count(), 0)
        kept = self.record(horn, readings={"volts/horn": "12300", "amps/horn": "-5"})
        self.assertIn("mV", kept["readings"][0]["hint"])
        self.assertEqual(kept["readings"][1]["verdict"], "in band")
        kept = self.record(horn, readings={"volts/horn": "−12.3"})
        self.assertEqual(kept["readings"][0]["verdict"], "the wrong way round")

    def test_the_battery_as_measured_narrows_what_to_expect(self) -> None:
        def volts() -> dict[str, Any]:
            rows = self.step("works/horn")["readings"]
            return next(row for row in rows if row["id"] == "volts/horn")

        wide = volts()
        today = self._answer(
            self.client.put(
                f"{self.url}/today", {"battery": "12,48"}, content_type="application/json"
            ),
            200,
        )
        self.assertEqual(today["battery_v"], 12.48)
        narrow = volts()
        self.assertLess(narrow["high"] - narrow["low"], wide["high"] - wide["low"])
        self.assertLess(narrow["high"], 12.6)

    def put_today(self, expect: int = 200, **fields: Any) -> Any:
        answer = self.client.put(f"{self.url}/today", fields, content_type="application/json")
        return self._answer(answer, expect)

    def test_what_is_not_there_yet_waits_and_a_jumper_stands_in(self) -> None:
        self.put_today(missing=["stop-lamp-left", "brake-switch"])
        stop = self.step("works/stop-lamp-left")
        self.assertEqual(stop["waits_for"], ["Brake pedal"])
        self.put_today(jumpers=[{"part": "brake-switch", "position": "pressed"}])
        stop = self.step("works/stop-lamp-left")
        self.assertEqual(stop["waits_for"], [])
        self.assertTrue(stop["operate"][0]["jumper"])
        waiting = {row["load"]: row["waits"] for row in stop["looks"]}
        self.assertEqual(waiting, {"stop-lamp-left": True, "stop-lamp-right": False})
        self.assertNotIn("volts/stop-lamp-left", [row["id"] for row in stop["readings"]])

    def test_a_car_that_cannot_stand_so_is_refused(self) -> None:
        self.assertIn("charger", self.put_today(422, battery="124")["message"])
        self.assertIn("no part", self.put_today(422, missing=["wings"])["message"])
        jumper = {"part": "brake-switch", "position": "hard"}
        self.assertIn("no position", self.put_today(422, jumpers=[jumper])["message"])
        self.assertEqual(self.plan()["today"]["missing"], [])

    def test_photos_belong_to_steps_too(self) -> None:
        name = self.step("works/horn")["id"]
        sent = {"collection": "proofs", "identity": name}
        broken = SimpleUploadedFile("horn.jpg", b"no picture", "image/jpeg")
        answer = self.client.post(f"{self.url}/photos", sent | {"file": broken})
        self.assertIn("not a picture", self._answer(answer, 422)["message"])

    def test_the_sheet_is_of_a_circuit_and_of_what_is_left(self) -> None:
        horn = self.step("works/horn")

        def titles(query: str) -> str:
            answer = self.client.get(f"{self.url}/proofs/sheet?{query}")
            self.assertEqual(answer["Content-Type"], "application/pdf")
            pages = PdfReader(io.BytesIO(answer.content)).pages
            return " ".join(page.extract_text() for page in pages)

        whole = titles("circuit=horn")
        self.assertIn(horn["title"], whole)
        self.assertNotIn("Stop lamps: Brake pedal", whole)
        self.assertIn("revision 0", whole)
        self.record(horn)
        self.assertNotIn(horn["title"], titles("circuit=horn&left=true"))
        self.get("/proofs/sheet?paper=foolscap", 422)
