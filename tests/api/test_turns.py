"""Questions take turns: what was hung up costs nothing, what is light never waits."""

import asyncio
from collections.abc import Coroutine
from concurrent.futures import ThreadPoolExecutor
from functools import partial
from threading import Event
from typing import Any, TypeVar

import pytest

from juglant.api import memory
from juglant.api.turns import AT_ONCE, Turns, renders
from juglant.core.errors import CancelledError
from juglant.core.kept import Kept

T = TypeVar("T")

HEAVY, LIGHT, TRIALS = "/api/duck/answer", "/api/tracks", "/api/findings/two-keys/fixes"


def _ran(work: Coroutine[Any, Any, T]) -> T:
    """What comes of it, in a loop of its own: a browser's may be running in this thread."""
    with ThreadPoolExecutor(1) as pool:
        return pool.submit(asyncio.run, work).result()


class Asked:
    """A request whose asker may hang up, and an application that answers when it is told to."""

    def __init__(self) -> None:
        self.begun: list[str] = []
        self.bodies: list[bytes] = []
        self.go_on = asyncio.Event()
        self.turns = Turns(self._app)
        self._gone: dict[str, asyncio.Event] = {}

    async def _app(self, scope: Any, receive: Any, send: Any) -> None:
        self.begun.append(scope["name"])
        if scope["path"] != LIGHT:
            self.bodies.append((await receive())["body"])
            await self.go_on.wait()

    def ask(self, name: str, path: str = HEAVY) -> "asyncio.Task[None]":
        gone = self._gone[name] = asyncio.Event()
        parts = iter([(b"one", True), (b" two", False)])

        async def receive() -> dict[str, Any]:
            for body, more in parts:
                return {"type": "http.request", "body": body, "more_body": more}
            await gone.wait()
            return {"type": "http.disconnect"}

        async def send(_: object) -> None: ...

        scope = {"type": "http", "path": path, "name": name}
        return asyncio.ensure_future(self.turns(scope, receive, send))

    def hang_up(self, name: str) -> None:
        self._gone[name].set()


async def _settled() -> None:
    for _ in range(20):
        await asyncio.sleep(0)


def test_what_was_hung_up_is_dropped_before_its_turn() -> None:
    async def run() -> Asked:
        asked = Asked()
        tasks = [asked.ask(f"q{n}") for n in range(200)]
        await _settled()
        assert asked.begun == [f"q{n}" for n in range(AT_ONCE)]
        for n in range(AT_ONCE, 199):
            asked.hang_up(f"q{n}")
        await _settled()
        # Nobody waits any more but the last one.
        assert sum(task.done() for task in tasks) == 199 - AT_ONCE
        asked.go_on.set()
        await asyncio.gather(*tasks)
        return asked

    asked = _ran(run())
    assert asked.begun == [*(f"q{n}" for n in range(AT_ONCE)), "q199"]
    # What is let through is read as it was sent.
    assert asked.bodies == [b"one two"] * (AT_ONCE + 1)


def test_a_light_question_never_waits_and_fixes_are_tried_one_by_one() -> None:
    async def run() -> None:
        asked = Asked()
        tasks = [asked.ask(f"q{n}") for n in range(AT_ONCE + 2)]
        tasks += [asked.ask("light", LIGHT), asked.ask("trial 1", TRIALS), asked.ask("trial 2", TRIALS)]
        await _settled()
        assert set(asked.begun) == {*(f"q{n}" for n in range(AT_ONCE)), "light", "trial 1"}
        asked.go_on.set()
        await asyncio.gather(*tasks)
        assert len(asked.begun) == AT_ONCE + 5

    _ran(run())


def test_a_turn_is_given_on_whatever_becomes_of_it() -> None:
    async def run() -> None:
        async def broken(*_: object) -> None:
            raise RuntimeError

        asked = Asked()
        asked.turns = Turns(broken)
        for n in range(3 * AT_ONCE):
            with pytest.raises(RuntimeError):
                await asked.ask(f"q{n}")
        # Hung up at the moment of its turn.
        asked = Asked()
        asked.go_on.set()
        tasks = [asked.ask(f"q{n}") for n in range(3 * AT_ONCE)]
        for n in range(3 * AT_ONCE):
            asked.hang_up(f"q{n}")
        await asyncio.gather(*tasks)
        await asked.ask("after")
        assert asked.begun[-1] == "after"

    _ran(run())


@pytest.mark.parametrize(
    ("path", "heavy"),
    [
        (HEAVY, True), ("/api/sound/" + "0" * 64, True), ("/api/tracks/1/handover.zip", True),
        ("/api/tracks/1/handover", True), (LIGHT, False), ("/api/tracks/1/state", False),
        ("/api/brief/controls", False), ("/api/audio", False), ("/assets/x.js", False), ("/", False),
    ],
)  # fmt: skip
def test_what_takes_turns(path: str, heavy: bool) -> None:
    assert renders(path) is heavy


def test_what_is_hung_up_in_its_turn_makes_no_further_piece() -> None:
    """Counted in pieces that were made, whatever a piece takes."""
    kept = Kept(100)
    made: list[int] = []
    begun, go_on = Event(), Event()

    def work() -> None:
        for n in range(10):
            kept.named(str(n), partial(made.append, n))
            if n == 2:
                begun.set()
                assert go_on.wait(30)

    async def run() -> None:
        asked = Asked()
        asked.turns = Turns(lambda *_: asyncio.to_thread(work))
        task = asked.ask("q")
        assert await asyncio.to_thread(begun.wait, 30)
        asked.hang_up("q")
        await _settled()
        go_on.set()
        with pytest.raises(CancelledError):
            await task
        # Whoever asks for the same goes on from there.
        asked.turns = Turns(lambda *_: asyncio.to_thread(work))
        await asked.ask("another")

    _ran(run())
    assert made == list(range(10))


def test_what_is_free_is_given_back_after_what_renders_but_not_after_every_step(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    given: list[float] = []
    now = [100.0]
    monkeypatch.setattr(memory, "monotonic", lambda: now[0])
    monkeypatch.setattr(memory.GivenBack, "give_back", staticmethod(lambda: given.append(now[0])))
    asked = Asked()

    async def run() -> None:
        async def app(*_: object) -> None:
            await asyncio.sleep(0)

        asked.turns = Turns(app)
        for later in (0.0, 0.1, 0.1, 0.0):
            now[0] += later
            await asked.ask("q")

    _ran(run())
    assert len(given) == 2


def test_giving_back_harms_nothing() -> None:
    here = memory.GivenBack()
    assert here.is_due()
    assert not here.is_due()
    here.give_back()
