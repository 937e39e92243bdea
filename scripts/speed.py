#!/usr/bin/env python3
"""Turns what `amber-grain bench --json` prints into the tables of docs/speed.md.

    ./target/release/amber-grain bench --json | python3 scripts/speed.py
"""

import itertools
import json
import sys

# what is made first and takes less than this much of plain is left out
SMALL = 0.02


def cells(figure):
    numbers = [f"{figure['wall_ms']:,.0f}", f"{figure['cpu_ms']:,.0f}"]
    return [figure["name"], *numbers, f"{figure['ns_per_pixel']:.1f}", f"{figure['of_plain']:.2f}"]


def main():
    bench = json.load(sys.stdin)
    for group, figures in itertools.groupby(bench["figures"], lambda figure: figure["group"]):
        worth = [f for f in figures if not (f["name"].endswith("made first") and f["of_plain"] < SMALL)]
        rows = [[group.capitalize(), "Wall ms", "Processor ms", "ns a pixel", "x plain"], *map(cells, worth)]
        widths = [max(len(row[i]) for row in rows) for i in range(len(rows[0]))]
        rows.insert(1, ["-" * widths[0], *("-" * (width - 1) + ":" for width in widths[1:])])
        for row in rows:
            numbers = [cell.rjust(width) for cell, width in zip(row[1:], widths[1:])]
            print("| " + " | ".join([row[0].ljust(widths[0]), *numbers]) + " |")
        print()
    print(f"Peak memory {bench['peak_memory_mib']} MiB.")


if __name__ == "__main__":
    main()
