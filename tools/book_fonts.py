"""Make the letters of the printed book out of the page's own: two weights of its text face, one of its figures.

Needs `fonttools` and `brotli`, which the program itself does not: the files it writes are kept with the code.
What the page's faces lack (ohms, arrows, eighths) is drawn from the letters that ship with the PDF library.
"""

from __future__ import annotations

from pathlib import Path

import reportlab
from fontTools.pens.recordingPen import DecomposingRecordingPen
from fontTools.pens.transformPen import TransformPen
from fontTools.pens.ttGlyphPen import TTGlyphPen
from fontTools.ttLib import TTFont
from fontTools.ttLib.tables._c_m_a_p import cmap_format_4
from fontTools.varLib.instancer import instantiateVariableFont

FACES = Path("web/node_modules/@fontsource-variable")
OUT = Path("jolly_copper/exchange/fonts")
WANTED = (
    "".join(chr(c) for c in (*range(0x20, 0x7F), *range(0xA0, 0x180)))
    + "Ωωρπτθαβδηεφλ∫Σ√∞≈≠≤≥−×·•…–—‘’“”′″†‡°±²³¹⁻⁵"
    + "½¼¾⅛⅜⅝⅞→←↑↓⌀€"
)
MADE = (
    ("public-sans", 400, "Vera.ttf", "book"),
    ("public-sans", 700, "VeraBd.ttf", "book-bold"),
    ("spline-sans-mono", 420, "Vera.ttf", "book-figures"),
)


def glyphs_of(face: str, weight: int) -> list[TTFont]:
    """The pieces the page loads of one face, at one weight."""
    files = FACES / face / "files"
    pieces = [TTFont(files / f"{face}-{piece}-wght-normal.woff2") for piece in ("latin", "latin-ext")]
    return [instantiateVariableFont(piece, {"wght": weight}) for piece in pieces]


def made(face: str, weight: int, stand_in: str) -> TTFont:
    """One static face with every letter wanted that its pieces or the stand-in have."""
    first, *others = glyphs_of(face, weight)
    spare = Path(reportlab.__file__).parent / "fonts" / stand_in
    others += [TTFont(spare)] if spare.exists() else []
    glyf, hmtx, order = first["glyf"], first["hmtx"], list(first.getGlyphOrder())
    letters = dict(first.getBestCmap())
    for other in others:
        scale = first["head"].unitsPerEm / other["head"].unitsPerEm
        table, shapes = other.getBestCmap(), other.getGlyphSet()
        for letter in WANTED:
            if ord(letter) in letters or ord(letter) not in table:
                continue
            name = f"uni{ord(letter):04X}"
            pen = TTGlyphPen(None)
            # Accents come as outlines of their own: a letter put together of parts would miss them here.
            drawn = DecomposingRecordingPen(shapes)
            shapes[table[ord(letter)]].draw(drawn)
            drawn.replay(TransformPen(pen, (scale, 0, 0, scale, 0, 0)))
            order.append(name)
            first.setGlyphOrder(order)
            glyf.glyphs[name] = pen.glyph()
            glyf.glyphOrder = order
            hmtx.metrics[name] = (round(shapes[table[ord(letter)]].width * scale), 0)
            letters[ord(letter)] = name
    table = cmap_format_4(4)
    table.platformID, table.platEncID, table.language, table.cmap = 3, 1, 0, letters
    first["cmap"].tables = [table]
    for unused in ("GPOS", "GSUB", "GDEF", "STAT", "fvar", "avar", "HVAR", "MVAR", "gvar"):
        if unused in first:
            del first[unused]
    return first


def main() -> None:
    """Write the three files, under names of their own as their licences ask."""
    OUT.mkdir(exist_ok=True)
    for face, weight, stand_in, name in MADE:
        font = made(face, weight, stand_in)
        for record in font["name"].names:
            if record.nameID in (1, 3, 4, 6, 16):
                record.string = f"Copper{name.title().replace('-', '')}"
        font.flavor = None
        font.save(OUT / f"{name}.ttf")
        print(name, (OUT / f"{name}.ttf").stat().st_size)


if __name__ == "__main__":
    main()
