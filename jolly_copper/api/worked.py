"""What one program has worked out lately, kept by revision: facts, the wire book, signalling."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable
from threading import Event, Lock
from typing import TypeVar

from jolly_copper.core.circuits.facts import Facts, derive
from jolly_copper.core.findings.check import check
from jolly_copper.core.findings.model import Finding
from jolly_copper.core.layout.checking import Problem
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.reading import LayoutError
from jolly_copper.core.proving.bench import Bench
from jolly_copper.core.signals.aspects import Signalling, signalling_of
from jolly_copper.core.wirebook.worked import Worked as WireBook
from jolly_copper.store import Revision

T = TypeVar("T")
KEPT_BYTES = 90_000_000
"""Of facts, wire books, findings and signalling together."""
KEPT_IN_A_CHILD = 45_000_000


class Worked:
    """Facts of recent revisions, so that a click does not derive them again.

    Kept by the mark of the document, so that what was worked out before a change was kept serves afterwards.
    """

    def __init__(self, most: int | None = None) -> None:
        self._most = most
        self._kept: OrderedDict[tuple[str, str, str | None], tuple[object, int]] = OrderedDict()
        self._at_work: dict[tuple[str, str, str | None], Event] = {}
        self._lock = Lock()

    def prove(self, layout: Layout, mark: str, scene: str | None = None) -> None:
        """Work a layout out before it is kept: what is saved computes. In its first scene, and in another one that will
        be asked for.

        Raises:
            LayoutError: it cannot be worked out.
        """
        first = next(iter(layout.scenes), None)
        try:
            for s in dict.fromkeys((first, scene if scene in layout.scenes else first)):
                self._answer(("facts", mark, s), lambda s=s: derive(layout, s))  # type: ignore[misc]
        except (MemoryError, RecursionError, ArithmeticError, ValueError) as error:
            words = f"This cannot be worked out ({type(error).__name__}), so it is not saved."
            raise LayoutError([Problem("", words)]) from None

    def wirebook(self, revision: Revision, scene: str | None) -> WireBook:
        """What the wire book and the phone view draw on, kept too: phones ask again and again."""
        return self.once("wirebook", revision, scene, WireBook)

    def signalling(self, revision: Revision, facts: Facts) -> Signalling:
        """The signals of a revision with all their routes, kept: a train that is driven asks at every step."""
        return self._answer(("signalling", revision.mark, None), lambda: signalling_of(facts))

    def facts(self, revision: Revision, scene: str | None) -> Facts:
        """The facts of a revision in a scene."""
        return self._answer(("facts", revision.mark, scene), lambda: derive(revision.layout, scene))

    def findings(self, revision: Revision, scene: str | None) -> list[Finding]:
        """What every rule has to say of a revision in a scene."""
        return self.once("findings", revision, scene, check)

    def bench(self, revision: Revision, scene: str | None) -> Bench:
        """The bench of a revision: its copper solved, kept too, since every reading and every answer asks for it."""

        def solved(facts: Facts) -> Bench:
            made = Bench(facts)
            _ = made.dc, made.ac  # so that it weighs what it will
            return made

        return self.once("bench", revision, scene, solved)

    def once(
        self,
        what: str,
        revision: Revision,
        scene: str | None,
        work: Callable[[Facts], T],
        whole: Callable[[], bool] = lambda: True,
    ) -> T:
        """Something small worked out of the facts, once for all who ask: many look at one layout at a time.

        Args:
            what: its name, with all it depends on besides the document and the scene.
            revision: the document.
            scene: the scene.
            work: how it is worked out.
            whole: asked afterwards; False where it was given up on the way, so that it is not kept.
        """
        return self._answer((what, revision.mark, scene), lambda: work(self.facts(revision, scene)), whole)

    def _answer(
        self, key: tuple[str, str, str | None], work: Callable[[], T], whole: Callable[[], bool] = lambda: True
    ) -> T:
        while True:
            with self._lock:
                if key in self._kept:
                    self._kept.move_to_end(key)
                    return self._kept[key][0]  # type: ignore[return-value]
                others = self._at_work.get(key)
                if others is None:
                    ended = self._at_work[key] = Event()
                    break
            others.wait()  # two that work out the same beside each other are both slower than one
        try:
            found = work()
            if whole():
                self._keep(key, found)
            return found
        finally:
            with self._lock:
                del self._at_work[key]
            ended.set()

    def _keep(self, key: tuple[str, str, str | None], found: object) -> None:
        weight = _weight(found)
        with self._lock:
            self._kept[key] = (found, weight)
            total = sum(w for _, w in self._kept.values())
            while len(self._kept) > 1 and total > (self._most or KEPT_BYTES):
                total -= self._kept.popitem(last=False)[1][1]


def _weight(found: object) -> int:
    """Bytes that something worked out takes, about."""
    if isinstance(found, Facts):
        things = len(found.points) * 200 + len(found.network.elements) * 900 + len(found.layout.tracks) * 4000
        matrices = sum(
            p.worked.transfer.nbytes + p.worked.inductance.nbytes + p.worked.near.nbytes + p.island.resistance.nbytes
            for p in found.parts
        )
        return 2 * things + matrices
    if isinstance(found, Bench):
        cells = sum(g.share.nbytes for c in (found.dc, found.ac) for g in c.grounds)
        inverses = sum(g.island.resistance.nbytes for c in (found.dc, found.ac) for g in c.grounds)
        return 3 * cells + inverses + 4_000_000
    if isinstance(found, list):  # findings and what-ifs with their sentences, 3.1 to 3.8 kB each in the demos
        return 20_000 + 4_000 * len(found)
    return 1_000_000
