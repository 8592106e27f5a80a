"""Waiting for the server's jobs."""

import time
from typing import Any

from fastapi.testclient import TestClient


def followed(client: TestClient, job: dict[str, Any]) -> list[dict[str, Any]]:
    """What is told of a job until it has ended."""
    told = []
    for _ in range(1200):
        told += [one for one in client.get("/api/jobs").json() if one["id"] == job["id"]]
        if told[-1]["state"] not in ("running", "waiting"):
            return told
        time.sleep(0.05)
    raise AssertionError(f"the job does not end: {told[-1]}")


def ended(client: TestClient, job: dict[str, Any]) -> dict[str, Any]:
    """What is told of a job when it has ended."""
    return followed(client, job)[-1]
