"""Writes the fonts that printed pages carry, from those of the front end: one file a weight.

They go by a name of their own, for those they are made of reserve theirs (SIL Open Font License).
Run by hand after ``pip install fonttools``, when the front end's font package changes.
"""

from pathlib import Path
from tempfile import TemporaryDirectory

from fontTools.merge import Merger, Options
from fontTools.ttLib import TTFont

ROOT = Path(__file__).resolve().parents[1]
FILES = ROOT / "frontend" / "node_modules" / "@fontsource" / "source-sans-3"
FONTS = ROOT / "circuitry" / "printing" / "fonts"
SCRIPTS = ("latin", "latin-ext", "greek", "cyrillic")
WEIGHTS = {"400": "regular", "600": "semibold"}
LAYOUT = ["GSUB", "GPOS", "GDEF", "STAT"]
FAMILY = "Oilstone Print"
COPYRIGHT, NAMES = 0, {1: "{family}", 3: "{family} {weight}", 4: "{family} {weight}", 6: "{plain}"}
"""Of the table of names: whose it was, and what it is called."""


def main() -> None:
    """Write each weight with all scripts, and the licence beside them."""
    for weight, name in WEIGHTS.items():
        with TemporaryDirectory() as folder:
            plain = [_plain(Path(folder), script, weight) for script in SCRIPTS]
            merged = Merger(Options(drop_tables=LAYOUT)).merge([str(file) for file in plain])
            owner = str(merged["name"].getName(COPYRIGHT, 3, 1))
            for number, words in NAMES.items():
                plain_name = f"{FAMILY}-{name}".replace(" ", "")
                said = words.format(family=FAMILY, weight=name, plain=plain_name)
                merged["name"].setName(said, number, 3, 1, 0x409)
            merged.save(FONTS / f"print-{name}.ttf")
    _, _, terms = (FILES / "LICENSE").read_text(encoding="utf-8").partition("\n")
    (FONTS / "LICENSE").write_text(f"{owner}\n{terms}", encoding="utf-8")


def _plain(folder: Path, script: str, weight: str) -> Path:
    """One of the compressed files as a plain one."""
    font = TTFont(FILES / "files" / f"source-sans-3-{script}-{weight}-normal.woff")
    font.flavor = None
    file = folder / f"{script}.ttf"
    font.save(file)
    return file


if __name__ == "__main__":
    main()
