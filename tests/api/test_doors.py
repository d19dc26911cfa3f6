"""Who may ask for what, and what our own pages may do."""

import json
import re
from pathlib import Path
from typing import Any

from django.core.management import call_command
from django.test import Client
from jsonschema import Draft202012Validator

from oilstone.api.api import api
from tests.api.base import ApiTest, rename

ROOT = Path(__file__).resolve().parents[2]


class DoorsTest(ApiTest):
    def test_pages_run_no_script_but_ours_and_stand_in_no_frame(self) -> None:
        for path in ("/", "/builds/1/stock", "/api/builds", "/icon.svg"):
            headers = self.client.get(path).headers
            policy = headers["Content-Security-Policy"]
            self.assertIn("script-src 'self';", policy)
            self.assertIn("frame-ancestors 'none'", policy)
            self.assertNotRegex(policy, r"script-src[^;]*unsafe")
            self.assertEqual(headers["X-Frame-Options"], "DENY")
            self.assertEqual(headers["X-Content-Type-Options"], "nosniff")
            self.assertNotIn("Access-Control-Allow-Origin", headers)

    def test_the_page_holds_no_script_of_its_own(self) -> None:
        page = (ROOT / "frontend" / "index.html").read_text(encoding="utf-8")
        for script in re.findall(r"<script[^>]*>(.*?)</script>", page, re.S):
            self.assertEqual(script.strip(), "")

    def test_another_site_may_link_here_and_no_more(self) -> None:
        elsewhere = {"Sec-Fetch-Site": "cross-site", "Sec-Fetch-Mode": "no-cors"}
        link = {**elsewhere, "Sec-Fetch-Mode": "navigate", "Sec-Fetch-Dest": "document"}
        framed = {**link, "Sec-Fetch-Dest": "iframe"}
        for path, headers, refused in (
            ("/api/builds", elsewhere, True),
            ("/api/builds", link, True),
            ("/", elsewhere, True),
            ("/", framed, True),
            ("/", link, False),
            ("/api/builds", {"Sec-Fetch-Site": "same-origin"}, False),
            ("/api/builds", {"Sec-Fetch-Site": "none"}, False),
        ):
            answer = self.client.get(path, headers=headers)
            self.assertEqual(answer.status_code == 403, refused, (path, headers))
        body = json.dumps({"base": 0, "label": "x", "operations": [rename("Klaxon")]})
        answer = self.client.post(
            f"{self.url}/edits", body, "application/json", headers={"Sec-Fetch-Site": "cross-site"}
        )
        self.assertEqual(answer.status_code, 403)
        self.assertEqual(self.get()["revision"], 0)

    def test_another_host_is_refused(self) -> None:
        answer = Client().get("/api/builds", headers={"Host": "elsewhere.example"})
        self.assertEqual(answer.status_code, 400)

    def test_the_deployment_check_has_nothing_to_say(self) -> None:
        call_command("check", deploy=True, fail_level="WARNING")


class DocumentOfTheApiTest(ApiTest):
    def setUp(self) -> None:
        super().setUp()
        self.api = json.loads(json.dumps(api.get_openapi_schema(path_prefix="/api/")))

    def test_it_is_valid(self) -> None:
        names = []
        for name, schema in self.api["components"]["schemas"].items():
            Draft202012Validator.check_schema(schema)
            self.assertNotIn("prefixItems", json.dumps(schema), name)
        for path, operations in self.api["paths"].items():
            named = set(re.findall(r"{(\w+)}", path))
            for operation in operations.values():
                names.append(operation["operationId"])
                given = {
                    row["name"] for row in operation.get("parameters", []) if row["in"] == "path"
                }
                self.assertEqual(given, named, path)
        self.assertEqual(len(names), len(set(names)))
        for reference in re.findall(r'"\$ref": "#/([^"]+)"', json.dumps(self.api)):
            found: Any = self.api
            for step in reference.split("/"):
                found = found[step]

    def test_what_is_sent_is_declared(self) -> None:
        edits = self.api["paths"]["/api/builds/{build_id}/edits"]["post"]["responses"]
        self.assertEqual(
            set(edits), {"200", "400", "403", "404", "409", "413", "422", "500", "503"}
        )
        for operations in self.api["paths"].values():
            for operation in operations.values():
                self.assertLessEqual(
                    {"403", "409", "422", "500", "503"}, set(operation["responses"])
                )
