"""Applies a frame's .cube by an independent implementation (OpenColorIO, PyPI) and compares it with our own render.

    python scripts/cube.py target/release/amber-grain demo/photographs/*.jpg

For each photograph and several stocks: the mean and the 95th percentile of CIEDE2000 (colour-science, PyPI) between the
table on the original and `develop` with what depends on the place switched off. 1.0 in the mean is the aim.
"""

import subprocess
import sys
import tempfile
from pathlib import Path

import colour
import numpy as np
import PyOpenColorIO as ocio
from PIL import Image

STOCKS = ["plover", "oriole", "feldspar", "juniper", "celestine", "nightjar"]
BY_PLACE = ["film.grain", "film.halation", "lens", "surface", "print.acutance", "bath.uneven", "tone.coating"]


def lab(rgb):
    return colour.XYZ_to_Lab(colour.sRGB_to_XYZ(rgb))


def main(program, photographs):
    folder = Path(tempfile.mkdtemp())
    for stock in STOCKS:
        (folder / "d.json").write_text(f'{{"version":1,"stock":{{"id":"{stock}"}},"values":{{}}}}')
        cube = folder / f"{stock}.cube"
        subprocess.run([program, "look", folder / "d.json", "-o", cube, "--quiet"], check=True)
        config = ocio.Config.CreateRaw()
        transform = ocio.FileTransform(src=str(cube), interpolation=ocio.INTERP_TETRAHEDRAL)
        processor = config.getProcessor(transform).getDefaultCPUProcessor()
        for photograph in photographs:
            print_file = folder / "print.png"
            off = [word for lamp in BY_PLACE for word in ("--off", lamp)]
            command = [program, "develop", photograph, "-o", print_file, "--stock", stock, "--bits", "16"]
            subprocess.run([*command, "--quiet", *off], check=True)
            original = np.asarray(Image.open(photograph).convert("RGB"), dtype=np.float32) / 255
            ours = np.asarray(Image.open(print_file).convert("RGB"), dtype=np.float32) / 255
            theirs = np.ascontiguousarray(original.copy())
            processor.applyRGB(theirs)
            step = 7
            difference = colour.delta_E(lab(theirs[::step, ::step]), lab(ours[::step, ::step]), method="CIE 2000")
            mean, high = difference.mean(), np.percentile(difference, 95)
            print(f"{stock:10} {Path(photograph).name:28} mean {mean:.3f}  p95 {high:.3f}")


main(sys.argv[1], sys.argv[2:])
