"""A phone that is let in by the code, beside a laptop that sleeps."""

import base64
import hashlib
import re
import tempfile

from cryptography import x509
from cryptography.hazmat.primitives.serialization import Encoding, PublicFormat
from playwright.sync_api import BrowserContext, Page, expect

from oilstone.certificate import authority_file
from tests.browser.base import BrowserTest
from tests.browser.running import CHROMIUM, QUIET_CHROMIUM

HORN = "Horn: Horn push to pressed"

LET_GO = """async () => {
  const kept = await caches.open('builds')
  for (const request of await kept.keys())
    if (request.url.endsWith('/results')) await kept.delete(request)
}"""
"""What was sized is not kept on the phone: a long line says so in its place."""


class PhoneTest(BrowserTest):
    starts_anew = True
    cars = ("demo/saltmarsh-roadster.json",)

    def setUp(self) -> None:
        super().setUp()
        self.server.stop()
        here = {"OILSTONE_PHONE_ADDRESS": "127.0.0.1", "OILSTONE_PHONE_PORT": "0"}
        self.server.environment.update(here)
        self.server.start()

    def phone(self) -> BrowserContext:
        """A phone that trusts the certificate of this machine."""
        pem = authority_file(self.server.data / "phone").read_bytes()
        key = x509.load_pem_x509_certificate(pem).public_key()
        digest = hashlib.sha256(key.public_bytes(Encoding.DER, PublicFormat.SubjectPublicKeyInfo))
        trusted = base64.b64encode(digest.digest()).decode()
        context = self.playwright.chromium.launch_persistent_context(
            self.enterContext(tempfile.TemporaryDirectory(ignore_cleanup_errors=True)),
            executable_path=CHROMIUM,
            args=[*QUIET_CHROMIUM, f"--ignore-certificate-errors-spki-list={trusted}"],
            viewport={"width": 390, "height": 844},
            has_touch=True,
            is_mobile=True,
        )
        self.addCleanup(context.close)
        return context

    def let_in(self, laptop: Page, context: BrowserContext) -> Page:
        laptop.get_by_role("button", name="Phone", exact=True).click()
        laptop.get_by_role("button", name="Let a phone in").click()
        expect(laptop.get_by_role("img", name=re.compile("Square code"))).to_be_visible()
        link = laptop.get_by_text(re.compile("/phone/")).inner_text()
        page = context.new_page()
        page.goto(link)
        page.get_by_role("button", name="I have read this").click()
        return page

    def test_a_phone_records_while_the_laptop_sleeps_and_says_who_said_otherwise(self) -> None:
        laptop = self.open("builds/1/power-up?circuit=horn")
        context = self.phone()
        phone = self.let_in(laptop, context)
        phone.goto(f"{phone.url.split('/builds')[0]}/builds/1/power-up?circuit=horn")
        phone.evaluate("navigator.serviceWorker.ready")
        kept = "caches.open('builds').then(c => c.match('/api/builds/1/plan')).then(r => !!r)"
        phone.wait_for_function(f"async () => await {kept}")
        context.set_offline(True)
        phone.evaluate(LET_GO)
        phone.reload()
        expect(phone.get_by_role("region", name="Findings")).to_contain_text("does not answer")
        self.assertEqual(phone.evaluate("document.documentElement.scrollWidth"), 390)
        phone.get_by_role("button", name="All steps").click()
        phone.get_by_role("link", name=HORN).click()
        phone.get_by_label("Volts at Horn").fill("12.3")
        phone.get_by_role("button", name="Passed").click()
        expect(phone.get_by_text("1 not sent yet, kept here")).to_be_visible()

        laptop.get_by_label("Who measures").fill("Wren")
        laptop.get_by_role("link", name=HORN).click()
        laptop.get_by_label("Volts at Horn").fill("3.1")
        laptop.get_by_role("button", name="Not right").click()
        record = laptop.get_by_role("region", name="Record of proof")
        expect(record.get_by_role("listitem")).to_have_count(1)
        context.set_offline(False)
        expect(record.get_by_role("listitem")).to_have_count(2)
        expect(record).to_contain_text("neither having seen the other's")

    def test_the_door_is_shut_and_what_the_phone_holds_is_not_lost(self) -> None:
        laptop = self.open("builds/1/power-up?circuit=horn")
        phone = self.let_in(laptop, self.phone())
        phone.get_by_role("button", name="All steps").click()
        phone.get_by_role("link", name=HORN).click()
        laptop.get_by_role("button", name="Let no phone in").click()
        expect(laptop.get_by_role("img", name=re.compile("Square code"))).to_have_count(0)
        phone.get_by_label("Volts at Horn").fill("12.3")
        phone.get_by_role("button", name="Passed").click()
        expect(phone.get_by_text("1 not sent yet, kept here")).to_be_visible()
