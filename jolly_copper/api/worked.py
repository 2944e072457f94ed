"""What one program has worked out lately, kept by revision: facts, the wire book, signalling."""

from __future__ import annotations

from collections import OrderedDict
from threading import Lock

from jolly_copper.core.circuits.facts import Facts, derive
from jolly_copper.core.signals.aspects import Signalling, signalling_of
from jolly_copper.core.wirebook.worked import Worked as WireBook
from jolly_copper.store import Revision


class Worked:
    """Facts of recent revisions, so that a click does not derive them again."""

    def __init__(self) -> None:
        self._facts: OrderedDict[tuple[str, int, str | None], Facts] = OrderedDict()
        self._signalling: OrderedDict[tuple[str, int], Signalling] = OrderedDict()
        self._wirebooks: OrderedDict[tuple[str, int, str | None], WireBook] = OrderedDict()
        self._lock = Lock()

    def wirebook(self, revision: Revision, scene: str | None) -> WireBook:
        """What the wire book and the phone view draw on, kept too: phones ask again and again."""
        key = (revision.layout_id, revision.number, scene)
        with self._lock:
            kept = self._wirebooks.get(key)
        if kept is None:
            kept = WireBook(self.facts(revision, scene))
            with self._lock:
                self._wirebooks[key] = kept
                while len(self._wirebooks) > 4:
                    self._wirebooks.popitem(last=False)
        return kept

    def signalling(self, revision: Revision, facts: Facts) -> Signalling:
        """The signals of a revision with all their routes, kept: a train that is driven asks at every step."""
        key = (revision.layout_id, revision.number)
        with self._lock:
            kept = self._signalling.get(key)
        if kept is None:
            kept = signalling_of(facts)
            with self._lock:
                self._signalling[key] = kept
                while len(self._signalling) > 4:
                    self._signalling.popitem(last=False)
        return kept

    def facts(self, revision: Revision, scene: str | None) -> Facts:
        key = (revision.layout_id, revision.number, scene)
        with self._lock:
            if key in self._facts:
                self._facts.move_to_end(key)
                return self._facts[key]
        found = derive(revision.layout, scene)
        with self._lock:
            self._facts[key] = found
            while len(self._facts) > 8:
                self._facts.popitem(last=False)
        return found
