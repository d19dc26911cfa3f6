"""The wheel: unpacked anywhere it serves the front end and the demo cars that it brings."""

import json
import os
import re
import shutil
import subprocess
import sys
import tempfile
import urllib.request
import zipfile
from pathlib import Path
from unittest import TestCase

from tests.core.cars import ROOT


class WheelTest(TestCase):
    def test_it_brings_all_that_it_needs(self) -> None:
        subprocess.run(["make", "-s", "wheel"], cwd=ROOT, check=True, capture_output=True)
        [wheel] = (ROOT / "dist").glob("oilstone-*.whl")
        folder = Path(tempfile.mkdtemp(prefix="oilstone-wheel-"))
        self.addCleanup(shutil.rmtree, folder, ignore_errors=True)
        with zipfile.ZipFile(wheel) as packed:
            packed.extractall(folder / "package")
            points = next(name for name in packed.namelist() if name.endswith("entry_points.txt"))
            self.assertIn(b"oilstone = oilstone.start:main", packed.read(points))
        environment = {**os.environ, "PYTHONPATH": "package", "XDG_DATA_HOME": str(folder / "home")}
        environment["NUMBA_CACHE_DIR"] = str(folder / "compiled")
        environment.pop("OILSTONE_DATA", None)
        served = subprocess.Popen(
            [sys.executable, "-m", "oilstone.start", "--port", "0", "--no-browser"],
            cwd=folder,
            env=environment,
            stdout=subprocess.PIPE,
            text=True,
        )
        self.addCleanup(served.wait, 10)
        self.addCleanup(served.terminate)
        assert served.stdout is not None
        self.addCleanup(served.stdout.close)
        said = ""
        while not (address := re.search(r"http://\S+", said)) and served.poll() is None:
            said += served.stdout.readline()
        assert address is not None, said
        compiled = list((folder / "compiled").rglob("*.nbc"))
        self.assertGreater(len(compiled), 15, "who turns the key waits for the solver")
        page = urllib.request.urlopen(address.group()).read().decode()
        script = re.search(r'src="(/assets/[^"]+\.js)"', page)
        assert script is not None
        self.assertGreater(
            len(urllib.request.urlopen(address.group() + script[1][1:]).read()), 1000
        )
        builds = json.load(urllib.request.urlopen(f"{address.group()}api/builds"))
        self.assertEqual(len(builds), 3)
        self.assertTrue((folder / "home" / "oilstone" / "oilstone.sqlite3").exists())
