"""Questions that were asked and hung up: how long the server is busy with them, and who waits for that."""

import json
import socket
import time
from urllib.request import Request, urlopen

from bench.figures import figure, part
from juglant.core.recipes.track import TrackState
from tests.browser.serving import serving

COUNT = 200


def _body(bpm: float) -> bytes:
    state = TrackState()
    brief = state.brief.model_copy(update={"bpm": bpm})
    return json.dumps({"state": state.model_copy(update={"brief": brief}).model_dump(mode="json")}).encode()


def _send(host: str, port: int, body: bytes) -> socket.socket:
    line = socket.create_connection((host, port))
    head = (
        f"POST /api/duck/answer HTTP/1.1\r\nHost: {host}:{port}\r\nContent-Type: application/json\r\n"
        f"Content-Length: {len(body)}\r\n\r\n"
    )
    line.sendall(head.encode() + body)
    return line


def _took(address: str, body: bytes | None = None) -> float:
    begun = time.perf_counter()
    head = {"Content-Type": "application/json"}
    with urlopen(Request(address, body, head), timeout=120) as answer:
        answer.read()
    return 1000 * (time.perf_counter() - begun)


def main() -> None:
    """Print the numbers."""
    with serving("--demo") as server:
        host, port = server.address.removeprefix("http://").split(":")
        light, heavy = f"{server.address}/api/tracks", f"{server.address}/api/duck/answer"
        _took(heavy, _body(100.0))
        usual = _took(heavy, _body(101.0))
        lines = [_send(host, int(port), _body(102.0 + 0.1 * n)) for n in range(COUNT)]
        beside = max(_took(light) for _ in range(10))
        for line in lines:
            line.close()
        after = _took(heavy, _body(99.0))
        part(f"{COUNT} questions asked and hung up")
        figure("a list beside them, worst of ten", beside, "ms", 100)
        figure("the next answer", after, "ms", peer="the usual", ratio=after / usual)


if __name__ == "__main__":
    main()
