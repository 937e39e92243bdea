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
from selenium.webdriver.common.keys import Keys

FOLDER = pathlib.Path(__file__).resolve().parent.parent / "docs" / "screenshots"

# name: frame of the demo, station, page, and what is done then
BENCH = {
    "scene": (1, "1", 1),
    "lens": (9, "2", 1),
    "film": (1, "3", 1),
    "bath": (8, "4", 1),
    "print": (3, "5", 1),
    "tone": (18, "6", 1),
    "years": (22, "7", 1),
    "changes": (9, "0", 1),
    "masks": (11, "w", 1),
    "surface": (30, "8", 1),
    "export": (1, "3", 1),
    "divide": (1, "5", 1),
    "strip": (3, "5", 1),
    "look-in": (3, "4", 1),
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
    if name == "export":
        press(driver, "e")
        time.sleep(1.0)
    if name == "divide":
        press(driver, "k")
        time.sleep(1.5)
        driver.find_element(By.CSS_SELECTOR, "[data-print=stock]").click()
        press(driver, "d")
        time.sleep(1.0)
    if name == "strip":
        driver.find_element(By.CSS_SELECTOR, "[id='track-print.exposure']").send_keys("t")
        time.sleep(2.0)
    if name == "look-in":
        driver.execute_script("document.getElementById('ag-canvas').focus()")
        press(driver, "l")
        diamond = driver.find_element(By.ID, "ag-lookin")
        for _ in range(3):
            diamond.send_keys(Keys.ARROW_LEFT)
        shift = "new KeyboardEvent('keydown', { key: 'Shift', bubbles: true })"
        driver.execute_script(f"document.getElementById('ag-lookin').dispatchEvent({shift})")
        time.sleep(1.0)
    if name == "masks":
        time.sleep(1.0)
        press(driver, "q")
    settled(driver)


def roll(driver, base):
    """Marks as somebody made them, a note, two frames chosen; taken away again by the next start on a fresh folder."""
    driver.get(f"{base}/rolls/1")
    time.sleep(4)
    sheet = driver.find_element(By.ID, "ag-contact")
    for keys in ["m", Keys.ARROW_RIGHT, "mm", Keys.ARROW_RIGHT, "mmm"]:
        for key in keys:
            sheet.send_keys(key)
            time.sleep(0.6)
    driver.find_element(By.CSS_SELECTOR, "[data-do=note]").click()
    driver.find_element(By.CSS_SELECTOR, ".ag-inplace").send_keys("sky too light" + Keys.ENTER)
    time.sleep(1.0)
    sheet.send_keys(Keys.ARROW_RIGHT + " ")
    sheet.send_keys(Keys.SHIFT + Keys.ARROW_RIGHT)
    time.sleep(1.0)


def main():
    base, names = sys.argv[1].rstrip("/"), sys.argv[2:] or ["roll", "stocks", "presets", "match", "sheets", *BENCH]
    driver = browser()
    for name in names:
        if name == "roll":
            roll(driver, base)
        elif name == "presets":
            driver.get(f"{base}/frames/1/presets")
            time.sleep(8)
            driver.execute_script("document.getElementById('tile-sepia-and-selenium').focus()")
            time.sleep(3)
        elif name == "match":
            driver.get(f"{base}/frames/3/match?with=5&as=print")
            time.sleep(2)
            driver.execute_script("document.getElementById('ag-match-look').click()")
            found = "return document.querySelector('[data-part]') !== null"
            for _ in range(180):
                if driver.execute_script(found):
                    break
                time.sleep(0.5)
            time.sleep(3)
            driver.execute_script("document.getElementById('ag-matched').scrollIntoView({ block: 'end' })")
            time.sleep(1)
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
