"""Strangers on the club's network: half-open connections and wrong passphrases. The lead always gets in."""

from __future__ import annotations

import socket
import threading
import time
from contextlib import suppress
from pathlib import Path

from jolly_copper.serving import own_address
from tools.served import Served
from tools.soak.found import Found

LEAD_S = 1.0


def strangers(folder: Path, connections: int, seconds: float) -> Found:
    """Hold so many connections half open for so long, and try passphrases meanwhile."""
    found = Found(
        f"strangers with {connections} half-open connections", f"the lead is answered within {LEAD_S:.0f} s, always"
    )
    address = own_address()
    phrases = ("--lead-phrase", "the lead of the line", "--helper-phrase", "a helper at hand")
    with Served(folder / "strangers.sqlite3", "--share", *phrases) as program:
        program.more(4)
        held: list[socket.socket] = []
        done = threading.Event()

        def hold() -> None:
            while not done.is_set():
                while len(held) < connections and not done.is_set():
                    with suppress(OSError):
                        one = socket.create_connection((address, program.port), timeout=2)
                        one.sendall(b"POST /api/enter HTTP/1.1\r\nHost: club\r\nContent-Ty")
                        held.append(one)
                for one in held[:]:
                    with suppress(OSError):
                        one.setblocking(False)
                        try:
                            if one.recv(1) == b"":
                                held.remove(one)
                        except BlockingIOError:
                            pass
                        except OSError:
                            held.remove(one)
                time.sleep(0.05)

        tried = waited = 0
        lead = [0.0]
        with program.client() as mine:
            here = f"{program.url.split('//')[0]}//{address}:{program.port}"
            with program.client() as guesser:
                for tried in range(1, 13):
                    said = guesser.post(f"{here}/api/enter", json={"phrase": f"guess {tried}", "name": "x"})
                    waited += said.status_code == 429
                    if said.status_code == 200:
                        found.wrong.append("a guess came in")
            stranger = threading.Thread(target=hold, daemon=True)
            stranger.start()
            until = time.monotonic() + seconds
            while time.monotonic() < until:
                begun = time.monotonic()
                got = mine.get("/api/layouts")
                lead.append(time.monotonic() - begun)
                if got.status_code != 200:
                    found.wrong.append(f"the lead got {got.status_code}")
                time.sleep(0.05)
            if mine.post("/api/enter", json={"phrase": "nonsense"}).json().get("role") != "lead":
                found.wrong.append("the lead's own machine was locked out")
        done.set()
        stranger.join(5)
        for one in held:
            one.close()
    if max(lead) > LEAD_S:
        found.wrong.append(f"the lead waited {max(lead):.2f} s")
    if tried > 8 and not waited:
        found.wrong.append("guessing was not slowed down")
    found.measured = (
        f"{len(lead) - 1} asks of the lead, {max(lead):.2f} s at most; {tried} guesses, {waited} told to wait"
    )
    return found
