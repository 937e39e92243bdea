"""The film model's equations, written apart from the program: no line of it is shared, and it is slow on purpose.

It reads the stocks and the tables of materials and spectra, computes densities and prints of the golden input colours
along the spectra, and writes them into golden.json. Nothing of the program's tests runs it; run it by hand when a
stock or an equation changes on purpose, and look at what changed:

    python3 crates/core/tests/reference/film_model.py check    # how far it is from the golden vectors that are there
    python3 crates/core/tests/reference/film_model.py write    # writes those that differ anew

Needs numpy.
"""

import json
import pathlib
import sys

import numpy as np

CORE = pathlib.Path(__file__).resolve().parents[2]
GOLDEN = CORE / "tests" / "data" / "golden.json"
MATERIALS = json.loads((CORE / "data" / "materials.json").read_text())
SPECTRA = json.loads((CORE / "data" / "spectra.json").read_text())
STOCKS = {p.stem: json.loads(p.read_text()) for p in sorted((CORE / "stocks").glob("*.json"))}

NM = np.array(SPECTRA["wavelength_nm"])
XYZ = np.array(SPECTRA["cie1931_xyz"])
BASIS = np.array(SPECTRA["mallett_basis_rgb"])
GREY_X = np.log10(0.18 / 0.128)
LOG2 = np.log10(2.0)


# ---- spectra


def gauss(nm, width):
    return np.exp(-0.5 * ((NM - nm) / width) ** 2)


def edge(nm, width):
    return 1 / (1 + np.exp(-(NM - nm) / width))


def peaks(entries):
    return sum((w * gauss(p, s) for p, s, w in entries), np.zeros_like(NM))


def shape(d):
    edges = sum((w * edge(p, s) for p, s, w in d.get("edge", [])), np.zeros_like(NM))
    return d.get("flat", 0.0) + peaks(d.get("g", [])) + edges


def planck(kelvin):
    metres = NM * 1e-9
    return metres**-5 / np.expm1(1.438776877e-2 / (metres * kelvin))


def daylight(kelvin):
    t = 1e3 / kelvin
    x = (
        0.244063 + 0.09911 * t + 2.9678 * t**2 - 4.6070 * t**3
        if kelvin <= 7000
        else (0.237040 + 0.24748 * t + 1.9018 * t**2 - 2.0064 * t**3)
    )
    y = -3.0 * x * x + 2.870 * x - 0.275
    m = 0.0241 + 0.2562 * x - 0.7341 * y
    s = np.array(SPECTRA["daylight_S0_S1_S2"])
    return (
        s[:, 0] + (-1.3515 - 1.7703 * x + 5.9114 * y) / m * s[:, 1] + (0.0300 - 31.4424 * x + 30.0717 * y) / m * s[:, 2]
    )


def light_of(kelvin):
    return daylight(kelvin) if kelvin >= 4000 else planck(kelvin)


def viewer(light):
    """36 x 3: spectrum seen under a light to linear sRGB; the unit spectrum is (1, 1, 1)."""
    white = XYZ.T @ light / (XYZ[:, 1] @ light)
    d65 = XYZ.T @ np.array(SPECTRA["D65"]) / (XYZ[:, 1] @ np.array(SPECTRA["D65"]))
    cone = np.array([[0.8951, 0.2664, -0.1614], [-0.7502, 1.7135, 0.0367], [0.0389, -0.0685, 1.0296]])
    adapt = np.linalg.inv(cone) @ np.diag(cone @ d65 / (cone @ white)) @ cone
    rgb = np.array(
        [[3.2404542, -1.5371385, -0.4985314], [-0.9692660, 1.8760108, 0.0415560], [0.0556434, -0.2040259, 1.0572252]]
    )
    matrix = ((rgb @ adapt) @ (XYZ * light[:, None]).T).T / (XYZ[:, 1] @ light)
    return matrix / matrix.sum(axis=0)


VIEW = {name: np.array(SPECTRA[name]) for name in ("D50", "D55", "D65")}


# ---- encoding, decoding, gamut


def decode(v):
    return np.where(v <= 0.04045, v / 12.92, ((v + 0.055) / 1.055) ** 2.4)


def encode(v):
    v = np.maximum(v, 0)
    return np.where(v <= 0.0031308, 12.92 * v, 1.055 * v ** (1 / 2.4) - 0.055)


def scene_light(rgb8, q):
    rgb = decode(np.array(rgb8) / 255.0)
    y = rgb @ [0.2126, 0.7152, 0.0722]
    v0, s = 0.5, 1.0
    k = 1 - (1 - v0) / (2**s - v0)
    if y > v0:
        u = (y - v0) / (1 - v0)
        rgb = rgb * (v0 + (y - v0) / (1 - k * u)) / y
    return 0.18 * (rgb / 0.18) ** q


def fitted(rgb):
    a = max(rgb.max(), 1e-12)
    depth = (a - rgb) / a
    m = depth.max()
    factor = 1.0
    if m > 0.86:
        t, p, span = m - 0.86, 1.4, 1.25 - 0.86
        knee = span / (((1 - 0.86) / span) ** -p - 1) ** (1 / p)
        factor = min(0.86 + t / (1 + (t / knee) ** p) ** (1 / p), 1.0) / m
    return min(a, 1.0) * (1 - depth * factor)


# ---- curves


def sp(u):
    return np.maximum(u, 0) + np.log1p(np.exp(-np.abs(u)))


class Curve:
    def __init__(self, d, x0=0.0, reversal=False):
        self.d, self.x0, self.reversal = dict(d), x0, reversal

    def density(self, x):
        d = self.d
        r, s = d["dmax"] - d["dmin"], d["gamma"] * d["shoulder"]
        o = s * np.log1p(np.exp(-r / s))
        along = self.x0 - x if self.reversal else x - self.x0
        y = d["gamma"] * d["toe"] * sp(along / d["toe"])
        return d["dmin"] + r * (r + o - s * sp((r - y) / s)) / (r + o)

    def exposure(self, density):
        """By bisection: the closed form is the program's."""
        low, high = -20.0, 20.0
        for _ in range(100):
            middle = 0.5 * (low + high)
            if (self.density(middle) < density) != self.reversal:
                low = middle
            else:
                high = middle
        return 0.5 * (low + high)

    def slope(self):
        x = np.linspace(self.x0 - 9, self.x0 + 9, 180_001)
        return np.abs(np.diff(self.density(x))).max() / (x[1] - x[0])


def with_slope(d, wanted):
    low, high = 0.02, 40.0
    for _ in range(60):
        middle = (low * high) ** 0.5
        if Curve({**d, "gamma": middle}).slope() < wanted:
            low = middle
        else:
            high = middle
    return {**d, "gamma": (low * high) ** 0.5}


REVERSAL = ("reversal", "instant", "bw-instant", "screen-plate")
SINGLE = ("bw-negative", "contact-print", "bw-instant", "plate")


LUMINANCE = np.array([0.2126, 0.7152, 0.0722])


def visual(curves, x):
    """Visual density of a wedge."""
    light = 0.0
    for w, c in zip(LUMINANCE if len(curves) == 3 else [1.0], curves):
        light = light + w * 10 ** -c.density(x)
    return -np.log10(light)


def visual_speed_point(curves):
    """ISO 2240 on visual density: the mean of T, at dmin + 0.20, and S, at dmin + 2.00 or where the line from T
    touches the     shoulder before that."""
    dmin, dmax = visual(curves, 9.0), visual(curves, -9.0)

    def at(wanted):
        low, high = -9.0, 9.0
        for _ in range(80):
            middle = 0.5 * (low + high)
            low, high = (middle, high) if visual(curves, middle) > wanted else (low, middle)
        return 0.5 * (low + high)

    t = at(dmin + 0.20)
    # ever finer about the steepest line
    x, step = t - np.arange(0.02, 8, 1e-3), 1e-3
    for _ in range(3):
        touch = x[np.argmax((visual(curves, x) - dmin - 0.20) / (t - x))]
        x, step = touch + np.linspace(-2 * step, 2 * step, 401), step / 100
    s = max(at(dmin + 2.0), touch) if dmax > dmin + 2.0 else touch
    return 0.5 * (t + s)


def criterion(curve, kind):
    d = curve.d
    if kind in ("bw-negative", "contact-print"):
        return curve.exposure(d["dmin"] + 0.10)
    if kind == "color-negative":
        return curve.exposure(d["dmin"] + 0.15)
    # how the layers lie to one another
    high = min(d["dmin"] + 2.0, d["dmin"] + 0.85 * (d["dmax"] - d["dmin"]))
    return 0.5 * (curve.exposure(d["dmin"] + 0.20) + curve.exposure(high))


def speed_point(curves, kind):
    if kind in REVERSAL:
        return visual_speed_point(curves)
    return as_a_whole([criterion(c, kind) for c in curves], kind)


def as_a_whole(points, kind):
    if kind in ("bw-negative", "contact-print"):
        return points[0]
    if kind == "color-negative":
        return 0.5 * (points[1] + max(points))
    return sum(points) / len(points)


AT = {"bw-negative": np.log10(0.08), "contact-print": np.log10(0.08), "color-negative": np.log10(np.sqrt(2) / 10)}


def curve_list(stock):
    c = stock["curve"]
    return [c["K"]] if "K" in c else [c["R"], c["G"], c["B"]]


def placed(stock):
    kind, reversal = stock["kind"], stock["kind"] in REVERSAL
    out = []
    for d in curve_list(stock):
        curve = Curve(d, 0.0, reversal)
        curve.x0 = AT.get(kind, 0.0) - criterion(curve, kind) + d.get("shift", 0.0)
        out.append(curve)
    shifts = [d.get("shift", 0.0) for d in curve_list(stock)]
    common = -as_a_whole(shifts, kind)
    for curve in out:
        curve.x0 += common
    if kind in ("instant", "bw-instant", "screen-plate"):
        # of little range: the stand-in for the S point would be half a stop off
        off = visual_speed_point(out)
        for curve in out:
            curve.x0 -= off
    return out


SHARE = {(False, True): 0.35, (False, False): 0.5, (True, True): 0.93, (True, False): 0.95}


def pushed(curves, kind, n):
    """Curves developed by n stops of push; they come to lie so that the speed gained is the stated share of n."""
    if n == 0:
        return curves
    reversal = kind in REVERSAL
    out = []
    for curve in curves:
        d = dict(curve.d)
        skew = 1 + d.get("push_skew", 0.0) * n
        if reversal:
            # 0.22 of a full range of 3.2 is lost a stop, of a shorter one as much less; contrast is the measured
            # slope's
            loss = (0.22 if n > 0 else 0.06) * min(1.0, (d["dmax"] - d["dmin"]) / 3.2)
            wanted = Curve(d).slope() * (1 + 0.07 * n)
            d.update(dmax=d["dmax"] - loss * n, toe=d["toe"] * (1 - 0.04 * n))
            d = with_slope(d, wanted)
        else:
            k = 1.15 if kind in SINGLE else 1.7
            rise = (1 - np.exp(-k * 1.32**n)) / (1 - np.exp(-k))
            d.update(gamma=d["gamma"] * rise, dmin=d["dmin"] + 0.05 * (1.6**n - 1), dmax=d["dmax"] * (1 + 0.05 * n))
        d["gamma"] *= skew
        out.append(Curve(d, curve.x0, reversal))
    move = speed_point(curves, kind) - speed_point(out, kind) - LOG2 * n * SHARE[(reversal, n >= 0)]
    for curve in out:
        curve.x0 += move
    return out


# ---- film


def sensitivities(stock):
    if "screen" in stock:
        pan = peaks(stock["screen"]["pan"])
        return [shape(f) * pan for f in stock["screen"]["filters"]]
    return [peaks(s) for s in stock["sens"]]


def lens_filter(name):
    if name is None:
        return np.ones_like(NM)
    if name.startswith("mired"):
        f = planck(1e6 / (1e6 / 5500 + float(name.split()[1]))) / planck(5500)
        return f / f.max()
    return {
        "yellow": 0.01 + 0.91 * edge(488, 8),
        "orange": 0.005 + 0.915 * edge(548, 8),
        "red": 0.002 + 0.918 * edge(598, 7),
        "green": 0.02 + 0.68 * gauss(532, 38),
    }[name]


def layer_matrix(stock, filter_name=None):
    reference = light_of(stock["balance_K"])
    light = reference
    if stock.get("scene_K"):
        light = light_of(stock["scene_K"])
        light = light * (XYZ[:, 1] @ reference) / (XYZ[:, 1] @ light)
    light = light * lens_filter(filter_name)
    rows = np.array([(light * s) @ BASIS / (reference @ s) for s in sensitivities(stock)])
    return rows / np.exp(np.log(rows.sum(axis=1)).mean())


def smooth(t):
    t = np.clip(t, 0, 1)
    return t * t * (3 - 2 * t)


def near_infrared(rgb):
    r, g, b = np.maximum(rgb, 1e-6)
    y = 0.2126 * r + 0.7152 * g + 0.0722 * b
    slope = r * np.clip((r / b) ** 0.60, 0.20, 1.25)
    green = (2 * g - r - b) / (r + g + b)
    leaf = smooth((green - 0.03) / 0.37) * smooth((g / b - 0.65) / 0.65) * y / (y + 0.012)
    return slope * (1 - leaf) + 2.6 * y * leaf


class Film:
    def __init__(self, stock, push=0.0, filter_name=None):
        self.stock, self.kind = stock, stock["kind"]
        self.matrix = layer_matrix(stock, filter_name)
        self.curves = pushed(placed(stock), self.kind, push)
        self.grey = GREY_X + LOG2 * stock.get("ev", 0.0) - LOG2 * push
        green = self.curves[len(self.curves) // 2]
        d = green.d
        reversal = green.reversal
        self.driver = (lambda x: d["dmax"] - green.density(x)) if reversal else (lambda x: green.density(x) - d["dmin"])

    def densities(self, rgb, ev=0.0):
        e = self.matrix @ rgb
        nir = self.stock.get("nir")
        if nir:
            e = 0.15 * e + 0.85 * near_infrared(rgb)
        x = np.log10(np.maximum(e * 2.0**ev, 1e-5) / 0.18) + self.grey
        if len(x) == 3 and self.stock.get("inhibition"):
            a = np.array(self.stock["inhibition"], float)
            b = np.array(self.stock.get("inhibition_high", np.zeros((3, 3))), float)
            f = np.array([self.driver(v) for v in x])
            new = x.copy()
            for i in range(3):
                for j in range(3):
                    if i != j:
                        z = x[j] - x[i]
                        w = smooth(((x[i] + x[j]) / 2 - self.grey + 0.10) / 0.70)
                        new[i] -= a[i, j] * (f[j] - f[i]) + b[i, j] * w * z / (1 + abs(z) / 0.35)
            x = new
        return np.array([c.density(v) for c, v in zip(self.curves, x)])


# ---- dyes and prints


def film_dyes(stock):
    dyes, mask = MATERIALS["dye_sets"][stock["dyes"]], stock.get("mask", 0.0)
    amount = stock.get("cref", [1.3, 1.3, 1.1])
    absorbing = [gauss(*d["main"]) + (1 - mask) * peaks(d["side"]) for d in dyes]
    constant = sum(mask * c * peaks(d["side"]) for c, d in zip(amount, dyes))
    base = peaks(stock.get("base", [])) + stock.get("base_flat", 0.0)
    return absorbing, constant, base


class Tracking:
    """Dye amounts that form a neutral of equivalent density d, tabled every 0.1 and interpolated."""

    def __init__(self, seen):
        self.levels = np.arange(0, 4.401, 0.1)
        table, c = [np.zeros(3)], np.zeros(3)
        for d in self.levels[1:]:
            c = 2 * table[-1] - table[-2] if len(table) > 1 else np.full(3, 0.1)
            for _ in range(60):
                f = seen(c) - d
                if np.abs(f).max() < 1e-13:
                    break
                jacobian = np.array([(seen(c + 1e-6 * e) - seen(c - 1e-6 * e)) / 2e-6 for e in np.eye(3)]).T
                c = c - np.clip(np.linalg.solve(jacobian, f), -0.5, 0.5)
            table.append(c)
        self.table = np.array(table)

    def amounts(self, d):
        return np.array([np.interp(d[i], self.levels, self.table[:, i]) for i in range(3)])


RATES = {"drawer": [0.0165, 0.0026, 0.0080], "wall": [0.0058, 0.0130, 0.0142]}


def faded(stock):
    """What is left of each dye of the print, and the stain of its base, by the stock's own years."""
    fade = stock.get("fade", {})
    years, place = fade.get("years", 0.0), "wall" if fade.get("mode") == "light" else "drawer"
    stain = {"drawer": 0.20, "wall": 0.10}[place] * (1 - np.exp(-0.022 * years)) * gauss(400, 55)
    return np.exp(-np.array(RATES[place]) * years), stain


def viewed(dyes, base, light, years=(np.ones(3), 0.0)):
    """The fresh picture, and the same after years."""
    m = viewer(light)
    stack = np.array(dyes)
    tracking = Tracking(lambda c: -np.log10(np.maximum((10 ** -(c @ stack)) @ m, 1e-12)))
    left, stain = years
    fresh = lambda d: (10 ** -(base + tracking.amounts(d) @ stack)) @ m
    aged = lambda d: (10 ** -(base + stain + (tracking.amounts(d) * left) @ stack)) @ m
    return fresh, aged


def cc_filters(cc):
    cyan, magenta = edge(600, 6), edge(500, 6) - edge(600, 6)
    return 0.01 * (cc[0] * cyan + cc[1] * magenta + cc[2] * (1 - edge(500, 6)))


def colour_print(film, cc_beyond=(0, 0, 0)):
    stock = film.stock
    paper = MATERIALS["print_materials"][stock["print"]]
    dyes, constant, base = film_dyes(stock)
    stack = np.array(dyes)
    lamp = planck(paper["lamp"]) * edge(405, 5)
    sens = [peaks(s) for s in paper["sens"]]

    def exposures(density, light):
        return np.array([(light * s) @ 10**-density / ((lamp * s).sum()) for s in sens])

    clear = np.log10(exposures(base + constant, lamp))
    printing = lambda c: clear - np.log10(exposures(base + constant + c @ stack, lamp))
    tracking = Tracking(printing)
    dmin = np.array([c.d["dmin"] for c in film.curves])
    silver = stock.get("skip_bleach", 0.0)
    curves = [Curve(paper["curve"][k]) for k in "RGB"]
    fresh, seen = viewed(
        [gauss(*d["main"]) + peaks(d["side"]) for d in MATERIALS["dye_sets"][paper["dyes"]]],
        peaks(paper["base"]) + paper["base_flat"],
        VIEW[paper["view"]],
        faded(stock),
    )
    white = fresh(np.array([c.d["dmin"] for c in curves])).max()

    def at_paper(density, light):
        spectrum = base + constant + tracking.amounts(density) @ stack
        left = 0.6 * silver * (density - dmin).mean()
        return np.log10(exposures(spectrum, light)) - left

    grey = at_paper(np.array([c.density(film.grey) for c in film.curves]), lamp)
    aim = np.array([c.d["dmin"] for c in curves]) - np.log10(stock.get("aim", 0.18))
    offset = np.array([c.exposure(a) for c, a in zip(curves, aim)]) - grey
    cc = np.array(stock.get("cc", (0, 0, 0)), float) + np.array(cc_beyond, float)
    filtered = lamp * 10 ** -cc_filters(cc)

    def look(density):
        x = at_paper(density, filtered) + offset + stock.get("dens", 0.0)
        return seen(np.array([c.density(v) for c, v in zip(curves, x)])) / white

    return look


def slide(film):
    stock = film.stock
    dyes, constant, base = film_dyes(stock)
    full = [gauss(*d["main"]) + peaks(d["side"]) for d in MATERIALS["dye_sets"][stock["dyes"]]]
    adapted = stock.get("viewer")
    ways = viewed(full if adapted else dyes, base + (constant if adapted else 0), VIEW[stock["view"]], faded(stock))
    fresh, seen = ways
    clear = fresh(np.array([c.d["dmin"] for c in film.curves]))
    scale = np.ones(3) / clear.max()
    if adapted:
        mask = (10**-constant) @ viewer(VIEW[stock["view"]])
        scale = mask ** -adapted["share"]
        scale = scale * adapted["gain"] / (clear * scale).max()
    return lambda density: seen(density) * scale


# ---- silver


def graded_shape(grade):
    r = np.interp(grade, range(6), [155, 128, 105, 88, 73, 58]) / 100
    return r


def paper_curve(grade, dmax):
    r = graded_shape(grade)
    low, high = 0.2, 9.0

    def iso_range(k):
        c = Curve({"dmin": 0.0, "gamma": k * dmax, "toe": 0.13, "shoulder": 0.14, "dmax": dmax})
        return c.exposure(0.90 * dmax) - c.exposure(0.04)

    for _ in range(80):
        middle = 0.5 * (low + high)
        low, high = (middle, high) if iso_range(middle) > 1 else (low, middle)
    return Curve(
        {"dmin": 0.0, "gamma": 0.5 * (low + high) * dmax / r, "toe": 0.13 * r, "shoulder": 0.14 * r, "dmax": dmax}
    )


def unit(t):
    """A colourant's shape divided by its visual density."""
    d50 = VIEW["D50"]
    return t / -np.log10((10**-t * d50 * XYZ[:, 1]).sum() / (d50 * XYZ[:, 1]).sum())


def silver_picture(base, image, density_of):
    m = viewer(VIEW["D50"])
    white = ((10**-base) @ m).max()
    return lambda d: (10 ** -(base + density_of(d) * image)) @ m / white


def bw_print(film):
    stock = film.stock
    paper = MATERIALS["bw_papers"][stock["paper"]]
    curve = paper_curve(stock["grade"], paper["dmax"])
    callier = stock.get("callier", 1.0)
    grey = film.curves[0].density(film.grey)
    offset = curve.exposure(-np.log10(stock.get("aim", 0.18))) + callier * grey
    base = peaks(paper["base"]) + paper["flat"]
    picture = silver_picture(
        base, unit(shape(paper["image"])), lambda d: curve.density(offset - callier * d + stock.get("dens", 0.0))
    )
    return lambda density: picture(density[0])


def falls(d, middle, width):
    return 1 / (1 + np.exp((d - middle) / width))


def toned(d, silver, baths):
    """Spectral density of silver of a visual density after (bath, time) in their order."""
    share = {"silver": 1.0}

    def turn(what, into, part):
        taken = share.get(what, 0.0) * part
        share[what] = share.get(what, 0.0) - taken
        share[into] = share.get(into, 0.0) + taken

    for name, t in baths:
        if name == "sepia":
            turn("silver", "sepia", falls(d, 2.9 * t - 0.25, 0.20))
        elif name == "selenium":
            turn("silver", "selenium", falls(2.2 - 1.5 * t, d, 0.18))
        elif name == "gold":
            part = falls(d, 2.9 * t - 0.25, 0.30)
            turn("silver", "goldblue", part)
            turn("sepia", "goldred", part)
        else:
            turn("silver", {"copper": "copper", "iron": "ironblue"}[name], t)
    spectra = {n: unit(shape(c)) * c["gain"] for n, c in MATERIALS["colourants"].items()} | {"silver": silver}
    return d * sum(part * spectra[name] for name, part in share.items())


def bath_print(film, baths):
    """On glossy neutral paper of grade 2."""
    paper = MATERIALS["bw_papers"]["glossy-neutral"]
    curve = paper_curve(2, paper["dmax"])
    callier = film.stock.get("callier", 1.0)
    offset = curve.exposure(-np.log10(film.stock.get("aim", 0.18))) + callier * film.curves[0].density(film.grey)
    base, image = peaks(paper["base"]) + paper["flat"], unit(shape(paper["image"]))
    m = viewer(VIEW["D50"])
    white = ((10**-base) @ m).max()
    return (
        lambda density: (10 ** -(base + toned(curve.density(offset - callier * density[0]), image, baths))) @ m / white
    )


def bw_instant(film):
    paper = MATERIALS["bw_papers"][film.stock["paper"]]
    dmin = film.curves[0].d["dmin"]
    picture = silver_picture(peaks(paper["base"]) + paper["flat"], unit(shape(paper["image"])), lambda d: d - dmin)
    return lambda density: picture(density[0])


def contact_print(film, pigment=None):
    stock = film.stock
    process = stock["process"]
    curve = Curve(process["curve"])
    grey = film.curves[0].density(film.grey)
    offset = curve.exposure(-np.log10(stock.get("aim", 0.18))) + grey
    image = process["image"]
    pigment = pigment or image.get("pigment")
    if pigment:
        s = unit(-np.log10(np.clip(BASIS @ decode(np.array(pigment) / 255.0), 0.02, 0.98)))
        image = unit(0.8 * s + 0.2)
    else:
        image = unit(shape(image))
    base = peaks(stock.get("base", [])) + stock.get("base_flat", 0.0)
    picture = silver_picture(base, image, lambda d: curve.density(offset - d))
    return lambda density: picture(density[0])


def screen(film):
    stock = film.stock
    s = stock["screen"]
    base = peaks(stock.get("base", [])) + stock.get("base_flat", 0.0)
    m = viewer(VIEW[stock["view"]])
    colours = [(shape(f) * 10**-base) @ m for f in s["filters"]] + [s["gap_t"] * (10**-base) @ m]
    shares = [v * (1 - s["gap_share"]) for v in s["shares"]] + [s["gap_share"]]

    def look(density):
        behind = list(density) + [np.mean(density)]
        return sum(w * 10**-d * c for w, d, c in zip(shares, behind, colours))

    scale = s["white"] / look(np.array([c.d["dmin"] for c in film.curves])).max()
    return lambda density: look(density) * scale


def crossed(stock):
    out = json.loads(json.dumps(stock))
    layers = "RGB"
    scale = lambda m, k: (np.array(m) * k).tolist()
    if stock["kind"] == "reversal":
        for i, c in enumerate(layers):
            d = stock["curve"][c]
            out["curve"][c] = {
                "dmin": d["dmin"] + 0.06,
                "gamma": d["gamma"] * [0.53, 0.53, 0.31][i],
                "toe": d["toe"] * 1.1,
                "shoulder": d["shoulder"] * 1.25,
                "dmax": d["dmin"] + (d["dmax"] - d["dmin"]) * [0.70, 0.72, 0.52][i],
            }
        out.update(kind="color-negative", mask=0.0, print="gloss-paper")
        k = 0.9
    else:
        for i, c in enumerate(layers):
            d = stock["curve"][c]
            out["curve"][c] = {
                "dmin": 0.10,
                "gamma": d["gamma"] * [2.35, 2.25, 2.05][i],
                "toe": 0.18,
                "shoulder": 0.30,
                "dmax": min(d["dmax"], 2.6) * [0.90, 0.98, 0.98][i],
            }
        out.update(kind="reversal", view="D50", viewer={"share": 0.62, "gain": 1.12})
        k = 0.5
    for name in ("inhibition", "inhibition_high"):
        if name in stock:
            out[name] = scale(stock[name], k)
    return out


def look_at(film, **extra):
    kind = film.kind
    if kind == "color-negative":
        return colour_print(film, extra.get("cc", (0, 0, 0)))
    if "baths" in extra:
        return bath_print(film, extra["baths"])
    way = {
        "reversal": slide,
        "instant": slide,
        "bw-negative": bw_print,
        "bw-instant": bw_instant,
        "screen-plate": screen,
    }
    return contact_print(film, extra.get("pigment")) if kind == "contact-print" else way[kind](film)


def colours(stock, ev=0.0, push=0.0, filter_name=None, **extra):
    film = Film(stock, push, filter_name)
    look = look_at(film, **extra)
    q = stock.get("q", 0.85)
    out = []
    for rgb in json.loads(GOLDEN.read_text())["input_srgb8"]:
        out.append((255 * encode(fitted(look(film.densities(scene_light(rgb, q), ev))))).tolist())
    return out


def densities(stock):
    film = Film(stock)
    q = stock.get("q", 0.85)
    return [film.densities(scene_light(rgb, q)).tolist() for rgb in json.loads(GOLDEN.read_text())["input_srgb8"]]


# ---- golden vectors


def listed(value):
    """Numbers of a vector in whichever form it is kept."""
    return np.array(list(value.values()) if isinstance(value, dict) else value, float).reshape(-1)


def rounded(value, digits):
    return [rounded(v, digits) for v in value] if isinstance(value, list) else round(float(value), digits)


def vectors(golden):
    """(group, key, subkey, how, digits, tolerance) of all that is computed here."""
    for name in golden["stocks"]:
        yield "stocks", name, None, lambda s=name: colours(STOCKS[s]), 3, 0.02
        yield "density", name, None, lambda s=name: densities(STOCKS[s]), 6, 4e-5
        yield "layer_matrix", name, None, lambda s=name: layer_matrix(STOCKS[s]).tolist(), 6, 3e-5
    for name, cases in golden["exposure"].items():
        for stops in cases:
            yield "exposure", name, stops, lambda s=name, e=stops: colours(STOCKS[s], ev=float(e)), 3, 0.02
    for name, cases in golden["push"].items():
        for stops in cases:
            yield "push", name, stops, lambda s=name, n=stops: colours(STOCKS[s], push=float(n)), 3, 0.02
    for name, cases in golden["filtration"].items():
        for cc in cases:
            beyond = [float(p[:-1]) for p in cc.split()]
            yield "filtration", name, cc, lambda s=name, c=beyond: colours(STOCKS[s], cc=c), 3, 0.02
    for name, cases in golden["lens_filter"].items():
        for f in cases:
            how = f if f in ("yellow", "orange", "red", "green") else "mired " + f.replace("mired", "").strip()
            yield "lens_filter", name, f, lambda s=name, f=how: colours(STOCKS[s], filter_name=f), 3, 0.02
    for name in golden["cross"]:
        yield "cross", name, None, lambda s=name.split()[0]: colours(crossed(STOCKS[s])), 3, 0.02
    for name in golden["processes"]:
        if STOCKS[name]["kind"] == "contact-print":
            yield "processes", name, None, lambda s=name: colours(STOCKS[s]), 3, 0.02
    for name in golden["baths"]:
        stock, order = name.split(",")[0], [b.split() for b in name.split(": ")[1].split(", ")]
        baths = [(bath, float(time)) for bath, time in order]
        yield "baths", name, None, lambda s=stock, b=baths: colours(STOCKS[s], baths=b), 3, 0.02
    for name in golden["pigment"]:
        rgb = [int(v) for v in name.strip("()").split(",")]
        yield "pigment", name, None, lambda c=rgb: colours(STOCKS["gum"], pigment=c), 3, 0.02


def placement(golden, write):
    changed = 0
    for name, kept in golden["log_exposure_offset_grey"].items():
        film = Film(STOCKS[name])
        found = {
            "x0": [c.x0 for c in film.curves],
            "density_at_grey": [float(c.density(film.grey)) for c in film.curves],
        }
        for key, value in found.items():
            if np.abs(listed(kept[key]) - np.array(value)).max() > 2e-6:
                changed += 1
                print(f"{name} {key}: {kept[key]} -> {rounded(value, 5)}")
                if write:
                    kept[key] = rounded(value, 6) if isinstance(kept[key], list) else round(value[0], 6)
    return changed


def main():
    write = sys.argv[1:] == ["write"]
    golden = json.loads(GOLDEN.read_text())
    changed = placement(golden, write)
    for group, name, sub, how, digits, tolerance in vectors(golden):
        place = golden[group] if sub is None else golden[group][name]
        key = name if sub is None else sub
        found = how()
        off = np.abs(
            listed(sum(place[key], []) if isinstance(place[key][0], list) else place[key])
            - listed(sum(found, []) if isinstance(found[0], list) else found)
        ).max()
        if off > tolerance:
            changed += 1
            print(f"{group} {name} {sub or ''}: off by {off:.4f}")
            if write:
                place[key] = rounded(found, digits)
    print(f"{changed} vectors differ" + (" and were written" if write else ""))
    if write:
        GOLDEN.write_text(json.dumps(golden, indent=0) + "\n")


if __name__ == "__main__":
    main()
