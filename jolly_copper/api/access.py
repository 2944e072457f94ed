"""Who may do what, when the program is opened to the club's network: the lead changes things, helpers log work.

Nobody else gets in. On the machine itself one is the lead without asking. The line is not encrypted: it is meant for
a club's own network, and the passphrases for this program only.
"""

from __future__ import annotations

import hashlib
import hmac
import re
import secrets
import time
from collections import defaultdict
from dataclasses import dataclass, field
from typing import Annotated, Any, Literal

from fastapi import APIRouter, FastAPI, HTTPException, Request, Response
from fastapi.responses import JSONResponse
from pydantic import BaseModel, StringConstraints

from jolly_copper.api import shapes

Role = Literal["lead", "helper"]
COOKIE = "copper-role"
HERE = frozenset({"127.0.0.1", "::1"})
HERE_NAMES = frozenset({"127.0.0.1", "localhost", "[::1]"})
HELPERS_WRITE = re.compile(r"^/api/layouts/[^/]+/(work|moment|moment/drive)$")
"""What a helper may send: work done, and questions about trains on the plan, which change nothing."""
TRIES, WITHIN_S = 6, 60.0
KEPT_S = 30 * 24 * 3600
WORDS = [
    "anchor",
    "amber",
    "badge",
    "barrel",
    "beacon",
    "bellow",
    "birch",
    "bracket",
    "brick",
    "bridge",
    "bucket",
    "canvas",
    "cedar",
    "chalk",
    "cinder",
    "copper",
    "coral",
    "cradle",
    "crane",
    "crimson",
    "damson",
    "drift",
    "ember",
    "fathom",
    "ferry",
    "fiddle",
    "flint",
    "furrow",
    "garnet",
    "gravel",
    "hammer",
    "harbor",
    "hazel",
    "heron",
    "hinge",
    "island",
    "jasper",
    "kettle",
    "ladder",
    "lantern",
    "linden",
    "lobster",
    "maple",
    "marble",
    "meadow",
    "mortar",
    "nettle",
    "oatmeal",
    "orchard",
    "otter",
    "pebble",
    "pepper",
    "pigeon",
    "plaster",
    "poplar",
    "quarry",
    "rafter",
    "raven",
    "ribbon",
    "saddle",
    "shingle",
    "siding",
    "sparrow",
    "spindle",
    "thimble",
    "timber",
    "trestle",
    "tulip",
    "velvet",
    "walnut",
    "willow",
    "window",
    "yarrow",
]


@dataclass(frozen=True)
class Access:
    """The two passphrases, and the key that signs who came in; a new key with every start."""

    lead: str
    helper: str
    key: bytes = field(default_factory=lambda: secrets.token_bytes(32))

    def role_of(self, phrase: str) -> Role | None:
        """Whose passphrase this is; case and spaces do not matter."""
        said = _plain(phrase)
        if hmac.compare_digest(said, _plain(self.lead)):
            return "lead"
        return "helper" if hmac.compare_digest(said, _plain(self.helper)) else None

    def ticket(self, role: Role) -> str:
        """What is kept in the browser."""
        return f"{role}.{hmac.new(self.key, role.encode(), hashlib.sha256).hexdigest()}"

    def read(self, ticket: str | None) -> Role | None:
        """Whose ticket this is; None where it was not signed here."""
        for role in ("lead", "helper"):
            if ticket is not None and hmac.compare_digest(ticket.encode(), self.ticket(role).encode()):
                return role
        return None


def _plain(phrase: str) -> bytes:
    return " ".join(phrase.lower().replace("-", " ").split()).encode()


def new_phrase(words: int) -> str:
    """A passphrase one can read out across a room."""
    return "-".join(secrets.choice(WORDS) for _ in range(words))


class Phrase(BaseModel):
    phrase: Annotated[str, StringConstraints(max_length=200)]


class Entered(BaseModel):
    role: Role


router = APIRouter(prefix="/api")


def _is_here(request: Request) -> bool:
    """Whether the call comes from this machine and means it: a foreign page's own name for us does not count."""
    name = re.sub(r":\d+$", "", request.headers.get("host", ""))
    return request.client is not None and request.client.host in HERE and name in HERE_NAMES


@router.post("/enter")
def enter(said: Phrase, request: Request, response: Response) -> Entered:
    """Come in with a passphrase. After some wrong ones it waits a minute."""
    access: Access | None = request.app.state.access
    if access is None:
        return Entered(role="lead")
    tries: dict[str, list[float]] = request.app.state.tries
    caller = request.client.host if request.client else "unknown"
    recent = [t for t in tries[caller] if time.monotonic() - t < WITHIN_S]
    if len(recent) >= TRIES:
        raise HTTPException(429, "Too many tries. Wait a minute, and ask the lead.")
    role = access.role_of(said.phrase)
    if role is None:
        tries[caller] = [*recent, time.monotonic()]
        raise HTTPException(403, "That is not the passphrase.")
    response.set_cookie(COOKIE, access.ticket(role), max_age=KEPT_S, httponly=True, samesite="strict")
    return Entered(role=role)


def guard(app: FastAPI, access: Access) -> None:
    """Lets in only who has a ticket, and helpers only to read and to log work."""
    app.state.tries = defaultdict(list)

    @app.middleware("http")
    async def who_comes(request: Request, call_next: Any) -> Response:
        role = "lead" if _is_here(request) else access.read(request.cookies.get(COOKIE))
        path = request.url.path
        if path.startswith("/api/") and path != "/api/enter":
            if role is None:
                return _no(401, "The club’s passphrase is wanted first.")
            if role == "helper" and request.method not in ("GET", "HEAD") and not HELPERS_WRITE.match(path):
                return _no(403, "Helpers read and log work; changes to the layout are the lead’s.")
        answer: Response = await call_next(request)
        return answer


def _no(status: int, words: str) -> JSONResponse:
    return JSONResponse(shapes.Trouble(message=words).model_dump(mode="json"), status_code=status)
