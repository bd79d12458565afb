"""Page times through gunicorn, warm and after a save: median and 95th percentile as ratios to an empty Django view.

Needs DATABASE_URL of an empty database. Rounds of all pages in turn, and each time is divided by that of empty
views asked for just before it, so that a slow spell of the machine falls on both.
"""

from __future__ import annotations

import http.cookiejar
import math
import os
import re
import socket
import statistics
import subprocess
import sys
import time
import urllib.error
import urllib.parse
import urllib.request

from tests.pages import PAGES as PAGES_OF_A_JOB
from tests.web.forms_of import read_page

PAGES = {
    "empty view": "/empty/",
    "shelf": "/",
    **{
        tail.rstrip("/") or "chain board": f"/jobs/{{job}}/{tail}"
        for tail in PAGES_OF_A_JOB
        if not re.search(r"[.]|as=|/try/|/shown/", tail)
    },
}
REQUESTS = int(os.environ.get("METROLEX_BENCH_REQUESTS", "60"))
PAUSE_S = 0.4  # what a sheet waits after the last cell before it asks for what hangs on it
COLD = max(REQUESTS // 6, 5)


def main() -> None:
    env = os.environ | {"DJANGO_SETTINGS_MODULE": "tests.benchmarks.settings", "METROLEX_QUEUE": "elsewhere"}
    subprocess.run([sys.executable, "manage.py", "prepare", "--demo"], env=env, check=True)
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        port = free.getsockname()[1]
    command = [
        sys.executable,
        "-m",
        "gunicorn",
        "workbench.wsgi",
        "-c",
        "python:workbench.serving",
        "--bind",
        f"127.0.0.1:{port}",
        "--workers",
        "1",
        "--log-level",
        "error",
    ]
    server = subprocess.Popen(command, env=env)
    try:
        report(f"http://127.0.0.1:{port}")
    finally:
        server.terminate()
        server.wait()


def report(base: str) -> None:
    opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(http.cookiejar.CookieJar()))
    page = wait_for(opener, base + "/log-in/")
    token = re.search(r'name="csrfmiddlewaretoken" value="([^"]+)"', page)[1]
    form = {"csrfmiddlewaretoken": token, "username": "fitter", "password": "bench-book-52"}
    shelf = opener.open(base + "/log-in/", urllib.parse.urlencode(form).encode()).read().decode()
    job = re.search(r"/jobs/(\d+)/", shelf)[1]
    token = re.search(
        r'name="csrfmiddlewaretoken" value="([^"]+)"',
        opener.open(f"{base}/jobs/{job}/feeds/").read().decode(),
    )[1]
    ask = Asking(opener, base)
    warm: dict[str, list[float]] = {name: [] for name in PAGES}
    for i in range(REQUESTS + 5):
        for name, path in PAGES.items():
            took = ask.ratio(path.format(job=job))
            if i >= 5:
                warm[name].append(took)

    def reading(volts: float) -> bytes:
        form = {"circuit": "F14", "state": "later", "reading": f"{volts:.2f}", "csrfmiddlewaretoken": token}
        return urllib.parse.urlencode(form).encode()

    probe, live = f"/jobs/{job}/feeds/probe/", f"/jobs/{job}/feeds/live/"
    # A form as any other: saved, looked at and answered by a redirect to the page, which is asked for at once. A reading that
    # leaves the class of its circuit leaves what was solved; any change of the electrical system has all of it solved anew.
    board = opener.open(f"{base}/jobs/{job}/brief/").read().decode()
    supply = [pair for form in read_page(board)[0] if "supply" in form.action for pair in form.data]
    cold: dict[str, list[float]] = {name: [] for name in PAGES}
    saves: list[float] = []
    anew: dict[str, list[float]] = {name: [] for name in PAGES}
    electrical: list[float] = []
    for i in range(COLD):
        for k, (name, path) in enumerate(PAGES.items()):
            n = i * len(PAGES) + k
            saves.append(ask.ratio(probe, reading(9 + n % 300 / 100), htmx=False))
            cold[name].append(ask.ratio(path.format(job=job), empty=ask.empty))
            form = dict(supply) | {"supply-run_load_a": f"{10 + n / 1000:.3f} A", "seen": ""}
            data = urllib.parse.urlencode(form).encode()
            electrical.append(ask.ratio(f"/jobs/{job}/brief/supply/", data, htmx=False))
            anew[name].append(ask.ratio(path.format(job=job), empty=ask.empty))
    cell: list[float] = []
    follows: list[float] = []
    for i in range(REQUESTS):
        cell.append(ask.ratio(probe, reading(9 + i % 300 / 100)))
        time.sleep(PAUSE_S)
        follows.append(ask.ratio(live))
    drag, seconds = [], []
    for i in range(4 * REQUESTS):  # a display dragged: the verdict of another point each time
        drag.append(
            ask.ratio(f"/jobs/{job}/mount/verdict/?mounting=gauge+1&x={i % 60 - 30}&y={90 - i % 47}.5")
        )
        seconds.append(drag[-1] * ask.empty)
    print(
        f"an empty view: {1000 * statistics.median(ask.empties):.1f} ms; ratios to it, median and 95th percentile"
    )
    for name in PAGES:
        print(
            f"{name:46}"
            + "   ".join(
                f"{word} {said(found[name])}"
                for word, found in (("warm", warm), ("after a reading", cold), ("after a load", anew))
            )
        )
    print(f"{'a cell of a sheet':46}{said(cell)}")
    print(f"{'what follows it':46}{said(follows)}")
    p95 = sorted(seconds)[math.ceil(0.95 * len(seconds)) - 1]
    print(f"{'a display dragged':46}{said(drag)}   {1000 * p95:.0f} ms at the 95th percentile")
    print(f"{'a reading saved':46}{said(saves)}")
    print(f"{'a load saved':46}{said(electrical)}")


class Asking:
    """Times as ratios to an empty view: the median of three asked for just before.

    What is asked for at once after a save is held against the empty views before that save (`empty`), so that
    nothing comes between the two.
    """

    def __init__(self, opener: urllib.request.OpenerDirector, base: str) -> None:
        self.opener, self.base = opener, base
        self.empties: list[float] = []
        self.empty = 0.0

    def ratio(
        self, path: str, data: bytes | None = None, htmx: bool = True, empty: float | None = None
    ) -> float:
        self.empty = empty or statistics.median(
            timed(self.opener, self.base + PAGES["empty view"]) for _ in range(3)
        )
        self.empties.append(self.empty)
        return timed(self.opener, self.base + path, data, htmx) / self.empty


def timed(
    opener: urllib.request.OpenerDirector, address: str, data: bytes | None = None, htmx: bool = True
) -> float:
    """Seconds to the last byte of the answer; a redirect is answered, not followed."""
    request = urllib.request.Request(address, data, {"HX-Request": "true"} if data and htmx else {})
    if not htmx:
        opener = urllib.request.build_opener(
            _NoRedirect, *(h for h in opener.handlers if hasattr(h, "cookiejar"))
        )
    start = time.perf_counter()
    try:
        opener.open(request).read()
    except urllib.error.HTTPError as answer:
        if answer.code != 302:
            raise
    return time.perf_counter() - start


class _NoRedirect(urllib.request.HTTPRedirectHandler):
    def redirect_request(self, *_):
        return None


def said(ratios: list[float]) -> str:
    return f"{statistics.median(ratios):5.1f} {sorted(ratios)[math.ceil(0.95 * len(ratios)) - 1]:5.1f}"


def wait_for(opener: urllib.request.OpenerDirector, address: str) -> str:
    for _ in range(100):
        try:
            return opener.open(address).read().decode()
        except OSError:
            time.sleep(0.1)
    raise SystemExit("the server did not start")


if __name__ == "__main__":
    main()
