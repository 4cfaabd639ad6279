#!/usr/bin/env python3
"""Cuts the pages of the fonts that drawings embed: crates/core/fonts/pages, and packs them for SVG: crates/core/fonts/web
(WOFF 2.0). Needs fonttools and brotli from PyPI.

The pages of plain ASCII in crates/core/fonts/ascii are not cut again. The two files of Kalam are cut from those of
@expo-google-fonts/kalam, without Devanagari: `fonts.py --hand FOLDER`.
The ranges are those of crates/core/src/measure/page.rs; a test holds the files against them.
"""
import os
import sys
from fontTools import subset
from fontTools.ttLib import TTFont

FONTS = os.path.join(os.path.dirname(__file__), "../crates/core/fonts")
FACES = ["fira-sans-regular", "fira-sans-semibold", "fira-sans-italic", "fira-sans-semibold-italic",
         "fira-mono-regular", "kalam-regular", "kalam-bold"]
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


def cut(source, path, ranges):
    options = subset.Options()
    options.hinting = False
    options.layout_features = ["kern", "mark", "mkmk"]
    options.name_IDs = [1, 2, 6]
    options.name_languages = [0x409]
    options.drop_tables += ["DSIG", "GSUB"]
    options.notdef_outline = True
    options.glyph_names = False
    font = TTFont(source, recalcTimestamp=False)
    subsetter = subset.Subsetter(options)
    subsetter.populate(unicodes={c for low, high in ranges for c in range(low, high + 1)})
    subsetter.subset(font)
    font.save(path)
    print(f"{os.path.getsize(path):7} {path}")


def pack(source, face, page):
    font = TTFont(os.path.join(FONTS, source), recalcTimestamp=False)
    font.flavor = "woff2"
    path = os.path.join(FONTS, "web", f"{face}-{page}.woff2")
    font.save(path)
    print(f"{os.path.getsize(path):7} {path}")


os.makedirs(os.path.join(FONTS, "pages"), exist_ok=True)
os.makedirs(os.path.join(FONTS, "web"), exist_ok=True)
if sys.argv[1:2] == ["--hand"]:
    for name, own in [("400Regular/Kalam_400Regular", "kalam-regular"), ("700Bold/Kalam_700Bold", "kalam-bold")]:
        source = os.path.join(sys.argv[2], f"{name}.ttf")
        cut(source, os.path.join(FONTS, f"{own}.ttf"), [(0x20, 0x8FF), (0x1E00, 0x25FF), (0xFB00, 0xFB04)])
        cut(source, os.path.join(FONTS, "ascii", f"{own}.ttf"), [(0x20, 0x7E)])
for face in FACES:
    for page, ranges in PAGES.items():
        cut(os.path.join(FONTS, f"{face}.ttf"), os.path.join(FONTS, "pages", f"{face}-{page}.ttf"), ranges)
        pack(f"pages/{face}-{page}.ttf", face, page)
    pack(f"ascii/{face}.ttf", face, "ascii")
    pack(f"{face}.ttf", face, "whole")
