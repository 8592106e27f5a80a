"""How far the ear trainer has come, by skill."""

import sqlite3


def everything(db: sqlite3.Connection) -> dict[str, str]:
    """What is kept of every skill, as JSON."""
    return {row["skill"]: row["body"] for row in db.execute("SELECT skill, body FROM ear")}


def keep(db: sqlite3.Connection, skill: str, body: str) -> None:
    """What is kept of a skill from now on."""
    db.execute(
        "INSERT INTO ear (skill, body) VALUES (?, ?) "
        "ON CONFLICT (skill) DO UPDATE SET body = excluded.body",
        (skill, body),
    )


def forget(db: sqlite3.Connection, skill: str) -> None:
    """Begin a skill again."""
    db.execute("DELETE FROM ear WHERE skill = ?", (skill,))
