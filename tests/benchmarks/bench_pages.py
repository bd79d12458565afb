"""Page times through gunicorn: median and 95th percentile of 100 requests, as a ratio to an empty Django view.

Needs DATABASE_URL of an empty database. Rounds of all pages in turn, so that a slow spell of the machine
falls on all of them.
"""

from __future__ import annotations

import http.cookiejar
import os
import re
import socket
import statistics
import subprocess
import sys
import time
import urllib.parse
import urllib.request

PAGES = {
    "empty view": "/empty/",
    "shelf": "/",
    "chain board": "/jobs/{job}/",
    "feeds": "/jobs/{job}/feeds/",
    "proving": "/jobs/{job}/proving/",
}
REQUESTS = 100


def main() -> None:
    env = os.environ | {"DJANGO_SETTINGS_MODULE": "tests.benchmarks.settings"}
    subprocess.run([sys.executable, "manage.py", "prepare", "--demo"], env=env, check=True)
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        port = free.getsockname()[1]
    command = [
        sys.executable,
        "-m",
        "gunicorn",
        "workbench.wsgi",
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
    times: dict[str, list[float]] = {name: [] for name in PAGES}
    for i in range(REQUESTS + 5):
        for name, path in PAGES.items():
            start = time.perf_counter()
            opener.open(base + path.format(job=job)).read()
            if i >= 5:
                times[name].append(time.perf_counter() - start)
    empty = statistics.median(times["empty view"])
    for name, found in times.items():
        median, p95 = statistics.median(found), sorted(found)[int(0.95 * REQUESTS)]
        print(
            f"{name:12} median {1000 * median:6.1f} ms ({median / empty:5.1f} x)   p95 {1000 * p95:6.1f} ms ({p95 / empty:5.1f} x)"
        )


def wait_for(opener: urllib.request.OpenerDirector, address: str) -> str:
    for _ in range(100):
        try:
            return opener.open(address).read().decode()
        except OSError:
            time.sleep(0.1)
    raise SystemExit("the server did not start")


if __name__ == "__main__":
    main()
