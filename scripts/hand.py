#!/usr/bin/env python3
"""Measures what a hand feels, in the browser: how long until a picture, a board, a page is there, and how many pictures
a second a moving control gives. Prints seconds, and multiples of a plain decode and encode of the same file.

    pip install selenium
    cargo build --release
    python3 scripts/hand.py [PICTURE.jpg]

Without a picture it takes the one that `amber-grain bench` invents, of 24 megapixels. The figures of one run are to be
compared with one another.
"""

import http.client
import json
import pathlib
import re
import shutil
import statistics
import subprocess
import sys
import tempfile
import time
from urllib.parse import quote

from browser import browser, press, settled

ROOT = pathlib.Path(__file__).resolve().parent.parent
PROGRAM = ROOT / "target" / "release" / "amber-grain"
PORT = 8097
MOVED = 3.0  # seconds for which a control moves
PUSH_MOVES = 14  # push has a value every quarter of a stop

# notes in the page when the canvas gets a picture
WATCH = """
window.agDrawn = []; window.agSettled = [];
const look = () => {
  const canvas = document.getElementById('ag-canvas');
  if (!canvas) return requestAnimationFrame(look);
  new MutationObserver((changes) => {
    for (const c of changes) {
      if (c.attributeName === 'data-drawn') window.agDrawn.push(performance.now());
      if (c.attributeName === 'data-settled' && canvas.dataset.settled === 'true')
        window.agSettled.push(performance.now());
    }
  }).observe(canvas, { attributes: true });
};
requestAnimationFrame(look);
"""

ALL_ON = {
    "scene.detail": 0.3, "scene.saturation": 10, "lens.softness.edges": 20, "lens.bloom.strength": 0.3,
    "lens.falloff.stops": -0.7, "lens.fringes.red": 10, "film.push": 1, "bath.uneven.amount": 0.3, "years.age": 20,
    "years.sun.strength": 0.3, "years.foxing.amount": 0.3, "years.water.amount": 0.3, "tone.four.strength": 30,
    "tone.wash.strength": 20, "print.strength": 90,
}


class Application:
    """A server of its own on a folder of its own."""

    def __init__(self, folder):
        self.folder = folder
        self.start()

    def start(self):
        began = time.perf_counter()
        self.process = subprocess.Popen(
            [PROGRAM, "serve", "--data", self.folder, "--port", str(PORT)],
            stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL,
        )
        while True:
            try:
                self.ask("GET", "/")
                break
            except OSError:
                time.sleep(0.002)
        self.started = time.perf_counter() - began

    def again(self):
        self.stop()
        self.start()

    def stop(self):
        self.process.terminate()
        self.process.wait()

    def ask(self, method, path, body=None, kind="application/json"):
        connection = http.client.HTTPConnection("127.0.0.1", PORT)
        headers = {"origin": f"http://127.0.0.1:{PORT}", **({"content-type": kind} if body else {})}
        connection.request(method, path, body, headers)
        answer = connection.getresponse()
        return answer.status, answer.read(), dict(answer.getheaders())

    def form(self, path, **fields):
        body = "&".join(f"{k}={v}" for k, v in fields.items())
        return self.ask("POST", path, body, "application/x-www-form-urlencoded")

    def upload(self, roll, picture):
        edge = "amber-grain-measures"
        head = f'--{edge}\r\ncontent-disposition: form-data; name="file"; filename="large.jpg"\r\n\r\n'
        body = head.encode() + picture.read_bytes() + f"\r\n--{edge}--\r\n".encode()
        status, answer, _ = self.ask("POST", f"/rolls/{roll}/frames", body, f"multipart/form-data; boundary={edge}")
        assert status in (200, 201), answer

    def set(self, frame, values):
        page = self.ask("GET", f"/frames/{frame}")[1].decode()
        revision = re.search(r'"revision":\s*(\d+)', page).group(1)
        answer = self.form(
            f"/frames/{frame}/development", revision=revision, station="scene", values=quote(json.dumps(values))
        )
        if answer[0] != 200:
            sys.exit(answer[1][:300])


class Hand:
    def __init__(self):
        self.driver = browser()
        self.driver.execute_cdp_cmd("Page.addScriptToEvaluateOnNewDocument", {"source": WATCH})

    def script(self, text):
        return self.driver.execute_script(text)

    def wait(self, condition, most=120):
        end = time.time() + most
        while time.time() < end:
            value = self.script(f"return {condition}")
            if value:
                return value
            time.sleep(0.004)
        raise TimeoutError(condition)

    def go(self, path):
        self.driver.get(f"http://127.0.0.1:{PORT}{path}")

    def first_picture(self, frame):
        """Seconds from the click to the first picture, and to the settled one."""
        self.go("/rolls/1")
        self.wait("document.readyState === 'complete'")
        self.script(f"location.href = '/frames/{frame}'")
        self.wait("location.pathname.startsWith('/frames') && window.agSettled && agSettled.length > 0")
        return self.script("return [agDrawn[0] / 1000, agSettled[0] / 1000]")

    def station(self, key, name):
        """Seconds from the press of a key until its station is on the bench."""
        return self.driver.execute_async_script(
            "const [key, name, done] = arguments, began = performance.now();"
            "const look = () => document.getElementById('ag-bench').dataset.station === name"
            " ? done((performance.now() - began) / 1000) : setTimeout(look, 1);"
            "const press = { key, code: `Digit${key}`, bubbles: true };"
            "document.body.dispatchEvent(new KeyboardEvent('keydown', press)); look();",
            key,
            name,
        )

    def until_settled(self, act):
        count = self.script("return agSettled.length")
        began = self.script("return performance.now()")
        act()
        self.wait(f"agSettled.length > {count}")
        return (self.script("return agSettled.at(-1)") - began) / 1000

    def pictures_a_second(self, control, moves=40):
        """While the control is dragged to and fro in so many moves; no more than it has values, so that each is new."""
        box = self.script(
            f"const s = document.querySelector(`[data-control='{control}'] [role=slider]`);"
            "s.scrollIntoView(); const b = s.getBoundingClientRect(); return [b.x, b.y, b.width, b.height]"
        )
        x, y, width, height = box
        mouse = lambda kind, at: self.driver.execute_cdp_cmd(
            "Input.dispatchMouseEvent",
            {"type": kind, "x": x + width * at, "y": y + height / 2, "button": "left", "buttons": 1, "clickCount": 1},
        )
        mouse("mousePressed", 0.5)
        count, end, step = self.script("return agDrawn.length"), time.time() + MOVED, 0
        while time.time() < end:
            step += 1
            # to and fro over nearly all of it: every move a value that was not there just before
            mouse("mouseMoved", 0.5 + 0.45 * (1 - 2 * abs(step % (2 * moves) - moves) / moves))
            time.sleep(0.008)
        pictures = self.script("return agDrawn.length") - count
        mouse("mouseReleased", 0.5)
        settled(self.driver)
        return pictures / MOVED


def plain_seconds():
    """Wall time of a plain decode and encode of the invented picture."""
    answer = subprocess.run([PROGRAM, "bench", "--megapixels", "24", "--plain"], capture_output=True, text=True)
    return json.loads(answer.stdout)["seconds"]


def main():
    folder = pathlib.Path(tempfile.mkdtemp(prefix="amber-grain-hand-"))
    picture = pathlib.Path(sys.argv[1]) if len(sys.argv) > 1 else folder / "invented.jpg"
    if len(sys.argv) < 2:
        subprocess.run([PROGRAM, "bench", "--picture", picture], check=True, stdout=subprocess.DEVNULL)
    plain = plain_seconds()
    print(f"plain decode and encode of 24 megapixels: {plain:.3f} s\n")

    def tell(name, seconds, wanted):
        print(f"{name:<58} {seconds:7.3f} s {seconds / plain:6.2f} x plain   wanted {wanted}", flush=True)

    def rate(name, count, wanted):
        print(f"{name:<58} {count:7.1f} pictures a second      wanted {wanted}", flush=True)

    application = Application(folder / "data")
    hand = None
    try:
        tell("start: first answer on an empty folder", application.started, 0.1)
        application.form("/rolls", name="Measured")
        for _ in range(2):
            application.upload(1, picture)
        application.again()
        tell("start: first answer", application.started, 0.1)
        hand = Hand()
        first, rest = hand.first_picture(1)
        tell("open: first picture, file decoded", first, "-")
        application.again()
        first, rest = hand.first_picture(1)
        tell("open: first picture, was there once", first, 0.5)
        tell("open: settled, was there once", rest, "-")
        hand.wait("document.readyState === 'complete'")

        hand.go("/frames/1/stocks")
        board = "document.getElementById('ag-board-page')?.dataset.filled"
        tell("board: all tiles", int(hand.wait(board)) / 1000, 2.5)
        hand.go("/rolls/1")
        hand.go("/frames/1/stocks")
        tell("board: all tiles again", int(hand.wait(board)) / 1000, 0.3)

        moving(hand, application, rate)
        one_to_one(hand, tell)
        during_exports(hand, application, tell)
    finally:
        if hand:
            hand.driver.quit()
        application.stop()
        shutil.rmtree(folder, ignore_errors=True)


def opened_at(hand, frame, key):
    hand.go(f"/frames/{frame}")
    hand.wait("window.agSettled && agSettled.length > 0")
    settled(hand.driver)
    keys = {"1": "scene", "3": "film"}
    if hand.script("return document.getElementById('ag-bench').dataset.station") != keys[key]:
        press(hand.driver, key)
        settled(hand.driver)


def moving(hand, application, rate):
    opened_at(hand, 1, "1")
    rate("moving: exposure", hand.pictures_a_second("scene.exposure"), 20)
    opened_at(hand, 1, "3")
    rate("moving: push", hand.pictures_a_second("film.push", PUSH_MOVES), 15)
    application.set(1, ALL_ON)
    opened_at(hand, 1, "1")
    rate("moving: exposure, everything on", hand.pictures_a_second("scene.exposure"), 20)
    opened_at(hand, 1, "3")
    rate("moving: push, everything on", hand.pictures_a_second("film.push", PUSH_MOVES), 15)


def one_to_one(hand, tell):
    opened_at(hand, 2, "1")
    tell("1:1, first", hand.until_settled(lambda: press(hand.driver, "z")), "-")
    hand.until_settled(lambda: press(hand.driver, "z"))
    again = [hand.until_settled(lambda: press(hand.driver, "z")) for _ in range(3)]
    tell("1:1, settled again", min(again[::2]), 0.35)

    def pan(dx):
        mouse = lambda kind, x: hand.driver.execute_cdp_cmd(
            "Input.dispatchMouseEvent",
            {"type": kind, "x": x, "y": 300, "button": "left", "buttons": 1, "clickCount": 1},
        )
        mouse("mousePressed", 500)
        mouse("mouseMoved", 500 + dx)
        mouse("mouseReleased", 500 + dx)

    pans = [hand.until_settled(lambda: pan(dx)) for dx in [40, 40, 40, -30, -30, -30]]
    tell("1:1, after a pan by 30 to 40 pixels (median)", statistics.median(pans), 0.15)


def during_exports(hand, application, tell):
    opened_at(hand, 2, "1")
    keys = [("2", "lens"), ("3", "film"), ("5", "print"), ("1", "scene")]
    tell("a station by its key (longest of 4)", max(hand.station(*key) for key in keys), 0.1)
    settled(hand.driver)
    for frame in [1, 2]:
        application.form(f"/frames/{frame}/exports", name=f"large{frame}", format="jpeg", quality=92, long_edge="")
    opens = [hand.station(*key) for key in keys]
    tell("two exports: a station by its key (longest of 4)", max(opens), 0.1)
    pages = [timed_page(application, path) for path in ["/frames/2", "/rolls/1", "/frames/2/stocks"] * 2]
    tell("two exports: a page or board answers (longest of 6)", max(pages), 0.1)


def timed_page(application, path):
    began = time.perf_counter()
    status, _, _ = application.ask("GET", path)
    assert status == 200, path
    return time.perf_counter() - began


if __name__ == "__main__":
    main()
