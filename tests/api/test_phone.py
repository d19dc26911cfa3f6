"""The door for phones: who gets in, and what may be done through it."""

import ipaddress
import ssl
import stat
import tempfile
import threading
import time
from pathlib import Path
from unittest import TestCase, mock

from cryptography import x509
from django.conf import settings
from django.test import RequestFactory, override_settings

from oilstone import phone
from oilstone.certificate import certify
from tests.api.base import ApiTest

THROUGH = {phone.THROUGH: True}


@override_settings(PHONE_ADDRESS="127.0.0.1", PHONE_PORT=0)
class PhoneTest(ApiTest):
    def setUp(self) -> None:
        super().setUp()
        data = tempfile.TemporaryDirectory()
        self.addCleanup(data.cleanup)
        self.enterContext(override_settings(DATA=Path(data.name)))
        self.addCleanup(phone.shut)

    def open_up(self) -> str:
        """Open the door; the path of the link that lets a phone in."""
        answer = self.client.put(
            "/api/phone", {"on": True, "to": "/builds/1/power-up"}, "application/json"
        )
        self.assertEqual(answer.status_code, 200, answer.content)
        view = answer.json()
        self.assertIn("<svg", view["code"])
        self.assertTrue(view["link"].startswith("https://127.0.0.1:"))
        return str(view["link"]).split("/phone/")[1]

    def test_the_door_is_shut_until_it_is_opened_and_again_after(self) -> None:
        self.assertFalse(self.client.get("/api/phone").json()["on"])
        self.assertEqual(self.client.get("/api/builds", **THROUGH).json()["code"], "scan-again")
        hosts = list(settings.ALLOWED_HOSTS)
        token = self.open_up()
        self.client.put("/api/phone", {"on": False}, "application/json")
        self.assertEqual(self.client.get(f"/phone/{token}", **THROUGH).status_code, 403)
        self.assertEqual(settings.ALLOWED_HOSTS, hosts)

    def test_the_code_lets_a_phone_in_to_read_and_record_and_no_more(self) -> None:
        token = self.open_up()
        self.assertEqual(self.client.get("/api/builds", **THROUGH).status_code, 403)
        self.assertEqual(self.client.get("/phone/not-this-one", **THROUGH).status_code, 403)
        self.assertEqual(self.client.get("/builds/1/power-up", **THROUGH).status_code, 403)
        let_in = self.client.get(f"/phone/{token}", **THROUGH)
        self.assertEqual((let_in.status_code, let_in["Location"]), (302, "/builds/1/power-up"))
        cookie = let_in.cookies[phone.COOKIE]
        self.assertTrue(cookie["secure"] and cookie["httponly"])
        self.assertEqual(self.client.get("/api/builds", **THROUGH).status_code, 200)
        for method, path, status in (
            ("post", f"{self.url}/edits", 403),
            ("delete", self.url, 403),
            ("put", "/api/phone", 403),
            ("post", f"{self.url}/history/0/back", 403),
            ("post", f"{self.url}/proofs", 422),
            ("post", f"{self.url}/journal", 422),
            ("post", f"{self.url}/made", 422),
            ("put", f"{self.url}/today", 200),
        ):
            asked = getattr(self.client, method)
            answer = asked(path, {}, content_type="application/json", **THROUGH)
            self.assertEqual(answer.status_code, status, (method, path))
        told = self.client.get("/api/phone", **THROUGH).json()
        self.assertEqual((told["on"], told["through"], told["link"]), (True, True, ""))

    def test_who_guesses_is_slowed_down_and_others_are_not(self) -> None:
        token = self.open_up()
        away = {**THROUGH, "REMOTE_ADDR": "192.168.7.9"}
        answers = [self.client.get(f"/phone/guess-{n}", **away).status_code for n in range(25)]
        self.assertEqual((answers[0], answers[-1]), (403, 429))
        self.assertEqual(self.client.get(f"/phone/{token}", **away).status_code, 429)
        self.assertEqual(self.client.get("/api/builds", **away).json()["code"], "too-much-at-once")
        self.assertEqual(self.client.get(f"/phone/{token}", **THROUGH).status_code, 302)
        for _ in range(100):
            self.assertEqual(self.client.get("/api/phone", **THROUGH).status_code, 200)
        later = time.monotonic() + 60
        with mock.patch("oilstone.phone.time.monotonic", return_value=later):
            self.assertEqual(self.client.get(f"/phone/{token}", **away).status_code, 302)

    def test_a_request_at_the_door_never_waits_for_it_to_be_shut(self) -> None:
        self.open_up()
        answers: list[int] = []
        request = RequestFactory().get("/api/builds", **THROUGH)

        def ask() -> None:
            answered = phone.answered_at_door(request)
            answers.append(answered.status_code if answered else 200)

        with phone._guard:
            asking = threading.Thread(target=ask)
            asking.start()
            asking.join(10)
            self.assertEqual(answers, [403])

    def test_a_link_leads_nowhere_else(self) -> None:
        token = self.open_up().partition("?")[0]
        for to in ("https://elsewhere.example/", "//elsewhere.example/x", "javascript:1"):
            answer = self.client.get(f"/phone/{token}", {"to": to}, **THROUGH)
            self.assertEqual(answer["Location"], "/", to)

    @override_settings(PHONE_ADDRESS="203.0.113.9")
    def test_an_address_that_is_not_there_is_refused_in_words(self) -> None:
        answer = self.client.put("/api/phone", {"on": True}, "application/json")
        self.assertEqual(answer.status_code, 422)
        self.assertEqual(answer.json()["code"], "phone-refused")


class CertificateTest(TestCase):
    def test_it_is_for_the_address_and_the_authority_for_private_networks_alone(self) -> None:
        folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        certificate, key = certify(folder, "192.168.7.31")
        again, _ = certify(folder, "10.0.0.4")
        authority = x509.load_pem_x509_certificate((folder / "authority.crt").read_bytes())
        made, signed_by = x509.load_pem_x509_certificates(again.read_bytes())
        self.assertEqual(signed_by, authority)
        made.verify_directly_issued_by(authority)
        names = made.extensions.get_extension_for_class(x509.SubjectAlternativeName).value
        self.assertEqual(
            names.get_values_for_type(x509.IPAddress), [ipaddress.ip_address("10.0.0.4")]
        )
        limits = authority.extensions.get_extension_for_class(x509.NameConstraints)
        self.assertTrue(limits.critical)
        allowed = [row.value for row in limits.value.permitted_subtrees or ()]
        self.assertTrue(all(network.is_private or network.is_link_local for network in allowed))
        self.assertEqual(stat.S_IMODE(key.stat().st_mode), 0o600)
        ssl.create_default_context().load_cert_chain(certificate, key)
