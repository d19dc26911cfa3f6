"""Spoiled spreadsheets, tables, pictures and builds: read or refused in words, in bounded time."""

import copy
import io
import json
import math
import random
import time
import zipfile
from collections import Counter
from collections.abc import Iterator
from typing import Any

from django.core.files.uploadedfile import SimpleUploadedFile
from openpyxl import Workbook
from openpyxl.worksheet.datavalidation import DataValidation
from PIL import Image

from circuitry.formats.tables import write_csv
from tests.api.base import ApiTest
from tests.core.cars import ROOT
from tests.fuzz import FUZZ, SEED

EACH = 25
LONGEST_S = 15.0
XML = (
    b"",
    b"<",
    b"<sheetData/>",
    b'<c r="ZZZ99999999"><v>1</v></c>',
    b't="ghost"',
    b's="99999"',
    b"<mergeCells><mergeCell ref='A1:XFD1048576'/></mergeCells>",
    b"&amp;#0;",
    b"1e999",
    b"NaN",
    b"9" * 60,
)
WORDS = ("", "250 mm", "nan", "1e999", "-5 A", "=1+1", "\x07", "Horn", "ÿ" * 2000, '"', "\u202e")
VALUES: tuple[Any, ...] = (
    *(None, True, [], {}, "", "ghost", "x" * 70_000, -1, 0, 1e308, float("nan"), float("inf")),
    *(10**120, "half \ud800", "line\n", [[]], {"a": {"b": {}}}),
)


def spreadsheets(draw: random.Random) -> Iterator[bytes]:
    """Sound ones with a part spoiled: cut short, with bytes changed, or with odd words put in."""
    book = Workbook()
    sheet = book.active
    assert sheet is not None
    sheet.append(["Name", "What", "Where", "Rating"])
    for number in range(20):
        sheet.append([f"Lamp {number}", "Courtesy lamp 5 W", "rear", number])
    sheet.merge_cells("A2:B3")
    check = DataValidation(type="list", formula1='"a,b"')
    sheet.add_data_validation(check)
    check.add("D2:D9")
    out = io.BytesIO()
    book.save(out)
    with zipfile.ZipFile(out) as packed:
        parts = {name: packed.read(name) for name in packed.namelist()}
    while True:
        name = draw.choice([*parts, "xl/worksheets/sheet1.xml", "xl/styles.xml"])
        spoiled = {**parts, name: _spoiled(parts[name], draw, XML)}
        if draw.random() < 0.1:
            del spoiled[name]
        packed_again = io.BytesIO()
        with zipfile.ZipFile(packed_again, "w", zipfile.ZIP_DEFLATED) as packed:
            for part, data in spoiled.items():
                packed.writestr(part, data)
        whole = packed_again.getvalue()
        yield _spoiled(whole, draw, XML) if draw.random() < 0.2 else whole


def tables(draw: random.Random) -> Iterator[bytes]:
    """CSV with odd cells, in odd encodings, with bytes changed."""
    while True:
        width = draw.choice((1, 4, 9, 61, 300))
        rows = [[draw.choice(WORDS) for _ in range(width)] for _ in range(draw.choice((1, 9, 400)))]
        data = write_csv(["Name", *["Rating"] * (width - 1)], rows)
        data = data.decode().encode(draw.choice(("utf-8", "utf-16", "utf-7")))
        yield (
            _spoiled(data, draw, (b'"', b"\x00", b";" * 90, b"\xff"))
            if draw.random() < 0.5
            else data
        )


def pictures(draw: random.Random) -> Iterator[bytes]:
    """Small pictures of several kinds with bytes changed, and sizes that they do not have."""
    while True:
        kind = draw.choice(("JPEG", "PNG", "WEBP", "GIF", "BMP", "TIFF"))
        mode = draw.choice(("RGB", "L", "RGBA", "CMYK", "P", "1"))
        out = io.BytesIO()
        try:
            Image.new(mode, (draw.randint(1, 300), draw.randint(1, 300))).save(out, kind)
        except (OSError, ValueError):
            continue
        data = out.getvalue()
        yield (
            _spoiled(data, draw, (b"\xff\xff\xff\xff", b"\x00\x00"))
            if draw.random() < 0.8
            else data
        )


def documents(draw: random.Random) -> Iterator[bytes]:
    """Builds of the demo with values replaced, fields taken out, and bytes changed."""
    text = (ROOT / "tests/data/part-wired-roadster.json").read_bytes()
    while True:
        document = json.loads(text)
        for _ in range(draw.choice((1, 1, 2, 5))):
            _replace_one(document, draw)
        data = json.dumps(document).encode(errors="surrogatepass")
        yield _spoiled(data, draw, (b"{", b"]", b'"', b"\\ud800")) if draw.random() < 0.2 else data


def _replace_one(value: Any, draw: random.Random) -> None:
    """Replace or take out one thing somewhere inside."""
    while True:
        keys = list(value) if isinstance(value, dict) else list(range(len(value)))
        if not keys:
            return
        key = draw.choice(keys)
        inner = value[key]
        if isinstance(inner, dict | list) and inner and draw.random() < 0.85:
            value = inner
            continue
        if draw.random() < 0.2:
            del value[key]
        else:
            value[key] = copy.deepcopy(draw.choice(VALUES))
        return


def _spoiled(data: bytes, draw: random.Random, words: tuple[bytes, ...]) -> bytes:
    at = draw.randrange(len(data) + 1)
    match draw.choice(("cut", "bytes", "word", "word", "twice")):
        case "cut":
            return data[:at]
        case "bytes":
            flipped = bytearray(data)
            for _ in range(draw.choice((1, 4, 40))):
                flipped[draw.randrange(len(data))] = draw.randrange(256)
            return bytes(flipped)
        case "word":
            return data[:at] + draw.choice(words) + data[at + draw.choice((0, 1, 8)) :]
    return data + data[at:]


class FilesTest(ApiTest):
    def assert_handled(self, path: str, files: Iterator[bytes], **fields: str) -> Counter[int]:
        codes: Counter[int] = Counter()
        for number in range(EACH * FUZZ):
            data = next(files)
            began = time.perf_counter()
            file = SimpleUploadedFile("made-up.bin", data)
            answer = self.client.post(path, {"file": file, **fields})
            self.assertLess(time.perf_counter() - began, LONGEST_S, number)
            codes[answer.status_code] += 1
            self.assertIn(answer.status_code, (200, 201, 413, 422), (number, answer.content[:500]))
            if answer.status_code >= 400:
                self.assertGreater(len(answer.json()["message"]), 15)
        return codes

    def test_spreadsheets(self) -> None:
        codes = self.assert_handled("/api/tables", spreadsheets(random.Random(SEED)))
        self.assertGreater(codes[422], 0)

    def test_tables(self) -> None:
        self.assert_handled("/api/tables", tables(random.Random(SEED)))

    def test_pictures(self) -> None:
        at = {"collection": "parts", "identity": "horn"}
        codes = self.assert_handled(f"{self.url}/photos", pictures(random.Random(SEED)), **at)
        self.assertGreater(codes[201], 0)

    def test_builds(self) -> None:
        """Whatever is accepted is sized, is exported and opens again."""
        opened, draw = 0, random.Random(SEED)
        for number, data in zip(range(EACH * FUZZ), documents(draw), strict=False):
            began = time.perf_counter()
            answer = self.client.post("/api/builds", data, content_type="application/json")
            said = (number, answer.content[:500])
            self.assertIn(answer.status_code, (201, 400, 413, 422), said)
            if answer.status_code != 201:
                self.assertGreater(len(answer.json()["message"]), 15, said)
                continue
            opened += 1
            url = f"/api/builds/{answer.json()['id']}"
            told = self.client.get(f"{url}/results")
            self.assertEqual(told.status_code, 200, (number, told.content[:500]))
            for figure in _figures(told.json()):
                self.assertTrue(math.isfinite(figure), number)
            again = self.client.get(f"{url}/document").content
            second = self.client.post("/api/builds", again, content_type="application/json")
            self.assertEqual(second.status_code, 201, (number, second.content[:500]))
            self.assertLess(time.perf_counter() - began, 2 * LONGEST_S, number)
        self.assertGreater(opened, 0)


def _figures(value: Any) -> Iterator[float]:
    if isinstance(value, dict | list):
        for inner in value.values() if isinstance(value, dict) else value:
            yield from _figures(inner)
    elif isinstance(value, float):
        yield value
