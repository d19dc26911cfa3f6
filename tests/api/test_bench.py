"""The bench over HTTP: readings of a state, fall lines, sessions."""

import json
from typing import Any

from oilstone.builds import live
from oilstone.builds.models import Build
from tests.api.base import ApiTest, rename

MAIN = {"light-switch": "head", "dip-switch": "main"}


class BenchTest(ApiTest):
    def switch(self, of: str, to: str | None) -> dict:
        return {"do": "switch", "of": of, "to": to}

    def lit(self, session: dict, load: str) -> float:
        return session["frame"]["load_percent"][session["loads"].index(load)]

    def main_beam(self) -> Any:
        self.post("/bench/time", {"rate": 0})
        self.do({"do": "key", "to": "run"}, *(self.switch(*row) for row in MAIN.items()))
        return self.post("/bench/time", {"step_s": 2.0})

    def test_key_and_switches_light_what_they_should(self) -> None:
        session = self.main_beam()
        self.assertEqual(session["frame"]["key"], "run")
        self.assertGreater(self.lit(session, "main-beam-left"), 40)
        self.assertLess(self.lit(session, "dipped-beam-left"), 1)
        self.assertIn("main-beam-left-relay", session["frame"]["pulled_in"])
        self.assertIn("Key to run", [event["what"] for event in session["tape"]])

    def test_time_stands_still_steps_and_goes_back(self) -> None:
        self.main_beam()
        t_s = self.get("/bench")["t_s"]
        self.assertEqual(self.get("/bench")["t_s"], t_s)
        self.do({"do": "key", "to": "off"})
        stepped = self.post("/bench/time", {"step_s": 0.5})
        self.assertAlmostEqual(stepped["t_s"], t_s + 0.5, places=6)
        self.assertEqual(stepped["frame"]["key"], "off")
        back = self.post("/bench/time", {"to_s": t_s - 0.5})
        self.assertEqual(back["frame"]["key"], "run")
        self.assertAlmostEqual(back["ends_s"], t_s, places=6)
        again = self.post("/bench/time", {"step_s": 1.0})
        self.assertEqual(again["frame"]["key"], "off")

    def test_a_long_session_is_gone_back_to_as_it_was(self) -> None:
        self.main_beam()
        self.post("/bench/time", {"step_s": 30.0})
        there = self.post("/bench/time", {"step_s": 0.25})
        self.post("/bench/time", {"step_s": 0.25})
        for to in ("off", "run") * 3:
            self.do({"do": "key", "to": to})
            self.post("/bench/time", {"step_s": 20.0})
        back = self.post("/bench/time", {"to_s": there["t_s"]})
        self.assertEqual(back["frame"], there["frame"])
        self.assertEqual(back["tape"], there["tape"])

    def test_each_wire_tells_the_volts_at_its_far_end(self) -> None:
        session = self.main_beam()
        wires = self.document()["wires"]
        feed = next(row["id"] for row in wires if row["to_terminal"] == "main-beam-left.+")
        ends = {"red": "main-beam-left.+", "black": "battery.-"}
        session = self.do({"do": "meter", "of": "1", "meter": {"kind": "voltmeter", **ends}})
        volts = dict(zip(session["wires"], session["frame"]["wire_v"], strict=True))
        self.assertAlmostEqual(volts[feed], session["frame"]["meters"]["1"]["value"], 2)
        self.assertGreater(volts[feed], 10)
        self.do({"do": "fault", "fault": {"kind": "open wire", "of": feed}})
        broken = self.post("/bench/time", {"step_s": 1.0})
        at = broken["wires"].index(feed)
        self.assertLess(broken["frame"]["wire_v"][at] or 0.0, 0.5)

    def test_who_comes_with_an_older_row_does_not_put_the_bench_back(self) -> None:
        older = Build.objects.get(pk=self.build.pk)
        self.edit(rename("Klaxon"))
        session = self.main_beam()
        self.assertEqual(live.live_of(older).revision, older.revision + 1)
        again = self.get("/bench")
        self.assertEqual(again["frame"]["key"], "run")
        self.assertEqual(again["tape"], session["tape"])

    def test_it_is_where_it_was_after_the_server_has_stopped(self) -> None:
        before = self.main_beam()
        self.do({"do": "pull", "of": "horn"})
        live.forget()
        after = self.get("/bench")
        self.assertEqual(after["frame"]["key"], "run")
        self.assertEqual(after["frame"]["pulled"], ["horn"])
        self.assertAlmostEqual(after["t_s"], before["t_s"], delta=0.5)
        self.assertGreater(self.lit(after, "main-beam-left"), 40)

    def test_an_edit_of_a_live_build_begins_again_from_off_and_says_so(self) -> None:
        self.main_beam()
        self.edit(rename("Loud horn"), label="Rename the horn")
        session = self.get("/bench")
        self.assertEqual(session["revision"], 1)
        self.assertEqual(session["frame"]["key"], "off")
        self.assertIn("Rename the horn", session["tape"][0]["what"])

    def test_sessions_are_kept_played_again_and_thrown_away(self) -> None:
        self.main_beam()
        kept = self.post("/bench/keep", {"name": "Main beam"})["kept"][0]
        self.assertEqual((kept["name"], kept["actions"]), ("Main beam", 3))
        self.assertEqual(self.post("/bench/clear", {})["frame"]["key"], "off")
        played = self.post("/bench/open", {"session": kept["id"], "to_s": 1.5})
        self.assertGreater(self.lit(played, "main-beam-left"), 40)
        self.assertEqual(played["rate"], 0)
        left = self.client.delete(f"{self.url}/bench/kept/{kept['id']}").json()
        self.assertEqual(left["kept"], [])

    def test_a_script_goes_out_and_comes_in_again(self) -> None:
        self.main_beam()
        script = self.get("/bench/script")
        self.post("/bench/clear", {})
        self.post("/bench/script", script)
        session = self.post("/bench/time", {"step_s": 3.0})
        self.assertGreater(self.lit(session, "main-beam-left"), 40)
        bad = {"actions": [{"at_s": 1, "do": "fly"}]}
        self.assertEqual(self.post("/bench/script", bad, 422)["code"], "unknown-action")
        self.assertEqual(self.get("/bench")["frame"]["key"], "run")

    def test_faults_are_put_in_dealt_guessed_and_mended(self) -> None:
        kinds = {row["kind"]: row for row in self.get("/bench/faults")}
        self.assertIn("horn", [thing["id"] for thing in kinds["blown lamp"]["fits"]] + ["horn"])
        wire = kinds["open wire"]["fits"][0]["id"]
        self.assertEqual(self.get(f"/bench/faults/others?kind=open wire&of={wire}"), [])
        self.do({"do": "fault", "fault": {"kind": "open wire", "of": wire}})
        session = self.post("/bench/deal", {"hard": "easy"})
        self.assertEqual([(row["id"], row["blind"]) for row in session["faults"]], [("", True)])
        self.assertNotIn("blind", str(self.get("/bench/script")["actions"][:1]))
        wrong = self.post("/bench/guess", {"of": "no-such-thing"})
        self.assertEqual((wrong["guesses"][-1]["right"], wrong["guesses"][-1]["was"]), (False, ""))
        told = self.post("/bench/guess", {"of": None})
        self.assertTrue(told["guesses"][-1]["was"])
        self.assertFalse(told["faults"][0]["blind"])
        self.post("/bench/clear", {})
        self.assertEqual(self.post("/bench/guess", {"of": "horn"}, 422)["code"], "no-fault")

    def test_a_voltmeter_between_any_two_terminals(self) -> None:
        self.main_beam()
        meter = {"kind": "voltmeter", "red": "main-beam-right.+", "black": "main-beam-right.-"}
        session = self.do({"do": "meter", "of": "1", "meter": meter})
        volts = session["frame"]["load_v"][session["loads"].index("main-beam-right")]
        self.assertAlmostEqual(session["frame"]["meters"]["1"]["value"], volts, delta=0.01)
        self.assertAlmostEqual(session["frame"]["meters"]["1"]["expected"], volts, delta=0.3)

    def test_live_fall_lines_only_for_what_has_a_way(self) -> None:
        self.assertEqual(self.get("/bench/fall-lines?circuit=main-beam-left"), [])
        self.main_beam()
        lines = self.get("/bench/fall-lines?circuit=main-beam-left")
        self.assertEqual([row["load"] for row in lines], ["main-beam-left", "main-beam-right"])

    def test_design_fall_lines_add_up(self) -> None:
        for line in self.get("/circuits/main-beam-left/fall-lines"):
            total = line["feed_loss_v"] + line["return_loss_v"] + line["load_v"]
            self.assertAlmostEqual(total, line["battery_v"], places=6)

    def test_what_the_car_does_not_have(self) -> None:
        for action, code in (
            ({"do": "key", "to": "start"}, "bad-action"),
            ({"do": "switch", "of": "horn", "to": "on"}, "bad-action"),
            ({"do": "switch", "of": "horn-push", "to": "hard"}, "unknown-position"),
            ({"do": "pull", "of": "nothing"}, "unknown-part"),
        ):
            self.assertEqual(self.do(action, expect=422)["code"], code)
        self.assertEqual(self.get("/bench")["frame"]["key"], "off")

    def test_frames_come_as_a_stream_the_first_whole(self) -> None:
        answer = self.client.get(f"{self.url}/bench/stream?every_s=0.04")
        self.assertEqual(answer["Content-Type"], "text/event-stream")
        lines = iter(answer.streaming_content)
        news = []
        while len(news) < 3:
            text = next(lines).decode()
            if text.startswith("data: "):
                news.append(json.loads(text[6:]))
        self.assertIn("load_v", news[0]["frame"])
        self.assertNotIn("load_v", news[1]["frame"])
        self.assertGreater(news[2]["frame"]["t_s"], news[0]["frame"]["t_s"])
