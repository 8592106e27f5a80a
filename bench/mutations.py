"""Small faults put into the core and the store one by one, and whether the tests of two minutes notice.

`python -m bench mutations` puts in those that are listed and 150 by chance, some ten seconds for each.
"""

import ast
import os
import shutil
import subprocess
import sys
import time
from collections import Counter
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from queue import Queue
from random import Random
from tempfile import TemporaryDirectory
from typing import NamedTuple

from bench.figures import figure, part

_ROOT = Path(__file__).parent.parent
_CODE = ("juglant/core", "juglant/files", "juglant/store")
_TESTS = ("tests/core", "tests/files", "tests/store")
# What two minutes of two processes are, less what starting takes.
_MOST_S = 200.0
_WORKERS = 2
# What is compared with numbers that are written down notices most.
_LITERAL = ("test_controls", "test_limits", "test_golden", "test_kept_")


_GUARD = 1e-9


class Fault(NamedTuple):
    """One fault: the file, its first line, what kind of fault it is, and the text before and after."""

    path: str
    line: int
    kind: str
    before: str
    after: str
    text: str

    def __str__(self) -> str:
        return f"{self.path}:{self.line} {self.kind}: {self.before} -> {self.after}"


# Those that lose data or that a loop is heard by, whatever chance chooses.
_STORE = "juglant/store"
_LISTED = (
    (f"{_STORE}/database.py", "journal_mode = WAL", "journal_mode = DELETE"),
    (f"{_STORE}/database.py", 'Row\n            connection.execute("PRAGMA foreign_keys = ON")', "Row"),
    (f"{_STORE}/database.py", '_synchronous = "FULL"', '_synchronous = "OFF"'),
    (f"{_STORE}/database.py", 'connection.execute("BEGIN IMMEDIATE")\n    try', "try"),
    (f"{_STORE}/tracks.py", "DELETE FROM state WHERE track_id = :track ", "DELETE FROM state WHERE 1 "),
    (
        f"{_STORE}/keeping.py",
        "DELETE FROM track WHERE deleted_at <",
        "DELETE FROM track WHERE deleted_at >",
    ),
    (
        f"{_STORE}/keeping.py",
        "DELETE FROM version WHERE deleted_at <",
        "DELETE FROM version WHERE 1 OR 0 <",
    ),
    (f"{_STORE}/outlets.py", "watched WHERE track_id = ? AND part", "watched WHERE track_id = ? OR part"),
    ("juglant/core/hits/render.py", "velocity ** (2 * hit.velocity.level)", "velocity**hit.velocity.level"),
)

_FLIPPED = {
    ast.Lt: ">=", ast.LtE: ">", ast.Gt: "<=", ast.GtE: "<", ast.Eq: "!=", ast.NotEq: "==", ast.Is: "is not",
    ast.IsNot: "is", ast.In: "not in", ast.NotIn: "in",
}  # fmt: skip


class _Source:
    """A file's text and tree, and where in the text a node is."""

    def __init__(self, path: Path) -> None:
        self.path = path
        self.text = path.read_text()
        self.lines = [0]
        for line in self.text.encode().splitlines(keepends=True):
            self.lines.append(self.lines[-1] + len(line))

    def span(self, node: ast.expr) -> tuple[int, int]:
        assert node.end_lineno is not None
        assert node.end_col_offset is not None
        return self.lines[node.lineno - 1] + node.col_offset, self.lines[
            node.end_lineno - 1
        ] + node.end_col_offset

    def of(self, node: ast.expr) -> str:
        start, end = self.span(node)
        return self.text.encode()[start:end].decode()

    def with_(self, node: ast.expr, kind: str, new: str) -> Fault:
        start, end = self.span(node)
        data = self.text.encode()
        changed = (data[:start] + new.encode() + data[end:]).decode()
        return Fault(str(self.path.relative_to(_ROOT)), node.lineno, kind, self.of(node), new, changed)


def _told(tree: ast.Module) -> set[ast.expr]:
    """What is only said: sentences, and what controls are called with beside their limits."""
    return {
        inside
        for node in ast.walk(tree)
        if isinstance(node, ast.JoinedStr)
        or (isinstance(node, ast.Call) and _name(node) in ("Literal", "lru_cache"))
        for inside in ast.walk(node)
        if isinstance(inside, ast.expr)
    }


def _name(call: ast.Call) -> str:
    return getattr(call.func, "id", getattr(call.func, "attr", ""))


def faults_in(path: Path) -> Iterator[Fault]:
    """Every fault that may be put into a file."""
    source = _Source(path)
    tree = ast.parse(source.text)
    told = _told(tree)
    for node in ast.walk(tree):
        if not isinstance(node, ast.expr) or node in told:
            continue
        match node:
            case ast.Compare(left=left, ops=[op], comparators=[right]):
                flipped = f"{source.of(left)} {_FLIPPED[type(op)]} {source.of(right)}"
                yield source.with_(node, "comparison flipped", f"({flipped})")
            case ast.Constant(value=bool()):
                continue
            # What only keeps a division or a logarithm from nothing moves no number.
            case ast.Constant(value=float(value)) if abs(value) > _GUARD:
                yield source.with_(node, "a tenth more", repr(1.1 * value))
            case ast.BinOp(left=left, op=ast.Add() | ast.Sub(), right=right):
                yield source.with_(node, "term dropped", source.of(left))
            case ast.BinOp(left=left, op=ast.Mult() | ast.Div(), right=right) if not isinstance(
                right, ast.Constant
            ):
                yield source.with_(node, "factor dropped", source.of(left))
            case ast.BoolOp(values=[first, _, *_]):
                yield source.with_(node, "condition dropped", source.of(first))
            case ast.Call(args=[ast.Name() as one, ast.Name() as other, *_]) if one.id != other.id:
                start, _ = source.span(one)
                _, end = source.span(other)
                data = source.text.encode()
                between = data[source.span(one)[1] : source.span(other)[0]].decode()
                changed = data[:start].decode() + other.id + between + one.id + data[end:].decode()
                yield Fault(
                    str(path.relative_to(_ROOT)), node.lineno, "arguments swapped", f"{one.id}, {other.id}",
                    f"{other.id}, {one.id}", changed,
                )  # fmt: skip


def _listed() -> Iterator[Fault]:
    for name, before, after in _LISTED:
        text = (_ROOT / name).read_text()
        assert text.count(before) == 1, f"{name} is not what it was: {before}"
        line = text[: text.index(before)].count("\n") + 1
        yield Fault(name, line, "listed", before, after, text.replace(before, after))


def chosen(count: int, seed: int) -> list[Fault]:
    """The listed faults, every limit of a verdict moved, and as many by chance, of every kind alike."""
    files = [path for folder in _CODE for path in sorted((_ROOT / folder).rglob("*.py"))]
    every = [fault for path in files for fault in faults_in(path)]
    verdicts = [one for one in every if _is_limit(one)]
    rest = [one for one in every if one not in verdicts]
    rng = Random(seed)
    rng.shuffle(rest)
    seen: Counter[str] = Counter()
    # Round by round one of every kind.
    ranked = sorted(((seen.update([one.kind]) or seen[one.kind]), n) for n, one in enumerate(rest))
    return [*_listed(), *verdicts, *(rest[n] for _, n in ranked[:count])]


def _is_limit(fault: Fault) -> bool:
    """Whether a fault moves a number that stands by itself at the head of a judge."""
    line = fault.text.splitlines()[fault.line - 1]
    return (
        "core/findings/" in fault.path
        and fault.kind == "a tenth more"
        and line[:1].isupper()
        and " = " in line
    )


class Notices:
    """Which tests pass through which line, how long each takes in s, and through how many files it goes."""

    def __init__(self, folder: Path) -> None:
        from coverage import CoverageData

        took = (line.split("\t") for line in (folder / "took").read_text().splitlines())
        self._took = {name: float(s) for s, name in took}
        self._beside: dict[str, list[str]] = {}
        for test in self._took:
            self._beside.setdefault(test.partition("::")[0], []).append(test)
        data = CoverageData(str(folder / ".coverage"))
        data.read()
        self._lines: dict[str, dict[int, set[str]]] = {}
        self._wide: Counter[str] = Counter()
        for name in data.measured_files():
            lines = {
                line: {one for test in tests if test for one in self._of(*test.rsplit("|", 1))}
                for line, tests in data.contexts_by_lineno(name).items()
            }
            self._lines[Path(name).relative_to(folder).as_posix()] = lines
            self._wide.update({test for tests in lines.values() for test in tests})

    def _of(self, test: str, phase: str) -> list[str]:
        """What is made ready for one test may be what others of its file look at."""
        return self._beside.get(test.partition("::")[0], []) if phase == "setup" else [test]

    def through(self, fault: Fault) -> list[str]:
        """Tests that pass through its lines, of two minutes in all: those first that compare with what is
        written down, then those that go through few other files. What is kept is worked out for one test
        only: so those that compare and pass through its file are tried with them. Where it stands in no
        function, or in what is compiled, all that pass through its file, and all that compare.
        """
        lines = self._lines.get(fault.path, {})
        last = fault.line + fault.before.count("\n")
        found = {test for n in range(fault.line, last + 1) for test in lines.get(n, ())}
        if not found:
            found = {test for tests in lines.values() for test in tests} | set(
                filter(_is_literal, self._took)
            )
        found |= {test for tests in lines.values() for test in tests if _is_literal(test)}
        left, out = _MOST_S, []

        def rank(name: str) -> tuple[bool, int, float, str]:
            return not _is_literal(name), self._wide[name], self._took.get(name, 0.0), name

        for name in sorted(found, key=rank):
            left -= self._took.get(name, 0.0)
            if left < 0:
                break
            out.append(name)
        return out


def _is_literal(test: str) -> bool:
    return any(name in test for name in _LITERAL)


def _run(folder: Path, tests: list[str], *more: str) -> subprocess.Popen[str]:
    return subprocess.Popen(
        [sys.executable, "-m", "pytest", "-q", "-p", "no:cacheprovider", *more, *tests], cwd=folder,
        env={**os.environ, "PYTHONPATH": str(folder)}, stdout=subprocess.PIPE, stderr=subprocess.STDOUT,
        text=True,
    )  # fmt: skip


def measured(folder: Path) -> Notices:
    """Run the tests once, and see where they pass."""
    cov = [f"--cov={code}" for code in _CODE]
    said, _ = _run(
        folder,
        list(_TESTS),
        "-n",
        "2",
        "-m",
        "not thorough",
        *cov,
        "--cov-context=test",
        "--cov-report=",
        "--durations=0",
        "--durations-min=0",
    ).communicate()
    took: dict[str, float] = {}
    for line in said.splitlines():
        words = line.split(maxsplit=2)
        if (
            len(words) == 3
            and words[1] in ("call", "setup")
            and words[0].endswith("s")
            and "::" in words[2]
        ):
            took[words[2]] = took.get(words[2], 0.0) + float(words[0][:-1])
    (folder / "took").write_text("\n".join(f"{s}\t{name}" for name, s in took.items()))
    return Notices(folder)


def noticed(folder: Path, fault: Fault, tests: list[str], at: float) -> bool:
    """Whether any of some tests fails, or takes far too long, with a fault in the code."""
    path = folder / fault.path
    before = path.read_text()
    try:
        path.write_text(fault.text)
        # Compiled code is kept by the second in which a file was written.
        os.utime(path, (at, at))
        process = _run(folder, tests, "-x", "-n", "0")
        try:
            process.communicate(timeout=3 * _MOST_S)
        except subprocess.TimeoutExpired:
            process.kill()
        return process.returncode not in (0, 5)
    finally:
        path.write_text(before)
        os.utime(path, (at + 1, at + 1))


def main(count: int = 150, seed: int = 1) -> None:
    """Print who notices."""
    with TemporaryDirectory() as name:
        folders: Queue[Path] = Queue()
        first = Path(name) / "0"
        for n in range(_WORKERS):
            folder = Path(name) / str(n)
            shutil.copytree(
                _ROOT, folder, ignore=shutil.ignore_patterns(".venv", ".git", "node_modules", ".setup")
            )
            folders.put(folder)
        where = measured(first)
        faults = chosen(count, seed)
        base = time.time() - 10 * len(faults) - 86_400

        def tried(n: int) -> bool:
            tests = where.through(faults[n])
            folder = folders.get()
            try:
                return bool(tests) and noticed(folder, faults[n], tests, base + 4 * n)
            finally:
                folders.put(folder)

        with ThreadPoolExecutor(_WORKERS) as pool:
            found = []
            for fault, seen in zip(faults, pool.map(tried, range(len(faults))), strict=True):
                found.append(seen)
                if not seen:
                    print(f"    not noticed: {fault}", flush=True)
    part(f"{len(faults)} small faults in the core and the store")
    figure(
        "noticed by the tests that run in two minutes",
        100 * sum(found) / len(found),
        "%",
        90,
        at_least=True,
    )
    for kind in sorted({fault.kind for fault in faults}):
        of = [seen for fault, seen in zip(faults, found, strict=True) if fault.kind == kind]
        figure(f"{kind}, {len(of)}", 100 * sum(of) / len(of), "%")
