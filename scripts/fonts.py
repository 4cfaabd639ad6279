#!/usr/bin/env python3
"""Cuts the pages of the fonts that drawings embed: crates/core/fonts/pages. Needs fonttools from PyPI.

The pages of plain ASCII in crates/core/fonts/ascii are not cut again: their bytes are in every picture.
The ranges are those of crates/core/src/measure/page.rs; a test holds the files against them.
"""
import os
from fontTools import subset
from fontTools.ttLib import TTFont

FONTS = os.path.join(os.path.dirname(__file__), "../crates/core/fonts")
FACES = ["sans-regular", "sans-semibold", "sans-italic", "sans-semibold-italic", "mono-regular"]
SIGNS = [(0x20, 0x7E), (0xAB, 0xAB), (0xB0, 0xB1), (0xB7, 0xB7), (0xBB, 0xBB), (0xD7, 0xD7), (0x2013, 0x2014),
         (0x2018, 0x2019), (0x201C, 0x201D), (0x2026, 0x2026), (0x2190, 0x2193), (0x2212, 0x2212), (0x221E, 0x221E),
         (0x2264, 0x2265)]
WESTERN = [(0x20, 0x7E), (0xA0, 0xFF), (0x2010, 0x2026), (0x2030, 0x203A), (0x20AC, 0x20AC), (0x2122, 0x2122),
           (0x2190, 0x2193), (0x2202, 0x2265)]
PAGES = {
    "signs": SIGNS,
    "western": WESTERN,
    "latin": WESTERN + [(0x100, 0x17F), (0x2070, 0x208E)],
    "greek": WESTERN + [(0x370, 0x3FF)],
    "cyrillic": WESTERN + [(0x400, 0x45F), (0x490, 0x491), (0x2116, 0x2116)],
}


def cut(face, page, ranges):
    options = subset.Options()
    options.hinting = False
    options.layout_features = ["kern", "mark", "mkmk"]
    options.name_IDs = [1, 2, 6]
    options.name_languages = [0x409]
    options.drop_tables += ["DSIG", "GSUB"]
    options.notdef_outline = True
    options.glyph_names = False
    font = TTFont(os.path.join(FONTS, f"fira-{face}.ttf"), recalcTimestamp=False)
    subsetter = subset.Subsetter(options)
    subsetter.populate(unicodes={c for low, high in ranges for c in range(low, high + 1)})
    subsetter.subset(font)
    path = os.path.join(FONTS, "pages", f"fira-{face}-{page}.ttf")
    font.save(path)
    print(f"{os.path.getsize(path):7} {path}")


os.makedirs(os.path.join(FONTS, "pages"), exist_ok=True)
for face in FACES:
    for page, ranges in PAGES.items():
        cut(face, page, ranges)
