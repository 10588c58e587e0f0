"""Twenty people read the demo at once: how long the site's picture list and its effects take when nothing changes.

Run while bin/start runs:  python bin/bench_readers.py [seconds] [readers] [port]
"""

import http.client
import json
import random
import statistics
import sys
import threading
import time

SECONDS, READERS, PORT = (int(v) for v in [*sys.argv[1:], *("60", "20", "8080")[len(sys.argv) - 1 :]])
PAUSE = 0.4
"""Seconds between two questions of one reader: more often than any open page asks."""


def signed_in() -> dict[str, str]:
    """Headers of a session."""
    line = http.client.HTTPConnection("127.0.0.1", PORT)
    line.request("GET", "/api/accounts/me")
    answer = line.getresponse()
    token = json.loads(answer.read())["csrf"]
    cookie = answer.headers["Set-Cookie"].split(";")[0]
    body = json.dumps({"name": "mira", "password": "limestone"})
    headers = {"Cookie": cookie, "X-CSRFToken": token, "Content-Type": "application/json"}
    line.request("POST", "/api/accounts/sign-in", body, headers)
    answer = line.getresponse()
    assert answer.status == 200, answer.read()
    answer.read()
    return {"Cookie": "; ".join(c.split(";")[0] for c in answer.headers.get_all("Set-Cookie"))}


def reader(headers: dict[str, str], paths: list[str], until: float, pause: float, took: dict[str, list[float]]) -> None:
    line = http.client.HTTPConnection("127.0.0.1", PORT, timeout=60)
    # Nobody begins at the same instant as all others.
    time.sleep(random.random() * pause * len(paths))
    while time.monotonic() < until:
        for path in paths:
            began = time.monotonic()
            line.request("GET", path, headers=headers)
            answer = line.getresponse()
            answer.read()
            took[path].append(time.monotonic() - began)
            assert answer.status == 200, answer.status
            time.sleep(pause)


def main() -> None:
    headers = signed_in()
    line = http.client.HTTPConnection("127.0.0.1", PORT)
    line.request("GET", "/api/sites", headers=headers)
    site = next(s for s in json.loads(line.getresponse().read()) if s["name"] == "Tarn Halt")["id"]
    paths = [f"/api/sites/{site}/scene", f"/api/sites/{site}/effects"]
    for pause in (PAUSE, 0.0):
        took: dict[str, list[float]] = {path: [] for path in paths}
        until = time.monotonic() + SECONDS
        threads = [threading.Thread(target=reader, args=(headers, paths, until, pause, took)) for _ in range(READERS)]
        [t.start() for t in threads]
        [t.join() for t in threads]
        print(f"{READERS} readers, {pause:g} s between questions")
        for path, times in took.items():
            p95 = sorted(times)[int(0.95 * len(times))]
            name = path.rsplit("/", 1)[1]
            print(
                f"  {name:8} {len(times):6} answers  p50 {statistics.median(times) * 1000:5.0f} ms  p95 {p95 * 1000:5.0f} ms"
            )


if __name__ == "__main__":
    main()
