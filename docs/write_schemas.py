"""Writes the JSON Schema of operations from their models, for ``make types``."""

import json
from pathlib import Path

from circuitry.edits.operations import READER

FILE = Path(__file__).parent / "formats" / "operations.schema.json"

if __name__ == "__main__":
    schema = {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "$id": "urn:oilstone:operations:1",
        "title": "Operations on an Oilstone build",
        **READER.json_schema(),
    }
    FILE.write_text(json.dumps(schema, indent=1, ensure_ascii=False) + "\n", encoding="utf-8")
