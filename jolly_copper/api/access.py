"""Who may do what, when the program is opened to the club's network: the lead changes things, helpers log work.

Nobody else gets in. On the machine itself one is the lead without asking. Each person has a ticket of their own, which
the lead may take back.
"""

from __future__ import annotations

import math
import re
from dataclasses import dataclass, field
from typing import Annotated, Any, Literal

from fastapi import APIRouter, HTTPException, Request, Response
from pydantic import BaseModel, StringConstraints

from jolly_copper.api.doorway import HERE, Doorway
from jolly_copper.api.mother import INSIDE, Application, Scope
from jolly_copper.api.passphrases import Tries, same
from jolly_copper.api.rim import OWN_NAMES, say
from jolly_copper.api.who import with_name
from jolly_copper.exchange.qr import qr_svg
from jolly_copper.store.people import People, Role

COOKIE = "copper-ticket"
HELPERS_WRITE = re.compile(
    r"^/api/layouts/[^/]+/(work|shows|notes|moment|moment/drive|readings|hunts|hunts/[\w-]+/(answers|end)|drill|"
    r"stand-in|rehearse|rehearse/(plan|check|proof|evenings|why))$"
)
"""What a helper may send: work done, what was tried at a show, readings and hunts, and questions about trains on the
plan: no design."""
LEADS_READ = re.compile(r"^/api/(people|door|club)\b")
"""What only the lead may see."""
KEPT_S = 400 * 24 * 3600


@dataclass(frozen=True)
class Access:
    """The two passphrases, and who came in with them.

    address: where the helpers' page is, for a person to type; encrypted: whether the line is.
    """

    lead: str
    helper: str
    people: People = field(default_factory=People)
    tries: Tries = field(default_factory=Tries)
    address: str = ""
    encrypted: bool = False

    def role_of(self, phrase: str) -> Role | None:
        """Whose passphrase this is; case and spaces do not matter."""
        lead, helper = same(phrase, self.lead), same(phrase, self.helper)
        return "lead" if lead else "helper" if helper else None


class Phrase(BaseModel):
    phrase: Annotated[str, StringConstraints(max_length=200)]
    name: Annotated[str, StringConstraints(max_length=40, strip_whitespace=True)] = ""


class Entered(BaseModel):
    role: Literal["lead", "helper"]


class PersonShape(BaseModel):
    number: int
    name: str
    role: Literal["lead", "helper"]
    made: str
    seen: str


class Door(BaseModel):
    """Whether and how helpers come in: the address, also as a picture to point a phone at, and their passphrase."""

    shared: bool
    address: str = ""
    picture: str = ""
    phrase: str = ""
    encrypted: bool = False
    people: list[PersonShape] = []


router = APIRouter(prefix="/api")


def is_here(request: Request) -> bool:
    """Whether the call comes from this machine and means it: a foreign page's own name for us does not count."""
    name = re.sub(r":\d+$", "", request.headers.get("host", ""))
    return request.client is not None and request.client.host in HERE and name in OWN_NAMES


def _access(request: Request) -> Access | None:
    return request.app.state.access  # type: ignore[no-any-return]


@router.post("/enter")
def enter(said: Phrase, request: Request, response: Response) -> Entered:
    """Come in with a passphrase. After some wrong ones each further one wants a longer wait."""
    access = _access(request)
    if access is None or is_here(request):
        return Entered(role="lead")
    caller = request.client.host if request.client else "unknown"
    wait = access.tries.wait(caller)
    if wait > 0:
        words = f"Too many wrong ones. Wait {math.ceil(wait)} s, and ask the lead."
        raise HTTPException(429, words, headers={"Retry-After": str(math.ceil(wait))})
    role = access.role_of(said.phrase)
    if role is None:
        access.tries.wrong(caller)
        raise HTTPException(403, "That is not the passphrase.")
    access.tries.right(caller)
    ticket = access.people.let_in(said.name or "somebody", role)
    response.set_cookie(COOKIE, ticket, max_age=KEPT_S, httponly=True, samesite="strict", secure=access.encrypted)
    return Entered(role=role)


@router.get("/door")
def door(request: Request) -> Door:
    """What the lead shows or tells a helper, and who is in."""
    access = _access(request)
    if access is None:
        return Door(shared=False)
    people = [
        PersonShape(number=p.number, name=p.name, role=p.role, made=p.made, seen=p.seen)
        for p in access.people.everyone()
    ]
    return Door(
        shared=True,
        address=access.address,
        picture=qr_svg(access.address) if access.address else "",
        phrase=access.helper,
        encrypted=access.encrypted,
        people=people,
    )


@router.delete("/people/{number}", status_code=204)
def send_out(number: int, request: Request) -> Response:
    """Take somebody's ticket back: the passphrase is wanted of them again."""
    access = _access(request)
    if access is None or not 0 < number < 2**62:
        raise HTTPException(404, "That person is not in any more.")
    access.people.send_out(number)
    return Response(status_code=204)


class Guard:
    """ASGI middleware: lets in only who has a ticket, and helpers only to read and to log work.

    Args:
        app: what is inside.
        access: who may come in.
    """

    def __init__(self, app: Application, access: Access) -> None:
        self._application, self._access = app, access

    async def __call__(self, scope: Scope, receive: Any, send: Any) -> None:
        path = scope.get("path", "")
        if path.startswith("/api/") and path != "/api/enter" and INSIDE not in scope.get("extensions", {}):
            request = Request(scope)
            person = self._access.people.read(request.cookies.get(COOKIE))
            role = "lead" if is_here(request) else person.role if person is not None else None
            if role is None:
                await say(send, 401, "The club’s passphrase is wanted first.")
                return
            Doorway.doors.prove(scope.get("client"))
            reads = scope["method"] in ("GET", "HEAD")
            if role == "helper" and not (HELPERS_WRITE.match(path) if not reads else not LEADS_READ.match(path)):
                await say(send, 403, "Helpers read and log work; changes to the layout are the lead’s.")
                return
            if person is not None:
                scope = with_name(scope, person.name)
        await self._application(scope, receive, send)
