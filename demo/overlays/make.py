#!/usr/bin/env python3
"""Two invented pictures to be laid on others: the light of a window blind, and a postmark with its cover.

    pip install numpy pillow
    python3 demo/overlays/make.py

Looks name them by the hash of their content: who changes one changes the looks that use it.
"""

import math
import pathlib

import numpy as np
from PIL import Image, ImageDraw, ImageFilter, ImageFont

HERE = pathlib.Path(__file__).resolve().parent


def noise(rng, height, width, cell):
    """Smooth noise of about unit deviation, `cell` pixels wide."""
    small = rng.standard_normal((height // cell + 3, width // cell + 3)).astype("float32")
    image = Image.fromarray(small).resize((width + cell, height + cell), Image.BICUBIC)
    return np.asarray(image)[:height, :width]


def blind():
    """Slats of light on a dark wall, leaning, softer with distance, the frame of the window beside them."""
    width, height = 1500, 1000
    rng = np.random.default_rng(7)
    y, x = np.mgrid[0:height, 0:width].astype("float32")
    lean = y + 0.23 * x + 6 * noise(rng, height, width, 260)
    slat = 0.5 + 0.5 * np.tanh(2.4 * np.sin(lean / 58 * math.pi) + 0.4)
    pane = 1 / (1 + np.exp(-(x - 330 - 0.2 * y) / 22)) * 1 / (1 + np.exp((x - 1210 - 0.2 * y) / 30))
    bar = 1 - 0.85 * np.exp(-(((x - 760 - 0.2 * y) / 26) ** 2))
    falls = np.exp(-((y - 430) / 620) ** 2)
    light = slat * pane * bar * falls * (1 + 0.05 * noise(rng, height, width, 90))
    light = np.clip(light, 0, 1)[..., None] * np.array([1.0, 0.83, 0.58])
    return Image.fromarray((255 * np.clip(light, 0, 1) ** (1 / 2.2)).astype("uint8"))


def postmark():
    """A round mark with waves beside it, inked unevenly, clear round it."""
    width, height = 1200, 800
    rng = np.random.default_rng(11)
    sheet = Image.new("L", (width, height), 0)
    draw = ImageDraw.Draw(sheet)
    cx, cy = 360, 400
    for radius, line in [(250, 9), (168, 6)]:
        draw.ellipse([cx - radius, cy - radius, cx + radius, cy + radius], outline=255, width=line)
    font = ImageFont.load_default(size=54)
    for text, dy in [("14 VI", -34), ("1908", 34)]:
        draw.text((cx, cy + dy), text, font=font, fill=255, anchor="mm")
    ring = "LANTERN & THREAD  *  ON TOUR  *  "
    for k, letter in enumerate(ring):
        angle = 2 * math.pi * k / len(ring) - math.pi / 2
        glyph = Image.new("L", (80, 80), 0)
        ImageDraw.Draw(glyph).text((40, 40), letter, font=ImageFont.load_default(size=44), fill=255, anchor="mm")
        glyph = glyph.rotate(-math.degrees(angle) - 90, resample=Image.BICUBIC)
        at = (round(cx + 209 * math.cos(angle)) - 40, round(cy + 209 * math.sin(angle)) - 40)
        sheet.paste(255, at, glyph)
    for k in range(6):
        points = [(650 + t, 255 + 58 * k + 17 * math.sin(t / 34)) for t in range(0, 500, 5)]
        draw.line(points, fill=255, width=10, joint="curve")
    ink = np.asarray(sheet.rotate(7, resample=Image.BICUBIC).filter(ImageFilter.GaussianBlur(1.1))) / 255.0
    worn = 1 / (1 + np.exp(-(1.1 + 1.2 * noise(rng, height, width, 120) + 0.9 * noise(rng, height, width, 7)) * 2))
    cover = (255 * np.clip(ink * worn, 0, 1) * 0.86).astype("uint8")
    rgb = np.empty((height, width, 3), "uint8")
    rgb[:] = (34, 33, 52)
    return Image.fromarray(np.dstack([rgb, cover]))


if __name__ == "__main__":
    blind().save(HERE / "window-blind.png", optimize=True)
    postmark().save(HERE / "postmark.png", optimize=True)
