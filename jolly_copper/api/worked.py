"""What one program has worked out lately, kept by revision: facts, the wire book, signalling."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable
from threading import Lock
from typing import TypeVar

from jolly_copper.core.circuits.facts import Facts, derive
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.reading import LayoutError, Problem
from jolly_copper.core.signals.aspects import Signalling, signalling_of
from jolly_copper.core.wirebook.worked import Worked as WireBook
from jolly_copper.store import Revision

T = TypeVar("T")
KEPT_BYTES = 48_000_000
"""Of facts, wire books and signalling together."""
WEIGHS = 3.0
"""What is worked out of a layout takes about so many times the arrays in it."""


class Worked:
    """Facts of recent revisions, so that a click does not derive them again.

    Kept by the mark of the document, so that what was worked out before a change was kept serves afterwards.
    """

    def __init__(self) -> None:
        self._kept: OrderedDict[tuple[str, str, str | None], tuple[object, int]] = OrderedDict()
        self._lock = Lock()

    def prove(self, layout: Layout, mark: str) -> None:
        """Work a layout out before it is kept: what is saved computes.

        Raises:
            LayoutError: it cannot be worked out.
        """
        scene = next(iter(layout.scenes), None)
        try:
            self._answer(("facts", mark, scene), lambda: derive(layout, scene))
        except (MemoryError, RecursionError, ArithmeticError, ValueError) as error:
            words = f"This cannot be worked out ({type(error).__name__}), so it is not saved."
            raise LayoutError([Problem("", words)]) from None

    def wirebook(self, revision: Revision, scene: str | None) -> WireBook:
        """What the wire book and the phone view draw on, kept too: phones ask again and again."""
        return self._answer(("wirebook", revision.mark, scene), lambda: WireBook(self.facts(revision, scene)))

    def signalling(self, revision: Revision, facts: Facts) -> Signalling:
        """The signals of a revision with all their routes, kept: a train that is driven asks at every step."""
        return self._answer(("signalling", revision.mark, None), lambda: signalling_of(facts))

    def facts(self, revision: Revision, scene: str | None) -> Facts:
        """The facts of a revision in a scene."""
        return self._answer(("facts", revision.mark, scene), lambda: derive(revision.layout, scene))

    def _answer(self, key: tuple[str, str, str | None], work: Callable[[], T]) -> T:
        with self._lock:
            if key in self._kept:
                self._kept.move_to_end(key)
                return self._kept[key][0]  # type: ignore[return-value]
        found = work()
        weight = _weight(found)
        with self._lock:
            self._kept[key] = (found, weight)
            total = sum(w for _, w in self._kept.values())
            while len(self._kept) > 1 and total > KEPT_BYTES:
                total -= self._kept.popitem(last=False)[1][1]
        return found


def _weight(found: object) -> int:
    """Bytes that something worked out takes, about. The matrices of its parts are counted where they are remembered."""
    facts = found if isinstance(found, Facts) else getattr(found, "facts", None)
    if not isinstance(facts, Facts):
        return 2_000_000
    things = len(facts.points) * 200 + len(facts.network.elements) * 900 + len(facts.layout.tracks) * 4000
    return int(WEIGHS * things)
