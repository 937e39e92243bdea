"""Blurs of a small picture by SciPy, a general-purpose library, for tests/lens.rs.

    python3 blur.py > blur.json

The picture is a formula that the test repeats. Gaussian: scipy.ndimage.gaussian_filter. Motion: the mean of
scipy.ndimage.map_coordinates (linear) at 2000 places along the way. Beyond the border its pixels go on (mode
nearest); the border is even, because wide softness is computed on a smaller picture and continues that one's border
pixels.
"""

import json

import numpy
import scipy
from scipy import ndimage

WIDTH, HEIGHT = 96, 64
y, x = numpy.mgrid[0:HEIGHT, 0:WIDTH].astype(float)
picture = (x * 37 + y * 91 + (x * y) % 23 * 5) % 256 / 255
inside = (x >= 12) & (x < 84) & (y >= 12) & (y < 52)
picture = numpy.where(inside, picture, 0.4)
picture = numpy.where((x - 60) ** 2 + (y - 30) ** 2 < 144, 1.0, picture)


def gaussian(sigma):
    return ndimage.gaussian_filter(picture, sigma, mode="nearest", truncate=6.0)


def motion(length, degrees, places=2000):
    angle = numpy.radians(degrees)
    total = numpy.zeros_like(picture)
    for t in (numpy.arange(places) + 0.5) / places - 0.5:
        dx, dy = t * length * numpy.cos(angle), -t * length * numpy.sin(angle)
        total += ndimage.map_coordinates(picture, [y + dy, x + dx], order=1, mode="nearest")
    return total / places


def rows(result):
    return [[round(float(v), 5) for v in result[row]] for row in ROWS]


ROWS = [0, 21, 30, 63]
out = {
    "scipy": scipy.__version__,
    "rows": ROWS,
    "gaussian": [{"sigma": s, "values": rows(gaussian(s))} for s in (0.8, 2.0, 5.0, 8.0, 10.0)],
    "motion": [
        {"length": l, "degrees": d, "values": rows(motion(l, d))} for l, d in ((7.0, 0.0), (12.0, 30.0), (20.0, -65.0))
    ],
}
print(json.dumps(out, separators=(",", ":")))
