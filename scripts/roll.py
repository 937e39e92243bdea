"""Measures the roll in a browser: walking from frame to frame, a preset on many frames, a roll of thousands.

    python3 scripts/roll.py http://127.0.0.1:8080      (a demo that runs)

Prints one line each, by the page's own clock. Walking: from the key to the next frame's picture on the screen, where
it is drawn over the old one at once, and to the next frame's own page with that picture.
"""

import json
import statistics
import sys
import time
import urllib.request

from browser import browser, press, settled

BASE = sys.argv[1] if len(sys.argv) > 1 else "http://127.0.0.1:8080"


def post(path, value):
    head = {"content-type": "application/json", "origin": BASE}
    request = urllib.request.Request(BASE + path, json.dumps(value).encode(), head)
    start = time.perf_counter()
    with urllib.request.urlopen(request) as answer:
        text = answer.read()
    return (time.perf_counter() - start) * 1000, json.loads(text) if text else {}


AHEAD = "return (document.getElementById('ag-app').dataset.ahead ?? '').split(' ')"
WATCH = """
addEventListener('keydown', () => localStorage.setItem('key', Date.now()), { capture: true });
new MutationObserver((all) => {
  if (!all.some((m) => [...m.addedNodes].some((n) => n.className === 'ag-standing' && n.id === ''))) return;
  requestAnimationFrame(() => localStorage.setItem('shown', Date.now() - localStorage.getItem('key')));
}).observe(document.documentElement, { childList: true, subtree: true });
"""


def walk(driver):
    driver.get(f"{BASE}/rolls/1")
    time.sleep(2)
    driver.get(f"{BASE}/frames/1")
    settled(driver)
    times, shown = [], []
    for _ in range(2):  # each frame's picture was there once
        for key in ["\ue00f"] * 6 + ["\ue00e"] * 6:
            for _ in range(100):
                ahead = driver.execute_script(AHEAD)
                if len(ahead) > 1 or (ahead[0] and driver.current_url.split("?")[0].endswith(("/1", "/8"))):
                    break
                time.sleep(0.1)
            driver.execute_script(WATCH)
            press(driver, key)
            for _ in range(100):
                stood = driver.execute_script("return document.documentElement.dataset.stood")
                if stood:
                    break
                time.sleep(0.02)
            times.append(int(stood or 9999))
            shown.append(int(driver.execute_script("return localStorage.getItem('shown')") or 9999))
            settled(driver)
    half = len(times) // 2
    for what, all_times in [("the next picture shown", shown), ("its own page with it", times)]:
        some = all_times[half:]
        median = statistics.median(some)
        print(f"walking, from the key to {what}: median {median} ms, longest {max(some)} ms, of {half}")


def many():
    _, copied = post("/selection/roll", {"frames": [1], "roll": 2, "copy": True})
    ids = copied["frames"]
    while len(ids) < 200:
        ids += post("/selection/roll", {"frames": ids[: 200 - len(ids)], "roll": 2, "copy": True})[1]["frames"]
    times = []
    for preset in ["warm-silver", "blue-print", "drawer"]:
        taken, answer = post("/selection/preset", {"frames": ids, "preset": preset})
        times.append(taken)
        post("/selection/undo", {"batch": answer["batch"]})
    print(f"a preset on {len(ids)} frames: {', '.join(f'{t:.0f} ms' for t in times)}")
    return ids


def thousands(driver, ids):
    while len(ids) < 5000:
        ids += post("/selection/roll", {"frames": ids[: 5000 - len(ids)], "roll": 2, "copy": True})[1]["frames"]
    time.sleep(20)  # what was changed above is drawn behind
    driver.execute_cdp_cmd("Network.clearBrowserCache", {})
    start = time.perf_counter()
    driver.get(f"{BASE}/rolls/2")
    cells = "return document.querySelectorAll('.ag-frame[data-frame]').length"
    while driver.execute_script(cells) < 10:
        time.sleep(0.01)
    shown = (time.perf_counter() - start) * 1000
    script = (
        "const all = [...performance.getEntriesByType('resource'), ...performance.getEntriesByType('navigation')];"
        "const pictures = all.filter((e) => e.name.includes('/thumbnail'));"
        "const sum = (list) => list.reduce((n, e) => n + e.transferSize, 0);"
        "return [sum(all) - sum(pictures), sum(pictures), pictures.length]"
    )
    page, pictures, count = driver.execute_script(script)
    jump = (
        "const done = arguments[0], start = performance.now(), s = document.getElementById('ag-scroll');"
        "s.scrollTop = s.scrollHeight / 2;"
        "const look = () => { const c = document.querySelectorAll('.ag-frame');"
        "if (c.length && [...c].every((x) => x.dataset.frame)) done(performance.now() - start);"
        "else requestAnimationFrame(look); }; requestAnimationFrame(look);"
    )
    time.sleep(3)
    jumped = driver.execute_async_script(jump)
    select = (
        "const start = performance.now();"
        "const e = new KeyboardEvent('keydown', { code: 'KeyA', ctrlKey: true, bubbles: true });"
        "document.getElementById('ag-contact').dispatchEvent(e); return performance.now() - start;"
    )
    chosen = driver.execute_script(select)
    before = f"{page / 1000:.0f} kB before {count} pictures of {pictures / 1000:.0f} kB"
    print(f"a roll of {len(ids)}: {before}, cells there after {shown:.0f} ms, "
          f"after a jump to the middle {jumped:.0f} ms, all chosen in {chosen:.0f} ms")


with_browser = browser()
try:
    walk(with_browser)
    thousands(with_browser, many())
finally:
    with_browser.quit()
