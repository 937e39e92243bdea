"""Debian's Chromium at 1280 x 800, for the scripts that look at the application or measure it."""

import tempfile
import time

from selenium import webdriver
from selenium.webdriver.chrome.options import Options
from selenium.webdriver.chrome.service import Service
from selenium.webdriver.common.by import By

FLAGS = [
    "headless=new",
    "no-sandbox",
    "disable-gpu",
    "disable-quic",
    "no-first-run",
    "disable-background-networking",
    "disable-component-update",
    "disable-sync",
    "hide-scrollbars",
]


def browser():
    options = Options()
    options.binary_location = "/usr/bin/chromium"
    for flag in FLAGS:
        options.add_argument(f"--{flag}")
    options.add_argument(f"--user-data-dir={tempfile.mkdtemp()}")
    driver = webdriver.Chrome(service=Service("/usr/bin/chromedriver"), options=options)
    size = {"width": 1280, "height": 800, "deviceScaleFactor": 1, "mobile": False}
    driver.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", size)
    return driver


def settled(driver):
    time.sleep(0.7)
    for _ in range(200):
        canvas = "document.getElementById('ag-canvas')"
        if driver.execute_script(f"return !{canvas} || {canvas}.dataset.settled === 'true'"):
            break
        time.sleep(0.1)
    time.sleep(1.2)


def press(driver, key):
    driver.find_element(By.TAG_NAME, "body").send_keys(key)
