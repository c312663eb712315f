"""Asks a service from many clients at once, kills its workers meanwhile, and looks at every answer.

    python tools/load_service.py --clients 200 --seconds 30 --kill-every 3

It starts the service itself, with two workers, on the demo's shelf. Each order has a number of its own, which its file
has to show. Anything but the right file, or 503 with Retry-After, is told and ends with status 1.
"""

from __future__ import annotations

import argparse
import asyncio
import json
import os
import random
import re
import signal
import subprocess
import sys
from collections import Counter
from contextlib import suppress
from pathlib import Path
from time import perf_counter
from typing import Final, NamedTuple

import httpx2
import psutil

import fleetquill as fq
from fleetquill.serve.plain import plain

SHELF: Final = Path(fq.__file__).parent / "demo" / "shelf"
KINDS: Final = ("pdf", "txt", "txt", "txt", "csv")  # text is quick to look at
MB: Final = 1e6


class Load:
    """The clients, and what they were answered."""

    def __init__(self, address: str, seconds: float) -> None:
        self._address = address
        self._seconds = seconds
        self._sample = plain(fq.Shelf(SHELF)["invoice"].sample)
        self._begun = perf_counter()
        self.answers: Counter[str] = Counter()
        self.took: list[float] = []
        self.wrong: list[str] = []

    async def run(self, clients: int) -> None:
        limits = httpx2.Limits(max_connections=clients, max_keepalive_connections=clients)
        async with httpx2.AsyncClient(limits=limits, timeout=60.0) as client:
            await asyncio.gather(*(self._client(client, number) for number in range(clients)))

    async def _client(self, client: httpx2.AsyncClient, number: int) -> None:
        turn = 0
        while perf_counter() - self._begun < self._seconds:
            turn += 1
            name, kind = f"F-{number}-{turn}", random.choice(KINDS)
            start = perf_counter()
            content = json.dumps(self._sample | {"number": name}).encode()
            answer = await client.post(
                f"{self._address}documents/invoice?kind={kind}&name={{number}}", content=content,
                headers={"Content-Type": "application/json"},
            )  # fmt: skip
            self.answers[f"{answer.status_code}"] += 1
            if answer.status_code == 503 and "retry-after" in answer.headers:
                await asyncio.sleep(float(answer.headers["retry-after"]) * random.random())
                continue
            self.took.append(perf_counter() - start)
            self._look(name, kind, answer)

    def _look(self, name: str, kind: str, answer: httpx2.Response) -> None:
        if answer.status_code != 200:
            self.wrong.append(f"{name}.{kind}: {answer.status_code} {answer.text[:200]}")
            return
        if f'"{name}.{kind}"' not in answer.headers["content-disposition"]:
            self.wrong.append(f"{name}.{kind}: {answer.headers['content-disposition']}")
        if kind == "csv":
            right = "Stonecross" in answer.text
        else:
            text = answer.text if kind == "txt" else fq.Volume(answer.content).pages[0].text
            right = re.search(rf"{name}(?!\d)", text) is not None
        if not right:
            self.wrong.append(f"{name}.{kind}: it is another's")


class Done(NamedTuple):
    """What came of it; the memory in MB after so many documents."""

    load: Load
    killed: int
    memory: list[tuple[int, float]]


async def _kill(service: int, every: float, killed: list[int]) -> None:
    """Kills a worker, now and then."""
    while every:
        await asyncio.sleep(every)
        workers = [one for one in psutil.Process(service).children() if "spawn_main" in " ".join(one.cmdline())]
        if workers:
            victim = random.choice(workers)
            with suppress(psutil.Error):
                os.kill(victim.pid, signal.SIGKILL)
                killed.append(victim.pid)


async def _watch(service: int, load: Load, seen: list[tuple[int, float]]) -> None:
    """The memory of the whole, by the documents that it has made."""
    while True:
        with suppress(psutil.Error):
            seen.append((len(load.took), _memory(service)))
        await asyncio.sleep(1.0)


async def _all(address: str, service: int, clients: int, seconds: float, every: float) -> Done:
    load, killed, memory = Load(address, seconds), list[int](), list[tuple[int, float]]()
    besides = [asyncio.create_task(_kill(service, every, killed)), asyncio.create_task(_watch(service, load, memory))]
    await load.run(clients)
    for one in besides:
        one.cancel()
    return Done(load, len(killed), memory)


def _memory(service: int) -> float:
    """Megabytes of the whole: the service and its workers."""
    own = psutil.Process(service)
    return float(sum(one.memory_info().rss for one in [own, *own.children(recursive=True)])) / MB


def measure(clients: int, seconds: float, every: float, workers: int) -> Done:
    """Starts a service, and asks it; a worker is killed `every` so many seconds."""
    command = [sys.executable, "-m", "fleetquill", "serve", str(SHELF), "--port", "0", "--workers", str(workers)]
    with subprocess.Popen(command, stdout=subprocess.PIPE, text=True) as service:
        assert service.stdout is not None
        address = service.stdout.readline().rsplit(" ", 1)[1].strip()
        for _ in range(200):
            with suppress(httpx2.HTTPError):
                httpx2.get(f"{address}health")
                break
        done = asyncio.run(_all(address, service.pid, clients, seconds, every))
        service.terminate()
    return done


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--clients", type=int, default=200)
    parser.add_argument("--seconds", type=float, default=30.0)
    parser.add_argument("--kill-every", type=float, default=3.0)
    parser.add_argument("--workers", type=int, default=2)
    asked = parser.parse_args()
    load, killed, memory = measure(asked.clients, asked.seconds, asked.kill_every, asked.workers)
    took = sorted(load.took)
    print(f"answers {dict(load.answers)}, {killed} workers killed, {len(load.wrong)} wrong")
    middle, most = took[len(took) // 2], took[-1]
    print(f"{len(took) / asked.seconds:.1f} documents a second; half within {middle:.2f} s, all within {most:.2f} s")
    step = max(1, len(memory) // 8)
    print("memory of the whole:", ", ".join(f"{mb:.0f} MB after {count:,}" for count, mb in memory[::step]))
    for one in load.wrong[:20]:
        print(one)
    sys.exit(bool(load.wrong))


if __name__ == "__main__":
    main()
