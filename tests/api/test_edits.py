"""The one door: edits, previews, undo and redo, conflicts and refusals."""

from unittest import mock

from circuitry.document.reading import to_document
from oilstone.api import schemas
from oilstone.builds import history, models, results, storage
from tests.api.base import ApiTest, add_fog, rename
from tests.core.cars import roadster


class EditTest(ApiTest):
    def test_an_edit_is_one_revision_with_its_changes_and_results(self) -> None:
        answer = self.edit(add_fog(), label="Add Rear fog")
        self.assertEqual(answer["revision"], 1)
        added = {row["id"] for row in answer["changes"] if row["before"] is None}
        self.assertTrue({"rear-fog", "fog-switch", "f8-rear-fog"} <= added)
        line = answer["results"]["circuits"]["rear-fog"]
        self.assertEqual(answer["results"]["fuses"][line["fuse"]]["rating_a"], 3)
        self.assertEqual(self.get()["undo"], "Add Rear fog")

    def test_what_is_stored_is_what_was_answered(self) -> None:
        self.edit(add_fog())
        self.edit({"op": "remove_load", "load": "fuel-pump"}, rename("Hooter"))
        row = models.Build.objects.get(pk=self.build.pk)
        stored = storage.load(row)
        kept = to_document(stored)
        self.assertEqual(kept, self.document())
        self.assertNotIn("fuel-pump", stored.parts)
        self.assertEqual(stored.parts["horn"].name, "Hooter")

    def test_an_edit_that_changes_nothing_makes_no_revision(self) -> None:
        self.assertEqual(self.edit(rename("Horn"))["revision"], 0)

    def test_undo_and_redo_walk_the_history_exactly(self) -> None:
        documents = [self.document()]
        for operation in (add_fog(), rename("Hooter"), {"op": "remove_load", "load": "horn"}):
            self.edit(operation, label=operation["op"])
            documents.append(self.document())
        for step in (2, 1, 0):
            self.move("undo", self.get()["revision"])
            self.assertEqual(self.document(), documents[step])
        self.assertEqual(self.get()["redo"], "add_load")
        for step in (1, 2, 3):
            self.move("redo", self.get()["revision"])
            self.assertEqual(self.document(), documents[step])
        self.assertEqual(self.get()["revision"], 9)
        self.assertIsNone(self.get()["redo"])

    def test_a_new_edit_forgets_what_could_be_redone(self) -> None:
        self.edit(rename("One"))
        self.move("undo", 1)
        self.edit(rename("Two"))
        view = self.get()
        self.assertEqual((view["undo"], view["redo"]), ("Edit", None))
        self.assertEqual(self.move("redo", view["revision"], 409)["code"], "nothing-to-redo")

    def test_nothing_to_undo(self) -> None:
        self.assertEqual(self.move("undo", 0, 409)["code"], "nothing-to-undo")

    def test_what_an_edit_changes_is_told_before_it_is_sized(self) -> None:
        body = {"base": 0, "label": "Look", "operations": [add_fog()]}
        with mock.patch("oilstone.api.edits.sized") as sized:
            changes = self.post("/changes", body)
        sized.assert_not_called()
        self.assertEqual(changes, self.post("/preview", body)["changes"])
        self.assertEqual(self.post("/changes", {**body, "base": 7}, 409)["revision"], 0)
        spoiled = {**body, "operations": [{"op": "nonsense"}]}
        self.assertEqual(self.post("/changes", spoiled, 422)["code"], "bad-field")

    def test_a_preview_answers_the_same_and_saves_nothing(self) -> None:
        body = {"base": 0, "label": "Look", "operations": [add_fog()]}
        preview = self.post("/preview", body)
        self.assertEqual(self.get()["revision"], 0)
        self.assertEqual(self.document(), to_document(roadster()))
        answer = self.edit(add_fog())
        self.assertEqual(preview["changes"], answer["changes"])
        self.assertEqual(preview["results"], answer["results"])

    def test_what_a_preview_or_an_undo_has_sized_is_not_sized_again(self) -> None:
        with mock.patch.object(results, "size_build", wraps=results.size_build) as sizing:
            self.get("/results")
            self.post("/preview", {"base": 0, "label": "Look", "operations": [add_fog()]})
            self.edit(add_fog())
            self.move("undo", 1)
            self.get("/results")
        self.assertEqual(sizing.call_count, 2)

    def test_answers_have_the_shape_of_the_schema(self) -> None:
        answer = self.edit({"op": "remove_load", "load": "horn"})
        read = schemas.EditAnswer.model_validate(answer).model_dump(mode="json", warnings=False)
        self.assertEqual(read, answer)
        self.assertEqual(read["results"], self.get("/results"))
        finding = next(row for row in answer["results"]["findings"] if row["mends"])
        self.assertIn("op", finding["mends"][0]["operations"][0])


class ConflictTest(ApiTest):
    def test_a_stale_base_is_told_what_happened_meanwhile(self) -> None:
        self.edit(rename("Hooter"), label="Rename Horn to Hooter")
        problem = self.edit(rename("Klaxon"), base=0, expect=409)
        self.assertEqual((problem["code"], problem["revision"]), ("stale-base", 1))
        self.assertEqual([row["label"] for row in problem["since"]], ["Rename Horn to Hooter"])
        self.assertIn("“Rename Horn to Hooter”", problem["message"])
        self.assertEqual(models.Edit.objects.count(), 1)
        body = {"base": 0, "label": "Look", "operations": [rename("Klaxon")]}
        self.assertEqual(self.post("/preview", body, 409)["revision"], 1)
        for word in ("undo", "redo"):
            self.edit(rename("X"))
            self.move("undo", self.get()["revision"])
            self.assertEqual(self.move(word, 0, 409)["code"], "stale-base")

    def test_two_edits_racing_for_one_revision(self) -> None:
        """The other edit lands after this one has read its base and before it is stored."""
        real = history.sized
        other = rename("Other")

        def slow(build: object) -> object:
            with mock.patch.object(history, "sized", real):
                history.make_edit(self.build.pk, 0, "Other", [other])
            return real(build)

        with mock.patch.object(history, "sized", slow):
            problem = self.edit(rename("Mine"), base=0, expect=409)
        self.assertEqual([row["label"] for row in problem["since"]], ["Other"])
        row = models.Build.objects.get(pk=self.build.pk)
        self.assertEqual((row.revision, storage.load(row).parts["horn"].name), (1, "Other"))

    def test_a_crash_while_storing_leaves_the_old_revision_whole(self) -> None:
        with (
            mock.patch.object(models.Edit, "save", side_effect=RuntimeError("power cut")),
            self.assertRaises(RuntimeError),
        ):
            history.make_edit(self.build.pk, 0, "Edit", [add_fog()])
        row = models.Build.objects.get(pk=self.build.pk)
        self.assertEqual((row.revision, storage.load(row)), (0, roadster()))


class RefusalTest(ApiTest):
    def test_bad_operations_are_refused_whole_and_name_the_thing(self) -> None:
        def wire(identity: str, **fields: object) -> dict:
            return {"op": "change", "collection": "wires", "id": identity, "fields": fields}

        chase = [
            {
                "op": "change",
                "collection": "parts",
                "id": "horn-relay",
                "fields": {"catalogue": "mini 5-pin"},
            },
            wire("w23", from_terminal="horn-relay.87a"),
        ]
        coil = next(
            row for row in roadster().wires.values() if str(row.to_terminal) == "horn-relay.86"
        )
        chase[1] = wire(coil.id, from_terminal="horn-relay.87a")
        cases = [
            ([wire("w3", length_m=-1)], "bad-field", "-1"),
            ([wire("w3", to_terminal="panel.F99")], "missing-terminal", "W3"),
            ([wire("w3", label="W1")], "two-labels", "W1"),
            ([wire("w3", size="7 mm²")], "unknown-catalogue-row", "7 mm²"),
            ([add_fog(catalogue="Searchlight")], "unknown-catalogue-row", "Searchlight"),
            (
                [{"op": "remove", "collection": "parts", "id": "battery"}],
                "missing-terminal",
                "battery",
            ),
            (chase, "relays-never-settle", "Horn relay"),
            ([rename("Hooter"), wire("w3", length_m=1e12)], "bad-field", "at most"),
            ([{"op": "jump"}], "bad-field", "jump"),
        ]
        before = self.document()
        for operations, code, words in cases:
            with self.subTest(code):
                problem = self.edit(*operations, expect=422)
                self.assertEqual(problem["code"], code, problem)
                self.assertIn(words, problem["message"])
                self.assertTrue(problem["where"])
                body = {"base": 0, "label": "Look", "operations": operations}
                self.assertEqual(self.post("/preview", body, 422)["code"], code)
        self.assertEqual(self.document(), before)
        self.assertEqual(models.Edit.objects.count(), 0)

    def test_requests_of_the_wrong_shape(self) -> None:
        self.assertEqual(self.edit(rename("x"), base=10**30, expect=422)["code"], "bad-number")
        self.assertEqual(self.edit(rename("x"), base=-1, expect=422)["code"], "bad-request")
        self.assertEqual(self.post("/edits", {"base": 0}, 422)["code"], "bad-request")
        self.assertEqual(self.edit(rename("x"), label="", expect=422)["code"], "bad-request")
        answer = self.client.post(f"{self.url}/edits", "{", content_type="application/json")
        self.assertEqual((answer.status_code, answer.json()["code"]), (422, "not-json"))
        big = self.client.post(
            f"{self.url}/edits", b" " * 9_000_000, content_type="application/json"
        )
        self.assertEqual((big.status_code, big.json()["code"]), (413, "too-large"))
