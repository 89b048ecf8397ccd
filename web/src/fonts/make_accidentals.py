"""Make accidentals.woff2: ♭ ♮ ♯ with room beside them, so that they never touch their neighbours at small sizes.

    pip install fonttools brotli; npm install --no-save @fontsource/noto-music@5.3.0; python make_accidentals.py

The outlines are those of Noto Music (SIL Open Font License 1.1, see OFL.txt); only the side bearings differ, and the
signs stand at the middle of capital letters rather than on a staff line, and the sharp is wider, as its two upright
strokes would run into one at small sizes.
"""

from pathlib import Path

from fontTools import subset
from fontTools.ttLib import TTFont

HERE = Path(__file__).parent
SOURCE = HERE / "../../node_modules/@fontsource/noto-music/files/noto-music-music-400-normal.woff2"
SIGNS = (0x266D, 0x266E, 0x266F)
ROOM = 70  # thousandths of the size, added on each side to the 50 that were there
WIDER = {0x266F: 1.4}  # times as wide as drawn
CAPITALS = 660  # height of the text font's capitals
NAME = "Glass Thread Accidentals"

font = TTFont(SOURCE)
cutter = subset.Subsetter(subset.Options(layout_features=[], name_IDs=[0, 13, 14]))
cutter.populate(unicodes=SIGNS)
cutter.subset(font)
for sign in SIGNS:
    glyph = font.getBestCmap()[sign]
    outline = font["glyf"][glyph]
    wide = WIDER.get(sign, 1.0)
    outline.coordinates.scale((wide, 1.0))
    outline.coordinates.translate((ROOM, (CAPITALS - outline.yMin - outline.yMax) // 2))
    font["glyf"][glyph].recalcBounds(font["glyf"])
    width, bearing = font["hmtx"][glyph]
    font["hmtx"][glyph] = (round(wide * width) + 2 * ROOM, round(wide * bearing) + ROOM)
for number, text in ((1, NAME), (2, "Regular"), (4, NAME), (6, NAME.replace(" ", ""))):
    font["name"].setName(text, number, 3, 1, 0x409)
font.flavor = "woff2"
font.save(HERE / "accidentals.woff2")
