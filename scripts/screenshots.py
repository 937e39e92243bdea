#!/usr/bin/env python3
"""Takes the pictures of docs/screenshots from the demo data, at 1280 x 800.

    pip install selenium
    ./target/release/amber-grain demo --data FRESH_FOLDER --port 8095
    python3 scripts/screenshots.py http://127.0.0.1:8095 [name ...]

Without names it takes all of them. The demo's data is changed a little by looking at it: use a fresh folder.
"""

import pathlib
import sys
import time

from browser import browser, press, settled
from selenium.webdriver.common.by import By

FOLDER = pathlib.Path(__file__).resolve().parent.parent / "docs" / "screenshots"

# name: frame of the demo, station, page, and what is done then
BENCH = {
    "scene": (1, "1", 1),
    "beside": (2, "1", 1),
    "lens": (9, "2", 1),
    "lens-2": (9, "2", 2),
    "film": (1, "3", 1),
    "film-2": (4, "3", 2),
    "bath": (8, "4", 1),
    "print": (3, "5", 1),
    "tone": (18, "6", 1),
    "tone-2": (15, "6", 2),
    "years": (22, "7", 1),
    "changes": (9, "0", 1),
    "masks": (11, "w", 1),
    "metering": (3, "1", 1),
    "surface": (30, "8", 1),
    "export": (1, "3", 1),
}


def bench(driver, base, name):
    frame, key, page = BENCH[name]
    driver.get(f"{base}/frames/{frame}")
    settled(driver)
    station = driver.execute_script("return document.getElementById('ag-bench').dataset.station")
    stations = ["scene", "lens", "film", "bath", "print", "tone", "years", "surface"]
    keys = {name: str(number) for number, name in enumerate(stations, 1)}
    if keys.get(station.split(":")[0]) != key:
        press(driver, key)
        time.sleep(1.0)
    if page != 1:
        driver.find_element(By.CSS_SELECTOR, f"button[data-page='{page}']").click()
        time.sleep(1.0)
    if name == "metering":
        press(driver, "i")
        time.sleep(2.0)
    if name == "export":
        press(driver, "e")
        time.sleep(1.0)
    if name == "masks":
        time.sleep(1.0)
        press(driver, "q")
    settled(driver)


def main():
    base, names = sys.argv[1].rstrip("/"), sys.argv[2:] or ["roll", "stocks", "sheets", *BENCH]
    driver = browser()
    for name in names:
        if name == "roll":
            driver.get(f"{base}/rolls/1")
            time.sleep(4)
        elif name == "stocks":
            driver.get(f"{base}/frames/1/stocks")
            time.sleep(15)
        elif name == "sheets":
            driver.get(f"{base}/frames/29/sheets")
            time.sleep(15)
        else:
            bench(driver, base, name)
        driver.save_screenshot(str(FOLDER / f"{name}.png"))
        print(name)
    driver.quit()


if __name__ == "__main__":
    main()
