"""Keeps of the icons' font and style only those that the pages use; run by vendor.sh.

    python3 scripts/icons.py      (needs fonttools and brotli from PyPI)
"""

import re
from pathlib import Path

from fontTools.subset import Options, Subsetter, load_font, save_font

WEB = Path(__file__).resolve().parent.parent / "crates/web"
STYLE = WEB / "assets/vendor/bootstrap-icons.min.css"
FONT = WEB / "assets/vendor/fonts/bootstrap-icons.woff2"

pages = [*WEB.glob("templates/**/*.html"), *WEB.glob("assets/scripts/**/*.js"), *WEB.glob("src/**/*.rs")]
used = {name for page in pages for name in re.findall(r"\bbi-[a-z0-9-]+", page.read_text())}

style = STYLE.read_text()
head, _ = style.split(".bi-", 1)
rules = dict(re.findall(r'\.(bi-[a-z0-9-]+)::before\{content:"\\([0-9a-f]+)"\}', style))
missing = sorted(used - rules.keys())
if missing:
    raise SystemExit(f"no such icons: {', '.join(missing)}")
kept = {name: rules[name] for name in sorted(used)}
STYLE.write_text(head + "".join(f'.{name}::before{{content:"\\{code}"}}' for name, code in kept.items()) + "\n")

options = Options()
options.flavor = "woff2"
font = load_font(FONT, options)
subsetter = Subsetter(options)
subsetter.populate(unicodes=[int(code, 16) for code in kept.values()])
subsetter.subset(font)
save_font(font, FONT, options)
print(f"{len(kept)} icons, {FONT.stat().st_size} bytes")
