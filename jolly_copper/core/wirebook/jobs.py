"""Change orders: what two revisions of a layout differ by, as work for hands and tools."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable

from jolly_copper.core.circuits.lengths import point_on_run, point_on_track, terminal_point
from jolly_copper.core.layout.benchwork import board_at
from jolly_copper.core.layout.connections import CONDUCTORS, tied_at
from jolly_copper.core.layout.control import rails_cut
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.ids import natural
from jolly_copper.core.layout.wiring import Feeder
from jolly_copper.core.quantities import print_length
from jolly_copper.core.rails.pieces import RailMap, map_rails
from jolly_copper.core.rails.zones import circuit_of_feeder
from jolly_copper.core.wirebook.control_jobs import (
    SAME_LENGTH_MM,
    JobKind,
    cable_jobs,
    control_boards,
    same_piece,
    signal_jobs,
)
from jolly_copper.core.wirebook.job import MINUTES, Job, _by_run, _chain, _lay_words, _wears
from jolly_copper.core.wirebook.pieces import feeder_colours
from jolly_copper.core.wirebook.places import on_track, rail_of


def find_jobs(before: Layout, after: Layout) -> list[Job]:
    """Every job that makes the one layout out of the other; track that was drawn anew is taken as laid already."""
    return _Jobs(before, after).all()


class _Jobs:
    def __init__(self, before: Layout, after: Layout) -> None:
        self.before, self.after = before, after
        self.units = after.brief.units
        self.rails: RailMap = map_rails(after)
        self.jobs: list[Job] = []
        self.of: dict[tuple[str, str], list[str]] = defaultdict(list)
        self.gone = {
            m: set(getattr(before, m)) - set(getattr(after, m))
            for m in ("runs", "terminals", "feeders", "devices", "plugs", "gaps", "loads")
        }

    def all(self) -> list[Job]:
        for job in control_boards(self.before, self.after):
            self._job(*job)
        self._devices()
        self._terminals()
        self._plugs()
        self._runs()
        self._gaps()
        self._feeders()
        self._loads()
        for job in (*signal_jobs(self.before, self.after), *cable_jobs(self.before, self.after)):
            self._job(*job)
        return [self._with_needs(job) for job in self.jobs]

    def _job(
        self,
        kind: JobKind,
        thing: str,
        i: str,
        label: str,
        words: str,
        board: str | None,
        puts: Iterable[tuple[str, str]] = (),
        zone: int | None = None,
        minutes: float | None = None,
    ) -> None:
        key = f"{kind} {thing}:{i}"
        entries = tuple(puts)
        took = MINUTES.get((thing, kind), 3.0) if minutes is None else minutes
        self.jobs.append(Job(key, kind, thing, label, words, board, took, entries, frozenset(), zone))
        for entry in entries:
            self.of[entry].append(key)

    def _with_needs(self, job: Job) -> Job:
        """What must stand before: what a new wire hangs on; and before something goes, all that hung on it is off."""
        needs: set[str] = set()
        if job.kind == "take away":
            for entry in job.puts:
                needs.update(self._hung_on(*entry))
        else:
            for entry in job.puts:
                for other in self._hangs_on(*entry):
                    needs.update(k for k in self.of[other] if not k.startswith("take away"))
        return Job(
            job.key,
            job.kind,
            job.thing,
            job.label,
            job.words,
            job.board,
            job.minutes,
            job.puts,
            frozenset(needs - {job.key}),
            job.zone,
        )

    def _hangs_on(self, kind: str, i: str) -> list[tuple[str, str]]:
        after = self.after
        if kind == "feeders" and i in after.feeders:
            tied = {tied_at(after, after.feeders[i], c) for c in CONDUCTORS}
            return [x for t in sorted(tied) for x in (("terminals", t), ("runs", after.terminals[t].run))]
        if kind == "loads" and i in after.loads and after.loads[i].terminal:
            terminal = str(after.loads[i].terminal)
            return [("terminals", terminal), ("runs", after.terminals[terminal].run)]
        if kind == "runs" and i in after.runs:
            run = after.runs[i]
            found: list[tuple[str, str]] = [("devices", d) for d in (run.fed.device, run.ends_at_device) if d]
            for t in (run.fed.terminal, run.ends_at_terminal):
                if t:
                    found += [("terminals", t), ("runs", after.terminals[t].run)]
            found += [("plugs", k) for k, p in after.plugs.items() if p.run == i]
            return [f for f in found if f != ("runs", i)]
        return []

    def _hung_on(self, kind: str, i: str) -> list[str]:
        """Jobs that take off what hung on a thing that goes."""
        before = self.before
        things: list[tuple[str, str]] = []
        if kind == "terminals":
            things += [("feeders", k) for k, f in before.feeders.items() if i in (f.terminal, f.other)]
            things += [("loads", k) for k, x in before.loads.items() if x.terminal == i]
            things += [("runs", k) for k, r in before.runs.items() if i in (r.fed.terminal, r.ends_at_terminal)]
        elif kind == "runs":
            for k, t in before.terminals.items():
                if t.run == i:
                    things += [("feeders", f) for f, x in before.feeders.items() if k in (x.terminal, x.other)]
        elif kind == "devices":
            things += [("runs", k) for k, r in before.runs.items() if i in (r.fed.device, r.ends_at_device)]
        return [key for thing in things if thing != (kind, i) for key in self.of[thing]]

    def _devices(self) -> None:
        for i in sorted({*self.before.devices, *self.after.devices}, key=natural):
            old, new = self.before.devices.get(i), self.after.devices.get(i)
            if (new or old).board is not None:  # type: ignore[union-attr]
                continue  # a channel comes and goes with its board
            name = (new or old).name  # type: ignore[union-attr]
            at = (new or old).at  # type: ignore[union-attr]
            board = board_at(self.after, at.x, at.y)
            puts = [("devices", i)]
            if old is None and new is not None:
                self._job(
                    "add",
                    "device",
                    i,
                    name,
                    f"Mount {name} and join its supply. Unplug before working on a supply.",
                    board,
                    puts,
                )
            elif new is None:
                self._job("take away", "device", i, name, f"Take {name} off.", board, puts)
            elif old is not None and (old.at != new.at or old.input != new.input or old.output != new.output):
                moved = "Move" if old.at != new.at else "Join anew"
                feeds = self.after.circuits[new.output].name
                comes = f", and takes from {self.after.circuits[new.input].name}" if new.input else ""
                words = f"{moved} {name}: it feeds {feeds}{comes}."
                # What hangs behind it goes dark or live with it, so it is a changeover of its own.
                self._job("move", "device", i, name, words, board, puts, zone=-1 - len(self.jobs))
            elif old is not None and old != new:
                fields = [k for k in type(new).model_fields if getattr(old, k) != getattr(new, k)]
                told = ", ".join(f"{k.replace('_', ' ')} {getattr(new, k)}" for k in fields)
                self._job("set", "device", i, name, f"Set {name}: {told}.", board, puts)

    def _terminals(self) -> None:
        for i in sorted({*self.before.terminals, *self.after.terminals}, key=natural):
            old, new = self.before.terminals.get(i), self.after.terminals.get(i)
            here = new or old
            layout = self.after if new else self.before
            assert here is not None
            place = terminal_point(layout, here)
            board, puts = board_at(layout, *place), [("terminals", i)]
            if old is None and new is not None:
                self._job(
                    "add",
                    "terminal",
                    i,
                    i,
                    f"Mount {new.kind} {i} on run {self.after.runs[new.run].label}, and write its name beside it.",
                    board,
                    puts,
                )
            elif new is None:
                self._job("take away", "terminal", i, i, f"Take terminal {i} away, and its name.", board, puts)
            elif old is not None and (old.kind != new.kind or old.run != new.run or self._far(i)):
                what = f"Make {i} a {new.kind}" if old.kind != new.kind else f"Move terminal {i}"
                self._job("move", "terminal", i, i, f"{what}, on run {self.after.runs[new.run].label}.", board, puts)

    def _far(self, i: str) -> bool:
        a = terminal_point(self.before, self.before.terminals[i])
        b = terminal_point(self.after, self.after.terminals[i])
        return abs(a[0] - b[0]) + abs(a[1] - b[1]) > SAME_LENGTH_MM

    def _plugs(self) -> None:
        for i in sorted({*self.before.plugs, *self.after.plugs}, key=natural):
            old, new = self.before.plugs.get(i), self.after.plugs.get(i)
            layout, plug = (self.after, new) if new else (self.before, old)
            assert plug is not None
            run = layout.runs[plug.run]
            board = board_at(layout, *point_on_run(run, plug.along))
            if old is None:
                self._job(
                    "add",
                    "plug",
                    i,
                    i,
                    f"Fit plug {i} in run {run.label}: pin 1 {layout.circuits[run.circuit].colour_a}.",
                    board,
                    [("plugs", i)],
                )
            elif new is None and plug.run in self.after.runs:
                self._job("take away", "plug", i, i, f"Take plug {i} out of run {run.label}.", board, [("plugs", i)])
            elif new is None:
                self._job("take away", "plug", i, i, f"Keep plug {i} for later.", board, [("plugs", i)], minutes=1)

    def _runs(self) -> None:
        old, new = _by_run(self.before), _by_run(self.after)
        for i in sorted({*old, *new}, key=natural):
            puts = [("runs", i)]
            was, now = list(old.get(i, ())), list(new.get(i, ()))
            same = [(a, b) for a in was for b in now if same_piece(a, b)]
            renamed = [(a.label, b.label) for a, b in same if a.label != b.label]
            kept_a, kept_b = {a.key for a, _ in same}, {b.key for _, b in same}
            was, now = [p for p in was if p.key not in kept_a], [p for p in now if p.key not in kept_b]
            for a in list(was):
                chain = _chain(a, now)
                if chain:
                    ties = " and ".join(p.end_short for p in chain[:-1])
                    words = (
                        f"Cut {a.label} where {ties} stands now, between {a.start_short} and {a.end_short}, and "
                        f"tie both ends there: {', '.join(p.label for p in chain)}."
                    )
                    self._job("cut", "run", f"{a.key}", a.label, words, a.board, puts)
                    was.remove(a)
                    now = [p for p in now if p not in chain]
            for p in now:
                self._job("add", "run", p.key, p.label, _lay_words(p, self.units), p.board, puts)
            gone = i not in self.after.runs
            for p in was:
                words = (
                    f"Take out {p.label}, {p.start_short} to {p.end_short}: {print_length(p.length, self.units)} "
                    f"of {p.gauge} in {' and '.join(p.colours)} to use again."
                )
                self._job("take away", "run", p.key, p.label, words, p.board, puts if gone else ())
            if renamed:
                told = ", ".join(f"{a} becomes {b}" for a, b in renamed)
                self._job(
                    "relabel",
                    "run",
                    i,
                    renamed[0][1],
                    f"New labels at both ends: {told}.",
                    None,
                    puts if not gone else (),
                    minutes=3.0 * len(renamed),
                )
            self._filter(i)

    def _filter(self, i: str) -> None:
        old = self.before.runs[i].filter if i in self.before.runs else None
        run = self.after.runs.get(i)
        new = run.filter if run else None
        if run is None or old == new:
            return
        board = board_at(self.after, *point_on_run(run, 1e9))
        if new is None:
            self._job("take away", "filter", i, run.label, f"Take the filter off the end of {run.label}.", board)
        else:
            words = (
                f"Put a filter across the end of {run.label}: {new.ohms:g} Ω, {new.watts:g} W, in series with "
                f"{new.farads * 1e6:g} µF."
            )
            self._job("add", "filter", i, run.label, words, board, [("runs", i)])

    def _gaps(self) -> None:
        for i in sorted({*self.before.gaps, *self.after.gaps}, key=natural):
            old, new = self.before.gaps.get(i), self.after.gaps.get(i)
            puts = [("gaps", i)]
            same = (
                old is not None
                and new is not None
                and (old.track, old.rails) == (new.track, new.rails)
                and abs(old.at - new.at) < SAME_LENGTH_MM
            )
            if same:
                continue
            if new is not None:
                board = board_at(self.after, *point_on_track(self.after, new.track, new.at))
                rails = rails_cut(new)
                where = on_track(self.after, new.track, new.at, i)
                moved = "" if old is None else " The old one is bridged and soldered."
                self._job(
                    "cut", "gap", i, i, f"Cut gap {i}: {rails}, {where}, {new.made}. Meter it open.{moved}", board, puts
                )
            elif old is not None and old.track in self.after.tracks:
                where = on_track(self.before, old.track, old.at, i)
                board = board_at(self.before, *point_on_track(self.before, old.track, old.at))
                self._job("take away", "gap", i, i, f"Bridge gap {i} and solder it: {where}.", board, puts)

    def _feeders(self) -> None:
        for i in sorted({*self.before.feeders, *self.after.feeders}, key=natural):
            old, new = self.before.feeders.get(i), self.after.feeders.get(i)
            puts = [("feeders", i)]
            if new is None:
                assert old is not None
                if old.track not in self.after.tracks:
                    continue
                board = board_at(self.before, *point_on_track(self.before, old.track, old.at))
                zone = self._zone(old) if old.track in self.rails.pieces else None
                self._job(
                    "take away",
                    "feeder",
                    i,
                    old.label,
                    f"Take feeder {old.label} off its rail and off {old.terminal}.",
                    board,
                    puts,
                    zone,
                )
                continue
            board = board_at(self.after, *point_on_track(self.after, new.track, new.at))
            worn = feeder_colours(self.after, new, CONDUCTORS)
            rail = f"{worn[0]} to the {rail_of(self.after, new)}"
            ends = dict.fromkeys(tied_at(self.after, new, c) for c in CONDUCTORS)
            to = (
                " and ".join(f"{worn[n]} to terminal {t}" for n, t in enumerate(ends))
                if len(ends) > 1
                else f"to terminal {new.terminal}"
            )
            where = on_track(self.after, new.track, new.at)
            anew = old is not None and (
                old.gauge != new.gauge or old.strands != new.strands or _wears(self.before, i) != _wears(self.after, i)
            )
            change = None
            if old is None:
                change = f"Drop feeder {new.label}: {where}, {to}; {new.gauge}, {rail}."
            elif anew:
                change = f"Replace feeder {new.label}: {new.gauge} in {' and '.join(worn)}, {where}, {to}; {rail}."
            elif old.track != new.track or abs(old.at - new.at) > SAME_LENGTH_MM:
                change = f"Move feeder {new.label} on the rail: {where}; {rail}."
            elif any(tied_at(self.before, old, c) != tied_at(self.after, new, c) for c in CONDUCTORS):
                was, now = (
                    {c: tied_at(x, f, c) for c in CONDUCTORS} for x, f in ((self.before, old), (self.after, new))
                )
                moved = [c for c in CONDUCTORS if was[c] != now[c]]
                if len(moved) == 1:
                    colour = worn[CONDUCTORS.index(moved[0])]
                    change = (
                        f"Move the {colour} wire of feeder {new.label} from terminal {was[moved[0]]} to "
                        f"{now[moved[0]]}."
                    )
                else:
                    change = f"Move feeder {new.label} from terminal {old.terminal} to {new.terminal}."
            elif old.a_rail != new.a_rail:
                change = f"Change the two wires of feeder {new.label} over: {rail}."
            if change:
                crosses = (
                    old is None
                    or circuit_of_feeder(self.before, i) != circuit_of_feeder(self.after, i)
                    or old.a_rail != new.a_rail
                )
                self._job(
                    "add" if old is None or anew else "move",
                    "feeder",
                    i,
                    new.label,
                    change,
                    board,
                    puts,
                    self._zone(new) if crosses else None,
                )
            if old is not None and old.label != new.label:
                self._job(
                    "relabel",
                    "feeder",
                    i,
                    new.label,
                    f"Label {old.label} becomes {new.label}, at both ends.",
                    board,
                    puts if not change else (),
                )

    def _zone(self, feeder: Feeder) -> int:
        at = min(feeder.at, self.rails.lengths[feeder.track])
        return self.rails.extent_of[self.rails.piece_at(feeder.track, at)]

    def _loads(self) -> None:
        for i in sorted({*self.before.loads, *self.after.loads}, key=natural):
            old, new = self.before.loads.get(i), self.after.loads.get(i)
            puts = [("loads", i)]
            if new is None and old is not None:
                self._job("take away", "load", i, old.name, f"Take {old.name} off.", None, puts)
            elif new is not None and (old is None or old.terminal != new.terminal):
                tied = f"at terminal {new.terminal}" if new.terminal else "where it is counted"
                self._job("add" if old is None else "move", "load", i, new.name, f"Tie {new.name} {tied}.", None, puts)
